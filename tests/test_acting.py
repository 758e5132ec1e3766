"""Acting on live pages in both browsers: every action, waits for readiness, dialogs, navigation, and what goes wrong."""

from __future__ import annotations

import json
import os
import signal
import socket
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
from PIL import Image, ImageChops

from conftest import LIMIT, read, run, started
from wary_hound import Browser, BrowserError, BrowserTimeout, NotationError, Page, match, parse, rank
from wary_hound.authoring.ranking import telling
from wary_hound.browser import LivePage
from wary_hound.browser import capture as capturing
from wary_hound.browser.connection import Connection
from wary_hound.browser.direct import direct_form
from wary_hound.browser.keys import KEYS, chord
from wary_hound.browser.scripts import finding
from wary_hound.browser.view import View
from wary_hound.demo.server import serve
from wary_hound.errors import BrowserGone

PAGE = """<!doctype html><title>Dome</title><body style="margin:8px">
<p id=log style="height:20px;overflow:hidden"></p><button id=plain>Open the dome</button>
<label>Name <input id=name value=old></label><textarea id=note>old</textarea><div id=edit contenteditable>old</div>
<input id=day type=date><input id=locked value=x readonly><input type=file id=sheet multiple>
<label><input type=checkbox id=lamp> Lamp</label><input type=radio name=r id=east><input type=radio name=r id=west checked>
<select id=scope><option value=d>Dune<option value=h>Heron, 1 m<option value=l disabled>Lantern</select>
<select id=many multiple><option>One<option>Two</select>
<div id=from draggable=false style="width:60px;height:20px;background:#ccc">drag</div>
<div id=onto style="width:60px;height:20px;background:#aaa">onto</div>
<a id=next href="next.html">Next</a><a id=part href="#low">Part</a><a id=blank href="next.html" target=_blank>Other</a>
<sky-card></sky-card><iframe title=in srcdoc="<body style='margin:0'><button onclick='this.textContent=`pressed`'>inside</button>"
  style="width:200px;height:60px"></iframe>
<div style="height:1500px"></div><button id=low>Low</button>
<script>
const log = (text) => { document.getElementById("log").textContent += text + ";"; };
for (const kind of ["click", "dblclick", "contextmenu"]) {
  document.getElementById("plain").addEventListener(kind, (e) => { e.preventDefault(); log(kind + (e.isTrusted ? "" : "!")); });
}
document.getElementById("low").onclick = () => log("low");
document.getElementById("plain").onmouseenter = () => log("over");
for (const id of ["name", "scope", "day"]) document.getElementById(id).onchange = (e) => log(id + "=" + e.target.value);
document.onkeydown = (e) => { if (e.ctrlKey && e.key.length === 1) log("ctrl-" + e.key); };
document.getElementById("from").onmousedown = () => log("down");
document.getElementById("onto").onmouseup = () => log("dropped");
customElements.define("sky-card", class extends HTMLElement {
  constructor() {
    super();
    const root = this.attachShadow({ mode: "closed" });
    root.innerHTML = "<button><b>Turn</b></button><iframe srcdoc='<button>deep</button>' style='height:50px'></iframe>";
    root.querySelector("button").onclick = () => log("turned");
  }
});
</script></body>"""


@pytest.fixture(params=["chromium", "firefox"])
def opened(request: pytest.FixtureRequest, tmp_path: Path) -> Iterator[Callable[..., LivePage]]:
    """Opens markup as a page; closes it at the end, with all that it opened."""
    browser: Browser = request.getfixturevalue(request.param)
    before = set(browser.pages)

    def open_page(markup: str = PAGE, limit: float = LIMIT) -> LivePage:
        (tmp_path / "page.html").write_text(markup)
        (tmp_path / "next.html").write_text("<!doctype html><h1>Next page</h1>")
        live = browser.open((tmp_path / "page.html").as_uri())
        live.limit = limit
        return live

    yield open_page
    for page in set(browser.pages) - before:
        page.close()
    assert set(browser.pages) == before


def logged(live: LivePage) -> str:
    return live.capture().find("css{#log}").text


def value(live: LivePage, what: str) -> str:
    return str(live.script(f"() => {{ const at = (id) => document.getElementById(id); return String({what}); }}"))


def test_every_action_is_what_a_person_would_do(opened: Callable[..., LivePage], tmp_path: Path) -> None:
    live = opened()
    live.hover("css{#plain}")
    live.click("css{#plain}")
    live.double_click("text{Open the dome}")
    live.right_click("css{#plain}")
    assert logged(live) == "over;click;click;click;dblclick;contextmenu;"
    live.type("label{Name}", "Ada Märsh")
    live.keys("Tab")
    live.type("css{#note}", "two\nlines")
    live.type("css{#edit}", "fresh")
    live.type("css{#day}", "2031-08-12")
    live.clear("css{#note}")
    assert "name=Ada Märsh;day=2031-08-12;" in logged(live)
    assert value(live, "[at('note').value, at('edit').textContent, at('day').value]") == ",fresh,2031-08-12"
    live.tick("css{#lamp}")
    live.tick("css{#lamp}")
    live.tick("css{#east}")
    assert value(live, "[at('lamp').checked, at('east').checked, at('west').checked]") == "true,true,false"
    live.untick("label{Lamp}")
    live.choose("css{#scope}", "Heron, 1 m")
    live.choose("css{#scope}", value="d")
    live.choose("css{#many}", position=2)
    assert value(live, "[at('lamp').checked, at('scope').value, at('many').value]") == "false,d,Two"
    live.click("css{#name}")
    live.keys("Control+a")
    live.keys("x")
    assert value(live, "at('name').value") == "x"
    live.drag("css{#from}", "css{#onto}")
    live.click("css{#low}")
    assert value(live, "scrollY > 300") == "true"
    log = logged(live)
    assert "scope=h;scope=d;" in log
    assert "ctrl-a;down;" in log
    assert log.endswith("dropped;low;")
    live.scroll_to("css{#plain}")
    assert value(live, "scrollY < 100") == "true"
    live.scroll_by(down=400)
    live.settle()
    assert value(live, "scrollY > 300") == "true"
    file = tmp_path / "nights.csv"
    file.write_text("Vega")
    live.upload("css{#sheet}", file)
    assert value(live, "at('sheet').files[0].name") == "nights.csv"


