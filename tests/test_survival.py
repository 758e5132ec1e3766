"""Candidates, what they depend on, and how long they last."""

from __future__ import annotations

from dataclasses import replace
from itertools import combinations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from conftest import PAGES, read
from wary_hound import ChangeModel, Element, FileError, Page, Question, assess, match, parse, portfolio, rank
from wary_hound.authoring.alternatives import ALIKE
from wary_hound.authoring.anchors import related
from wary_hound.cli.look import interesting
from wary_hound.measuring.history import labelled, read_histories
from wary_hound.robustness.dependence import dependencies
from wary_hound.robustness.looks import look_of_class, look_of_text, look_of_token
from wary_hound.robustness.model import Rate
from wary_hound.robustness.survival import Futures, closed_form, failures, outlook


def facts_of(page: Page, locator: str) -> list[tuple[str, str, str]]:
    element = page.find(locator)
    return [(d.group, d.value, page.tags[d.element]) for d in dependencies(page, parse(locator), element.index)]


@pytest.mark.parametrize(
    ("value", "look"),
    [
        ("visitor-name", "named"), ("u6996538", "generated"), (":r1:", "generated"), ("button__x8Qa2", "hashed"),
        ("css-1k2b9c", "hashed"), ("Qk3vTgA=", "generated"), ("lqTvKm", "hashed"), ("innerHTML", "named"),
        ("ͼ1", "generated"), ("über", "named"),
        ("at%3A%2Fnight", "named"), ("row-3", "numbered"), ("12", "number"), ("#orders/7", "path"), ("", "empty"),
        ("a1b2c3d4-e5f6-7890-abcd-ef1234567890", "generated"), ("nights_table__hNs9Y", "hashed"), ("main", "named"),
        ("h2", "named"), ("breadcrumbs", "named"), ("postcss", "named"), ("kebab-menu-item", "named"),
    ],
)  # fmt: skip
def test_looks_of_ids(value: str, look: str) -> None:
    assert look_of_token(value) == look


@pytest.mark.parametrize(
    ("value", "look"),
    [("mt-4", "utility"), ("is-open", "state"), ("active", "state"), ("btn-primary", "named"), ("md:flex-row", "utility"),
     ("sort-desc", "state"), ("tabActive", "state"), ("oddRow", "state"), ("oddity", "named"), ("unselected", "named"),
     ("col-6", "utility"), ("night-row", "named"), ("text-center", "utility"), ("button__K2uMZ", "hashed"),
         ("btn", "utility"), ("container-fluid", "utility"), ("small", "utility"), ("centered", "utility"),
     ("smallprint", "named"), ("ui-corner-left", "utility"), ("night-corner", "named")],
)  # fmt: skip
def test_looks_of_classes(value: str, look: str) -> None:
    assert look_of_class(value) == look


def test_looks_of_texts() -> None:
    texts = ["Send booking", "245 °C", "Tue 12 Aug", "12.50", "x" * 50, ""]
    assert [look_of_text(t) for t in texts] == ["words", "numbered", "numbered", "number", "long", "empty"]
    assert look_of_text("00001207-0000-4000-8000-000000000007") == "numbered"  # a name that a server gave, and no figure


def test_what_locators_depend_on() -> None:
    page = read("nights@r1")
    assert facts_of(page, "css{#night-form > .form-actions button:first-child}") == [
        ("tag", "button", "button"),
        ("place", ":first-child", "button"),
        ("descendant", "", "button"),
        ("class/named", "form-actions", "div"),
        ("child", "", "div"),
        ("id/named", "night-form", "form"),
    ]
    assert ("content/words", "Vega", "td") in facts_of(page, 'xpath{//tr[td="Vega"]//button}')
    assert ("content/words", "Print the list", "a") in facts_of(page, 'xpath{//a[normalize-space()="Print the list"]}')
    relative = facts_of(page, 'role{button "Hold this night"} @row-of text{Vega}')
    assert [group for group, _, _ in relative] == ["role", "accessible-name/words", "row-of", "text/words"]
    hops = facts_of(read("nights@r4"), "shadow css{sky-dial} -> css{button}#3")
    assert [group for group, _, _ in hops] == ["tag", "shadow", "tag", "ordinal"]


@pytest.mark.parametrize("name", ["nights@r1", "held@r3", "sky@r4", "nights@r6"])
def test_every_candidate_finds_its_element_and_it_alone(name: str) -> None:
    page = read(name)
    elements = interesting(page)
    assert len(elements) > 20
    for element in elements:
        candidates = rank(element)
        assert candidates
        for candidate in candidates:
            assert match(page, candidate.locator) == [element.index], candidate
            assert parse(str(candidate.locator)) == candidate.locator
            assert candidate.reasons


MARKUP = st.recursive(
    st.sampled_from(["Vega", "Hold", "7 °C", ""]),
    lambda inner: st.builds(
        lambda tag, mark, parts: f"<{tag}{mark}>{''.join(parts)}</{tag}>",
        st.sampled_from(["div", "p", "button", "label", "sky-dial", "section", "li"]),
        st.sampled_from(["", " id=a", " class='b c'", " id='u12345'", " data-x='\"{'", " aria-label=Go", ' title="}"', " hidden"]),
        st.lists(inner, max_size=4),
    ),
    max_leaves=14,
)


