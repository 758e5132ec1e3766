"""Signs, states and moments in what pages show: none of them names an element. Rows go by what names them; what stands in shadow
trees by the icon and the row of its host."""

from __future__ import annotations

import pytest

from conftest import proposed, weak
from wary_hound import Page, rank
from wary_hound.authoring.anchors import own_texts, titles_of
from wary_hound.authoring.icons import icon_predicates
from wary_hound.authoring.predicates import attribute_predicates, first_of, head_of, path_of
from wary_hound.authoring.question import Question
from wary_hound.authoring.rules import Rules
from wary_hound.authoring.signs import gives_a_hint, is_turned
from wary_hound.locator.blocks import row_of
from wary_hound.locator.notation import parse
from wary_hound.robustness.bylines import is_signed
from wary_hound.robustness.data import counts_things, is_moment, known_by_number, says_when
from wary_hound.robustness.dependence import dependencies
from wary_hound.robustness.dependency import attribute_look
from wary_hound.robustness.looks import look_of_class, look_of_text

STARS = (("Vega", "stars", "Open"), ("Saturn", "planets", "Full"), ("Mizar", "stars", "Open"))
GROWN = "<template shadowrootmode=open><button type=button class=native><slot></slot></button></template>"
# cards of components: what is clicked stands in the shadow tree of each
CARDS = "<main>" + "".join(
    f"<x-card><x-title>{star}</x-title><x-more>Opens at 21:30, {n} places left <x-button class=clear>{GROWN}Book</x-button>"
    f"<x-button class=clear>{GROWN}<x-icon name=share-dome></x-icon></x-button></x-more></x-card>"
    for n, (star, *_) in enumerate(STARS)
)
# a table of topics whose rows are classed by what they are about, with states by icons and answers
TOPICS = "<table><tr><th>Topic<th>Author<th>Free<th>State" + "".join(
    f'<tr class="topic about-{kind}"><td><a href="/t/{star}">{star} tonight</a> <a href="/tag/dark">dark</a><td>'
    f'<a href="/people/ines" aria-label="ines, latest"><img alt=""></a><td>{"No" if state == "Full" else "Yes"}'
    f'<td><svg><title>{state}</title><use href="#last-{state.lower()}"></use></svg>'
    for star, kind, state in STARS
)
# messages whose rows are named by their subjects, behind who sent them
MAIL = "<table>" + "".join(
    f'<tr aria-labelledby=s{n}><td><input type=checkbox title=select><td><i title="{who}@example.org">{who}</i> '
    f'<a href="?m={n}">'
    f"<b id=s{n}>{star} at nine?</b></a>"
    for n, ((star, *_), who) in enumerate(zip(STARS, ("bram", "ines", "jonas"), strict=True))
)
# what was said at which hour
TALK = "".join(
    f'<div class=note aria-label="{who} wrote at 9:0{n} PM, {star} is up"><a href="/n/{star}" aria-label="9:0{n} PM Link"><time>'
    f'9:0{n} PM</time></a><p>{star} is up</p><button aria-label=reply></button><button class=liked aria-label="You and {n + 2}'
    f' others liked it"><i></i></button></div>'
    for n, ((star, *_), who) in enumerate(zip(STARS, ("Ines", "Bram", "Ines"), strict=True))
)
FORM = """<div class=field><label>Visitor</label><input placeholder="e.g. Ines Moreau"></div><div class=field><label>Nights</label>
<input placeholder="How many"></div><p>Soup?</p><label><input type=radio name=soup value=y> Yes</label>
<label><input type=radio name=soup value=n> No</label>"""
TILES = "".join(
    f'<div class=tile role=button aria-labelledby="i{n}"></div><x-info id=i{n}><template shadowrootmode=open><b>{dome} dome</b>'
    f"<i>{state}</i></template></x-info>"
    for n, (dome, state) in enumerate((("North", "Closed"), ("South", "Open")))
)
BOARD = "".join(
    f"<section class=list><h2>{head}</h2><div class=cards>"
    + "".join(f"<div class=card><p>{said}</p><button>Move</button></div>" for said in cards)
    + "</div></section>"
    for head, cards in (("To do", ("Clean the mirror", "Order lamps")), ("Doing", ("Paint the door",)))
)
# what is clicked says what is in its slot
ITEMS = "<main>" + "".join(
    f"<x-item><template shadowrootmode=open><button><slot></slot></button></template>"
    f"<div>{star}</div><div>dome, {n} left</div></x-item>"
    for n, (star, *_) in enumerate(STARS)
)
# rows that a program has numbered, by a counter of its own
ORDERS = "<table>" + "".join(f'<tr data-id="point_{8 + 14 * n}"><td><input type=checkbox><td>S000{n + 1}' for n in range(3))
# boxes to tick that are labelled by what nobody sees
FILES = "<table>" + "".join(
    f"<tr><td><input type=checkbox aria-labelledby=l{n}><span id=l{n}>Choose {star}</span><td><b>{star} at dawn</b>"
    f"<td><button aria-label=More></button>"
    for n, (star, *_) in enumerate(STARS)
)
HEADED = "<table><tr><th>No.<th>Star<th>Sky<th>Free" + "".join(
    f"<tr><td>{n}<th><label>{star}</label><td>north<td>{'No' if state == 'Full' else 'Yes'}"
    for n, (star, _, state) in enumerate(STARS)
)
SORTED = "<table><tr>" + "".join(
    f"<th><a href=#s><span>{head}</span> <span>Sort {way}.</span></a>"
    for head, way in (("Dome", "ascending"), ("Sky", "descending"))
)
TABS = "<p><a href=#a><img alt=Sky> Sky</a> <a href=#b><img alt=Plan> Plan<span>(current)</span></a>"


