"""What a strategy is. Each is one module that exports one value of a class of this kind; `kinds/__init__.py` lists them."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np
import numpy.typing as npt

from wary_hound.errors import LocatorError
from wary_hound.locator.facts import Fact
from wary_hound.page import Page

IntArray = npt.NDArray[np.int32]
Scope = tuple[int, int]
"""Where to look: the number of a tree, and the element to look inside (-1: the whole tree)."""
Counted = Callable[[Any], int]
"""How many elements a parsed query of the same kind finds where it was asked."""


def around(page: Page, holder: int) -> str:
    """What an element around another is to it, when it is known by what else it holds: its row, or its group."""
    row = page.tags[holder] in ("tr", "li", "option") or page.semantics.roles[holder] in ("row", "listitem", "option", "treeitem")
    return "row-of" if row else "group-of"


@dataclass(frozen=True, slots=True)
class Part:
    """A part of a query in words, and how many elements are left when it has been applied."""

    text: str
    count: int


class Kind(ABC):
    """A strategy: everything that depends on how an expression is written and what it means. `query` is what `parse` gives."""

    name: ClassVar[str]
    quotes: ClassVar[str] = ""
    """Quotes within which braces do not count."""
    escapes: ClassVar[bool] = True
    """Whether a backslash takes the next character as it is."""

    @abstractmethod
    def parse(self, text: str) -> Any:
        """The parsed query, immutable. NotationError, with the column, where it does not parse."""

    @abstractmethod
    def print(self, query: Any) -> str:
        """The text that parses to it."""

    @abstractmethod
    def match(self, page: Page, query: Any, tree: int, scope: int) -> IntArray:
        """The elements of a tree that it finds, in page order; `scope`: the element looked inside, -1 for none."""

    def depends_on_scope(self, query: Any) -> bool:
        """Whether what it finds in an element may be something else than what of its whole tree stands in there."""
        return False

    @abstractmethod
    def parts(self, page: Page, query: Any, scopes: Sequence[Scope], counted: Counted) -> Iterator[Part]:
        """How it narrows, part by part."""

    @abstractmethod
    def weaker(self, page: Page, query: Any, trees: Sequence[int]) -> Iterator[tuple[Any, str]]:
        """Queries that ask for a little less, or for what comes near, each with the change in words."""

    @abstractmethod
    def facts(self, page: Page, query: Any, scope: Scope, target: int) -> Iterator[Fact]:
        """What it rests on to find the element `target`."""

    @abstractmethod
    def says(self, query: Any) -> Iterator[tuple[str, str]]:
        """What it says of its element, to look for what comes near: `tag`, `role`, `class`, `text`, `label`, `name` (the
        accessible one) or `@attribute`, with the value."""

    def unknowable(self, page: Page | None, query: Any) -> str:
        """A state that it asks for and this page as data (None: any that is captured) does not hold; empty where there is none."""
        return ""

    def to_xpath(self, query: Any) -> str:
        """The XPath that finds the same from the root of a tree. LocatorError where there is none."""
        raise LocatorError(f"XPath has no equivalent of {self.name}{{...}}: it does not compute {self.name}s")

    def to_css(self, query: Any) -> str:
        """The selector that finds the same. LocatorError where there is none."""
        raise LocatorError(f"CSS has no equivalent of {self.name}{{...}}: it knows neither texts nor names")

    def to_bidi(self, query: Any) -> dict[str, Any] | None:
        """The locator of W3C WebDriver BiDi, where it has one of this kind."""
        return None
