"""Replay: a journey is run on a live page, step by step, with evidence of each."""

from __future__ import annotations

import contextlib
import time
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Literal

from wary_hound.browser.browser import Browser, LivePage
from wary_hound.errors import FileError, WaryHoundError
from wary_hound.healing.names import Healing, Known
from wary_hound.journey.book import Book
from wary_hound.journey.journey import Journey, Step, locator_of
from wary_hound.locator.values import Locator
from wary_hound.page import Page
from wary_hound.running.checks import Seen, check

State = Literal["passed", "healed", "failed", "not run"]


@dataclass(frozen=True, slots=True)
class StepResult:
    """What came of one step. `healed`: uses of names whose locators were in trouble; `picture`: PNG, the element outlined."""

    number: int
    says: str
    locator: str
    state: State
    seconds: float = 0.0
    message: str = ""
    healed: tuple[str, ...] = ()
    address: str = ""
    picture: bytes = b""


@dataclass(frozen=True)
class Run:
    """One replay of a journey. `page`: what was to be seen where it failed, for `look`, `check` and `repair` later."""

    journey: str
    browser: str
    steps: tuple[StepResult, ...]
    seconds: float
    guards: Mapping[str, int]
    dialogs: tuple[str, ...]
    page: Page | None = None

    @property
    def state(self) -> State:
        """Failed where a step failed; healed where it passed, but not by its own locators; else passed."""
        states = {step.state for step in self.steps}
        return "failed" if "failed" in states else "healed" if "healed" in states else "passed"

    @property
    def failing(self) -> StepResult | None:
        """The step that failed; None where none did."""
        return next((step for step in self.steps if step.state == "failed"), None)


def address_of(value: str, base: str) -> str:
    """Where an `open` step goes. FileError where that needs a base address, and none is given."""
    if "://" in value:
        return value
    if not base:
        raise FileError(f"open {value}: there is no base address; give one (--base http://...)")
    return f"{base.rstrip('/')}/{value.lstrip('/')}"


def replay(
    journey: Journey,
    book: Book | None,
    browser: Browser,
    *,
    base: str = "",
    healing: Healing = "propose",
    limit: float | None = None,
    slow: float = 0.0,
    name: str = "",
    pictures: bool = True,
    told: Callable[[StepResult], None] = lambda _: None,
) -> Run:
    """Run a journey in a page of its own; the steps behind one that fails are not run. `base`: the address that `open` steps with a
    path start from; `limit`: seconds for each thing, where not the browser's; `slow`: seconds between steps, for eyes.

    Raises FileError where a step names no element and no locator, or there is no address to open.
    """
    locators = [locator_of(step.on, book, f"step {k} of {journey.journey!r}") if step.on else None for k, step in _steps(journey)]
    watched = [at for at, (_, step) in zip(locators, _steps(journey), strict=True) if at is not None and step.action == "check"]
    for step in journey.steps:
        if step.action == "open":
            address_of(step.value, base)
    names = dict(book.known()) if book is not None else {}
    begun = time.perf_counter()
    results: list[StepResult] = []
    live = browser.open("about:blank")
    page: Page | None = None
    try:
        if limit is not None:
            live.limit = limit
        live.know(names, healing)
        guards = {g.when: live.guard(_known(g.when, names), _known(g.click, names)) for g in journey.guards}
        seen = Seen()
        for (number, step), locator in zip(_steps(journey), locators, strict=True):
            result = StepResult(number, str(step), str(locator or ""), "not run")
            if not results or results[-1].state in ("passed", "healed"):
                result, page = _step(live, result, step, locator, base, seen, watched, pictures)
                time.sleep(slow)
            results.append(result)
            told(result)
        return Run(
            journey.journey,
            name,
            tuple(results),
            time.perf_counter() - begun,
            {when: guard.uses for when, guard in guards.items() if guard.uses},
            tuple(f"{d.kind} {d.message!r}{'' if d.expected else ' (nobody expected it)'}" for d in live.dialogs),
            page,
        )
    finally:
        with contextlib.suppress(WaryHoundError):
            live.close()


def _steps(journey: Journey) -> list[tuple[int, Step]]:
    return list(enumerate(journey.steps, 1))


def _known(on: str, names: Mapping[str, Known]) -> Locator | str:
    return names[on].locator if on in names else on


def _step(
    live: LivePage,
    result: StepResult,
    step: Step,
    locator: Locator | None,
    base: str,
    seen: Seen,
    watched: list[Locator],
    pictures: bool,
) -> tuple[StepResult, Page | None]:
    """One step: what came of it, and the page where it failed."""
    begun, before = time.perf_counter(), len(live.healed)
    message, page, picture = "", None, b""
    try:
        if step.action == "check":
            assert locator is not None
            checked = check(live, step, locator, seen)
            message, page = checked.message, None if checked.held else checked.page
        else:
            if pictures and locator is not None:
                picture = _picture(live, step.on)
            _act(live, step, base)
            seen.look(live.capture(), watched)
            if locator is not None:
                seen.used(locator)
    except WaryHoundError as error:
        message = str(error)
        with contextlib.suppress(WaryHoundError):
            page = live.capture()
    seconds = time.perf_counter() - begun
    healed = tuple(str(one) for one in live.healed[before:])
    state: State = "failed" if message else "healed" if any(h.acted for h in live.healed[before:]) else "passed"
    if pictures and (state == "failed" or not picture):
        picture = _picture(live, step.on if step.action == "check" else "")
    address = page.url if page is not None else _address(live)
    return replace(result, state=state, seconds=seconds, message=message, healed=healed, address=address, picture=picture), page


def _act(live: LivePage, step: Step, base: str) -> None:
    match step.action:
        case "open":
            live.open(address_of(step.value, base))
        case "click":
            live.click(step.on)
        case "type":
            live.type(step.on, step.value)
        case "choose":
            live.choose(step.on, step.value)
        case "tick":
            live.tick(step.on)
        case "untick":
            live.untick(step.on)
        case "keys":
            live.keys(step.value)


def _picture(live: LivePage, on: str) -> bytes:
    """The page as it is, with what a step is about outlined where it is there; empty where no picture can be had."""
    with contextlib.suppress(WaryHoundError):
        if on:
            live.outline(on)
        try:
            return live.screenshot()
        finally:
            live.outline_off()
    return b""


def _address(live: LivePage) -> str:
    with contextlib.suppress(WaryHoundError):
        return str(live.script("() => location.href"))
    return ""
