"""What a query rests on, as plain data: the facts of a page that must last for it to go on finding its element."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Fact:
    """One fact of one element.

    `kind`: tag, id, class, attribute, having (an attribute, whatever its value), text, content (the text as XPath reads it),
    accessible-name, label, role, place (among siblings), ordinal, state, child, descendant, sibling, adjacent, after, before,
    inside, other. `name`: the attribute's; `part`: only a part of the value is asked for; `begins`: that with which it begins.
    """

    kind: str
    element: int
    value: str = ""
    name: str = ""
    part: bool = False
    begins: bool = False
