"""Survival of locators by simulation of a page's futures, with common random numbers for all of them.

Time is changed to the summed size of releases: a fact with hazard h breaks when its exponential threshold E falls below
h times the sizes so far. E belongs to the fact, the sizes to the future, so locators that share a fact lose it in the same
futures, and all of them meet the same redesigns. That is what comparing them, and choosing fallbacks, rests on.
"""

from __future__ import annotations

import hashlib
import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import lru_cache, reduce
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from wary_hound.page.cache import Bounded
from wary_hound.robustness.dependency import SEEN, Dependency
from wary_hound.robustness.model import ChangeModel, key_of

FUTURES = 1000
HORIZON = 10
DOUBTS = 200
"""Draws of the rates within their uncertainty, for the intervals."""
MOST_DRAWN, MOST_TAKEN, MOST_BROKEN = 2_000, 1_000, 10_000
"""So many thresholds, thefts and breaks are remembered (8, 2 and 1 kB each): a fact that is asked for again is drawn alike."""
MIXED = 512
"""So many sets of thresholds, and so many orders, are drawn once; each fact has one of either: two facts are independent unless
they have both in common."""
AT_95 = 1.645
"""So many standard deviations above the mean lies the 95 % bound of a normal distribution."""
Floats = npt.NDArray[np.float64]
Ints = npt.NDArray[np.integer]


@dataclass(frozen=True, slots=True)
class Outlook:
    """What becomes of one locator after 1..HORIZON releases; shares of futures, each tuple one entry a release."""

    alive: tuple[float, ...]
    lost: tuple[float, ...]
    stolen: tuple[float, ...]
    ambiguous: tuple[float, ...]
    low: tuple[float, ...]
    """5 % bound of the survival over applications: they differ in pace, and the rates are uncertain."""
    high: tuple[float, ...]
    """95 % bound."""
    doubt: tuple[float, ...] = ()
    """How much lower the survival may be (5 % bound) by the uncertainty of the rates alone."""
    theft_doubt: tuple[float, ...] = ()
    """How much greater `stolen` may be (95 % bound), likewise."""
    hazards: tuple[tuple[Dependency, float], ...] = ()
    """What it depends on, with the hazard of each, the greatest first."""
    simulated: tuple[float, ...] = ()
    """`alive` before calibration."""
    bounds: tuple[tuple[float, ...], ...] = ()
    """`low`, `high` and the bound behind `doubt`, before calibration."""


