"""The flat tree, as far as slots make it: what is in a slot of a shadow tree is held, as it is shown, by the slot and by what is
around that; then by the host."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Iterator
from itertools import takewhile

from wary_hound.page.arena import Page
from wary_hound.page.cache import Cache
from wary_hound.page.text import Reading


class Slots(Cache):
    """Which elements of a page are in which slots."""

    def __init__(self, page: Page) -> None:
        super().__init__(page)
        self.of_element: dict[int, int] = {
            node: slot for slot, nodes in Reading.of(page).slots.items() for node in nodes if node < len(page)
        }
        """The slot of each element that is in one."""
        self._given: dict[int, list[int]] = {}
        for element, slot in self.of_element.items():
            self._given.setdefault(slot, []).append(element)
        self._filled = sorted(self._given)

    def around(self, index: int) -> Iterator[int]:
        """What holds an element, nearest first: in its own tree, and in the shadow trees in whose slots it is shown."""
        hosts: list[int] = []  # that are come back to at the tops of their shadow trees
        while index >= 0:
            over, slot = int(self.page.parent[index]), self.of_element.get(index)
            if slot is not None:
                hosts.append(over)
            index = slot if slot is not None else hosts.pop() if over < 0 and hosts else over
            if index >= 0:
                yield index

    def shadowed(self, index: int) -> Iterator[int]:
        """Of what holds an element in a slot, as it is shown, what is nearer than the host; nothing where it is in none."""
        if index in self.of_element:
            tree = self.page.tree[index]
            yield from takewhile(lambda over: self.page.tree[over] != tree, self.around(index))

    def is_alone(self, index: int) -> bool:
        """Whether an element is in a slot by itself."""
        slot = self.of_element.get(index)
        return slot is not None and len(self._given[slot]) == 1

    def parts(self, holder: int) -> list[range]:
        """All that a holder shows, itself included: its elements, then what is in their slots from elsewhere, in page order."""
        end = self.page.end
        found = [range(holder, int(end[holder]))]
        for part in found:  # it grows
            at = bisect_left(self._filled, part.start)
            while at < len(self._filled) and self._filled[at] < part.stop:
                # in the part already, where the host is in it; else nowhere: no element is in two slots
                found += [range(one, int(end[one])) for one in self._given[self._filled[at]] if one not in part]
                at += 1
        return [found[0], *sorted(found[1:], key=lambda part: part.start)]

    def members(self, holder: int) -> Iterator[int]:
        """The elements of these parts."""
        for part in self.parts(holder):
            yield from part
