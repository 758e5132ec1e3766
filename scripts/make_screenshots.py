"""Takes the pictures of docs/screenshots: commands in a terminal window under Xvfb, the report in a real Chromium.

usage: make_screenshots.py [NAME ...]

Needs Xvfb, xterm and ImageMagick's `import` (apt-get install xvfb xterm imagemagick), and the browsers.
"""

from __future__ import annotations

import base64
import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from wary_hound.browser import Browser, LivePage
from wary_hound.browser import launch as launching
from wary_hound.demo.server import serve
from wary_hound.report.plots import survival_plot, write_plot
from wary_hound.running.recording import Recorder

ROOT = Path(__file__).parent.parent
SHOTS = ROOT / "docs" / "screenshots"
DISPLAY = ":97"
LONGEST = 1200
"""So many seconds a command may take on a busy machine."""
TERMINAL = {
    "demo": "wary-hound demo",
    "look": "wary-hound look demo-out/pages/nights@r4.html --at 'shadow css{night-booking} -> css{[value=cocoa]}'",
    "check": "wary-hound check 'label{Visitor name}' demo-out/pages/nights@r3.html demo-out/pages/nights@r4.html",
    "rank": "wary-hound rank demo-out/pages/nights@r1.html 'xpath{//tr[1]//button}' -n 6",
    "run": "wary-hound run demo-out/books/hold-a-night.yaml --base SITE/r1",
    "repair": "wary-hound repair demo-out/pages/nights@r2.html demo-out/pages/nights@r3.html --book demo-out/books/nights.yaml",
    "draft": "wary-hound draft demo-out/pages/nights@r1.html --in 'css{#night-form}'",
    "review-journey": "wary-hound review demo-out/books/hold-a-night.yaml",
    "bench": "wary-hound bench demo-out/pages",
    "stress": "wary-hound stress demo-out/books/hold-a-night.yaml --advice",
    "history": "wary-hound history learn demo-out/pages -o ours.json",
}
ROWS = {
    "demo": 45,
    "look": 22,
    "check": 22,
    "rank": 60,
    "repair": 57,
    "run": 18,
    "draft": 17,
    "review-journey": 27,
    "bench": 61,
    "stress": 31,
    "history": 32,
}


def terminal(name: str, command: str, folder: Path) -> None:
    """One command as it looks in a terminal of 100 columns."""
    target = SHOTS / f"{name}.png"
    done = folder / f"{name}.done"
    shown = command.replace("'", "'\\''")
    script = f"cd {folder} && printf '\\033[1m$ %s\\033[0m\\n' '{shown}' && {command}; touch {done}; sleep 60"
    window = subprocess.Popen(
        ["xterm", "-geometry", f"102x{ROWS[name]}", "-fa", "DejaVu Sans Mono", "-fs", "10", "-bg", "#15171c", "-fg", "#e9e6df",
         "+sb", "-b", "10", "-e", "sh", "-c", script],
        env={**os.environ, "DISPLAY": DISPLAY, "PATH": f"{Path(sys.executable).parent}:{os.environ['PATH']}"},
    )  # fmt: skip
    try:
        until = time.monotonic() + LONGEST
        while not done.exists():
            if time.monotonic() > until:
                raise SystemExit(f"{name}: not done after {LONGEST} s")
            time.sleep(0.5)
        time.sleep(1)
        subprocess.run(["import", "-display", DISPLAY, "-window", "root", "-trim", str(target)], check=True)
    finally:
        window.terminate()
        window.wait()


def recorded(folder: Path) -> None:
    """Recording, in a browser's window on the screen."""
    os.environ["DISPLAY"] = DISPLAY
    with serve() as site, Browser.start("chromium", (1260, 780), window=True) as browser:
        live = browser.open(f"{site}/r1/index.html?seed=1")
        live.wait_for("text{Thank the watcher}")
        with Recorder(live, folder / "held.yaml", "Hold a night") as recorder:
            acts: list[Callable[[], object]] = [
                lambda: live.click("css{.notice-close}"),
                lambda: live.click("css{button[value=vega]}"),
                lambda: live.click("css{#booking-status}", holding="Alt"),
                lambda: live.type("label{Visitor name}", "Ada Marsh"),
                lambda: live.choose("label{Telescope}", "Heron, 1 m"),
            ]
            for act in acts:
                act()
                recorder.listen(0.5)
            recorder.finish()
            time.sleep(0.5)
            target = str(SHOTS / "record.png")
            subprocess.run(["import", "-display", DISPLAY, "-window", "root", "-trim", "-crop", "1280x800+0+0", target], check=True)


