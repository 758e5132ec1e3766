"""Each likeness on its own, of elements at hand and of remembered ones, and what becomes of them together."""

from __future__ import annotations

import math
import random
import runpy
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from conftest import read
from wary_hound import Page, align, fingerprint, relocate, relocate_all
from wary_hound.demo.tour import demo_folder
from wary_hound.healing import likeness, relocation
from wary_hound.healing.alignment import Aligning
from wary_hound.healing.context import Context
from wary_hound.healing.fingerprint import Fingerprint
from wary_hound.healing.forest import Forest
from wary_hound.healing.hiding import without_sure
from wary_hound.healing.judge import believed, contradicted, gather, shipped
from wary_hound.healing.likeness import FEATURES, OWN, Likeness, sole
from wary_hound.healing.said import lasting_classes
from wary_hound.healing.sheet import Memory, Sheet
from wary_hound.healing.witnesses import votes, witnesses
from wary_hound.measuring.history import read_histories

OLD = """<main><h2>Nights</h2><form id=f><label for=n>Name</label><input id=n name=visitor type=text value=Ada class='big is-open'
data-k=1 autocomplete=name><button>Send</button><a href='/x'>More</a></form></main>"""


def compared(new: str, locator: str = "css{input}", old: str = OLD, pick: str = "css{input}") -> dict[str, float]:
    page, later = Page.parse(old), Page.parse(new)
    at = np.asarray([page.find(pick).index]), np.asarray([later.find(locator).index])
    row = Likeness(Sheet.of(page), Sheet.of(later)).own(*at)[0]
    return dict(zip(OWN, row.tolist(), strict=True))


def remembered(new: str, locator: str = "css{input}", old: str = OLD, pick: str = "css{input}") -> dict[str, float]:
    later = Page.parse(new)
    memory = Memory([fingerprint(Page.parse(old).find(pick))])
    row = Likeness(memory, Sheet.of(later)).own(np.asarray([0]), np.asarray([later.find(locator).index]))[0]
    return dict(zip(OWN, row.tolist(), strict=True))


def test_an_unchanged_element_is_alike_in_all_that_is_known() -> None:
    page = Page.parse(OLD)
    for element in page.find_all("css{body, body *}"):
        at = np.asarray([element.index])
        row = Likeness(Sheet.of(page), Sheet.of(page)).own(at, at)[0]
        known = ~np.isnan(row)
        assert np.allclose(row[known & (np.asarray(OWN) != "rarity")], 1)
        memory = Likeness(Memory([fingerprint(element)]), Sheet.of(page)).own(np.asarray([0]), at)[0]
        both = known & ~np.isnan(memory) & (np.asarray(OWN) != "rarity")
        assert np.allclose(memory[both], row[both])
        assert (np.isnan(row) <= np.isnan(memory)).all()


@pytest.mark.parametrize(
    ("change", "feature", "least", "most"),
    [
        (("id=n ", "id=visitor "), "id", 0.0, 0.5),
        (("id=n ", ""), "id", 0.0, 0.0),
        (("name=visitor", "name=guest"), "name-attribute", 0.0, 0.5),
        (("value=Ada", "value=Adam"), "value", 0.3, 0.6),
        (("type=text", "type=email"), "type", 0.0, 0.5),
        (("data-k=1", "data-k=2"), "test-attribute", 0.2, 0.2),
        (("data-k=1", ""), "test-attribute", 0.0, 0.0),
        (("autocomplete=name", "autocomplete=off"), "other-attributes", 0.2, 0.2),
        (("'big is-open'", "big"), "classes", 1.0, 1.0),
        (("'big is-open'", "'big new'"), "classes", 0.5, 0.5),
        (("'big is-open'", "small"), "classes", 0.0, 0.0),
        ((">Name<", ">Your name<"), "name", 0.4, 0.95),
        ((">Name<", ">Your name<"), "name-equal", 0.0, 0.0),
        ((">Name<", ">Your name<"), "within", 1.0, 1.0),
        ((">Name<", ">Whose<"), "within", 0.0, 0.6),
        ((">Name<", ">NAME \u200b\u00b6<"), "name-equal", 1.0, 1.0),
        ((">Name<", ">Your name<"), "label", 0.4, 0.95),
        ((">Name<", ">Your name<"), "before", 0.4, 0.95),
        ((">Send<", ">Go on<"), "after", 0.0, 0.5),
        (("<h2>Nights", "<h2>Book"), "heading", 0.0, 0.5),
        (("<form id=f>", "<form id=g>"), "trail-ids", 0.0, 0.0),
        (("<form id=f>", "<form id=f><div>"), "trail", 0.5, 0.95),
        (("<form id=f>", "<form id=f><input type=hidden>"), "sibling", 0.5, 0.5),
        (("<main>", "<main hidden>"), "shown", 0.0, 0.0),
        (("<form id=f>", "<form id=f><p>Your visit</p>"), "order", 1.0, 1.0),
    ],
)
def test_one_change_moves_its_feature(change: tuple[str, str], feature: str, least: float, most: float) -> None:
    assert change[0] in OLD
    locator = "css{input}#2" if "hidden>" in change[1] and "input" in change[1] else "css{input}"
    row = compared(OLD.replace(*change), locator)
    assert least - 1e-6 <= row[feature] <= most + 1e-6
    same = compared(OLD)
    assert same[feature] == 1.0


