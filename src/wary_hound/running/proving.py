"""Proof of a journey: each action is left out in turn, and what each check expects is broken on the page; which checks notice?"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from wary_hound.browser import capture as capturing
from wary_hound.browser.browser import Browser
from wary_hound.browser.page import LivePage
from wary_hound.errors import FileError
from wary_hound.journey.book import Book
from wary_hound.journey.data import NOTHING, Values
from wary_hound.journey.journey import Journey
from wary_hound.journey.parts import Planned, plan
from wary_hound.journey.steps import THE_PAGE
from wary_hound.locator.evaluate import match
from wary_hound.running.replay import Run, replay

OPENING = 15.0
"""Seconds that a page has to open, whatever the limit of the proof."""
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

    @property
    def noticed(self) -> bool:
        """Whether any step failed."""
        return self.noticed_by > 0


def mutations(journey: Journey, book: Book | None, values: Values, folder: Path) -> list[tuple[Planned, str]]:
    """What is to be done in turn: (step, change)."""
    broken = []
    for planned in plan(journey, book, values, folder):
        step = planned.step
        if planned.section != "steps":
            continue
        if step.action not in KEPT:
            broken.append((planned, "left out"))
        elif step.action == "check":
            broken.append((planned, _breaking(planned)))
    return [entry for entry in broken if entry[1]]


def _breaking(planned: Planned) -> str:
    step = planned.step
    if step.on == THE_PAGE:
        of_page = {"title": "another title", "console": "an error in the console"}
        return of_page.get(str(step.expect), "")
    return {
        "shown": "hidden", "hidden": "shown", "reads": "another text", "contains": "another text",
        "matches": "another text", "counts": "one taken out", "texts": "another text", "holds": "another value",
        "chosen": "nothing chosen", "ticked": "the other state", "unticked": "the other state", "enabled": "disabled",
        "disabled": "enabled", "editable": "not editable",
    }.get(str(step.expect), "")  # fmt: skip


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
    first = _run(journey, book, browser, base, values, folder, max(OPENING, 3 * limit), None)
    if first.failing is not None:
        why = first.failing.message.splitlines()[0]
        raise FileError(f"{journey.journey!r} does not pass as it is (step {first.failing.number}, {first.failing.says}: {why})")
    # What a slow machine has not done yet is nothing that a check has noticed.
    limit = max(limit, *(3 * step.seconds for step in first.steps if not step.says.startswith("open ")), 0.0)
    proven: list[Mutation] = []
    for planned, change in mutations(journey, book, values, folder)[:most]:
        run = _run(journey, book, browser, base, values, folder, limit, (planned, change))
        failing = run.failing
        made = Mutation(planned.number, planned.says, change, failing.number if failing else 0, failing.message if failing else "")
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
    mutation: tuple[Planned, str] | None,
) -> Run:
    left_out, before = None, None
    if mutation is not None and mutation[1] == "left out":
        left_out = mutation[0].number
    elif mutation is not None:
        planned, change = mutation

        def before(live: LivePage, number: int) -> None:
            if number == planned.number:
                _break(live, planned, change)

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


def _break(live: LivePage, planned: Planned, change: str) -> None:
    """Do a change to the page just before its check."""
    if planned.step.on == THE_PAGE:
        live.script(
            {
                "another title": "() => { document.title = 'broken on purpose'; }",
                "an error in the console": "() => { setTimeout(() => { throw new Error('broken on purpose'); }); }",
            }.get(change, "() => 0")
        )
        return
    assert planned.locator is not None
    taken = live._taken()
    matched = match(taken.page, planned.locator.alternatives[0])
    script = capturing.script("break.js")
    for place in matched[:1] if change not in ("another text", "hidden", "shown") else matched:
        context, number = taken.places[place]
        live._connection.call_if_there(context, script, number, change)


def verdict(unnoticed: list[Mutation]) -> tuple[int, int, list[Mutation]]:
    """How many changes were noticed, of how many, and those that were not."""
    missed = [m for m in unnoticed if not m.noticed]
    return len(unnoticed) - len(missed), len(unnoticed), missed
