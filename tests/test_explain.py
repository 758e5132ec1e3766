"""Explanations: the part where a locator narrows to nothing, what it nearly matched, and which edge is why."""

from __future__ import annotations

import pytest

from conftest import read
from wary_hound import Page, explain
from wary_hound.locator.evaluate import match, match_many
from wary_hound.locator.explain import tree_name


@pytest.mark.parametrize(
    ("page", "locator", "counts"),
    [
        ("nights@r1", "css{h1}", [1]),
        ("nights@r1", "css{td}", [25]),
        ("nights@r1", "css{#nights td.places}", [1, 25, 5]),
        ("nights@r1", "css{#nights > td}", [1, 0]),
        ("nights@r1", "css{h1, h2}", [1, 7]),
        ("nights@r1", "xpath{//table//td[4]}", [1, 25, 5]),
        ("nights@r1", 'xpath{//tr[td="Vega"]/td[9]}', [6, 1, 5, 0]),
        ("nights@r1", "role{button}", [14]),
        ("nights@r1", 'role{button "Hold"}', [14, 0]),
        ("nights@r1", 'role{button ~"Hold"}', [14, 5]),
        ("nights@r1", "label{Party size}", [1]),
        ("nights@r1", "label{Party}", [0]),
        ("nights@r1", "text{Vega}", [1]),
        ("nights@r1", "css{button} @row-of text{Vega}", [19, 1, 1]),
        ("nights@r1", "css{button} @row-of text{Nobody}", [19, 0, 0]),
        ("nights@r1", "css{tr}#9", [6, 0]),
        ("nights@r1", "css{tr}#2", [6, 1]),
    ],
)
def test_counts(page: str, locator: str, counts: list[int]) -> None:
    assert [s.count for s in explain(read(page), locator).hops[0].steps] == counts


@pytest.mark.parametrize(
    ("page", "locator", "nearly", "count"),
    [
        ("nights@r2", "css{#night-form button.button}", "css{#night-form button}", 3),
        ("nights@r2", "css{form > button[type=submit]}", 'css{form button[type="submit"]}', 1),
        ("nights@r2", "xpath{//tr[@id='vega']/td[1]}", "xpath{//tr/td[1]}", 5),
        ("nights@r2", "xpath{//section/button}", "xpath{//section/*}", 12),
        ("nights@r5", 'role{button "Reserv"}', 'role{button "Reserve"}', 5),
        ("nights@r5", "text{Upcoming night}", "text{Upcoming nights}", 1),
        ("nights@r1", "label{Party}", "label{~Party}", 1),
        ("nights@r1", "label{Visitors name}", "label{Visitor name}", 1),
        ("nights@r1", "css{tr}#9", "css{tr}", 6),
        ("nights@r1", "css{h1} @inside css{#nights}", "css{h1}", 1),
        ("nights@r1", "css{button} @row-of text{Vegas}", "css{button} @row-of text{Vega}", 1),
    ],
)
def test_near_misses(page: str, locator: str, nearly: str, count: int) -> None:
    found = explain(read(page), locator)
    assert not found.found
    assert (nearly, count) in [(m.locator, m.count) for m in found.misses]
    assert all(m.change for m in found.misses)


@pytest.mark.parametrize(
    ("page", "locator", "said"),
    [
        ("nights@r4", "label{Visitor name}", "the shadow tree (open) of <night-booking"),
        ("sky@r4", "text{Zoom}", "the shadow tree (closed) of <sky-dial>"),
        ("sky@r1", "text{12 km/h, west}", 'the frame <iframe title="Weather">'),
        ("nights@r4", "shadow css{night-booking} -> css{table}", "in the document, outside of where this hop looks"),
        ("nights@r1", "css{a:visited}", "cannot hold"),
        ("nights@r1", "css{a::after}", "cannot hold"),
        ("nights@r1", "css{a:not(:hover) b:focus}", "cannot hold"),
    ],
)
def test_notes(page: str, locator: str, said: str) -> None:
    assert any(said in note for note in explain(read(page), locator).notes)


def test_a_hop_that_opens_nothing_is_said() -> None:
    found = explain(read("nights@r1"), "shadow css{main} -> css{a}")
    assert found.hops[0].found
    assert "holds no shadow tree" in found.hops[0].note
    assert not found.found
    both = explain(read("nights@r4"), "frame css{night-booking} -> css{a}")
    assert "no frame document" in both.hops[0].note


