"""How what stands in cards, chips, cells and calendars is said: by titles, by what a control is, and not by what changes there."""

from __future__ import annotations

import pytest

from conftest import proposed
from wary_hound import Page, rank
from wary_hound.authoring.alternatives import says_itself
from wary_hound.authoring.anchors import titles_of
from wary_hound.authoring.icons import icon_predicates
from wary_hound.authoring.predicates import head_of, stems, words_beside
from wary_hound.authoring.question import Question
from wary_hound.authoring.ranking import assess
from wary_hound.authoring.rules import Rules
from wary_hound.locator.evaluate import match
from wary_hound.locator.notation import parse
from wary_hound.locator.xpath import building
from wary_hound.robustness.data import holds_a_count, shows_data
from wary_hound.robustness.dependency import is_dated
from wary_hound.robustness.looks import look_of_class

CHIPS = "".join(f"<span class=chip>{star}<button class=bare><svg><path d=M0 /></svg></button></span>" for star in ("Vega", "halo"))
NAMED_CHIPS = "".join(f"<li>{star}<button class=bare><i class=bin></i></button></li>" for star in ("Vega", "halo", "Saturn"))
PLANS = "".join(
    f"<div class=plan>{ribbon}<h3>{name}</h3><p>{price}</p><button>Choose</button></div>"
    for name, price, ribbon in (("Evening", "€ 12", ""), ("Night", "€ 24", "<span>Most booked</span>"), ("Season", "€ 90", ""))
)
HITS = "<div>" + "".join(
    f'<div class=hit><div><a href="/night/{k}">{title}</a></div><div><span>{state}</span></div><div><div class=act><svg>'
    '<use href="#i-heart"></use></svg></div><div class=act><svg><use href="#i-share"></use></svg></div>'
    "<div class=btn>Book</div></div></div>"
    for k, title, state in (
        (1, "Vega at its highest", "12 Sep"),
        (2, "Saturn and its rings", "Sold out"),
        (3, "The galaxy M31", "20 Sep"),
    )
)
SWITCHES = "<div class=box><p>Comforts</p>" + "".join(
    f"<div class=setting><div class=called>{name}</div><div><input type=checkbox></div></div>"
    for name in ("Warm drinks", "Red torch", "Quiet dome")
)
FACETS = "<div>" + "".join(
    f"<div class=facet-item><span>{name}</span> <span>({n})</span></div>"
    for name, n in (("Planet", 4), ("Nebula", 9), ("Comet", 2))
)
ROTA = "<table><tr><th><th>Mon<th>Tue" + "".join(
    f"<tr><th>{dome}<td><input type=checkbox><td><input type=checkbox>" for dome in ("North dome", "South dome")
)
CLIPS = "".join(
    f'<li><a href="/w/{k}"><span>{length}</span><span>{title}</span></a><button aria-label=More></button></li>'
    for k, length, title in ((1, "4:10", "Vega rising"), (2, "9:55", "Lunar eclipse"))
)
WEEK = "".join(
    f"<div class=day data-date=2031-09-0{d}><span>{name}</span></div>" for d, name in ((1, "Mon"), (2, "Tue"), (3, "Wed"))
)
SLOTS = "<p>" + "".join(
    f"<label><input type=radio name=slot value={value}> {hour} <em>{left}</em></label>"
    for value, hour, left in ((2140, "21:40", "4 left"), (2210, "22:10", "7 left"))
)
GRID = "<div role=grid>" + "".join(
    f"<div class=row role=row><div class=cell role=gridcell>{star}</div><div class=cell role=gridcell>North dome</div>"
    "<div class=cell role=gridcell><button aria-label=Edit></button><button aria-label=Delete></button></div></div>"
    for star in ("Vega", "Saturn")
)
BIRTH = "<p>" + "".join(f"<select class=border><option>{part}<option>{n}</select>" for part, n in (("Day", 4), ("Month", 5)))
DIALOG = """<div role=dialog aria-labelledby=t><h2 id=t>Edit night</h2><div class=field><label for=":r9:">Star</label>
<div><input id=":r9:"></div><p id=":r9:-help">As in the catalogue</p></div><button>Save</button></div>"""
TEAMS = "<ul>" + "".join(f"<li><a href=#><span>{name[0]}</span><span>{name}</span></a>" for name in ("North dome", "South dome"))
VARIANTS = "".join(
    f"<input type=radio name=colour id=c{n}><label for=c{n}>{said}<span class=off>Sold out</span></label>"
    for n, said in enumerate(("Night blue", "Moss"))
)
REVIEWS = "".join(
    f"<div class=review><h3>{said}</h3><button>Helpful ({n})</button></div>" for said, n in (("Clear views", 3), ("Shaky mount", 0))
)
COMMENTS = "".join(
    f'<div class=note><a href="#{at}">{ago}</a></div>' for at, ago in (("clear", "2 days ago"), ("worn", "yesterday"))
)
DAYS = "".join(
    f'<div class=day role=option aria-label="Choose {day}, March {n}th, 2031">{n}</div>'
    for day, n in (("Monday", 10), ("Tuesday", 11))
)
BAR = """<nav><button class=navbar-toggle data-toggle=collapse><span>Toggle navigation</span></button></nav>
<div class=alert>Kept.<button data-dismiss=alert>&times;</button></div>"""
CHOOSER = """<div class=form><div class=row><label id=l1>Target</label><div class=list role=button aria-haspopup=true
aria-labelledby=l1><button type=button>None<i class=caret></i></button></div></div>
<div class=row><label id=l2>Title</label><input aria-labelledby=l2></div></div>"""
FACTS = """<table><tr><th id=p>Priority:<td headers=p><a href="/q?p=major">major</a><th id=m>Mile:<td headers=m>
<a href="/m">spring</a><tr>
<th id=o>Owner:<td headers=o><a href="/q?o=ben">ben</a><th id=k>Keeper:<td headers=k><a href="/q?k=cleo">cleo</a></table>"""
TUESDAY = '[count(//th[normalize-space()="Tue"]/preceding-sibling::* | //th[normalize-space()="Tue"])]'


