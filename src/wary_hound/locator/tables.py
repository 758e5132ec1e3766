"""Tables and grids as rows and columns: which cell an element is in, and which columns that cell covers.

HTML tables by HTML's own algorithm (section 4.9.12: colspan, rowspan, `headers`), ARIA grids by their rows and `aria-colindex`.
"""

from __future__ import annotations

import sys
from dataclasses import dataclass

from wary_hound.page import Page
from wary_hound.page.cache import Cache
from wary_hound.page.slots import Slots

_TABLE_ROLES = frozenset({"table", "grid", "treegrid"})
CELL_ROLES = frozenset({"cell", "gridcell", "columnheader", "rowheader"})
_HEADER_ROLES = frozenset({"columnheader"})
_BOLD = frozenset({"b", "strong"})
FEWEST_ROWS = 3
"""Of fewer rows nobody can tell that the first one heads them."""
MOST_SPAN = 1_000


@dataclass(frozen=True, slots=True)
class Cell:
    """A cell: its table and row (elements), the row's number, the first column and the one behind the last, counted from 0."""

    index: int
    table: int
    row: int
    level: int
    first: int
    behind: int
    header: bool
    """Whether it heads a column."""

    def shares_column(self, other: Cell) -> bool:
        """Whether the two cover a column of one table together."""
        return self.table == other.table and self.first < other.behind and other.first < self.behind


