"""The search for the best conjunction: against trying all of them, and against what the compiled locator rests on."""

from __future__ import annotations

import functools
import itertools
import operator
from dataclasses import replace
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from conftest import read, run
from wary_hound import Page, rank
from wary_hound.authoring.question import Question
from wary_hound.authoring.rules import Rules
from wary_hound.authoring.search import LARGEST, _languages, _Weigher, search
from wary_hound.authoring.universe import Predicate, universe_of
from wary_hound.authoring.weakness import is_weak
from wary_hound.locator.evaluate import match
from wary_hound.locator.notation import parse
from wary_hound.locator.values import Locator
from wary_hound.robustness.dependence import dependencies
from wary_hound.robustness.model import ChangeModel, Rate, key_of

MODEL = ChangeModel.shipped()
PIECE = st.sampled_from(
    [
        '<li class="a b"><b name=x>Vega</b></li>',
        "<li class=a><b>Vega</b><b>Moon</b></li>",
        '<li class="b c" title=t><b name=x>Moon</b></li>',
        "<p><b class=a title=t>Vega</b></p>",
    ]
)


def loss_of(page: Page, hops: tuple[object, ...], index: int, costs: float) -> float:
    facts = dependencies(page, Locator(hops), index)  # type: ignore[arg-type]
    weigher = _Weigher(MODEL, index, costs, 1, [])
    return weigher.loss(weigher.known([*facts]))


def fits(members: list[Predicate]) -> bool:
    """At most one ancestor, one row or group and one column, and more than an ancestor; all sayable in one language."""
    places = [m.stands for m in members if m.stands != "own"]
    more = any(m.stands != "above" for m in members)
    return more and len(set(places)) == len(places) and bool(_languages(members))


def holds_idle(members: list[Predicate], index: int) -> bool:
    """Whether all but one say which it is, something of the element itself among them, and that one holds of others, too."""
    for idle in members if len(members) > 1 else ():
        rest = [member for member in members if member is not idle]
        together = functools.reduce(operator.and_, (member.bits for member in rest))
        says = any(member.stands != "above" for member in rest) and not is_weak([f for m in rest for f in m.facts], index)
        if idle.bits != 1 << index == together and says:
            return True
    return False


@settings(max_examples=40, deadline=None)
@given(st.lists(PIECE, min_size=1, max_size=5), st.integers(0, 30), st.sampled_from([1.0, 3.0, 20.0]))
def test_no_set_of_predicates_is_better_than_what_is_proven_best(pieces: list[str], pick: int, costs: float) -> None:
    page = Page.parse(f"<main><ul>{''.join(pieces)}</ul></main>")
    index = page.find_all("css{b}")[pick % len(page.find_all("css{b}"))].index
    found = search(page, index, MODEL, costs, budget=100_000)
    assert found.proven
    universe = list(universe_of(page, index, MODEL))
    weigher = _Weigher(MODEL, index, costs, 1, universe)
    losses: list[float] = []
    weak: list[float] = []
    for size in range(1, LARGEST + 1):
        for members in itertools.combinations(range(len(universe)), size):
            bits = -1
            for k in members:
                bits &= universe[k].bits
            some = [universe[k] for k in members]
            if bits == 1 << index and fits(some) and not holds_idle(some, index):
                facts = frozenset().union(*(universe[k].facts for k in members))
                loss = weigher.loss(weigher.known([*facts]))
                (weak if is_weak(facts, index) else losses).append(loss)
                assert weigher.least(weigher.known([*facts])) <= loss + 1e-9
    losses = losses or weak
    if not losses:
        assert not found.hops
        return
    assert loss_of(page, found.hops[0][0], index, costs) == pytest.approx(min(losses), abs=1e-6)


def test_what_is_found_is_unique_and_rests_on_what_was_counted() -> None:
    page = read("nights@r1")
    compared = 0
    for element in page:
        if page.tree[element.index] or element.role not in ("button", "link", "textbox", "checkbox", "cell", "heading"):
            continue
        found = search(page, element.index, MODEL, 3.0)
        assert found.proven
        for hops, _ in found.hops:
            compared += 1
            assert match(page, Locator(hops)) == [element.index]
            assert parse(str(Locator(hops))) == Locator(hops)
        losses = [loss_of(page, hops, element.index, 3.0) for hops, _ in found.hops]
        assert losses == pytest.approx(sorted(losses), abs=1e-6)
    assert compared > 200