@pytest.mark.parametrize(
    ("page", "element", "only", "said"),
    [
        # what holds a control, by what that says alone
        (f"<div>{CHIPS}</div>", "css{button}#2", "xpath", '//span[normalize-space()="halo"]//button'),
        (f"<div>{CHIPS}</div>", "css{button}#2", "", "text{halo} -> css{button}"),
        (f"<ul>{NAMED_CHIPS}</ul>", "css{button}#2", "xpath", '//li[normalize-space()="halo"]//button'),
        (
            SWITCHES,
            "css{input}#2",
            "xpath",
            '//div[contains(concat(" ", normalize-space(@class), " "), " setting ")][div="Red torch"]//input',
        ),
        # a card by its title, and no ribbon, date or state
        (PLANS, "css{button}#2", "", "css{button} @row-of text{Night}"),
        (PLANS, "css{button}#2", "xpath", '//div[h3="Night"]//button'),
        (HITS, "css{.btn}#3", "", "text{Book} @row-of text{The galaxy M31}"),
        (HITS, "css{.act}#3", "", 'css{div.act:has([href="#i-heart"])} @row-of text{Saturn and its rings}'),
        (
            HITS,
            "css{.btn}#2",
            "xpath",
            '//div[contains(concat(" ", normalize-space(@class), " "), " hit ")][.//a="Saturn and its rings"]'
            '//*[normalize-space(text())="Book"]',
        ),
        # by words, and neither by how many there are nor by how long it takes
        (
            FACETS,
            "css{.facet-item}#1",
            "",
            '//*[contains(concat(" ", normalize-space(@class), " "), " facet-item ")][contains(., "Planet")]',
        ),
        (f"<ul>{CLIPS}</ul>", "css{a}#1", "", 'role{link ~"Vega rising"}'),
        (f"<ul>{CLIPS}</ul>", "css{a}#1", "xpath", '//a[contains(., "Vega rising")]'),
        (f"<ul>{CLIPS}</ul>", "css{button}#2", "xpath", '//li[.//span="Lunar eclipse"]//button'),
        ("<p><button>Pay 104 crowns</button><button>Back</button>", "css{button}#1", "", 'role{button ~"Pay"}'),
        (SLOTS, "css{input}#1", "", 'css{[name="slot"][value="2140"]}'),
        (
            '<p><button class=ctl aria-label="Captions (c)"></button><button aria-label="Theatre (t)">',
            "css{.ctl}",
            "",
            "label{~Captions}",
        ),
        # what is in a cell by row and column, a box to tick by its type
        (ROTA, "css{input}#2", "", "css{input} @row-of text{North dome} and @column-of text{Tue}"),
        (ROTA, "css{input}#4", "xpath", f'//tr[th="South dome"]//*{TUESDAY}//input'),
        # a row of boxes is no cell of it
        (GRID, "css{button}#3", "", "label{Edit} @row-of text{Saturn}"),
        (GRID, "css{button}#4", "xpath", '//div[div="Saturn"]//*[@aria-label="Delete"]'),
        # no text is typed in which two stand, nor a count, nor how long ago it was
        (TEAMS, "css{a}#1", "", 'role{link ~"North dome"}'),
        (TEAMS, "css{a}#1", "xpath", '//a[contains(., "North dome")]'),
        (VARIANTS, "css{input}#2", "", "label{~Moss}"),
        (REVIEWS, "css{button}#2", "", "css{button} @row-of text{Shaky mount}"),
        (COMMENTS, "css{a}#1", "", 'css{[href="#clear"]}'),
        ('<p><a href="#">Yesterday</a><a href="#">Last week</a>', "css{a}#1", "", 'role{link "Yesterday"}'),
        # nor how an element behaves, what was chosen, or what is wrong with a field
        (BAR, "css{button}#1", "", '//button[normalize-space()="Toggle navigation"]'),
        (BAR, "css{button}#2", "", "css{.alert button}"),
        (CHOOSER, "css{button}", "", "css{button} @row-of text{Target}"),
        (FACTS, "css{a}#1", "", 'css{td[headers="p"] a}'),
        # a day by all of its date
        (DAYS, "css{[role=option]}#1", "", 'css{[aria-label="Choose Monday, March 10th, 2031"]}'),
        # a field by its label, a list by what it begins with
        (DIALOG, "css{input}", "", "label{Star}"),
        (BIRTH, "css{select}#2", "", '//select[option="Month"]'),
        # days as the calendar calls them, a code by its figures
        (WEEK, "css{.day}#2", "css", '[data-date="2031-09-02"]'),
        ("<p><select><option>+44<option>+31</select>", "css{option}#2", "", 'role{option "+31"}'),
    ],
)
def test_what_an_engineer_would_say(page: str, element: str, only: str, said: str) -> None:
    told = proposed(page, element, only)
    assert told == (f"{only or 'xpath'}{{{said}}}" if said.startswith(("//", "[")) else said)


