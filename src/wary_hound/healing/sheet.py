"""What is compared of elements: columns of texts and numbers, of all elements of a page, or of some that are remembered."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections import Counter
from collections.abc import Callable, Sequence
from functools import cached_property
from itertools import islice
from zlib import crc32

import numpy as np
import numpy.typing as npt

from wary_hound.healing.alone import INTERACTIVE, called, is_control, of_its_kind, soles
from wary_hound.healing.context import Context
from wary_hound.healing.fingerprint import LONGEST, Fingerprint
from wary_hound.healing.said import (
    address,
    icon_of,
    if_figure,
    if_number,
    is_other,
    is_test,
    lasting_classes,
    leads_elsewhere,
    listed,
    plainly,
    unhinted,
)
from wary_hound.healing.terms import terms
from wary_hound.locator.blocks import row_around, section_of
from wary_hound.locator.tables import CELL_ROLES, Tables
from wary_hound.page import Page
from wary_hound.page.cache import Cache
from wary_hound.page.slots import Slots
from wary_hound.robustness.looks import look_of_token

Ints = npt.NDArray[np.int64]
WORDS = frozenset("text words own-text name label before after heading row identity apart column".split())
"""Columns of what a page says to people."""
MOST_IN_ROW = 200
MOST_BESIDE = 60
MOST_ALIKE = 400


class Columns(ABC):
    """Columns of elements, each computed when first asked for."""

    def __init__(self) -> None:
        self._texts: dict[str, list[str]] = {}
        self._written: dict[str, list[str]] = {}
        self._numbers: dict[str, npt.NDArray[np.float64]] = {}
        self._loose: dict[str, npt.NDArray[np.bool_]] = {}

    @abstractmethod
    def __len__(self) -> int: ...

    @abstractmethod
    def _column(self, name: str) -> list[str]: ...

    @abstractmethod
    def _number(self, name: str) -> npt.NDArray[np.float64]: ...

    @property
    @abstractmethod
    def boxes(self) -> npt.NDArray[np.float64]:
        """left, top, width, height in CSS pixels; NaN where they are not known or nothing is shown."""

    def column(self, name: str) -> list[str]:
        """The texts of a column, words as `plainly` has them; empty where an element has none."""
        texts = self._texts.get(name)
        if texts is None:
            written = self.as_written(name)
            texts = self._texts[name] = [plainly(text) for text in written] if name in WORDS else written
        return texts

    def as_written(self, name: str) -> list[str]:
        """The same as the page has them."""
        texts = self._written.get(name)
        if texts is None:
            texts = self._written[name] = self._column(name)
        return texts

    def generated(self, column: str) -> npt.NDArray[np.bool_]:
        """Which values of a column look as if a machine had made them."""
        loose = self._loose.get(column)
        if loose is None:
            looks = [bool(v) and look_of_token(v) in ("generated", "hashed") for v in self.column(column)]
            loose = self._loose[column] = np.asarray(looks, np.bool_)
        return loose

    def numbers(self, name: str) -> npt.NDArray[np.float64]:
        """A column of numbers."""
        numbers = self._numbers.get(name)
        if numbers is None:
            numbers = self._numbers[name] = self._number(name)
        return numbers

    @cached_property
    def interactive(self) -> npt.NDArray[np.bool_]:
        """Which elements a person works with."""
        return np.asarray([role in INTERACTIVE for role in self.column("role")], np.bool_)


class Memory(Columns):
    """The columns of what is remembered of some elements; where it does not say something, that is unknown."""

    def __init__(self, remembered: Sequence[Fingerprint]) -> None:
        super().__init__()
        self.remembered = tuple(remembered)

    def __len__(self) -> int:
        return len(self.remembered)

    def _column(self, name: str) -> list[str]:
        return [_REMEMBERED[name](f) if name in _REMEMBERED else "" for f in self.remembered]

    def _number(self, name: str) -> npt.NDArray[np.float64]:
        if name not in ("sibling", "place"):
            return np.full(len(self), np.nan)
        return np.asarray([float(getattr(f, name)) for f in self.remembered])

    @cached_property
    def boxes(self) -> npt.NDArray[np.float64]:
        """As remembered."""
        return np.asarray([f.box or (np.nan,) * 4 for f in self.remembered], np.float64).reshape(len(self), 4)


class Sheet(Columns, Cache):
    """The columns of all elements of one page."""

    def __init__(self, page: Page) -> None:
        Columns.__init__(self)
        Cache.__init__(self, page)
        self._holders: dict[str, Ints] = {}

    def __len__(self) -> int:
        return len(self.page)

    def _column(self, name: str) -> list[str]:
        return _COLUMNS[name](self.page)

    def _number(self, name: str) -> npt.NDArray[np.float64]:
        return _NUMBERS[name](self)

    @cached_property
    def above(self) -> Ints:
        """The parent of each element, over the edges of trees; -1 at the top of the page."""
        page = self.page
        hosts = np.asarray([tree.host for tree in page.trees], np.int64)
        parents = page.parent.astype(np.int64)
        return np.where(parents >= 0, parents, hosts[page.tree])

    @cached_property
    def boxes(self) -> npt.NDArray[np.float64]:
        """As the page's facts have them."""
        page = self.page
        facts = page.facts
        if facts is None or not facts.has_boxes:
            return np.full((len(page), 4), np.nan)
        boxes = np.array(facts.boxes[: len(page)], np.float64)
        boxes[~page.semantics.visible] = np.nan
        return boxes

    def holder(self, kind: str) -> Ints:
        """The row (or the group) that each element stands in; -1 for none."""
        holders = self._holders.get(kind)
        if holders is None:
            ask = row_around if kind == "row" else section_of
            holders = self._holders[kind] = np.asarray([ask(self.page, i) for i in range(len(self.page))], np.int64)
        return holders


