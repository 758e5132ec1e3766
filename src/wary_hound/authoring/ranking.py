"""Ranking: candidates of an element by how long they will last."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import partial

import numpy as np
import numpy.typing as npt

from wary_hound.authoring.candidates import Hops, Proposal, boundary_of, in_tree, proposals
from wary_hound.authoring.rules import PREFERRED, Rules
from wary_hound.authoring.search import search
from wary_hound.locator.evaluate import as_locator, match
from wary_hound.locator.values import Hop, Locator
from wary_hound.page import Element, Page
from wary_hound.robustness.components import components_of
from wary_hound.robustness.dependence import Dependency, dependencies
from wary_hound.robustness.model import ChangeModel
from wary_hound.robustness.reasons import reasons
from wary_hound.robustness.survival import HORIZON, Futures, Outlook, closed_form, failures, outlook_of_ways

STOLEN_COSTS = 3.0
"""A wrong match costs this many times what a lost one does, unless told otherwise."""
HOST_WAYS = 2
LENGTH_COSTS = 0.00004
"""Loss that one more character weighs: it decides only between candidates that last alike."""
SHORTLIST = 40
AHEAD = 3
"""Alternatives are chosen for so many releases ahead at least: their worth shows when the first way is gone."""
WAYS = 3
"""So many alternatives a proposed locator holds at most."""
LEAST_GAIN = 0.001
"""In so many futures more must an alternative find the element to be worth its length."""
ANY = Rules()


@dataclass(frozen=True, slots=True)
class Candidate:
    """A locator proposed for an element. Survival and its kin are probabilities after the releases that were asked for."""

    locator: Locator
    kind: str
    survival: float
    interval: tuple[float, float]
    """90 % interval of the survival, from the uncertainty of the rates."""
    lost: float
    stolen: float
    ambiguous: float
    curve: tuple[float, ...]
    """Survival after 1, 2, ... releases."""
    reasons: tuple[str, ...]
    outlook: Outlook
    costs: float = STOLEN_COSTS
    """What a stolen match costs, where a lost one costs 1."""
    proven: bool = False
    """Search has proven that, by the closed form, no other conjunction of facts within its tree loses less."""

    @property
    def loss(self) -> float:
        """Expected loss: a lost or ambiguous match costs 1, a stolen one `costs`."""
        return self.lost + self.ambiguous + self.costs * self.stolen

    def __str__(self) -> str:
        return str(self.locator)


def rank(
    element: Element,
    model: ChangeModel | None = None,
    releases: int = 1,
    seed: int = 0,
    rules: Rules = ANY,
    stolen_costs: float = STOLEN_COSTS,
    ways: int = WAYS,
) -> list[Candidate]:
    """Candidates for an element, best first: least expected loss after a number of releases (1 to 10), then the shorter.
    Before the best plain one comes the same with alternatives to it (`A else B`), which find the element when it does not.

    Each candidate finds the element, and it alone, on its page. `rules` leave out what a team does not want; where they leave
    nothing, the list is empty. `stolen_costs` (1 or more): what a wrong match costs, where a lost one costs 1. `ways`: how many
    alternatives a locator may hold (`A else B`); with 1 there are plain ones only. Raises ValueError for other numbers.
    """
    _check(releases)
    if ways < 1:
        raise ValueError(f"a locator holds at least 1 way to find its element, not {ways}")
    if not stolen_costs >= 1:
        raise ValueError(f"a stolen match costs at least what a lost one does, 1, not {stolen_costs}")
    model = model or ChangeModel.shipped()
    page = element.page
    searched = search(page, element.index, model, stolen_costs, releases)
    weighed: list[tuple[float, int, Proposal]] = []
    preferred: set[Locator] = set()
    opening = partial(ways_to_host, model=model)
    for order, proposal in enumerate(proposals(element, opening, searched.hops)):
        facts = dependencies(page, proposal.locator, element.index)
        if not rules.allow(proposal.locator, facts):
            continue
        if rules.prefers(facts):
            preferred.add(proposal.locator)
        weighed.append((-closed_form(model, facts, element.index, releases), order, proposal))
    weighed.sort(key=lambda entry: (entry[2].locator not in preferred, *entry[:2]))
    futures = futures_of(page, model, seed)
    best = searched.hops[0] if searched.proven and searched.hops else None
    chosen: list[Candidate] = []
    kinds: set[str] = set()
    for at, (_, _, proposal) in enumerate(weighed):
        if at < SHORTLIST or proposal.kind not in kinds:
            kinds.add(proposal.kind)
            candidate = _assess(element, proposal.locator, proposal.kind, futures, releases)
            proven = best is not None and proposal.locator.hops[-len(best) :] == best
            chosen.append(replace(candidate, proven=proven, costs=stolen_costs))

    def order_of(candidate: Candidate) -> tuple[float, str]:
        liked = PREFERRED if candidate.locator in preferred else 0.0
        return candidate.loss + LENGTH_COSTS * len(str(candidate.locator)) - liked, str(candidate.locator)

    chosen.sort(key=order_of)
    joined = [
        replace(_assess(element, locator, "either", futures, releases), costs=stolen_costs)
        for locator in _joined(element, chosen, futures, releases, ways)
    ]
    # One release ahead a third way hardly shows in the simulation. In real histories it is what holds where more changes than
    # was foreseen (docs/survival.md); only who fears theft more than usual goes by the simulated loss.
    if joined and (stolen_costs <= STOLEN_COSTS or joined[-1].loss <= chosen[0].loss):
        return [*reversed(joined), *chosen]
    return sorted([*chosen, *joined], key=order_of)


def _joined(element: Element, ranked: Sequence[Candidate], futures: Futures, releases: int, most: int) -> list[Locator]:
    """The best candidate with one more alternative after the other, those that fail when it does not."""
    ahead = max(releases, AHEAD)
    failing = [failures_of(element, c.locator, futures)[:, ahead - 1] for c in ranked] if most > 1 else []
    order = covering(failing, most, LEAST_GAIN)
    ways = [ranked[k].locator for k in order]
    return [Locator.either(*ways[:count]) for count in range(2, len(ways) + 1)]


def failures_of(element: Element, locator: Locator, futures: Futures) -> npt.NDArray[np.bool_]:
    """Where a plain locator no longer finds its element alone; shape (futures, releases)."""
    return failures(futures, dependencies(element.page, locator, element.index), element.index)


def covering(failing: Sequence[npt.NDArray[np.bool_]], most: int, least: float = 0.0) -> list[int]:
    """The first, then greedily whichever leaves the fewest futures in which all fail, while that gains `least` or more.

    Greedy choice is within 1 - 1/e of the best set, since covering futures is submodular (Nemhauser, Wolsey, Fisher 1978).
    """
    chosen = [0] if failing else []
    together = failing[0] if failing else np.zeros(0, np.bool_)
    while len(chosen) < min(most, len(failing)):
        left, best = min((float((together & f).mean()), k) for k, f in enumerate(failing) if k not in chosen)
        if float(together.mean()) - left < least:
            break
        chosen.append(best)
        together = together & failing[best]
    return chosen


def telling(candidates: Sequence[Candidate], most: int) -> list[Candidate]:
    """The first candidates that say something else than those before them: none that rests on all that a better one does."""
    found: list[Candidate] = []
    for candidate in candidates:
        facts = {fact for fact, _ in candidate.outlook.hazards}
        if not any(facts >= {fact for fact, _ in other.outlook.hazards} for other in found):
            found.append(candidate)
            if len(found) == most:
                break
    return found


def assess(
    locator: Locator | str, element: Element, model: ChangeModel | None = None, releases: int = 1, seed: int = 0
) -> Candidate:
    """The same figures for a locator of the user's own, which must find the element (among others at most)."""
    _check(releases)
    value = as_locator(locator)
    if element.index not in match(element.page, value):
        raise ValueError(f"the locator does not find that element: {value}")
    return _assess(element, value, "given", futures_of(element.page, model or ChangeModel.shipped(), seed), releases)