@pytest.mark.parametrize("role", ["menuitem", "tab", "button", "cell"])
def test_the_words_of_a_control_are_asked_for_with_what_it_is(role: str) -> None:
    """Tomorrow they may stand in an element of their own, which `text{}` finds then."""
    page = Page.parse(
        f"<body><div><wh-item role={role}>Share</wh-item><wh-item role={role}>Week</wh-item></div><p>Share nights</p>"
    )
    told = [str(one.locator) for one in rank(page.find("css{wh-item}#2"), Question(ways=1))]
    assert told.index('xpath{//wh-item[normalize-space()="Week"]}') < told.index("text{Week}")
    wrapped = Page.parse(f"<body><div><wh-item role={role}><b>Share</b></wh-item><wh-item role={role}><b>Week</b></wh-item></div>")
    assert wrapped.find('xpath{//wh-item[normalize-space()="Week"]}').tag == "wh-item"
    assert wrapped.find("text{Week}").tag == "b"
    words = Page.parse("<body><p>Clear by ten</p><p>Clouds at one</p>")  # what is no control is known by what it says
    assert str(rank(words.find("css{p}#2"), Question(ways=1))[0].locator) == "text{Clouds at one}"


def test_a_heading_heads_what_comes_before_the_next() -> None:
    columns = "<div><h4>Visit</h4><a href=/way>Way</a></div><div><h4>More</h4><a href=/jobs>Jobs</a></div>"
    page = Page.parse(f"<body><footer>{columns}<form><button>Go</button></form></footer><p><button>Go</button>")
    told = [str(one.locator) for one in rank(page.find("css{button}#1"), Question(ways=1))]
    assert 'role{form} -> role{button "Go"}' in told
    assert not any("Visit" in one for one in told)
    cards = "".join(f"<article><h2>{star}</h2><button>Hold</button></article>" for star in ("Vega", "Saturn"))
    nights = Page.parse(
        f"<body><section><h2>Nights</h2>{cards}<button>More</button></section><section><h2>Old</h2><button>More</button>"
    )
    assert any("Nights" in str(one.locator) for one in rank(nights.find("css{section > button}#1"), Question(ways=1)))
    deeper = Page.parse("<body><section><h2>Nights</h2><h3>Soon</h3><button>More</button></section><section><button>More</button>")
    assert any("Nights" in str(one.locator) for one in rank(deeper.find("css{button}#1"), Question(ways=1)))