def _names(page: Page) -> list[str]:
    """What each element is called, as `unhinted`; of a control without a name that is alone in a box that people work with, what
    that is called: the two are one to them."""
    names, roles, tags, above = page.semantics.name, page.semantics.roles, page.tags, Sheet.of(page).above.tolist()
    called_ = [unhinted(names(i), page.semantics.worded[i])[:LONGEST] for i in range(len(page))]
    for i, box in enumerate(above):
        if box == i - 1 >= 0 and not called_[i] and page.end[box] == page.end[i] and is_control(tags[i], roles[i]):
            called_[i] = called_[box] if is_control(tags[box], roles[box]) else ""
    return called_


def _attribute(name: str) -> Callable[[Page], list[str]]:
    def column(page: Page) -> list[str]:
        values = page.index.attribute_column(name)
        return [values.get(i, "")[:LONGEST] for i in range(len(page))]

    return column


def _addresses(page: Page) -> list[str]:
    return [address(value) for value in _attribute("href")(page)]


def _tests(page: Page) -> list[str]:
    return [_set(page, i, is_test) for i in range(len(page))]


def _others(page: Page) -> list[str]:
    return [_set(page, i, is_other) for i in range(len(page))]


def _set(page: Page, index: int, wanted: Callable[[str], bool]) -> str:
    return listed(page.attributes_of(index), wanted)


def _classes(page: Page) -> list[str]:
    values = page.index.attribute_column("class")
    kept = {v: lasting_classes(v) for v in set(values.values())}
    return [kept[values[i]] if i in values else "" for i in range(len(page))]


def _icons(page: Page) -> list[str]:
    """Of each element the icons in it, where it holds few elements; of larger parts none."""
    own = [icon_of(page, i) for i in range(len(page))]
    ends = page.end.tolist()
    return [" ".join(filter(None, own[i : ends[i]]))[:LONGEST] if ends[i] - i <= 12 else "" for i in range(len(page))]


def _terms(page: Page) -> list[str]:
    """The words by which each element goes."""
    icons, texts = Sheet.of(page).column("icon"), page.semantics.worded
    return [terms(page.attributes_of(i), icons[i], page.semantics.name(i), texts[i]) for i in range(len(page))]


def _shapes(page: Page) -> list[str]:
    """A name for each kind of subtree: the same tags in the same order (Merkle 1987: a digest of the digests below)."""
    below: list[list[str]] = [[] for _ in range(len(page))]
    shapes = [""] * len(page)
    above, tags = Sheet.of(page).above.tolist(), page.tags
    for i in range(len(page) - 1, -1, -1):
        shapes[i] = f"{crc32(f'{tags[i]} {below[i]}'.encode()):08x}"
        if above[i] >= 0:
            below[above[i]].append(shapes[i])
    return shapes


