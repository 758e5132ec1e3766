"""Relations between the wanted element and an anchor: structure (row, column, group, inside, before, after) and geometry."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from wary_hound.errors import LocatorError
from wary_hound.locator.css.matcher import NOTHING, IntArray, distinct
from wary_hound.locator.tables import Tables
from wary_hound.locator.values import Relation
from wary_hound.page import Page

ROW_TAGS = frozenset({"tr", "li", "article", "option"})
ROW_ROLES = frozenset({"row", "listitem", "article", "option", "menuitem", "treeitem"})
_CELL_TAGS = frozenset({"td", "th", "dd", "dt", "html", "head", "body", "main", "thead", "tbody", "tfoot"})
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
MOST_IN_A_ROW = 60
"""A block with more elements than that is a part of the page, not a row."""
_SIDEWAYS_SLACK = 1.0
"""Pixels by which boxes may overlap and still stand beside each other (borders drawn over one another)."""


def narrow(page: Page, relation: Relation, candidates: IntArray, anchors: IntArray) -> IntArray:
    """The candidates that stand in a relation to one of the anchors, all in one tree; in page order.

    before, after and the geometric ones keep the nearest candidate for each anchor; the others keep all that fit.
    Raises LocatorError for geometry on a page without boxes.
    """
    if not len(candidates) or not len(anchors):
        return NOTHING
    return _RELATIONS[relation](page, candidates, anchors)


def row_of(page: Page, index: int) -> int:
    """The row of an element: the nearest table row, list item, article or one of several alike blocks around it; or -1."""
    roles = page.semantics.roles
    for at in [index, *page.ancestors(index)]:
        if page.tags[at] in ROW_TAGS or roles[at] in ROW_ROLES:
            return at
        if at != index and page.tags[at] not in _CELL_TAGS and _repeats(page, at):
            return at
    return -1


def _repeats(page: Page, index: int) -> bool:
    """A block with two parts or more that has a sibling alike: a card, a panel."""
    if not 3 <= page.end[index] - index <= MOST_IN_A_ROW:
        return False
    shape = _shape(page, index)
    if not shape[1] and "-" not in shape[0]:
        return False  # two bare sections one after the other are not yet rows
    family = page.children(int(page.parent[index])) if page.parent[index] >= 0 else []
    return sum(_shape(page, s) == shape for s in family) > 1


def _shape(page: Page, index: int) -> tuple[str, str]:
    classes = (page.attribute(index, "class") or "").split()
    return page.tags[index], classes[0] if classes else ""


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
    roles, tags = page.semantics.roles, page.tags
    for at in page.ancestors(index):
        if tags[at] in GROUP_TAGS or roles[at] in GROUP_ROLES or "-" in tags[at]:
            return at
    return -1


def _within(page: Page, candidates: IntArray, holders: list[int], anchors: IntArray) -> IntArray:
    """Candidates inside one of the holders; the anchors themselves do not count."""
    held = np.zeros(len(candidates), np.bool_)
    for holder in set(holders):
        if holder >= 0:
            held |= (candidates > holder) & (candidates < page.end[holder])
    held &= ~np.isin(candidates, anchors)
    return candidates[held]


def _row(page: Page, candidates: IntArray, anchors: IntArray) -> IntArray:
    return _within(page, candidates, [row_of(page, a) for a in anchors.tolist()], anchors)


def _group(page: Page, candidates: IntArray, anchors: IntArray) -> IntArray:
    return _within(page, candidates, [group_of(page, a) for a in anchors.tolist()], anchors)


def _column(page: Page, candidates: IntArray, anchors: IntArray) -> IntArray:
    """Candidates in the columns of the anchors' cells, where these are in tables or grids; else by where they stand."""
    tables = Tables.of(page)
    cells = [(anchor, tables.around(anchor)) for anchor in anchors.tolist()]
    kept: set[int] = set()
    own = {cell.index for _, cell in cells if cell is not None}
    heads = [cell for _, cell in cells if cell is not None]
    if heads:
        for candidate in candidates.tolist():
            cell = tables.around(candidate)
            if cell is not None and cell.index not in own and any(tables.in_column(head, cell) for head in heads):
                kept.add(candidate)
    loose = [anchor for anchor, cell in cells if cell is None]
    if loose:
        kept.update(_under_or_over(page, candidates, loose))
    return np.asarray(sorted(kept), np.int32)