def test_frames_and_closed_shadow_trees_need_nothing_special(opened: Callable[..., LivePage]) -> None:
    live = opened()
    live.click("shadow css{sky-card} -> css{b}")
    assert logged(live) == "turned;"
    live.click("frame css{iframe} -> text{inside}")
    assert live.capture().find("frame css{iframe} -> css{button}").text == "pressed"
    live.click("shadow css{sky-card} -> frame css{iframe} -> text{deep}")


def test_an_action_waits_until_its_element_is_ready(opened: Callable[..., LivePage]) -> None:
    live = opened("""<!doctype html><body style="margin:0"><p id=log></p><script>
    const log = (text) => { document.getElementById("log").textContent += text + ";"; };
    const later = (ms, act) => setTimeout(act, ms);
    const made = (text, style = "") => {
      const b = document.createElement("button");
      b.textContent = text; b.style.cssText = style; b.onclick = () => log(text); document.body.append(b); return b;
    };
    later(400, () => made("late"));
    const off = made("off"); off.disabled = true; later(900, () => { off.disabled = false; });
    const hidden = made("hidden", "visibility:hidden"); later(1200, () => { hidden.style.visibility = "visible"; });
    const under = made("under", "position:absolute;left:0;top:200px");
    const lid = document.createElement("div"); lid.id = "lid";
    lid.style.cssText = "position:absolute;left:0;top:190px;width:300px;height:60px;background:#ddd"; document.body.append(lid);
    later(1600, () => lid.remove());
    const moving = made("moving", "position:absolute;top:300px;left:0");
    let x = 0; const timer = setInterval(() => { moving.style.left = (x += 4) + "px"; if (x > 400) clearInterval(timer); }, 16);
    let old = made("swapped"); const swap = setInterval(() => { const n = old.cloneNode(true); n.onclick = old.onclick;
      old.replaceWith(n); old = n; }, 40); later(2500, () => clearInterval(swap));
    </script>""")
    for name in ("late", "off", "hidden", "under", "moving", "swapped"):
        live.click(f"text{{{name}}}")
    assert logged(live) == "late;off;hidden;under;moving;swapped;"


@pytest.mark.parametrize(
    ("markup", "act", "said"),
    [
        ("<button disabled>x</button>", lambda live: live.click("css{button}"), "to click css{button}: it is disabled"),
        ("<input id=i readonly>", lambda live: live.type("css{input}", "x"), "it cannot be written into"),
        ("<button hidden>x</button>", lambda live: live.click("css{button}"), "it is not shown"),
        (
            "<button>x</button><div id=lid style='position:fixed;inset:0'></div>",
            lambda live: live.click("css{button}"),
            'it is covered by <div id="lid">',
        ),
        (
            "<style>@keyframes a { to { margin-left: 900px } } button { animation: a 9s linear infinite }</style><button>x",
            lambda live: live.click("css{button}"),
            "it is moving",
        ),
        ("<button>x</button><button>x</button>", lambda live: live.click("css{button}"), "2 matches"),
        ("<p>x", lambda live: live.click("css{#none}"), "no matches"),
    ],
)
def test_what_never_gets_ready_is_said_at_the_limit(
    opened: Callable[..., LivePage], markup: str, act: Callable[[LivePage], None], said: str
) -> None:
    live = opened(f"<!doctype html><body>{markup}", limit=1.5)
    with pytest.raises(BrowserTimeout, match=r"waited 1\.5 s") as caught:
        act(live)
    assert said in str(caught.value)
    assert caught.value.picture.startswith(b"\x89PNG")


def test_at_the_limit_the_nearest_elements_are_named(opened: Callable[..., LivePage]) -> None:
    live = opened("<!doctype html><p>Nights</p><button id=hold-vega>Hold this night</button><button id=off>Off</button>")
    live.limit = 1.0
    with pytest.raises(BrowserTimeout) as caught:
        live.click("css{#hold-vgea}")
    assert [near.element.attributes["id"] for near in caught.value.nearest] == ["hold-vega"]  # type: ignore[attr-defined]
    assert 'near it: <button id="hold-vega">' in str(caught.value)
    live.limit = LIMIT
    live.click("css{#hold-vega}")
    live.find("css{#hold-vega}")
    live.script("() => { document.querySelector('button').id = 'b7'; document.body.prepend('Dome: '); }")
    live.limit = 1.0
    with pytest.raises(
        BrowserTimeout, match=r'near it: <button id="b7">.*the one used before: 99 % sure; nothing else .*; same text.*; other id\)'
    ):
        live.find("css{#hold-vega}")
    assert live.find("css{#b7}").text == "Hold this night"
    assert [e.tag for e in live.find_all("css{body > *}")] == ["p", "button", "button"]


LATE = """<!doctype html><button onclick="log.textContent+='deleted;'">Delete</button><p id=log></p><script>
setTimeout(() => { const made = document.createElement("button"); made.textContent = "Publish";
  made.onclick = () => { log.textContent += "published;"; }; document.body.append(made); }, 1200);
</script>"""


