"""Journeys, steps, checks and books: values and files; rewriting files in place."""

from wary_hound.journey.book import Book, Entry
from wary_hound.journey.journey import Journey
from wary_hound.journey.steps import Step

__all__ = ["Book", "Entry", "Journey", "Step"]