@pytest.mark.parametrize("feature", ["id", "name", "label", "before", "heading", "trail-ids", "classes", "other-attributes"])
def test_what_is_remembered_compares_like_what_is_at_hand(feature: str) -> None:
    new = OLD.replace("id=n ", "id=visitor ").replace("for=n>Name", "for=visitor>Your name").replace("<h2>Nights", "<h2>Book")
    assert remembered(new)[feature] == compared(new)[feature]


def test_rows_are_told_by_what_stands_in_them() -> None:
    def table(*names: str) -> str:
        rows = "".join(f"<tr><td>{n}</td><td>12</td><td><button>Hold</button></td></tr>" for n in names)
        return f"<table><tr><th>Night</th><th>Places</th><th></th></tr>{rows}</table>"

    old, new = table("Vega", "Saturn", "Moon"), table("Comet", "Vega", "Moon")
    there = compared(new, "css{tr:nth-child(3) button}", old, "css{tr:nth-child(2) button}")
    other = compared(new, "css{tr:nth-child(2) button}", old, "css{tr:nth-child(2) button}")
    assert (there["identity"], other["identity"]) == (1.0, 0.0)
    assert (there["apart"], other["apart"]) == (1.0, 0.0)
    cell = compared(new, "css{tr:nth-child(3) td:nth-child(2)}", old, "css{tr:nth-child(2) td:nth-child(2)}")
    assert (cell["column"], cell["number"]) == (1.0, 1.0)
    assert math.isnan(cell["text-equal"])
    later = Page.parse(new)
    verdict = relocate(Page.parse(old).find("css{tr:nth-child(2) button}"), later)
    assert verdict.element == later.find("css{tr:nth-child(3) button}")


def test_what_is_called_or_says_what_nothing_else_does_is_known_from_each_page() -> None:
    page = Page.parse(
        "<main><h2>Nights</h2><p>Nights <b>of</b> August</p><ul><li>Vega<li><b>Saturn</b><li>12</ul><button>Hold</button>"
        "<a aria-label='Hold now'>Hold</a><label>Seats <input></label><label for=x>Name</label><input id=x><button>Go</button>"
        "<button>GO \u00b6</button></main>"
    )
    assert [said for said in Sheet.of(page).column("sole") if said] == [  # Saturn is said by two, figures come and go
        "says nights", "says nights of august", "says of", "says vega saturn 12", "says vega", "called hold", "called hold now",
        "says seats", "called seats", "says name", "called name",
    ]  # fmt: skip
    for element in page.find_all("css{main *}"):
        memory = Memory([Fingerprint.from_json(fingerprint(element).to_json())])
        assert memory.column("sole") == [Sheet.of(page).column("sole")[element.index]]