def test_another_way_counts_only_when_the_first_has_had_the_limit(opened: Callable[..., LivePage]) -> None:
    live = opened(LATE)
    live.click("text{Publish} else css{button:nth-of-type(1)}")
    assert logged(live) == "published;"
    assert live.healed == ()
    live.limit = 0.5
    for way in ("css{#none} else css{button:nth-of-type(1)}", "text{Nothing} else text{Nobody} else text{Delete}"):
        live.click(way)
    assert logged(live) == "published;deleted;deleted;"
    assert [h.acted for h in live.healed] == [True, True]
    assert "its other way text{Delete} was used instead" in str(live.healed[-1])
    assert live.wait_for("text{Nothing} else text{Delete}")
    assert len(live.healed) == 3
    with pytest.raises(BrowserTimeout):
        live.click("text{Nothing} else css{button}")
    assert len(live.healed) == 3


FIELDS = """<!doctype html><input id=tone type=color value=#000000><input id=bright type=range min=0 max=10 step=2>
<div id=box><input id=name></div><input id=upper oninput="this.value=this.value.toUpperCase()">
<input id=few maxlength=4><input id=phone oninput="this.value=this.value.replace(/(\\d{3})(?=\\d)/g,'$1 ')">
<input id=deaf oninput="this.value=this.value.replace(/[aeiou]/g,'')"><textarea id=long></textarea>
<p id=log></p><div style="height:2000px"></div><script>
let times = 0;
document.getElementById("box").addEventListener("input", (e) => {
  if (++times === 3) { const made = document.createElement("input"); made.id = "name"; e.target.replaceWith(made); }
});
onwheel = (e) => { log.textContent = `${Math.round(e.clientX * 4 / innerWidth)} ${Math.round(e.clientY * 4 / innerHeight)}`; };
document.addEventListener("keydown", (e) => { if (e.ctrlKey && e.key === "+") log.textContent = "closer"; });
</script>"""


def test_what_was_typed_is_looked_at(opened: Callable[..., LivePage]) -> None:
    live = opened(FIELDS)
    for name, text, held in (
        ("tone", "#12ab34", "#12ab34"),
        ("bright", "8", "8"),
        ("upper", "vega", "VEGA"),
        ("few", "saturn", "satu"),
        ("phone", "030555123", "030 555 123"),
        ("name", "Ada Quill", "Ada Quill"),
        ("long", "a night " * 400, "a night " * 400),
    ):
        live.type(f"css{{#{name}}}", text)
        assert value(live, f"document.getElementById('{name}').value") == held
    for name, text, said in (("deaf", "Saturn", "holds 'Strn' after 'Saturn'"), ("bright", "99", "does not take '99'")):
        with pytest.raises(BrowserError, match=said):
            live.type(f"css{{#{name}}}", text)


def test_the_wheel_turns_over_the_middle_and_plus_is_a_key(opened: Callable[..., LivePage]) -> None:
    live = opened(FIELDS)
    live.scroll_by(down=120)
    live.wait_for("text{2 2}")
    live.keys("Control++")
    live.wait_for("text{closer}")


def test_what_cannot_be_done_is_refused_at_once(opened: Callable[..., LivePage]) -> None:
    live = opened(limit=2.0)
    for act, said in (
        (lambda: live.choose("css{#scope}", "Mole"), "its options are: Dune, Heron"),
        (lambda: live.choose("css{#scope}", "Lantern"), "disabled"),
        (lambda: live.choose("css{#name}", "x"), "no select"),
        (lambda: live.upload("css{#sheet}", "/nowhere/at/all"), "no such file"),
        (lambda: live.keys("Controll+A"), "no key is named 'Controll'"),
        (lambda: live.choose("css{#scope}", "Dune", "Heron"), "one option only"),
    ):
        with pytest.raises(BrowserError, match=said):
            act()
    with pytest.raises(NotationError):
        live.click("css{")


@pytest.mark.parametrize("mode", ["open", "closed"])
def test_what_a_host_hands_into_a_control_covers_it_not(opened: Callable[..., LivePage], mode: str) -> None:
    live = opened(
        f"""<!doctype html><p id=log></p><x-b id=a>Odile</x-b><x-b id=c><b>Vega</b></x-b><x-c id=d>Moon</x-c>
    <div style="position:relative"><x-b id=e>Tide</x-b><div id=lid style="position:absolute;inset:0;background:#ddd"></div></div>
    <script>const made = (host, html) => {{
      const root = host.attachShadow({{ mode: "{mode}" }}); root.innerHTML = html; return root; }};
    customElements.define("x-b", class extends HTMLElement {{ constructor() {{ super();
      made(this, "<button><span><slot></slot></span></button>").firstChild.onclick = () => {{
        document.getElementById("log").textContent += (this.id || this.getRootNode().host.id) + ";"; }}; }} }});
    customElements.define("x-c", class extends HTMLElement {{ constructor() {{ super();
      made(this, "<x-b><slot></slot></x-b>"); }} }});</script>""",
    )
    for inside in ("shadow css{#a}", "shadow css{#c}", "shadow css{#d} -> shadow css{x-b}"):
        live.click(f"{inside} -> css{{button}}")
    assert logged(live) == "a;c;d;"
    live.limit = 3.0
    with pytest.raises(BrowserTimeout, match='covered by <div id="lid">'):
        live.click("shadow css{#e} -> css{button}")


def test_options_are_chosen_by_what_people_read(opened: Callable[..., LivePage]) -> None:
    live = opened("<!doctype html><select id=s style='text-transform:uppercase'><option>dune<option>heron lamp</select>")
    for text in ("HERON LAMP", "dune", "heron lamp"):
        live.choose("css{#s}", text)
        assert live.state("css{#s}").chosen == (text.lower(),)
    with pytest.raises(BrowserError, match="its options are: dune, heron lamp"):
        live.choose("css{#s}", "Dune")


def test_a_click_that_the_page_hears_first_and_keeps_is_no_error(opened: Callable[..., LivePage]) -> None:
    live = opened(
        """<!doctype html><p id=log></p><button id=b>b</button><script>for (const kind of ["pointerdown", "click"]) {
    addEventListener(kind, (event) => { event.stopImmediatePropagation(); log.textContent += kind + ";"; }, true); }</script>"""
    )
    live.click("css{#b}")
    assert logged(live) == "pointerdown;click;"


