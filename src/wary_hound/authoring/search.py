"""The best conjunction of predicates for an element, by exact branch and bound.

A candidate is a set of predicates, on the element itself and on at most one ancestor and one row or group, whose matches
meet in the element alone. Hazards of facts add up, so a set can only lose more by growing; what growing can gain is that
the set matches alone, and that less can steal it. A branch is cut when the loss of its facts, with the least theft that any
set could have, is no better than the best found (Land and Doig 1960). Where no branch is left, the best is proven.
"""

from __future__ import annotations

import heapq
import itertools
import re
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np

from wary_hound.authoring import anchors
from wary_hound.authoring.predicates import attribute_predicates, class_predicates, content_of, place_predicate
from wary_hound.locator import css
from wary_hound.locator.css import values
from wary_hound.locator.evaluate import find_in
from wary_hound.locator.printing import css_identifier, xpath_string
from wary_hound.locator.values import Finder, Hop, Locator, Relation, Strategy
from wary_hound.locator.values import css as css_finder
from wary_hound.locator.values import xpath as xpath_finder
from wary_hound.page import Page
from wary_hound.robustness.dependence import Dependency, dependencies
from wary_hound.robustness.model import RELATIONS, ChangeModel, key_of

BUDGET = 3_000
"""Sets looked at for one element, unless told otherwise."""
LARGEST = 4
KEPT = 6
_XPATH_NAME = re.compile(r"(?:\*|[a-zA-Z][\w.-]*)\Z")
_OWN, _ABOVE, _BESIDE = "own", "above", "beside"


@dataclass(frozen=True)
class Predicate:
    """One thing to ask for: as CSS and XPath where it can be said so, the elements that meet it (as bits), what it rests on."""

    place: str
    css: str
    xpath: str
    bits: int
    facts: tuple[Dependency, ...]
    relation: Relation | None = None
    anchor: Finder | None = None


@dataclass(frozen=True)
class Found:
    """Sets found, best first, as hops within the element's tree; whether the first is proven best under the model."""

    hops: tuple[tuple[Hop, ...], ...]
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
    return Found(tuple(dict.fromkeys(h for h in hops if h)), proven, looked_at)


def _fits(universe: Sequence[Predicate], chosen: tuple[int, ...], one: Predicate) -> bool:
    """At most one ancestor and one relation; all sayable in one language."""
    members = [universe[k] for k in chosen]
    if one.place != _OWN and any(m.place == one.place for m in members):
        return False
    return all(m.css for m in (*members, one)) or all(m.xpath for m in (*members, one))


class _Weigher:
    """Losses of sets of facts, by the closed form."""

    def __init__(self, model: ChangeModel, index: int, costs: float, releases: int, universe: Sequence[Predicate]) -> None:
        self.model, self.index, self.costs, self.releases = model, index, costs, releases
        self.hazards: dict[Dependency, float] = {}
        own = {d.kind for p in universe for d in p.facts if d.element == index and d.kind not in RELATIONS}
        keys = [f"{lead}{kind}" for lead in ("", "row-of/", "group-of/", "guarded/") for kind in own]
        self.least_stolen = min((model.rate(model.stolen, k).hazard for k in keys), default=0.0)
        self.least_crowded = min((model.rate(model.ambiguous, k).hazard for k in keys), default=0.0)

    def lost(self, facts: Iterable[Dependency]) -> float:
        total = 0.0
        for fact in facts:
            hazard = self.hazards.get(fact)
            if hazard is None:
                hazard = self.hazards[fact] = self.model.rate(self.model.lost, fact.group).hazard
            total += hazard
        return total

    def weighed(self, lost: float, stolen: float, crowded: float) -> float:
        kept = float(self.model.lasting(lost + stolen + crowded, self.releases))
        return 1 - kept + (self.costs - 1) * (1 - float(self.model.lasting(stolen, self.releases)))

    def key(self, facts: frozenset[Dependency]) -> str:
        return key_of(facts, self.index)

    def loss(self, facts: frozenset[Dependency]) -> float:
        key = self.key(facts)
        model = self.model
        return self.weighed(self.lost(facts), model.rate(model.stolen, key).hazard, model.rate(model.ambiguous, key).hazard)

    def least(self, facts: frozenset[Dependency]) -> float:
        """No set that holds these facts loses less."""
        return self.weighed(self.lost(facts), self.least_stolen, self.least_crowded)


# --- what can be asked for ---------------------------------------------------------------------------------------------


def _universe(page: Page, index: int, model: ChangeModel) -> Iterator[Predicate]:
    yield from _own(page, index)
    steady = sorted(_above(page, index), key=lambda p: model.hazard(fact.group for fact in p.facts))
    yield from steady[:10]
    yield from _beside(page, index)


def _own(page: Page, index: int) -> Iterator[Predicate]:
    attributes = page.attributes_of(index)
    simples = [f"#{css_identifier(attributes['id'])}"] if attributes.get("id") else []
    simples += list(attribute_predicates(attributes))[:8] + list(class_predicates(attributes))[:6]
    tag = css_identifier(page.tags[index])
    simples.append(tag)
    simples.append(place_predicate(page, index))
    for simple in filter(None, dict.fromkeys(simples)):
        yield _predicate(page, css_finder(simple), index, _OWN, simple, _in_xpath(simple))
    shown = content_of(page, index)
    if shown and not page.namespace[index]:
        test = f"[normalize-space()={xpath_string(shown)}]"
        yield _predicate(page, xpath_finder(f"//*{test}"), index, _OWN, "", f"*{test}")


