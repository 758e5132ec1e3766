"""What the locator layer keeps of a page."""

from __future__ import annotations

from typing import Any

import numpy as np
import numpy.typing as npt

from wary_hound.locator.values import Finder
from wary_hound.page import Page
from wary_hound.page.cache import Bounded, Cache

IntArray = npt.NDArray[np.int32]


class Matches(Cache):
    """What was found on a page, and the tables that finding goes by."""

    def __init__(self, page: Page) -> None:
        super().__init__(page)
        self.finders: Bounded[tuple[Finder, tuple[int, int]], IntArray] = Bounded(50_000)
        """What a finder finds in a scope."""
        self.below: dict[int, list[tuple[int, int]]] = {}
        """The trees that are looked in from a tree on: itself, and all shadow trees below."""
        self.simples: Bounded[tuple[int, Any], IntArray] = Bounded(20_000)
        """What a simple selector matches in a tree."""
        self.truths: Bounded[Any, dict[int, bool]] = Bounded(2_000)
        """Of an XPath predicate, for which nodes it is true."""
        self.tables: dict[str, dict[tuple[int, str], list[int]]] = {}
        """Elements by tree and role, label or text."""
        self.names: dict[tuple[int, str], dict[str, list[int]]] = {}
        """The elements of a role in a tree by name."""