def test_links_around_blocks_and_what_waits_below_a_sticky_head_are_clicked(opened: Callable[..., LivePage]) -> None:
    live = opened(
        """<!doctype html><body style="margin:0"><header style="position:sticky;top:0;height:80px;background:#ccc">head</header>
    <p id=log></p><section>before <a id=card href="#card"><div style="height:60px">Vega</div></a></section>
    <div style="height:1500px"></div>
    <button id=low>low</button><iframe style="transform:scale(.5);transform-origin:0 0;width:400px;height:200px;border:9px solid"
    srcdoc="<body style=margin:0><button style='margin:150px 0 0 300px' onclick='parent.say(`frame`)'>in</button>">
    </iframe>
    <div style="height:1500px"></div><div id=mask style="position:fixed;inset:0;background:#fffc"></div>
    <script>var say = (v) => { document.getElementById("log").textContent += v + ";"; };
    card.onclick = () => say("card"); low.onclick = () => say("low");
    let looks = 0; addEventListener("scroll", () => { looks += 1; if (looks === 2) setTimeout(() => mask.remove(), 600); });
    </script>"""
    )
    live.click("css{#low}")  # the mask goes when it has been scrolled to
    live.click("css{#card}")
    live.click("frame css{iframe} -> css{button}")
    assert logged(live) == "low;card;frame;"
    assert live.state("css{#card}").shown


def test_dialogs_are_expected_or_dismissed_and_recorded(opened: Callable[..., LivePage]) -> None:
    live = opened("""<!doctype html><p id=log></p><button id=c onclick="say(confirm('Give it up?'))">c</button>
    <button id=p onclick="say(prompt('Name?', 'none'))">p</button>
    <button id=s onclick="for (let i = 0; i < 5; i++) alert(i)">s</button>
    <button id=l onclick="setTimeout(() => prompt('Late?'), 300)">l</button>
    <script>const say = (v) => { document.getElementById("log").textContent += v + ";"; }</script>""")
    with live.answering("confirm", "Give it up?"):
        live.click("css{#c}")
    with live.answering("confirm", accept=False):
        live.click("css{#c}")
    with live.answering("prompt", text="Dune Walkers"):
        live.click("css{#p}")
    live.click("css{#c}")
    assert logged(live) == "true;false;Dune Walkers;false;"
    assert [(d.kind, d.expected) for d in live.dialogs] == [
        ("confirm", True),
        ("confirm", True),
        ("prompt", True),
        ("confirm", False),
    ]
    live.click("css{#s}")
    assert [d.message for d in live.dialogs[4:]] == ["0", "1", "2", "3", "4"]
    with live.answering("prompt", "Late?", text="yes"):
        live.click("css{#l}")
    live.limit = 0.5
    with pytest.raises(BrowserError, match="a confirm was expected, but no dialog opened within"), live.answering("confirm"):
        live.hover("css{#c}")
    live.limit = LIMIT
    with pytest.raises(BrowserError, match=r"there was a confirm saying 'Give it up\?'"), live.answering("confirm", "Other?"):
        live.click("css{#c}")
    with pytest.raises(BrowserError, match="a prompt was expected"), live.answering("prompt"):
        live.click("css{#c}")
    live.limit = 0.5
    with pytest.raises(BrowserTimeout, match="before: alert '4' opened, which nobody expected, and was dismissed"):
        live.click("css{#none}")


def test_guards_act_only_when_in_the_way(opened: Callable[..., LivePage]) -> None:
    live = opened(
        """<!doctype html><body style="margin:0"><p id=log></p><button id=b>go</button>
    <div id=lid hidden style="position:fixed;inset:0;background:#eee"><button>away</button></div>
    <div id=stuck hidden style="position:fixed;inset:0;background:#ddd"><button>stays</button></div>
    <script>const at = (id) => document.getElementById(id);
    at("b").onclick = () => { at("log").textContent += "go;"; at("lid").hidden = false; };
    at("lid").querySelector("button").onclick = () => { at("log").textContent += "away;"; at("lid").hidden = true; };
    </script>"""
    )
    guard = live.guard("css{#lid}", "text{away}")
    live.click("text{go}")
    assert guard.uses == 0
    live.click("text{go}")
    assert (guard.uses, logged(live)) == (1, "go;away;go;")
    calls: list[str] = []
    stuck = live.guard("css{#stuck}", lambda: calls.append("tried"))
    live.click("text{away}")
    live.script("() => { document.getElementById('b').hidden = true; document.getElementById('lid').hidden = false; }")
    live.script(
        "() => { document.querySelector('#lid button').addEventListener('click', () => { document.body.append('shut'); }); }"
    )
    assert "shut" in live.wait_for("text{~shut}").find("css{body}").text
    live.script("() => { document.getElementById('stuck').hidden = false; document.getElementById('b').hidden = false; }")
    with pytest.raises(BrowserError, match="still shown after 3 s"):
        live.click("css{#b}")
    assert (stuck.uses, calls) == (1, ["tried"])


def test_a_guard_clears_away_what_comes_between_an_element_and_its_click(opened: Callable[..., LivePage]) -> None:
    live = opened(
        """<!doctype html><body style="margin:0"><p id=log></p><button id=b>go</button>
    <div id=lid hidden style="position:fixed;inset:0;background:#eee"><button>away</button></div>
    <script>const at = (id) => document.getElementById(id);
    at("b").onclick = () => { at("log").textContent += "go;"; };
    at("b").onpointermove = () => { if (!at("log").textContent) { at("log").textContent = "came;"; at("lid").hidden = false; } };
    at("lid").querySelector("button").onclick = () => { at("log").textContent += "away;"; at("lid").hidden = true; };
    </script>"""
    )
    guard = live.guard("css{#lid}", "text{away}")
    live.click("text{go}")
    assert (guard.uses, logged(live)) == (1, "came;away;go;")


