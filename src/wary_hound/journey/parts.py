"""The steps that a journey really does: parts of other journeys put in, data filled in."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

from wary_hound.errors import FileError
from wary_hound.journey.book import Book
from wary_hound.journey.data import Values, fill_text, filled, with_values
from wary_hound.journey.journey import Journey, locator_of
from wary_hound.journey.steps import THE_PAGE, Step
from wary_hound.locator.values import Locator

MOST_DEEP = 8
Section = Literal["before", "steps", "after"]


@dataclass(frozen=True)
class Planned:
    """A step as it is done: with its data, and as it is told (`says`, without them)."""

    number: int
    section: Section
    step: Step
    says: str
    locator: Locator | None
    secret: bool
    """Whether a secret is written by it."""


def plan(journey: Journey, book: Book | None, values: Values, folder: Path) -> list[Planned]:
    """All steps in order. `folder`: where the journey's file lies. FileError says which step is broken."""
    planned: list[Planned] = []
    sections: tuple[tuple[Section, Sequence[Step]], ...] = (
        ("before", journey.before), ("steps", journey.steps), ("after", journey.after),
    )  # fmt: skip
    for section, steps in sections:
        for step, own, inside in _with_parts(steps, values, folder, 0):
            where = f"step {len(planned) + 1} of {journey.journey!r}{inside}"
            done = filled(step, own, where)
            locator = locator_of(done.on, book, where) if done.on and done.on != THE_PAGE else None
            secret = any(s in text for s in own.secrets for text in (done.value, *done.values, str(done.more)))
            planned.append(Planned(len(planned) + 1, section, done, own.hide(str(step)), locator, secret))
    return planned


def _with_parts(steps: Sequence[Step], values: Values, folder: Path, deep: int) -> Iterator[tuple[Step, Values, str]]:
    for step in steps:
        if step.action != "part":
            yield step, values, ""
            continue
        path = folder / step.value
        if deep >= MOST_DEEP:
            raise FileError(f"{path}: parts within parts, more than {MOST_DEEP} deep: one of them has itself as a part")
        part = Journey.read(path)
        where = f"part {step.value}"
        given = {name: fill_text(text, values.texts, where) for name, text in dict(step.more.get("with", {})).items()}
        own = dict(part.data) if isinstance(part.data, dict) else {}
        inner = with_values(values, {**own, **given})
        for one, told, inside in _with_parts(part.all_steps, inner, path.parent, deep + 1):
            yield one, told, f", in {step.value}{inside}"
