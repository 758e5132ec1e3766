"""Parsed CSS selectors as immutable values (Selectors Level 4)."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Type:
    """A type selector; `*` for any."""

    name: str


@dataclass(frozen=True, slots=True)
class Id:
    """`#value`."""

    value: str


@dataclass(frozen=True, slots=True)
class Class:
    """`.value`."""

    value: str


ANY_NAMESPACE = "*|"


@dataclass(frozen=True, slots=True)
class Attribute:
    """`operator` is empty for mere presence; `case` is `i`, `s` or empty (as HTML has it). A name behind `*|` is meant in any
    namespace: `xlink:href` of SVG, too."""

    name: str
    operator: str = ""
    value: str = ""
    case: str = ""


@dataclass(frozen=True, slots=True)
class Pseudo:
    """A pseudo-class without arguments, or with a plain one (`:lang(en, de)`, `:dir(rtl)`)."""

    name: str
    arguments: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Matches:
    """`:is`, `:where`, `:not`, `:has`."""

    name: str
    selectors: tuple[Complex, ...]


@dataclass(frozen=True, slots=True)
class Nth:
    """`:nth-child(an+b of S)` and its kin."""

    name: str
    a: int
    b: int
    of: tuple[Complex, ...] = ()


Simple = Type | Id | Class | Attribute | Pseudo | Matches | Nth


@dataclass(frozen=True, slots=True)
class Compound:
    """Simple selectors that hold of one element."""

    simples: tuple[Simple, ...]


@dataclass(frozen=True, slots=True)
class Complex:
    """Compounds, and the combinator before each. The first is empty, or in a relative selector the one that leads it."""

    combinators: tuple[str, ...]
    compounds: tuple[Compound, ...]


Selectors = tuple[Complex, ...]
"""A selector list."""