@pytest.mark.parametrize(
    ("page", "element", "only", "said"),
    [
        (CARDS, "shadow css{x-card:nth-of-type(2) x-button:first-of-type} -> css{button}", "xpath",
         'shadow xpath{//x-card[x-title="Saturn"]//*[normalize-space()="Book"]} -> xpath{//button}'),
        (CARDS, "shadow css{x-card:nth-of-type(2) x-button:last-of-type} -> css{button}", "",
         'shadow css{x-button:has([name="share-dome"])} @row-of text{Saturn} -> css{button}'),
        (TOPICS, 'css{[href="/tag/dark"]}#2', "", 'role{link "dark"} @row-of text{Saturn tonight}'),
        (TOPICS, "css{td:nth-of-type(3)}#2", "", "css{td} @row-of text{Saturn tonight} and @column-of text{Free}"),
        (TOPICS, "css{td:nth-of-type(4)}#2", "", "css{td} @row-of text{Saturn tonight} and @column-of text{State}"),
        (MAIL, "css{input}#2", "", "css{input} @row-of text{Saturn at nine?}"),
        (TALK, "css{[aria-label=reply]}#2", "", "label{reply} @row-of text{Saturn is up}"),
        (TALK, "css{a}#2", "", 'css{[href="/n/Saturn"]}'),
        (TALK, "css{.liked}#2", "", "label{~others liked it} @row-of text{Saturn is up}"),
        (FORM, "css{input}#1", "", "css{input} @row-of text{Visitor}"),
        (FORM, "css{[value=y]}", "", 'css{[name="soup"][value="y"]}'),
        (TILES, "css{.tile}#1", "", 'role{button ~"North dome"}'),
        (BOARD, "css{button}#3", "", "css{button} @row-of text{Paint the door}"),
        (ITEMS, "shadow css{x-item:nth-of-type(2)} -> css{button}", "", 'anywhere role{button ~"Saturn"}'),
        (ORDERS, "css{input}#2", "", "css{input} @row-of text{S0002}"),
        (HEADED, "css{td:nth-of-type(3)}#2", "", "css{td} @row-of text{Saturn} and @column-of text{Free}"),
        (FILES, "css{button}#2", "", "css{button} @row-of text{Saturn at dawn}"),
        (SORTED, "css{a}#1", "xpath", 'xpath{//a[contains(., "Dome")]}'),
        (TABS, "css{a}#2", "", 'role{link ~"Plan"}'),
    ],
)  # fmt: skip
def test_said_as_a_tester_would(page: str, element: str, only: str, said: str) -> None:
    assert proposed(page, element, only) == said


