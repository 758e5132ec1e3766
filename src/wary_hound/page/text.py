"""What a person reads: texts of elements as they are shown, for names, text locators and tables alike.

White space is folded; what is hidden does not count; a style sheet's letter case and its texts before and after do, and blocks
stand apart from what is beside them.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import TYPE_CHECKING

from wary_hound.page.cache import Cache
from wary_hound.page.events import COMMENT, ELEMENT, END, TEXT, TREE, TREE_END, NodeLists, walk
from wary_hound.page.trees import SHADOW

if TYPE_CHECKING:
    from wary_hound.page.arena import Page

BLOCK = frozenset(
    {"address", "article", "aside", "blockquote", "body", "br", "button", "caption", "center", "dd", "details", "dialog",
     "dir", "div", "dl", "dt", "fieldset", "figcaption", "figure", "footer", "form", "h1", "h2", "h3", "h4", "h5", "h6",
     "header", "hgroup", "hr", "html", "iframe", "img", "input", "legend", "li", "main", "menu", "nav", "ol", "optgroup",
     "option", "p", "pre", "search", "section", "select", "summary", "svg", "table", "tbody", "td", "textarea", "tfoot",
     "th", "thead", "tr", "ul", "video"}
)  # fmt: skip
REPLACED = frozenset({"br", "iframe", "img", "input", "select", "svg", "textarea", "video"})
"""Apart from their neighbours although they stand in the line: what they show is no text of the line."""
SPACE = re.compile(r"\s+")
_DISPLAY = re.compile(r"(?:^|;)\s*display\s*:\s*([a-z-]+)", re.I)


def fold(text: str) -> str:
    """White space as a person sees it: any run of it is one blank, none at the ends."""
    return SPACE.sub(" ", text).strip()


def cased(text: str, case: str) -> str:
    """CSS `text-transform`."""
    if case == "uppercase":
        return text.upper()
    if case == "lowercase":
        return text.lower()
    return re.sub(r"(?<![\w'’])\w", lambda letter: letter[0].upper(), text) if case == "capitalize" else text


class Reading(Cache):
    """How the texts of one page read: pieces, what stands apart, what is in slots."""

    def __init__(self, page: Page) -> None:
        super().__init__(page)
        self.styles = page.facts.style if page.facts else {}
        self.nodes = NodeLists(page)
        self.slots = self._assigned()
        inline = page.index.attribute_column("style")
        self._displays = {i: shown.group(1).lower() for i, style in inline.items() if (shown := _DISPLAY.search(style))}

    def piece(self, text: int) -> str:
        """One text node, in the letter case that it is shown in."""
        page = self.page
        style = self.styles.get(int(page.text_parent[text]))
        return cased(page.text_values[text], style.case) if style and style.case else page.text_values[text]

    def apart(self, index: int) -> bool:
        """Whether blanks set its words apart from its neighbours': by its style where known, else by its tag."""
        style = self.styles.get(index)
        if style is not None:
            return style.apart
        tag = self.page.tags[index]
        display = self._displays.get(index, "") if not self.styles else ""
        return tag in REPLACED or display not in ("inline", "contents") if display else tag in BLOCK

    def before(self, index: int) -> str:
        """What a style sheet puts before its content."""
        style = self.styles.get(index)
        return style.before if style else ""

    def after(self, index: int) -> str:
        """What a style sheet puts after its content."""
        style = self.styles.get(index)
        return style.after if style else ""

    # --- the flat tree: slots show what is assigned to them, hosts show their shadow trees ---------------------------

    def flat_children(self, index: int) -> list[int]:
        """The nodes that are shown in an element, in order: elements by index, texts and comments from `len(page)` on."""
        assigned = self.slots.get(index)
        if assigned:
            return assigned
        hosted = self.page.hosted.get(index)
        at = -1 - hosted.number if hosted is not None and hosted.kind == SHADOW else index
        return self.nodes.children.get(at, [])

    def _assigned(self) -> dict[int, list[int]]:
        """For each slot of a shadow tree, the nodes assigned to it, in order."""
        page, count = self.page, len(self.page)
        slots: dict[int, dict[str, int]] = {}
        names = page.index.attribute_column("name")
        for slot in page.index.by_tag.get("slot", []):
            slots.setdefault(int(page.tree[slot]), {}).setdefault(names.get(int(slot), ""), int(slot))
        wanted = page.index.attribute_column("slot")
        assigned: dict[int, list[int]] = {}
        for number, by_name in slots.items():
            tree = page.trees[number]
            if tree.kind != SHADOW:
                continue
            for node in self.nodes.children.get(tree.host, []):
                says = node < count or (not page.text_comment[node - count] and bool(page.text_values[node - count].strip()))
                slot_of = by_name.get(wanted.get(node, "") if node < count else "")
                if says and slot_of is not None:
                    assigned.setdefault(slot_of, []).append(node)
        return assigned


