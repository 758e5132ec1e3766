"""How what stands in a row of a row, in one of two tables that say the same, in a closed menu or beside a person's name is said."""

from __future__ import annotations

import pytest

from conftest import proposed
from wary_hound import Page, convert, rank
from wary_hound.authoring.alternatives import says_itself
from wary_hound.authoring.anchors import heads_with_deeds, own_texts, related, whole_texts
from wary_hound.authoring.around import rows_in_xpath
from wary_hound.authoring.predicates import attribute_predicates, is_initials
from wary_hound.authoring.question import Question
from wary_hound.authoring.ranking import assess
from wary_hound.authoring.rules import Rules
from wary_hound.authoring.signs import says_nothing, unmarked
from wary_hound.authoring.taste import Surroundings, distaste
from wary_hound.authoring.weakness import is_weak
from wary_hound.locator.blocks import rows_around
from wary_hound.locator.css.building import selector
from wary_hound.locator.evaluate import match
from wary_hound.locator.making import css
from wary_hound.locator.notation import parse
from wary_hound.locator.values import Relation
from wary_hound.locator.xpath.printing import xpath_text
from wary_hound.robustness.bylines import is_contact, is_signed
from wary_hound.robustness.data import is_moment, is_passing, shows_data
from wary_hound.robustness.dependence import dependencies
from wary_hound.robustness.dependency import COMMON, CONTACT, SIGNED
from wary_hound.robustness.looks import look_of_class

MENU = "<div><button aria-label=More></button><ul role=menu><li role=menuitem>Edit<li role=menuitem>Delete</ul></div>"
NIGHTS = f"<table><tr><th>Star<th>Dome<th><tr><td>Vega<td>North<td>{MENU}<tr><td>Mizar<td>South<td>{MENU}</table>"
CARDS = "<div>" + "".join(
    f"<div class=card><h3>{name}</h3><ul class=tags>{''.join(f'<li>{tag} <button>×</button></li>' for tag in tags)}</ul>"
    f"<ul class=menu{hidden}><li><a href=#>Refund</a></li><li><a href=#>Copy</a></li></ul><p>Open</p></div>"
    for name, tags, hidden in (("Lyra", ("north", "summer"), " hidden"), ("Cygnus", ("north", "winter"), " hidden"))
)
TWO = "".join(
    f"<h2>{name.title()}</h2><table id={name}><tr><th>Star<th>Places<th>"
    + "".join(
        f"<tr data-star={star.lower()}><td>{star}<td class=places>{n}<td><button>Hold</button>" for n, star in enumerate(stars, 3)
    )
    + "</table>"
    for name, stars in (("coming", ("Vega", "Altair", "Mizar")), ("waiting", ("Mizar", "Vega")))
)
LISTS = "".join(
    f"<ul class={name}>"
    + "".join(f'<li data-key="{star}"><b>{star}</b><button>Hold</button></li>' for star in ("vega", "mizar"))
    + "</ul>"
    for name in ("soon", "later")
)
SUMS = """<table><tr><th>Night<th>Seats<th>Sum<tr><td>Vega<td>2<td>24<tr><td>Mizar<td>1<td>14</table>
<table><tr><th>When<th>Sum<tr><td>1 Sep 2031 10:14<td>38</table><p><label>Sum <input name=sum></label>"""
ORDER = """<table><tr><td>Subtotal<td class=num>€38.00<tr><td>Discount <a href=#>Edit</a><td class=num>−€3.80</table>
<div class=card><div>Visitor<a class=edit href="/visitors/9/edit">Edit</a></div><p>Ada Nill</p></div>"""
ARTICLES = "".join(
    f'<article class=story><h3><a href="/story/{n}">{title}</a></h3><p class=byline>By <a href="/who/{who[:3].lower()}">{who}</a>, '
    f"{n} September 2031</p><button>Save</button></article>"
    for n, title, who in (
        (2, "Rings at their widest", "Mara Quint"),
        (3, "Dome door mended", "Mara Quint"),
        (4, "Cold", "Ivo Hart"),
    )
)
THREAD = "".join(
    f'<div class=comment id="comment-{n}"><div class=head><a class=who href="/{who}">{who}</a> wrote '
    f'<a href="#comment-{n}">{n % 9} days ago</a>'
    f'<details><summary aria-label="Show options"></summary></details></div><p>{said}</p>{react}</div>'
    for n, who, said, react in (
        (1183, "mara", "The door is stuck", '<button aria-label="react with eyes">👀</button>'),
        (1190, "mara", "Same in the south", ""),
    )
)
FIELDS = """<div><label for=a7f3e2d1c>Visitor <i>*</i></label><input id=a7f3e2d1c></div><div><label>Night * <input></label></div>
<div><label for=b1>Seats (required)</label><input id=b1 type=number></div>"""
SEAT = """<label for=combobox-button-620>Seat</label><button role=combobox id=combobox-button-620 aria-label="Seat, none yet"
 data-value="none yet">none yet</button>"""
