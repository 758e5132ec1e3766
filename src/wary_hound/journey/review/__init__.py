"""Review: weaknesses of journeys, books and locators, each with its place, why, and a better form."""

from wary_hound.journey.review.findings import RULES, Finding, Place
from wary_hound.journey.review.reviewing import Reviewed, review

__all__ = ["RULES", "Finding", "Place", "Reviewed", "review"]
