"""How sure the judge may be on a team's own pages: what it says of elements that are known to be the same, and what comes true.

A logistic curve of two numbers leads from its confidence to that (Platt 1999), with the judge as it ships as the prior: a few pairs
of pages move it little. Each element is also asked for on the page without it, where nothing is to be found.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from wary_hound.healing.hiding import without_sure
from wary_hound.healing.judge import SURE, WRONG_COSTS, gather
from wary_hound.healing.relocation import Pursuit
from wary_hound.healing.remembering import fingerprint
from wary_hound.page import Page
from wary_hound.robustness.curve import fit_curve
from wary_hound.robustness.model import UNCALIBRATED, Curve

PRIOR = 20.0
"""Precision of the prior that the judge is right as it ships. Of twelve applications, each judged by what was learnt on the others
and by this curve of its earlier releases, it did best on the later ones with 20 to 60."""
TAKEN_COUNTS = 0.06
"""Elements that were taken out on purpose count this much of the real ones: real ones are seldom gone."""
HIDDEN_COUNTS = 0.2
"""Elements of which something was hidden on purpose count this much: real ones seldom change in all that at once."""
MOST_TAKEN = 20
"""So many of a page are taken out."""
LEAST, MOST = -5.0, 5.0


@dataclass(frozen=True, slots=True)
class Heard:
    """What the judge said of the candidates of one element, in logits, and which is the one: none where it was `taken` out."""

    logits: npt.NDArray[np.float64]
    right: npt.NDArray[np.bool_]
    taken: bool = False
    counts: float = 1.0

    @property
    def best_is_right(self) -> bool:
        """Whether the likeliest candidate is the one."""
        return bool(self.right[int(np.argmax(self.logits))])


def hear(old: Page, new: Page, same: Mapping[int, int | None]) -> tuple[list[Heard], list[Heard]]:
    """What the judge says of elements of an old page on a new one, with the old page at hand and from memory. `same`: which of the
    new page each is, None where it is gone."""
    elements = [old[i] for i in same]
    now = list(same.values())
    return _heard(Pursuit(elements, new), now), _heard(Pursuit([fingerprint(e) for e in elements], new), now)


def overhear(old: Page, new: Page, sure: Mapping[int, int]) -> tuple[list[Heard], list[Heard]]:
    """The same where nobody has said which element is which: of those that relocation is sure of, some of what makes it sure is
    hidden, and it must find them by the rest. `sure`: which of the new page each is."""
    elements, now = [old[i] for i in sure], list(sure.values())
    return _overheard(Pursuit(elements, new), now), _overheard(Pursuit([fingerprint(e) for e in elements], new), now)


def _heard(pursuit: Pursuit, now: Sequence[int | None]) -> list[Heard]:
    aligning, judge = pursuit.aligning, pursuit.judge
    same = dict(zip(pursuit.numbers, now, strict=True))
    there = gather(aligning, np.asarray(sorted(same)))
    said = judge.logits(there)
    found = []
    for number, at in same.items():
        mine = there.a == number
        found.append(Heard(said[mine], there.b[mine] == (-1 if at is None else at)))
    return found + _taken_out(pursuit, [(number, at) for number, at in same.items() if at is not None])


def _overheard(pursuit: Pursuit, now: Sequence[int]) -> list[Heard]:
    same = dict(zip(pursuit.numbers, now, strict=True))
    found = []
    for number, less in without_sure(pursuit.aligning, same, pursuit.page.digest):
        found.append(Heard(pursuit.judge.logits(less), less.b == same[number], counts=HIDDEN_COUNTS))
    return found + _taken_out(pursuit, list(same.items()))


def _taken_out(pursuit: Pursuit, present: Sequence[tuple[int, int]]) -> list[Heard]:
    """What the judge says of some elements on the page without them, where nothing is to be found."""
    aligning, end = pursuit.aligning, pursuit.page.end
    found = []
    taken = present[:: max(1, -(-len(present) // MOST_TAKEN))]
    for number, at in taken:
        without = gather(aligning, np.asarray([number]), slice(at, int(end[at])))
        counts = TAKEN_COUNTS * len(present) / len(taken)
        found.append(Heard(pursuit.judge.logits(without), np.zeros(len(without.b), np.bool_), True, counts))
    return found


def fitted(heard: Sequence[Heard]) -> Curve:
    """Intercept and slope, in logits, from what the judge says to what comes true. As it ships, where by these it would do worse on
    the same elements: a wrong one costs WRONG_COSTS open questions."""
    if not any(one.right.any() for one in heard):
        return UNCALIBRATED
    logits = np.concatenate([one.logits for one in heard])
    right = np.concatenate([one.right for one in heard])
    weight = np.concatenate([np.full(len(one.logits), one.counts) for one in heard])
    intercept, slope = fit_curve(logits, right, weight, PRIOR)
    curve = float(np.clip(intercept, LEAST, MOST)), float(np.clip(slope, 0.1, MOST))
    return curve if _cost(heard, curve) <= _cost(heard, UNCALIBRATED) else UNCALIBRATED


def told(heard: Sequence[Heard], curve: Curve) -> tuple[float, float]:
    """The shares of the elements of which the judge, by a curve, is sure and right, and sure and wrong."""
    elements = [one for one in heard if not one.taken]
    named = [one.best_is_right for one in elements if _is_sure(one, curve)]
    return sum(named) / max(1, len(elements)), (len(named) - sum(named)) / max(1, len(elements))


def _is_sure(one: Heard, curve: Curve) -> bool:
    return len(one.logits) > 0 and bool(curve[0] + curve[1] * one.logits.max() >= np.log(SURE / (1 - SURE)))


def _cost(heard: Sequence[Heard], curve: Curve) -> float:
    """What the verdicts cost: an open question 1, a wrong element WRONG_COSTS; of what was taken out all that is named is wrong."""
    cost = 0.0
    for one in heard:
        if _is_sure(one, curve):
            cost += one.counts * WRONG_COSTS * (not one.best_is_right)
        elif not one.taken:
            cost += one.counts
    return cost
