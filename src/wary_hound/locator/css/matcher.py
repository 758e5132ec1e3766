"""CSS selectors matched on the arena, as sets of one tree: compounds from indexes, combinators as array operations."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np
import numpy.typing as npt

from wary_hound.locator.cache import Matches as Kept
from wary_hound.locator.css import states
from wary_hound.locator.css.values import (
    ANY_NAMESPACE,
    Attribute,
    Class,
    Complex,
    Compound,
    Id,
    Matches,
    Nth,
    Pseudo,
    Simple,
    Type,
)
from wary_hound.page import Page
from wary_hound.page.index import Index, tokens
from wary_hound.page.trees import HTML

IntArray = npt.NDArray[np.int32]
NOTHING: IntArray = np.zeros(0, np.int32)
_PREFIXES = ("xlink", "xml", "xmlns")
"""Of attributes that have a namespace of their own on SVG and MathML (HTML, 13.2.6.5)."""

CASELESS_VALUES = frozenset(
    """accept accept-charset align alink axis bgcolor charset checked clear codetype color compact declare defer dir
    direction disabled enctype face frame hreflang http-equiv lang language link media method multiple nohref noresize
    noshade nowrap readonly rel rev rules scope scrolling selected shape target text type valign valuetype vlink""".split()
)
"""Attributes of HTML elements whose values selectors compare without case (HTML, section 4.16.1)."""


def match(page: Page, selectors: tuple[Complex, ...], tree: int, scope: int = -1) -> IntArray:
    """The elements of one tree that match, in page order; `scope` is the element that `:scope` means (-1: the root)."""
    if len(selectors) == 1:
        return Matcher(page, tree, scope).complex(selectors[0])
    matcher = Matcher(page, tree, scope)
    return distinct(np.concatenate([matcher.complex(s) for s in selectors]), len(page))


class Matcher:
    """Matches in one tree of a page."""

    def __init__(self, page: Page, tree: int, scope: int = -1) -> None:
        self.page = page
        self.tree = tree
        self.scope = scope
        self.all = page.index.in_tree[tree]

    # --- complex selectors -----------------------------------------------------------------------------------------

    def complex(self, selector: Complex) -> IntArray:
        current = self.compound(selector.compounds[0])
        for combinator, compound in zip(selector.combinators[1:], selector.compounds[1:], strict=True):
            if not len(current):
                return NOTHING
            current = self.step(current, combinator, self.compound(compound))
        return current

    def step(self, current: IntArray, combinator: str, candidates: IntArray) -> IntArray:
        """Those of `candidates` that stand in the combinator's relation to one of `current`."""
        page, index = self.page, self.page.index
        if not len(candidates) or not len(current):
            return NOTHING
        if combinator == " ":
            reach = np.maximum.accumulate(page.end[current])
            before = np.searchsorted(current, candidates, "left") - 1
            return candidates[(before >= 0) & (reach[np.maximum(before, 0)] > candidates)]
        if combinator == ">":
            return candidates[among(page.parent[candidates], current)]
        if combinator == "+":
            return candidates[among(index.previous[candidates], current)]
        first = self.first_by_family(current)
        return candidates[first[index.family[candidates] + len(page.trees)] < candidates]

    def first_by_family(self, elements: IntArray) -> IntArray:
        """The first of the elements among each set of siblings; a huge number where there is none."""
        page = self.page
        first = np.full(len(page) + len(page.trees), np.iinfo(np.int32).max, np.int32)
        np.minimum.at(first, page.index.family[elements] + len(page.trees), elements)
        return first

    def before(self, found: IntArray, combinator: str) -> IntArray:
        """The elements that have one of `found` in the combinator's relation: a step backwards, for `:has`."""
        page, index = self.page, self.page.index
        if not len(found):
            return NOTHING
        if combinator == " ":
            begin = np.searchsorted(found, self.all, "right")
            end = np.searchsorted(found, page.end[self.all], "left")
            return self.all[end > begin]
        if combinator == ">":
            return distinct(page.parent[found], len(page))
        if combinator == "+":
            return distinct(index.previous[found], len(page))
        last = np.full(len(page) + len(page.trees), -1, np.int32)
        np.maximum.at(last, index.family[found] + len(page.trees), found)
        return self.all[last[index.family[self.all] + len(page.trees)] > self.all]

    def having(self, selector: Complex) -> IntArray:
        current = self.compound(selector.compounds[-1])
        pairs = list(zip(selector.combinators, selector.compounds, strict=True))
        for k in range(len(pairs) - 1, -1, -1):
            current = self.before(current, pairs[k][0])
            if k:
                current = np.intersect1d(current, self.compound(pairs[k - 1][1]), assume_unique=True)
        return current

    # --- compounds ---------------------------------------------------------------------------------------------------

    def compound(self, compound: Compound) -> IntArray:
        """From the most selective index first; the rest filters."""
        sets = sorted((self.simple(s) for s in compound.simples if s != Type("*")), key=len)
        if not sets:
            return self.all
        current = sets[0]
        for other in sets[1:]:
            if not len(current):
                return NOTHING
            current = current[among(current, other)]
        return current

    def simple(self, simple: Simple) -> IntArray:
        """All elements of the tree that match one simple selector, kept for the next question of this page."""
        if isinstance(simple, Pseudo) and simple.name == "scope":
            return self.scoped()
        kept, key = Kept.of(self.page).simples, (self.tree, simple)
        elements = kept.get(key)
        if elements is None:
            elements = self.fresh(simple)
            if not isinstance(simple, Matches | Nth):
                kept[key] = elements
        return elements

    def fresh(self, simple: Simple) -> IntArray:
        index = self.page.index
        match simple:
            case Type(name):
                return self.typed(name)
            case Id(value):
                return self.own(index.valued("id", value))
            case Class(value):
                return self.own(index.by_class.get(value, NOTHING))
            case Attribute():
                return self.attribute(simple)
            case Nth():
                return self.nth(simple)
            case Matches(name, selectors):
                if name == "has":
                    return self.union([self.having(s) for s in selectors])
                found = self.union([self.complex(s) for s in selectors])
                return np.setdiff1d(self.all, found, assume_unique=True) if name == "not" else found
            case Pseudo(name, _) if name in _PLACED:
                return self.all[_PLACED[name](index, self.all)]
            case Pseudo():
                return self.own(np.asarray(states.matching(self.page, self.tree, simple), np.int32))

    def own(self, elements: IntArray) -> IntArray:
        """Those of one tree."""
        if len(self.page.trees) == 1:
            return elements
        return elements[self.page.tree[elements] == self.tree]

    def union(self, sets: list[IntArray]) -> IntArray:
        return distinct(np.concatenate(sets), len(self.page)) if sets else NOTHING

    def scoped(self) -> IntArray:
        if self.scope >= 0:
            return np.asarray([self.scope], np.int32)
        return self.all[:1] if self.page.trees[self.tree].kind != "shadow" else NOTHING

    def typed(self, name: str) -> IntArray:
        """HTML's own elements compare without case, others (SVG) exactly."""
        page, lower = self.page, ascii_lower(name)
        if lower == name:
            found = self.own(page.index.by_tag.get(name, NOTHING))
            return found
        plain = self.own(page.index.by_tag.get(lower, NOTHING))
        exact = self.own(page.index.by_tag.get(name, NOTHING))
        return self.union([plain[page.namespace[plain] == HTML], exact[page.namespace[exact] != HTML]])

    def attribute(self, wanted: Attribute) -> IntArray:
        """HTML's own elements have their attributes in lower case, and compare the values of some without case."""
        page, index = self.page, self.page.index
        if wanted.name.startswith(ANY_NAMESPACE):
            local = wanted.name.removeprefix(ANY_NAMESPACE)
            prefixed = [self.attributed(wanted, f"{prefix}:{local}", wanted.case == "i") for prefix in _PREFIXES]
            foreigners = [found[page.namespace[found] != HTML] for found in prefixed]
            return self.union([self.attribute(replace(wanted, name=local, case=wanted.case or "s")), *foreigners])
        name, lower = wanted.name, ascii_lower(wanted.name)
        caseless = wanted.case == "i" or (not wanted.case and lower in CASELESS_VALUES)
        elements = self.attributed(wanted, lower, caseless)
        if not page.namespace.any():
            return elements
        if name == lower and caseless == (wanted.case == "i"):
            others = elements
        else:
            others = self.attributed(wanted, name, wanted.case == "i") if name in index.attribute_names else NOTHING
        foreign = others[page.namespace[others] != HTML]
        if name == "xmlns" or name.startswith(tuple(f"{prefix}:" for prefix in _PREFIXES)):
            foreign = NOTHING  # on SVG and MathML these are in a namespace of their own, where a plain name does not reach
        return self.union([elements[page.namespace[elements] == HTML], foreign])

    def attributed(self, wanted: Attribute, name: str, caseless: bool) -> IntArray:
        index = self.page.index
        if not wanted.operator:
            return self.own(index.having(name))
        if wanted.operator == "=" and not caseless:
            return self.own(index.valued(name, wanted.value))
        test = _TESTS[wanted.operator]
        value = ascii_lower(wanted.value) if caseless else wanted.value
        if wanted.operator == "^=" and value and not caseless:
            hits = index.begins(name, value)
        else:
            hits = [o for text, o in index.values_of(name).items() if test(ascii_lower(text) if caseless else text, value)]
        return self.own(np.sort(np.concatenate(hits))) if hits else NOTHING

    def nth(self, wanted: Nth) -> IntArray:
        index = self.page.index
        last = "last" in wanted.name
        if wanted.name.endswith("of-type"):
            place = index.place_of_type[self.all]
            if last:
                place = index.siblings_of_type[self.all] - place + 1
            elements = self.all
        elif not wanted.of:
            place = index.place[self.all]
            if last:
                place = index.siblings[self.all] - place + 1
            elements = self.all
        else:
            elements = self.union([self.complex(s) for s in wanted.of])
            place = self.rank(elements, last)
        a, b = wanted.a, wanted.b
        if a == 0:
            return elements[place == b]
        steps = place.astype(np.int64) - b
        return elements[(steps % a == 0) & (steps // a >= 0)]

    def rank(self, elements: IntArray, last: bool) -> IntArray:
        """The position of each element among those of the set that are its siblings."""
        family = self.page.index.family[elements]
        order = np.lexsort((-elements if last else elements, family))
        fresh = np.ones(len(elements), np.bool_)
        fresh[1:] = family[order][1:] != family[order][:-1]
        starts = np.flatnonzero(fresh)
        group = np.cumsum(fresh) - 1
        place = np.empty(len(elements), np.int32)
        place[order] = np.arange(len(elements)) - (starts[group] if len(starts) else 0) + 1
        return place


_LOWER = {ord(upper): upper.lower() for upper in "ABCDEFGHIJKLMNOPQRSTUVWXYZ"}


def ascii_lower(text: str) -> str:
    """Without case as HTML and CSS mean it: of the letters A to Z alone."""
    return text.lower() if text.isascii() else text.translate(_LOWER)


def distinct(values: IntArray, count: int) -> IntArray:
    """The different values from 0 up to `count`, in order; negative ones left out."""
    if len(values) * 8 < count:
        ordered = np.sort(values)
        fresh = np.ones(len(ordered), np.bool_)
        fresh[1:] = ordered[1:] != ordered[:-1]
        return ordered[fresh & (ordered >= 0)]
    seen = np.zeros(count + 1, np.bool_)
    seen[values] = True  # negative ones (-1) fall into the last place
    return np.flatnonzero(seen[:count]).astype(np.int32)


def among(values: IntArray, group: IntArray) -> npt.NDArray[np.bool_]:
    """Which of the values are in a sorted group."""
    at = np.minimum(np.searchsorted(group, values), len(group) - 1)
    return group[at] == values if len(group) else np.zeros(len(values), np.bool_)


_PLACED: dict[str, Callable[[Index, IntArray], npt.NDArray[np.bool_]]] = {
    "first-child": lambda index, at: index.place[at] == 1,
    "last-child": lambda index, at: index.place[at] == index.siblings[at],
    "only-child": lambda index, at: index.siblings[at] == 1,
    "first-of-type": lambda index, at: index.place_of_type[at] == 1,
    "last-of-type": lambda index, at: index.place_of_type[at] == index.siblings_of_type[at],
    "only-of-type": lambda index, at: index.siblings_of_type[at] == 1,
}
_TESTS: dict[str, Callable[[str, str], bool]] = {
    "=": lambda text, value: text == value,
    "~=": lambda text, value: bool(value) and value in tokens(text),
    "|=": lambda text, value: text == value or text.startswith(value + "-"),
    "^=": lambda text, value: bool(value) and text.startswith(value),
    "$=": lambda text, value: bool(value) and text.endswith(value),
    "*=": lambda text, value: bool(value) and value in text,
}