@settings(max_examples=60, deadline=None)
@given(MARKUP, st.integers(0, 1000))
def test_no_candidate_is_not_unique_on_any_page(markup: str, pick: int) -> None:
    page = Page.parse(f"<main>{markup}</main>")
    element = page[pick % len(page)]
    for candidate in rank(element):
        assert match(page, candidate.locator) == [element.index]


def test_candidates_of_all_kinds_are_authored() -> None:
    kinds: set[str] = set()
    relations: set[str] = set()
    offered: set[str] = set()
    for name in ("nights@r1", "sky@r4"):
        for element in interesting(read(name)):
            relations.update(str(relation) for relation, _ in related(element.page, element.index))
            for candidate in rank(element):
                kinds.add(candidate.kind)
                offered.update(str(r.relation) for h in candidate.locator.hops for r in h.finder.relations)
    assert kinds == {"id", "attribute", "class", "text", "role", "label", "chain", "relative", "path", "either"}
    assert {"row-of", "group-of", "after", "rightward-of", "under"} <= relations
    assert {"row-of", "group-of", "column-of"} <= offered


def test_what_comes_next_to_something_is_offered_only_where_nothing_else_tells() -> None:
    page = Page.parse("<h2>Nights</h2><p>Vega</p><input type=text><p>Moon</p><input type=text><p>Jove</p><input name=jove>")
    nameless, named = rank(page.find("css{input}#2")), rank(page.find("css{[name=jove]}"))
    assert any("@after text{Moon}" in str(c.locator) for c in nameless)
    assert all(c.weak for c in nameless)
    assert not any("@after" in str(c.locator) or c.weak for c in named)


def test_a_number_is_the_name_of_a_link_and_data_in_a_cell() -> None:
    pages = "".join(f"<li><a href='#'>{n}</a>" for n in range(1, 5))
    page = Page.parse(f"<ul>{pages}</ul><table><tr><td>Vega<td>17<tr><td>Moon<td>18</table>")
    first = rank(page.find("text{3}"))[0]
    assert str(first.locator) in ("text{3}", 'role{link "3"}')
    assert not first.weak
    cell = rank(page.find("text{17}"))[0]
    assert "17" not in str(cell.locator)


def test_a_better_locator_ranks_before_what_people_copy() -> None:
    element = read("nights@r1").find('role{button "Hold this night"} @row-of text{Vega}')
    best = rank(element, Question(releases=3, ways=1))
    path = assess("xpath{/html/body/main/div[3]/section[1]/table/tbody/tr[1]/td[5]/button}", element, Question(releases=3))
    assert best[0].survival > path.survival + 0.1
    assert any("position" in reason for reason in path.reasons)
    assert len(best) > 10
    assert all(earlier.loss <= later.loss + ALIKE for earlier, later in combinations(best, 2))


def test_survival_only_falls_and_its_parts_add_up() -> None:
    for candidate in rank(read("nights@r4").find("shadow css{sky-dial} -> css{button}#3"), Question(releases=2)):
        assert all(a >= b for a, b in zip(candidate.curve, candidate.curve[1:], strict=False))
        assert candidate.survival + candidate.lost + candidate.stolen + candidate.ambiguous == pytest.approx(1)
        low, high = candidate.interval
        assert 0 <= low <= candidate.survival <= high <= 1
    with pytest.raises(ValueError, match="1 to 10"):
        rank(read("nights@r1")[0], Question(releases=11))


def test_simulation_agrees_with_the_closed_form() -> None:
    page = read("nights@r1")
    model = ChangeModel.shipped()
    futures = Futures(model, seed=3, count=20_000)
    for locator in ("css{#visitor-name}", "css{.night-row:nth-child(2) button}", "label{E-mail}", "css{tr}#3"):
        element = page.find(locator)
        facts = dependencies(page, parse(locator), element.index)
        simulated = outlook(futures, facts, element.index).alive
        for releases in (1, 3, 10):
            assert simulated[releases - 1] == pytest.approx(closed_form(model, facts, element.index, releases), abs=0.015)


def test_what_rests_on_one_fact_is_neither_lucky_nor_unlucky() -> None:
    """In a thousand futures drawn one by one the shares of such locators would be off by a hundredth here and there."""
    page, model = read("nights@r1"), ChangeModel.shipped()
    futures = Futures(model, seed=5)
    off = []
    for element in interesting(page)[:60]:
        facts = [d for d in dependencies(page, parse(f"css{{{element.tag}}}"), element.index) if d.kind == "tag"]
        facts = [replace(facts[0], kind="text", look="words", value=f"night {element.index}")]
        simulated = outlook(futures, facts, element.index).alive[0]
        off.append(abs(simulated - closed_form(model, facts, element.index, 1)))
    assert np.mean(off) < 0.005


