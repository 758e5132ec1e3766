"""Journeys: what a user does, step by step, with checks that can fail, and guards for what comes up unasked."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, ValidationError, field_validator, model_validator

from wary_hound.errors import FileError, NotationError
from wary_hound.files import write_aside
from wary_hound.journey import yaml_text
from wary_hound.journey.book import Book
from wary_hound.locator.typed import typed
from wary_hound.locator.values import Locator

Action = Literal["open", "click", "type", "choose", "tick", "untick", "keys", "check"]
Expectation = Literal["shown", "hidden", "gone", "reads", "contains", "counts"]
ACTIONS: tuple[Action, ...] = ("open", "click", "type", "choose", "tick", "untick", "keys", "check")
_ALONE = frozenset({"click", "tick", "untick"})
"""What needs an element and nothing else."""
_WITHOUT = frozenset({"open", "keys"})
"""What needs no element."""


class Step(BaseModel):
    """One action. `on` names an element of the book, or is a locator; `value` is the address, text, option or key."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    action: Action
    on: str = ""
    value: str = ""
    expect: Expectation | None = None
    from_start: bool = False
    """Of a check that something is hidden or gone: it need not have been seen before in this run."""

    @model_validator(mode="after")
    def _whole(self) -> Step:
        if self.action not in _WITHOUT and not self.on:
            raise ValueError(f"{self.action} needs an element")
        if self.action in ("open", "type", "choose", "keys") and not self.value:
            what = {"open": "an address", "keys": "a key"}.get(self.action, "a text")
            raise ValueError(f"{self.action} needs {what}")
        if (self.action == "check") != (self.expect is not None):
            raise ValueError("a check, and only a check, says what is expected")
        if self.expect in ("reads", "contains") and not self.value:
            raise ValueError(f"a check that something {self.expect} needs a text")
        if self.expect == "counts" and not self.value.isdecimal():
            raise ValueError("a check that something counts needs a number")
        if self.from_start and self.expect not in ("hidden", "gone"):
            raise ValueError("only what is hidden or gone can be so from the start")
        return self

    def __str__(self) -> str:
        if self.action == "check":
            expected = f' {self.expect} "{self.value}"' if self.value else f" is {self.expect}"
            return f"check that {self.on}{expected}{' from the start' if self.from_start else ''}"
        if self.action in _WITHOUT:
            return f"{self.action} {self.value}"
        return f'{self.action} "{self.value}" in {self.on}' if self.value else f"{self.action} {self.on}"

    def to_plain(self) -> dict[str, Any]:
        """The step as it stands in a file."""
        if self.action in _WITHOUT:
            return {self.action: self.value}
        if self.action in _ALONE:
            return {self.action: self.on}
        if self.action in ("type", "choose"):
            return {self.action: self.value, "in": self.on}
        expected = {str(self.expect): self.value} if self.value else {"is": str(self.expect)}
        return {"check": self.on, **expected, **({"from": "the start"} if self.from_start else {})}

    @classmethod
    def from_plain(cls, data: Any) -> Step:
        """The inverse of `to_plain`. ValueError says what is wrong."""
        if not isinstance(data, dict):
            raise ValueError("a step is a mapping such as `click: hold-vega`")
        given = {str(k): str(v) for k, v in data.items() if v is not None}
        action = next((k for k in ACTIONS if k in given), None)
        if action is None:
            raise ValueError(f"a step does one of {', '.join(ACTIONS)}, not {', '.join(given) or 'nothing'}")
        rest = {k: v for k, v in given.items() if k != action}
        known = {"type": {"in"}, "choose": {"in"}, "check": {"is", "reads", "contains", "counts", "from"}}
        odd = sorted(set(rest) - known.get(action, set()))
        if odd:
            raise ValueError(f"{action} does not take {odd[0]!r}")
        if action in _WITHOUT:
            return cls(action=action, value=given[action])
        if action in _ALONE:
            return cls(action=action, on=given[action])
        if action == "check":
            since = rest.pop("from", "")
            if since not in ("", "the start"):
                raise ValueError(f"a check holds from the start, or from when it was seen, not from {since!r}")
            if len(rest) != 1:
                raise ValueError("a check takes one of is, reads, contains, counts")
            key, value = next(iter(rest.items()))
            if key == "is" and value not in ("shown", "hidden", "gone"):
                raise ValueError(f"an element is shown, hidden or gone, not {value!r}")
            expect: Any = value if key == "is" else key
            text = "" if key == "is" else value
            return cls(action="check", on=given["check"], expect=expect, value=text, from_start=bool(since))
        word: Any = action
        return cls(action=word, on=rest.get("in", ""), value=given[action])


