"""Repairs as a person decides on them: what is kept, what is accepted, the review page and its decisions, known pages."""

from __future__ import annotations

import json
import re
import shutil
from pathlib import Path
from typing import Any

import pytest

from conftest import read, run
from wary_hound import Book, Browser, FileError, Page, match, repair
from wary_hound.browser.page import LivePage
from wary_hound.healing.repair import BY_HAND, ON_BOTH
from wary_hound.journey.decisions import read_decisions
from wary_hound.journey.repairing import pages_last_seen, repair_book
from wary_hound.report.story import Story

BOOK = "books/nights.yaml"


def shortly(*names: str) -> None:
    """A book of some of the demo's elements, as written on r5."""
    page = Page.read("pages/nights@r5.html")
    booking = "shadow css{night-booking} -> "
    known = {
        "letter": booking + 'css{input[value="letter"]}',
        "cocoa": booking + 'css{input[value="cocoa"]}',
        "print": "text{Print the list}",
        "vega": 'css{button[value="vega"]}',
    }
    lines = ["book: Some", "page: ../pages/nights@r5.html  # seen last", "elements:"]
    for name in names:
        assert len(match(page, known[name])) == 1
        lines += [f"  {name}:", f"    # {name} of the form", f"    locator: {known[name]}"]
    Path("books/some.yaml").write_text("\n".join(lines) + "\n")


def test_what_was_not_seen_keeps_the_page_on_which_it_was(demo: Path) -> None:
    shortly("letter", "cocoa", "print", "vega")
    pages = ["pages/nights@r5.html", "pages/nights@r6.html", "--book", "books/some.yaml"]
    result = run("repair", *pages, "--apply")
    assert result.exit_code == 1
    book = Book.read("books/some.yaml")
    assert book.page == "../pages/nights@r6.html"
    old = "../pages/nights@r5.html"
    assert {name: entry.page for name, entry in book.elements.items()} == {"letter": old, "cocoa": "", "print": old, "vega": ""}
    text = Path("books/some.yaml").read_text()
    assert "# letter of the form" in text
    assert "# seen last" in text
    new = Page.read("pages/nights@r6.html")
    seen = pages_last_seen(book, Path("books"), new)
    assert set(seen) == {"letter", "print"}
    again = {r.name: r for r in repair_book(book, new, Page.read("pages/nights@r6.html"), last_seen=seen)}
    letter = again["letter"].repair
    assert letter is not None
    assert letter.verdict.outcome == "gone"
    assert again["vega"].state == "works"


def test_short_and_flow_entries_say_where_they_were_seen_too(demo: Path) -> None:
    text = "book: Some\r\npage: ../pages/nights@r5.html\r\nelements:\r\n  print: text{Print the list}\r\n"
    text += "  vega: {locator: 'css{button[value=\"vega\"]}'}\r\n  gone: {locator: 'text{Print the list}', about: twice}\r\n"
    Path("books/some.yaml").write_bytes(text.encode())
    run("repair", "pages/nights@r5.html", "pages/nights@r6.html", "--book", "books/some.yaml", "--apply")
    book = Book.read("books/some.yaml")
    assert {name: entry.page.rpartition("/")[2] for name, entry in book.elements.items()} == {
        "print": "nights@r5.html",
        "vega": "",
        "gone": "nights@r5.html",
    }
    assert Path("books/some.yaml").read_bytes().count(b"\n") == Path("books/some.yaml").read_bytes().count(b"\r\n")


UNSURE_OLD = """<main><h1>Nights</h1><section><h2>Your night</h2><p>Vega, at nine</p><button id=hold class=b>Hold</button></section>
<section><h2>Reports</h2><button id=older>Older</button></section></main>"""
UNSURE_NEW = """<main><h1>Evenings</h1><div><h3>Tonight</h3><i>Sky</i><span class=x>Take it now</span>
<button class=c>Go</button></div><section><h2>Reports</h2><button id=older>Older</button></section></main>"""