@pytest.mark.parametrize(
    ("page", "element", "locator"),
    [
        ('<a href="javascript:void(0)"><b class=bar-user-icon>IM</b></a>', "css{a}", 'role{link "IM"}'),
        ("<p class=latest><a class=author-link href=/ines>Ines Moreau</a>", "css{a}", 'role{link "Ines Moreau"}'),
        ("<p class=latest><a rel=author href=/ines>Ines Moreau</a>", "css{a}", 'css{[href="/ines"]}'),
        ("<div class=bar><h2>March 2031</h2></div>", "css{h2}", 'role{heading "March 2031"}'),
        ("<div class=field><p class='help is-danger'>Say who.</p></div>", "css{p}", "text{Say who.}"),
        (TALK, "css{.liked}#2", "label{You and 3 others liked it}"),
        (TALK, "css{a}#1", 'css{[aria-label="9:00 PM Link"]}'),
        (TALK, "css{button}#1", 'css{div[aria-label="Ines wrote at 9:00 PM, Vega is up"] [aria-label="reply"]}'),
        (TOPICS, "css{td:nth-of-type(4)}#2", 'role{cell "Full"}'),
        (TOPICS, 'css{[href="/tag/dark"]}#2', 'css{.about-planets [href="/tag/dark"]}'),
        (FORM, "css{[value=y]}", "label{Yes}"),
    ],
)
def test_what_is_there_to_change_names_nothing(page: str, element: str, locator: str) -> None:
    parsed = Page.parse(page)
    assert parsed.find(locator) == parsed.find(element)  # it finds it today
    assert locator not in [str(one.locator) for one in rank(parsed.find(element)) if not one.weak]


@pytest.mark.parametrize(
    ("attributes", "said"),
    [
        ({"data-state": "-"}, ()),
        ({"href": "/"}, ('[href="/"]',)),
        ({"data-done": "Saved."}, ()),
        ({"data-title": "What is up."}, ('[data-title="What is up."]',)),
        ({"data-post": "db=nights&table=stars"}, ()),
        ({"href": "?db=nights&table=stars"}, ('[href="?db=nights&table=stars"]',)),
        ({"data-hotkey": "c"}, ()),
        ({"src": "about:blank"}, ()),
    ],
)
def test_attributes_that_say_nothing(attributes: dict[str, str], said: tuple[str, ...]) -> None:
    told = [f'[{one.name}="{one.value}"]' for one in attribute_predicates(attributes, "div") if one.operator == "="]
    assert tuple(told) == said


def test_paths_names_and_texts_that_programs_make() -> None:
    assert path_of("./?task=mail") == ""
    assert path_of("./mail?task=1") == "./mail"
    assert [look_of_text(one) for one in ("9f3ac0e", "decade", "1234567", "3 decades")] == ["hashed", "words", "number", "numbered"]
    assert attribute_look("href", "/commit/9f3ac0ffee") == "generated"
    assert attribute_look("href", "/facade/2031") != "generated"
    assert [look_of_class(one) for one in ("x-tag-green", "x-tag-geekblue", "ui", "x-tag-night", "map-zoom-animated")] == [
        "utility", "utility", "utility", "named", "state",
    ]  # fmt: skip
    assert [head_of(f"Star {more}") for more in ("Sort ascending.", "sorted descending", "activate to sort")] == ["Star"] * 3
    assert head_of("Star sorter") == ""
    assert gives_a_hint("Star (required)")
    assert [is_turned(one) for one in ("Sort ascending", "All rows unselected", "Current state", "Active", "Sorting")] == [
        True, True, True, False, False,
    ]  # fmt: skip
    assert [is_moment(one) for one in ("Due tomorrow", "due in 3 days", "Tomorrow", "Due date")] == [True, True, False, False]
    assert [says_when(one) for one in ("Ines wrote at 9:02 PM, Vega", "18:00 to 19:00")] == [True, False]
    assert counts_things("You and 3 others liked it")


