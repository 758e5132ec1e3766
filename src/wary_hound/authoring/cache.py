"""What the authoring layer keeps of a page."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wary_hound.locator.values import Finder, Hop
from wary_hound.page import Page
from wary_hound.page.cache import Bounded, Cache

if TYPE_CHECKING:
    from wary_hound.authoring.universe import Predicate
    from wary_hound.robustness.survival import Futures


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
        self.headings = [at for at, role in enumerate(page.semantics.roles) if role == "heading"]
        self.stream = ""
        """What the page's random numbers are drawn by, where not by its digest: copies of one page are compared in the same
        futures."""