def test_a_guess_is_shown_with_its_locator_and_can_be_accepted(demo: Path) -> None:
    Path("old.html").write_text(UNSURE_OLD)
    Path("new.html").write_text(UNSURE_NEW)
    Path("b.yaml").write_text("book: B\npage: old.html\nelements:\n  hold: 'css{#hold}'\n  older: 'css{#older}'\n")
    found = repair("css{#hold}", Page.parse(UNSURE_OLD), Page.parse(UNSURE_NEW))
    assert (found.verdict.outcome, found.main) == ("unsure", None)
    assert found.guess is not None
    assert found.accepted().main == found.guess
    assert found.accepted().verdict.reasons[0] == BY_HAND
    shown = run("repair", "old.html", "new.html", "--book", "b.yaml")
    assert f"if so {found.guess.locator}" in shown.output
    assert "--accept hold takes it" in shown.output
    before = Path("b.yaml").read_bytes()
    run("repair", "old.html", "new.html", "--book", "b.yaml", "--accept", "hold", "--apply")
    assert Book.read("b.yaml").elements["hold"].locator == str(found.guess.locator)
    assert Path("b.yaml").read_bytes() != before
    odd = run("repair", "old.html", "new.html", "--book", "b.yaml", "--accept", "nobody")
    assert (odd.exit_code, "no element is named nobody" in odd.output) == (2, True)


def test_decisions_are_taken_as_they_were_made(demo: Path) -> None:
    pages = ["pages/nights@r1.html", "pages/nights@r3.html", "--book", BOOK]
    data = json.loads(run("repair", *pages, "--json").output)["repairs"]
    open_ = {r["name"]: r for r in data if r["state"] != "works"}
    assert {"visitor-name", "send-booking", "hold-moon"} <= set(open_)
    other = open_["visitor-name"]["candidates"][2]
    decisions = {
        "decisions": [
            {"name": "visitor-name", "accept": True, "locator": other},
            {"name": "send-booking", "accept": False},
        ]
    }
    Path("decisions.json").write_text(json.dumps(decisions))
    was = Book.read(BOOK).elements["send-booking"].locator
    run("repair", *pages, "--decisions", "decisions.json", "--apply")
    book = Book.read(BOOK)
    assert book.elements["visitor-name"].locator == other
    assert book.elements["send-booking"].locator == was
    assert book.elements["send-booking"].page == "../pages/nights@r1.html"
    assert book.elements["hold-moon"].locator == open_["hold-moon"]["proposed"]


@pytest.mark.parametrize(
    ("text", "message"),
    [
        ("{}", "no decisions"),
        ('{"decisions": [{"name": "hold-moon", "accept": "perhaps"}]}', r"decisions\.0\.accept"),
        ('{"decisions": [{"name": "nobody", "accept": true}]}', "nobody, which is not in the book"),
        ('{"decisions": [{"name": "hold-moon", "accept": true, "locator": "css{b}"}]}', "not among what is proposed now"),
    ],
)
def test_decisions_that_do_not_fit_are_refused(demo: Path, text: str, message: str) -> None:
    Path("d.json").write_text(text)
    before = Path(BOOK).read_bytes()
    result = run("repair", "pages/nights@r1.html", "pages/nights@r3.html", "--book", BOOK, "--decisions", "d.json", "--apply")
    assert result.exit_code == 2
    assert re.search(message, result.output)
    assert Path(BOOK).read_bytes() == before


def in_page(live: LivePage, expression: str) -> Any:
    """What an expression comes to in the page's own realm."""
    return live._connection.send("script.evaluate", expression=expression, target={"context": live.context}, awaitPromise=True)


