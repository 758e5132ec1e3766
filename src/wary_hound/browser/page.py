"""The live page: what one tab of a browser shows, composed of its view, its targets, its requests and downloads."""

from __future__ import annotations

import contextlib
import json
import time
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Any, Literal

from wary_hound.browser import capture as capturing
from wary_hound.browser import keeping
from wary_hound.browser.acting import existing
from wary_hound.browser.dialogs import Dialog
from wary_hound.browser.downloads import Download, Downloading
from wary_hound.browser.keeping import Cookie
from wary_hound.browser.network import Request, Stub
from wary_hound.browser.picking import Picking
from wary_hound.browser.pretending import pretend
from wary_hound.browser.protocol import Event
from wary_hound.browser.reading import Reading
from wary_hound.browser.scripts import script
from wary_hound.browser.target import Target, Where
from wary_hound.browser.view import View
from wary_hound.browser.waiting import pause
from wary_hound.errors import BrowserError, BrowserGone, BrowserTimeout, DocumentGone, PageClosed
from wary_hound.healing.names import Healed, Healing, Known, by_another_way
from wary_hound.locator.evaluate import match
from wary_hound.page import Element, Page
from wary_hound.page.secrets import hidden_in, masked

if TYPE_CHECKING:
    from wary_hound.browser.browser import Browser

REST = 3.0
"""Seconds that a page which has loaded has to come to rest; then it is taken as it is."""
Until = Literal["parsed", "loaded", "rest"]


@dataclass(frozen=True, slots=True)
class Said:
    """What a page wrote into the browser's console, or an error of its scripts (`level` error, then)."""

    level: str
    text: str
    address: str = ""
    line: int = 0


