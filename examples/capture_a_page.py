"""Capture the demo site from a real Chromium, closed shadow trees and frames included, and look inside."""

from pathlib import Path
from tempfile import TemporaryDirectory

from wary_hound import Browser, Page
from wary_hound.demo.server import serve

with serve() as address, Browser.start("chromium") as browser, TemporaryDirectory() as folder:
    live = browser.open(f"{address}/r4/index.html")
    live.wait_for("text{Thank the watcher}").write(Path(folder) / "nights")
    page = Page.read(Path(folder) / "nights.html")

print(page)
for locator in (
    "shadow css{night-booking} -> label{Visitor name}",
    'shadow css{sky-dial} -> css{button[title="Turn east"]}',
    'frame css{iframe[title="Weather"]} -> css{dd}#1',
):
    element = page.find(locator)
    print(f"{locator}\n  {element}, role {element.role}, in a {element.tree.mode} {element.tree.kind}")
