"""Real browsers: capture of every kind of tree, waiting, and failures that leave nothing behind."""

from __future__ import annotations

import contextlib
import logging
import os
import signal
import socket
import threading
from collections.abc import Iterator
from pathlib import Path

import pytest

from conftest import members, read, run, started
from wary_hound import Browser, BrowserError, BrowserTimeout, Page
from wary_hound.browser.connection import Connection
from wary_hound.browser.protocol import Answer, Event, Protocol, closed_roots, plain
from wary_hound.errors import PageClosed


@pytest.mark.parametrize("name", ["chromium", "firefox"])
def test_capture_reads_what_the_shipped_snapshots_hold(request: pytest.FixtureRequest, site: str, name: str) -> None:
    browser: Browser = request.getfixturevalue(name)
    live = browser.open(f"{site}/r4/index.html?seed=1")
    page = live.wait_for("text{Thank the watcher}")
    shipped = read("nights@r4")
    assert page.tags == shipped.tags
    assert [(t.kind, t.mode) for t in page.trees] == [(t.kind, t.mode) for t in shipped.trees]
    assert [e.attributes for e in page] == [e.attributes for e in shipped]
    assert page.semantics.text == shipped.semantics.text
    assert page.facts is not None
    assert page.facts.viewport == (1280, 800)
    left, top, width, height = page.find("shadow css{night-booking} -> label{E-mail}").box
    assert 700 < left < 1200
    assert 200 < top < 800
    assert (width > 200, height > 20) == (True, True)
    assert not page.find("shadow css{sky-dial} -> css{span}").visible
    live.script("() => document.querySelectorAll('[role=tab]')[1].click()")
    live.settle()
    later = live.capture()
    assert later.find("shadow css{sky-dial} -> text{Zoom}").visible
    assert later.find('frame css{iframe} -> text{12 km/h, west}').box[1] > later.find("css{iframe}").box[1]  # fmt: skip


def test_form_state_is_a_fact_and_not_markup(chromium: Browser, site: str, tmp_path: Path) -> None:
    live = chromium.open(f"{site}/r1/index.html")
    live.wait_for("text{Thank the watcher}")
    live.script("""() => {
      document.getElementById("visitor-name").value = "Ada";
      document.querySelector("[value=midnight]").checked = true;
      document.getElementById("telescope").value = "heron";
    }""")
    page = Page.read(live.capture().write(tmp_path / "filled"))
    assert page.facts is not None
    name = page.facts.form[page.find("css{#visitor-name}").index]
    assert (name.get("value"), name["filled"]) == (None, True)  # what was typed is nobody's business
    assert set(name["states"].split()) == {"valid", "read-write", "required", "enabled"}
    assert page.find("css{input[type=radio]:checked}").attributes["value"] == "midnight"
    assert page.find("css{option:checked}").text == "Heron, 1 m"
    assert "value" not in page.find("css{#visitor-name}").attributes


def test_the_capture_command_writes_a_whole_snapshot(site: str, tmp_path: Path) -> None:
    result = run("capture", f"{site}/r5/index.html", "-o", str(tmp_path / "five"), "--until", "text{Reserve}")
    assert result.exit_code == 0, result.output
    assert sorted(p.name for p in tmp_path.iterdir()) == ["five.facts.json", "five.html", "five.png"]
    page = Page.read(tmp_path / "five.html")
    assert page.picture is not None
    assert len(page.find_all("text{Reserve}")) == 5
    late = run("capture", f"{site}/r5/index.html", "-o", str(tmp_path / "late"), "--until", "text{Never}", "--limit", "2")
    assert late.exit_code == 2
    assert "waited 2 s for text{Never}" in late.stderr
    assert not list(tmp_path.glob("*late*"))


