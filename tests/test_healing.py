"""Relocation, drift and repair."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

import pytest

from conftest import PAGES, read
from wary_hound import FileError, Fingerprint, NotFound, Page, Verdict, fingerprint, match, parse, relocate, relocate_all, repair
from wary_hound.cli.look import interesting
from wary_hound.healing.relocation import Pursuit
from wary_hound.healing.repair import ON_BOTH, judge
from wary_hound.locator.near import nearest
from wary_hound.measuring.history import labelled, read_histories


@pytest.mark.parametrize("name", ["nights@r1", "sky@r4"])
def test_on_the_same_page_every_element_is_where_it_was(name: str) -> None:
    page = read(name)
    elements = interesting(page)
    for element, verdict in zip(elements, relocate_all(elements, page), strict=True):
        assert (verdict.outcome, verdict.element) == ("same", element)
        assert verdict.confidence > 0.9


def test_two_elements_never_claim_one() -> None:
    old, new = read("nights@r1"), read("nights@r6")
    elements = interesting(old)
    named = [v.element for v in relocate_all(elements, new) if v.outcome in ("same", "moved")]
    assert len(named) > 25
    assert not [e for e, n in Counter(named).items() if n > 1]


def test_elements_are_followed_through_the_demos_releases() -> None:
    """More than nine in ten of those named are right, and every kind of verdict carries a reason and a probability."""
    outcomes: Counter[bool] = Counter()
    for history in read_histories(PAGES):
        pages, wanted = labelled(history)
        for old in range(len(pages) - 1):
            labels = [k for k, i in wanted[old].items() if i is not None]
            verdicts = relocate_all([pages[old][wanted[old][k] or 0] for k in labels], pages[old + 1])
            for label, verdict in zip(labels, verdicts, strict=True):
                assert verdict.reasons
                assert 0 <= verdict.confidence <= 1
                if verdict.outcome in ("same", "moved"):
                    assert verdict.element is not None
                    outcomes[verdict.element.index == wanted[old + 1][label]] += 1
    assert outcomes[True] > 600
    assert outcomes[False] < 0.1 * outcomes[True]


def test_what_is_gone_is_called_gone() -> None:
    old, new = read("nights@r5"), read("nights@r6")
    letter = old.find('shadow css{night-booking} -> css{input[value="letter"]}')
    cocoa = old.find('shadow css{night-booking} -> css{input[value="cocoa"]}')
    link = old.find("text{Print the list}")
    gone, there, also_gone = relocate_all([letter, cocoa, link], new)
    assert (gone.outcome, gone.element) == ("gone", None)
    assert (also_gone.outcome, also_gone.element) == ("gone", None)
    assert there.element == new.find('shadow css{night-booking} -> css{input[value="cocoa"]}')


def test_an_element_taken_out_is_not_found_elsewhere() -> None:
    page = read("nights@r1")
    elements = interesting(page)
    search = Pursuit(elements, page)
    wrong = 0
    for k, element in enumerate(elements):
        verdict = search.verdict_without(k, slice(element.index, int(page.end[element.index])))
        assert verdict.element != element
        wrong += verdict.outcome in ("same", "moved")
    assert wrong < 0.25 * len(elements)


def test_drift_is_noticed_though_the_locator_still_matches() -> None:
    old, new = read("nights@r2"), read("nights@r3")
    found = repair('xpath{//tr[td="Saturn"]/td[4]}', old, new)
    assert [e.text for e in found.found] == ["Lantern, 60 cm"]
    assert found.state == "drifted"
    assert found.trouble == "matches another element"
    assert found.verdict.element is not None
    assert found.verdict.element.text == "8"
    assert found.main is not None
    assert match(new, found.main.locator) == [found.verdict.element.index]


def test_a_look_alike_does_not_take_the_elements_place() -> None:
    old, new = read("nights@r5"), read("nights@r6")
    found = repair('css{button[value="vega"]}', old, new)
    assert (found.state, len(found.found)) == ("broken", 2)
    assert found.verdict.element is not None
    assert found.verdict.element.text == "Reserve"
    assert found.main is not None


def test_a_locator_that_still_finds_the_most_alike_leaves_doubt_instead_of_gone() -> None:
    old = Page.parse("<main><h1>Nights</h1><button aria-label='Hold Vega' title=Vega id=x>Hold</button><p>6 left</p></main>")
    new = Page.parse("<div><h2>Book</h2><section><button class=b>Take it</button></section><i>new</i></div>")
    there = new.find("css{button}")
    gone = Verdict("gone", None, 0.95, ((there, 0.05),), ("the nearest is it",))
    found = judge(parse("css{button}"), gone, new, old.find("css{#x}"))
    assert (found.state, found.verdict.outcome, found.main) == ("works", "unsure", None)
    assert "still finds" in found.verdict.reasons[-1]
    other = judge(parse("css{#x}"), gone, new, old.find("css{#x}"))
    assert (other.state, other.verdict.outcome) == ("broken", "gone")
    assert repair("css{button}", old, new).main is None
    assert repair("css{#x}", old, new).main is None


def test_what_works_needs_no_repair_and_what_is_gone_gets_none() -> None:
    old, new = read("nights@r1"), read("nights@r2")
    assert repair("label{Party size}", old, new).main is None
    assert repair("label{Party size}", old, new).state == "works"
    gone = repair("text{Print the list}", read("nights@r5"), read("nights@r6"))
    assert (gone.state, gone.main, gone.verdict.outcome) == ("broken", None, "gone")
    with pytest.raises(NotFound):
        repair("css{.nowhere}", old, new)


def test_a_repair_that_is_right_on_both_pages_comes_first() -> None:
    found = repair("css{.notice-close}", read("nights@r1"), read("nights@r2"))
    assert found.main is not None
    assert ON_BOTH in found.main.reasons
    assert match(read("nights@r1"), found.main.locator)


def test_a_component_that_moved_into_a_shadow_tree_is_followed() -> None:
    found = repair("css{#telescope}", read("nights@r3"), read("nights@r4"))
    assert found.verdict.outcome == "moved"
    assert found.main is not None
    assert str(found.main.locator).startswith("anywhere ")
    assert found.verdict.element is not None
    assert match(read("nights@r4"), found.main.locator) == [found.verdict.element.index]
    assert match(read("nights@r3"), found.main.locator) == match(read("nights@r3"), "css{#telescope}")  # before it moved, too


def test_fingerprints_survive_their_file_form() -> None:
    page = read("sky@r4")
    for element in interesting(page):
        print_ = fingerprint(element)
        assert Fingerprint.from_json(print_.to_json()).to_json() == print_.to_json()
    remembered = Fingerprint.from_json(fingerprint(page.find("text{Dome keys}")).to_json())
    assert relocate(remembered, page).element == page.find("text{Dome keys}")
    with pytest.raises(FileError, match="fingerprint"):
        Fingerprint.from_json({"tag": "a", "attributes": {}, "box": [1]})


def test_nothing_like_it_is_gone_and_tiny_pages_do_no_harm() -> None:
    page = read("nights@r1")
    verdicts = relocate_all(interesting(page), Page.parse("<p>Closed for the winter</p>"))
    assert {v.outcome for v in verdicts} <= {"gone", "unsure"}
    assert relocate_all([], page) == []


@pytest.mark.parametrize(
    ("locator", "found", "why"),
    [
        ("css{#visitor-nam}", "visitor-name", "like id"),
        ('css{form input.wide[name="email"]}', "visitor-email", "same tag, name attribute; other class"),
        ('xpath{//form//input[@id="vistor-email" and @type="email"]}', "visitor-email", "same tag, type; like id"),
        ("label{Visitors name}", "visitor-name", "like label"),
        ('role{combobox "Telescop"}', "telescope", "same role; like accessible name"),
    ],
)
def test_what_comes_nearest_to_a_locator_that_finds_nothing(locator: str, found: str, why: str) -> None:
    first = nearest(locator, read("nights@r1"))[0]
    assert (first.element.attributes["id"], first.why) == (found, why)


def test_nothing_is_near_where_nothing_is_alike() -> None:
    page = read("nights@r1")
    for locator in ("css{.nothing-like-this}", "css{table}", "role{grid}", "xpath{//*}", "text{Zzzzzz}"):
        assert nearest(locator, page) == ()
    close = [near.element for near in nearest("text{Hold this nigth}", page)]
    assert len(close) > 1
    assert not any(one.parent == other for one in close for other in close)


def form_of(labels: Sequence[str], made: str) -> Page:
    """A form of fields whose ids a program counts."""
    fields = "".join(
        f'<div><label for="{own}">{text}</label><input class=field id="{own}" aria-describedby="{own}-hint"></div>'
        for text, own in ((text, made.format(k)) for k, text in enumerate(labels))
    )
    return Page.parse(f"<main><h1>Nights</h1><form>{fields}<button>Send</button></form></main>")


@pytest.mark.parametrize("made", [":r{}:", ":r{}:-form-item", "__input{}-inner", "form:j_idt{}:in", "text-field-{}", "w{}"])
@pytest.mark.parametrize("remembered", [False, True])
def test_a_field_that_came_first_does_not_become_the_next_one(made: str, remembered: bool) -> None:
    old = form_of(["Visitor", "Hours", "Star"], made)

    def verdicts(labels: list[str]) -> list[tuple[str, str]]:
        fields = old.find_all("css{input}")
        found = relocate_all([fingerprint(one) for one in fields] if remembered else fields, form_of(labels, made))
        return [(one.outcome if one.outcome != "same" else "moved", one.element.label if one.element else "") for one in found]

    # their labels tell them, whatever number each has now
    assert verdicts(["Group", "Visitor", "Hours", "Star"]) == [("moved", "Visitor"), ("moved", "Hours"), ("moved", "Star")]
    # all labels are others, and one came: any of the four could be meant
    doubtful = verdicts(["Group", "Guest name", "Length of stay", "Object"])
    assert [outcome for outcome, _ in doubtful] == ["unsure", "unsure", "unsure"]


ROW = "<tr><td>{star}<td>{dome}<td>{places}<td><button class=b>Hold</button><button class=b>Edit</button>"


def stars(*rows: tuple[str, str, str]) -> Page:
    body = "".join(ROW.format(star=star, dome=dome, places=places) for star, dome, places in rows)
    return Page.parse(f"<main><table><thead><tr><th>Star<th>Dome<th>Places<th></thead><tbody>{body}</table></main>")


@pytest.mark.parametrize("remembered", [False, True])
def test_the_row_of_another_thing_is_not_the_row_that_was(remembered: bool) -> None:
    old = stars(("Vega", "North", "4"), ("Saturn", "South", "7"))

    def hold(*rows: tuple[str, str, str]) -> Verdict:
        button = old.find('role{button "Hold"} @row-of text{Vega}')
        return relocate(fingerprint(button) if remembered else button, stars(*rows))

    replaced = hold(("Mars", "North", "4"), ("Saturn", "South", "7"))
    assert replaced.outcome == "unsure"
    assert 'its row was that of "Vega", and is that of "Mars" now' in replaced.reasons
    moved = hold(("Saturn", "South", "7"), ("Mars", "West", "1"), ("Vega", "North", "3"))
    assert moved.outcome in ("same", "moved")
    assert moved.element == moved.element.page.find('role{button "Hold"} @row-of text{Vega}') if moved.element else False
    renamed = hold(("Vega (Lyra)", "North", "4"), ("Saturn", "South", "7"))
    assert renamed.outcome in ("same", "moved")


@pytest.mark.parametrize(
    ("was", "now", "outcome"),
    [
        ("Publish", "Preview", "unsure"),  # renamed, or another one in its place
        ("Delete", "Remove", "same"),  # means the same
        ("Publish", "Publish all", "same"),  # says the same
    ],
)
def test_from_memory_alone_another_name_is_another_control_where_others_look_alike(was: str, now: str, outcome: str) -> None:
    bar = "<main><h1>Nights</h1><p>Which stars are held.</p><div class=bar>{}</div></main>"
    bars = ["".join(f"<button class=btn>{name}</button>" for name in ("Copy", "Save", one)) for one in (was, now)]
    before, after = (Page.parse(bar.format(buttons)) for buttons in bars)
    button = before.find(f'role{{button "{was}"}}')
    assert relocate(fingerprint(button), after).outcome == outcome
    alone = bar.format("<button class=btn>{}</button>")  # no other one that it could have been
    only, renamed = Page.parse(alone.format(was)), Page.parse(alone.format(now))
    assert relocate(fingerprint(only.find("css{button}")), renamed).outcome == "same"
