"""Names of a book wherever a locator goes on a live page; and what becomes of one whose locator is in trouble."""

from __future__ import annotations

import pytest

from conftest import PAGES, read
from wary_hound import Book, Browser, BrowserTimeout
from wary_hound.authoring.batch import usable
from wary_hound.authoring.weakness import is_weak
from wary_hound.healing.names import contradicted, trouble_of
from wary_hound.healing.witnesses import ENOUGH, MOST, votes, witnesses, witnesses_at_once
from wary_hound.robustness.data import known_by_number
from wary_hound.robustness.dependence import dependencies

BOOK = Book.read(PAGES.parent / "books" / "nights.yaml")
BOTH = pytest.mark.parametrize("name", ["chromium", "firefox"])


def test_witnesses_find_their_element_and_rest_on_different_facts() -> None:
    page = read("nights@r1")
    for locator in ("css{#visitor-name}", 'role{button "Hold this night"} @row-of text{Vega}'):
        element = page.find(locator)
        ways = witnesses(element)
        assert 3 <= len(ways) <= MOST
        assert set(votes(ways, page)) == {element.index}
        assert len(set(map(str, ways))) == len(ways)


@pytest.mark.parametrize("name", ["nights@r1", "nights@r4", "sky@r4"])
def test_witnesses_without_a_search_find_their_element_and_rest_on_different_facts(name: str) -> None:
    page = read(name)
    searched = 0
    for element in usable(page):
        ways = witnesses_at_once(element)
        assert set(votes(ways, page)) == {element.index}
        if len(ways) < ENOUGH or ways == witnesses(element):  # they were searched for
            assert ways == witnesses(element)
            searched += 1
            continue
        resting = [frozenset(dependencies(page, way, element.index)) for way in ways]
        assert not any(one <= other for k, one in enumerate(resting) for other in resting[k + 1 :])
        assert not any(is_weak([*facts], element.index, known_by_number(element.page, element.index)) for facts in resting)
    assert searched < len(usable(page)) / 2


def test_a_book_remembers_witnesses_and_none_of_them_is_weak() -> None:
    page = read("nights@r1")
    for name, known in BOOK.known().items():
        assert known.memory is not None
        assert known.memory.witnesses, name
        there = page.find(known.locator)
        assert set(votes(known.memory.witnesses, page)) == {there.index}
    assert votes(("css{#visitor-name}", "nonsense{", "css{button}"), page)[1:] == (-1, -1)


def test_agreeing_witnesses_contradict_a_locator_that_finds_another_element() -> None:
    saturn = BOOK.known()["places-saturn"]
    old, new = read("nights@r1"), read("nights@r3")
    assert trouble_of(saturn, old) == ""
    found = new.find(saturn.locator)
    assert found.text == "Lantern, 60 cm"
    assert contradicted(saturn, new, found.index)
    assert "witnesses agree" in trouble_of(saturn, new)
    assert trouble_of(BOOK.known()["visitor-name"], new) == "finds nothing"


@BOTH
def test_names_are_acted_on_as_locators_are(name: str, request: pytest.FixtureRequest, site: str) -> None:
    browser: Browser = request.getfixturevalue(name)
    live = browser.open(f"{site}/r1/index.html", book=BOOK)
    try:
        live.type("visitor-name", "Ada Quill")
        live.tick("extra-cocoa")
        live.click("hold-vega")
        live.wait_for("text{Held: Vega}")
        assert live.find("booking-status").text == "Held: Vega"
        assert len(live.outline("party-size")) == 1
        assert live.healed == ()
    finally:
        live.close()


@BOTH
def test_a_name_in_trouble_is_healed_only_where_that_is_allowed_and_says_so(
    name: str, request: pytest.FixtureRequest, site: str
) -> None:
    browser: Browser = request.getfixturevalue(name)
    live = browser.open(f"{site}/r3/index.html", book=BOOK)
    live.limit = 1.5
    try:
        with pytest.raises(BrowserTimeout, match=r"visitor-name: css\{#visitor-name\} finds nothing; .* would be the one"):
            live.type("visitor-name", "Ada Quill")
        assert [(h.name, h.acted) for h in live.healed] == [("visitor-name", False)]
        assert live.find("css{#guest-name}").attributes.get("value", "") == ""
        live.know(BOOK.known(), "sure")
        live.type("visitor-name", "Ada Quill")
        assert live.find("places-saturn").text == "8"
        assert [(h.name, h.acted) for h in live.healed[1:]] == [("visitor-name", True), ("places-saturn", True)]
        assert "was used instead" in str(live.healed[-1])
        live.know(BOOK.known(), "off")
        with pytest.raises(BrowserTimeout, match="no matches"):
            live.find("visitor-name")
        assert len(live.healed) == 3
    finally:
        live.close()


def test_what_is_nowhere_is_not_healed(chromium: Browser, site: str) -> None:
    live = chromium.open(f"{site}/r6/index.html", book=BOOK, healing="sure")
    live.limit = 1.0
    try:
        with pytest.raises(BrowserTimeout, match="print-link"):
            live.click("print-link")
        assert [h.acted for h in live.healed] == [False]
    finally:
        live.close()
