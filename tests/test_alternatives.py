"""Locators of several ways, `A else B`: their notation, meaning, forecasts, and where they are proposed."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from conftest import read, run
from wary_hound import (
    ChangeModel,
    Locator,
    LocatorError,
    NotationError,
    NotFound,
    Page,
    assess,
    convert,
    explain,
    match,
    parse,
    portfolio,
    rank,
)
from wary_hound.authoring.question import Question
from wary_hound.authoring.ranking import futures_of
from wary_hound.robustness.dependence import dependencies
from wary_hound.robustness.model import Rate
from wary_hound.robustness.survival import FUTURES, Fate, fact_of, fate_of, shares

PAGE = Page.parse("<button id=a>Hold</button><button id=b>Off</button><p id=c>else</p><form><input name=n></form>")
WAYS = ["css{#a}", "text{else}", 'role{button "Off"}', "css{form} -> css{input}", "xpath{//p[.='x else y']}", "css{button}#2"]


@given(st.lists(st.sampled_from(WAYS), min_size=1, max_size=6))
def test_alternatives_print_back_as_they_were_parsed(ways: list[str]) -> None:
    line = " else ".join(ways)
    parsed = parse(line)
    assert str(parsed) == line
    assert list(map(str, parsed.alternatives)) == ways
    assert Locator.either(*map(parse, ways)) == parsed
    first = match(PAGE, ways[0])
    assert match(PAGE, parsed) == next((found for way in ways if len(found := match(PAGE, way)) == 1), first)


@pytest.mark.parametrize(
    ("line", "column", "expected"),
    [
        ("css{a} else", 12, "a blank and another way"),
        ("css{a} elsecss{b}", 12, "a blank and another way"),
        ("css{a} else ", 13, "one of css"),
        ("shadow css{a} else css{b}", 15, "what to find inside the shadow"),
        ("css{a} or css{b}", 8, '"else" and another way'),
        (" else ".join(["css{a}"] * 21), 236, "at most 20 ways"),
    ],
)
def test_broken_alternatives_are_refused_with_their_place(line: str, column: int, expected: str) -> None:
    with pytest.raises(NotationError, match=expected) as caught:
        parse(line)
    assert caught.value.column == column


def test_the_first_that_finds_exactly_one_counts_and_explains_itself() -> None:
    assert PAGE.find("css{#none} else css{button} else css{#b}").attributes["id"] == "b"
    assert [e.attributes["id"] for e in PAGE.find_all("css{button} else css{#none}")] == ["a", "b"]
    with pytest.raises(NotFound, match=r"no element matches css.#none. else css.#no."):
        PAGE.find("css{#none} else css{#no}")
    told = explain(PAGE, "css{button} else css{#b}")
    assert told.found == (4,)
    assert told.notes[0] == "css{button}: 2 matches; else css{#b}: 1 match"
    assert str(told).startswith("css{button} else css{#b}: 1 match")


def test_what_has_no_else_says_so() -> None:
    both = convert("css{#a} else css{[name=n]}", "xpath")
    assert str(both) == ('xpath{(//*[@id="a"])[last()=1] | (//*[@name="n"])[last()=1][not(count(//*[@id="a"])=1)]}')
    assert match(PAGE, both) == match(PAGE, "css{#a}")
    assert match(PAGE, convert("css{#none} else css{[name=n]}", "xpath")) == match(PAGE, "css{[name=n]}")
    assert match(PAGE, convert("css{button} else css{#none}", "xpath")) == []
    with pytest.raises(LocatorError, match="no short equivalent of all these ways"):
        convert(" else ".join(["css{button} @group-of text{Off}"] * 5), "xpath")
    for form in ("annotation", "webdriver", "bidi"):
        with pytest.raises(LocatorError, match=f"{form} has no equivalent of else"):
            convert("css{#a} else css{#b}", form)


def test_fates_of_alternatives_are_those_of_every_case() -> None:
    """Against the meaning, future by future: what is matched after r releases, way by way."""
    generator = np.random.default_rng(3)
    one, other = (Fate(*generator.integers(0, 5, (3, 400))) for _ in range(2))
    both = one.or_else(other)
    for r in range(1, 5):
        for k in range(400):

            def state(fate: Fate, k: int = k, r: int = r) -> str:
                if fate.stolen[k] < r:
                    return "stolen"
                return "lost" if fate.lost[k] < r else "ambiguous" if fate.ambiguous[k] < r else "alive"

            first, second = state(one), state(other)
            wanted = first if first in ("alive", "stolen") else second if second in ("alive", "stolen") else first
            assert state(both) == wanted


def test_the_best_of_several_ways_lasts_longer_than_each() -> None:
    page = read("nights@r1")
    element = page.find("css{#visitor-name}")
    ranked = rank(element, Question(releases=3, ways=3))
    joined, plain = ranked[0], rank(element, Question(releases=3, ways=1))
    assert len(joined.locator.alternatives) in (2, 3)
    assert all(match(page, way) == [element.index] for way in joined.locator.alternatives)
    assert joined.loss < plain[0].loss
    assert all(c.locator.otherwise is None for c in plain)
    assert {str(c.locator) for c in plain} < {str(c.locator) for c in ranked}
    assert joined.interval[0] <= joined.survival <= joined.interval[1]
    assert "or else" in joined.reasons[0]
    again = assess(joined.locator, element, Question(releases=3))
    assert (again.survival, again.stolen) == (joined.survival, joined.stolen)
    futures = futures_of(page, Question(releases=3))
    fates = [fate_of(futures, dependencies(page, way, element.index), element.index) for way in joined.locator.alternatives]
    whole = fates[0]
    for fate in fates[1:]:
        whole = whole.or_else(fate)
    assert shares([whole], futures)[0][0, 2] == pytest.approx(joined.outlook.simulated[2], abs=1 / FUTURES)
    assert all(c.locator.otherwise is None for c in (portfolio(element).main, *portfolio(element, ranked=ranked).fallbacks))
    with pytest.raises(ValueError, match="at least 1 way"):
        rank(element, Question(ways=0))


def test_an_alternative_costs_what_it_steals() -> None:
    page = Page.parse(
        "<nav><a href=/stars class=star-link>Stars</a><a href=/moons class=moon-link>Moons</a></nav><p><a href=/sky>Sky</a></p>"
    )
    element, shipped = page.find("css{[href='/stars']}"), ChangeModel.shipped()
    by_words = {"text", "xpath", "role"}
    for thieves, expected in ((("class",), 1), (("text", "content", "accessible-name"), 0)):
        stolen = {kind: Rate(0.5, 0.1) for kind in thieves}
        first = rank(element, Question(model=replace(shipped, stolen=shipped.stolen | stolen), ways=2))[0].locator
        words = [way for way in first.alternatives if way.hops[-1].finder.strategy in by_words]
        assert len(first.alternatives) == 2
        assert len(words) == expected, str(first)


def test_thefts_are_expected_and_not_counted() -> None:
    element = read("nights@r1").find("css{#visitor-name}")
    one, other = (rank(element, Question(seed=seed, ways=1, releases=3)) for seed in (1, 2))
    by_locator = {c.locator: c for c in other}
    both = [(c, by_locator[c.locator]) for c in one if c.locator in by_locator]
    assert len(both) > 5
    assert all(a.stolen == pytest.approx(b.stolen, rel=1e-6) for a, b in both)
    assert any(a.survival != pytest.approx(b.survival, abs=1e-4) for a, b in both)
    assert len({round(a.stolen, 4) for a, _ in both}) > 2


def test_commands_take_and_propose_alternatives(demo: object) -> None:
    shown = run("check", "css{#guest-name} else css{#visitor-name}", "pages/nights@r1.html")
    assert shown.exit_code == 0
    assert "css{#guest-name}: no matches; else css{#visitor-name}: 1 match" in shown.output
    assert " else " in run("rank", "pages/nights@r1.html", "css{#visitor-name}", "-n", "1").output
    assert " else " not in run("rank", "pages/nights@r1.html", "css{#visitor-name}", "--ways", "1").output


def test_what_rests_on_one_fact_loses_it_at_once() -> None:
    page = read("nights@r1")
    element = page.find("text{Print the list}")
    said = ["text{Print the list}", 'xpath{//*[normalize-space()="Print the list"]}', 'role{link "Print the list"}']
    for way in said:
        assert ("text", element.index, "Print the list") in map(fact_of, dependencies(page, parse(way), element.index))
    futures = futures_of(page, Question())
    by_text, by_link = (
        fate_of(futures, dependencies(page, parse(way), element.index), element.index).lost
        for way in (said[0], 'css{[href="print.html"]}')
    )
    by_path = fate_of(futures, dependencies(page, parse(said[1]), element.index), element.index).lost
    assert np.corrcoef(by_text, by_path)[0, 1] > np.corrcoef(by_text, by_link)[0, 1] + 0.1
    field = page.find("css{#visitor-name}")
    one, two = (dependencies(page, parse(way), field.index) for way in ("css{#visitor-name}", 'css{[id="visitor-name"]}'))
    assert [fact_of(d) for d in one] == [fact_of(d) for d in two]
    several = rank(element, Question(ways=3))[0].locator.alternatives
    assert len(several) > 1
    assert all("normalize-space" not in str(way) for way in several[1:])


def test_ways_may_say_the_same_of_the_element_where_they_stand_in_different_things() -> None:
    card = "<article data-tag={0} data-star={1}><h3>{1}</h3><input name=note></article>"
    page = Page.parse("".join(card.format(*two) for two in (("near", "Vega"), ("far", "Deneb"), ("wide", "Altair"))))
    best = rank(page.find("css{[data-star=Deneb] input}"))[0].locator
    assert str(best).count("far") == 1
    assert "Deneb" in str(best)
    alone = rank(Page.parse("<main><button class=go>Send</button><button>Stay</button></main>").find("text{Send}"))[0].locator
    assert str(alone).count("Send") == 1


@pytest.mark.parametrize(
    ("markup", "second"),
    [
        ("<button aria-label=Hold></button>", ""),  # its name is what the attribute says
        ("<button aria-label=Hold title='Hold it'></button>", "title"),
        ("<button aria-label=Hold>Keep</button>", "Keep"),
    ],
)
def test_the_attribute_that_gives_a_name_and_the_name_are_one_way(markup: str, second: str) -> None:
    page = Page.parse(f"<main>{markup}<button aria-label=Ask></button></main>")
    ways = rank(page.find("css{button}#1"))[0].locator.alternatives
    assert sum("Hold" in str(way) and "title" not in str(way) for way in ways) == 1
    assert second in str(ways[-1])


def test_a_field_s_label_and_its_name_are_one_way() -> None:
    field = "<p><label>{} <input type=number></label></p>"
    page = Page.parse(f"<main>{field.format('Weight')}{field.format('Height')}</main>")
    assert [str(c.locator) for c in rank(page.find("label{Weight}"))][:2] == ["label{Weight}", 'role{spinbutton "Weight"}']


def test_no_two_fallbacks_tell_it_by_the_same() -> None:
    found = portfolio(read("nights@r1").find("css{#night-form [type=submit]}"))
    by_words = [c for c in (found.main, *found.fallbacks) if "Send booking" in str(c)]
    assert len(found.fallbacks) == 2
    assert len(by_words) == 1


def test_what_is_chosen_in_a_box_is_no_name_of_it() -> None:
    page = Page.parse(
        "<!doctype html><h2>Order</h2><div role=combobox aria-labelledby=said class=order><span id=said>By dome</span></div>"
    )
    ranked = rank(page.find("css{.order}"))
    assert ranked
    assert not [str(c) for c in ranked if "By dome" in str(c) and not c.weak]
