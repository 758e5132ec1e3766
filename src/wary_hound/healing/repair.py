"""Repair: whether a locator still finds its element on a later page, and what it should be if not."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Literal

from wary_hound.authoring.alternatives import ALIKE
from wary_hound.authoring.question import Question
from wary_hound.authoring.ranking import Candidate, language_of, rank
from wary_hound.healing.changes import Change, Pair, align
from wary_hound.healing.fingerprint import Fingerprint
from wary_hound.healing.relocation import Verdict, relocate, relocate_all
from wary_hound.locator.evaluate import as_locator, match
from wary_hound.locator.explain import explain
from wary_hound.locator.finding import find
from wary_hound.locator.values import Locator
from wary_hound.page import Element, Page
from wary_hound.robustness.looks import look_of_token

State = Literal["works", "drifted", "broken"]

KNOWN_PAGES_COUNT = 0.1
"""Expected loss that being right on all known pages makes up for."""
MOST_CANDIDATES = 10
MOST_SAID = 4
ON_BOTH = "right on the old page too"
BY_HAND = "accepted by a person"


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
    failing: str = ""
    """The part of the locator that no longer matches as it did, with how many it matched and matches; empty where not known."""
    around: str = ""
    """What of the element and of what holds it is other than before, in a sentence; empty where that is not known."""

    @property
    def guess(self) -> Candidate | None:
        """What the locator would be if the best guess is right, where the verdict is unsure."""
        return self.candidates[0] if self.state != "works" and self.verdict.outcome == "unsure" and self.candidates else None

    def accepted(self) -> Repair:
        """The same where a person says that the best guess is the element."""
        if self.guess is None:
            return self
        return replace(self, verdict=replace(self.verdict, outcome="moved", reasons=(BY_HAND, *self.verdict.reasons)))

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
        return matching(count)


def matching(count: int) -> str:
    """What is wrong with a locator that matches so many elements, none of them or not only the one it should."""
    return f"matches {count} elements" if count > 1 else "matches another element" if count else "matches nothing"


def repair(locator: Locator | str, old_page: Page, new_page: Page, question: Question | None = None) -> Repair:
    """What became of a locator between two pages. NotFound or Ambiguous where it does not find one on the old page."""
    return repair_all([locator], old_page, new_page, question)[0]


def repair_all(locators: Sequence[Locator | str], old_page: Page, new_page: Page, question: Question | None = None) -> list[Repair]:
    """The same for many locators of one page, which is better: what is surely one element is not another."""
    values = [as_locator(locator) for locator in locators]
    elements = [find(old_page, value) for value in values]
    verdicts = _verdicts_of(elements, new_page, question)
    return [judge(v, verdict, new_page, old, question) for v, verdict, old in zip(values, verdicts, elements, strict=True)]


def _verdicts_of(elements: Sequence[Element], new_page: Page, question: Question | None) -> list[Verdict]:
    """One verdict an element: where several locators name the same one, it is asked for once."""
    unique = list(dict.fromkeys(elements))
    by_element = dict(zip(unique, relocate_all(unique, new_page, model=question.model if question else None), strict=True))
    return [by_element[e] for e in elements]


def judge(
    locator: Locator,
    verdict: Verdict,
    new_page: Page,
    old: Element | Fingerprint | None,
    question: Question | None = None,
    known: Sequence[Page] = (),
) -> Repair:
    """The repair of one locator, given the verdict on its element. `old` is the element on its old page, where known; `known` are
    other pages on which a new locator should find it as well."""
    found = tuple(new_page[i] for i in match(new_page, locator))
    verdict = corroborated(verdict, found)
    state = judge_state(found, verdict)
    candidates: tuple[Candidate, ...] = ()
    if state != "works" and verdict.element is not None and verdict.outcome != "gone":
        candidates = _candidates(locator, verdict.element, _known(old, verdict.element, known), question)
    failing = failing_part(locator, old.page, new_page) if state != "works" and isinstance(old, Element) else ""
    return Repair(locator, state, found, verdict, candidates, failing, _around(old, verdict.element, state))


def corroborated(verdict: Verdict, found: Sequence[Element]) -> Verdict:
    """An element thought gone, whose locator still finds just what is most like it, is in doubt rather than gone."""
    nearest = verdict.alternatives[0] if verdict.alternatives else None
    if verdict.outcome != "gone" or nearest is None or list(found) != [nearest[0]]:
        return verdict
    reasons = (*verdict.reasons, "its locator still finds the one that is most like it")
    return replace(verdict, outcome="unsure", element=nearest[0], confidence=nearest[1], reasons=reasons)


def judge_state(found: Sequence[Element], verdict: Verdict) -> State:
    """The state of a locator that matches some elements, by the verdict on its element."""
    if not found:
        return "broken"
    if verdict.outcome == "gone":
        return "drifted"
    if list(found) == [verdict.element]:
        return "works"
    return "broken" if verdict.element in found else "drifted"


def _known(old: Element | Fingerprint | None, now: Element, pages: Sequence[Page]) -> dict[Page, int]:
    """Where the element is on the pages that are known, the old one first; those on which that is in doubt say nothing."""
    there = {old.page: old.index} if isinstance(old, Element) else {}
    for page in (page for page in pages if page not in there):
        found = relocate(old if old is not None else now, page)
        if found.element is not None and found.outcome in ("same", "moved"):
            there[page] = found.element.index
    return there


def _candidates(locator: Locator, element: Element, known: Mapping[Page, int], question: Question | None) -> tuple[Candidate, ...]:
    """Ranked on the new page; of what lasts alike those first that are right on all known pages, and in the author's language."""
    language = language_of(locator)
    weighed: list[tuple[float, bool, int, Candidate]] = []
    for order, candidate in enumerate(rank(element, replace(question or Question(), ways=1))):
        right = [match(page, candidate.locator) == [index] for page, index in known.items()]
        reasons = (ON_BOTH, *candidate.reasons) if right and right[0] else candidate.reasons
        other = not language or language_of(candidate.locator) != language or candidate.weak
        share = sum(right) / len(right) if right else 0.0
        weighed.append((candidate.loss - KNOWN_PAGES_COUNT * share, other, order, replace(candidate, reasons=reasons)))
    least = min((loss for loss, *_ in weighed), default=0.0) + ALIKE
    weighed.sort(key=lambda entry: (0.0, *entry[1:3]) if entry[0] <= least else (entry[0], False, entry[2]))
    return tuple(candidate for *_, candidate in weighed[:MOST_CANDIDATES])


