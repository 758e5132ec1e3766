"""What a person perceives of the elements: visibility, text, role, accessible name, label."""

from __future__ import annotations

import re
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np
import numpy.typing as npt

from wary_hound.page import names, roles

if TYPE_CHECKING:
    from wary_hound.page.arena import Page

NEVER_SHOWN = frozenset(
    {"head", "title", "meta", "link", "style", "script", "template", "noscript", "base", "param", "source", "track",
     "datalist", "area", "col", "colgroup", "desc", "metadata", "defs"}
)  # fmt: skip
BLOCK = frozenset(
    {"address", "article", "aside", "blockquote", "body", "br", "button", "caption", "center", "dd", "details", "dialog",
     "dir", "div", "dl", "dt", "fieldset", "figcaption", "figure", "footer", "form", "h1", "h2", "h3", "h4", "h5", "h6",
     "header", "hgroup", "hr", "html", "iframe", "img", "input", "legend", "li", "main", "menu", "nav", "ol", "optgroup",
     "option", "p", "pre", "search", "section", "select", "summary", "svg", "table", "tbody", "td", "textarea", "tfoot",
     "th", "thead", "tr", "ul", "video"}
)  # fmt: skip
REPLACED = frozenset({"br", "iframe", "img", "input", "select", "svg", "textarea", "video"})
"""Apart from their neighbours although they stand in the line: what they show is no text of the line."""
_SPACE = re.compile(r"\s+")
_HIDING_STYLE = re.compile(r"(?:^|;)\s*(?:display\s*:\s*none|visibility\s*:\s*(?:hidden|collapse))", re.I)


def fold(text: str) -> str:
    """White space as a person sees it: any run of it is one blank, none at the ends."""
    return _SPACE.sub(" ", text).strip()


