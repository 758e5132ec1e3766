"""Builds the arena of a page, element by element in page order. Parser and capture both write through this."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from wary_hound.errors import PageError
from wary_hound.page.facts import Facts
from wary_hound.page.trees import DOCUMENT, HTML, MATHML, SVG, Tree

if TYPE_CHECKING:
    from wary_hound.page.arena import Page

MOST_ELEMENTS = 2_000_000
MOST_DEPTH = 20_000
TOO_DEEP = f"elements are nested more than {MOST_DEPTH:,} deep: that is no page that a browser shows"
_BREAKS_OUT = frozenset({"foreignObject", "desc", "title", "annotation-xml"})


class Builder:
    """Collects elements, texts and trees. Call in page order: `open`, hosted tree, children and texts, `close`."""

    def __init__(self) -> None:
        self._numbers: dict[str, int] = {}
        self._names: list[str] = []
        self._parent: list[int] = []
        self._end: list[int] = []
        self._depth: list[int] = []
        self._tree: list[int] = []
        self._tag: list[int] = []
        self._namespace: list[int] = []
        self._attr_start: list[int] = [0]
        self._attr_name: list[int] = []
        self._attr_value: list[int] = []
        self._text_parent: list[int] = []
        self._text_next: list[int] = []
        self._text_comment: list[int] = []
        self._text_values: list[str] = []
        self._text_start: list[int] = []
        self._text_end: list[int] = []
        self._trees: list[Tree] = []
        self._open: list[int] = []
        self._bases: list[tuple[int, int]] = []

    @property
    def count(self) -> int:
        """How many elements there are so far."""
        return len(self._parent)

    def _number(self, text: str) -> int:
        number = self._numbers.get(text)
        if number is None:
            number = self._numbers[text] = len(self._names)
            self._names.append(text)
        return number

    def open_tree(self, kind: str = DOCUMENT, mode: str = "", url: str = "") -> None:
        """Begin the top document, or the tree that the element opened last hosts."""
        host = self._open[-1] if self._open else -1
        if self._trees and (host < 0 or host != self.count - 1 or self._trees[-1].host == host):
            raise ValueError("a tree begins where no element has just begun")
        parent = self._bases[-1][0] if self._bases else -1
        self._trees.append(Tree(len(self._trees), kind, host, parent, self.count, -1, mode, url))
        self._bases.append((len(self._trees) - 1, len(self._open)))

    def close_tree(self) -> None:
        """End the tree that began last. ValueError where an element in it is still open."""
        number, base = self._bases.pop()
        if len(self._open) != base:
            raise ValueError("a tree ends before an element in it does")
        tree = self._trees[number]
        self._trees[number] = replace(tree, end=self.count)

    def open(self, tag: str, attributes: Iterable[tuple[str, str]], namespace: int | None = None) -> int:
        """Begin an element and return its index. Without a namespace, it follows from the tag and what is around it."""
        index = self.count
        tree, base = self._bases[-1]
        parent = self._open[-1] if len(self._open) > base else -1
        if index >= MOST_ELEMENTS:
            raise PageError(f"the page has more than {MOST_ELEMENTS:,} elements: capture a smaller part of it")
        depth = self._depth[parent] + 1 if parent >= 0 else 0
        if depth > MOST_DEPTH:
            raise PageError(TOO_DEEP)
        if namespace is None:
            namespace = self._inherited(tag, parent)
        self._parent.append(parent)
        self._end.append(-1)
        self._depth.append(depth)
        self._tree.append(tree)
        self._tag.append(self._number(tag))
        self._namespace.append(namespace)
        for name, value in attributes:
            self._attr_name.append(self._number(name))
            self._attr_value.append(self._number(value))
        self._attr_start.append(len(self._attr_name))
        self._text_start.append(len(self._text_values))
        self._text_end.append(-1)
        self._open.append(index)
        return index

    def _inherited(self, tag: str, parent: int) -> int:
        if tag == "svg":
            return SVG
        if tag == "math":
            return MATHML
        if parent < 0 or self._namespace[parent] == HTML:
            return HTML
        above = self._names[self._tag[parent]]
        return HTML if above in _BREAKS_OUT else self._namespace[parent]

    def close(self) -> None:
        """End the element that began last. ValueError where none is open in this tree."""
        if not self._bases or len(self._open) <= self._bases[-1][1]:
            raise ValueError("an element ends that has not begun")
        index = self._open.pop()
        self._end[index] = self.count
        self._text_end[index] = len(self._text_values)

    def text(self, value: str, comment: bool = False) -> None:
        """Add a text node or comment to the element opened last."""
        _, base = self._bases[-1]
        self._text_parent.append(self._open[-1] if len(self._open) > base else -1 - self._bases[-1][0])
        self._text_next.append(self.count)
        self._text_comment.append(int(comment))
        self._text_values.append(value)

    def finish(self, url: str = "", facts: Facts | None = None, notes: tuple[str, ...] = (), source: Path | None = None) -> Page:
        """The page. Raises PageError where there is no element, ValueError where something is still open."""
        from wary_hound.page.arena import Page

        if self._open or self._bases:
            raise ValueError("an element or tree does not end")
        if not self._parent:
            raise PageError("the page holds no element: there is nothing to look at")
        arrays = {
            name.lstrip("_"): np.asarray(getattr(self, name), np.int32)
            for name in (
                "_parent", "_end", "_depth", "_tree", "_tag", "_namespace", "_attr_start", "_attr_name", "_attr_value",
                "_text_parent", "_text_next", "_text_comment", "_text_start", "_text_end",
            )
        }  # fmt: skip
        return Page(
            strings=tuple(self._names),
            trees=tuple(self._trees),
            arrays=arrays,
            text_values=tuple(self._text_values),
            url=url,
            facts=facts,
            notes=notes,
            source=source,
        )