@pytest.mark.parametrize("where", ["css{#b}", 'role{button "go"}'])
def test_what_comes_under_the_pointer_at_the_press_is_never_pressed(opened: Callable[..., LivePage], where: str) -> None:
    live = opened(
        """<!doctype html><body style="margin:0"><div id=room></div><button id=b>go</button><br><button id=d>delete</button>
    <div id=lid hidden style="position:fixed;inset:0;background:#eee">wait</div><p id=log></p>
    <script>const at = (id) => document.getElementById(id), said = [];
    const put = (word) => { said.push(word); at("log").textContent = said.join(";"); };
    for (const kind of ["pointerdown", "mousedown", "pointerup", "mouseup", "click"]) document.addEventListener(kind,
      (event) => put((event.target.id || event.target.localName) + " " + kind), true);
    const firsts = [() => { at("lid").hidden = false; setTimeout(() => { at("lid").hidden = true; }, 150); },
      () => { at("room").style.height = "60px"; document.body.prepend(at("d")); }];
    at("b").onpointermove = () => { const one = firsts.shift(); if (one) one(); };
    </script>"""
    )
    pressed = "b pointerdown;b mousedown;b pointerup;b mouseup;b click"
    live.click(where)  # something covers it when it is pressed
    assert logged(live) == pressed
    live.hover("css{#log}")
    live.click(where)  # another one lies there when it is pressed
    assert logged(live) == f"{pressed};{pressed}"


@pytest.mark.parametrize("where", ["text{Hold Vega}", 'role{button "Hold Vega"}', "css{button} @row-of text{Vega}"])
def test_a_press_is_held_back_where_the_element_says_something_else_by_then(opened: Callable[..., LivePage], where: str) -> None:
    live = opened(
        """<!doctype html><style>td, button { width: 9em }</style>
    <table><tr><td>Vega<td><button>Hold Vega</button><tr><td>Moon<td><button>Hold Moon</button></table><p id=log></p><script>
    const swap = (one, two) => { [one.textContent, two.textContent] = [two.textContent, one.textContent]; };
    const buttons = document.querySelectorAll("button");
    for (const b of buttons) b.onclick = () => { document.getElementById("log").textContent += b.textContent + ";"; };
    buttons[0].addEventListener("pointermove", () => {
      swap(...buttons);  // as a list is drawn anew in the elements that are there
      swap(...document.querySelectorAll("td:first-child"));
    }, { once: true });
    </script>"""
    )
    live.click(where)
    assert logged(live) == "Hold Vega;"


@pytest.mark.parametrize("where", ["css{.own}", "xpath{//*[@class='own']}"])
def test_a_press_is_held_back_where_it_would_be_another_that_matches_by_then(opened: Callable[..., LivePage], where: str) -> None:
    live = opened(
        """<!doctype html><button class=own>one</button><button>two</button><p id=log></p><script>
    const [one, two] = document.querySelectorAll("button");
    for (const b of [one, two]) b.onclick = () => { document.getElementById("log").textContent += b.textContent + ";"; };
    one.addEventListener("pointermove", () => { one.className = ""; two.className = "own"; });
    </script>"""
    )
    live.click(where)
    assert logged(live) == "two;"
    late = """() => {
      const b = document.querySelector("button");
      b.id = "late";
      b.onpointermove = () => { b.disabled = true; };
    }"""
    live.script(late)
    live.limit = 1.0
    with pytest.raises(BrowserTimeout, match="it is disabled"):
        live.click("css{#late}")


@pytest.mark.parametrize("where", ["css{#low}", "role{button}"])
def test_what_is_disabled_at_the_press_is_not_clicked_though_it_was_scrolled_to(
    opened: Callable[..., LivePage], where: str
) -> None:
    live = opened(
        """<!doctype html><div style="height:2000px"></div><button id=low>low</button>
    <iframe srcdoc="<button onpointermove='this.disabled = true'>inside</button>"></iframe><p id=log></p>
    <script>const low = document.getElementById("low"); low.onpointermove = () => { low.disabled = true; };
    low.onclick = () => { document.getElementById("log").textContent += "low;"; };</script>""",
        limit=1.5,
    )
    for asked in (where, "frame css{iframe} -> css{button}"):
        with pytest.raises(BrowserError, match="it is disabled"):
            live.click(asked)
    assert logged(live) == ""


@pytest.mark.parametrize("where", ["css{#b}", "text{go}"])
def test_what_is_taken_out_of_the_page_at_the_press_leaves_the_press_to_nobody_else(
    opened: Callable[..., LivePage], where: str
) -> None:
    live = opened(
        """<!doctype html><body style="margin:0;display:flex;flex-direction:column"><button id=b>go</button><button>delete</button>
    <p id=log></p><script>const b = document.getElementById("b");
    for (const one of document.querySelectorAll("button")) one.onclick = () => {
      document.getElementById("log").textContent += one.textContent + ";";
    };
    let moved = 0;
    b.onpointermove = () => { if (!moved++) { b.remove(); setTimeout(() => document.body.append(b), 100); } };
    </script>"""
    )
    live.click(where)
    assert logged(live) == "go;"


def test_what_covers_an_element_at_every_press_is_told_and_not_clicked(opened: Callable[..., LivePage]) -> None:
    live = opened(
        """<!doctype html><body style="margin:0"><button id=b>go</button><p id=log></p>
    <div id=lid hidden onclick="document.getElementById('log').textContent += 'lid;'" style="position:fixed;inset:0">x</div><script>
    const lid = document.getElementById("lid"), b = document.getElementById("b");
    let moves = 0;
    b.onpointermove = () => {
      lid.hidden = false;
      b.style.marginLeft = `${20 * (++moves % 2)}px`;
    };
    for (const up of ["mouseup", "click"]) addEventListener(up, () => { lid.hidden = true; }, true);  // before anybody else
    </script>""",
        limit=1.0,
    )
    with pytest.raises(BrowserError, match='whenever it was pressed, it is covered by <div id="lid">; the press was held back'):
        live.click("css{#b}")
    assert logged(live) == ""