def test_a_budget_ends_it_and_says_so() -> None:
    page = read("nights@r1")
    index = page.find("css{button[value='vega']}").index
    short = search(page, index, MODEL, 3.0, budget=5)
    assert not short.proven
    assert short.looked_at == 6
    assert sum(c.proven for c in rank(page[index])) == 1


def test_a_costlier_theft_asks_for_more() -> None:
    page = Page.parse("<ul><li><a>1</a><a>2</a></li><li><a>3</a><a>4</a></li></ul>")
    index = page.find_all("css{a}")[3].index
    hazard, key = {}, {}
    for costs in (1.0, 50.0):
        facts = dependencies(page, Locator(search(page, index, MODEL, costs).hops[0][0]), index)
        hazard[costs], key[costs] = MODEL.hazard(f.group for f in facts), key_of(facts, index)
    stolen = {c: MODEL.rate(MODEL.stolen, k).hazard for c, k in key.items()}
    assert stolen[50.0] <= stolen[1.0]
    assert hazard[50.0] >= hazard[1.0] - 1e-9


@pytest.mark.parametrize(
    ("rules", "kept", "gone"),
    [
        (Rules(only=("css",)), "css{[name=", "text{"),
        (Rules(without=("text",)), "css{", "label{"),
        (Rules(without=("id", "class", "name")), "label{Visitor name}", "#visitor-name"),
        (Rules(without=("data-*", "position", "relation")), "label{Visitor name}", "@row-of"),
    ],
)
def test_house_rules_leave_out_what_they_name(rules: Rules, kept: str, gone: str) -> None:
    element = read("nights@r1").find("label{Visitor name}")
    free, ruled = ([str(c) for c in rank(element, Question(rules=r))] for r in (Rules(), rules))
    assert any(kept in text for text in ruled)
    assert any(gone in text for text in free)
    assert not any(gone in text for text in ruled)
    assert not any("@" in text.partition("{")[0] for text in ruled)


def test_a_preferred_attribute_comes_first_where_it_costs_little() -> None:
    page = Page.parse("<main><h1>Nights</h1><button id=hold data-night=vega>Hold Vega</button><button>Cancel</button></main>")
    element = page.find("text{Hold Vega}")
    assert "data-night" not in str(rank(element)[0].locator.alternatives[0])
    assert "data-night" in str(rank(element, Question(rules=Rules(prefer=("data-*",))))[0].locator.alternatives[0])
    assert not rank(element, Question(rules=Rules(only=("label",))))


def test_what_a_wrong_match_costs_is_the_users_to_say(demo: Path) -> None:
    element = read("nights@r1").find("text{Print the list}")
    cheap, dear = (rank(element, Question(releases=3, stolen_costs=costs)) for costs in (1.0, 40.0))
    assert dear[0].stolen < cheap[0].stolen
    assert dear[0].loss == pytest.approx(dear[0].lost + dear[0].ambiguous + 40 * dear[0].stolen)
    shown = run("rank", "pages/nights@r1.html", "text{Print the list}", "--stolen-costs", "40")
    assert "weighs 40 times" in shown.output
    assert all(str(way) in shown.output for way in dear[0].locator.alternatives)
    with pytest.raises(ValueError, match="at least"):
        rank(element, Question(stolen_costs=0.5))


@pytest.mark.parametrize("costs", [1.0, 3.0, 20.0])
def test_nothing_is_cut_that_could_still_be_better(costs: float) -> None:
    """The bound holds for every set, also where a position guarded by a text is what others steal least."""
    model = replace(MODEL, ambiguous={**MODEL.ambiguous, "guarded/content": Rate(1e-4, 0.5)})
    page = Page.parse("<main><p><b>Vega</b><b>Moon</b></p><p><b>Moon</b><b>Vega</b></p></main>")
    index = page.find_all("css{b}")[1].index
    universe = list(universe_of(page, index, model))
    weigher = _Weigher(model, index, costs, 1, universe)
    keys = set()
    for size in range(1, LARGEST + 1):
        for members in itertools.combinations(universe, size):
            facts = weigher.known([fact for m in members for fact in m.facts])
            keys.add(weigher.key(facts))
            assert weigher.least(facts) <= weigher.loss(facts) + 1e-12
    assert "guarded/content" in keys


