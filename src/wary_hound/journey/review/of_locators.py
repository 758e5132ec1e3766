"""What is weak about a locator: by its looks, and better by the page that it was written on."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass

from wary_hound.authoring.question import Question
from wary_hound.authoring.ranking import rank
from wary_hound.authoring.targets import CONTROLS
from wary_hound.locator.evaluate import match
from wary_hound.locator.values import Finder, Locator
from wary_hound.page import Element, Page
from wary_hound.robustness.looks import look_of_class, look_of_token

_POSITION = re.compile(
    r":nth-(?:last-)?(?:child|of-type)\(\s*[-+\dn][^)]*\)|:(?:first|last)-(?:child|of-type)|\[\s*(?:\d+|last\(\))\s*\]|position\(\)"
)
_WILD = re.compile(r"(?<![\w)\]=.#\"'-])\*(?![\w=\"'])")
_PARTIAL = re.compile(r"\[(?:class|id|style)[*]=|contains\(\s*@(?:class|id|style)\b")
_QUOTED = re.compile(r"\"[^\"]*\"|'[^']*'")
_CLASS = re.compile(r"\.((?:[A-Za-z_-]|\\.)(?:[\w-]|\\.)*)")
_CLASS_VALUE = re.compile(r"@class\s*=\s*[\"']([^\"']+)[\"']|\[class=[\"']?([^\"'\]]+)")
_ID = re.compile(r"#((?:[A-Za-z_-]|\\.)(?:[\w-]|\\.)*)|@id\s*=\s*[\"']([^\"']+)[\"']|\[id=[\"']?([^\"'\]]+)")
_DATA = re.compile(r"\d")
_LIVE = frozenset({"status", "alert", "log", "timer", "progressbar", "meter"})
DEEP = 4
"""So many child combinators in a row are a path."""


@dataclass(frozen=True, slots=True)
class Weakness:
    """A rule that a locator breaks, and by what."""

    rule: str
    what: str


def weaknesses(locator: Locator) -> Iterator[Weakness]:
    """What is weak by a locator's looks alone."""
    for way in locator.alternatives:
        for hop in way.hops:
            yield from _of_finder(hop.finder)


def _of_finder(finder: Finder) -> Iterator[Weakness]:
    text = finder.expression
    bare = _QUOTED.sub('""', text)
    if finder.ordinal:
        yield Weakness("position", f"#{finder.ordinal}")
    if finder.strategy not in ("css", "xpath"):
        return
    hit = _POSITION.search(bare)
    if hit:
        yield Weakness("position", hit.group())
    absolute = text.strip().startswith(("/html", "html >", "html>", "body >", "body>"))
    if absolute or (finder.strategy == "css" and bare.count(">") >= DEEP):
        yield Weakness("absolute-path", text)
    wild = _PARTIAL.search(bare) or (_WILD.search(bare) if finder.strategy == "css" else re.search(r"(?:^|/|::)\*(?!\w)", bare))
    if wild:
        yield Weakness("wildcard", wild.group())
    for name in _classes(finder.strategy, text, bare):
        look = look_of_class(name)
        if look in ("generated", "hashed"):
            yield Weakness("generated", f".{name}")
        elif look in ("utility", "state"):
            yield Weakness("styling-class", f".{name}")
    for groups in _ID.findall(bare if finder.strategy == "css" else text):
        name = next(group for group in groups if group)
        if look_of_token(name) in ("generated", "hashed"):
            yield Weakness("generated", f"#{name}")


def _classes(strategy: str, text: str, bare: str) -> list[str]:
    classes = list(_CLASS.findall(bare)) if strategy == "css" else []
    for one, other in _CLASS_VALUE.findall(text):
        classes += (one or other).split()
    return classes


def weak_on(locator: Locator, page: Page, observed: bool) -> Iterator[Weakness]:
    """What is weak on the page that a locator was written on. `observed`: whether the element is checked, not acted on."""
    matched = match(page, locator.alternatives[0])
    if not matched:
        yield Weakness("matches-nothing", str(locator))
        return
    if len(matched) > 1:
        yield Weakness("matches-many", f"{len(matched)} elements")
        return
    element = page[matched[0]]
    finder = locator.alternatives[0].hops[-1].finder
    control = control_of(element)
    if control is not None and not observed:
        yield Weakness("not-the-control", f"<{element.tag}> in {control}")
    if finder.strategy == "css":
        ids = _ids(page)
        for name in _classes("css", finder.expression, _QUOTED.sub('""', finder.expression)):
            if name in ids and f"#{name}" not in finder.expression:
                yield Weakness("class-for-id", f".{name}")
    if _by_own_text(finder) and (_is_live(element) or (observed and _DATA.search(element.text or ""))):
        yield Weakness("data-as-locator", element.text)


def _ids(page: Page) -> set[str]:
    return {value for i in range(len(page)) if (value := page.attribute(i, "id"))}


def _by_own_text(finder: Finder) -> bool:
    return finder.strategy == "text" or (finder.strategy == "xpath" and "text()" in finder.expression)


def _is_live(element: Element) -> bool:
    page = element.page
    inside = (element.index, *page.ancestors(element.index))
    return any(page.semantics.roles[i] in _LIVE or page.attribute(i, "aria-live") for i in inside)


def control_of(element: Element) -> Element | None:
    """The control that handles a click on an element that is a part of it; None where it is one itself, or in none."""
    page = element.page
    if page.semantics.roles[element.index] in CONTROLS or element.tag in ("input", "select", "textarea", "label", "summary"):
        return None
    for at in page.ancestors(element.index)[:6]:
        if page.semantics.roles[at] in CONTROLS:
            return page[at]
    return None


def better_for(locator: Locator, page: Page, rule: str, purpose: str = "") -> str:
    """What would be a better locator on the page that it was written on; empty where none is known that breaks no rule."""
    matched = match(page, locator.alternatives[0])
    if len(matched) != 1:
        return ""
    element = page[matched[0]]
    if rule == "not-the-control":
        element = control_of(element) or element
    for candidate in rank(element, Question(purpose=purpose, ways=1))[:5]:
        fresh = candidate.locator
        if fresh != locator and not [*weaknesses(fresh), *weak_on(fresh, page, purpose in ("read", "check"))]:
            return str(fresh)
    return ""
