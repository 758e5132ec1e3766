"""Shared by all tests: the demo's pages, one browser of each kind, the demo site on loopback."""

from __future__ import annotations

import os
from collections.abc import Iterator
from pathlib import Path

import pytest
from click.testing import CliRunner, Result
from hypothesis import settings

from wary_hound import Browser, Page, rank
from wary_hound.authoring.question import Question
from wary_hound.authoring.rules import Rules
from wary_hound.authoring.weakness import is_weak
from wary_hound.browser.launch import Launched
from wary_hound.cli import group
from wary_hound.demo.server import serve
from wary_hound.demo.tour import demo_folder, unpack
from wary_hound.locator.evaluate import match
from wary_hound.locator.notation import parse
from wary_hound.robustness.dependence import dependencies

LIMIT = 60.0
"""Seconds that a step may take: a machine that is busy with other things is no fault."""
PAGES = demo_folder() / "pages"
# The same examples each time: what fails then is what was changed. HYPOTHESIS_PROFILE=wide looks further, at others each time.
settings.register_profile("same", deadline=None, derandomize=True)
settings.register_profile("wide", deadline=None, max_examples=2_000)
settings.load_profile(os.environ.get("HYPOTHESIS_PROFILE", "same"))


def read(name: str) -> Page:
    """A page of the demo: `nights@r1`."""
    return Page.read(PAGES / f"{name}.html")


def proposed(page: str, element: str, only: str = "") -> str:
    """The first plain proposal for an element, in one language where that is named: it finds the element, and is not weak."""
    parsed = Page.parse(f"<!doctype html><body>{page}")
    wanted = parsed.find(element)
    best = rank(wanted, Question(rules=Rules(only=(only,) if only else ()), ways=1))[0]
    assert match(parsed, best.locator) == [wanted.index]
    assert not best.weak
    return str(best.locator)


def weak(page: Page | str, locator: str) -> bool:
    """Whether a locator is weak for the first element that it finds."""
    parsed = Page.parse(page) if isinstance(page, str) else page
    found = parsed.find_all(locator)[0].index
    return is_weak(dependencies(parsed, parse(locator), found), found)


@pytest.fixture(scope="session")
def chromium() -> Iterator[Browser]:
    with Browser.start("chromium", limit=LIMIT) as browser:
        yield browser


@pytest.fixture(scope="session")
def firefox() -> Iterator[Browser]:
    with Browser.start("firefox", limit=LIMIT) as browser:
        yield browser


@pytest.fixture(scope="session")
def site() -> Iterator[str]:
    with serve() as address:
        yield address


@pytest.fixture
def demo(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """A folder with the demo's files in it, as the current one."""
    unpack(tmp_path)
    monkeypatch.chdir(tmp_path)
    return tmp_path


def run(*arguments: str) -> Result:
    """A command, in this process; standard error apart."""
    return CliRunner().invoke(group, arguments, catch_exceptions=False)


def started(browser: Browser) -> Launched:
    """What a browser that was started here runs on."""
    assert isinstance(browser._running, Launched)
    return browser._running


def members(pid: int) -> set[int]:
    """Living processes of a process group."""
    found = set()
    for path in Path("/proc").iterdir():
        if path.name.isdigit():
            try:
                fields = (path / "stat").read_text().rsplit(")", 1)[1].split()
            except OSError:
                continue
            if int(fields[2]) == pid and fields[0] != "Z":
                found.add(int(path.name))
    return found
