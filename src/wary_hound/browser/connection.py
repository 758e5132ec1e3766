"""A blocking BiDi connection over a WebSocket."""

from __future__ import annotations

import time
from collections import deque
from collections.abc import Callable
from contextlib import ExitStack
from types import TracebackType
from typing import Any

from websockets.exceptions import WebSocketException
from websockets.sync.client import ClientConnection, connect

from wary_hound.browser.protocol import Answer, Event, Json, Protocol, local, plain
from wary_hound.errors import BrowserError, BrowserTimeout

LIMIT = 20.0
"""Seconds that a command may take."""
MOST_EVENTS = 1_000
MOST_BYTES = 512 * 1024 * 1024


class Connection:
    """Sends commands one at a time and waits for each answer.

    Events that come meanwhile go to the handler of their method in `handlers`, which may send commands itself, and are kept in
    `events`, the last MOST_EVENTS of them.
    """

    def __init__(self, address: str, limit: float = LIMIT) -> None:
        self.limit = limit
        self.events: deque[Event] = deque(maxlen=MOST_EVENTS)
        self.handlers: dict[str, Callable[[Event], None]] = {}
        self._answers: dict[int, Answer] = {}
        self._protocol = Protocol()
        self._open = ExitStack()
        try:
            self._socket: ClientConnection = self._open.enter_context(
                connect(address, max_size=MOST_BYTES, open_timeout=limit, compression=None, proxy=None, ping_interval=None)
            )
        except (OSError, WebSocketException, TimeoutError) as error:
            raise BrowserError(f"no BiDi connection to {address} ({error})") from None

    def send(self, method: str, waited_for: str = "", limit: float | None = None, **params: Any) -> Json:
        """Send a command and give its result.

        BrowserTimeout names what was `waited_for` when no answer comes within the limit (seconds); BrowserError when the
        browser refuses or is gone.
        """
        number, text = self._protocol.command(method, params)
        seconds = self.limit if limit is None else limit
        deadline = time.monotonic() + seconds
        try:
            self._socket.send(text)
            while number not in self._answers:
                self._receive(deadline)
            answer = self._answers.pop(number)
            if answer.error:
                said = answer.message.splitlines()[0] if answer.message else ""
                raise BrowserError(f"the browser refused {method}: {answer.error}{': ' + said if said else ''}")
            return answer.result
        except TimeoutError:
            raise BrowserTimeout(f"waited {seconds:g} s for {waited_for or method}: it did not come") from None
        except (OSError, WebSocketException) as error:
            raise BrowserError(f"the browser went away during {method} ({type(error).__name__})") from None

    def _receive(self, deadline: float) -> None:
        """Takes in one message. TimeoutError where none comes in time."""
        left = deadline - time.monotonic()
        if left <= 0:
            raise TimeoutError
        message = self._protocol.receive(self._socket.recv(timeout=left))
        if isinstance(message, Event):
            self.events.append(message)
            handler = self.handlers.get(message.method)
            if handler is not None:
                handler(message)
        elif isinstance(message, Answer):
            self._answers[message.number] = message

    def await_event(self, happened: Callable[[Event], bool], waited_for: str, limit: float) -> None:
        """Wait for an event, among those kept first. BrowserTimeout at the limit (seconds)."""
        deadline = time.monotonic() + limit
        try:
            while not any(happened(event) for event in self.events):
                self._receive(deadline)
        except TimeoutError:
            raise BrowserTimeout(f"waited {limit:g} s for {waited_for}: it did not come") from None
        except (OSError, WebSocketException) as error:
            raise BrowserError(f"the browser went away while waiting for {waited_for} ({type(error).__name__})") from None

    def listen(self, deadline: float) -> None:
        """Take in one message, of whatever kind. BrowserTimeout where none comes until the deadline (monotonic seconds)."""
        try:
            self._receive(deadline)
        except TimeoutError:
            raise BrowserTimeout("no message came") from None
        except (OSError, WebSocketException) as error:
            raise BrowserError(f"the browser went away ({type(error).__name__})") from None

    def call(
        self, context: str, function: str, *arguments: Json | str | float, waited_for: str = "", limit: float | None = None
    ) -> Any:
        """Call a JavaScript function in a browsing context, wait for its promise, and give its value.

        Arguments are texts, numbers, or references as BiDi has them (`{"sharedId": ...}`).
        """
        result = self.send(
            "script.callFunction",
            waited_for=waited_for,
            limit=limit,
            functionDeclaration=function,
            awaitPromise=True,
            target={"context": context, "sandbox": "wary-hound"},
            arguments=[local(argument) for argument in arguments],
            serializationOptions={"maxObjectDepth": 3, "maxDomDepth": 0},
        )
        if result["type"] == "exception":
            details = result["exceptionDetails"]
            raise BrowserError(f"a script failed in the page: {details['text']}")
        return plain(result["result"])

    def call_if_there(self, context: str, function: str, *arguments: Json | str | float) -> Any:
        """The same where the document may be gone by now: None then."""
        try:
            return self.call(context, function, *arguments)
        except BrowserTimeout:
            raise
        except BrowserError:
            return None

    def close(self) -> None:
        """End the connection."""
        self._open.close()

    def __enter__(self) -> Connection:
        return self

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None) -> None:
        self.close()
