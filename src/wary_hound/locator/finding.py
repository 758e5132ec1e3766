"""What `Page.find` and `Page.find_all` do: exactly one element, or an error with the explanation."""

from __future__ import annotations

from wary_hound.errors import Ambiguous, NotFound
from wary_hound.locator.evaluate import match
from wary_hound.locator.explain import explain
from wary_hound.locator.values import Locator
from wary_hound.page import Element, Page
from wary_hound.page.arena import Finding

MOST_NAMED = 6


def find(page: Page, locator: Locator | str) -> Element:
    """The one element; NotFound or Ambiguous, with what nearly matched or what sets them apart, otherwise."""
    found = match(page, locator)
    if len(found) == 1:
        return page[found[0]]
    explanation = explain(page, locator)
    if not found:
        narrowed = next((s.text.strip() for h in explanation.hops for s in h.steps if s.count == 0), "")
        where = f"; nothing is left at: {narrowed}" if narrowed else ""
        near = f"; nearly: {explanation.misses[0].locator}" if explanation.misses else ""
        edge = f"; {explanation.notes[0]}" if explanation.notes and not near else ""
        raise NotFound(f"no element matches {locator}{where}{near}{edge}", explanation)
    marks = [f"element {i} alone has {mark}" for i, mark in zip(found, explanation.apart, strict=False) if mark][:MOST_NAMED]
    apart = "; ".join(marks) or f"nothing tells them apart: elements {', '.join(map(str, found[:MOST_NAMED]))}"
    raise Ambiguous(f"{len(found)} elements match {locator}; {apart}", explanation)


def find_all(page: Page, locator: Locator | str) -> list[Element]:
    """All elements that a locator finds, in page order."""
    return [page[i] for i in match(page, locator)]


# page/ knows no notation: here, and only here, the locator language is given to Page.find and Page.find_all.
Finding.one = staticmethod(find)
Finding.all = staticmethod(find_all)
