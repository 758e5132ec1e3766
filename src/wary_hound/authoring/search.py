"""The best conjunction of predicates for an element, by exact branch and bound.

A candidate is a set of predicates, on the element itself and on at most one ancestor and one row or group, whose matches
meet in the element alone. Hazards of facts add up, so a set can only lose more by growing; what growing can gain is that
the set matches alone, and that less can steal it. A branch is cut when the loss of its facts, with the least theft that any
set could have, is no better than the best found (Land and Doig 1960). Where no branch is left, the best is proven.
"""

from __future__ import annotations

import heapq
import itertools
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np

from wary_hound.authoring import anchors
from wary_hound.authoring.cache import Authored
from wary_hound.authoring.predicates import (
    attribute_predicates,
    class_predicates,
    content_of,
    in_xpath,
    place_predicate,
)
from wary_hound.locator.css.building import joined, selector
from wary_hound.locator.css.values import Attribute, Class, Id, Pseudo, Selectors, Simple, Type
from wary_hound.locator.evaluate import find_in
from wary_hound.locator.making import css, xpath
from wary_hound.locator.values import Finder, Hop, Locator, Relation
from wary_hound.locator.xpath import building as x
from wary_hound.locator.xpath.values import Expression, Number, Step
from wary_hound.page import Page
from wary_hound.robustness.dependence import Dependency, dependencies
from wary_hound.robustness.model import RELATIONS, ChangeModel, key_of

BUDGET = 3_000
"""Sets looked at for one element, unless told otherwise."""
LARGEST = 4
KEPT = 6
_OWN, _ABOVE, _BESIDE = "own", "above", "beside"


@dataclass(frozen=True)
class Predicate:
    """One thing to ask for: as simple selectors and as an XPath step where it can be said so, the elements that meet it (as
    bits), what it rests on."""

    stands: str
    css: tuple[Simple, ...]
    xpath: Step | None
    bits: int
    facts: tuple[Dependency, ...]
    relation: Relation | None = None
    anchor: Finder | None = None


@dataclass(frozen=True)
class Found:
    """Sets found, best first, as hops within the element's tree with their kinds; whether the first is proven best under the
    model."""

    hops: tuple[tuple[tuple[Hop, ...], str], ...]
    proven: bool
    looked_at: int


def search(page: Page, index: int, model: ChangeModel, costs: float, releases: int = 1, budget: int = BUDGET) -> Found:
    """The sets of least expected loss for one element, in its own tree. `costs`: what a stolen match costs beside a lost one."""
    universe = sorted(_universe(page, index, model), key=lambda p: model.hazard(fact.group for fact in p.facts))
    wanted = 1 << index
    weigher = _Weigher(model, index, costs, releases, universe)
    best: list[tuple[float, int, tuple[int, ...]]] = []  # a heap of the KEPT best, the worst first
    looked_at = 0
    proven = True
    order = itertools.count()
    # Depth first, the steadiest predicates first: a good set is found early, and cuts the rest.
    stack: list[tuple[int, tuple[int, ...], int, frozenset[Dependency]]] = [(0, (), -1, frozenset())]
    while stack:
        start, chosen, bits, facts = stack.pop()
        for k in range(len(universe) - 1, start - 1, -1):
            one = universe[k]
            if not _fits(universe, chosen, one):
                continue
            together = facts.union(one.facts)
            if bits & one.bits == bits and weigher.key(together) == weigher.key(facts):
                continue  # it neither narrows nor guards
            worst = -best[0][0] if len(best) == KEPT else float("inf")
            if weigher.least(together) >= worst:
                continue
            looked_at += 1
            if looked_at > budget:
                proven = False
                stack.clear()
                break
            held = bits & one.bits
            members = (*chosen, k)
            if held == wanted:
                loss = weigher.loss(together)
                if loss < worst:
                    entry = (-loss, next(order), members)
                    heapq.heappushpop(best, entry) if len(best) == KEPT else heapq.heappush(best, entry)
            if len(members) < LARGEST:
                stack.append((k + 1, members, held, together))
    ranked = sorted(best, key=lambda entry: (-entry[0], entry[1]))
    hops = (compiled([universe[k] for k in members]) for _, _, members in ranked)
    return Found(tuple(dict.fromkeys(hops)), proven, looked_at)


