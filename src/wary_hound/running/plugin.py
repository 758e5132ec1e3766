"""The pytest plugin: one fixture, `hound`, and journeys in YAML collected as tests. Options and settings begin with `hound-`."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterator
from fnmatch import fnmatch
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any, cast

import pytest

if TYPE_CHECKING:
    from wary_hound.browser.browser import Browser
    from wary_hound.browser.page import LivePage
    from wary_hound.healing.names import Healing
    from wary_hound.journey.book import Book
    from wary_hound.journey.data import Values
    from wary_hound.journey.journey import Journey
    from wary_hound.running.replay import Run

SETTINGS = {
    "browser": ("chromium", "what shows pages: chromium or firefox"),
    "base": ("", "the address that paths start from"),
    "healing": ("propose", "what becomes of a name whose locator finds nothing: off, propose or sure"),
    "limit": ("15", "seconds for each thing"),
    "evidence": ("", "folder for what failed runs leave behind"),
    "book": ("", "the book whose names stand for locators, relative to the root of the tests"),
}
"""Each an option (--hound-NAME) and a setting (hound-NAME), with what it is without."""


class JourneyFailed(Exception):
    """A journey did not pass; its text says which step, and why."""


class Hound:
    """What a test is given: live pages and journeys, in one browser that all tests share."""

    def __init__(self, browser: Browser, config: pytest.Config) -> None:
        self.browser = browser
        self._config = config
        self._opened: list[LivePage] = []

    @property
    def book(self) -> Book | None:
        """The book of the settings; None where they name none."""
        from wary_hound.journey.book import Book

        named = setting(self._config, "book")
        return Book.read(self._config.rootpath / named) if named else None

    def open(self, address: str) -> LivePage:
        """A page, closed when the test ends; the names of the book stand for locators there."""
        from wary_hound.running.doing import address_of

        healing = cast("Healing", setting(self._config, "healing"))
        page = self.browser.open(address_of(address, setting(self._config, "base")), self.book, healing)
        page.limit = float(setting(self._config, "limit"))
        self._opened.append(page)
        return page

    def run(self, journey: str | Path) -> list[Run]:
        """Run a journey file (in any form), each journey and row of data in it. JourneyFailed where one does not pass by its own
        locators."""
        from wary_hound.journey.reading import read_written

        path = self._config.rootpath / journey
        return [self._run(walk.journey, path, values) for walk in read_written(path) for values in _rows(walk.journey, path)]

    def _run(self, walk: Journey, path: Path, values: Values) -> Run:
        from wary_hound.running.evidence import folder_name, write_evidence
        from wary_hound.running.replay import replay

        book = walk.read_book(path.parent) or self.book
        done = replay(
            walk,
            book,
            self.browser,
            base=setting(self._config, "base"),
            healing=cast("Healing", setting(self._config, "healing")),
            limit=float(setting(self._config, "limit")),
            name=setting(self._config, "browser"),
            values=values,
            folder=path.parent,
        )
        if done.state == "passed":
            return done
        kept = setting(self._config, "evidence")
        folder = self._config.rootpath / kept / folder_name(done, 1)
        where = f"\nevidence: {write_evidence(done, folder, values.hide)}" if kept else ""
        failing = done.failing
        if failing is not None:
            raise JourneyFailed(f"{walk.journey}: step {failing.number}, {failing.says}\n{failing.message}{where}")
        healed = "\n".join(one for step in done.steps for one in step.healed)
        raise JourneyFailed(f"{walk.journey}: passed, but not by its own locators; repair them\n{healed}{where}")

    def close(self) -> None:
        """Close the pages that the test opened."""
        from wary_hound.errors import WaryHoundError

        for page in self._opened:
            try:
                page.close()
            except WaryHoundError:  # closed by the test or by itself
                continue


def setting(config: pytest.Config, name: str) -> str:
    """An option, or else the setting, or else what it is without."""
    given = config.getoption(f"--hound-{name}")
    return str(given if given is not None else config.getini(f"hound-{name}") or SETTINGS[name][0])


def pytest_addoption(parser: pytest.Parser) -> None:
    """--hound-browser and the like; hound-journeys: patterns of journey files that are tests."""
    group = parser.getgroup("hound", "Wary Hound: live pages and journeys")
    for name, (usual, about) in SETTINGS.items():
        group.addoption(f"--hound-{name}", default=None, help=f"{about} ({usual or 'none'})")
        parser.addini(f"hound-{name}", about, default=usual)
    parser.addini("hound-journeys", "patterns of journey files (YAML, CSV, XLSX) that are tests", type="args", default=[])


@pytest.fixture(scope="session")
def _hound_browser(request: pytest.FixtureRequest) -> Iterator[Browser]:
    from wary_hound.browser.browser import Browser

    with Browser.start(setting(request.config, "browser"), limit=float(setting(request.config, "limit"))) as browser:
        yield browser


@pytest.fixture
def hound(_hound_browser: Browser, request: pytest.FixtureRequest) -> Iterator[Hound]:
    """Live pages and journeys in a real browser; pages that the test opens are closed when it ends."""
    made = Hound(_hound_browser, request.config)
    yield made
    made.close()


def pytest_collect_file(file_path: Path, parent: pytest.Collector) -> JourneyFile | None:
    """Journey files that the setting hound-journeys names are tests."""
    patterns = parent.config.getini("hound-journeys")
    if file_path.suffix not in (".yaml", ".yml", ".csv", ".xlsx") or not patterns:
        return None
    try:
        relative = file_path.relative_to(parent.config.rootpath).as_posix()
    except ValueError:
        return None
    if any(fnmatch(relative, pattern) for pattern in patterns):
        return JourneyFile.from_parent(parent, path=file_path)
    return None


class JourneyFile(pytest.File):
    """A journey file: a test for each journey and row of data in it."""

    def collect(self) -> Iterator[JourneyItem]:
        """The tests, functions of the fixture."""
        from wary_hound.journey.reading import read_written

        several = read_written(self.path)
        for walk in several:
            name = self.path.stem if len(several) == 1 else walk.journey.journey
            for values in _rows(walk.journey, self.path):
                run = partial(_walked, walk.journey, self.path, values)
                label = f"{name}[{values.label}]" if values.label else name
                yield JourneyItem.from_parent(self, name=label, callobj=_of_the_fixture(run))


def _rows(journey: Journey, path: Path) -> list[Values]:
    return journey.rows(path.parent, os.environ, str(path))


def _walked(journey: Journey, path: Path, values: Values, hound: Hound) -> None:
    hound._run(journey, path, values)


def _of_the_fixture(run: Callable[[Hound], None]) -> Callable[[Hound], None]:
    def test(hound: Hound) -> None:
        run(hound)

    return test


class JourneyItem(pytest.Function):
    """A journey as a test."""

    def repr_failure(self, excinfo: pytest.ExceptionInfo[BaseException], style: Any = None) -> Any:
        """The failing step in our words, without a trace of the machinery."""
        from wary_hound.errors import WaryHoundError

        if isinstance(excinfo.value, JourneyFailed | WaryHoundError):
            return str(excinfo.value)
        return super().repr_failure(excinfo)

    def reportinfo(self) -> tuple[Path, None, str]:
        """Where it stands, and what it is called."""
        return self.path, None, f"journey: {self.name}"
