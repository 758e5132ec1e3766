"""What pages do to whoever drives them, each as a page and what must come of it: for the tests, and for benchmarks to repeat.

Each scenario gets a live page (limit: a minute, which only what goes wrong uses up), and the address of the site. It raises where
something else came of it.
"""

from __future__ import annotations

import base64
import contextlib
import threading
import time
from collections.abc import Callable, Iterator
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from typing import Any

from wary_hound import Browser, BrowserError, BrowserTimeout, NotSupported
from wary_hound.browser import LivePage

LIMIT = 60.0
UNRULY = Path(__file__).parent / "unruly"
PNG = base64.b64decode("iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==")


class _Site(BaseHTTPRequestHandler):
    """The pages, and what is not HTML."""

    stop = threading.Event()

    def do_GET(self) -> None:
        name = self.path.partition("?")[0].strip("/")
        kinds: dict[str, tuple[str, bytes]] = {
            "report.csv": ("text/csv", b"night;places\nVega;6\n"),
            "api/nights": ("text/plain", b"Vega"),
            "data.json": ("application/json", b'{"night": "Vega"}'),
            "dot.png": ("image/png", PNG),
            "words.txt": ("text/plain", b"Clear skies"),
            "drawing.svg": ("image/svg+xml", b'<svg xmlns="http://www.w3.org/2000/svg"><title>Dial</title><circle r="9"/></svg>'),
            "page.xhtml": ("application/xhtml+xml", b'<html xmlns="http://www.w3.org/1999/xhtml"><body><h1>X</h1></body></html>'),
            "list.xml": ("application/xml", b"<nights><night>Vega</night></nights>"),
        }
        if name == "hangs":
            self.stop.wait(30)
            return
        if name == "members":
            said = self.headers.get("Authorization", "")
            if said != "Basic " + base64.b64encode(b"ada:dome-key").decode():
                self._send(401, "text/html", b"<h1>Members only</h1>", {"WWW-Authenticate": 'Basic realm="members"'})
            else:
                self._send(200, "text/html", b"<h1>Welcome</h1>")
        elif name == "sign-in":
            self._send(200, "text/html", b"<script>localStorage.setItem('seat', '4')</script>", {"Set-Cookie": "who=ada; Path=/"})
        elif (page := UNRULY / f"{name}.html").is_file():
            self._send(200, "text/html; charset=utf-8", b"<!doctype html><meta charset=utf-8>" + page.read_bytes())
        elif name in kinds:
            self._send(200, *kinds[name])
        else:
            self._send(404, "text/html", b"<h1>No such page</h1>")

    def _send(self, status: int, kind: str, body: bytes, more: dict[str, str] | None = None) -> None:
        self.send_response(status)
        for key, value in {
            "Content-Type": kind,
            "Content-Length": str(len(body)),
            "Cache-Control": "no-store",
            **(more or {}),
        }.items():
            self.send_header(key, value)
        self.end_headers()
        with contextlib.suppress(OSError):
            self.wfile.write(body)

    def log_message(self, format: str, *args: Any) -> None:
        """Nothing."""


@contextlib.contextmanager
def serving() -> Iterator[str]:
    """The site on loopback; its address without a slash at the end."""
    _Site.stop = threading.Event()
    server = ThreadingHTTPServer(("127.0.0.1", 0), _Site)
    server.daemon_threads = True
    threading.Thread(target=server.serve_forever, kwargs={"poll_interval": 0.05}, daemon=True).start()
    try:
        yield f"http://127.0.0.1:{server.server_address[1]}"
    finally:
        _Site.stop.set()
        server.shutdown()
        server.server_close()


Scenario = Callable[[LivePage, str], None]
SCENARIOS: dict[str, Scenario] = {}


def scenario(made: Scenario) -> Scenario:
    """One entry of the table, by its name."""
    SCENARIOS[made.__name__] = made
    return made


