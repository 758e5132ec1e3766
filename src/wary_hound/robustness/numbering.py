"""Ids that a program counts through: `widget_37` a dialog, `widget_42` its footer, `widget_44` a button; `label-field-4`,
`error-field-6`, `input-field-7`. The next time, or with one more of them, each number is another's."""

from __future__ import annotations

import re
from collections import Counter

from wary_hound.locator.tables import CELL_ROLES
from wary_hound.page import Page
from wary_hound.page.cache import Cache
from wary_hound.page.trees import SHADOW

_NUMBERED = re.compile(r"([A-Za-z][A-Za-z_.:-]*)(\d{1,3})(?!\d)")
_WORD_AND_NUMBER = re.compile(r"[A-Za-z_-]+\d{1,2}")
_DIGITS = re.compile(r"\d+")
FEWEST, KINDS = 8, 3
"""So many elements and more that bear one name and a number, of so many kinds and more: what a person numbers is of one kind."""
_FIELDS = frozenset("textbox searchbox combobox listbox checkbox radio switch spinbutton slider option".split())
"""Kinds that do not count: a person numbers the fields of a form, of whatever kind each is."""
NAMES, APART = 5, 0.7
"""So many names and more of which each number is one's alone, mostly, have one counter. A person begins each name with 1."""


class Numbering(Cache):
    """The names that the ids of a page are counted by, and the names of its fields that are alike but for a number."""

    def __init__(self, page: Page) -> None:
        super().__init__(page)
        numbers: dict[str, list[tuple[int, int]]] = {}
        of_trees: dict[int, set[int]] = {}
        kinds: dict[str, set[str]] = {}
        for at, value in page.index.attribute_column("id").items():
            if hit := _NUMBERED.fullmatch(value):
                numbers.setdefault(hit[1], []).append((int(hit[2]), at))
                of_trees.setdefault(int(page.tree[at]), set()).add(int(hit[2]))
                kinds.setdefault(hit[1], set()).add(page.semantics.roles[at] or page.tags[at])
        through = {name for name in numbers if len(numbers[name]) >= FEWEST and len(kinds[name] - _FIELDS) >= KINDS}
        through |= {name for name in numbers if kinds[name] <= CELL_ROLES and self._go_on([at for _, at in numbers[name]])}
        few = sorted(numbers, key=lambda name: len(numbers[name]))[:-2]  # a table of many rows would speak for all
        said = [number for name in few for number in numbers[name]]
        # in a shadow tree all ids may have the number of their component: they count as one
        single = {tree for tree, seen in of_trees.items() if len(seen) == 1 and page.trees[tree].kind == SHADOW}
        places = {(number, tree if (tree := int(page.tree[at])) in single else -at - 1) for number, at in said}
        counted = [number for number, _ in places]
        enough = len(few) >= NAMES and len(said) >= FEWEST and len(counted) >= NAMES
        if enough and len(set(counted)) >= APART * len(counted):
            through |= numbers.keys()
        self._names = frozenset(through)
        self._alike: dict[tuple[int, str], set[str]] = {}
        for at, value in page.index.attribute_column("name").items():
            self._alike.setdefault((int(page.tree[at]), _DIGITS.sub("#", value)), set()).add(value)

    def _go_on(self, cells: list[int]) -> bool:
        """Whether cells that are called alike go on from one row into the next: nobody numbers them so."""
        rows = Counter(int(self.page.parent[at]) for at in cells)
        return len(cells) >= FEWEST and sum(many > 1 for many in rows.values()) > 1

    def is_alone(self, element: int, name: str) -> bool:
        """Whether the name of an element is a word with a number, and no other one of its tree is the same but for that."""
        alike = self._alike.get((int(self.page.tree[element]), _DIGITS.sub("#", name)), set())
        return _WORD_AND_NUMBER.fullmatch(name) is not None and alike <= {name}

    def counts(self, value: str) -> bool:
        """Whether an id, or a reference to one, is a name that is counted by, and a number; whatever stands behind it."""
        hit = _NUMBERED.match(value)
        return hit is not None and hit[1] in self._names
