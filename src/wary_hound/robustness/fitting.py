"""Fitting the change model to trials of locators: each locator of a labelled element, tried on every later version.

With X the counts of the facts that a locator depends on, and M_r the size of release r, it stays with probability
exp(-sum_r M_r * X h): the hazards h and sizes M are fitted together by penalised maximum likelihood (groups shrink to their
kind, kinds to the mean, sizes to 1), the sizes are then gathered into three. The spread of each hazard is that between fits
with one application left out (the jackknife). How much the elements of one component fail together, beyond what the size of
the release explains, is estimated from the products of their residuals, pair by pair.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import numpy.typing as npt
from scipy import sparse
from scipy.optimize import brentq, minimize

from wary_hound.robustness.model import ChangeModel, Rate, Size, tier_of

Floats = npt.NDArray[np.float64]
MOST_TOGETHER = 8.0
MOST_PACE = 1.5
TEMPER = 0.03
"""Pairs of versions, and pages of one application, tell much the same: they count this much."""


ASSUMED_DATA = {"number": 0.8, "numbered": 0.1}
ASSUMED_MADE_UP = {"hashed": 0.6, "generated": 0.5}
ASSUMED_TEST = 0.02
ASSUMED_AMBIGUOUS = {"type": 0.05, "tag": 0.06, "having": 0.05, "role": 0.06, "state-attribute": 0.1, "class": 0.03}
"""Floors on what the histories cannot show. Their content was held fixed, so in them data (numbers, dates, default values)
never change, and fields and buttons like those that are there are seldom added; none of them has attributes that were made
for tests, and hardly any has names that a build makes up. These floors are judgement, not measurement."""
USE_COUNTS = 8.0
"""Variants are few beside pairs of versions, and overlap less: each counts so much more."""
ENOUGH = 100
"""So many observations of a kind of fact in other uses speak for themselves."""
DATA_KINDS = frozenset({"text", "text~", "content", "content~", "accessible-name", "accessible-name~", "label", "label~", "value"})
MADE_UP_KINDS = ("class", "id", "name", "for", "data", "attribute", "reference", "href")


@dataclass(frozen=True)
class Trial:
    """One locator on one pair of versions."""

    application: str
    case: tuple[str, str, int, int]
    steps: tuple[int, int]
    groups: tuple[str, ...]
    key: str
    component: int
    """What heads the component that the element is in, on the old page."""
    event: str
    """`alive`, `lost` (the element is not matched), `stolen`, `ambiguous` (others are matched as well)."""


@dataclass
class Problem:
    """Rows as matrices: facts (X), releases passed (S), events, weights."""

    facts: Any
    releases: Any
    event: Floats
    weight: Floats
    names: list[str]
    design: Any


def problem(
    rows: Sequence[Trial], features: Sequence[Sequence[str]], event: Sequence[bool], weights: Floats, keyed: bool = False
) -> Problem:
    """Rows as matrices; `features` and `event` have one entry a row. What is seldom seen of a name is taken from its kind; of a
    locator's key from its tier, too."""
    names = sorted({f for fs in features for f in fs})
    number = {name: at for at, name in enumerate(names)}
    releases = sorted({(r.application, s) for r in rows for s in range(*r.steps)})
    release_number = {name: at for at, name in enumerate(releases)}
    ones, at_row, at_fact = [], [], []
    s_row, s_col = [], []
    for i, (row, fs) in enumerate(zip(rows, features, strict=True)):
        for name, count in Counter(fs).items():
            ones.append(count)
            at_row.append(i)
            at_fact.append(number[name])
        for step in range(*row.steps):
            s_row.append(i)
            s_col.append(release_number[row.application, step])
    levels = [_membership([n.partition("/")[0] for n in names]), sparse.identity(len(names))]
    design = sparse.hstack([_membership([tier_of(n) for n in names]), *levels] if keyed else levels).tocsr()
    return Problem(
        sparse.csr_matrix((ones, (at_row, at_fact)), shape=(len(rows), len(names))),
        sparse.csr_matrix((np.ones(len(s_row)), (s_row, s_col)), shape=(len(rows), len(releases))),
        np.asarray(event, np.float64),
        weights,
        names,
        design,
    )