class Semantics:
    """All lists are in page order, one entry an element; each is computed for the whole page when first asked for."""

    def __init__(self, page: Page) -> None:
        self._page = page
        self._names: dict[int, str] = {}

    # --- visibility ----------------------------------------------------------------------------------------------

    @cached_property
    def rendered(self) -> npt.NDArray[np.bool_]:
        """Not hidden: by the facts where known; else by tag, `hidden`, inline style, closed `details` and `dialog`."""
        page = self._page
        count = len(page)
        hidden = np.zeros(count, np.bool_)
        if page.facts is not None and page.facts.has_boxes:
            hidden[list(page.facts.hidden)] = True
            return ~hidden
        index = page.index
        for tag in NEVER_SHOWN:
            hidden[index.by_tag.get(tag, [])] = True
        hidden[index.having("hidden")] = True
        for i, style in index.attribute_column("style").items():
            if _HIDING_STYLE.search(style):
                hidden[i] = True
        for i, kind in index.attribute_column("type").items():
            if page.tags[i] == "input" and kind.lower() == "hidden":
                hidden[i] = True
        opened = index.attribute_column("open")
        for i in index.by_tag.get("dialog", []):
            hidden[i] |= int(i) not in opened
        for i in index.by_tag.get("details", []):
            if int(i) not in opened:
                for child in page.children(int(i)):
                    hidden[child] |= page.tags[child] != "summary"
        reach = np.zeros(count + 1, np.int32)
        tops = np.flatnonzero(hidden)
        np.add.at(reach, tops, 1)
        np.add.at(reach, page.end[tops], -1)
        return np.cumsum(reach[:-1]) == 0

    @cached_property
    def visible(self) -> npt.NDArray[np.bool_]:
        """Rendered and, where boxes are known, with an area."""
        facts = self._page.facts
        if facts is None or not facts.has_boxes:
            return self.rendered
        with np.errstate(invalid="ignore"):
            area = (facts.boxes[:, 2] > 0) & (facts.boxes[:, 3] > 0)
        return self.rendered & area

    @cached_property
    def exposed(self) -> npt.NDArray[np.bool_]:
        """Rendered, and not taken out of the accessibility tree by `aria-hidden` on it or above it."""
        page = self._page
        tops = [i for i, value in page.index.attribute_column("aria-hidden").items() if value == "true"]
        if not tops:
            return self.rendered
        reach = np.zeros(len(page) + 1, np.int32)
        np.add.at(reach, tops, 1)
        np.add.at(reach, page.end[tops], -1)
        return self.rendered & (np.cumsum(reach[:-1]) == 0)

    # --- text ----------------------------------------------------------------------------------------------------

    @cached_property
    def text(self) -> list[str]:
        """Text of every element: its rendered text nodes, slotted ones included, white space folded, blocks set apart."""
        page = self._page
        streams: list[str] = []
        span: list[tuple[int, int]] = [(0, 0)] * len(page)
        for tree in page.trees:
            streams.append(self._stream(tree.number, streams, span))
        trees = page.tree.tolist()
        return [streams[trees[i]][a:b].strip() for i, (a, b) in enumerate(span)]

    def _stream(self, number: int, streams: list[str], span: list[tuple[int, int]]) -> str:
        """The text of one tree in one string; writes where each element's part begins and ends into `span`."""
        page = self._page
        tags, rendered, ends = page.tags, self.rendered, page.end
        texts, values, nexts = page.index.texts_of, page.text_values, page.text_next
        pieces: list[str] = []
        length, blank = 0, True

        def add(text: str) -> None:
            nonlocal length, blank
            folded = _SPACE.sub(" ", text)
            if blank and folded.startswith(" "):
                folded = folded[1:]
            if folded:
                pieces.append(folded)
                length += len(folded)
                blank = folded.endswith(" ")

        starts = [0]
        pending: list[tuple[int, int]] = []  # text nodes of open elements still to come: (before element, number)

        def flush(before: int) -> None:
            while pending and pending[-1][0] <= before:
                add(values[pending.pop()[1]])

        open_elements: list[int] = []

        def close() -> None:
            nonlocal blank
            done = open_elements.pop()
            base = starts.pop()
            while len(pending) > base:
                add(values[pending.pop()[1]])
            span[done] = (span[done][0], length)
            if tags[done] in BLOCK and not blank:
                add(" ")

        top = texts.get(-1 - number, [])
        pending.extend((int(nexts[t]), t) for t in reversed(top))
        starts = [0]
        for i in page.index.in_tree[number].tolist():
            while open_elements and ends[open_elements[-1]] <= i:
                close()
            flush(i)
            if tags[i] in BLOCK and not blank:
                add(" ")
            span[i] = (length, length)
            open_elements.append(i)
            starts.append(len(pending))
            if rendered[i]:
                if tags[i] == "slot":
                    assigned = self.assigned(i)
                    if assigned:
                        self._slotted(assigned, streams, span, add)
                        continue
                pending.extend((int(nexts[t]), t) for t in reversed(texts.get(i, [])))
        while open_elements:
            close()
        while pending:
            add(values[pending.pop()[1]])
        return "".join(pieces)

    def _slotted(self, assigned: list[int], streams: list[str], span: list[tuple[int, int]], add: object) -> None:
        page = self._page
        assert callable(add)
        for node in assigned:
            if node >= 0:
                a, b = span[node]
                text = streams[page.tree[node]][a:b]
                add(f" {text} " if page.tags[node] in BLOCK else text)
            else:
                add(page.text_values[-1 - node])

    @cached_property
    def own_text(self) -> list[str]:
        """The text nodes directly in each element, folded; parts in child elements left out."""
        page = self._page
        found = [""] * len(page)
        for i, numbers in page.index.texts_of.items():
            if i >= 0:
                found[i] = fold(" ".join(page.text_values[t] for t in numbers))
        return found

    def raw_text(self, index: int) -> str:
        """All text in an element within its tree, as `textContent` has it."""
        page = self._page
        tree = page.tree[index]
        a, b = int(page.text_start[index]), int(page.text_end[index])
        parents = page.text_parent[a:b].tolist()
        return "".join(
            page.text_values[a + k]
            for k, parent in enumerate(parents)
            if parent >= 0 and page.tree[parent] == tree and not page.text_comment[a + k]
        )

    def apart(self, index: int) -> bool:
        """Whether blanks set its words apart from its neighbours': by its style where known, else by its tag."""
        facts = self._page.facts
        style = facts.style.get(index) if facts else None
        return style.apart if style else self._page.tags[index] in BLOCK

    # --- slots ---------------------------------------------------------------------------------------------------

    @cached_property
    def _slots(self) -> dict[int, list[int]]:
        """For each slot of a shadow tree, what is assigned to it: elements (index), texts (-1 - number), in order."""
        page = self._page
        found: dict[int, list[int]] = {}
        for tree in page.trees:
            if tree.kind != "shadow":
                continue
            by_name: dict[str, int] = {}
            for slot in page.index.by_tag.get("slot", []):
                if page.tree[slot] == tree.number:
                    by_name.setdefault(page.attribute(int(slot), "name") or "", int(slot))
            nodes = [(c, 1, c) for c in page.children(tree.host)]
            nodes += [(int(page.text_next[t]), 0, -1 - t) for t in page.index.texts_of.get(tree.host, [])]
            for _, kind, node in sorted(nodes):
                wanted = (page.attribute(node, "slot") or "") if kind else ""
                slot_at = by_name.get(wanted)
                if slot_at is not None and (kind or page.text_values[-1 - node].strip()):
                    found.setdefault(slot_at, []).append(node)
        return found

    def assigned(self, slot: int) -> list[int]:
        return self._slots.get(slot, [])

    # --- roles, names, labels ------------------------------------------------------------------------------------

    @cached_property
    def roles(self) -> list[str]:
        return roles.all_roles(self._page)

    def name(self, index: int) -> str:
        found = self._names.get(index)
        if found is None:
            found = self._names[index] = names.accessible_name(self._page, index)
        return found

    def label(self, index: int) -> str:
        """The text of the labels of a form control (`<label>`, `aria-labelledby`, `aria-label`); empty for others."""
        return names.label(self._page, index)

    @cached_property
    def labels_of(self) -> dict[int, list[int]]:
        """The `<label>` elements of each form control."""
        return names.labels_of(self._page)

    @cached_property
    def text_trees(self) -> npt.NDArray[np.int32]:
        """The tree of each text node."""
        page = self._page
        parent = page.text_parent
        return np.where(parent >= 0, page.tree[np.maximum(parent, 0)], -1 - parent).astype(np.int32)
