"""The best conjunction of predicates for an element, by exact branch and bound.

A candidate is a set of predicates, on the element itself and on at most one ancestor and one row or group, whose matches
meet in the element alone. Hazards of facts add up, so a set can only lose more by growing; what growing can gain is that
the set matches alone, and that less can steal it. A branch is cut when the loss of its facts, with the least theft that any
set could have, is no better than the best found (Land and Doig 1960). Where no branch is left, the best is proven.

A set in which a predicate is idle (the others tell the element without it, and other elements meet it) is no candidate, though
the model may think that it is stolen less often: what takes the element's place meets it as well.
"""

from __future__ import annotations

import heapq
import itertools
import math
from collections import deque
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass

from wary_hound.authoring.universe import ABOVE, BESIDE, COLUMN, OWN, RELATED, Predicate, compiled, universe_of
from wary_hound.authoring.weakness import is_weak_by, saying
from wary_hound.locator.values import Hop
from wary_hound.page import Page
from wary_hound.robustness.data import known_by_number
from wary_hound.robustness.dependency import Dependency, row_by
from wary_hound.robustness.model import RELATIONS, ChangeModel, key_of

BUDGET = 3_000
"""Sets looked at for one element, unless told otherwise."""
LARGEST = 4
KEPT = 6


@dataclass(frozen=True)
class Found:
    """Sets found, best first, as hops within the element's tree with their kinds; whether the first is proven best under the
    model."""

    hops: tuple[tuple[tuple[Hop, ...], str], ...]
    proven: bool
    looked_at: int


def search(
    page: Page,
    index: int,
    model: ChangeModel,
    costs: float,
    releases: int = 1,
    budget: int = BUDGET,
    allow: Callable[[Iterable[Dependency]], bool] | None = None,
) -> Found:
    """The sets of least expected loss for one element, in its own tree; weak ones (see `weakness.is_weak`) only where there are no
    others. `costs`: what a stolen match costs beside a lost one. `allow`: which facts they may rest on, all where it is None."""
    allowed = (p for p in universe_of(page, index, model) if allow is None or allow(p.facts))
    universe = sorted(allowed, key=lambda p: model.hazard(fact.group for fact in p.facts))
    wanted, numbered = 1 << index, known_by_number(page, index)
    weigher = _Weigher(model, index, costs, releases, universe, numbered)
    tongues = ("css", "xpath", RELATED)
    best: dict[str, list[_Entry]] = {language: [] for language in tongues}  # heaps of the KEPT best, the worst first
    worst = dict.fromkeys(tongues, math.inf)  # what loses less is among them
    weak: list[_Entry] = []
    looked_at = 0
    proven = True
    order = itertools.count()
    said = [_said(p) for p in universe]
    places = [_PLACES[p.stands] for p in universe]
    # Small sets first, of the steadiest predicates first: a good one is found early, and cuts the rest.
    branches: deque[_Branch] = deque([(0, (), -1, (), _CSS | _XPATH, 0)])
    resting = [weigher.known(p.facts) for p in universe]
    # what an element holds guards it from no other that holds the like
    above = _PLACES[ABOVE]
    holding = [p.stands == OWN and any(fact.kind in RELATIONS for fact in p.facts) for p in universe]

    def idle(members: Sequence[int], together: _Facts) -> bool:
        """Whether the rest tells it without one of them that others meet, too: they would take its place with that as well. What is
        weak may be guarded by what makes it strong."""
        for member in members if len(members) > 1 else ():
            if universe[member].bits != wanted:
                rest = [other for other in members if other != member]
                met, stands = -1, 0
                for other in rest:
                    met &= universe[other].bits
                    stands |= places[other] ^ above
                told = stands and met == wanted
                if told and (weigher.is_weak(together) or not weigher.is_weak([f for other in rest for f in resting[other]])):
                    return True
        return False

    while branches:
        start, chosen, bits, facts, spoken, stood = branches.popleft()
        # what says nothing may yet be guarded by what says which
        alone = bits == wanted and any(places[member] != above for member in chosen)
        says_nothing = bits == wanted and weigher.is_weak(facts)
        key = weigher.key(facts)
        for k in range(start, len(universe)):
            one = universe[k]
            together_said = (spoken & said[k] & (_CSS | _XPATH)) | ((spoken | said[k]) & _RELATION)
            if places[k] & stood or not together_said & (_CSS | _XPATH):
                continue
            if alone and not says_nothing and one.bits != wanted:
                continue  # it would be idle
            together = (*facts, *(fact for fact in resting[k] if fact not in facts))
            if bits & one.bits == bits and (holding[k] or weigher.key(together) == key):
                if not says_nothing or weigher.is_weak(together):
                    continue  # it neither narrows nor guards
            members = (*chosen, k)
            languages = _NAMES[together_said]
            if weigher.least(together) >= max([worst[language] for language in languages]):
                continue
            looked_at += 1
            if looked_at > budget:
                proven = False
                branches.clear()
                break
            held = bits & one.bits
            if held == wanted and idle(members, together):
                continue  # and so is whatever holds it
            if held == wanted and any(places[member] != above for member in members):
                loss = weigher.loss(together)  # of what says something of the element itself, its tag at least
                entry = (-loss, next(order), members)
                if weigher.is_weak(together):
                    _keep(weak, entry)
                else:
                    for language in languages:
                        if loss < worst[language]:
                            worst[language] = _keep(best[language], entry)
            if len(members) < LARGEST:
                branches.append((k + 1, members, held, together, together_said, stood | places[k]))
    ranked = [(entry, language) for language, heap in best.items() for entry in heap]
    if not ranked:  # nothing says which element is meant
        ranked = [(entry, language) for entry in weak for language in _languages(universe[m] for m in entry[2])]
    ranked.sort(key=lambda found: (-found[0][0], found[0][1], found[1]))
    hops = (compiled([universe[k] for k in members], language) for (_, _, members), language in ranked)
    return Found(tuple(dict.fromkeys(hops)), proven, looked_at)


