"""How a call waits: it holds up its thread, or, within a task of asyncio, gives way to the other tasks.

What live pages do is written once, as calls that wait. `spawned` runs such a call within a task, on a stack of its own (a
greenlet): wherever it has to wait it hands the task what to await, and goes on with the answer. A task that is cancelled cancels
the call where it waits.
"""

from __future__ import annotations

import asyncio
import contextvars
import socket as sockets
import threading
import time
from collections import deque
from collections.abc import Awaitable, Callable, Coroutine
from contextlib import AbstractContextManager, ExitStack, suppress
from socket import IPPROTO_TCP
from types import TracebackType
from typing import Any, Protocol, TypeVar, cast

from greenlet import getcurrent, greenlet
from websockets.asyncio.client import connect as connect_giving
from websockets.sync.client import ClientConnection
from websockets.sync.client import connect as connect_holding

from wary_hound.errors import BrowserError

T = TypeVar("T")
_QUICK: int | None = getattr(sockets, "TCP_QUICKACK", None)


class _Call(greenlet):
    """A call on a stack of its own, within a task."""


async def spawned(call: Callable[[], T]) -> T:
    """What a call gives that waits by what is in this module, run within this task."""
    inner = _Call(call)
    inner.gr_context = contextvars.copy_context()
    wanted = inner.switch()
    while not inner.dead:
        try:
            answer = await wanted
        except BaseException as error:
            wanted = inner.throw(type(error), error, error.__traceback__)
        else:
            wanted = inner.switch(answer)
    return cast(T, wanted)


def _current() -> _Call | None:
    current = getcurrent()
    return current if isinstance(current, _Call) else None


def _awaited(awaitable: Awaitable[T]) -> T:
    call = _current()
    if call is None:
        if isinstance(awaitable, Coroutine):
            awaitable.close()
        raise BrowserError("this browser was started for asyncio: await what its pages are asked for")
    assert call.parent is not None
    return cast(T, call.parent.switch(awaitable))


def pause(seconds: float) -> None:
    """Wait so long."""
    if _current() is None:
        time.sleep(seconds)
    else:
        _awaited(asyncio.sleep(seconds))


def apart(work: Callable[[], T], undo: Callable[[T], object] = lambda _: None) -> T:
    """What work gives that waits for processes and files; within a task it has a thread. Where the task is cancelled meanwhile the
    work ends first, and is undone."""
    return work() if _current() is None else _awaited(_apart(work, undo))


async def _apart(work: Callable[[], T], undo: Callable[[T], object]) -> T:
    job = asyncio.ensure_future(asyncio.to_thread(work))
    try:
        return await asyncio.shield(job)
    except asyncio.CancelledError:
        await asyncio.to_thread(undo, await job)
        raise


class Turn:
    """A lock for a `with` block, given in the order in which it was asked for; who holds it may take it again."""

    def __init__(self) -> None:
        self._of_threads = threading.RLock()
        self._holder: _Call | None = None
        self._depth = 0
        self._next: deque[tuple[_Call, asyncio.Future[None]]] = deque()

    def __enter__(self) -> None:
        call = _current()
        if call is None:
            self._of_threads.acquire()
            return
        if self._holder not in (None, call):
            self._await(call)
        self._holder = call
        self._depth += 1

    def _await(self, call: _Call) -> None:
        entry = (call, asyncio.get_running_loop().create_future())
        self._next.append(entry)
        try:
            _awaited(entry[1])
        except BaseException:
            if entry in self._next:
                self._next.remove(entry)
            elif self._holder is call:
                self._pass_on()
            raise

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None) -> None:
        if _current() is None:
            self._of_threads.release()
            return
        self._depth -= 1
        if not self._depth:
            self._pass_on()

    def _pass_on(self) -> None:
        self._holder = None
        while self._next and self._holder is None:
            call, turn = self._next.popleft()
            if not turn.done():
                self._holder = call
                turn.set_result(None)


class Relay:
    """Several callers wait for what comes in one after the other: one of them takes it in, for all."""

    def __init__(self) -> None:
        self._of_threads = threading.Condition()
        self._busy = False
        self._others: list[asyncio.Future[None]] = []

    def take(self, work: Callable[[], None], done: Callable[[], bool], deadline: float) -> None:
        """Take one thing in by `work`, or wait until another caller has; nothing where it is `done`. TimeoutError at the deadline
        (monotonic seconds) of the wait; that of the work is its own."""
        call = _current()
        with self._of_threads:
            if done():
                return
            mine = not self._busy
            self._busy = True
            if not mine and call is None:
                if not self._of_threads.wait(max(0.0, deadline - time.monotonic())):
                    raise TimeoutError
                return
        if not mine:
            came = asyncio.get_running_loop().create_future()
            self._others.append(came)
            _awaited(asyncio.wait_for(came, deadline - time.monotonic()))
            return
        try:
            work()
        finally:
            with self._of_threads:
                self._busy = False
                self._of_threads.notify_all()
            others, self._others = self._others, []
            for came in others:
                if not came.done():
                    came.set_result(None)


class Socket(Protocol):
    """An open WebSocket. TimeoutError where no message comes within a time (seconds)."""

    def send(self, message: str) -> None: ...

    def recv(self, timeout: float | None = None) -> str | bytes: ...

    def close(self) -> None: ...


def connected(address: str, limit: float, most_bytes: int) -> Socket:
    """A WebSocket to an address, opened within a limit (seconds). OSError, TimeoutError or WebSocketException where none."""
    options: dict[str, Any] = {"max_size": most_bytes, "open_timeout": limit, "compression": None, "proxy": None}
    if _current() is None:
        return _Holding(connect_holding(address, ping_interval=None, **options))
    return _Giving(_awaited(connect_giving(address, ping_interval=None, **options)))


def _acknowledging(socket: Any) -> None:
    """Have what comes next acknowledged at once, where the system can: a browser that gathers what it sends (Nagle's algorithm)
    keeps a second message back until then, on Linux 40 ms. Asked anew each time: the system forgets it."""
    if socket is not None and _QUICK is not None:
        with suppress(OSError):  # it is closed
            socket.setsockopt(IPPROTO_TCP, _QUICK, 1)


class _Holding:
    """A WebSocket of threads."""

    def __init__(self, opening: AbstractContextManager[ClientConnection]) -> None:
        self._open = ExitStack()
        self._socket = self._open.enter_context(opening)

    def send(self, message: str) -> None:
        self._socket.send(message)
        _acknowledging(self._socket.socket)

    def recv(self, timeout: float | None = None) -> str | bytes:
        message = self._socket.recv(timeout=timeout)
        _acknowledging(self._socket.socket)
        return message

    def close(self) -> None:
        self._open.close()


class _Giving:
    """A WebSocket of an event loop."""

    def __init__(self, socket: Any) -> None:
        self._socket = socket

    def send(self, message: str) -> None:
        _awaited(self._socket.send(message))
        _acknowledging(self._socket.transport.get_extra_info("socket"))

    def recv(self, timeout: float | None = None) -> str | bytes:
        message = cast("str | bytes", _awaited(asyncio.wait_for(self._socket.recv(), timeout)))
        _acknowledging(self._socket.transport.get_extra_info("socket"))
        return message

    def close(self) -> None:
        _awaited(self._socket.close())