@pytest.mark.parametrize("twin", ["", "<aside><button>Cancel</button></aside>"])
def test_the_only_one_called_so_is_believed_where_the_trees_are_not_sure(twin: str) -> None:
    old = Page.parse(
        "<div class=mx><div class=bar><b>Hold a place</b></div><table><tr><td><i>Night</i><td><input value=Vega></table>"
        "<div class=mx-foot><div><button id=mx_44>Ok</button></div><div><button id=mx_45>Cancel</button></div></div></div>"
    )
    new = Page.parse(
        "<header><h1>Observatory</h1></header><dialog open><h2>Booking</h2><label>Which night <select><option>Vega</select></label>"
        f"<footer><button type=button aria-label=Cancel class=ui-button--quiet>Cancel</button></footer></dialog>{twin}"
    )
    judge = replace(shipped()[0], sole=0.999)
    aligning = Aligning(old, new, judge.first, judge.later)
    aligning.run()
    number = old.find("css{#mx_45}").index
    found = gather(aligning.looking_everywhere(np.asarray([number])), np.asarray([number]))
    plain, told = (replace(judge, sole=sole).probabilities(found) for sole in (0.0, judge.sole))
    mine = found.b == new.find('css{[aria-label="Cancel"]}').index
    assert 0.1 < plain[mine] < 0.999
    assert told[mine] == (plain[mine] if twin else 0.999)
    assert (told[~mine] == plain[~mine]).all()
    everywhere = judge.probabilities(replace(found, sole=np.ones(len(found.a), np.bool_)))
    assert (plain <= 0.1).any()
    assert (everywhere[plain <= 0.1] < 0.1).all(), "what the trees call gone stays gone"
    why = relocate(old[number], new).reasons
    assert (why[0] == 'nothing else on either page is called "Cancel"') == (twin == "")


def test_what_was_one_in_the_other_may_be_one_now() -> None:
    tool = '<div role=menuitem class=mx-tool><button role=presentation><i class="mx-{0}"></i>{1}</button></div>'
    old = Page.parse("".join(tool.format(*one) for one in (("hold", "Hold"), ("ask", "Ask"), ("drop", "Drop"))))
    bar = "<header><h1>Observatory</h1></header><nav>{}</nav>"
    one = "".join(f"<button type=button class=ui-tool aria-pressed=false>{word}</button>" for word in ("Ask", "Hold", "Drop"))
    new = Page.parse(bar.format(one))
    asked = [old.find("css{.mx-tool}#1"), old.find("css{button}#1"), old.find("css{button}#3")]
    there = [new.find(f"text{{{word}}}").index for word in ("Hold", "Hold", "Drop")]
    pages = Likeness(Sheet.of(old), Sheet.of(new))
    assert sole(pages, np.asarray([e.index for e in asked]), np.asarray(there)).all()
    verdicts = relocate_all(asked, new)
    assert [v.element.index if v.element else None for v in verdicts] == there
    assert all(v.outcome == "moved" for v in verdicts)
    nested = Page.parse(bar.format(one.replace("<button", "<div role=menuitem><button").replace("</button>", "</button></div>")))
    now = [nested.find(f"css{{{kind}}}#2").index for kind in ("[role=menuitem]", "button")]
    pages = Likeness(Sheet.of(old), Sheet.of(nested))
    mine = [[bool(sole(pages, np.asarray([e.index]), np.asarray([b]))[0]) for b in now] for e in asked[:2]]
    assert mine == [[True, False], [False, True]], "where both are still there each has become itself"


@pytest.mark.parametrize(
    ("old", "new", "asked", "there", "why"),
    [
        (  # of its role, by its name: a button is called so, too
            "<div role=combobox aria-label=Star>Vega</div><button>Star</button>",
            "<button>Star</button><section><h3>Star</h3><p><input role=combobox aria-label=Star value=Vega></p></section>",
            "css{[role=combobox]}",
            "css{input}",
            'no other combobox on either page is called "Star"',
        ),
        (  # of its tag, by its text: what is in it says the same
            "<table><tr><th aria-label='Hours: sort'>Hours<th>Star</table>",
            "<table class=x><tr class=y><th class=z><div><span>Hours</span></div><th><div><span>Star</span></div></table>",
            "css{th}#1",
            "css{th}#1",
            'no other <th> on either page says "Hours"',
        ),
        (  # of its tag, by the words directly in it: what else it holds has changed, and a link says the same
            "<p><a href=/s>Seeing</a><label>Seeing <b>good</b></label></p>",
            "<p><a href=/sky>Seeing</a></p><section><div><label class=q>Seeing <i>or</i><em>not</em></label></div></section>",
            "css{label}",
            "css{label}",
            'no other <label> on either page itself says "Seeing"',
        ),
    ],
)
def test_the_only_one_of_its_kind_is_told_by_what_it_is_called_or_says(
    old: str, new: str, asked: str, there: str, why: str
) -> None:
    page, later = Page.parse(old), Page.parse(new)
    element, found = page.find(asked), later.find(there)
    pages = Likeness(Sheet.of(page), Sheet.of(later))
    others = np.asarray([i for i in range(len(later)) if i != found.index])
    assert sole(pages, np.asarray([element.index]), np.asarray([found.index])).all()
    assert not sole(pages, np.full(len(others), element.index), others).any()
    assert relocation._alone_in(element, later, found.index) == why
    twin = Page.parse(new + new)
    assert not sole(Likeness(Sheet.of(page), Sheet.of(twin)), np.asarray([element.index]), np.asarray([found.index])).any()


