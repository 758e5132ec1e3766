"""Comments and their answers, boards of figures, old tables: what is a row in another, what heads a column, what is a figure."""

from __future__ import annotations

import pytest

from conftest import proposed, weak
from wary_hound import Page
from wary_hound.authoring.predicates import stems
from wary_hound.authoring.taste import JOINED, Surroundings, distaste
from wary_hound.locator.notation import parse
from wary_hound.locator.tables import Tables
from wary_hound.robustness.data import counts_things
from wary_hound.robustness.dependence import dependencies
from wary_hound.robustness.looks import is_sign, look_of_class
from wary_hound.robustness.numbering import Numbering


def comment(who: str, said: str, answers: str = "") -> str:
    return (
        f'<div class="note x"><div class=votes><b role=button aria-label=Up></b></div><div class=said><p><a>[–]</a><i>{who}</i>'
        f"<p>{said}</p><ul><li><a>permalink</a><li><a>answer</a></ul></div><div class=answers>{answers}</div></div>"
    )


# a thread of comments, one of which was answered, and that again
THREAD = (
    "<main>"
    + comment("bram", "South dome is clear.", comment("odile", "Not for long.", comment("tove", "Fog.")))
    + (comment("jonas", "We shut at nine.") + "</main>")
)
# boxes of figures, of which kits say how they look
BOARD = "<main>" + "".join(
    f'<section class="tile tile-{look}"><h3>{figure}</h3><p>{said}</p><button data-widget=fold></button></section>'
    for look, figure, said in (("info", "150", "New requests"), ("danger", "53%", "Clear nights"), ("success", "44", "Observers"))
)
# an old table whose first row is bold
NIGHTS = ((101, "Vega", "Ines"), (102, "Mizar", "Bram"), (103, "Deneb", "Ines"))
OLD = "<table><tr><td><b>No</b><td><b>Star</b><td><b>Observer</b><td>&nbsp;" + "".join(
    f"<tr><td>{n}<td>{star}<td>{who}<td><a>edit</a>" for n, star, who in NIGHTS
)  # fmt: skip
# accounts that go by a name and a number
ACCOUNTS = "<main>" + "".join(
    f"<section aria-labelledby=a{n}><h2 id=a{n}>{name} <small>•• {number}</small></h2><i>{number}</i><button>Pay</button></section>"
    for n, (name, number) in enumerate((("Dome fund", 4417), ("Lens fund", 9031)))
)
RATED = "<div role=radiogroup>" + "".join(
    f"<span role=radio aria-label='{n} star{'s' if n > 1 else ''}'>★</span>" for n in range(1, 6)
)  # fmt: skip
# cards whose title stands deeper than what they go on to say
CARDS = "<main>" + "".join(
    f'<div class=card><div class=top><div>{star}</div><i>New</i></div><p>{n} hours above the ridge</p><button>Book</button></div>'
    for n, star in ((2, "Vega"), (3, "Mizar"), (4, "Deneb"))
)  # fmt: skip

# links that are as much as their cards
LINKED = "<div class=list>" + "".join(
    f'<a href="#" class="item{state}"><div><h5>{star}</h5><small>{n} days ago</small></div><p>High at {n + 18}:00.</p></a>'
    for n, (star, state) in enumerate((("Vega", " active"), ("Mizar", ""), ("Deneb", "")), 3)
)
# tags, which no class calls so, and the entries of a log
TAGGED = "<div><b>Tags</b>" + "".join(
    f'<span data-part="tag"><span>{said}</span><button aria-label=Remove></button></span>' for said in ("dome", "door")
)
LOGGED = "<div role=log>" + "".join(
    f"<div class=entry id=ember{n}><b>{who}</b><time>{n % 100}:00</time><p>{said}</p><button aria-label=More></button></div>"
    for n, who, said in ((5010, "Ines Moreau", "The door jams."), (5017, "Bram Tolliver", "Oiled it."))
)
PICKING = "<table><tr><th><input type=checkbox aria-label='2 of 40 nights'><th>Name" + "".join(
    f"<tr><td><input type=checkbox aria-label={star}><td>{star}" for star in ("Vega", "Mizar")
)  # fmt: skip


