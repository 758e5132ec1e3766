"""Rates of one's own: the shipped ones as a prior, updated with what was seen of facts on a team's own pages.

A hazard has a Gamma prior with the shipped mean and spread; facts that lasted or changed through releases of estimated sizes
are exposures and events (the Poisson model of piecewise exponential survival), so that the posterior is Gamma again (Gelman
et al., Bayesian Data Analysis, section 2.6). With little data the shipped rate stays.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass, replace

from scipy.stats import gamma

from wary_hound.robustness.model import ChangeModel, Rate

TEMPER = 0.1
"""Facts of one release change together: each counts this much."""
STEADY = 2.0
"""Prior weight of a release's size being 1."""


@dataclass(frozen=True, slots=True)
class Observation:
    """One fact of one element over one release: its group (`id/named`), the release, whether it lasted."""

    release: str
    group: str
    lasted: bool


@dataclass(frozen=True, slots=True)
class Difference:
    """How long facts of one group last: shares that last a release, shipped and own, with the own 90 % interval."""

    group: str
    shipped: float
    own: float
    interval: tuple[float, float]
    observed: int

    @property
    def sure(self) -> bool:
        """The shipped share is outside of the interval."""
        return not self.interval[0] <= self.shipped <= self.interval[1]


def updated(prior: ChangeModel, observations: Iterable[Observation], source: str) -> ChangeModel:
    """The prior with its `lost` rates updated. `observed` of each updated rate counts the facts seen."""
    seen = list(observations)
    hazard = {group: prior.rate(prior.lost, group).hazard for group in {o.group for o in seen}}
    expected: dict[str, float] = defaultdict(float)
    changed: dict[str, float] = defaultdict(float)
    for one in seen:
        expected[one.release] += TEMPER * hazard[one.group]
        changed[one.release] += TEMPER * (not one.lasted)
    size = {release: (STEADY + changed[release]) / (STEADY + expected[release]) for release in expected}
    exposure: dict[str, float] = defaultdict(float)
    events: dict[str, float] = defaultdict(float)
    counts: dict[str, int] = defaultdict(int)
    for one in seen:
        exposure[one.group] += TEMPER * size[one.release]
        events[one.group] += TEMPER * (not one.lasted)
        counts[one.group] += 1
    lost = dict(prior.lost)
    for group in counts:
        rate = prior.rate(prior.lost, group)
        shape = 1 / rate.spread**2
        after = shape + events[group]
        lost[group] = Rate(after / (shape / rate.hazard + exposure[group]), after**-0.5, counts[group])
    # Each release seen says how fast this application changes, beside what is known of applications.
    pace = (1 / prior.pace**2 + len(size)) ** -0.5 if prior.pace else 0.0
    return replace(prior, lost=lost, pace=pace, version=f"{prior.version} and own", source=source)


def differences(own: ChangeModel, shipped: ChangeModel) -> list[Difference]:
    """What was updated, the surest and greatest differences first."""
    differences = []
    for group, rate in own.lost.items():
        before = shipped.rate(shipped.lost, group)
        if rate == before or not rate.observed:
            continue
        shape = 1 / rate.spread**2
        edges = [float(gamma.ppf(q, shape, scale=rate.hazard / shape)) for q in (0.95, 0.05)]
        shares = [float(own.lasting(h, 1)) for h in (rate.hazard, *edges)]
        theirs = float(shipped.lasting(before.hazard, 1))
        differences.append(Difference(group, theirs, shares[0], (shares[1], shares[2]), rate.observed))
    return sorted(differences, key=lambda d: (not d.sure, -abs(d.own - d.shipped)))
