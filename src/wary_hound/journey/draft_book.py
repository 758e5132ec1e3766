"""A book in the making: names are given as elements are met, with the best locator, what is remembered, and a snapshot."""

from __future__ import annotations

import re
from collections.abc import Collection, Mapping
from pathlib import Path
from typing import Any

from wary_hound.authoring.question import OBSERVED, Question
from wary_hound.authoring.ranking import rank
from wary_hound.errors import NotationError
from wary_hound.files import write_aside
from wary_hound.journey.book import Book, Entry, remember
from wary_hound.journey.naming import name_for
from wary_hound.locator.evaluate import match
from wary_hound.locator.notation import parse
from wary_hound.page import Element, Page


class DraftBook:
    """Names for elements of pages as they are met. The book will be at `path`, its snapshots in `folder`, named after `stem`."""

    def __init__(self, path: Path, folder: Path, stem: str) -> None:
        self.path = path
        self.entries: dict[str, Entry] = {}
        self._memory: dict[str, dict[str, Any]] = {}
        self._folder = folder
        self._stem = stem
        self._pages: list[tuple[Path, Page]] = []

    def name(self, element: Element, purpose: str = "") -> str:
        """The name of an element: the one that it has, where its locator finds it here; else a new one. What has no locator of its
        own is named by its place, which is the weakest."""
        for name, entry in self.entries.items():
            if match(element.page, entry.main.alternatives[0]) == [element.index]:
                return name
        candidates = rank(element, Question(purpose=purpose))
        locator = str(candidates[0].locator) if candidates else f"xpath{{{_path(element)}}}"
        name = _plain(name_for(element, self.entries, by_text=purpose not in OBSERVED)) or element.tag
        self.entries[name] = Entry(locator=locator, page=self._snapshot(element, locator))
        self._memory[name] = remember(element)
        return name

    def name_of_all_like(self, element: Element) -> tuple[str, tuple[str, ...]] | None:
        """A name for all elements like one in its list or its rows, and their texts; None where it stands alone."""
        page = element.page
        for index in (element.index, *page.ancestors(element.index)[:3]):
            above = page.ancestors(index)
            if not above or page[index].tag not in ("li", "tr", "option", "td", "dd", "article"):
                continue
            around = page[above[0]]
            best = rank(around)
            if not best:
                continue
            locator = f"{best[0].locator.alternatives[0]} -> css{{{page[index].tag}}}"
            matched = match(page, parse(locator))
            if index not in matched:
                continue
            known = next((n for n, e in self.entries.items() if e.locator == locator), None)
            name = known or _plain(f"{name_for(around, self.entries)}-items")
            self.entries[name] = Entry(locator=locator, page=self._snapshot(around, str(best[0].locator)))
            return name, tuple(page.semantics.text[i] for i in matched)
        return None

    def rename(self, name: str, wanted: str) -> str:
        """Give an element another name; what is no name, or is taken, is made one that is free. Gives it."""
        fresh = _plain(wanted.strip()) or name
        number, base = 2, fresh
        while fresh in self.entries and fresh != name:
            fresh, number = f"{base}-{number}", number + 1
        self.entries = {fresh if n == name else n: e for n, e in self.entries.items()}
        if name in self._memory:
            self._memory[fresh] = self._memory.pop(name)
        return fresh

    def _snapshot(self, element: Element, locator: str) -> str:
        """The snapshot that an element is on, relative to the book; a new one where the last does not show it."""
        page = element.page
        for path, kept in self._pages[-1:]:
            try:
                same = kept.url == page.url and len(match(kept, parse(locator).alternatives[0])) == 1
            except NotationError:
                same = False
            if same:
                return f"{path.parent.name}/{path.name}"
        path = self._folder / f"{self._stem}-{len(self._pages) + 1}.html"
        self._folder.mkdir(parents=True, exist_ok=True)
        page.write(path)
        self._pages.append((path, page))
        return f"{path.parent.name}/{path.name}"

    def book(self, used: Collection[str], title: str) -> Book:
        """The book of the names that are used."""
        entries = {name: entry for name, entry in self.entries.items() if name in used}
        return Book(book=title, elements=entries, remembered={n: m for n, m in self._memory.items() if n in entries})

    def write(self, used: Collection[str], beside: Mapping[Path, bytes], title: str) -> None:
        """Write the book, and other files beside it, all or none."""
        write_aside({self.path: self.book(used, title).to_yaml().encode(), **beside})


def _plain(name: str) -> str:
    return "-".join(re.findall(r"\w+", name.lower()))[:60].strip("-")


def _path(element: Element) -> str:
    page = element.page
    parts = []
    for index in (element.index, *page.ancestors(element.index)):
        above = page.ancestors(index)
        like = [i for i in page.children(above[0]) if page[i].tag == page[index].tag] if above else [index]
        parts.append(f"{page[index].tag}[{like.index(index) + 1}]")
    return "/" + "/".join(reversed(parts))