def test_a_link_that_is_known_by_where_it_leads_is_not_said_to_be_the_only_one_of_its_words() -> None:
    old = Page.parse("".join(f"<p>{star}</p><a href=/{star}>More</a>" for star in ("vega", "mira")))
    new = Page.parse("".join(f"<li><i>{star}</i><a class=x href=/{star}>More</a>" for star in ("mira", "vega")))
    element, found = old.find("css{[href='/vega']}"), new.find("css{[href='/vega']}")
    assert relocation._alone_in(element, new, found.index) == 'nothing else on either page leads to "/vega"'


MENU = """<main><button aria-label=Bold><span><svg></svg></span></button><button aria-label=Italic><span><svg></svg></span></button>
<select aria-label=Scope><option>Dune<option>Heron</select><a href='http://x.example/docs/'>Docs</a><a href='#'>Top</a></main>"""


def test_what_leads_to_the_same_leads_to_the_same() -> None:
    for address, least, most in (("https://x.example/docs", 1, 1), ("https://x.example/docs/2", 0, 0.9)):
        row = compared(MENU.replace("http://x.example/docs/", address), "css{a}#1", MENU, "css{a}#1")
        assert least <= row["href"] <= most
    old = Page.parse(MENU)
    moved = "<main><a href='https://x.example/docs'>Documentation</a><a href='#'>Top</a><a href='/x'>Docs, old</a></main>"
    new = Page.parse(moved)
    pages = Likeness(Sheet.of(old), Sheet.of(new))
    one = np.asarray([old.find("css{a}#1").index])
    assert sole(pages, one, np.asarray([new.find("css{a}#1").index])).all()
    assert not sole(pages, one, np.asarray([new.find("css{a}#3").index])).any()
    new = Page.parse(moved.replace("/x'", "//x.example/docs/'"))
    assert not sole(Likeness(Sheet.of(old), Sheet.of(new)), one, np.asarray([new.find("css{a}#1").index])).any()


def test_what_is_said_in_another_form_is_said_by_the_same_words() -> None:
    icons = "".join(f'<button class="tool"><i class="sky sky-{word}"></i></button>' for word in ("hold", "ask", "drop"))
    names = "".join(f'<button class="tool-item sky" title="{word} it"></button>' for word in ("Hold", "Ask", "Drop"))
    marks = "".join(f'<a class="tool-item" data-does="{word}-night"></a>' for word in ("hold", "ask", "drop"))
    for new, which in ((names, "css{[title^=Hold]}"), (marks, "css{[data-does^=hold]}")):
        for way in (compared, remembered):
            same, other = (way(new, which, icons, f"css{{button:{at}-child}}")["terms"] for at in ("first", "last"))
            assert same > max(0.6, 1.5 * other)  # "sky" and "tool" are said by all
    assert math.isnan(compared("<b></b>", "css{b}", "<b></b>", "css{b}")["terms"])


def test_words_that_mean_the_same_are_the_same_words() -> None:
    icons = "".join(f'<button><i class="icon-{word}"></i></button>' for word in ("trash", "cog", "moon"))
    names = "".join(f"<button title='{word} night'></button>" for word in ("Delete", "Settings of", "Watch"))
    said = [compared(names, f"css{{button}}#{n}", icons, "css{button}#1")["terms"] for n in (1, 2, 3)]
    assert said[0] > 0.4
    assert max(said[1:]) < 0.1


