"""Replay: a journey is run on a live page, step by step, with evidence of each."""

from __future__ import annotations

import contextlib
import time
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any, Literal

from wary_hound.browser.browser import Browser
from wary_hound.browser.page import LivePage
from wary_hound.browser.reading import covered
from wary_hound.errors import WaryHoundError
from wary_hound.healing.names import Healing
from wary_hound.journey.book import Book, remember
from wary_hound.journey.data import NOTHING, Values
from wary_hound.journey.journey import Journey
from wary_hound.journey.parts import Planned, plan
from wary_hound.locator.evaluate import match
from wary_hound.locator.values import Locator
from wary_hound.page import Page
from wary_hound.running.checks import check
from wary_hound.running.doing import Walk, act, address_of, begun

State = Literal["passed", "healed", "failed", "not run"]
MOST_REQUESTS = 50
"""So many requests of one step are kept as evidence."""


@dataclass(frozen=True, slots=True)
class StepResult:
    """What came of one step. `healed`: uses of names whose locators were in trouble; `picture`: PNG, the element outlined;
    `requests` and `console` as they came during the step, and between it and the one before."""

    number: int
    says: str
    locator: str
    state: State
    seconds: float = 0.0
    message: str = ""
    healed: tuple[str, ...] = ()
    address: str = ""
    picture: bytes = b""
    section: str = "steps"
    requests: tuple[str, ...] = ()
    console: tuple[str, ...] = ()


@dataclass(frozen=True)
class Run:
    """One replay of a journey. `page`: what was to be seen where it failed, for `look`, `check` and `repair` later. `row`: what the
    row of data is called; `setting`: the size or phone, where it is not the usual one; `seen`: what
    a book would remember of the names that were found, by name."""

    journey: str
    browser: str
    steps: tuple[StepResult, ...]
    seconds: float
    guards: Mapping[str, int]
    dialogs: tuple[str, ...]
    page: Page | None = None
    row: str = ""
    setting: str = ""
    seen: Mapping[str, Mapping[str, Any]] = field(default_factory=dict)

    @property
    def state(self) -> State:
        """Failed where a step failed; healed where it passed, but not by its own locators; else passed."""
        states = {step.state for step in self.steps}
        return "failed" if "failed" in states else "healed" if "healed" in states else "passed"

    @property
    def failing(self) -> StepResult | None:
        """The first step that failed; None where none did."""
        return next((step for step in self.steps if step.state == "failed"), None)

    @property
    def where(self) -> str:
        """Browser, size and row of data, in words."""
        return ", ".join(part for part in (self.browser, self.setting, self.row) if part)


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
    values: Values = NOTHING,
    folder: Path = Path(),
    renew: bool = False,
    opening: float = 0.0,
    left_out: int | None = None,
    before: Callable[[LivePage, int], None] | None = None,
    told: Callable[[StepResult], None] = lambda _: None,
) -> Run:
    """Run a journey in a page of its own. Behind a step that fails no others are run, but those of `after` always are.

    `base`: the address that `open` steps with a path start from, where not the journey's; `limit`: seconds for each thing, where
    not the browser's; `slow`: seconds between steps, for eyes; `values`: what `{names}` stand for; `folder`: where the journey's
    file lies; `renew`: give what the book would remember of the names found; `opening`: seconds that a
    page has to open at least; `left_out`: the number of a step that is not done; `before`: called before each with its number.

    Raises FileError where a step names no element and no locator, data are missing, or there is no address to open.
    """
    base = base or journey.start.base
    steps = plan(journey, book, values, folder)
    for planned in steps:
        if planned.step.action == "open":
            address_of(planned.step.value, base)
    started = time.perf_counter()
    results: list[StepResult] = []
    walk, guards = begun(journey, book, browser, base, folder, healing, limit, opening)
    live = walk.live
    absences = [p for p in steps if p.step.expect in ("hidden", "gone") and not p.step.from_start]
    doing = Doing(walk, values, absences, pictures, renew)
    open_before = {page.context for page in browser.pages}
    try:
        failed: set[str] = set()
        for planned in steps:
            result = StepResult(planned.number, planned.says, str(planned.locator or ""), "not run", section=planned.section)
            if before is not None and not failed:
                before(walk.live, planned.number)
            if planned.number == left_out:
                pass
            elif not failed or (planned.section == "after" and "after" not in failed):
                result = doing.step(planned, result)
                time.sleep(slow)
            if result.state == "failed":
                failed.add(planned.section)
            results.append(result)
            told(result)
        return Run(
            journey.journey,
            name,
            tuple(results),
            time.perf_counter() - started,
            {when: guard.uses for when, guard in guards.items() if guard.uses},
            tuple(values.hide(f"{d.kind} {d.message!r}{'' if d.expected else ' (nobody expected it)'}") for d in live.dialogs),
            doing.failed_on,
            values.label,
            "",
            doing.memories() if not failed else {},
        )
    finally:
        for page in browser.pages:
            if page.context not in open_before or page is live:
                with contextlib.suppress(WaryHoundError):
                    page.close()