@pytest.mark.parametrize(
    ("inner", "counts"),
    [
        ("<span>Planet</span> <span>(4)</span>", True),
        ("Messages <b>3</b>", True),
        ("<span>4:10</span><span>Vega rising</span>", True),
        ("<span>Mo</span> <b>12</b>", False),  # a day
        ("<b>2</b> Who comes", False),  # a step
        ("Dome 2", False),
        ("<b>3</b>", False),
    ],
)
def test_a_text_that_holds_a_count_is_data(inner: str, counts: bool) -> None:
    page = Page.parse(f"<body><div class=one>{inner}</div>")
    element = page.find("css{.one}")
    assert holds_a_count(page, element.index, element.text) is counts


def test_the_one_user_of_a_page_is_data() -> None:
    bar = "<body><div class=bar><div class=user><img src=a.png><span>Ingrid Vale</span></div></div>"
    page = Page.parse(bar)
    assert shows_data(page, page.find("css{.user}").index)
    assert shows_data(page, page.find("css{span}").index)
    rows = Page.parse(f"{bar}<ul><li class=user>Bram Tolliver<li class=user>Wren Aster")
    assert not shows_data(rows, rows.find("css{li}#1").index)  # one of several is known by its name
    link = Page.parse("<body><p><a class=account href=/me>My account</a>")
    assert not shows_data(link, link.find("css{a}").index)


def test_a_date_is_how_a_calendar_calls_a_day() -> None:
    told = {"data-date": ("2031-09-02", "2031-09-02T20:30"), "data-time": ("20:30:00",)}
    assert all(is_dated(name, value) for name, values in told.items() for value in values)
    assert not any(is_dated(*one) for one in (("data-date", ""), ("data-date", "Monday"), ("data-created", "2031-09-02")))


def test_a_button_of_a_form_is_told_by_what_it_says() -> None:
    page = Page.parse("<body><form id=f><p><input name=who></p><input type=submit value=Order></form>")
    told = [str(one.locator) for one in rank(page.find("css{[type]}"), Question(ways=1, rules=Rules(only=("xpath",))))]
    assert told.index('xpath{//*[@value="Order"]}') < told.index('xpath{//*[@id="f"]/input}')


