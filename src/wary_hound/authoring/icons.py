"""Icons as what tells a control: by what a person called them, by their part of a sheet, by their outline."""

from __future__ import annotations

import itertools
import re
from collections.abc import Iterator, Mapping

from wary_hound.authoring.predicates import named_classes
from wary_hound.authoring.signs import names_a_part
from wary_hound.locator.css.values import ANY_NAMESPACE, Attribute, Class, Complex, Compound, Matches, Simple
from wary_hound.locator.tables import Tables
from wary_hound.page import Page
from wary_hound.page.roles import NAME_FROM_CONTENT
from wary_hound.page.trees import SHADOW
from wary_hound.robustness.looks import is_sign, look_of_token
from wary_hound.robustness.tabular import CONTROLS

MOST_IN_AN_ICON = 6
SHORTEST_OUTLINE = 12
_OUTLINE = re.compile(r".{12,20}(?=[a-zA-Z ,-])", re.S)
"""So much of the outline of an icon is asked for, up to the end of a number."""
_POINTER = re.compile(r"(?:^|[-_])(?:caret|chevron|angle|arrow|triangle)(?:$|[-_])")
"""Icons that say that something opens, and where."""
_PLACED = re.compile(r"(?:^|[-_])icon[-_](?:left|right|start|end|top|bottom|before|after|prefix|suffix|only)$", re.I)
"""Where an icon stands."""
_ICON = ("icon", "data-icon", "name")
"""Attributes by which elements of libraries name their icon."""
LONGEST_SIGN = 2


def icon_predicates(page: Page, index: int) -> Iterator[Matches]:
    """`:has(.icon-save)`: a control, or a box that is clicked like one, by its icon, by what a person called that; by how its
    outline begins where nobody did. By an arrow that says that it opens something only where it has no other. Not a cell whose
    column has a head: an icon in it says in what state something is."""
    controls = page.semantics.roles[index] in NAME_FROM_CONTENT or _holds_a_control(page, index)
    if Tables.of(page).is_headed(index) or (not controls and not _is_boxed_icon(page, index)):
        return
    named, found = False, list[Class | Attribute]()
    inside = (at for at in range(index + 1, int(page.end[index])) if page.tree[at] == page.tree[index])
    for at in itertools.islice(inside, MOST_IN_AN_ICON):
        attributes = page.attributes_of(at)
        called = [one for one in named_classes(attributes) if not names_a_part(one.value) and not _PLACED.search(one.value)]
        marks: list[Class | Attribute] = [*sorted(called, key=lambda one: len(page.index.by_class.get(one.value, ())))[:1]]
        marks = [next((one for one in called if _is_of_set(mark, one)), mark) for mark in marks]
        marks += [Attribute(name, "=", value) for name in _ICON if look_of_token(value := attributes.get(name, "")) == "named"]
        marks += _drawn_by(page.tags[at], attributes, named or bool(marks))
        named = named or bool(marks)
        found += marks
    for mark in [mark for mark in found if not _POINTER.search(mark.value)] or found:
        yield Matches("has", (Complex((" ",), (Compound((mark,)),)),))


def _holds_a_control(page: Page, index: int) -> bool:
    """Whether a component is one control, as far as anybody sees: that in its shadow tree."""
    if index not in page.hosted or page.hosted[index].kind != SHADOW:
        return False
    tree, roles = page.hosted[index].number, page.semantics.roles
    controls = sum(page.tree[at] == tree and roles[at] in CONTROLS for at in range(index + 1, int(page.end[index])))
    return controls == 1


def _is_boxed_icon(page: Page, index: int) -> bool:
    """Whether a box holds one drawing, and says nothing."""
    if page.tags[index] not in ("div", "span") or page.semantics.worded[index]:
        return False
    inside = range(index + 1, int(page.end[index]))
    return len(inside) <= MOST_IN_AN_ICON and sum(page.tags[at] == "svg" for at in inside) == 1


def _drawn_by(tag: str, attributes: Mapping[str, str], named: bool) -> Iterator[Attribute]:
    """What draws an icon: the part of a sheet of icons; of one that nobody named how its outline begins."""
    for name in ("href", "xlink:href"):
        sheet, hash_sign, part = attributes.get(name, "").partition("#")
        if tag == "use" and part:
            yield Attribute(name.replace("xlink:", ANY_NAMESPACE), "$=" if sheet else "=", hash_sign + part)
    outline = attributes.get("d", "")
    if tag == "path" and not named and len(outline) >= SHORTEST_OUTLINE:
        begins = _OUTLINE.match(outline)
        yield Attribute("d", "^=", begins.group() if begins else outline[:SHORTEST_OUTLINE])


def _is_of_set(name: Simple, other: Class | Attribute) -> bool:
    """Whether a name is that of a set of icons (`bi`), and the other one that of an icon of it (`bi-trash`)."""
    return isinstance(name, Class) and "-" not in name.value and other.value.startswith(f"{name.value}-")


def sign_of(page: Page, index: int) -> str:
    """The sign that is all that a control says: *+*, *×*. Empty where it says more, or nothing."""
    shown = page.semantics.worded[index] if page.semantics.roles[index] in CONTROLS | {"link"} else ""
    return shown if 0 < len(shown) <= LONGEST_SIGN and is_sign(shown) and shown.isprintable() else ""