def test_icons_of_fonts_and_second_texts_are_no_part_of_a_name() -> None:
    page = Page.parse(
        "<table><tr><th><a href=?s=star>Star <i class=material-icons>expand_more</i></a><th><a href=?s=sky>Sky</a></table>"
    )
    said = [str(one.locator) for one in rank(page.find("css{a}#1"), Question(ways=1))]
    assert said.index('role{link ~"Star"}') < said.index('role{link "Star expand_more"}')
    page = Page.parse("<button><b>Vega</b> <i>north dome, 3 left</i></button><button>Vega north dome, 3 left</button>")
    one, other = (element.index for element in page.find_all("css{button}"))
    assert (first_of(page, one, "Vega north dome"), first_of(page, other, "Vega north dome")) == ("Vega", "Vega north dome")
    assert first_of(page, one, "north dome") == "north dome"
    page = Page.parse("<button><b>12</b> <i>nights</i></button>")
    assert first_of(page, page.find("css{button}").index, "12 nights") == "12 nights"


def test_an_icon_of_a_cell_says_its_state_where_its_column_has_a_head() -> None:
    headed = Page.parse(TOPICS)
    assert not list(icon_predicates(headed, headed.find("css{td:nth-of-type(4)}#1").index))
    two = Page.parse("<table><tr><th colspan=2>Sky<tr><th scope=col>Star<th scope=col><i class=lamp-red></i><tr><td>a<td>b</table>")
    assert list(icon_predicates(two, two.find("css{th}#3").index))  # a head itself
    bare = Page.parse("<table><tr><td>Vega<td><i class=lamp-red></i><tr><td>Mizar<td><i class=lamp-red></i></table>")
    assert list(icon_predicates(bare, bare.find("css{td:nth-of-type(2)}#1").index))


def test_what_is_called_by_an_hour_holds_nothing_steady() -> None:
    bare = TALK.replace("time>", "i>")  # where nothing else says what that is
    assert weak(bare, 'css{div[aria-label="Ines wrote at 9:00 PM, Vega is up"] [aria-label="reply"]}')
    called = bare.replace("wrote at 9:00 PM, Vega is up", "wrote of Vega")
    assert not weak(called, 'css{div[aria-label="Ines wrote of Vega"] [aria-label="reply"]}')


def test_where_an_icon_stands_is_not_what_it_shows() -> None:
    page = Page.parse('<button><i class="lamp-icon-left lamp-dome"></i>Open</button><button><i class=lamp-dome></i>Shut</button>')
    assert [str(one) for one in icon_predicates(page, page.find("css{button}#1").index)] == [
        str(one) for one in icon_predicates(page, page.find("css{button}#2").index)
    ]


def test_what_names_a_row_stands_in_its_tree() -> None:
    rows = MAIL.removeprefix("<table>").replace("s1", "outer")
    page = Page.parse(f"<div id=outer><x-mail><template shadowrootmode=open><table>{rows}</table></template></x-mail></div>")
    row = page.find("shadow css{x-mail} -> css{tr}#2")
    said = own_texts(page, row.index, page.find("shadow css{x-mail} -> css{input}#2").index)
    assert [page.semantics.worded[at] for at in titles_of(page, row.index, said)] == ["Saturn at nine?"]