PAGER = "<p>" + "".join(f"<a role=button class=b><span class=page-{way}></span></a>" for way in ("first", "prev", "next", "last"))
GRID = "<table>" + "".join(
    f'<tr class="{stripe}" data-rowid="ext-record-{n}"><td>{star}<td><img alt="">'
    for n, star, stripe in ((17, "Ada Nill", "row"), (18, "Ivo Hart", "row row-alt"), (19, "Jan Bly", "row"))
)
PARTS = """<div><label for=inp2-inner>Star</label><div id=inp2><input id=inp2-inner>
<span id=inp2-vhi role=button aria-label="Value help"></span></div></div>"""
COPIES = "<ul>" + "".join(f'<li><pre id=cell{n}>x</pre><button data-copies="#cell{n}"></button></li>' for n in (1, 2, 3))
MESSAGE = """<div><p aria-live=assertive>Booking saved <button class=act>Undo</button></p>
<p class=later><button class=b>Later</button></p></div>"""


DETAILS = "<dl><dt>Booked<dd>2</dl><button>Repeat</button>"
BANK = "<section>" + "".join(
    f"<h3>{day}</h3><ul>"
    + "".join(
        f"<li><button class=tx><b class=logo>{letters}</b><span class=who>{who}</span><i>{amount}</i></button>{more}</li>"
        for letters, who, amount, more in lines
    )
    + "</ul>"
    for day, lines in (
        (
            "Monday",
            (("SD", "Star Diner", "−140,00", ""), ("LS", "Lens Shop", "−9,00", "<dl><dt>Booked<dd>2</dl><button>Repeat</button>")),
        ),
        ("Sunday", (("SD", "Star Diner", "−95,00", ""),)),
    )
)
FLAT = "<div>" + "".join(
    f"<h2>{title}</h2><p>{words}</p><a href=#>More</a>" for title, words in (("Prices", "From 12"), ("Safety", "Warm"))
)
STEPS = "<ol><li><a href='?step=1'><span>1</span>Night</a><li><a href='?step=2'><span>2</span>Seats</a></ol>"
KEYS = "<ul role=menu><li role=menuitem>Share screen<kbd>⇧S</kbd><li role=menuitem>Share all<kbd>⇧A</kbd></ul>"


