"""A page as data: all its trees in one arena.

Elements stand in page order (preorder: an element, then the tree that it hosts, then its children), so an element is an
index, a subtree is the interval `[i, end[i])`, and most questions are NumPy operations on a few arrays.
"""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, Any, overload

import numpy as np
import numpy.typing as npt

from wary_hound.errors import FactsError, LocatorError
from wary_hound.page.facts import Facts
from wary_hound.page.index import Index
from wary_hound.page.trees import DOCUMENT, FRAME, HTML, MATHML, SHADOW, SVG, Tree

if TYPE_CHECKING:
    from wary_hound.page.semantics import Semantics

IntArray = npt.NDArray[np.int32]
__all__ = ["DOCUMENT", "FRAME", "HTML", "MATHML", "SHADOW", "SVG", "Element", "Finding", "Page", "Tree"]


class Finding:
    """Where the notation meets the page: `page/` knows no notation, so the locator layer puts its resolver here.

    `locator/finding.py` does this, once, for `Page.find` and `Page.find_all`; the public face imports it.
    """

    one: Callable[[Page, Any], Element] | None = None
    all: Callable[[Page, Any], list[Element]] | None = None


class Page:
    """One state of a page, whole: all its trees, with frames and shadow trees inside. Immutable.

    Arrays, one entry an element, in page order: `parent` (index in the same tree, -1 at its top), `end`, `depth` (in its
    tree, from 0), `tree`, `tag` (number of a string), `namespace`. Text nodes and comments stand in arrays of their own:
    `text_parent`, `text_next` (index of the element that comes next in page order), `text_comment`, `text_values`.
    """

    def __init__(
        self,
        *,
        strings: tuple[str, ...],
        trees: tuple[Tree, ...],
        arrays: Mapping[str, IntArray],
        text_values: tuple[str, ...],
        url: str = "",
        facts: Facts | None = None,
        notes: tuple[str, ...] = (),
        source: Path | None = None,
    ) -> None:
        for array in arrays.values():
            array.setflags(write=False)
        self.strings = strings
        self.trees = trees
        self.parent = arrays["parent"]
        self.end = arrays["end"]
        self.depth = arrays["depth"]
        self.tree = arrays["tree"]
        self.tag = arrays["tag"]
        self.namespace = arrays["namespace"]
        self.attr_start = arrays["attr_start"]
        self.attr_name = arrays["attr_name"]
        self.attr_value = arrays["attr_value"]
        self.text_parent = arrays["text_parent"]
        self.text_next = arrays["text_next"]
        self.text_comment = arrays["text_comment"].astype(np.bool_)
        self.text_comment.setflags(write=False)
        self.text_start = arrays["text_start"]
        self.text_end = arrays["text_end"]
        self.text_values = text_values
        self.facts = facts
        self.url = url or (facts.url if facts else "")
        self.notes = notes
        self.source = source
        self.caches: dict[type, object] = {}
        """What the layers keep of this page (`Cache.of`)."""

    # --- reading -------------------------------------------------------------------------------------------------

    @staticmethod
    def read(path: str | Path) -> Page:
        """Read a snapshot: an HTML file, with the facts file beside it where there is one.

        Raises PageError where the file cannot be read, is no text or holds no element.
        """
        from wary_hound.page.snapshot import read_page

        return read_page(Path(path))

    @staticmethod
    def parse(html: str, url: str = "") -> Page:
        """Build a page from HTML text, declarative shadow roots and `srcdoc` frames included. Raises PageError if empty."""
        from wary_hound.page.parse import parse_html

        return parse_html(html, url=url)

    def write(self, path: str | Path) -> Path:
        """Write a snapshot (HTML, facts, picture) and return the HTML file's path; nothing is left half written."""
        from wary_hound.page.snapshot import write_page

        return write_page(self, Path(path))

    # --- elements ------------------------------------------------------------------------------------------------

    def __len__(self) -> int:
        return len(self.parent)

    @overload
    def __getitem__(self, index: int) -> Element: ...
    @overload
    def __getitem__(self, index: slice) -> list[Element]: ...
    def __getitem__(self, index: int | slice) -> Element | list[Element]:
        if isinstance(index, slice):
            return [Element(self, i) for i in range(*index.indices(len(self)))]
        number = int(index)
        if number < 0:
            number += len(self)
        if not 0 <= number < len(self):
            raise IndexError(f"element {index} of a page of {len(self)} elements")
        return Element(self, number)

    def __iter__(self) -> Iterator[Element]:
        return (Element(self, i) for i in range(len(self)))

    def __eq__(self, other: object) -> bool:
        return self is other

    def __hash__(self) -> int:
        return id(self)

    @property
    def elements(self) -> list[Element]:
        """All elements in page order."""
        return list(self)

    def find(self, locator: Any) -> Element:
        """The one element that a locator (text or value) finds. NotFound or Ambiguous, with the explanation, otherwise."""
        if Finding.one is None:
            raise LocatorError("no locator language is loaded: import wary_hound, not wary_hound.page alone")
        return Finding.one(self, locator)

    def find_all(self, locator: Any) -> list[Element]:
        """All elements that a locator (text or value) finds, in page order."""
        if Finding.all is None:
            raise LocatorError("no locator language is loaded: import wary_hound, not wary_hound.page alone")
        return Finding.all(self, locator)

    # --- plain questions, by index -------------------------------------------------------------------------------

    def tag_of(self, index: int) -> str:
        """The tag name of an element."""
        return self.strings[self.tag[index]]

    @cached_property
    def tags(self) -> list[str]:
        """The tag names of all elements, in page order."""
        return [self.strings[number] for number in self.tag.tolist()]

    def attributes_of(self, index: int) -> dict[str, str]:
        """The attributes of an element, in their order."""
        start, end = self.attr_start[index], self.attr_start[index + 1]
        strings = self.strings
        return {
            strings[name]: strings[value]
            for name, value in zip(self.attr_name[start:end].tolist(), self.attr_value[start:end].tolist(), strict=True)
        }

    def attribute(self, index: int, name: str) -> str | None:
        """The value of one attribute, or None where the element does not have it."""
        return self.index.attribute_column(name).get(index)

    def children(self, index: int) -> list[int]:
        """Child elements in the same tree."""
        return self.index.children.get(index, [])

    def nested(self, one: int, other: int) -> bool:
        """Whether one of two elements is in the other, across trees that it hosts."""
        return max(one, other) < int(self.end[min(one, other)])

    def ancestors(self, index: int) -> list[int]:
        """Ancestors in the same tree, nearest first."""
        above = []
        at = int(self.parent[index])
        while at >= 0:
            above.append(at)
            at = int(self.parent[at])
        return above

    def hosts(self, index: int) -> list[int]:
        """The shadow hosts and frame elements above the element's tree, outermost first."""
        above = []
        tree = self.trees[self.tree[index]]
        while tree.host >= 0:
            above.append(tree.host)
            tree = self.trees[tree.parent]
        return above[::-1]

    @cached_property
    def hosted(self) -> dict[int, Tree]:
        """The tree that each host (by index) holds."""
        return {tree.host: tree for tree in self.trees if tree.host >= 0}

    @cached_property
    def index(self) -> Index:
        """Inverted indexes of the page, built when first asked for."""
        return Index(self)

    @cached_property
    def semantics(self) -> Semantics:
        """Text, roles, names, labels and visibility of all elements, computed when first asked for."""
        from wary_hound.page.semantics import Semantics

        return Semantics(self)

    @cached_property
    def digest(self) -> str:
        """What tells this page from any other: a digest of its elements, texts and trees."""
        made = hashlib.blake2b(digest_size=16)
        arrays = (self.parent, self.tree, self.tag, self.namespace, self.attr_start, self.attr_name, self.attr_value)
        for array in (*arrays, self.text_parent, self.text_next, self.text_comment):
            made.update(array.tobytes())
        made.update(repr([(tree.kind, tree.host, tree.mode) for tree in self.trees]).encode())
        for texts in (self.strings, self.text_values):
            made.update("\0".join(texts).encode("utf-8", "surrogatepass"))
        return made.hexdigest()

    @property
    def title(self) -> str:
        """The title of the top document."""
        from wary_hound.page.text import raw_text

        titles = [i for i in self.index.by_tag.get("title", []) if self.tree[i] == 0]
        return " ".join(raw_text(self, int(titles[0])).split()) if titles else ""

    @property
    def picture(self) -> Path | None:
        """The screenshot beside the snapshot, where there is one."""
        if self.source is None:
            return None
        path = self.source.with_suffix(".png")
        return path if path.is_file() else None

    def __repr__(self) -> str:
        return f"<Page {self.url or self.source or 'from text'}: {len(self)} elements in {len(self.trees)} trees>"