def test_hops_are_told_one_by_one() -> None:
    page = read("nights@r4")
    found = explain(page, "shadow css{night-booking} -> css{fieldset} -> css{input}")
    assert [len(h.found) for h in found.hops] == [1, 2, 5]
    assert [h.where for h in found.hops] == [
        "the document",
        'the shadow tree (open) of <night-booking id="booking-widget">',
        "2 places",
    ]
    assert len(found.apart) == 5
    assert all(found.apart)
    assert "and" not in found.summary
    assert found.summary == "5 matches"


def test_as_text_it_reads_line_by_line() -> None:
    lines = str(explain(read("nights@r2"), "css{#night-form button.button}")).splitlines()
    assert lines[0] == "css{#night-form button.button}: no matches"
    assert lines[2].split() == ["1", "#night-form"]
    assert lines[-1].startswith("  nearly: css{#night-form button} matches 3")


def test_trees_have_names() -> None:
    page = Page.parse("<a-b name=x><template shadowrootmode=open></template></a-b><iframe srcdoc='<p>'></iframe>")
    assert [tree_name(page, n) for n in range(3)] == [
        "the document",
        'the shadow tree (open) of <a-b name="x">',
        "the frame <iframe>",
    ]


@pytest.mark.parametrize("locator", ["css{#nobody}", "css{.nothing}", "css{[data-none]}", "css{nowhere}"])
def test_a_near_miss_still_says_something(locator: str) -> None:
    found = explain(read("nights@r1"), locator)
    assert not found.found
    assert all("css{*}" not in miss.locator for miss in found.misses)


def test_a_selector_list_is_told_part_by_part() -> None:
    found = explain(read("nights@r1"), "css{h1, #nobody, td.places}")
    assert [(s.text, s.count) for s in found.hops[0].steps] == [("h1", 1), ("#nobody", 0), ("td.places", 5)]
    assert len(found.found) == 6


def test_an_anchor_that_is_not_there_is_what_gets_weakened() -> None:
    found = explain(read("nights@r1"), "css{button} @row-of text{Satur}")
    assert found.misses[0].change.startswith("anchor")
    assert "Saturn" in " ".join(m.locator for m in found.misses)
    assert [s.text for s in found.hops[0].steps] == ["button", "anchor text{Satur}", "@row-of that anchor"]


def test_an_ordinal_beyond_the_matches_is_said() -> None:
    found = explain(read("nights@r1"), "css{table}#2")
    assert [s.count for s in found.hops[0].steps] == [1, 0]
    assert ("css{table}", 1, "without #2") in [(m.locator, m.count, m.change) for m in found.misses]


@pytest.mark.parametrize(
    ("markup", "marks"),
    [
        ("<p><b>Vega</b><b>Moon</b></p>", ('the text "Vega"', 'the text "Moon"')),
        ("<p><b title=east></b><b hidden></b></p>", ('title="east"', "the attribute hidden")),
        ("<p><b class='a b'></b><b class=a></b></p>", ("the class b", "")),
        ("<ul><li><i>Vega</i><b>x</b></li><li><i>Moon</i><b>x</b></li></ul>", ('"Vega" beside it', '"Moon" beside it')),
        ("<div id=up><b>x</b></div><b>x</b>", ('a place inside <div id="up">', "")),
        ("<b>one</b>", ()),
    ],
)
def test_several_matches_are_told_apart_by_what_only_one_has(markup: str, marks: tuple[str, ...]) -> None:
    assert explain(Page.parse(markup), "css{b}").apart == marks


def test_a_near_miss_names_its_one_element() -> None:
    found = explain(read("nights@r2"), 'role{textbox "Visiter name"}')
    assert found.misses[0].found == (found.page.find("css{#visitor-name}").index,)
    assert 'matches 1: <input id="visitor-name"' in str(found)


def test_a_batch_finds_what_each_locator_finds_alone() -> None:
    pages = [read(f"nights@r{n}") for n in (1, 4)]
    locators = ["css{button}", "label{Visitor name}", "shadow css{night-booking} -> css{input}", "xpath{//tr[2]//button}"]
    batch = match_many(pages, iter(locators))
    assert batch == [[match(read(f"nights@r{n}"), locator) for locator in locators] for n in (1, 4)]
    assert [len(found) for found in batch[0]] != [len(found) for found in batch[1]]
