"""What tables say of their words: what differs from row to row of a column is data, but for what a row is known by; and names that
count the rows (`lines-0-weight`, `lines-1-weight`) are positions by another name."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Sequence
from itertools import islice, pairwise

from wary_hound.locator.blocks import is_block, row_of, rows_around
from wary_hound.locator.tables import Cell, Tables
from wary_hound.page import Page
from wary_hound.page.cache import Cache
from wary_hound.page.index import tokens
from wary_hound.robustness.looks import look_of_text

NAMES = frozenset({"id", "name", "for"})
CONTROLS = frozenset("button checkbox radio switch combobox listbox textbox spinbutton menuitem option".split())
"""What is read on a control is what it does, in whatever row it stands."""
CALLED, SHOWN = "its name", "its text"
_DIGITS = re.compile(r"\d+")
_IN_A_NAME = re.compile(r"(?<=[-_.:\[])\d+(?=[-_.:\]])")
"""A number within a name, which is no key: `rows-2-cells`."""
_MOMENT = re.compile(r"\d+(?:[:/-]\d+)+")
"""An hour or a date in figures."""
MOST_ALIKE = 0.5
"""What more than so many cells of a column say (a link to edit) are words of the application."""

FEWEST = 2
"""Of so few blocks nobody can tell what is usual."""
ABOVE = 3
"""So many ancestors are asked for a label."""
FEW_ROWS = 4
"""In fewer rows than this it says nothing that all say the same."""


class Tabular(Cache):
    """The columns of a page, and the names that count its rows."""

    def __init__(self, page: Page) -> None:
        super().__init__(page)
        self._columns: dict[tuple[int, int, int], list[Cell]] = {}
        self._keys: dict[int, tuple[int, int, int]] = {}
        """The last column by which the rows of a table are known: the first that says something else in each, and no figures."""
        self._known: set[int] = set()
        """The rows of tables that say something in that column."""
        self._counting: dict[tuple[str, str, int], bool] = {}
        self._numbered: dict[str, dict[str, list[tuple[int, str]]]] = {}
        """The values of attributes (of names, of texts) that hold a number, by what they are without it."""
        self._idle: dict[int, bool] = {}
        self._rows: dict[int, int] = {}
        self._data: dict[int, bool] = {}
        """What has been asked of an element: whether it is a datum."""
        self._shared: dict[tuple[tuple[int, int, int], str], int] = {}
        """How many cells of a column hold an element of a class."""
        self._ends: dict[tuple[int, str], list[str]] = {}
        """With what the classes of the rows of a table or a list (by its first) end that begin alike."""
        self._beside: dict[tuple[int, str], tuple[Sequence[int], Counter[frozenset[str]]]] = {}
        """The blocks of a tag in an element, and how many of them have which classes."""
        self._cells_of: dict[int, list[Cell]] = {}
        headed = set()
        for cell in Tables.of(page).cells.values():
            if not cell.header:
                self._columns.setdefault(_column(cell), []).append(cell)
                self._cells_of.setdefault(cell.table, []).append(cell)
            else:
                headed.add(cell.table)
        rows = {table: len({cell.row for cell in self._cells_of.get(table, ())}) for table in headed}
        self._few = {table: many for table, many in rows.items() if 0 < many < FEW_ROWS}
        """The rows of tables whose columns have heads, and that show few: a search found them."""
        texts = page.semantics.worded
        for column, cells in sorted(self._columns.items()):
            said = [texts[cell.index] for cell in cells if texts[cell.index]]
            figures = any(look_of_text(one) == "number" for one in said) or self._is_idle(cells)
            several = len(said) > 1 or self._few.get(column[0]) == 1
            if column[0] not in self._keys and said and several and len(set(said)) == len(said) and not figures:
                self._keys[column[0]] = column
                self._known.update(cell.row for cell in cells if texts[cell.index])

    def row_of(self, element: int) -> int:
        """The row of a table that an element stands in, or is, where the table has several; not that of the heads, nor one by which
        the parts of a page are put side by side; or -1."""
        row = self._rows.get(element)
        if row is None:
            tables = Tables.of(self.page)
            around = rows_around(self.page, element)
            row = self._rows[element] = next((one for one in around if len(tables.rows_with(one)) > 1), -1)
        return row

    def tells_no_row(self, at: int) -> bool:
        """Whether a text of a row says in what state the thing is, or labels a field, by which nobody tells the row."""
        known = self._idle.get(at)
        if known is None:
            known = self._idle[at] = is_label(self.page, at) or is_of_a_state(self.page, at)
        return known

    def _is_idle(self, cells: Sequence[Cell]) -> bool:
        """Whether a column says in what state the things of its rows are, or labels boxes to tick."""
        texts, end = self.page.semantics.own_text, self.page.end
        saying = (at for cell in cells for at in range(cell.index, int(end[cell.index])) if texts[at])
        first = next(saying, -1)
        return first >= 0 and self.tells_no_row(first)

    def shift(self, element: int, name: str, value: str) -> str:
        """The look of an attribute that says what its row holds (an address that leads there: `data`) or which row it is, counted
        (`counting`); empty of others."""
        if name == "href":
            if _IN_A_NAME.search(value) and self.counts_rows(element, name, value):
                return "counting"
            return "data" if self.is_datum(element) else ""
        return "counting" if name in NAMES and self.counts_rows(element, name, value) else ""

    def is_datum(self, element: int) -> bool:
        """Whether what is read on an element in a table is what its row holds: it is not read in most cells of its column. Not what
        the rows are known by, in that column or, each by another, in one before it; nor a figure, nor a control."""
        known = self._data.get(element)
        if known is None:
            known = self._data[element] = self._is_datum(element)
        return known

    def _is_datum(self, element: int) -> bool:
        page = self.page
        cell = Tables.of(page).around(element)
        shown = page.semantics.worded[element]
        if cell is None or cell.header or page.tags[cell.index] == "th" or not shown or look_of_text(shown) == "number":
            return False
        if cell.row not in self._known:
            return False
        between = (element, *(at for at in page.ancestors(element) if cell.index < at))
        if any(page.semantics.roles[at] in CONTROLS for at in between):
            return False
        said = [text for one in self._columns[_column(cell)] if (text := page.semantics.worded[one.index])]  # of empty rows nothing
        if _column(cell) <= self._keys[cell.table] and len(set(said)) == len(said):
            return False
        if not any(page.tags[at] == "a" for at in between):
            return True
        return len(set(said)) > 1 and sum(shown in one for one in said) <= MOST_ALIKE * len(said)

    def known_as(self, element: int) -> str:
        """What the row of a table is known by that an element stands in; empty where it is in no such row, or says that itself."""
        cell = Tables.of(self.page).around(element)
        key = self._keys.get(cell.table) if cell is not None and not cell.header else None
        if cell is None or key is None or _column(cell) == key:
            return ""
        return next((self.page.semantics.worded[one.index] for one in self._columns[key] if one.row == cell.row), "")

    def is_moment_of_its_row(self, element: int) -> bool:
        """Whether it is an hour or a date by which its row is known: another one in each row, in no column behind that by whose
        words they are known."""
        cell = Tables.of(self.page).cells.get(element)
        if cell is None or cell.header:
            return False
        said = [self.page.semantics.worded[one.index] for one in self._columns[_column(cell)]]
        behind = cell.table in self._keys and _column(cell) > self._keys[cell.table]
        return not behind and len(set(said)) == len(said) and all(map(_MOMENT.fullmatch, said))

    def is_told_by_its_state(self, element: int, name: str) -> bool:
        """Whether a class of an element in a table says what its row is like (`.badge.train`): fewer cells of its column than half
        hold one that has it; or what a cell is like of figures alone (the days of a weekend): fewer of all cells."""
        cell = Tables.of(self.page).around(element)
        if cell is None or cell.header or (cell.table in self._keys and cell.row not in self._known):
            return False
        figures = cell.table not in self._keys
        column = self._cells_of[cell.table] if figures else self._columns[_column(cell)]
        key = ((cell.table, -1, -1) if figures else _column(cell), name)
        if key not in self._shared:
            bearers = self.page.index.by_class.get(name, ())
            around = {inside.index for at in bearers if (inside := Tables.of(self.page).around(int(at))) is not None}
            self._shared[key] = sum(one.index in around for one in column)
        return len(column) > 2 and self._shared[key] <= MOST_ALIKE * len(column)

    def says_the_kind(self, row: int, name: str) -> bool:
        """Whether a class of a row of a table says of what kind that is: others have one that begins alike and ends otherwise
        (`category-stars`, `category-domes`), and it does not end with a word that its row says first. In a list two must be of one
        kind: in a menu each item is of its own. What it ends with may stand there by itself as well (`stars`)."""
        page, table = self.page, Tables.of(self.page).rows_with(row)
        said = tokens(page.attribute(row, "class") or "")
        called = next((one for one in said if _ending(one)[0] and _ending(one)[1] == name), name)
        stem, end = _ending(called)
        listed, usual = ((), Counter[frozenset[str]]()) if len(table) > 1 else self._blocks_beside(row)
        if listed and self._modifies(name, said, usual):
            return True
        if not stem:
            return False
        rows = listed or table
        key = (rows[0], stem)
        if key not in self._ends:
            ends = [
                [other for begun, other in map(_ending, tokens(page.attribute(at, "class") or "")) if begun == stem] for at in rows
            ]
            self._ends[key] = [of_one[0] for of_one in ends if of_one] if max(map(len, ends)) == 1 else []
        kinds = len(set(self._ends[key]))
        if kinds < 2 or (listed and kinds == len(self._ends[key])):
            return False
        texts = page.semantics.own_text
        first = next((texts[at] for at in range(row, int(page.end[row])) if texts[at]), "")
        return end.casefold() not in first.casefold()

    def _blocks_beside(self, row: int) -> tuple[Sequence[int], Counter[frozenset[str]]]:
        """The blocks of the tag of one that stand beside it, itself too, and how many have which classes; remembered."""
        page = self.page
        key = (int(page.parent[row]), page.tags[row])
        if key not in self._beside:
            rows = [at for at in page.children(key[0]) if page.tags[at] == key[1]]
            self._beside[key] = rows, Counter(frozenset(tokens(page.attribute(at, "class") or "")) for at in rows)
        return self._beside[key]

    @staticmethod
    def _modifies(name: str, said: Sequence[str], usual: Counter[frozenset[str]]) -> bool:
        """Whether a class of one of several blocks is all that it has besides what most have: a state, a kind (`slot done`)."""
        plain = frozenset(said) - {name}
        return bool(plain) and usual.total() > FEWEST and 2 * usual[plain] >= usual.total()

    def counts_rows(self, element: int, name: str, value: str) -> bool:
        """Whether an attribute (or what its element is `CALLED`, or what is `SHOWN` of it) counts the rows that its element is one
        of, or stands in: they have it, too, each once, with the next number. Not in a row of a table that nothing else is known
        of."""
        page = self.page
        row = element if is_block(page, element) else row_of(page, element)
        if row < 0 or not _DIGITS.search(value):
            return False
        cell = Tables.of(page).around(element)
        if cell is not None and cell.table in self._keys and cell.row not in self._known:
            return False
        above, like = int(page.parent[row]), _DIGITS.sub("#", value)
        column = f"{name} {page.tags[element]}" if name in (CALLED, SHOWN) else name
        key = (column, like, above)
        if key not in self._counting:
            found: list[list[int]] = []
            rows = list[int]()
            if column not in self._numbered:
                self._numbered[column] = _by_likeness(self._said(name, element))
            for at, other in self._numbered[column].get(like, ()):
                if page.tree[at] != page.tree[row]:
                    continue
                way = (at, *page.ancestors(at))
                if above in way:
                    found.append([int(number) for number in _DIGITS.findall(other)])
                    rows.append(way[max(0, way.index(above) - 1)])
            self._counting[key] = _in_steps(found) and len(set(rows)) == len(rows)
        return self._counting[key]

    def _said(self, name: str, element: int) -> Iterable[tuple[int, str]]:
        """Who has an attribute, and what it says; what is called or shown of all of the tag of an element."""
        semantics, alike = self.page.semantics, self.page.index.by_tag[self.page.tags[element]]
        if name == CALLED:
            return ((int(at), semantics.name(int(at))) for at in alike)
        return (
            ((int(at), semantics.worded[at]) for at in alike) if name == SHOWN else self.page.index.attribute_column(name).items()
        )


_STATES = re.compile(
    r"(?:column-|col-|cell-)?(?:status|state|type|kind|priority|severity|level|category|tracker|stage|phase|result|visibility|access)",
    re.I,
)
_COLUMN_NAMES = ("data-label", "data-colname", "data-field", "data-column", "data-title", "data-th", "col-id", "headers")
"""Attributes by which the cells of a table say what their column is called."""


def is_of_a_state(page: Page, at: int) -> bool:
    """Whether a text stands in a column that says in what state, or of what kind, the things of its rows are."""
    cell = Tables.of(page).around(at)
    if cell is None or cell.header:
        return False
    said = [page.semantics.worded[head.index] for head in Tables.of(page).heads_of(cell)[:1]]
    said += [name for one in _COLUMN_NAMES if (name := page.attribute(cell.index, one))]
    said += tokens(page.attribute(cell.index, "class") or "")
    return any(_STATES.fullmatch(name) for name in said)


def is_label(page: Page, at: int) -> bool:
    """Whether a text in a table labels a field: *Select Vega* of the box to tick in a row."""
    around = (at, *islice(page.ancestors(at), ABOVE))
    if any(page.tags[one] == "label" for one in around):
        return True
    named = (name for one in around if (name := page.attribute(one, "id")))
    fields = (one for name in named for one in page.index.valued("aria-labelledby", name).tolist())
    return any(page.semantics.roles[one] in CONTROLS - {"button"} for one in fields)


def _ending(name: str) -> tuple[str, str]:
    """A class in two, behind its last joiner: `status-` and `open`."""
    cut = max(map(name.rfind, "-_")) + 1
    return name[:cut], name[cut:]


def _column(cell: Cell) -> tuple[int, int, int]:
    return cell.table, cell.first, cell.behind


def _by_likeness(said: Iterable[tuple[int, str]]) -> dict[str, list[tuple[int, str]]]:
    """What holds a number, by what it is but for that, in its order."""
    alike: dict[str, list[tuple[int, str]]] = {}
    for at, value in said:
        if (like := _DIGITS.sub("#", value)) != value:
            alike.setdefault(like, []).append((at, value))
    return alike


def _in_steps(numbers: list[list[int]]) -> bool:
    """Whether each has a number that is greater by one than that before it, always the same one (or ones: it is said twice), and is
    like it else."""
    steps = {tuple(b - a for a, b in zip(before, after, strict=True)) for before, after in pairwise(numbers)}
    return len(numbers) > 1 and len(steps) == 1 and {1} <= set(*steps) <= {0, 1}
