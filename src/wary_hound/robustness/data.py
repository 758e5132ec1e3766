"""Words that are data: what a page shows is not always what it is. A status, an output, a counter are there to change."""

from __future__ import annotations

import re

from wary_hound.page import Page

_ROLES = frozenset({"status", "alert", "log", "timer", "marquee", "progressbar", "meter"})
_TAGS = frozenset({"output", "progress", "meter", "time", "textarea"})
_COUNTERS = re.compile(r"(?:^|[-_])(?:badge|count|counter|total|balance|price|amount|username|user-name|greeting)(?:$|[-_])", re.I)
ABOVE = 3
"""So many ancestors are asked, too: what stands in a status changes with it."""


def shows_data(page: Page, element: int) -> bool:
    """Whether the text of an element is data by what the page says of it: live regions and outputs (HTML, ARIA), the time, the
    text of fields, what a class or an id calls a counter, a price or a user's name."""
    for at in (element, *page.ancestors(element)[:ABOVE]):
        attributes = page.attributes_of(at)
        if page.tags[at] in _TAGS or page.semantics.roles[at] in _ROLES:
            return True
        if attributes.get("aria-live", "off").strip().lower() in ("polite", "assertive"):
            return True
    named = (page.attributes_of(element).get("id", ""), *page.attributes_of(element).get("class", "").split())
    return any(_COUNTERS.search(name) for name in named)