class Thefts(NamedTuple):
    """Shares stolen after 1, 2, ... releases by the closed form: as the rates have it, what that comes to by experience, and the
    95 % bound of this by the uncertainty of the rate."""

    simulated: Floats
    likely: Floats
    at_most: Floats


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
    _thresholds: Bounded[tuple[object, ...], Floats] = field(default_factory=lambda: Bounded(MOST_DRAWN))

    def __post_init__(self) -> None:
        picks = self._picked(("sizes",), self.model.shares)
        paces = np.asarray(self.model.paces)[self._generator(("pace",)).permutation(self.count) % len(self.model.paces)]
        self._each: Floats = self.model.multipliers[picks] * paces[:, None]
        self._sizes: dict[int, Floats] = {}
        self._doubts: dict[str, Floats] = {}
        self._doubted: dict[tuple[str, str], Floats] = {}
        self._thefts: dict[str, Thefts] = {}
        self._taken: Bounded[tuple[str, int], tuple[Ints, Ints]] = Bounded(MOST_TAKEN)
        self._broken: Bounded[Dependency, Ints] = Bounded(MOST_BROKEN)
        self.untouched: Ints = np.full(self.count, self.horizon, np.int8)
        """Of what nothing happens to."""

    def component(self, element: int) -> int:
        """What heads the component of an element; -1 where that is not known."""
        return self.components[element] if 0 <= element < len(self.components) else -1

    def sizes(self, element: int) -> Floats:
        """Summed sizes of releases as the component of an element meets them, shape (releases, futures)."""
        component = self.component(element)
        sizes = self._sizes.get(component)
        if sizes is None:
            shocks = self.model.shocks
            picks = self._picked(("component", self.page, component), np.asarray([s.share for s in shocks]))
            met = self._each * np.asarray([s.multiplier for s in shocks])[picks]
            sizes = self._sizes[component] = np.ascontiguousarray(np.cumsum(met, axis=1).T)
        return sizes

    def _picked(self, key: tuple[object, ...], shares: Floats) -> Ints:
        """What each release of each future is, of several that have these shares; shape (futures, releases)."""
        generator = self._generator(key)
        edges = np.cumsum(shares / shares.sum())[:-1]
        drawn = [np.searchsorted(edges, _spread(generator, self.count), "right") for _ in range(self.horizon)]
        return np.stack(drawn, axis=1)

    def _generator(self, key: tuple[object, ...]) -> np.random.Generator:
        digest = hashlib.blake2b(repr((self.seed, *key)).encode(), digest_size=16).digest()
        return np.random.Generator(np.random.PCG64(int.from_bytes(digest, "big")))

    def threshold(self, *key: object) -> Floats:
        """Exponential thresholds of one fact, one a future; the same for whoever asks. Their distribution is met evenly, each in
        another order (Latin hypercube sampling, McKay 1979): what rests on little is not lucky or unlucky."""
        thresholds = self._thresholds.get(key)
        if thresholds is None:
            drawn, orders = _mixed(self.count)
            digest = hashlib.blake2b(repr((self.seed, self.page, *key)).encode(), digest_size=4).digest()
            one, other = (int.from_bytes(part, "big") % MIXED for part in (digest[:2], digest[2:]))
            thresholds = self._thresholds[key] = drawn[one].take(orders[other])
        return thresholds

    def doubt(self, group: str, spread: float) -> Floats:
        """Factors by which one rate may be wrong (log-normal), the same for all that use it."""
        factors = self._doubts.get(group)
        if factors is None:
            factors = self._doubts[group] = np.exp(spread * self._generator(("rate", group)).standard_normal(DOUBTS))
        return factors

    def doubted(self, name: str, group: str) -> Floats:
        """A hazard (`lost`, `stolen`, `ambiguous`) within its uncertainty."""
        known = self._doubted.get((name, group))
        if known is None:
            rate = self.model.rate(getattr(self.model, name), group)
            known = rate.hazard * self.doubt(group if name == "lost" else f"{name} {group}", rate.spread)
            self._doubted[name, group] = known
        return known

    def thefts(self, key: str) -> Thefts:
        """The expected share of futures in which a locator of that key is stolen. Of a thousand futures a few are stolen: counting
        them would say little."""
        known = self._thefts.get(key)
        if known is None:
            rate = self.model.rate(self.model.stolen, key)
            hazards = np.asarray([rate.hazard, rate.hazard * math.exp(AT_95 * rate.spread)])
            likely, at_most = 1 - self.model.lasting_each(hazards, self.horizon)
            known = self._thefts[key] = Thefts(likely, *map(self.model.thefts_calibrated, (likely, at_most)))
        return known

    def broken(self, dependency: Dependency) -> Ints:
        """How many releases pass before a dependency breaks by the first of its causes, in each future."""
        known = self._broken.get(dependency)
        if known is None:
            model, group = self.model, dependency.group
            hazard, made = model.rate(model.lost, group).hazard, model.rate(model.lost, "tag").hazard
            causes = causes_of(dependency, hazard, made, model.language(group)) if hazard > 0 else []
            due = [self.threshold(*cause) / part for cause, part in causes]
            sizes = self.sizes(dependency.element)
            known = self._broken[dependency] = _passed(sizes, np.minimum.reduce(due)) if due else self.untouched
        return known

    def taken(self, key: str, element: int) -> tuple[Ints, Ints]:
        """How many releases pass before a locator that tells an element by such a key is stolen, and becomes ambiguous."""
        known = self._taken.get((key, element))
        if known is None:
            own = self.sizes(element)
            steal = max(self.model.rate(self.model.stolen, key).hazard, 1e-12)
            crowd = max(self.model.rate(self.model.ambiguous, key).hazard, 1e-12)
            stolen = _passed(own, self.threshold("stolen", key, element) / steal)
            known = self._taken[key, element] = stolen, _passed(own, self.threshold("ambiguous", key, element) / crowd)
        return known


