"""`text{...}`: the innermost elements whose text reads so, with what style sheets put before and after it or without: a narrow page
writes the name of its column before a cell, a field that is required has a star behind its label."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Any

import numpy as np

from wary_hound.locator.cache import Matches
from wary_hound.locator.facts import Fact
from wary_hound.locator.kinds.kind import Counted, IntArray, Kind, Part, Scope
from wary_hound.locator.kinds.words import near_texts, parse_text, print_text
from wary_hound.locator.values import TextQuery
from wary_hound.locator.xpath.printing import xpath_string
from wary_hound.page import Page


class Text(Kind):
    """Case counts, white space is folded, hidden parts do not count."""

    name = "text"

    def parse(self, text: str) -> TextQuery:
        return parse_text(text)

    def print(self, query: TextQuery) -> str:
        return print_text(query)

    def match(self, page: Page, query: TextQuery, tree: int, scope: int) -> IntArray:
        if query.part:
            inside = page.index.in_tree[tree].tolist()
            return _innermost(page, sorted({i for said in _readings(page) for i in inside if query.text in said[i]}))
        return _innermost(page, _by_text(page).get((tree, query.text), []))

    def parts(self, page: Page, query: TextQuery, scopes: Sequence[Scope], counted: Counted) -> Iterator[Part]:
        yield Part(f'text {"contains" if query.part else "is"} "{query.text}"', counted(query))

    def weaker(self, page: Page, query: TextQuery, trees: Sequence[int]) -> Iterator[tuple[Any, str]]:
        texts, rendered = page.semantics.text, page.semantics.rendered
        longest = 3 * len(query.text) + 40
        inside = (i for tree in trees for i in page.index.in_tree[tree].tolist() if rendered[i])
        yield from near_texts(query, (texts[i] for i in inside if len(texts[i]) <= longest))

    def facts(self, page: Page, query: TextQuery, scope: Scope, target: int) -> Iterator[Fact]:
        yield Fact("text", target, query.text, part=query.part)

    def says(self, query: TextQuery) -> Iterator[tuple[str, str]]:
        yield "text", query.text

    def to_xpath(self, query: TextQuery) -> str:
        quoted = xpath_string(query.text)
        test = f"contains(normalize-space(), {quoted})" if query.part else f"normalize-space()={quoted}"
        return f"//*[{test}][not(.//*[{test}])]"

    def to_bidi(self, query: TextQuery) -> dict[str, Any]:
        return {"type": "innerText", "value": query.text, "matchType": "partial" if query.part else "full"}


TEXT = Text()


def _innermost(page: Page, elements: list[int]) -> IntArray:
    """Those that hold no other of the set."""
    own = np.asarray(elements, np.int32)
    if len(own) < 2:
        return own
    following = np.append(own[1:], np.iinfo(np.int32).max)
    return own[following >= page.end[own]]


def _readings(page: Page) -> tuple[list[str], ...]:
    """The texts of all elements: as they are shown, and as they are written where that is not the same throughout."""
    shown, written = page.semantics.text, page.semantics.written
    return (shown,) if written is shown else (shown, written)


def _by_text(page: Page) -> dict[tuple[int, str], list[int]]:
    """Elements by tree and text, built once a page."""
    tables = Matches.of(page).tables
    if "text" not in tables:
        table = tables["text"] = {}
        for index, (tree, *said) in enumerate(zip(page.tree.tolist(), *_readings(page), strict=True)):
            for text in {*said} - {""}:
                table.setdefault((tree, text), []).append(index)
    return tables["text"]