@pytest.mark.parametrize(
    ("page", "element", "only", "said"),
    [
        # the item of a menu in a row: by both, whether the menu is open or not
        (NIGHTS, "css{li}#4", "", 'role{menuitem "Delete"} @row-of text{Mizar}'),
        (NIGHTS, "css{li}#4", "xpath", '//tr[td="Mizar"]//li[normalize-space()="Delete"]'),
        (CARDS, "css{.menu a}#3", "xpath", '//div[h3="Cygnus"]//a[normalize-space()="Refund"]'),
        (CARDS, "css{.tags button}#1", "xpath", '//div[h3="Lyra"]//li[contains(., "north")]//button'),
        (CARDS, "css{.tags button}#2", "", "css{button} @row-of text{~summer}"),
        # rows that two tables have: by what tells them, in the one that is meant
        (TWO, "css{button}#1", "css", '#coming tr[data-star="vega"] button'),
        (TWO, "css{button}#5", "", 'css{#waiting tr[data-star="vega"] button}'),
        (TWO, "css{button}#5", "xpath", '//*[@id="waiting"]//tr[@data-star="vega"]//button'),
        (LISTS, "css{button}#3", "css", '.later li[data-key="vega"] button'),
        # a column of which another table has one, too, and a label says the same
        (SUMS, "css{td}#6", "", "css{td} @row-of text{Mizar} and @column-of text{Sum}"),
        # what a row begins with is its title, and not the link in it
        (ORDER, "css{.num}#2", "", "css{td} @row-of text{~Discount}"),
        (ORDER, "css{.edit}", "css", '[href="/visitors/9/edit"]'),
        # who wrote it is another article's, too; the article has a title
        (ARTICLES, "css{button}#2", "", "css{button} @row-of text{Dome door mended}"),
        (ARTICLES, "css{.byline a}#3", "", "css{.byline a} @row-of text{Cold}"),
        # neither how long ago, nor how others felt about it
        (THREAD, "css{summary}#1", "", "css{summary} @row-of text{The door is stuck}"),
        (THREAD, "css{summary}#1", "xpath", '//div[p="The door is stuck"]//summary'),
        # marks and hints behind what a field is called
        (FIELDS, "css{input}#1", "", "label{~Visitor}"),
        (FIELDS, "css{input}#1", "xpath", '//*[@id=//label[contains(., "Visitor")]/@for]'),
        (FIELDS, "css{input}#2", "xpath", '//label[contains(., "Night")]//input'),
        (FIELDS, "css{input}#3", "", "label{~Seats}"),
        (
            '<p><button aria-label="Bold, Ctrl+B"></button><button aria-label="Dim, Ctrl+D">',
            "css{button}#1",
            "",
            'role{button ~"Bold"}',
        ),
        # a list without what was chosen there
        (SEAT, "css{button}", "", "label{~Seat}"),
        (SEAT, "css{button}", "css", '[aria-label^="Seat"]'),
        # buttons of a pager by their icons, rows by what they say and not by their stripe
        (PAGER, "css{a}#1", "", "css{a:has(.page-first)}"),
        (GRID, "css{img}#2", "", "css{img} @row-of text{Ivo Hart}"),
        # below a heading that stands in one box with what it heads
        (
            BANK,
            "css{.tx}#1",
            "xpath",
            '//ul[preceding-sibling::h3[1][normalize-space()="Monday"]]//button[contains(., "Star Diner")]',
        ),
        (FLAT, "css{a}#2", "xpath", '//a[preceding-sibling::h2[1][normalize-space()="Safety"]]'),
        # by the name, and not by its first letters, by a term or by what can be done
        (BANK, "css{.tx}#2", "", 'role{button ~"Lens Shop"}'),
        (BANK, "css{dl}", "", "css{dl} @row-of text{Lens Shop}"),
        (STEPS, "css{a}#1", "", 'role{link ~"Night"}'),
        (KEYS, "css{li}#1", "", 'role{menuitem ~"Share screen"}'),
        (KEYS, "css{li}#1", "xpath", '//li[contains(., "Share screen")]'),
        # what a control in a message does
        (MESSAGE, "css{.act}", "", 'role{button "Undo"}'),
        # a deed with what it is done to
        ('<p><a href="/password/new"><i></i></a><a href="/visits/3"><i></i></a>', "css{a}#1", "css", '[href="/password/new"]'),
    ],
)
def test_what_stands_in_rows_and_menus_is_said_by_them(page: str, element: str, only: str, said: str) -> None:
    assert proposed(page, element, only) == (f"{only}{{{said}}}" if only else said)


def test_rows_around_an_element_come_the_nearest_first() -> None:
    page = Page.parse(NIGHTS)
    item, row = page.find("css{li}#3").index, page.find("css{tr}#3").index
    assert list(rows_around(page, item)) == [item, row]
    assert list(rows_around(page, page.find("css{table}").index)) == []
    assert list(rows_around(page, item, most=1)) == [item]