def failing_part(locator: Locator, old_page: Page, new_page: Page) -> str:
    """The first part of a locator that matched on the old page and matches nothing now; else the first that matches more."""
    if locator.otherwise is not None:
        return ""
    was, now = explain(old_page, locator), explain(new_page, locator)
    grown = ""
    for before, after in zip(was.hops, now.hops, strict=False):
        for step, later in zip(before.steps, after.steps, strict=False):
            if step.count and not later.count:
                return f"{step.text} matches nothing now, {step.count} before"
            if later.count > step.count and not grown:
                grown = f"{later.text} matches {later.count} now, {step.count} before"
        if before.found and not after.found:
            return f"{after.text} as a whole matches nothing now"
    return grown


def _made_up(change: Change) -> bool:
    """Whether a machine made what is other than before: that is worth no word."""
    named = change.kind in ("id", "attribute")
    return named and bool({look_of_token(change.before), look_of_token(change.after)} & {"generated", "hashed"})


def _around(old: Element | Fingerprint | None, now: Element | None, state: State) -> str:
    """What of an element and of its holder changed, in a sentence."""
    if state == "works" or now is None or not isinstance(old, Element):
        return ""
    alignment = align(old.page, now.page)
    said = [str(change) for change in alignment.changes(Pair(old, now, 1.0)) if str(change) and not _made_up(change)]
    holder = alignment.image.get(old.parent) if old.parent is not None else None
    if holder is not None:
        telling = [c for c in alignment.changes(holder) if c.kind in ("tag", "id", "class") and not _made_up(c)]
        said += [f"its parent: {change}" for change in telling]
    return "; ".join(said[:MOST_SAID])


__all__ = ["Repair", "failing_part", "judge", "repair", "repair_all"]
