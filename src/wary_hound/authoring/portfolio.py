"""Portfolios: a main locator and fallbacks that fail in different futures."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from wary_hound.authoring.ranking import Candidate, futures_of, rank
from wary_hound.page import Element
from wary_hound.robustness.dependence import dependencies
from wary_hound.robustness.model import ChangeModel
from wary_hound.robustness.survival import failures

AHEAD = 3
"""Releases ahead that the members are chosen for."""


@dataclass(frozen=True, slots=True)
class Portfolio:
    """`survival`: the probability that a member still finds the element, and it alone, after AHEAD releases."""

    main: Candidate
    fallbacks: tuple[Candidate, ...]
    survival: float


def portfolio(element: Element, size: int = 3, model: ChangeModel | None = None, ranked: Sequence[Candidate] = ()) -> Portfolio:
    """The best candidate, then greedily whichever leaves the fewest futures in which all members fail.

    Greedy choice is within 1 - 1/e of the best set, since covering futures is submodular (Nemhauser, Wolsey, Fisher 1978).
    Raises ValueError for a size below 1.
    """
    if size < 1:
        raise ValueError(f"a portfolio has at least 1 member, not {size}")
    model = model or ChangeModel.shipped()
    candidates = [c for c in ranked if c.locator.otherwise is None] or rank(element, model, ways=1)
    futures = futures_of(element.page, model, 0)
    failing = [
        failures(futures, dependencies(element.page, c.locator, element.index), element.index)[:, AHEAD - 1] for c in candidates
    ]
    chosen = [0]
    together = failing[0]
    while len(chosen) < min(size, len(candidates)):
        left = [(float((together & f).mean()), k) for k, f in enumerate(failing) if k not in chosen]
        _, best = min(left)
        chosen.append(best)
        together = together & failing[best]
    return Portfolio(candidates[0], tuple(candidates[k] for k in chosen[1:]), float(1 - np.mean(together)))
