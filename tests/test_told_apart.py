"""What tells an element apart, and what only seems to: anchors of its own kind, browsers' words, colours, figures in names."""

from __future__ import annotations

import pytest

from conftest import proposed, weak
from wary_hound import Page, rank
from wary_hound.authoring.anchors import called_in
from wary_hound.authoring.batch import ways_at_once
from wary_hound.authoring.paths import copied_path
from wary_hound.authoring.predicates import head_of
from wary_hound.authoring.question import Question
from wary_hound.authoring.rules import Rules
from wary_hound.authoring.signs import says_nothing
from wary_hound.locator.notation import parse
from wary_hound.locator.tables import Tables
from wary_hound.robustness.data import is_composed
from wary_hound.robustness.dependence import dependencies
from wary_hound.robustness.looks import look_of_class

SORTED = "<table><tr><th><a href=#>Star</a><th><a href=#>Hours</a><tr><td>Vega<td>4</table>"
TICKS = "<table><tr>" + "".join(
    f"<td><input id=w{n} type=checkbox><td><label for=w{n}>{said}</label>" for n, said in enumerate(("Clear", "Haze"))
)
TERMS = "<table><tr><td>Star<td>Vega<tr><td>Dome<td>North</table>"
PLANS = """<h3>Watcher</h3><table><tr><th>
<th scope=col><div>Gazer</div><div>€4</div><a href=?p=1>Choose</a>
<th scope=col><div>Watcher</div><div>€9</div><a href=?p=2>Choose</a>
<tr><th scope=row>Guests<td><i title=No></i><td><i title=No></i>
<tr><th scope=row>Drinks<td><i title=No></i><td><i title=Yes></i></table>"""
TRIPS = "".join(
    f'<div class=trip role=article aria-label="{who}, {leaves} to {comes}, {price} euros"><i>{leaves}</i> <i>{comes}</i>'
    f"<b>{stops}</b><p>{who}</p><button>Select</button></div>"
    for who, leaves, comes, stops, price in (
        ("Nightbus", "18:05", "20:10", "Direct", 89),
        ("Starline", "19:00", "22:20", "Twice", 72),
    )
)
SEVERAL = "<form>" + 2 * "<select><option>is<option>is not</select><button>Remove</button>"


def test_no_element_is_told_by_one_of_its_kind_that_only_the_relation_leaves_out() -> None:
    assert proposed(SORTED, "text{Star}") == 'role{link "Star"}'
    for page, element, like in ((SORTED, "css{th:nth-of-type(1) a}", "text{Hours}"), (TICKS, "css{[for=w0]}", "text{Haze}")):
        element = Page.parse(page).find(element)
        assert not [c for c in rank(element) if f"@row-of {like}" in str(c.locator)]


def test_nor_is_it_in_a_batch() -> None:
    said = [str(locator) for locator in ways_at_once(Page.parse(SORTED).find("text{Star}"), Question())]
    assert 'role{link "Star"}' in said
    assert not [one for one in said if "@row-of text{Hours}" in one]


def test_what_stands_beside_its_term_is_told_by_that() -> None:
    said = {str(c.locator) for c in rank(Page.parse(TERMS).find("css{td}#2"), Question(purpose="read"))}
    assert "css{td} @row-of text{Star}" in said


def looks(page: Page, locator: str) -> set[str]:
    """What the facts look like that a locator rests on."""
    return {fact.look for fact in dependencies(page, parse(locator), page.find_all(locator)[0].index)}


def test_the_name_of_what_holds_a_button_that_a_browser_names_is_data() -> None:
    page = Page.parse("<table><tr><th>Star<td>Edit <input type=image src=x.gif></table>")
    assert "data" in looks(page, 'role{cell "Edit Submit Query"}')
    own = Page.parse("<table><tr><th>Star<td>Edit <input type=image src=x.gif alt=Remove></table>")
    assert "data" not in looks(own, 'role{cell "Edit Remove"}')


@pytest.mark.parametrize(
    ("name", "look"), [("red", "utility"), ("btn-green", "utility"), ("light-grey", "utility"), ("cur", "state"), ("redo", "named")]
)
def test_a_colour_says_how_it_looks(name: str, look: str) -> None:
    assert look_of_class(name) == look


ROOT = f"<div id=root><div><h1 class=x>Rights <b>2</b></h1>{'<p>All</p>' * 30}<label class=l1>Limit</label></div></div>"


