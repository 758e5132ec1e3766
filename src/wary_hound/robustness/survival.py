"""Survival of locators by simulation of a page's futures, with common random numbers for all of them.

Time is changed to the summed size of releases: a fact with hazard h breaks when its exponential threshold E falls below
h times the sizes so far. E belongs to the fact, the sizes to the future, so locators that share a fact lose it in the same
futures, and all of them meet the same redesigns. That is what comparing them, and choosing fallbacks, rests on.
"""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt

from wary_hound.robustness.dependence import Dependency
from wary_hound.robustness.model import ChangeModel, key_of

FUTURES = 1000
HORIZON = 10
Floats = npt.NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Outlook:
    """What becomes of one locator after 1..HORIZON releases; shares of futures, each tuple one entry a release."""

    alive: tuple[float, ...]
    lost: tuple[float, ...]
    stolen: tuple[float, ...]
    ambiguous: tuple[float, ...]
    low: tuple[float, ...]
    """5 % bound of the survival, from the uncertainty of the rates."""
    high: tuple[float, ...]
    """95 % bound."""
    hazards: tuple[tuple[Dependency, float], ...] = ()
    """What it depends on, with the hazard of each, the greatest first."""


@dataclass
class Futures:
    """Possible futures of one page: release sizes, and thresholds of facts made when first asked for."""

    model: ChangeModel
    seed: int = 0
    count: int = FUTURES
    horizon: int = HORIZON
    _thresholds: dict[tuple[object, ...], Floats] = field(default_factory=dict)

    def __post_init__(self) -> None:
        picks = self._generator(("sizes",)).choice(len(self.model.sizes), (self.count, self.horizon), p=self._shares())
        self.sizes: Floats = np.cumsum(self.model.multipliers[picks], axis=1)
        """Summed sizes, shape (futures, releases)."""
        self._normals: dict[str, Floats] = {}

    def _shares(self) -> Floats:
        shares = self.model.shares
        return shares / shares.sum()

    def _generator(self, key: tuple[object, ...]) -> np.random.Generator:
        digest = hashlib.blake2b(repr((self.seed, *key)).encode(), digest_size=16).digest()
        return np.random.Generator(np.random.PCG64(int.from_bytes(digest, "big")))

    def threshold(self, *key: object) -> Floats:
        """Exponential thresholds of one fact, one a future; the same for whoever asks."""
        found = self._thresholds.get(key)
        if found is None:
            found = self._thresholds[key] = self._generator(key).exponential(size=self.count)
        return found

    def doubt(self, group: str) -> Floats:
        """Standard normal draws for the uncertainty of one rate, shared by all that use it."""
        found = self._normals.get(group)
        if found is None:
            found = self._normals[group] = self._generator(("rate", group)).standard_normal(200)
        return found


@dataclass(frozen=True, slots=True)
class _Fate:
    """When a locator breaks, is stolen, is crowded: summed size of releases at which it happens, one a future."""

    breaks: Floats
    taken: Floats
    crowded: Floats


def _fate(futures: Futures, dependencies: Sequence[Dependency], element: int) -> _Fate:
    model = futures.model
    breaks = np.full(futures.count, np.inf)
    for dependency in dependencies:
        hazard = model.rate(model.lost, dependency.group).hazard
        if hazard > 0:
            key = (dependency.kind, dependency.element, dependency.value)
            np.minimum(breaks, futures.threshold(*key) / hazard, out=breaks)
    key_name = key_of(dependencies, element)
    steal = max(model.rate(model.stolen, key_name).hazard, 1e-12)
    crowd = max(model.rate(model.ambiguous, key_name).hazard, 1e-12)
    return _Fate(
        breaks,
        futures.threshold("stolen", key_name, element) / steal,
        futures.threshold("ambiguous", key_name, element) / crowd,
    )


def failures(futures: Futures, dependencies: Sequence[Dependency], element: int, releases: int) -> npt.NDArray[np.bool_]:
    """In which futures a locator no longer finds its element alone after a number of releases."""
    fate = _fate(futures, dependencies, element)
    first = np.minimum(np.minimum(fate.breaks, fate.taken), fate.crowded)
    found: npt.NDArray[np.bool_] = futures.sizes[:, releases - 1] >= first
    return found


def outlook(futures: Futures, dependencies: Sequence[Dependency], element: int) -> Outlook:
    """Simulate one locator given what it depends on; `element` is the one that it should find."""
    model = futures.model
    hazards = [(d, model.rate(model.lost, d.group).hazard) for d in dependencies]
    key = key_of(dependencies, element)
    fate = _fate(futures, dependencies, element)
    sizes = futures.sizes
    is_lost = sizes >= fate.breaks[:, None]
    is_stolen = sizes >= fate.taken[:, None]
    is_ambiguous = (sizes >= fate.crowded[:, None]) & ~is_stolen & ~is_lost
    is_lost &= ~is_stolen
    stolen, lost, ambiguous = is_stolen.mean(0), is_lost.mean(0), is_ambiguous.mean(0)
    low, high = _bounds(futures, hazards, key)
    alive = 1 - stolen - lost - ambiguous
    return Outlook(
        alive=_tuple(alive),
        lost=_tuple(lost),
        stolen=_tuple(stolen),
        ambiguous=_tuple(ambiguous),
        low=_tuple(np.minimum(low, alive)),
        high=_tuple(np.maximum(high, alive)),
        hazards=tuple(sorted(hazards, key=lambda entry: -entry[1])),
    )


def _bounds(futures: Futures, hazards: Sequence[tuple[Dependency, float]], key: str) -> tuple[Floats, Floats]:
    """5 % and 95 % of the closed form over the uncertainty of the rates, one entry a release."""
    model = futures.model
    total = np.zeros(200)
    for dependency, hazard in hazards:
        spread = model.rate(model.lost, dependency.group).spread
        total += hazard * np.exp(spread * futures.doubt(dependency.group))
    for name, table in (("stolen", model.stolen), ("ambiguous", model.ambiguous)):
        rate = model.rate(table, key)
        total += rate.hazard * np.exp(rate.spread * futures.doubt(f"{name} {key}"))
    each = model.lasting(total, 1)
    curves = each[:, None] ** np.arange(1, futures.horizon + 1)
    low, high = np.quantile(curves, [0.05, 0.95], axis=0)
    return low, high


def closed_form(model: ChangeModel, dependencies: Sequence[Dependency], element: int, releases: int) -> float:
    """Survival by the closed form: a check of the simulation, and cheap."""
    key = key_of(dependencies, element)
    total = sum(model.rate(model.lost, d.group).hazard for d in dependencies)
    total += model.rate(model.stolen, key).hazard + model.rate(model.ambiguous, key).hazard
    return float(model.lasting(total, releases))


def _tuple(values: Floats) -> tuple[float, ...]:
    return tuple(float(min(1.0, max(0.0, v))) for v in values)