class GuardedBy(BaseModel):
    """What comes up unasked, and what to click then. Both name elements of the book, or are locators."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    when: str
    click: str


class Journey(BaseModel):
    """A user journey: its name, the book whose names it uses, its steps, and guards for what comes up unasked."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    journey: str
    book: str = ""
    """The book file, relative to the journey's."""
    guards: tuple[GuardedBy, ...] = ()
    steps: tuple[Step, ...]

    @field_validator("steps", mode="before")
    @classmethod
    def _steps(cls, value: Any) -> Any:
        if not isinstance(value, list | tuple) or not value:
            raise ValueError("a journey has a list of steps")
        return tuple(step if isinstance(step, Step) else Step.from_plain(step) for step in value)

    @staticmethod
    def read(path: str | Path) -> Journey:
        """Read a journey. FileError says which step is broken."""
        return parse_journey(Path(path))[1]

    def write(self, path: str | Path) -> None:
        """Write a new journey file; one that is there is not overwritten."""
        target = Path(path)
        if target.exists():
            raise FileError(f"{target}: is there already; change a journey in place")
        write_aside({target: self.to_yaml().encode()}, {target: None})

    def to_yaml(self) -> str:
        """The journey as the text of a file."""
        lines = [f"journey: {yaml_text.scalar(self.journey)}\n"]
        if self.book:
            lines.append(f"book: {yaml_text.scalar(self.book)}\n")
        if self.guards:
            lines.append("guards:\n")
            for guard in self.guards:
                lines.append(f"  - when: {yaml_text.scalar(guard.when)}\n    click: {yaml_text.scalar(guard.click)}\n")
        lines.append("steps:\n")
        for step in self.steps:
            parts = [f"{key}: {yaml_text.scalar(value)}" for key, value in step.to_plain().items()]
            lines.append(f"  - {parts[0]}\n")
            lines.extend(f"    {part}\n" for part in parts[1:])
        return "".join(lines)

    def locators(self, book: Book | None) -> Iterator[tuple[Step, Locator]]:
        """Each step with an element, and its locator. FileError where a name is not in the book and no locator."""
        for number, step in enumerate(self.steps, 1):
            if step.on:
                yield step, locator_of(step.on, book, f"step {number} of {self.journey!r}")


_A_NAME = re.compile(r"[\w -]+\Z")
"""What is taken for a name, although CSS would take it for elements."""


def locator_of(on: str, book: Book | None, where: str) -> Locator:
    """The locator that a name or a locator text means."""
    if book is not None and on in book.elements:
        return book.elements[on].main
    if not _A_NAME.match(on):
        try:
            return typed(on)
        except NotationError as error:
            raise FileError(f"{where}: {error}") from None
    known = f"; the book has {', '.join(list(book.elements)[:8])}" if book is not None else "; the journey names no book"
    raise FileError(f"{where}: no element is named {on!r}{known}")


def parse_journey(path: Path) -> tuple[str, Journey]:
    """The text of a journey file, and the journey."""
    text, data = yaml_text.load(path, "journey")
    try:
        return text, Journey.model_validate(data)
    except ValidationError as error:
        raise yaml_text.explain_invalid(path, "journey", error) from None
