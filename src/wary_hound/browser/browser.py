"""Live browsers: start one, open an address, capture what it shows."""

from __future__ import annotations

import time
from types import TracebackType
from typing import Any

from wary_hound.browser import capture as capturing
from wary_hound.browser.acting import Acting
from wary_hound.browser.dialogs import Dialog, Dialogs
from wary_hound.browser.launch import Launched, launch
from wary_hound.browser.protocol import Event
from wary_hound.errors import BrowserError, BrowserTimeout
from wary_hound.locator.evaluate import as_locator, match
from wary_hound.locator.values import Locator
from wary_hound.page import Page

LIMIT = 15.0
"""Seconds that a page may take to load and come to rest."""
QUIET = 250
"""Milliseconds without a change after which a page is at rest."""
VIEWPORT = (1280, 800)
EVENTS = [
    "browsingContext.userPromptOpened", "browsingContext.navigationStarted", "browsingContext.load",
    "browsingContext.fragmentNavigated", "browsingContext.navigationFailed",
]  # fmt: skip


class LivePage(Acting):
    """A page in a browser: seen by `capture`, acted on by `click`, `type` and the like. `limit`: seconds for each thing."""

    def __init__(self, browser: Browser, launched: Launched, context: str, limit: float = LIMIT) -> None:
        super().__init__(launched.connection, context, Dialogs(launched.connection, context), limit)
        self.browser = browser
        self._launched = launched

    @property
    def dialogs(self) -> tuple[Dialog, ...]:
        """The dialogs that this page has opened so far; those that were not expected have been dismissed."""
        return tuple(self._dialogs.seen)

    def close(self) -> None:
        """Close this page; the browser stays."""
        self._launched.connection.send("browsingContext.close", context=self.context)
        self.browser._pages.pop(self.context, None)

    def open(self, address: str) -> None:
        """Go to an address and wait until it has loaded and come to rest. BrowserTimeout says what was waited for."""
        deadline = time.monotonic() + self.limit
        try:
            self._launched.connection.send(
                "browsingContext.navigate",
                waited_for=f"{address} to finish loading (its load event)",
                limit=self.limit,
                context=self.context,
                url=address,
                wait="complete",
            )
        except BrowserTimeout:
            raise
        except BrowserError as error:
            raise BrowserError(f"{address} cannot be opened ({error})") from None
        self.settle(max(1.0, deadline - time.monotonic()))

    def settle(self, limit: float | None = None) -> bool:
        """Wait until nothing changes for QUIET milliseconds; False where it still does at the limit (seconds)."""
        seconds = self.limit if limit is None else limit
        return bool(
            self._launched.connection.call(
                self.context,
                capturing.script("settle.js"),
                {"type": "number", "value": QUIET},
                {"type": "number", "value": int(seconds * 1000)},
                waited_for="the page to come to rest",
                limit=seconds + 5,
            )
        )

    def capture(self) -> Page:
        """What the page shows now, all trees, as a `Page` with facts."""
        return self._taken().page

    def wait_for(self, locator: Locator | str) -> Page:
        """Capture until a locator matches, and give that page. BrowserTimeout, with what it matched, at the limit."""
        value = as_locator(locator)
        for taken in self._captures(time.monotonic() + self.limit):
            if match(taken.page, value):
                return taken.page
        raise BrowserTimeout(f"waited {self.limit:g} s for {value}: it matches nothing on {taken.page.url}")

    def screenshot(self) -> bytes:
        """The whole document as PNG."""
        return capturing.screenshot(self._launched.connection, self.context)

    def script(self, function: str, *arguments: Any) -> Any:
        """Call a JavaScript function in the page, with texts and numbers as arguments, and give its value."""
        local = [{"type": "string" if isinstance(a, str) else "number", "value": a} for a in arguments]
        return self._launched.connection.call(self.context, function, *local)


class Browser:
    """A running browser, best held by a `with` block; `close` leaves no process and no profile behind."""

    def __init__(self, launched: Launched, viewport: tuple[int, int], limit: float) -> None:
        self._launched = launched
        self._viewport = viewport
        self._limit = limit
        self._pages: dict[str, LivePage] = {}
        launched.connection.handlers["browsingContext.userPromptOpened"] = self._prompted
        launched.connection.send("session.subscribe", events=EVENTS)

    def _prompted(self, event: Event) -> None:
        page = self._pages.get(str(event.params.get("context"))) or next(reversed(self._pages.values()), None)
        if page is not None:
            page._dialogs.opened(event)

    @property
    def pages(self) -> tuple[LivePage, ...]:
        """All open pages, those that pages opened by themselves too, in the order of the browser."""
        for entry in self._launched.connection.send("browsingContext.getTree", maxDepth=0)["contexts"]:
            context = entry["context"]
            if context not in self._pages and entry["url"] != "about:blank":
                self._pages[context] = LivePage(self, self._launched, context, self._limit)
        return tuple(self._pages.values())

    @staticmethod
    def start(name: str = "chromium", viewport: tuple[int, int] = VIEWPORT, limit: float = LIMIT) -> Browser:
        """Start `chromium` or `firefox`, headless. `viewport` in CSS pixels, `limit` in seconds for each page.

        Raises BrowserError, with the install line, where the browser is not on the machine.
        """
        return Browser(launch(name, *viewport), viewport, limit)

    def open(self, address: str) -> LivePage:
        """A new page at an address, loaded and at rest."""
        connection = self._launched.connection
        context = connection.send("browsingContext.create", type="tab")["context"]
        width, height = self._viewport
        connection.send(
            "browsingContext.setViewport", context=context, viewport={"width": width, "height": height}, devicePixelRatio=1
        )
        page = self._pages[context] = LivePage(self, self._launched, context, self._limit)
        page.open(address)
        return page

    def close(self) -> None:
        self._launched.stop()

    def __enter__(self) -> Browser:
        return self

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None) -> None:
        self.close()
