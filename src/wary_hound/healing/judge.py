"""The judge: how likely a candidate is the element that is looked for, from all the evidence at once.

What a pair says itself, what stands around it, and how it stands against its rivals go into boosted trees that can only rise
with each likeness (monotone, so that no accident of the pages they were fitted on turns one against it). judge.json holds them,
with the weights of the alignment, and says what they were fitted on.
"""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from importlib import resources
from typing import Any

import numpy as np
import numpy.typing as npt

from wary_hound.healing.alignment import Aligning, Scores
from wary_hound.healing.forest import Forest
from wary_hound.healing.likeness import FEATURES, Floats, Ints, sole
from wary_hound.robustness.model import UNCALIBRATED, Curve

STANDING = (
    "score", "margin", "reverse", "deficit", "deficit of the page", "share aligned", "is the image", "claimed", "rank", "nested",
    "votes", "vote share",
)  # fmt: skip
EVIDENCE = (*FEATURES, *STANDING)
"""What the judge hears: the features of the pair, and how it stands: its score; by how much that is above the next candidate that
neither holds it nor is in it (`nested`: those that do), and above what else could be its new element (`reverse`); how far it is
below perfect agreement, and how far all pairs of the page are; the share of the old page that is aligned; whether the alignment
takes it, or gives its new element to another; how many of the known ways to say the element find just this one, of all, and of
those that find one."""
WRONG_COSTS = 10.0
"""What a wrong element costs, where an open question costs 1."""
SURE = 1 - 1 / WRONG_COSTS
"""Confidence from which an element is named: below it, asking costs less than the chance of being wrong."""
GONE = 1 / WRONG_COSTS
"""Confidence below which it is called gone; between the two the verdict is unsure."""
EITHER = 0.5
"""No more is believed of what now holds a control that says the same, or of what is contradicted."""
TOP = 6
"""Candidates of each element that are judged."""
WIDEST = 12.0
"""Margins are cut here: beyond it they say no more."""


@dataclass(frozen=True)
class Judge:
    """The weights of the alignment and the trees for one of two cases: the old page is at hand, or only what is remembered."""

    first: Scores
    later: Scores
    forest: Forest
    said: npt.NDArray[np.float64]
    """Logits of the trees, rising, and ..."""
    true: npt.NDArray[np.float64]
    """... the logit of what came true where they said so, on applications that were left out (Platt 1999, piecewise)."""
    sole: float = 0.0
    """How often it was true of a pair that is called the same, or says the same, as nothing else does on either page, where the
    trees were not sure of it. Whole redesigns are few to learn from, and such pairs are known there by little else."""

    def logits(self, found: Evidence) -> npt.NDArray[np.float64]:
        """What the trees say of each row of evidence, as it came true on applications that were left out."""
        return np.asarray(np.interp(self.forest.logits(found.table), self.said, self.true), np.float64)

    def probabilities(self, found: Evidence, own: Curve = UNCALIBRATED) -> npt.NDArray[np.float64]:
        """The chance of each row of evidence that it is the one; `own`: what that comes to on a team's own pages."""
        logits = own[0] + own[1] * self.logits(found)
        return believed(1 / (1 + np.exp(-logits)), found.sole, self.sole, found.a)

    def to_json(self) -> dict[str, Any]:
        """Plain JSON."""

        def weights(scores: Scores) -> dict[str, list[float]]:
            rows = zip(FEATURES, scores.known.tolist(), scores.unknown.tolist(), strict=True)
            return {f: [round(k, 3), round(u, 3)] for f, k, u in rows}

        return {
            "first": weights(self.first),
            "later": weights(self.later),
            "trees": self.forest.to_json(),
            "said": [round(v, 3) for v in self.said.tolist()],
            "true": [round(v, 3) for v in self.true.tolist()],
            "sole": round(self.sole, 3),
        }

    @classmethod
    def from_json(cls, data: Mapping[str, Any]) -> Judge:
        """The inverse of `to_json`."""

        def weights(rows: Mapping[str, list[float]]) -> Scores:
            both = np.asarray([rows[f] for f in FEATURES], np.float64)
            return Scores(both[:, 0], both[:, 1])

        return cls(
            weights(data["first"]),
            weights(data["later"]),
            Forest.from_json(data["trees"]),
            np.asarray(data["said"], np.float64),
            np.asarray(data["true"], np.float64),
            float(data["sole"]),
        )


def believed(
    chance: npt.NDArray[np.float64], alone: npt.NDArray[np.bool_], sole: float, group: npt.NDArray[np.int64]
) -> npt.NDArray[np.float64]:
    """What the trees say, and `sole` at least of what is alone in what it is called or says, unless they call it gone, or are sure
    of another candidate of the same element (`group`)."""
    lifted = alone & (chance > GONE) & ~contradicted(chance, alone, group)
    return np.asarray(np.where(lifted, np.maximum(chance, sole), chance), np.float64)


def contradicted(
    chance: npt.NDArray[np.float64], alone: npt.NDArray[np.bool_], group: npt.NDArray[np.int64]
) -> npt.NDArray[np.bool_]:
    """The candidates of elements of which the trees are sure of one, and another one, which they do not call gone, is alone in what
    it is called or says: neither is to be named."""
    named, sure = alone & (chance > GONE), ~alone & (chance >= SURE)
    return np.asarray(np.isin(group, np.intersect1d(group[named], group[sure])), np.bool_)


@lru_cache(maxsize=1)
def shipped() -> tuple[Judge, Judge]:
    """The judges that ship with the package: where the old page is at hand, and where only a memory is."""
    path = resources.files("wary_hound.healing") / "judge.json"
    data = json.loads(path.read_text(encoding="utf-8"))
    return Judge.from_json(data["aligned"]), Judge.from_json(data["remembered"])