def _heads(page: Page) -> list[str]:
    """The text of the header of the column that each element stands in."""
    tables, texts = Tables.of(page), page.semantics.worded
    slots, parents = Slots.of(page).of_element, Sheet.of(page).above.tolist()
    above = [slots.get(i, over) for i, over in enumerate(parents)]
    of_column: dict[tuple[int, int], str] = {}
    of_cell: dict[int, str] = {}
    for index in sorted(tables.cells):
        cell = tables.cells[index]
        of_cell[index] = of_column.get((cell.table, cell.first), "")
        if cell.header:
            for column in range(cell.first, min(cell.behind, cell.first + 50)):
                of_column[cell.table, column] = texts[index][:LONGEST]
    heads: list[str] = []
    for i in range(len(page)):
        heads.append(of_cell[i] if i in of_cell else heads[above[i]] if above[i] >= 0 else "")
    return heads


def _identities(page: Page) -> list[str]:
    """Of each element that stands in a row what tells this row from the others beside it: texts, addresses and names that no
    other has."""
    sheet = Sheet.of(page)
    rows, above, slots = sheet.holder("row"), sheet.above, Slots.of(page)
    own, hrefs, names = page.semantics.own_text, sheet.column("href"), page.index.attribute_column("aria-label")
    values: dict[int, set[str]] = {}
    beside: dict[int, Counter[str]] = {}
    for row in np.unique(rows[rows >= 0]).tolist():
        inside = list(islice(slots.members(row), MOST_IN_ROW))
        said = {own[i][:LONGEST] for i in inside} | {hrefs[i] for i in inside} | {names.get(i, "")[:LONGEST] for i in inside}
        values[row] = said - {"", "#"}
        beside.setdefault(int(above[row]), Counter()).update(values[row])
    kept = {
        row: "\n".join(sorted(v.replace("\n", " ") for v in said if beside[int(above[row])][v] == 1))
        for row, said in values.items()
    }
    return [kept[row] if row >= 0 else "" for row in rows.tolist()]


def _apart(page: Page) -> list[str]:
    """Of each element that looks like others, what tells it from them: texts and addresses that stand with it, as far up as it
    stands alone, and with none of the others."""
    sheet = Sheet.of(page)
    above, roles, names, icons = sheet.above.tolist(), page.semantics.roles, sheet.column("name"), sheet.column("icon")
    own, hrefs, ends = page.semantics.own_text, sheet.column("href"), page.end.tolist()
    slots, rows = Slots.of(page), sheet.holder("row").tolist()
    alike: dict[tuple[str, ...], list[int]] = {}
    for i in range(len(page)):
        alike.setdefault((page.tags[i], roles[i], names[i] or own[i][:LONGEST], icons[i]), []).append(i)
    apart = [""] * len(page)
    for members in alike.values():
        if not 2 <= len(members) <= MOST_ALIKE:
            continue
        holders = [_alone(above, ends, members, k) for k in range(len(members))]
        in_slots = [rows[m] if rows[m] > 0 and not rows[m] <= m < ends[rows[m]] else -1 for m in members]
        if min(in_slots) >= 0 and len(set(in_slots)) == len(members):
            holders = in_slots  # each in a row of its own that slots put together
        said = [
            {t for i in islice(slots.members(h), MOST_BESIDE) for t in (own[i][:LONGEST], hrefs[i])} - {"", "#"} for h in holders
        ]
        count = Counter(value for values in said for value in values)
        for member, values in zip(members, said, strict=True):
            apart[member] = "\n".join(sorted(v.replace("\n", " ") for v in values if count[v] == 1))
    return apart


def _alone(above: Sequence[int], ends: Sequence[int], members: Sequence[int], k: int) -> int:
    """The furthest holder of one of several elements that holds none of the others."""
    before = members[k - 1] if k else -1
    after = members[k + 1] if k + 1 < len(members) else len(ends)
    at = members[k]
    while above[at] >= 0 and above[at] > before and ends[above[at]] <= after:
        at = above[at]
    return at