def _fits(universe: Sequence[Predicate], chosen: tuple[int, ...], one: Predicate) -> bool:
    """At most one ancestor and one relation; all sayable in one language."""
    members = [universe[k] for k in chosen]
    if one.stands != _OWN and any(m.stands == one.stands for m in members):
        return False
    return all(m.css for m in (*members, one)) or all(m.xpath is not None for m in (*members, one))


class _Weigher:
    """Losses of sets of facts, by the closed form."""

    def __init__(self, model: ChangeModel, index: int, costs: float, releases: int, universe: Sequence[Predicate]) -> None:
        self.model, self.index, self.costs, self.releases = model, index, costs, releases
        self.hazards: dict[Dependency, float] = {}
        own = {d.kind for p in universe for d in p.facts if d.element == index and d.kind not in RELATIONS}
        keys = [f"{lead}{kind}" for lead in ("", "row-of/", "group-of/", "guarded/") for kind in own]
        self.least_stolen = min((model.rate(model.stolen, k).hazard for k in keys), default=0.0)
        self.least_ambiguous = min((model.rate(model.ambiguous, k).hazard for k in keys), default=0.0)

    def lost(self, facts: Iterable[Dependency]) -> float:
        total = 0.0
        for fact in facts:
            hazard = self.hazards.get(fact)
            if hazard is None:
                hazard = self.hazards[fact] = self.model.rate(self.model.lost, fact.group).hazard
            total += hazard
        return total

    def weighed(self, lost: float, stolen: float, ambiguous: float) -> float:
        kept = float(self.model.lasting(lost + stolen + ambiguous, self.releases))
        return 1 - kept + (self.costs - 1) * (1 - float(self.model.lasting(stolen, self.releases)))

    def key(self, facts: frozenset[Dependency]) -> str:
        return key_of(facts, self.index)

    def loss(self, facts: frozenset[Dependency]) -> float:
        key = self.key(facts)
        model = self.model
        return self.weighed(self.lost(facts), model.rate(model.stolen, key).hazard, model.rate(model.ambiguous, key).hazard)

    def least(self, facts: frozenset[Dependency]) -> float:
        """No set that holds these facts loses less."""
        return self.weighed(self.lost(facts), self.least_stolen, self.least_ambiguous)


# --- what can be asked for ---------------------------------------------------------------------------------------------


def _universe(page: Page, index: int, model: ChangeModel) -> Iterator[Predicate]:
    yield from _own(page, index)
    steady = sorted(_above(page, index), key=lambda p: model.hazard(fact.group for fact in p.facts))
    yield from steady[:10]
    yield from _beside(page, index)


def _own(page: Page, index: int) -> Iterator[Predicate]:
    attributes = page.attributes_of(index)
    said: list[tuple[Simple, ...]] = [(Id(attributes["id"]),)] if attributes.get("id") else []
    said += [(one,) for one in itertools.islice(attribute_predicates(attributes), 8)]
    said += [(one,) for one in itertools.islice(class_predicates(attributes), 6)]
    said += [(Type(page.tags[index]),), place_predicate(page, index)]
    for simples in filter(None, dict.fromkeys(said)):
        yield _predicate(page, css(selector(*simples)), index, simples, _step_of(simples))
    shown = content_of(page, index)
    if shown and not page.namespace[index]:
        step = x.child("*", x.reads(shown))
        yield _predicate(page, xpath(x.anywhere(step)), index, (), step)


def _above(page: Page, index: int) -> Iterator[Predicate]:
    for at in itertools.islice(page.ancestors(index), 12):
        for finder in itertools.islice(anchors.of_ancestor(page, at), 8):
            if finder.strategy != "css":
                continue
            found = find_in(page, finder, (int(page.tree[index]), -1))
            if len(found) > 50:
                continue
            inside = np.zeros(len(page), np.bool_)
            for one in found.tolist():
                inside[one + 1 : int(page.end[one])] = True
            facts = (*dependencies(page, Locator((Hop(finder),)), at), Dependency("descendant", "", index))
            simples = finder.query.tree[0].compounds[0].simples
            yield Predicate(_ABOVE, simples, _step_of(simples), _bits(inside), facts)


