"""Reviewing journeys with their books: the rules of all modules here, with places in files, and fixes that are safe."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path

from wary_hound.errors import FileError, PageError, WaryHoundError
from wary_hound.journey import yaml_text
from wary_hound.journey.book import Book, parse_book
from wary_hound.journey.data import places as data_places
from wary_hound.journey.forms import Written
from wary_hound.journey.journey import Journey, locator_of
from wary_hound.journey.reading import read_written
from wary_hound.journey.review.findings import WEIGHTS, Finding, Place
from wary_hound.journey.review.of_locators import better_for, weak_on, weaknesses
from wary_hound.journey.review.of_names import doubled, says_nothing
from wary_hound.journey.review.of_steps import of_steps
from wary_hound.journey.steps import THE_PAGE, Step
from wary_hound.locator.evaluate import match
from wary_hound.locator.values import Locator
from wary_hound.page import Page

SHARED = 3
"""So many steps in a row, the same in several journeys, are a part to share."""


@dataclass
class Reviewed:
    """What a review found, the heaviest first; `journeys` counts them."""

    findings: list[Finding]
    journeys: int
    steps: int


@dataclass
class _Source:
    """A journey's file: where its steps stand."""

    path: Path
    written: Written

    @property
    def journey(self) -> Journey:
        return self.written.journey

    def place(self, at: int) -> Place:
        return Place(self.path, *self.written.places[at], f"step {at + 1}")


@dataclass
class _BookSource:
    path: Path
    book: Book
    document: yaml_text.Document
    used: set[str] = field(default_factory=set)
    pages: dict[Path, Page | None] = field(default_factory=dict)

    def place(self, name: str, *keys: str) -> Place:
        node = self.document.at(("elements", name, *keys)) if keys else None
        if node is None:
            entries = self.document.at(("elements",))
            named = [key for key, _ in (entries.entries if entries is not None else ()) if key is not None and key.value == name]
            node = named[0] if named else None
        return Place(self.path, *self.document.place(node or self.document.root), name)

    def page_of(self, name: str) -> Page | None:
        """The snapshot that an entry was written on, where it is there."""
        path = self.book.page_of(name, self.path.parent)
        if path is None:
            return None
        if path not in self.pages:
            try:
                self.pages[path] = Page.read(path)
            except (PageError, FileError, OSError):
                self.pages[path] = None
        return self.pages[path]


def review(paths: Sequence[Path]) -> Reviewed:
    """Review journeys (in any form) and the books that they use. FileError where one is broken."""
    sources = [_Source(path, written) for path in paths for written in read_written(path)]
    books: dict[Path, _BookSource] = {}
    found: list[Finding] = []
    for source in sources:
        book = _book_of(source, books)
        found.extend(_of_journey(source, book))
    for book in books.values():
        found.extend(_of_book(book))
    found.extend(_shared(sources))
    found.sort(key=lambda f: (WEIGHTS.index(f.weight), str(f.place.path), f.place.line))
    return Reviewed(found, len(sources), sum(len(s.journey.all_steps) for s in sources))


def _book_of(source: _Source, books: dict[Path, _BookSource]) -> _BookSource | None:
    if not source.journey.book:
        return None
    path = source.path.parent / source.journey.book
    if path not in books:
        text, book = parse_book(path)
        books[path] = _BookSource(path, book, yaml_text.Document(text, path))
    return books[path]


def _of_journey(source: _Source, book: _BookSource | None) -> Iterator[Finding]:
    journey = source.journey
    steps = journey.all_steps
    inner = book.book if book is not None else None
    locators: list[Locator | None] = []
    for at, step in enumerate(steps):
        locator = None
        named = [step.on, str(step.more.get("onto", ""))]
        if book is not None:
            book.used.update(name for name in named if name in book.book.elements)
        if step.on and step.on != THE_PAGE and not data_places(step):
            try:
                locator = locator_of(step.on, inner, "")
            except FileError as error:
                yield Finding("unknown-name", source.place(at), step.on, str(error).removeprefix(": "))
        locators.append(locator)
    for guard in journey.guards:
        if book is not None:
            book.used.update(name for name in (guard.when, guard.click) if name in book.book.elements)
    for at, rule, why in of_steps(steps, locators):
        yield Finding(rule, source.place(at), str(steps[at]), why)
    for at, (step, locator) in enumerate(zip(steps, locators, strict=True)):
        if locator is not None and (inner is None or step.on not in inner.elements):
            page = _page_for(book, locator)
            yield from _of_locator(locator, step.on, source.place(at), page, _purpose(step))
        elif locator is not None and book is not None and step.expect in ("gone", "hidden"):
            yield from _confused(source.place(at), step, locator, book)
    own = journey.data if isinstance(journey.data, dict) else {}
    data = [*own, *journey.made_up, *journey.secrets]
    used: set[str] = set().union(*(data_places(step) for step in steps))
    for name in data:
        if name not in used:
            yield Finding("unused-data", Place(source.path, 1, 1, "data"), name, "no step has it in braces")


