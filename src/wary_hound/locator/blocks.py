"""The blocks that an element stands in: its row, its group, its section."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from functools import cached_property
from itertools import takewhile

import numpy as np

from wary_hound.page import Page
from wary_hound.page.cache import Cache
from wary_hound.page.index import IntArray, tokens
from wary_hound.page.slots import Slots
from wary_hound.page.trees import HTML, SHADOW

ROW_TAGS = frozenset({"tr", "li", "article", "option"})
ROW_ROLES = frozenset({"row", "listitem", "article", "option", "menuitem", "treeitem"})
_CELL_TAGS = frozenset({"td", "th", "dd", "dt", "html", "head", "body", "main", "thead", "tbody", "tfoot"})
_CELL_ROLES = frozenset({"cell", "gridcell", "columnheader", "rowheader"})
GROUP_TAGS = frozenset(
    """article aside details dialog dl fieldset figure footer form header main menu nav ol search section table ul body
    html""".split()
)
GROUP_ROLES = frozenset(
    """alertdialog article complementary contentinfo dialog feed figure form grid group list listbox main menu menubar
    navigation radiogroup region search table tablist tabpanel toolbar tree treegrid banner""".split()
)
HEADS = frozenset({"legend", "caption", "summary", "figcaption"})
"""Tags that head the group which they are in, as headings do."""
WHOLE = frozenset({"main", "body", "html"})
"""Groups that are as much as the page's main part."""
MOST_ARTICLES = 50
"""So many articles are asked for their tree."""
NEARLY_ALL, HALF, LARGE = 0.9, 0.5, 30
"""What holds more of a tree than the first share is the whole of it, what holds more than the other is most of it, in trees of
so many elements and more."""
MOST_IN_A_ROW = 60
"""A block with more elements than that is a part of the page, not a row: of those of its tree, without what drawings are made of;
what all are made of ..."""
MOST_IN_ALL = 600
"""... may be so many."""


def row_of(page: Page, index: int) -> int:
    """The row of an element: the nearest table row, list item, article or one of several alike blocks around it (alone in what
    holds several elsewhere, too); or -1.

    What is in a slot is in the row that the slot is in, which is then in another tree.
    """
    blocks = Blocks.of(page)
    return index if blocks.is_row(index) else blocks.row_over(index)


def is_block(page: Page, index: int) -> bool:
    """Whether an element is a row itself, or one of several blocks alike."""
    return Blocks.of(page).is_block(index)


def rows_around(page: Page, index: int, most: int = 3) -> Iterator[int]:
    """The rows of an element, the nearest first: the item of a menu is in one, and so is the menu. Of so many those that a person
    calls rows (`is_no_row`)."""
    row = row_of(page, index)
    while row >= 0 and most > 0:
        if not is_no_row(page, row):
            yield row
        row = Blocks.of(page).row_over(row)
        most -= 1


def row_around(page: Page, index: int) -> int:
    """The row of an element, whatever trees are between: of what stands in none in its shadow tree, the row of the host; or -1."""
    row = row_of(page, index)
    while row < 0 and (tree := page.trees[page.tree[index]]).kind == SHADOW:
        index = tree.host
        row = row_of(page, index)
    return row


def group_of(page: Page, index: int) -> int:
    """The group of an element: the nearest form, section, list, table, dialog or the like around it; or -1.

    A heading, legend or caption stands for what it heads: such a group again, unless that is as much as the page's main
    part; then the nearest element around it that holds more than it.
    """
    heads = page.semantics.roles[index] == "heading" or page.tags[index] in HEADS
    group = section_of(page, index)
    if heads and (group < 0 or page.tags[group] in WHOLE):
        return next((at for at in page.ancestors(index) if len(page.children(at)) > 1), group)
    return group


def section_of(page: Page, index: int) -> int:
    """The nearest form, section, list, dialog or the like around an element, whatever it is; or -1."""
    blocks = Blocks.of(page)
    return blocks.section_from(blocks.parents[index])


def is_whole(page: Page, index: int) -> bool:
    """Whether an element holds nearly all of its tree (the root of an application, the table that a page is laid out by): that
    something stands in it says nothing. Of a document what its body holds is counted; of small trees nothing is."""
    return index in Blocks.of(page).wholes


def narrowing(page: Page, index: int) -> Iterator[int]:
    """The ancestors of an element that hold less than nearly all of its tree, nearest first: whatever stands around one that does
    not, does not either."""
    return takewhile(lambda at: not is_whole(page, at), page.ancestors(index))


