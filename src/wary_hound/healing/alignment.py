"""Alignment: which element of an old page is which of a new one, for all elements at once.

Sure pairs first, by what is rare on both pages; then what is known spreads to what stands around it, round by round (the anchors
and the recovery of GumTree, Falleri et al. 2014; the flooding of Melnik et al. 2002). In each round pairs are scored by a
conditional logit over `likeness.FEATURES` (McFadden 1974) and taken greedily, the best first, each element once.
"""

from __future__ import annotations

from collections.abc import Sequence
from copy import copy
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from wary_hound.healing.fingerprint import Fingerprint
from wary_hound.healing.likeness import CONTEXT, FEATURES, OWN, Floats, Ints, Likeness, context
from wary_hound.healing.pairing import by_facts, by_place, distinct
from wary_hound.healing.sheet import Memory, Sheet
from wary_hound.page import Page

ROUNDS = 3
SURE_MARGIN = 2.0
"""In the first round only pairs that are so much better than any other of both elements are taken as context."""
LEAST = -1.0
DENSE = 10
"""For elements that are asked for, so many more candidates come from the whole new page."""


@dataclass(frozen=True)
class Scores:
    """Weights of the features of pairs, where they are known and where they cannot be told."""

    known: npt.NDArray[np.float64]
    unknown: npt.NDArray[np.float64]

    def of(self, table: Floats) -> npt.NDArray[np.float64]:
        """The score of each row, over as many features as it has."""
        total = np.zeros(len(table))
        for column, known, unknown in zip(table.T, self.known, self.unknown, strict=False):
            total += np.where(np.isnan(column), unknown, column * known)
        return total

    def deficit(self, table: Floats) -> npt.NDArray[np.float64]:
        """How far each row is below one in which all that is known agrees."""
        width = table.shape[1]
        return np.asarray(np.where(np.isnan(table), 0, 1 - table) @ self.known[:width], np.float64)


class Aligning:
    """An alignment as it grows: candidate pairs in order of the old element, their features and scores, and the image of each
    old element so far (-1 for none). Of what is merely remembered, nothing stands around it: there is one round."""

    def __init__(self, old: Page | Sequence[Fingerprint], new: Page, first: Scores, later: Scores) -> None:
        self.old = old if isinstance(old, Page) else None
        self.new = new
        self.first, self.later = first, later
        columns = Sheet.of(old) if isinstance(old, Page) else Memory(old)
        self.pages = Likeness(columns, Sheet.of(new))
        self.size = len(columns)
        self.image: Ints = np.full(self.size, -1, np.int64)
        self.a, self.b = by_facts(self.pages)
        self.own = self.pages.own(self.a, self.b)
        self.score = first.of(self.own)
        self.table = self.own
        """With what stands around the pairs, from the first round on."""

    def run(self) -> None:
        """All rounds."""
        if self.old is None:
            self._weigh()
            self._take(0.0)
            return
        self._take(SURE_MARGIN)
        for _ in range(ROUNDS):
            self._add(*by_place(self.old, self.new, self.image))
            self._weigh()
            self._take(0.0)

    def looking_everywhere(self, asked: Ints) -> Aligning:
        """The same with the most alike of the whole new page as candidates of some elements."""
        wider = copy(self)
        wider._look_everywhere(asked)
        if self.old is None:  # nothing else says where they are
            wider._take(0.0)
        return wider

    def _look_everywhere(self, asked: Ints) -> None:
        everywhere = np.arange(len(self.new))
        pairs: list[Ints] = []
        for a in asked.tolist():
            score = self.first.of(self.pages.own(np.full(len(self.new), a), everywhere))
            pairs.append(_best(score, DENSE))
        if pairs:
            self._add(np.repeat(asked, [len(f) for f in pairs]), np.concatenate(pairs))
            self._weigh()

    def _weigh(self) -> None:
        self.table = self._around()
        self.score = self.first.of(self.own) if self.old is None else self.later.of(self.table)

    def _around(self) -> Floats:
        if self.old is None:
            around = np.full((len(self.a), len(CONTEXT)), np.nan, np.float32)
        else:
            around = context(self.old, self.new, self.image, self.a, self.b)
        return np.hstack([self.own, around])

    def _add(self, a: Ints, b: Ints) -> None:
        width = len(self.new)
        keys = np.setdiff1d(a * width + b, self.a * width + self.b)
        more_a, more_b = keys // width, keys % width
        self.own = np.vstack([self.own, self.pages.own(more_a, more_b)])
        self.a, self.b = np.concatenate([self.a, more_a]), np.concatenate([self.b, more_b])
        order = np.argsort(self.a * width + self.b)
        self.a, self.b, self.own = self.a[order], self.b[order], self.own[order]

    def _take(self, margin: float) -> None:
        """Take the best pairs first, each element once."""
        keep = np.flatnonzero(self.score > LEAST)
        if margin:
            apart = np.minimum(margins(self.a, self.score), margins(self.b, self.score))
            keep = keep[apart[keep] >= margin]
        order = keep[np.argsort(-self.score[keep], kind="stable")]
        image = self.image = np.full(self.size, -1, np.int64)
        taken = np.zeros(len(self.new), np.bool_)
        for a, b in zip(self.a[order].tolist(), self.b[order].tolist(), strict=True):
            if image[a] < 0 and not taken[b]:
                image[a] = b
                taken[b] = True


def _best(score: npt.NDArray[np.float64], most: int) -> Ints:
    """The places of the best scores, the best first, of equal ones the first."""
    if len(score) > most:
        least = np.partition(score, len(score) - most)[len(score) - most]
        there = np.flatnonzero(score >= least)
    else:
        there = np.arange(len(score))
    return there[np.argsort(-score[there], kind="stable")[:most]]


def margins(group: Ints, score: npt.NDArray[np.float64]) -> npt.NDArray[np.float64]:
    """How far each score is above the best other of its group; infinite where it is alone."""
    order = np.lexsort((-score, group))
    ordered = group[order]
    start = np.flatnonzero(np.append(True, ordered[1:] != ordered[:-1]))[: len(ordered)]
    sizes = np.diff(np.append(start, len(ordered)))
    best = score[order][start]
    second = np.full(len(start), -np.inf)
    several = sizes > 1
    second[several] = score[order][start[several] + 1]
    number = np.repeat(np.arange(len(start)), sizes)
    first = np.zeros(len(order), np.bool_)
    first[start] = True
    margins = np.empty(len(score))
    margins[order] = score[order] - np.where(first, second[number], best[number])
    return margins


__all__ = ["FEATURES", "OWN", "Aligning", "Scores", "distinct", "margins"]
