"""Locators in sources of any language: the strategy/value pairs of W3C WebDriver, reviewed by their looks."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path

from wary_hound.errors import NotationError
from wary_hound.files import read_text
from wary_hound.journey.review.findings import Finding, Place
from wary_hound.journey.review.of_locators import weaknesses
from wary_hound.locator.typed import typed

_PAIR = re.compile(
    r"""(["'])(?P<strategy>css selector|xpath)\1\s*(?:,|:|=>|=)\s*(?:["']?(?:value|selector)["']?\s*(?:,|:|=>|=)\s*)?"""
    r"""(?P<quote>["'`])(?P<value>(?:\\.|(?!(?P=quote))[^\\\n])*)(?P=quote)"""
)


def review_source(path: Path) -> Iterator[Finding]:
    """What is weak about the locators of a source file."""
    text = read_text(path, "source")
    for pair in _PAIR.finditer(text):
        value = re.sub(r"\\(.)", r"\1", pair["value"])
        line = text.count("\n", 0, pair.start()) + 1
        place = Place(path, line, pair.start() - text.rfind("\n", 0, pair.start()), pair["strategy"])
        try:
            locator = typed(value)
        except NotationError:
            continue
        told = set()
        for one in weaknesses(locator):
            if one.rule not in told:
                told.add(one.rule)
                yield Finding(one.rule, place, value, one.what)
