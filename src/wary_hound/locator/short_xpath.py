"""The XPath that an engineer would write for what a locator finds on a page at hand: by the tags that are there, and no longer than
it must be. Each is tried on the page, and taken only where it finds the very same."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import islice, product

from wary_hound.errors import LocatorError
from wary_hound.locator.blocks import row_of, section_of
from wary_hound.locator.evaluate import match
from wary_hound.locator.making import xpath
from wary_hound.locator.one_xpath import unrelated_xpath
from wary_hound.locator.values import Finder, Hop, Locator, Relation, TextQuery
from wary_hound.locator.xpath.building import NAME
from wary_hound.locator.xpath.printing import xpath_string
from wary_hound.page import Page

MOST_TRIED = 60
_AROUND = {Relation.ROW_OF: row_of, Relation.GROUP_OF: section_of}


def short_xpath(locator: Locator, page: Page) -> str | None:
    """The shortest that finds the same as a locator of one way in the page's top document; None where there is none that is
    shorter than the general one."""
    if locator.otherwise is not None or len(locator.hops) != 1 or locator.hops[0].anywhere:
        return None
    wanted = match(page, locator)
    if len(wanted) != 1 or page.tree[wanted[0]] != 0:
        return None
    tried = sorted(islice(_finder(locator.hops[0].finder, page, wanted[0]), MOST_TRIED), key=len)
    return next((one for one in tried if match(page, Locator((Hop(xpath(one)),))) == wanted), None)


def _finder(finder: Finder, page: Page, index: int) -> Iterator[str]:
    """Expressions that could find an element as a finder does."""
    if finder.ordinal is not None or len(finder.relations) > 1:
        return
    if not finder.relations:
        yield from _own(finder, page, index)
        return
    related = finder.relations[0]
    holder = _AROUND.get(related.relation)
    anchors = match(page, Locator((Hop(related.anchor),)))
    if holder is None or len(anchors) != 1:
        return
    around = holder(page, anchors[0])
    if around < 0 or page.tree[around] != page.tree[index] or not NAME.match(page.tags[around]):
        return
    bare = Finder(finder.strategy, finder.query)
    for anchor, own in product(_finder(related.anchor, page, anchors[0]), _own(bare, page, index)):
        if anchor.startswith("//"):
            yield f"//{page.tags[around]}[.{anchor}]{own}"
            yield f"{anchor}/ancestor::{page.tags[around]}[1]{own}"


def _own(finder: Finder, page: Page, index: int) -> Iterator[str]:
    said = _said(finder)
    tag = page.tags[index]
    try:
        whole = unrelated_xpath(finder)
    except LocatorError:
        whole = ""
    if whole.startswith("//") and " | " not in whole:
        yield whole
    if not NAME.match(tag) or page.namespace[index]:
        return
    given = page.attribute(index, "role")
    if finder.strategy == "role":
        yield f"//*[@role={xpath_string(given)}]" if given else f"//{tag}"
    if said is None:
        return
    for test in _tests(said):
        yield f"//{tag}[{test}]"
        if given and finder.strategy == "role":
            yield f"//*[@role={xpath_string(given)}][{test}]"


def _said(finder: Finder) -> TextQuery | None:
    tree = finder.query.tree
    if finder.strategy in ("text", "label"):
        return tree if isinstance(tree, TextQuery) else None
    name = tree.name if finder.strategy == "role" else None
    return name if isinstance(name, TextQuery) else None


def _tests(said: TextQuery) -> Iterator[str]:
    """What of an element may make a text, a name or a label of it."""
    quoted = xpath_string(said.text)

    def reads(expression: str) -> str:
        return f"contains({expression}, {quoted})" if said.part else f"{expression}={quoted}"

    yield reads(".")
    yield reads("normalize-space()")
    for name in ("aria-label", "value", "title", "alt", "placeholder"):
        yield reads(f"@{name}")
    for label in (reads("."), reads("normalize-space()"), f"starts-with(normalize-space(), {quoted})"):
        yield f"@id=//label[{label}]/@for"
        yield f"ancestor::label[{label}]"
