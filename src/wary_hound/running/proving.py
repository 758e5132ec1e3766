"""Proof of a journey: each action is left out in turn, and what each check expects is broken on the page; which checks notice?"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from wary_hound.browser.browser import Browser
from wary_hound.errors import FileError
from wary_hound.journey.book import Book
from wary_hound.journey.data import NOTHING, Values
from wary_hound.journey.journey import Journey
from wary_hound.journey.parts import Planned, plan
from wary_hound.running.breaking import Breaking, changes_to
from wary_hound.running.replay import Run, replay

OPENING = 15.0
"""Seconds that a page has to open, whatever the limit of the proof."""
LEFT_OUT = "left out"
KEPT = frozenset({"open", "check", "switch", "stub", "go"})
"""What is not left out: where one is, and what is expected."""


@dataclass(frozen=True, slots=True)
class Mutation:
    """A change to be noticed: the step that it is about, what is done, and the step that noticed it (0: none did)."""

    step: int
    says: str
    change: str
    noticed_by: int
    message: str = ""
    tried: bool = True
    """Whether there was anything to change: what was never there cannot be put back."""

    @property
    def noticed(self) -> bool:
        """Whether any step failed."""
        return self.noticed_by > 0

    @property
    def missed(self) -> bool:
        """Whether the change was done and no step failed."""
        return self.tried and not self.noticed


def mutations(journey: Journey, book: Book | None, values: Values, folder: Path) -> list[tuple[Planned, str]]:
    """What is to be done in turn: (step, change)."""
    broken: list[tuple[Planned, str]] = []
    for planned in plan(journey, book, values, folder):
        if planned.section != "steps":
            continue
        if planned.step.action not in KEPT:
            broken.append((planned, LEFT_OUT))
        broken.extend((planned, change) for change in changes_to(planned))
    return broken


def prove(
    journey: Journey,
    book: Book | None,
    browser: Browser,
    *,
    base: str,
    values: Values = NOTHING,
    folder: Path = Path(),
    limit: float = 3.0,
    most: int = 200,
    told: Callable[[Mutation], None] = lambda _: None,
) -> list[Mutation]:
    """Run the journey sound, then once with each change (`most` of them), at a limit of some seconds for each thing. FileError
    where it does not pass when it is sound: nothing can be proven of it then."""
    first = _run(journey, book, browser, base, values, folder, max(OPENING, 3 * limit))
    if first.failing is not None:
        why = first.failing.message.splitlines()[0]
        raise FileError(f"{journey.journey!r} does not pass as it is (step {first.failing.number}, {first.failing.says}: {why})")
    # What a slow machine has not done yet is nothing that a check has noticed.
    limit = max(limit, *(3 * step.seconds for step in first.steps if not step.says.startswith("open ")), 0.0)
    proven: list[Mutation] = []
    for planned, change in mutations(journey, book, values, folder)[:most]:
        breaking = Breaking(planned, change, first, folder)
        left_out = planned.number if change == LEFT_OUT else None
        run = _run(journey, book, browser, base, values, folder, limit, left_out, None if left_out else breaking)
        failing = run.failing
        made = Mutation(
            planned.number, planned.says, change, failing.number if failing else 0, failing.message if failing else "",
            tried=bool(left_out) or breaking.done,
        )  # fmt: skip
        proven.append(made)
        told(made)
    return proven


def _run(
    journey: Journey,
    book: Book | None,
    browser: Browser,
    base: str,
    values: Values,
    folder: Path,
    limit: float,
    left_out: int | None = None,
    before: Breaking | None = None,
) -> Run:
    return replay(
        journey,
        book,
        browser,
        base=base,
        values=values,
        folder=folder,
        limit=limit,
        pictures=False,
        opening=OPENING,
        left_out=left_out,
        before=before,
    )


def verdict(changes: list[Mutation]) -> tuple[int, int, list[Mutation]]:
    """How many changes were noticed, of how many that could be done, and those that were not."""
    tried = [m for m in changes if m.tried]
    missed = [m for m in tried if m.missed]
    return len(tried) - len(missed), len(tried), missed
