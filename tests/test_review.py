"""Review: planted weaknesses are found, clean journeys are not blamed, fixes find the same element, proofs name who notices."""

from __future__ import annotations

import json
from collections.abc import Iterator
from contextlib import contextmanager
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from threading import Thread

import pytest

from conftest import LIMIT, read, run
from wary_hound import Browser
from wary_hound.demo.tour import demo_folder
from wary_hound.journey.book import parse_book
from wary_hound.journey.drafting import draft, outline
from wary_hound.journey.journey import parse_journey
from wary_hound.journey.review import RULES, review
from wary_hound.journey.review.of_names import says_nothing
from wary_hound.journey.values import filling_for, matching
from wary_hound.page import Page
from wary_hound.running.proving import prove

PAGES = demo_folder() / "pages"
BOOK = """book: Nights
page: PAGES/nights@r1.html
elements:
  booking-status: css{#booking-status}
  visitor-name: css{#visitor-name}
  send-booking: role{button "Send booking"}
  close-notice: css{[aria-label="Close notice"]}
  hold-vega: css{button[value="vega"]}
"""
OPEN, ACT, CHECK = "  - open: /index.html\n", "  - click: hold-vega\n", "  - check: booking-status\n    reads: 'Held: Vega'\n"
SOUND = OPEN + ACT + CHECK


def reviewed(folder: Path, steps: str, book: str = "", more: str = "") -> set[str]:
    """The rules that a journey breaks, dead entries apart."""
    (folder / "b.yaml").write_text(BOOK.replace("PAGES", str(PAGES)) + book)
    (folder / "j.yaml").write_text(f"journey: J\nbook: b.yaml\n{more}steps:\n{steps}")
    return {f.rule for f in review([folder / "j.yaml"]).findings} - {"dead-entry"}


def entry(locator: str, name: str = "planted-one") -> tuple[str, str]:
    """Steps that use a planted locator by a name, and the entry."""
    return OPEN + f"  - click: {name}\n" + CHECK, f"  {name}: {json.dumps(locator)}\n"


PLANTED = [
    ("found-by-its-text", OPEN + ACT + "  - check: text{Nothing held yet}\n    reads: Nothing held yet\n", ""),
    ("found-by-its-text", OPEN + ACT + "  - check: 'role{status \"Held\"}'\n    reads: Held\n", ""),
    ("cannot-fail", OPEN + ACT + "  - check: booking-status\n    matches: .*\n", ""),
    ("found-by-its-text", OPEN + ACT + "  - check: 'xpath{//output[.=\"Held\"]}'\n    contains: Held\n", ""),
    ("says-it-again", SOUND + CHECK, ""),
    ("absence-unproven", OPEN + ACT + "  - check: css{.busy}\n    is: gone\n", ""),
    ("absence-unproven", OPEN + ACT + "  - check: css{#toast}\n    is: hidden\n", ""),
    ("absence-from-start", OPEN + ACT + "  - check: css{#toast}\n    is: hidden\n    from: the start\n", ""),
    ("gone-or-hidden", SOUND + "  - check: toast\n    is: shown\n  - check: toast\n    is: gone\n", "  toast: css{#toast}\n"),
    ("nothing-checked", OPEN + ACT, ""),
    ("unchecked-action", SOUND + "  - click: send-booking\n", ""),
    ("unchecked-action", SOUND + "  - keys: Enter\n", ""),
    ("fixed-wait", OPEN + "  - stub: /api/*\n    delay: 3\n" + ACT + CHECK, ""),
    ("not-the-control", *entry("css{.brand-mark}")),
    ("class-for-id", *entry("css{.nights}")),
    ("wildcard", *entry("xpath{//*[@value='vega']}")),
    ("wildcard", *entry("css{form * button}")),
    ("wildcard", *entry("css{[class*='brand']}")),
    ("wildcard", *entry("xpath{//a[contains(@class,'brand')]}")),
    ("absolute-path", *entry("xpath{/html/body/header/a}")),
    ("absolute-path", *entry("css{body > header > a}")),
    ("absolute-path", *entry("css{main > div > aside > form > div > button}")),
    ("position", *entry("css{tr:nth-child(1) button}")),
    ("position", *entry("css{.tab}#2")),
    ("position", *entry("xpath{(//button)[3]}")),
    ("position", *entry("xpath{//table/tbody/tr[last()]//button}")),
    ("position", *entry("css{.tabs button:first-child}")),
    ("styling-class", *entry("css{.mt-4}")),
    ("styling-class", *entry("css{button.is-active}")),
    ("generated", *entry("css{#u6996538}")),
    ("generated", *entry("css{#u832774-4100}")),
    ("generated", *entry("xpath{//div[@id='u16230232']}")),
    ("data-as-locator", *entry("text{Nothing held yet}")),
    ("request-too-wide", SOUND + "  - check: the page\n    asked: GET *\n", ""),
    ("request-too-wide", SOUND + "  - check: the page\n    asked: GET http://*/api/nights\n", ""),
    ("matches-many", *entry("css{button}")),
    ("matches-nothing", *entry("css{#nowhere-at-all}")),
    ("two-names", *entry('role{button "Send booking"}', "send-it")),
    ("says-nothing", *entry("css{#cancel-booking}", "button2")),
    ("unknown-name", OPEN + "  - click: nobody\n" + CHECK, ""),
    ("secret-in-clear", OPEN + "  - type: tulip\n    in: css{#password}\n" + ACT + CHECK, ""),
]


