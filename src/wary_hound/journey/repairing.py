"""Repairing a book between two pages, and the change of files that puts the repairs in place."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any, Literal

from wary_hound.authoring.portfolio import portfolio
from wary_hound.authoring.question import Question
from wary_hound.errors import FileError
from wary_hound.healing.fingerprint import Fingerprint
from wary_hound.healing.relocation import SURE, Verdict, relocate_all
from wary_hound.healing.repair import Repair, judge
from wary_hound.journey import yaml_text
from wary_hound.journey.book import Book, remember
from wary_hound.locator.evaluate import match
from wary_hound.locator.values import Locator
from wary_hound.page import Element, Page

Standing = Literal["works", "drifted", "broken", "unknown"]


@dataclass(frozen=True, slots=True)
class NamedRepair:
    """What became of one element of a book. `repair` is None where the element was not to be found on the old page and
    the book remembers nothing of it; `trouble` then says why."""

    name: str
    locator: Locator
    old: Element | None
    repair: Repair | None
    fallbacks: tuple[str, ...] = ()
    """New fallbacks to go with a new main locator."""
    trouble: str = ""

    @property
    def state(self) -> Standing:
        """The state of its locator; `unknown` where its element is."""
        return self.repair.state if self.repair is not None else "unknown"

    @property
    def seen(self) -> bool:
        """Whether its element is surely on the new page, and the book will have a locator that finds it there."""
        repair = self.repair
        if repair is None or repair.verdict.element is None or repair.verdict.outcome not in ("same", "moved"):
            return False
        return repair.state == "works" or repair.main is not None


def repair_book(
    book: Book,
    old_page: Page,
    new_page: Page,
    question: Question | None = None,
    *,
    last_seen: Mapping[str, Page] | None = None,
    accepted: Collection[str] = (),
    known: Sequence[Page] = (),
    sure_from: float = SURE,
) -> list[NamedRepair]:
    """What became of each element of a book, in its order.

    An element is what its locator finds on the old page (on the page in `last_seen` where one is given for its name); where that is
    nothing or several, what the book remembers. `accepted`: names of elements whose best guess a person says is right. `known`:
    pages on which new locators should find their elements, too. `sure_from`: verdicts with less confidence are open questions.
    """
    seen_on = last_seen or {}
    remembered: dict[str, Element | Fingerprint] = {}
    troubles: dict[str, str] = {}
    for name, entry in book.elements.items():
        before = seen_on.get(name, old_page)
        found = match(before, entry.main)
        memory = book.fingerprint(name)
        if len(found) == 1:
            remembered[name] = before[found[0]]
        elif memory is not None:
            remembered[name] = memory
        else:
            count = len(found)
            matches = f"{count} elements" if count else "nothing"
            troubles[name] = f"matches {matches} on the old page, and the book remembers nothing of it"
    ways = {name: _witnesses(book, name) for name in remembered}
    verdicts = _verdicts(remembered, new_page, ways, question)
    found_repairs = []
    for name, entry in book.elements.items():
        if name not in remembered:
            found_repairs.append(NamedRepair(name, entry.main, None, None, trouble=troubles[name]))
            continue
        old = remembered[name]
        repair = judge(entry.main, verdicts[name], new_page, old, question, known)
        if repair.verdict.outcome in ("same", "moved") and repair.verdict.confidence < sure_from:
            repair = replace(repair, verdict=replace(repair.verdict, outcome="unsure"))
        if name in accepted:
            repair = repair.accepted()
        fallbacks: tuple[str, ...] = ()
        if repair.main is not None and repair.verdict.element is not None and entry.fallbacks:
            members = portfolio(repair.verdict.element, 1 + len(entry.fallbacks), question, repair.candidates)
            fallbacks = tuple(str(c.locator) for c in members.fallbacks)
        element = old if isinstance(old, Element) else None
        found_repairs.append(NamedRepair(name, entry.main, element, repair, fallbacks))
    return found_repairs


def pages_last_seen(book: Book, folder: Path, old: Page) -> dict[str, Page]:
    """The pages on which elements were last seen, by name, of those that name one of their own. `folder`: the book's."""
    read: dict[Path, Page] = {}
    seen: dict[str, Page] = {}
    for name, entry in book.elements.items():
        if not entry.page:
            continue
        file = folder / entry.page
        if old.source is None or file.resolve() != old.source.resolve():
            seen[name] = read[file] if file in read else read.setdefault(file, Page.read(file))
    return seen


def _witnesses(book: Book, name: str) -> tuple[str, ...]:
    memory = book.fingerprint(name)
    return memory.witnesses if memory is not None else ()