def _membership(groups: Sequence[str]) -> Any:
    """A row for each entry, a column for each group, 1 where it belongs to it."""
    number = {name: at for at, name in enumerate(sorted(set(groups)))}
    columns = [number[group] for group in groups]
    return sparse.csr_matrix((np.ones(len(groups)), (range(len(groups)), columns)), shape=(len(groups), len(number)))


def fit(p: Problem, sizes: Floats | None = None) -> tuple[dict[str, float], Floats]:
    """Hazards by group, and sizes by release."""
    kinds = p.design.shape[1] - len(p.names)
    count = p.releases.shape[1]
    free = sizes is None

    def split(theta: Floats) -> tuple[Floats, Floats, float]:
        centre = theta[0]
        hazards = np.exp(np.clip(centre + p.design @ theta[1 : 1 + kinds + len(p.names)], -12, 3))
        size = np.exp(np.clip(theta[1 + kinds + len(p.names) :], -5, 4)) if sizes is None else sizes
        return hazards, size, centre

    def value(theta: Floats) -> tuple[float, Floats]:
        hazards, size, _ = split(theta)
        rate = p.facts @ hazards
        total = p.releases @ size
        eta = np.maximum(rate * total, 1e-9)
        stay = -eta
        leave = np.log(-np.expm1(-eta))
        loss = -np.sum(p.weight * np.where(p.event > 0, leave, stay))
        slope = p.weight * np.where(p.event > 0, -np.exp(-eta) / -np.expm1(-eta), 1.0)
        by_hazard = p.facts.T @ (slope * total) * hazards
        gradient = np.zeros_like(theta)
        gradient[0] = by_hazard.sum()
        gradient[1 : 1 + kinds + len(p.names)] = p.design.T @ by_hazard
        coefficients = theta[1 : 1 + kinds + len(p.names)]
        precision = np.concatenate([np.full(kinds, 0.3), np.full(len(p.names), 1.0)])
        loss += 0.5 * np.sum(precision * coefficients**2) + 0.05 * (theta[0] + 3) ** 2
        gradient[1 : 1 + kinds + len(p.names)] += precision * coefficients
        gradient[0] += 0.1 * (theta[0] + 3)
        if free:
            log_size = theta[1 + kinds + len(p.names) :]
            gradient[1 + kinds + len(p.names) :] = p.releases.T @ (slope * rate) * size + 0.5 * log_size
            loss += 0.25 * np.sum(log_size**2)
        return float(loss), gradient

    start = np.zeros(1 + kinds + len(p.names) + (count if free else 0))
    start[0] = -3
    result = minimize(value, start, jac=True, method="L-BFGS-B", options={"maxiter": 500})
    hazards, size, _ = split(result.x)
    mean = size.mean()
    return dict(zip(p.names, (hazards * mean).tolist(), strict=True)), size / mean


def kinds_of(hazards: dict[str, float], observed: Counter[str]) -> dict[str, float]:
    """A rate for each kind, from its groups, for looks that were not met."""
    groups: dict[str, list[str]] = {}
    for name in hazards:
        groups.setdefault(name.partition("/")[0], []).append(name)
    return {kind: _pooled(names, hazards, observed) for kind, names in groups.items()}


def _pooled(names: Iterable[str], hazards: dict[str, float], observed: Counter[str]) -> float:
    """The mean of some rates, each as often as it was observed, and once more."""
    counts = {name: observed[name] + 1 for name in names}
    return sum(hazards[name] * count for name, count in counts.items()) / sum(counts.values())


