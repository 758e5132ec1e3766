"""Locators that the browser can resolve by itself with the same meaning as on a snapshot: CSS and XPath within one document.

They need no capture, which on large pages is most of the time that an action takes.
"""

from __future__ import annotations

import json
from functools import lru_cache

from wary_hound.locator.explain import unknowable
from wary_hound.locator.values import Boundary, Locator


@lru_cache(maxsize=1000)
def direct_form(locator: Locator) -> str | None:
    """The ways for find.js as JSON; None where only a capture can tell (role, label, text, relations, frames, states)."""
    ways = [_hops(way) for way in locator.alternatives]
    return None if None in ways else json.dumps(ways)


def _hops(locator: Locator) -> list[list[str | int]] | None:
    inside = False
    hops: list[list[str | int]] = []
    for hop in locator.hops:
        finder = hop.finder
        if finder.relations or finder.strategy not in ("css", "xpath") or hop.boundary is Boundary.FRAME:
            return None
        inside = inside or hop.anywhere
        if inside and finder.strategy == "xpath":
            return None  # XPath knows no shadow trees
        inside = inside or hop.boundary is Boundary.SHADOW
        hops.append([str(hop.boundary), finder.strategy, finder.expression, finder.ordinal or 0, int(hop.anywhere)])
    return None if locator.hops[-1].boundary or unknowable(None, locator) else hops