def _beside(page: Page, index: int) -> Iterator[Predicate]:
    """The row or group of a text: a set of its own, so that it can be met with others."""
    simples = (Type(page.tags[index]),)
    tag = css(selector(*simples))
    for relation, anchor in anchors.related(page, index):
        if relation not in (Relation.ROW_OF, Relation.GROUP_OF):
            continue
        whole = replace(tag, relation=relation, anchor=anchor)
        found = find_in(page, whole, (int(page.tree[index]), -1))
        inside = np.zeros(len(page), np.bool_)
        inside[found] = True
        facts = dependencies(page, Locator((Hop(whole),)), index)
        yield Predicate(_BESIDE, simples, _step_of(simples), _bits(inside), facts, relation, anchor)


def _predicate(page: Page, finder: Finder, index: int, simples: tuple[Simple, ...], step: Step | None) -> Predicate:
    kept, tree = Authored.of(page).bits, int(page.tree[index])
    bits = kept.get((finder, tree))
    if bits is None:
        mask = np.zeros(len(page), np.bool_)
        mask[find_in(page, finder, (tree, -1))] = True
        bits = kept[finder, tree] = _bits(mask)
    return Predicate(_OWN, simples, step, bits, dependencies(page, Locator((Hop(finder),)), index))


def _bits(mask: np.ndarray[tuple[int], np.dtype[np.bool_]]) -> int:
    return int.from_bytes(np.packbits(mask, bitorder="little").tobytes(), "little")


def _step_of(simples: Iterable[Simple]) -> Step | None:
    """Simple selectors as a step of XPath; None where one of them cannot be said so readably (classes)."""
    tag, tests = "*", list[Expression]()
    for simple in simples:
        said = in_xpath(simple)
        if said is None:
            return None
        tag = said[0] if said[0] != "*" else tag
        tests.extend(said[1])
    return x.child(tag, *tests)


# --- as a locator ------------------------------------------------------------------------------------------------------


def compiled(members: Sequence[Predicate]) -> tuple[tuple[Hop, ...], str]:
    """The set in CSS where all of it can be said so, else in XPath; a row or group as a relation. With its kind."""
    own = [m for m in members if m.stands == _OWN]
    above = next((m for m in members if m.stands == _ABOVE), None)
    beside = next((m for m in members if m.stands == _BESIDE), None)
    if beside is not None:
        own = [*own, beside]  # what stands in the row was asked for by its tag
    if all(m.css for m in (*own, *([above] if above else []))):
        compound = _compound(own)
        finder = css(joined(selector(*above.css), " ", compound) if above else compound)
        kind = "chain" if above else _kind([simple for m in own for simple in m.css])
    else:
        steps = [_merged([above]), _merged(own)] if above else [_merged(own)]
        finder = xpath(x.anywhere(*steps))
        kind = "text"
    if beside is not None:
        finder, kind = replace(finder, relation=beside.relation, anchor=beside.anchor), "relative"
    return (Hop(finder),), kind


def _kind(simples: Sequence[Simple]) -> str:
    if any(isinstance(one, Id) for one in simples):
        return "id"
    return "attribute" if any(isinstance(one, Attribute) for one in simples) else "class"


def _compound(own: Sequence[Predicate]) -> Selectors:
    """Simple selectors in one compound, the tag first and once, then ids, attributes, classes, positions."""
    rank = {Type: 0, Id: 1, Attribute: 2, Class: 3, Pseudo: 4}
    simples = dict.fromkeys(simple for m in own for simple in m.css)
    return selector(*sorted(simples, key=lambda one: rank.get(type(one), 5)))


def _merged(own: Sequence[Predicate]) -> Step:
    """Steps of one element in one: its tag, a position first, then the other predicates."""
    steps = [m.xpath for m in own if m.xpath is not None]
    tag = next((step.test for step in steps if step.test != "*"), "*")
    tests = dict.fromkeys(test for step in steps for test in step.predicates)
    return x.child(tag, *sorted(tests, key=lambda test: not isinstance(test, Number)))
