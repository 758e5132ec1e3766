"""Locators as people type them, and what is said where they typed none."""

from __future__ import annotations

from pathlib import Path

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from conftest import run
from wary_hound import Book, FileError, Journey, NotationError, Page, match
from wary_hound.locator.typed import typed

PAGE = Page.parse("<main><form id=book><input id=visitor-name name=visitor><button class=go>Hold Vega</button></form></main>")


@pytest.mark.parametrize(
    ("given", "meant"),
    [
        ("#visitor-name", "css{#visitor-name}"),
        ("form > .go", "css{form > .go}"),
        ("button", "css{button}"),
        ("night-booking", "css{night-booking}"),
        ("[name=visitor]", "css{[name=visitor]}"),
        ("//button", "xpath{//button}"),
        ("(//button)[1]", "xpath{(//button)[1]}"),
        (".//button", "xpath{.//button}"),
        ("text{Hold Vega}", "text{Hold Vega}"),
        ("  css{.go} else css{button} ", "css{.go} else css{button}"),
    ],
)
def test_css_and_xpath_are_taken_bare(given: str, meant: str) -> None:
    assert str(typed(given)) == meant
    if "night" not in given:
        assert len(match(PAGE, given)) == 1


@pytest.mark.parametrize(
    ("given", "said"),
    [
        ("Hold Vega", r"did you mean text\{Hold Vega\}, label\{Hold Vega\} or #hold-vega\?"),
        ("txet{Hold Vega}", r"did you mean text\{Hold Vega\}\?"),
        ("xpth{//a}", r"did you mean xpath\{//a\}\?"),
        ("#", "expected a selector"),
        ("//button[", "xpath"),
        ("", "expected"),
    ],
)
def test_what_is_neither_is_told_what_it_comes_near_to(given: str, said: str) -> None:
    with pytest.raises(NotationError, match=said):
        typed(given)


@given(st.text(max_size=12))
@example(".\\")
@example("#a\\\\")
def test_any_text_is_a_locator_or_a_clear_error(text: str) -> None:
    try:
        found = typed(text)
    except NotationError as error:
        assert "expected" in str(error)
    else:
        assert typed(str(found)) == found


def test_the_command_line_shows_what_it_took_it_for_and_what_comes_nearest(demo: Path) -> None:
    shown = run("check", "#visitor-nam", "pages/nights@r1.html")
    assert shown.exit_code == 1
    assert "Read as css{#visitor-nam}" in shown.stderr
    assert 'comes nearest <input id="visitor-name"' in shown.output
    assert "like id" in shown.output
    assert "Read as" not in run("check", "css{#visitor-name}", "pages/nights@r1.html").stderr


def test_a_book_names_an_element_by_its_locator_alone_and_is_repaired_so(tmp_path: Path) -> None:
    file = tmp_path / "book.yaml"
    file.write_text('book: Short\npage: old.html\nelements:\n  hold: "#hold"   # the button\n  name: text{Hold Vega}\n')
    book = Book.read(file)
    assert str(book.elements["hold"].main) == "css{#hold}"
    old = "<main><h1>Nights</h1><button id=hold class=go>Hold Vega</button></main>"
    (tmp_path / "old.html").write_text(old)
    (tmp_path / "new.html").write_text(old.replace("id=hold", "id=keep"))
    done = run("repair", str(tmp_path / "old.html"), str(tmp_path / "new.html"), "--book", str(file), "--apply")
    text = file.read_text()
    assert "#hold" not in text, done.output
    assert "# the button" in text
    page = Page.read(tmp_path / "new.html")
    assert match(page, Book.read(file).elements["hold"].locator) == match(page, "css{#keep}")


def test_in_a_journey_a_word_is_a_name_and_never_an_element(tmp_path: Path) -> None:
    journey = Journey.model_validate({"journey": "Hold", "steps": [{"click": "#hold"}, {"click": "hold-vega"}]})
    with pytest.raises(FileError, match="no element is named 'hold-vega'"):
        list(journey.locators(None))
    assert str(next(journey.locators(None))[1]) == "css{#hold}"