def test_the_drawings_in_a_card_make_no_part_of_the_page_of_it() -> None:
    icon = f"<svg>{'<path d=M0 />' * 70}</svg>"
    page = Page.parse(
        "<div>" + "".join(f"<div class=card><h3>{name}</h3><p>{icon}<b>x</b></p></div>" for name in ("Lyra", "Cygnus"))
    )
    assert [page.find("css{.card}#2").index] == list(rows_around(page, page.find("css{b}#2").index))
    boxes = "<i></i>" * 70
    page = Page.parse(
        "<div>" + "".join(f"<div class=card><h3>{name}</h3><p>{boxes}<b>x</b></p></div>" for name in ("Lyra", "Cygnus"))
    )
    assert list(rows_around(page, page.find("css{b}#2").index)) == []


def test_one_xpath_of_a_row_is_that_around_a_row() -> None:
    page = Page.parse(NIGHTS)
    for locator in ('role{menuitem "Delete"} @row-of text{Mizar}', "css{li} @row-of text{Vega}", "css{button} @row-of text{Vega}"):
        assert match(page, convert(locator, "xpath")) == match(page, locator)
        assert match(page, convert(locator, "xpath", page)) == match(page, locator)


def test_names_in_bylines_say_nothing_of_their_articles() -> None:
    page = Page.parse(ARTICLES)
    name = page.find("css{.byline a}#1")
    assert is_signed(page, name.index)
    assert not is_signed(page, page.find("css{h3 a}#1").index)
    assert not is_signed(page, page.find("css{button}#1").index)
    listed = Page.parse(
        "<h2>Nights</h2><ul>" + "".join(f"<li><a href=/{s}>{s}</a> 3 September 2031</li>" for s in ("Vega", "Mizar"))
    )
    assert not is_signed(listed, listed.find("css{a}#1").index)  # that is what the line is known by
    facts = dependencies(page, parse('css{[href="/who/ivo"]}'), page.find("css{.byline a}#3").index)
    assert [fact.remark for fact in facts if fact.base == "href"] == [SIGNED]
    assert assess("css{.story .byline}", page.find("css{.byline}#1")).weak  # there are three
    assert not assess("css{.byline} @row-of text{Cold}", page.find("css{.byline}#3")).weak


def test_how_a_person_is_reached_is_data_but_of_the_site() -> None:
    page = Page.parse(
        '<main><p>Phone <a href="tel:+475550134">+47 555 0134</a><a href="mailto:ada@x.example?subject=a">Write</a></p></main>'
        "<footer><a href=mailto:info@x.example>info@x.example</a></footer>"
    )
    assert [is_contact(page, a.index) for a in page.find_all("css{a}")] == [True, False, False]
    facts = dependencies(page, parse('css{[href^="tel:"]}'), page.find("css{a}#1").index)
    assert CONTACT in {fact.remark for fact in facts}


def test_what_others_say_too_does_not_say_which() -> None:
    page = Page.parse('<p><a href="/9/edit">Edit</a><a href="/1/address">Edit</a><a href="/7/copy">Copy</a>')
    said = {
        a: [f.remark for f in dependencies(page, parse(a), match(page, parse(a))[0])]
        for a in ('css{[href*="edit"]}', 'css{[href*="copy"]}')
    }
    assert said == {'css{[href*="edit"]}': [COMMON], 'css{[href*="copy"]}': [""]}
    parts = Page.parse(PARTS)
    facts = dependencies(parts, parse('css{[id$="-vhi"]}'), parts.find("css{span}").index)
    assert [fact.remark for fact in facts] == [COMMON]
    assert proposed(PARTS, "css{span}") == 'css{[aria-label="Value help"]}'


def test_ticks_of_a_style_sheet_say_what_is_chosen(monkeypatch: pytest.MonkeyPatch) -> None:
    menu = "<div role=menu>" + "".join(f"<button>{name}</button>" for name in ("Name", "Team", "Grade"))
    for ticked, look in (((), "words"), ((0,), "data")):
        page = Page.parse(menu)
        marked = {page.find_all("css{button}")[at].index for at in ticked}
        shown = [f"{said}✓" if at in marked else said for at, said in enumerate(page.semantics.worded)]
        monkeypatch.setitem(vars(page.semantics), "text", shown)  # as a browser says it
        facts = dependencies(page, parse('role{button "Grade"}'), page.find("css{button}#3").index)
        assert [fact.look for fact in facts if fact.kind == "accessible-name"] == [look]