def test_what_stands_in_a_label_is_no_part_of_it() -> None:
    page = Page.parse(
        f"<body>{SLOTS}<p><label><input type=checkbox> I will be quiet in the dome <em>for all of the long night</em>"
    )
    said = [str(one.locator) for one in rank(page.find("css{[value='2140']}"), Question(ways=1))]
    assert not any("left" in one for one in said)
    quiet = [str(one.locator) for one in rank(page.find("css{[type=checkbox]}"), Question(ways=1))]
    assert "label{~will be quiet}" in quiet
    assert not any("long night" in one and "quiet" not in one for one in quiet)


def test_what_holds_half_of_a_page_is_told_by_nothing_that_it_holds() -> None:
    rest = "".join(f"<p>Night {k}</p>" for k in range(20))
    page = Page.parse(f"<body><div class=a><div class=b><input placeholder=Guest></div><b>Seven</b>{rest}</div>{rest[:200]}")
    told = [str(one.locator) for one in rank(page.find("css{b}"), Question(ways=1))]
    assert told
    assert not any("Guest" in one for one in told)
    form = Page.parse(f"<body><form><div class=b><input placeholder=Guest></div><b>Seven</b>{rest}</form>{rest[:200]}")
    assert any("Guest" in str(one.locator) for one in rank(form.find("css{b}"), Question(ways=1, purpose="read")))


@pytest.mark.parametrize(
    ("name", "locator", "kept"),
    [
        ("for=input-v-12", 'css{[for^="input-v-"]} @row-of text{Saturn}', False),  # any field of the kit
        ("no-label-float", "css{[no-label-float]} @row-of text{Saturn}", False),  # how it looks
        ("class=slow", "css{.slow} @row-of text{Saturn}", True),
    ],
)
def test_what_may_stand_behind_else(name: str, locator: str, kept: bool) -> None:
    rows = f"<tr><td>Vega<td><label>Slow</label><tr><td>Saturn<td><label {name}>Slow</label><b>Fast</b>"
    page = Page.parse(f"<body><table>{rows}</table>")
    label = page.find("css{label}#2")
    assert says_itself(assess(locator, label), label.index, page) is kept


FIELDS = "".join(
    f"<wh-field label={one}><span class=part></span></wh-field>" for one in ("Studio", "Hours", "Guide", "Dome", "Note")
)
STUDIO = f"""<wh-dialog>{FIELDS}<label>New<input type=text></label><button type=submit><b class=btn__suffix></b>
<i class=ok></i></button></wh-dialog><p><wh-tab><wh-icon icon=archive></wh-icon><a>Archive</a></wh-tab>
<wh-tab><a>Open</a></wh-tab><a>Open</a></p>"""


@pytest.mark.parametrize(
    ("locator", "kept"),
    [
        ('css{wh-dialog:has([label="Studio"]) [type="text"]}', False),  # when the field has gone, the next one is found
        ('css{wh-dialog:has([label="Studio"]) [type="submit"]}', True),  # of which there is one
        ("css{button:has(.ok)}", True),  # its icon
        ("css{button:has(.btn__suffix)}", False),  # a part of any button
        ('css{wh-tab:has([icon="archive"]) a}', True),  # what little else stands there
    ],
)
def test_what_a_holder_holds_tells_little(locator: str, kept: bool) -> None:
    page = Page.parse(f"<body>{STUDIO}")
    element = page.find(locator)
    assert says_itself(assess(locator, element), element.index, page) is kept


def test_what_people_call_an_element_is_said_in_xpath_too() -> None:
    """Whatever else lasts as long: here the classes of all that it stands in."""
    parts = "booking planner evening visitor telescope catalogue".split()
    calls = 'title="Hold it ..." aria-label="Hold it ..." data-stop=true class="hold-night hold-night--wide"'
    boxes = "".join(f"<div class={part}>" for part in parts)
    page = Page.parse(f"<body>{boxes}<button type=button {calls}>Tonight</button>{'</div>' * 6}<p><button type=button>x")
    said = [str(one.locator) for one in rank(page.find("css{.hold-night}"), Question(ways=1, rules=Rules(only=("xpath",))))]
    assert 'xpath{//*[@aria-label="Hold it ..."]}' in said