def test_a_comment_is_a_row_and_so_is_each_answer_to_it() -> None:
    page = Page.parse(THREAD)
    votes = page.find_all("css{[aria-label]}")
    for vote, who in zip(votes, ("bram", "odile", "tove", "jonas"), strict=True):
        assert page.find_all(f"css{{[aria-label]}} @row-of text{{{who}}}") == [vote]


def test_a_long_thread_of_answers_leaves_the_first_comment_a_row() -> None:
    answers = "".join(comment(f"guest {n}", f"Answer {n}.") for n in range(90))
    page = Page.parse(f"<main>{comment('bram', 'Clear?', answers)}{comment('odile', 'Fog.')}</main>")
    assert len(page.find_all("css{[aria-label]} @row-of text{bram}")) == 1


@pytest.mark.parametrize("name", ["x\u00a0y", "[&>svg]:w-4", "["])
def test_blocks_are_alike_whatever_their_classes_are_made_of(name: str) -> None:
    cards = "".join(f"<div class='{name} z'><b>{star}</b><i>x</i><button>Go</button></div>" for star in ("Vega", "Mizar"))
    page = Page.parse(f"<main>{cards}</main>")
    assert page.find_all("css{button} @row-of text{Mizar}") == page.find_all("css{button}")[1:]


def test_what_is_in_a_row_by_its_tag_stays_in_it_whatever_stands_between() -> None:
    page = Page.parse("<ul><li><b>Domes</b><ul><li><a>North</a><li><a>South</a></ul><li><b>Stars</b></ul>")
    assert len(page.find_all("css{a} @row-of text{Domes}")) == 2


@pytest.mark.parametrize(
    ("markup", "found", "wanted"),
    [
        (THREAD, "css{[aria-label]} @row-of text{odile}", "role{button} @row-of text{odile}"),
        (THREAD, "text{answer} @row-of text{bram}", "text{answer} @row-of text{bram}"),
        (BOARD, "text{150}", "css{h3} @row-of text{New requests}"),
        (BOARD, "text{53%}", "css{h3} @row-of text{Clear nights}"),
        (BOARD, "css{.tile-danger button}", "css{button} @row-of text{Clear nights}"),
        (OLD, "text{Ines} @row-of text{Vega}", "css{td} @row-of text{Vega} and @column-of text{Observer}"),
        (ACCOUNTS, "css{section:last-child button}", 'role{region ~"Lens fund"} -> role{button "Pay"}'),
        (RATED, "label{3 stars}", "label{3 stars}"),
        (LINKED, "css{.active}", 'role{link ~"Vega"}'),
        (LINKED, "css{a:last-child}", 'role{link ~"Deneb"}'),
        (TAGGED, "css{span:last-child > button}", "css{button} @row-of text{door}"),
        (LOGGED, "css{#ember5017 time}", "css{time} @row-of text{Bram Tolliver}"),
        (LOGGED, "css{#ember5017 p}", "text{Oiled it.}"),
        (PICKING, "css{th input}", "label{~nights}"),
    ],
)
def test_first_proposals(markup: str, found: str, wanted: str) -> None:
    assert proposed(markup, found) == wanted


def test_in_xpath_a_card_goes_by_its_title_and_a_column_by_a_bold_head() -> None:
    assert '"Mizar"' in proposed(CARDS, "css{button} @row-of text{Mizar}", "xpath")
    assert proposed(OLD, "text{Ines} @row-of text{Vega}", "xpath") == (
        'xpath{//tr[td="Vega"]//td[count(//td[normalize-space()="Observer"]/preceding-sibling::* | '
        '//td[normalize-space()="Observer"])]}'
    )


def test_a_row_goes_by_what_is_read_in_it_before_what_a_box_in_it_is_called() -> None:
    assert proposed(PICKING, "text{Mizar}", "xpath") == 'xpath{//td[normalize-space()="Mizar"]}'
    assert proposed(LOGGED, "css{#ember5010 button}", "xpath") == 'xpath{//div[b="Ines Moreau"]//button}'
    assert proposed(TAGGED, "css{span:last-child > button}", "xpath") == 'xpath{//span[span="door"]//button}'


