"""What a person perceives of the elements: visibility, text, role, accessible name, label."""

from __future__ import annotations

from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np
import numpy.typing as npt

from wary_hound.page import names, roles, styling, text
from wary_hound.page.slots import Slots
from wary_hound.page.trees import SHADOW

if TYPE_CHECKING:
    from wary_hound.page.arena import Page

NEVER_SHOWN = frozenset(
    {"head", "title", "meta", "link", "style", "script", "template", "noscript", "base", "param", "source", "track",
     "datalist", "area", "col", "colgroup", "desc", "metadata", "defs"}
)  # fmt: skip


class Semantics:
    """All lists are in page order, one entry an element; each is computed for the whole page when first asked for."""

    def __init__(self, page: Page) -> None:
        self._page = page
        self._names: dict[int, str] = {}

    # --- visibility ----------------------------------------------------------------------------------------------

    @cached_property
    def rendered(self) -> npt.NDArray[np.bool_]:
        """Not hidden: by the facts where known; else by tag, `hidden`, closed `details` and `dialog`, and by its style and that of
        the sheets in the page."""
        page = self._page
        count = len(page)
        hidden = np.zeros(count, np.bool_)
        if page.facts is not None and page.facts.has_boxes:
            hidden[list(page.facts.hidden)] = True
            return ~hidden
        index = page.index
        hidden[index.having("hidden")] = True
        opened = index.attribute_column("open")
        for i in index.by_tag.get("dialog", []):
            hidden[i] |= int(i) not in opened
        display, visibility = styling.styled(page)
        hidden[display != 0] = False  # a sheet of the page's has the last word on what browsers hide
        hidden |= display < 0
        for tag in NEVER_SHOWN:
            hidden[index.by_tag.get(tag, [])] = True
        for i, kind in index.attribute_column("type").items():
            if page.tags[i] == "input" and kind.lower() == "hidden":
                hidden[i] = True
        for i in index.by_tag.get("details", []):
            if int(i) not in opened:
                for child in page.children(int(i)):
                    hidden[child] |= page.tags[child] != "summary"
        return self._inherited(hidden, visibility)

    def _inherited(self, hidden: npt.NDArray[np.bool_], visibility: npt.NDArray[np.int8]) -> npt.NDArray[np.bool_]:
        """What is shown, where nothing of what is hidden is, and visibility is as that of the parent unless said. Parents are
        those of the flat tree: of what is slotted its slot, of a shadow tree its host."""
        page = self._page
        above = page.parent.tolist()
        for top in np.flatnonzero((page.parent < 0) & (page.tree > 0)).tolist():
            above[top] = page.trees[page.tree[top]].host
        slotted = Slots.of(page).of_element
        above = [slotted.get(i, over) for i, over in enumerate(above)]
        shown, seen = (~hidden).tolist(), visibility.tolist()
        for host, tree in page.hosted.items():
            for child in page.children(host) if tree.kind == SHADOW else ():
                shown[child] = shown[child] and child in slotted
        for i, over in enumerate(above):  # what is over an element comes before it in page order
            shown[i] = shown[i] and (over < 0 or shown[over])
            seen[i] = seen[i] or (1 if over < 0 else seen[over])
        return np.asarray(shown, np.bool_) & (np.asarray(seen, np.int8) > 0)

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
        return text.texts_of(self._page)

    @cached_property
    def written(self) -> list[str]:
        """The same without what style sheets put before and after: the words of the document."""
        styles = self._page.facts.style.values() if self._page.facts else ()
        return text.texts_of(self._page, False) if any(one.before or one.after for one in styles) else self.text

    @cached_property
    def worded(self) -> list[str]:
        """What is written in every element; where nothing is, what style sheets say in it."""
        if self.written is self.text:
            return self.text
        return [written or shown for written, shown in zip(self.written, self.text, strict=True)]

    @cached_property
    def own_text(self) -> list[str]:
        """The text nodes directly in each element, folded; parts in child elements left out."""
        return text.own_texts_of(self._page)

    def raw_text(self, index: int) -> str:
        """All text in an element within its tree, as `textContent` has it."""
        return text.raw_text(self._page, index)

    # --- roles, names, labels ------------------------------------------------------------------------------------

    @cached_property
    def roles(self) -> list[str]:
        """The ARIA role of every element; empty where it has none."""
        return roles.all_roles(self._page)

    def name(self, index: int) -> str:
        """The accessible name of an element. LocatorError where the page's names take too much work."""
        name = self._names.get(index)
        if name is None:
            name = self._names[index] = names.accessible_name(self._page, index)
        return name

    def label(self, index: int) -> str:
        """The text of the labels of a form control (`<label>`, `aria-labelledby`, `aria-label`); empty for others."""
        return names.label(self._page, index)

    @cached_property
    def labels_of(self) -> dict[int, list[int]]:
        """The `<label>` elements of each form control."""
        return names.labels_of(self._page)
