"""How alike an element of an old page and one of a new page are: a row of similarities for many pairs at once.

Each feature is between 0 and 1, or NaN where neither side can tell. Those of the context rest on an alignment that is known so
far: whether what stands around the one has become what stands around the other (similarity flooding, Melnik, Garcia-Molina and
Rahm 2002, with one step a round).
"""

from __future__ import annotations

import re
from collections.abc import Callable, Collection
from functools import cached_property

import numpy as np
import numpy.typing as npt
from rapidfuzz import fuzz, process

from wary_hound.healing.sheet import Columns, Memory, Sheet
from wary_hound.healing.terms import Terms
from wary_hound.page import Page

Floats = npt.NDArray[np.float32]
Ints = npt.NDArray[np.int64]

OWN = (
    "tag", "role", "id", "numbered-id", "name-attribute", "numbered-name", "href", "value", "type", "test-attribute",
    "other-attributes", "classes", "icon", "text", "text-equal", "number", "name", "name-equal", "within", "terms", "own-text",
    "label", "before", "after", "heading", "row", "identity", "apart", "column", "trail", "trail-ids", "place",
    "sibling", "from-end", "box", "size", "shown", "depth", "shape", "rarity", "order", "order-from-end", "tree",
)  # fmt: skip
CONTEXT = (
    "parent", "ancestors", "nearest-ancestor", "inside", "previous", "next", "row-aligned", "group-aligned", "children",
)  # fmt: skip
FEATURES = (*OWN, *CONTEXT)
_DIGITS = re.compile(r"\d+")
_MOST_INSIDE = 24
_MOST_ABOVE = 10
MANY = 500
"""From so many pairs of one element on, what it is compared with is compared once for all that say the same."""


