"""Capture: a live page, with all its frames and open and closed shadow trees, as a `Page`.

One call a frame (two where there are several), and one more for each level of shadow trees that may be closed and were not asked
for before. Each document is walked in one go; changes between the calls are counted in the page, and what changed is taken again.
"""

from __future__ import annotations

import base64
import json
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from wary_hound.browser.connection import Connection
from wary_hound.browser.protocol import closed_roots
from wary_hound.browser.scripts import MOST_ELEMENTS, walking
from wary_hound.browser.waiting import apart
from wary_hound.errors import BrowserError, BrowserGone, BrowserTimeout, DocumentGone
from wary_hound.page import Facts, Page
from wary_hound.page.events import Event, build
from wary_hound.page.facts import Style
from wary_hound.page.secrets import ORDINARY, Secrets, masked
from wary_hound.page.text import BLOCK, REPLACED

MOST_FRAMES = 500
HIGHEST = 16_000
MOST_TRIES = 4
"""How often a page is taken that changes all the time; the last is kept, with a note."""
NOT_KNOWN, NOT_ASKED = -1, -2
"""In place of how many elements there are in all trees, see hosts.js."""
_CHANGES = "() => globalThis.waryHoundWatch ? globalThis.waryHoundWatch.changes() : -1"


@dataclass
class Document:
    """What was read of one frame."""

    nodes: list[list[Any]]
    url: str
    width: int
    height: int
    scroll: tuple[float, float]
    ratio: float
    frames: list[str]
    complete: list[int]
    """The numbers of elements that were taken whole, where only a part was asked for."""
    passed: list[int]
    """For each plan of a part, how many before the place that it asks for were counted and not taken."""


@dataclass
class _Collected:
    """The facts of elements, gathered as they go by; `places` has the context of each and its number there."""

    secrets: Secrets
    boxes: list[list[float]] = field(default_factory=list)
    hidden: set[int] = field(default_factory=set)
    form: dict[int, dict[str, Any]] = field(default_factory=dict)
    style: dict[int, Style] = field(default_factory=dict)
    places: list[tuple[str, int]] = field(default_factory=list)


@dataclass(frozen=True)
class Capture:
    """A page as it was taken, with the browsing context of each element and its number in that context's walk."""

    page: Page
    places: list[tuple[str, int]]


@dataclass(frozen=True)
class Seen:
    """What ready.js saw of an element, by its number in the walk."""

    number: int
    answer: list[Any]


@dataclass(frozen=True)
class Part:
    """A part of a page as it was taken, which elements are there with all that is in them, and for each plan how many elements
    before the place that it asks for were counted and not taken."""

    taken: Capture
    complete: frozenset[int]
    passed: tuple[int, ...]
    seen: Seen | None
    """Of the only element that can be meant, where it is to be pressed."""


def capture(connection: Connection, context: str, time: str, secrets: Secrets = ORDINARY, *, fresh: bool = True) -> Capture:
    """The page that a browsing context shows now. `time` (ISO 8601) goes into its facts; `secrets` say what stays out. Where it
    need not be `fresh`, elements that hosted no closed tree before, and have kept their size, are taken to host none now.

    Raises BrowserError where the browser refuses or goes away; a frame that vanishes meanwhile is left out.
    """
    for _ in range(MOST_TRIES):
        taken, whole = documents(connection, context, fresh)
        if whole:
            break
    note = f"the page was changing while it was taken, {MOST_TRIES} times over: frames and shadow trees may not be of one moment"
    return apart(lambda: assembled(taken, context, time, secrets, () if whole else (note,)))


def part(
    connection: Connection, context: str, time: str, secrets: Secrets, plans: str, *, undrawn: bool = False, press: bool = False
) -> Part | None:
    """What the outermost document shows of what some plans (JSON) ask for, as sieve.js lets it through. None where the sieve cannot
    tell, or the document changes meanwhile. `undrawn`: once a frame shows what was done last; `press`: with what ready.js sees."""
    answer = _walked(connection, context, plans, fresh=False, undrawn=undrawn, press=press)
    if answer is None:
        return None
    here, unchanged = document_of(answer[0], [])
    seen = Seen(*answer[1:]) if len(answer) > 1 else None
    if not unchanged:
        return None
    return Part(assembled({context: here}, context, time, secrets), frozenset(here.complete), tuple(here.passed), seen)


def documents(connection: Connection, context: str, fresh: bool = True) -> tuple[dict[str, Document], bool]:
    """What each document shows, by its context, and whether nothing has changed meanwhile."""
    top, whole = _take(connection, context, fresh)
    taken = {context: top}
    waiting = [f for f in top.frames if f]
    while waiting and len(taken) < MOST_FRAMES:
        frame = waiting.pop()
        if frame in taken:
            continue
        try:
            taken[frame], unchanged = _take(connection, frame, fresh)
            whole = whole and unchanged
        except (BrowserTimeout, BrowserGone):
            raise
        except BrowserError:
            whole = False  # it went away between two calls
            continue
        waiting.extend(f for f in taken[frame].frames if f)
    if whole and len(taken) > 1:
        whole = all(connection.call_if_there(frame, _CHANGES) == 0 for frame in taken)
    return taken, whole


