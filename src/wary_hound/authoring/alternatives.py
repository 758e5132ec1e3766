"""Alternatives: what may stand behind `else`, to find the element when what stands before it does not."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
import numpy.typing as npt

from wary_hound.authoring.question import Question
from wary_hound.authoring.signs import names_a_part
from wary_hound.authoring.taste import DIGESTED
from wary_hound.authoring.weakness import NEARNESS, STEMS, TELLING, is_plain, is_weak
from wary_hound.locator.kinds.kind import around
from wary_hound.page import Element, Page
from wary_hound.page.text import fold
from wary_hound.robustness.dependence import dependencies
from wary_hound.robustness.dependency import SEEN, Dependency
from wary_hound.robustness.looks import PASSED_ON
from wary_hound.robustness.model import key_of
from wary_hound.robustness.survival import Futures, fate_of

if TYPE_CHECKING:
    from wary_hound.authoring.ranking import Candidate

LEAST_ALIKE, ALIKE = 0.005, 0.1
"""Candidates whose expected loss is within the best's uncertainty, at least and at most so much, last alike: taste decides."""
AHEAD = 3
"""Alternatives are chosen for so many releases ahead at least: their worth shows when the first way is gone."""
CLOSE = 10
"""A holder of so many elements is as good as a row."""
_PASSING = NEARNESS | {"column-of", "state-attribute"}
_PASSED = PASSED_ON | {"state"}
"""Kinds and looks of facts that another element has when this one has gone, or the same one not any more."""
_WORDING = ("aria-label", "alt", "title", "placeholder", "value")
"""Attributes that an element may have its name from, the first that it has."""
_SAID = SEEN | {"label"}
"""Of one element the same words: a field's label is its name."""
LEAST_GAIN = 0.001
"""In so many futures more must an alternative find the element to be worth its length."""


def alike(doubt: float) -> float:
    """Losses that are no further apart than this last alike, as far as is known."""
    return min(ALIKE, max(LEAST_ALIKE, doubt))


def alternatives(
    first: Candidate, rest: Sequence[Candidate], element: Element, futures: Futures, asked: Question
) -> list[Candidate]:
    """The first and, one after the other, whichever is worth most where all before it fail: what it finds there, less what it
    steals. Of those that are worth alike what an engineer would rather read; of those that tell the element by nothing that one
    before them tells it by.
    """
    at = max(asked.releases, AHEAD) - 1
    other = [_Way.of(candidate, element, futures, at) for candidate in (first, *rest)]
    chosen = [other.pop(0)]
    failed = chosen[0].failed
    while len(chosen) < asked.ways:
        other = [way for way in other if not any(say_the_same(way.told, before.told) for before in chosen)]
        missing = float(failed.mean())
        found = [(way, float((failed & ~way.failed).mean())) for way in other]
        worth = {way: more - asked.stolen_costs * way.stolen * missing for way, more in found if more >= LEAST_GAIN}
        if not worth:
            break
        most, best = max(((gain, way.candidate) for way, gain in worth.items()), key=lambda entry: entry[0])
        equal = [way for way, gain in worth.items() if gain >= most - alike(best.doubt * missing)]
        chosen.append(min(equal, key=lambda way: way.candidate.distaste))
        failed = failed & chosen[-1].failed
    return [way.candidate for way in chosen]


_ITS_CLASS = "its class"
_Told = tuple[frozenset[str], frozenset[tuple[str, str]]]


@dataclass(frozen=True, eq=False, slots=True)
class _Way:
    """A candidate as an alternative: what it tells the element by, in which futures it finds nothing or several, and the expected
    share of thefts, some releases ahead."""

    candidate: Candidate
    told: _Told
    failed: npt.NDArray[np.bool_]
    stolen: float

    @staticmethod
    def of(candidate: Candidate, element: Element, futures: Futures, at: int) -> _Way:
        facts = dependencies(element.page, candidate.locator, element.index)
        fate = fate_of(futures, facts, element.index)
        failed: npt.NDArray[np.bool_] = np.minimum(fate.lost, fate.ambiguous) <= at
        stolen = futures.thefts(key_of(facts, element.index)).likely
        return _Way(candidate, told_by(candidate, element), failed, float(stolen[at]))