def test_a_part_of_a_page_is_asked_for_whatever_was_asked_of_the_page() -> None:
    links = "".join(f"<a href='/nights?dome=north&_by={by}#by-{by}'>{by}</a>" for by in ("star", "hour"))
    assert proposed(f"<h1>star</h1><h2>hour</h2><nav>{links}</nav>", "css{a}#2", "css") == 'css{[href$="#by-hour"]}'
    plain = "<h1>star</h1><nav><a href='/nights#by-star'>star</a></nav>"
    assert proposed(plain, "css{a}", "css") == 'css{[href="/nights#by-star"]}'


def test_cells_whose_numbers_go_on_in_the_next_row_are_numbered_by_a_program() -> None:
    def looks(ids: str) -> set[str]:
        numbers = iter(range(1, 99))
        rows = "".join("<tr>" + "".join(f"<td id={ids.format(next(numbers))}>{star}" for _ in range(4)) for star in "ABC")
        page = Page.parse(f"<table>{rows}</table>")
        return {Numbering.of(page).counts(e.attributes["id"]) for e in page.find_all("css{td}")}

    assert looks("x-cell-{}") == {True}
    one_a_row = Page.parse("<table>" + "".join(f"<tr><td id=night{n}>{n}<td>x" for n in range(9)) + "</table>")
    assert not Numbering.of(one_a_row).counts("night3")


def test_what_a_whole_log_says_is_data() -> None:
    assert weak("<div role=log>Vega rose.</div><p>Dome", "text{Vega rose.}")
    assert not weak(LOGGED, "text{Oiled it.}")


@pytest.mark.parametrize(("said", "counts"), [("2 of 40 nights", True), ("Page 2 of 40", False), ("Digit 1 of 6", False)])
def test_so_many_of_all_is_a_count_where_a_text_begins_so(said: str, counts: bool) -> None:
    assert counts_things(said) is counts


def test_a_page_of_several_goes_by_its_number() -> None:
    assert list(stems("Page 2")) == list(stems("Go to page 2")) == []
    assert list(stems("Cart 2")) == ["Cart"]


def test_texts_without_a_blank_between_them_are_no_text_to_look_for() -> None:
    def taste(markup: str) -> float:
        page = Page.parse(markup)
        at = page.find("css{svg, p}").index
        locator = parse("text{AB}")
        return distaste(dependencies(page, locator, at), locator, at, Surroundings.of(page, at))

    assert taste("<svg><text>A</text><text>B</text></svg>") == taste("<p>AB</p>") + JOINED


def test_the_first_row_heads_a_table_where_it_alone_is_bold() -> None:
    def heads(markup: str) -> list[str]:
        page = Page.parse(markup)
        return [page[cell.index].text for cell in Tables.of(page).cells.values() if cell.header]

    assert heads(OLD) == ["No", "Star", "Observer", ""]
    assert heads("<table><thead><tr><td>Star<td>Dome<tbody><tr><td>Vega<td>North</table>") == ["Star", "Dome"]
    assert heads("<table><tr><td><b>Star</b><td><b>Vega</b><tr><td><b>Dome</b><td>North<tr><td>a<td>b</table>") == []
    assert heads("<table><tr><td><b>Star</b><td><b>Dome</b><tr><td>Vega<td>North</table>") == []


@pytest.mark.parametrize("value", ["button", "submit", "commit"])
def test_the_name_that_a_framework_gives_any_button_tells_none(value: str) -> None:
    assert weak(f"<form><button name={value}></button></form><p>Dome</p>", f'css{{[name="{value}"]}}')
    assert not weak("<form><button name=reserve></button></form><p>Dome</p>", 'css{[name="reserve"]}')
    assert not weak(f"<form><select name={value}></select></form><p>Dome</p>", f'css{{[name="{value}"]}}')


@pytest.mark.parametrize("name", ["box-info", "panel-danger", "dome-card-success", "bg-aqua"])
def test_how_a_box_looks_is_what_kits_call_it(name: str) -> None:
    assert look_of_class(name) == "utility"


@pytest.mark.parametrize("name", ["dome-info", "card-number", "info-box", "alert-success"])
def test_what_a_box_is_for_is_no_look(name: str) -> None:
    assert look_of_class(name) == "named"


@pytest.mark.parametrize(("said", "sign"), [("[–]", True), ("×", True), ("", True), ("星", False), ("a×", False), ("3", False)])
def test_signs_hold_neither_letters_nor_figures(said: str, sign: bool) -> None:
    assert is_sign(said) is sign
