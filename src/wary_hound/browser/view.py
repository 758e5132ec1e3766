"""What a page shows, and when: captures and waits that go on in the new document where a navigation comes between."""

from __future__ import annotations

import contextlib
import datetime
import time
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from typing import Any, TypeVar

from wary_hound.browser import capture as capturing
from wary_hound.browser.connection import ANSWERING, Connection, answering
from wary_hound.browser.glimpse import Glimpse, asked_for, glimpse
from wary_hound.browser.protocol import Event, Json
from wary_hound.browser.scripts import DRAWN, FRAME, script
from wary_hound.browser.waiting import pause
from wary_hound.errors import BrowserTimeout, DocumentGone, ElementGone, PageClosed
from wary_hound.locator.values import Locator
from wary_hound.page.secrets import ORDINARY, Secrets

T = TypeVar("T")
QUIET = 250
"""Milliseconds without a change after which a page is at rest."""
LOADING = 5.0
"""Seconds that a document which is parsed may still load pictures and the like, before it is taken as it is."""
AGAIN = 0.02
"""Seconds before a question is asked again whose document went away."""
ENDS = frozenset({"load", "fragmentNavigated", "navigationFailed", "navigationAborted", "downloadWillBegin"})
"""Events of a browsing context that end a navigation."""
_MOVE = """(by, token) => {
  globalThis.waryHoundHere = token;
  globalThis.waryHoundMoved = "";
  addEventListener("popstate", () => { globalThis.waryHoundMoved = token; }, { once: true });
  history.go(by);
}"""
_MOVED = """(token) => [globalThis.waryHoundHere !== token || globalThis.waryHoundMoved === token, document.readyState]"""


@dataclass(frozen=True, slots=True)
class _Going:
    """How far a navigation has come: whether one is under way, whether its document is parsed, whether the page has closed."""

    pending: bool
    parsed: bool
    closed: bool


def _now() -> str:
    return datetime.datetime.now(datetime.UTC).isoformat(timespec="seconds")


