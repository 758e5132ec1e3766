"""Pages made of components: their tags say where to look, bindings name their fields, what all of a kind have tells none."""

from __future__ import annotations

import pytest

from conftest import proposed, weak
from wary_hound import Page
from wary_hound.authoring.predicates import label_leading, leading_of
from wary_hound.authoring.taste import Surroundings, distaste
from wary_hound.locator.notation import parse
from wary_hound.locator.tables import Tables
from wary_hound.robustness.dependence import dependencies
from wary_hound.robustness.dependency import attribute_kind
from wary_hound.robustness.looks import look_of_class

STARS = ("Vega", "Saturn", "Mizar")
PEOPLE = ("Ines Moreau", "Bram Tolliver", "Ines Moreau")
# a form of components, whose fields are bound to data, beside another one
FORM = (
    """<x-root><x-bar><button>Menu</button></x-bar><x-night-form><form><x-field><input formcontrolname=target required></x-field>
<x-field><input formcontrolname=night required></x-field><x-toggle><button role=switch aria-checked=false></button></x-toggle>
<button type=submit><span class=x-button-label>Reserve</span></button></form></x-night-form><x-finder><form><input type=search>
<button type=submit>Find</button></form></x-finder><p>Dome notes</p><ul>"""
    + "<li><b>Night</b>" * 12
)
# boxes to tick that are labelled by the numbers of their rows, and heads that only a screen reader hears twice
PICKED = (
    "<table><tr><th><th aria-label=Target><a role=button><i>Sort by:</i><b>Target</b></a><button>Show Target actions</button>"
    + "".join(
        f"<tr><td><x-tick><input type=checkbox id=c{n}><label for=c{n}><i></i><span>Select item {n + 1}</span></label></x-tick>"
        f"<th scope=row><a href=/t/{star}>{star}</a><td><button aria-label='Open row {n + 1}'></button>"
        for n, star in enumerate(STARS)
    )
)
# questions of a form that a build has named, each an item of a list
ASKED = "<div role=list>" + "".join(
    f'<div role=listitem jsname=WsjYwc><div role=heading id=i{n}><span>{said}</span><b aria-label=required> *</b></div><div><div>'
    f'<input {kind} jsname=YPqjbf aria-labelledby="i{n} i{n}9"><input type=hidden></div></div></div>'
    for n, (said, kind) in enumerate((("Your name", "type=text"), ("Arrival", "type=date"), ("Dome", "type=text")))
) + '<div role=listitem jsname=WsjYwc><div role=radiogroup aria-label="How clear?">' + "".join(
    f"<label>{n}<div role=radio aria-label={n}></div></label>" for n in (1, 2, 3)
)  # fmt: skip
# a grid whose heads stand in no row
HEADS = "".join(f"<div role=columnheader><b>{head}</b></div>" for head in ("Target", "Observer", "Dome"))
GRID = f"<div role=grid><div>{HEADS}</div>" + "".join(
    f'<table role=presentation><tr><td role=gridcell data-columnid="column-1029">{star}'
    f'<td role=gridcell data-columnid="column-1030">{who}<td role=gridcell>north</table>'
    for star, who in zip(STARS, PEOPLE, strict=True)
)  # fmt: skip
# what is to be read and done, of kinds that are told by classes
KINDS = "<ul>" + "".join(
    f'<li class="item {kind} type_{kind}"><p><b>{said}</b></p><div><button title=Edit></button></div>'
    for n, (kind, said) in enumerate((("forum", "Notices"), ("task", "First light"), ("quiz", "Star names"), ("task", "Night log")))
)
MENU = "<ul>" + "".join(
    f'<li class="item nav-{name}"><a>{said}</a><i></i>' for name, said in (("nights", "Nächte"), ("domes", "Kuppeln"))
)
# cards with a picture of whoever keeps them
CARDS = "<main>" + "".join(
    f'<div class=kit-row><b class=r{n}>{star}</b><i role=img aria-label="{who} {n}"></i>'
    '<input type=checkbox aria-label="Select row"></div>'
    for n, (star, who) in enumerate(zip(STARS, PEOPLE, strict=True))
)
SPIN = "<ul class=stepper>" + "".join(f"<li class='spin-{way} spin-button'><i>+</i>" for way in ("up", "down", "up", "down"))
GUIDED = "<table>" + "".join(
    f"<tr><td>{star}<td><i title='Row {n} in full'>i</i><a href=/{star} aria-label='Go to {n}'></a>"
    f"<input formcontrolname=hours-{n - 1}>"
    for n, star in enumerate(STARS, 1)
)
CART = "<h2>Cart</h2><table><tr><td><a href=/vega>Vega chart</a><td><input name='counts[]'><button>More</button></table>"


