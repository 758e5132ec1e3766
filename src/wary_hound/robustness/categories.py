"""What rows say that is the same in several of them: in what state each is, of what kind, whose. Where one of them says it alone
today (*Failed*, among several *Queued*), another may tomorrow: it tells no row."""

from __future__ import annotations

from collections import Counter, defaultdict

from wary_hound.page import Page
from wary_hound.page.cache import Cache

MOST_DIFFERENT = 0.8
"""Where rows say no more different things than this share of what they say, they say of what kind they are."""
FEWEST = 3
"""Of fewer rows nobody can tell."""
MOST_LEVELS = 6
"""So many levels are climbed from a row that is alone in its table to those beside which that stands."""
MOST_IN_A_ROW = 300
"""What holds more elements than that is a part of the page."""
Place = tuple[int, ...]


class Categories(Cache):
    """The places in the rows of a page, of texts and of attributes, in which several rows say the same."""

    def __init__(self, page: Page) -> None:
        super().__init__(page)
        self._places: dict[tuple[int, str, str], frozenset[Place]] = {}
        self._outer: dict[int, int] = {}

    def tells_a_kind(self, row: int, at: int, name: str = "") -> bool:
        """Whether what an element in a row (or the row) says, by its text or an attribute of a name, is said in that place of
        several rows beside it, though not in all: of what kind they are."""
        page, row = self.page, self._one_of_several(row)
        if row < 0 or page.end[row] - row > MOST_IN_A_ROW:
            return False
        key = (int(page.parent[row]), page.tags[row], name)
        places = self._places.get(key)
        if places is None:
            places = self._places[key] = self._repeating(*key)
        return bool(places) and self._place(row, at) in places

    def _one_of_several(self, row: int) -> int:
        """The row; where it is alone in a table of its own, what stands beside others around it; -1 where nothing does."""
        outer = self._outer.get(row)
        if outer is None:
            page, outer = self.page, row
            for _ in range(MOST_LEVELS):
                if outer < 0 or page.index.siblings_of_type[outer] >= FEWEST:
                    break
                outer = int(page.parent[outer])
            else:
                outer = -1
            self._outer[row] = outer
        return outer

    def _repeating(self, above: int, tag: str, name: str) -> frozenset[Place]:
        page = self.page
        said: defaultdict[Place, Counter[str]] = defaultdict(Counter)
        values = page.index.attribute_column(name) if name else None
        for row in page.children(above):
            if page.tags[row] != tag or page.end[row] - row > MOST_IN_A_ROW:
                continue
            for at in range(row, int(page.end[row])):
                value = page.semantics.own_text[at] if values is None else values.get(at, "")
                if value and page.tree[at] == page.tree[row]:
                    said[self._place(row, at)][value] += 1
        return frozenset(place for place, values in said.items() if 1 < len(values) <= MOST_DIFFERENT * values.total() >= 2)

    def _place(self, row: int, at: int) -> Place:
        """Which child of which it is, from the row down."""
        parent, place = self.page.parent, self.page.index.place
        way: list[int] = []
        while at != row and at >= 0:
            way.append(int(place[at]))
            at = int(parent[at])
        return tuple(way)
