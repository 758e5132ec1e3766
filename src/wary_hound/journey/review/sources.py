"""Locators in sources of any language, reviewed by their looks: in our notation, as the strategy/value pairs of W3C WebDriver, and
in Python as what a call of a live page is given."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path

from wary_hound.errors import NotationError
from wary_hound.files import read_text
from wary_hound.journey.review.findings import Finding, Place
from wary_hound.journey.review.of_locators import Weakness, weaknesses
from wary_hound.journey.sources import LANGUAGES
from wary_hound.journey.sources import Place as Written
from wary_hound.locator.notation import parse
from wary_hound.locator.typed import typed
from wary_hound.locator.values import Locator

_OURS = re.compile(r"\A\s*(?:css|xpath|role|label|text)\{")
_OF_A_PAGE = re.compile(
    r"\.(?:find|find_all|wait_for|outline|click|double_click|right_click|hover|drag|scroll_to|type|add|clear|choose|unchoose|tick"
    r"|untick|upload|state|style|picture|until_\w+|guard)\(\s*\Z"
)
_SLEEP = re.compile(r"^(?!\s*(?:#|//|\*)).*?(?P<call>\b[\w.]*[sS]leep\(\s*(?:[\w.]*\()?\d[\d_.]*)", re.MULTILINE)


def is_source(path: Path) -> bool:
    """Whether a file is a source with locators in it, and not a journey in one of its forms."""
    end = path.suffix.lower()
    if end not in LANGUAGES:
        return False
    journey = {".py": r"^with walking\(", ".csv": r"\A[^\n]*\baction\b[^\n]*\belement\b", ".tsv": r"\A[^\n]*\baction\b"}.get(end)
    return journey is None or re.search(journey, read_text(path, "source"), re.MULTILINE) is None


def review_source(path: Path) -> Iterator[Finding]:
    """What is weak about the locators of a source file, and waits of a fixed time, in the order of the file."""
    text = read_text(path, "source")
    found = [*_of_strings(path, text), *_of_waits(path, text)]
    yield from sorted(found, key=lambda f: (f.place.line, f.place.column))


def _of_strings(path: Path, text: str) -> Iterator[Finding]:
    for written in LANGUAGES[path.suffix.lower()](text):
        locator, what = _meant(written, text, path.suffix.lower() == ".py")
        told: set[str] = set()
        for one in weaknesses(locator) if locator is not None else ():
            if one.rule not in told:
                told.add(one.rule)
                yield _finding(path, text, written.start, what, written.value, one)


def _of_waits(path: Path, text: str) -> Iterator[Finding]:
    for wait in _SLEEP.finditer(text):
        said = f"{wait['call']})"
        yield _finding(path, text, wait.start("call"), "", said, Weakness("fixed-wait", said))


def _finding(path: Path, text: str, at: int, what: str, about: str, weakness: Weakness) -> Finding:
    line, column = text.count("\n", 0, at) + 1, at - text.rfind("\n", 0, at)
    return Finding(weakness.rule, Place(path, line, column, what), about, weakness.what)


def _meant(written: Written, text: str, python: bool) -> tuple[Locator | None, str]:
    """The locator that a string is, and how it is said; None where it is none."""
    value, strategy = written.value, written.strategy
    try:
        if written.pieced:
            return None, ""
        if _OURS.match(value):
            return parse(value), "notation"
        if strategy in ("css", "xpath"):
            return typed(value), "css selector" if strategy == "css" else "xpath"
        if strategy == "id" and re.fullmatch(r"[A-Za-z_][\w-]*", value):
            return parse(f"css{{#{value}}}"), "id"
        if python and _OF_A_PAGE.search(text, max(0, written.start - 80), written.start):
            return typed(value), "call"
    except NotationError:
        pass  # a name of a book, or no locator at all
    return None, ""
