"""Small faults that users met, each kept from coming back."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from conftest import read
from wary_hound import Page, Question, assess, match, relocate, relocate_all
from wary_hound.authoring.ranking import futures_of, rank
from wary_hound.cli.look import interesting
from wary_hound.healing.alignment import Aligning
from wary_hound.locator.notation import parse
from wary_hound.report.plots import survival_plot, write_plot
from wary_hound.robustness.dependence import dependencies


@pytest.mark.parametrize(
    ("html", "locator", "count"),
    [
        ('<p class="a&nbsp;b">Vega</p>', "css{.a}", 0),
        ('<p class="a b">Vega</p>', "css{.a}", 1),
        ('<p title="É">Vega</p>', 'css{[title="é" i]}', 0),
        ('<p title="E">Vega</p>', 'css{[title="e" i]}', 1),
        ("<label>Name: <input></label>", "label{~Name:}", 1),
        ("<label>Name: <input></label>", "label{Name}", 1),
    ],
)
def test_what_matches_and_what_does_not(html: str, locator: str, count: int) -> None:
    assert len(match(Page.parse(html), locator)) == count


def test_an_address_that_looks_like_an_id_is_none() -> None:
    page = Page.parse('<main><h1>Nights</h1><a href="#top">Up</a><a href="#list">List</a></main>')
    facts = dependencies(page, parse('css{[href="#top"]}'), page.find("text{Up}").index)
    assert [fact.kind for fact in facts] == ["href"]
    assert "id" not in {candidate.kind for candidate in rank(page.find("text{Up}"))}


def test_dollars_in_a_locator_are_no_mathematics_in_a_plot(tmp_path: Path) -> None:
    element = read("nights@r1").find("css{#visitor-name}")
    given = assess('css{[name$="visitor"][id$="name"]}', element)
    write_plot(survival_plot([], given), tmp_path / "plot.svg")
    assert (tmp_path / "plot.svg").stat().st_size > 2_000


def test_two_pages_are_aligned_once_however_many_elements_are_asked_for(monkeypatch: pytest.MonkeyPatch) -> None:
    calls = 0
    run = Aligning.run

    def counted(aligning: Aligning) -> None:
        nonlocal calls
        calls += 1
        run(aligning)

    monkeypatch.setattr(Aligning, "run", counted)
    elements = interesting(read("nights@r1"))[:20]
    new = read("nights@r2")
    assert len(relocate_all(elements, new)) == 20
    assert relocate(elements[0], new).element is not None
    assert calls == 1


def test_pages_of_one_name_in_two_folders_have_futures_of_their_own(tmp_path: Path) -> None:
    pages = []
    for folder, word in (("one", "Vega"), ("two", "Moon")):
        (tmp_path / folder).mkdir()
        (tmp_path / folder / "page.html").write_text(f"<main><button id=hold>{word}</button></main>")
        pages.append(Page.read(tmp_path / folder / "page.html"))
    first, second = (futures_of(page, Question()).threshold("id", 1, "hold") for page in pages)
    assert not np.array_equal(first, second)
    assert np.array_equal(first, futures_of(Page.read(tmp_path / "one" / "page.html"), Question()).threshold("id", 1, "hold"))
