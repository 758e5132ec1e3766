"""Doing the actions of steps on live pages: one function an action, in one table."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from contextlib import AbstractContextManager, ExitStack, contextmanager
from dataclasses import dataclass, field
from pathlib import Path
from typing import cast

from wary_hound.browser.browser import Browser
from wary_hound.browser.dialogs import Kind
from wary_hound.browser.downloads import plain_name
from wary_hound.browser.page import LivePage
from wary_hound.browser.target import Guard
from wary_hound.errors import BrowserError, FileError
from wary_hound.healing.names import Healing, Known
from wary_hound.journey.book import Book
from wary_hound.journey.journey import Journey
from wary_hound.journey.steps import Step
from wary_hound.locator.values import Locator
from wary_hound.running.checks import Seen


@dataclass
class Walk:
    """A journey under way: the page that it is on, and what it has seen. `folder`: where its file lies."""

    browser: Browser
    live: LivePage
    names: Mapping[str, Known]
    healing: Healing
    base: str
    folder: Path
    opening: float = 0.0
    """Seconds that a page has to open at least, where the limit is shorter."""
    first: LivePage = field(init=False)
    seen: Seen = field(default_factory=Seen)

    def __post_init__(self) -> None:
        self.first = self.live


def begun(
    journey: Journey,
    book: Book | None,
    browser: Browser,
    base: str,
    folder: Path,
    healing: Healing,
    limit: float | None,
    opening: float = 0.0,
) -> tuple[Walk, dict[str, Guard]]:
    """A journey on a page of its own that knows the names of its book, and its guards by what they guard against."""
    names = book.known() if book is not None else {}
    live = browser.open("about:blank")
    try:
        live.limit = limit or live.limit
        live.know(names, healing)

        def meant(on: str) -> Locator | str:
            return names[on].locator if on in names else on

        guards = {guard.when: live.guard(meant(guard.when), meant(guard.click)) for guard in journey.guards}
    except BaseException:
        live.close()
        raise
    return Walk(browser, live, names, healing, base, folder, opening), guards


def address_of(value: str, base: str) -> str:
    """Where an `open` step goes. FileError where that needs a base address, and none is given."""
    if "://" in value or value.startswith(("data:", "about:")):
        return value
    if not base:
        raise FileError(f"open {value}: there is no base address; give one (--base http://...)")
    return f"{base.rstrip('/')}/{value.lstrip('/')}"


def act(walk: Walk, step: Step) -> None:
    """Do what a step says. BrowserError says why it cannot be done."""
    with ExitStack() as around:
        if "dialog" in step.more:
            around.enter_context(_answering(walk.live, step))
        if "downloads" in step.more:
            around.enter_context(_downloading(walk.live, str(step.more["downloads"])))
        ACTS[step.action](walk, step)


def _answering(live: LivePage, step: Step) -> AbstractContextManager[None]:
    kind, answer = cast("Kind", step.more["dialog"]), str(step.more.get("answer", "yes"))
    text = answer if kind == "prompt" and answer not in ("yes", "no") else None
    return live.answering(kind, step.more.get("saying"), accept=answer != "no", text=text)


@contextmanager
def _downloading(live: LivePage, name: str) -> Iterator[None]:
    """A download under the name that is expected."""
    with live.downloading() as file:
        yield
    if plain_name(file.name) != name:
        raise BrowserError(f"a file named {name!r} was to be downloaded; it is named {file.name!r}")


def _open(walk: Walk, step: Step) -> None:
    live, limit = walk.live, walk.live.limit
    live.limit = max(limit, walk.opening)
    try:
        live.open(address_of(step.value, walk.base))
    finally:
        live.limit = limit
    meant = step.more.get("answers")
    if meant is not None and live.status != int(meant):
        raise BrowserError(f"{step.value} was to answer {meant}; it answered {live.status or 'nothing that has a status'}")
    if meant is None and live.status >= 400:
        raise BrowserError(f"{step.value} answered {live.status} (say `answers: {live.status}` if that is meant)")


def _go(walk: Walk, step: Step) -> None:
    {"back": walk.live.back, "forward": walk.live.forward, "again": walk.live.reload}[step.value]()


def _switch(walk: Walk, step: Step) -> None:
    if step.value == "first":
        walk.live = walk.first
        return
    live = walk.browser.page(step.value, walk.live.limit)
    live.limit = walk.live.limit
    live.know(walk.names, walk.healing)
    walk.live = live


def _stub(walk: Walk, step: Step) -> None:
    more = step.more
    walk.live.stub(
        step.value,
        str(more.get("body", "")),
        status=int(float(more.get("status", 200))),
        fails="fails" in more,
        delay=float(more.get("delay", 0)),
    )


ACTS: dict[str, Callable[[Walk, Step], None]] = {
    "open": _open,
    "click": lambda walk, step: walk.live.click(step.on, holding=str(step.more.get("holding", ""))),
    "double-click": lambda walk, step: walk.live.double_click(step.on),
    "right-click": lambda walk, step: walk.live.right_click(step.on),
    "hover": lambda walk, step: walk.live.hover(step.on),
    "type": lambda walk, step: walk.live.type(step.on, step.value),
    "add": lambda walk, step: walk.live.add(step.on, step.value),
    "clear": lambda walk, step: walk.live.clear(step.on),
    "choose": lambda walk, step: walk.live.choose(step.on, *(step.values or (step.value,))),
    "unchoose": lambda walk, step: walk.live.unchoose(step.on, step.value),
    "tick": lambda walk, step: walk.live.tick(step.on),
    "untick": lambda walk, step: walk.live.untick(step.on),
    "upload": lambda walk, step: walk.live.upload(step.on, *(walk.folder / f for f in (step.values or (step.value,)))),
    "drag": lambda walk, step: walk.live.drag(step.on, str(step.more["onto"])),
    "scroll-to": lambda walk, step: walk.live.scroll_to(step.on),
    "keys": lambda walk, step: walk.live.keys(step.value),
    "go": _go,
    "switch": _switch,
    "stub": _stub,
}
