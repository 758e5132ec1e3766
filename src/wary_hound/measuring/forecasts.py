"""How good predictions of survival proved: by number of releases, calibration, Brier score, regret, concordance."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field

import numpy as np

BINS = 10
FIRST = 10
"""Candidates that regret and concordance look at."""


@dataclass(frozen=True, slots=True)
class Bin:
    """Predictions of nearly the same survival: how many, their mean, and the share that proved alive."""

    count: int
    predicted: float
    observed: float


@dataclass
class Forecasts:
    """What was predicted and what came, over pairs of versions.

    `made` holds (releases between the versions, predicted survival, alive) of the top candidate. Of the first FIRST
    candidates: `top` and `best` count the pairs in which the top one, and the one best in hindsight over all later versions
    of its element, is alive, `some` those in which any is. `ordered` of `comparable` pairs of candidates, one alive and one
    not, had the higher prediction for the one alive. `team` counts what main and fallbacks come to, asked in their order.
    """

    made: list[tuple[int, float, bool]] = field(default_factory=list)
    top: int = 0
    best: int = 0
    some: int = 0
    ordered: float = 0.0
    comparable: int = 0
    team: Counter[str] = field(default_factory=Counter)

    def add(self, other: Forecasts) -> None:
        """Take in what was counted elsewhere."""
        self.made.extend(other.made)
        self.top += other.top
        self.best += other.best
        self.some += other.some
        self.ordered += other.ordered
        self.comparable += other.comparable
        self.team.update(other.team)

    def judge(self, ahead: Sequence[int], predicted: Sequence[Sequence[float]], alive: Sequence[Sequence[bool]]) -> None:
        """One element: `ahead` has the releases to each later version; `predicted` and `alive` one row a candidate, best
        first, one entry a later version."""
        if not ahead:
            return
        self.made.extend(zip(ahead, predicted[0], alive[0], strict=True))
        self.top += sum(alive[0])
        self.best += max(sum(row) for row in alive)
        self.some += sum(any(row[k] for row in alive) for k in range(len(ahead)))
        for k in range(len(ahead)):
            living = [p[k] for p, a in zip(predicted, alive, strict=True) if a[k]]
            dead = [p[k] for p, a in zip(predicted, alive, strict=True) if not a[k]]
            for one in living:
                for other in dead:
                    self.comparable += 1
                    self.ordered += 1.0 if one > other else 0.5 if one == other else 0.0

    @property
    def count(self) -> int:
        """How many predictions of the top candidate were judged."""
        return len(self.made)

    @property
    def brier(self) -> float | None:
        """Mean squared difference of prediction and outcome (Brier 1950); 0.25 is what always saying 0.5 gets."""
        return float(np.mean([(p - a) ** 2 for _, p, a in self.made])) if self.made else None

    @property
    def regret(self) -> float | None:
        """Share of pairs by which the best of the first candidates in hindsight beats the top one."""
        return (self.best - self.top) / self.count if self.made else None

    @property
    def concordance(self) -> float | None:
        """Of two candidates of which one proved right, how often it had the higher forecast."""
        return self.ordered / self.comparable if self.comparable else None

    def by_releases(self) -> dict[int, Bin]:
        """Predictions of the top candidate by how many releases ahead."""
        return {k: _bin([m for m in self.made if m[0] == k]) for k in sorted({m[0] for m in self.made})}

    def calibration(self) -> list[Bin]:
        """Predictions in BINS bins of equal width; empty ones left out."""
        bins: dict[int, list[tuple[int, float, bool]]] = {}
        for entry in self.made:
            bins.setdefault(min(int(entry[1] * BINS), BINS - 1), []).append(entry)
        return [_bin(bins[k]) for k in sorted(bins)]

    @property
    def calibration_error(self) -> float | None:
        """Mean distance of predicted and observed over the bins, by their counts (expected calibration error)."""
        if not self.made:
            return None
        return sum(b.count * abs(b.predicted - b.observed) for b in self.calibration()) / self.count


def _bin(entries: Iterable[tuple[int, float, bool]]) -> Bin:
    rows = list(entries)
    return Bin(len(rows), float(np.mean([p for _, p, _ in rows])), float(np.mean([a for _, _, a in rows])))
