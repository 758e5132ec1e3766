"""What a person means who points at a part of a control: the control."""

from __future__ import annotations

from wary_hound.page import Element, Page
from wary_hound.page.trees import SVG

CONTROLS = frozenset(
    "button link checkbox radio combobox listbox option menuitem menuitemcheckbox menuitemradio tab switch slider treeitem".split()
)
MOST_ABOVE = 6
_SCROLLED = frozenset("region dialog alertdialog main document application tabpanel table grid log feed figure".split())
_ICONS = frozenset({"i", "img", "span", "em", "b", "picture", "canvas"})


def takes_focus(page: Page, index: int) -> bool:
    """Whether an element that may have no role is made to be used: it takes the focus by the keyboard (HTML, 6.6.3), a click, or
    what is written in it. No part of a page that is only scrolled, nor a dialog."""
    given = page.attribute(index, "tabindex") or ""
    if page.semantics.roles[index] in _SCROLLED:
        return False
    written = page.attribute(index, "contenteditable")
    return given.strip().isdecimal() or page.attribute(index, "onclick") is not None or (written is not None and written != "false")


def control_around(element: Element) -> Element | None:
    """The control that an icon or a part of a drawing stands in, which is what handles the click; None where the element is no
    such part, or stands in no control."""
    page, index = element.page, element.index
    drawn = page.namespace[index] == SVG
    if not drawn and (element.tag not in _ICONS or page.semantics.own_text[index] or element.role in CONTROLS):
        return None
    if drawn and element.role in CONTROLS:
        return None
    for at in page.ancestors(index)[:MOST_ABOVE]:
        if page.semantics.roles[at] in CONTROLS:
            return page[at]
    return None
