"""Inverted indexes of a page: tag, id, class, attribute, attribute and value; children and sibling positions."""

from __future__ import annotations

import re
from bisect import bisect_left
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np
import numpy.typing as npt

from wary_hound.page.cache import Bounded

if TYPE_CHECKING:
    from wary_hound.page.arena import Page

IntArray = npt.NDArray[np.int32]
SPACE = re.compile(r"[ \t\r\n]+")
_ASCII_SPACE = re.compile(r"[^ \t\r\n\f]+")
NONE: IntArray = np.zeros(0, np.int32)


def _frozen(lists: dict[str, list[int]]) -> dict[str, IntArray]:
    return {key: np.asarray(values, np.int32) for key, values in lists.items()}


def tokens(value: str) -> list[str]:
    """The words of an attribute such as `class`, as HTML parts them: at ASCII white space alone."""
    return _ASCII_SPACE.findall(value)


class Index:
    """Each index is built when it is first asked for. Lists and arrays hold element indexes in page order."""

    def __init__(self, page: Page) -> None:
        self._page = page
        self._whole: dict[int, str] = {}
        self._folded: dict[int, str] = {}
        self._by_text: dict[bool, dict[str, IntArray]] = {}
        self._sorted_values: dict[str, list[str]] = {}
        self._lengths: dict[tuple[int, bool], IntArray] = {}
        self._joined: dict[int, tuple[str, IntArray]] = {}
        self._holding: Bounded[tuple[int, str], npt.NDArray[np.bool_]] = Bounded(100)

    @cached_property
    def in_tree(self) -> list[IntArray]:
        """The elements of each tree."""
        tree = self._page.tree
        order = np.argsort(tree, kind="stable").astype(np.int32)
        edges = np.searchsorted(tree[order], np.arange(len(self._page.trees) + 1))
        return [order[a:b] for a, b in zip(edges[:-1].tolist(), edges[1:].tolist(), strict=True)]

    @cached_property
    def text_trees(self) -> IntArray:
        """The tree of each text node and comment."""
        page = self._page
        above = page.text_parent
        return np.where(above >= 0, page.tree[np.maximum(above, 0)], -1 - above).astype(np.int32)

    @cached_property
    def by_tag(self) -> dict[str, IntArray]:
        """The elements of each tag."""
        page = self._page
        order = np.argsort(page.tag, kind="stable").astype(np.int32)
        numbers, starts = np.unique(page.tag[order], return_index=True)
        ends = [*starts[1:].tolist(), len(order)]
        return {page.strings[n]: order[a:b] for n, a, b in zip(numbers.tolist(), starts.tolist(), ends, strict=True)}

    @cached_property
    def _columns(self) -> dict[str, dict[int, str]]:
        page = self._page
        owners = np.repeat(np.arange(len(page), dtype=np.int32), np.diff(page.attr_start))
        columns: dict[str, dict[int, str]] = {}
        strings = page.strings
        for owner, name, value in zip(owners.tolist(), page.attr_name.tolist(), page.attr_value.tolist(), strict=True):
            columns.setdefault(strings[name], {})[owner] = strings[value]
        return columns

    @property
    def attribute_names(self) -> list[str]:
        """The names of all attributes on the page."""
        return list(self._columns)

    def attribute_column(self, name: str) -> dict[int, str]:
        """Value by element, for one attribute."""
        return self._columns.get(name, {})

    @cached_property
    def _having(self) -> dict[str, IntArray]:
        return {name: np.fromiter(column, np.int32, len(column)) for name, column in self._columns.items()}

    def having(self, name: str) -> IntArray:
        """The elements that have an attribute."""
        return self._having.get(name, NONE)

    @cached_property
    def _by_value(self) -> dict[str, dict[str, IntArray]]:
        return {}

    def valued(self, name: str, value: str) -> IntArray:
        """The elements whose attribute has exactly this value."""
        return self.values_of(name).get(value, NONE)

    def values_of(self, name: str) -> dict[str, IntArray]:
        """Every value of an attribute, with the elements that have it."""
        table = self._by_value.get(name)
        if table is None:
            by_value: dict[str, list[int]] = {}
            for owner, text in self._columns.get(name, {}).items():
                by_value.setdefault(text, []).append(owner)
            table = self._by_value[name] = _frozen(by_value)
        return table

    @cached_property
    def by_class(self) -> dict[str, IntArray]:
        """The elements of each class."""
        bearers: dict[str, list[int]] = {}
        for owner, text in self._columns.get("class", {}).items():
            for token in dict.fromkeys(tokens(text)):
                bearers.setdefault(token, []).append(owner)
        return _frozen(bearers)

    @cached_property
    def children(self) -> dict[int, list[int]]:
        """The child elements of each element, in the same tree."""
        by_parent: dict[int, list[int]] = {}
        for index, parent in enumerate(self._page.parent.tolist()):
            if parent >= 0:
                by_parent.setdefault(parent, []).append(index)
        return by_parent

    @cached_property
    def family(self) -> IntArray:
        """A number for each element that siblings share: the parent, or -1 - tree at the top of a tree."""
        page = self._page
        return np.where(page.parent >= 0, page.parent, -1 - page.tree).astype(np.int32)

    @cached_property
    def _sibling_order(self) -> tuple[IntArray, IntArray]:
        order = np.argsort(self.family, kind="stable").astype(np.int32)
        return order, self.family[order]

    @cached_property
    def place(self) -> IntArray:
        """1-based position among all siblings."""
        return self._placed(np.zeros(len(self._page), np.int32))[0]

    @cached_property
    def siblings(self) -> IntArray:
        """How many siblings there are, the element itself included."""
        return self._placed(np.zeros(len(self._page), np.int32))[1]

    @cached_property
    def _of_type(self) -> tuple[IntArray, IntArray]:
        return self._placed(self._page.tag)

    @property
    def place_of_type(self) -> IntArray:
        """1-based position among siblings of the same tag."""
        return self._of_type[0]

    @property
    def siblings_of_type(self) -> IntArray:
        """How many siblings of the same tag there are, the element itself included."""
        return self._of_type[1]

    def _placed(self, key: IntArray) -> tuple[IntArray, IntArray]:
        count = len(self._page)
        order = np.lexsort((np.arange(count), key, self.family))
        family, kind = self.family[order], key[order]
        fresh = np.ones(count, np.bool_)
        fresh[1:] = (family[1:] != family[:-1]) | (kind[1:] != kind[:-1])
        starts = np.flatnonzero(fresh)
        group = np.cumsum(fresh) - 1
        place = np.empty(count, np.int32)
        place[order] = np.arange(count) - starts[group] + 1
        sizes = np.diff(np.append(starts, count))
        size = np.empty(count, np.int32)
        size[order] = sizes[group]
        return place, size

    @cached_property
    def previous(self) -> IntArray:
        """The sibling before, or -1."""
        order, family = self._sibling_order
        before = np.full(len(self._page), -1, np.int32)
        same = family[1:] == family[:-1]
        before[order[1:][same]] = order[:-1][same]
        return before

    @cached_property
    def next(self) -> IntArray:
        """The sibling after, or -1."""
        after = np.full(len(self._page), -1, np.int32)
        later = np.flatnonzero(self.previous >= 0)
        after[self.previous[later]] = later
        return after

    @cached_property
    def children_by_tag(self) -> dict[tuple[int, str], list[int]]:
        """The HTML children of each tag, by parent (-1 - tree at the top of a tree) and tag."""
        page = self._page
        by_tag: dict[tuple[int, str], list[int]] = {}
        for index, (family, tag, space) in enumerate(zip(self.family.tolist(), page.tags, page.namespace.tolist(), strict=True)):
            if not space:
                by_tag.setdefault((family, tag), []).append(index)
        return by_tag

    def text_lengths(self, tree: int, ink: bool) -> IntArray:
        """How many characters `whole_text` has, for the elements of a tree; `ink`: without white space. Remembered."""
        lengths = self._lengths.get((tree, ink))
        if lengths is None:
            page = self._page
            own = (self.text_trees == tree) & ~np.asarray(page.text_comment, np.bool_)
            sizes = (len("".join(SPACE.split(text))) if ink else len(text) for text in page.text_values)
            sums = np.concatenate([[0], np.cumsum(np.where(own, np.fromiter(sizes, np.int32, len(own)), 0))]).astype(np.int32)
            lengths = self._lengths[tree, ink] = sums[page.text_end] - sums[page.text_start]
        return lengths

    def holding(self, tree: int, elements: IntArray, value: str) -> npt.NDArray[np.bool_]:
        """Which of some elements of a tree have a text (that is not empty) anywhere in their `whole_text`.

        The text of a tree is looked through once, for all of them: each element's is a stretch of it. Remembered.
        """
        page = self._page
        kept = self._holding.get((tree, value))
        if kept is not None:
            return kept[elements]
        if tree not in self._joined:
            own = [
                t if at == tree and not c else ""
                for t, at, c in zip(page.text_values, self.text_trees, page.text_comment, strict=True)
            ]
            sums = np.concatenate([[0], np.cumsum([len(text) for text in own], dtype=np.int32)])
            self._joined[tree] = "".join(own), sums.astype(np.int32)
        whole, sums = self._joined[tree]
        hits = []
        at = whole.find(value)
        while at >= 0:
            hits.append(at)
            at = whole.find(value, at + 1)
        starts = np.asarray([*hits, len(whole) + 1], np.int32)
        first = starts[np.searchsorted(starts, sums[page.text_start])]
        kept = self._holding[tree, value] = first + len(value) <= sums[page.text_end]
        return kept[elements]

    def texts_reading(self, value: str, folded: bool) -> IntArray:
        """Numbers of the text nodes that read exactly so, `folded`: as `normalize-space()` has them."""
        table = self._by_text.get(folded)
        if table is None:
            by_text: dict[str, list[int]] = {}
            for number, text in enumerate(self._page.text_values):
                by_text.setdefault(SPACE.sub(" ", text).strip(" ") if folded else text, []).append(number)
            table = self._by_text[folded] = _frozen(by_text)
        return table.get(value, NONE)

    def begins(self, name: str, start: str) -> list[IntArray]:
        """The elements of every value of an attribute that begins so."""
        ordered = self._sorted_values.get(name)
        if ordered is None:
            ordered = self._sorted_values[name] = sorted(self.values_of(name))
        table = self.values_of(name)
        at = bisect_left(ordered, start)
        last = at
        while last < len(ordered) and ordered[last].startswith(start):
            last += 1
        return [table[value] for value in ordered[at:last]]

    def whole_text(self, element: int) -> str:
        """All text in an element within its tree, as `textContent` has it; remembered."""
        from wary_hound.page.text import raw_text

        text = self._whole.get(element)
        if text is None:
            text = self._whole[element] = raw_text(self._page, element)
        return text

    def folded_text(self, element: int) -> str:
        """The same with XPath's white space folded, as `normalize-space()` has it; remembered."""
        text = self._folded.get(element)
        if text is None:
            text = self._folded[element] = SPACE.sub(" ", self.whole_text(element)).strip(" ")
        return text

    @cached_property
    def texts_of(self) -> dict[int, list[int]]:
        """Numbers of the text nodes (no comments) directly in each element; -1 - tree for those at the top of a tree."""
        page = self._page
        by_text: dict[int, list[int]] = {}
        for number, parent in enumerate(page.text_parent.tolist()):
            if not page.text_comment[number]:
                by_text.setdefault(parent, []).append(number)
        return by_text
