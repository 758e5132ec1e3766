"""What tells several matches of a locator apart: of each, what no other of them has."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator

from wary_hound.page import Page
from wary_hound.page.index import tokens

MOST_SHOWN = 10
MOST_COMPARED = 2_000
_LONG = 40
_LAST = ("class", "style")
_ROWS = frozenset({"row", "listitem", "article", "group", "option"})


def marks_apart(page: Page, found: list[int]) -> tuple[str, ...]:
    """For each of the first matches, the plainest mark that it alone has; empty where it has none, and none for one match."""
    if not 1 < len(found) <= MOST_COMPARED:
        return ()
    marks = [list(dict.fromkeys(_marks(page, i))) for i in found]
    shared = Counter(mark for own in marks for mark in own)
    return tuple(next((mark for mark in own if shared[mark] == 1), "") for own in marks[:MOST_SHOWN])


def _marks(page: Page, index: int) -> Iterator[str]:
    """From what is plainest to say to what is last to try."""
    element = page[index]
    if element.role and element.name and len(element.name) <= _LONG:
        yield f'the name "{element.name}"'
    if element.text and len(element.text) <= _LONG:
        yield f'the text "{element.text}"'
    attributes = element.attributes
    for name in sorted(attributes, key=lambda name: name in _LAST):
        if name not in _LAST and len(attributes[name]) <= _LONG:
            yield f'{name}="{attributes[name]}"' if attributes[name] else f"the attribute {name}"
    for above in page.ancestors(index):
        if page.semantics.roles[above] in _ROWS:
            for child in page.children(above):
                text = page.semantics.text[child]
                if text and len(text) <= _LONG:
                    yield f'"{text}" beside it'
    for token in tokens(attributes.get("class", "")):
        yield f"the class {token}"
    for above in page.ancestors(index):
        near = page[above]
        if near.attributes.get("id"):
            yield f'a place inside <{near.tag} id="{near.attributes["id"]}">'
    if page.tree[index]:
        yield f"a place in tree {int(page.tree[index])} of the page"
