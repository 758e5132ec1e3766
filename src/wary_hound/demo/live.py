"""The demo's story in a real browser: the journey passes on r1, fails on r6, and passes there when it has been repaired."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path

from wary_hound.browser.browser import Browser
from wary_hound.demo.server import serve
from wary_hound.demo.tour import JOURNEY
from wary_hound.journey.journey import Journey
from wary_hound.running.replay import Run, StepResult, replay

ACTS = (("r1", "books", "as it was written"), ("r6", "books", "as it was written"), ("r6", "repaired", "repaired"))
"""Release, folder of the journey and its book, and how that is called."""
LIMIT = 4.0


def play(folder: Path, told: Callable[[str, StepResult], None] = lambda _, __: None) -> Iterator[Run]:
    """The three runs, one after the other. `folder`: what `tell` wrote into. BrowserError where there is no browser."""
    with serve() as site, Browser.start("chromium") as browser:
        for release, name, how in ACTS:
            path = folder / name / JOURNEY
            journey = Journey.read(path)
            book = journey.read_book(path.parent)
            where = f"{release}, {how}"

            def step(result: StepResult, where: str = where) -> None:
                told(where, result)

            yield replay(journey, book, browser, base=f"{site}/{release}", limit=LIMIT, name=where, folder=path.parent, told=step)