@pytest.fixture
def silent() -> Iterator[str]:
    """A server that takes a request and never answers."""
    with socket.create_server(("127.0.0.1", 0)) as server:
        held: list[socket.socket] = []

        def accept() -> None:
            while True:
                try:
                    held.append(server.accept()[0])
                except OSError:
                    return

        threading.Thread(target=accept, daemon=True).start()
        yield f"http://127.0.0.1:{server.getsockname()[1]}/"
        server.shutdown(socket.SHUT_RDWR)
        for one in held:
            one.close()


def test_a_page_that_never_loads_is_a_time_out_that_says_so(silent: str) -> None:
    with Browser.start("chromium", limit=1.5) as browser:
        with pytest.raises(BrowserTimeout, match=r"waited 1.5 s for http://127.* to be there"):
            browser.open(silent)
        folder, pid = started(browser).folder, started(browser).process.pid
        assert members(pid)
    assert not members(pid)
    assert not folder.exists()


@pytest.mark.parametrize("name", ["chromium", "firefox"])
def test_a_browser_that_dies_is_an_error_and_leaves_nothing(site: str, name: str) -> None:
    with Browser.start(name) as browser:
        live = browser.open(f"{site}/r1/index.html")
        pid = started(browser).process.pid
        os.killpg(pid, signal.SIGKILL)  # all at once: where one of them dies, others may end before they are asked for
        with pytest.raises(BrowserError):
            live.capture()
        folder = started(browser).folder
    assert not members(pid)
    assert not folder.exists()


@pytest.mark.parametrize("name", ["chromium", "firefox"])
def test_a_page_of_too_many_elements_is_refused_in_words_and_can_be_acted_on(request: pytest.FixtureRequest, name: str) -> None:
    browser: Browser = request.getfixturevalue(name)
    live = browser.open("about:blank")
    live.script("() => { document.body.innerHTML = '<button>Hold</button>' + '<i></i>'.repeat(200000); }")
    with pytest.raises(BrowserError, match=r"more than 200,000 elements, too many to take"):
        live.capture()
    live.click("css{button}")
    live.close()


@pytest.mark.parametrize("name", ["chromium", "firefox"])
def test_a_long_function_is_sent_to_a_document_once(
    request: pytest.FixtureRequest, name: str, caplog: pytest.LogCaptureFixture
) -> None:
    live = request.getfixturevalue(name).open("data:text/html,<title>one</title>")
    long = f"(said) => `${{said}} in ${{document.title}}` /* {'long ' * 2000} */"
    caplog.set_level(logging.DEBUG, "wary_hound.browser")

    def sizes(said: str) -> list[bool]:
        caplog.clear()
        assert live._connection.call(live.context, long, said) == f"{said} in one"
        return [int(text.split()[1]) > len(long) for text in caplog.messages if text.startswith("script.callFunction")]

    assert (sizes("first"), sizes("second")) == ([True], [False])
    live.reload()
    assert (sizes("third"), sizes("fourth")) == ([False, True], [False]), "another document has to be told anew"
    live.close()


def working(pid: int) -> dict[int, int]:
    """The processes of a browser by how long each has worked, in ticks."""
    times = {}
    for each in members(pid):
        with contextlib.suppress(OSError):
            fields = Path(f"/proc/{each}/stat").read_text().rsplit(")", 1)[1].split()
            times[each] = int(fields[11])
    return times


@pytest.mark.parametrize("name", ["chromium", "firefox"])
def test_a_page_whose_process_dies_is_told_at_once_and_the_browser_goes_on(tmp_path: Path, name: str) -> None:
    (tmp_path / "page.html").write_text("<!doctype html><button>Hold</button>")
    address = (tmp_path / "page.html").as_uri()
    with Browser.start(name, limit=60) as browser:
        live = browser.open(address)
        before = working(started(browser).process.pid)
        live.script("() => { let sum = 0; for (let i = 0; i < 3e8; i++) sum = (sum + i) % 7; return sum; }")  # work, not a time
        after = working(started(browser).process.pid)
        busiest = max(before, key=lambda each: after.get(each, 0) - before[each])
        threading.Timer(0.5, os.kill, (busiest, 9)).start()
        with pytest.raises(PageClosed, match=r"the page's process has died.*open it anew"):  # and not that the limit has passed
            live.click("text{Nothing}")
        assert not live.closed or live not in browser.pages
        another = browser.open(address)
        another.click("text{Hold}")
        assert browser.pages[-1] is another


