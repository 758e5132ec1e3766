"""What is weak about the names of books."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping

from wary_hound.journey.book import Book
from wary_hound.locator.evaluate import match
from wary_hound.page import Page

_NOTHING = re.compile(
    r"(?:a|an|the)?(?:element|elem|el|item|thing|div|span|button|btn|link|input|field|box|text|label|image|img|icon|foo|bar|baz|test|tmp|temp|"
    r"xxx?|new|object|node|control|widget|locator|selector|path|xpath|css|id)[-_ ]?\d*\Z",
    re.I,
)


def says_nothing(name: str) -> bool:
    """Whether a name says nothing of what it stands for."""
    return bool(_NOTHING.match(name)) or len(re.sub(r"[\W\d_]", "", name)) < 3


def doubled(book: Book, pages: Mapping[str, Page]) -> Iterator[tuple[str, str]]:
    """(a name, the earlier name) of entries that stand for one element: by one locator, or on one page."""
    by_locator: dict[tuple[str, str], str] = {}
    by_element: dict[tuple[int, int], str] = {}
    for name, entry in book.elements.items():
        key = (str(entry.main), entry.page)
        first = by_locator.setdefault(key, name)
        if first != name:
            yield name, first
            continue
        page = pages.get(name)
        matched = match(page, entry.main.alternatives[0]) if page is not None else []
        if page is not None and len(matched) == 1:
            first = by_element.setdefault((id(page), matched[0]), name)
            if first != name:
                yield name, first
