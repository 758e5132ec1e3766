"""Dialogs of pages (alert, confirm, prompt): answered as told where expected, dismissed and recorded where not."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from typing import Any, Literal

from wary_hound.browser.connection import Connection
from wary_hound.browser.protocol import Event
from wary_hound.errors import BrowserError

Kind = Literal["alert", "confirm", "prompt", "beforeunload"]


@dataclass(frozen=True, slots=True)
class Dialog:
    """A dialog that a page opened, and whether it had been expected."""

    kind: str
    message: str
    expected: bool


@dataclass
class _Expected:
    kind: Kind
    message: str | None
    accept: bool
    text: str | None
    met: str = ""


@dataclass
class Dialogs:
    """The dialogs of one browsing context. `seen` has them all, in order."""

    connection: Connection
    context: str
    seen: list[Dialog] = field(default_factory=list)
    _waiting: list[_Expected] = field(default_factory=list)

    def opened(self, event: Event) -> None:
        """Answers a dialog; called while whatever opened it still waits."""
        kind, message = str(event.params.get("type", "")), str(event.params.get("message", ""))
        wanted = self._waiting.pop(0) if self._waiting else None
        self.seen.append(Dialog(kind, message, wanted is not None))
        answer: dict[str, Any] = {"accept": wanted.accept if wanted else False}
        if wanted is not None:
            wanted.met = kind
            if kind != wanted.kind or (wanted.message is not None and message != wanted.message):
                wanted.met = f"{kind} saying {message!r}"
                answer["accept"] = False
            elif wanted.text is not None:
                answer["userText"] = wanted.text
        self.connection.send("browsingContext.handleUserPrompt", context=self.context, **answer)

    @contextmanager
    def answering(self, kind: Kind, message: str | None, accept: bool, text: str | None) -> Iterator[None]:
        """For a `with` block in which a dialog opens; BrowserError where none did, or another."""
        wanted = _Expected(kind, message, accept, text)
        self._waiting.append(wanted)
        try:
            yield
        finally:
            if wanted in self._waiting:
                self._waiting.remove(wanted)
        said = f"a {kind}" + (f" saying {message!r}" if message is not None else "")
        if not wanted.met:
            raise BrowserError(f"{said} was expected, but no dialog opened")
        if wanted.met != kind:
            raise BrowserError(f"{said} was expected, but there was a {wanted.met}; it was dismissed")