class View:
    """One page of a browser, as it can be asked."""

    def __init__(self, connection: Connection, context: str, secrets: Secrets = ORDINARY) -> None:
        self.connection = connection
        self.context = context
        self._secrets = secrets
        self._moves = 0
        self.undrawn = False
        """Whether something was done of which no frame has been drawn so far: the next look waits for one."""

    @property
    def closed(self) -> bool:
        """Whether the page is there no more."""
        return self.connection.has_gone(self.context)

    def ask(self, question: Callable[[], T], deadline: float) -> T:
        """The answer to a question; asked again, until the deadline (monotonic seconds), where its document went away under it.
        PageClosed where the page is closed."""
        self.drawn(deadline)
        while True:
            try:
                return question()
            except (DocumentGone, ElementGone):
                self.must_be_open()
                if time.monotonic() > deadline:
                    raise
                pause(AGAIN)

    def drawn(self, deadline: float) -> None:
        """Wait for the frame that shows what was done last, where none has been drawn since."""
        if self.undrawn:
            self.undrawn = False
            with contextlib.suppress(DocumentGone, BrowserTimeout):
                self.connection.call(self.context, DRAWN, limit=max(0.5, deadline - time.monotonic()))

    def must_be_open(self) -> None:
        """PageClosed where the page is there no more."""
        if not self.closed:
            try:
                self.connection.send("browsingContext.getTree", root=self.context, maxDepth=0, limit=5)
                return
            except DocumentGone:
                pass
        why = self.connection.why_gone(self.context)
        raise PageClosed(f"{why}: open it anew" if why else "the page has been closed, by itself or by somebody else")

    def call(self, function: str, *arguments: Json | str | float, deadline: float, waited_for: str = "") -> Any:
        """What a JavaScript function gives in the document that is there; called again where that goes away. It must be one that
        may be called twice."""

        def question() -> Any:
            limit = answering(deadline)
            return self.connection.call(self.context, function, *arguments, waited_for=waited_for, limit=limit)

        return self.ask(question, deadline)

    # --- seeing -------------------------------------------------------------------------------------------------------

    def taken(self, deadline: float, *, fresh: bool = False) -> capturing.Capture:
        """What the page shows now; `fresh` as of `capture`."""
        return self.ask(lambda: capturing.capture(self.connection, self.context, _now(), self._secrets, fresh=fresh), deadline)

    def glimpse(self, locator: Locator, witnesses: Sequence[Locator], deadline: float, *, press: bool = False) -> Glimpse | None:
        """A part of what the page shows in which a locator, and one of its witnesses where there are any, finds the one element
        that it finds on the whole; None where only the whole can tell. `press`: it is to be clicked."""
        asked = asked_for(locator, witnesses)
        if asked is None:
            return None
        undrawn, self.undrawn = self.undrawn, False  # it waits for the frame itself

        def question() -> Glimpse | None:
            return glimpse(self.connection, self.context, _now(), self._secrets, asked, undrawn=undrawn, press=press)

        return self.ask(question, deadline)

    def captures(self, deadline: float) -> Iterator[capturing.Capture]:
        """The page now, and again whenever it has changed, at least once a second, until the deadline."""
        while True:
            yield self.taken(deadline + 1, fresh=time.monotonic() > deadline)
            left = deadline - time.monotonic()
            if left <= 0:
                return
            try:
                self.connection.call(self.context, script("changed.js"), int(1000 * min(left, 1.0)), limit=left + ANSWERING)
            except DocumentGone:
                self.must_be_open()

    # --- waiting ------------------------------------------------------------------------------------------------------

    def settle(self, limit: float) -> bool:
        """Wait until nothing changes for QUIET milliseconds; False where it still does at the limit (seconds)."""
        deadline = time.monotonic() + limit
        try:
            left = max(0.0, deadline - time.monotonic())
            asked = script("settle.js"), QUIET, int(1000 * left)
            return bool(self.call(*asked, deadline=deadline + 1, waited_for="the page to come to rest"))
        except BrowserTimeout:
            return False

    def _of_ours(self, event: Event) -> str:
        if event.params.get("context") != self.context or not event.method.startswith("browsingContext."):
            return ""
        return event.method.removeprefix("browsingContext.")

    def _going(self, mark: int, pending: bool) -> _Going:
        parsed = False
        for event in self.connection.since(mark):
            kind = self._of_ours(event)
            if kind == "navigationStarted":
                pending, parsed = True, False
            elif kind == "domContentLoaded":
                parsed = True
            elif kind in ENDS:
                pending = False
        return _Going(pending, parsed, self.closed)

    def begun(self, mark: int, limit: float) -> None:
        """Wait at most `limit` seconds for the beginning of a navigation behind a mark of the connection."""
        deadline = time.monotonic() + limit
        with contextlib.suppress(BrowserTimeout):
            while not any(self._of_ours(event) == "navigationStarted" for event in self.connection.since(mark)):
                self.connection.listen(deadline)

    def arrive(self, mark: int, limit: float, pending: bool = False) -> bool:
        """Wait for the end of a navigation that has started behind a mark of the connection (or is known to be `pending`), at most
        `limit` seconds: for its document, and for what that loads at most LOADING seconds. Whether it has loaded whole."""
        deadline, parsed_at = time.monotonic() + limit, 0.0
        while True:
            going = self._going(mark, pending)
            if going.closed or not going.pending:
                return True
            now = time.monotonic()
            parsed_at = (parsed_at or now) if going.parsed else 0.0
            until = min(deadline, parsed_at + LOADING) if parsed_at else deadline
            if now >= until:
                if parsed_at:
                    return False
                raise BrowserTimeout(f"waited {limit:g} s for the page to load: it did not come")
            try:
                self.connection.listen(until)
            except BrowserTimeout:
                continue

    def after_action(self, mark: int, limit: float) -> None:
        """Wait for the next frame, and for the end of a navigation that an action has started behind a mark."""
        pending = False
        try:
            self.connection.call(self.context, FRAME, limit=max(limit, ANSWERING))
        except DocumentGone:
            if self.closed:
                return
            self.call("() => document.readyState", deadline=time.monotonic() + limit)
        except BrowserTimeout:
            pending = self._going(mark, False).pending
            if not pending:
                raise
        self.arrive(mark, limit, pending)

    def go(self, by: int, limit: float) -> None:
        """Through the history, by so many pages. BrowserTimeout where there is none so far."""
        self._moves += 1
        token, deadline = f"{self._moves}-{time.monotonic_ns()}", time.monotonic() + limit
        with contextlib.suppress(DocumentGone):  # it was quick
            self.connection.call(self.context, _MOVE, by, token, limit=max(limit, ANSWERING))
        moved_at = 0.0
        while True:
            moved, state = self.call(_MOVED, token, deadline=deadline)
            now = time.monotonic()
            moved_at = (moved_at or now) if moved else 0.0
            if moved and (state == "complete" or (state == "interactive" and now - moved_at > LOADING)):
                return
            if now > deadline:
                where = "before" if by < 0 else "behind"
                raise BrowserTimeout(f"waited {limit:g} s for the page {where} this one: there is none, or it did not load")
            pause(AGAIN)
