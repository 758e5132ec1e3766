"""Ranking: candidates of an element by how long they will last."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import partial

import numpy as np
import numpy.typing as npt

from wary_hound.authoring.cache import Authored
from wary_hound.authoring.candidates import Hops, Proposal, boundary_of, in_tree, proposals
from wary_hound.authoring.question import STOLEN_COSTS, Question
from wary_hound.authoring.rules import PREFERRED
from wary_hound.authoring.search import search
from wary_hound.locator.evaluate import as_locator, match
from wary_hound.locator.values import Hop, Locator
from wary_hound.page import Element, Page
from wary_hound.robustness.components import components_of
from wary_hound.robustness.dependence import Dependency, dependencies
from wary_hound.robustness.model import ChangeModel
from wary_hound.robustness.reasons import reasons
from wary_hound.robustness.survival import Futures, Outlook, closed_form, failures, outlook_of_ways

HOST_WAYS = 2
LENGTH_COSTS = 0.00004
"""Loss that one more character weighs: it decides only between candidates that last alike."""
SHORTLIST = 40
AHEAD = 3
"""Alternatives are chosen for so many releases ahead at least: their worth shows when the first way is gone."""
LEAST_GAIN = 0.001
"""In so many futures more must an alternative find the element to be worth its length."""


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


def rank(element: Element, question: Question | None = None) -> list[Candidate]:
    """Candidates for an element, best first: least expected loss after a number of releases, then the shorter. Before the best
    plain one comes the same with alternatives to it (`A else B`), which find the element when it does not.

    Each candidate finds the element, and it alone, on its page. Where the question's rules leave nothing, the list is empty.
    """
    asked = question or Question()
    model, page = asked.model, element.page
    searched = search(page, element.index, model, asked.stolen_costs, asked.releases)
    weighed: list[tuple[float, int, Proposal]] = []
    preferred: set[Locator] = set()
    for order, proposal in enumerate(proposals(element, partial(ways_to_host, model=model), searched.hops)):
        facts = dependencies(page, proposal.locator, element.index)
        if not asked.rules.allow(proposal.locator, facts):
            continue
        if asked.rules.prefers(facts):
            preferred.add(proposal.locator)
        weighed.append((-closed_form(model, facts, element.index, asked.releases), order, proposal))
    weighed.sort(key=lambda entry: (entry[2].locator not in preferred, *entry[:2]))
    futures = futures_of(page, asked)
    best = searched.hops[0][0] if searched.proven and searched.hops else None
    chosen: list[Candidate] = []
    kinds: set[str] = set()
    for at, (_, _, proposal) in enumerate(weighed):
        if at < SHORTLIST or proposal.kind not in kinds:
            kinds.add(proposal.kind)
            candidate = _assess(element, proposal.locator, proposal.kind, futures, asked)
            proven = best is not None and proposal.locator.hops[-len(best) :] == best
            chosen.append(replace(candidate, proven=proven))

    def order_of(candidate: Candidate) -> tuple[float, str]:
        liked = PREFERRED if candidate.locator in preferred else 0.0
        return candidate.loss + LENGTH_COSTS * len(str(candidate.locator)) - liked, str(candidate.locator)

    chosen.sort(key=order_of)
    joined = [_assess(element, locator, "either", futures, asked) for locator in _joined(element, chosen, futures, asked)]
    # One release ahead a third way hardly shows in the simulation. In real histories it is what holds where more changes than
    # was foreseen (docs/survival.md); only who fears theft more than usual goes by the simulated loss.
    if joined and (asked.stolen_costs <= STOLEN_COSTS or joined[-1].loss <= chosen[0].loss):
        return [*reversed(joined), *chosen]
    return sorted([*chosen, *joined], key=order_of)


def _joined(element: Element, ranked: Sequence[Candidate], futures: Futures, asked: Question) -> list[Locator]:
    """The best candidate with one more alternative after the other, those that fail when it does not."""
    ahead = max(asked.releases, AHEAD)
    failing = [failures_of(element, c.locator, futures)[:, ahead - 1] for c in ranked] if asked.ways > 1 else []
    order = covering(failing, asked.ways, LEAST_GAIN)
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


def assess(locator: Locator | str, element: Element, question: Question | None = None) -> Candidate:
    """The same figures for a locator of the user's own, which must find the element (among others at most), else ValueError."""
    asked = question or Question()
    value = as_locator(locator)
    if element.index not in match(element.page, value):
        raise ValueError(f"the locator does not find that element: {value}")
    return _assess(element, value, "given", futures_of(element.page, asked), asked)


def futures_of(page: Page, question: Question) -> Futures:
    """The futures of a page, the same for all questions about it by one model and seed."""
    kept = Authored.of(page)
    key = (question.model.digest, question.seed)
    futures = kept.futures.get(key)
    if futures is None:
        futures = kept.futures[key] = Futures(
            question.model, question.seed, components=components_of(page), page=kept.stream or page.digest
        )
    return futures


def _assess(element: Element, locator: Locator, kind: str, futures: Futures, asked: Question) -> Candidate:
    page = element.page
    ways = [way for way in locator.alternatives if match(page, way) == [element.index]] if locator.otherwise else [locator]
    resting = [dependencies(page, way, element.index) for way in ways or [locator]]
    outlook = outlook_of_ways(futures, resting, element.index)
    at = asked.releases - 1
    return Candidate(
        locator=locator,
        kind=kind,
        survival=outlook.alive[at],
        interval=(outlook.low[at], outlook.high[at]),
        lost=outlook.lost[at],
        stolen=outlook.stolen[at],
        ambiguous=outlook.ambiguous[at],
        curve=outlook.alive,
        reasons=_why(page, outlook, resting, futures, element.index),
        outlook=outlook,
        costs=asked.stolen_costs,
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
    kept, key = Authored.of(page).ways, (host, model.digest)
    if key in kept:
        return kept[key]
    above = page.hosts(host)
    prefixes: Sequence[Hops] = ways_to_host(page, above[-1], model) if above else [()]
    boundary = boundary_of(page, host)
    weighed: list[tuple[float, int, Hops]] = []
    scope = (int(page.tree[host]), -1)
    for hops, _ in in_tree(page, host):
        for prefix in prefixes[:1]:
            # the way to its tree is the same for all, and is not weighed again
            survival = closed_form(model, dependencies(page, Locator(hops), host, scope), host, 1)
            opening = (*prefix, *hops[:-1], Hop(hops[-1].finder, boundary))
            weighed.append((-survival, sum(len(str(hop)) for hop in hops), opening))
    weighed.sort(key=lambda entry: entry[:2])
    best = kept[key] = [hops for _, _, hops in weighed[:HOST_WAYS]]
    return best
