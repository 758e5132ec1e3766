"""Books in the making, values for fields, and the words of checks, on pages as data."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from conftest import read
from wary_hound import Book, Page
from wary_hound.journey.draft_book import DraftBook
from wary_hound.journey.drafting import draft, fields_of, title_of
from wary_hound.journey.naming import name_for
from wary_hound.journey.review.of_steps import found_by, of_steps
from wary_hound.journey.steps import ACTIONS, EXPECTATIONS, OF_THE_PAGE, STATES, Step
from wary_hound.journey.values import Filling, filling_for, matching
from wary_hound.locator.notation import parse
from wary_hound.running.checks import _HOLDS, _STATES, _differing, cell
from wary_hound.running.doing import ACTS
from wary_hound.running.handlers import handler_of
from wary_hound.running.page_checks import _OF_THE_PAGE


def test_every_action_and_check_of_the_table_is_done_by_something() -> None:
    assert set(ACTIONS) - {"check", "part"} == set(ACTS)
    assert set(STATES) | set(EXPECTATIONS) == set(_HOLDS) | set(_STATES) | {"looks"}
    assert set(OF_THE_PAGE) == set(_OF_THE_PAGE) | {"looks"}


def test_an_element_keeps_its_name_and_a_page_is_kept_once(tmp_path: Path) -> None:
    page, later = read("nights@r1"), read("held@r1")
    book = DraftBook(tmp_path / "b.yaml", tmp_path / "pages", "held")
    send = book.name(page.find("text{Send booking}"), "click")
    assert send == "send-booking"
    assert book.name(page.find("css{form.booking [type=submit]}"), "click") == send
    assert book.name(later.find("text{Send booking}"), "click") == send
    status = book.name(page.find("css{#booking-status}"), "check")
    assert status == "booking-status"  # not by its text, which changes
    assert "Nothing held" not in book.entries[status].locator
    assert book.rename(send, "  Send the booking! ") == "send-the-booking"
    assert book.rename(status, "send the booking") == "send-the-booking-2"
    book.write({"send-the-booking"}, {tmp_path / "beside.txt": b"x"}, "Held")
    written = Book.read(tmp_path / "b.yaml")
    assert list(written.elements) == list(written.remembered) == ["send-the-booking"]
    assert (tmp_path / "beside.txt").read_bytes() == b"x"
    snapshots = sorted(p.name for p in (tmp_path / "pages").glob("*.html"))
    assert snapshots[0] == "held-1.html"
    assert Page.read(tmp_path / "pages" / "held-1.html").find(written.elements["send-the-booking"].main).text == "Send booking"


def test_all_that_are_alike_have_a_name_and_their_texts(tmp_path: Path) -> None:
    page = read("nights@r1")
    book = DraftBook(tmp_path / "b.yaml", tmp_path / "pages", "held")
    found = book.name_of_all_like(page.find("css{.bring-list li}#3"))
    assert found is not None
    name, texts = found
    assert texts == ("A warm coat", "", "A red torch", "", "Something hot to drink")
    assert [e.text for e in page.find_all(book.entries[name].main)] == list(texts)
    row = book.name_of_all_like(page.find("xpath{//tr[td='Saturn']/td[4]}"))
    assert row is not None
    assert len(row[1]) >= 5
    assert book.name_of_all_like(page.find("css{h1}")) is None


@pytest.mark.parametrize(
    ("html", "clicked", "handles"),
    [
        ("<button id=a><i class=x></i><span>Go</span></button>", "css{i}", "a"),
        ("<button id=a><span>Go</span></button>", "css{span}", "a"),
        ("<a id=a href=x><p>Vega</p></a>", "css{p}", "a"),
        ("<details><summary id=a><b>More</b></summary></details>", "css{b}", "a"),
        ("<label id=a><b>Cocoa</b><input type=checkbox></label>", "css{b}", "a"),
        ("<div id=a role=option><svg><path id=p /></svg></div>", "css{path}", "a"),
        ("<div><p id=a>plain</p></div>", "css{p}", "a"),
        ("<x-t id=a role=tab><template shadowrootmode=open><div><p>x</p></div></template></x-t>", "shadow css{x-t} -> css{p}", "a"),
        ("<x-b><template shadowrootmode=open><button id=a><i>x</i></button></template></x-b>", "shadow css{x-b} -> css{i}", "a"),
    ],
)
def test_the_control_that_handles_a_click_is_named(html: str, clicked: str, handles: str) -> None:
    assert handler_of(Page.parse(html).find(clicked), None).attributes["id"] == handles


def test_what_shows_the_same_hand_handles_a_click_on_a_part() -> None:
    page = Page.parse("<div id=card><p>Vega</p></div>")
    assert handler_of(page.find("css{p}"), page.find("css{#card}")).attributes["id"] == "card"


PATTERNS = st.recursive(
    st.sampled_from(["a", "7", r"\d", "[A-Z]", "[0-9]", r"\w", ".", "-", "x y"]),
    lambda inner: st.one_of(
        st.tuples(inner, inner).map("".join),
        st.tuples(inner, st.sampled_from(["{2}", "{1,3}", "+", "?", "*", "{4,}"])).map(lambda p: f"(?:{p[0]}){p[1]}"),
        st.tuples(inner, inner).map(lambda p: f"({p[0]}|{p[1]})"),
    ),
    max_leaves=6,
)


@given(PATTERNS)
def test_what_is_made_for_a_pattern_matches_it_whole(pattern: str) -> None:
    made = matching(pattern)
    assert re.fullmatch(pattern, made)


@given(st.integers(-50, 50), st.integers(0, 40), st.sampled_from([1, 2, 5]), st.booleans())
def test_numbers_keep_to_their_limits(low: int, room: int, step: int, has_low: bool) -> None:
    high = low + room
    limits = f"min={low} max={high}" if has_low else f"max={high}"
    value = float(filling_for(Page.parse(f"<input type=number {limits} step={step}>").find("css{input}")).value)
    assert value <= high
    assert not has_low or (value >= low and (value - low) % step == 0)


@pytest.mark.parametrize(
    ("html", "filling"),
    [
        ("<input type=email>", Filling(kind="email")),
        ("<input type=password>", Filling(kind="password")),
        ("<input type=url>", Filling("https://example.org/")),
        ("<input type=color>", Filling("#336699")),
        ("<input type=time min=20:00>", Filling("20:00")),
        ("<input type=month>", Filling("2031-08")),
        ("<input type=datetime-local>", Filling("2031-08-13T21:30")),
        ("<input autocomplete=given-name>", Filling(kind="first name")),
        ("<label>Surname <input></label>", Filling(kind="last name")),
        ("<label>Subject <input></label>", Filling(kind="unique")),
        ("<textarea></textarea>", Filling(kind="sentence")),
        ("<input maxlength=3>", Filling("nig")),
        ("<input>", Filling(kind="word")),
    ],
)
def test_fields_get_what_suits_them(html: str, filling: Filling) -> None:
    assert filling_for(Page.parse(html).find("css{input, textarea}")) == filling


def test_fields_that_nobody_can_fill_are_left_out(tmp_path: Path) -> None:
    page = Page.parse(
        "<form aria-label=Join><input type=hidden name=a><input disabled><input readonly><input type=submit><select></select>"
        "<input name=b><input type=radio name=r checked><input type=radio name=r>"
        "<input type=checkbox hidden aria-label=Cabin><label hidden><input type=checkbox hidden>Dome</label></form>"
    )
    section = page.find("css{form}")
    assert [e.tag for e in fields_of(section)] == ["select", "input", "input", "input"]
    assert title_of(section) == "Join"
    made = draft(section, "Join", tmp_path / "j.yaml")
    assert [(e.tag, why) for e, why in made.left] == [("select", "it has no option to choose")]
    assert [step.action for step in made.journey.steps] == ["open", "type", "tick", "click"]


def test_names_come_from_what_people_read_or_else_from_what_stays() -> None:
    page = Page.parse("<button title='Turn east'>▶</button><p id=tide>High</p><p class='dial reading'>x</p><span>♥</span>")
    assert [name_for(e) for e in page.elements if e.tag in ("button", "span")] == ["turn-east", "span"]
    assert [name_for(e, by_text=False) for e in page.elements if e.tag == "p"] == ["tide", "dial"]


@pytest.mark.parametrize(
    ("locator", "text", "by_it"),
    [
        ("text{Held}", "Held", True),
        ("text{~Held}", "Held", True),
        ("text{Hel}", "Held", False),
        ('role{status "Held"}', "Held", True),
        ('xpath{//p[normalize-space()="Held"]}', "Held", True),
        ('xpath{//p[.="Held"]/b}', "Held", False),
        ("css{#status}", "Held", False),
        ("css{b} @row-of text{Held}", "Held", False),
    ],
)
def test_whether_a_locator_finds_by_the_text_that_is_checked(locator: str, text: str, by_it: bool) -> None:
    assert found_by(parse(locator), text) is by_it


def test_the_last_action_must_be_checked_and_dialogs_are_checks() -> None:
    click, asks = Step(action="click", on="a"), Step(action="click", on="a", more={"dialog": "confirm"})
    check = Step(action="check", on="b", expect="shown")

    def rules(*steps: Step) -> list[str]:
        return [rule for _, rule, _ in of_steps(steps, [None] * len(steps))]

    assert rules(click) == ["nothing-checked"]
    assert rules(check, click) == ["unchecked-action"]
    assert rules(click, check) == rules(asks) == rules(check, asks) == []


def test_lists_say_where_they_part_and_cells_are_found() -> None:
    wanted = Step(action="check", on="nights", expect="texts", values=("Vega", "Saturn"))
    assert _differing(wanted, wanted.values, ["Vega", "Moon"]).endswith('there are 2, and number 2 reads "Moon", not "Saturn"')
    assert _differing(wanted, wanted.values, ["Vega"]).endswith('there are 1: there is no "Saturn"')
    assert _differing(wanted, wanted.values, ["Vega", "Saturn", "Moon"]).endswith('there are 3: one too many "Moon"')
    page = read("nights@r1")
    assert page.find(cell(parse("css{#nights}"), "Saturn", "Telescope")).text == "Lantern, 60 cm"