@dataclass(frozen=True)
class Evidence:
    """The candidates of some old elements, at most TOP of each, best first: pairs, their evidence, and which of them alone on their
    pages are called what they are, or say what they say."""

    a: Ints
    b: Ints
    table: Floats
    sole: npt.NDArray[np.bool_]
    parted: npt.NDArray[np.bool_]
    """Which now hold a control that says the same, and did not before: the element, or that, could be meant."""


def gather(
    aligning: Aligning, asked: Ints, barred: slice | None = None, votes: Mapping[int, Sequence[int]] | None = None
) -> Evidence:
    """The evidence on some old elements (ascending). `barred`: elements of the new page that are taken to be not there. `votes`:
    for old elements what each known way to say them finds on the new page, or -1."""
    rows = np.flatnonzero(np.isin(aligning.a, asked))
    if barred is not None:
        rows = rows[(aligning.b[rows] < barred.start) | (aligning.b[rows] >= barred.stop)]
    if not len(rows):
        none = np.zeros(0, np.bool_)
        return Evidence(rows, rows, np.zeros((0, len(EVIDENCE)), np.float32), none, none)
    rows = rows[np.lexsort((-aligning.score[rows], aligning.a[rows]))]
    a, b, score = aligning.a[rows], aligning.b[rows], aligning.score[rows]
    start = np.flatnonzero(np.append(True, a[1:] != a[:-1]))
    sizes = np.diff(np.append(start, len(a)))
    group = np.repeat(np.arange(len(start)), sizes)
    rank = np.arange(len(a)) - start[group]
    end = aligning.new.end.astype(np.int64)
    margin, nested = np.full(len(a), WIDEST), np.full(len(a), WIDEST)
    for place in range(min(TOP, int(sizes.max()))):
        there = sizes > place
        chosen = start + np.minimum(place, sizes - 1)  # the row of each group that is looked at
        own = b[chosen][group]
        related = ((b >= own) & (b < end[own])) | ((b <= own) & (end[b] > own))
        rival = np.maximum.reduceat(np.where(related, -np.inf, score), start)
        inside = np.maximum.reduceat(np.where(related & (b != own), score, -np.inf), start)
        margin[chosen[there]] = _cut(score[chosen] - rival)[there]
        nested[chosen[there]] = _cut(score[chosen] - inside)[there]
    top = np.flatnonzero(rank < TOP)
    a, b = a[top], b[top]
    table = aligning.table[rows[top]]
    inverse = np.full(len(aligning.new), -1, np.int64)
    known = np.flatnonzero(aligning.image >= 0)
    inverse[aligning.image[known]] = known
    of_page = _of_page(aligning, known)
    standing = np.column_stack(
        [
            score[top], margin[top], _reverse(aligning, a, b, score[top]), aligning.later.deficit(table),
            np.full(len(top), of_page), np.full(len(top), len(known) / max(1, aligning.size)),
            aligning.image[a] == b, (inverse[b] >= 0) & (inverse[b] != a), rank[top], nested[top],
        ]
    )  # fmt: skip
    voted = np.asarray([_voted(votes, n, at, barred) for n, at in zip(a.tolist(), b.tolist(), strict=True)], np.float32)
    parted = (aligning.pages.b.numbers("holding")[b] == 1) & (aligning.pages.a.numbers("holding")[a] == 0)
    return Evidence(a, b, np.hstack([table, standing.astype(np.float32), voted]), sole(aligning.pages, a, b), parted)


def _voted(votes: Mapping[int, Sequence[int]] | None, number: int, at: int, barred: slice | None) -> tuple[float, float]:
    """The share of all known ways that find this element, and of those that find one at all; NaN where none is known."""
    given = votes.get(number) if votes else None
    if not given:
        return (np.nan, np.nan)
    cast = [v for v in given if v >= 0 and not (barred is not None and barred.start <= v < barred.stop)]
    mine = sum(v == at for v in cast)
    return mine / len(given), mine / len(cast) if cast else 0.0


def _cut(apart: npt.NDArray[np.float64]) -> npt.NDArray[np.float64]:
    return np.clip(np.nan_to_num(apart, posinf=WIDEST, neginf=-WIDEST), -WIDEST, WIDEST)


def _of_page(aligning: Aligning, known: Ints) -> float:
    """The mean deficit of all pairs that the alignment takes: how much else on the page has changed."""
    if not len(known):
        return WIDEST
    width = len(aligning.new)
    at = np.searchsorted(aligning.a * width + aligning.b, known * width + aligning.image[known])
    return float(np.mean(aligning.later.deficit(aligning.table[at])))


def _reverse(aligning: Aligning, a: Ints, b: Ints, score: npt.NDArray[np.float64]) -> npt.NDArray[np.float64]:
    """How far each pair is above the best other pair of its new element, with old elements that neither hold its own nor are in
    it."""
    order = np.argsort(aligning.b, kind="stable")
    ordered = aligning.b[order]
    first, behind = np.searchsorted(ordered, b, "left"), np.searchsorted(ordered, b, "right")
    sizes = behind - first
    pair = np.repeat(np.arange(len(b)), sizes)
    other = order[np.arange(int(sizes.sum())) - np.repeat(np.cumsum(sizes) - sizes, sizes) + np.repeat(first, sizes)]
    was, mine = aligning.a[other], a[pair]
    related = was == mine
    if aligning.old is not None:
        end = aligning.old.end.astype(np.int64)
        related |= ((was > mine) & (was < end[mine])) | ((was < mine) & (end[was] > mine))
    best = np.full(len(b), -np.inf)
    np.maximum.at(best, pair[~related], aligning.score[other[~related]])
    return _cut(score - best)
