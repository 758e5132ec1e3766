"""What is found on a part of a live page against what is found on the whole of it: the same element, or no answer."""

from __future__ import annotations

import json
from collections.abc import Iterator
from importlib import resources
from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from wary_hound import Browser, Page, parse
from wary_hound.browser import LivePage
from wary_hound.browser.connection import Connection
from wary_hound.browser.glimpse import _plan_of, asked_for, glimpse
from wary_hound.errors import BrowserTimeout, LocatorError
from wary_hound.locator.blocks import row_of
from wary_hound.locator.evaluate import match
from wary_hound.locator.values import Locator
from wary_hound.page.secrets import ORDINARY

ODD = """<!doctype html><style>.loud{text-transform:uppercase}.mark::before{content:"» "}.said::after{content:"Vega"}

.gone{display:none}</style>
<p>Ho<b>l</b>d<span class=gone>x</span> it</p><p class=loud>hold it</p><p>Two&nbsp; words</p>
<p class=mark>Marked</p><p class=said>Near</p>
<table><tr><th>Star<td>Vega<td><button>Hold</button><tr><th>Planet<td>Saturn<td><button>Hold</button></table>
<table role=grid><tr><th>Dome<th>Free<tr><td>East<td><a href=#e>East</a></table>
<label for=a>First</label><label>Second <input id=b value=kept></label><input id=a><input id=a title=Twin>
<i id=c>Third</i><i id=d>night</i><input aria-labelledby="c d"><div role=checkbox id=e tabindex=0></div><label for=e>Fourth</label>
<label for=f>A very <em>long</em> one: <select><option>1<option selected>2</select></label><textarea id=f></textarea>
<div aria-hidden=true><button>Hidden</button></div><button><img alt=Icon><span>text</span></button><button title=Tip></button>
<form><input name=parentNode><input name=children><input name=querySelectorAll><input name=textContent><button>Send</button></form>
<ul><li><span>One</span><button>Go</button><li><span>Two</span><button>Go</button></ul>
<ul><li>Near<ul><li hidden>Io<li>Leda<ul><li>Dust</ul><li>Thebe</ul><li aria-hidden=true>Sun<li>Far</ul>
<section><div class=card><h3>Moon</h3><a href=#m>More</a></div><div class=card><h3>Mars</h3><a href=#n>More</a></div></section>
<div class=big><h3>Large</h3>BIG<a href=#o>Most</a></div><div class=big><h3>Other</h3><a href=#p>Most</a></div>
<select size=3><option>Slow<option>Fast</select><input type=submit><input type=submit value=Keep><a>no link</a>
<my-part></my-part><my-shut></my-shut><my-slot><b>Slotted</b></my-slot>
<script>const grow = (tag, mode, html) => { document.querySelector(tag).attachShadow({mode}).innerHTML = html; };

grow("my-part", "open",
"<button>Deep</button><label for=z>Fifth</label><input id=z><button id=y></button><label for=y>Sixth</label>");
grow("my-shut", "closed", "<button>Shut</button>");
grow("my-slot", "open", "<button><slot></slot></button>");</script>""".replace("BIG", "<i></i>" * 70)
SIMPLE = """<!doctype html><style>.loud{text-transform:uppercase}.gone{display:none}</style>
<p>Hold 1<p>Hold 2<p>Hold 21<p>Ho<b>ld</b> 2<i>2</i><p>Hold 3<span class=gone>x</span>1<p>Hold 3<i class=gone>1</i>2<p>Hold<p>3<p>3
<p class=loud>hold 4<p>Two&nbsp; words<p>\uff28old 5<p>\ufb01nd<p>Stra\u00dfe<p>caf\u00e9<p>cafe\u0301 2<p>1 \u2013 2<p>\u2460
<p>&#11;Six&#12;7<p>it's "so"<p>it's so<p>say "so"<script>"Hold 8"</script><template><p>Hold 8</template>
<button>Hold 1</button><button>Hold 2</button><button>\uff28old 3</button><button title="Hold 4"></button>
<button title="\uff28old 5"></button><button aria-label="Hold 6">x</button><button class=loud>hold 7</button>
<button title="Hold 8">Hold 7b</button><button>H<b>old</b> 9</button><button aria-labelledby=by></button><i id=by>Hold 10</i>
<label for=to>Hold 11</label><button id=to></button><label>Hold 12 <button></button></label><input type=button value="Hold 13">
<div role=button>Hold 14</div><button>it's "so"</button><button>it's so</button><a href=#a>Go 1</a>
<svg><a href=#b><text>Go 2</text></a></svg><svg><a href=#b aria-label="Go 3"></a></svg><img alt="Icon 1" src="">
<img title="Icon 2" src=""><math><mi>Hold 15</mi></math><button>caf\u00e9</button><button>Stra\u00dfe</button>"""
MANY_ODD = SIMPLE.replace("<p>Hold 2<", "<p>Hold 2" + "".join(map(chr, range(0xC0, 0x140))) + "<")
SAID = (
    "<style>button::before{content:'\u00bb '}p::after{content:'.'}i::after{content:'Hold 1'}a::before{content:attr(href)}</style>"
)
HOST = "<p id=host>Hold 16</p><script>host.attachShadow({mode: 'open'}).innerHTML = '<slot></slot>Hold 17'</script>"
SHEET = "<link rel=stylesheet href=sheet.css>"  # of which a page of a file may not be told
BELONGS = ("css{button} @row-of {}", "css{a} @row-of {}", "role{link} @row-of {}", "css{td} @row-of {}", "css{a} @inside {}")


