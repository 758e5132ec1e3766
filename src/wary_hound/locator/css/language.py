"""`:lang()` and `:dir()`: what language and direction elements inherit (HTML, sections 3.2.6.2 and 3.2.6.4)."""

from __future__ import annotations

import unicodedata
from collections.abc import Iterable, Iterator, Sequence

from wary_hound.page import Page
from wary_hound.page.text import Reading
from wary_hound.page.trees import HTML, SHADOW

_TEXT_INPUT = frozenset("text search url tel email password submit reset button hidden".split())


def above(page: Page, index: int) -> int:
    """What an element inherits from: its parent, at the top of a shadow tree the host; -1 for none."""
    parent = int(page.parent[index])
    if parent >= 0:
        return parent
    tree = page.trees[page.tree[index]]
    return tree.host if tree.kind == SHADOW else -1


# --- language ----------------------------------------------------------------------------------------------------------


def speaking(page: Page, elements: Iterable[int], ranges: Sequence[str]) -> Iterator[int]:
    """The elements whose language is in one of some ranges (RFC 4647, extended filtering)."""
    own, xml = page.index.attribute_column("lang"), page.index.attribute_column("xml:lang")
    known: dict[int, str] = {}
    default = _of_document(page)

    def language(index: int) -> str:
        line = []
        at = index
        while at >= 0 and at not in known:
            line.append(at)
            if at in own or (at in xml and page.namespace[at] != HTML):
                known[at] = own.get(at, "") if at in own else xml[at]
                break
            at = above(page, at)
        spoken = known.get(at, default)
        for passed in line:
            known.setdefault(passed, spoken)
        return spoken

    for index in elements:
        said = language(index).lower()
        if any(_in_range(said, wanted.lower()) for wanted in ranges):
            yield index


def _of_document(page: Page) -> str:
    for i in page.index.by_tag.get("meta", []):
        attributes = page.attributes_of(int(i))
        if attributes.get("http-equiv", "").lower() == "content-language" and page.tree[i] == 0:
            value = attributes.get("content", "").strip()
            return "" if "," in value or not value else value.split()[0]
    return ""


def _in_range(language: str, wanted: str) -> bool:
    if not wanted or not language:
        return False  # the empty range means "of no known language", which browsers let nothing match
    tags, ranges = language.split("-"), wanted.split("-")
    if ranges[0] not in ("*", tags[0]):
        return False
    at = 1
    for part in ranges[1:]:
        if part == "*":
            continue
        while at < len(tags) and tags[at] != part:
            if len(tags[at]) == 1:
                return False
            at += 1
        if at == len(tags):
            return False
        at += 1
    return True


# --- direction ---------------------------------------------------------------------------------------------------------


def directed(page: Page, elements: Iterable[int], wanted: str) -> Iterator[int]:
    """The elements whose text runs `ltr` or `rtl`."""
    wanted = wanted.lower()
    if wanted not in ("ltr", "rtl"):
        return
    given = page.index.attribute_column("dir")
    known: dict[int, str] = {}

    def direction(index: int) -> str:
        line = []
        at = index
        while at >= 0 and at not in known:
            own = _own(page, at, given.get(at, "").lower())
            if own:
                known[at] = own
                break
            line.append(at)
            at = above(page, at)
        side = known.get(at, "ltr")
        for passed in line:
            known[passed] = side
        return side

    for index in elements:
        if direction(index) == wanted:
            yield index


def _own(page: Page, index: int, given: str) -> str:
    """What an element says of itself: by its attribute, or by its text where that is asked for; empty where it inherits."""
    if page.namespace[index] != HTML:
        return ""
    tag = page.tags[index]
    if given in ("ltr", "rtl"):
        return given
    if given == "auto" or tag == "bdi":
        return _by_text(page, index, tag)
    if tag == "input" and (page.attribute(index, "type") or "").lower() == "tel":
        return "ltr"
    return ""


def _by_text(page: Page, index: int, tag: str) -> str:
    if tag in ("input", "textarea"):
        kind = (page.attribute(index, "type") or "text").lower()
        if tag == "input" and kind not in _TEXT_INPUT:
            return "ltr"
        state = page.facts.form.get(index, {}) if page.facts else {}
        value = state.get("value", page.semantics.raw_text(index) if tag == "textarea" else page.attribute(index, "value"))
        return strong(str(value or "")) or "ltr"
    return _contained(page, index) or "ltr"


def _contained(page: Page, index: int) -> str:
    """The direction of the first letter that has one, in the flat tree; parts that say their own are passed over."""
    reading, count = Reading.of(page), len(page)
    first = reading.nodes.children.get(index, [])
    stack = list(reversed(reading.slots.get(index) or first))
    while stack:
        node = stack.pop()
        if node >= count:
            direction = "" if page.text_comment[node - count] else strong(page.text_values[node - count])
            if direction:
                return direction
        elif page.tags[node] not in ("bdi", "script", "style", "textarea", "input") and page.attribute(node, "dir") is None:
            stack.extend(reversed(reading.slots.get(node) or reading.nodes.children.get(node, [])))
    return ""


def strong(text: str) -> str:
    """The direction of the first letter that has one."""
    for letter in text:
        kind = unicodedata.bidirectional(letter)
        if kind == "L":
            return "ltr"
        if kind in ("R", "AL"):
            return "rtl"
    return ""
