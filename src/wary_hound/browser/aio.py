"""The same for asyncio: a browser works in a thread of its own, one call after the other, and each call is awaited.

async with AsyncBrowser.start("firefox") as browser:
    page = await browser.open(address)
    await page.click("css{#hold}")
"""

from __future__ import annotations

import asyncio
import functools
from collections.abc import AsyncIterator, Awaitable, Callable, Mapping
from concurrent.futures import ThreadPoolExecutor
from contextlib import asynccontextmanager
from types import TracebackType
from typing import Any, Concatenate, ParamSpec, TypeVar

from wary_hound.browser.acting import Guard, Where
from wary_hound.browser.browser import Browser, LivePage, Named
from wary_hound.browser.dialogs import Dialog, Kind
from wary_hound.healing.names import Healed, Healing, Known

P = ParamSpec("P")
T = TypeVar("T")


def _awaited(method: Callable[Concatenate[LivePage, P], T]) -> Callable[Concatenate[AsyncPage, P], Awaitable[T]]:
    """The method of the blocking page, run in the browser's thread."""

    @functools.wraps(method)
    def called(page: AsyncPage, /, *arguments: P.args, **named: P.kwargs) -> Awaitable[T]:
        return page.browser._run(functools.partial(method, page.blocking, *arguments, **named))

    return called


class AsyncPage:
    """A live page; see `LivePage`, which is in `blocking`. A call that is cancelled still ends by the page's limit."""

    def __init__(self, browser: AsyncBrowser, blocking: LivePage) -> None:
        self.browser = browser
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
    reload = _awaited(LivePage.reload)

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
        self._thread = ThreadPoolExecutor(1, "wary-hound")
        self._pages: dict[str, AsyncPage] = {}

    @staticmethod
    def start(name: str = "chromium", **wanted: Any) -> AsyncBrowser:
        """With the arguments of `Browser.start`."""
        return AsyncBrowser(functools.partial(Browser.start, name, **wanted))

    @staticmethod
    def join(address: str, **wanted: Any) -> AsyncBrowser:
        """With the arguments of `Browser.join`."""
        return AsyncBrowser(functools.partial(Browser.join, address, **wanted))

    def _run(self, call: Callable[[], T]) -> Awaitable[T]:
        return asyncio.get_running_loop().run_in_executor(self._thread, call)

    def _page(self, blocking: LivePage) -> AsyncPage:
        return self._pages.setdefault(blocking.context, AsyncPage(self, blocking))

    async def open(self, address: str, book: Named | None = None, healing: Healing = "propose") -> AsyncPage:
        """A new page at an address, loaded and at rest; see `Browser.open`."""
        return self._page(await self._run(functools.partial(self.blocking.open, address, book, healing)))

    async def pages(self) -> tuple[AsyncPage, ...]:
        """All open pages, those that pages opened by themselves too."""
        return tuple(map(self._page, await self._run(lambda: self.blocking.pages)))

    async def __aenter__(self) -> AsyncBrowser:
        started = self._run(self._starting)
        try:
            self.blocking = await asyncio.shield(started)
        except asyncio.CancelledError:
            (await started).close()  # it was starting: leave nothing behind
            raise
        return self

    async def __aexit__(self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None) -> None:
        await asyncio.to_thread(self.blocking.close)  # not behind a call that still waits
        self._thread.shutdown(wait=False)
