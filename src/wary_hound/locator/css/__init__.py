"""CSS selectors: parsed to values, matched on the arena."""

from wary_hound.locator.css import cascading  # noqa: F401 -- says how selectors of style sheets are matched
from wary_hound.locator.css.matcher import match
from wary_hound.locator.css.parser import parse

__all__ = ["match", "parse"]
