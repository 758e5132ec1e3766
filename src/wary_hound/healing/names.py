"""Elements by name at run time: found by their locator when the witnesses do not contradict it, else by the judge."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from wary_hound.healing.fingerprint import Fingerprint
from wary_hound.healing.relocation import relocate
from wary_hound.healing.witnesses import readable, votes
from wary_hound.locator.evaluate import match
from wary_hound.locator.values import Locator
from wary_hound.page import Element, Page

Healing = Literal["off", "propose", "sure"]
"""Whether an element may be looked for when its locator does not find it: never; to say where it is; to act on it when sure."""
AGREED = 3
"""So many witnesses, and half of all, that name one other element while none names this one contradict a locator: some of them say
the same in other words."""


@dataclass(frozen=True, slots=True)
class Known:
    """What is known of a named element: its locator, and what is remembered of it."""

    name: str
    locator: Locator
    memory: Fingerprint | None = None


@dataclass(frozen=True, slots=True)
class Healed:
    """A use of a name whose locator found nothing, several, or another element. `acted`: whether the element was used."""

    name: str
    locator: Locator
    trouble: str
    element: Element | None
    confidence: float
    reasons: tuple[str, ...]
    acted: bool
    way: str = ""
    """The other way (behind `else`) that was used, where one was."""

    def __str__(self) -> str:
        if self.way:
            return f"{self.name}: {self.locator} {self.trouble} within the limit; its other way {self.way} was used instead"
        if self.element is None:
            return f"{self.name}: {self.locator} {self.trouble}, and its element is nowhere to be found"
        done = "was used instead" if self.acted else "would be the one"
        sure = "over 99" if self.confidence > 0.99 else f"{100 * self.confidence:.0f}"
        return f"{self.name}: {self.locator} {self.trouble}; {self.element} {done} ({sure} % sure)"


def witnesses_of(known: Known | None) -> tuple[Locator, ...]:
    """The witnesses that are remembered of a named element, those left out that cannot be read; empty where nothing is known."""
    return tuple(readable(known.memory.witnesses)) if known is not None and known.memory is not None else ()


def contradicted(known: Known, page: Page, found: int) -> bool:
    """Whether the witnesses agree on another element than the one that the locator finds."""
    if known.memory is None:
        return False
    cast = [v for v in votes(known.memory.witnesses, page) if v >= 0]
    if found in cast or not cast:
        return False
    return max(cast.count(v) for v in set(cast)) >= max(AGREED, len(known.memory.witnesses) / 2)


def healed(known: Known, page: Page, healing: Healing, trouble: str) -> Healed | None:
    """Where a named element is on a page where its locator is in trouble; None where nothing is remembered of it, or nobody asks.

    Its element is given where the judge is sure of it, or for the best guess where it is not to be acted on.
    """
    if known.memory is None or healing == "off":
        return None
    verdict = relocate(known.memory, page)
    sure = verdict.outcome in ("same", "moved")
    acted = sure and healing == "sure"
    return Healed(known.name, known.locator, trouble, verdict.element, verdict.confidence, verdict.reasons, acted)


def by_another_way(name: str, locator: Locator, page: Page) -> Healed | None:
    """The first of the other ways of a locator that finds one element on a page; None where none does."""
    first, *others = locator.alternatives
    for way in others:
        there = match(page, way)
        if len(there) == 1:
            count = len(match(page, first))
            trouble = f"finds {count} elements" if count else "finds nothing"
            return Healed(name, first, trouble, page[there[0]], 0.0, (), acted=True, way=str(way))
    return None


def trouble_of(known: Known, page: Page) -> str:
    """What is wrong with the locator of a named element on a page; empty where nothing is."""
    found = match(page, known.locator)
    if len(found) != 1:
        return f"finds {len(found)} elements" if found else "finds nothing"
    return "finds another element, as its witnesses agree" if contradicted(known, page, found[0]) else ""