SKY = """<main><header><p>Ada Marsh keeps this</p></header>
<section><img alt="Milky Way"><select><option>North<option>South</select></section><section><select><option>1</select></section>
<p><span class=hour>22</span><span></span><span></span></p>
<div><b>waiting</b><button>Let go</button><button>Let go</button></div>
<div role=menuitem>&nbsp;<i></i><span>Superscript</span></div>
<p class=note>In all, 14 nights were booked by the planners of the north dome this year.</p>
<label>Visitor name <input></label><label>Telephone <input></label>
<table><tr><td>args<td>(103,)</table><dl><dt>Stars<dd>7<dt>Moons<dd>3</dl>
<a class="tool tool-csv" href="#"><i>Fetch</i> all</a><a class="tool tool-pdf" href="#"><i>Fetch</i> all</a></main>"""


@pytest.mark.parametrize(
    ("element", "said"),
    [
        ("css{section:first-of-type select}", '//section[.//*[@alt="Milky Way"]]//select'),
        ("css{.hour + span}", '//*[contains(concat(" ", normalize-space(@class), " "), " hour ")]/following-sibling::span[1]'),
        ("css{b + button}", '//b[normalize-space()="waiting"]/following::button[1]'),
        ("css{[role=menuitem]}", '//*[@role="menuitem"][contains(., "Superscript")]'),
        ("css{.note}", '//p[contains(., "nights were booked")]'),
        ("css{label:first-of-type input}", '//label[normalize-space()="Visitor name"]//input'),
        ("text{(103,)}", '//td[normalize-space()="args"]/following-sibling::td'),
        ("css{dd:first-of-type}", '//dt[normalize-space()="Stars"]/following-sibling::dd[1]'),
        ("css{.tool-pdf}", '//a[contains(concat(" ", normalize-space(@class), " "), " tool-pdf ")][normalize-space()="Fetch all"]'),
    ],
)
def test_xpath_says_what_engineers_say_in_it(element: str, said: str) -> None:
    page = Page.parse(SKY)
    index = page.find(element).index
    offered = [str(c) for c in rank(page[index], Question(rules=Rules(only=("xpath",)))) if c.locator.otherwise is None]
    assert f"xpath{{{said}}}" in offered
    assert match(page, f"xpath{{{said}}}") == [index] == match(page, f"css{{main}} -> xpath{{.{said}}}")


def test_a_part_of_a_text_is_of_one_element() -> None:
    dialog = "<div role=dialog><h2>Look over</h2> <button>Close this now</button> <p>2031</p></div><div role=dialog>Other</div>"
    page = Page.parse(dialog)
    offered = [str(c) for c in rank(page.find("css{[role=dialog]:first-of-type}"))]
    assert offered
    assert not any("over Close" in said for said in offered if "contains" in said)


@pytest.mark.parametrize(
    ("css", "xpath"),
    [
        ('section:has([alt="Milky Way"]) select', '//section[.//*[@alt="Milky Way"]]//select'),
        (".hour + span", '//*[contains(concat(" ", normalize-space(@class), " "), " hour ")]/following-sibling::span[1]'),
        ("main .tool-pdf", '//main//*[contains(concat(" ", normalize-space(@class), " "), " tool-pdf ")]'),
    ],
)
def test_what_is_said_in_two_languages_rests_on_the_same(css: str, xpath: str) -> None:
    page = Page.parse(SKY)
    [index] = match(page, f"css{{{css}}}")
    one, other = (frozenset(dependencies(page, parse(text), index)) for text in (f"css{{{css}}}", f"xpath{{{xpath}}}"))
    assert one == other