def test_the_title_of_a_page_is_its_h1() -> None:
    title = Page.parse(ROOT).find("css{h1}")
    for only, said in ((), "css{h1}"), (("xpath",), "xpath{//h1}"):
        best = rank(title, Question(rules=Rules(only=only), purpose="read"))[0]
        assert (str(best.locator), best.weak) == (said, True)  # there is one today


def test_a_path_from_what_holds_all_of_the_page_is_one_from_the_top() -> None:
    page = Page.parse(ROOT)
    at = page.find("css{p}#2").index
    assert str(copied_path(page, at, narrowing=True)) == "xpath{/html/body/div/div/p[2]}"
    assert str(copied_path(page, at)) == 'xpath{//*[@id="root"]/div/p[2]}'  # as inspectors have it
    small = Page.parse(f"{ROOT}<ul id=stars><li>Vega</li><li>Mizar</li></ul>")
    assert str(copied_path(small, small.find("css{li}#2").index, narrowing=True)) == 'xpath{//*[@id="stars"]/li[2]}'


def test_a_class_that_a_build_made_is_weak() -> None:
    page = Page.parse("<div class=rights><button class=sc-gzVnrw></button><button class=add></button></div>")
    assert weak(page, "css{.rights .sc-gzVnrw}")
    assert not weak(page, "css{.rights .add}")


def test_columns_are_called_by_what_stands_first_in_their_heads() -> None:
    assert proposed(PLANS, "css{[title=Yes]}") == "css{i} @row-of text{Drinks} and @column-of text{Watcher}"
    said = {str(c.locator) for c in rank(Page.parse(PLANS).find("css{tr:nth-of-type(2) td:nth-of-type(2) i}"))}
    assert "css{i} @row-of text{Guests} and @column-of text{Watcher}" in said
    assert not [one for one in said if "€9" in one]
    xpath = proposed(PLANS, "css{tr:nth-of-type(2) td:nth-of-type(2) i}", "xpath")
    assert xpath.startswith('xpath{//tr[th="Guests"]//*[count(//th[div="Watcher"]/preceding-sibling::* | //th[div="Watcher"])]//')


def test_a_number_before_it_does_not_call_a_column() -> None:
    page = Page.parse("<table><tr><th><b>1</b><i>Star</i><th><b>Watcher</b><i>name</i><tr><td>Vega<td>Ada</table>")
    assert [page.semantics.worded[called_in(page, page.find(f"css{{th}}#{at}").index)] for at in (1, 2)] == ["1Star", "Watcher"]


def test_what_spans_columns_is_told_by_none() -> None:
    page = Page.parse("<table><tr><th>Star<th>Hours<tr><td>Vega<td>4<tr><td colspan=2>1 <a href=?p=2>2</a></table>")
    assert not [c for c in rank(page.find("css{[colspan]}")) if "column-of" in str(c.locator) or "count(" in str(c.locator)]


@pytest.mark.parametrize(
    ("page", "element", "said"),
    [
        ("<label><input type=checkbox value=1> 1 stop <i>(12)</i> <i>€72</i></label>", "css{input}", "label{~1 stop}"),
        (
            "<button role=radio>Yearly <em>save 20%</em></button><button role=radio>Monthly</button>",
            "css{button}#1",
            'role{radio ~"Yearly"}',
        ),
        (TRIPS, "css{button}#1", "css{button} @row-of text{Nightbus}"),
        ('<button aria-label="Notifications, 3 unread"></button>', "css{button}", "label{~Notifications}"),
    ],
)
def test_figures_behind_a_name_are_left_out(page: str, element: str, said: str) -> None:
    assert proposed(page, element) == said


def test_in_css_too() -> None:
    assert (
        proposed('<button aria-label="Notifications, 3 unread"></button>', "css{button}", "css")
        == 'css{[aria-label^="Notifications"]}'
    )
    assert proposed(TRIPS, "css{button}#1", "css") == 'css{div[aria-label^="Nightbus"] button}'


@pytest.mark.parametrize(
    ("name", "head"),
    [("Notifications, 3 unread", "Notifications"), ("Row 1, seat 3", ""), ("North dome, open", ""), ("Lyra, Vega, 4 h", "Lyra")],
)
def test_what_stands_before_figures(name: str, head: str) -> None:
    assert head_of(name) == head


