"""The best conjunction of predicates for an element, by exact branch and bound.

A candidate is a set of predicates, on the element itself and on at most one ancestor and one row or group, whose matches
meet in the element alone. Hazards of facts add up, so a set can only lose more by growing; what growing can gain is that
the set matches alone, and that less can steal it. A branch is cut when the loss of its facts, with the least theft that any
set could have, is no better than the best found (Land and Doig 1960). Where no branch is left, the best is proven.
"""

from __future__ import annotations

import functools
import heapq
import itertools
import math
import operator
from collections import deque
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np

from wary_hound.authoring import anchors
from wary_hound.authoring.around import (
    column_in_xpath,
    groups_in_xpath,
    held,
    held_in_xpath,
    holders,
    label_in_xpath,
    labels_in_xpath,
    rows_in_xpath,
    saying_in_xpath,
)
from wary_hound.authoring.cache import Authored
from wary_hound.authoring.predicates import (
    attribute_predicates,
    class_predicates,
    content_of,
    icon_predicates,
    parts_of,
    place_predicate,
    read_of,
    step_of,
    tag_step,
)
from wary_hound.authoring.taste import is_weak, known_by_number
from wary_hound.locator.css.building import joined, selector
from wary_hound.locator.css.values import Attribute, Class, Id, Pseudo, Selectors, Simple, Type
from wary_hound.locator.evaluate import find_in
from wary_hound.locator.making import css, xpath
from wary_hound.locator.values import Finder, Hop, Locator, Related, Relation
from wary_hound.locator.xpath import building as x
from wary_hound.locator.xpath.values import Step, is_positional
from wary_hound.page import Page
from wary_hound.robustness.dependence import Dependency, dependencies
from wary_hound.robustness.model import RELATIONS, ChangeModel, key_of

BUDGET = 3_000
"""Sets looked at for one element, unless told otherwise."""
LARGEST = 4
KEPT = 6
RELATED = "related"
_OWN, _ABOVE, _BESIDE, _COLUMN = "own", "above", "beside", "column"


@dataclass(frozen=True)
class Predicate:
    """One thing to ask for: as simple selectors and as an XPath step where it can be said so, the elements that meet it (as
    bits), what it rests on."""

    stands: str
    css: tuple[Simple, ...]
    xpath: Step | None
    bits: int
    facts: tuple[Dependency, ...]
    related: Related | None = None


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
    """The sets of least expected loss for one element, in its own tree; weak ones (see `taste.is_weak`) only where there are no
    others. `costs`: what a stolen match costs beside a lost one. `allow`: which facts they may rest on, all where it is None."""
    allowed = (p for p in _universe(page, index, model) if allow is None or allow(p.facts))
    universe = sorted(allowed, key=lambda p: model.hazard(fact.group for fact in p.facts))
    wanted, numbered = 1 << index, known_by_number(page.tags[index], page.semantics.roles[index])
    weigher = _Weigher(model, index, costs, releases, universe)
    best: dict[str, list[_Entry]] = {
        language: [] for language in ("css", "xpath", RELATED)
    }  # heaps of the KEPT best, the worst first
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
    holding = [p.stands == _OWN and any(fact.kind in RELATIONS for fact in p.facts) for p in universe]

    def idle(members: Sequence[int]) -> bool:
        """Whether the rest tells it without one of them that others meet, too: they would take its place with that as well."""
        for member in members if len(members) > 1 else ():
            if universe[member].bits != wanted:
                rest = [other for other in members if other != member]
                own = any(places[other] != _PLACES[_ABOVE] for other in rest)
                if own and functools.reduce(operator.and_, (universe[other].bits for other in rest)) == wanted:
                    facts = dict.fromkeys(fact for other in rest for fact in resting[other])
                    if not is_weak(weigher.said(tuple(facts)), index, numbered):
                        return True
        return False

    while branches:
        start, chosen, bits, facts, spoken, stood = branches.popleft()
        # what says nothing may yet be guarded by what says which
        alone = bits == wanted and any(places[member] != _PLACES[_ABOVE] for member in chosen)
        says_nothing = bits == wanted and is_weak(weigher.said(facts), index, numbered)
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
                if not says_nothing or is_weak(weigher.said(together), index, numbered):
                    continue  # it neither narrows nor guards
            members = (*chosen, k)
            languages = _NAMES[together_said]
            worst = {language: -best[language][0][0] if len(best[language]) == KEPT else float("inf") for language in languages}
            if weigher.least(together) >= max(worst.values()):
                continue
            looked_at += 1
            if looked_at > budget:
                proven = False
                branches.clear()
                break
            held = bits & one.bits
            if held == wanted and idle(members):
                continue  # and so is whatever holds it
            if held == wanted and any(places[member] != _PLACES[_ABOVE] for member in members):
                loss = weigher.loss(together)  # of what says something of the element itself, its tag at least
                entry = (-loss, next(order), members)
                for heap in (
                    [weak]
                    if is_weak(weigher.said(together), index, numbered)
                    else [best[lang] for lang in languages if loss < worst[lang]]
                ):
                    _keep(heap, entry)
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