def _told_as_others(kinds: Iterable[str], hazards: dict[str, float], observed: Counter[str]) -> dict[str, float]:
    """A rate for each kind of which only others were met than what it tells by itself (`attribute/counted`, and no other
    attribute): that of what tells an element apart in the same way."""
    tiers: dict[str, list[str]] = {}
    for key in hazards:
        tiers.setdefault(tier_of(key), []).append(key)
    met = {(key.partition("/")[0], tier_of(key)) for key in hazards}
    alike = {kind: tiers[tier_of(kind)] for kind in kinds if (kind, tier_of(kind)) not in met and tier_of(kind) in tiers}
    return {kind: _pooled(keys, hazards, observed) for kind, keys in alike.items()}


Tables = dict[str, dict[str, float]]
"""Hazards (or their spreads) by table (`lost`, `stolen`, `ambiguous`) and group."""


def learn(rows: list[Trial], version: str, source: str, jackknife: bool = True, use: Sequence[Trial] = ()) -> ChangeModel:
    """The change model that trials speak for; `use`: trials on variants, for its second process. `jackknife`: estimate the
    spread of each rate, which takes one more fit for each application."""
    weights = _weights(rows)
    kept, hazards, size = _hazards(rows, weights)
    spreads = _spreads(rows, hazards, version, source) if jackknife else {}
    facts = Counter(g for r in rows for g in r.groups)
    keys = Counter(r.key for r in rows)
    tables = {
        name: _table(name, hazards[name], facts if name == "lost" else keys, spreads.get(name, {}), "releases" if use else "both")
        for name in ("lost", "stolen", "ambiguous")
    }
    plain = ChangeModel(_sizes(size), tables["lost"], tables["stolen"], tables["ambiguous"], version, source)
    relative, pace = _paced(kept, size)
    model = replace(plain, sizes=_sizes(relative), pace=pace, together=_together(kept, plain))
    model = _rescaled(model, plain, kept)
    return replace(model, use=_use(use)) if use else model


def _use(rows: Sequence[Trial]) -> dict[str, dict[str, Rate]]:
    """Rates of one change of use: all variants count as of one size."""
    weights = USE_COUNTS * _weights(rows)
    kept = [i for i, r in enumerate(rows) if r.event != "stolen"]
    there = [i for i, r in enumerate(rows) if r.event in ("alive", "ambiguous")]
    everything = range(len(rows))

    def fitted(over: Sequence[int], features: Sequence[Sequence[str]], event: str) -> dict[str, float]:
        some = [rows[i] for i in over]
        asked = problem(some, features, [r.event == event for r in some], weights[list(over)], keyed=event != "lost")
        return fit(asked, np.ones(asked.releases.shape[1]))[0]

    hazards = {
        "lost": fitted(kept, [rows[i].groups for i in kept], "lost"),
        "stolen": fitted(everything, [[r.key] for r in rows], "stolen"),
        "ambiguous": fitted(there, [[rows[i].key] for i in there], "ambiguous"),
    }
    seen = {
        "lost": Counter(g for r in rows for g in r.groups),
        "stolen": Counter(r.key for r in rows),
        "ambiguous": Counter(r.key for r in rows),
    }
    return {name: _table(name, use, seen[name], {}, "use") for name, use in hazards.items()}


def _weights(rows: Sequence[Trial]) -> Floats:
    """How much each trial counts: cases alike, applications by the root of how much they tell."""
    per_case = Counter(r.case for r in rows)
    per_application = Counter(a for a, _ in {(r.application, r.case) for r in rows})
    mean = np.mean(list(per_application.values()))
    return np.asarray([TEMPER / per_case[r.case] * 3 * (mean / per_application[r.application]) ** 0.5 for r in rows])