# items in an item, none of which anybody has called
NESTED = "<div role=list><div role=listitem>Sky</div><div role=listitem><p>Stars</p><div role=list>" + "".join(
    f"<div role=listitem><div><span>{star}</span></div><p><input type=checkbox></p></div>" for star in STARS
)
# a button with all the marks of its kit, as others have
KIT = "<x-root><x-bar>" + "".join(
    f"<x-{name}-part><x-{name}><p><button x-icon-button class='x-focus x-icon-button x-base'><b class=x-wrap>"
    "<x-icon class=x-icon></x-icon></b><i class=x-ripple></i></button></p></x-{name}></x-{name}-part>".replace("{name}", name)
    for name in ("sun", "gear", "moon")
) + "</x-bar><ul>" + "<li><b>Night</b>" * 40  # fmt: skip


@pytest.mark.parametrize(
    ("page", "element", "only", "said"),
    [
        (FORM, "css{input}#1", "css", 'css{[formcontrolname="target"]}'),
        (FORM, "css{[type=submit]}#1", "css", 'css{x-night-form [type="submit"]}'),
        (FORM, "css{[role=switch]}", "css", "css{x-toggle button}"),
        (PICKED, "css{input}#2", "", 'css{input} @row-of text{Saturn}'),
        (PICKED, "css{td:nth-of-type(2) button}#2", "", 'css{button} @row-of text{Saturn}'),
        (PICKED, "css{th a}#1", "", 'xpath{//a[contains(., "Target")]}'),
        (ASKED, "css{[type=date]}", "", "label{~Arrival}"),
        (ASKED, "css{[type=date]}", "xpath", 'xpath{//div[@role="listitem"][.//span="Arrival"]//*[@type="date"]}'),
        (ASKED, "css{[role=radio]}#2", "css", 'css{div[aria-label="How clear?"] [aria-label="2"]}'),
        (GRID, "css{td}#5", "", "css{td} @row-of text{Saturn} and @column-of text{Observer}"),
        (KINDS, "css{button}#3", "", "css{button} @row-of text{Star names}"),
        (KINDS, "css{button}#3", "xpath", 'xpath{//li[p="Star names"]//button}'),
        (CARDS, "css{input}#2", "xpath", 'xpath{//div[b="Saturn"]//input}'),
        (NESTED, "css{input}#2", "xpath", 'xpath{//div[div/span="Saturn"]//input}'),
        (KIT, "css{x-gear button}", "css", "css{x-gear button}"),
        (CART, "css{input}", "css", 'css{tr:has([href="/vega"]) input}'),
    ],
)  # fmt: skip
def test_said_as_a_tester_would(page: str, element: str, only: str, said: str) -> None:
    assert proposed(page, element, only) == said


@pytest.mark.parametrize(
    ("page", "locator", "is_so"),
    [
        (FORM, "css{x-night-form [role=switch]}", False),
        (FORM, "css{x-root [role=switch]}", True),  # all stands in that
        (FORM, "css{ul b}", True),
        (PICKED, "label{Select item 2}", True),
        (PICKED, 'xpath{//td[.="Select item 2"]}', True),
        (PICKED, 'css{[aria-label="Open row 2"]}', True),
        (PICKED, "label{~Select item} @row-of text{Saturn}", False),
        (ASKED, 'css{div[jsname="WsjYwc"] [aria-label="2"]}', True),
        (ASKED, 'css{[jsname="YPqjbf"]}', True),
        (KINDS, "css{.quiz button}", True),
        (KINDS, "css{.type_quiz button}", True),
        (MENU, "css{.nav-domes a}", False),  # each item has its own
        (MENU.replace("nav-", "").replace("item nights", "item").replace("<ul>", '<ul><li class="item sky"><li class="item dusk">'),
         "css{.domes a}", False),  # most have one
        (SPIN, "css{.stepper .spin-up}", False),
        (GUIDED, 'css{[formcontrolname="hours-1"]}', True),
        (CART, 'css{[name="counts[]"]}', True),
        ("<p class=first><i data-mode=auto></i><p class=second><i></i>", "css{.first [data-mode=auto]}", True),
        ("<h2>Night</h2><div x-kit=card><b>Vega</b></div><div x-kit=card><i>Mizar</i></div>", "css{div[x-kit=card] i}", True),
        ("<h2>Night</h2><div x-kit=card><b>Vega</b></div><div x-kit=sky><i>Mizar</i></div>", "css{div[x-kit=sky] i}", False),
    ],
)  # fmt: skip
def test_what_says_which_is_meant(page: str, locator: str, is_so: bool) -> None:
    assert weak(f"<!doctype html><body>{page}", locator) is is_so


def test_what_a_field_is_bound_to_is_its_name() -> None:
    names = "formcontrolname formArrayName v-model v-model.trim x-model wire:model.lazy asp-for th:field name"
    assert {attribute_kind(name) for name in names.split()} == {"name"}
    assert attribute_kind("model") == attribute_kind("data-model-name".removeprefix("data-")) == "attribute"
    two = Page.parse("<!doctype html><form><input x-model=line1><input x-model=line2><input name=hour3></form>")
    looks = [dependencies(two, parse(f"css{{[{name}]}}"), at.index)[0].look for name, at in
             zip(("x-model=line1", "x-model=line2", "name=hour3"), two.find_all("css{input}"), strict=True)]  # fmt: skip
    assert looks == ["numbered", "numbered", "named"]  # the third is what a person called the one field of that name