class _Stream:
    """The text of one tree as it grows, with where each element's part of it begins and ends."""

    def __init__(self) -> None:
        self.pieces: list[str] = []
        self.length = 0
        self.blank = True

    def add(self, text: str) -> None:
        folded = SPACE.sub(" ", text)
        if self.blank and folded.startswith(" "):
            folded = folded[1:]
        if folded:
            self.pieces.append(folded)
            self.length += len(folded)
            self.blank = folded.endswith(" ")

    def part(self) -> None:
        """What comes now stands apart from what was."""
        if not self.blank:
            self.add(" ")


def texts_of(page: Page, generated: bool = True) -> list[str]:
    """The text of every element, in page order: its rendered text nodes, slotted ones included; with what style sheets put before
    and after, unless that is not wanted."""
    reading = Reading.of(page)
    by_tree: list[list[tuple[str, int]]] = [[] for _ in page.trees]
    open_trees: list[int] = []
    for kind, number in walk(page):
        if kind is TREE:
            open_trees.append(number)
        elif kind is TREE_END:
            open_trees.pop()
        elif kind is not COMMENT:
            by_tree[open_trees[-1]].append((kind, number))
    spans = [(0, 0)] * len(page)
    streams: list[str] = []
    for tree in page.trees:  # a host's tree comes before the tree that it hosts, whose slots show parts of it
        streams.append(_stream(reading, by_tree[tree.number], streams, spans, generated))
    trees = page.tree.tolist()
    return [streams[trees[i]][a:b].strip() for i, (a, b) in enumerate(spans)]


def _stream(
    reading: Reading, nodes: list[tuple[str, int]], streams: list[str], spans: list[tuple[int, int]], generated: bool
) -> str:
    """The text of one tree; writes where each element's part of it begins and ends into `spans`."""
    page = reading.page
    rendered, tags = page.semantics.rendered.tolist(), page.tags
    above = page.text_parent.tolist()
    stream = _Stream()
    unused = 0  # elements open of which the first is a slot that shows what is assigned to it instead
    for kind, number in nodes:
        if kind is TEXT:
            if not unused and (above[number] < 0 or rendered[above[number]]):
                stream.add(reading.piece(number))
        elif kind is ELEMENT:
            if reading.apart(number):
                stream.part()
            spans[number] = (stream.length, stream.length)
            if unused:
                unused += 1
            elif rendered[number]:
                stream.add(reading.before(number) if generated else "")
                if tags[number] == "slot" and number in reading.slots:
                    unused = 1
                    _slotted(reading, reading.slots[number], streams, spans, stream)
        elif kind is END:
            if unused > 1:
                unused -= 1
            else:
                unused = 0
                if rendered[number]:
                    stream.add(reading.after(number) if generated else "")
            spans[number] = (spans[number][0], stream.length)
            if reading.apart(number):
                stream.part()
    return "".join(stream.pieces)


def _slotted(reading: Reading, nodes: list[int], streams: list[str], spans: list[tuple[int, int]], stream: _Stream) -> None:
    page, count = reading.page, len(reading.page)
    for node in nodes:
        if node < count:
            start, end = spans[node]
            text = streams[page.tree[node]][start:end]
            stream.add(f" {text} " if reading.apart(node) else text)
        elif not page.text_comment[node - count]:
            stream.add(reading.piece(node - count))


def own_texts_of(page: Page) -> list[str]:
    """The text nodes directly in each element, folded; parts in child elements left out."""
    reading = Reading.of(page)
    own = [""] * len(page)
    for index, numbers in page.index.texts_of.items():
        if index >= 0:
            own[index] = fold(" ".join(map(reading.piece, numbers)))
    return own


def raw_text(page: Page, index: int) -> str:
    """All text in an element within its tree, as `textContent` has it."""
    return "".join(page.text_values[number] for number in _raw(page, index))


def _raw(page: Page, index: int) -> Iterator[int]:
    begin, end, tree = int(page.text_start[index]), int(page.text_end[index]), page.tree[index]
    own = (page.index.text_trees[begin:end] == tree) & ~page.text_comment[begin:end]
    return (begin + k for k in own.nonzero()[0].tolist())
