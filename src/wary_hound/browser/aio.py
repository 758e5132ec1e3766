"""The same for asyncio: each call is awaited, and gives way to other tasks wherever it waits for the browser.

async with AsyncBrowser.start("firefox") as browser:
    page = await browser.open(address)
    await page.click("css{#hold}")
"""

from __future__ import annotations

import functools
from collections.abc import AsyncIterator, Awaitable, Callable, Mapping
from contextlib import asynccontextmanager
from pathlib import Path
from types import TracebackType
from typing import Any, Concatenate, ParamSpec, TypeVar

from wary_hound.browser.browser import Browser, User
from wary_hound.browser.dialogs import Dialog, Kind
from wary_hound.browser.downloads import Download, Downloading
from wary_hound.browser.keeping import Cookie
from wary_hound.browser.network import Request
from wary_hound.browser.page import LivePage, Said
from wary_hound.browser.target import Guard, Where
from wary_hound.browser.waiting import spawned
from wary_hound.healing.names import Healed, Healing, Known

P = ParamSpec("P")
T = TypeVar("T")


def _awaited(method: Callable[Concatenate[LivePage, P], T]) -> Callable[Concatenate[AsyncPage, P], Awaitable[T]]:
    """The method of the blocking page, as a coroutine."""

    @functools.wraps(method)
    def called(page: AsyncPage, /, *arguments: P.args, **named: P.kwargs) -> Awaitable[T]:
        return spawned(functools.partial(method, page.blocking, *arguments, **named))

    return called


def _giving_page(
    method: Callable[Concatenate[Any, P], LivePage],
) -> Callable[Concatenate[AsyncBrowser | AsyncUser, P], Awaitable[AsyncPage]]:
    """The same of a method of a browser or one of its users that gives a page."""

    @functools.wraps(method)
    async def called(owner: AsyncBrowser | AsyncUser, /, *arguments: P.args, **named: P.kwargs) -> AsyncPage:
        return owner._page(await spawned(functools.partial(method, owner.blocking, *arguments, **named)))

    return called


class AsyncPage:
    """A live page; see `LivePage`, which is in `blocking`. A call that is cancelled ends at once; the page can be asked on."""

    def __init__(self, blocking: LivePage) -> None:
        self.blocking = blocking

    open = _awaited(LivePage.open)
    to_front = _awaited(LivePage.to_front)
    close = _awaited(LivePage.close)
    settle = _awaited(LivePage.settle)
    capture = _awaited(LivePage.capture)
    wait_for = _awaited(LivePage.wait_for)
    until = _awaited(LivePage.until)
    elsewhere = _awaited(LivePage.elsewhere)
    find = _awaited(LivePage.find)
    find_all = _awaited(LivePage.find_all)
    outline = _awaited(LivePage.outline)
    outline_one = _awaited(LivePage.outline_one)
    outline_off = _awaited(LivePage.outline_off)
    screenshot = _awaited(LivePage.screenshot)
    script = _awaited(LivePage.script)
    click = _awaited(LivePage.click)
    double_click = _awaited(LivePage.double_click)
    right_click = _awaited(LivePage.right_click)
    hover = _awaited(LivePage.hover)
    drag = _awaited(LivePage.drag)
    scroll_to = _awaited(LivePage.scroll_to)
    scroll_by = _awaited(LivePage.scroll_by)
    type = _awaited(LivePage.type)
    clear = _awaited(LivePage.clear)
    keys = _awaited(LivePage.keys)
    choose = _awaited(LivePage.choose)
    tick = _awaited(LivePage.tick)
    untick = _awaited(LivePage.untick)
    upload = _awaited(LivePage.upload)
    back = _awaited(LivePage.back)
    forward = _awaited(LivePage.forward)
    add = _awaited(LivePage.add)
    unchoose = _awaited(LivePage.unchoose)
    state = _awaited(LivePage.state)
    style = _awaited(LivePage.style)
    until_shown = _awaited(LivePage.until_shown)
    until_hidden = _awaited(LivePage.until_hidden)
    until_gone = _awaited(LivePage.until_gone)
    until_counts = _awaited(LivePage.until_counts)
    until_reads = _awaited(LivePage.until_reads)
    until_holds = _awaited(LivePage.until_holds)
    until_address = _awaited(LivePage.until_address)
    until_asked = _awaited(LivePage.until_asked)
    address = _awaited(LivePage.address)
    title = _awaited(LivePage.title)
    picture = _awaited(LivePage.picture)
    view = _awaited(LivePage.view)
    pdf = _awaited(LivePage.pdf)
    resize = _awaited(LivePage.resize)
    pretend = _awaited(LivePage.pretend)
    stub = _awaited(LivePage.stub)
    withhold = _awaited(LivePage.withhold)
    storage = _awaited(LivePage.storage)
    keep = _awaited(LivePage.keep)
    reload = _awaited(LivePage.reload)

    @property
    def context(self) -> str:
        """The page's name in the protocol."""
        return self.blocking.context

    @property
    def limit(self) -> float:
        """Seconds for each thing that is waited for."""
        return self.blocking.limit

    @limit.setter
    def limit(self, seconds: float) -> None:
        self.blocking.limit = seconds

    @property
    def status(self) -> int:
        """The status of the answer that this page came with; see `LivePage.status`."""
        return self.blocking.status

    @property
    def closed(self) -> bool:
        """Whether it has been closed."""
        return self.blocking.closed

    def console(self) -> Awaitable[tuple[Said, ...]]:
        """What the page has written into the console; see `LivePage.console`."""
        return spawned(lambda: self.blocking.console)

    def requests(self) -> Awaitable[tuple[Request, ...]]:
        """What the page has asked servers for; see `LivePage.requests`."""
        return spawned(lambda: self.blocking.requests)

    def downloads(self) -> Awaitable[tuple[Download, ...]]:
        """The files that the page has handed out; see `LivePage.downloads`."""
        return spawned(lambda: self.blocking.downloads)

    def cookies(self) -> Awaitable[tuple[Cookie, ...]]:
        """The cookies of the user whose page this is; see `LivePage.cookies`."""
        return spawned(lambda: self.blocking.cookies)

    def set_cookie(self, name: str, value: str, **fields: Any) -> Awaitable[None]:
        """Set a cookie; see `LivePage.set_cookie`."""
        return spawned(lambda: self.blocking.set_cookie(name, value, **fields))

    @asynccontextmanager
    async def downloading(self) -> AsyncIterator[Downloading]:
        """For an `async with` block in which a download begins; see `LivePage.downloading`."""
        inside = self.blocking.downloading()
        inside.__enter__()
        yield inside
        await spawned(lambda: inside.__exit__(None, None, None))

    @asynccontextmanager
    async def giving(self, *files: str | Path) -> AsyncIterator[None]:
        """For an `async with` block in which the page asks for files; see `LivePage.giving`."""
        inside = self.blocking.giving(*files)
        await spawned(inside.__enter__)
        yield
        await spawned(lambda: inside.__exit__(None, None, None))

    @property
    def dialogs(self) -> tuple[Dialog, ...]:
        """The dialogs that this page has opened so far; see `LivePage.dialogs`."""
        return self.blocking.dialogs

    def know(self, names: Mapping[str, Known], healing: Healing = "propose") -> None:
        """From now on names stand for locators here; see `LivePage.know`."""
        self.blocking.know(names, healing)

    @property
    def healed(self) -> tuple[Healed, ...]:
        """The uses of names whose locators were in trouble; see `LivePage.healed`."""
        return self.blocking.healed

    def guard(self, shown: Where, click: Where) -> Guard:
        """When `shown` is in the way, click there; see `LivePage.guard`."""
        return self.blocking.guard(shown, click)

    @asynccontextmanager
    async def answering(
        self, kind: Kind, message: str | None = None, *, accept: bool = True, text: str | None = None
    ) -> AsyncIterator[None]:
        """For an `async with` block in which a dialog opens; see `LivePage.answering`."""
        with self.blocking.answering(kind, message, accept=accept, text=text):
            yield