def _purpose(step: Step) -> str:
    return "check" if step.action == "check" else "click"


def _page_for(book: _BookSource | None, locator: Locator) -> Page | None:
    """The snapshot of a book on which a locator in place finds one element."""
    if book is None:
        return None
    for name in list(book.book.elements)[:1]:
        book.page_of(name)
    for page in book.pages.values():
        if page is not None and len(match(page, locator.alternatives[0])) == 1:
            return page
    return None


def _confused(place: Place, step: Step, locator: Locator, book: _BookSource) -> Iterator[Finding]:
    """What a page does with an element that is to be gone: one that is there at rest, and hidden, is hidden and not taken out."""
    page = book.page_of(step.on)
    if page is None or step.expect != "gone":
        return
    matched = match(page, locator.alternatives[0])
    if len(matched) == 1 and not page.semantics.visible[matched[0]]:
        why = "its page keeps it in the document and hides it: `gone` never holds there"
        yield Finding("gone-or-hidden", place, step.on, why, "is: hidden", ("gone", "hidden"))


def _of_locator(locator: Locator, text: str, place: Place, page: Page | None, purpose: str) -> Iterator[Finding]:
    told: set[str] = set()
    weak = list(weaknesses(locator))
    if page is not None:
        weak += list(weak_on(locator, page, purpose == "check"))
    for one in weak:
        if one.rule in told:
            continue
        told.add(one.rule)
        better = better_for(locator, page, one.rule, purpose) if page is not None else ""
        # the same element by another locator is a safe change; another element is not
        fix = (text, better) if better and one.rule not in ("not-the-control", "matches-nothing", "matches-many") else None
        yield Finding(one.rule, place, text, f"{one.what}", better, fix)


def _of_book(source: _BookSource) -> Iterator[Finding]:
    book = source.book
    for name, entry in book.elements.items():
        page = source.page_of(name)
        yield from _of_locator(entry.main, entry.locator, source.place(name, "locator"), page, "click")
        if says_nothing(name):
            yield Finding("says-nothing", source.place(name), name, "name it by what people read on it, or by what it does")
        if name not in source.used:
            yield Finding("dead-entry", source.place(name), name, "of the journeys that were reviewed none uses it")
    pages = {name: page for name in book.elements if (page := source.page_of(name)) is not None}
    for name, first in doubled(book, pages):
        yield Finding("two-names", source.place(name), name, f"{first} stands for the same element")
    yield from _two_elements(source)


def _two_elements(source: _BookSource) -> Iterator[Finding]:
    """Names whose memory and whose locator are of different elements: somebody has changed one and not the other."""
    for name, entry in source.book.elements.items():
        page, memory = source.page_of(name), source.book.remembered.get(name)
        if page is None or not memory:
            continue
        try:
            element = page.find(entry.main.alternatives[0])
        except WaryHoundError:
            continue
        said = (memory.get("tag"), memory.get("role", ""))
        if said[0] and said[0] != element.tag and said[1] != (element.role or ""):
            why = f"its locator finds a <{element.tag}>, and what is remembered is a <{said[0]}>"
            yield Finding("two-elements", source.place(name), name, why)


def _shared(sources: Sequence[_Source]) -> Iterator[Finding]:
    """Runs of steps that stand in several journeys."""
    places: dict[tuple[Step, ...], list[tuple[_Source, int]]] = defaultdict(list)
    for source in sources:
        steps = source.journey.all_steps
        for at in range(len(steps) - SHARED + 1):
            places[tuple(steps[at : at + SHARED])].append((source, at))
    told: set[tuple[Path, Path]] = set()
    for where in places.values():
        first, *others = where
        for source, at in others:
            pair = (first[0].path, source.path)
            if source is first[0] or pair in told:
                continue
            told.add(pair)
            why = f"{SHARED} or more steps from here on stand in {first[0].path.name} too"
            yield Finding("repeated-steps", source.place(at), str(source.journey.all_steps[at]), why, "a part: `part: FILE`")


def fixed(findings: Sequence[Finding], texts: Mapping[Path, str]) -> dict[Path, str]:
    """The texts of files with the safe fixes put in. FileError where one cannot be changed without changing more."""
    new = dict(texts)
    for path, text in texts.items():
        document = yaml_text.Document(text, path)
        edits: dict[int, tuple[yaml_text.Node, str]] = {}
        for finding in findings:
            if finding.fix is None or finding.place.path != path:
                continue
            old, fresh = finding.fix
            for node in document.scalars():
                line, _ = document.place(node)
                near = finding.place.line <= line <= finding.place.line + 3
                if near and node.meant.value == old and id(node) not in edits:
                    edits[id(node)] = (node, fresh)
                    break
        if edits:
            new[path] = document.changed(list(edits.values()))
    return new
