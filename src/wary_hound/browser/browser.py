"""Live browsers: start one, open addresses, as one user or several."""

from __future__ import annotations

import contextlib
import time
from abc import ABC, abstractmethod
from collections import deque
from collections.abc import Mapping
from pathlib import Path
from types import TracebackType
from typing import Protocol

from wary_hound.browser import downloads, keeping, network
from wary_hound.browser.chromium import Chromium
from wary_hound.browser.dialogs import Dialogs
from wary_hound.browser.downloads import Downloads
from wary_hound.browser.launch import Joined, Launch, Launched, Running, join, launch
from wary_hound.browser.network import Network
from wary_hound.browser.page import LivePage, Said, Until
from wary_hound.browser.phone import Phone
from wary_hound.browser.protocol import Event, contexts_of
from wary_hound.browser.reading import EVERY, address_pattern
from wary_hound.browser.waiting import pause
from wary_hound.errors import BrowserError, BrowserTimeout, NotSupported
from wary_hound.healing.names import Healing, Known
from wary_hound.page.secrets import ORDINARY, Secrets

LIMIT = 15.0
"""Seconds that a page may take to load and come to rest."""
VIEWPORT = (1280, 800)
EVENTS = [
    "browsingContext.userPromptOpened", "browsingContext.navigationStarted", "browsingContext.domContentLoaded",
    "browsingContext.load", "browsingContext.fragmentNavigated", "browsingContext.navigationFailed",
    "browsingContext.contextCreated", "browsingContext.contextDestroyed", "log.entryAdded", "script.message",
]  # fmt: skip
WHERE_THERE = ["browsingContext.navigationAborted"]
"""Events that not every browser has."""
MOST_SAID = 5_000
MOST_CLOSED = 200
"""Of so many pages and frames that have gone it is kept what they asked for and said, for whoever looks into a failure."""
WAKING = 1.5
"""Seconds that a page which a script opened has to answer."""
ARRIVING = 3.0
"""Seconds that a page which another opened may stay empty before it is given as it is."""


class Named(Protocol):
    """What gives names to elements: a book."""

    def known(self) -> Mapping[str, Known]:
        """What is known of each, by name."""


class Opener(ABC):
    """Who opens pages in a browser: its first user, or another one."""

    _name = "default"

    @abstractmethod
    def _browser(self) -> Browser: ...

    def open(
        self,
        address: str,
        book: Named | None = None,
        healing: Healing = "propose",
        *,
        until: Until | str = "rest",
        kept: str | Path | None = None,
    ) -> LivePage:
        """A new page at an address; `until`: what is waited for, as in `LivePage.open`. With a book its names stand for locators
        there: see `LivePage.know`. `kept`: a file of `page.keep`, whose cookies and storage the page's user then has."""
        return self._browser()._open(self._name, address, book, healing, until, kept)


