"""Yardsticks: what people get from copying a path, or from a ladder of attributes. To measure our own against."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from wary_hound.authoring.candidates import boundary_of, is_unique
from wary_hound.authoring.paths import absolute_xpath, copied_path
from wary_hound.locator.css.building import selector
from wary_hound.locator.css.values import Attribute, Class
from wary_hound.locator.making import css, text
from wary_hound.locator.values import Finder, Hop, Locator
from wary_hound.page import Element, Page
from wary_hound.page.index import tokens
from wary_hound.robustness.dependency import attribute_kind

LADDER = ("id", "name", "aria-label", "placeholder", "title", "href", "value")


def attribute_ladder(page: Page, index: int, texts: bool = True) -> Finder:
    """The first unique of test attribute, id, name, aria-label, placeholder, title, href, value, text (where those are allowed),
    class; else a path."""
    attributes = page.attributes_of(index)
    tests = [name for name in attributes if attribute_kind(name) == "test-attribute"]
    for name in (*tests, *LADDER):
        if attributes.get(name):
            finder = css(selector(Attribute(name, "=", attributes[name])))
            if _unique(page, finder, index):
                return finder
    shown = page.semantics.text[index]
    if texts and 0 < len(shown) <= 200 and _unique(page, text(shown), index):
        return text(shown)
    for token in tokens(attributes.get("class", "")):
        finder = css(selector(Class(token)))
        if _unique(page, finder, index):
            return finder
    return copied_path(page, index)


def _unique(page: Page, finder: Finder, index: int) -> bool:
    return is_unique(page, (Hop(finder),), (int(page.tree[index]), -1), index)


def whole(element: Element, way: Callable[[Page, int], Finder]) -> Locator:
    """A way of locating within a tree, applied to each host on the way and to the element."""
    page = element.page
    hops = [Hop(way(page, host), boundary_of(page, host)) for host in page.hosts(element.index)]
    return Locator((*hops, Hop(way(page, element.index))))


YARDSTICKS: dict[str, Callable[[Page, int], Finder]] = {
    "absolute path": absolute_xpath,
    "copied path": copied_path,
    "attribute ladder": attribute_ladder,
    "ladder in css": partial(attribute_ladder, texts=False),
}