class Tables(Cache):
    """The cells of a page."""

    def __init__(self, page: Page) -> None:
        super().__init__(page)
        self.cells: dict[int, Cell] = {}
        self.headed: dict[int, frozenset[int]] = {}
        """The header cells that a cell names by its `headers` attribute."""
        roles = page.semantics.roles
        self._rows: dict[int, list[int]] = {}
        self._ends: dict[int, int] = {}  # row: the column behind its last; where cells say their columns none is missing
        heading = self._bare_heads()
        for index, (tag, role) in enumerate(zip(page.tags, roles, strict=True)):
            if tag == "tr" or role == "row" or index in heading:
                table = self._table_of(index)
                if table >= 0:
                    self._rows.setdefault(table, []).append(index)
        for table, rows in self._rows.items():
            self._lay(table, rows)
        self._heads: dict[int, list[Cell]] = {}
        for cell in self.cells.values():
            if cell.header:
                self._heads.setdefault(cell.table, []).append(cell)
        self._short = self._short_rows()
        self._body: dict[int, list[int]] = {}
        held = {cell.row for cell in self.cells.values() if not cell.header and page.tags[cell.index] != "th"}
        for rows in self._rows.values():
            body = [row for row in rows if row in held]
            self._body.update(dict.fromkeys(body, body))
        by_id = {page.attribute(i, "id"): i for i in self.cells if page.attribute(i, "id")}
        for index, value in page.index.attribute_column("headers").items():
            if index in self.cells:
                self.headed[index] = frozenset(by_id[word] for word in value.split() if word in by_id)

    def _bare_heads(self) -> set[int]:
        """What holds the heads of the columns of a grid, each by its role, and neither is a row nor stands in one, as ARIA asks."""
        page, roles = self.page, self.page.semantics.roles
        holders = {int(page.parent[at]) for at, role in enumerate(roles) if role == "columnheader" and page.tags[at] != "th"}

        def in_a_row(at: int) -> bool:
            return any(page.tags[one] == "tr" or roles[one] == "row" for one in (at, *page.ancestors(at)))

        return {at for at in holders if at >= 0 and not in_a_row(at)}

    def _table_of(self, index: int) -> int:
        """The table around an element; a mere frame (`role="presentation"`) that a grid puts around each of its rows is none."""
        roles, tags = self.page.semantics.roles, self.page.tags
        frame = -1
        for at in self.page.ancestors(index):
            if roles[at] in _TABLE_ROLES or (tags[at] == "table" and roles[at] != "none"):
                return at
            if tags[at] == "table" and frame < 0:
                frame = at
            elif frame >= 0 and (tags[at] in ("td", "th") or roles[at] in CELL_ROLES):
                break
        return frame

    def _lay(self, table: int, rows: list[int]) -> None:
        """Put the cells of a table into columns, row by row; what a rowspan covers is taken."""
        page, roles = self.page, self.page.semantics.roles
        bold = self._reads_as_heads(rows)
        taken: dict[int, int] = {}  # column: rows that it is still covered in
        for level, row in enumerate(rows):
            column, stated = 0, False
            covered = {c: left - 1 for c, left in taken.items() if left > 1}
            now = set(taken)
            taken = covered
            for index in page.children(row):
                if page.tags[index] not in ("td", "th") and roles[index] not in CELL_ROLES:
                    continue
                while column in now:
                    column += 1
                given = page.attribute(index, "aria-colindex") or ""
                if given.isdecimal() and int(given[:6]) > 0 and page.tags[index] not in ("td", "th"):
                    column, stated = int(given[:6]) - 1, True
                wide = _span(page, index, "colspan", "aria-colspan")
                high = _span(page, index, "rowspan", "aria-rowspan")
                header = roles[index] in _HEADER_ROLES or (
                    page.tags[index] == "th" and page.attribute(index, "scope") in ("col", "colgroup")
                )
                header |= page.tags[index] == "td" and ((bold and level == 0) or page.tags[int(page.parent[row])] == "thead")
                self.cells[index] = Cell(index, table, row, level, column, column + wide, header)
                if high > 1:
                    taken.update(dict.fromkeys(range(column, column + wide), high - 1))
                column += wide
            self._ends[row] = sys.maxsize if stated else max([column, *(c + 1 for c in now)])

    def _reads_as_heads(self, rows: list[int]) -> bool:
        """Whether the first row of a table heads the others though no cell of it says so: all that it says is bold, and what the
        next one says is not."""
        if len(rows) < FEWEST_ROWS:
            return False
        first, second = ([self._is_bold(cell) for cell in self.page.children(row) if self._says(cell)] for row in rows[:2])
        return len(first) > 1 and all(first) and not any(second)

    def _says(self, cell: int) -> bool:
        return self.page.tags[cell] == "td" and self.page.semantics.worded[cell].strip() != ""

    def _is_bold(self, cell: int) -> bool:
        page = self.page
        inside = range(cell + 1, int(page.end[cell]))
        return any(page.tags[at] in _BOLD and page.semantics.worded[at] == page.semantics.worded[cell] for at in inside)

    def _short_rows(self) -> frozenset[int]:
        """Rows that end before the heads of their table do, where others do not: one of their cells is missing, and nothing says
        which, so that those behind it would stand under the wrong head."""
        short: set[int] = set()
        for table, heads in self._heads.items():
            behind = max(head.behind for head in heads)
            headings = {head.row for head in heads}
            rows = [row for row in self._rows[table] if row not in headings]
            if any(self._ends[row] >= behind for row in rows):
                short.update(row for row in rows if self._ends[row] < behind)
        return frozenset(short)

    def rows_with(self, row: int) -> list[int]:
        """The rows of the table that a row is of, itself too, but for those of heads alone; empty for what is no row of a table."""
        return self._body.get(row, [])

    def around(self, index: int) -> Cell | None:
        """The cell that an element is, or is shown in."""
        over = Slots.of(self.page).around(index)
        return next((self.cells[at] for at in (index, *over) if at in self.cells), None)

    def heads_of(self, cell: Cell) -> list[Cell]:
        """The header cells of a cell's column, the nearest above it first; those that it names come before all."""
        named = [self.cells[h] for h in sorted(self.headed.get(cell.index, ()))]
        heads = self._heads.get(cell.table, ())
        above = [c for c in heads if c.index != cell.index and c.level < cell.level and c.shares_column(cell)]
        return [*named, *sorted(above, key=lambda c: (-c.level, c.first))]

    def is_headed(self, index: int) -> bool:
        """Whether an element is a cell whose column has a head that says something, and no head itself."""
        cell = self.cells.get(index)
        if cell is None or cell.header:
            return False
        return any(self.page.semantics.worded[head.index] for head in self.heads_of(cell))

    def in_column(self, anchor: Cell, cell: Cell) -> bool:
        """Whether a cell stands in the column of an anchor's cell, or names it as its header; rows that lack a cell do not tell."""
        if anchor.index in self.headed.get(cell.index, ()):
            return True
        return anchor.shares_column(cell) and self._short.isdisjoint((anchor.row, cell.row))


def _span(page: Page, index: int, *names: str) -> int:
    for name in names:
        given = page.attribute(index, name) or ""
        if given.isdecimal() and int(given[:6]) > 0:
            return min(MOST_SPAN, int(given[:6]))
    return 1