def _under_or_over(page: Page, candidates: IntArray, anchors: list[int]) -> list[int]:
    """Candidates whose middle stands under or over an anchor that is in no table, within what holds both and more like them."""
    facts = page.facts
    if facts is None or not facts.has_boxes:
        return []  # a table that has become something else is no error of the locator's
    boxes = facts.boxes
    kept = []
    for candidate in candidates[page.semantics.visible[candidates]].tolist():
        middle = boxes[candidate, 0] + boxes[candidate, 2] / 2
        for anchor in anchors:
            left, top, width, height = (float(side) for side in boxes[anchor])
            apart = (
                boxes[candidate, 1] >= top + height - _SIDEWAYS_SLACK
                or boxes[candidate, 1] + boxes[candidate, 3] <= top + _SIDEWAYS_SLACK
            )
            if left - _SIDEWAYS_SLACK <= middle <= left + width + _SIDEWAYS_SLACK and apart:
                kept.append(candidate)
    return kept


def _inside(page: Page, candidates: IntArray, anchors: IntArray) -> IntArray:
    return _within(page, candidates, anchors.tolist(), NOTHING)


def _after(page: Page, candidates: IntArray, anchors: IntArray) -> IntArray:
    at = np.searchsorted(candidates, page.end[anchors], "left")
    return distinct(candidates[at[at < len(candidates)]], len(page))


def _before(page: Page, candidates: IntArray, anchors: IntArray) -> IntArray:
    found = set()
    for anchor in anchors.tolist():
        earlier = candidates[candidates < anchor]
        earlier = earlier[page.end[earlier] <= anchor]
        if len(earlier):
            found.add(int(earlier[-1]))
    return np.asarray(sorted(found), np.int32)


Distances = Callable[[np.ndarray, np.ndarray], np.ndarray]


def _nearest(distances: Distances) -> Callable[[Page, IntArray, IntArray], IntArray]:
    def relation(page: Page, candidates: IntArray, anchors: IntArray) -> IntArray:
        facts = page.facts
        if facts is None or not facts.has_boxes:
            raise LocatorError("where elements stand on the screen is not known here: capture the page from a browser")
        boxes = facts.boxes
        usable = candidates[page.semantics.visible[candidates]]
        found = set()
        for anchor in anchors.tolist():
            if np.isnan(boxes[anchor, 0]):
                continue
            others = usable[usable != anchor]
            apart = distances(boxes[others], boxes[anchor])
            if len(others) and np.isfinite(apart).any():
                found.add(int(others[int(np.argmin(apart))]))
        return np.asarray(sorted(found), np.int32)

    return relation


def _gap(a_start: np.ndarray, a_size: np.ndarray, b_start: np.ndarray, b_size: np.ndarray) -> np.ndarray:
    """How far two spans are apart; 0 where they overlap."""
    return np.maximum(0, np.maximum(b_start - (a_start + a_size), a_start - (b_start + b_size)))


def _beside(sign: int) -> Distances:
    """Rightward (1) or leftward (-1), on the anchor's level; how far apart the near edges are."""

    def distances(boxes: np.ndarray, anchor: np.ndarray) -> np.ndarray:
        level = _gap(boxes[:, 1], boxes[:, 3], anchor[1], anchor[3]) == 0
        right = boxes[:, 0] - (anchor[0] + anchor[2])
        left = anchor[0] - (boxes[:, 0] + boxes[:, 2])
        edge = right if sign > 0 else left
        return np.where(level & (edge >= -_SIDEWAYS_SLACK), edge, np.inf)

    return distances


def _over(sign: int) -> Distances:
    """Under (1) or over (-1) the anchor, in its column."""

    def distances(boxes: np.ndarray, anchor: np.ndarray) -> np.ndarray:
        column = _gap(boxes[:, 0], boxes[:, 2], anchor[0], anchor[2]) == 0
        below = boxes[:, 1] - (anchor[1] + anchor[3])
        above = anchor[1] - (boxes[:, 1] + boxes[:, 3])
        edge = below if sign > 0 else above
        return np.where(column & (edge >= -_SIDEWAYS_SLACK), edge, np.inf)

    return distances


def _around(boxes: np.ndarray, anchor: np.ndarray) -> np.ndarray:
    across = _gap(boxes[:, 0], boxes[:, 2], anchor[0], anchor[2])
    down = _gap(boxes[:, 1], boxes[:, 3], anchor[1], anchor[3])
    distance: np.ndarray = np.hypot(across, down)
    return distance


_RELATIONS: dict[Relation, Callable[[Page, IntArray, IntArray], IntArray]] = {
    Relation.ROW_OF: _row,
    Relation.GROUP_OF: _group,
    Relation.COLUMN_OF: _column,
    Relation.INSIDE: _inside,
    Relation.AFTER: _after,
    Relation.BEFORE: _before,
    Relation.RIGHTWARD_OF: _nearest(_beside(1)),
    Relation.LEFTWARD_OF: _nearest(_beside(-1)),
    Relation.UNDER: _nearest(_over(1)),
    Relation.OVER: _nearest(_over(-1)),
    Relation.CLOSEST_TO: _nearest(_around),
}