@lru_cache(maxsize=2)
def _mixed(count: int) -> tuple[Floats, Ints]:
    """Sets of exponential thresholds, one a future, and orders to mix them by; both of shape (MIXED, count)."""
    generator = np.random.Generator(np.random.PCG64(0))
    drawn = np.stack([_spread(generator, count) for _ in range(MIXED)])
    return -np.log1p(-drawn), np.stack([generator.permutation(count) for _ in range(MIXED)])


def _spread(generator: np.random.Generator, count: int) -> Floats:
    """Random numbers from 0 to 1, one in each of as many even parts, in random order."""
    spread: Floats = (generator.permutation(count) + generator.random(count)) / count
    return spread


@dataclass(frozen=True, slots=True)
class Fate:
    """How many releases pass before a locator loses its element, is stolen, becomes ambiguous: one number a future."""

    lost: Ints
    stolen: Ints
    ambiguous: Ints

    def or_else(self, other: Fate) -> Fate:
        """The fate of the two as alternatives: the second counts where the first is lost or ambiguous, but not where it has been
        stolen, since a wrong match looks like a right one."""
        ended = np.minimum(self.lost, self.ambiguous)
        failed = np.minimum(other.lost, other.ambiguous)
        stolen = np.minimum(self.stolen, np.maximum(ended, other.stolen))
        return Fate(np.maximum(self.lost, failed), stolen, np.maximum(self.ambiguous, failed))


def _passed(sizes: Floats, due: Floats) -> Ints:
    """How many releases pass before summed sizes reach what is due, in each future."""
    passed: Ints = (sizes < due).view(np.int8).sum(0, dtype=np.int8)
    return passed


WORDED = frozenset({"label", "placeholder", "aria-label", "title", "alt", "value"})
"""Kinds that hold words which may stand elsewhere on the same element, too: half of what breaks them is new wording."""
MADE_AS = frozenset({"tag", "role"})
OF_ITS_MAKING = frozenset({"href", "src", "type", "value", "placeholder", "alt", "for", "name"})
"""Kinds that go when their element is made as another one (a link that becomes a button)."""
Key = tuple[object, ...]


def fact_of(dependency: Dependency) -> tuple[str, int, str]:
    """What of the page it is that a dependency rests on, however it is asked for: a text by what a person reads, by XPath or as
    a name; an id as `#id` or as an attribute. What rests on one fact loses it in the same futures."""
    kind = "text" if dependency.kind in SEEN else dependency.kind
    return kind, dependency.element, dependency.value.removeprefix(f"{kind}=")


def causes_of(dependency: Dependency, hazard: float, made: float, language: float = 0.0) -> list[tuple[Key, float]]:
    """What may break a dependency, each with its part of the hazard: its own change, and what it shares with other facts of the
    same element: the wording, and as what the element is made (of hazard `made`); and with all words of the page: its `language`.
    Competing risks: the first one counts."""
    kind, element, value = fact_of(dependency)
    if kind in MADE_AS:
        return [(("made as", element), hazard)]
    shared: list[tuple[Key, float]] = []
    if kind in WORDED:
        shared.append((("text", element, value.partition("=")[2] or value), hazard / 2))
    if kind in OF_ITS_MAKING:
        shared.append((("made as", element), min(made, hazard / 2)))
    if language:
        shared.append((("language",), min(language, hazard / 2)))
    own = hazard - sum(part for _, part in shared)
    return [((kind, element, value), own), *shared] if own > 0 else shared


