"""Books: the file that keeps elements by name, with locators, fingerprints, and where and when they were seen."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from pathlib import Path
from typing import Any

from pydantic import BaseModel, ConfigDict, Field, ValidationError, field_validator

from wary_hound.errors import FileError, NotationError
from wary_hound.files import write_aside
from wary_hound.healing.fingerprint import Fingerprint
from wary_hound.healing.names import Known
from wary_hound.healing.remembering import fingerprint
from wary_hound.healing.witnesses import witnesses, witnesses_at_once
from wary_hound.journey import yaml_text
from wary_hound.locator.typed import typed
from wary_hound.locator.values import Locator
from wary_hound.page import Element

HEADER = "# Elements by name. `remembered` is written by the tool: what each looked like when it was last seen.\n"


class Entry(BaseModel):
    """One element of a book."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    locator: str
    fallbacks: tuple[str, ...] = ()
    about: str = ""
    page: str = ""
    """Snapshot that it was authored on, relative to the book; the book's own where empty."""

    @field_validator("locator", "fallbacks")
    @classmethod
    def _parses(cls, value: str | tuple[str, ...]) -> str | tuple[str, ...]:
        for text in (value,) if isinstance(value, str) else value:
            try:
                typed(text)
            except NotationError as error:
                raise ValueError(str(error)) from None
        return value

    @property
    def main(self) -> Locator:
        """The main locator, parsed."""
        return typed(self.locator)


class Book(BaseModel):
    """A book as a value. `remembered` holds fingerprints by name, with `seen` beside them, as plain JSON."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    book: str
    page: str = ""
    elements: dict[str, Entry]
    """Each an entry, or its locator alone (`name: text{Save}`)."""
    remembered: dict[str, dict[str, Any]] = Field(default_factory=dict)

    @field_validator("elements", mode="before")
    @classmethod
    def _short(cls, value: Any) -> Any:
        if not isinstance(value, dict):
            return value
        return {name: {"locator": entry} if isinstance(entry, str) else entry for name, entry in value.items()}

    @staticmethod
    def read(path: str | Path) -> Book:
        """Read a book. FileError says where it is broken."""
        return parse_book(Path(path))[1]

    def fingerprint(self, name: str) -> Fingerprint | None:
        """What is remembered of an element; None for nothing. FileError where it is broken."""
        data = self.remembered.get(name)
        return Fingerprint.from_json(data) if data else None

    def known(self) -> dict[str, Known]:
        """What is known of each element, by name: for live pages, `browser.open(address, book=book)`."""
        return {name: Known(name, entry.main, self.fingerprint(name)) for name, entry in self.elements.items()}

    def page_of(self, name: str, base: Path) -> Path | None:
        """The snapshot that an element was authored on, where one is named. `base`: the folder of the book."""
        named = self.elements[name].page or self.page
        return base / named if named else None

    def write(self, path: str | Path) -> None:
        """Write a new book file; one that is there is not overwritten (change it in place instead)."""
        target = Path(path)
        if target.exists():
            raise FileError(f"{target}: is there already; a book is changed in place, by repair --apply or by hand")
        text = self.to_yaml()
        book_of(yaml_text.mapping(text, target, "book"), target)
        write_aside({target: text.encode()}, {target: None})

    def to_yaml(self) -> str:
        """The book as the text of a file."""
        lines = [HEADER, f"book: {yaml_text.scalar(self.book)}\n"]
        if self.page:
            lines.append(f"page: {yaml_text.scalar(self.page)}\n")
        lines.append("elements:\n")
        for name, entry in self.elements.items():
            lines.extend(f"  {line}" for line in entry_lines(name, entry).splitlines(keepends=True))
        if self.remembered:
            lines.append("remembered:\n")
            lines.extend(f"  {yaml_text.scalar(name)}: {remembered_line(data)}\n" for name, data in self.remembered.items())
        return "".join(lines)


def entry_lines(name: str, entry: Entry) -> str:
    """An entry as YAML, from the margin on."""
    lines = [f"{yaml_text.scalar(name)}:\n  locator: {yaml_text.scalar(entry.locator)}\n"]
    if entry.fallbacks:
        lines.append("  fallbacks:\n")
        lines.extend(f"    - {yaml_text.scalar(f)}\n" for f in entry.fallbacks)
    if entry.about:
        lines.append(f"  about: {yaml_text.scalar(entry.about)}\n")
    if entry.page:
        lines.append(f"  page: {yaml_text.scalar(entry.page)}\n")
    return "".join(lines)


def parse_book(path: Path) -> tuple[str, Book]:
    """The text of a book file, and the book."""
    text, data = yaml_text.load(path, "book")
    return text, book_of(data, path)


def book_of(data: Mapping[str, Any], path: Path) -> Book:
    """The book that plain values say. `path`: the file that FileError names where they say none."""
    try:
        return Book.model_validate(data)
    except ValidationError as error:
        raise yaml_text.explain_invalid(path, "book", error) from None


def remember(element: Element, at_once: bool = False) -> dict[str, Any]:
    """What a book remembers of an element, as plain JSON: its fingerprint with its witnesses, and when its page was captured.
    `at_once`: with those witnesses that need no search."""
    seen, ways = fingerprint(element), witnesses_at_once(element) if at_once else witnesses(element)
    data = replace(seen, witnesses=tuple(map(str, ways))).to_json()
    facts = element.page.facts
    return {"seen": facts.time, **data} if facts is not None and facts.time else data


def remembered_line(data: Mapping[str, Any]) -> str:
    """What a book remembers of an element, on one line."""
    return yaml_text.flow(data)
