"""Pointing: a person points at elements of a live page and takes them; what is under the pointer is outlined, with its best
locator and how many elements that matches."""

from __future__ import annotations

import contextlib
import json
import time
from collections import deque
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from types import TracebackType
from typing import TYPE_CHECKING

from wary_hound.authoring.ranking import Candidate, rank
from wary_hound.authoring.targets import control_around
from wary_hound.browser import capture as capturing
from wary_hound.browser.protocol import Event, channel
from wary_hound.browser.scripts import script
from wary_hound.errors import BrowserError, BrowserTimeout, FactsError
from wary_hound.page import Element

if TYPE_CHECKING:
    from wary_hound.browser.page import LivePage

CHANNEL = "wary-hound-pick"
TURN = 0.5
"""Seconds after which it is looked whether the page is still there."""
HINT = "Click or Enter takes it. Alt and a click goes through to the page. Escape ends."


@dataclass(frozen=True, slots=True)
class Picked:
    """An element that was taken, with its candidates, best first."""

    element: Element
    candidates: tuple[Candidate, ...]


class Picking:
    """Pointing on one page, as a `with` block; to loop over it gives each `Picked` when it is taken, until Escape, or until
    the page or its browser is closed."""

    def __init__(self, live: LivePage) -> None:
        self.live = live
        self.pointed: Picked | None = None
        self.ended = False
        self._heard: deque[tuple[str, dict[str, object]]] = deque()
        self._taken: capturing.Capture | None = None
        self._contexts: list[str] = []
        self._offs: list[Callable[[], None]] = []

    def __enter__(self) -> Picking:
        connection = self.live._connection
        heard = [("script.message", self._hear), ("browsingContext.load", self._moved)]
        heard.append(("browsingContext.contextDestroyed", self._moved))
        self._offs = [connection.on(method, handler) for method, handler in heard]
        self._install()
        return self

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None) -> None:
        for off in self._offs:
            off()
        for context in self._contexts:
            self.live._connection.call_if_there(context, "() => globalThis.waryHoundPick && globalThis.waryHoundPick.stop()")
        self._say([])

    def __iter__(self) -> Iterator[Picked]:
        while not self.ended:
            yield from self.step(TURN)

    def step(self, seconds: float) -> list[Picked]:
        """What is taken within some seconds, the first that comes."""
        deadline = time.monotonic() + seconds
        while not self._heard and not self.ended and time.monotonic() < deadline:
            try:
                self.live._connection.listen(deadline)
            except BrowserTimeout:
                break
            except BrowserError:
                self.ended = True  # the window was closed
        frames: list[Picked] = []
        while self._heard and not self.ended:
            context, said = self._heard.popleft()
            if said["kind"] == "at" and any(c == context and s["kind"] == "at" for c, s in self._heard):
                continue  # the pointer has gone on
            frames.extend(self._act(context, str(said["kind"]), int(str(said.get("number", -1))), bool(said.get("changed"))))
        return frames

    def _act(self, context: str, kind: str, number: int, changed: bool) -> Iterator[Picked]:
        if kind == "end":
            self.ended = True
        elif kind in ("new", "load") or changed:
            self._install()  # it tells again what is under the pointer, or was to be taken
        else:
            for other in self._contexts:
                if other != context:
                    self.live._connection.call_if_there(other, "() => globalThis.waryHoundPick && globalThis.waryHoundPick.leave()")
            self._point(context, number)
            if kind == "take" and self.pointed is not None:
                yield self.pointed

    def _point(self, context: str, number: int) -> None:
        """Say what is pointed at, on the page."""
        assert self._taken is not None
        page = self._taken.page
        try:
            element = page[self._taken.places.index((context, number))]
            element = control_around(element) or element
        except ValueError:
            return
        if self.pointed is None or self.pointed.element != element:
            self._say([(str(element), True), ("looking for its best locator", False)], element)
            self.pointed = Picked(element, tuple(rank(element)))
        candidates = self.pointed.candidates
        if not candidates:
            self._say([(str(element), True), ("no locator is unique to it", False)], element)
            return
        best = candidates[0]
        named = " ".join(part for part in (element.role, f'"{element.name}"' if element.name else "") if part) or f"<{element.tag}>"
        self._say(
            [
                (str(best.locator), True),
                (f"{named}: 1 of 1, and {100 * best.survival:.0f} % likely to last one release", False),
                (HINT, False),
            ],
            element,
        )

    def _install(self) -> None:
        """See the page anew, and listen in each of its documents."""
        self._taken = self.live._taken()
        self.pointed = None
        self._contexts = list(dict.fromkeys(context for context, _ in self._taken.places))
        pick, draw = script("pick.js"), script("draw.js")
        tell = channel(CHANNEL)
        for context in self._contexts:
            self.live._connection.call_if_there(context, draw, "[]")
            self.live._connection.call_if_there(context, f"(tell) => ({pick})(tell, {draw})", tell)
        self._say([("Point at an element", True), (HINT, False)])

    def _say(self, lines: list[tuple[str, bool]], element: Element | None = None) -> None:
        """On a strip in the window, out of the way of an element."""
        low = 0.0
        with contextlib.suppress(FactsError):  # what has no box is nowhere to keep away from
            if element is not None:
                _, top, _, height = element.box
                low = top + height
        self.live._connection.call_if_there(self.live.context, script("saying.js"), json.dumps(lines), low)

    def _hear(self, event: Event) -> None:
        if event.params.get("channel") == CHANNEL:
            said = json.loads(event.params["data"]["value"])
            self._heard.append((str(event.params["source"]["context"]), said))

    def _moved(self, event: Event) -> None:
        if event.method == "browsingContext.load":
            self._heard.append((str(event.params.get("context")), {"kind": "load"}))
        elif event.params.get("context") == self.live.context:
            self.ended = True