@pytest.mark.parametrize("way", [compared, remembered])
def test_a_hint_is_no_part_of_a_name(way: Any) -> None:
    old = "<table><th aria-label='Hours: activate to sort'>Hours</table>"
    new = "<table><th><div>Hours<span role=button aria-label='Hours: Activate to remove sorting'></span></div></table>"
    assert way(new, "css{th}", old, "css{th}")["name-equal"] == 1
    keys = way("<button title='Hold'></button>", "css{button}", "<button title='Hold - [alt-H]'></button>", "css{button}")
    assert keys["name-equal"] == 1
    others = way("<button title='Night: Mira'></button>", "css{button}", "<button title='Night: Vega'></button>", "css{button}")
    assert others["name-equal"] == 0


def test_a_control_that_is_alone_in_a_named_box_is_called_so() -> None:
    old = "<div role=button aria-label=Undo><button role=presentation><i></i></button></div>"
    row = compared("<button aria-label=Undo><i></i></button>", "css{button}", old, "css{button}")
    assert row["name-equal"] == 1
    two = old.replace("</div>", "<b></b></div>")
    assert compared("<button aria-label=Undo></button>", "css{button}", two, "css{button}")["name-equal"] == 0


@pytest.mark.parametrize("way", [compared, remembered])
def test_another_figure_says_nothing_but_of_what_is_called_by_it(way: Any) -> None:
    read = {tag: way(f"<{tag}>2189</{tag}>", f"css{{{tag}}}", f"<{tag}>957</{tag}>", f"css{{{tag}}}") for tag in ("b", "button")}
    told = ("text", "own-text", "number", "within")
    assert all(math.isnan(read["b"][feature]) for feature in told)
    assert not any(math.isnan(read["button"][feature]) for feature in told)
    same = way("<b>957</b>", "css{b}", "<b>957</b>", "css{b}")
    assert same["text"] == same["number"] == 1


@pytest.mark.parametrize(
    ("old", "new", "sure"),
    [
        ("<h2>Nights</h2>", "<h2>Nights</h2>", True),
        ("<h2>Nights</h2>", "<h2><button>Nights</button></h2>", False),
        ("<h2><button>Nights</button></h2>", "<h2><button><b>Nights</b></button></h2>", True),
        ("<table><tr><th>Nights</table>", "<table><tr><th><a href=/n>Nights</a></table>", True),  # a cell is a place
        ("<h2>Nights</h2>", "<h2>Nights <button>Fold</button></h2>", True),
    ],
)
def test_where_a_control_that_says_the_same_has_come_in_it_either_could_be_meant(old: str, new: str, sure: bool) -> None:
    around = "<main><p>Dome</p>{}<p>Vega is up</p><form><input name=star></form></main>"
    page, later = Page.parse(around.format(old)), Page.parse(around.format(new))
    verdict = relocate(page.find("css{h2, th}"), later)
    assert (verdict.outcome in ("same", "moved")) is sure
    if not sure:
        assert verdict.outcome == "unsure"
        assert verdict.element is not None
        assert verdict.reasons[0].endswith("either could be meant")
        assert page.find("css{h2}") in align(page, later).image, "a comparison tells it as there again"
        assert {verdict.element.tag, *(e.tag for e, _ in verdict.alternatives)} >= {"h2", "button"}


def test_what_is_alone_in_its_name_and_another_that_the_trees_are_sure_of_contradict_each_other() -> None:
    chance, alone, group = np.asarray([0.95, 0.4, 0.5, 0.4]), np.asarray([False, True, False, True]), np.asarray([7, 7, 8, 8])
    assert contradicted(chance, alone, group).tolist() == [True, True, False, False]
    assert believed(chance, alone, 0.99, group).tolist() == [0.95, 0.4, 0.5, 0.99]


def test_its_own_page_is_asked_for_witnesses_of_what_is_not_surely_found(monkeypatch: pytest.MonkeyPatch) -> None:
    asked: list[Sequence[Any]] = []

    def heard(ways: Sequence[Any], page: Page) -> tuple[int, ...]:
        asked.append(ways)
        return votes(ways, page)

    monkeypatch.setattr(relocation, "votes", heard)
    page, other = Page.parse(OLD), Page.parse(OLD.replace("<button>Send", "<p><a id=go>Apply").replace("</button>", "</a></p>"))
    button = page.find("css{button}")
    relocate(button, Page.parse(OLD))
    assert not any(asked)
    relocate(button, other)
    assert [str(way) for way in witnesses(button)] == [str(way) for way in next(ways for ways in asked if ways)]
    asked.clear()
    relocate(button, other, ways=["css{#go}"])
    assert [list(ways) for ways in asked] == [["css{#go}"]]