@pytest.mark.parametrize(
    ("page", "better", "worse"),
    [
        (HITS, "text{Book} @row-of text{The galaxy M31}", "text{Book} @row-of text{20 Sep}"),
        ("<table><tr><td>Open", 'xpath{//td[normalize-space()="Open"]}', 'role{cell "Open"}'),
        ("<wh-x>GET nights</wh-x><div>GET nights</div>", 'xpath{//wh-x[contains(., "GET")]}', 'xpath{//div[contains(., "GET")]}'),
        ("<a><svg><path d='M 2 1 L' e='M 2 1 L' /></svg></a>", 'css{a:has([e^="M 2"])}', 'css{a:has([d^="M 2"])}'),
    ],
)
def test_what_reads_better(page: str, better: str, worse: str) -> None:
    parsed = Page.parse(f"<body>{page}")
    likes = [assess(locator, parsed.find(locator)).distaste for locator in (better, worse)]
    assert likes[0] < likes[1]


def test_the_titles_of_rows() -> None:
    page = Page.parse(
        f"<body><table><tr><td><a href=/4>4</a><td>B404<td>Wet</table><div>{PLANS}</div><ul><li><a href=/v>Vega</a><b>Full</ul>"
    )
    link, code, state = (page.find(f"text{{{one}}}").index for one in ("4", "B404", "Wet"))
    assert titles_of(page, page.find("css{tr}").index, [link, code, state]) == [link, code, state]  # a figure is no title
    ribbon, title = (page.find(one).index for one in ("text{Most booked}", "css{h3}#2"))
    assert titles_of(page, page.find("css{.plan}#2").index, [ribbon, title]) == [title]
    star, full = page.find("text{Vega}").index, page.find("text{Full}").index
    assert titles_of(page, page.find("css{li}").index, [star, full]) == [star]


def test_what_tells_no_other_apart() -> None:
    week = Page.parse(f"<body><section><div class=week>{WEEK}</div><em>Note</em></section><section><em>Other</em></section>")
    told = [str(one.locator) for one in rank(week.find("css{em}#1"), Question(ways=1, purpose="read"))]
    assert not any("data-date" in one for one in told)
    named = Page.parse("<body><select name=night><option>Friday<option>Sunday</select><select name=dome><option>North</select>")
    assert not any("option" in str(one.locator) for one in rank(named.find("css{select}#1"), Question(ways=1)))
    acts = Page.parse(f"<body>{HITS}")
    assert not list(icon_predicates(acts, acts.find("css{.hit > div}#3").index))  # of several drawings none is its icon
    two = Page.parse('<body><div><svg><use href="#i-heart"></use></svg><svg><use href="#i-share"></use></svg></div>')
    assert not list(icon_predicates(two, two.find("css{div}").index))
    assert list(icon_predicates(acts, acts.find("css{.act}#1").index))
    room = Page.parse("<body><label><input type=checkbox> Room 4 <em>with a view of the dome</em></label><input type=checkbox>")
    called = [str(one.locator) for one in rank(room.find("css{input}#1"), Question(ways=1, rules=Rules(only=("label", "role"))))]
    assert called
    assert not any("~" in one and "view" in one for one in called)


def test_parts_of_texts() -> None:
    lines = Page.parse("<body><p>... and <a>5 hidden</a></p><p>Vega <a>5 hidden</a></p>")
    assert [words_beside(lines, one) for one in match(lines, parse("css{p}"))] == ["", "Vega"]
    assert [*stems("1 row selected")] == ["selected"]
    assert [*stems("12 rows selected")] == ["rows selected"]
    assert [*stems("Pay 104 crowns")] == ["Pay"]
    assert look_of_class("rounded-l") == "utility"
    assert look_of_class("rounded-list") == "named"
    assert building.is_of_text(building.says("Book"))


def test_days_have_no_parts() -> None:
    day = "Choose Monday, March 10th, 2031"
    assert head_of(day) == ""
    assert not [*stems(day)]
    assert head_of("Notes, 3 new") == "Notes"