def says(live: LivePage, text: str, where: str = "css{#o}") -> None:
    """Wait until an element says it."""
    live.until_reads(where, text)


def fails(what: Callable[[], object], *words: str, within: float = 20.0) -> str:
    """It fails with one of our errors, that says these words, in time."""
    begun = time.monotonic()
    try:
        what()
    except BrowserError as error:
        assert time.monotonic() - begun < within, f"it took {time.monotonic() - begun:.1f} s"
        assert all(word in str(error) for word in words), str(error)
        return str(error)
    raise AssertionError(f"it went well, but should have said {words}")


@scenario
def another_way_waits(live: LivePage, site: str) -> None:
    live.open(f"{site}/late", until="loaded")
    live.click("text{Publish} else css{button:nth-of-type(2)}")
    says(live, "Publish;")
    assert not live.healed


@scenario
def a_late_navigation_does_not_break_the_next_step(live: LivePage, site: str) -> None:
    live.open(f"{site}/slow-link")
    live.click("text{Vega}")
    live.click("text{Hold}")
    live.until_shown("text{Held}")


@scenario
def a_page_that_goes_on_by_script(live: LivePage, site: str) -> None:
    for name in ("by-script", "by-script-at-once"):
        live.open(f"{site}/{name}")
        live.until_shown('role{heading "Vega"}')
        assert live.until_address("/target").endswith("/target")


@scenario
def a_wait_survives_a_navigation(live: LivePage, site: str) -> None:
    live.open(f"{site}/replaced-late", until="loaded")
    live.until_shown('role{button "Hold"}')


@scenario
def back_and_forward_with_frames(live: LivePage, site: str) -> None:
    live.open(f"{site}/with-frames")
    live.click("text{On}")
    live.until_address("/target")
    live.back()
    live.until_shown("text{Before}")
    live.forward()
    live.until_shown('role{heading "Vega"}')
    live.back()
    live.until_shown("text{Before}")


@scenario
def back_within_one_document(live: LivePage, site: str) -> None:
    live.open(f"{site}/history")
    live.click("text{Push}")
    live.until_address("/history#one")
    live.back()
    assert live.address().endswith("/history")


@scenario
def leaving_is_asked_and_answered(live: LivePage, site: str) -> None:
    live.open(f"{site}/unsaved")
    live.type("css{#i}", "draft")
    with live.answering("beforeunload", accept=False):
        live.click("text{Leave}")
    assert live.address().endswith("/unsaved")
    with live.answering("beforeunload", accept=True):
        live.click("text{Leave}")
    live.until_address("/target")


@scenario
def a_page_that_draws_itself_anew(live: LivePage, site: str) -> None:
    live.open(f"{site}/redrawn")
    for n in range(1, 5):
        live.click("css{.b}")
        says(live, str(n))
    live.type("css{#f}", "Ada Marsh of the north dome")
    assert live.state("css{#f}").value == "Ada Marsh of the north dome"


@scenario
def each_click_counts_once_on_rows_drawn_anew(live: LivePage, site: str) -> None:
    live.open(f"{site}/redrawn-rows")
    for n in range(1, 11):
        live.click("css{li:nth-child(2) button}" if n % 2 else "css{.b} @row-of text{Vega}")
        assert live.find("css{#o}").text == str(n)


@scenario
def a_ticking_page_opens_soon(live: LivePage, site: str) -> None:
    begun = time.monotonic()
    live.open(f"{site}/ticking")
    assert time.monotonic() - begun < live.limit
    assert live.find("text{Clock}").tag == "h1"


@scenario
def a_hanging_image_leaves_a_page(live: LivePage, site: str) -> None:
    live.open(f"{site}/hanging-image")
    live.click("text{Go}")


@scenario
def the_status_is_known(live: LivePage, site: str) -> None:
    live.open(f"{site}/target")
    assert live.status == 200
    live.open(f"{site}/nowhere")
    assert live.status == 404
    assert live.find("css{h1}").text == "No such page"