@pytest.mark.parametrize(("rule", "steps", "book"), PLANTED, ids=[f"{n}-{p[0]}" for n, p in enumerate(PLANTED)])
def test_a_planted_weakness_is_found(tmp_path: Path, rule: str, steps: str, book: str) -> None:
    assert len(PLANTED) >= 40
    assert rule in reviewed(tmp_path, steps, book)


@pytest.mark.parametrize(
    ("steps", "book", "more"),
    [
        (SOUND, "", ""),
        (OPEN + "  - click: close-notice\n  - check: close-notice\n    is: hidden\n", "", ""),
        (OPEN + "  - type: '{visitor}'\n    in: visitor-name\n" + ACT + CHECK, "", "data:\n  visitor: Ada\n"),
        (OPEN + ACT + "  - check: the page\n    asked: GET /api/nights\n    status: 200\n", "", ""),
        (OPEN + "  - click: cancel-it\n    dialog: confirm\n", "  cancel-it: css{#cancel-booking}\n", ""),
        (OPEN + ACT + "  - check: css{#nights tbody tr}\n    counts: 5\n", "", ""),
        (OPEN + "  - type: '{key}'\n    in: css{#password}\n" + ACT + CHECK, "", "secrets:\n  key: DOME\n"),
        (OPEN + "  - click: saturn-button\n" + CHECK, "  saturn-button: 'css{button} @row-of text{Saturn}'\n", ""),
    ],
)
def test_a_clean_journey_is_not_blamed(tmp_path: Path, steps: str, book: str, more: str) -> None:
    assert reviewed(tmp_path, steps, book, more) - {"matches-many", "matches-nothing"} == set()


def test_every_rule_has_a_place_and_words(demo: Path) -> None:
    found = review([Path("books/hold-a-night.yaml"), Path("books/give-up-a-night.yaml")])
    assert (found.journeys, len(found.findings) > 5) == (2, True)
    for finding in found.findings:
        line = finding.place.path.read_text().splitlines()[finding.place.line - 1]
        assert finding.about in line or finding.place.what in line, (finding, line)
        assert line[finding.place.column - 1].strip(), (finding, line)
        assert not line[: finding.place.column - 1].strip(" -").endswith(tuple("abcdefghijklmnopqrstuvwxyz")), (finding, line)
        assert RULES[finding.rule].about


def test_fixes_find_the_same_element(demo: Path) -> None:
    before = parse_book(Path("books/nights.yaml"))[1]
    done = run("review", "books/hold-a-night.yaml", "--fix", "--sarif", "r.sarif")
    assert done.exit_code == 0, done.output
    after = parse_book(Path("books/nights.yaml"))[1]
    page = read("nights@r1")
    changed = {n for n in before.elements if before.elements[n].locator != after.elements[n].locator}
    assert changed == {"hold-moon", "places-saturn", "send-booking", "thank-sunday"}
    for name in changed:
        assert page.find(before.elements[name].main).index == page.find(after.elements[name].main).index
    results = json.loads(Path("r.sarif").read_text())["runs"][0]["results"]
    assert {r["ruleId"] for r in results} >= {"position", "dead-entry"}
    assert "# nobody gave this one a name" in Path("books/hold-a-night.yaml").read_text()
    assert run("review", "books/hold-a-night.yaml").exit_code == 0


