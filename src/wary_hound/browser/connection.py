"""A BiDi connection over a WebSocket: commands with their answers, events to those who asked for them.

Threads, or tasks of asyncio, may share it: whoever waits takes in what comes, for all. What goes over it is logged at DEBUG by
method and size, without what was typed, answered or read.
"""

from __future__ import annotations

import logging
import time
from collections import defaultdict, deque
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache, partial
from hashlib import sha256
from types import TracebackType
from typing import Any

from websockets.exceptions import WebSocketException

from wary_hound.browser.protocol import Answer, Event, Json, Protocol, contexts_of, local, plain, refusal
from wary_hound.browser.waiting import Relay, Socket, Turn, connected
from wary_hound.errors import BrowserError, BrowserGone, BrowserTimeout, DocumentGone

LIMIT = 20.0
"""Seconds that a command may take."""
ANSWERING = 10.0
"""Seconds that a browser has for an answer at least, however little is left of a limit: a busy machine is no fault of the page."""
SILENT, DEAD = 3.0, 15.0
"""Seconds without a message after which an end that can die unseen is asked whether it lives, and in which it must answer."""
MOST_EVENTS = 5_000
MOST_BYTES = 512 * 1024 * 1024
MOST_GONE = 10_000
"""Contexts that are known to have gone; older ones are forgotten."""

LONG = 1_000
"""Characters from which on a function is kept in its document: to send and read it anew costs more than most do."""
MOST_KEPT = 1_000
_NOT_KEPT = {"waryHound": "not kept"}
_CALL_KEPT = """(key, ...rest) => {
  const kept = globalThis.waryHoundKept && globalThis.waryHoundKept.get(key);
  return kept ? kept(...rest) : { waryHound: "not kept" };
}"""
_KEEP = """(key, ...rest) => {
  const kept = FUNCTION;
  (globalThis.waryHoundKept ||= new Map()).set(key, kept);
  return kept(...rest);
}"""

_log = logging.getLogger("wary_hound.browser")
Handler = Callable[[Event], None]


def answering(deadline: float) -> float:
    """Seconds that an answer is waited for of which one is told by a deadline (monotonic seconds)."""
    return max(ANSWERING, deadline - time.monotonic())


@lru_cache(maxsize=100)
def _key(function: str) -> str:
    return sha256(function.encode()).hexdigest()[:16]


@dataclass(frozen=True, slots=True)
class Asked:
    """A command that was sent: its number, the context that it is about, its characters, and when it began."""

    number: int
    method: str
    context: str
    size: int
    begun: float


