"""What says which element is meant, and what does not: the root of an application, a table that lays out a page, the class of a
kind, what a form sends with it, figures, states."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st
from lxml import html as lxml_html

from wary_hound import Page, rank
from wary_hound.authoring.alternatives import say_the_same, says_itself, told_by
from wary_hound.authoring.batch import usable
from wary_hound.authoring.question import Question
from wary_hound.authoring.ranking import Candidate, assess, best_of_each
from wary_hound.authoring.rules import Rules
from wary_hound.authoring.weakness import is_weak
from wary_hound.locator.blocks import is_no_row, is_whole
from wary_hound.locator.evaluate import match
from wary_hound.locator.notation import parse
from wary_hound.robustness.data import shows_data
from wary_hound.robustness.dependence import dependencies
from wary_hound.robustness.looks import before_digest, look_of_class, look_of_token

MESSAGES = "".join(
    f"<div class=message id=msg-{90210 + k}><b class=author>{who}</b><time>20:{14 + k}</time><div class=text>Clear by ten.</div>"
    "<button title=Reply><svg class='i i-reply'></svg></button></div>"
    for k, who in enumerate(("Ines", "Tom", "Maren"))
)
APPLICATION = f"""<body><div id=root><div class=layout><div class=sidebar><input type=search placeholder="Search messages"
class=search><button class=compose><svg class="i i-edit"></svg></button></div><div class=thread><h1>weather</h1>
<button class=star><svg class="i i-star"></svg></button><div class=messages>{MESSAGES}</div><button class=send>Send</button></div>
</div></div></body>"""
OFFICE = """<body><table><tr><td><a href="list?t=nights"><img src=b_nights.gif></a><td><font><b>Booking sheet</b></font>
<form name=f1 action=save.asp><table><tr><td>Guest<td><input name=t1><td>Phone<td><input name=t2>
<tr><td>Night<td><select name=s1><option>Friday<option>Saturday</select><td>Places<td><input name=t3>
<tr><td>Paid<td><input type=radio name=r1 value=Y>Yes <input type=radio name=r1 value=N>No
<td>Card<td><input type=checkbox name=c1 value=1>
</table><input type=hidden name=_token value=kX81><input type=image src="print.gif"><input type=submit value=Save></form></table>"""
TILES = "<body>" + "".join(
    f"<div class=tile><span class=tile-label>{label}</span><span class=tile-value>{value}</span></div>"
    for label, value in (("Seeing", "1.2″"), ("Humidity", "48 %"), ("Guests tonight", "12"))
)
WIZARD = """<body><main id=content><form><div class=field><label>First name</label><div><input></div></div>
<div class=field><label>Guests</label><div class=counter><button type=button class=counter__btn>−</button>
<span class=counter__value>2</span><button type=button class=counter__btn>+</button></div></div>
<div class=field><label>Phone</label><div><input></div><div class=field__error>Too short</div></div>
<div class=card><h4>Guided</h4><p>An astronomer is with you.</p></div><div class=card><h4>Alone</h4><p>You know your way.</p></div>
<button type=submit class=go>Go on</button></form></main></body>"""
MENU = """<body><ul role=menu><li role=none><a role=menuitem><span>Open to the side</span><kbd>Ctrl+Enter</kbd></a></li>
<li role=none><a role=menuitem><span>Rename</span><kbd>F2</kbd></a></li></ul></body>"""


def of(page: Page, locator: str, only: str = "", purpose: str = "click") -> list[Candidate]:
    return rank(page.find(locator), Question(ways=1, rules=Rules(only=(only,) if only else ()), purpose=purpose))


def test_the_root_of_an_application_says_nothing() -> None:
    page = Page.parse(APPLICATION)
    assert [page.attribute(at, "id") for at in range(len(page)) if is_whole(page, at)][-2:] == ["root", None]  # and what is in it
    said = [str(candidate) for element in usable(page) for candidate in rank(element)]
    assert len(said) > 40
    assert not [one for one in said if "#root" in one or '"root"' in one or ".layout" in one]
    assert str(of(page, "css{input}", "css")[0].locator) == 'css{[placeholder="Search messages"]}'
    assert str(of(page, "css{.star}", "css")[0].locator) == "css{.thread .star}"
    assert not is_whole(Page.parse("<body><div id=night><button>Hold</button></div>"), 3)  # of a small tree nothing is


@given(st.integers(0, 60), st.integers(30, 60))
def test_it_holds_nearly_all_or_it_does_not(outside: int, inside: int) -> None:
    page = Page.parse(f"<body><div id=app>{'<i></i>' * inside}</div>{'<b></b>' * outside}</body>")
    [app] = match(page, parse("css{#app}"))
    assert is_whole(page, app) == (inside > 0.9 * (inside + outside + 1))


def test_a_table_that_lays_out_a_page_has_no_rows() -> None:
    page = Page.parse(OFFICE)
    [outer] = match(page, parse("css{body > table > tbody > tr}"))
    [inner] = match(page, parse("css{form tr:first-of-type}"))
    assert [is_no_row(page, outer), is_no_row(page, inner)] == [True, False]
    said = [str(candidate) for element in usable(page) if element.tag != "a" for candidate in rank(element)]
    assert len(said) > 40
    # not by what the table lays out, by what a closed list offers, or by what is sent and not seen
    assert not [one for one in said if "Booking" in one or "b_nights" in one or "option=" in one or "_token" in one]


@pytest.mark.parametrize(
    ("page", "element", "only", "first"),
    [
        (OFFICE, "css{[name=t1]}", "", 'css{[name="t1"]}'),  # two in one row: they count no rows
        (OFFICE, "css{[name=s1]}", "", 'css{[name="s1"]}'),
        (OFFICE, "css{[value=Y]}", "", 'css{[name="r1"][value="Y"]}'),  # other questions have that answer
        (OFFICE, "css{[name=c1]}", "xpath", 'xpath{//*[@name="c1"]}'),
        (TILES, "xpath{//span[.='12']}", "", "css{.tile-value} @row-of text{Guests tonight}"),
        (WIZARD, "xpath{//button[.='+']}", "", 'role{button "+"} @row-of text{Guests}'),
        (WIZARD, "css{h4}#2", "", "css{h4} @row-of text{You know your way.}"),
        (MENU, "css{a}#2", "", 'role{menuitem ~"Rename"}'),
        (MENU, "css{a}#1", "xpath", 'xpath{//a[contains(., "Open to the side")]}'),
        # a part of a word is no word: not `Open`
        (MENU, "css{a}#1", "", 'role{menuitem ~"Open to the side"}'),
        # what an icon is, and not the arrow beside it, nor what is beside it in words
        (
            "<a href=#><i class='fas fa-moon'></i><p>Nights</p><i class='fas fa-angle-left'></i></a><a href=#><p>Staff</p></a>",
            "css{a}#1",
            "css",
            "css{a:has(.fa-moon)}",
        ),
        ("<button>Hold<i class=chevron-down></i></button><button>Drop", "css{button}#1", "css", "css{button:has(.chevron-down)}"),
        ("<img alt='' src=/s/dome.3f9a1c.svg><img alt='' src=/s/moon.77be01.svg>", "css{img}#1", "", 'css{img[src^="/s/dome."]}'),
        # a class before an attribute, as people write them
        ("<a class=night href=/vega><i></i></a><a class=star href=/vega></a>", "css{a}#1", "css", 'css{.night[href="/vega"]}'),
    ],
)  # fmt: skip
def test_what_says_which(page: str, element: str, only: str, first: str) -> None:
    parsed = Page.parse(page)
    purpose = "read" if "tile" in page or "h4" in element else "click"
    best = of(parsed, element, only, purpose)[0]
    assert str(best.locator) == first
    assert match(parsed, best.locator) == [parsed.find(element).index]
    if only == "xpath":
        [found] = lxml_html.fromstring(page).xpath(str(best.locator)[6:-1])
        assert found.tag == parsed.find(element).tag


@pytest.mark.parametrize(
    ("page", "element", "locator"),
    [
        (
            TILES.replace("tile-value", "n"),
            "css{.tile-label}#1",
            "css{.tile-label} @row-of text{1.2″}",
        ),  # how much of something is no name
        (TILES, "css{.tile-label}#2", "css{.tile-label} @row-of text{48 %}"),
        (TILES, "css{.tile-label}#3", "css{.tile-label} @row-of text{12}"),
        (WIZARD, "css{.field__error}", "css{.field .field__error}"),  # each field is called so
        (WIZARD, "css{h4}#2", "css{#content h4:nth-of-type(1)} @group-of text{Guided}"),
        (WIZARD, "css{.field__error}", "css{#content .field__error}"),  # all stands in the main part of a page
        (OFFICE, "css{[type=image]}", 'role{button "Submit Query"}'),  # each browser calls it so in its language
        ("<body><nav><p>Nights</p></nav>", "css{p}", "css{nav p}"),
        ("<body><div class=summary><p>Nights</p></div>", "css{p}", "css{.summary p}"),
        ("<h2>Sites</h2><p aria-expanded=false><b>Dome</b>", "css{b}", 'css{[aria-expanded="false"] b} @group-of text{Sites}'),
        ("<img src=/s/dome.3f9a1c.svg>", "css{img}", 'css{[src="/s/dome.3f9a1c.svg"]}'),
        ("<button>×</button>", "css{button}", 'role{button "×"}'),
        ("<button class=app__avatar><b class=initials>IM</b></button>", "css{button}", 'role{button "IM"}'),
    ],
)
def test_what_does_not_say_which_is_weak(page: str, element: str, locator: str) -> None:
    parsed = Page.parse(page)
    index = parsed.find(element).index
    assert is_weak(dependencies(parsed, parse(locator), index), index)


@pytest.mark.parametrize(
    ("page", "element", "locator", "may"),
    [
        ("<article id=vega><p>Held</p><b id=star></b></article>", "css{p}", "css{article:has(#star) p}", True),
        ("<div><p>Held</p><b id=star></b></div>", "css{p}", "css{div:has(#star) p}", False),  # words in a box
        ("<i role=tab aria-selected=true><a title=Close></a></i>", "css{a}", 'css{[aria-selected="true"] [title="Close"]}', False),
        ("<i class=nights><a title=Close></a></i>", "css{a}", 'css{.nights [title="Close"]}', True),
        ("<i class=active><a title=Close></a></i>", "css{a}", 'css{.active [title="Close"]}', False),
    ],
)
def test_what_may_stand_behind_else(page: str, element: str, locator: str, may: bool) -> None:
    parsed = Page.parse(page)
    found = parsed.find(element)
    assert says_itself(assess(parse(locator), found), found.index, parsed) == may


def test_a_second_way_by_the_same_address_is_none() -> None:
    page = Page.parse("<ul class=nights><li><a class='night photo' href=/vega><i></i></a></ul><a class=star href=/vega></a>")
    link = page.find("css{.photo}")
    first, *others = (
        told_by(assess(parse(said), link), link)
        for said in ('css{.night[href="/vega"]}', 'css{.photo[href="/vega"]}', 'css{.nights [href="/vega"]}', "css{.nights .photo}")
    )
    assert [say_the_same(other, first) for other in others] == [True, True, False]


def test_a_guard_says_no_state_and_no_amount() -> None:
    rows = "".join(
        f"<tr><td><button aria-label={label}></button><td title={rated}>{who}<td><input type=checkbox></tr>"
        for label, rated, who in (("'Not starred'", "'80 %'", "Ines"), ("Starred", "'20 %'", "Tom"))
    )
    page = Page.parse(f"<table>{rows}</table>")
    said = [str(c) for c in rank(page.find("css{[type=checkbox]}#1"))]
    assert len(said) > 5
    assert not any("tarred" in one or "80 %" in one for one in said)


def test_the_heading_of_a_card_heads_no_form() -> None:
    page = Page.parse(WIZARD)
    assert not any("@group-of" in str(c) or "h4=" in str(c) for c in rank(page.find("css{.go}")))
    headed = Page.parse(
        "<form><h2>Your night</h2><input><button>Go</button></form><form><input><h2>Cards</h2><button>Go</button></form>"
    )
    assert str(of(headed, "css{button}#1")[0].locator) == "css{button} @group-of text{Your night}"
    assert not any("@group-of text{Cards}" in str(c) for c in rank(headed.find("css{button}#2")))  # it stands behind a field

    cards = "".join(f"<div class=card><h4>{star}</h4><p>Bright.</p></div>" for star in ("Vega", "Mars"))
    page = Page.parse(f"<form>{cards}<textarea></textarea></form><form><textarea></textarea></form>")
    said = [str(candidate) for candidate in rank(page.find("css{textarea}#1"))]
    assert said
    assert not [one for one in said if "@group-of" in one or "h4=" in one]


def test_what_nobody_sees_and_what_a_program_reads_is_not_asked_for() -> None:
    page = Page.parse("<form><input type=hidden name=_token><textarea></textarea></form><form><textarea></textarea></form>")
    assert not [c for c in rank(page.find("css{textarea}#1")) if "_token" in str(c)]
    link = Page.parse("""<p><a data-post='{"id":41}'>Hold</a><a data-post='{"id":57}'>Hold</a></p>""")
    assert not [c for c in rank(link.find("css{a}#1")) if "data-post" in str(c)]


def test_an_icon_is_what_it_shows() -> None:
    menu = "<a href=#><i class='fas fa-moon'></i><p>Nights</p><i class='fas fa-angle-left'></i></a><a href=#><p>Staff</p></a>"
    said = [str(c) for c in rank(Page.parse(menu).find("css{a}#1"))]
    assert [one for one in said if ":has(.fa-moon)" in one]
    assert not [one for one in said if "angle" in one]
    branch = "<button><b class=text>main</b></button><button><b>Vega</b></button>"
    assert not [c for c in rank(Page.parse(branch).find("css{button}#1")) if ":has(.text)" in str(c)]


def test_a_sign_is_asked_for_in_xpath_too() -> None:
    ranked = rank(Page.parse(WIZARD).find("xpath{//button[.='+']}"))
    assert 'button[normalize-space()="+"]' in str(best_of_each(ranked)["xpath"].locator)


def test_one_article_is_no_row_and_several_are() -> None:
    one = "<article><h2>{}</h2><p>Bright.</p><button>Hold</button></article>"
    alone, several = (Page.parse(f"<main>{''.join(map(one.format, stars))}</main>") for stars in (("Vega",), ("Vega", "Mars")))
    assert not any("@row-of" in str(c) for c in rank(alone.find("css{button}")))
    assert str(of(several, "css{button}#1")[0].locator) == "css{button} @row-of text{Vega}"


@pytest.mark.parametrize(
    ("address", "begins"),
    [
        ("/static/dome.3f9a1c.svg", "/static/dome."),
        ("/assets/app-BQx3kL9_.js", "/assets/app-"),
        ("main.8f3a2c1b.min.css?v=2", "main."),
        ("/img/telescope.svg", ""),
        ("/img/night-sky.svg", ""),
        ("/img/saturn-1207.png", ""),
        ("/img/dome.facade.png", ""),
        ("/3f9a1c.svg", ""),
    ],
)
def test_a_digest_in_the_name_of_a_file(address: str, begins: str) -> None:
    assert before_digest(address) == begins


def test_looks() -> None:
    assert [look_of_token(one) for one in (":2p", ":34", "zE", "aXw", "iOS", "id", "Vega")] == (
        ["generated", "generated", "hashed", "hashed", "named", "named", "named"]
    )
    assert [look_of_class(one) for one in ("sel", "up", "delta")] == ["state", "state", "named"]


@pytest.mark.parametrize("name", ["counter__value", "badge__text", "count", "tile-value", "counter__btn"])
def test_which_part_of_a_counter_shows_data(name: str) -> None:
    page = Page.parse(f"<b class={name}>2</b>")
    assert shows_data(page, page.find("css{b}").index) == (name != "counter__btn")


def test_a_text_of_a_drawing_in_xpath() -> None:
    page = Page.parse("<body><p>Seeing</p><svg><g><text>Seeing</text></g><g><text>Humidity</text></g></svg></body>")
    best = best_of_each(rank(page.find("css{text}#1")))["xpath"]
    assert str(best.locator) == 'xpath{//*[name()="text"][normalize-space()="Seeing"]}'
    assert match(page, best.locator) == [page.find("css{text}#1").index]