def fate_of(futures: Futures, dependencies: Sequence[Dependency], element: int) -> Fate:
    """It is lost with the first of its facts that breaks."""
    lost = np.minimum.reduce([futures.untouched, *map(futures.broken, dependencies)])
    return Fate(lost, *futures.taken(key_of(dependencies, element), element))


def failures(futures: Futures, dependencies: Sequence[Dependency], element: int) -> npt.NDArray[np.bool_]:
    """Where a locator no longer finds its element alone; shape (futures, releases)."""
    return failing(fate_of(futures, dependencies, element), futures.horizon)


def failing(fate: Fate, horizon: int) -> npt.NDArray[np.bool_]:
    """Where a locator of that fate has failed; shape (futures, releases)."""
    first = np.minimum(np.minimum(fate.lost, fate.stolen), fate.ambiguous)
    failing: npt.NDArray[np.bool_] = first[:, None] < np.arange(1, horizon + 1)
    return failing


def outlook(futures: Futures, dependencies: Sequence[Dependency], element: int) -> Outlook:
    """Simulate one locator given what it depends on; `element` is the one that it should find."""
    return outlooks(futures, [dependencies], element)[0]


def outlooks(futures: Futures, resting: Sequence[Sequence[Dependency]], element: int) -> list[Outlook]:
    """Simulate several locators of one element at once, given what each depends on: much quicker than one after the other.

    Where several things happen, stolen counts before lost, and lost before ambiguous.
    """
    if not resting:
        return []
    model = futures.model
    hazards = [[(d, model.rate(model.lost, d.group).hazard) for d in dependencies] for dependencies in resting]
    keys = [key_of(dependencies, element) for dependencies in resting]
    bounds = _bounds(futures, hazards, keys)
    fates = shares([fate_of(futures, dependencies, element) for dependencies in resting], futures)
    alive = fates[0]
    within = np.minimum(bounds[0], alive), np.maximum(bounds[1], alive), np.minimum(bounds[2], alive)
    expected = np.stack([futures.thefts(key).simulated for key in keys])
    return _told(_steadied(fates, fates[2], expected), futures, hazards, within, keys)


def outlook_of_ways(futures: Futures, ways: Sequence[Sequence[Dependency]], element: int) -> Outlook:
    """Simulate a locator of several alternatives, given what each depends on. Its losses are as doubtful as its first way's."""
    first = outlook(futures, ways[0], element)
    if len(ways) == 1:
        return first
    fates = [fate_of(futures, dependencies, element) for dependencies in ways]
    key = key_of(ways[0], element)
    whole, alone = shares([reduce(Fate.or_else, fates)], futures), shares(fates[:1], futures)
    shared = _steadied(whole, alone[2], futures.thefts(key).simulated)
    alive, before = shared[0], np.asarray(first.simulated)
    fewer = (1 - alive) / np.maximum(1e-9, 1 - before)
    within = [1 - (1 - np.asarray(bound)) * fewer for bound in first.bounds]
    hazards = {d: h for ds in ways for d in ds for h in [futures.model.rate(futures.model.lost, d.group).hazard]}
    return _told(shared, futures, [[*hazards.items()]], within, [key])[0]


Shares = tuple[Floats, Floats, Floats, Floats]
"""What is alive, lost, stolen and ambiguous: of each locator after 1, 2, ... releases, shape (locators, releases)."""
Hazards = Sequence[tuple[Dependency, float]]


def shares(fates: Sequence[Fate], futures: Futures) -> Shares:
    """The shares of futures in which each locator is alive, lost, stolen and ambiguous after 1, 2, ... releases."""
    first = np.arange(len(fates))[:, None] * (futures.horizon + 1)

    def by_then(passed: Ints) -> Floats:
        """The share of futures in which it has happened after 1, 2, ... releases."""
        counts = np.bincount((passed + first).ravel(), minlength=len(fates) * (futures.horizon + 1))
        each = counts.reshape(len(fates), futures.horizon + 1)[:, : futures.horizon]
        return np.cumsum(each, axis=1) / futures.count

    gone = np.stack([fate.lost for fate in fates])
    taken = np.stack([fate.stolen for fate in fates])
    crowded = np.stack([fate.ambiguous for fate in fates])
    stolen = by_then(taken)
    lost = by_then(gone) - by_then(np.maximum(gone, taken))
    ambiguous = by_then(crowded) - by_then(np.maximum(crowded, np.minimum(gone, taken)))
    return 1 - stolen - lost - ambiguous, lost, stolen, ambiguous


