"""The connection without a browser: late answers, events out of order, an end that vanishes, errors by what a caller can do."""

from __future__ import annotations

import asyncio
import json
import logging
import threading
import time
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from functools import partial
from typing import Any

import pytest
from websockets.sync.server import ServerConnection, serve

from wary_hound.browser.connection import Connection
from wary_hound.browser.network import Network, Stub
from wary_hound.browser.protocol import Event, Protocol, refusal
from wary_hound.browser.view import View
from wary_hound.browser.waiting import spawned
from wary_hound.errors import BrowserError, BrowserGone, BrowserTimeout, DocumentGone, ElementGone, NotSupported, PageClosed

Answering = Callable[[ServerConnection, dict[str, Any]], None]
Work = Callable[[Connection], None]
Together = Callable[[str, Sequence[Work]], None]


@contextmanager
def an_end(answering: Answering) -> Iterator[str]:
    """The address of an end that answers each command as told."""

    def handle(socket: ServerConnection) -> None:
        for text in socket:
            answering(socket, json.loads(text))

    with serve(handle, "127.0.0.1", 0, compression=None) as server:
        thread = threading.Thread(target=server.serve_forever, daemon=True)
        thread.start()
        yield f"ws://127.0.0.1:{server.socket.getsockname()[1]}"
        server.shutdown()
        thread.join()


@contextmanager
def spoken_to(answering: Answering) -> Iterator[Connection]:
    """A connection to it."""
    with an_end(answering) as address, Connection(address, limit=5) as connection:
        yield connection


def threads(address: str, works: Sequence[Work]) -> None:
    """All at once by one connection, in threads."""
    with Connection(address, limit=5) as connection:
        started = [threading.Thread(target=work, args=(connection,)) for work in works]
        for thread in started:
            thread.start()
        for thread in started:
            thread.join()


def tasks(address: str, works: Sequence[Work]) -> None:
    """All at once by one connection, in tasks of asyncio."""

    async def at_once() -> None:
        connection = await spawned(lambda: Connection(address, limit=5))
        await asyncio.gather(*(spawned(partial(work, connection)) for work in works))
        await spawned(connection.close)

    asyncio.run(at_once())


def says(socket: ServerConnection, command: dict[str, Any], **result: Any) -> None:
    """An answer that went well."""
    socket.send(json.dumps({"type": "success", "id": command["id"], "result": result}))


def tells(socket: ServerConnection, method: str, **params: Any) -> None:
    """An event."""
    socket.send(json.dumps({"type": "event", "method": method, "params": params}))


def test_a_dead_process_is_told_by_what_the_browser_refuses() -> None:
    said = "script.callFunction are not supported for parent process browsing contexts"
    assert isinstance(refusal("script.callFunction", "unsupported operation", said), PageClosed)
    assert isinstance(refusal("browsingContext.print", "unsupported operation", "no printer"), NotSupported)
    assert isinstance(refusal("input.performActions", "unknown error", "[Exception (NS_ERROR_FAILURE)]"), DocumentGone)


def test_a_late_answer_is_dropped_and_the_next_command_gets_its_own() -> None:
    late: list[dict[str, Any]] = []

    def answering(socket: ServerConnection, command: dict[str, Any]) -> None:
        if command["method"] == "slow":
            late.append(command)
            return
        for old in late:
            says(socket, old, which="late")
        says(socket, command, which="own")

    with spoken_to(answering) as connection:
        with pytest.raises(BrowserTimeout, match=r"waited 0.2 s for the moon: it did not come"):
            connection.send("slow", "the moon", 0.2)
        assert connection.send("quick") == {"which": "own"}
        assert connection._answers == {}
        assert connection._protocol.waiting == set()


def test_commands_begun_together_are_answered_for_in_any_order_or_forgotten() -> None:
    waiting: list[dict[str, Any]] = []

    def answering(socket: ServerConnection, command: dict[str, Any]) -> None:
        waiting.append(command)
        if command["method"] == "last":
            for old in (*reversed(waiting[:-1]), command):
                says(socket, old, of=old["method"])

    with spoken_to(answering) as connection:
        first, second = connection.begin("first"), connection.begin("second", context="tab")
        connection.forget(first)
        assert connection.send("last") == {"of": "last"}
        connection.lose("tab")
        assert connection.answer(second) == {"of": "second"}
        third = connection.begin("third", context="tab")
        with pytest.raises(DocumentGone, match="closed during third"):
            connection.answer(third)
        assert connection._answers == {}
        assert connection._protocol.waiting == set()