def test_texts_that_tell_no_row() -> None:
    lens = "<span>Lens Shop</span><i>3 days ago</i><dl><dt>Booked</dt><dd>2</dd></dl><button>Repeat</button><b>7</b>"
    page = Page.parse(f"<ul><li>{lens}</li><li><dl><dt>Booked</dt><dd>2</dd></dl></li></ul>")
    row, other = (at.index for at in page.find_all("css{li}"))
    words = page.semantics.worded
    assert [words[at] for at in whole_texts(page, row, 0)] == ["Lens Shop", "Repeat", "2", "7"]
    assert [words[at] for at in whole_texts(page, other, 0)] == ["Booked", "2"]
    assert [words[at] for at in own_texts(page, row, page.find("css{dd}#1").index)] == ["Lens Shop", "2", "7"]
    assert own_texts(page, row, page.find("css{span}").index) == [page.find("css{span}").index]  # no figure tells what tells


def test_what_says_what_comes_next_tells_nothing_before_it() -> None:
    page = Page.parse("<ul><li><b>Star:</b><input><i>Title matches:</i><a>Vega</a></li><li><a>Mizar</a></li></ul>")
    row, field = page.find("css{li}#1").index, page.find("css{input}").index
    words = page.semantics.worded
    assert [words[at] for at in own_texts(page, row, field)] == ["Star:", "Vega"]
    assert [words[at] for at in own_texts(page, row, page.find("css{a}#1").index)] == ["Star:", "Title matches:", "Vega"]


def test_a_row_around_a_row_is_told_by_its_title() -> None:
    page = Page.parse(CARDS)
    card = page.find("css{.card}#1").index
    link = page.find("css{.menu a}#1").index
    assert [page.tags[at] for at in own_texts(page, card, link)] == ["h3"]
    listed = Page.parse("<ul><li><ul><li>Copy<li><a>Go</a></ul><b>Vega</b></ul>")
    assert own_texts(listed, listed.find("css{li}#1").index, listed.find("css{a}").index) == []


def test_headings_that_hold_buttons_head_nothing_by_their_words() -> None:
    for inside, said in (("<b>Casting</b><button>edit</button>", []), ("Casting", ["text{Casting}"])):
        page = Page.parse(f"<section><h2>{inside}</h2><p><input></p></section><section><h2>Tuning</h2><p><input></p></section>")
        found = [
            str(anchor) for relation, anchor in related(page, page.find("css{input}#1").index) if relation is Relation.GROUP_OF
        ]
        assert found == said


@pytest.mark.parametrize(
    ("page", "element", "locator", "weak"),
    [
        (ARTICLES, "css{.byline a}#3", 'css{[href="/who/ivo"]}', True),
        (ARTICLES, "css{.byline a}#3", 'css{[href="/who/ivo"]} @row-of text{Cold}', True),
        (ARTICLES, "css{button}#3", "css{button} @row-of text{Ivo Hart}", True),
        (ARTICLES, "css{button}#3", "css{button} @row-of text{Cold}", False),
        (THREAD, "css{summary}#1", 'css{.comment:has([aria-label="react with eyes"]) summary}', True),
        (THREAD, "css{[aria-label]}#2", 'css{[aria-label="react with eyes"]}', False),  # of the button itself it says which
    ],
)
def test_what_by_lines_make_weak(page: str, element: str, locator: str, weak: bool) -> None:
    parsed = Page.parse(page)
    at = parsed.find(element).index
    assert is_weak(dependencies(parsed, parse(locator), at), at) is weak


