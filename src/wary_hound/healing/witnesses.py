"""Witnesses: several ways to say an element that rest on different facts, remembered with it; what they agree on is believed.

They are chosen as a portfolio is: greedily on simulated futures, so that they fail in different ones. None of them is weak: what
says only a kind or a place finds whatever has come to stand there.
"""

from __future__ import annotations

import contextlib
from collections import Counter
from collections.abc import Iterator, Sequence

from wary_hound.authoring.alternatives import AHEAD
from wary_hound.authoring.batch import ways_at_once
from wary_hound.authoring.question import Question
from wary_hound.authoring.ranking import Candidate, apart, covering, failures_of, futures_of, rank, telling
from wary_hound.authoring.weakness import is_weak
from wary_hound.errors import WaryHoundError
from wary_hound.locator.evaluate import match
from wary_hound.locator.notation import parse
from wary_hound.locator.values import Locator
from wary_hound.page import Element, Page
from wary_hound.page.cache import Bounded, Cache
from wary_hound.robustness.data import known_by_number
from wary_hound.robustness.dependence import dependencies
from wary_hound.robustness.dependency import Dependency
from wary_hound.robustness.survival import closed_form

MOST = 12
ENOUGH = 4
"""With so many ways that rest on different facts nothing more is searched for."""
LONGEST = 160
"""A longer locator is no short memory."""


def witnesses(element: Element, most: int = MOST, ranked: Sequence[Candidate] | None = None) -> tuple[Locator, ...]:
    """At most so many ways to say an element, the most independent first. `ranked`: its candidates, where they are at hand."""
    question = Question(ways=1)
    candidates = rank(element, question) if ranked is None else [c for c in ranked if c.locator.otherwise is None]
    strong = [c for c in candidates if not c.weak and len(str(c.locator)) <= LONGEST]
    if not strong:
        return ()
    differing = telling(strong, 3 * most)
    futures = futures_of(element.page, question)
    failing = [failures_of(element, c.locator, futures)[:, AHEAD - 1] for c in differing]
    return tuple(differing[k].locator for k in covering(failing, most))


def witnesses_at_once(element: Element, most: int = MOST) -> tuple[Locator, ...]:
    """The same without a search and without futures, for all elements of a page: by what an element says of itself, and by its kind
    in what stands around it; the longest-lasting first, then whichever shares the fewest facts with those before it. Where there
    are fewer than ENOUGH, they are searched for."""
    question, page, index = Question(ways=1), element.page, element.index
    known = known_by_number(element.page, element.index)
    said = ((way, dependencies(page, way, index)) for way in ways_at_once(element, question) if len(str(way)) <= LONGEST)
    strong = [(way, facts) for way, facts in said if not is_weak(facts, index, known)]
    strong.sort(key=lambda one: -closed_form(question.weighing, one[1], index, 1))
    resting_on = [(way, frozenset(facts)) for way, facts in strong]
    ways = apart(((one, one[1]) for one in resting_on), len(resting_on))
    if len(ways) < ENOUGH:
        return witnesses(element, most)
    chosen, told = list[Locator](), Counter[Dependency]()
    while ways and len(chosen) < most:
        way, resting = ways.pop(min(range(len(ways)), key=lambda k: (sum(told[fact] for fact in ways[k][1]), k)))
        chosen.append(way)
        told.update(resting)
    return tuple(chosen)


class Known(Cache):
    """The witnesses of elements of a page, chosen when they are first asked for."""

    def __init__(self, page: Page) -> None:
        super().__init__(page)
        self._kept: Bounded[int, tuple[Locator, ...]] = Bounded(5_000)

    def of_element(self, index: int) -> tuple[Locator, ...]:
        """The witnesses of an element, by its index."""
        known = self._kept.get(index)
        if known is None:
            known = self._kept[index] = witnesses(self.page[index])
        return known


def readable(ways: Sequence[str]) -> Iterator[Locator]:
    """Remembered ways as locators; what another version wrote may not be read."""
    for way in ways:
        with contextlib.suppress(WaryHoundError):
            yield parse(way)


def votes(ways: Sequence[Locator | str], page: Page) -> tuple[int, ...]:
    """What each way finds on a page, where it finds one element; -1 where it finds none or several, or cannot be read."""
    votes = []
    for way in ways:
        try:
            there = match(page, parse(way) if isinstance(way, str) else way)
        except WaryHoundError:  # written by another version, or in need of boxes that this page does not have
            there = []
        votes.append(there[0] if len(there) == 1 else -1)
    return tuple(votes)