def test_a_click_that_never_came_holds_back_nothing_that_comes_later(
    opened: Callable[..., LivePage], monkeypatch: pytest.MonkeyPatch
) -> None:
    live = opened("<!doctype html><button id=a>a</button><button id=b "
                  "onmousedown='a.textContent += 1 + event.button'>b</button>")  # fmt: skip
    usual = live._connection.send

    def lost(method: str, **named: Any) -> Any:
        if method == "input.performActions":
            raise BrowserGone("the browser went away")
        return usual(method, **named)

    monkeypatch.setattr(live._connection, "send", lost)
    with pytest.raises(BrowserGone):
        live.click("css{#a}")
    monkeypatch.undo()
    live.double_click("css{#b}")
    live.right_click("css{#b}")
    assert live.script("() => document.querySelector('#a').textContent") == "a113"


def test_what_moves_a_little_under_the_pointer_is_clicked_once_all_the_same(opened: Callable[..., LivePage]) -> None:
    live = opened(
        """<!doctype html><style>#b { transition: 80ms } #b:hover { transform: translateY(-2px) scale(1.1) }</style>
    <button id=b onclick="document.getElementById('log').textContent += 'go;'">go</button><p id=log></p>"""
    )
    for times in (1, 2, 3):
        live.click("css{#b}")
        assert logged(live) == "go;" * times


def test_navigations_are_awaited_and_pages_that_open_are_found(opened: Callable[..., LivePage]) -> None:
    live = opened()
    live.click("css{#next}")
    assert live.capture().find("css{h1}").text == "Next page"
    live.back()
    live.click("css{#part}")
    live.reload()
    assert live.capture().url.endswith("#low")
    live.click("css{#blank}")
    browser = live.browser
    other = browser.page("next.html")
    assert other.capture().find("css{h1}").text == "Next page"
    assert other is not live
    written = "() => { window.open('').document.write('<h1>Written</h1>'); }"
    live.script(written)
    assert "Written" in [page.script("() => document.body.textContent") for page in browser.pages]
    with pytest.raises(BrowserTimeout, match=r"a page at nowhere\.html; open are .*next\.html"):
        browser.page("nowhere.html", limit=0.2)
    for page in (other, live):
        page.to_front()
        page.hover("css{body}")


def test_chords_go_down_in_their_order() -> None:
    assert chord("Control++") == [KEYS["Control"], "+"]
    assert chord("+") == ["+"]
    assert chord("Control+Shift+k") == [KEYS["Control"], KEYS["Shift"], "k"]
    assert chord("+") == ["+"]
    with pytest.raises(BrowserError, match="no key"):
        chord("Hyper+x")


def test_commands_take_an_address_as_well_as_a_file(site: str) -> None:
    address = f"{site}/r4/index.html?seed=1"
    shown = run("check", "shadow css{night-booking} -> label{Visitor name}", address)
    assert shown.exit_code == 0
    assert f"1 of 1  {address}" in shown.output.splitlines()[0]
    assert "open shadow tree" in run("look", address).output
    ranked = json.loads(run("rank", address, "css{#notice button}", "--json").output)
    assert ranked["element"]["role"] == "button"
    assert ranked["candidates"]
    gone = run("look", "http://127.0.0.1:9/nothing")
    assert gone.exit_code == 2
    assert "cannot be opened" in gone.stderr


def test_the_example_books_a_night_in_a_page_that_reads_like_the_journey() -> None:
    root = Path(__file__).parent.parent
    text = (root / "examples" / "book_a_night.py").read_text()
    assert sum(bool(line.strip()) for line in text.splitlines()) < 26
    command = [sys.executable, "examples/book_a_night.py", "firefox"]
    done = subprocess.run(command, cwd=root, capture_output=True, text=True, check=True)
    assert done.stdout.splitlines() == ["Thank you, Ada Marsh: 2 places at dusk", "East, 45° / Up to date"]


@pytest.mark.parametrize("kind", ["chromium", "firefox"])
def test_a_browser_killed_in_the_middle_of_a_wait_is_an_error_and_leaves_nothing(kind: str, tmp_path: Path) -> None:
    (tmp_path / "page.html").write_text("<!doctype html><button disabled>x</button>")
    browser = Browser.start(kind)
    running = started(browser)
    folder, process = running.folder, running.process
    try:
        live = browser.open((tmp_path / "page.html").as_uri())
        threading.Timer(1.0, os.killpg, (process.pid, signal.SIGKILL)).start()
        begun = time.monotonic()
        with pytest.raises(BrowserError, match="went away"):
            live.click("css{button}")
        assert time.monotonic() - begun < live.limit
    finally:
        browser.close()
    assert not folder.exists()
    assert process.poll() is not None


def test_matches_are_outlined_and_numbered_on_a_picture(site: str, demo: Path) -> None:
    assert run("check", "css{td.places}", "pages/nights@r1.html", "--picture", "file.png").exit_code == 1
    assert run("check", "css{#notice button}", f"{site}/r4/index.html?seed=1", "--picture", "live.png").exit_code == 0
    page = read("nights@r1")
    with Image.open("file.png") as drawn, Image.open("pages/nights@r1.png") as plain, Image.open("live.png") as live:
        assert drawn.height == plain.height + 34
        assert live.width == 1280
        cut = drawn.convert("RGB").crop((0, 0, *plain.size))
        box = ImageChops.difference(cut, plain.convert("RGB")).getbbox()
    assert box is not None
    places = [page[i.index].box for i in page.find_all("css{td.places}")]
    assert box[0] >= min(left for left, *_ in places) - 4
    assert box[3] <= max(top + height for _, top, _, height in places) + 4