@pytest.mark.parametrize(
    ("page", "element", "locator", "kind", "look"),
    [
        (GRID, "css{tr}#2", 'css{[data-rowid="ext-record-18"]}', "data", "counting"),
        (THREAD, 'css{[href^="#"]}#1', 'css{[href="#comment-1183"]}', "href", "generated"),
        (COPIES, "css{button}#2", 'css{[data-copies="#cell2"]}', "data", "numbered"),  # as steady as the id that it leads to
        (SEAT, "css{button}", 'css{[data-value="none yet"]}', "data", "data"),
        (SEAT, "css{button}", 'css{[aria-label="Seat, none yet"]}', "aria-label", "data"),
        (SEAT, "css{button}", "label{~Seat}", "label", "words"),
    ],
)
def test_looks_of_what_a_page_counts_or_shows(page: str, element: str, locator: str, kind: str, look: str) -> None:
    parsed = Page.parse(f"<!doctype html><body>{page}")
    facts = dependencies(parsed, parse(locator), parsed.find(element).index)
    assert [fact.look for fact in facts if fact.base == kind] == [look]


def weighs(page: Page, locator: str, element: str) -> float:
    at, parsed = page.find(element).index, parse(locator)
    assert match(page, parsed) == [at]
    return distaste(dependencies(page, parsed, at), parsed, at, Surroundings.of(page, at))


def test_what_an_engineer_would_rather_have() -> None:
    items = "".join(f"<li>{word}</li>" for word in "abcdefghijkl")
    page = Page.parse(
        f"<div class=page><div class=tools><button formcontrolname=go class=x>Go</button></div><ul class=all>{items}</ul></div>"
        "<table><tr><th>Item<th>Sum<tr><td><a href=# class=add>Add</a><td>3</table>"
        "<fieldset><legend>Passage</legend><ul class=errors><li>Wrong</li></ul></fieldset>"
    )
    whole = Page.parse("<p>x</p><div class=page><div class=tools><button>Go</button></div>{}</div>".format("<i></i>" * 9))
    assert weighs(whole, "css{.tools button}", "css{button}") < weighs(whole, "css{.page button}", "css{button}")
    assert weighs(page, "css{[formcontrolname=go]}", "css{button}") < weighs(page, "css{.x}", "css{button}")
    assert weighs(page, "css{.add}", "css{a}") < weighs(page, "css{a} @column-of text{Item}", "css{a}")
    item = "css{.errors li}"
    assert weighs(page, item, item) < weighs(page, "css{li} @group-of text{Passage}", item)
    grouped = Page.parse("<fieldset><legend>Passage</legend><ul><li>Wrong</li></ul><button>Hold</button></fieldset>")
    for said, stands in (("li", False), ("button", True)):
        one = assess(f"css{{{said}}} @group-of text{{Passage}}", grouped.find(f"css{{{said}}}"), Question())
        assert says_itself(one, grouped.find(f"css{{{said}}}").index, grouped) is stands
    assert says_nothing("viewBox", "0 0 8 8", "svg", "")
    assert says_nothing("font-family", "serif", "text", "")


def test_what_is_asked_for_of_addresses_and_hints() -> None:
    said = [str(css(selector(one))) for one in attribute_predicates({"href": "/password/new"}, "a")]
    assert 'css{[href*="password/new"]}' in said
    assert 'css{[href*="new"]}' not in said
    query = "select id, code, room, stage, bags and notes from the batches in the order of their ids, thirteen at most"
    assert [*attribute_predicates({"title": query[:81]}, "a")] == []
    assert [one.value for one in attribute_predicates({"title": query[:80]}, "a")][:1] == [query[:80]]
    hinted = [str(css(selector(one))) for one in attribute_predicates({"aria-label": "Bold, Ctrl+B"}, "button")]
    assert 'css{[aria-label^="Bold"]}' in hinted
    page = Page.parse(FIELDS)
    assert 'role{textbox ~"Visitor"}' in [str(one.locator) for one in rank(page.find("css{input}#1"), Question(ways=1))]
    icons = Page.parse(
        "<ul>" + "".join(f'<li><i></i><button aria-label="Edit {star}"></button><input></li>' for star in ("Vega", "M31"))
    )
    assert str(rank(icons.find("css{input}#1"), Question(ways=1, rules=Rules(only=("css",))))[0].locator) == (
        'css{li:has([aria-label="Edit Vega"]) input}'
    )
    order = Page.parse(ORDER)
    discount = [test for way in rows_in_xpath(order, order.find("css{.num}#2").index) if way.step for test in way.step.predicates]
    assert [xpath_text(test) for test in discount] == ['td[normalize-space(text())="Discount"]']