def test_names_that_count_their_rows_are_positions() -> None:
    page = Page.parse(GUIDED)
    said = (
        'css{[title="Row 2 in full"]}',
        'css{[aria-label="Go to 2"]}',
        'role{link "Go to 2"}',
        'css{[formcontrolname="hours-1"]}',
    )
    looks = [{fact.look for fact in dependencies(page, parse(one), page.find(one).index)} for one in said]
    assert all("counting" in of_one for of_one in looks), looks


def test_a_counted_title_of_a_row_names_it_and_a_counted_label_does_not() -> None:
    page = Page.parse(PICKED.replace("Vega", "Night 1").replace("Saturn", "Night 2").replace("Mizar", "Night 3"))
    looks = {
        locator: {fact.look for fact in dependencies(page, parse(locator), page.find(locator).index)}
        for locator in ('role{link "Night 2"}', "label{Select item 2}")
    }
    assert looks == {'role{link "Night 2"}': {"", "numbered"}, "label{Select item 2}": {"counting"}}
    rows = (
        f"<tr><td><b>{star}</b><td><label><input type=checkbox aria-label='Box {n}'> Pick {n}</label>"
        for n, star in enumerate(STARS, 1)
    )
    twice = Page.parse("<table>" + "".join(rows))
    cell = twice.find("css{tr:nth-of-type(2) td:nth-of-type(2)}")
    assert cell.name == "Box 2 Pick 2"  # both numbers go on from row to row
    assert "counting" in {fact.look for fact in dependencies(twice, parse('role{cell ~"Pick 2"}'), cell.index)}


def test_heads_in_no_row_head_their_columns() -> None:
    page = Page.parse(GRID)
    cells = page.find_all("css{td}")
    tables = Tables.of(page)
    assert [page[head.index].text for cell in cells[3:6] for head in tables.heads_of(tables.cells[cell.index])] == [
        "Target", "Observer", "Dome"
    ]  # fmt: skip
    wrapped = Page.parse("<div role=grid><div role=row><div><b role=columnheader>Target</b></div></div></div>")
    assert not Tables.of(wrapped).cells  # what stands in a row heads nothing beside it


def test_what_announces_a_text_is_no_part_of_a_name() -> None:
    page = Page.parse(
        "<a href=#><i>Sort by:</i><b>Target</b></a><a href=#><i>Sort by:</i> <b>Hours</b></a><a href=#><b>Night</b><i>2031</i></a>"
    )
    assert [leading_of(page, at.index, at.name) for at in page.find_all("css{a}")] == ["Target", "", "Night"]
    page = Page.parse(PICKED)
    head = page.find("css{th a[role=button]}").index
    ways = [parse(said) for said in ('role{button "Sort by:Target"}', 'css{th[aria-label="Target"] a}')]
    whole, by_head = (distaste(dependencies(page, way, head), way, head, Surroundings.of(page, head)) for way in ways)
    assert by_head < whole
    page = Page.parse(ASKED)
    assert [label_leading(page, at.index) for at in page.find_all("css{input:not([type=hidden])}")] == [
        "Your name",
        "Arrival",
        "Dome",
    ]


def test_a_row_goes_by_its_title_and_not_by_a_picture_in_it() -> None:
    page = Page.parse(f"<!doctype html><body>{CARDS}")
    wanted = page.find("css{input}#2")
    around = Surroundings.of(page, wanted.index)
    ways = ('xpath{//div[.//*[@aria-label="Bram Tolliver 1"]]//input}', 'xpath{//div[.//b="Saturn"]//input}')
    by_picture, by_title = (
        distaste(dependencies(page, parse(way), wanted.index), parse(way), wanted.index, around) for way in ways
    )
    assert by_title + 1.0 < by_picture
    picture = page.find('css{[aria-label="Bram Tolliver 1"]}').index
    assert around.is_beside(picture)
    assert not around.is_beside(wanted.index)
    assert not around.is_beside(page.find('css{[aria-label="Ines Moreau 0"]}').index)


def test_utilities_of_kits_are_no_names() -> None:
    said = "block inline grid static fixed sticky grow shrink h3 display-2"
    assert {look_of_class(name) for name in said.split()} == {"utility"}
    assert {look_of_class(name) for name in ("blocks", "grid-nights", "h3-title", "display")} <= {"named", "numbered"}


def test_nobody_writes_the_role_of_a_drawing() -> None:
    page = Page.parse("<!doctype html><body><p id=sky><svg><path d=M0></path></svg></p>")
    drawing = page.find("css{svg}").index
    ways = [parse(said) for said in ("css{#sky} -> role{graphics-document}", "css{#sky svg}")]
    by_role, by_tag = (distaste(dependencies(page, way, drawing), way, drawing) for way in ways)
    assert by_tag + 1.0 < by_role
