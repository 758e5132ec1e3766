"""The trees of a page: documents, frame documents, shadow trees; and the namespaces of elements."""

from __future__ import annotations

from dataclasses import dataclass

HTML, SVG, MATHML = 0, 1, 2
DOCUMENT, FRAME, SHADOW = "document", "frame", "shadow"


@dataclass(frozen=True, slots=True)
class Tree:
    """One document, frame document or shadow tree. Its elements are those of `[start, end)` whose tree number is this."""

    number: int
    kind: str
    host: int
    """Index of the shadow host or frame element; -1 for the top document."""
    parent: int
    """Number of the tree that the host stands in; -1 for the top document."""
    start: int
    end: int
    mode: str = ""
    """`open` or `closed` for a shadow tree."""
    url: str = ""
