"""What pages do to whoever drives them, once each in both browsers (benchmarks/live_scenarios.py repeats them under load)."""

from __future__ import annotations

from collections.abc import Iterator

import pytest

from scenarios import SCENARIOS, drive, serving
from wary_hound import Browser


@pytest.fixture(scope="module")
def unruly() -> Iterator[str]:
    with serving() as address:
        yield address


@pytest.fixture(scope="module", params=["chromium", "firefox"])
def own_browser(request: pytest.FixtureRequest) -> Iterator[Browser]:
    with Browser.start(request.param) as browser:
        yield browser


@pytest.mark.parametrize("name", SCENARIOS)
def test_what_a_page_does_is_met(own_browser: Browser, unruly: str, name: str) -> None:
    drive(own_browser, name, unruly)
    assert own_browser.open("data:text/html,<p>still there</p>").find("css{p}").text == "still there"
