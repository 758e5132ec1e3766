"""What an engineer does not take for a locator at all. What is weak is offered only where nothing else is unique, is marked, and
never stands behind `else`: when its element has gone, it catches whatever is left."""

from __future__ import annotations

import re
from collections.abc import Iterable

from wary_hound.robustness.data import is_count, is_moment
from wary_hound.robustness.dependency import ALONGSIDE, COMMON, CONTACT, DEED, SEEN, SIGNED, Dependency, is_key, row_by
from wary_hound.robustness.looks import MADE_UP, PASSED_ON, SHIFTING, is_sign
from wary_hound.robustness.model import RELATIONS
from wary_hound.robustness.tabular import NAMES

BOXES_AND_WORDS = frozenset("div span p b i em strong small paragraph emphasis".split())
ITEMS = frozenset({"li", "listitem"})
STRUCTURE = frozenset({"inside", "descendant", "child", "sibling", "adjacent"})
TELLING = frozenset(
    """test-attribute id name label accessible-name aria-label for data placeholder text content alt title href value src reference
    aria attribute""".split()
)
"""Facts that say which element is meant; the rest (tags, types, roles, classes, positions) only say what kind it is."""
NEARNESS = frozenset({"adjacent", "sibling", "after", "before", "geometry"})
"""What says only that an element comes next to another one: when it has gone, whatever comes next is found."""
COUNTED = frozenset({"text", "content", "accessible-name", "data", "attribute"})
"""Where a number of the element itself stands there, it is what a test waits to see change, or a position by another name."""
_POSITIONS = frozenset({"place", "ordinal"})
NAMED = frozenset({"accessible-name", "aria-label", "title"})
_STAMPED = SEEN | {"aria-label", "label", "title", "alt", "value", "data", "attribute"}
"""Where a moment of the element itself is data, whatever the element is."""
_CHOSEN = ("aria-selected", "aria-checked", "aria-pressed", "aria-current", "checked", "selected")
"""States that another one of several has as soon as it is chosen."""
_LANDMARKS = {
    "tag": frozenset({"header", "footer", "nav", "aside", "search"}),
    "role": frozenset({"banner", "contentinfo", "navigation", "complementary", "search"}),
}
"""ARIA's landmarks, but for the main part of a page, in which everything stands: an ancestor that is one says where to look."""
_GIVEN = NAMES | {"test-attribute"}
UNTOLD = MADE_UP | {"empty", "number"}
_BEHAVING = re.compile(r"data-(?:[a-z]+-)?(?:toggle|dismiss|role|type|widget|behaviou?r|ride|spy|method|remote)=")
"""Attributes by which a kit tells how an element behaves, as all of its kind do."""
_SWITCHES = frozenset({"true", "false", "on", "off", "auto", "none", "null", "undefined", "", "#"})
"""Attributes that are set or not say a state, not which element; nor does an address that leads nowhere."""
_ANSWERS = re.compile(r"[a-z]|\d{1,2}|yes|no|none|all", re.I)
"""What many fields have for a value: *Y*, *1*, *no*."""
SHORTEST_SAID = 4
"""What a test reads that has fewer letters may well be in other words by chance."""
STEMS = frozenset({"id~", "name~", "for~"})
"""Parts of values that tell a family of elements, and none of them apart."""


def tells_nothing(name: str, value: str) -> bool:
    """Whether what an attribute holds says a state, or an answer, and not which element has it."""
    return value in _SWITCHES or (name == "value" and _ANSWERS.fullmatch(value) is not None)


def is_weak(facts: Iterable[Dependency], element: int, numbered: bool = False) -> bool:
    """Whether nothing that a locator rests on says which element is meant: a bare tag, type, role, class or state, or a position.

    An anchor that says which (a row, a group, an ancestor) is enough. So is a class that nothing else has, or a part of the page of
    which there is one, where more is said of the element than that it is a box or words (`.summary .total`, not `.summary p`). Of
    what stands in a row of a table something must say in which (not `.nights .badge`): the like of it will stand in another.
    Weak wherever they stand are a position, words that are data, a name that is made up, a reference to what has a number, a state
    that is off, and of the element itself any state (`.tab--active`), which the next click changes, and how it looks
    (`.corner-left`). A frame is where to look, and says nothing of what is in it. What is only near something must itself say which
    it is.
    `numbered`: the element may be known by a number (`known_by_number`).
    """
    facts = list(facts)
    holders = {fact.element for fact in facts if fact.kind in ("shadow", "frame")}
    framing = {fact.element for fact in facts if fact.kind == "frame"}
    row = row_by(facts, element)
    said = 0
    for fact in facts:
        said |= saying(fact, element, numbered, row, fact.element in holders, fact.element in framing)
    return is_weak_by(said)


WEAKENS, NEAR, TELLS, OWN, PLACES, KIND, IN_A_ROW, ABOUT, ROWED, COLUMNED = 1, 2, 4, 8, 16, 32, 64, 128, 256, 512
"""What a fact does for a locator: makes it weak, says only what its element is near to, says which is meant, by the element itself,
says in what part of the page it is, or of what kind, is one of what stands in a row of a table, or says which table that is, or
what else is around all of its rows, or in which row it is, but not which of those that are called alike there; or in which
column."""


