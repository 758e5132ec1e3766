"""Captures of pages that are hard to see: nested and foreign frames, trees in trees, scrolled parts, odd markup."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import pairwise
from pathlib import Path

import pytest

from wary_hound import Browser, Page, rank
from wary_hound.browser import capture as capturing
from wary_hound.browser.connection import Connection
from wary_hound.browser.protocol import Json
from wary_hound.demo.server import serve
from wary_hound.page.serialize import to_html

DEEP = """<!doctype html><body style="margin:0"><h1>Deep</h1><night-list></night-list>
<iframe title=outer src=inner.html style="width:400px;height:300px;border:10px solid;padding:5px"></iframe>
<script>
customElements.define("sky-cell", class extends HTMLElement {
  constructor() { super(); this.attachShadow({mode: "closed"}).innerHTML = "<b>cell</b><slot></slot>"; }
});
customElements.define("night-list", class extends HTMLElement {
  constructor() {
    super();
    this.attachShadow({mode: "closed"}).innerHTML = "<ul><li><sky-cell>one</sky-cell></li><li><sky-cell>two</sky-cell></li></ul>";
  }
});
</script></body>"""
INNER = """<!doctype html><body style="margin:0"><div style="height:500px">tall</div><p id=low>low</p>
<iframe title=inmost srcdoc="<body style='margin:0'><i>inmost</i>" style="border:0;width:100px;height:50px"></iframe>
<script>scrollTo(0, 350)</script></body>"""
FOREIGN = """<!doctype html><body><p>outside</p><iframe title=foreign src="{address}/r1/weather.html"></iframe></body>"""
ODD = """<!doctype html><body><svg viewBox="0 0 9 9"><linearGradient id=g></linearGradient><a><text>star</text></a></svg>
<template><p>never</p></template><noscript><p>never</p></noscript><textarea>
two lines</textarea><pre>
kept</pre><form id=one><input name=a></form><button onclick="1" data-x='"{}&lt;'>Hold &amp; go</button>
<table id=t></table><div id=box style="display:contents"><b id=in>b</b></div><p id=gone style="visibility:hidden">x</p>
<select id=s><option>a</option><option>b</option></select><details><summary>s</summary><p id=closed>c</p></details>
<script>
const t = document.getElementById("t");
const row = document.createElement("tr");
row.append(document.createElement("td"));
t.append(row);
const nested = document.createElement("form");
nested.id = "two";
nested.append(document.createElement("input"));
document.getElementById("one").append(nested);
</script></body>"""


@pytest.fixture(scope="module")
def folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    made = tmp_path_factory.mktemp("pages")
    for name, text in (("deep", DEEP), ("inner", INNER), ("odd", ODD)):
        (made / f"{name}.html").write_text(text)
    return made


@pytest.fixture(scope="module")
def address(folder: Path) -> Iterator[str]:
    with serve(folder) as made:
        yield made


@pytest.fixture(params=["chromium", "firefox"])
def browser(request: pytest.FixtureRequest) -> Browser:
    found: Browser = request.getfixturevalue(request.param)
    return found


def test_trees_within_trees(browser: Browser, address: str, tmp_path: Path) -> None:
    page = browser.open(f"{address}/deep.html").capture()
    assert [(t.kind, t.mode) for t in page.trees] == [
        ("document", ""),
        ("shadow", "closed"),
        ("shadow", "closed"),
        ("shadow", "closed"),
        ("frame", ""),
        ("frame", ""),
    ]
    second = page.find("shadow css{night-list} -> shadow css{li:nth-child(2) sky-cell} -> css{b}")
    assert [page.tags[h] for h in page.hosts(second.index)] == ["night-list", "sky-cell"]
    assert page.find("shadow css{night-list} -> css{li}#2").text == "two"
    assert page.find("frame css{iframe} -> frame css{iframe[title=inmost]} -> text{inmost}").tag == "i"
    again = Page.read(page.write(tmp_path / "deep"))
    assert again.tags == page.tags
    assert [t.mode for t in again.trees] == [t.mode for t in page.trees]


def test_boxes_in_frames_count_from_the_top_document(browser: Browser, address: str) -> None:
    page = browser.open(f"{address}/deep.html").capture()
    frame = page.find("css{iframe}").box
    low = page.find("frame css{iframe} -> css{#low}").box
    assert low[0] == pytest.approx(frame[0] + 15, abs=1)
    inmost = page.find("frame css{iframe} -> frame css{iframe} -> css{i}").box
    assert frame[1] < low[1] < frame[1] + frame[3], "where it is scrolled to"
    assert inmost[1] > low[1]
    assert inmost[0] == pytest.approx(low[0], abs=1)


def test_frames_of_other_origins_are_seen(browser: Browser, folder: Path, address: str, site: str) -> None:
    (folder / "foreign.html").write_text(FOREIGN.format(address=site))
    page = browser.open(f"{address}/foreign.html").capture()
    assert page.find("frame css{iframe} -> css{dd}#1").text == "12 km/h, west"
    assert page.trees[1].url.endswith("/r1/weather.html")


def test_odd_markup_is_taken_as_the_tree_that_it_is(browser: Browser, address: str, tmp_path: Path) -> None:
    live = browser.open(f"{address}/odd.html")
    page = live.capture()
    assert page.find("css{#t > tr > td}").parent is not None, "a row by script stands in no tbody"
    assert page.find("css{form form}").attributes["id"] == "two"
    assert not page.find_all("text{never}")
    assert page.find("css{linearGradient}").attributes == {"id": "g"}
    assert page.find("css{button}").attributes["data-x"] == '"{}<'
    assert page.find("css{button}").text == "Hold & go"
    assert not page.find("css{#gone}").visible
    assert not page.find("css{#closed}").visible
    assert page.find("css{#in}").visible
    assert page.find("css{#s}").text == "a b"
    again = Page.read(page.write(tmp_path / "odd"))
    assert again.tags == page.tags
    assert [e.attributes for e in again] == [e.attributes for e in page]
    assert [again.semantics.raw_text(e.index) for e in again.find_all("css{textarea, pre}")] == ["two lines", "kept"]
    assert all(not again.semantics.raw_text(e.index) for e in again.find_all("css{script}"))


def test_what_hosts_closed_trees_is_asked_of_each_element_once(
    chromium: Browser, address: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    live = chromium.open(f"{address}/deep.html")
    sent: list[str] = []
    connection = live._connection
    usual = connection.begin

    def counted(method: str, **named: object) -> object:
        sent.append(method)
        return usual(method, **named)

    monkeypatch.setattr(connection, "begin", counted)
    live.capture()
    assert len(sent) == 3 * 3 + 1, "three documents, closed trees within closed trees"
    sent.clear()
    live.until(lambda page: True)
    assert len(sent) == 2 * 3, "a walk, and what changed meanwhile"


def test_a_closed_tree_that_is_made_later_is_seen(browser: Browser, tmp_path: Path) -> None:
    (tmp_path / "late.html").write_text(
        "<!doctype html><div id=a></div><div id=b style='height: 9px; overflow: hidden'></div><script>"
        "const give = (e) => { e.attachShadow({mode: 'closed'}).innerHTML = '<button>Hold</button>'; };</script>"
    )
    live = browser.open((tmp_path / "late.html").as_uri())
    assert not live.capture().find_all("shadow css{div} -> css{button}")
    live.script("() => document.body.append(document.createElement('section'))")
    inside = "shadow css{#%s} -> css{button}"
    run = "(id) => { const s = document.createElement('script'); s.textContent = `give(${id})`; document.body.append(s); }"
    live._connection.call(live.context, run, "a")
    assert live.until(lambda page: bool(page.find_all(inside % "a")))[1]
    live._connection.call(live.context, run, "b")
    assert live.capture().find(inside % "b").text == "Hold", "whatever its size"


GIVEN = [
    "document.body.append('1 < 2', document.createComment('3 < 4'))",
    "at(40).attachShadow({mode: 'closed'}).innerHTML = '<p>in it <b>5 < 6</b></p><slot></slot>'",
    "at(50).attachShadow({mode: 'open'}).innerHTML = '<p>in it</p><div id=deep></div>'",
    "at(50).shadowRoot.getElementById('deep').attachShadow({mode: 'closed'}).innerHTML = '<i>deeper</i>'",
    "added.attachShadow({mode: 'closed'}).textContent = 'bare'",
    "const root = added.attachShadow({mode: 'closed'}); root.innerHTML = '<div></div>'; "
    "root.firstChild.attachShadow({mode: 'closed'}).innerHTML = '<u>nested</u>'",
    "at(60).remove(); at(70).style.display = 'none'",
    "document.body.append(document.createElement('iframe'))",
]
"""What a page of blocks is given, one after the other; `added` is a new one."""


def test_closed_trees_on_a_page_of_many_blocks_are_seen_as_if_each_block_were_asked_of(browser: Browser, tmp_path: Path) -> None:
    rows = "".join(f"<div><span>Night {number}</span></div>" for number in range(120))
    (tmp_path / "blocks.html").write_text(f"<!doctype html><body>{rows}")
    live = browser.open((tmp_path / "blocks.html").as_uri())
    connection = live._connection
    usual, sizes = connection.total, list[int]()
    for given in ["", *GIVEN]:
        added = "const added = document.body.appendChild(document.createElement('div'));" if "added" in given else ""
        live.script(f"() => {{ const at = (n) => document.querySelectorAll('div')[n]; {added} {given} }}")
        looks = [capturing.capture(connection, live.context, "now", fresh=fresh).page for fresh in (True, False)]
        connection.total = None
        every = capturing.capture(connection, live.context, "now").page
        connection.total = usual
        assert [to_html(look) for look in looks] == [to_html(every)] * 2, given
        sizes.append(len(every))
    assert [later - before for before, later in pairwise(sizes)] == [0, 3, 2, 1, 1, 3, -2, 4]
    live.close()


def test_what_changes_while_it_is_taken_is_taken_again(browser: Browser, address: str, monkeypatch: pytest.MonkeyPatch) -> None:
    live = browser.open(f"{address}/deep.html")
    look, answered, tried, changing = capturing.documents, capturing.closed_roots, list[bool](), {1}

    def looked(connection: Connection, context: str, fresh: bool) -> object:
        tried.append(len(tried) + 1 in changing)
        return look(connection, context, fresh)

    def closed(hosts: list[Json]) -> list[str]:
        if tried[-1]:  # after the search for closed trees, before the walk
            tried[-1] = False
            live.script("() => { document.body.prepend(document.createElement('sky-cell')); }")
        return answered(hosts)

    monkeypatch.setattr(capturing, "documents", looked)
    monkeypatch.setattr(capturing, "closed_roots", closed)
    page = live.capture()
    assert (len(tried), page.notes) == (2, ())
    top = [tree for tree in page.trees[1:] if tree.mode == "closed" and page.tags[tree.host] in ("night-list", "sky-cell")]
    assert len(top) == 4, "three, and the one that came"
    assert page.find("shadow css{body > sky-cell} -> css{b}").text == "cell"
    changing = set(range(100))
    assert "was changing while it was taken, 4 times over" in live.capture().notes[0]


def test_a_page_that_never_rests_is_captured_all_the_same(
    chromium: Browser, folder: Path, address: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    (folder / "busy.html").write_text("<p id=p></p><script>setInterval(() => { p.textContent = Date.now(); }, 20)</script>")
    monkeypatch.setattr(chromium, "_limit", 2.0)
    live = chromium.open(f"{address}/busy.html")
    assert live.settle(0.5) is False
    assert live.capture().find("css{#p}").text.isdigit()
    live.close()


def test_a_page_whose_elements_grow_and_multiply_is_captured_all_the_same(browser: Browser, tmp_path: Path) -> None:
    (tmp_path / "growing.html").write_text(
        "<!doctype html><main></main><script>for (let i = 0; i < 400; i++) document.querySelector('main').append('|', "
        "document.createElement('div')); setInterval(() => { const cell = document.createElement('sky-cell'); "
        "document.querySelector('main').append(cell); cell.attachShadow({mode: 'closed'}).innerHTML = '<span>x</span>'; "
        "for (const e of document.querySelectorAll('div')) e.style.height = `${Math.random() * 9}px`; }, 1)</script>"
    )
    live = browser.open((tmp_path / "growing.html").as_uri(), until="parsed")
    assert len(live.capture().find_all("css{div}")) == 400
    assert live.until(lambda page: bool(page.find_all("shadow css{sky-cell} -> css{span}")))[1]
    live.close()  # which would grow beside all other tests


def test_what_style_does_to_words_is_kept_in_the_snapshot(browser: Browser, address: str, tmp_path: Path) -> None:
    markup = """<!doctype html><style>.loud { text-transform: uppercase } .star::before { content: "★ " attr(title) }
    @media screen { @supports (color: red) { .deep > :after { content: "!" } } } .nest { &::before { content: "nested " } }
    .box { display: inline-block } .run { display: inline } .alt::after { content: url(x.png) / " pictured" }</style>
    <button class=loud>Hold it</button><button class=star title=Vega>x</button><button><b class=box>Sky</b><b>dial</b></button>
    <button><p class=run>Star</p><p class=run>map</p></button><button class=alt>Moon</button>
    <button class=deep><i>Wow</i></button><button class=nest>x</button><button><sky-sign><em>in</em></sky-sign></button><script>
    customElements.define("sky-sign", class extends HTMLElement { constructor() { super();
      this.attachShadow({mode: "open"}).innerHTML = `<style>:host::before { content: "host " }
        ::slotted(em)::after { content: " slot" }</style><slot></slot>`; } });</script>"""
    (tmp_path / "style.html").write_text(markup)
    seen = browser.open((tmp_path / "style.html").as_uri()).capture()
    names = [e.name for e in seen.find_all("css{button}")]
    assert names[:4] == ["HOLD IT", "★ Vegax", "Sky dial", "Starmap"]
    assert names[5:] == ["Wow!", "nested x", "host in slot"]
    seen.write(tmp_path / "kept.html")
    assert [e.name for e in Page.read(tmp_path / "kept.html").find_all("css{button}")] == names
    assert [e.name for e in Page.parse(markup).find_all("css{button}")][:2] == ["Hold it", "x"]


def test_words_are_found_with_what_style_sheets_put_before_them_or_without(browser: Browser, tmp_path: Path) -> None:
    (tmp_path / "narrow.html").write_text(
        """<!doctype html><style>td { display: block } td::before { content: attr(title) } .due::after { content: " *" }</style>
        <table><tr><td title=Star>Vega<td title="Free "><button onclick="document.title += 1">Hold</button>
        <tr><td title=Star>Ju<b class=due>no</b><td title="Free "><button>Hold</button></table>"""
    )
    live = browser.open((tmp_path / "narrow.html").as_uri())
    live.click("css{button} @row-of text{Vega}")
    live.click("css{button} @row-of text{StarVega}")
    assert live.script("() => document.title") == "11"
    page = live.capture()
    assert [page.find(f"text{{{said}}}").tag for said in ("StarVega", "Vega", "StarJuno *", "Juno", "no *", "no")] == [
        *("td", "td", "td", "td", "b", "b")
    ]
    assert page.find_all("text{Star}") == []
    assert page.find("text{Vega}").text == "StarVega"  # as it reads
    proposed = [str(one) for one in rank(page.find("css{button}#1"))]
    assert "css{button} @row-of text{Vega}" in proposed
    assert not any("StarVega" in one for one in proposed)


@pytest.mark.parametrize("kind", ["chromium", "firefox"])
def test_a_document_that_comes_between_two_looks_is_taken_itself(
    kind: str, address: str, request: pytest.FixtureRequest, monkeypatch: pytest.MonkeyPatch
) -> None:
    live = request.getfixturevalue(kind).open(f"{address}/odd.html")
    answered, reloads = capturing.closed_roots, iter([live.reload])

    def closed(hosts: list[Json]) -> list[str]:
        for reload in reloads:
            reload()
        return answered(hosts)

    monkeypatch.setattr(capturing, "closed_roots", closed)
    assert live.capture().find("css{#in}").text == "b"
    live.close()