SOURCES = {
    "Nights.java": (
        'driver.find("css selector", "tr:nth-child(2) > td");\nfind("xpath", "//button[@value=\'vega\']");\nThread.sleep(2000);\n',
        [("position", 1), ("fixed-wait", 3)],
    ),
    "nights.py": (
        'page.click("tr:nth-child(2) button")\npage.click("hold-vega")\ntime.sleep(2)\n# time.sleep(9)\n'
        'page.find(\'xpath{/html/body/p}\')\nprint("tr:nth-child(2)")\nx = f"css{{p:nth-child({n})}}"\n',
        [("position", 1), ("fixed-wait", 3), ("absolute-path", 5)],
    ),
    "nights.ts": ("await find('id', 'input-3f9a8c71'); // css{p:nth-child(2)}\nfind('id', 'visitor-name')\n", [("generated", 1)]),
    "nights.rb": ("find(:xpath, '//td[3]')\n", [("position", 1)]),
    "nights.csv": ("name,strategy,value\nhold,css selector,td:nth-child(2)\n", [("position", 2)]),
}


@pytest.mark.parametrize("name", SOURCES)
def test_weaknesses_in_sources(name: str, tmp_path: Path) -> None:
    text, expected = SOURCES[name]
    (tmp_path / name).write_text(text)
    done = run("review", str(tmp_path / name), "--json")
    assert [(f["rule"], f["line"]) for f in json.loads(done.output)["findings"]] == expected
    assert "in 1 source" in run("review", str(tmp_path / name)).output


def test_names_that_say_nothing() -> None:
    assert all(map(says_nothing, ("button", "btn-2", "x", "element", "div3", "a")))
    assert not any(map(says_nothing, ("send-booking", "visitor-name", "hold-vega", "menu-keys")))


def test_a_proof_names_what_no_check_notices(chromium: Browser, site: str) -> None:
    folder = demo_folder() / "books"
    _, journey = parse_journey(folder / "hold-a-night.yaml")
    short = journey.model_copy(update={"steps": journey.steps[:4] + journey.steps[4:5] + journey.steps[6:7]})
    _, book = parse_book(folder / "nights.yaml")
    found = prove(short, book, chromium, base=f"{site}/r1", folder=folder, limit=1.5)
    assert [(m.step, m.change, m.noticed) for m in found] == [
        (2, "left out", True),
        (3, "shown", True),
        (4, "left out", True),
        (5, "another text", True),
        (6, "left out", False),
    ]


BUSY = """<!doctype html><title>Dome</title><button onclick="sky.hidden = false; history.pushState({}, '', '/shut');
fetch('/tell', {method: 'POST'}).then(() => setTimeout(() => { sign.remove(); said.textContent = 'Shut'; }, 400))">Shut</button>
<button onclick="if (confirm('Open the dome?')) said.textContent = 'Open'">Open</button><p id=sign>Working</p>
<p id=sky hidden>Sky</p><p id=said role=status>Waiting</p><a onclick="fetch('/other')" href="#x">Other</a>"""
SHUTTING = """journey: Shut the dome
steps:
  - open: /
  - click: text{Shut}
  - check: css{#sign}
    is: gone
  - check: css{#said}
    reads: Shut
  - check: the page
    asked: POST /tell
  - check: the page
    address: /shut
  - click: text{Open}
    dialog: confirm
    saying: Open the dome?
  - check: css{#said}
    contains: Op
  - check: css{#none}
    is: gone
    from: the start
  - click: text{Other}
  - check: the page
    asked: /*
"""


class _Shutting(BaseHTTPRequestHandler):
    def do_GET(self) -> None:
        self.send_response(200)
        self.send_header("Content-Type", "text/html")
        self.end_headers()
        self.wfile.write(BUSY.encode())

    def do_POST(self) -> None:
        self.do_GET()

    def log_message(self, *_: object) -> None:
        pass


@contextmanager
def serving() -> Iterator[str]:
    server = ThreadingHTTPServer(("127.0.0.1", 0), _Shutting)
    Thread(target=server.serve_forever, daemon=True).start()
    yield f"http://127.0.0.1:{server.server_port}"
    server.shutdown()
    server.server_close()


