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
    components: Sequence[int] = ()
    """What heads the component of each element of the page; empty: all in one."""
    page: str = ""
    """Sets facts of several pages apart; sizes of releases are shared by all."""
    _thresholds: dict[tuple[object, ...], Floats] = field(default_factory=dict)

    def __post_init__(self) -> None:
        picks = self._generator(("sizes",)).choice(len(self.model.sizes), (self.count, self.horizon), p=self._shares())
        self._each: Floats = self.model.multipliers[picks]
        self._sizes: dict[int, Floats] = {}
        self._normals: dict[str, Floats] = {}

    def sizes(self, element: int) -> Floats:
        """Summed sizes of releases as the component of an element meets them, shape (futures, releases)."""
        component = self.components[element] if 0 <= element < len(self.components) else -1
        found = self._sizes.get(component)
        if found is None:
            shocks = self.model.shocks
            generator = self._generator(("component", self.page, component))
            picks = generator.choice(len(shocks), self._each.shape, p=[s.share for s in shocks])
            met = self._each * np.asarray([s.multiplier for s in shocks])[picks]
            found = self._sizes[component] = np.cumsum(met, axis=1)
        return found

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
            found = self._thresholds[key] = self._generator((self.page, *key)).exponential(size=self.count)
        return found

    def doubt(self, group: str) -> Floats:
        """Standard normal draws for the uncertainty of one rate, shared by all that use it."""
        found = self._normals.get(group)
        if found is None:
            found = self._normals[group] = self._generator(("rate", group)).standard_normal(200)
        return found


@dataclass(frozen=True, slots=True)
class _Fate:
    """Whether a locator has lost its element, been stolen, been crowded; shape (futures, releases) each."""

    lost: npt.NDArray[np.bool_]
    stolen: npt.NDArray[np.bool_]
    crowded: npt.NDArray[np.bool_]


def _fate(futures: Futures, dependencies: Sequence[Dependency], element: int) -> _Fate:
    """What shares a component shares its clock, so the earliest break of each component is all that is asked of it."""
    model = futures.model
    breaks: dict[int, tuple[int, Floats]] = {}
    for dependency in dependencies:
        hazard = model.rate(model.lost, dependency.group).hazard
        if hazard > 0:
            at = dependency.element
            component = futures.components[at] if 0 <= at < len(futures.components) else -1
            due = futures.threshold(dependency.kind, at, dependency.value) / hazard
            breaks[component] = (at, np.minimum(breaks[component][1], due) if component in breaks else due)
    own = futures.sizes(element)
    lost = np.zeros(own.shape, np.bool_)
    for at, due in breaks.values():
        lost |= futures.sizes(at) >= due[:, None]
    key_name = key_of(dependencies, element)
    steal = max(model.rate(model.stolen, key_name).hazard, 1e-12)
    crowd = max(model.rate(model.ambiguous, key_name).hazard, 1e-12)
    return _Fate(
        lost,
        own >= (futures.threshold("stolen", key_name, element) / steal)[:, None],
        own >= (futures.threshold("ambiguous", key_name, element) / crowd)[:, None],
    )


def failures(futures: Futures, dependencies: Sequence[Dependency], element: int) -> npt.NDArray[np.bool_]:
    """Where a locator no longer finds its element alone; shape (futures, releases)."""
    fate = _fate(futures, dependencies, element)
    found: npt.NDArray[np.bool_] = fate.lost | fate.stolen | fate.crowded
    return found


def outlook(futures: Futures, dependencies: Sequence[Dependency], element: int) -> Outlook:
    """Simulate one locator given what it depends on; `element` is the one that it should find."""
    model = futures.model
    hazards = [(d, model.rate(model.lost, d.group).hazard) for d in dependencies]
    key = key_of(dependencies, element)
    fate = _fate(futures, dependencies, element)
    stolen, lost, ambiguous = (
        fate.stolen.mean(0),
        (fate.lost & ~fate.stolen).mean(0),
        (fate.crowded & ~fate.stolen & ~fate.lost).mean(0),
    )
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
