"""The public face, all in one place; `wary_hound` gives these names when they are first asked for."""

from wary_hound.authoring.portfolio import Portfolio, portfolio
from wary_hound.authoring.question import Question
from wary_hound.authoring.ranking import Candidate, assess, rank
from wary_hound.authoring.rules import Rules
from wary_hound.browser import Browser, Phone
from wary_hound.errors import (
    Ambiguous,
    BrowserError,
    BrowserTimeout,
    FactsError,
    FileError,
    LocatorError,
    NotationError,
    NotFound,
    NotSupported,
    PageClosed,
    PageError,
    StepFailed,
    WaryHoundError,
)
from wary_hound.healing import (
    Alignment,
    Fingerprint,
    Repair,
    Verdict,
    align,
    fingerprint,
    relocate,
    relocate_all,
    repair,
    repair_all,
)
from wary_hound.journey import Book, Journey
from wary_hound.locator.convert import convert
from wary_hound.locator.evaluate import match
from wary_hound.locator.explain import Explanation, explain
from wary_hound.locator.notation import parse
from wary_hound.locator.values import Locator
from wary_hound.page import Element, Page
from wary_hound.page.secrets import Secrets
from wary_hound.robustness.model import ChangeModel
from wary_hound.running.replay import Run, replay
from wary_hound.running.walking import walking

__all__ = [
    "Alignment",
    "Ambiguous",
    "Book",
    "Browser",
    "BrowserError",
    "BrowserTimeout",
    "Candidate",
    "ChangeModel",
    "Element",
    "Explanation",
    "FactsError",
    "FileError",
    "Fingerprint",
    "Journey",
    "Locator",
    "LocatorError",
    "NotFound",
    "NotSupported",
    "NotationError",
    "Page",
    "PageClosed",
    "PageError",
    "Phone",
    "Portfolio",
    "Question",
    "Repair",
    "Rules",
    "Run",
    "Secrets",
    "StepFailed",
    "Verdict",
    "WaryHoundError",
    "align",
    "assess",
    "convert",
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
    "replay",
    "walking",
]