def futures_of(page: Page, model: ChangeModel, seed: int) -> Futures:
    """The futures of a page, the same for all questions about it."""
    key = ("futures", id(model), seed)
    found: Futures | None = page.memo.get(key)
    if found is None:
        found = page.memo[key] = Futures(
            model, seed, components=components_of(page), page=page.source.name if page.source else page.url
        )
    return found


def _check(releases: int) -> None:
    if not 1 <= releases <= HORIZON:
        raise ValueError(f"releases must be 1 to {HORIZON}, not {releases}")


def _assess(element: Element, locator: Locator, kind: str, futures: Futures, releases: int) -> Candidate:
    page = element.page
    ways = [way for way in locator.alternatives if match(page, way) == [element.index]] if locator.otherwise else [locator]
    resting = [dependencies(page, way, element.index) for way in ways or [locator]]
    found = outlook_of_ways(futures, resting, element.index)
    at = releases - 1
    return Candidate(
        locator=locator,
        kind=kind,
        survival=found.alive[at],
        interval=(found.low[at], found.high[at]),
        lost=found.lost[at],
        stolen=found.stolen[at],
        ambiguous=found.ambiguous[at],
        curve=found.alive,
        reasons=_why(page, found, resting, futures, element.index),
        outlook=found,
    )


def _why(page: Page, found: Outlook, resting: Sequence[Sequence[Dependency]], futures: Futures, element: int) -> tuple[str, ...]:
    """Of several ways what each rests on most, since one that lasts is enough."""
    if len(resting) == 1:
        return reasons(page, found.hazards, element)
    model = futures.model
    first: list[str] = []
    for facts in resting:
        weighed = sorted(((d, model.rate(model.lost, d.group).hazard) for d in facts), key=lambda entry: -entry[1])
        first.extend(reasons(page, weighed, element)[:1])
    return (f"{first[0]}; or else {', or else '.join(first[1:])}",) if len(first) > 1 else tuple(first)


def ways_to_host(page: Page, host: int, model: ChangeModel) -> list[Hops]:
    """Hops that open the tree of a host, the longest-lasting first."""
    memo: dict[tuple[int, int], list[Hops]] = page.memo.setdefault("ways to hosts", {})
    key = (host, id(model))
    if key in memo:
        return memo[key]
    above = page.hosts(host)
    prefixes: Sequence[Hops] = ways_to_host(page, above[-1], model) if above else [()]
    boundary = boundary_of(page, host)
    weighed: list[tuple[float, int, Hops]] = []
    for hops, _ in in_tree(page, host):
        for prefix in prefixes[:1]:
            locator = Locator(prefix + hops)
            survival = closed_form(model, dependencies(page, locator, host), host, 1)
            opening = (*prefix, *hops[:-1], Hop(hops[-1].finder, boundary))
            weighed.append((-survival, len(str(locator)), opening))
    weighed.sort(key=lambda entry: entry[:2])
    memo[key] = [hops for _, _, hops in weighed[:HOST_WAYS]]
    return memo[key]
