"""Live browsers: start one, open an address, capture what it shows."""

from __future__ import annotations

import contextlib
import json
import time
from collections.abc import Callable, Mapping
from pathlib import Path
from types import TracebackType
from typing import Any, Protocol

from wary_hound.browser import capture as capturing
from wary_hound.browser.acting import Acting
from wary_hound.browser.dialogs import Dialog, Dialogs
from wary_hound.browser.launch import Joined, Launch, Running, join, launch
from wary_hound.browser.phone import Phone
from wary_hound.browser.picking import Picking
from wary_hound.browser.protocol import Event
from wary_hound.errors import BrowserError, BrowserTimeout
from wary_hound.healing.names import Healing, Known, by_another_way
from wary_hound.locator.evaluate import match
from wary_hound.locator.values import Locator
from wary_hound.page import Element, Page
from wary_hound.page.secrets import ORDINARY, Secrets, hidden_in, masked

LIMIT = 15.0
"""Seconds that a page may take to load and come to rest."""
QUIET = 250
"""Milliseconds without a change after which a page is at rest."""
VIEWPORT = (1280, 800)
EVENTS = [
    "browsingContext.userPromptOpened", "browsingContext.navigationStarted", "browsingContext.load",
    "browsingContext.fragmentNavigated", "browsingContext.navigationFailed",
]  # fmt: skip


class Named(Protocol):
    """What gives names to elements: a book."""

    def known(self) -> Mapping[str, Known]:
        """What is known of each, by name."""


class LivePage(Acting):
    """A page in a browser: seen by `capture`, acted on by `click`, `type` and the like. `limit`: seconds for each thing."""

    def __init__(self, browser: Browser, context: str, limit: float = LIMIT) -> None:
        connection = browser._running.connection
        touch = browser.phone is not None and browser.phone.touch
        super().__init__(connection, context, Dialogs(connection, context), limit, touch, browser._secrets)
        self.browser = browser
        self._outlined: list[str] = []

    @property
    def dialogs(self) -> tuple[Dialog, ...]:
        """The dialogs that this page has opened so far; those that were not expected have been dismissed."""
        return tuple(self._dialogs.seen)

    def to_front(self) -> None:
        """Put this page before the others of its browser, where a window shows one at a time."""
        self._connection.send("browsingContext.activate", context=self.context)

    def close(self) -> None:
        """Close this page; the browser stays."""
        self._connection.send("browsingContext.close", context=self.context)
        self.browser._forget(self.context)

    def open(self, address: str) -> None:
        """Go to an address and wait until it has loaded and come to rest. BrowserTimeout says what was waited for."""
        deadline = time.monotonic() + self.limit
        try:
            self._connection.send(
                "browsingContext.navigate",
                waited_for=f"{masked(address)} to finish loading (its load event)",
                limit=self.limit,
                context=self.context,
                url=address,
                wait="complete",
            )
        except BrowserTimeout:
            raise
        except BrowserError as error:
            raise BrowserError(f"{masked(address)} cannot be opened ({hidden_in(str(error), (address,))})") from None
        self.settle(max(1.0, deadline - time.monotonic()))

    def settle(self, limit: float | None = None) -> bool:
        """Wait until nothing changes for QUIET milliseconds; False where it still does at the limit (seconds)."""
        seconds = self.limit if limit is None else limit
        return bool(
            self._connection.call(
                self.context,
                capturing.script("settle.js"),
                QUIET,
                int(seconds * 1000),
                waited_for="the page to come to rest",
                limit=seconds + 5,
            )
        )

    def capture(self) -> Page:
        """What the page shows now, all trees, as a `Page` with facts."""
        return self._taken().page

    def wait_for(self, locator: Locator | str) -> Page:
        """Capture until a locator matches, and give that page. BrowserTimeout, with what it matched, at the limit."""
        value = self._meant(locator)
        first = value.alternatives[0]
        page, there = self.until(lambda page: bool(match(page, first)))
        other = None if there else by_another_way(str(locator), value, page)
        if other is not None:
            self._healed.append(other)
        if there or other is not None:
            return page
        raise self._failed(f"waited {self.limit:g} s for {value} on {page.url}; at the end:", page, value)

    def until(self, holds: Callable[[Page], bool]) -> tuple[Page, bool]:
        """Capture until something holds of the page; that page and True, or the last one and False at the limit."""
        for taken in self._captures(time.monotonic() + self.limit):
            if holds(taken.page):
                return taken.page, True
            if self._guarded(taken.page):
                taken = self._taken()
                if holds(taken.page):
                    return taken.page, True
        return taken.page, False

    def find(self, locator: Locator | str) -> Element:
        """The one element, of a capture; waited for as before an action. BrowserTimeout, with what came near, at the limit."""
        taken, found = self._sole(locator, time.monotonic() + self.limit)
        return taken.page[found]

    def find_all(self, locator: Locator | str) -> list[Element]:
        """All elements that match now, in page order, of one capture; not waited for."""
        return self.capture().find_all(self._meant(locator))

    def outline(self, locator: Locator | str) -> list[Element]:
        """Outline and number on the page what a locator matches now, until `outline_off`; pictures show it too. Gives the
        elements; those that are not shown have no outline. What was outlined before no longer is."""
        self.outline_off()
        taken = self._taken()
        found = match(taken.page, self._meant(locator))
        by_context: dict[str, list[tuple[int, str]]] = {}
        for number, index in enumerate(found, 1):
            context, at = taken.places[index]
            by_context.setdefault(context, []).append((at, str(number)))
        for context, marks in by_context.items():
            self._connection.call(context, capturing.script("draw.js"), json.dumps(marks))
        self._outlined = list(by_context)
        return [taken.page[index] for index in found]

    def outline_off(self) -> None:
        """Take the outlines away."""
        for context in self._outlined:
            with contextlib.suppress(BrowserError):  # a frame that has gone has no outlines
                self._connection.call(context, capturing.script("draw.js"), "[]")
        self._outlined = []

    def picking(self) -> Picking:
        """Let a person point at elements of this page and take them: see `Picking`. The browser should have a window."""
        return Picking(self)

    def screenshot(self) -> bytes:
        """The whole document as PNG."""
        return capturing.screenshot(self._connection, self.context)

    def script(self, function: str, *arguments: Any) -> Any:
        """Call a JavaScript function in the page, with texts and numbers as arguments, and give its value."""
        return self._connection.call(self.context, function, *arguments)


