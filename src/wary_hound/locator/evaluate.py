"""Evaluating locators on a page: hop by hop, each in the trees and elements that the one before has opened."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from wary_hound.locator.cache import Matches
from wary_hound.locator.css.matcher import NOTHING, IntArray, distinct
from wary_hound.locator.kinds import KINDS, Scope
from wary_hound.locator.relations import narrow
from wary_hound.locator.typed import typed
from wary_hound.locator.values import Boundary, Finder, Hop, Locator
from wary_hound.page import Page
from wary_hound.page.trees import SHADOW

TOP: Scope = (0, -1)


def as_locator(locator: Locator | str) -> Locator:
    """A locator from its text (our notation, or a bare CSS selector or XPath), or as it is. NotationError where the text does not
    parse."""
    return typed(locator) if isinstance(locator, str) else locator


def match(page: Page, locator: Locator | str) -> list[int]:
    """Indexes of the elements that a locator finds, in page order. NotationError, LocatorError where it cannot be.

    Of several alternatives, what the first finds that finds exactly one; where none does, what the first of all finds.
    """
    value = as_locator(locator)
    found = _hops(page, value)
    if len(found) == 1 or value.otherwise is None:
        return found
    others = (_hops(page, other) for other in value.otherwise.alternatives)
    return next((other for other in others if len(other) == 1), found)


def _hops(page: Page, locator: Locator) -> list[int]:
    *before, last = locator.hops
    scopes: list[Scope] = [TOP]
    for hop in before:
        found = in_scopes(page, hop.finder, looked_in(page, hop, scopes))
        scopes = opened(page, hop, found)
        if not scopes:
            return [] if hop.boundary else [int(i) for i in found.tolist()]
    found = in_scopes(page, last.finder, looked_in(page, last, scopes))
    return [] if last.boundary and not opened(page, last, found) else [int(i) for i in found.tolist()]


def match_many(pages: Iterable[Page], locators: Iterable[Locator | str]) -> list[list[list[int]]]:
    """For each page, what each locator finds, as `match` gives it. Locators are parsed once; parts that several share
    (an anchor, a hop, a class) are evaluated once a page, which makes a batch cheaper than its locators one by one."""
    parsed = [as_locator(locator) for locator in locators]
    return [[match(page, locator) for locator in parsed] for page in pages]


def looked_in(page: Page, hop: Hop, scopes: list[Scope]) -> list[Scope]:
    """Where a hop looks that starts in some scopes: there, and in all shadow trees below where it looks anywhere."""
    if not hop.anywhere:
        return scopes
    if len(scopes) > 1 or scopes[0][1] >= 0:
        return _below(page, scopes)
    known, tree = Matches.of(page).below, scopes[0][0]
    if tree not in known:
        known[tree] = _below(page, scopes)
    return known[tree]


def _below(page: Page, scopes: list[Scope]) -> list[Scope]:
    """Some scopes, and all shadow trees below them."""
    wide = dict.fromkeys(scopes)
    within: dict[int, list[int]] = {}
    for number, inside in scopes:
        within.setdefault(number, []).append(inside)
    for tree in page.trees:  # each behind the one that holds it
        if tree.kind == SHADOW and any(at < 0 or at <= tree.host < page.end[at] for at in within.get(tree.parent, ())):
            wide[tree.number, -1] = None
            within.setdefault(tree.number, []).append(-1)
    return [*wide]


def opened(page: Page, hop: Hop, found: Iterable[int]) -> list[Scope]:
    """Where the next hop looks: inside what was found, or in the tree that it holds."""
    if hop.boundary is Boundary.NONE:
        return [(int(page.tree[i]), int(i)) for i in found]
    trees = (page.hosted.get(int(i)) for i in found)
    return [(tree.number, -1) for tree in trees if tree is not None and tree.kind == hop.boundary]


def in_scopes(page: Page, finder: Finder, scopes: list[Scope]) -> IntArray:
    """What a finder finds in any of some scopes, in page order."""
    if len(scopes) == 1:
        return find_in(page, finder, scopes[0])
    found = [find_in(page, finder, scope) for scope in scopes]
    return distinct(np.concatenate(found), len(page)) if found else NOTHING


def find_in(page: Page, finder: Finder, scope: Scope) -> IntArray:
    """The elements that a finder finds in one scope; remembered for the page."""
    kept, key = Matches.of(page).finders, (finder, scope)
    elements = kept.get(key)
    if elements is None:
        elements = kept[key] = _find(page, finder, scope)
        elements.setflags(write=False)
    return elements


def _find(page: Page, finder: Finder, scope: Scope) -> IntArray:
    (tree, inside), kind = scope, KINDS[finder.strategy]
    if finder.relations or finder.ordinal is not None:  # many are asked for that narrow the same
        found = find_in(page, Finder(finder.strategy, finder.query), scope)
    elif inside >= 0 and not kind.depends_on_scope(finder.query.tree):
        found = find_in(page, finder, (tree, -1))
    else:
        found = kind.match(page, finder.query.tree, tree, inside)
    if inside >= 0:
        found = found[(found > inside) & (found < page.end[inside])]
    for related in finder.relations:
        found = narrow(page, related.relation, found, find_in(page, related.anchor, scope))
    if finder.ordinal is not None:
        found = found[finder.ordinal - 1 : finder.ordinal]
    return found