def test_candidates_shown_say_something_else_each() -> None:
    ranked = rank(read("nights@r1").find("css{button[value='vega']}"))
    shown = telling(ranked, 6)
    assert shown[0] == ranked[0]
    assert len(shown) == 6
    facts = [{fact for fact, _ in c.outlook.hazards} for c in shown]
    assert not any(facts[k] >= facts[j] for k in range(6) for j in range(k))


def test_an_alert_while_loading_is_dismissed_and_recorded(opened: Callable[..., LivePage]) -> None:
    live = opened("<!doctype html><h1>Dome</h1><script>alert('Careful')</script><p>after</p>")
    assert live.capture().find("css{p}").text == "after"
    assert [(d.kind, d.message, d.expected) for d in live.dialogs] == [("alert", "Careful", False)]


def test_a_frame_that_goes_away_again_and_again_is_no_end_of_a_capture(opened: Callable[..., LivePage]) -> None:
    live = opened("""<!doctype html><p id=log></p><button id=b>x</button><script>
    let frame = null;
    setInterval(() => { if (frame) frame.remove(); frame = document.createElement("iframe");
      frame.srcdoc = "<i>in</i>"; document.body.append(frame); }, 60);
    document.getElementById("b").onclick = () => { document.getElementById("log").textContent += "pressed;"; };
    </script>""")
    for _ in range(5):
        page = live.capture()
        assert len(page.find_all("css{button}")) == 1
    live.click("css{#b}")
    assert logged(live) == "pressed;"


def test_a_page_that_never_loads_ends_at_the_limit(chromium: Browser) -> None:
    with socket.create_server(("127.0.0.1", 0)) as silent:
        address = f"http://127.0.0.1:{silent.getsockname()[1]}/never"
        live = chromium.open("about:blank")
        live.limit = 1.0
        with pytest.raises(BrowserTimeout, match=r"waited 1 s for .*never to be there"):
            live.open(address)
        live.close()


MEANT = """<!doctype html><body><div id=a class="x y"><p>One</p><p lang=de>Zwei <b>drei</b></p><form><input value=v><input disabled>
<select><option>o</select></form></div><div id=b><p>One</p><svg><circle r=1 /></svg><ul><li>i<li>ii<li>iii</ul></div>
<open-card></open-card><closed-card></closed-card><script>for (const mode of ["open", "closed"])
customElements.define(mode + "-card", class extends HTMLElement { constructor() { super();
this.attachShadow({ mode }).innerHTML = "<p>" + mode + "</p><b>in <i>it</i></b>"; } });</script>"""
SAID = [
    "css{p}", "css{div > p:first-child}", "css{#a} -> css{p}", "css{div} -> css{p:first-child}", "css{div} -> css{p}#2",
    "css{:scope > body}", "css{#b} -> css{:scope > ul li}", "css{div p}", "css{li:nth-child(even)}", "css{:has(> b)}",
    "css{input:disabled, select}", "css{circle}", "css{p:lang(de)}", "css{#none}", "css{div div} -> css{p}", "css{li}#3",
    "css{li}#4",
    "xpath{//p}", "xpath{//p/text()}", "xpath{//@class}", "xpath{(//li)[2]}", "xpath{//li[last()]/preceding-sibling::li}",
    "css{#b} -> xpath{.//li}", "css{#b} -> xpath{//p}", "css{#a} -> xpath{p[2]}", "xpath{//div} -> css{p}", "xpath{//*[b]}",
    "shadow css{open-card} -> css{p}", "shadow css{closed-card} -> css{b i}", "shadow css{closed-card} -> css{b} -> css{i}",
    "anywhere css{p}", "css{closed-card} -> anywhere css{b i}", "css{body} -> anywhere css{p:first-child}",
    "anywhere css{div} -> css{p}",
    "anywhere shadow css{closed-card} -> css{b} -> css{i}", "shadow css{open-card} -> anywhere css{i}", "anywhere css{:scope > p}",
    "shadow css{p} -> css{b}", "xpath{//div[@id='a']//input[not(@disabled)]}", "css{div} -> css{div}", "css{p}#1 -> css{b}",
]  # fmt: skip


def test_locators_mean_on_the_live_page_what_they_mean_on_a_snapshot(opened: Callable[..., LivePage], tmp_path: Path) -> None:
    live = opened(MEANT)
    taken = live._taken()
    snapshot = Page.read(taken.page.write(tmp_path / "kept"))
    find = f"(hops) => {{ const at = globalThis.waryHoundTaken; const found = ({finding()})(JSON.parse(hops)); "
    find += "return found && found.map((element) => at.indexOf(element)).sort((a, b) => a - b); }"
    for said in SAID:
        form = direct_form(parse(said))
        assert form is not None, said
        seen = live._connection.call(live.context, find, form)
        numbers = [taken.places[index][1] for index in match(taken.page, said)]
        if seen is None:  # only a capture can tell: a paragraph hosts no tree
            assert said == "shadow css{p} -> css{b}"
        else:
            assert [int(n) for n in seen] == numbers, said
        assert match(snapshot, said) == match(taken.page, said), said
    for said in (
        "role{button}",
        "css{a:hover}",
        "frame css{iframe} -> css{b}",
        "css{a} @row-of text{b}",
        "shadow css{a} -> xpath{//b}",
        "anywhere xpath{//b}",
        "anywhere css{a} -> xpath{.//b}",
    ):
        assert direct_form(parse(said)) is None


def test_an_action_needs_no_capture_where_the_browser_can_tell_itself(
    opened: Callable[..., LivePage], monkeypatch: pytest.MonkeyPatch
) -> None:
    live = opened()
    taken: list[str] = []
    usual = capturing.capture
    monkeypatch.setattr(capturing, "capture", lambda *a, **k: taken.append("x") or usual(*a, **k))  # type: ignore[func-returns-value]
    live.click("xpath{//button[@id='plain']}")
    live.type("css{label} -> css{#name}", "Ada")
    assert taken == []
    live.click("shadow css{sky-card} -> css{b}")
    live.click("shadow css{sky-card} -> css{button}")
    assert taken == ["x"], "a closed tree has to be seen once"
    assert logged(live) == "over;click;name=Ada;turned;turned;"