def _verdicts(
    remembered: dict[str, Element | Fingerprint], new_page: Page, ways: Mapping[str, Sequence[str]], question: Question | None
) -> dict[str, Verdict]:
    """A verdict by name; names of one element are asked for once, since no two may claim the same."""
    asked: list[Element | Fingerprint] = []
    known: list[Sequence[str]] = []
    place: dict[str, int] = {}
    for name, what in remembered.items():
        same = next((k for k, other in enumerate(asked) if isinstance(what, Element) and other == what), None)
        if same is None:
            same = len(asked)
            asked.append(what)
            known.append(ways[name] if isinstance(what, Element) else ())
        place[name] = same
    verdicts = relocate_all(asked, new_page, known, question.model if question else None)
    return {name: verdicts[k] for name, k in place.items()}


def changed_texts(
    book_path: Path,
    book_text: str,
    book: Book,
    repairs: Sequence[NamedRepair],
    journeys: dict[Path, str],
    seen_at: str = "",
) -> dict[Path, str]:
    """The texts of the book and the journeys with the proposed locators put in; comments, order and layout stay.

    `seen_at` is the new page, relative to the book: where the elements that are on it were last seen. Those that are not keep the
    page on which they were, and all that is remembered of them.
    """
    document = yaml_text.Document(book_text, book_path)
    edits: list[tuple[yaml_text.Node, Any]] = []
    renamed: dict[str, str] = {}

    def put(keys: tuple[str | int, ...], value: Any) -> None:
        node = document.at(keys)
        if node is not None:
            edits.append((node, value))

    for entry in repairs:
        if not entry.seen or entry.repair is None or entry.repair.verdict.element is None:
            continue
        put(("remembered", entry.name), remember(entry.repair.verdict.element))
        if book.elements[entry.name].page and seen_at:
            put(("elements", entry.name, "page"), seen_at)
        if entry.repair.main is None:
            continue
        fresh = str(entry.repair.main.locator)
        renamed[book.elements[entry.name].locator] = fresh
        short = document.at(("elements", entry.name, "locator")) is None  # `name: text{...}`
        put(("elements", entry.name) if short else ("elements", entry.name, "locator"), fresh)
        for number, fallback in enumerate(entry.fallbacks):
            put(("elements", entry.name, "fallbacks", number), fallback)
    elsewhere: dict[str, str] = {}
    if book.page and seen_at and seen_at != book.page and any(r.seen and not book.elements[r.name].page for r in repairs):
        put(("page",), seen_at)
        elsewhere = {r.name: book.page for r in repairs if not r.seen and not book.elements[r.name].page}
    new = {book_path: _with_pages(document.changed(edits) if edits else book_text, book_path, elsewhere)}
    for path, text in journeys.items():
        steps = yaml_text.Document(text, path)
        changes = [(node, renamed[node.meant.value]) for node in steps.scalars() if node.meant.value in renamed]
        new[path] = steps.changed(changes) if changes else text
    return new


def _with_pages(text: str, path: Path, pages: Mapping[str, str]) -> str:
    """The text of a book in which some elements name the page on which they were last seen."""
    if not pages:
        return text
    document = yaml_text.Document(text, path)
    expected = document.data()
    line_end = "\r\n" if "\r\n" in text else "\n"
    put: list[tuple[int, int, str]] = []
    for name, page in pages.items():
        node = document.at(("elements", name))
        if node is None:
            continue
        said = expected["elements"][name]
        written = yaml_text.scalar(page)
        if node.kind == "scalar" and node.target is None:
            expected["elements"][name] = {"locator": said, "page": page}
            put.append((node.start, node.end, yaml_text.flow({"locator": said, "page": page})))
            continue
        if node.target is not None or node.kind != "mapping" or not node.entries:
            raise FileError(f"{path}: {name} stands for another entry: write it out, so that it can say where it was last seen")
        said["page"] = page
        first, last = node.entries[0][0], node.entries[-1][1]
        if node.style:
            put.append((last.end, last.end, f", page: {yaml_text.flow(page)}"))
        elif first is not None:
            indent = first.start - (text.rfind("\n", 0, first.start) + 1)
            put.append((first.start, first.start, f"page: {written}{line_end}{' ' * indent}"))
    for start, end, said in sorted(put, reverse=True):
        text = text[:start] + said + text[end:]
    if yaml_text.Document(text, path).data() != expected:
        raise FileError(f"{path}: cannot be changed in place without changing what else it says; change it by hand")
    return text