def _keep(heap: list[_Entry], entry: _Entry) -> None:
    """Put it among the KEPT best, unless a part of it is there that loses no more: the rest of it is redundant."""
    if any(loss >= entry[0] and set(members) < set(entry[2]) for loss, _, members in heap):
        return
    heapq.heappushpop(heap, entry) if len(heap) == KEPT else heapq.heappush(heap, entry)


_Facts = tuple[int, ...]
"""Facts by their numbers, each once, in the order of the members that rest on them."""
_Branch = tuple[int, tuple[int, ...], int, _Facts, int, int]
"""Where to go on; the members; the elements that meet them; what they rest on; how they can be said; what stands in them."""
_CSS, _XPATH, _RELATION = 1, 2, 4
_PLACES = {_OWN: 0, _ABOVE: 1, _BESIDE: 2, _COLUMN: 4}
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

    def __init__(self, model: ChangeModel, index: int, costs: float, releases: int, universe: Sequence[Predicate]) -> None:
        self.model, self.index, self.costs, self.releases = model, index, costs, releases
        self.facts: list[Dependency] = []
        self.hazards: list[float] = []
        self.numbers: dict[Dependency, int] = {}
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
                self.hazards.append(self.model.rate(self.model.lost, fact.group).hazard)
        return tuple(dict.fromkeys(self.numbers[fact] for fact in facts))

    def said(self, facts: _Facts) -> list[Dependency]:
        """The facts that have these numbers."""
        return [self.facts[number] for number in facts]

    def lost(self, facts: _Facts) -> float:
        return math.fsum([self.hazards[number] for number in facts])  # exactly rounded: their order must not decide between ties

    def weighed(self, lost: float, stolen: float, ambiguous: float) -> float:
        kept = float(self.model.lasting(lost + stolen + ambiguous, self.releases))
        return 1 - kept + (self.costs - 1) * (1 - float(self.model.lasting(stolen, self.releases)))

    def key(self, facts: _Facts) -> str:
        return key_of(self.said(facts), self.index)

    def loss(self, facts: _Facts) -> float:
        key = self.key(facts)
        model = self.model
        return self.weighed(self.lost(facts), model.rate(model.stolen, key).hazard, model.rate(model.ambiguous, key).hazard)

    def least(self, facts: _Facts) -> float:
        """No set that holds these facts loses less."""
        total = self.lost(facts) + self.least_stolen + self.least_ambiguous
        return 1 - float(self.model.lasting(total, self.releases)) + self.least_theft


# --- what can be asked for ---------------------------------------------------------------------------------------------


def _universe(page: Page, index: int, model: ChangeModel) -> Iterator[Predicate]:
    yield from _own(page, index)
    steady = sorted(_above(page, index), key=lambda p: model.hazard(fact.group for fact in p.facts))
    yield from steady[:10]
    yield from _around(page, index)
    yield from _beside(page, index)


def _own(page: Page, index: int) -> Iterator[Predicate]:
    attributes = page.attributes_of(index)
    said: list[tuple[Simple, ...]] = [(Id(attributes["id"]),)] if attributes.get("id") else []
    said += [(one,) for one in itertools.islice(attribute_predicates(attributes, page.tags[index], read_of(page, index)), 8)]
    said += [(one,) for one in itertools.islice(class_predicates(attributes), 6)]
    said += [(one,) for one in itertools.islice(icon_predicates(page, index), 3)]
    said += [(Type(page.tags[index]),), place_predicate(page, index), *held(page, index)]
    for simples in filter(None, dict.fromkeys(said)):
        svg = page.namespace[index] and isinstance(simples[0], Type) and len(simples) == 1
        step = tag_step(page, index) if svg else step_of(simples)
        yield _predicate(page, css(selector(*simples)), index, simples, step)
    shown = content_of(page, index)
    if page.namespace[index]:
        return
    steps = [x.child("*", x.reads(shown))] if shown else []
    steps += [x.child("*", x.contains(part)) for part in parts_of(page, index)]
    label, column = label_in_xpath(page, index), column_in_xpath(page, index)
    steps += [x.child("*", label)] if label is not None else []
    steps += [column] if column is not None else []
    steps += held_in_xpath(page, index)
    for step in steps:
        yield _predicate(page, xpath(x.anywhere(step)), index, (), step)


