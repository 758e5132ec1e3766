"""Dialogs of pages (alert, confirm, prompt, beforeunload): answered as told where expected, dismissed and recorded where not."""

from __future__ import annotations

import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass, field
from typing import Any, Literal

from wary_hound.browser.connection import Connection
from wary_hound.browser.protocol import Event
from wary_hound.errors import BrowserError, BrowserTimeout

Kind = Literal["alert", "confirm", "prompt", "beforeunload"]


@dataclass(frozen=True, slots=True)
class Dialog:
    """A dialog that a page opened, and whether it had been expected."""

    kind: str
    message: str
    expected: bool


@dataclass
class Expected:
    """A dialog that is expected, and what came: `met` is its kind, or says how it was another one."""

    kind: Kind
    message: str | None
    accept: bool
    text: str | None
    met: str = ""

    def answer(self, kind: str, message: str) -> dict[str, Any]:
        """What to answer one that came."""
        self.met = kind
        if kind != self.kind or (self.message is not None and message != self.message):
            self.met = f"{kind} saying {message!r}"
            return {"accept": False}
        return {"accept": self.accept} | ({"userText": self.text} if self.text is not None else {})

    def must_have_come(self) -> None:
        """BrowserError where none came, or another."""
        said = f"a {self.kind}" + (f" saying {self.message!r}" if self.message is not None else "")
        if not self.met:
            raise BrowserError(f"{said} was expected, but no dialog opened within the time limit")
        if self.met != self.kind:
            raise BrowserError(f"{said} was expected, but there was a {self.met}; it was dismissed")


@dataclass
class Dialogs:
    """The dialogs of one page. `seen` has them all, in order."""

    connection: Connection
    seen: list[Dialog] = field(default_factory=list)
    waiting: list[Expected] = field(default_factory=list)

    def opened(self, event: Event, answers: bool = True) -> None:
        """Answers a dialog, while whatever opened it still waits; one that nobody expects only where it `answers` those too."""
        kind, message = str(event.params.get("type", "")), str(event.params.get("message", ""))
        wanted = self.waiting.pop(0) if self.waiting else None
        self.seen.append(Dialog(kind, message, wanted is not None))
        answer = wanted.answer(kind, message) if wanted is not None else {"accept": False}
        if wanted is None and not answers:
            return
        self.connection.post("browsingContext.handleUserPrompt", context=event.params["context"], **answer)

    @contextmanager
    def answering(
        self, kind: Kind, message: str | None, accept: bool, text: str | None, context: str, limit: float
    ) -> Iterator[None]:
        """For a `with` block by which a dialog of a page (its context) opens; BrowserError where another did, or none until a limit
        (seconds) behind the block."""
        wanted = Expected(kind, message, accept, text)
        self.waiting.append(wanted)
        try:
            yield
            deadline = time.monotonic() + limit
            with suppress(BrowserTimeout):
                while not wanted.met and not self.connection.has_gone(context):
                    self.connection.listen(deadline)
        finally:
            if wanted in self.waiting:
                self.waiting.remove(wanted)
        wanted.must_have_come()