def says_itself(candidate: Candidate, element: int, page: Page) -> bool:
    """Whether it says which element is meant by something of the element itself, or by its row or group, and rests on no
    position, no column (the next cell moves into it), no class that a build has changed, no state, no number that goes on to the
    next element when it has gone, not on how a family of names begins, not on an attribute's being there, and not on a mere box
    around it (`div:has(#vega) p`): only such may stand behind `else`."""
    facts = [fact for fact, _ in candidate.outlook.hazards]
    if candidate.weak or any(fact.base in _PASSING or fact.look in _PASSED or fact.kind == DIGESTED for fact in facts):
        return False
    own = [fact for fact in facts if fact.element == element]
    if not is_weak(own, element):
        return True
    if any(fact.kind in ("for~", "having") for fact in own):
        return False
    boxes = {fact.element for fact in facts if fact.kind == "tag"} - {element}
    unnamed = any(is_plain([fact for fact in facts if fact.element == box]) for box in boxes)
    if unnamed and (is_plain(own) or not any(fact.kind == "row-of" for fact in own)):
        return False
    inside = [fact for fact in facts if element < fact.element < page.end[element]]
    if any(fact.base == "class" and names_a_part(fact.value.rpartition("__")[2]) for fact in inside):
        return False
    told = any(f.base in TELLING and f.element != element for f in facts)
    if any((f.kind == "row-of" and told) or (f.kind, f.look) == ("class", "named") for f in own):
        return True
    if any(f.kind == "group-of" for f in own):
        sends = any(f.value == "type=submit" for f in own)  # of which a form has one
        titled = any(f.base in SEEN and f.element != element for f in facts) and not is_plain(own, or_an_item=True)
        return sends or bool(inside) or titled or _is_close(page, element, facts)
    rows = {fact.element for fact in facts if fact.element != element and around(page, fact.element) == "row-of"}
    return any(not is_weak([fact for fact in facts if fact.element == row], row) for row in rows)


def _is_close(page: Page, element: int, facts: Sequence[Dependency]) -> bool:
    """Whether the nearest around an element on which something rests holds little beside it: what else stands there is with it."""
    holders = [fact.element for fact in facts if fact.element < element < page.end[fact.element]]
    return bool(holders) and int(page.end[max(holders)]) - max(holders) <= CLOSE


def say_the_same(said: _Told, other: _Told) -> bool:
    """Whether one tells an element by the same as one before it (`other`): a second way by the same text is none, nor is one by the
    same row, whatever it goes on to ask. The same of the element itself may be said where what it stands in is told by something
    else each time."""
    (own, around), (own_other, around_other) = said, other
    if own and own_other:
        stands, stands_other = ({told for told in one if told[0] != _ITS_CLASS} for one in (around, around_other))
        return bool(own & own_other) and not (stands and stands_other and not stands & stands_other)
    if own and around_other:
        return around_other <= around
    return not own and not own_other and bool(around & around_other)


def told_by(candidate: Candidate, element: Element) -> _Told:
    """What an element is told by: the attributes and words that are its own; and its classes, and what tells what it stands in."""
    own: set[str] = set()
    beside: set[tuple[str, str]] = set()
    for fact, _ in candidate.outlook.hazards:
        kind = fact.base
        if fact.element == element.index and kind in TELLING and fact.kind not in STEMS:
            name = fact.value.partition("=")[0] if "=" in fact.value else kind
            own.update(_said_in(element, kind, fact.value) if kind in _SAID else {name})
        elif kind == "class" or kind in TELLING:
            its = _ITS_CLASS if fact.element == element.index else f"{kind} of {fact.element}"
            beside.add(("words", fact.value) if kind in SEEN else (its, fact.value))
    return frozenset(own), frozenset(beside)


def _said_in(element: Element, kind: str, words: str) -> set[str]:
    """Where an element says some words: in its text, and, where it is called so, in the attribute that gives it the name."""
    if kind in SEEN - {"accessible-name"}:
        return {"text"}
    giving = next((name for name in _WORDING if words in fold(element.attributes.get(name, ""))), "text")
    return {giving, "text"} if words in element.text else {giving}
