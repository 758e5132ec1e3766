"""WebDriver BiDi (W3C) without I/O: commands to text, and text to answers and events. The shells do the sending."""

from __future__ import annotations

import json
import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from itertools import count
from typing import Any

from wary_hound.errors import BrowserError, DocumentGone, ElementGone, NotSupported, PageClosed

Json = dict[str, Any]
DIED = "the page's process has died"
_UNSETTLED = re.compile(
    r"destroyed|navigated|detached|NS_ERROR_FAILURE|"
    r"cannot find (context|execution|default)|discarded|inactive|AbortError|no longer|realm",
    re.I,
)
"""How browsers say, under `unknown error`, that a document went away under a command."""


def refusal(method: str, error: str, message: str) -> BrowserError:
    """The error that a refused command is, by the protocol's code, cut by what a caller can do about it."""
    said = message.splitlines()[0] if message else ""
    text = f"the browser refused {method}: {error}{': ' + said if said else ''}"
    match error:
        case "no such frame" | "no such script" | "no such history entry":
            return DocumentGone(text)
        case "no such node" | "stale element reference" | "no such element":
            return ElementGone(text)
        case "move target out of bounds" if "not displayed" in message:
            return ElementGone(text)
        case "unsupported operation" if "parent process" in message:  # Firefox shows a page of its own where a process has died
            return PageClosed(f"{DIED}, or the browser shows a page of its own there: open it anew")
        case "unsupported operation" | "unknown command" | "unknown method":
            return NotSupported(text)
        case "unknown error" if "not belong to the document" in message:
            return ElementGone(text)
        case "unknown error" if _UNSETTLED.search(message):
            return DocumentGone(text)
    return BrowserError(text)


@dataclass(frozen=True, slots=True)
class Answer:
    """The answer to the command of a number; `error` is empty when it went well."""

    number: int
    result: Json
    error: str = ""
    message: str = ""


@dataclass(frozen=True, slots=True)
class Event:
    """Something that the browser tells of itself."""

    method: str
    params: Json


@dataclass
class Protocol:
    """Numbers commands and sorts what comes back."""

    numbers: Iterator[int] = field(default_factory=lambda: count(1))
    waiting: set[int] = field(default_factory=set)

    def command(self, method: str, params: Json) -> tuple[int, str]:
        """The number of a new command, and the text to send."""
        number = next(self.numbers)
        self.waiting.add(number)
        return number, json.dumps({"id": number, "method": method, "params": params})

    def told(self, method: str, params: Json) -> str:
        """The text of a command whose answer nobody waits for."""
        return json.dumps({"id": next(self.numbers), "method": method, "params": params})

    def forget(self, number: int) -> None:
        """Nobody waits for an answer any more: it is dropped when it comes."""
        self.waiting.discard(number)

    def receive(self, text: str | bytes) -> Answer | Event | None:
        """What a message says; None for an answer that nobody waits for. BrowserError where it is no BiDi message."""
        try:
            data = json.loads(text)
            kind = data["type"]
            if kind == "event":
                return Event(data["method"], data["params"])
            number = data.get("id")
            if number not in self.waiting:
                return None
            self.waiting.discard(number)
            if kind == "success":
                return Answer(number, data["result"])
            return Answer(number, {}, str(data["error"]), str(data.get("message", "")))
        except (ValueError, KeyError, TypeError) as error:
            raise BrowserError(f"the browser sent something that is no BiDi message ({type(error).__name__})") from None


def plain(value: Json) -> Any:
    """A BiDi remote value as a Python value; nodes and windows stay as they are."""
    kind = value.get("type")
    match kind:
        case "undefined" | "null":
            return None
        case "string" | "number" | "boolean":
            return value["value"]
        case "array":
            return [plain(item) for item in value.get("value", [])]
        case "object":
            return {key: plain(item) for key, item in value.get("value", [])}
        case _:
            return value


def local(value: Json | str | float) -> Json:
    """A text or number as a BiDi local value; references and channels, which are JSON already, stay as they are."""
    if isinstance(value, dict):
        return value
    return {"type": "string" if isinstance(value, str) else "number", "value": value}


def channel(name: str) -> Json:
    """A function, as an argument of a script, by which a page says something: it comes as `script.message` of that channel."""
    return {"type": "channel", "value": {"channel": name}}


def contexts_of(entry: Json) -> Iterator[str]:
    """The browsing contexts of an entry of `browsingContext.getTree`, or of an event about one: itself, then the frames in it."""
    yield str(entry.get("context"))
    for child in entry.get("children") or ():
        yield from contexts_of(child)


def closed_roots(hosts: Iterable[Json]) -> list[str]:
    """Shared ids of the closed shadow roots of serialised elements, in their order."""
    roots = [(host.get("value") or {}).get("shadowRoot") for host in hosts]
    return [root["sharedId"] for root in roots if root and (root.get("value") or {}).get("mode") == "closed"]
