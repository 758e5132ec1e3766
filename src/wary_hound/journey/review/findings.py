"""What a review says: findings, each by one of the rules."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Literal

Weight = Literal["wrong", "weak", "note"]
WEIGHTS: tuple[Weight, ...] = ("wrong", "weak", "note")


@dataclass(frozen=True, slots=True)
class Rule:
    """What is looked for: how much it weighs, and what it means in a sentence."""

    weight: Weight
    about: str


RULES: dict[str, Rule] = {
    "cannot-fail": Rule("wrong", "The check holds whatever the page shows."),
    "found-by-its-text": Rule("wrong", "The check finds its element by the text that it checks: that text may be anywhere."),
    "says-it-again": Rule("weak", "The check repeats the one before it, and nothing was done in between."),
    "absence-unproven": Rule("wrong", "Something is to be gone or hidden that was never to be seen before."),
    "absence-from-start": Rule("weak", "Something is to be gone from the start, which holds too where its locator is broken."),
    "gone-or-hidden": Rule("wrong", "The page hides the element where it is said to be gone, or the other way round."),
    "nothing-checked": Rule("wrong", "The journey checks nothing."),
    "unchecked-action": Rule("weak", "Nothing is checked behind the last thing that is done."),
    "fixed-wait": Rule("weak", "A wait of a fixed time is too long on most days and too short on one."),
    "not-the-control": Rule("weak", "The click goes to a part of a control, not to the control."),
    "class-for-id": Rule("weak", "A class is used where an id of that name exists."),
    "wildcard": Rule("weak", "A wildcard matches what nobody meant, one day."),
    "absolute-path": Rule("weak", "A path from the top of the page breaks with every wrapper."),
    "position": Rule("weak", "A position finds another element as soon as one is added before it."),
    "styling-class": Rule("weak", "A class that is there for its looks goes with the next design."),
    "generated": Rule("weak", "A generated id or class is another one in the next build."),
    "data-as-locator": Rule("weak", "The text is data: it changes with the day, the user or the step itself."),
    "request-too-wide": Rule("weak", "The pattern catches requests of other hosts, or all of them."),
    "matches-many": Rule("wrong", "The locator finds several elements on the page that it was written on."),
    "matches-nothing": Rule("weak", "The locator finds nothing on the page that it was written on."),
    "two-names": Rule("weak", "Two names stand for one element."),
    "two-elements": Rule("weak", "One name stands for different elements."),
    "says-nothing": Rule("note", "The name says nothing of the element."),
    "dead-entry": Rule("note", "No journey uses this entry of the book."),
    "unused-data": Rule("note", "No step uses these data."),
    "unknown-name": Rule("wrong", "Nothing is known under this name."),
    "repeated-steps": Rule("note", "The same steps stand in several journeys: a part to share."),
    "secret-in-clear": Rule("wrong", "A password stands in the file."),
}


@dataclass(frozen=True, slots=True)
class Place:
    """Where something stands: a file, line and column from 1 (0 where a form has none), and the step or the entry."""

    path: Path
    line: int = 0
    column: int = 0
    what: str = ""

    def __str__(self) -> str:
        where = f"{self.path}:{self.line}" if self.line else str(self.path)
        return f"{where} ({self.what})" if self.what else where


@dataclass(frozen=True, slots=True)
class Finding:
    """A weakness: the `rule`, where it stands, what it is about (the text of a locator, a name), why, and a `better` form where one
    can be said. `fix`: the text that stands at the place now and the one to put there, where that is safe."""

    rule: str
    place: Place
    about: str
    why: str
    better: str = ""
    fix: tuple[str, str] | None = None

    @property
    def weight(self) -> Weight:
        """How much it weighs."""
        return RULES[self.rule].weight