def viewport(live: LivePage) -> bytes:
    connection = live._connection
    data = connection.send("browsingContext.captureScreenshot", context=live.context, origin="viewport")["data"]
    return base64.b64decode(data)


def page(name: str, file: Path, dark: bool, selector: str = "") -> None:
    """A part of a page, as large as a window of 1280 x 800."""
    usual: Any = launching._CHROMIUM_ARGUMENTS
    if dark:
        made: Any = (*usual, "--blink-settings=preferredColorScheme=0")
        launching._CHROMIUM_ARGUMENTS = made
    try:
        with Browser.start("chromium") as browser:
            live = browser.open(file.resolve().as_uri())
            if selector:
                live.script("(s) => { document.querySelector(s).scrollIntoView(); scrollBy(0, -16); }", selector)
                live.settle()
            (SHOTS / f"{name}.png").write_bytes(viewport(live))
    finally:
        launching._CHROMIUM_ARGUMENTS = usual


REPORTED = {
    "compare-report": "compare demo-out/pages/nights@r2.html demo-out/pages/nights@r3.html --report FILE",
    "review": "repair demo-out/pages/nights@r3.html demo-out/pages/nights@r4.html --book demo-out/books/nights.yaml --review FILE",
    "proof": "review demo-out/books/hold-a-night.yaml --prove --base SITE/r1 --report FILE",
    "run-report": "run demo-out/books/hold-a-night.yaml --base SITE/r3 --limit 2 --report FILE",
}
"""Pages that commands write."""


def reported(wanted: list[str], command: Path, folder: Path) -> None:
    with serve() as site:
        for name, line in REPORTED.items():
            if not wanted or name in wanted:
                file = folder / f"{name}.html"
                arguments = [str(file) if a == "FILE" else a.replace("SITE", site) for a in line.split()]
                subprocess.run([command, *arguments], cwd=folder, stdout=subprocess.DEVNULL)
                page(name, file, False)


def main() -> None:
    wanted = sys.argv[1:]
    SHOTS.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as made:
        folder = Path(made)
        command = Path(sys.executable).parent / "wary-hound"
        subprocess.run([command, "demo", "--no-live"], cwd=folder, check=True, stdout=subprocess.DEVNULL)
        report = folder / "demo-out" / "report.html"
        pages = {
            "report": (False, ""),
        }
        for name, (dark, selector) in pages.items():
            if not wanted or name in wanted:
                page(name, report, dark, selector)
        if not wanted or "survival" in wanted:
            from wary_hound import Page, assess, rank

            shown = Page.read(folder / "demo-out" / "pages" / "nights@r1.html").find("css{#visitor-name}")
            write_plot(survival_plot(rank(shown)[:4], assess("css{#visitor-name}", shown)), SHOTS / "survival.png")
        if not wanted or "rank-report" in wanted:
            asked = ["rank", "demo-out/pages/nights@r1.html", "css{#night-form [type=submit]}", "--report", "rank.html"]
            subprocess.run([command, *asked], cwd=folder, check=True, stdout=subprocess.DEVNULL)
            page("rank-report", folder / "rank.html", False)
        reported(wanted, command, folder)
        screen = subprocess.Popen(["Xvfb", DISPLAY, "-screen", "0", "1280x1100x24", "-noreset"], stderr=subprocess.DEVNULL)
        try:
            time.sleep(2)
            with serve() as site:
                for name, line in TERMINAL.items():
                    if not wanted or name in wanted:
                        terminal(name, line.replace("SITE", site), folder)
            if not wanted or "record" in wanted:
                recorded(folder)
        finally:
            screen.terminate()
            screen.wait()


if __name__ == "__main__":
    main()
