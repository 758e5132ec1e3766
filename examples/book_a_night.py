"""Books a night on the demo site, live, through a frame, an open and a closed shadow tree, and two dialogs."""

import sys

from wary_hound import Browser
from wary_hound.demo.server import serve

with serve() as site, Browser.start("firefox" if "firefox" in sys.argv else "chromium") as browser:
    page = browser.open(f"{site}/r4/index.html?seed=1")
    page.click("css{#notice button}")
    page.click('role{button "Hold this night"} @row-of text{Vega}')
    page.type("anywhere label{Visitor name}", "Ada Marsh")
    page.type("anywhere label{E-mail}", "ada@example.org")
    page.choose("anywhere label{Telescope}", "Heron, 1 m")
    page.tick("anywhere label{Cocoa}")
    with page.answering("prompt", "What is your group called?", text="Dune Walkers"):
        page.click("anywhere text{Name your group}")
    page.click('anywhere role{button "Send booking"}')
    print(page.capture().find("anywhere css{#hold-status}").text)
    with page.answering("confirm", "Give up the night you hold?", accept=False):
        page.click("anywhere text{Cancel}")
    page.click('role{tab "Sky tonight"}')
    page.click("anywhere css{[title='Turn east']}")
    page.click("frame css{iframe[title=Weather]} -> text{Refresh}")
    seen = page.capture()
    dial = seen.find("shadow css{sky-dial} -> css{span}")
    print(dial.text, "/", seen.find("frame css{iframe[title=Weather]} -> css{button}").text)