class LivePage(Reading):
    """A page in a browser: seen by `capture`, acted on by `click`, `type` and the like. `limit`: seconds for each thing."""

    def __init__(self, browser: Browser, context: str, limit: float, user: str = "default") -> None:
        self._connection = browser._running.connection
        view = View(self._connection, context, browser._secrets)
        dialogs = browser._dialogs_of(context)
        touch = browser.phone is not None and browser.phone.touch
        super().__init__(view, Target(view, dialogs, limit), dialogs, touch)
        self.browser = browser
        self._user = user
        self._outlined: list[str] = []
        self._navigation: str | None = None

    # --- names --------------------------------------------------------------------------------------------------------

    @property
    def healed(self) -> tuple[Healed, ...]:
        """The uses of names so far whose locators were in trouble: a run that has any is not plainly green."""
        return tuple(self._target.healed)

    def know(self, names: Mapping[str, Known], healing: Healing = "propose") -> None:
        """From now on names stand for locators here. `healing`: what becomes of one whose locator does not find its element, or
        finds another as its witnesses agree: nothing is looked for (`off`); the error says where it is (`propose`); or it is acted
        on when that is sure (`sure`), which `healed` tells."""
        self._target.names, self._target.healing = dict(names), healing

    def elsewhere(self, where: Where, page: Page) -> Healed | None:
        """What is used, or would be, in the place of an element that its locator does not find on a page. `healed` tells it."""
        return self._target.elsewhere(where, page)

    # --- going --------------------------------------------------------------------------------------------------------

    def open(self, address: str, until: Until | str = "rest") -> None:
        """Go to an address, and wait until its document is `parsed`, has `loaded` (pictures and the like at most a few seconds), is
        at `rest` after that (REST seconds at most), or shows what a locator finds.

        `status` is then that of the answer. BrowserError where there is no page; BrowserTimeout says what was waited for.
        """
        deadline, mark = time.monotonic() + self.limit, self._connection.mark
        what = f"{masked(address)} to be there (its document)"
        try:
            send = self._connection.send
            answer = send("browsingContext.navigate", what, self.limit, context=self.context, url=address, wait="interactive")
            self._navigation = answer.get("navigation")
        except (BrowserTimeout, BrowserGone, PageClosed):
            raise
        except BrowserError as error:
            if not any(word in str(error) for word in ("ABORTED", "aborted", "cancel", "interrupt", "destroyed")):
                raise BrowserError(f"{masked(address)} cannot be opened ({hidden_in(str(error), (address,))})") from None
            self._navigation = None  # it went on to another one by itself, or is no page
            self._view.arrive(mark, max(1.0, deadline - time.monotonic()))
            if self.address() == "about:blank":
                raise BrowserError(f"{masked(address)} shows no page: a download, or an empty answer") from None
        if until == "parsed":
            return
        self._view.arrive(mark, max(1.0, deadline - time.monotonic()))
        if until == "rest":
            self._view.settle(min(REST, max(1.0, deadline - time.monotonic())))
        elif until != "loaded":
            self.wait_for(until)

    @property
    def status(self) -> int:
        """The status (HTTP) of the answer that this page came with; 0 where there is none."""
        return self.browser.network.status_of(self.context, self._navigation)

    def to_front(self) -> None:
        """Put this page before the others of its browser, where a window shows one at a time."""
        self._connection.send("browsingContext.activate", context=self.context)
        self.browser._front = self.context

    def _to_front_for_input(self) -> None:
        if self.browser._front != self.context and not self.closed:
            with contextlib.suppress(DocumentGone):
                self.to_front()

    def close(self) -> None:
        """Close this page; the browser stays."""
        if not self._view.closed:
            with contextlib.suppress(DocumentGone):  # told before the answer
                self._connection.send("browsingContext.close", context=self.context)
        self.browser._forget(self.context)

    @property
    def closed(self) -> bool:
        """Whether it has been closed, by itself or by somebody."""
        return self._view.closed

    def resize(self, width: int, height: int, zoom: float = 1.0) -> None:
        """Give the page this much room, in CSS pixels of a page that is not zoomed."""
        size = {"width": round(width / zoom), "height": round(height / zoom)}
        self._connection.send("browsingContext.setViewport", context=self.context, viewport=size, devicePixelRatio=zoom)

    def pretend(
        self,
        *,
        language: str | None = None,
        time_zone: str | None = None,
        place: tuple[float, float] | None = None,
        offline: bool | None = None,
        dark: bool | None = None,
        permissions: Mapping[str, str] | None = None,
    ) -> None:
        """Tell the page of another `language` (`de-DE`), `time_zone` (`Asia/Tokyo`), `place` (latitude and longitude in degrees),
        that it is `offline`, that its user likes it `dark`, and of `permissions` (name: granted, denied or prompt). NotSupported
        where this browser cannot."""
        origin = "" if not (place or permissions) else str(self._view.call("() => location.origin", deadline=self._target.deadline))
        pretend(
            self._connection, self.context, origin, language=language, time_zone=time_zone, place=place, offline=offline, dark=dark,
            permissions=permissions or {},
        )  # fmt: skip

    # --- seeing -------------------------------------------------------------------------------------------------------

    def settle(self, limit: float | None = None) -> bool:
        """Wait until nothing changes for a quarter of a second; False where it still does at the limit (seconds)."""
        return self._view.settle(self.limit if limit is None else limit)

    def _taken(self) -> capturing.Capture:
        return self._view.taken(self._target.deadline, fresh=True)

    def capture(self) -> Page:
        """What the page shows now, all trees, as a `Page` with facts."""
        return self._taken().page

    def wait_for(self, locator: Where) -> Page:
        """Capture until a locator matches, and give that page. BrowserTimeout, with what it matched, at the limit."""
        value = self._target.meant(locator)
        first = value.alternatives[0]
        page, there = self.until(lambda page: bool(match(page, first)))
        other = None if there else by_another_way(str(locator), value, page)
        if other is not None:
            self._target.healed.append(other)
        if there or other is not None:
            return page
        raise self._target.failed(f"waited {self.limit:g} s for {value} on {page.url}; at the end:", page, value)

    def until(self, holds: Callable[[Page], bool]) -> tuple[Page, bool]:
        """Capture until something holds of the page; that page and True, or the last one and False at the limit."""
        return self._target.until(holds)

    def find(self, locator: Where) -> Element:
        """The one element, of a capture; waited for as before an action. BrowserTimeout, with what came near, at the limit."""
        taken, index = self._target.sole(locator, self._target.deadline)
        return taken.page[index]

    def find_all(self, locator: Where) -> list[Element]:
        """All elements that match now, in page order, of one capture; not waited for."""
        return self.capture().find_all(self._target.meant(locator))

    def outline(self, locator: Where) -> list[Element]:
        """Outline and number on the page what a locator matches now, until `outline_off`; pictures show it too. Gives the
        elements; those that are not shown have no outline. What was outlined before no longer is."""
        self.outline_off()
        taken = self._taken()
        matched = match(taken.page, self._target.meant(locator))
        by_context: dict[str, list[tuple[int, str]]] = {}
        for number, index in enumerate(matched, 1):
            context, at = taken.places[index]
            by_context.setdefault(context, []).append((at, str(number)))
        for context, marks in by_context.items():
            self._connection.call(context, script("draw.js"), json.dumps(marks))
        self._outlined = list(by_context)
        return [taken.page[index] for index in matched]

    def outline_one(self, where: Where) -> bool:
        """The same of one element that is there now, brought into view, without a number and on no more of the page than tells
        which it is; False where there is not exactly one."""
        self.outline_off()
        found = self._target.at_once(where)
        if found is None:
            return False
        context, node = found
        self._connection.call(context, script("draw.js"), '[[0, ""]]', node)
        self._outlined = [context]
        return True

    def outline_off(self) -> None:
        """Take the outlines away."""
        for context in self._outlined:
            with contextlib.suppress(BrowserError):  # a frame that has gone has no outlines
                self._connection.call(context, script("draw.js"), "[]")
        self._outlined = []

    def picking(self) -> Picking:
        """Let a person point at elements of this page and take them: see `Picking`. The browser should have a window."""
        return Picking(self)

    def script(self, function: str, *arguments: Any) -> Any:
        """Call a JavaScript function in the page, with texts and numbers as arguments, and give its value."""
        self._view.drawn(self._target.deadline)
        return self._connection.call(self.context, function, *arguments)

    # --- what it does beside ------------------------------------------------------------------------------------------

    @property
    def dialogs(self) -> tuple[Dialog, ...]:
        """The dialogs that this page has opened so far; those that were not expected have been dismissed."""
        return tuple(self._dialogs.seen)

    def _listened(self) -> None:
        """Take in what the browser has told so far."""
        if not self.closed:
            self._connection.call_if_there(self.context, "() => 1")

    @property
    def console(self) -> tuple[Said, ...]:
        """What the page has written into the console so far, errors of its scripts among it."""
        return self._so_far()[1]

    @property
    def requests(self) -> tuple[Request, ...]:
        """What the page, its frames and scripts have asked servers for so far."""
        return self._so_far()[0]

    def _so_far(self) -> tuple[tuple[Request, ...], tuple[Said, ...]]:
        """Requests and console, of one moment."""
        self._listened()
        return tuple(self.browser.network.requests.get(self.context, ())), tuple(self.browser._console.get(self.context, ()))

    def until_asked(self, pattern: str, method: str = "", status: int = 0) -> Request:
        """Wait for a request to an address like this (a whole one, or a path of the page's own host; `*` is anything), and for its
        answer; one that came already counts. BrowserTimeout says which came."""

        def answer() -> Request | None:
            host = self.browser.network.host_of(self.context)
            fitting = [r for r in self.requests if r.is_like(pattern, method, host) and (r.status or r.error)]
            return next((r for r in fitting if not status or r.status == status), None)

        def told() -> str:
            like = [str(r) for r in self.requests if r.is_like(pattern)] or [str(r) for r in self.requests[-3:]]
            return "; ".join(like) or "none at all"

        wanted = (
            f"a request {f'by {method.upper()} ' if method else ''}to {masked(pattern)}{f' with status {status}' if status else ''}"
        )
        deadline = self._target.deadline
        while (request := answer()) is None:
            if time.monotonic() > deadline:
                raise BrowserTimeout(f"waited {self.limit:g} s for {wanted}; there was {told()}")
            pause(0.05)
        return request

    def stub(
        self,
        pattern: str,
        body: str | bytes = b"",
        *,
        method: str = "",
        status: int = 200,
        headers: Mapping[str, str] | None = None,
        fails: bool = False,
        delay: float = 0.0,
    ) -> Stub:
        """From now on requests of this page to an address like this (a whole one, or a path of the page's own host; `*` is
        anything) are answered by this, or fail as if there were no network, after `delay` seconds. With a delay alone they are
        let through late. It works while this page is being asked or waited for; call `remove()` of what is given to end it."""
        content = body.encode() if isinstance(body, str) else body
        kinds = (
            headers if headers is not None else {"Content-Type": "text/plain; charset=utf-8", "Access-Control-Allow-Origin": "*"}
        )
        passes = bool(delay) and not fails and not content and status == 200 and headers is None
        made = Stub(pattern, method, status, content, kinds, fails, passes, delay)
        return self.browser.network.stub(self.context, made)

    def withhold(self, pattern: str, method: str = "") -> Stub:
        """From now on requests like this fail and are not in `requests`, as if the page had never sent them: to see who notices."""
        return self.browser.network.stub(self.context, Stub(pattern, method, 0, b"", {}, True, False, 0.0, withholds=True))

    @property
    def downloads(self) -> tuple[Download, ...]:
        """The files that this page has handed out so far."""
        self._listened()
        return tuple(self.browser._downloads.by_page.get(self.context, ()))

    def downloading(self) -> Downloading:
        """For a `with` block in which a download begins: see `Downloading`."""
        return Downloading(self.browser._downloads.by_page.setdefault(self.context, []), self._connection.listen, self.limit)

    @contextlib.contextmanager
    def giving(self, *files: str | Path) -> Iterator[None]:
        """For a `with` block in which the page asks for files by a prompt of the browser's: it is given these. BrowserError where
        it did not ask."""
        paths = existing(files)
        asked: list[Event] = []

        def opened(event: Event) -> None:
            if event.params.get("element") and not asked:
                asked.append(event)
                element = {"sharedId": event.params["element"]["sharedId"]}
                self._connection.post("input.setFiles", context=event.params["context"], element=element, files=paths)

        off = self._connection.on("input.fileDialogOpened", opened)
        self._connection.send("session.subscribe", events=["input.fileDialogOpened"])
        deadline = self._target.deadline
        try:
            yield
            while not asked and time.monotonic() < deadline:
                self._listened()
                pause(0.05)
        finally:
            off()
        if not asked:
            raise BrowserError("the page was to ask for files, but did not")
        self._listened()

    # --- who it is for ------------------------------------------------------------------------------------------------

    @property
    def cookies(self) -> tuple[Cookie, ...]:
        """The cookies of the user whose page this is."""
        return keeping.cookies_of(self._connection, self.context)

    def set_cookie(self, name: str, value: str, **fields: Any) -> None:
        """Set a cookie, of this page's host where no `domain` is given; other fields as in `Cookie`."""
        domain = fields.pop("domain", None) or str(self._view.call("() => location.hostname", deadline=self._target.deadline))
        keeping.set_cookie(self._connection, self._user, Cookie(name, value, domain, **fields))

    def storage(self, session: bool = False) -> dict[str, str]:
        """The page's local storage, or that of the session."""
        _, local, of_session = keeping.stored(self._connection, self.context)
        return of_session if session else local

    def keep(self, path: str | Path) -> None:
        """Write cookies and local storage into a file, for `browser.open(address, kept=path)`. It holds what signs a user in: only
        its owner can read it, and it belongs in no repository."""
        keeping.keep(self._connection, self.context, Path(path))
