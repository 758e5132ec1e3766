"""What a person means who points at a part of a control: the control."""

from __future__ import annotations

from wary_hound.page import Element
from wary_hound.page.trees import SVG

CONTROLS = frozenset(
    "button link checkbox radio combobox listbox option menuitem menuitemcheckbox menuitemradio tab switch slider treeitem".split()
)
MOST_ABOVE = 6
_ICONS = frozenset({"i", "img", "span", "em", "b", "picture", "canvas"})


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
