"""Which locators of a book, and which steps of journeys, the changes between two pages touch."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from wary_hound.healing.relocation import relocate_all
from wary_hound.healing.repair import judge_state, matching
from wary_hound.journey.book import Book
from wary_hound.journey.journey import Journey
from wary_hound.locator.evaluate import match
from wary_hound.page import Page
from wary_hound.robustness.model import ChangeModel

State = Literal["works", "drifted", "broken", "unsure", "gone", "unknown"]


@dataclass(frozen=True, slots=True)
class Touched:
    """What becomes of one locator. `unsure`: where its element is cannot be told; `gone`: the element is; `unknown`: the old page
    does not have it."""

    name: str
    locator: str
    state: State
    trouble: str
    steps: tuple[str, ...] = ()
    """The steps of journeys that use it, each with the journey's name."""


def touched_by(book: Book, journeys: Sequence[Journey], old: Page, new: Page, model: ChangeModel | None = None) -> list[Touched]:
    """What becomes of each locator of a book that finds one element on the old page, or none of it. `model`: as of `relocate`."""
    there = {name: found[0] for name, entry in book.elements.items() if len(found := match(old, entry.main)) == 1}
    verdicts = dict(zip(there, relocate_all([old[i] for i in there.values()], new, model=model), strict=True))
    result = []
    for name, entry in book.elements.items():
        steps = tuple(
            f"{journey.journey}, step {number}: {step}"
            for journey in journeys
            for number, step in enumerate(journey.all_steps, 1)
            if step.on == name
        )
        if name not in there:
            count = len(match(old, entry.main))
            trouble = f"matches {f'{count} elements' if count else 'nothing'} on the old page"
            result.append(Touched(name, entry.locator, "unknown", trouble, steps))
            continue
        verdict = verdicts[name]
        matched = [new[i] for i in match(new, entry.main)]
        state: State = judge_state(matched, verdict)
        trouble = ""
        if verdict.outcome == "gone":
            state, trouble = "gone", "its element is gone" + ("; it matches something else" if matched else "")
        elif verdict.outcome == "unsure" and state != "works":
            state, trouble = "unsure", "it cannot be told which element is the one now"
        elif state != "works":
            trouble = matching(len(matched))
        result.append(Touched(name, entry.locator, state, trouble, steps))
    return result
