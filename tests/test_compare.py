"""Two pages compared as wholes: what changed, told as a person would, and which locators that touches."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from conftest import read, run
from wary_hound import Page, align
from wary_hound.healing.changes import told

OLD = """<main><h1>Nights</h1><section><h2>Open nights</h2><ul><li class=row>Vega <button id=a class='b small'>Hold</button></li>
<li class=row>Saturn <button id=s class='b small'>Hold</button></li></ul></section>
<footer><a href=/help>Help</a> <i>old</i></footer></main>"""


def changes(new: str, old: str = OLD) -> list[tuple[str, str, str]]:
    alignment = align(Page.parse(old), Page.parse(new))
    return [(t.state, t.elements[0].tag, "; ".join(map(str, t.changes))) for t in told(alignment)]


def test_nothing_changed_between_a_page_and_itself() -> None:
    for name in ("nights@r1", "sky@r4"):
        page = read(name)
        alignment = align(page, read(name))
        assert [(p.old.index, p.new.index) for p in alignment.pairs] == [(i, i) for i in range(len(page))]
        assert (alignment.gone, alignment.added, alignment.changed) == ((), (), ())


@pytest.mark.parametrize(
    ("before", "after", "expected"),
    [
        ("id=a ", "id=vega ", ("changed", "button", 'id "a" → "vega"')),
        (">Help<", ">Get help<", ("changed", "a", 'text "Help" → "Get help"')),
        ("href=/help", "href=/help rel=help", ("changed", "a", '[rel] "help" added')),
        ("<h2>Open nights</h2>", "<h3>Open nights</h3>", ("changed", "h3", "<h2> → <h3>")),
        ("<i>old</i>", "", ("gone", "i", "")),
        ("<footer>", "<footer><b>New here</b>", ("new", "b", "")),
        ("<ul>", "<div class=list><ul>", ("changed", "ul", "now inside a new <div.list>")),
    ],
)
def test_each_change_is_told(before: str, after: str, expected: tuple[str, str, str]) -> None:
    assert before in OLD
    assert expected in changes(OLD.replace(before, after).replace("</ul>", "</ul></div>" if "div" in after else "</ul>"))


def test_the_same_change_of_several_elements_is_told_once() -> None:
    found = [entry for entry in told(align(Page.parse(OLD), Page.parse(OLD.replace("'b small'", "button")))) if entry.changes]
    assert [(str(entry.changes[0]), len(entry.elements)) for entry in found] == [("-b -small +button", 2)]


def test_what_moved_is_not_gone_and_new() -> None:
    menu = "</h1><nav id=top><a href=/visit>Visit</a><a href=/map>Map</a></nav>"
    old = OLD.replace("</h1>", menu).replace("<i>old</i>", "<i>old</i><p>Ridge</p>")
    new = old.replace("<a href=/help>Help</a>", "").replace("<a href=/visit>", "<a href=/help>Help</a><a href=/visit>")
    assert ("changed", "a", "moved to <nav#top>") in changes(new, old)


def test_large_pages_are_aligned_too() -> None:
    def page(word: str) -> Page:
        rows = "".join(f"<tr id=n{k}><td>Night {k}</td><td>{k % 7}</td><td><button>{word}</button></td></tr>" for k in range(4000))
        return Page.parse(f"<table>{rows}</table>")

    alignment = align(page("Hold"), page("Reserve"))
    assert len(alignment.pairs) == len(alignment.old) > 20_000
    assert all(p.old.index == p.new.index for p in alignment.pairs)


def test_the_command_tells_it_and_which_locators_are_touched(demo: Path) -> None:
    arguments = ["compare", "pages/nights@r2.html", "pages/nights@r3.html", "--book", "books/nights.yaml"]
    result = run(*arguments, "--journey", "books/hold-a-night.yaml", "--report", "changes.html")
    assert result.exit_code == 1
    assert "elements are there again" in result.output
    assert "Open nights" in result.output
    assert "works" not in result.output.partition("Locators")[0]
    assert max(len(line) for line in result.output.splitlines()) <= 100
    page = Path("changes.html").read_text()
    assert "What changed" in page
    assert "<script" not in page
    assert "http" not in page.replace("http://www.w3.org", "")
    data = json.loads(run(*arguments, "--json").output)
    states = {entry["state"] for entry in data["locators"]}
    assert states <= {"works", "drifted", "broken", "unsure", "gone", "unknown"}
    assert any(entry["name"] == "places-saturn" and entry["state"] == "drifted" for entry in data["locators"])
    assert {"changed", "new"} <= {entry["state"] for entry in data["changes"]}


def test_what_fails_a_comparison_is_chosen(demo: Path) -> None:
    same = run("compare", "pages/nights@r1.html", "pages/nights@r1.html", "--fail-on", "changed,gone,unsure")
    assert (same.exit_code, "Nothing changed." in same.output) == (0, True)
    pages = ["pages/nights@r1.html", "pages/nights@r2.html"]
    assert run("compare", *pages).exit_code == 0
    assert run("compare", *pages, "--fail-on", "changed").exit_code == 1
    assert run("compare", *pages, "--book", "books/nights.yaml").exit_code == 1
    odd = run("compare", *pages, "--fail-on", "sad")
    assert (odd.exit_code, "'sad' is none of" in odd.output) == (2, True)
    assert run("compare", "pages/none.html", pages[1]).exit_code == 2