def said_of(page: Page) -> Iterator[str]:
    """Ways to say the elements of a page, of all the kinds that a part may tell."""
    semantics = page.semantics
    for i in range(len(page)):
        if semantics.roles[i]:
            yield from (f"role{{{semantics.roles[i]}}}{place}" for place in ("", "#1", "#2", "#3", "#5", "#8"))
            name = json.dumps(semantics.name(i), ensure_ascii=False)
            for part in ("", "~"):
                yield from (f"{lead}role{{{semantics.roles[i]} {part}{name}}}" for lead in ("", "anywhere ") if len(name) > 2)
            yield f"anywhere role{{{semantics.roles[i]}}}"
        if label := semantics.label(i):
            for part in (label, f"~{label[: len(label) // 2 + 1]}"):
                yield from (f"label{{{part}}}", f"anywhere label{{{part}}}")
        for text in {semantics.text[i], semantics.written[i]}:
            if 0 < len(text) < 60:
                yield from (f"text{{{text}}}", f"text{{~{text[len(text) // 3 :].strip()}}}")
                yield from (way.replace("{}", f"text{{{text}}}") for way in BELONGS)


def compared(live: LivePage) -> tuple[int, int]:
    """How many locators find one element on the whole page, and how many of them on a part; each time the same one."""
    connection: Connection = live._connection
    taken = live._view.taken(live._target.deadline)
    connection.call(live.context, "() => { globalThis.whole = globalThis.waryHoundTaken; }")
    sole = told = 0
    for text in dict.fromkeys(said_of(taken.page)):
        locator = readable(text)
        if locator is None or _plan_of(locator) is None:
            continue
        on_whole = match(taken.page, locator)
        asked = asked_for(locator)
        on_part = asked and glimpse(connection, live.context, "2026-11-26T00:00:00+00:00", ORDINARY, asked)
        sole += len(on_whole) == 1
        if on_part is None:
            continue
        told += 1
        number = on_part.taken.places[on_part.index][1]
        same = connection.call(live.context, f"() => globalThis.whole.indexOf(globalThis.waryHoundTaken[{number}])")
        assert [taken.places[i] for i in on_whole] == [(live.context, same)], text
    return sole, told


def readable(text: str) -> Locator | None:
    try:
        return parse(text)
    except LocatorError:
        return None


@pytest.fixture(params=["chromium", "firefox"])
def browser(request: pytest.FixtureRequest) -> Browser:
    opened: Browser = request.getfixturevalue(request.param)
    return opened