@pytest.mark.parametrize(
    ("text", "composed"),
    [
        ("Starline, 19:00 to 22:20, 72 euros", True),
        ("Starline from 19:00 to 22:20 on 3", True),
        ("March 3, 2031", False),
        ("Row 2, seat 3", False),
        ("2031-03-03 18:00 to 19:00", False),
    ],
)
def test_names_put_together_from_figures_are_data(text: str, composed: bool) -> None:
    assert is_composed(text) is composed
    page = Page.parse(f'<div role=article aria-label="{text}"><button>Hold</button></div><button>Hold</button>')
    told = looks(page, f'css{{[aria-label="{text}"] button}}')
    assert ("data" in told) is composed


def test_what_is_chosen_now_says_not_which() -> None:
    page = Page.parse(
        "<ul aria-expanded=true><li><a href=#d>dome</a><ul><li aria-selected=true><b>motor</b><li><b>shutter</b></ul></ul>"
    )
    assert weak(page, 'css{[aria-selected="true"] b} @row-of text{dome}')
    assert not weak(page, 'css{[aria-expanded="true"] b} @row-of text{dome}')


def test_no_option_and_no_deed_of_several_leads_to_what_comes_next() -> None:
    page = Page.parse(SEVERAL)
    for at in range(len(page)):
        if page.tags[at] in ("select", "button"):
            said = [str(c.locator) for c in rank(page[at])]
            assert not [one for one in said if "option" in one.split("following")[0] and "following" in one]
            assert not [one for one in said if '"Remove"]/following' in one]
    other = Page.parse("<select><option>Dome</option></select><button></button><select><option>Star</option></select>")
    said = [str(c.locator) for c in rank(other.find("css{button}"))]
    assert not [one for one in said if "option" in one.split("following")[0] and "following" in one]


KIT = """<div><button data-testid=base-second kind=plain>Point</button><button data-testid=base-first>Start night</button></div>
<section aria-label=Picture><button data-testid=base-second>Browse files</button></section>"""
ROUTES = """<fieldset><a href="index.php?route=/export&t=1">Export</a></fieldset><a href="index.php?route=/browse&t=1">Browse</a>
<a href="/nights?t=1">Nights</a>"""
TYPES = "<table><tr><th>Star<th>Hours" + "".join(
    f'<tr><td data-type=words>{star}<td data-type=real>{hours}<td><input type=checkbox value="`id` = {n}">'
    f'<a href="/edit?id={n}">Edit</a>'
    for n, star, hours in ((12, "Vega", 4.5), (14, "Mizar", 2.5))
)
WRAPPED = "<div role=grid>" + "".join(
    f'<div class=slot><div role=row aria-label="{name}"><div role=gridcell class=cell>'
    f"<button class=link>{name}</button></div></div></div>"
    for name in ("vega.fits", "mizar.fits")
)


def test_a_test_attribute_that_several_have_names_a_kind() -> None:
    assert proposed(KIT, "css{button}#3") == 'role{button "Browse files"}'
    assert weak(Page.parse(KIT), "css{section [data-testid=base-second]}")
    assert not weak(Page.parse(KIT), "css{[data-testid=base-first]}")


def test_the_beginning_of_several_addresses_leads_to_none() -> None:
    page = Page.parse(ROUTES)
    assert weak(page, 'css{fieldset [href^="index.php"]}')
    assert not weak(page, 'css{[href^="/nights"]}')


def test_what_programs_write_and_what_all_rows_have_tells_no_row() -> None:
    assert says_nothing("value", "`id` = 12", "input", "checkbox")
    assert not says_nothing("value", "12", "input", "checkbox")
    assert proposed(TYPES, "css{input}#1") == "css{input} @row-of text{Vega}"
    page = Page.parse(TYPES)
    assert weak(page, "css{[data-type=real]}")
    assert not weak(page, "css{[data-type=real]} @row-of text{Vega}")


def test_rows_that_stand_in_boxes_of_their_own_are_rows_of_one_grid() -> None:
    page = Page.parse(WRAPPED)
    row = page.find("css{[role=row]}#1").index
    assert len(Tables.of(page).rows_with(row)) == 2
    assert Tables.of(page).rows_with(page.find("css{.slot}#1").index) == []
    assert weak(page, "css{.cell .link}")
    assert not weak(page, 'css{[aria-label="vega.fits"] .link}')


def test_a_list_is_not_called_by_what_was_chosen_in_it() -> None:
    page = '<div data-testid=dome><div><span>North</span><input role=combobox aria-label="Selected North. Dome"></div></div>'
    assert weak(Page.parse(page), "label{Selected North. Dome}")
    assert proposed(page, "css{input}") == 'css{div[data-testid="dome"] input}'
    assert not weak(Page.parse(page.replace("Selected North. Dome", "Dome")), "label{Dome}")
