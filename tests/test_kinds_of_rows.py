"""What says of what kind a row is tells no row; nor does what stands in another one. Names that several elements have, and such in
which two texts stand."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from conftest import proposed, weak
from wary_hound import Page, rank
from wary_hound.authoring.paths import relative_css
from wary_hound.authoring.question import Question
from wary_hound.authoring.ranking import assess
from wary_hound.authoring.taste import REPEATED, TWICE, Surroundings, distaste
from wary_hound.authoring.weakness import says_what_it_shows
from wary_hound.locator.notation import parse
from wary_hound.locator.tables import Tables
from wary_hound.robustness.categories import MOST_DIFFERENT, Categories
from wary_hound.robustness.dependence import dependencies
from wary_hound.robustness.dependency import ALONGSIDE, COMMON
from wary_hound.robustness.model import key_of

STARS = (("Vega", "Lyra", "Queued"), ("Saturn", "Goat", "Done"), ("Albireo", "Swan", "Queued"), ("Mizar", "Bear", "Failed"))
# each row a table of its own in a table that lays them out
NESTED = "<table class=list>" + "".join(
    f"<tr><td><table><tr><td><label><input type=checkbox>{star}</label><td><div>{state}</div><td><button>Start</button></table>"
    for star, _, state in STARS
)
# rows that can be ticked, which ARIA calls boxes
TICKED = "<table><tr><th><th scope=col>Star<th scope=col>Sky<th scope=col>How" + "".join(
    f"<tr role=checkbox aria-checked={'true' if star == 'Saturn' else 'false'}><td><i class=box></i><th scope=row>{star}<td>{sky}"
    f'<td><div class="chip {"chip-green" if state == "Done" else "chip-grey"}"><span class=chip-label>{state}</span></div>'
    for star, sky, state in STARS
)
# a grid that puts a table around each of its rows
FRAMED = "<div role=grid>" + "".join(
    f'<table role=presentation><tr role=row data-hint="{state}"><td role=gridcell>{star}'
    "<td role=gridcell><div role=button title=Remove></div></table>"
    for star, _, state in STARS
)
CARDS = "".join(f"<div class=card><h3>{star}</h3><p class=how>{state}</p><button>Hold</button></div>" for star, _, state in STARS)
FILTERED = (
    "<div role=grid id=grid><table role=presentation><tr role=row>"
    + "".join(f"<td role=columnheader>{head}" for head in ("Star", "Magnitude", "Guided"))
    + "<tr role=row class=filters>"
    + "".join(f'<td role=gridcell><input role={role} aria-label="Filter cell">' for role in ("textbox", "spinbutton", "combobox"))
    + "</table><table role=presentation>"
    + "".join(
        f"<tr role=row><td role=gridcell>{star}<td role=gridcell>{n}.2<td role=gridcell>-" for n, (star, *_) in enumerate(STARS)
    )
    + "</table></div>"
)
CHANGES = (
    "<table>"
    + "".join(f"<tr><td class=ln>{n}<td>{said}" for n, said in ((41, "def slew():"), (42, "    turn()")))
    + '<tr class=notes><td colspan=2><a href="/people/ada">ada</a> <p>Slower?</p><input name=reply>'
    + "<tr><td class=ln>43<td>stop() <button class=add aria-label='Add a note'></button></table>"
)
MENU = (
    "<ul role=menubar><li role=menuitem aria-haspopup=true><span>Observing</span><ul role=menu><li role=menuitem>Queue"
    "<li role=menuitem>Weather</ul><li role=menuitem>Help</ul>"
)
SORTED = (
    "<table><tr>"
    + "".join(f"<th><span role=button tabindex=0>{head}</span>" for head in ("Night<i>sorted ascending</i>", "Sky", "Magnitude"))
    + "<tr><td>Vega<td>Lyra<td>0.03</table>"
)
BAR = "<table role=menubar><tr>" + "".join(f"<td role=menuitem>{said}" for said in ("Session", "View", "Help")) + "</table>"

KEYED = "<table>" + "".join(
    f'<tr sys={key}><td><a href="#" aria-label="Preview NGT{n}"></a><td>NGT{n}<td>{n}.04'
    for n, key in enumerate(("bb8efcd4ab24730b", "233ea1805dab5120"))
)
CODES = "<table>" + "".join(f"<tr data-code={code}><td class=said>{said}" for code, said in ((200, "Fine"), (400, "Malformed")))
SKY = '[count(//th[normalize-space()="Sky"]/preceding-sibling::* | //th[normalize-space()="Sky"])]'
FAILED = """<div class="form-group has-error"><label>Star</label><input name=star><span class=help-block>Say which.</span></div>
<div class=form-group><b>Sky</b><input name=sky></div>"""


@pytest.mark.parametrize(
    ("page", "element", "only", "said"),
    [
        (NESTED, "css{button}#2", "", "css{button} @row-of text{Saturn}"),
        (CARDS, "css{button}#4", "", "css{button} @row-of text{Mizar}"),
        (CARDS, "css{button}#4", "xpath", 'xpath{//div[h3="Mizar"]//button}'),
        (TICKED, "css{.chip-label}#2", "", "css{.chip-label} @row-of text{Saturn}"),
        (TICKED, "css{td:nth-of-type(2)}#1", "", "css{td} @row-of text{Vega} and @column-of text{Sky}"),
        (TICKED, "css{tr}#3", "", 'role{checkbox ~"Saturn"}'),
        (FILTERED, "css{.filters input}#2", "", "label{Filter cell} @column-of text{Magnitude}"),
        (SORTED, "css{th span}#1", "", 'role{button ~"Night"}'),
        (MENU, "css{li}#1", "", 'role{menuitem ~"Observing"}'),
        (BAR, "css{td}#3", "", 'role{menuitem "Help"}'),
    ],
)
def test_said_as_a_tester_would(page: str, element: str, only: str, said: str) -> None:
    assert proposed(page, element, only) == said


@pytest.mark.parametrize(
    ("page", "locator", "is_so"),
    [
        (TICKED, "css{.chip-green .chip-label}", True),  # another row is done tomorrow
        (TICKED, "css{th} @row-of text{Done}", True),
        (TICKED, "css{.chip-label} @row-of text{Saturn}", False),
        (FRAMED, 'css{tr[data-hint="Done"] [title="Remove"]}', True),
        (FRAMED, 'css{tr[data-hint="Done"]} -> role{button "Remove"}', True),
        (FRAMED, 'css{[title="Remove"]} @row-of text{Saturn}', False),
        (FILTERED, 'role{textbox "Filter cell"}', True),  # of its row, but not of its column
        (FILTERED, 'css{#grid [role="textbox"][aria-label="Filter cell"]}', True),
        (FILTERED, "label{Filter cell} @column-of text{Star}", False),
        (FILTERED, "css{input} @column-of text{Star}", True),
        (CHANGES, 'css{table:has([href="/people/ada"]) .add}', True),  # that is in another row
        (CHANGES, 'css{table:has([name="reply"]) button}', True),
        (CHANGES, "label{Add a note}", False),
        (KEYED, 'css{tr[sys="bb8efcd4ab24730b"] [aria-label^="Preview"]}', True),  # as each row has it, and nobody types the key
        (KEYED, 'css{[aria-label^="Preview"]} @row-of text{NGT0}', False),
        (FAILED, "css{label} @row-of text{Say which.}", True),  # what was wrong with it
        (FAILED.replace("has-error", ""), "css{label} @row-of text{Say which.}", False),
        (f"<nav>{BAR}</nav>", 'xpath{//td[normalize-space()="View"]/following-sibling::td[1]}', True),
        ("<p><a role=tab aria-label=Plan>1</a><a role=tab aria-label=Plan>2</a>", 'css{a:first-child[aria-label="Plan"]}', True),
        ("<p><div role=tab aria-label=Plan></div><div role=treeitem aria-label=Plan></div>", 'role{tab "Plan"}', False),
    ],
)
def test_what_tells_no_row(page: str, locator: str, is_so: bool) -> None:
    assert weak(page, locator) is is_so


@given(st.lists(st.sampled_from(["Queued", "Done", "Failed", "Vega", "Mizar", "Saturn"]), min_size=3, max_size=12))
def test_a_kind_is_what_several_rows_say_and_not_all(said: list[str]) -> None:
    page = Page.parse("<ul>" + "".join(f"<li><b>{one}</b><button>Hold</button>" for one in said) + "</ul>")
    row, cell = page.find_all("css{li}")[1].index, page.find_all("css{b}")[1].index
    told = Categories.of(page).tells_a_kind(row, cell)
    assert told == (1 < len(set(said)) <= MOST_DIFFERENT * len(said))
    assert not Categories.of(page).tells_a_kind(row, page.find_all("css{button}")[1].index)  # which all say


def test_two_rows_do_not_say_of_what_kind_they_are() -> None:
    page = Page.parse("<ul><li><b>Done</b><i>x</i><li><b>Done</b><i>x</i></ul><p><b>Done</b></p>")
    assert not Categories.of(page).tells_a_kind(page.find_all("css{li}")[0].index, page.find_all("css{b}")[0].index)
    assert not Categories.of(page).tells_a_kind(page.find("css{p}").index, page.find_all("css{b}")[2].index)


def test_a_row_is_one_whatever_its_role_and_a_frame_is_no_table() -> None:
    for text in (TICKED, FRAMED):
        page = Page.parse(text)
        rows = [e.index for e in page.find_all("css{tr}") if e.text and "Star" not in e.text.split()]
        assert [Tables.of(page).rows_with(row) for row in rows] == [rows] * 4
    inner = Page.parse("<table><tr><td>North<td><table role=presentation><tr><td>a<tr><td>b</table><tr><td>South<td>c</table>")
    rows = [e.index for e in inner.find_all("css{tr}")]
    assert Tables.of(inner).rows_with(rows[1]) == rows[1:3]  # what a cell holds is no row of the table around


def test_names_that_several_have_say_of_what_kind() -> None:
    page = Page.parse(FILTERED)
    told = [f.remark for f in dependencies(page, parse('role{textbox "Filter cell"}'), page.find("css{input}#1").index)]
    assert ALONGSIDE in told
    page = Page.parse("<p><button title=Close>x</button></p><p><button title=Close>y</button></p>")
    told = [f.remark for f in dependencies(page, parse('css{p:first-child [title="Close"]}'), page.find("css{button}#1").index)]
    assert COMMON in told


def test_what_is_read_is_not_told_by_what_says_it_again() -> None:
    page = Page.parse(
        "".join(
            f"<div class=stat><div class=text><p aria-hidden=true>{said}</p></div><p class=spoken>{n} {said}</p></div>"
            for n, said in ((24, "Queued tonight"), (3, "Failed"))
        )
    )
    ranked = rank(page.find("css{.text p}#1"), Question(purpose="read"))
    assert all(one.weak for one in ranked)  # nothing else is there to tell it by
    assert any("24 Queued tonight" in str(one.locator) for one in rank(page.find("css{.text p}#1")))


@pytest.mark.parametrize(
    ("page", "element", "locator"),
    [
        ("<div role=dialog aria-labelledby=t><h2 id=t>Move it</h2></div>", "css{h2}", 'role{dialog "Move it"} -> css{h2}'),
        (
            "<ul><li title=moon><b class=said>moon</b><li title=haze><b class=said>haze</b></ul>",
            "css{b}#1",
            "css{[title=moon] .said}",
        ),
        ("<ul><li title=sun><b class=said>sun</b></ul>", "css{b}", "css{[title=sun] .said}"),
        ("<ul><li title='Name: moon'><b class=said>moon</b></ul>", "css{b}", "css{[title='Name: moon'] .said}"),
    ],
)
def test_what_is_read_is_not_told_by_its_name_around_it(page: str, element: str, locator: str) -> None:
    parsed = Page.parse(page)
    wanted = parsed.find(element)
    facts = dependencies(parsed, parse(locator), wanted.index)
    assert says_what_it_shows(facts, wanted.index, wanted.text)
    assert not says_what_it_shows(facts, wanted.index, "Another")


def test_the_next_of_its_like_is_not_told_by_its_row() -> None:
    heads = "<table><tr><th id=a>Reported by:<td>ben<th>Owned by:<td>cleo</table>"
    for page, locator in (
        (heads, 'xpath{//*[@id="a"]/following-sibling::th}'),
        (heads, 'xpath{//th[.="Owned by:"]/following-sibling::td}'),
    ):
        parsed = Page.parse(page)
        kinds = {fact.kind for fact in dependencies(parsed, parse(locator), parsed.find(locator).index)}
        assert ("row-of" in kinds) is (locator.endswith("td}"))


def test_nobody_asks_for_what_aria_says_nothing_of() -> None:
    page = Page.parse(
        "<div class=head><span role=presentation>Star</span></div><div class=foot><span role=generic>Sky</span></div>"
    )
    said = [str(one.locator) for element in page.find_all("css{span}") for one in rank(element)]
    assert said
    assert not [one for one in said if "role{none" in one or "role{generic" in one or "role{presentation" in one]


def test_signs_and_the_counts_of_a_server_tell_nothing() -> None:
    page = Page.parse("<div class=item><b>-</b><input></div><div class=item><b>Night</b><input></div>")
    assert "text{-}" not in " ".join(str(one.locator) for one in rank(page.find("css{input}#1")))
    rows = "".join(
        f'<tr><td>{day} March<td><a href="./visit?8-1.-rows-{n}-remove">Remove</a>' for n, day in enumerate((12, 13, 14), 1)
    )
    assert proposed(f"<table>{rows}</table>", "css{a}#2") == "css{a} @row-of text{13 March}"


def test_a_state_of_what_is_chosen_comes_last() -> None:
    page = Page.parse(TICKED)
    ranked = rank(page.find("css{th}#6"), Question(purpose="read", ways=1))
    assert page.find("css{th}#6").text == "Saturn"
    assert "aria-checked" not in str(ranked[0].locator)


@pytest.mark.parametrize(
    ("page", "locator", "key"),
    [
        (TICKED, "css{.chip-green .chip-label}", "alike/class"),
        (TICKED, "css{tr:nth-of-type(3) .chip-label}", "alike-counted/place"),
        (TICKED, "css{.chip-label} @row-of text{Saturn}", "row-of/class"),
        (TICKED, 'xpath{//tr[th="Saturn"]//span}', "row-of/tag"),
        (TICKED, f'xpath{{//tr[th="Saturn"]//*{SKY}[self::td]}}', "column-of/tag"),
        (KEYED, 'xpath{//td[normalize-space()="0.04"]}', "alike/content"),
        (CODES, 'css{tr[data-code="400"] .said}', "class"),
        ("<table id=one><tr><td><b class=sum>4</b></table>", "css{#one .sum}", "class"),  # there is one row
        (CARDS, "css{.card:nth-of-type(2) .how}", "place"),  # those are no rows of a table
    ],
)
def test_look_alikes_come_to_the_other_rows(page: str, locator: str, key: str) -> None:
    parsed = Page.parse(page)
    found = parsed.find(locator)
    assert key_of(dependencies(parsed, parse(locator), found.index), found.index) == key


def test_what_says_not_in_which_row_lasts_less_than_what_does() -> None:
    page = Page.parse(TICKED)
    chip = page.find("css{.chip-green .chip-label}")
    sound, weak_one, counted = (
        assess(said, chip)
        for said in ("css{.chip-label} @row-of text{Saturn}", "css{.chip-green .chip-label}", "css{tr:nth-of-type(3) .chip-label}")
    )
    assert sound.loss < weak_one.loss < counted.loss
    assert counted.stolen > 2 * weak_one.stolen


def test_an_answer_is_what_is_read() -> None:
    rows = "".join(f"<tr><th scope=row>{what}<td><i aria-label={said}>x</i>" for what, said in (("Guests", "Yes"), ("Tea", "No")))
    page = f"<table><tr><th><th scope=col>Night{rows}</table>"
    assert weak(page, 'css{[aria-label="Yes"]} @row-of text{Guests}')
    assert not weak(page.replace("Yes", "Bring_tea"), 'css{[aria-label="Bring_tea"]} @row-of text{Guests}')
    held = FRAMED.replace("role=button title=Remove", "title=Held", 1).replace("role=button title=Remove", "title=Open")
    assert weak(held, 'css{[title="Held"]} @row-of text{Vega}')  # as other rows say something else there


def test_parts_of_a_page_are_no_rows_of_a_kind() -> None:
    rows = "".join(f"<section class=part><b>{said}</b>{'<i>x</i>' * 300}</section>" for said in ("Done", "Held", "Held", "Done"))
    page = Page.parse(rows)
    assert not Categories.of(page).tells_a_kind(page.find("css{section}#1").index, page.find("css{b}#1").index)
    page = Page.parse(rows.replace("<i>x</i>" * 300, "<i>x</i>"))
    assert Categories.of(page).tells_a_kind(page.find("css{section}#1").index, page.find("css{b}#1").index)


def tasted(text: str, locator: str) -> float:
    page = Page.parse(text)
    index, said = page.find(locator).index, parse(locator)
    return distaste(dependencies(page, said, index), said, index, Surroundings.of(page, index))


def test_what_weighs_against_it() -> None:
    facts = "<table><tr><th id=p>Star:<td headers=p><a href=#>Vega</a><th id=m>Sky:<td headers=m><a href=#>Lyra</a>"
    facts += "<tr><th id=o>Owner:<td headers=o><a href=#>ben</a><th id=k>Keeper:<td headers=k><a href=#>cleo</a></table>"
    alone = tasted(facts, "css{a} @column-of text{Star:}")
    assert tasted(facts, "css{a} @row-of text{Star:} and @column-of text{Star:}") > alone + TWICE
    heads = "<table><tr><th scope=col>Star<th scope=col>Sky<tr><td><a href=#>Vega</a><td><a href=#>Lyra</a></table>"
    assert tasted(heads, "css{a} @column-of text{Star}") > alone + 1  # as the like of it stands in any row
    twice = "<p class=one><b id=x>a</b></p><p class=two><b id=x>b</b></p>"
    assert tasted(twice, "css{.two #x}") >= tasted(twice.replace("id=x", "id=y", 1), "css{.two #x}") + REPEATED


def test_a_card_is_told_by_its_title_and_not_by_its_picture() -> None:
    page = Page.parse(
        "".join(
            f'<article class=story><img alt="{seen}" src="/{n}.jpg"><h3><a href="/{n}">{said}</a></h3>'
            f'<p class=byline><a href="/who">{who}</a></p></article>'
            for n, (said, seen, who) in enumerate(
                (("Rings", "A ring", "Mara Q"), ("Dome", "A door", "Ivo H"), ("Haze", "Fog", "Mara Q"))
            )
        )
    )
    said = [str(one.locator) for one in rank(page.find("css{.byline a}#1"))]
    assert any("@row-of text{Rings}" in one for one in said)
    assert not [one for one in said if ":has(" in one and ".byline a" in one]


def test_a_cell_by_its_place_says_its_tag() -> None:
    page = Page.parse(TICKED)
    locator = f'xpath{{//tr[th="Saturn"]//*{SKY}[self::td]}}'
    wanted = page.find(locator)
    assert wanted.text == "Goat"
    facts = dependencies(page, parse(locator), wanted.index)
    assert [fact.value for fact in facts if fact.kind == "tag" and fact.element == wanted.index] == ["td"]


def test_no_path_has_more_than_forty_levels() -> None:
    page = Page.parse("<ul><li>a" * 60 + "<button>Go</button>")
    made = str(relative_css(page, page.find("css{li}#30").index))
    assert made.startswith("css{html")
    assert page.find(made).index == page.find("css{li}#30").index