def test_a_refused_address_is_a_browser_error(chromium: Browser) -> None:
    with socket.create_server(("127.0.0.1", 0)) as free:
        port = free.getsockname()[1]
    with pytest.raises(BrowserError, match="cannot be opened"):
        chromium.open(f"http://127.0.0.1:{port}/")


def test_no_browser_on_the_machine(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    monkeypatch.setenv("PATH", str(tmp_path))
    for name, package in (("chromium", "chromium chromium-driver"), ("firefox", "firefox-esr")):
        with pytest.raises(BrowserError, match=f"apt-get install {package}"):
            Browser.start(name)
    (tmp_path / "page.html").write_text("<p>x")
    result = run("capture", str(tmp_path / "page.html"), "-o", str(tmp_path / "out"))
    assert result.exit_code == 2
    assert "apt-get install" in result.stderr
    with pytest.raises(BrowserError, match="no browser is named"):
        Browser.start("lynx")


def test_a_driver_that_ends_at_once(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    for name in ("chromedriver", "chromium"):
        (tmp_path / name).write_text("#!/bin/sh\necho out of memory\nexit 1\n")
        (tmp_path / name).chmod(0o755)
    monkeypatch.setenv("PATH", f"{tmp_path}:/usr/bin:/bin")
    with pytest.raises(BrowserError, match="it ended: out of memory"):
        Browser.start("chromium")
    with pytest.raises(BrowserError, match="no BiDi connection"):
        Connection("ws://127.0.0.1:9/session", limit=1)


def test_the_protocol_sorts_answers_and_events_without_a_browser() -> None:
    protocol = Protocol()
    number, text = protocol.command("session.status", {})
    assert '"method": "session.status"' in text
    assert protocol.receive('{"type": "event", "method": "log.entryAdded", "params": {}}') == Event("log.entryAdded", {})
    assert protocol.receive('{"type": "success", "id": 99, "result": {}}') is None
    refused = protocol.receive(f'{{"type": "error", "id": {number}, "error": "no such frame", "message": "gone"}}')
    assert refused == Answer(number, {}, "no such frame", "gone")
    with pytest.raises(BrowserError, match="no BiDi message"):
        protocol.receive("{}")
    assert plain({"type": "object", "value": [["a", {"type": "null"}]]}) == {"a": None}
    closed, shown = (
        {"value": {"shadowRoot": {"sharedId": str(n), "value": {"mode": m}}}} for n, m in enumerate(("closed", "open"))
    )
    assert closed_roots([shown, closed, {"value": {"shadowRoot": None}}, {}]) == ["0"]


def test_what_a_server_answers_is_said(site: str) -> None:
    done = run("look", f"{site}/nowhere.html")
    assert done.exit_code == 0
    assert f"note: {site}/nowhere.html answered 404" in done.stderr


def test_of_pages_that_have_gone_only_the_latest_are_remembered(site: str, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("wary_hound.browser.browser.MOST_CLOSED", 2)
    with Browser.start("chromium") as browser:
        pages = []
        for number in range(4):
            page = browser.open(f"{site}/nights@r1.html?{number}")
            page.script("() => { console.log('Vega'); document.body.innerHTML += '<iframe srcdoc=Vega></iframe>'; }")
            page.until(lambda _, page=page: bool(page.console))  # type: ignore[misc]
            page.close()
            pages.append(page)
        kept = [bool(page.requests) for page in pages]
        assert kept == [False, False, False, True]  # the latest page and its frame
        assert [bool(page.console) for page in pages] == kept
        assert len(browser._dialogs) <= 3
        assert len(browser._chromium._sessions) == 1