@scenario
def a_page_that_closes_itself(live: LivePage, site: str) -> None:
    live.open(f"{site}/opens-itself")
    live.click("css{#b}")
    deadline = time.monotonic() + live.limit
    while len(others := [p for p in live.browser.pages if "closes-itself" in p.address()]) != 1:
        assert time.monotonic() < deadline
    begun = time.monotonic()
    others[0].click("css{#c}")
    assert time.monotonic() - begun < live.limit
    fails(lambda: others[0].click("css{#c}"), "closed")
    assert live.find("css{#b}").text == "Open"


@scenario
def a_download(live: LivePage, site: str) -> None:
    live.open(f"{site}/download")
    with live.downloading() as file:
        live.click("css{#d}")
    assert file.name == "report.csv" or file.name.startswith("report")
    assert file.content == b"night;places\nVega;6\n"


@scenario
def ranges_and_colours(live: LivePage, site: str) -> None:
    live.open(f"{site}/range")
    live.type("css{#r}", "70")
    live.type("css{#c}", "#336699")
    says(live, "r70;c#336699;")


@scenario
def dragging_as_html_has_it(live: LivePage, site: str) -> None:
    live.open(f"{site}/drag")
    live.drag("css{#s}", "css{#t}")
    says(live, "got vega", "css{#t}")


@scenario
def dragging_by_pixels(live: LivePage, site: str) -> None:
    live.open(f"{site}/slider")
    live.drag("css{#k}", by=(150, 0), steps=6)
    says(live, "170")


@scenario
def the_wheel_over_an_element(live: LivePage, site: str) -> None:
    live.open(f"{site}/wheel")
    live.scroll_by(down=300, over="css{#w}")
    live.until(lambda page: page.find("css{#o}").text not in ("", "0"))
    assert int(live.find("css{#o}").text) > 0


@scenario
def states_as_they_are(live: LivePage, site: str) -> None:
    live.open(f"{site}/states")
    live.type("css{#n}", "new")
    live.add("css{#n}", " moon")
    live.add("css{#n}", "a ", before=True)
    assert live.state("css{#n}").value == "a new moon"
    live.tick("css{#c}")
    assert live.state("css{#c}").ticked
    live.choose("css{#m}", "Dune", "Lantern")
    assert live.state("css{#m}").chosen == ("Dune", "Lantern")
    live.unchoose("css{#m}", "Dune")
    assert live.state("css{#m}").chosen == ("Lantern",)
    assert not live.state("css{#b}").enabled
    assert not live.state("css{#ro}").editable
    assert live.style("css{#p}", "color") == {"color": "rgb(1, 2, 3)"}
    long = "clear skies " * 250
    _limited(live, 8.0, lambda: live.type("css{#n}", long))
    assert live.state("css{#n}").value == long


@scenario
def requests_and_stubs(live: LivePage, site: str) -> None:
    live.open(f"{site}/fetches")
    live.click("css{#b}")
    says(live, "200 Vega")
    asked = live.until_asked("/api/nights", "GET", 200)
    assert "s3cret" not in asked.address
    assert asked.path == "/api/nights"
    stub = live.stub("/api/*", "made up", status=503)
    live.click("css{#b}")
    says(live, "503 made up")
    stub.remove()
    broken = live.stub("/api/nights", fails=True)
    live.click("css{#b}")
    says(live, "no network")
    broken.remove()
    late = live.stub("/api/nights", delay=0.5)
    live.click("css{#b}")
    says(live, "200 Vega")
    assert (stub.uses, broken.uses, late.uses) == (1, 1, 1)
    fails(lambda: _limited(live, 0.5, lambda: live.until_asked("/api/moons")), "/api/moons", "there was")


def _limited(live: LivePage, limit: float, what: Callable[[], object]) -> None:
    before, live.limit = live.limit, limit
    try:
        what()
    finally:
        live.limit = before


