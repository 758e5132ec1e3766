"""What one element says, as texts to compare: attributes, classes, icons, values with and without a counter."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from functools import lru_cache

from wary_hound.healing.fingerprint import LONGEST
from wary_hound.page import Page
from wary_hound.page.index import tokens
from wary_hound.robustness.looks import look_of_class, look_of_text, look_of_token

_REFERRING = frozenset(
    {"for", "aria-labelledby", "aria-controls", "aria-describedby", "aria-owns", "aria-activedescendant", "list", "form"}
)
_HANDLED = frozenset({"id", "name", "href", "value", "type", "class", "style", "d", "src"})
_ICON_FONT = re.compile(r"(?:.*[-_])?(?:icon|icons|fa|glyphicon|mdi|bi)(?:[-_].+)?\Z", re.I)
_SCHEME = re.compile(r"https?:(?=//)", re.I)
_FILE_END = re.compile(r"[?#].*\Z")
_LONG = re.compile(r"\d{4,}|(?<![0-9a-f])(?=[a-f]{0,40}\d)[0-9a-f]{6,}|=\Z", re.I)
LONGEST_CALLED = 500
"""No name is longer that goes on to give a hint."""
_DIGEST = re.compile(r"[.-][0-9a-f]{6,}(?=\.|\Z)|-\d+(?:\.\d+)+(?=\.|\Z)", re.I)
_HINT = re.compile(
    r"\s*[:\u2013\u2014-]\s*(?:activate|click|press|select|tap|use)\b.*\Z|\s*[-\u2013\u2014]?\s*[\[(](?:alt|cmd|ctrl|meta|shift|[\^\u2318\u2325\u21e7])[^\])]*[\])]\s*\Z",
    re.I,
)
_SIGNS = str.maketrans("\u2018\u2019\u201c\u201d\u2013\u2014\u2212\xa0", "''\"\"--- ", "\u00ad\u200b\u2060\ufeff\u00b6")
_UNSEEN = re.compile("[\u200b-\u200f\ue000-\uf8ff]")
"""Marks of direction, and the signs of icon fonts."""


@lru_cache(maxsize=50_000)
def plainly(text: str) -> str:
    """A text (or several, one a line) as a person would read it aloud: whatever its letter case, its quotation marks and dashes,
    and signs that only adorn it. Such a sign alone stays."""
    lines = _UNSEEN.sub("", text.translate(_SIGNS)).casefold().split("\n")
    return "\n".join(" ".join(line.split()) for line in lines).strip() or text


def unhinted(name: str, shown: str) -> str:
    """What something is called, without the hint that its name goes on to give: what a press would do, which keys do the same."""
    if shown and name.startswith(2 * shown):  # what is shown, and the name of a control in it that begins so
        return shown
    return (_HINT.sub("", name) or name) if len(name) <= LONGEST_CALLED else name


def is_test(name: str) -> bool:
    """Whether an attribute is one that tests or scripts look for."""
    return name.startswith("data-")


def is_other(name: str) -> bool:
    """Whether an attribute has no column of its own."""
    return name not in _HANDLED and not name.startswith("data-")


def listed(attributes: Mapping[str, str], wanted: Callable[[str], bool]) -> str:
    """Those of some attributes that are wanted, `name=value`, one a line; of what refers to an id with a counter, the name."""
    said = ((n, "" if n in _REFERRING and is_counted(v) else v[:LONGEST]) for n, v in attributes.items() if wanted(n))
    return "\n".join(sorted(f"{n}={v}" for n, v in said))


def address(value: str) -> str:
    """An address without what does not matter to where it leads: whether it is secured, a slash at its end."""
    return _SCHEME.sub("", value.rstrip("/")) or value


def leads_elsewhere(value: str) -> bool:
    """Whether an address leads to another page: not within this one, and not to a script."""
    return bool(value) and not value.startswith(("#", "javascript:"))


def lasting_classes(value: str) -> str:
    """The classes that do not merely say a state, one a line."""
    return "\n".join(sorted({c for c in tokens(value) if look_of_class(c) != "state"}))


def icon_of(page: Page, index: int) -> str:
    """What an element shows as a picture, of its own: path data, the name of a symbol, a file, or the classes of an icon font."""
    attributes = page.attributes_of(index)
    tag = page.tags[index]
    if tag == "path":
        return attributes.get("d", "")[:LONGEST]
    if tag == "use":
        return (attributes.get("href") or attributes.get("xlink:href") or "").rpartition("#")[2]
    if tag in ("img", "image", "input") and attributes.get("src"):
        name = (
            _FILE_END.sub("", attributes["src"]).rpartition("/")[2]
            if not attributes["src"].startswith("data:")
            else attributes["src"]
        )
        return _DIGEST.sub("", name)[:LONGEST]
    named = attributes.get("icon") or (attributes.get("name", "") if "icon" in tag else "")
    if named:
        return named[:LONGEST]
    if tag in ("i", "span", "em", "svg"):
        classes = tokens(attributes.get("class", ""))
        drawn = tag == "svg" or (page.end[index] == index + 1 and not page.semantics.own_text[index])
        font = [c for c in classes if _ICON_FONT.match(c)]
        return " ".join(font or [c for c in classes if drawn and look_of_class(c) == "named"])[:LONGEST]
    return ""


def if_number(value: str, numbered: bool) -> str:
    """A value where it holds a counter, or where it does not; else empty."""
    return value if value and is_counted(value) == numbered else ""


@lru_cache(maxsize=50_000)
def is_counted(value: str) -> bool:
    """Whether a name holds a counter, of a person or of a program: another element has it on another page. What a program makes at
    random, or by a digest, is nobody else's."""
    look = look_of_token(value)
    return look in ("numbered", "number") or (look == "generated" and not _LONG.search(value))


def if_figure(text: str, number: bool) -> str:
    """A text where it is a number or a date, or where it is not; else empty."""
    return text if text and (look_of_text(text) == "number") == number else ""
