"""Books and journeys as values and files; repairing them in place."""

from __future__ import annotations

import subprocess
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from ruamel.yaml import YAML

from conftest import read
from wary_hound import Book, FileError, Journey
from wary_hound.journey import yaml_text
from wary_hound.journey.book import Entry, parse_book, remember
from wary_hound.journey.repairing import changed_texts, repair_book
from wary_hound.journey.steps import Step

BOOK = """# our book   (hand-written)
book: 'Nights: the book'   # its name
elements:
  # the odd one first
  hold-moon:   {locator: 'xpath{//table[@id="nights"]/tbody/tr[5]/td[5]/button}', about: "holds, {the} moon"}
  status:
    about: what the form says
    locator: css{#booking-status}     # an id
    fallbacks: ['css{output}', "css{.status}"]
"""


@given(st.text(max_size=40))
def test_a_scalar_reads_back_as_it_was(value: str) -> None:
    if all(c.isprintable() or c in "\n\t" for c in value) and "\ufeff" not in value:
        assert YAML(typ="safe", pure=True).load(f"- key: {yaml_text.scalar(value)}\n") == [{"key": value}]


@pytest.mark.parametrize("plain", ["css{#id}", "text{Vega}", 'role{button "Hold"} @row-of text{Vega}', "shadow css{a} -> css{b}"])
def test_ordinary_locators_need_no_quotes(plain: str) -> None:
    assert yaml_text.scalar(plain) == plain
    assert yaml_text.scalar("css{a #b}") == "'css{a #b}'"


def test_a_book_writes_and_reads_back(tmp_path: Path) -> None:
    page = read("nights@r1")
    locator = 'css{a[title=": #"]}'
    entry = Entry(locator=locator, fallbacks=("text{Held: yes}",), about="it's odd", page="x.html")
    book = Book(book="One", page="y.html", elements={"odd": entry}, remembered={"odd": remember(page[5])})
    book.write(tmp_path / "book.yaml")
    assert Book.read(tmp_path / "book.yaml") == book
    with pytest.raises(FileError, match="is there already"):
        book.write(tmp_path / "book.yaml")


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("", "no mapping"),
        ("book: [", "no YAML"),
        ("book: x\n", "elements"),
        ("book: x\nelements: {a: {locator: 'css{'}}", "elements > a > locator: locator does not parse at column 5"),
        ("book: x\nelements: {a: {locater: 'css{a}'}}", "a > locat"),
    ],
)
def test_broken_books_say_where(tmp_path: Path, text: str, said: str) -> None:
    (tmp_path / "b.yaml").write_text(text)
    with pytest.raises(FileError, match=said):
        Book.read(tmp_path / "b.yaml")


def test_repair_changes_only_what_it_must(tmp_path: Path) -> None:
    path = tmp_path / "b.yaml"
    path.write_text(BOOK)
    text, book = parse_book(path)
    repairs = repair_book(book, read("nights@r2"), read("nights@r3"))
    assert [r.state for r in repairs] == ["broken", "broken"]
    journey = tmp_path / "j.yaml"
    journey.write_text('journey: x\nsteps:\n  - click: "css{#booking-status}"   # by hand\n')
    before = {path: text, journey: journey.read_text()}
    after = changed_texts(path, text, book, repairs, {journey: before[journey]})
    new = Book.model_validate(YAML(typ="safe", pure=True).load(after[path]))
    for named in repairs:
        assert named.repair is not None
        assert named.repair.main is not None
        assert new.elements[named.name].locator == str(named.repair.main.locator)
    assert len(new.elements["status"].fallbacks) == 2
    for kept in (
        "# our book   (hand-written)",
        "# its name",
        "  # the odd one first",
        'about: "holds, {the} moon"}',
        "     # an id",
    ):
        assert kept in after[path]
    assert list(new.elements) == ["hold-moon", "status"]
    assert "# by hand" in after[journey]
    assert Journey.model_validate(YAML(typ="safe", pure=True).load(after[journey])).steps[0].on == new.elements["status"].locator


