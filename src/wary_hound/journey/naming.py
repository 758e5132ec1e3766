"""Readable names for the elements of a page, each of its own."""

from __future__ import annotations

import re
from collections.abc import Collection, Sequence

from wary_hound.authoring.icons import icon_predicates
from wary_hound.authoring.predicates import attribute_predicates
from wary_hound.locator.blocks import row_of, section_of
from wary_hound.locator.css.values import Attribute, Class, Matches, Simple
from wary_hound.locator.tables import Tables
from wary_hound.page import Element
from wary_hound.page.slots import Slots
from wary_hound.robustness.data import shows_data
from wary_hound.robustness.looks import CAMEL, look_of_class, look_of_token

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
    read = (element.label, _name_of(element), element.text, attributes.get("title", ""))
    return _first_words((*read, *_given(element), *_around(element), element.role, *_classes(element))) or element.tag


def _name_of(element: Element) -> str:
    """Its accessible name; what is read where an icon has one that runs into that: *Nights* of *calendarNights*."""
    name, shown = element.name, element.text
    before = name.removesuffix(shown) if shown else ""
    return shown if before and before != name and before[-1].isalnum() else name


def _words_without_text(element: Element) -> str:
    return _first_words((element.label, *_named(element), *_classes(element), *_around(element), element.role)) or element.tag


def _classes(element: Element) -> list[str]:
    return [name for name in element.attributes.get("class", "").split() if look_of_class(name) not in UNSAID]


def _named(element: Element) -> list[str]:
    """What a person called it, whatever it says."""
    attributes = element.attributes
    return [attributes.get("data-testid", ""), *_given(element), attributes.get("name", ""), attributes.get("aria-label", "")]


UNSAID = frozenset({"generated", "hashed", "utility"})
"""Looks of what a program calls something, and of what says how something looks."""


def _given(element: Element) -> list[str]:
    """Its id, where a person gave it; of one that a program made, what stands behind the counter."""
    value = element.attributes.get("id", "")
    steady = [one.value for one in attribute_predicates({"id": value}) if one.operator == "$="]
    whole = "" if look_of_token(value) in UNSAID else value
    return [" ".join(_WORDS.findall(part)) for part in (steady[-1:] or [whole])]


_WORDS = re.compile(rf"{CAMEL.pattern}|[^\W_]+")
"""The same with figures, and in any script: `visitor_name`, `step2`."""


def _around(element: Element) -> list[str]:
    """What one calls what says nothing itself: by the head of its column, the title of the box that it is alone in, or its icon."""
    page, index = element.page, element.index
    tables = Tables.of(page)
    cell = tables.around(index)
    heads = [page.semantics.worded[head.index] for head in tables.heads_of(cell)[:1]] if cell is not None else []
    marks = sorted(map(_held, icon_predicates(page, index)), key=lambda mark: isinstance(mark, Class))  # `data-icon` before classes
    called = [mark.value for mark in marks if isinstance(mark, Class) or (isinstance(mark, Attribute) and mark.name != "d")]
    icons = [re.sub(r"^#?[a-z]+-(?=\w)", "", value) for value in called]
    parent = int(page.parent[index])
    alone = parent >= 0 and sum(1 for _ in page.children(parent)) == 1
    titles = [page.attribute(parent, name) or "" for name in ("title", "aria-label")] if alone else []
    return [*heads, *titles, *icons[:1]]


def _held(icon: Matches) -> Simple:
    """The mark of an icon in `:has(...)`."""
    return icon.selectors[0].compounds[0].simples[0]


def _first_words(texts: Sequence[str]) -> str:
    """The first words of the first text that has any."""
    return next((words for text in texts if (words := "-".join(re.findall(r"\w+", text.lower())[:MOST_WORDS]))), "")


def names_for(elements: Sequence[Element]) -> list[str]:
    """A name for each: what people read on it; where several read alike, with what tells its row or its group, then its kind;
    numbered where nothing does."""
    names = [_words_of(element) for element in elements]
    for more in (_row, _group, _kind):
        alike: dict[str, list[int]] = {}
        for at, name in enumerate(names):
            alike.setdefault(name, []).append(at)
        for name, places in alike.items():
            said = [more(elements[at]) for at in places] if len(places) > 1 else []
            if len(set(said)) > 1:  # what all say tells none
                for at, words in zip(places, said, strict=True):
                    names[at] = f"{name}-{words}" if words and words != name else name
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
