"""Finders made from plain values or parsed queries; what is printed of them parses back to the same."""

from __future__ import annotations

from typing import Any

from wary_hound.locator.css.values import Selectors
from wary_hound.locator.kinds import KINDS
from wary_hound.locator.values import Finder, Query, RoleQuery, TextQuery
from wary_hound.locator.xpath.values import Expression


def finder(strategy: str, query: Any) -> Finder:
    """A finder of a kind, from the text of its query or from the parsed form. NotationError where a text does not parse."""
    kind = KINDS[strategy]
    if isinstance(query, str):
        return Finder(strategy, Query(query, kind.parse(query)))
    return Finder(strategy, Query(kind.print(query), query))


def css(selector: str | Selectors) -> Finder:
    """`css{...}`, from a selector list as text or parsed."""
    return finder("css", selector)


def xpath(expression: str | Expression) -> Finder:
    """`xpath{...}`, from an expression as text or parsed."""
    return finder("xpath", expression)


def role(name: str, accessible_name: str | None = None, part: bool = False) -> Finder:
    """`role{name "accessible name"}`."""
    return finder("role", RoleQuery(name, None if accessible_name is None else TextQuery(accessible_name, part)))


def text(wanted: str, part: bool = False) -> Finder:
    """`text{...}`: the innermost elements that read so."""
    return finder("text", TextQuery(wanted, part))


def label(wanted: str, part: bool = False) -> Finder:
    """`label{...}`: the form control of that label."""
    return finder("label", TextQuery(wanted, part))