def test_another_tag_or_role_is_told() -> None:
    other = OLD.replace("<input", "<textarea").replace("autocomplete=name>", "autocomplete=name></textarea>")
    row = compared(other, "css{textarea}")
    assert (row["tag"], row["role"]) == (0.0, 1.0)
    assert compared(OLD, "css{button}")["role"] == pytest.approx(0.4)
    assert compared(OLD, "css{h2}")["role"] == 0.0


def test_what_neither_side_knows_is_not_counted() -> None:
    row = compared("<p>x</p>", "css{p}", "<p>x</p>", "css{p}")
    for feature in ("id", "href", "value", "label", "box", "row", "classes", "test-attribute"):
        assert math.isnan(row[feature]), feature


def test_generated_ids_count_for_little() -> None:
    old = "<p id=u6996538>x</p>"
    assert math.isnan(compared("<p id=u1234567>x</p>", "css{p}", old, "css{p}")["id"])
    assert compared(old, "css{p}", old, "css{p}")["id"] == 1.0


def test_states_are_no_lasting_classes() -> None:
    assert lasting_classes("big is-open active btn") == "big\nbtn"


def test_boxes_count_where_both_are_known() -> None:
    old, new = read("nights@r1"), read("nights@r2")
    element = old.find("css{#visitor-name}")
    there = np.asarray([new.find("css{#visitor-name}").index, new.find("css{#telescope}").index])
    rows = Likeness(Sheet.of(old), Sheet.of(new)).own(np.repeat(element.index, 2), there)
    at = OWN.index("box")
    assert rows[0, at] > 0.99
    assert rows[0, at] > rows[1, at]


def test_context_of_an_element() -> None:
    page = read("nights@r1")
    context = Context.of(page)
    button = page.find('role{button "Hold this night"} @row-of text{Saturn}').index
    assert context.before[button] == "8"
    assert context.after[button] == "Andromeda"
    assert context.heading[button] == "Open nights"
    assert context.row(button) == "Saturn Fri 15 Aug Lantern, 60 cm 8"
    assert context.trail(button)[:5] == ("td", "tr", "tbody", "table#nights", "section")
    deep = read("nights@r4")
    zoom = deep.find("shadow css{sky-dial} -> css{button}#3").index
    assert "sky-dial" in Context.of(deep).trail(zoom)


@pytest.mark.parametrize(
    ("new", "outcome"),
    [
        (OLD, "same"),
        (OLD.replace("<form id=f>", "<form id=f><div>"), "moved"),
        (OLD.replace("id=n ", "id=guest ").replace("for=n>", "for=guest>"), "moved"),
        ("<main><p>Closed for the winter</p></main>", "gone"),
    ],
)
def test_outcomes_on_a_small_page(new: str, outcome: str) -> None:
    page = Page.parse(OLD)
    verdict = relocate_all([page.find("css{input}"), page.find("css{button}"), page.find("css{a}")], Page.parse(new))[0]
    assert verdict.outcome == outcome
    assert (verdict.element is None) == (outcome == "gone")
    if outcome == "moved":
        assert verdict.element is not None
        assert verdict.element.tag == "input"


def test_alternatives_are_named_with_their_chances() -> None:
    rows = "".join(f"<tr><td>{n}</td><td><button>Hold</button></td></tr>" for n in ("Vega", "Saturn", "Moon"))
    page = Page.parse(f"<table>{rows}</table>")
    later = Page.parse(f"<table>{rows.replace('Saturn', 'Jupiter')}</table>")
    verdict = relocate(page.find("css{button}#2"), later)
    assert verdict.element is not None
    assert verdict.element.index not in [e.index for e, _ in verdict.alternatives]
    assert all(0 < chance <= 1 for _, chance in verdict.alternatives)