def test_absence_requests_addresses_and_dialogs_are_broken_too(firefox: Browser, tmp_path: Path) -> None:
    (tmp_path / "shut.yaml").write_text(SHUTTING)
    _, journey = parse_journey(tmp_path / "shut.yaml")
    with serving() as base:
        proven = prove(journey, None, firefox, base=base, folder=tmp_path, limit=1.5)
    told = {(m.step, m.change): m.noticed_by if m.tried else None for m in proven}
    assert told == {
        (2, "left out"): 3, (3, "put back"): 3, (4, "another text"): 4, (5, "never sent"): 3, (6, "another address"): 6,
        (7, "left out"): 8, (7, "its dialog does not open"): 7, (7, "its dialog says something else"): 7,
        (8, "another text"): 8, (9, "put back"): None, (10, "left out"): 0, (11, "never sent"): 0,
    }, told  # fmt: skip


FORM = """<!doctype html><form aria-label="Join"><label>Full name <input name=n required minlength=3></label>
<label>E-mail <input type=email name=e required></label><label>Places <input type=number min=2 max=4 value=2></label>
<label>Day <input type=date min=2031-05-01 max=2031-05-02></label>
<label>Code <input pattern="[A-Z]{2}-\\d{3}" name=c required></label>
<label>Title of your group <input name=t maxlength=60></label><label>Remark <textarea required minlength=20></textarea></label>
<label>Telescope <select required><option value="">Choose<option>Dune<option>Heron</select></label>
<label><input type=radio name=r value=a checked> Dusk</label><label><input type=radio name=r value=b> Dawn</label>
<label><input type=checkbox required> I have read it</label><label>Old <input disabled></label><input type=hidden name=h>
<label>Site <input type=url></label><label>Level <input type=range min=0 max=10></label><label>Sheet <input type=file></label>
<button>Join</button></form><p role=status id=s>Waiting</p>
<script>document.forms[0].onsubmit = (e) => { e.preventDefault(); s.textContent = "Joined"; }</script>"""


def test_a_draft_is_accepted_by_the_form(chromium: Browser, tmp_path: Path) -> None:
    (tmp_path / "form.html").write_text(FORM)
    address = (tmp_path / "form.html").as_uri()
    page = chromium.open(address).capture()
    made = draft(page.find("css{form}"), "Join", tmp_path / "join.yaml")
    assert [why for _, why in made.left] == ["it takes a file: add `upload: FILE`"]
    made.book.write({s.on for s in made.journey.steps}, {tmp_path / "join.yaml": made.journey.to_yaml().encode()}, "Join")
    done = run("run", str(tmp_path / "join.yaml"), "--limit", str(LIMIT), "--json")
    steps = json.loads(done.output)["runs"][0]["steps"]
    assert [s["message"] for s in steps if s["state"] == "failed"] == []
    assert sum(s["step"].startswith(("type", "choose", "tick")) for s in steps) == 12
    live = chromium.open(address)
    told = Path(tmp_path / "join.yaml").read_text()
    assert "made-up:" in told
    assert live.find("css{#s}").text == "Waiting"


def test_fillings_are_sensible() -> None:
    page = Page.parse(FORM)
    by_name = {
        e.attributes.get("name", e.attributes.get("type", e.tag)): e for e in page.elements if e.tag in ("input", "textarea")
    }
    assert filling_for(by_name["number"]).value == "3"
    assert filling_for(by_name["date"]).value == "2031-05-02"
    assert filling_for(by_name["t"]).kind == "unique"
    assert filling_for(by_name["c"]).value == "AA-777"
    assert matching("(dune|heron)-\\w+") == "dune-nnn"
    assert matching("[^x]+") == ""


def test_an_outline_reads_as_the_page_does() -> None:
    lines = [str(line) for line in outline(read("nights@r1").find("css{#night-form}"))]
    assert "  textbox 'Visitor name'   css{#visitor-name}" in lines
    assert any(line.startswith("  field 'Date'") for line in lines)
    assert not any("script" in line for line in lines)


def test_draft_as_a_command(demo: Path) -> None:
    done = run("draft", "pages/nights@r1.html", "--in", "css{#night-form}", "-o", "booking.yaml")
    assert (done.exit_code, "made up: email" in done.output) == (0, True)
    assert run("check", "css{#telescope}", "pages/booking-1.html").exit_code == 0
    assert "is there already" in run("draft", "pages/nights@r1.html", "-o", "booking.yaml").stderr
    assert "no form on the page" in run("draft", "pages/sky@r1.html").stderr or run("draft", "pages/sky@r1.html").exit_code == 0
