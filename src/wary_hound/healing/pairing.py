"""Which pairs of elements are worth comparing: those that share what few have, that read alike, that stand where they should."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from rapidfuzz import fuzz, process

from wary_hound.healing.likeness import Ints, Likeness
from wary_hound.healing.sheet import Sheet
from wary_hound.page import Page

KEYS = (
    ("text", "tag"), ("own-text", "role"), ("name", "role"), ("id",), ("numbered-id",), ("name-attribute", "value"),
    ("numbered-name",), ("href",), ("identity", "tag", "classes"), ("identity", "column", "tag"), ("apart", "tag", "role"),
    ("test-attribute",), ("label", "role"), ("icon", "tag"), ("value", "tag"), ("classes", "tag"), ("other-attributes", "tag"),
    ("shape", "classes"), ("shape", "heading"), ("role", "heading"), ("tag", "trail-ids"),
)  # fmt: skip
"""Columns by which candidates of pairs are found: elements with the same values in all of one entry."""
MOST_ALIKE = 36
"""Values that more pairs than these share propose no pairs, but for those that are the same one in order."""
MOST_CHILDREN = 8
MOST_TEXTS = 3000
NONE = np.zeros(0, np.int64)


def by_facts(pages: Likeness) -> tuple[Ints, Ints]:
    """Candidates of pairs: elements that share what few have, and those whose texts are most alike."""
    pairs = [pair for columns in KEYS for pair in _sharing(*_key(pages, columns))]
    pairs += [_reading_alike(pages, "own-text"), _reading_alike(pages, "name")]
    return distinct(np.concatenate([a for a, _ in pairs]), np.concatenate([b for _, b in pairs]), len(pages.b))


def distinct(a: Ints, b: Ints, width: int) -> tuple[Ints, Ints]:
    """Pairs without repetition, in order of the old element. `width`: number of elements of the new page."""
    keys = np.unique(a * width + b)
    return keys // width, keys % width


def _key(pages: Likeness, columns: Sequence[str]) -> tuple[Ints, Ints]:
    """One number for the values of several columns; 0 where the first is empty."""
    x, y, _ = pages.joined(columns[0])
    empty_x, empty_y = x == 0, y == 0
    for column in columns[1:]:
        more_x, more_y, values = pages.joined(column)
        x, y = x * len(values) + more_x, y * len(values) + more_y
        _, back = np.unique(np.concatenate([x, y]), return_inverse=True)
        x, y = back[: len(x)] + 1, back[len(x) :] + 1
    return np.where(empty_x, 0, x), np.where(empty_y, 0, y)


def _sharing(x: Ints, y: Ints) -> list[tuple[Ints, Ints]]:
    """Pairs of elements with the same number: all of them where they are few; else the k-th with the k-th, from both ends."""
    order_x, order_y = np.argsort(x, kind="stable"), np.argsort(y, kind="stable")
    values_x, start_x, count_x = np.unique(x[order_x], return_index=True, return_counts=True)
    values_y, start_y, count_y = np.unique(y[order_y], return_index=True, return_counts=True)
    both, at_x, at_y = np.intersect1d(values_x, values_y, assume_unique=True, return_indices=True)
    pairs = []
    for value, p, q in zip(both.tolist(), at_x.tolist(), at_y.tolist(), strict=True):
        if value == 0:
            continue
        was = order_x[start_x[p] : start_x[p] + count_x[p]]
        now = order_y[start_y[q] : start_y[q] + count_y[q]]
        if len(was) * len(now) <= MOST_ALIKE:
            pairs.append((np.repeat(was, len(now)), np.tile(now, len(was))))
        else:
            least = min(len(was), len(now))
            pairs.append((was[:least], now[:least]))
            pairs.append((was[-least:], now[-least:]))
    return pairs


def _reading_alike(pages: Likeness, column: str) -> tuple[Ints, Ints]:
    """Elements whose text is not on the new page, each with those whose texts, new there, are most like it."""
    x, y, values = pages.joined(column)
    was, now = pages.counts(column)
    gone = [k for k in np.flatnonzero((was > 0) & (now == 0)).tolist() if k][:MOST_TEXTS]
    come = [k for k in np.flatnonzero((now > 0) & (was == 0)).tolist() if k][:MOST_TEXTS]
    if not gone or not come:
        return NONE, NONE
    scores = process.cdist([values[k] for k in gone], [values[k] for k in come], scorer=fuzz.ratio, score_cutoff=50, dtype=np.uint8)
    pairs: list[tuple[int, int]] = []
    for row, value in enumerate(gone):
        best = np.argsort(-scores[row].astype(np.int16), kind="stable")[:3]
        pairs.extend((value, come[k]) for k in best.tolist() if scores[row, k] > 0)
    out_a, out_b = [NONE], [NONE]
    where_x, where_y = _where(x, {value for value, _ in pairs}), _where(y, {value for _, value in pairs})
    for old_value, new_value in pairs:
        p, q = where_x[old_value], where_y[new_value]
        if len(p) * len(q) <= MOST_ALIKE:
            out_a.append(np.repeat(p, len(q)))
            out_b.append(np.tile(q, len(p)))
    return np.concatenate(out_a), np.concatenate(out_b)


def _where(numbers: Ints, wanted: set[int]) -> dict[int, Ints]:
    """The elements that have each of some values."""
    places: dict[int, list[int]] = {value: [] for value in wanted}
    for i, value in enumerate(numbers.tolist()):
        if value in places:
            places[value].append(i)
    return {value: np.asarray(members, np.int64) for value, members in places.items()}


def by_place(old: Page, new: Page, image: Ints) -> tuple[Ints, Ints]:
    """Candidates by where they stand, given the image of each old element (or -1): what holds the same, what comes next to the
    same, the children of the same."""
    above_old, above_new = Sheet.of(old).above, Sheet.of(new).above
    known = np.flatnonzero(image >= 0)
    there = image[known]
    pairs: list[tuple[Ints, Ints]] = []
    up, up_there = above_old[known], above_new[there]
    for _ in range(2):  # what holds it, and what holds that
        both = (up >= 0) & (up_there >= 0)
        pairs.append((up[both], up_there[both]))
        up_there = np.where(both, above_new[np.maximum(up_there, 0)], -1)
    for step in (1, -1):
        p, q = known + step, there + step
        inside = (p >= 0) & (p < len(old)) & (q >= 0) & (q < len(new))
        pairs.append((p[inside], q[inside]))
    pairs.append(_children(old, new, image))
    return distinct(np.concatenate([p for p, _ in pairs]), np.concatenate([q for _, q in pairs]), len(new))


def _children(old: Page, new: Page, image: Ints) -> tuple[Ints, Ints]:
    """Elements whose parent has an image, each with those below it that are of their tag or role, the nearest in order first."""
    below, of_old = _below(Sheet.of(new).above), _below(Sheet.of(old).above)
    roles_old, roles_new, tags_old, tags_new = old.semantics.roles, new.semantics.roles, old.tags, new.tags
    out_a: list[int] = []
    out_b: list[int] = []
    for parent in np.flatnonzero(image >= 0).tolist():
        mine = of_old.get(parent)
        if not mine:
            continue
        theirs = list(below.get(int(image[parent]), ()))
        if len(theirs) < MOST_CHILDREN:  # a wrapper may have come between
            theirs += [g for child in theirs for g in below.get(child, ())][: 2 * MOST_CHILDREN]
        by_tag: dict[str, list[int]] = {}
        by_role: dict[str, list[int]] = {}
        for t in theirs:
            by_tag.setdefault(tags_new[t], []).append(t)
            if roles_new[t]:
                by_role.setdefault(roles_new[t], []).append(t)
        for order, child in enumerate(mine):
            for alike in (by_tag.get(tags_old[child], ()), by_role.get(roles_old[child], ())):
                out_b.extend(kept := _near(alike, order, order * len(alike) // len(mine)))
                out_a.extend([child] * len(kept))
    return np.asarray(out_a, np.int64), np.asarray(out_b, np.int64)


def _near(alike: Sequence[int], order: int, middle: int) -> Sequence[int]:
    """Those of a list that stand nearest to a place in it, counted from its start or in proportion."""
    if len(alike) <= MOST_CHILDREN:
        return alike
    half = MOST_CHILDREN // 2
    places = {k for at in (order, middle) for k in range(at - half // 2, at + half // 2 + 1) if 0 <= k < len(alike)}
    return [alike[k] for k in sorted(places)]


def _below(above: Ints) -> dict[int, list[int]]:
    below: dict[int, list[int]] = {}
    for child, parent in enumerate(above.tolist()):
        below.setdefault(parent, []).append(child)
    return below
