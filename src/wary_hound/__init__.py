"""Wary Hound: element locators that last, and what became of them.

from wary_hound import Page, explain, rank, relocate, repair

page = Page.read("nights.html")
button = page.find('role{button "Hold this night"}')
best = rank(button)[0]
"""

from wary_hound.authoring.portfolio import Portfolio, portfolio
from wary_hound.authoring.ranking import Candidate, assess, rank
from wary_hound.errors import (
    Ambiguous,
    BrowserError,
    BrowserTimeout,
    FactsError,
    FileError,
    LocatorError,
    NotationError,
    NotFound,
    PageError,
    WaryHoundError,
)
from wary_hound.healing import Fingerprint, Repair, Verdict, fingerprint, relocate, relocate_all, repair, repair_all
from wary_hound.locator.evaluate import match
from wary_hound.locator.explain import Explanation, explain
from wary_hound.locator.finding import find, find_all
from wary_hound.locator.notation import parse
from wary_hound.locator.values import Locator
from wary_hound.page import Element, Page
from wary_hound.page.arena import Finding
from wary_hound.robustness.model import ChangeModel

# page/ knows no notation: here, and only here, the locator language is given to Page.find and Page.find_all.
Finding.one = staticmethod(find)
Finding.all = staticmethod(find_all)

__version__ = "0.1.0"

__all__ = [
    "Ambiguous",
    "BrowserError",
    "BrowserTimeout",
    "Candidate",
    "ChangeModel",
    "Element",
    "Explanation",
    "FactsError",
    "FileError",
    "Fingerprint",
    "Locator",
    "LocatorError",
    "NotFound",
    "NotationError",
    "Page",
    "PageError",
    "Portfolio",
    "Repair",
    "Verdict",
    "WaryHoundError",
    "assess",
    "explain",
    "fingerprint",
    "match",
    "parse",
    "portfolio",
    "rank",
    "relocate",
    "relocate_all",
    "repair",
    "repair_all",
]