def _above(page: Page, index: int) -> Iterator[Predicate]:
    scope = (int(page.tree[index]), -1)
    for at in itertools.islice(page.ancestors(index), 12):
        for finder in itertools.islice(anchors.of_ancestor(page, at), 8):
            if finder.strategy != "css":
                continue
            found = find_in(page, finder, scope)
            if len(found) > 50:
                continue
            facts = (*dependencies(page, Locator((Hop(finder),)), at, scope), Dependency("descendant", "", index))
            simples = finder.query.tree[0].compounds[0].simples
            yield Predicate(_ABOVE, simples, step_of(simples), _bits(_inside(page, found)), facts)


def _around(page: Page, index: int) -> Iterator[Predicate]:
    """Rows and groups as one language can say them: by their texts in XPath, by what they hold."""
    scope = (int(page.tree[index]), -1)
    spoken = (*rows_in_xpath(page, index), *saying_in_xpath(page, index), *labels_in_xpath(page, index))
    ways = (*spoken, *groups_in_xpath(page, index), *holders(page, index))
    for way in ways:
        finder = xpath(x.anywhere(way.step)) if way.step is not None else css(selector(*way.simples))
        found = find_in(page, finder, scope)
        if 0 < len(found) <= 50:
            own = dependencies(page, Locator((Hop(finder),)), way.ancestor, scope)
            # what it is to the element it is to what is looked for; the rest stands where it stands
            facts = [replace(fact, element=index) if fact.kind in ("row-of", "group-of") else fact for fact in own]
            facts.append(Dependency("descendant", "", index))
            yield Predicate(_ABOVE, way.simples, way.step, _bits(_inside(page, found)), tuple(facts))


def _inside(page: Page, found: Iterable[int]) -> np.ndarray[tuple[int], np.dtype[np.bool_]]:
    """Which elements stand in one of some others."""
    inside = np.zeros(len(page), np.bool_)
    for one in found:
        inside[int(one) + 1 : int(page.end[one])] = True
    return inside


def _beside(page: Page, index: int) -> Iterator[Predicate]:
    """The row, column or group of a text: a set of its own, so that it can be met with others."""
    simples, scope = (Type(page.tags[index]),), (int(page.tree[index]), -1)
    tag = css(selector(*simples))
    for relation, anchor in anchors.related(page, index):
        if relation not in (Relation.ROW_OF, Relation.GROUP_OF, Relation.COLUMN_OF):
            continue
        whole = replace(tag, relations=(Related(relation, anchor),))
        mask = np.zeros(len(page), np.bool_)
        mask[find_in(page, whole, scope)] = True
        facts = dependencies(page, Locator((Hop(whole),)), index, scope)
        stands = _COLUMN if relation is Relation.COLUMN_OF else _BESIDE
        yield Predicate(stands, simples, step_of(simples), _bits(mask), facts, Related(relation, anchor))


def _predicate(page: Page, finder: Finder, index: int, simples: tuple[Simple, ...], step: Step | None) -> Predicate:
    kept, tree = Authored.of(page).bits, int(page.tree[index])
    scope = (tree, -1)
    bits = kept.get((finder, tree))
    if bits is None:
        mask = np.zeros(len(page), np.bool_)
        mask[find_in(page, finder, scope)] = True
        bits = kept[finder, tree] = _bits(mask)
    return Predicate(_OWN, simples, step, bits, dependencies(page, Locator((Hop(finder),)), index, scope))


def _bits(mask: np.ndarray[tuple[int], np.dtype[np.bool_]]) -> int:
    return int.from_bytes(np.packbits(mask, bitorder="little").tobytes(), "little")


# --- as a locator ------------------------------------------------------------------------------------------------------


def compiled(members: Sequence[Predicate], language: str) -> tuple[tuple[Hop, ...], str]:
    """The set in a language; a row, column or group of a text as a relation. With its kind."""
    own = [m for m in members if m.stands == _OWN]
    above = next((m for m in members if m.stands == _ABOVE), None)
    beside = [m for m in members if m.stands in (_BESIDE, _COLUMN)]
    own = [*own, *beside[:1]]  # what stands in the row was asked for by its tag
    if language == "css" or (language == RELATED and all(m.css for m in (*own, *([above] if above else [])))):
        compound = _compound(own)
        finder = css(joined(selector(*above.css), " ", compound) if above else compound)
        kind = "chain" if above else _kind([simple for m in own for simple in m.css])
    else:
        steps = [_merged([above]), _merged(own)] if above else [_merged(own)]
        finder = xpath(x.anywhere(*steps))
        kind = "chain" if above else "text"
    if beside:
        finder, kind = replace(finder, relations=tuple(m.related for m in beside if m.related is not None)), "relative"
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
    """Steps of one element in one: its tag, a position first, then attributes, then what it reads."""
    steps = [m.xpath for m in own if m.xpath is not None]
    tags = [step.test for step in steps if step.test != "*"]
    tests = dict.fromkeys(said for step in steps for said in step.predicates)
    return x.child(tags[0] if tags else "*", *sorted(tests, key=lambda said: (not is_positional(said), x.is_of_text(said))))
