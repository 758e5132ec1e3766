"""What a person means who clicks somewhere: the control that handles it, not the icon or the paragraph in it."""

from __future__ import annotations

from wary_hound.page import Element, Page

HANDLERS = frozenset(
    "button link checkbox radio combobox option menuitem menuitemcheckbox menuitemradio tab switch treeitem".split()
)


def handler_of(element: Element, aim: Element | None) -> Element:
    """What handles a click: the control that the element is in, also as the host of its tree, or what shows the same hand around
    it, or the element itself."""
    page: Page = element.page
    for inner in (element.index, *reversed(page.hosts(element.index))):
        for index in (inner, *page.ancestors(inner)):
            if page.semantics.roles[index] in HANDLERS or page.tags[index] in ("summary", "label"):
                return page[index]
    return aim or element
