"""Finding what an action is about and waiting until it can be acted on; guards for what comes up unasked.

The page is asked, in one call that waits inside it, until the element is shown, still, enabled, in view and not covered. Elements
in frames and shadow trees need nothing special. Where the document or the element goes away meanwhile, it is looked up again.
"""

from __future__ import annotations

import contextlib
import time
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from wary_hound.browser import capture as capturing
from wary_hound.browser.connection import ANSWERING
from wary_hound.browser.dialogs import Dialogs
from wary_hound.browser.direct import direct_form
from wary_hound.browser.protocol import Json
from wary_hound.browser.scripts import ready_script, sole_script
from wary_hound.browser.view import View
from wary_hound.errors import BrowserError, BrowserTimeout, DocumentGone
from wary_hound.healing import relocate
from wary_hound.healing.names import Healed, Healing, Known, by_another_way, contradicted, healed, trouble_of, witnesses_of
from wary_hound.locator.evaluate import as_locator, match
from wary_hound.locator.explain import explain
from wary_hound.locator.near import Near, nearest
from wary_hound.locator.values import Locator
from wary_hound.page import Element, Page
from wary_hound.page.trees import FRAME

Where = Locator | str
GUARDED_AFTER = 0.5
"""Seconds that an action may be held up before guards look."""
MOST_USED = 20
"""Of so many locators it is remembered what they last found, to look for it when they find nothing."""
ANOTHER_LIMIT = 3.0
"""Seconds that an element has to be ready which is used in the place of one that was not found."""
GUARD_LIMIT = 3.0
"""Seconds for what a guard has acted upon to go away."""


@dataclass
class Guard:
    """When something is shown and in the way of an action, do something about it. `uses` counts how often that was needed."""

    shown: Locator
    act: Callable[[], None]
    uses: int = 0

    def needed(self, page: Page) -> bool:
        """Whether what it guards against is shown on a page."""
        return any(page.semantics.visible[i] for i in match(page, self.shown))


@dataclass(frozen=True, slots=True)
class Ready:
    """An element that can be acted on: its document, a reference to it there, the point of action in the window of the page,
    whether the protocol takes another for the element's middle, and the number of the press that is listened for."""

    context: str
    node: Json
    point: tuple[float, float]
    aside: bool = False
    press: float = 0.0