@dataclass(frozen=True, slots=True)
class Element:
    """One element of a page; it knows its page. Two are equal when they are the same place of the same page."""

    page: Page
    index: int

    @property
    def tag(self) -> str:
        """The tag name; HTML's own in lower case."""
        return self.page.tag_of(self.index)

    @property
    def attributes(self) -> dict[str, str]:
        """Value by name, in their order."""
        return self.page.attributes_of(self.index)

    @property
    def text(self) -> str:
        """Text as a person sees it: white space folded, hidden parts left out, blocks set apart by a blank."""
        return self.page.semantics.text[self.index]

    @property
    def role(self) -> str:
        """The ARIA role, explicit or of the tag; empty where it has none."""
        return self.page.semantics.roles[self.index]

    @property
    def name(self) -> str:
        """The accessible name."""
        return self.page.semantics.name(self.index)

    @property
    def label(self) -> str:
        """The label of a form control; empty for others."""
        return self.page.semantics.label(self.index)

    @property
    def visible(self) -> bool:
        """Shown, by the facts where they are known, else by the markup."""
        return bool(self.page.semantics.visible[self.index])

    @property
    def box(self) -> tuple[float, float, float, float]:
        """Left, top, width, height in CSS pixels from the corner of the top document. FactsError where not known."""
        facts = self.page.facts
        if facts is None or not facts.has_boxes:
            raise FactsError("boxes are not known: this page was read from HTML alone; capture it from a browser")
        return facts.box(self.index)

    @property
    def tree(self) -> Tree:
        """The document, frame document or shadow tree that it stands in."""
        return self.page.trees[self.page.tree[self.index]]

    @property
    def parent(self) -> Element | None:
        """The element that it stands in, in the same tree; None at its top."""
        above = int(self.page.parent[self.index])
        return Element(self.page, above) if above >= 0 else None

    @property
    def children(self) -> list[Element]:
        """Its child elements in the same tree."""
        return [Element(self.page, i) for i in self.page.children(self.index)]

    def __repr__(self) -> str:
        page, index = self.page, self.index
        marks = "".join(f' {k}="{v}"' for k, v in list(page.attributes_of(index).items())[:3])
        return f"<{page.tag_of(index)}{marks}> (element {index})"
