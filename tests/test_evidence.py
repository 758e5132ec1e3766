"""Each similarity on its own, and what becomes of them together."""

from __future__ import annotations

import math

import numpy as np
import pytest

from conftest import read
from wary_hound import Page, fingerprint, relocate, relocate_all
from wary_hound.healing.evidence import FEATURES, evidence, lasting_classes, perfect
from wary_hound.healing.fingerprint import Context

OLD = """<main><h2>Nights</h2><form id=f><label for=n>Name</label><input id=n name=visitor type=text value=Ada class='big is-open'
data-k=1 autocomplete=name><button>Send</button><a href='/x'>More</a></form></main>"""


def compared(new: str, locator: str = "css{input}", old: str = OLD, pick: str = "css{input}") -> dict[str, float]:
    remembered = fingerprint(Page.parse(old).find(pick))
    page = Page.parse(new)
    row = evidence(remembered, page, [page.find(locator).index])[0]
    return dict(zip(FEATURES, row.tolist(), strict=True))


def test_an_unchanged_element_has_the_perfect_row() -> None:
    page = Page.parse(OLD)
    for element in page.find_all("css{body, body *}"):
        row = evidence(fingerprint(element), page, [element.index])[0]
        ideal = perfect(fingerprint(element))
        both = ~np.isnan(row) & ~np.isnan(ideal)
        assert np.allclose(row[both], ideal[both])
        assert (np.isnan(row) <= np.isnan(ideal)).all()


@pytest.mark.parametrize(
    ("change", "feature", "least", "most"),
    [
        (("id=n ", "id=visitor "), "id", 0.0, 0.5),
        (("id=n ", ""), "id", 0.0, 0.0),
        (("name=visitor", "name=guest"), "name-attribute", 0.0, 0.5),
        (("value=Ada", "value=Adam"), "value", 0.3, 0.6),
        (("type=text", "type=email"), "type", 0.0, 0.5),
        (("data-k=1", "data-k=2"), "test-attribute", 0.4, 0.4),
        (("data-k=1", ""), "test-attribute", 0.0, 0.0),
        (("autocomplete=name", "autocomplete=off"), "other-attributes", 0.4, 0.4),
        (("'big is-open'", "big"), "classes", 1.0, 1.0),
        (("'big is-open'", "'big new'"), "classes", 0.5, 0.5),
        (("'big is-open'", "small"), "classes", 0.0, 0.0),
        ((">Name<", ">Your name<"), "name", 0.4, 0.95),
        ((">Name<", ">Your name<"), "name-equal", 0.0, 0.0),
        ((">Name<", ">Your name<"), "label", 0.4, 0.95),
        ((">Name<", ">Your name<"), "before", 0.4, 0.95),
        ((">Send<", ">Go on<"), "after", 0.0, 0.5),
        (("<h2>Nights", "<h2>Book"), "heading", 0.0, 0.5),
        (("<form id=f>", "<form id=g>"), "trail-ids", 0.0, 0.0),
        (("<form id=f>", "<form id=f><div>"), "trail", 0.5, 0.95),
        (("<form id=f>", "<form id=f><input type=hidden>"), "sibling", 0.5, 0.5),
        (("<main>", "<main hidden>"), "shown", 0.0, 0.0),
    ],
)
def test_one_change_moves_its_feature(change: tuple[str, str], feature: str, least: float, most: float) -> None:
    assert change[0] in OLD
    locator = "css{input}#2" if "hidden>" in change[1] and "input" in change[1] else "css{input}"
    row = compared(OLD.replace(*change), locator)
    assert least - 1e-9 <= row[feature] <= most + 1e-9
    same = compared(OLD)
    assert same[feature] == 1.0


def test_another_tag_or_role_is_told() -> None:
    other = OLD.replace("<input", "<textarea").replace("autocomplete=name>", "autocomplete=name></textarea>")
    row = compared(other, "css{textarea}")
    assert (row["tag"], row["role"]) == (0.0, 1.0)
    assert compared(OLD, "css{button}")["role"] == 0.4
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
    assert lasting_classes("big is-open active btn") == {"big", "btn"}


def test_boxes_count_where_both_are_known() -> None:
    old, new = read("nights@r1"), read("nights@r2")
    element = old.find("css{#visitor-name}")
    row = evidence(fingerprint(element), new, [new.find("css{#visitor-name}").index, new.find("css{#telescope}").index])
    at = FEATURES.index("box")
    assert row[0, at] > 0.99
    assert row[0, at] > row[1, at]


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