def _steadied(fates: Shares, counted: Floats, expected: Floats) -> Shares:
    """The shares with the thefts of the first way as expected in place of those that were `counted` in these futures: a control
    variate."""
    alive, lost, stolen, ambiguous = fates
    return alive, lost, np.maximum(stolen + expected - counted, 0), ambiguous


def _told(
    shared: Shares, futures: Futures, hazards: Sequence[Hazards], within: Sequence[Floats], keys: Sequence[str]
) -> list[Outlook]:
    """Outlooks as experience has it; `within`: the bounds `low`, `high` and `least` of survival."""
    simulated, _, stolen_so, ambiguous_so = shared
    bounds = np.stack([simulated, *within])
    alive, low, high, least = futures.model.calibrated(bounds)
    failing = futures.model.failures_calibrated(alive, stolen_so, ambiguous_so)
    thefts = [futures.thefts(key) for key in keys]
    doubts = np.stack([theft.at_most - theft.likely for theft in thefts])
    each = np.stack([alive, *failing, low, high, alive - least, doubts, *bounds], axis=1)
    told = np.minimum(np.maximum(each, 0.0), 1.0).tolist()
    return [_outlook([tuple(row) for row in rows], rests) for rows, rests in zip(told, hazards, strict=True)]


def _outlook(rows: Sequence[tuple[float, ...]], hazards: Hazards) -> Outlook:
    alive, lost, stolen, ambiguous, low, high, doubt, theft_doubt, simulated, *bounds = rows
    return Outlook(
        alive=alive,
        lost=lost,
        stolen=stolen,
        ambiguous=ambiguous,
        low=low,
        high=high,
        doubt=doubt,
        theft_doubt=theft_doubt,
        hazards=tuple(sorted(hazards, key=lambda entry: -entry[1])),
        simulated=simulated,
        bounds=tuple(bounds),
    )


def _bounds(futures: Futures, hazards: Sequence[Hazards], keys: Sequence[str]) -> tuple[Floats, Floats, Floats]:
    """5 % and 95 % of the closed form over applications and the uncertainty of the rates, and 5 % by that alone; of each locator,
    one entry a release each."""
    model = futures.model
    total = np.zeros((len(keys), DOUBTS))
    for row, rests, key in zip(total, hazards, keys, strict=True):
        for dependency, _ in rests:
            row += futures.doubted("lost", dependency.group)
        for name in ("stolen", "ambiguous"):
            row += futures.doubted(name, key)
    releases = np.arange(1, futures.horizon + 1)
    least = model.lasting_each(np.quantile(total, 0.95, axis=1), futures.horizon)
    # Survival falls as the hazard grows, so its quantiles are the survival at the hazard's.
    anywhere = total * futures.doubt("pace", model.pace) * np.exp(-(model.pace**2) / 2)
    low, high = model.lasting_at(np.quantile(anywhere, (0.95, 0.05), axis=1), 1)
    return low[:, None] ** releases, high[:, None] ** releases, least


def closed_form(model: ChangeModel, dependencies: Sequence[Dependency], element: int, releases: int) -> float:
    """Survival by the closed form: a check of the simulation, and cheap."""
    key = key_of(dependencies, element)
    total = model.hazard(d.group for d in dependencies)
    total += model.rate(model.stolen, key).hazard + model.rate(model.ambiguous, key).hazard
    return model.calibrated_one(float(model.lasting(total, releases)))