def _hazards(rows: Sequence[Trial], weights: Floats) -> tuple[list[Trial], Tables, Floats]:
    """The trials that were not stolen, the hazards of each table, and the size of each release."""
    keep = [i for i, r in enumerate(rows) if r.event != "stolen"]
    kept = [rows[i] for i in keep]
    lost, size = fit(problem(kept, [r.groups for r in kept], [r.event == "lost" for r in kept], weights[keep]))

    def keyed(event: str, over: Sequence[Trial], w: Floats) -> dict[str, float]:
        asked = problem(over, [[r.key] for r in over], [r.event == event for r in over], w, keyed=True)
        return fit(asked, _known(over, size, kept))[0]

    there = [i for i, r in enumerate(rows) if r.event in ("alive", "ambiguous")]
    hazards = {
        "lost": lost,
        "stolen": keyed("stolen", rows, weights),
        "ambiguous": keyed("ambiguous", [rows[i] for i in there], weights[there]),
    }
    return kept, hazards, size


def _paced(rows: Sequence[Trial], size: Floats) -> tuple[Floats, float]:
    """The sizes of releases beside the mean of their application, and the spread of the logarithms of these means."""
    applications = [application for application, _ in sorted({(r.application, s) for r in rows for s in range(*r.steps)})]
    means = {one: float(np.mean([s for a, s in zip(applications, size, strict=True) if a == one])) for one in {*applications}}
    relative = np.asarray([s / means[a] for a, s in zip(applications, size, strict=True)])
    logarithms = np.log([*means.values()])
    return relative, float(min(MOST_PACE, logarithms.std(ddof=1))) if len(logarithms) > 2 else 0.0


def _sizes(size: Floats) -> tuple[Size, ...]:
    """The sizes of all releases, gathered into three."""
    ordered = np.sort(size)
    parts = np.split(ordered, [int(len(ordered) * 0.5), int(len(ordered) * 0.85)])
    names = ("fix", "feature", "redesign")
    return tuple(Size(name, len(part) / len(ordered), float(part.mean())) for name, part in zip(names, parts, strict=True))


def _spreads(rows: Sequence[Trial], hazards: Tables, version: str, source: str) -> Tables:
    """The spread of the logarithm of each hazard between fits with one application left out (the jackknife)."""
    parts = [
        learn([r for r in rows if r.application != application], version, source, jackknife=False)
        for application in sorted({r.application for r in rows})
    ]
    spreads: Tables = {}
    for name, full in hazards.items():
        spreads[name] = {}
        for group, hazard in full.items():
            rates = [getattr(part, name).get(group) for part in parts]
            values = [np.log(rate.hazard if rate is not None else hazard) for rate in rates]
            count = len(values)
            spreads[name][group] = float(np.sqrt((count - 1) / count * np.sum((values - np.mean(values)) ** 2)))
    return spreads


def _table(
    name: str, hazards: dict[str, float], observed: Counter[str], spreads: dict[str, float], process: str = "both"
) -> dict[str, Rate]:
    """The rates of one table: of each group that was seen, of its kind, and of what was assumed."""
    rates = {
        g: Rate(max(h, floor(name, g, process, observed[g])), min(1.5, max(0.15, spreads.get(g, 0.5))), observed[g])
        for g, h in hazards.items()
    }
    if name == "lost" and process != "use":
        for group in (f"{kind}/{look}" for kind in MADE_UP_KINDS for look in ASSUMED_MADE_UP):
            rates.setdefault(group, Rate(floor(name, group, process), 0.5, 0))
    kinds = kinds_of(hazards, observed)
    if name != "lost":
        kinds |= _told_as_others(kinds, hazards, observed)
    if "test-attribute" not in kinds:
        rates["test-attribute"] = Rate(ASSUMED_TEST if name == "lost" else ASSUMED_TEST / 10, 0.8, 0)
    for kind, hazard in kinds.items():
        rates.setdefault(kind, Rate(max(hazard, 1e-5), 0.8, 0))
    rates.setdefault("other", Rate(max(float(np.mean(list(hazards.values()))), 1e-5), 1.0, 0))
    return rates


