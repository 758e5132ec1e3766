"""Books a night on the demo site, live, through a frame, an open and a closed shadow tree, and two dialogs."""

import sys

from wary_hound import Browser
from wary_hound.demo.server import serve

BOOKING, DIAL = "shadow css{night-booking} -> ", "shadow css{sky-dial} -> "

with serve() as site, Browser.start("firefox" if "firefox" in sys.argv else "chromium") as browser:
    page = browser.open(f"{site}/r4/index.html?seed=1")
    page.click("css{#notice button}")
    page.click('role{button "Hold this night"} @row-of text{Vega}')
    page.type(BOOKING + "label{Visitor name}", "Ada Marsh")
    page.type(BOOKING + "label{E-mail}", "ada@example.org")
    page.choose(BOOKING + "label{Telescope}", "Heron, 1 m")
    page.tick(BOOKING + "label{Cocoa}")
    with page.answering("prompt", "What is your group called?", text="Dune Walkers"):
        page.click(BOOKING + "text{Name your group}")
    page.click(BOOKING + 'role{button "Send booking"}')
    print(page.capture().find(BOOKING + "css{#hold-status}").text)
    with page.answering("confirm", "Give up the night you hold?", accept=False):
        page.click(BOOKING + "text{Cancel}")
    page.click('role{tab "Sky tonight"}')
    page.click(DIAL + "css{[title='Turn east']}")
    page.click("frame css{iframe[title=Weather]} -> text{Refresh}")
    seen = page.capture()
    print(seen.find(DIAL + "css{span}").text, "/", seen.find("frame css{iframe[title=Weather]} -> css{button}").text)
