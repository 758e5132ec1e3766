"""The best locator of every element: unique names, files, constants that their languages take."""

from __future__ import annotations

import csv
import json
import re
from pathlib import Path

import pytest

from conftest import PAGES, read, run
from wary_hound import Book, Page, match
from wary_hound.authoring.batch import ALIKE, best_of_all, usable
from wary_hound.authoring.question import Question
from wary_hound.authoring.ranking import rank
from wary_hound.authoring.rules import Rules
from wary_hound.authoring.targets import control_around, takes_focus
from wary_hound.authoring.tradeoff import tradeoff
from wary_hound.journey.naming import names_for
from wary_hound.locator.convert import from_json
from wary_hound.locator.making import css
from wary_hound.locator.values import Hop, Locator
from wary_hound.report.constants import LANGUAGES, constants


@pytest.mark.parametrize("name", ["nights@r1", "nights@r4", "sky@r4"])
def test_each_finds_its_element_and_is_hardly_worse_than_what_a_search_finds(name: str) -> None:
    page = read(name)
    elements = usable(page)
    losses = []
    for element, best in zip(elements, best_of_all(elements), strict=True):
        assert best is not None
        assert match(page, best.locator) == [element.index]
        losses.append(rank(element, Question(ways=1))[0].survival - best.survival)
    assert sum(losses) / len(losses) < ALIKE / 5
    assert len(elements) > 5


def test_names_are_unique_and_say_the_row() -> None:
    elements = usable(read("nights@r1"))
    names = names_for(elements)
    assert len(set(names)) == len(names) == len(elements)
    assert {"visitor-name", "hold-this-night-vega", "hold-this-night-saturn", "thank-the-watcher-monday"} <= set(names)


def test_rules_hold_for_all_and_what_they_leave_out_is_said(demo: Path) -> None:
    elements = usable(read("nights@r1"))
    found = best_of_all(elements, Question(rules=Rules(only=("label",))))
    assert any(best is None for best in found)
    assert all(str(best.locator).startswith("label{") for best in found if best)
    shown = run("rank", "pages/nights@r1.html", "--all", "--only", "label")
    assert "No locator under these rules finds send-booking alone." in shown.stderr


def test_it_is_written_as_a_book_and_as_a_table(demo: Path, tmp_path: Path) -> None:
    page = read("nights@r1")
    assert run("rank", "pages/nights@r1.html", "--all", "-o", str(tmp_path / "all.yaml")).exit_code == 0
    book = Book.read(tmp_path / "all.yaml")
    assert {name: match(page, entry.locator) for name, entry in book.elements.items()} == {
        name: [element.index] for name, element in zip(names_for(usable(page)), usable(page), strict=True)
    }
    assert run("check", str(book.elements["visitor-name"].locator), "pages/nights@r1.html").exit_code == 0
    run("rank", "pages/nights@r1.html", "--all", "-o", str(tmp_path / "all.csv"))
    rows = list(csv.DictReader((tmp_path / "all.csv").read_text(encoding="utf-8").splitlines()))
    assert [row["name"] for row in rows] == list(book.elements)
    again = run("rank", "pages/nights@r1.html", "--all", "-o", str(tmp_path / "all.csv"))
    assert again.exit_code == 2
    assert "is there already" in again.stderr


def test_python_constants_are_pairs_that_find_the_elements(demo: Path) -> None:
    page = read("nights@r4")
    made: dict[str, tuple[str, str]] = {}
    exec(run("rank", "pages/nights@r4.html", "--all", "--as", "python").stdout, {}, made)  # our own output
    assert len(made) > 30
    found = set()
    for name, (using, value) in made.items():
        if not name.endswith("_HOST"):
            host = made.get(f"{name}_HOST")
            entries = [{"using": using, "value": value}]
            if host is not None:
                entries.insert(0, {"using": host[0], "value": host[1], "open": "shadow"})
            found.update(match(page, from_json(entries)))
    assert found == {element.index for element in usable(page)}