def test_events_go_to_their_handlers_and_can_be_awaited_behind_a_mark() -> None:
    def answering(socket: ServerConnection, command: dict[str, Any]) -> None:
        tells(socket, "log.entryAdded", text="before the answer")
        says(socket, command)
        tells(socket, "browsingContext.load", context=command["method"])

    heard: list[str] = []
    with spoken_to(answering) as connection:
        off = connection.on("log.entryAdded", lambda event: heard.append(event.params["text"]))
        connection.send("one")
        first = connection.await_event(lambda e: e.method.endswith("load"), "a load", 2)
        assert first.params["context"] == "one"
        mark = connection.mark
        with pytest.raises(BrowserTimeout, match="a load"):
            connection.await_event(lambda e: e.method.endswith("load"), "a load", 0.2, mark)
        connection.send("two")
        assert connection.await_event(lambda e: e.method.endswith("load"), "a load", 2, mark).params["context"] == "two"
        off()
        connection.send("three")
        assert heard == ["before the answer"] * 2
        assert [e.method for e in connection.since(mark)][:2] == ["log.entryAdded", "browsingContext.load"]


def test_what_handlers_post_is_not_waited_for_and_may_come_later() -> None:
    got: list[tuple[str, float]] = []
    begun = time.monotonic()

    def answering(socket: ServerConnection, command: dict[str, Any]) -> None:
        got.append((command["method"], time.monotonic() - begun))
        if command["method"] == "go":
            tells(socket, "network.beforeRequestSent", context="c")
            time.sleep(0.6)
        says(socket, command)

    with spoken_to(answering) as connection:

        def handler(event: Event) -> None:
            connection.post("at.once")
            connection.post("later", after=0.3, what=event.params["context"])

        connection.on("network.beforeRequestSent", handler)
        connection.send("go")
        connection.send("stop")
    names = [name for name, _ in got]
    assert names.index("at.once") < names.index("later") < len(names)
    assert dict(got)["later"] - dict(got)["at.once"] >= -0.1


def test_a_context_that_goes_away_ends_what_waits_for_it_at_once() -> None:
    def answering(socket: ServerConnection, command: dict[str, Any]) -> None:
        if command["method"] == "browsingContext.getTree":
            socket.send(json.dumps({"type": "error", "id": command["id"], "error": "no such frame", "message": "gone"}))
            return
        tells(socket, "browsingContext.contextDestroyed", context="page", children=[{"context": "frame", "children": []}])

    with spoken_to(answering) as connection:
        begun = time.monotonic()
        with pytest.raises(DocumentGone, match=r"closed during input\.performActions"):
            connection.send("input.performActions", context="page", limit=5)
        assert time.monotonic() - begun < 3
        assert connection.has_gone("frame")
        with pytest.raises(PageClosed, match="has been closed"):
            View(connection, "page").call("() => 1", deadline=time.monotonic() + 1)


def test_an_end_that_vanishes_is_said() -> None:
    with spoken_to(lambda socket, _: socket.close()) as connection:
        with pytest.raises(BrowserGone, match=r"went away during session\.status"):
            connection.send("session.status")
        with pytest.raises(BrowserGone):
            connection.listen(time.monotonic() + 1)


def test_a_question_is_asked_again_where_its_document_went_away() -> None:
    asked: list[int] = []

    def answering(socket: ServerConnection, command: dict[str, Any]) -> None:
        if command["method"] == "browsingContext.getTree":
            says(socket, command, contexts=[])
            return
        asked.append(command["id"])
        if len(asked) < 3:
            said = {"type": "error", "id": command["id"], "error": "unknown error", "message": "Execution context was destroyed."}
            socket.send(json.dumps(said))
        else:
            says(socket, command, type="success", result={"type": "number", "value": 7})

    with spoken_to(answering) as connection:
        assert View(connection, "c").call("() => 7", deadline=time.monotonic() + 5) == 7
        assert len(asked) == 3


def test_an_answer_that_comes_later_than_the_limit_is_heard_all_the_same() -> None:
    def answering(socket: ServerConnection, command: dict[str, Any]) -> None:
        time.sleep(1.0)
        says(socket, command, type="success", result={"type": "number", "value": 7})

    with spoken_to(answering) as connection:
        assert View(connection, "c").call("() => 7", deadline=time.monotonic() + 0.05) == 7