def test_the_first_behind_a_text_is_what_comes_next() -> None:
    page = Page.parse(SKY)
    looked = {
        "//b[.='waiting']/following::button[1]": "after",
        "//td[.='args']/following-sibling::td": "row-of",
        "//dt[.='Stars']/following-sibling::dd[1]": "row-of",
        "//b[.='waiting']/following-sibling::button[1]": "adjacent",
        "//b[.='waiting']/following-sibling::button[2]": "place",
    }
    for text, kind in looked.items():
        [index] = match(page, f"xpath{{{text}}}")
        facts = dependencies(page, parse(f"xpath{{{text}}}"), index)
        assert kind in {fact.kind for fact in facts}, text
        assert ("place" in {fact.kind for fact in facts}) == (kind == "place"), text
        assert is_weak(facts, index) == (kind != "row-of"), text
    [last] = match(page, "css{.tool-pdf}")  # rests on the one before it, and not on itself, that reads the same
    facts = dependencies(page, parse("xpath{//a[.='Fetch all']/following-sibling::a}"), last)
    assert {fact.element for fact in facts if fact.kind == "content"} == {match(page, "css{.tool-csv}")[0]}


def test_an_ancestor_that_is_a_landmark_says_where() -> None:
    page = Page.parse(SKY)
    first = rank(page.find("css{header p}"), Question(rules=Rules(only=("css",))))[0]
    assert (str(first), first.weak) == ("css{header p}", True)  # any words may come there
    controlled = Page.parse("<body><header><button>EN<i></i></button></header><main><button>DE</button><p>Vega")
    first = rank(controlled.find("css{header button}"), Question(rules=Rules(only=("css",))))[0]
    assert (str(first), first.weak) == ("css{header button}", False)
    [index] = match(page, "css{dl dd:last-of-type}")
    assert is_weak(dependencies(page, parse("css{main > dl > dd + dt + dd}"), index), index)


def test_a_row_told_by_an_attribute_may_stand_behind_else() -> None:
    row = '<tr data-star={0}><td><input placeholder="Word to {0}"><td><i>{0}</i></tr>'
    page = Page.parse("<table>" + "".join(map(row.format, ("vega", "mira"))) + "</table>")
    first = rank(page.find("css{[data-star=mira] input}"), Question(rules=Rules(only=("css",))))[0]
    assert [str(way) for way in first.locator.alternatives] == [
        'css{[placeholder="Word to mira"]}', 'css{tr[data-star="mira"] input}',
    ]  # fmt: skip


HELD = """<main><div role=tablist><div role=tab id=tab-0><div><span data-sheet=nights>Nights</span></div></div>
<div role=tab id=tab-1><div><span data-sheet=stars>Stars</span></div></div></div>
<div role=menu><div role=menuitem><i class="sky sky-hold"></i><b>Hold</b></div>
<div role=menuitem><i class="sky sky-ask"></i><b>Ask</b></div></div>
<section class=cards><div class=card><p>Vega</p><button class=send type=submit>Send</button><button>Drop</button></div>
<div class=card><p>Mira</p><button class=send type=submit>Send</button><button>Drop</button></div></section></main>"""


@pytest.mark.parametrize(
    ("path", "first", "weak"),
    [
        ("#tab-1", 'css{[role="tab"]:has([data-sheet="stars"])}', False),
        ("[role=menuitem]:last-child", 'css{[role="menuitem"]:has(.sky-ask)}', False),
        (".card:last-child .send", 'css{div.card:nth-of-type(2) button[type="submit"]}', True),
    ],
)
def test_what_css_cannot_read_is_told_by_what_it_holds_or_by_its_card(path: str, first: str, weak: bool) -> None:
    element = Page.parse(HELD).find(f"css{{{path}}}")
    best = rank(element, Question(rules=Rules(only=("css",))))[0]
    assert (str(best), best.weak) == (first, weak)


def test_the_second_button_of_a_card_is_told_by_both_places() -> None:
    ranked = rank(Page.parse(HELD).find("css{.card:first-child button:last-child}"), Question(rules=Rules(only=("css",))))
    assert "css{div.card:nth-of-type(1) button:nth-of-type(2)}" in [str(one) for one in ranked]


def test_a_card_without_a_class_is_told_by_what_holds_it() -> None:
    page = Page.parse(HELD.replace("<div class=card>", "<div>"))
    ranked = rank(page.find_all("css{.send}")[1], Question(rules=Rules(only=("css",))))
    assert 'css{.cards > div:nth-of-type(2) button[type="submit"]}' in [str(one) for one in ranked]
