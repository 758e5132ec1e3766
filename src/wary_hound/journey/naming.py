"""Readable names for the elements of a page, each of its own."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Collection, Sequence

from wary_hound.locator.blocks import row_of, section_of
from wary_hound.page import Element
from wary_hound.page.slots import Slots
from wary_hound.robustness.data import shows_data

MOST_WORDS = 4


def name_for(element: Element, taken: Collection[str] = (), by_text: bool = True) -> str:
    """A short name for an element, from what people read on it: `hold-this-night`; numbered where it is taken. Not `by_text`:
    from what stays where its text changes."""
    return _free(_words_of(element) if by_text else _words_without_text(element), taken)


def _free(base: str, taken: Collection[str]) -> str:
    """The name, numbered where it is taken."""
    number, name = 2, base
    while name in taken:
        name, number = f"{base}-{number}", number + 1
    return name


def _words_of(element: Element) -> str:
    attributes = element.attributes
    if shows_data(element.page, element.index) and (steady := _first_words((element.label, *_named(element)))):
        return steady  # what it says is there to change
    said = (element.label, element.name, element.text, attributes.get("title", ""), attributes.get("id", ""), element.role)
    return _first_words(said) or element.tag


def _words_without_text(element: Element) -> str:
    classes = element.attributes.get("class", "").split()
    return _first_words((element.label, *_named(element), *classes, element.role)) or element.tag


def _named(element: Element) -> list[str]:
    """What a person called it, whatever it says."""
    return [element.attributes.get(name, "") for name in ("data-testid", "id", "name", "aria-label")]


def _first_words(texts: Sequence[str]) -> str:
    """The first words of the first text that has any."""
    return next((words for text in texts if (words := "-".join(re.findall(r"\w+", text.lower())[:MOST_WORDS]))), "")


def names_for(elements: Sequence[Element]) -> list[str]:
    """A name for each: what people read on it; where several read alike, with what tells its row or its group, then its kind;
    numbered where nothing does."""
    names = [_words_of(element) for element in elements]
    for more in (_row, _group, _kind):
        counts = Counter(names)
        names = [
            f"{name}-{said}" if counts[name] > 1 and (said := more(element)) else name
            for name, element in zip(names, elements, strict=True)
        ]
    given: dict[str, None] = {}
    for name in names:
        given[_free(name, given)] = None
    return list(given)


def _row(element: Element) -> str:
    """The first text of its row that is not its own."""
    page, texts = element.page, element.page.semantics.own_text
    row = row_of(page, element.index)
    if row < 0 or row == element.index:
        return ""
    inside = Slots.of(page).members(row)
    own = range(element.index, int(page.end[element.index]))
    first = next((texts[i] for i in inside if i != row and i not in own and re.search(r"[^\W\d_]{2}", texts[i])), "")
    return "-".join(re.findall(r"\w+", first.lower())[:2])


def _group(element: Element) -> str:
    """The name of the section around it."""
    page = element.page
    group = section_of(page, element.index)
    said = page.semantics.name(group) or (page.attribute(group, "id") or "") if group >= 0 else ""
    return "-".join(re.findall(r"\w+", said.lower())[:2])


def _kind(element: Element) -> str:
    return element.role or element.tag
