"""What comes near to a locator that does not find what it should: the one engine of near misses.

Locators that ask for a little less (`misses`), and the elements that come nearest to what a locator says (`nearest`). There is no
verdict, since so little is known: each fact that the locator names is compared as text (normalised edit distance), and they
count alike, tag and role by half.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np
from rapidfuzz import fuzz, process

from wary_hound.errors import LocatorError
from wary_hound.locator.evaluate import as_locator, in_scopes
from wary_hound.locator.kinds import KINDS, Scope
from wary_hound.locator.making import finder as made
from wary_hound.locator.values import Finder, Locator
from wary_hound.page import Element, Page
from wary_hound.page.index import tokens

ALIKE = 0.6
"""Elements are named where some fact besides tag and role is so much alike, of 1."""
MOST = 3
MOST_MISSES = 4
_KIND = {"tag": 0.5, "role": 0.5}
_SAID = {"class": "class", "name": "accessible name", "@name": "name attribute"}


@dataclass(frozen=True, slots=True)
class Miss:
    """A locator that differs in one part and matches something."""

    locator: str
    found: tuple[int, ...]
    """Elements (indexes) that the changed hop finds."""
    change: str

    @property
    def count(self) -> int:
        """How many elements the changed hop finds."""
        return len(self.found)


@dataclass(frozen=True, slots=True)
class Near:
    """An element, and in words what agrees with what the locator says and what does not."""

    element: Element
    why: str

    def __str__(self) -> str:
        return f"{self.element} ({self.why})"


# --- locators ----------------------------------------------------------------------------------------------------------


def misses(page: Page, locator: Locator, number: int, scopes: Sequence[Scope]) -> list[Miss]:
    """What one weakening of a hop, the first that finds nothing, would match; the fewest matches first."""
    hop = locator.hops[number]
    close: list[Miss] = []
    for finder, change in _weaker(page, hop.finder, list(scopes)):
        matched = in_scopes(page, finder, list(scopes))
        if len(matched):
            whole = Locator((*locator.hops[:number], replace(hop, finder=finder), *locator.hops[number + 1 :]))
            close.append(Miss(str(whole), tuple(matched.tolist()), change))
    return sorted(close, key=lambda miss: miss.count)[:MOST_MISSES]


def _weaker(page: Page, finder: Finder, scopes: list[Scope]) -> Iterator[tuple[Finder, str]]:
    if finder.ordinal is not None:
        yield replace(finder, ordinal=None), f"without #{finder.ordinal}"
    for number, related in enumerate(finder.relations):
        before, after = finder.relations[:number], finder.relations[number + 1 :]
        yield replace(finder, relations=(*before, *after), ordinal=None), f"without @{related.relation}"
        if not len(in_scopes(page, related.anchor, scopes)):
            for anchor, change in _weaker(page, related.anchor, scopes):
                yield replace(finder, relations=(*before, replace(related, anchor=anchor), *after)), f"anchor {change}"
            return
    trees = sorted({tree for tree, _ in scopes})
    for query, change in KINDS[finder.strategy].weaker(page, finder.query.tree, trees):
        yield replace(finder, query=made(finder.strategy, query).query), change


# --- elements ----------------------------------------------------------------------------------------------------------


def nearest(locator: Locator | str, page: Page, most: int = MOST) -> tuple[Near, ...]:
    """The elements of a page that come nearest to what the last hop of a locator says, best first; none where nothing is alike."""
    last = as_locator(locator).last
    said = list(KINDS[last.strategy].says(last.query.tree))
    if not said or not len(page):
        return ()
    table = np.vstack([_similar(page, kind, value) for kind, value in said])
    weights = np.asarray([_KIND.get(kind, 1.0) for kind, _ in said])
    scores = weights @ table + 0.01 * page.semantics.rendered
    enough = (table[weights == 1.0] >= ALIKE).any(axis=0)
    close: list[Near] = []
    for at in np.argsort(-scores, kind="stable").tolist():
        if len(close) == most or scores[at] < scores.max() / 2:
            break
        related = any(n.element.index <= at < page.end[n.element.index] or at <= n.element.index < page.end[at] for n in close)
        if enough[at] and not related:  # wrappers share the text of what they hold
            close.append(Near(page[at], _why([_SAID.get(kind, kind) for kind, _ in said], table[:, at].tolist())))
    return tuple(close)


def _why(facts: list[str], alike: list[float]) -> str:
    sorted_out: dict[str, list[str]] = {"same": [], "like": [], "other": []}
    for fact, share in zip(facts, alike, strict=True):
        sorted_out["same" if share == 1 else "like" if share >= ALIKE else "other"].append(fact.removeprefix("@"))
    return "; ".join(f"{word} {', '.join(dict.fromkeys(which))}" for word, which in sorted_out.items() if which)


def _similar(page: Page, kind: str, wanted: str) -> np.ndarray[tuple[int], np.dtype[np.float64]]:
    """How much alike a fact of each element is, 0 to 1."""
    semantics, every = page.semantics, range(len(page))
    match kind:
        case "tag":
            return np.asarray([float(tag == wanted) for tag in page.tags])
        case "role":
            return np.asarray([float(role == wanted) for role in semantics.roles])
        case "class":
            column = page.index.attribute_column("class")
            scored = dict(zip(page.index.by_class, _alike(wanted, list(page.index.by_class)), strict=True))
            return np.asarray([max((scored[one] for one in tokens(column.get(i, ""))), default=0.0) for i in every])
        case "text":
            texts = semantics.text
        case "name":
            try:
                texts = [semantics.name(i) for i in every]
            except LocatorError:  # they take too much work here
                texts = [""] * len(page)
        case "label":
            texts = [semantics.label(i) for i in every]
        case _:
            values = page.index.attribute_column(kind.removeprefix("@"))
            texts = [values.get(i, "") for i in every]
    return np.asarray(_alike(wanted, texts))


def _alike(wanted: str, texts: list[str]) -> list[float]:
    if not texts:
        return []
    unique = list(dict.fromkeys(texts))
    scores: list[float] = process.cdist([wanted[:500]], [t[:500] for t in unique], scorer=fuzz.ratio, dtype=np.float64)[0].tolist()
    by_text = dict(zip(unique, scores, strict=True))
    return [by_text[text] / 100 for text in texts]