class Browser(Opener):
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
        self._dialogs: dict[str, Dialogs] = {}
        self._console: dict[str, list[Said]] = {}
        self._closed: deque[str] = deque()
        self.answers_dialogs = True
        self._front = ""
        connection = running.connection
        self.network = Network(connection)
        self._downloads = Downloads(connection)
        self._chromium = Chromium(connection)
        connection.on("browsingContext.userPromptOpened", self._prompted)
        connection.on("log.entryAdded", self._logged)
        connection.on("browsingContext.contextCreated", self._came)
        connection.on("browsingContext.contextDestroyed", self._went)
        connection.send("session.subscribe", events=[*EVENTS, *network.EVENTS, *downloads.EVENTS])
        for event in WHERE_THERE:
            with contextlib.suppress(BrowserError):
                connection.send("session.subscribe", events=[event])
        if isinstance(running, Launched):
            folder = running.folder / "downloads"
            folder.mkdir(exist_ok=True)
            with contextlib.suppress(NotSupported):
                behaviour = {"type": "allowed", "destinationFolder": str(folder)}
                connection.send("browser.setDownloadBehavior", downloadBehavior=behaviour)

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

    def _browser(self) -> Browser:
        return self

    def _dialogs_of(self, context: str) -> Dialogs:
        return self._dialogs.setdefault(context, Dialogs(self._running.connection))

    def _prompted(self, event: Event) -> None:
        self._dialogs_of(str(event.params.get("context"))).opened(event, self.answers_dialogs)

    def _came(self, event: Event) -> None:
        if not event.params.get("parent"):
            self._front = str(event.params.get("context"))

    def _went(self, event: Event) -> None:
        self._closed.extend(contexts_of(event.params))
        while len(self._closed) > MOST_CLOSED:
            context = self._closed.popleft()
            self._dialogs.pop(context, None)
            self._console.pop(context, None)
            self.network.drop(context)
            self._chromium.drop(context)

    def _logged(self, event: Event) -> None:
        said = event.params
        frames = (said.get("stackTrace") or {}).get("callFrames") or [{}]
        line = int(frames[0].get("lineNumber", -1)) + 1
        made = Said(str(said.get("level", "")), str(said.get("text") or ""), str(frames[0].get("url", "")), line)
        log = self._console.setdefault(str((said.get("source") or {}).get("context")), [])
        log.append(made)
        del log[:-MOST_SAID]

    @property
    def pages(self) -> tuple[LivePage, ...]:
        """All open pages, those that pages opened by themselves too, in the order in which they were first seen."""
        entries = self._running.connection.send("browsingContext.getTree", maxDepth=0)["contexts"]
        entries = [entry for entry in entries if not self._running.connection.has_gone(entry["context"])]
        for context in set(self._pages) - {entry["context"] for entry in entries}:
            self._forget(context)  # closed by itself, or by somebody else, or its process has died
        for entry in entries:
            context = entry["context"]
            opened = entry.get("originalOpener") is not None
            if context not in self._pages and (opened or entry["url"] != "about:blank"):
                self._pages[context] = LivePage(self, context, self._limit)
                self._chromium.watch(context)
                if opened:
                    self._wake(context)
                    self._arrived(context)
        return tuple(self._pages.values())

    def page(self, address: str, limit: float | None = None) -> LivePage:
        """The open page at an address, waited for up to `limit` seconds; of several the one that came last. An address is a whole
        one or a path that it ends in, with `*` for anything. BrowserTimeout, with the addresses that are open, where none comes.
        """
        wanted, limit = address_pattern(address), self._limit if limit is None else limit
        deadline = time.monotonic() + limit
        while True:
            there = [(page, page.address()) for page in self.pages]
            if fitting := [page for page, at in there if wanted.search(at)]:
                return fitting[-1]
            if time.monotonic() > deadline:
                raise BrowserTimeout(f"waited {limit:g} s for a page at {address}; open are {', '.join(at for _, at in there)}")
            pause(EVERY)

    def _wake(self, context: str) -> None:
        """Chromium's end of the protocol sometimes does not answer for a page that a script opened, until that is loaded again."""
        with contextlib.suppress(BrowserError):
            try:
                self._running.connection.call(context, "() => 1", limit=WAKING)
            except BrowserTimeout:
                self._running.connection.send("browsingContext.reload", context=context, wait="interactive", limit=self._limit)

    def _arrived(self, context: str) -> None:
        """A page that another opened is empty until its address is gone to, or something is written into it: wait for that."""
        empty = "() => location.href === 'about:blank' && !document.body?.childNodes.length"
        deadline = time.monotonic() + ARRIVING
        while self._running.connection.call_if_there(context, empty) and time.monotonic() < deadline:
            pause(EVERY)

    def user(self) -> User:
        """Another user of this browser, with cookies and storage of its own; for a `with` block, or until it is closed."""
        answer = self._running.connection.send("browser.createUserContext")
        return User(self, str(answer["userContext"]))

    def sign_in(self, user: str, password: str, host: str = "") -> None:
        """Answer servers that ask for a name and a password (HTTP authentication): those of one host, or all."""
        self.network.sign_in(user, password, host)

    def _open(
        self, user: str, address: str, book: Named | None, healing: Healing, until: Until | str, kept: str | Path | None
    ) -> LivePage:
        connection = self._running.connection
        restored = keeping.kept(Path(kept)) if kept is not None else None
        blank = self._blank() if user == "default" else None
        context = blank or str(connection.send("browsingContext.create", type="tab", userContext=user)["context"])
        page = self._pages[context] = LivePage(self, context, self._limit, user)
        self._chromium.watch(context)
        self._opened.append(context)
        self._shape(context)
        if book is not None:
            page.know(book.known(), healing)
        preload = None
        if restored is not None:
            cookies, storage = restored
            for cookie in cookies:
                keeping.set_cookie(connection, user, cookie)
            if storage:
                function = keeping.restoring(storage)
                preload = connection.send("script.addPreloadScript", functionDeclaration=function, contexts=[context])["script"]
        try:
            page.open(address, until)
        finally:
            if preload is not None:
                with contextlib.suppress(BrowserError):
                    connection.send("script.removePreloadScript", script=preload)
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


class User(Opener):
    """One of several users of a browser: its pages share cookies and storage with each other, and with nobody else."""

    def __init__(self, browser: Browser, name: str) -> None:
        self.browser = browser
        self._name = name

    def _browser(self) -> Browser:
        return self.browser

    def close(self) -> None:
        """Close its pages and forget its cookies and storage."""
        with contextlib.suppress(BrowserError):
            self.browser._running.connection.send("browser.removeUserContext", userContext=self._name)

    def __enter__(self) -> User:
        return self

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None) -> None:
        self.close()