def test_steps_and_rows_are_bound_to_what_stands_around() -> None:
    page = Page.parse("<nav id=one><p>a</p><p>b</p><p>c</p><ul><nav id=two>x</nav><li><a>Nights</a></li></ul></nav>")
    link = page.find("css{a}").index
    bound = {fact.element for fact in dependencies(page, parse("xpath{//nav/ul//a}"), link) if fact.value == "nav"}
    assert bound == {page.find("css{#one}").index}
    nested = Page.parse(
        "<table>" + "".join(f"<tr><td>{star}<td><ul><li><a>Edit</a></li></ul>" for star in ("Vega", "Mizar")) + "</table>"
    )
    locator = parse("css{a} @row-of text{Mizar}")
    assert match(nested, convert(locator, "xpath")) == match(nested, locator) == [nested.find("css{a}#2").index]


def test_lines_that_are_no_bylines() -> None:
    long = "and many more words than anybody writes below a title in one line"
    page = Page.parse(f"<article><h3>Cold</h3><p><a>Ivo Hart</a>, 3 May 2031 {long}</p></article><article><h3>Warm</h3></article>")
    assert not is_signed(page, page.find("css{a}").index)
    boxed = "".join(
        f"<article><h3>{title}</h3><div class=line><p><a>Ivo Hart</a>, 3 May 2031</p></div><div class=line><p>x</p></div></article>"
        for title in ("Cold", "Warm")
    )
    page = Page.parse(boxed)
    assert is_signed(page, page.find("css{a}#1").index)
    listed = Page.parse(
        "<article><h3>Cold</h3><ul><li><a>Ivo Hart</a>, 3 May 2031</li></ul></article><article><h3>Warm</h3></article>"
    )
    assert is_signed(listed, listed.find("css{a}").index)  # a line in a list is not yet the article
    verb = Page.parse("<article><h3>Cold</h3><p><a>read more</a>, 3 May 2031</p><b>x</b></article><article><h3>Warm</h3></article>")
    assert not is_signed(verb, verb.find("css{a}").index)


def test_a_heading_before_is_what_xpath_rests_on() -> None:
    page = Page.parse(FLAT)
    locator = parse('xpath{//a[preceding-sibling::h2[1][normalize-space()="Safety"]]}')
    facts = dependencies(page, locator, page.find("css{a}#2").index)
    said = [(fact.kind, fact.element, fact.value) for fact in facts if fact.kind in ("group-of", "content")]
    assert said == [("group-of", page.find("css{a}#2").index, ""), ("content", page.find("css{h2}#2").index, "Safety")]
    lone = Page.parse("<div><h2>Prices</h2><p>From 12</p></div>")
    assert "preceding-sibling" not in "".join(str(c.locator) for c in rank(lone.find("css{p}"), Question(ways=1)))


def test_a_row_that_nothing_tells_stands_behind_no_else() -> None:
    page = Page.parse("<ul><li><span class=s>Vega</span><button class=x>x</button></li></ul><ul><li><b>A4</b></li></ul>")
    button = page.find("css{button}")
    untold = assess('xpath{//*[contains(concat(" ", normalize-space(@class), " "), " s ")]/following-sibling::button}', button)
    told = assess("css{button} @row-of text{Vega}", button)
    assert [says_itself(one, button.index, page) for one in (untold, told)] == [False, True]


@pytest.mark.parametrize(
    ("text", "data"),
    [
        ("Good evening, Ada", True),
        ("Welcome back, Ada Nill!", True),
        ("Welcome back", False),
        ("Hi-fi nights", False),
        ("Nights", False),
    ],
)
def test_greetings(text: str, data: bool) -> None:
    page = Page.parse(f"<h1>{text}</h1>")
    assert shows_data(page, page.find("css{h1}").index) is data