class Target:
    """Finds elements of one page. `limit`: seconds for each thing."""

    def __init__(self, view: View, dialogs: Dialogs, limit: float) -> None:
        self.view = view
        self.limit = limit
        self.guards: list[Guard] = []
        self.names: Mapping[str, Known] = {}
        self.healing: Healing = "propose"
        self.healed: list[Healed] = []
        self._dialogs = dialogs
        self._used: dict[Locator, Element] = {}
        self._guarding = False

    @property
    def deadline(self) -> float:
        """When a thing that begins now must have come (monotonic seconds)."""
        return time.monotonic() + self.limit

    def meant(self, where: Where) -> Locator:
        """The locator that a name of the book, a text or a locator means."""
        known = self.names.get(where) if isinstance(where, str) else None
        return known.locator if known is not None else as_locator(where)

    # --- finding ------------------------------------------------------------------------------------------------------

    def sole(self, where: Where, deadline: float) -> tuple[capturing.Capture, int]:
        """A capture in which a locator matches one element, waited for where it does not yet, and that element's index. For a name
        whose locator is in trouble at the end, the element that the judge is sure of, where it may be used."""
        locator = self.meant(where)
        first = locator.alternatives[0]
        known = self._known(where)
        for taken in self.view.captures(deadline):
            matched = match(taken.page, first)
            if len(matched) == 1 and (known is None or not contradicted(known, taken.page, matched[0])):
                return taken, self._remembered(locator, taken, matched[0])
            if self.guard_now(taken.page):
                return self.sole(where, deadline)
        healing = self.elsewhere(where, taken.page)
        if healing is not None and healing.acted and healing.element is not None:
            return taken, healing.element.index
        if healing is not None:
            raise self.failed(f"waited {self.limit:g} s: {healing}; at the end:", taken.page, locator)
        raise self.failed(f"waited {self.limit:g} s for {locator} to find one element; at the end:", taken.page, locator)

    def _known(self, where: Where) -> Known | None:
        return self.names.get(where) if isinstance(where, str) and self.healing != "off" else None

    def _remembered(self, locator: Locator, taken: capturing.Capture, index: int) -> int:
        self._used[locator] = taken.page[index]
        if len(self._used) > MOST_USED:
            self._used.pop(next(iter(self._used)))
        return index

    def elsewhere(self, where: Where, page: Page) -> Healed | None:
        """What is used, or would be, in the place of an element that its locator does not find on a page: what another way of the
        locator finds, or what the judge finds of a name. `healed` tells it. None where there is neither."""
        another = by_another_way(str(where), self.meant(where), page)
        known = self.names.get(where) if isinstance(where, str) else None
        if another is None and known is not None:
            another = healed(known, page, self.healing, trouble_of(known, page))
        if another is not None:
            self.healed.append(another)
        return another

    def one(self, where: Where, deadline: float, *, press: bool = False) -> tuple[list[tuple[str, int]], list[Any]]:
        """The one element: its browsing context and number, then those of the frames that it is in, from the inside; and what
        ready.js has seen of it already, where it is to be pressed."""
        locator = self.meant(where)
        part = self.view.glimpse(locator.alternatives[0], witnesses_of(self._known(where)), deadline, press=press)
        if part is not None:
            return [part.taken.places[self._remembered(locator, part.taken, part.index)]], part.seen
        taken, index = self.sole(where, deadline)
        hosts = [host for host in taken.page.hosts(index) if taken.page.hosted[host].kind == FRAME]
        return [taken.places[at] for at in (index, *reversed(hosts))], []

    def node(self, where: Where) -> tuple[str, Json]:
        """The document of the one element and a reference to it there, whatever state it is in."""
        deadline = self.deadline

        def question() -> tuple[str, Json]:
            ((context, number), *_), _ = self.one(where, deadline)
            return context, self._numbered(context, number)

        return self.view.ask(question, deadline)

    def _numbered(self, context: str, number: int) -> Json:
        answer = self.view.connection.call(context, f"() => globalThis.waryHoundTaken[{number}]")
        return {"sharedId": answer["sharedId"]}

    def at_once(self, where: Where) -> tuple[str, Json] | None:
        """The same of an element that is there now; None where a locator does not find exactly one. Nothing is waited for."""
        locator, deadline = self.meant(where), self.deadline
        direct = direct_form(locator.alternatives[0])

        def question() -> tuple[str, Json] | None:
            if direct is not None and (node := self.view.connection.call(self.view.context, sole_script(), direct)) is not None:
                return self.view.context, {"sharedId": node["sharedId"]}
            part = self.view.glimpse(locator.alternatives[0], (), deadline)
            taken = part.taken if part is not None else self.view.taken(deadline)
            matched = match(taken.page, locator.alternatives[0]) if part is None else [part.index]
            if len(matched) != 1:
                return None
            context, number = taken.places[matched[0]]
            return context, self._numbered(context, number)

        return self.view.ask(question, deadline)

    def ready(self, where: Where, wants: str, until: float | None = None, *, still: bool = True) -> Ready:
        """The element, when it can be acted on. `until`: monotonic seconds; the limit from now on where none. Where it need not be
        `still` over two frames, a click is looked at again when it is pressed."""
        deadline: float = until or self.deadline
        healed_before = len(self.healed)
        direct = direct_form(as_locator(where).alternatives[0]) if where not in self.names else None
        if direct is not None:
            self.view.undrawn = False  # it looks over two frames itself, or again at the press
            state, node, *at = self.view.ask(lambda: self._waited(self.view.context, direct, wants, deadline, still), deadline)
            if state == "ready":
                return Ready(self.view.context, {"sharedId": node["sharedId"]}, (at[0], at[1]), bool(at[2]), at[3])
        while True:
            ((context, number), *frames), seen = self.one(where, deadline, press=wants == "click" and not still)
            if len(self.healed) > healed_before:  # it has had the limit: what was found instead has a moment to be ready
                deadline, healed_before = max(deadline, time.monotonic() + ANOTHER_LIMIT), len(self.healed)
            try:
                state, node, *at = seen if seen[:1] == ["ready"] else self._waited(context, number, wants, deadline, still)
                aside, press = False, at[3] if state == "ready" else 0.0
                for outer, frame in frames:
                    if state == "ready":
                        aside = aside or bool(at[2])
                        state, _, *at = self._waited(outer, frame, "hover", deadline, True, *at[:2])
            except DocumentGone:
                self.view.must_be_open()
                state, node, at, aside, press = "gone", {}, [], False, 0.0
            if state == "ready":
                return Ready(context, {"sharedId": node["sharedId"]}, (at[0], at[1]), aside or bool(at[2]), press)
            if self.guards and not self._guarding and time.monotonic() < deadline:
                self.guard_now(self.view.taken(deadline).page)
                continue
            if state != "gone" or time.monotonic() > deadline:
                word = "it was taken out of the page again and again" if state == "gone" else state
                page = self.view.taken(deadline + 1).page
                raise self.failed(f"waited {self.limit:g} s to {wants} {where}: {word};", page, self.meant(where))

    def _waited(self, context: str, which: int | str, wants: str, deadline: float, still: bool, *point: float) -> list[Any]:
        left = max(0.05, deadline - time.monotonic())
        if self.guards and not self._guarding:
            left = min(left, GUARDED_AFTER)
        asked = (which, wants, int(1000 * left), int(still), *point)
        answer: list[Any] = self.view.connection.call(context, ready_script(), *asked, limit=left + ANSWERING)
        return answer

    # --- guards -------------------------------------------------------------------------------------------------------

    def guard_now(self, page: Page) -> bool:
        """Let the guards whose time has come act; whether any did."""
        if self._guarding:
            return False
        acted = False
        for guard in self.guards:
            if guard.needed(page):
                self._guarding = True
                try:
                    guard.act()
                finally:
                    self._guarding = False
                guard.uses += 1
                acted = True
                self._away(guard)
        return acted

    def _away(self, guard: Guard) -> None:
        for taken in self.view.captures(time.monotonic() + GUARD_LIMIT):
            if not guard.needed(taken.page):
                return
        raise BrowserError(f"the guard for {guard.shown} has acted, but it is still shown after {GUARD_LIMIT:g} s")

    def until(self, holds: Callable[[Page], bool]) -> tuple[Page, bool]:
        """Capture until something holds of the page; that page and True, or the last one and False at the limit."""
        for taken in self._guarded_captures():
            if holds(taken.page):
                return taken.page, True
        return taken.page, False

    def _guarded_captures(self) -> Iterator[capturing.Capture]:
        for taken in self.view.captures(self.deadline):
            yield taken
            if self.guard_now(taken.page):
                yield self.view.taken(self.deadline)

    # --- failing ------------------------------------------------------------------------------------------------------

    def failed(self, said: str, page: Page, locator: Locator) -> BrowserTimeout:
        """The error at the time limit, with all that helps to see why."""
        told = explain(page, locator)
        lines = [f"{said} {told.summary}", *str(told).splitlines()[1:]]
        near: tuple[Near, ...] = ()
        if not told.found:
            near = self._nearest(page, locator)
            lines.extend(f"  near it: {one}" for one in near)
        strangers = [dialog for dialog in self._dialogs.seen if not dialog.expected]
        lines.extend(f"  before: {d.kind} {d.message!r} opened, which nobody expected, and was dismissed" for d in strangers[-3:])
        picture = b""
        with contextlib.suppress(BrowserError):
            picture = capturing.screenshot(self.view.connection, self.view.context)
        return BrowserTimeout("\n".join(lines), told, near, picture)

    def _nearest(self, page: Page, locator: Locator) -> tuple[Near, ...]:
        """By relocation where the locator has been used before on this page; else by what it says itself."""
        known = self._used.get(locator)
        if known is None:
            return nearest(locator, page)
        verdict = relocate(known, page)
        first = () if verdict.element is None else ((verdict.element, verdict.confidence),)
        others = [
            Near(element, f"the one used before: {min(99, round(100 * chance))} % sure")
            for element, chance in (*first, *verdict.alternatives)
        ]
        return tuple(Near(near.element, "; ".join((near.why, *verdict.reasons))) if near is others[0] else near for near in others)