class Doing:
    """Does one step after the other, and keeps what is needed of each."""

    def __init__(self, walk: Walk, values: Values, absences: list[Planned], pictures: bool, renew: bool) -> None:
        self._walk = walk
        self._values = values
        self._absences = absences
        self._pictures = pictures
        self._renew = renew
        self._secret: set[str] = set()
        self.failed_on: Page | None = None
        self.seen_on: dict[str, Page] = {}
        self._told: dict[str, tuple[int, int]] = {}

    def step(self, planned: Planned, result: StepResult) -> StepResult:
        """One step: what came of it."""
        walk, step, locator = self._walk, planned.step, planned.locator
        live = walk.live
        started, before = time.perf_counter(), len(live.healed)
        if planned.secret and step.on:
            self._secret.add(step.on)
        message, page, picture = "", None, b""
        try:
            if step.action == "check":
                checked = check(live, step, locator, walk.seen, walk.folder)
                message, page = checked.message, checked.page
            else:
                if self._pictures and locator is not None:
                    picture = self._picture(live, step.on)
                act(walk, step)
                live = walk.live
                if locator is not None:
                    walk.seen.used(locator)
                unseen = self._unseen()
                if unseen and not live.closed:
                    page = live.capture()
                    walk.seen.look(page, unseen)
        except WaryHoundError as error:
            message = str(error)
            page = None
        if page is None and not live.closed and (message or self._renews(step.on, locator)):
            with contextlib.suppress(WaryHoundError):
                page = live.capture()
        if page is not None:
            self._remember(step.on, locator, page)
        self.failed_on = page if message and self.failed_on is None else self.failed_on
        seconds = time.perf_counter() - started
        healed = tuple(str(one) for one in live.healed[before:])
        state: State = "failed" if message else "healed" if any(h.acted for h in live.healed[before:]) else "passed"
        if self._pictures and (state == "failed" or not picture):
            picture = self._picture(live, step.on if step.action == "check" else "", whole=state == "failed")
        hide = self._values.hide
        new = ((), ()) if live.closed else live._so_far()
        asked, said = self._told.get(live.context, (0, 0))
        self._told[live.context] = len(new[0]), len(new[1])
        requests = tuple(hide(str(r)) for r in new[0][asked:][-MOST_REQUESTS:])
        console = tuple(hide(f"{c.level}: {c.text}") for c in new[1][said:])
        return replace(
            result, state=state, seconds=seconds, message=hide(message), healed=tuple(map(hide, healed)), picture=picture,
            address=hide(page.url if page is not None else self._address(live)), requests=requests, console=console,
        )  # fmt: skip

    def memories(self) -> dict[str, dict[str, Any]]:
        """What a book would remember of the names that were found."""
        names = self._walk.names
        return {name: remember(page.find(names[name].locator.alternatives[0])) for name, page in self.seen_on.items()}

    def _unseen(self) -> list[Locator]:
        """What is to be hidden or gone later and has not been seen yet: a step that shows it proves that it can be."""
        seen = self._walk.seen
        awaited = [(p.locator, seen.shown if p.step.expect == "hidden" else seen.there) for p in self._absences]
        return [locator for locator, known in awaited if locator is not None and locator not in known]

    def _renews(self, on: str, locator: Locator | None) -> bool:
        return self._renew and locator is not None and on in self._walk.names and on not in self.seen_on

    def _remember(self, on: str, locator: Locator | None, page: Page) -> None:
        if self._renews(on, locator) and locator is not None:
            if len(match(page, locator.alternatives[0])) == 1:
                self.seen_on[on] = page

    def _picture(self, live: LivePage, on: str, whole: bool = False) -> bytes:
        """What is in view, or the whole page, with what a step is about outlined where it is there, and what holds or says a
        secret grey; empty where no picture can be had."""
        with contextlib.suppress(WaryHoundError):
            if on and on != "the page":
                live.outline(on) if whole else live.outline_one(on)
            try:
                picture = live.screenshot() if whole else live.view()
            finally:
                live.outline_off()
            if not self._values.secrets:
                return picture
            page = live.capture()
            told = [e for e in page.elements if e.visible and any(s in (e.text or "") for s in self._values.secrets)]
            inner = [e.box for e in told if not any(child in told for child in e.children)]
            corner = (0.0, 0.0) if whole else live._corner()
            return covered(picture, page, [*live._boxes(page, sorted(self._secret)), *inner], corner=corner)
        return b""

    def _address(self, live: LivePage) -> str:
        with contextlib.suppress(WaryHoundError):
            return live.address()
        return ""
