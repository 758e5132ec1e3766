"""Locators as immutable values. Printing one gives the notation that parses back to it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any


class Relation(StrEnum):
    """How the wanted element stands to its anchor. The first six are of structure, the others of geometry."""

    ROW_OF = "row-of"
    COLUMN_OF = "column-of"
    INSIDE = "inside"
    AFTER = "after"
    BEFORE = "before"
    GROUP_OF = "group-of"
    OVER = "over"
    UNDER = "under"
    LEFTWARD_OF = "leftward-of"
    RIGHTWARD_OF = "rightward-of"
    CLOSEST_TO = "closest-to"

    @property
    def geometric(self) -> bool:
        """Whether it asks where elements stand on the screen."""
        return self in _GEOMETRIC


_GEOMETRIC = frozenset({Relation.OVER, Relation.UNDER, Relation.LEFTWARD_OF, Relation.RIGHTWARD_OF, Relation.CLOSEST_TO})


ANYWHERE = "anywhere"
"""What stands before a hop that looks in all shadow trees below, too."""


class Boundary(StrEnum):
    """What edge a hop crosses: it finds a frame element or shadow host, and the next hop looks inside."""

    NONE = ""
    FRAME = "frame"
    SHADOW = "shadow"


@dataclass(frozen=True, slots=True)
class Query:
    """What stands between the braces of a finder: as it is written, and parsed. Two are equal where they are written alike."""

    text: str
    tree: Any = field(compare=False, repr=False)
    """The parsed form: what the kind's parser gives, an immutable value."""

    def __str__(self) -> str:
        return self.text

    def __reduce__(self) -> tuple[Any, ...]:
        return Query, (self.text, self.tree)


@dataclass(frozen=True, slots=True)
class Finder:
    """Finds elements in one tree. `strategy` names its kind (`locator.kinds.KINDS`); `ordinal` counts matches from 1 in page
    order, after the relations have narrowed them. Only the anchor of the last relation may have relations of its own (ValueError):
    no text could say anything else."""

    strategy: str
    query: Query
    ordinal: int | None = None
    relations: tuple[Related, ...] = ()
    _hash: int = field(init=False, compare=False, repr=False)

    def __post_init__(self) -> None:
        object.__setattr__(self, "_hash", hash((self.strategy, self.query.text, self.ordinal, self.relations)))
        if any(related.anchor.relations for related in self.relations[:-1]):
            raise ValueError("only the anchor of the last relation may have relations of its own")

    def __hash__(self) -> int:
        return self._hash  # tables of a page are asked by finders again and again

    def __reduce__(self) -> tuple[Any, ...]:
        return Finder, (self.strategy, self.query, self.ordinal, self.relations)  # another process hashes texts otherwise

    @property
    def expression(self) -> str:
        """What stands between its braces."""
        return self.query.text

    def with_anchors(self) -> Iterator[Finder]:
        """The finder itself, then all that it leans on."""
        yield self
        for related in self.relations:
            yield from related.anchor.with_anchors()

    def __str__(self) -> str:
        text = f"{self.strategy}{{{self.query.text}}}"
        if self.ordinal is not None:
            text += f"#{self.ordinal}"
        return text + " and".join(f" {related}" for related in self.relations)


@dataclass(frozen=True, slots=True)
class Related:
    """A relation to an anchor."""

    relation: Relation
    anchor: Finder

    def __str__(self) -> str:
        return f"@{self.relation} {self.anchor}"


@dataclass(frozen=True, slots=True)
class Hop:
    """One finder, and the edge that it crosses. It looks in one tree; where it looks `anywhere`, in each shadow tree below as well,
    open or closed, however deep (not in frames). ValueError for an ordinal there: places are counted in one tree."""

    finder: Finder
    boundary: Boundary = Boundary.NONE
    anywhere: bool = False

    def __post_init__(self) -> None:
        if self.anywhere and self.finder.ordinal is not None:
            raise ValueError("what is looked for anywhere has no ordinal: places are counted in one tree")

    def __str__(self) -> str:
        return " ".join(filter(None, (ANYWHERE * self.anywhere, self.boundary, str(self.finder))))


@dataclass(frozen=True, slots=True)
class Locator:
    """How to find an element: one or more hops; the last finds it. Where that is not exactly one element, `otherwise` does."""

    hops: tuple[Hop, ...]
    otherwise: Locator | None = None

    def __str__(self) -> str:
        return " else ".join(" -> ".join(map(str, each.hops)) for each in self.alternatives)

    @property
    def alternatives(self) -> tuple[Locator, ...]:
        """The ways that it holds, in their order, each without the others."""
        if self.otherwise is None:
            return (self,)
        return (Locator(self.hops), *self.otherwise.alternatives)

    @staticmethod
    def either(first: Locator, *others: Locator) -> Locator:
        """The first of several that finds exactly one element."""
        ways = [way for locator in (first, *others) for way in locator.alternatives]
        made = ways[-1]
        for way in reversed(ways[:-1]):
            made = Locator(way.hops, made)
        return made

    @property
    def last(self) -> Finder:
        """The finder that finds the element."""
        return self.hops[-1].finder


@dataclass(frozen=True, slots=True)
class TextQuery:
    """A text to compare with: whole, or a part of it (`~`). What `text{...}` and `label{...}` parse to."""

    text: str
    part: bool = False

    def fits(self, text: str) -> bool:
        """Whether a text is the one asked for, or holds it."""
        return self.text in text if self.part else self.text == text


@dataclass(frozen=True, slots=True)
class RoleQuery:
    """What stands in `role{...}`: a role, and the accessible name where one is asked for."""

    role: str
    name: TextQuery | None = None
