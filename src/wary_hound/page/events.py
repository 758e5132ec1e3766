"""The one walk of a page: its elements, texts and trees in page order.

Whatever goes through a page in order goes by this: what parsing, a capture and a snapshot file say of a page are *events* that
`build` makes a page of; `walk` gives a page's own parts by number, for text, markup, names and XPath. An event is a tuple:

    ("e", tag, namespace or None, [name, value, name, value, ...])    an element begins
    ("/",)                                                            it ends
    ("t", text)   ("c", text)                                         a text, a comment in it
    ("s", mode)   ("f", address)                                      the shadow tree, the frame document it hosts begins
    ("/s",)                                                           that ends
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

from wary_hound.page.build import Builder
from wary_hound.page.facts import Facts
from wary_hound.page.trees import FRAME, SHADOW

if TYPE_CHECKING:
    from wary_hound.page.arena import Page

Event = tuple[Any, ...]
Visit = tuple[str, int]
"""The kind of a part of a page, and its number."""
ELEMENT, END, TEXT, COMMENT, TREE, TREE_END = "element", "end", "text", "comment", "tree", "tree end"


def feed(builder: Builder, events: Iterable[Event]) -> None:
    """Put events into a builder whose top tree is open. ValueError where they do not nest, or are none."""
    for event in events:
        match event:
            case ("t", str(text)):
                builder.text(text)
            case ("/",):
                builder.close()
            case ("e", str(tag), namespace, flat) if namespace is None or namespace in (0, 1, 2):
                builder.open(tag, zip(flat[::2], flat[1::2], strict=True), namespace)
            case ("c", str(text)):
                builder.text(text, comment=True)
            case ("s", str(mode)):
                builder.open_tree(SHADOW, mode=mode)
            case ("f", str(address)):
                builder.open_tree(FRAME, url=address)
            case ("/s",):
                builder.close_tree()
            case _:
                raise ValueError(f"no event of a page: {str(event)[:40]}")


def build(
    events: Iterable[Event],
    url: str = "",
    facts: Facts | None = None,
    notes: tuple[str, ...] = (),
    source: Path | None = None,
) -> Page:
    """The page that events say. PageError where there is no element or too many; ValueError where the events do not nest."""
    builder = Builder()
    builder.open_tree(url=url)
    feed(builder, events)
    builder.close_tree()
    return builder.finish(url=url, facts=facts, notes=notes, source=source)


def walk(page: Page) -> Iterator[Visit]:
    """What a page is made of, in order, each with its number: elements and their ends by index, texts and comments, trees."""
    hosted = {host: tree.number for host, tree in page.hosted.items()}
    return in_order(
        page.index.family.tolist(), page.text_parent.tolist(), page.text_next.tolist(), page.text_comment.tolist(), hosted
    )


def in_order(
    above: Sequence[int],
    text_above: Sequence[int],
    text_next: Sequence[int],
    is_comment: Sequence[bool],
    hosted: Mapping[int, int],
) -> Iterator[Visit]:
    """The walk over plain lists: what each element and text stands in (an element's index, or -1 - a tree's number), the element
    that comes after each text, and the tree that each host holds. Nothing recurses: pages nest deeper than the call stack."""
    texts, at = len(text_next), 0
    open_nodes = [-1]  # elements by index, trees as -1 - number
    yield TREE, 0
    for index in range(len(above) + 1):
        while at < texts and text_next[at] <= index:
            while open_nodes[-1] != text_above[at]:
                yield _end(open_nodes.pop())
            yield COMMENT if is_comment[at] else TEXT, at
            at += 1
        if index == len(above):
            break
        while open_nodes[-1] != above[index]:
            yield _end(open_nodes.pop())
        yield ELEMENT, index
        open_nodes.append(index)
        tree = hosted.get(index)
        if tree is not None:
            yield TREE, tree
            open_nodes.append(-1 - tree)
    while open_nodes:
        yield _end(open_nodes.pop())


def _end(node: int) -> Visit:
    return (END, node) if node >= 0 else (TREE_END, -1 - node)


def events_of(page: Page) -> Iterator[Event]:
    """The events that `build` makes the same page of."""
    strings, starts = page.strings, page.attr_start.tolist()
    names, values, spaces = page.attr_name.tolist(), page.attr_value.tolist(), page.namespace.tolist()
    for kind, number in walk(page):
        if kind is ELEMENT:
            own = range(starts[number], starts[number + 1])
            yield "e", page.tags[number], spaces[number], [strings[s] for a in own for s in (names[a], values[a])]
        elif kind is END:
            yield ("/",)
        elif kind is TREE:
            tree = page.trees[number]
            if tree.host >= 0:
                yield ("s", tree.mode) if tree.kind == SHADOW else ("f", tree.url)
        elif kind is TREE_END:
            if number:
                yield ("/s",)
        else:
            yield "t" if kind is TEXT else "c", page.text_values[number]


def with_attribute(page: Page, element: int, name: str, value: str) -> Page:
    """A copy of a page in which one element has one attribute more; elements keep their indexes."""

    def changed() -> Iterator[Event]:
        index = -1
        for event in events_of(page):
            if event[0] == "e":
                index += 1
                if index == element:
                    kept = [s for n, v in zip(event[3][::2], event[3][1::2], strict=True) if n != name for s in (n, v)]
                    event = (*event[:3], [*kept, name, value])
            yield event

    return build(changed(), page.url, page.facts, page.notes, page.source)


class NodeLists:
    """The nodes of a page by number (elements by index, then texts and comments from `len(page)` on), and their children in
    order: of an element by its index, at the top of a tree by -1 - its number."""

    def __init__(self, page: Page) -> None:
        self.count = len(page)
        self.children: dict[int, list[int]] = {}
        above, text_above = page.index.family.tolist(), page.text_parent.tolist()
        for kind, number in walk(page):
            if kind is ELEMENT:
                self.children.setdefault(above[number], []).append(number)
            elif kind is TEXT or kind is COMMENT:
                self.children.setdefault(text_above[number], []).append(self.count + number)