class AsyncBrowser:
    """A browser for `async with`: started on entering, closed on leaving, whatever it is doing then. See `Browser`."""

    def __init__(self, starting: Callable[[], Browser]) -> None:
        self._starting = starting
        self._pages: dict[str, AsyncPage] = {}

    @staticmethod
    def start(name: str = "chromium", **wanted: Any) -> AsyncBrowser:
        """With the arguments of `Browser.start`."""
        return AsyncBrowser(functools.partial(Browser.start, name, **wanted))

    @staticmethod
    def join(address: str, **wanted: Any) -> AsyncBrowser:
        """With the arguments of `Browser.join`."""
        return AsyncBrowser(functools.partial(Browser.join, address, **wanted))

    def _page(self, blocking: LivePage) -> AsyncPage:
        return self._pages.setdefault(blocking.context, AsyncPage(blocking))

    open = _giving_page(Browser.open)
    page = _giving_page(Browser.page)

    async def pages(self) -> tuple[AsyncPage, ...]:
        """All open pages, those that pages opened by themselves too."""
        return tuple(map(self._page, await spawned(lambda: self.blocking.pages)))

    async def user(self) -> AsyncUser:
        """Another user of this browser, for an `async with` block; see `Browser.user`."""
        return AsyncUser(self, await spawned(self.blocking.user))

    async def sign_in(self, user: str, password: str, host: str = "") -> None:
        """Answer servers that ask for a name and a password; see `Browser.sign_in`."""
        await spawned(lambda: self.blocking.sign_in(user, password, host))

    async def __aenter__(self) -> AsyncBrowser:
        self.blocking = await spawned(self._starting)
        return self

    async def __aexit__(self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None) -> None:
        await spawned(self.blocking.close)


class AsyncUser:
    """One of several users of a browser; see `User`, which is in `blocking`."""

    def __init__(self, browser: AsyncBrowser, blocking: User) -> None:
        self.browser = browser
        self.blocking = blocking

    open = _giving_page(User.open)

    def _page(self, blocking: LivePage) -> AsyncPage:
        return self.browser._page(blocking)

    async def close(self) -> None:
        """Close its pages and forget its cookies and storage."""
        await spawned(self.blocking.close)

    async def __aenter__(self) -> AsyncUser:
        return self

    async def __aexit__(self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None) -> None:
        await self.close()