@scenario
def users_do_not_share_anything(live: LivePage, site: str) -> None:
    live.open(f"{site}/sign-in")
    live.open(f"{site}/stored")
    says(live, "who=ada/4")
    with live.browser.user() as other:
        page = other.open(f"{site}/stored")
        assert page.find("css{#o}").text == "nobody/null"


@scenario
def a_sign_in_is_kept(live: LivePage, site: str) -> None:
    live.open(f"{site}/sign-in")
    path = Path(live.browser._running.folder) / "kept.json"
    live.keep(path)
    assert path.stat().st_mode & 0o077 == 0
    with live.browser.user() as other:
        page = other.open(f"{site}/stored", kept=path)
        assert page.find("css{#o}").text == "who=ada/4"
        assert [(c.name, c.value) for c in page.cookies] == [("who", "ada")]


@scenario
def a_server_that_asks_for_a_name(live: LivePage, site: str) -> None:
    live.browser.sign_in("ada", "dome-key")
    live.open(f"{site}/members")
    assert live.find("css{h1}").text == "Welcome"


@scenario
def the_console_is_heard(live: LivePage, site: str) -> None:
    live.open(f"{site}/console")
    levels = {said.level: said.text for said in live.console}
    assert levels["warn"] == "low battery"
    assert "nothing" in levels["error"]


@scenario
def a_prompt_for_files(live: LivePage, site: str) -> None:
    live.open(f"{site}/asks-file")
    with live.giving(__file__):
        live.click("css{#b}")
    says(live, "scenarios.py")


@scenario
def clicks_with_keys_places_and_time(live: LivePage, site: str) -> None:
    live.open(f"{site}/modifiers")
    live.click("css{#b}", holding="Control+Shift")
    live.click("css{#b}", at=(-30, 0))
    live.click("css{#b}", seconds=0.8)
    text = live.find("css{#o}").text
    first, second, *_ = [part.split(",") for part in text.split(";")]
    assert (first[:2], second[:2]) == (["true", "true"], ["false", "false"])
    assert int(first[2]) - int(second[2]) == 30  # where a button's own edge begins, browsers do not agree
    assert "long;" in text, text


@scenario
def what_a_page_is_told(live: LivePage, site: str) -> None:
    live.pretend(language="de-DE", time_zone="Asia/Tokyo")
    live.open(f"{site}/target")
    assert live.script("() => Intl.DateTimeFormat().resolvedOptions().timeZone") == "Asia/Tokyo"
    live.pretend(place=(50.1, 1.2))
    where = "() => new Promise((n) => navigator.geolocation.getCurrentPosition((p) => n(p.coords.latitude), (e) => n(e.message)))"
    assert abs(float(live.script(where)) - 50.1) < 0.01
    try:
        live.pretend(dark=True)
        assert live.script("() => matchMedia('(prefers-color-scheme: dark)').matches") is True
    except NotSupported as error:
        assert "colour scheme" in str(error)
        assert live.browser._running.name == "firefox"
    live.pretend(offline=True)
    assert live.script("() => navigator.onLine") is False
    live.pretend(offline=False)


@scenario
def pictures_and_pdf(live: LivePage, site: str) -> None:
    live.open(f"{site}/states")
    live.resize(800, 600, zoom=1.5)
    assert live.script("() => devicePixelRatio") == 1.5
    assert live.picture("css{#p}", masks=["css{#p}"]).startswith(b"\x89PNG")
    assert live.pdf().startswith(b"%PDF")


@scenario
def a_storm_of_alerts(live: LivePage, site: str) -> None:
    live.open(f"{site}/storm")
    live.click("css{button}")
    live.until_shown("text{ok}")
    assert len(live.dialogs) == 30


@scenario
def a_popup_that_alerts(live: LivePage, site: str) -> None:
    live.open(f"{site}/popup-alerts")
    live.click("css{#b}")
    assert live.find("css{#o}").text == "fine"
    deadline = time.monotonic() + live.limit
    while not any(dialog.message == "from the popup" for page in live.browser.pages for dialog in page.dialogs):
        assert time.monotonic() < deadline
    assert live.dialogs == ()


