"""Candidates against other snapshots of the same page: other data, another state, another user."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from wary_hound.authoring.ranking import Candidate
from wary_hound.healing.relocation import relocate
from wary_hound.locator.evaluate import match
from wary_hound.page import Element, Page


@dataclass(frozen=True, slots=True)
class Tried:
    """Candidates, those first that find the element on all pages, each marked with the pages it fails on; and the pages on which
    it is not sure where the element is, which say nothing."""

    candidates: tuple[Candidate, ...]
    unsure: tuple[str, ...]


def tried_on(element: Element, candidates: Sequence[Candidate], pages: Mapping[str, Page]) -> Tried:
    """What becomes of candidates on other snapshots, by name."""
    there: dict[str, int] = {}
    for name, page in pages.items():
        found = relocate(element, page).element
        if found is not None:
            there[name] = found.index
    marked = [
        replace(c, fails_on=tuple(name for name, index in there.items() if match(pages[name], c.locator) != [index]))
        for c in candidates
    ]
    marked.sort(key=lambda c: len(c.fails_on))
    return Tried(tuple(marked), tuple(name for name in pages if name not in there))