def is_no_row(page: Page, row: int) -> bool:
    """Whether no person calls it a row: that of a table which puts the parts of a page side by side (it holds another one), the
    one article of its tree."""
    if page.tags[row] == "article":
        return sum(page.tree[at] == page.tree[row] for at in page.index.by_tag["article"][:MOST_ARTICLES]) == 1
    if page.tags[row] != "tr":
        return False
    rows = page.index.by_tag["tr"]
    following = rows[np.searchsorted(rows, row, "right") :][:1]
    return bool((following < page.end[row]).any())


def is_most(page: Page, index: int) -> bool:
    """Whether a box holds more than half of its tree: that something stands in it hardly says where. No form, table, dialog or the
    like, which is one thing."""
    return index in Blocks.of(page).halves and page.tags[index] not in GROUP_TAGS - {"section"}


class Blocks(Cache):
    """The rows and sections of a page, as far as they were asked for: each element is looked at once."""

    def __init__(self, page: Page) -> None:
        super().__init__(page)
        self.parents: list[int] = page.parent.tolist()
        """Of each element the one that holds it in its tree; -1 at the top."""
        self._slots = Slots.of(page)
        self._rows: dict[int, int] = {}
        self._sections = {-1: -1}
        self._shapes: dict[int, tuple[str, str]] = {}
        self._nesting: dict[tuple[str, str], bool] = {}
        self._answering: dict[int, bool] = {}  # whether it, or what it stands in, is one of several blocks of its shape
        self._families: dict[int, Counter[tuple[str, str]]] = {}
        self._cousins: dict[tuple[int, tuple[str, str], tuple[str, str]], bool] = {}

    @cached_property
    def wholes(self) -> frozenset[int]:
        """The elements that hold nearly all of their tree."""
        return self._holding(NEARLY_ALL)

    @cached_property
    def halves(self) -> frozenset[int]:
        """The elements that hold more than half of their tree."""
        return self._holding(HALF)

    def _holding(self, share: float) -> frozenset[int]:
        page = self.page
        held = np.asarray(page.end) - np.arange(len(page)) - 1
        most = [int(held[tree.host]) if tree.host >= 0 else len(page) for tree in page.trees]
        for body in page.index.by_tag.get("body", ()):
            most[page.tree[body]] = int(held[body])
        of = np.array(most)[np.asarray(page.tree)]
        return frozenset(np.flatnonzero((of >= LARGE) & (held > share * of)).tolist())

    def is_row(self, index: int) -> bool:
        """Whether an element is a row by its tag or role."""
        return self.page.tags[index] in ROW_TAGS or self.page.semantics.roles[index] in ROW_ROLES

    def row_over(self, index: int) -> int:
        """The nearest row around an element; or -1."""
        known, passed, row, at = self._rows, [], -1, index
        while at >= 0 and row < 0:
            if at in known:
                row = known[at]
                break
            passed.append(at)
            row = next(filter(self.is_block, self._slots.shadowed(at)), -1)
            at = self.parents[at]
            if row < 0 <= at and self.is_block(at):
                row = at
        known.update(dict.fromkeys(passed, row))
        return row

    def is_block(self, index: int) -> bool:
        """Whether an element is a row, or one of several blocks alike."""
        return self.is_row(index) or self._repeats(index)

    def section_from(self, index: int) -> int:
        """The nearest section, from an element upwards; or -1."""
        known, passed, at = self._sections, [], index
        while at not in known:
            if self._is_section(at):
                known[at] = at
                break
            passed.append(at)
            at = self.parents[at]
        known.update(dict.fromkeys(passed, known[at]))
        return known[at]

    def _is_section(self, at: int) -> bool:
        tag = self.page.tags[at]
        return tag in GROUP_TAGS or self.page.semantics.roles[at] in GROUP_ROLES or "-" in tag

    def _repeats(self, index: int) -> bool:
        """A block with two parts or more that has a sibling alike: a card, a panel."""
        page, above = self.page, self.parents[index]
        if above < 0 or page.tags[index] in _CELL_TAGS or page.semantics.roles[index] in _CELL_ROLES or page.end[index] - index < 3:
            return False
        shape = self._shape(index)
        if not shape[1] and "-" not in shape[0]:
            return False  # two bare sections one after the other are not yet rows
        if not (self._family(above)[shape] > 1 or self._has_cousins(index, above, shape) or self._answers(index, shape)):
            return False
        return self._is_small(index, shape) and not self._slots.is_alone(index)  # which has no siblings where it is shown

    def _is_small(self, index: int, shape: tuple[str, str]) -> bool:
        """Whether a block has parts, and no more than a row has, without blocks of its shape in it (the answers to a comment)."""
        page, end = self.page, int(self.page.end[index])
        inner = list(self._inner(index, shape))
        if end - index - sum(int(page.end[at]) - at for at in inner) > MOST_IN_ALL:
            return False
        its = page.tree[index:end] == page.tree[index]
        for at in inner:
            its[at - index : page.end[at] - index] = False
        drawn = np.asarray(page.namespace[index:end]) != HTML
        return int(np.count_nonzero(its)) >= 3 and int(np.count_nonzero(its & ~drawn)) <= MOST_IN_A_ROW

    def _inner(self, index: int, shape: tuple[str, str]) -> Iterator[int]:
        """The outermost blocks of a shape in an element."""
        if not self._nests(shape):
            return
        page, alike = self.page, self._alike(shape)
        at, behind = (int(np.searchsorted(alike, end)) for end in (index + 1, page.end[index]))
        while at < behind:
            one = int(alike[at])
            if self._shape(one) == shape:
                yield one
                at = int(np.searchsorted(alike, page.end[one]))
            else:
                at += 1

    def answers_in(self, row: int) -> Iterator[int]:
        """The outermost rows of its shape in one of several alike blocks: the answers to a comment."""
        if row >= 0 and not self.is_row(row):
            yield from self._inner(row, self._shape(row))

    def _answers(self, index: int, shape: tuple[str, str]) -> bool:
        """Whether a block stands in a row of its shape: the one answer to a comment."""
        if not self._nests(shape):
            return False
        passed, answers, at = [index], False, self.parents[index]
        while at >= 0 and not answers:
            if self._shape(at) == shape:
                if at in self._answering:
                    answers = self._answering[at]
                    break
                passed.append(at)
                answers = self.parents[at] >= 0 and self._family(self.parents[at])[shape] > 1
            at = self.parents[at]
        self._answering.update(dict.fromkeys(passed, answers))
        return answers

    def _family(self, above: int) -> Counter[tuple[str, str]]:
        if above not in self._families:
            self._families[above] = Counter(map(self._shape, self.page.children(above)))
        return self._families[above]

    def _has_cousins(self, index: int, above: int, shape: tuple[str, str]) -> bool:
        """Whether a block is alone in what holds several of the like elsewhere: the one card of a list, beside lists of more."""
        key = (int(self.page.tree[index]), shape, self._shape(above))
        if key not in self._cousins:
            page = self.page
            holders = {int(page.parent[at]) for at in self._alike(shape) if page.tree[at] == key[0]} - {-1}
            self._cousins[key] = any(self._shape(one) == key[2] and self._family(one)[shape] > 1 for one in holders)
        return self._cousins[key]

    def _nests(self, shape: tuple[str, str]) -> bool:
        """Whether elements that may have a shape stand in one another, somewhere on the page."""
        known = self._nesting.get(shape)
        if known is None:
            alike = self._alike(shape)
            known = self._nesting[shape] = bool((alike[1:] < np.asarray(self.page.end)[alike[:-1]]).any())
        return known

    def _alike(self, shape: tuple[str, str]) -> IntArray:
        """The elements that may have a shape, in page order."""
        index, (tag, called) = self.page.index, shape
        name, blank, value = called.partition(" ")
        if blank:
            return index.valued(name, value)
        return index.by_class[called] if called else index.by_tag[tag]

    def _shape(self, index: int) -> tuple[str, str]:
        """Its tag and its first class; where it has none, the first attribute of its author's own, with its value."""
        shape = self._shapes.get(index)
        if shape is None:
            shape = self._shapes[index] = self._shape_of(index)
        return shape

    def _shape_of(self, index: int) -> tuple[str, str]:
        classes = tokens(self.page.attribute(index, "class") or "")
        if classes:
            return self.page.tags[index], classes[0]
        own = ((name, value) for name, value in self.page.attributes_of(index).items() if name.startswith("data-") and value)
        return self.page.tags[index], next((f"{name} {value}" for name, value in own), "")  # no class has a blank
