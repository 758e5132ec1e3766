"""Locators as immutable values. Printing one gives the notation that parses back to it."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum


class Strategy(StrEnum):
    """The kind of a finder."""

    CSS = "css"
    XPATH = "xpath"
    ROLE = "role"
    LABEL = "label"
    TEXT = "text"


class Relation(StrEnum):
    """How the wanted element stands to its anchor. The first five are of structure, the others of geometry."""

    ROW_OF = "row-of"
    INSIDE = "inside"
    AFTER = "after"
    BEFORE = "before"
    GROUP_OF = "group-of"
    RIGHT_OF = "right-of"
    LEFT_OF = "left-of"
    ABOVE = "above"
    BELOW = "below"
    NEAR = "near"

    @property
    def geometric(self) -> bool:
        return self in _GEOMETRIC


_GEOMETRIC = frozenset({Relation.RIGHT_OF, Relation.LEFT_OF, Relation.ABOVE, Relation.BELOW, Relation.NEAR})


class Boundary(StrEnum):
    """What edge a hop crosses: it finds a frame element or shadow host, and the next hop looks inside."""

    NONE = ""
    FRAME = "frame"
    SHADOW = "shadow"


@dataclass(frozen=True, slots=True)
class Finder:
    """Finds elements in one tree. `ordinal` counts matches from 1 in page order, after the relation has narrowed them."""

    strategy: Strategy
    expression: str
    ordinal: int | None = None
    relation: Relation | None = None
    anchor: Finder | None = None

    def __str__(self) -> str:
        text = f"{self.strategy}{{{self.expression}}}"
        if self.ordinal is not None:
            text += f"#{self.ordinal}"
        if self.relation is not None:
            text += f" @{self.relation} {self.anchor}"
        return text


@dataclass(frozen=True, slots=True)
class Hop:
    """One finder within one tree, and the edge that it crosses."""

    finder: Finder
    boundary: Boundary = Boundary.NONE

    def __str__(self) -> str:
        return f"{self.boundary} {self.finder}" if self.boundary else str(self.finder)


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
        return self.hops[-1].finder


@dataclass(frozen=True, slots=True)
class Wanted:
    """A text to compare with: whole, or a part of it (`~`)."""

    text: str
    part: bool = False

    def fits(self, text: str) -> bool:
        return self.text in text if self.part else self.text == text


@dataclass(frozen=True, slots=True)
class RoleExpression:
    """What stands in `role{...}`: a role, and the accessible name where one is asked for."""

    role: str
    name: Wanted | None = None


def css(expression: str) -> Finder:
    return Finder(Strategy.CSS, expression)


def xpath(expression: str) -> Finder:
    return Finder(Strategy.XPATH, expression)


def role(name: str, accessible_name: str | None = None, part: bool = False) -> Finder:
    if accessible_name is None:
        return Finder(Strategy.ROLE, name)
    quoted = accessible_name.replace("\\", "\\\\").replace('"', '\\"')
    return Finder(Strategy.ROLE, f'{name} {"~" if part else ""}"{quoted}"')


def text(wanted: str, part: bool = False) -> Finder:
    return Finder(Strategy.TEXT, _escaped(wanted, part))


def label(wanted: str, part: bool = False) -> Finder:
    return Finder(Strategy.LABEL, _escaped(wanted, part))


def _escaped(wanted: str, part: bool) -> str:
    """Braces of a plain text need a backslash only where they do not nest; a backslash and a leading ~ always do."""
    escaped = wanted.replace("\\", "\\\\")
    depth = 0
    for letter in wanted:
        depth += (letter == "{") - (letter == "}")
        if depth < 0:
            break
    if depth != 0:
        escaped = escaped.replace("{", "\\{").replace("}", "\\}")
    if part:
        return "~" + escaped
    return "\\" + escaped if escaped.startswith("~") else escaped