WHOLES = [ODD, SIMPLE, MANY_ODD, SIMPLE + SAID, SIMPLE + HOST, SIMPLE + SHEET, ODD + SAID]
IN_FIREFOX = [ODD, SIMPLE + HOST, SIMPLE + SHEET]
"""The sieve is one script: what its answers rest on in a browser (closed trees, style) is tried in the other one, too."""


@pytest.mark.parametrize(("kind", "html"), [*(("chromium", whole) for whole in WHOLES), *(("firefox", one) for one in IN_FIREFOX)])
def test_a_part_of_a_page_tells_the_same_element_as_the_whole(
    request: pytest.FixtureRequest, tmp_path: Path, kind: str, html: str
) -> None:
    browser: Browser = request.getfixturevalue(kind)
    (tmp_path / "odd.html").write_text(f"<meta charset=utf-8>{html}")
    (tmp_path / "sheet.css").write_text("button::before { content: 'Vega' }")
    live = browser.open((tmp_path / "odd.html").as_uri())
    sole, told = compared(live)
    assert told == sole > 100
    live.close()


def test_a_part_tells_nearly_all_on_a_page_of_the_demo(browser: Browser) -> None:
    with resources.as_file(resources.files("wary_hound.demo") / "pages" / "held@r2.html") as file:
        live = browser.open(file.as_uri())
        sole, told = compared(live)
    assert sole > 100
    assert told > 0.95 * sole
    live.close()


WORDS = st.sampled_from(["Hold", "Ho", "ld", "Vega", " ", "Hold Vega", "a", "V", "ega", "\uff36ega", "\u00e9"])
TAGS = st.sampled_from("p b div button li td tr a label span h2 section option select".split())
EXTRA = st.sampled_from(
    [
        "",
        "hidden",
        "aria-hidden=true",
        "id=a",
        "for=a",
        "class=k",
        "class=g",
        "role=row",
        "role=button",
        "aria-label=Vega",
        "href=#x",
        "aria-labelledby=a",
        "title=Hold",
        "title=\uff28old",
    ]
)


@st.composite
def markup(draw: st.DrawFn, deep: int = 4) -> str:
    if not deep or draw(st.booleans()):
        return draw(WORDS)
    tag = draw(TAGS)
    inner = "".join(draw(st.lists(markup(deep - 1), max_size=4)))
    return f"<{tag} {draw(EXTRA)}>{inner}</{tag}>"


def test_a_part_of_any_page_tells_the_same(chromium: Browser, tmp_path: Path) -> None:
    (tmp_path / "any.html").write_text(
        "<!doctype html><meta charset=utf-8><style>.k{text-transform:uppercase}.g::before{content:'V'}"
        ".g:empty::after{content:'Hold'}</style><body>"
    )
    live = chromium.open((tmp_path / "any.html").as_uri())
    there: list[int] = []

    @settings(max_examples=20, deadline=None, suppress_health_check=list(HealthCheck), derandomize=True)
    @given(st.lists(markup(), min_size=2, max_size=6).map("".join))
    def check(html: str) -> None:
        live.script(f"() => {{ document.body.innerHTML = {json.dumps(html)}; }}")
        there.append(compared(live)[1])

    check()
    assert sum(there) > 100
    live.close()


def test_what_stands_before_a_place_is_counted_without_being_taken(browser: Browser, tmp_path: Path) -> None:
    rows = "<p><button>Hold</button><button hidden>Hold</button>" * 300 + "<ul><li>Jove<ul><li>Io<li>Leda</ul></ul>"
    (tmp_path / "long.html").write_text(f"<!doctype html><body><div aria-hidden=false><button>Near</button></div>{rows}")
    live = browser.open((tmp_path / "long.html").as_uri())
    asked = asked_for(parse("role{button}#250"))
    assert asked is not None
    told = glimpse(live._connection, live.context, "", ORDINARY, asked)
    assert told is not None
    assert len(told.taken.page) < 10
    nested = asked_for(parse("role{listitem}#3"))  # in one that stands before it
    assert nested is not None
    assert glimpse(live._connection, live.context, "", ORDINARY, nested) is not None
    live.script("() => { document.querySelectorAll('p')[248].firstChild.title = 'this'; }")
    again = glimpse(live._connection, live.context, "", ORDINARY, asked)
    assert again is not None
    assert again.taken.page[again.index].attributes["title"] == "this"
    live.close()


