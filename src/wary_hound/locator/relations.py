"""Relations between the wanted element and an anchor: structure (row, column, group, inside, before, after) and geometry."""

from __future__ import annotations

from collections.abc import Callable, Iterable

import numpy as np

from wary_hound.errors import LocatorError
from wary_hound.locator.blocks import Blocks, group_of, row_of
from wary_hound.locator.css.matcher import NOTHING, IntArray, distinct
from wary_hound.locator.tables import Tables
from wary_hound.locator.values import Relation
from wary_hound.page import Page
from wary_hound.page.slots import Slots

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


def _within(
    page: Page, candidates: IntArray, holders: list[int], anchors: IntArray, but_for: Callable[[int], Iterable[int]] = lambda _: ()
) -> IntArray:
    """Candidates that one of the holders shows inside it, and not in those of its parts that are left out of it; the anchors
    themselves do not count."""
    held = np.zeros(len(candidates), np.bool_)
    slots = Slots.of(page)
    for holder in set(holders) - {-1}:
        shown = np.zeros(len(candidates), np.bool_)
        for part in slots.parts(holder):
            shown |= (candidates >= part.start) & (candidates < part.stop) & (candidates != holder)
        for out in but_for(holder):
            shown &= (candidates < out) | (candidates >= page.end[out])
        held |= shown
    held &= ~np.isin(candidates, anchors)
    return candidates[held]


def _row(page: Page, candidates: IntArray, anchors: IntArray) -> IntArray:
    """What stands in the rows of the anchors: of a comment, not what stands in the answers to it."""
    rows = [row_of(page, a) for a in anchors.tolist()]
    return _within(page, candidates, rows, anchors, Blocks.of(page).answers_in)


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