class Browser:
    """A running browser, best held by a `with` block; `close` leaves no process and no profile behind."""

    def __init__(
        self,
        running: Running,
        viewport: tuple[int, int] | None,
        limit: float,
        phone: Phone | None = None,
        window: bool = False,
        secrets: Secrets = ORDINARY,
    ) -> None:
        self._running = running
        self._viewport = viewport
        self._limit = limit
        self.phone = phone
        self._window = window
        self._secrets = secrets
        self._pages: dict[str, LivePage] = {}
        self._opened: list[str] = []
        running.connection.handlers["browsingContext.userPromptOpened"] = self._prompted
        running.connection.send("session.subscribe", events=EVENTS)

    @staticmethod
    def start(
        name: str = "chromium",
        viewport: tuple[int, int] = VIEWPORT,
        limit: float = LIMIT,
        *,
        window: bool = False,
        phone: Phone | None = None,
        program: str | Path = "",
        secrets: Secrets = ORDINARY,
    ) -> Browser:
        """Start `chromium` or `firefox`, headless, or with a `window` that can be seen.

        `viewport` in CSS pixels, `limit` in seconds for each thing that a page is waited for. A `phone` is emulated, with its
        own viewport. `program`: the browser's, where it is not the one on the path. `secrets`: what captures leave out. Raises
        BrowserError, with the install line, where the browser is not on the machine.
        """
        size = (phone.width, phone.height) if phone else viewport
        running = launch(name, Launch(*size, window=window, touch=phone is not None and phone.touch, program=str(program)))
        try:
            return Browser(running, None if window and not phone else size, limit, phone, window, secrets)
        except BaseException:
            running.stop()
            raise

    @staticmethod
    def join(address: str, limit: float = LIMIT) -> Browser:
        """Join a browser that runs already, at the address of its BiDi endpoint (`ws://127.0.0.1:9222/session`). Its own pages
        are in `pages`; `close` closes those that were opened here, and leaves the browser. BrowserError where nothing answers.
        """
        return Browser(join(address), None, limit)

    def _prompted(self, event: Event) -> None:
        page = self._pages.get(str(event.params.get("context"))) or next(reversed(self._pages.values()), None)
        if page is not None:
            page._dialogs.opened(event)

    @property
    def pages(self) -> tuple[LivePage, ...]:
        """All open pages, those that pages opened by themselves too, in the order in which they were first seen."""
        entries = self._running.connection.send("browsingContext.getTree", maxDepth=0)["contexts"]
        for context in set(self._pages) - {entry["context"] for entry in entries}:
            self._forget(context)  # closed by itself, or by somebody else
        for entry in entries:
            context = entry["context"]
            if context not in self._pages and entry["url"] != "about:blank":
                self._pages[context] = LivePage(self, context, self._limit)
        return tuple(self._pages.values())

    def open(self, address: str, book: Named | None = None, healing: Healing = "propose") -> LivePage:
        """A new page at an address, loaded and at rest. With a book its names stand for locators there: see `LivePage.know`."""
        context = self._blank() or self._running.connection.send("browsingContext.create", type="tab")["context"]
        page = self._pages[context] = LivePage(self, context, self._limit)
        self._opened.append(context)
        self._shape(context)
        if book is not None:
            page.know(book.known(), healing)
        page.open(address)
        return page

    def _blank(self) -> str | None:
        """The empty page that a window starts with: whoever looks on expects no second one beside it."""
        if not self._window or self._opened:
            return None
        entries = self._running.connection.send("browsingContext.getTree", maxDepth=0)["contexts"]
        return next((str(entry["context"]) for entry in entries if entry["url"] == "about:blank"), None)

    def _forget(self, context: str) -> None:
        self._pages.pop(context, None)
        if context in self._opened:
            self._opened.remove(context)

    def _shape(self, context: str) -> None:
        """Give a page the size that was asked for, and the ways of a phone."""
        connection, phone = self._running.connection, self.phone
        if self._viewport is not None:
            width, height = self._viewport
            size = {"width": width, "height": height}
            ratio = phone.ratio if phone else 1
            connection.send("browsingContext.setViewport", context=context, viewport=size, devicePixelRatio=ratio)
        if phone is None:
            return
        agent = phone.agent_of(str(connection.call(context, "() => navigator.userAgent")))
        connection.send("emulation.setUserAgentOverride", contexts=[context], userAgent=agent)
        if phone.touch:
            with contextlib.suppress(BrowserError):  # Firefox has no such command: it was started for touch
                connection.send("emulation.setTouchOverride", contexts=[context], maxTouchPoints=5)

    def close(self) -> None:
        """Close all that was opened, and the browser where it was started here."""
        if isinstance(self._running, Joined):
            for context in self._opened:
                with contextlib.suppress(BrowserError):
                    self._running.connection.send("browsingContext.close", context=context, limit=5)
        self._running.stop()

    def __enter__(self) -> Browser:
        return self

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None) -> None:
        self.close()
