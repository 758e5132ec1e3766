"""Repairing a book between two pages, and the change of files that puts the repairs in place."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Literal

from wary_hound.authoring.portfolio import portfolio
from wary_hound.authoring.question import Question
from wary_hound.healing.fingerprint import Fingerprint
from wary_hound.healing.relocation import Verdict, relocate_all
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


def repair_book(book: Book, old_page: Page, new_page: Page, question: Question | None = None) -> list[NamedRepair]:
    """What became of each element of a book, in its order.

    An element is what its locator finds on the old page; where that is nothing or several, what the book remembers.
    """
    remembered: dict[str, Element | Fingerprint] = {}
    troubles: dict[str, str] = {}
    for name, entry in book.elements.items():
        found = match(old_page, entry.main)
        memory = book.fingerprint(name)
        if len(found) == 1:
            remembered[name] = old_page[found[0]]
        elif memory is not None:
            remembered[name] = memory
        else:
            count = len(found)
            matches = f"{count} elements" if count else "nothing"
            troubles[name] = f"matches {matches} on the old page, and the book remembers nothing of it"
    verdicts = _verdicts(remembered, new_page)
    found_repairs = []
    for name, entry in book.elements.items():
        if name not in remembered:
            found_repairs.append(NamedRepair(name, entry.main, None, None, trouble=troubles[name]))
            continue
        old = remembered[name]
        repair = judge(entry.main, verdicts[name], new_page, old, question)
        fallbacks: tuple[str, ...] = ()
        if repair.main is not None and repair.verdict.element is not None and entry.fallbacks:
            members = portfolio(repair.verdict.element, 1 + len(entry.fallbacks), question, repair.candidates)
            fallbacks = tuple(str(c.locator) for c in members.fallbacks)
        element = old if isinstance(old, Element) else None
        found_repairs.append(NamedRepair(name, entry.main, element, repair, fallbacks))
    return found_repairs


def _verdicts(remembered: dict[str, Element | Fingerprint], new_page: Page) -> dict[str, Verdict]:
    """A verdict by name; names of one element are asked for once, since no two may claim the same."""
    asked: list[Element | Fingerprint] = []
    place: dict[str, int] = {}
    for name, what in remembered.items():
        same = next((k for k, other in enumerate(asked) if isinstance(what, Element) and other == what), None)
        if same is None:
            same = len(asked)
            asked.append(what)
        place[name] = same
    verdicts = relocate_all(asked, new_page)
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

    `seen_at` is the new page, relative to the book; it takes the place of the page that the book names.
    """
    document = yaml_text.Document(book_text, book_path)
    edits: list[tuple[yaml_text.Node, Any]] = []
    renamed: dict[str, str] = {}

    def put(keys: tuple[str | int, ...], value: Any) -> None:
        node = document.at(keys)
        if node is not None:
            edits.append((node, value))

    for entry in repairs:
        if entry.repair is None or entry.repair.main is None or entry.repair.verdict.element is None:
            continue
        fresh = str(entry.repair.main.locator)
        renamed[book.elements[entry.name].locator] = fresh
        short = document.at(("elements", entry.name, "locator")) is None  # `name: text{...}`
        put(("elements", entry.name) if short else ("elements", entry.name, "locator"), fresh)
        for number, fallback in enumerate(entry.fallbacks):
            put(("elements", entry.name, "fallbacks", number), fallback)
        put(("remembered", entry.name), remember(entry.repair.verdict.element))
    if book.page and seen_at and any(r.state == "works" or renamed for r in repairs):
        put(("page",), seen_at)
    new = {book_path: document.changed(edits) if edits else book_text}
    for path, text in journeys.items():
        steps = yaml_text.Document(text, path)
        changes = [(node, renamed[node.meant.value]) for node in steps.scalars() if node.meant.value in renamed]
        new[path] = steps.changed(changes) if changes else text
    return new
