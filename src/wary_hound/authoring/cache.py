"""What the authoring layer keeps of a page."""

from __future__ import annotations

from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np
import numpy.typing as npt

from wary_hound.locator.values import Finder, Hop
from wary_hound.page import Page
from wary_hound.page.cache import Bounded, Cache

if TYPE_CHECKING:
    from wary_hound.authoring.universe import Predicate
    from wary_hound.robustness.survival import Futures


UNRANKED = 2
"""The level of a heading that says none (WAI-ARIA, 5.4, `heading`)."""


class Authored(Cache):
    """Futures, ways into trees, and which elements predicates hold of."""

    def __init__(self, page: Page) -> None:
        super().__init__(page)
        self.futures: Bounded[tuple[str, int], Futures] = Bounded(4)
        """By the digest of the model, and the seed."""
        self.ways: Bounded[tuple[int, str], list[tuple[Hop, ...]]] = Bounded(2_000)
        """Hops into the tree of a host, by the digest of the model."""
        self.bits: Bounded[tuple[Finder, int], int] = Bounded(5_000)
        """The elements that a finder finds in a tree, as bits."""
        self.above: Bounded[int, list[Predicate]] = Bounded(500)
        """What can be asked for of an ancestor."""
        self.texts: Bounded[tuple[int, int], list[int]] = Bounded(2_000)
        """The texts that a holder shows, of a tree (`anchors.whole_texts`)."""
        self.twice: Bounded[int, set[str]] = Bounded(2_000)
        """The addresses to which several links of a row lead."""
        self.stream = ""
        """What the page's random numbers are drawn by, where not by its digest: copies of one page are compared in the same
        futures."""

    @cached_property
    def headings(self) -> tuple[npt.NDArray[np.intp], npt.NDArray[np.intp]]:
        """The headings of a page, and the level of each: 1 to 6 and more."""
        page = self.page
        at = [index for index, role in enumerate(page.semantics.roles) if role == "heading"]
        said = [page.attribute(index, "aria-level") or page.tags[index].removeprefix("h") for index in at]
        levels = [int(level) if level.isdecimal() and len(level) < 3 else UNRANKED for level in said]
        return np.asarray(at, np.intp), np.asarray(levels, np.intp)
