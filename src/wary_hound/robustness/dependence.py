"""What a locator depends on: the facts of a page that must last for it to go on finding its element.

Each dependency names the kind of fact, what its value looks like, and the element that bears it, so that the locators of
one page share dependencies and fail together where they share them.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from wary_hound.locator.evaluate import TOP, find_in, in_scopes, looked_in, match, opened
from wary_hound.locator.facts import Fact
from wary_hound.locator.kinds import KINDS, Scope
from wary_hound.locator.values import Finder, Locator
from wary_hound.page import Page
from wary_hound.page.cache import Bounded, Cache
from wary_hound.robustness.dependency import Dependency, dependency_of
from wary_hound.robustness.remarks import as_shown


class Known(Cache):
    """What the facts of a page are to the change model: many locators rest on the same."""

    def __init__(self, page: Page) -> None:
        super().__init__(page)
        self.dependencies: Bounded[Fact, Dependency] = Bounded(20_000)
        self.finders: Bounded[tuple[Finder, Scope, int], tuple[Dependency, ...]] = Bounded(5_000)
        """What a finder rests on that finds an element in a scope."""


def dependencies(page: Page, locator: Locator, element: int, start: Scope = TOP) -> tuple[Dependency, ...]:
    """The facts that `locator` needs in order to find `element` on `page`, each once, in the order of the locator; of several
    alternatives, those of the one that finds it.

    Hops and anchors count with the elements that they bind on the way; where several would do, the nearest. `start`: where
    the first hop looks.
    """
    if locator.otherwise is not None:
        locator = next((way for way in locator.alternatives if match(page, way) == [element]), locator)
    facts: dict[Dependency, None] = {}
    bound = _bind_hops(page, locator, element, start)
    for hop, (scope, target) in zip(locator.hops, bound, strict=True):
        for dependency in _finder(page, hop.finder, scope, target):
            facts.setdefault(dependency)
        if hop.boundary:
            facts.setdefault(Dependency(str(hop.boundary), "", target))
        elif target != element:
            facts.setdefault(Dependency("inside", "", target))
    return tuple(facts)


def _bind_hops(page: Page, locator: Locator, element: int, scope: Scope) -> list[tuple[Scope, int]]:
    """For each hop, where it looks and the element that it binds on the way to `element`."""
    bound: list[tuple[Scope, int]] = []
    for hop in locator.hops[:-1]:
        scopes = looked_in(page, hop, [scope])
        found = in_scopes(page, hop.finder, scopes).tolist()
        leads = [i for i in found if i < element < page.end[i]]
        at = leads[-1] if leads else -1
        bound.append((_scope_of(page, at, scopes), at))
        onward = opened(page, hop, [at] if at >= 0 else [])
        scope = onward[0] if onward else TOP
    return [*bound, (_scope_of(page, element, looked_in(page, locator.hops[-1], [scope])), element)]


def _scope_of(page: Page, element: int, scopes: Sequence[Scope]) -> Scope:
    """Which of some scopes holds an element; the first where none does."""
    return next((scope for scope in scopes if scope[0] == page.tree[element]), scopes[0])


def _finder(page: Page, finder: Finder, scope: Scope, target: int) -> tuple[Dependency, ...]:
    """What a finder rests on; remembered: many locators lean on the same."""
    if target < 0:
        return ()
    kept, key = Known.of(page).finders, (finder, scope, target)
    resting = kept.get(key)
    if resting is None:
        resting = kept[key] = tuple(_resting(page, finder, scope, target))
    return resting


def _resting(page: Page, finder: Finder, scope: Scope, target: int) -> Iterator[Dependency]:
    known = Known.of(page).dependencies
    if finder.relations or finder.ordinal is not None:
        yield from _finder(page, Finder(finder.strategy, finder.query), scope, target)
    else:
        for fact in KINDS[finder.strategy].facts(page, finder.query.tree, scope, target):
            dependency = known.get(fact)
            if dependency is None:
                dependency = known[fact] = as_shown(page, dependency_of(fact))
            yield dependency
    if finder.ordinal is not None:
        yield Dependency("ordinal", "", target, str(finder.ordinal))
    for related in finder.relations:
        yield Dependency("geometry" if related.relation.geometric else str(related.relation), "", target)
        anchors = find_in(page, related.anchor, scope)
        if len(anchors):
            nearest = int(anchors[np.abs(anchors - target).argmin()])
            yield from _finder(page, related.anchor, scope, nearest)