def _above(page: Page, index: int) -> Iterator[Predicate]:
    for at in itertools.islice(page.ancestors(index), 12):
        for finder in itertools.islice(anchors.of_ancestor(page, at), 8):
            if finder.strategy is not Strategy.CSS:
                continue
            found = find_in(page, finder, (int(page.tree[index]), -1))
            if len(found) > 50:
                continue
            inside = np.zeros(len(page), np.bool_)
            for one in found.tolist():
                inside[one + 1 : int(page.end[one])] = True
            facts = (*dependencies(page, Locator((Hop(finder),)), at), Dependency("descendant", "", index))
            yield Predicate(_ABOVE, finder.expression, _in_xpath(finder.expression), _bits(inside), facts)


def _beside(page: Page, index: int) -> Iterator[Predicate]:
    """The row or group of a text: a set of its own, so that it can be met with others."""
    tag = css_finder(css_identifier(page.tags[index]))
    for relation, anchor in anchors.related(page, index):
        if relation not in (Relation.ROW_OF, Relation.GROUP_OF):
            continue
        whole = replace(tag, relation=relation, anchor=anchor)
        found = find_in(page, whole, (int(page.tree[index]), -1))
        inside = np.zeros(len(page), np.bool_)
        inside[found] = True
        facts = dependencies(page, Locator((Hop(whole),)), index)
        yield Predicate(_BESIDE, tag.expression, _in_xpath(tag.expression), _bits(inside), facts, relation, anchor)


def _predicate(page: Page, finder: Finder, index: int, place: str, as_css: str, as_xpath: str) -> Predicate:
    memo: dict[tuple[Finder, int], int] = page.memo.setdefault("search bits", {})
    key = (finder, int(page.tree[index]))
    bits = memo.get(key)
    if bits is None:
        found = np.zeros(len(page), np.bool_)
        found[find_in(page, finder, (key[1], -1))] = True
        bits = memo[key] = _bits(found)
    return Predicate(place, as_css, as_xpath, bits, dependencies(page, Locator((Hop(finder),)), index))


def _bits(mask: np.ndarray[tuple[int], np.dtype[np.bool_]]) -> int:
    return int.from_bytes(np.packbits(mask, bitorder="little").tobytes(), "little")


def _in_xpath(simple: str) -> str:
    """A simple selector as a step of XPath, `tag[...]`; empty where it cannot be said so readably (classes)."""
    tag, _, place = simple.partition(":nth-of-type(")
    if place:
        return f"{tag}[{place[:-1]}]"
    said = css.parse(simple)
    if len(said) != 1 or len(said[0].compounds) != 1:
        return ""
    tag, tests = "*", ""
    for one in said[0].compounds[0].simples:
        match one:
            case values.Type(name):
                tag = name
            case values.Id(value):
                tests += f"[@id={xpath_string(value)}]"
            case values.Attribute(name, "", _, _):
                tests += f"[@{name}]"
            case values.Attribute(name, "=", value, _):
                tests += f"[@{name}={xpath_string(value)}]"
            case values.Attribute(name, "^=" | "*=" as operator, value, _):
                tests += f"[{'contains' if operator == '*=' else 'starts-with'}(@{name}, {xpath_string(value)})]"
            case _:
                return ""
    return tag + tests if _XPATH_NAME.match(tag) and ":" not in simple else ""


# --- as a locator ------------------------------------------------------------------------------------------------------


def compiled(members: Sequence[Predicate]) -> tuple[Hop, ...]:
    """The set in CSS where all of it can be said so, else in XPath; a row or group as a relation."""
    own = [m for m in members if m.place == _OWN]
    above = next((m for m in members if m.place == _ABOVE), None)
    beside = next((m for m in members if m.place == _BESIDE), None)
    if beside is not None:
        own = [*own, beside]  # what stands in the row was asked for by its tag
    if all(m.css for m in (*own, *([above] if above else []))):
        finder = css_finder(f"{above.css} {_compound(own)}" if above else _compound(own))
    else:
        finder = xpath_finder(f"//{above.xpath}//{_step(own)}" if above else f"//{_step(own)}")
    if beside is not None:
        finder = replace(finder, relation=beside.relation, anchor=beside.anchor)
    return (Hop(finder),)


def _compound(own: Sequence[Predicate]) -> str:
    """Simple selectors in one compound, the tag first and once."""
    if not own:
        return "*"
    texts = [m.css for m in own]
    tagged = [t for t in texts if t[0] not in "#.[:"]
    rest = [t for t in texts if t[0] in "#.[:"]
    longest = max(tagged, key=len, default="")
    return longest + "".join(sorted(rest, key=lambda text: "#[.:".index(text[0])))


def _step(own: Sequence[Predicate]) -> str:
    """Steps of one element in one: its tag, a position first, then the other predicates."""
    names = [m.xpath.partition("[")[0] for m in own]
    tag = next((n for n in names if n != "*"), "*")
    tests = [m.xpath[len(n) :] for m, n in zip(own, names, strict=True)]
    return tag + "".join(sorted(tests, key=lambda t: not t[1:2].isdigit()))