@pytest.mark.parametrize("kind", ["chromium", "firefox"])
@pytest.mark.parametrize("leave", ["button", "a", "#by-script", "#sent"])
def test_what_comes_right_after_a_click_sees_what_it_led_to(
    kind: str, leave: str, request: pytest.FixtureRequest, tmp_path: Path
) -> None:
    (tmp_path / "next.html").write_text("<!doctype html><h1>Next</h1>")
    (tmp_path / "first.html").write_text(
        "<!doctype html><p>0</p><form action=next.html><button>Send</button></form><a href=next.html>Next</a>"
        "<b id=by-script onclick='location.href = `next.html`'>Go</b><b id=sent onclick='document.forms[0].submit()'>Send</b>"
        "<i onclick='requestAnimationFrame(() => { document.querySelector(`p`).textContent++; })'>Count</i>"
    )
    live = request.getfixturevalue(kind).open((tmp_path / "first.html").as_uri())
    for count in range(1, 6):
        live.click("css{i}")
        assert live.script("() => document.querySelector('p').textContent") == str(count), "what the next frame shows"
    for _ in range(4):
        live.click(f"css{{{leave}}}")
        assert live.script("() => document.body.textContent") == "Next"
        live.back()
    live.close()


@pytest.mark.parametrize("kind", ["chromium", "firefox"])
def test_areas_of_an_image_map_are_seen_and_clicked(kind: str, request: pytest.FixtureRequest, tmp_path: Path) -> None:
    picture = "data:image/svg+xml,<svg xmlns='http://www.w3.org/2000/svg' width='200' height='100'/>"
    (tmp_path / "map.html").write_text(
        f"""<!doctype html><p style="height: 3000px">Sky</p><img usemap="#sky" width=200 height=100 src="{picture}">
        <map name=sky><area coords="100,0,200,100" href="#east" alt=East><area shape=circle coords="50,50,30" href="#west" alt=West>
        </map>"""
    )
    live = request.getfixturevalue(kind).open((tmp_path / "map.html").as_uri())
    east, west = live.capture().find_all("css{area}")
    assert (east.role, east.name, east.visible) == ("link", "East", True)
    assert east.box is not None
    assert west.box is not None
    assert (east.box[0] - west.box[0], west.box[1] - east.box[1], *west.box[2:]) == (80, 20, 60, 60)
    live.click('role{link "West"}')
    assert live.address().endswith("#west")
    live.click("css{[alt=East]}")
    assert live.address().endswith("#east")
    live.close()


@pytest.mark.parametrize("kind", ["chromium", "firefox"])
def test_a_navigation_that_the_page_takes_on_itself_is_not_waited_for(
    kind: str, request: pytest.FixtureRequest, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    (tmp_path / "router.html").write_text(
        "<!doctype html><a href=/sky>Sky</a><a href=leaves.html>Leave</a><p>Nights</p><script>"
        "navigation.addEventListener('navigate', (event) => { if (event.destination.url.endsWith('/sky')) event.intercept({ "
        "handler: async () => { document.querySelector('p').textContent = 'Sky'; } }); });</script>"
    )
    (tmp_path / "leaves.html").write_text("<!doctype html><p>Left</p>")
    waited: list[int] = []
    usual = View.begun
    monkeypatch.setattr(View, "begun", lambda view, mark, limit: waited.append(mark) or usual(view, mark, limit))
    with serve(tmp_path) as address:
        live = request.getfixturevalue(kind).open(f"{address}/router.html")
        live.click('role{link "Sky"}')
        assert live.script("() => document.querySelector('p').textContent") == "Sky"
        assert waited == []
        live.click('role{link "Leave"}')
        assert live.script("() => document.querySelector('p').textContent") == "Left"
        live.close()


REDRAWN = """<!doctype html><label>Name <input id=f value="Ada "></label><script>
const redraw = (value) => {
  const old = document.getElementById("f"), copy = old.cloneNode();
  copy.setAttribute("value", copy.value = value);
  old.replaceWith(copy);
};
document.addEventListener("again", () => redraw(document.getElementById("f").value));
document.addEventListener("input", (event) => { if (event.target.value.endsWith("dome")) redraw(event.target.value); });
</script>"""


@pytest.mark.parametrize("times", [3, 10**9])
def test_a_field_that_is_drawn_anew_before_it_is_written_into(
    opened: Callable[..., LivePage], monkeypatch: pytest.MonkeyPatch, times: int
) -> None:
    live = opened(REDRAWN, limit=LIMIT if times == 3 else 1.0)
    whole, left = Connection.call, [times]

    def call(self: Connection, context: str, function: str, *arguments: Any, **options: Any) -> Any:
        if "selectAllChildren" in function and left[0]:  # the focus is about to be set
            left[0] -= 1
            whole(self, context, "() => document.dispatchEvent(new Event('again'))")
        return whole(self, context, function, *arguments, **options)

    monkeypatch.setattr(Connection, "call", call)
    if times > 3:
        with pytest.raises(BrowserError, match="drew it anew whenever it was to have the focus"):
            live.type("css{#f}", "Ada Marsh")
        return
    live.type("css{#f}", "Ada Marsh")
    assert (value(live, "at('f').value"), left) == ("Ada Marsh", [0])


def test_what_a_redrawn_field_has_kept_is_not_added_twice(opened: Callable[..., LivePage]) -> None:
    live = opened(REDRAWN)
    live.add("css{#f}", "of the north dome")  # the field is another one behind the last letter, and holds it all
    assert value(live, "at('f').value") == "Ada of the north dome"