def test_a_name_is_found_on_a_part_only_where_a_witness_agrees(chromium: Browser, tmp_path: Path) -> None:
    (tmp_path / "names.html").write_text("<!doctype html><button id=send class=k>Send</button><button id=stay>Stay</button>")
    live = chromium.open((tmp_path / "names.html").as_uri())

    def told(*witnesses: str) -> bool:
        asked = asked_for(parse("text{Send}"), [parse(text) for text in witnesses])
        return asked is not None and glimpse(live._connection, live.context, "", ORDINARY, asked) is not None

    assert told()
    assert told("css{#stay}", "css{#send}")
    assert not told("css{#stay}")
    assert not told("css{.j}", "css{button}")
    assert not told("xpath{//button[1]}")  # nobody to ask on a part: the whole must tell
    assert not told("css{button:nth-of-type(1)}")
    live.script("() => { document.documentElement.remove(); }")  # as where a document has only begun
    assert not told()
    live.close()


def test_the_only_one_that_can_be_meant_is_seen_at_once_for_a_click(
    browser: Browser, tmp_path: Path, caplog: pytest.LogCaptureFixture
) -> None:
    held = "<button onclick='document.title=this.value' value={n}>Hold {n}</button>"
    rows = "".join(f"<tr><td>Night {n}<td>{held}".replace("{n}", str(n)) for n in range(90))
    (tmp_path / "rows.html").write_text(f"<!doctype html><button>SAVE</button><table>{rows}</table>")
    live = browser.open((tmp_path / "rows.html").as_uri())
    ways = ['role{button "Hold 3"}', "text{Hold 3}", "role{button}#5", "css{button} @row-of text{Night 3}"]
    live.click(ways[0])
    for way in ways:
        live.script("() => { document.title = ''; }")
        with caplog.at_level("DEBUG", "wary_hound.browser"):
            caplog.clear()
            live.click(way)
        looks = [record.args[0] for record in caplog.records if record.args]  # type: ignore[index]
        assert looks[: looks.index("input.performActions")] == ["script.callFunction"], way
        assert live.title() == "3"
    live.click("text{Hold 88}")  # it must be scrolled to
    assert live.title() == "88"
    live.limit = 0.3
    live.scroll_to("css{button}#1")
    with pytest.raises(BrowserTimeout, match="no matches"):
        live.click('role{button "Save"}')
    assert live._connection.call(live.context, "() => globalThis.waryHoundPress") is None  # nobody's press is held back
    live.close()


def test_the_one_card_of_a_list_is_a_row_on_a_part_as_on_the_whole(browser: Browser, tmp_path: Path) -> None:
    card = "<div class=card><p>{}</p><button value={}>Open</button></div>"
    lists = (("To do", ("Vega", "Mizar")), ("Doing", ("Lyra",)))
    board = "".join(
        f"<div class=list><h2>{name}</h2><button class=menu>{name[:2]}</button><div class=cards>"
        f"{''.join(card.format(star, star) for star in stars)}</div></div>"
        for name, stars in lists
    )
    (tmp_path / "board.html").write_text(f"<!doctype html><main>{board}{'<i></i>' * 90}</main>")
    live = browser.open((tmp_path / "board.html").as_uri())
    page = live.capture()
    for star in ("Vega", "Mizar", "Lyra"):
        way = f"css{{button}} @row-of text{{{star}}}"
        assert live.find(way).attributes["value"] == page.find(way).attributes["value"] == star
    assert row_of(page, page.find("css{[value=Lyra]}").index) == page.find("css{.list:last-of-type .card}").index
    sole, told = compared(live)
    assert sole > 10
    assert told > 5
    live.limit = 0.3
    with pytest.raises(BrowserTimeout, match="no matches"):
        live.click("css{.menu} @row-of text{Lyra}")  # which is in the row of the list alone
    live.close()