_Entry = tuple[float, int, tuple[int, ...]]
"""The loss, negative; the order in which it was found; the members."""


def _keep(heap: list[_Entry], entry: _Entry) -> float:
    """Put it among the KEPT best, unless a part of it is there that loses no more: the rest of it is redundant. What the worst of
    them loses, once there are so many."""
    if not any(loss >= entry[0] and set(members) < set(entry[2]) for loss, _, members in heap):
        heapq.heappushpop(heap, entry) if len(heap) == KEPT else heapq.heappush(heap, entry)
    return -heap[0][0] if len(heap) == KEPT else math.inf


_Facts = tuple[int, ...]
"""Facts by their numbers, each once, in the order of the members that rest on them."""
_Branch = tuple[int, tuple[int, ...], int, _Facts, int, int]
"""Where to go on; the members; the elements that meet them; what they rest on; how they can be said; what stands in them."""
_CSS, _XPATH, _RELATION = 1, 2, 4
_PLACES = {OWN: 0, ABOVE: 1, BESIDE: 2, COLUMN: 4}
"""At most one ancestor, one row or group and one column."""
_NAMES = {
    _CSS: ("css",),
    _XPATH: ("xpath",),
    _CSS | _XPATH: ("css", "xpath"),
    _CSS | _RELATION: (RELATED,),
    _XPATH | _RELATION: (RELATED,),
    _CSS | _XPATH | _RELATION: (RELATED,),
}
"""Sets with relations are a language of their own, whatever else they hold."""


def _said(one: Predicate) -> int:
    """The languages that a predicate can be said in."""
    return (_CSS if one.css else 0) | (_XPATH if one.xpath is not None else 0) | (_RELATION if one.related is not None else 0)


def _languages(members: Iterable[Predicate]) -> tuple[str, ...]:
    """The languages that a set can be said in."""
    spoken, relation = _CSS | _XPATH, 0
    for member in members:
        spoken &= _said(member)
        relation |= _said(member) & _RELATION
    return _NAMES[spoken | relation] if spoken else ()


class _Weigher:
    """Losses of sets of facts, by the closed form. Facts have numbers, since the same ones are weighed again and again."""

    def __init__(
        self, model: ChangeModel, index: int, costs: float, releases: int, universe: Sequence[Predicate], numbered: bool = False
    ) -> None:
        self.model, self.index, self.numbered, self.costs, self.releases = model, index, numbered, costs, releases
        self.facts: list[Dependency] = []
        self.hazards: list[float] = []
        self.sayings: list[int] = []
        self.keys: dict[_Facts, str] = {}
        self.numbers: dict[Dependency, int] = {}
        self.row = row_by((d for p in universe for d in p.facts), index)
        own = {d.kind for p in universe for d in p.facts if d.element == index and d.kind not in RELATIONS}
        ends = [f"{kind}{end}" for kind in own for end in ("", "/counted")]
        keys = [f"{lead}{end}" for lead in ("", "row-of/", "column-of/", "group-of/", "guarded/") for end in ends]
        self.least_stolen = min((model.rate(model.stolen, k).hazard for k in keys), default=0.0)
        self.least_ambiguous = min((model.rate(model.ambiguous, k).hazard for k in keys), default=0.0)
        self.least_theft = (costs - 1) * (1 - float(model.lasting(self.least_stolen, releases)))

    def known(self, facts: Sequence[Dependency]) -> _Facts:
        """Facts by their numbers, each once."""
        for fact in facts:
            if fact not in self.numbers:
                self.numbers[fact] = len(self.facts)
                self.facts.append(fact)
                # within one tree there are no hosts on the way
                self.sayings.append(saying(fact, self.index, self.numbered, self.row))
                self.hazards.append(self.model.rate(self.model.lost, fact.group).hazard)
        return tuple(dict.fromkeys(self.numbers[fact] for fact in facts))

    def is_weak(self, facts: Iterable[int]) -> bool:
        """See `weakness.is_weak`."""
        said = 0
        for number in facts:
            said |= self.sayings[number]
        return is_weak_by(said)

    def lost(self, facts: _Facts) -> float:
        return math.fsum([self.hazards[number] for number in facts])  # exactly rounded: their order must not decide between ties

    def weighed(self, lost: float, stolen: float, ambiguous: float) -> float:
        kept = float(self.model.lasting(lost + stolen + ambiguous, self.releases))
        return 1 - kept + (self.costs - 1) * (1 - float(self.model.lasting(stolen, self.releases)))

    def key(self, facts: _Facts) -> str:
        known = self.keys.get(facts)
        if known is None:
            known = self.keys[facts] = key_of([self.facts[number] for number in facts], self.index)
        return known

    def loss(self, facts: _Facts) -> float:
        key = self.key(facts)
        model = self.model
        return self.weighed(self.lost(facts), model.rate(model.stolen, key).hazard, model.rate(model.ambiguous, key).hazard)

    def least(self, facts: _Facts) -> float:
        """No set that holds these facts loses less."""
        total = self.lost(facts) + self.least_stolen + self.least_ambiguous
        return 1 - float(self.model.lasting(total, self.releases)) + self.least_theft