def test_all_words_of_a_page_go_with_its_language_and_its_names_do_not() -> None:
    page = Page.parse("<label>Visitor name <input name=visitor></label><button title='Hold the dome'>Hold</button>")
    field, button = page.find("css{input}"), page.find("css{button}")

    def together(model: ChangeModel, way: str) -> float:
        """How much more often both fail than they would if neither knew of the other."""
        futures = Futures(model, count=20_000)
        asked = ((way, field), ('role{button "Hold"}', button))
        one, other = (failures(futures, dependencies(page, parse(w), e.index), e.index)[:, 0] for w, e in asked)
        return float((one & other).mean() / (one.mean() * other.mean()))

    used = ChangeModel.shipped().in_use()
    apart = replace(used, spoken={})
    assert together(used, "label{Visitor name}") > together(apart, "label{Visitor name}") + 0.3
    assert together(used, "css{[name=visitor]}") == pytest.approx(together(apart, "css{[name=visitor]}"), abs=0.1)


def test_locators_that_share_a_fact_fail_together_and_seeds_repeat() -> None:
    page = read("nights@r1")
    element = page.find("css{#visitor-name}")
    shared = [dependencies(page, parse(x), element.index) for x in ("css{#visitor-name}", "css{input#visitor-name}")]
    apart = dependencies(page, parse("label{Visitor name}"), element.index)
    futures, again = Futures(ChangeModel.shipped()), Futures(ChangeModel.shipped())
    one, other, third = (failures(futures, facts, element.index)[:, 2] for facts in (*shared, apart))
    assert (one & other).sum() > 0.6 * one.sum()
    assert (one & third).sum() < 0.6 * one.sum()
    assert np.array_equal(one, failures(again, shared[0], element.index)[:, 2])


def test_a_portfolio_names_no_fallback_that_adds_nothing() -> None:
    """In the table's row and column is in its row and column."""
    rows = "".join(f"<tr><td>{night}<td>{places}" for night, places in (("Vega", "eight"), ("Saturn", "nine"), ("Lyra", "ten")))
    page = Page.parse(f"<table id=nights><thead><tr><th>Night<th>Places<tbody>{rows}</table>")
    cell = page.find("css{td}#4")
    ranked = [assess(f"{way} @row-of text{{Saturn}} and @column-of text{{Places}}", cell) for way in ("css{td}", "css{#nights td}")]
    assert not portfolio(cell, 3, ranked=ranked).fallbacks


def test_a_portfolio_lasts_longer_than_its_main_member() -> None:
    element = read("nights@r1").find("css{#visitor-name}")
    one, three = portfolio(element, 1), portfolio(element, 3)
    assert len(three.fallbacks) in (1, 2)
    assert len({str(c) for c in (three.main, *three.fallbacks)}) == 1 + len(three.fallbacks)
    assert three.survival > one.survival
    with pytest.raises(ValueError, match="at least 1"):
        portfolio(element, 0)


def test_rates_that_are_asked_for_fall_back_to_their_kind() -> None:
    model = ChangeModel.shipped()
    assert model.rate(model.lost, "id/named").observed > 100
    assert model.rate(model.lost, "class/hashed").hazard > 3 * model.rate(model.lost, "class/named").hazard
    assert model.rate({"id": Rate(0.3, 1)}, "id/path") == Rate(0.3, 1)
    assert float(model.lasting(0.0, 5)) == 1.0
    assert sum(s.share for s in model.sizes) == pytest.approx(1, abs=0.01)
    assert "version" in model.source


def test_the_model_matters() -> None:
    """A team whose ids never last gets other advice."""
    element = read("nights@r1").find("css{#booking-status}")
    model = ChangeModel.shipped()
    worse = replace(model, lost={**model.lost, **{k: Rate(20.0, 0.1) for k in model.lost if k.startswith("id")}})
    assert (
        assess("css{#booking-status}", element, Question(worse)).survival < 0.4 < assess("css{#booking-status}", element).survival
    )
    assert "id" not in {c.kind for c in rank(element, Question(worse))[:5]}


def test_broken_models_are_refused(tmp_path: object) -> None:
    from pathlib import Path

    path = Path(str(tmp_path)) / "rates.json"
    for content, said in (("{}", "no change model"), ('{"format": 9}', "format 9"), ("[", "no change model")):
        path.write_text(content)
        with pytest.raises(FileError, match=said):
            ChangeModel.read(path)


def test_predictions_order_what_really_happened() -> None:
    """Candidates that were predicted to last did so more often than the others, on the demo's own releases."""
    history = next(h for h in read_histories(PAGES) if h.page == "nights")
    pages, wanted = labelled(history)
    high, low = [], []
    for label, index in list(wanted[0].items())[::3]:
        assert index is not None
        for candidate in rank(Element(pages[0], index)):
            for new in (2, 4):
                now = wanted[new][label]
                if now is not None:
                    alive = match(pages[new], candidate.locator) == [now]
                    (high if candidate.curve[new - 1] > 0.7 else low).append(alive)
    assert np.mean(high) > np.mean(low)
