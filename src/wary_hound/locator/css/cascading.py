"""Selectors of style sheets, as the cascade asks for them: what each matches, and how specific it is (Selectors 4, section 17)."""

from __future__ import annotations

from collections.abc import Sequence

from wary_hound.errors import WaryHoundError
from wary_hound.locator.css.matcher import match
from wary_hound.locator.css.parser import parse
from wary_hound.locator.css.values import Attribute, Class, Complex, Id, Matches, Nth, Pseudo, Simple, Type
from wary_hound.page import Page
from wary_hound.page.styling import NOTHING, Specificity, select_by


def selected(page: Page, text: str, tree: int) -> tuple[Sequence[int], Specificity]:
    """The elements of a tree that a selector matches, and its specificity; nothing where it cannot be read."""
    try:
        selectors = parse(text)
        return match(page, selectors, tree).tolist(), specificity(selectors[0])
    except WaryHoundError:
        return NOTHING


def specificity(selector: Complex) -> Specificity:
    """How many ids; classes, attributes and pseudo-classes; tags a selector asks for."""
    return _sum([_of(simple) for compound in selector.compounds for simple in compound.simples])


def _of(simple: Simple) -> Specificity:
    match simple:
        case Id():
            return 1, 0, 0
        case Type("*"):
            return 0, 0, 0
        case Type():
            return 0, 0, 1
        case Matches("where", _):
            return 0, 0, 0
        case Matches(_, selectors):
            return max((specificity(one) for one in selectors), default=(0, 0, 0))
        case Pseudo("element", _):
            return 0, 0, 1
        case Class() | Attribute() | Pseudo():
            return 0, 1, 0
        case Nth(of=of):
            return _sum([(0, 1, 0), max((specificity(one) for one in of), default=(0, 0, 0))])


def _sum(parts: Sequence[Specificity]) -> Specificity:
    return sum(p[0] for p in parts), sum(p[1] for p in parts), sum(p[2] for p in parts)


select_by(selected)