def is_weak_by(said: int) -> bool:
    """Whether a locator is weak whose facts do this together."""
    if said & (WEAKENS | NEAR):
        return bool(said & WEAKENS) or not said & OWN
    if said & IN_A_ROW and not said & TELLS:
        return said & (ROWED | COLUMNED) != ROWED | COLUMNED  # the like of it will stand in another row
    return not said & ABOUT and not said & TELLS and said & (PLACES | KIND) != PLACES | KIND


def saying(fact: Dependency, element: int, numbered: bool, row: int = -1, holds: bool = False, frames: bool = False) -> int:
    """What one fact does (`WEAKENS` and its kin); `row`: that which the element stands in (see `Dependency.row`); `holds`,
    `frames`: whether what bears it is a host on the way, and a frame."""
    kind = fact.base
    if kind in _POSITIONS or fact.look in SHIFTING or (kind in _GIVEN and fact.look in MADE_UP):
        return WEAKENS
    if fact.kind == "class" and fact.look in MADE_UP and fact.element == element:  # another one when it is built again
        return WEAKENS
    if fact.remark in ((SIGNED, CONTACT) if fact.element == element else (DEED,)):
        return WEAKENS
    if fact.remark == SIGNED:  # what is signed has a title
        return 0
    name = numbered and fact.look == "number" and kind in SEEN and fact.element == element
    name = name or is_key(fact)
    if fact.look == "number" and kind in COUNTED and not name and (fact.element == element or holds):
        return WEAKENS
    if fact.element == element:
        if not numbered and kind in SEEN and is_count(fact.value):
            return WEAKENS
        if kind in _STAMPED and is_moment(fact.value):
            return WEAKENS
        if kind == "state-attribute" or (kind == "class" and fact.look in ("state", "utility")):
            return WEAKENS
    elif kind == "attribute" and is_moment(fact.value):
        return WEAKENS
    elif is_chosen(fact):
        return WEAKENS
    said = (
        (NEAR if kind in NEARNESS else 0)
        | COLUMNED * (kind == "column-of")
        | IN_A_ROW * (fact.element == element and fact.row >= 0)
    )
    if frames or (fact.shared and fact.element != element):
        return said
    if kind == "reference" and fact.look in PASSED_ON:
        return WEAKENS
    attribute, equals, held = fact.value.partition("=")
    sign = kind in SEEN and is_sign(fact.value)
    untold = (fact.look in UNTOLD and not name) or sign or (equals and tells_nothing(attribute, held))
    common = fact.remark in (COMMON, ALONGSIDE) or _BEHAVING.match(fact.value) or (fact.remark == DEED and fact.row >= 0)
    if kind in TELLING and fact.kind not in STEMS and not untold and not common:
        return said | (TELLS | OWN if fact.element == element else TELLS if row >= 0 and fact.row == row else ABOUT)
    if fact.element != element:
        return said | PLACES * ((kind == "class" and fact.look == "named") or is_landmark(fact) or is_component(fact))
    return said | KIND * (not is_plain([fact])) | ROWED * (fact.remark == ALONGSIDE)


def is_chosen(fact: Dependency) -> bool:
    """Whether it is a state that another one of several has as soon as that is chosen, or that is off."""
    return fact.kind == "state-attribute" and (fact.value.endswith("=false") or fact.value.startswith(_CHOSEN))


def is_plain(own: Iterable[Dependency], or_an_item: bool = False) -> bool:
    """Whether an element is told by nothing but that it is a box, or words (`or_an_item`: or one of a list)."""
    said = [fact.value for fact in own if fact.kind not in STRUCTURE and fact.kind not in RELATIONS]
    return all(one.removeprefix("role=") in (BOXES_AND_WORDS | ITEMS if or_an_item else BOXES_AND_WORDS) for one in said)


def is_landmark(fact: Dependency) -> bool:
    """Whether it is a part of a page of which there is one, mostly."""
    return fact.value.removeprefix("role=") in _LANDMARKS[fact.kind] if fact.kind in _LANDMARKS else False


def is_component(fact: Dependency) -> bool:
    """Whether it is the tag of a custom element, which its author called so: that says where to look, as a class does."""
    return fact.kind == "tag" and "-" in fact.value


def rests_on_chance(facts: Iterable[Dependency]) -> bool:
    """Whether it rests on a position, on what comes next to something, or on data: of what is weak, what finds another element, or
    none, the soonest."""
    return any(
        fact.kind in NEARNESS
        or fact.kind in _POSITIONS
        or fact.look in SHIFTING
        or (fact.look == "number" and fact.kind in COUNTED and not is_key(fact))
        or (fact.look == "numbered" and fact.kind in SEEN and is_count(fact.value))
        for fact in facts
    )


def says_what_it_shows(facts: Iterable[Dependency], element: int, text: str) -> bool:
    """Whether a locator rests on the element's own text (a name that is made of it, too, or a title that says the same) or value,
    which is what a test reads or checks; or on what says the same beside it and more (*24 queued*)."""
    facts = list(facts)
    said = [fact for fact in facts if fact.base in SEEN | NAMED and fact.element != element]
    called = [fact.value.partition("=")[2] or fact.value for fact in said if fact.base in NAMED]  # it is what names that
    beside = [fact.value for fact in said if fact.base in SEEN and fact.value != text]
    if (text and text in called) or (len(text) >= SHORTEST_SAID and any(text in value for value in (*called, *beside))):
        return True
    own = {fact.base: fact.value for fact in facts if fact.element == element}
    if {"text", "content", "value"} & own.keys() or ("accessible-name" in own and own["accessible-name"] in text):
        return True
    return bool(text) and any(value.partition("=")[2] == text for value in own.values())
