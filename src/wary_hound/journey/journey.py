"""Journeys: what a user does, step by step, with checks that can fail, and guards for what comes up unasked."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError, field_validator

from wary_hound.errors import FileError, NotationError
from wary_hound.files import write_aside
from wary_hound.journey import yaml_text
from wary_hound.journey.book import Book
from wary_hound.journey.data import Values, places, rows_of
from wary_hound.journey.steps import THE_PAGE, Step
from wary_hound.locator.typed import typed
from wary_hound.locator.values import Locator


class GuardedBy(BaseModel):
    """What comes up unasked, and what to click then. Both name elements of the book, or are locators."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    when: str
    click: str


class Start(BaseModel):
    """Where a journey runs where nobody says otherwise: the address that paths start from, the browser, the size of its window
    (`1280x800`) or a phone."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    base: str = ""
    browser: Literal["", "chromium", "firefox"] = ""
    size: str = ""
    phone: bool = False

    @field_validator("size")
    @classmethod
    def _size(cls, value: str) -> str:
        if value and size_of(value) is None:
            raise ValueError(f"a size is WIDTHxHEIGHT in pixels, such as 1280x800, not {value!r}")
        return value


def size_of(text: str) -> tuple[int, int] | None:
    """Width and height of `1280x800`; None where it is no size."""
    hit = re.fullmatch(r"(\d{2,5})x(\d{2,5})", text)
    return (int(hit[1]), int(hit[2])) if hit else None


class Journey(BaseModel):
    """A user journey: its name, the book whose names it uses, its data, its steps, and guards for what comes up unasked.

    `data`: texts by name, or a table (CSV, XLSX) each row of which is a run; `secrets`: names, with the variable of the environment
    that each comes from; `made_up`: names, with the kind of text (`seed` makes it the same each time). The steps of `after` always
    run. All files are relative to the journey's.
    """

    model_config = ConfigDict(frozen=True, extra="forbid", populate_by_name=True)

    journey: str
    book: str = ""
    """The book file, relative to the journey's."""
    start: Start = Start()
    data: dict[str, str] | str = {}
    made_up: dict[str, str] = Field(default={}, alias="made-up")
    seed: int = 1
    secrets: dict[str, str] = {}
    guards: tuple[GuardedBy, ...] = ()
    before: tuple[Step, ...] = ()
    steps: tuple[Step, ...]
    after: tuple[Step, ...] = ()

    @field_validator("data", "made_up", "secrets", mode="before")
    @classmethod
    def _texts(cls, value: Any) -> Any:
        if not isinstance(value, dict):
            return value
        odd = next((k for k, v in value.items() if isinstance(v, dict | list)), None)
        if odd is not None:
            raise ValueError(f"{odd} is a text")
        return {str(k): str(v) for k, v in value.items()}

    @field_validator("steps", mode="before")
    @classmethod
    def _steps(cls, value: Any) -> Any:
        if not isinstance(value, list | tuple) or not value:
            raise ValueError("a journey has a list of steps")
        return _each_step(value)

    @field_validator("before", "after", mode="before")
    @classmethod
    def _others(cls, value: Any) -> Any:
        return _each_step(value) if isinstance(value, list | tuple) else value

    def rows(self, folder: Path, environment: Mapping[str, str], where: str) -> list[Values]:
        """What `{names}` stand for in each of the runs that its data ask for: see `rows_of`. `folder`: where its file lies."""
        return rows_of(self.data, self.made_up, self.secrets, self.seed, folder, environment, where)

    def read_book(self, folder: Path) -> Book | None:
        """The book that it names, relative to the folder of its file; None where it names none. FileError where it is broken."""
        return Book.read(folder / self.book) if self.book else None

    @property
    def all_steps(self) -> tuple[Step, ...]:
        """Those before, the steps, and those after."""
        return (*self.before, *self.steps, *self.after)

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
        plain = self.model_dump(by_alias=True, exclude_defaults=True, exclude={"before", "steps", "after", "guards"})
        lines = [f"{key}: {yaml_text.scalar(str(plain.pop(key)))}\n" for key in ("journey", "book") if key in plain]
        for key, value in plain.items():
            lines.extend(_block(key, value))
        if self.guards:
            lines.append("guards:\n")
            for guard in self.guards:
                lines.append(f"  - when: {yaml_text.scalar(guard.when)}\n    click: {yaml_text.scalar(guard.click)}\n")
        for key, steps in (("before", self.before), ("steps", self.steps), ("after", self.after)):
            if steps:
                lines.append(f"{key}:\n")
                for step in steps:
                    lines.extend(f"  {line}" for line in step_lines(step))
        return "".join(lines)

    def locators(self, book: Book | None) -> Iterator[tuple[Step, Locator]]:
        """Each step with an element, and its locator. FileError where a name is not in the book and no locator."""
        for number, step in enumerate(self.all_steps, 1):
            if step.on and step.on != THE_PAGE and not places(step):
                yield step, locator_of(step.on, book, f"step {number} of {self.journey!r}")


def _each_step(value: Any) -> tuple[Step, ...]:
    return tuple(step if isinstance(step, Step) else Step.from_plain(step) for step in value)


def _block(key: str, value: Any) -> list[str]:
    """A key and its value as lines, mappings in block style."""
    if not isinstance(value, dict):
        return [f"{key}: {yaml_text.scalar(value) if isinstance(value, str) else yaml_text.flow(value)}\n"]
    inner = [
        f"  {yaml_text.scalar(k)}: {yaml_text.scalar(v) if isinstance(v, str) else yaml_text.flow(v)}\n" for k, v in value.items()
    ]
    return [f"{key}:\n", *inner]


def step_lines(step: Step) -> list[str]:
    """A step as lines of YAML, an item of a list at the margin."""
    parts = [
        f"{key}: {yaml_text.scalar(value) if isinstance(value, str) else yaml_text.flow(value)}\n"
        for key, value in step.to_plain().items()
    ]
    return [f"- {parts[0]}", *(f"  {part}" for part in parts[1:])]


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
