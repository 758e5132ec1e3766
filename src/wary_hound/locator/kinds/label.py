"""`label{...}`: the form control with that label."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Any

import numpy as np

from wary_hound.locator.cache import Matches
from wary_hound.locator.facts import Fact
from wary_hound.locator.kinds.kind import Counted, IntArray, Kind, Part, Scope
from wary_hound.locator.kinds.markup import label_test
from wary_hound.locator.kinds.words import near_texts, parse_text, print_text
from wary_hound.locator.values import TextQuery
from wary_hound.page import Page


class Label(Kind):
    """Case counts, white space is folded, a colon or asterisk at the label's end does not count."""

    name = "label"

    def parse(self, text: str) -> TextQuery:
        return parse_text(text)

    def print(self, query: TextQuery) -> str:
        return print_text(query)

    def match(self, page: Page, query: TextQuery, tree: int, scope: int) -> IntArray:
        table = _by_label(page)
        if not query.part:
            return np.asarray(table.get((tree, plain_label(query.text)), []), np.int32)
        part = plain_label(query.text) or query.text
        labelled = [i for (t, text), group in table.items() if t == tree and part in text for i in group]
        return np.asarray(sorted(labelled), np.int32)

    def parts(self, page: Page, query: TextQuery, scopes: Sequence[Scope], counted: Counted) -> Iterator[Part]:
        yield Part(f'label {"contains" if query.part else "is"} "{query.text}"', counted(query))

    def weaker(self, page: Page, query: TextQuery, trees: Sequence[int]) -> Iterator[tuple[Any, str]]:
        yield from near_texts(query, (text for tree, text in _by_label(page) if tree in trees))

    def facts(self, page: Page, query: TextQuery, scope: Scope, target: int) -> Iterator[Fact]:
        yield Fact("label", target, query.text, part=query.part)

    def says(self, query: TextQuery) -> Iterator[tuple[str, str]]:
        yield "label", query.text

    def to_xpath(self, query: TextQuery) -> str:
        return f"//*[{label_test(TextQuery(plain_label(query.text), query.part))}]"


LABEL = Label()


def plain_label(text: str) -> str:
    """A label without the colon or asterisk at its end."""
    return text.rstrip(" :*\u2009")


def _by_label(page: Page) -> dict[tuple[int, str], list[int]]:
    """Form controls by tree and label, built once a page."""
    tables = Matches.of(page).tables
    if "label" not in tables:
        table = tables["label"] = {}
        semantics, trees = page.semantics, page.tree.tolist()
        for index in range(len(page)):
            text = plain_label(semantics.label(index)) if semantics.rendered[index] else ""
            if text:
                table.setdefault((trees[index], text), []).append(index)
    return tables["label"]