@scenario
def printing_blocks_nothing(live: LivePage, site: str) -> None:
    live.open(f"{site}/prints")
    live.click("css{#b}")
    live.until_shown("text{printed}")


@scenario
def names_that_hide_a_form_s_own(live: LivePage, site: str) -> None:
    live.open(f"{site}/clobbering")
    assert [e.attributes["name"] for e in live.find_all("css{form input}")][:4] == [
        "attributes",
        "localName",
        "childNodes",
        "nodeType",
    ]
    assert live.find("css{form}").attributes == {"id": "f"}
    live.click("text{Send it}")


@scenario
def what_a_page_overrides(live: LivePage, site: str) -> None:
    live.open(f"{site}/overriding")
    live.click("css{#b}")
    live.until_shown("text{pressed}")


@scenario
def a_page_that_loads_again_and_again(live: LivePage, site: str) -> None:
    live.open(f"{site}/loops")
    live.click("css{button}")
    assert live.find("css{h1}").text == "Loop"


@scenario
def documents_that_are_no_html(live: LivePage, site: str) -> None:
    for name in ("data.json", "dot.png", "words.txt", "drawing.svg", "page.xhtml", "list.xml"):
        live.open(f"{site}/{name}")
        assert len(live.capture()) >= 1, name


@scenario
def a_page_too_tall_to_picture(live: LivePage, site: str) -> None:
    live.open(f"{site}/tall")
    assert live.screenshot().startswith(b"\x89PNG")


@scenario
def what_is_inert_is_said(live: LivePage, site: str) -> None:
    live.open(f"{site}/inert")
    _limited(live, 1.5, lambda: fails(lambda: live.click("css{button}"), "inert"))


@scenario
def rest_is_seen_in_shadow_trees(live: LivePage, site: str) -> None:
    live.open(f"{site}/shadow-ticks")
    assert live.find("shadow css{x-y} -> css{b}").text == "late"


@scenario
def what_comes_in_between_is_told(live: LivePage, site: str) -> None:
    live.open(f"{site}/covered-after")
    _limited(live, 1.5, lambda: fails(lambda: live.click("css{#b}"), "veil"))


@scenario
def a_gone_page_is_said_at_once(live: LivePage, site: str) -> None:
    page = live.browser.open(f"{site}/target")
    page.close()
    fails(lambda: page.click("text{Hold}"), "closed", within=5)
    assert page.closed


@scenario
def threads_share_a_browser(live: LivePage, site: str) -> None:
    wrong: list[BaseException] = []

    def work() -> None:
        try:
            page = live.browser.open(f"{site}/target")
            page.click("text{Hold}")
            page.until_shown("text{Held}")
            page.close()
        except BaseException as error:
            wrong.append(error)

    threads = [threading.Thread(target=work) for _ in range(4)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert not wrong, wrong


@scenario
def a_script_that_never_ends(live: LivePage, site: str) -> None:
    page = live.browser.open(f"{site}/target")
    page.limit = 1.5
    page.script("() => { setTimeout(() => { const end = performance.now() + 6000; while (performance.now() < end); }, 100); }")
    time.sleep(0.3)
    begun = time.monotonic()
    try:
        page.click("text{Hold}")
    except BrowserTimeout:
        assert time.monotonic() - begun < 8
    page.close()


def drive(browser: Browser, name: str, site: str) -> None:
    """One scenario in a page of its own; the pages that it leaves are closed."""
    before = {page.context for page in browser.pages}
    live = browser.open("about:blank")
    live.limit = LIMIT
    try:
        SCENARIOS[name](live, site)
    finally:
        for page in browser.pages:
            if page.context not in before:
                with contextlib.suppress(BrowserError):
                    page.close()