class Connection:
    """Sends commands and waits for each answer.

    Events that come meanwhile go to the handlers of their method (`on`), which may `post` commands but not wait for answers, and
    are kept, the last MOST_EVENTS of them: `mark` says where one is, `since` gives those behind a mark.
    """

    def __init__(self, address: str, limit: float = LIMIT) -> None:
        self.limit = limit
        self._events: deque[tuple[int, Event]] = deque(maxlen=MOST_EVENTS)
        self._counted = 0
        self._messages = 0
        self._handlers: dict[str, list[Handler]] = defaultdict(list)
        self._gone: dict[str, str] = {}
        self._kept: set[tuple[str, str]] = set()
        self._later: list[tuple[float, str, Json]] = []
        self._answers: dict[int, Answer] = {}
        self._protocol = Protocol()
        self.dies_unseen = False
        """Whether what answers may die while the connection stays open: then silence is looked into."""
        self.total: Callable[[str], int] | None = None
        """How many elements a page has in all its trees, where a browser tells it (see `chromium`)."""
        self._heard = time.monotonic()
        self._asked = 0.0
        self._turn = Turn()
        self._relay = Relay()
        try:
            self._socket: Socket = connected(address, limit, MOST_BYTES)
        except (OSError, WebSocketException, TimeoutError) as error:
            raise BrowserError(f"no BiDi connection to {address} ({error})") from None

    def exclusive(self) -> Turn:
        """For a `with` block whose commands nobody else's come between."""
        return self._turn

    # --- commands -----------------------------------------------------------------------------------------------------

    def send(self, method: str, /, waited_for: str = "", limit: float | None = None, **params: Any) -> Json:
        """Send a command and give its result.

        BrowserTimeout names what was `waited_for` when no answer comes within the limit (seconds). BrowserGone, DocumentGone,
        ElementGone, NotSupported or another BrowserError when the browser refuses, or the context goes away meanwhile.
        """
        return self.answer(self.begin(method, **params), waited_for, limit)

    def begin(self, method: str, /, **params: Any) -> Asked:
        """Send a command without waiting: `answer` waits for its result, or `forget` says that nobody will."""
        context = params.get("context") or (params.get("target") or {}).get("context")
        number, text = self._protocol.command(method, params)
        asked = Asked(number, method, str(context or ""), len(text), time.perf_counter())
        try:
            with self._turn:
                self._heard, self._asked = time.monotonic(), 0.0
                self._socket.send(text)
        except (OSError, WebSocketException) as error:
            self.forget(asked)
            raise BrowserGone(f"the browser went away during {method} ({type(error).__name__})") from None
        except BaseException:  # cancelled while it waited for its turn
            self.forget(asked)
            raise
        return asked

    def answer(self, asked: Asked, waited_for: str = "", limit: float | None = None) -> Json:
        """The result of a command that was begun; the limit (seconds) counts from now. Errors as of `send`."""
        seconds = self.limit if limit is None else limit
        deadline = time.monotonic() + seconds
        number, method = asked.number, asked.method
        try:
            while number not in self._answers:
                if asked.context in self._gone:
                    raise DocumentGone(f"the page or frame closed during {method}")
                self._receive(deadline, lambda: number in self._answers or asked.context in self._gone)
            answer = self._answers[number]
        except TimeoutError:
            what = waited_for or f"the browser to answer {method}"
            raise BrowserTimeout(f"waited {seconds:.3g} s for {what}: it did not come") from None
        except (OSError, WebSocketException) as error:
            raise BrowserGone(f"the browser went away during {method} ({type(error).__name__})") from None
        finally:
            self.forget(asked)
        _log.debug("%s, %d characters: %.1f ms %s", method, asked.size, 1000 * (time.perf_counter() - asked.begun), answer.error)
        if answer.error:
            raise refusal(method, answer.error, answer.message)
        return answer.result

    def forget(self, asked: Asked) -> None:
        """Nobody waits for the answer of a command any more."""
        self._protocol.forget(asked.number)
        self._answers.pop(asked.number, None)

    def post(self, method: str, after: float = 0.0, **params: Any) -> None:
        """Send a command whose answer nobody waits for, at once or some seconds later: what handlers of events may do."""
        if after > 0:
            self._later.append((time.monotonic() + after, method, params))
            return
        _log.debug("%s, not waited for", method)
        try:
            self._socket.send(self._protocol.told(method, params))
        except (OSError, WebSocketException) as error:
            raise BrowserGone(f"the browser went away during {method} ({type(error).__name__})") from None

    def _receive(self, deadline: float, done: Callable[[], bool]) -> None:
        """Takes in one message, or waits for one that another caller takes in; nothing where it is `done` by then. TimeoutError
        where none comes in time."""
        self._relay.take(lambda: self._take_in(deadline), done, deadline)

    def _take_in(self, deadline: float) -> None:
        while True:
            now = time.monotonic()
            for entry in [entry for entry in self._later if entry[0] <= now]:
                self._later.remove(entry)
                self.post(entry[1], **entry[2])
            left = deadline - now
            if left <= 0:
                raise TimeoutError
            due = min((at for at, _, _ in self._later), default=deadline)
            wait = max(0.0, min(left, due - now, SILENT if self.dies_unseen else left))
            try:
                text = self._socket.recv(timeout=wait)
                break
            except TimeoutError:
                if self.dies_unseen:
                    self._must_live()
        self._heard, self._asked = time.monotonic(), 0.0
        message = self._protocol.receive(text)
        self._messages += 1
        if isinstance(message, Event):
            self._events.append((self._counted, message))
            self._counted += 1
            if message.method == "browsingContext.contextDestroyed":
                for context in contexts_of(message.params):
                    self.lose(context)
            for handler in tuple(self._handlers[message.method]):
                handler(message)
        elif isinstance(message, Answer):
            self._answers[message.number] = message

    def _must_live(self) -> None:
        """Ask an end that has been silent for a while whether it lives. BrowserGone where it does not answer."""
        now = time.monotonic()
        if self._asked and now - self._asked > DEAD:
            raise BrowserGone("the browser answers nothing any more: its end has died, or hangs; start it anew")
        if not self._asked and now - self._heard > SILENT:
            self.post("browsingContext.getTree", maxDepth=0)  # some drivers answer for the session themselves
            self._asked = now

    def lose(self, context: str, why: str = "") -> None:
        """From now on a context counts as gone; `why` is told to who asks for it."""
        self._gone.setdefault(context, why)
        while len(self._gone) > MOST_GONE:
            self._gone.pop(next(iter(self._gone)))

    def has_gone(self, context: str) -> bool:
        """Whether the browser has told that a context was destroyed, or its process has died."""
        return context in self._gone

    def why_gone(self, context: str) -> str:
        """Why a context is gone, where that is known."""
        return self._gone.get(context, "")

    # --- events -------------------------------------------------------------------------------------------------------

    def on(self, method: str, handler: Handler) -> Callable[[], None]:
        """From now on a handler is told of events; call what is given to end that."""
        self._handlers[method].append(handler)
        return lambda: self._handlers[method].remove(handler) if handler in self._handlers[method] else None

    @property
    def mark(self) -> int:
        """How many events have come so far."""
        return self._counted

    def since(self, mark: int) -> Iterator[Event]:
        """The events behind a mark that are still kept, in order."""
        kept = tuple(self._events)
        return iter([event for _, event in kept[max(0, mark - kept[0][0]) :]] if kept else [])

    def await_event(self, happened: Callable[[Event], bool], waited_for: str, limit: float, mark: int = 0) -> Event:
        """Wait for an event, among those kept behind a mark first, and give it. BrowserTimeout at the limit (seconds)."""
        deadline = time.monotonic() + limit
        try:
            while True:
                seen = self.mark
                for event in self.since(mark):
                    if happened(event):
                        return event
                mark = seen
                while not self._is_past(mark):
                    self._receive(deadline, partial(self._is_past, mark))
        except TimeoutError:
            raise BrowserTimeout(f"waited {limit:g} s for {waited_for}: it did not come") from None
        except (OSError, WebSocketException) as error:
            raise BrowserGone(f"the browser went away while waiting for {waited_for} ({type(error).__name__})") from None

    def _is_past(self, mark: int) -> bool:
        return self._counted != mark

    def listen(self, deadline: float) -> None:
        """Take in one message, of whatever kind. BrowserTimeout where none comes until the deadline (monotonic seconds)."""
        seen = self._messages
        try:
            self._receive(deadline, lambda: self._messages != seen)
        except TimeoutError:
            raise BrowserTimeout("no message came") from None
        except (OSError, WebSocketException) as error:
            raise BrowserGone(f"the browser went away ({type(error).__name__})") from None

    # --- scripts ------------------------------------------------------------------------------------------------------

    def call(
        self, context: str, function: str, *arguments: Json | str | float, waited_for: str = "", limit: float | None = None
    ) -> Any:
        """Call a JavaScript function in a browsing context, wait for its promise, and give its value.

        It runs in a sandbox of ours: what a page does to the prototypes of its own does not reach it. Arguments are texts,
        numbers, or references as BiDi has them (`{"sharedId": ...}`). A long function stays in the document, so that it is read
        once there.
        """
        if len(function) < LONG:
            return self._call(context, function, arguments, waited_for, limit)
        key = _key(function)
        if (context, key) in self._kept:
            answer = self._call(context, _CALL_KEPT, (key, *arguments), waited_for, limit)
            if answer != _NOT_KEPT:
                return answer
        if len(self._kept) >= MOST_KEPT:
            self._kept.clear()
        self._kept.add((context, key))
        return self._call(context, _KEEP.replace("FUNCTION", function), (key, *arguments), waited_for, limit)

    def _call(
        self, context: str, function: str, arguments: Sequence[Json | str | float], waited_for: str, limit: float | None
    ) -> Any:
        return self.called(self.begin_call(context, function, *arguments), waited_for, limit)

    def begin_call(self, context: str, function: str, *arguments: Json | str | float) -> Asked:
        """Begin to call a short function, as `begin` does with commands; `called` gives its value."""
        return self.begin(
            "script.callFunction",
            functionDeclaration=function,
            awaitPromise=True,
            target={"context": context, "sandbox": "wary-hound"},
            arguments=[local(argument) for argument in arguments],
            serializationOptions={"maxObjectDepth": 3, "maxDomDepth": 0},
        )

    def called(self, asked: Asked, waited_for: str = "", limit: float | None = None) -> Any:
        """The value of a call that was begun. Errors as of `answer`, and BrowserError where the function fails."""
        result = self.answer(asked, waited_for, limit)
        if result["type"] == "exception":
            details = result["exceptionDetails"]
            raise BrowserError(f"a script failed in the page: {details['text']}")
        return plain(result["result"])

    def call_if_there(self, context: str, function: str, *arguments: Json | str | float) -> Any:
        """The same where the document may be gone by now: None then."""
        try:
            return self.call(context, function, *arguments)
        except (BrowserTimeout, BrowserGone):
            raise
        except BrowserError:
            return None

    def close(self) -> None:
        """End the connection."""
        self._socket.close()

    def __enter__(self) -> Connection:
        return self

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None) -> None:
        self.close()