def _kind_of_number(name: str, numbered: bool) -> Callable[[Page], list[str]]:
    """An attribute whose values end in a counter, or the others: a counter says a place as much as an element."""
    whole = _attribute(name)

    def column(page: Page) -> list[str]:
        return [if_number(v, numbered) for v in whole(page)]

    return column


def _texts(number: bool) -> Callable[[Page], list[str]]:
    """Texts that are numbers and dates, or the others."""

    def column(page: Page) -> list[str]:
        return [if_figure(t, number) for t in Sheet.of(page).column("text")]

    return column


def _leads(page: Page) -> list[str]:
    """Where a link leads, if no other on its page leads there."""
    links = [to if tag in ("a", "area") else "" for tag, to in zip(page.tags, Sheet.of(page).column("href"), strict=True)]
    often = Counter(links)
    return [to if often[to] == 1 and leads_elsewhere(to) else "" for to in links]


def _saying(page: Page) -> list[str]:
    """The tags of what can say something itself. A slot passes on what it is given, and has no box of its own; where what holds an
    element is of its tag and says no more, either could be meant."""
    tags, texts, above = page.tags, page.semantics.worded, Sheet.of(page).above.tolist()
    inner = (at >= 0 and (tags[at], texts[at]) == (tags[i], texts[i]) for i, at in enumerate(above))
    return ["" if tag == "slot" or doubled else tag for tag, doubled in zip(tags, inner, strict=True)]


def _soles(nested: bool) -> Callable[[Page], list[str]]:
    """What an element is called, or says, that no other on its page is called or says."""

    def column(page: Page) -> list[str]:
        sheet = Sheet.of(page)
        texts, roles = sheet.column("text"), sheet.column("role")
        names = [called(*of) for of in zip(page.tags, roles, sheet.column("name"), texts, strict=True)]
        return soles(sheet.above.tolist(), names, texts, sheet.column("words"), nested)

    return column


def _said_alone(seen: Fingerprint) -> str:
    """The same of an element that was seen."""
    text = plainly(seen.text)
    return (called(seen.tag, seen.role, plainly(seen.name), text) or f"says {text}") if seen.alone else ""


def _holding(sheet: Sheet) -> npt.NDArray[np.float64]:
    """Which elements hold a control that says all that they say, and are none themselves, nor a cell: that stays what it is,
    whatever comes in it."""
    texts, tags, roles, above = sheet.page.semantics.worded, sheet.page.tags, sheet.page.semantics.roles, sheet.above.tolist()
    holding = np.zeros(len(sheet))
    for i, text in enumerate(texts):
        if text and is_control(tags[i], roles[i]):
            at = above[i]
            while at >= 0 and texts[at] == text and not is_control(tags[at], roles[at]) and roles[at] not in CELL_ROLES:
                holding[at] = 1
                at = above[at]
    return holding


def _ranks(sheet: Sheet, end: bool) -> npt.NDArray[np.float64]:
    """Which of the elements of its tag, role and text each is, from the first or the last."""
    page = sheet.page
    met: Counter[tuple[str, str, str]] = Counter()
    ranks = np.zeros(len(page))
    order = range(len(page) - 1, -1, -1) if end else range(len(page))
    texts = sheet.column("text")
    for i in order:
        key = (page.tags[i], page.semantics.roles[i], texts[i])
        ranks[i] = met[key]
        met[key] += 1
    return ranks


def _trails(page: Page) -> list[str]:
    context = Context.of(page)
    kept: dict[tuple[str, ...], str] = {}
    out = []
    for i in range(len(page)):
        steps = context.trail(i)
        if steps not in kept:
            kept[steps] = "\n".join(s.partition("#")[0].partition("@")[0] for s in steps)
        out.append(kept[steps])
    return out


def _trail_ids(page: Page) -> list[str]:
    context = Context.of(page)
    return ["\n".join(s for s in context.trail(i) if "#" in s or "@" in s) for i in range(len(page))]