def test_a_component_of_several_controls_is_no_button() -> None:
    two = "<template shadowrootmode=open><button>a</button><button>b</button></template><x-icon name=dome></x-icon>"
    page = Page.parse(f"<x-bar>{two}</x-bar><x-button>{GROWN}<x-icon name=dome></x-icon></x-button>")
    assert not list(icon_predicates(page, page.find("css{x-bar}").index))
    assert list(icon_predicates(page, page.find("css{x-button}").index))


def test_authors_of_many_and_headings_without_dates_keep_their_names() -> None:
    page = Page.parse(
        "<ul><li><a class=author href=i>Ines</a><li><a class=author href=b>Bram</a></ul><h2>Row 12</h2><h2>2 March</h2>"
    )
    assert not any(is_signed(page, element.index) for element in page.find_all("css{a}"))
    assert [known_by_number(page, element.index) for element in page.find_all("css{h2}")] == [True, False]
    assert not weak(page, 'role{link "Ines"}')


def test_a_class_that_its_row_says_first_tells_the_row() -> None:
    rows = "".join(f"<tr class=row-{star.lower()}><td>{star}<td><button>Hold</button>" for star, *_ in STARS)
    page = Page.parse(f"<table>{rows}</table>")
    locator, wanted = parse("css{.row-saturn button}"), page.find("css{button}#2")
    looks = {fact.value: fact.look for fact in dependencies(page, locator, wanted.index)}
    assert looks["row-saturn"] == "named"
    same = Page.parse(rows.replace("row-saturn", "row-vega").replace("row-mizar", "row-vega").join(("<table>", "</table>")))
    facts = dependencies(same, parse("css{.row-vega button}"), same.find("css{button}#3").index)
    assert {fact.value: fact.look for fact in facts}["row-vega"] == "named"  # as all rows are classed
    topics = Page.parse(TOPICS)
    facts = dependencies(topics, parse("css{.about-planets a}"), topics.find_all("css{.about-planets a}")[0].index)
    assert {fact.value: fact.look for fact in facts}["about-planets"] == "data"


def test_the_one_card_of_a_list_is_a_row_and_a_lone_box_is_none() -> None:
    page = Page.parse(BOARD)
    lone = page.find("text{Paint the door}").index
    assert row_of(page, lone) == page.find("css{.list:last-of-type .card}").index
    other = "<div class={}><div class=card><p>Vega</p><button>Move</button></div></div>"
    for page in (Page.parse(other.format("cards")), Page.parse(BOARD + other.format("hint"))):  # no other list, one of another kind
        assert row_of(page, page.find("text{Vega}").index) == -1


def test_a_field_with_an_example_keeps_its_hint_where_nothing_else_names_it() -> None:
    page = Page.parse('<main><input placeholder="e.g. Vega"><input placeholder="How many"></main>')
    first = rank(page.find("css{input}#1"), Question(rules=Rules(only=("css",))))[0]
    assert str(first.locator) == 'css{[placeholder="e.g. Vega"]}'


def test_a_day_of_a_calendar_is_told_by_its_month_and_not_by_its_weekday() -> None:
    def month(number: int, first: int) -> str:
        days = [0] * first + list(range(1, 29)) + [0] * (7 - first)
        weeks = (days[at : at + 7] for at in range(0, len(days), 7))
        cells = (
            "".join(f"<td data-month={number}><a href=#d data-date={d}>{d}</a>" if d else "<td>" for d in week) for week in weeks
        )
        heads = "".join(f"<th scope=col>{day}" for day in ("Su", "Mo", "Tu", "We", "Th", "Fr", "Sa"))
        return f"<table><thead><tr>{heads}<tbody>{''.join(f'<tr>{row}' for row in cells)}</table>"

    two = month(5, 2) + month(6, 4)
    for nth, number in ((1, 5), (2, 6)):
        said = proposed(two, f"css{{[data-date='14']}}#{nth}")
        assert said == f'xpath{{//td[@data-month="{number}"]//a[normalize-space()="14"]}}'
