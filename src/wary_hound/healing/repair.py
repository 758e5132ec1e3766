"""Repair: whether a locator still finds its element on a later page, and what it should be if not."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

from wary_hound.authoring.question import Question
from wary_hound.authoring.ranking import Candidate, rank
from wary_hound.healing.fingerprint import Fingerprint
from wary_hound.healing.relocation import Verdict, relocate_all
from wary_hound.locator.evaluate import as_locator, match
from wary_hound.locator.finding import find
from wary_hound.locator.values import Locator
from wary_hound.page import Element, Page

State = Literal["works", "drifted", "broken"]

KNOWN_PAGES_COUNT = 0.1
"""Expected loss that being right on the old page too makes up for."""
MOST_CANDIDATES = 10
ON_BOTH = "right on the old page too"


@dataclass(frozen=True, slots=True)
class Repair:
    """What became of one locator. `state`: it still finds its element and it alone (works), it matches something else
    (drifted), or it matches nothing or several (broken). `candidates` is empty where there is nothing to propose."""

    locator: Locator
    state: State
    found: tuple[Element, ...]
    """What the locator matches on the new page."""
    verdict: Verdict
    candidates: tuple[Candidate, ...]

    @property
    def main(self) -> Candidate | None:
        """The proposed new locator; None where it works, or where the element is gone or in doubt."""
        if self.state == "works" or self.verdict.outcome in ("gone", "unsure") or not self.candidates:
            return None
        return self.candidates[0]

    @property
    def trouble(self) -> str:
        """What is wrong, in a few words; empty where it works."""
        if self.state == "works":
            return ""
        count = len(self.found)
        if self.verdict.outcome == "gone":
            return "the element is gone" + ("" if not count else "; the locator matches something else")
        if not count:
            return "matches nothing"
        return f"matches {count} elements" if count > 1 else "matches another element"


def repair(locator: Locator | str, old_page: Page, new_page: Page, question: Question | None = None) -> Repair:
    """What became of a locator between two pages. NotFound or Ambiguous where it does not find one on the old page."""
    return repair_all([locator], old_page, new_page, question)[0]


def repair_all(locators: Sequence[Locator | str], old_page: Page, new_page: Page, question: Question | None = None) -> list[Repair]:
    """The same for many locators of one page, which is better: what is surely one element is not another."""
    values = [as_locator(locator) for locator in locators]
    elements = [find(old_page, value) for value in values]
    verdicts = _verdicts_of(elements, new_page)
    return [judge(v, verdict, new_page, old, question) for v, verdict, old in zip(values, verdicts, elements, strict=True)]


def _verdicts_of(elements: Sequence[Element], new_page: Page) -> list[Verdict]:
    """One verdict an element: where several locators name the same one, it is asked for once."""
    unique = list(dict.fromkeys(elements))
    by_element = dict(zip(unique, relocate_all(unique, new_page), strict=True))
    return [by_element[e] for e in elements]


def judge(
    locator: Locator, verdict: Verdict, new_page: Page, old: Element | Fingerprint | None, question: Question | None = None
) -> Repair:
    """The repair of one locator, given the verdict on its element. `old` is the element on its old page, where known."""
    found = tuple(new_page[i] for i in match(new_page, locator))
    verdict = _corroborated(verdict, found)
    state = _state(found, verdict)
    candidates: tuple[Candidate, ...] = ()
    if state != "works" and verdict.element is not None and verdict.outcome != "gone":
        candidates = _candidates(verdict.element, old if isinstance(old, Element) else None, question)
    return Repair(locator, state, found, verdict, candidates)


def _corroborated(verdict: Verdict, found: Sequence[Element]) -> Verdict:
    """An element thought gone, whose locator still finds just what is most like it, is in doubt rather than gone."""
    nearest = verdict.alternatives[0] if verdict.alternatives else None
    if verdict.outcome != "gone" or nearest is None or list(found) != [nearest[0]]:
        return verdict
    reasons = (*verdict.reasons, "its locator still finds the one that is most like it")
    return replace(verdict, outcome="unsure", element=nearest[0], confidence=nearest[1], reasons=reasons)


def _state(found: Sequence[Element], verdict: Verdict) -> State:
    if not found:
        return "broken"
    if verdict.outcome == "gone":
        return "drifted"
    if list(found) == [verdict.element]:
        return "works"
    return "broken" if verdict.element in found else "drifted"


def _candidates(element: Element, old: Element | None, question: Question | None) -> tuple[Candidate, ...]:
    """Ranked on the new page; those that were right on the old page too come first among what lasts alike."""
    weighed = []
    for candidate in rank(element, replace(question or Question(), ways=1)):
        both = old is not None and match(old.page, candidate.locator) == [old.index]
        reasons = (ON_BOTH, *candidate.reasons) if both else candidate.reasons
        weighed.append((candidate.loss - KNOWN_PAGES_COUNT * both, replace(candidate, reasons=reasons)))
    weighed.sort(key=lambda entry: entry[0])
    return tuple(candidate for _, candidate in weighed[:MOST_CANDIDATES])


__all__ = ["Repair", "judge", "repair", "repair_all"]
