"""record: what a person does in a real window becomes a journey."""

from __future__ import annotations

import contextlib
from pathlib import Path

import click
from rich.text import Text

from wary_hound.browser import Browser
from wary_hound.cli.common import FILE, tell_status
from wary_hound.errors import BrowserError, FileError
from wary_hound.journey.journey import size_of
from wary_hound.report.terminal import console, shown
from wary_hound.running.recording import Noted, Recorder

TURN = 0.5
"""Seconds between two looks at whether it was ended."""


@click.command()
@click.argument("address")
@click.option("-o", "--output", type=FILE, required=True, help="The journey's file (YAML), a new one; its book lies beside it.")
@click.option("--title", default="", help="What the journey is called.")
@click.option("--browser", type=click.Choice(["chromium", "firefox"]), default="chromium", show_default=True)
@click.option("--size", default="1280x800", show_default=True, metavar="SIZE", help="Size of the window.")
def command(address: str, output: Path, title: str, browser: str, size: str) -> None:
    """What you do in a window becomes a journey with its book, written after each step; close the window, or press Ctrl-C, to end.

    Alt and a click adds a check. The panel in the page shows the last steps: undo one, rename its element, take another form of a
    check.

    \b
    Example, with the demo site served by `wary-hound demo --serve` in another terminal:
      wary-hound record http://127.0.0.1:8700/r1/index.html -o held.yaml --title "Hold a night"
    """
    if output.suffix not in (".yaml", ".yml"):
        raise FileError(f"{output}: a recording is written as YAML; `convert` makes other forms of it")
    if output.exists():
        raise FileError(f"{output}: is there already; record into a new file")
    viewport = size_of(size)
    if viewport is None:
        raise click.BadParameter(f"{size!r} is no size such as 1280x800", param_hint="--size")
    out = console()

    def told(noted: Noted) -> None:
        out.print(Text.assemble(("● ", "magenta"), shown(str(noted.step))))

    name = title or output.stem.replace("-", " ").replace("_", " ").capitalize()
    with Browser.start(browser, viewport, window=True) as opened:
        live = opened.open(address)
        tell_status(live.status, address)
        recorder = Recorder(live, output, name, told)
        with contextlib.suppress(KeyboardInterrupt, BrowserError), recorder:
            while not recorder.ended:
                recorder.listen(TURN)
    steps = len(recorder.steps)
    out.print(f"Written: {output} ({steps} step{'' if steps == 1 else 's'}) and {recorder.book.path}")
    for key, variable in recorder.journey.secrets.items():
        out.print(f"The secret {key} comes from the environment: set {variable} before you run it.")
