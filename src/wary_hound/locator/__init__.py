"""The locator language: values, notation, css, xpath, role, label, text, relations; evaluation and explanation."""

from wary_hound.locator.evaluate import match
from wary_hound.locator.notation import parse
from wary_hound.locator.values import Boundary, Finder, Hop, Locator, Relation

__all__ = ["Boundary", "Finder", "Hop", "Locator", "Relation", "match", "parse"]