def floor(table: str, group: str, process: str = "both", observed: int = 0) -> float:
    """The least hazard that is believed of a group in a process: releases, use, or both in one. What data come to is a matter of
    use, and is assumed only where that was hardly observed."""
    kind, _, look = group.partition("/")
    if process == "use" and (table != "lost" or kind not in DATA_KINDS or observed >= ENOUGH):
        return 1e-5
    if table == "lost" and kind in DATA_KINDS and process == "releases":
        return 1e-5
    if table == "lost" and kind in DATA_KINDS:
        return ASSUMED_DATA.get(look, 1e-5) * (0.25 if kind in ("label", "label~", "value") else 1)
    if table == "lost" and kind in MADE_UP_KINDS:
        return ASSUMED_MADE_UP.get(look, 1e-5)
    return ASSUMED_AMBIGUOUS.get(kind, 1e-5) if table == "ambiguous" and not look else 1e-5


def _known(rows: Sequence[Trial], size: Floats, fitted: Sequence[Trial]) -> Floats:
    """The sizes of the releases that these rows pass, in their order."""
    order = sorted({(r.application, s) for r in fitted for s in range(*r.steps)})
    by_release = dict(zip(order, size.tolist(), strict=True))
    wanted = sorted({(r.application, s) for r in rows for s in range(*r.steps)})
    return np.asarray([by_release.get(w, 1.0) for w in wanted])


def _together(trials: Sequence[Trial], model: ChangeModel) -> float:
    """The variance of the shock that the elements of a component share in one release.

    Over pairs of elements of one component and step, the mean product of their residuals beside that of what was expected of
    them; less the same for pairs in different components, which is what the size of the release leaves over.
    """
    cases: dict[tuple[str, str, int], dict[tuple[int, str], list[tuple[float, float]]]] = defaultdict(lambda: defaultdict(list))
    expected: dict[tuple[str, ...], float] = {}
    for trial in trials:
        if trial.steps[1] - trial.steps[0] != 1:
            continue
        share = expected.get(trial.groups)
        if share is None:
            share = expected[trial.groups] = 1 - float(model.lasting(model.hazard(trial.groups), 1))
        name, label, old, _ = trial.case
        cases[trial.application, name, old][trial.component, label].append((float(trial.event == "lost"), share))
    sums = np.zeros(4)
    for elements in cases.values():
        means = [(component, *np.mean(values, axis=0)) for (component, _), values in elements.items()]
        where = np.asarray([m[0] for m in means])
        said = np.asarray([m[2] for m in means])
        ratio = np.sum([m[1] for m in means]) / max(float(said.sum()), 1e-9)
        residual = np.asarray([m[1] for m in means]) - np.minimum(1, said * ratio)
        same = (where[:, None] == where[None, :]) & ~np.eye(len(where), dtype=bool)
        other = where[:, None] != where[None, :]
        products, scale = np.outer(residual, residual), np.outer(said * ratio, said * ratio)
        sums += [products[same].sum(), scale[same].sum(), products[other].sum(), scale[other].sum()]
    within = sums[0] / sums[1] if sums[1] else 0.0
    between = sums[2] / sums[3] if sums[3] else 0.0
    return float(np.clip(within - max(between, 0.0), 0.0, MOST_TOGETHER))


def _rescaled(model: ChangeModel, plain: ChangeModel, trials: Sequence[Trial]) -> ChangeModel:
    """All hazards by one factor, so that survival in the mean stays what was fitted without shared shocks."""
    sums = np.asarray([plain.hazard(groups) for groups in {t.groups for t in trials}])
    aim = float(np.mean(plain.lasting(sums, 1)))
    factor = float(brentq(lambda f: float(np.mean(model.lasting(sums * f, 1))) - aim, 0.5, 20.0))

    def scaled(rates: dict[str, Rate]) -> dict[str, Rate]:
        return {group: replace(rate, hazard=rate.hazard * factor) for group, rate in rates.items()}

    return replace(model, lost=scaled(model.lost))