@pytest.mark.parametrize("language", [*LANGUAGES])
def test_constants_survive_any_name_and_value(language: str) -> None:
    hostile = 'a"b\\c#{d}${e}\n'
    value = f"[title={json.dumps(hostile.strip())}]".replace("\\\\", "\\\\")
    named = [
        ("class", Locator((Hop(css(value)),)), "weak:\nnot a line"),
        ("1-übung", Locator((Hop(css("#a")),)), ""),
        ("Übung", Locator((Hop(css("#b")),)), ""),
    ]
    text = constants(named, language, "A page\nwith lines")
    lines = text.splitlines()
    assert len([line for line in lines if "css selector" in line]) == 3
    assert all(not line.startswith(("with", "not")) for line in lines)
    names = re.findall(r"(\w+) = ", text)
    assert len({*names}) == 3
    assert not {"class", "CLASS"} & {*names}
    if language == "ruby":
        assert "\\#{d}" in text


def test_a_page_without_controls_says_so(tmp_path: Path) -> None:
    (tmp_path / "bare.html").write_text("<p>Clouds tonight.</p>")
    told = run("rank", str(tmp_path / "bare.html"), "--all")
    assert told.exit_code == 2
    assert "nothing on this page that a person can use" in told.stderr
    assert run("rank", str(PAGES / "nights@r1.html")).exit_code == 2
    assert run("rank", str(PAGES / "nights@r1.html"), "css{h1}", "--as", "java").exit_code == 2
    assert not usable(Page.parse("<button hidden>Hold</button>"))


def test_each_candidate_says_what_one_gets_and_gives() -> None:
    ranked = [c for c in rank(read("nights@r1").find("css{#visitor-name}")) if c.locator.otherwise is None]
    said = {tradeoff(c, ranked[0]) for c in ranked[1:]}
    assert tradeoff(ranked[0], ranked[0]) == "lasts as long as the first"
    assert any("points less than the first" in one for one in said)
    assert any("instead of" in one for one in said)
    assert len(said) > 3


def test_the_control_around_an_icon_is_meant(tmp_path: Path) -> None:
    html = """<main><button id=shut aria-label=Close><svg viewBox="0 0 9 9"><path d="M1 1L8 8"/></svg></button>
<a href=/help><i class=icon-help></i> Help</a><p><img src=moon.png alt=Moon></p><button>Go <span>now</span></button></main>"""
    page = Page.parse(html)
    for inner, outer in (("css{path}", "css{#shut}"), ("css{svg}", "css{#shut}"), ("css{i}", "css{a}")):
        assert control_around(page.find(inner)) == page.find(outer)
    for alone in ("css{img}", "css{#shut}", "css{button span}", "css{p}"):
        assert control_around(page.find(alone)) is None
    (tmp_path / "page.html").write_text(html)
    shown = run("rank", str(tmp_path / "page.html"), "css{path}", "-n", "2")
    assert "That is the icon in <button" in shown.stderr
    assert '<button id="shut">' in shown.stdout.splitlines()[0]


def test_no_class_that_a_build_made_up_is_the_best() -> None:
    best = best_of_all(usable(read("nights@r6")), Question(releases=3))
    named = {str(one.locator) for one in best if one is not None}
    assert 'role{button "Reserve for a school"} @row-of text{Vega}' in named
    assert not [locator for locator in named if "__" in locator]


def test_what_takes_the_focus_or_a_click_without_a_role_can_be_used() -> None:
    page = Page.parse(
        "<main tabindex=0><div class=row><p>Clear nights</p><div class=switch tabindex=0><b></b></div></div><div class=row>"
        "<p>Moonrise</p><div class=switch tabindex=0><b></b></div></div><div tabindex=-1>a</div><p onclick='go()'>Go</p>"
        "<div contenteditable>note</div><div contenteditable=false>kept</div><div tabindex=0><button>In it</button></div>"
        "<div role=region aria-label=Log tabindex=0>scrolled</div><div tabindex=0 hidden>gone</div></main>"
    )
    elements = usable(page)
    assert [e.attributes.get("class") or e.text for e in elements] == ["switch", "switch", "Go", "note", "In it"]
    assert names_for(elements)[:2] == ["switch-clear-nights", "switch-moonrise"]
    assert [str(best.locator) for best in best_of_all(elements[:2]) if best is not None] == [
        "css{.switch} @row-of text{Clear nights}",
        "css{.switch} @row-of text{Moonrise}",
    ]
    assert not takes_focus(page, page.find("css{main}").index)