@pytest.mark.parametrize(
    ("letters", "words", "said"),
    [
        ("SD", "Star Diner", True),
        ("S", "Star", True),
        ("S", "Vega", False),
        ("SDX", "Star Diner", False),
        ("sd", "star diner", False),
        ("MQ", "Mara Quint", True),
    ],
)
def test_first_letters(letters: str, words: str, said: bool) -> None:
    assert is_initials(letters, words) is said
    page = Page.parse(f"<ul><li><b>{letters}</b><i>{words}</i></li></ul>")
    row = page.find("css{li}").index
    assert len(whole_texts(page, row, 0)) == (1 if said else 2)


def test_states_in_labels_weigh() -> None:
    states = ("free", "closed", "sold out", "yours")
    labels = ["Seat", *(f"Seat {n}, {state}" for n, state in enumerate(states))]
    page = Page.parse("<div>" + "".join(f'<button aria-label="{label}"></button>' for label in labels))
    plain, *stated = (weighs(page, f"label{{{label}}}", f"css{{button}}#{n}") for n, label in enumerate(labels, 1))
    assert min(stated) > plain + 1.5


def test_headings_are_not_told_by_what_they_head() -> None:
    page = Page.parse(
        "<div class=side><div class=box><h6>Courier</h6><a href=/about>About</a></div><div class=box><h6>Follow</h6></div></div>"
    )
    heading = weighs(page, "css{h6} @row-of text{About}", "css{h6}#1")
    assert heading > weighs(page, "css{a} @row-of text{Courier}", "css{a}") + 1.5


def test_heads_with_deeds() -> None:
    page = Page.parse(ORDER)
    rows = [row.index for row in page.find_all("css{tr}")]
    sums = [cell.index for cell in page.find_all("css{.num}")]
    assert heads_with_deeds(page, rows[0], sums[0]) == []
    assert heads_with_deeds(page, rows[1], sums[1]) == [page.find("css{td}#3").index]
    assert heads_with_deeds(page, rows[1], page.find("css{td}#3").index) == []  # not of itself
    assert heads_with_deeds(page, rows[1], -1) == [page.find("css{td}#3").index]
    shaded = Page.parse(f"{ORDER}<x-foot><template shadowrootmode=open><p>x</p></template></x-foot>")
    assert heads_with_deeds(shaded, rows[1], -1) == [shaded.find("css{td}#3").index]
    new = Page.parse("<table><tr><td>New <a href=/vega>Vega</a><td>4</table>")
    assert heads_with_deeds(new, new.find("css{tr}").index, new.find("css{td}#2").index) == []


@pytest.mark.parametrize(
    ("text", "passing", "moment"),
    [
        ("3 days ago", True, True),
        ("yesterday", True, False),
        ("2 Sep 2031, 9:28am", False, True),
        ("14th February 2031 at 9:28 pm", False, True),
        ("Yesterday's plates of the moon", False, False),
        ("Vega", False, False),
    ],
)
def test_moments_and_how_long_ago(text: str, passing: bool, moment: bool) -> None:
    assert (is_passing(text), is_moment(text)) == (passing, moment)


@pytest.mark.parametrize(
    ("name", "look"),
    [
        ("grid-row-alt", "state"),
        ("AlternatingItem", "state"),
        ("page-first", "named"),
        ("row-first", "state"),
        ("ng-star-inserted", "utility"),
        ("field-appearance-outline", "utility"),
        ("altitude", "named"),
    ],
)
def test_looks_of_classes(name: str, look: str) -> None:
    assert look_of_class(name) == look


def test_marks_of_labels_and_words_in_messages() -> None:
    assert [unmarked(one) for one in ("Visitor *", "* Night", "Dome*", "Seats")] == ["Visitor", "Night", "Dome", "Seats"]
    page = Page.parse(MESSAGE)
    assert shows_data(page, page.find("css{p}#1").index)
    assert not shows_data(page, page.find("css{.act}").index)