@pytest.mark.parametrize("name", ["chromium", "firefox"])
def test_the_review_page_is_decided_on_with_keys(demo: Path, name: str, request: pytest.FixtureRequest) -> None:
    run("repair", "pages/nights@r1.html", "pages/nights@r3.html", "--book", BOOK, "--review", "review.html")
    browser: Browser = request.getfixturevalue(name)
    live = browser.open(Path("review.html").resolve().as_uri())
    try:
        total = len(live.capture().find_all("css{article.card}"))
        assert total == 8
        for key in ("j", "a", "j", "r", "j", "a"):
            live.keys(key)
        page = live.wait_for("text{2 accepted, 1 rejected, 5 open}")
        cards = page.find_all("css{article.card}")
        pressed = [bool(match(page, f'css{{[data-name="{c.attributes["data-name"]}"] .yes[aria-pressed="true"]}}')) for c in cards]
        assert pressed[:4] == [True, False, True, False]
        live.click('role{button ~"open questions"}')
        live.wait_for("css{article.card[hidden]}")
        keep = "URL.createObjectURL = (blob) => { blob.text().then((t) => { window.kept = t; }); return '#'; }; 1"
        asked = "new Promise((done) => { const ask = () => window.kept ? done(window.kept) : setTimeout(ask, 20); ask(); })"
        in_page(live, keep)
        live.click("text{Export decisions}")
        Path("decisions.json").write_text(in_page(live, asked)["result"]["value"])
    finally:
        live.close()
    decided = read_decisions(Path("decisions.json"))
    assert [d.accept for d in decided.values()] == [True, False, True]
    applied = run(
        "repair", "pages/nights@r1.html", "pages/nights@r3.html", "--book", BOOK, "--decisions", "decisions.json", "--apply"
    )
    assert applied.exit_code == 1
    assert "Changed:" in applied.output


def test_the_authors_language_is_kept_and_known_pages_count() -> None:
    old, new = read("nights@r1"), read("nights@r3")
    for locator, strategy in (("css{#visitor-name}", "css{"), ('xpath{//table[@id="nights"]/tbody/tr[5]/td[5]/button}', "xpath{")):
        main = repair(locator, old, new).main
        assert main is not None
        assert str(main.locator).startswith(strategy)
    found = repair("css{#booking-status}", old, new)
    assert found.failing == "#booking-status matches nothing now, 1 before"
    assert 'id "booking-status" → "hold-status"' in found.around
    assert found.main is not None
    kept = repair("css{.notice-close}", old, new)
    assert kept.main is not None
    assert ON_BOTH in kept.main.reasons


def test_only_what_is_sure_enough_is_repaired(demo: Path) -> None:
    pages = ["pages/nights@r1.html", "pages/nights@r3.html", "--book", BOOK]
    usual = json.loads(run("repair", *pages, "--json").output)["repairs"]
    strict = json.loads(run("repair", *pages, "--json", "--sure-from", "0.9999").output)["repairs"]
    assert any(r["proposed"] for r in usual)
    assert not any(r["proposed"] for r in strict)
    assert all(r["guess"] for r in strict if r["state"] != "works")
    assert run("repair", *pages, "--sure-from", "0.1").exit_code == 2


def test_an_address_is_repaired_against(demo: Path, site: str) -> None:
    book = Path(BOOK).read_text()
    result = run("repair", "pages/nights@r1.html", f"{site}/r3/index.html", "--book", BOOK, "--save-page", "seen", "--apply")
    assert result.exit_code == 1
    assert Path("seen.html").exists()
    assert Book.read(BOOK).page == "../seen.html"
    assert Path(BOOK).read_text() != book


def test_pages_of_one_name_in_two_folders_have_pictures_of_their_own(demo: Path) -> None:
    for folder, name in (("one", "nights@r1"), ("two", "nights@r6")):
        Path(folder).mkdir()
        for suffix in ("html", "facts.json", "png"):
            shutil.copy(f"pages/{name}.{suffix}", f"{folder}/page.{suffix}")
    story = Story("Two", ["one", "two"])
    keys = [story.picture_of(Page.read(f"{folder}/page.html")) for folder in ("one", "two")]
    assert None not in keys
    assert len(set(keys)) == 2
    assert len({story.pictures[key][0] for key in keys if key}) == 2
    with pytest.raises(FileError):
        read_decisions(Path("none.json"))