def test_the_patch_applies(demo: Path) -> None:
    path = Path("books/nights.yaml")
    text, book = parse_book(path)
    repairs = repair_book(book, read("nights@r1"), read("nights@r2"))
    after = changed_texts(path, text, book, repairs, {}, "../pages/nights@r2.html")
    Path("a.patch").write_text(yaml_text.unified_diff({path: text}, after))
    subprocess.run(["git", "apply", "-p0", "a.patch"], check=True, cwd=demo)
    assert path.read_text() == after[path]


def test_a_file_that_changed_meanwhile_is_not_overwritten(tmp_path: Path) -> None:
    one, other = tmp_path / "a", tmp_path / "b"
    one.write_text("mine")
    other.write_text("other")
    with pytest.raises(FileError, match="changed by somebody else"):
        yaml_text.write_changed({one: "old", other: "other"}, {one: "new", other: "new"})
    assert (one.read_text(), other.read_text()) == ("mine", "other")


def test_what_the_old_page_does_not_show_is_remembered_or_unknown() -> None:
    entries = {"status": Entry(locator="css{#was-here-once}"), "lost": Entry(locator="css{#nowhere}")}
    memory = {"status": remember(read("nights@r1").find("css{#booking-status}"))}
    repairs = repair_book(Book(book="x", elements=entries, remembered=memory), read("nights@r2"), read("nights@r3"))
    assert repairs[0].repair is not None
    element = repairs[0].repair.verdict.element
    assert element is not None
    assert element.attributes["id"] == read("nights@r3").find("css{output}").attributes["id"]
    assert (repairs[1].state, repairs[1].repair) == ("unknown", None)
    assert "remembers nothing" in repairs[1].trouble


STEPS = st.one_of(
    st.builds(lambda v: Step(action="open", value=v), st.text("ab/: #", min_size=1).filter(str.strip)),
    st.builds(lambda o: Step(action="click", on=o), st.sampled_from(["hold", "css{a #b}"])),
    st.builds(lambda a, v: Step(action=a, on="hold", value=v), st.sampled_from(["type", "choose"]), st.text("a1 :#", min_size=1)),
    st.builds(lambda e: Step(action="check", on="hold", expect=e), st.sampled_from(["shown", "hidden", "gone"])),
    st.builds(
        lambda e, v: Step(action="check", on="hold", expect=e, value=v),
        st.sampled_from(["reads", "contains"]),
        st.text("no1", min_size=1),
    ),
)  # fmt: skip


@given(st.lists(STEPS, min_size=1, max_size=5))
def test_a_journey_writes_and_reads_back(steps: list[Step]) -> None:
    journey = Journey(journey="x", book="b.yaml", steps=tuple(steps))
    assert Journey.model_validate(YAML(typ="safe", pure=True).load(journey.to_yaml())) == journey


@pytest.mark.parametrize(
    ("step", "said"),
    [
        ("tap: x", "does one of open"),
        ("click: x\n    with: y", "does not take 'with'"),
        ("type: x", "needs an element"),
        ("check: x", "one of is, reads"),
        ("check: x\n    is: there", "shown, hidden, gone"),
        ("[1]", "a step is a mapping"),
    ],
)
def test_broken_steps_are_named(tmp_path: Path, step: str, said: str) -> None:
    (tmp_path / "j.yaml").write_text(f"journey: x\nsteps:\n  - click: fine\n  - {step}\n")
    with pytest.raises(FileError, match=said):
        Journey.read(tmp_path / "j.yaml")


def test_the_demos_journey_uses_names_of_its_book(demo: Path) -> None:
    journey = Journey.read("books/hold-a-night.yaml")
    book = Book.read(Path("books") / journey.book)
    page = read("nights@r1")
    found = [page.find(locator) for _, locator in journey.locators(book)]
    assert [str(s) for s in journey.steps][3:6] == [
        "click hold-vega", 'check that booking-status reads "Held: Vega"', 'type "Ada Marsh" in visitor-name'
    ]  # fmt: skip
    assert len(found) == 11
    lost = Journey(journey="x", steps=(Step(action="click", on="nobody"),))
    with pytest.raises(FileError, match="no element is named 'nobody'"):
        list(lost.locators(book))