@pytest.mark.parametrize("how", [threads, tasks])
def test_each_gets_its_own_answer_and_does_not_wait_for_those_of_others(how: Together) -> None:
    held: list[dict[str, Any]] = []
    results: dict[int, int] = {}

    def answering(socket: ServerConnection, command: dict[str, Any]) -> None:
        held.append(command)
        if len(held) == 12:  # only when all have asked, the last first
            for one in reversed(held):
                says(socket, one, n=one["params"]["n"])

    def ask(n: int, connection: Connection) -> None:
        results[n] = connection.send("echo", n=n)["n"]

    with an_end(answering) as address:
        how(address, [partial(ask, n) for n in range(12)])
    assert results == {n: n for n in range(12)}


@pytest.mark.parametrize("how", [threads, tasks])
def test_between_commands_that_belong_together_come_no_others(how: Together) -> None:
    heard: list[int] = []

    def answering(socket: ServerConnection, command: dict[str, Any]) -> None:
        heard.append(command["params"]["n"])
        says(socket, command)

    def ask(first: int, connection: Connection) -> None:
        for _ in range(8):
            with connection.exclusive():
                for n in range(first, first + 3):
                    connection.send("echo", n=n)

    with an_end(answering) as address:
        how(address, [partial(ask, first) for first in (10, 20, 30)])
    groups = [heard[at : at + 3] for at in range(0, len(heard), 3)]
    assert sorted(groups) == sorted([[n, n + 1, n + 2] for n in (10, 20, 30)] * 8)
    assert how is threads or groups[:3] == [[10, 11, 12], [20, 21, 22], [30, 31, 32]]  # tasks in the order in which they asked


@pytest.mark.parametrize(
    ("code", "message", "kind"),
    [
        ("no such frame", "", DocumentGone),
        ("unknown error", "AbortError: Actor 'X' destroyed before query was resolved", DocumentGone),
        ("unknown error", "Cannot find context with specified id", DocumentGone),
        ("unknown error", "something else", BrowserError),
        ("no such node", "", ElementGone),
        ("stale element reference", "", ElementGone),
        ("move target out of bounds", "Origin element is not displayed", ElementGone),
        ("move target out of bounds", "too far", BrowserError),
        ("unsupported operation", "", NotSupported),
        ("unknown command", "", NotSupported),
        ("invalid argument", "bad", BrowserError),
    ],
)
def test_errors_are_cut_by_what_a_caller_can_do(code: str, message: str, kind: type[BrowserError]) -> None:
    made = refusal("some.command", code, message)
    assert type(made) is kind
    assert f"refused some.command: {code}" in str(made)


def test_traffic_is_logged_without_what_is_in_it(caplog: pytest.LogCaptureFixture) -> None:
    with caplog.at_level(logging.DEBUG, "wary_hound.browser"), spoken_to(says) as connection:
        connection.send("input.performActions", context="c", actions=["tulip-77"])
        connection.post("network.continueRequest", request="tulip-78")
    assert "input.performActions" in caplog.text
    assert "network.continueRequest" in caplog.text
    assert "tulip" not in caplog.text


@pytest.mark.parametrize("text", ["no json", "[]", '{"type": "event"}', "{}", '{"type": "error", "id": 1}'])
def test_what_is_no_message_is_one_of_our_errors(text: str) -> None:
    protocol = Protocol()
    protocol.command("x", {})
    try:
        assert protocol.receive(text) is None
    except BrowserError as error:
        assert "no BiDi message" in str(error)


class _Silent(Connection):
    """A connection that keeps what is sent, and hears what it is told."""

    def __init__(self) -> None:
        self.sent: list[tuple[str, dict[str, Any]]] = []
        self.handlers: dict[str, list[Callable[[Event], None]]] = {}

    def on(self, method: str, handler: Callable[[Event], None]) -> Callable[[], None]:
        self.handlers.setdefault(method, []).append(handler)
        return lambda: None

    def send(self, method: str, waited_for: str = "", limit: float | None = None, **params: Any) -> dict[str, Any]:
        self.sent.append((method, params))
        return {"intercept": f"i{len(self.sent)}"}

    def post(self, method: str, after: float = 0.0, **params: Any) -> None:
        self.sent.append((method, {**params, "after": after}))

    def tell(self, method: str, **params: Any) -> None:
        for handler in self.handlers.get(method, ()):
            handler(Event(method, params))


