"""Portfolios: a main locator and fallbacks that fail in different futures."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from wary_hound.authoring.alternatives import AHEAD, say_the_same, says_itself, told_by
from wary_hound.authoring.question import Question
from wary_hound.authoring.ranking import Candidate, covering, failures_of, futures_of, rank
from wary_hound.page import Element

WORTH_NAMING = 0.01
"""In so many futures more must a fallback find the element."""


@dataclass(frozen=True, slots=True)
class Portfolio:
    """`survival`: the probability that a member still finds the element, and it alone, after AHEAD releases."""

    main: Candidate
    fallbacks: tuple[Candidate, ...]
    survival: float


def portfolio(element: Element, size: int = 3, question: Question | None = None, ranked: Sequence[Candidate] = ()) -> Portfolio:
    """The best candidate, and those that fail when it does not (see `covering`); of these none that does not say itself which
    element is meant (when that has gone, it finds whatever is left), none that tells it by the same as one before it, and none that
    adds less than one future in a hundred. Raises ValueError for a size below 1."""
    if size < 1:
        raise ValueError(f"a portfolio has at least 1 member, not {size}")
    asked = replace(question or Question(), ways=1)
    first, *others = [c for c in ranked if c.locator.otherwise is None] or rank(element, asked)
    candidates = [first, *(c for c in others if says_itself(c, element.index, element.page))]
    told = [told_by(one, element) for one in candidates]
    futures = futures_of(element.page, replace(asked, seed=0))
    failing = [failures_of(element, c.locator, futures)[:, AHEAD - 1] for c in candidates]
    tastes = [c.distaste for c in candidates]
    kept = covering(failing, size, tastes, WORTH_NAMING, lambda one, other: say_the_same(told[one], told[other]))
    together = np.logical_and.reduce([failing[k] for k in kept])
    survival = futures.model.calibrated(np.asarray(1 - np.mean(together)))
    return Portfolio(candidates[0], tuple(candidates[k] for k in kept[1:]), float(survival))
