"""What a name is pieced together from, what was chosen, what it costs, and what digests lead to: none of it names an element."""

from __future__ import annotations

import pytest

from conftest import proposed, weak
from wary_hound import Page
from wary_hound.authoring.predicates import head_of
from wary_hound.robustness.data import is_composed, shows_data
from wary_hound.robustness.dependency import Dependency
from wary_hound.robustness.model import ChangeModel

STARS = ("Vega", "Saturn", "Mizar")
DIGEST = "7c1e0b2f9d3a4e5f8a6b7c8d9e0f1a2b"
# notes in a tree, each a link to a digest, with buttons that have names and no words
NOTES = "<nav><h2>Vega</h2></nav><div role=treegrid>" + "".join(
    f'<div role=treeitem><a href="/{star.lower()}-{n}{DIGEST[1:]}"><div role=button aria-label="Change icon"></div>'
    f'<div>{star}</div><div role=button aria-label="Add a note inside"></div></a></div>'
    for n, star in enumerate(STARS, 1)
)
SEARCH = """<form class=search><button aria-label="Return date, choose a date"><i>Return</i><b>Add</b></button>
<button aria-haspopup=dialog class=party>2 adults, one night</button><button aria-haspopup=menu>Sky</button></form>
<p class=tools><a href=#>Apply</a> <a href=#>Clear</a><form><label><input type=checkbox> Ridge <i>from €80</i></label>
<label><input type=checkbox> 1 stop <i>from €87</i></label>"""
SLOTS = "<main>" + "".join(
    f'<div class="Slot_slot__r4Fvt{" Slot_done__t5Gby" if star == "Saturn" else ""}"><b>{star}</b><button><i></i></button></div>'
    for star in STARS
)
TOPICS = "<ul>" + "".join(
    f'<li class="topic{" pinned-up" if n == 1 else ""}"><i>{star}</i><a href=#>Open</a>' for n, star in enumerate(STARS)
)


@pytest.mark.parametrize(
    ("page", "element", "only", "said"),
    [
        (NOTES, "css{[role=treeitem]}#2", "", 'role{treeitem ~"Saturn"}'),
        (NOTES, "css{a}#2", "", 'role{link ~"Saturn"}'),
        (NOTES, 'css{[aria-label="Add a note inside"]}#1', "", 'xpath{//div[a="Vega"]//*[@aria-label="Add a note inside"]}'),
        (SEARCH, "css{button}#1", "", "label{~Return date}"),
        (SEARCH, "css{button}#2", "", "css{.search .party}"),
        (SEARCH, "css{button}#3", "", 'role{button "Sky"}'),
        (f"<div id=query>{SEARCH}", "css{p}", "", "css{#query .tools}"),
        (SEARCH, "css{input}#1", "", "label{~Ridge}"),
        (SEARCH, "css{input}#2", "", "label{~1 stop}"),
        (SLOTS, "css{button}#2", "", "css{button} @row-of text{Saturn}"),
        (TOPICS, "css{a}#2", "", "css{a} @row-of text{Saturn}"),
    ],
)
def test_said_as_a_tester_would(page: str, element: str, only: str, said: str) -> None:
    assert proposed(page, element, only) == said


@pytest.mark.parametrize(
    ("page", "locator", "is_so"),
    [
        (SLOTS, 'css{[class*="Slot_done__"] button}', True),
        (SLOTS, 'css{[class*="Slot_slot__"]}', True),
        (TOPICS, "css{.pinned-up a}", True),
        ("<ul><li class='topic'><a>a</a><li class='topic help'><a>b</a>", "css{.help a}", False),  # of two nobody can tell
        (SEARCH, 'role{button ~"one night"}', True),
        (SEARCH, "label{1 stop from €87}", True),
        ("<p><a href=/logout data-method=post>Leave</a><a href=/me>Me</a>", "css{[data-method=post]}", True),
        ("<p><a href=/logout data-deed=leave>Leave</a><a href=/me>Me</a>", "css{[data-deed=leave]}", False),
        ("<h1 contenteditable=true>Vega tonight</h1><p>Sky</p>", 'role{heading "Vega tonight"}', True),
        ("<div contenteditable><h1>Vega tonight</h1></div><p>Sky</p>", 'role{heading "Vega tonight"}', True),
        ("<h1 contenteditable=false>Vega tonight</h1><p>Sky</p>", 'role{heading "Vega tonight"}', False),
    ],
)
def test_what_says_which_is_meant(page: str, locator: str, is_so: bool) -> None:
    assert weak(f"<!doctype html><body>{page}", locator) is is_so


def test_a_part_of_a_digest_lasts_no_longer_than_the_whole() -> None:
    model = ChangeModel.shipped()
    groups = [Dependency(kind, "generated", 1, "x").group for kind in ("href", "href~", "id~")]
    assert groups == ["href/generated", "href/generated", "id/generated"]
    assert Dependency("href~", "named", 1, "x").group == "href~/named"
    assert model.hazard(groups[:1]) > 4 * model.hazard(["href~/named"])


def test_heads_of_names_that_go_on_with_a_prompt() -> None:
    said = ("Return date, choose a date", "Dome, none chosen", "Stars, planets and more", "Sky, not set")
    assert [head_of(one) for one in said] == ["Return date", "Dome", "", "Sky"]


def test_what_costs_something_is_pieced_together() -> None:
    said = ("1 stop from €87", "Night for 12 EUR", "Pay $9", "Ridge from the dome", "€ 9 tickets", "12 stars")
    assert [is_composed(one) for one in said] == [True, True, True, False, False, False]


def test_counts_on_what_opens_a_choice_are_the_choice() -> None:
    page = Page.parse(SEARCH)
    assert [shows_data(page, page.find(f"css{{button}}#{n}").index) for n in (2, 3)] == [True, False]