def asks(silent: _Silent, number: str, url: str, context: str = "page", blocked: bool = False, **more: Any) -> None:
    request = {"request": number, "url": url, "method": "GET"}
    silent.tell("network.beforeRequestSent", context=context, isBlocked=blocked, timestamp=1000, request=request, **more)


def test_requests_are_kept_by_page_with_what_came_of_them() -> None:
    silent = _Silent()
    network = Network(silent)
    silent.tell("browsingContext.contextCreated", context="frame", parent="page")
    asks(silent, "1", "http://dome.example/nights?token=s3cret", navigation="n1")
    silent.tell("network.responseCompleted", request={"request": "1"}, response={"status": 404}, timestamp=1500)
    asks(silent, "2", "http://dome.example/api/nights", "frame")
    silent.tell("network.fetchError", request={"request": "2"}, errorText="refused", timestamp=1)
    asks(silent, "3", "data:image/png;base64,AAAA")
    asks(silent, "4", "http://other.example/api/nights")
    log = network.requests["page"]
    assert [str(r).split(": ")[-1] for r in log] == ["404", "refused", "no answer yet"]
    assert "s3cret" not in str(log[0])
    assert (log[0].document, log[0].seconds, log[1].document) == (True, 0.5, False)
    assert network.status_of("page", "n1") == network.status_of("page", None) == 404
    assert network.status_of("elsewhere", None) == 0
    host = network.host_of("page")
    assert [r.is_like("/api/*", "get", host) for r in log] == [False, True, False]
    assert [r.is_like("http://other.example/*", "", host) for r in log] == [False, False, True]


def test_stubs_answer_the_latest_first_and_let_others_through() -> None:
    silent = _Silent()
    network = Network(silent)
    asks(silent, "0", "http://dome.example/", navigation="n")
    first = network.stub("page", Stub("/api/*", "", 200, b"one", {}, False, False, 0))
    second = network.stub("page", Stub("/api/nights", "GET", 503, b"two", {"X": "y"}, False, False, 0.5))
    broken = network.stub("page", Stub("/broken", "", 200, b"", {}, True, False, 0))
    slow = network.stub("page", Stub("/slow", "", 200, b"", {}, False, True, 2))
    assert [m for m, _ in silent.sent] == ["network.addIntercept"]
    for number, path in enumerate(("/api/nights", "/api/moons", "/broken", "/slow", "/else"), 1):
        asks(silent, str(number), f"http://dome.example{path}", blocked=True)
    said = [(m.removeprefix("network."), p.get("statusCode"), p["after"]) for m, p in silent.sent[1:]]
    assert said == [
        ("provideResponse", 503, 0.5),
        ("provideResponse", 200, 0),
        ("failRequest", None, 0),
        ("continueRequest", None, 2),
        ("continueRequest", None, 0),
    ]
    assert [s.uses for s in (first, second, broken, slow)] == [1, 1, 1, 1]
    for stub in (first, second, broken, slow):
        stub.remove()
    assert silent.sent[-1][0] == "network.removeIntercept"


def test_names_and_passwords_go_to_their_host_once() -> None:
    silent = _Silent()
    network = Network(silent)
    network.sign_in("ada", "dome-key", "dome.example")
    network.sign_in("bram", "other", "other.example:8080")
    for number, url in (("1", "http://dome.example:81/a"), ("1", "http://dome.example:81/a"), ("2", "http://nobody.example/")):
        silent.tell("network.authRequired", context="page", isBlocked=True, request={"request": number, "url": url})
    said = [(p["action"], p.get("credentials", {}).get("username")) for m, p in silent.sent if m == "network.continueWithAuth"]
    assert said == [("provideCredentials", "ada"), ("cancel", None), ("cancel", None)]


def test_an_end_that_dies_unseen_is_asked_whether_it_lives(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("wary_hound.browser.connection.SILENT", 0.2)
    monkeypatch.setattr("wary_hound.browser.connection.DEAD", 0.3)
    alive: list[dict[str, Any]] = []

    def answering(socket: ServerConnection, command: dict[str, Any]) -> None:
        if command["method"] == "browsingContext.getTree" and len(alive) < 3:
            alive.append(command)
            says(socket, command)

    with spoken_to(answering) as connection:
        with pytest.raises(BrowserTimeout):  # it is not known to die so
            connection.send("slow", limit=0.5)
        connection.dies_unseen = True
        with pytest.raises(BrowserGone, match="answers nothing any more"):
            connection.send("slow", limit=60)
        assert len(alive) == 3  # as long as it answered it was waited for
