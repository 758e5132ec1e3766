"""The nodes of a page as XPath sees them, as plain integers, and the axes between them. A document type is no node here.

With n elements and t text nodes: an element is its index, text (or comment) k is n + k, attribute a is n + t + a, and the
root of tree r is -1 - r.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from wary_hound.page import Page
from wary_hound.page.cache import Cache
from wary_hound.page.text import Reading
from wary_hound.page.trees import HTML

REVERSE = frozenset({"ancestor", "ancestor-or-self", "preceding", "preceding-sibling"})


class Nodes(Cache):
    """Axes, names and string values. One is kept for each page."""

    def __init__(self, page: Page) -> None:
        super().__init__(page)
        self.elements = len(page)
        self.texts = len(page.text_values)
        self.first_attribute = self.elements + self.texts
        self._strings: dict[int, str] = {}
        self._places: dict[int, dict[int, int]] = {}
        self._children = Reading.of(page).nodes.children

    def is_element(self, node: int) -> bool:
        return 0 <= node < self.elements

    def is_text(self, node: int) -> bool:
        return self.elements <= node < self.first_attribute

    def is_attribute(self, node: int) -> bool:
        return node >= self.first_attribute

    def order(self, node: int) -> tuple[int, int, int]:
        """Sort key of document order within a tree."""
        if node < 0:
            return self.page.trees[-1 - node].start, -1, 0
        if node < self.elements:
            return node, 1, 0
        if node < self.first_attribute:
            return int(self.page.text_next[node - self.elements]), 0, node
        return self.owner(node), 2, node

    def owner(self, node: int) -> int:
        at = node - self.first_attribute
        return int(np.searchsorted(self.page.attr_start, at, "right")) - 1

    def element_of(self, node: int) -> int:
        """The element where one is wanted: an attribute's owner, a text's parent, the root's top element; -1 for none."""
        if self.is_element(node):
            return node
        if self.is_attribute(node):
            return self.owner(node)
        if self.is_text(node):
            above = self.parent(node)
            return -1 if above is None else max(-1, above)
        return -1

    def tree(self, node: int) -> int:
        if node < 0:
            return -1 - node
        if node < self.elements:
            return int(self.page.tree[node])
        if node < self.first_attribute:
            return int(self.page.index.text_trees[node - self.elements])
        return int(self.page.tree[self.owner(node)])

    def parent(self, node: int) -> int | None:
        """The parent node; None for a root. An element or text at the top of a tree has the root."""
        if node < 0:
            return None
        if node < self.elements:
            above = int(self.page.parent[node])
            return above if above >= 0 else -1 - int(self.page.tree[node])
        if node < self.first_attribute:
            return int(self.page.text_parent[node - self.elements])
        return self.owner(node)

    def children(self, node: int) -> list[int]:
        return self._children.get(node, [])

    def attributes(self, node: int) -> range:
        if not self.is_element(node):
            return range(0)
        start, end = self.page.attr_start[node], self.page.attr_start[node + 1]
        return range(self.first_attribute + int(start), self.first_attribute + int(end))

    def descendants(self, node: int) -> list[int]:
        """All nodes below, in document order."""
        below: list[int] = []
        stack = list(reversed(self.children(node)))
        while stack:
            at = stack.pop()
            below.append(at)
            if at < self.elements:
                stack.extend(reversed(self.children(at)))
        return below

    def ancestors(self, node: int) -> list[int]:
        """Nearest first, the root last."""
        above: list[int] = []
        at = self.parent(node)
        while at is not None:
            above.append(at)
            at = self.parent(at)
        return above

    def siblings(self, node: int, after: bool) -> list[int]:
        if self.is_attribute(node):
            return []
        above = self.parent(node)
        if above is None:
            return []
        family = self.children(above)
        at = self._place(above, node)
        return family[at + 1 :] if after else family[:at][::-1]

    def _place(self, above: int, node: int) -> int:
        """Which child of its parent a node is."""
        places = self._places.get(above)
        if places is None:
            places = self._places[above] = {child: at for at, child in enumerate(self.children(above))}
        return places[node]

    def axis(self, node: int, axis: str) -> list[int]:
        """The nodes on an axis, in its own order (nearest first on reverse axes)."""
        match axis:
            case "child":
                return self.children(node)
            case "descendant":
                return self.descendants(node)
            case "descendant-or-self":
                return [node, *self.descendants(node)]
            case "self":
                return [node]
            case "parent":
                above = self.parent(node)
                return [] if above is None else [above]
            case "ancestor":
                return self.ancestors(node)
            case "ancestor-or-self":
                return [node, *self.ancestors(node)]
            case "following-sibling":
                return self.siblings(node, after=True)
            case "preceding-sibling":
                return self.siblings(node, after=False)
            case "attribute":
                return list(self.attributes(node))
            case "following" | "preceding":
                return list(self.along(node, axis))
            case _:
                return []

    def along(self, node: int, axis: str) -> Iterator[int]:
        """The same one by one, so that whoever needs only the first need not wait for the last."""
        if axis not in ("following", "preceding"):
            yield from self.axis(node, axis)
            return
        after = axis == "following"
        if self.is_attribute(node):
            node = self.owner(node)
            if after:
                yield from self.descendants(node)
        for at in [node, *self.ancestors(node)]:
            for sibling in self.siblings(at, after):
                inside = [sibling, *self.descendants(sibling)]
                yield from inside if after else reversed(inside)

    def fits(self, node: int, test: str, axis: str) -> bool:
        """The node test. Names have no case on HTML's own elements, and never match others (SVG), as browsers have it."""
        if test == "node()":
            return True
        if test == "text()":
            return self.is_text(node) and not self.page.text_comment[node - self.elements]
        if test == "comment()":
            return self.is_text(node) and bool(self.page.text_comment[node - self.elements])
        if test == "processing-instruction()":
            return False
        if axis == "attribute":
            if not self.is_attribute(node):
                return False
            if test == "*":
                return True
            name = self.page.strings[self.page.attr_name[node - self.first_attribute]]
            if self.page.namespace[self.owner(node)] == HTML:
                return name == test.lower()
            return name == test and name != "xmlns"  # a namespace declaration is no attribute to XPath
        if not self.is_element(node):
            return False
        return test == "*" or (self.page.tags[node] == test.lower() and self.page.namespace[node] == HTML)

    def name(self, node: int) -> str:
        if self.is_element(node):
            return self.page.tags[node]
        if self.is_attribute(node):
            return self.page.strings[self.page.attr_name[node - self.first_attribute]]
        return ""

    def size(self, node: int) -> int:
        """How many nodes its string value is made of, about."""
        if node < 0:
            return self.texts
        return int(self.page.text_end[node] - self.page.text_start[node]) if node < self.elements else 1

    def string(self, node: int) -> str:
        """The string value: text of an element and all in it, without regard to what is shown."""
        text = self._strings.get(node)
        if text is None:
            text = self._strings[node] = self._string(node)
        return text

    def _string(self, node: int) -> str:
        page = self.page
        if self.is_element(node):
            return page.semantics.raw_text(node)
        if self.is_text(node):
            return page.text_values[node - self.elements]
        if self.is_attribute(node):
            return page.strings[page.attr_value[node - self.first_attribute]]
        return "".join(
            page.text_values[n - self.elements]
            for n in self.descendants(node)
            if self.is_text(n) and not page.text_comment[n - self.elements]
        )
