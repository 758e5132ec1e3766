"""XPath 1.0: parsed to values, evaluated on the arena."""

from wary_hound.locator.xpath.evaluator import match
from wary_hound.locator.xpath.parser import parse

__all__ = ["match", "parse"]