_COLUMNS: dict[str, Callable[[Page], list[str]]] = {
    "tag": lambda page: page.tags,
    "role": lambda page: page.semantics.roles,
    "id": _kind_of_number("id", False),
    "numbered-id": _kind_of_number("id", True),
    "name-attribute": _kind_of_number("name", False),
    "numbered-name": _kind_of_number("name", True),
    "href": _addresses,
    "leads": _leads,
    "value": _attribute("value"),
    "type": _attribute("type"),
    "test-attribute": _tests,
    "other-attributes": _others,
    "classes": _classes,
    "icon": _icons,
    "text": lambda page: [text[:LONGEST] for text in page.semantics.worded],
    "words": _texts(False),
    "sole": _soles(False),
    "sole-nested": _soles(True),
    "sole-name": lambda page: of_its_kind(page.semantics.roles, page.semantics.roles, Sheet.of(page).column("name")),
    "sole-label": lambda page: of_its_kind(page.semantics.roles, page.semantics.roles, Sheet.of(page).column("label")),
    "sole-text": lambda page: of_its_kind(page.tags, page.semantics.roles, Sheet.of(page).column("text")),
    "sole-own": lambda page: of_its_kind(page.tags, _saying(page), list(map(plainly, page.semantics.own_text))),
    "number": _texts(True),
    "identity": _identities,
    "column": _heads,
    "apart": _apart,
    "terms": _terms,
    "own-text": lambda page: [text[:LONGEST] for text in page.semantics.own_text],
    "name": _names,
    "label": lambda page: [page.semantics.label(i)[:LONGEST] for i in range(len(page))],
    "before": lambda page: Context.of(page).before,
    "after": lambda page: Context.of(page).after,
    "heading": lambda page: Context.of(page).heading,
    "row": lambda page: [Context.of(page).row(i) for i in range(len(page))],
    "trail": _trails,
    "trail-ids": _trail_ids,
    "shape": _shapes,
    "tree": lambda page: [page.trees[k].kind for k in page.tree.tolist()],
}

_NUMBERS: dict[str, Callable[[Sheet], npt.NDArray[np.float64]]] = {
    "place": lambda s: np.arange(len(s)) / len(s),
    "sibling": lambda s: s.page.index.place_of_type.astype(np.float64),
    "from-end": lambda s: (s.page.index.siblings_of_type - s.page.index.place_of_type).astype(np.float64),
    "depth": lambda s: s.page.depth.astype(np.float64),
    "extent": lambda s: (s.page.end - np.arange(len(s.page))).astype(np.float64),
    "shown": lambda s: s.page.semantics.rendered.astype(np.float64),
    "holding": _holding,
    "rank": lambda s: _ranks(s, False),
    "rank-from-end": lambda s: _ranks(s, True),
}

_REMEMBERED: dict[str, Callable[[Fingerprint], str]] = {
    "tag": lambda f: f.tag,
    "role": lambda f: f.role,
    "id": lambda f: if_number(f.attributes.get("id", ""), False),
    "numbered-id": lambda f: if_number(f.attributes.get("id", ""), True),
    "name-attribute": lambda f: if_number(f.attributes.get("name", ""), False),
    "numbered-name": lambda f: if_number(f.attributes.get("name", ""), True),
    "href": lambda f: address(f.attributes.get("href", "")),
    "value": lambda f: f.attributes.get("value", ""),
    "type": lambda f: f.attributes.get("type", ""),
    "test-attribute": lambda f: listed(f.attributes, is_test),
    "other-attributes": lambda f: listed(f.attributes, is_other),
    "classes": lambda f: lasting_classes(f.attributes.get("class", "")),
    "icon": lambda f: f.icon,
    "text": lambda f: f.text,
    "words": lambda f: if_figure(f.text, False),
    "sole": _said_alone,
    "sole-nested": _said_alone,
    "number": lambda f: if_figure(f.text, True),
    "terms": lambda f: terms(f.attributes, f.icon, f.name, f.text),
    "own-text": lambda f: f.own_text,
    "name": lambda f: unhinted(f.name, f.text),
    "label": lambda f: f.label,
    "before": lambda f: f.before,
    "after": lambda f: f.after,
    "heading": lambda f: f.heading,
    "row": lambda f: f.row,
    "identity": lambda f: "\n".join(f.identity),
    "apart": lambda f: "\n".join(f.apart),
    "column": lambda f: f.column,
    "trail": lambda f: "\n".join(s.partition("#")[0].partition("@")[0] for s in f.trail),
    "trail-ids": lambda f: "\n".join(s for s in f.trail if "#" in s or "@" in s),
    "tree": lambda f: f.tree,
}