class Likeness:
    """Similarities between elements, remembered or of an old page, and those of a new page."""

    def __init__(self, old: Columns, new: Columns) -> None:
        self.a, self.b = old, new
        self._joined: dict[tuple[str, str], tuple[Ints, Ints, list[str]]] = {}
        self._to_all: dict[tuple[str, int, str], Floats] = {}
        self._values: dict[str, Ints] = {}
        self._held_by: dict[str, dict[str, list[int]]] = {}

    def joined(self, column: str, of_old: str = "") -> tuple[Ints, Ints, list[str]]:
        """A column of both pages as numbers of one list of values; empty is 0. `of_old`: another column of the old page."""
        key = (of_old or column, column)
        joined = self._joined.get(key)
        if joined is None:
            values: dict[str, int] = {"": 0}
            numbers = [
                np.asarray([values.setdefault(v, len(values)) for v in said], np.int64)
                for said in (self.a.column(of_old or column), self.b.column(column))
            ]
            joined = self._joined[key] = (numbers[0], numbers[1], list(values))
        return joined

    @cached_property
    def terms(self) -> Terms:
        """The words of both pages, weighed."""
        return Terms(self.a.column("terms"), self.b.column("terms"))

    def if_remembered(self, column: str, a: Ints, b: Ints) -> Floats:
        """Similarity; what an older memory does not hold is unknown."""
        return self.where_both(column, a, b) if isinstance(self.a, Memory) else self.alike(column, a, b)

    def own(self, a: Ints, b: Ints) -> Floats:
        """What the elements of each pair say themselves; shape (pairs, len(OWN))."""
        table = np.empty((len(a), len(OWN)), np.float32, order="F")
        for number, feature in enumerate(OWN):
            table[:, number] = _OWN[feature](self, a, b)
        return table

    def equal(self, column: str, a: Ints, b: Ints) -> Floats:
        """1 for the same value, 0 for another, NaN for none on either side."""
        x, y = self._numbers(column, a, b)
        return np.where((x == 0) & (y == 0), np.nan, x == y).astype(np.float32)

    def alike(
        self, column: str, a: Ints, b: Ints, measure: Callable[[str, str], float] | None = None, *, by_words: bool = False
    ) -> Floats:
        """String similarity, of what they have in common `by_words` (1 where all words of one are among the other's), or another
        measure of two values; each pair of values is compared once."""
        x, y = self._numbers(column, a, b)
        values = self.joined(column)[2]
        if len(a) >= MANY and a[0] == a[-1] and (a == a[0]).all():
            return self._one_to_all(column, int(x[0]), measure, by_words)[y]
        same = np.where((x == 0) & (y == 0), np.nan, x == y).astype(np.float32)
        open_ = np.flatnonzero((x != y) & (x != 0) & (y != 0))
        if len(open_):
            keys, back = np.unique(x[open_] * len(values) + y[open_], return_inverse=True)
            left, right = (keys // len(values)).tolist(), (keys % len(values)).tolist()
            if measure is None:
                scorer = fuzz.token_set_ratio if by_words else fuzz.ratio
                scores = process.cpdist([values[k] for k in left], [values[k] for k in right], scorer=scorer) / 100
            else:
                scores = np.asarray([measure(values[k], values[m]) for k, m in zip(left, right, strict=True)])
            same[open_] = scores[back]
        return same

    def _one_to_all(self, column: str, x: int, measure: Callable[[str, str], float] | None, by_words: bool) -> Floats:
        """The same of one value and each that is on the new page: for an element that is looked for everywhere."""
        said = "words" if by_words else getattr(measure, "__name__", "ratio")
        known = self._to_all.get((column, x, said))
        if known is not None:
            return known
        values = self.joined(column)[2]
        known = np.zeros(len(values), np.float32)
        others = np.zeros(0, np.int64)
        if x and getattr(measure, "__func__", measure) in _IN_PARTS:  # nothing in common, nothing alike
            held_by = self._parts(column)
            others = np.unique(np.asarray([k for part in values[x].split("\n") for k in held_by.get(part, ())], np.int64))
        elif x:
            others = self._there(column)
        others = others[(others != x) & (others != 0)]
        if measure is not None:
            known[others] = [measure(values[x], values[k]) for k in others.tolist()]
        elif len(others):
            scorer = fuzz.token_set_ratio if by_words else fuzz.ratio
            known[others] = process.cdist([values[x]], [values[k] for k in others.tolist()], scorer=scorer)[0] / 100
        known[x] = 1 if x else np.nan
        self._to_all[column, x, said] = known
        return known

    def _there(self, column: str) -> Ints:
        """The values of a column on the new page."""
        there = self._values.get(column)
        if there is None:
            there = self._values[column] = np.unique(self.joined(column)[1])
        return there

    def _parts(self, column: str) -> dict[str, list[int]]:
        """Of a column of lists the values on the new page that hold each part."""
        held_by = self._held_by.get(column)
        if held_by is None:
            held_by = self._held_by[column] = {}
            values = self.joined(column)[2]
            for k in self._there(column).tolist():
                for part in set(values[k].split("\n")) if k else ():
                    held_by.setdefault(part, []).append(k)
        return held_by

    def where_both(self, column: str, a: Ints, b: Ints, measure: Callable[[str, str], float] | None = None) -> Floats:
        """The same, and NaN where either side has no value."""
        x, y = self._numbers(column, a, b)
        return np.where((x == 0) | (y == 0), np.nan, self.alike(column, a, b, measure)).astype(np.float32)

    def _numbers(self, column: str, a: Ints, b: Ints) -> tuple[Ints, Ints]:
        x, y, _ = self.joined(column)
        return x[a], y[b]

    def counts(self, column: str) -> tuple[Ints, Ints]:
        """How many elements of each page have each value of a column."""
        x, y, values = self.joined(column)
        return np.bincount(x, minlength=len(values)), np.bincount(y, minlength=len(values))


def _shared(left: str, right: str) -> float:
    """Share of all parts (separated by newlines) that both have; a part of which only the name is the same counts 0.4."""
    was, now = set(left.split("\n")), set(right.split("\n"))
    both = was & now
    names = {part.partition("=")[0] for part in was - both} & {part.partition("=")[0] for part in now - both if "=" in part}
    return (len(both) + 0.4 * len(names)) / len(was | now)


def _common(left: str, right: str) -> float:
    was, now = set(left.split("\n")), set(right.split("\n"))
    return len(was & now) / len(was | now)


def _known_by(left: str, right: str) -> float:
    """Share of what tells one row from others that the other has, too, of the one that has less."""
    was, now = set(left.split("\n")), set(right.split("\n"))
    return len(was & now) / min(len(was), len(now))


def _but_number(left: str, right: str) -> float:
    """Values that count: half for another number of the same, else no more than similar."""
    return 0.4 if _DIGITS.sub("", left) == _DIGITS.sub("", right) else 0.3 * fuzz.ratio(left, right) / 100


def _address(left: str, right: str) -> float:
    """Addresses that differ in a number alone lead to another thing of the kind."""
    return 0.2 if _DIGITS.sub("", left) == _DIGITS.sub("", right) else 0.6 * fuzz.ratio(left, right) / 100


def _held(left: str, right: str) -> float:
    was = set(left.split("\n"))
    return len(was & set(right.split("\n"))) / len(was)


def _in_order(left: str, right: str) -> float:
    return fuzz.ratio(left.split("\n"), right.split("\n")) / 100


_IN_PARTS = (_common, _known_by, _held, Terms.alike)
"""Measures of two lists that are nothing where they have nothing in common."""


def _steady(column: str) -> Callable[[Likeness, Ints, Ints], Floats]:
    """An attribute; of generated values only sameness tells anything."""

    def feature(pages: Likeness, a: Ints, b: Ints) -> Floats:
        likeness = pages.alike(column, a, b)
        likeness = np.where((likeness < 1) & (likeness > 0), 0.6 * likeness, likeness)
        loose = pages.a.generated(column)[a] & pages.b.generated(column)[b]
        return np.where(loose & (likeness < 1), np.nan, likeness).astype(np.float32)

    return feature


def _same(pages: Likeness, name: str, a: Ints, b: Ints) -> Floats:
    """Whether two numbers are the same."""
    was, now = pages.a.numbers(name)[a], pages.b.numbers(name)[b]
    return np.where(np.isnan(was) | np.isnan(now), np.nan, was == now).astype(np.float32)


def _role(pages: Likeness, a: Ints, b: Ints) -> Floats:
    likeness = pages.equal("role", a, b)
    both = pages.a.interactive[a] & pages.b.interactive[b]
    return np.where((likeness == 0) & both, 0.4, likeness).astype(np.float32)


def _within(pages: Likeness, a: Ints, b: Ints) -> Floats:
    """How far the words of one are among those of the other: what is said more fully, or shorter, is often the same. Of the
    names; of the texts where there are no names."""
    within = pages.alike("name", a, b, by_words=True)
    nameless = np.isnan(within)
    within[nameless] = _but_figures(pages, a[nameless], b[nameless], pages.alike("text", a[nameless], b[nameless], by_words=True))
    return within


def _but_figures(pages: Likeness, a: Ints, b: Ints, likeness: Floats) -> Floats:
    """Another figure than before is to be expected: it says nothing, but of what is called by one (a page of a list, a day)."""
    other = pages.equal("number", a, b) == 0
    counted = pages.where_both("number", a, b)
    data = other & ~np.isnan(counted) & ~(pages.a.interactive[a] | pages.b.interactive[b])
    return np.where(data, np.nan, likeness).astype(np.float32)


def _place(pages: Likeness, a: Ints, b: Ints) -> Floats:
    apart = np.abs(pages.a.numbers("place")[a] - pages.b.numbers("place")[b])
    return np.asarray(np.exp(-6 * apart), np.float32)


def _near(name: str) -> Callable[[Likeness, Ints, Ints], Floats]:
    def feature(pages: Likeness, a: Ints, b: Ints) -> Floats:
        apart = np.abs(pages.a.numbers(name)[a] - pages.b.numbers(name)[b])
        return np.asarray(1 / (1 + apart), np.float32)

    return feature


def _box(pages: Likeness, a: Ints, b: Ints) -> Floats:
    was, now = pages.a.boxes[a], pages.b.boxes[b]
    apart = np.hypot(was[:, 0] - now[:, 0], was[:, 1] - now[:, 1])
    return np.asarray(np.exp(-apart / 400), np.float32)


def _size(pages: Likeness, a: Ints, b: Ints) -> Floats:
    was, now = pages.a.boxes[a], pages.b.boxes[b]
    with np.errstate(invalid="ignore", divide="ignore"):
        wide = np.minimum(was[:, 2], now[:, 2]) / np.maximum(np.maximum(was[:, 2], now[:, 2]), 1)
        high = np.minimum(was[:, 3], now[:, 3]) / np.maximum(np.maximum(was[:, 3], now[:, 3]), 1)
    return np.asarray((wide + high) / 2, np.float32)


def _shape(pages: Likeness, a: Ints, b: Ints) -> Floats:
    """How alike the subtrees are: the same in kind 1, else by their numbers of elements."""
    same = pages.equal("shape", a, b) == 1
    was, now = pages.a.numbers("extent")[a], pages.b.numbers("extent")[b]
    return np.where(same & ~np.isnan(was), 1.0, 0.8 * np.minimum(was, now) / np.maximum(was, now)).astype(np.float32)


SOLE = (("sole-nested", "sole"), *((column, column) for column in ("leads", "sole-name", "sole-label", "sole-text", "sole-own")))
"""Columns of what is alone on the old page, and on the new one."""


def sole(pages: Likeness, a: Ints, b: Ints) -> npt.NDArray[np.bool_]:
    """Which pairs are called the same, say the same, or lead to the same, as nothing else does on either page, or nothing else of
    their kind: of their role, by name or label; of their tag, by text (where it has a role) or by words of its own. What is one in
    the other on the old page, and called the same, has both become what alone is called so on the new one."""
    alone = np.zeros(len(a), np.bool_)
    for of_old, of_new in SOLE:
        x, y, _ = pages.joined(of_new, of_old)
        alone |= (x[a] == y[b]) & (x[a] != 0)
    return alone


RARE = ("words", "name", "id", "numbered-id", "name-attribute", "href", "test-attribute", "label", "own-text", "icon", "value")


def rarity(pages: Likeness, a: Ints, b: Ints, without: Collection[str] = ()) -> Floats:
    """How rare the rarest value is that both have: 1 for one that each page has once. `without`: columns that are not looked at."""
    best = np.zeros(len(a), np.float32)
    for column in RARE:
        if column in without:
            continue
        x, y, _ = pages.joined(column)
        was, now = pages.counts(column)
        number = x[a]
        same = (number == y[b]) & (number != 0)
        best = np.maximum(best, np.where(same, 1 / np.sqrt(np.maximum(was[number] * now[number], 1)), 0))
    return best


def _order(end: bool) -> Callable[[Likeness, Ints, Ints], Floats]:
    """Whether both are the same one of those that look the same, counted from the first (or the last)."""

    def feature(pages: Likeness, a: Ints, b: Ints) -> Floats:
        name = "rank-from-end" if end else "rank"
        return _same(pages, name, a, b)

    return feature


_OWN: dict[str, Callable[[Likeness, Ints, Ints], Floats]] = {
    "tag": lambda p, a, b: p.equal("tag", a, b),
    "role": _role,
    "id": _steady("id"),
    "numbered-id": lambda p, a, b: p.alike("numbered-id", a, b, _but_number),
    "name-attribute": _steady("name-attribute"),
    "numbered-name": lambda p, a, b: p.alike("numbered-name", a, b, _but_number),
    "href": lambda p, a, b: p.alike("href", a, b, _address),
    "value": _steady("value"),
    "type": lambda p, a, b: p.equal("type", a, b),
    "test-attribute": lambda p, a, b: p.alike("test-attribute", a, b, _shared),
    "other-attributes": lambda p, a, b: p.alike("other-attributes", a, b, _shared),
    "classes": lambda p, a, b: p.alike("classes", a, b, _common),
    "icon": lambda p, a, b: p.if_remembered("icon", a, b),
    "text": lambda p, a, b: _but_figures(p, a, b, p.alike("text", a, b)),
    "text-equal": lambda p, a, b: p.equal("words", a, b),
    "number": lambda p, a, b: _but_figures(p, a, b, p.equal("number", a, b)),
    "name": lambda p, a, b: p.alike("name", a, b),
    "name-equal": lambda p, a, b: p.equal("name", a, b),
    "within": _within,
    "terms": lambda p, a, b: p.alike("terms", a, b, p.terms.alike),
    "own-text": lambda p, a, b: _but_figures(p, a, b, p.if_remembered("own-text", a, b)),
    "label": lambda p, a, b: p.alike("label", a, b),
    "before": lambda p, a, b: p.alike("before", a, b),
    "after": lambda p, a, b: p.alike("after", a, b),
    "heading": lambda p, a, b: p.alike("heading", a, b),
    "row": lambda p, a, b: p.alike("row", a, b),
    "identity": lambda p, a, b: p.where_both("identity", a, b, _known_by),
    "apart": lambda p, a, b: p.where_both("apart", a, b, _known_by),
    "column": lambda p, a, b: p.if_remembered("column", a, b),
    "trail": lambda p, a, b: p.alike("trail", a, b, _in_order),
    "trail-ids": lambda p, a, b: p.alike("trail-ids", a, b, _held),
    "place": _place,
    "sibling": _near("sibling"),
    "from-end": _near("from-end"),
    "box": _box,
    "size": _size,
    "shown": lambda p, a, b: _same(p, "shown", a, b),
    "depth": _near("depth"),
    "shape": _shape,
    "rarity": rarity,
    "order": _order(False),
    "order-from-end": _order(True),
    "tree": lambda p, a, b: np.floor(p.where_both("tree", a, b)),
}
"""One entry a feature: a new one is a function and a line here, and a new learning of the weights."""


def context(old: Page, new: Page, image: Ints, a: Ints, b: Ints) -> Floats:
    """What an alignment says of pairs; shape (pairs, len(CONTEXT)). `image`: of each old element its new one, or -1."""
    was, now = Sheet.of(old), Sheet.of(new)
    size, end_old, end_new = len(old), old.end.astype(np.int64), new.end.astype(np.int64)
    table = np.full((len(a), len(CONTEXT)), np.nan, np.float32)
    nowhere = np.append(image, -1)  # so that index -1 has no image
    parents = was.above
    # what holds it
    up, total, agreed = a, np.zeros(len(a)), np.zeros(len(a))
    nearest = np.full(len(a), np.nan, np.float32)
    for step in range(_MOST_ABOVE):
        up = np.where(up >= 0, parents[up], -1)
        there = nowhere[up]
        known = (up >= 0) & (there >= 0)
        holds = known & (there < b) & (b < end_new[np.maximum(there, 0)])
        weight = 1 / (1 + step)
        total += weight * known
        agreed += weight * holds
        nearest = np.where(np.isnan(nearest) & known, holds, nearest)
        if step == 0:
            table[:, 0] = np.where(known, there == now.above[b], np.nan)
    with np.errstate(invalid="ignore", divide="ignore"):
        table[:, 1] = np.where(total > 0, agreed / total, np.nan)
    table[:, 2] = nearest
    # what it holds
    held, kept = np.zeros(len(a)), np.zeros(len(a))
    children, alike = np.zeros(len(a)), np.zeros(len(a))
    for step in range(1, _MOST_INSIDE + 1):
        at = np.minimum(a + step, size - 1)
        there = image[at]
        known = (a + step < end_old[a]) & (there >= 0)
        if not known.any():
            break
        held += known
        kept += known & (b < there) & (there < end_new[b])
        own = known & (parents[at] == a)
        children += own
        alike += own & (now.above[np.maximum(there, 0)] == b)
    with np.errstate(invalid="ignore", divide="ignore"):
        table[:, 3] = np.where(held > 0, kept / held, np.nan)
        table[:, 8] = np.where(children > 0, alike / children, np.nan)
    # what stands beside it in page order
    for column, beside in ((4, _filled(image, before=True)), (5, _filled(image, before=False))):
        at = beside[a]
        there = nowhere[at]
        apart = np.abs((b - there) - (a - at))
        table[:, column] = np.where(at >= 0, np.exp(-apart / 4), np.nan)
    # its row and its part of the page
    for column, kind in ((6, "row"), (7, "group")):
        of_old, of_new = was.holder(kind)[a], now.holder(kind)[b]
        there = nowhere[of_old]
        table[:, column] = np.where((of_old >= 0) & (there >= 0), there == of_new, np.nan)
    return table


def _filled(image: Ints, before: bool) -> Ints:
    """For each old element the nearest other that has an image, before (or after) it in page order; -1 for none."""
    count = len(image)
    known = np.where(image >= 0, np.arange(count), -1 if before else count)
    if before:
        return np.concatenate([[-1], np.maximum.accumulate(known)[:-1]])
    filled = np.minimum.accumulate(known[::-1])[::-1]
    shifted = np.concatenate([filled[1:], [count]])
    return np.where(shifted < count, shifted, -1)