def test_hidden_facts_are_those_of_the_right_one_alone() -> None:
    old, judge = read("nights@r1"), shipped()[0]
    aligning = Aligning(old, old, judge.first, judge.later)
    aligning.run()
    before = aligning.table.copy()
    heard = 0
    for where in ("css{#visitor-name}", "css{button[value=vega]}", "css{#booking-status}"):
        index = old.find(where).index
        sure = gather(aligning, np.asarray([index]))
        for kind in map(str, range(12)):
            for number, one in without_sure(aligning, {index: index}, kind):
                was = sure.table[int(np.flatnonzero(sure.b == index)[0]), : len(FEATURES)]
                now = one.table[int(np.flatnonzero(one.b == index)[0]), : len(FEATURES)]
                assert number == index
                assert np.array_equal(np.isnan(was), np.isnan(now))
                assert (now <= was + 1e-6)[~np.isnan(was)].all()
                assert (was - now > 0.5).any()
                assert not one.sole.any()
                assert now[FEATURES.index("terms")] <= 0.4  # the words of what is hidden are among them
                heard += 1
    assert heard > 20
    assert np.array_equal(before, aligning.table, equal_nan=True)  # the alignment itself is left as it was


def test_on_pages_of_other_applications_all_is_gone(tmp_path: Path) -> None:
    script = runpy.run_path(str(Path(__file__).parent.parent / "scripts" / "learn_relocation.py"))
    nights, held = read_histories(demo_folder() / "pages")[:2]
    pairs = list(script["Foreign"].pairs([replace(nights, application="dome"), replace(held, application="tide")]))
    assert [(p.application, p.other) for p in pairs] == [("dome", "tide"), ("tide", "dome")]
    judge = shipped()[0]
    for pair in pairs:
        heard = script["hear"](pair, "aligned", judge.first, judge.later, script["vote"](pair))
        assert 10 < len(heard) <= 24
        assert {(one.taken, one.gone, one.right) for one in heard} == {("foreign", True, -1)}
        assert all(one.within(["dome", "tide"]) and not one.within(["dome"]) for one in heard)
        assert all(one.apart_from(["moon"]) and not one.apart_from(["tide"]) for one in heard)
        assert script["choices"](pair, "aligned", judge.first, judge.later) == []


@pytest.mark.parametrize("leaves", [2, 15, 40])
def test_trees_give_what_a_row_that_is_led_down_each_of_them_gets(leaves: int) -> None:
    chance = random.Random(leaves)
    nodes: list[list[Any]] = []  # feature, threshold, left, right, unknown left, value

    def grown(many: int) -> int:
        at = len(nodes)
        nodes.append([0, 0.0, at, at, False, chance.uniform(-1, 1)])
        if many > 1:
            left = chance.randrange(1, many)
            value = round(chance.random(), 1)  # some of them twice
            nodes[at] = [chance.randrange(4), value, grown(left), grown(many - left), chance.random() < 0.5, 0.0]
        return at

    def led(row: Sequence[float], at: int) -> float:
        feature, threshold, left, right, unknown_left, value = nodes[at]
        if left == at:
            return float(value)
        goes_left = unknown_left if np.isnan(row[feature]) else row[feature] <= threshold
        return led(row, left if goes_left else right)

    roots = [grown(leaves if k else 1) for k in range(12)]
    names = ("feature", "threshold", "left", "right", "unknown_left", "value")
    forest = Forest.from_json({"start": 0.5, "roots": roots, **dict(zip(names, zip(*nodes, strict=True), strict=True))})
    table = np.asarray([[chance.choice([np.nan, 0.0, 1.0, round(chance.random(), 1)]) for _ in range(4)] for _ in range(300)])
    found = forest.logits(table)
    expected = [0.5 + sum(led(row, root) for root in roots) for row in table.tolist()]
    assert np.allclose(found, expected)
    assert len({round(v, 6) for v in expected}) > 1


@pytest.mark.parametrize("remembered", [False, True])
def test_one_looked_for_everywhere_is_compared_as_any_pair_is(monkeypatch: pytest.MonkeyPatch, remembered: bool) -> None:
    old, new = read("nights@r1"), read("nights@r5")
    everywhere = np.arange(len(new))

    def tables() -> list[object]:
        pages = Likeness(Memory([fingerprint(e) for e in old]) if remembered else Sheet.of(old), Sheet.of(new))
        return [pages.own(np.full(len(new), a), everywhere) for a in range(0, len(old), 5)]

    monkeypatch.setattr(likeness, "MANY", 1)
    at_once = tables()
    monkeypatch.setattr(likeness, "MANY", len(new) + 1)
    np.testing.assert_array_equal(at_once, tables())
    assert len(at_once) > 20