def assembled(taken: dict[str, Document], context: str, time: str, secrets: Secrets, notes: tuple[str, ...] = ()) -> Capture:
    """The page that documents make, of which `context` is the outermost."""
    top = taken[context]
    collected = _Collected(secrets)
    events = list(_events(collected, taken, context, (0.0, 0.0)))
    facts = Facts(
        url=masked(top.url),
        time=time,
        viewport=(top.width, top.height),
        boxes=np.asarray(collected.boxes, np.float32).reshape(-1, 4),
        hidden=frozenset(collected.hidden),
        form=collected.form,
        style=collected.style,
        ratio=top.ratio,
    )
    return Capture(build(events, url=facts.url, facts=facts, notes=notes), collected.places)


def screenshot(connection: Connection, context: str, whole: bool = True) -> bytes:
    """The whole document as PNG, or what is in view: that too where it is larger than a browser can picture (HIGHEST device
    pixels)."""
    if not whole:
        return _pictured(connection, context, "viewport")
    size = "() => [document.documentElement.scrollWidth, document.documentElement.scrollHeight].map((v) => v * devicePixelRatio)"
    largest = max(connection.call(context, size), default=0)
    return _pictured(connection, context, "document" if largest <= HIGHEST else "viewport")


def _pictured(connection: Connection, context: str, origin: str) -> bytes:
    result = connection.send("browsingContext.captureScreenshot", context=context, origin=origin)
    return base64.b64decode(result["data"])


def _take(connection: Connection, context: str, fresh: bool) -> tuple[Document, bool]:
    """One document, and whether it stayed the same from the search for its closed trees to the walk."""
    text, *windows = _walked(connection, context, "", fresh)
    frames = [w["value"]["context"] if isinstance(w, dict) and w.get("type") == "window" else "" for w in windows]
    return document_of(text, frames)


def document_of(text: str, frames: list[str]) -> tuple[Document, bool]:
    """What capture.js tells of a document, and whether it stayed the same from the search for its closed trees to the walk.
    `frames`: the contexts of its frames, in order."""
    data = json.loads(text)
    if data.get("many"):
        raise BrowserError(
            f"the page has more than {MOST_ELEMENTS:,} elements, too many to take: CSS and XPath are looked up without taking it"
        )
    if not data["nodes"]:
        raise DocumentGone("the document has no element yet")
    scroll = tuple(data["scroll"])
    size = data["width"], data["height"]
    part = data.get("complete", []), data.get("passed", [])
    here = Document(data["nodes"], data["url"], *size, scroll, data["ratio"], frames, *part)
    return here, not data["changes"]


def _walked(connection: Connection, context: str, plans: str, fresh: bool, undrawn: bool = False, press: bool = False) -> Any:
    """What capture.js gives of one document and all its shadow trees, by `plans` (JSON) for the sieve where there are any."""
    shown: list[str] = []
    answered, total = 0, NOT_KNOWN if connection.total is None else NOT_ASKED
    while True:
        roots = ({"sharedId": root} for root in shown)
        flags = int(undrawn and not answered), int(press)
        answer = connection.call(context, walking(), plans, answered, int(fresh), total, *flags, *roots)
        if not isinstance(answer, dict):
            return answer
        if "count" in answer:
            total = connection.total(context) if connection.total else NOT_KNOWN
        else:
            shown, answered = closed_roots(answer["ask"]), 1


def _events(collected: _Collected, taken: dict[str, Document], context: str, origin: tuple[float, float]) -> Iterator[Event]:
    """One document as events of a page. `origin` is where its viewport stands on the top document."""
    here = taken[context]
    inside = bool(collected.places)
    left = origin[0] - (here.scroll[0] if inside else 0)
    top = origin[1] - (here.scroll[1] if inside else 0)
    number = 0
    for node in here.nodes:
        match node[0]:
            case "e":
                collected.places.append((context, number))
                number += 1
                yield _element(collected, node, left, top)
            case "f":
                frame = here.frames[node[1]]
                if frame in taken:
                    yield "f", masked(taken[frame].url)
                    yield from _events(collected, taken, frame, (node[2] + left, node[3] + top))
                    yield ("/s",)
            case _:
                yield tuple(node)


def _element(collected: _Collected, node: list[Any], left: float, top: float) -> Event:
    """The beginning of an element; what else is known of it goes to the facts."""
    _, tag, namespace, flat, box, shown, form, style = node
    index = len(collected.boxes)
    collected.boxes.append([np.nan] * 4 if box is None else [box[0] + left, box[1] + top, box[2], box[3]])
    if not shown:
        collected.hidden.add(index)
    attributes = dict(zip(flat[::2], flat[1::2], strict=True))
    if form:
        collected.form[index] = _kept_state(collected.secrets, tag, attributes, form)
    if style is not None:
        apart, case, before, after = style if isinstance(style, list) else (style, "none", "", "")
        noted = Style(bool(apart) or tag in REPLACED, "" if case == "none" else case, before, after)
        if noted != Style(tag in BLOCK):
            collected.style[index] = noted
    kept = collected.secrets.kept(tag, attributes)
    return "e", tag, namespace, [text for pair in kept.items() for text in pair]


def _kept_state(secrets: Secrets, tag: str, attributes: dict[str, str], form: dict[str, Any]) -> dict[str, Any]:
    """The state of a control without what was typed into it, unless that is to be kept: only whether something was."""
    if "value" not in form or (secrets.keep_values and not secrets.is_secret(tag, attributes)):
        return form
    value = form.pop("value")
    return {**form, "filled": True} if value and tag != "select" else form
