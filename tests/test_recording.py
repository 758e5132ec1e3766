"""Recording: what is done in a browser becomes a journey that runs; driven by real input, in both browsers."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest

from conftest import LIMIT, run
from wary_hound import Book, Browser, Journey, Page
from wary_hound.browser import LivePage
from wary_hound.demo.server import serve
from wary_hound.journey.steps import Step
from wary_hound.running.recording import Recorder
from wary_hound.running.replay import replay

SHOP = """<!doctype html><title>Sign in</title><label>Name <input id=n></label><label>Dome key <input id=p type=password></label>
<button id=go><i class=icon></i><span>Enter the dome</span></button><div id=card style="cursor:pointer"><p>Vega</p></div>
<select id=m multiple><option>Dune<option>Heron<option>Lantern</select><textarea id=t></textarea><x-dial id=d></x-dial>
<ul id=list><li>One<li>Two<li></ul><output id=o></output><a href=next.html target=_blank rel=noopener>Open the list</a>
<script>go.onclick = () => o.textContent = "Hello " + n.value; card.onclick = () => o.textContent = "Card";
card.ondblclick = () => o.textContent = "Twice"; onkeydown = (e) => { if (e.key === "Escape") o.textContent = "Away"; };
customElements.define("x-dial", class extends HTMLElement { connectedCallback() { const r = this.attachShadow({mode: "closed"});
r.innerHTML = "<button>Turn</button>"; r.firstChild.onclick = () => { o.textContent = "Turned"; }; } });</script>"""
NEXT = "<!doctype html><title>List</title><button onclick=\"this.textContent='Taken'\">Take it</button>"


@pytest.fixture(params=["chromium", "firefox"])
def browser(request: pytest.FixtureRequest) -> Browser:
    found: Browser = request.getfixturevalue(request.param)
    return found


def recorded(live: LivePage, path: Path, *acts: Callable[[Recorder], object]) -> Recorder:
    """What comes of acts, each taken in before the next."""
    with Recorder(live, path, "Recorded") as recorder:
        recorder.listen(0.4)
        for act in acts:
            act(recorder)
            recorder.listen(0.5)
        recorder.finish()
    return recorder


def checking(recorder: Recorder, where: str) -> None:
    """A check as a person adds it: Alt and a click."""
    recorder.live.click(where, holding="Alt")


def test_what_is_done_becomes_a_journey_that_runs(browser: Browser, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    site = tmp_path / "site"
    site.mkdir()
    (site / "index.html").write_text(SHOP)
    (site / "next.html").write_text(NEXT)
    with serve(site) as address:
        live = browser.open(f"{address}/index.html")
        made = recorded(
            live,
            tmp_path / "shop.yaml",
            lambda r: live.type("css{#n}", "Ada Marsh"),
            lambda r: live.type("css{#p}", "tulip-77"),
            lambda r: live.click("css{#go span}"),
            lambda r: checking(r, "css{#o}"),
            lambda r: live.choose("css{#m}", "Dune", "Lantern"),
            lambda r: live.type("css{#t}", "Clear"),
            lambda r: live.click("css{#card p}"),
            lambda r: live.double_click("css{#card p}"),
            lambda r: live.keys("Escape"),
            lambda r: live.click("shadow css{#d} -> css{button}"),
            lambda r: checking(r, "css{#list li}#1"),
        )
        steps = list(made.journey.steps)
        said = [(s.action, s.value or s.values or s.expect) for s in steps]
        assert said == [
            ("open", "/index.html"),
            ("type", "Ada Marsh"),
            ("type", "{dome-key}"),
            ("click", None),
            ("check", "Hello Ada Marsh"),
            ("choose", ("Dune", "Lantern")),
            ("type", "Clear"),
            ("click", None),
            ("double-click", None),
            ("keys", "Escape"),
            ("click", None),
            ("check", "shown"),  # nothing but its text tells it from the other
        ]
        assert made.journey.secrets == {"dome-key": "DOME_KEY"}
        assert "tulip-77" not in "".join(p.read_text() for p in tmp_path.rglob("*") if p.is_file() and p.parent != site)
        book = Book.read(tmp_path / "shop.book.yaml")
        first = Page.read(tmp_path / "pages" / "shop-1.html")
        assert first.find(book.elements[steps[3].on].main).tag == "button"  # the control, not the icon in it
        assert first.find(book.elements[steps[7].on].main).attributes["id"] == "card"  # nor the paragraph
        monkeypatch.setenv("DOME_KEY", "tulip-77")
        done = run(
            "run",
            str(tmp_path / "shop.yaml"),
            "--base",
            address,
            "--browser",
            made.live.browser._running.name,
            "--limit",
            str(LIMIT),
        )
        assert done.exit_code == 0, done.output


def test_pages_that_open_dialogs_and_the_panel(browser: Browser, tmp_path: Path, site: str) -> None:
    live = browser.open(f"{site}/r1/index.html?seed=1")

    def asked(recorder: Recorder) -> None:
        with live.answering("prompt", text="Owls"):
            live.click("css{#name-group}")

    def in_panel(kind: str, at: int, **more: str) -> Callable[[Recorder], object]:
        return lambda r: r._asked(kind, at, more)

    made = recorded(
        live,
        tmp_path / "held.yaml",
        lambda r: live.click("css{.notice-close}"),
        asked,
        lambda r: live.tick("label{Cocoa}"),
        in_panel("undo", 1),
        in_panel("rename", 1, name="Group button"),
        lambda r: checking(r, "css{.bring-list li}#1"),
        in_panel("next", 3),
        in_panel("next", 3),
    )
    steps = [step.to_plain() for step in made.journey.steps]
    assert steps[1] == {"click": "group-button", "dialog": "prompt", "saying": "What is your group called?", "answer": "Owls"}
    assert steps[2] == {"tick": "cocoa"}
    assert steps[3]["texts"] == ["A warm coat", "", "A red torch", "", "Something hot to drink"]
    assert Journey.read(tmp_path / "held.yaml").steps == made.journey.steps
    name = browser._running.name
    book = Book.read(tmp_path / "held.book.yaml")
    done = replay(made.journey, book, browser, base=site, folder=tmp_path, limit=LIMIT, name=name, pictures=False)
    assert [(s.says, s.message) for s in done.steps if s.message] == []


def test_going_elsewhere_is_recorded(browser: Browser, tmp_path: Path, site: str) -> None:
    live = browser.open(f"{site}/r1/index.html")

    def goes(recorder: Recorder) -> None:
        recorder._acted = 0.0
        live.open(f"{site}/r2/index.html")

    made = recorded(
        live, tmp_path / "go.yaml", lambda r: live.click("text{Sky tonight}"), goes, lambda r: live.click("text{Sky tonight}")
    )
    assert [s.action for s in made.journey.steps] == ["open", "click", "open", "click"]
    assert made.journey.steps[2] == Step(action="open", value="/r2/index.html")


def test_a_recording_begins_in_a_new_file(tmp_path: Path) -> None:
    (tmp_path / "j.yaml").write_text("x")
    assert "is there already" in run("record", "http://127.0.0.1:1", "-o", str(tmp_path / "j.yaml")).stderr
    assert "written as YAML" in run("record", "http://127.0.0.1:1", "-o", str(tmp_path / "j.py")).stderr


TREES = """<!doctype html><title>Trees</title><x-pane id=p><template shadowrootmode=open><x-switch><template shadowrootmode=open>
<label>Hide finished <input type=checkbox></label><label>Dome <select aria-label=Dome><option>Dune<option>Heron</select></label>
</template></x-switch></template></x-pane><x-box><template shadowrootmode=open><label><input type=checkbox class=away>
<x-tick><template shadowrootmode=open><b style="font-size:40px">◻</b></template></x-tick></label><style>.away { position: absolute;
width: 1px; height: 1px; clip: rect(0 0 0 0); }</style></template></x-box><style>
.away { position: absolute; width: 1px; height: 1px; clip: rect(0 0 0 0); }</style>
<label for=r>Return</label><input class=away id=r type=radio name=w>"""


def test_changes_in_trees_within_trees_and_boxes_behind_labels(browser: Browser, tmp_path: Path) -> None:
    site = tmp_path / "site"
    site.mkdir()
    (site / "index.html").write_text(TREES)
    inside = "shadow css{#p} -> shadow css{x-switch} -> "
    with serve(site) as address:
        live = browser.open(f"{address}/index.html")
        made = recorded(
            live,
            tmp_path / "trees.yaml",
            lambda r: live.tick(f"{inside}css{{input}}"),
            lambda r: live.choose(f"{inside}css{{select}}", "Heron"),
            lambda r: live.tick("css{#r}"),  # it is a pixel wide: its label is what people see
            lambda r: live.click("shadow css{x-box} -> shadow css{x-tick} -> css{b}"),
        )
        assert [s.action for s in made.journey.steps] == ["open", "tick", "choose", "tick", "tick"]
        assert live.state("css{#r}").ticked
        ran = replay(made.journey, made.journey.read_book(tmp_path), browser, base=address, folder=tmp_path, limit=LIMIT)
        assert ran.state == "passed", ran.failing
