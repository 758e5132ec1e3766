"""Sensible values for fields of forms, by their type, label, limits, pattern and options."""

from __future__ import annotations

import datetime
import importlib
import re
from dataclasses import dataclass
from typing import Any

from wary_hound.page import Element

_codes: Any = importlib.import_module("re._constants")
_parser: Any = importlib.import_module("re._parser")

BY_LABEL: tuple[tuple[str, str], ...] = (
    (r"first.?name|given", "first name"), (r"last.?name|surname|family", "last name"), (r"e-?mail", "email"),
    (r"phone|mobile|\btel\b", "phone"), (r"street|address", "street"), (r"town|city|place of", "town"),
    (r"company|organi[sz]ation|employer|society", "company"), (r"name|contact|person|who\b", "name"),
    (r"comment|message|note|description|about|remark|why|question", "sentence"),
    (r"title|subject|group|topic", "unique"),
)  # fmt: skip
BY_AUTOCOMPLETE = {
    "name": "name", "given-name": "first name", "family-name": "last name", "email": "email", "tel": "phone",
    "street-address": "street", "address-line1": "street", "address-level2": "town", "organization": "company",
    "username": "unique",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Filling:
    """What goes into a field: a `value`, or the `kind` of text to make up anew in each run."""

    value: str = ""
    kind: str = ""


def filling_for(element: Element) -> Filling:
    """A sensible value for a text field, a number, a date or the like; by what browsers check first."""
    attributes = element.attributes
    kind = attributes.get("type", "text").lower()
    match kind:
        case "number" | "range":
            return Filling(_number(attributes))
        case "date" | "month" | "week" | "time" | "datetime-local":
            return Filling(_date(kind, attributes))
        case "color":
            return Filling("#336699")
        case "url":
            return Filling("https://example.org/")
        case "password":
            return Filling(kind="password")
    if attributes.get("pattern"):
        return Filling(matching(attributes["pattern"]))
    if kind == "email":
        return Filling(kind="email")
    if kind == "tel":
        return Filling("00 123 456")
    said = " ".join([element.label or "", element.name or "", attributes.get("name", ""), attributes.get("placeholder", "")])
    made = BY_AUTOCOMPLETE.get(attributes.get("autocomplete", ""), "")
    made = made or next((what for pattern, what in BY_LABEL if re.search(pattern, said, re.I)), "")
    made = made or ("sentence" if element.tag == "textarea" else "word")
    least, most = (_whole(attributes.get(name)) for name in ("minlength", "maxlength"))
    if most is not None and most < 30:  # what is made up may be longer
        return Filling("".join("night"[i % 5] for i in range(max(least or 1, min(most, 5)))))
    if least is not None and least > 4:
        return Filling(("clear skies tonight " * (1 + least // 20))[: max(least, 12)].strip().ljust(least, "."))
    return Filling(kind=made)


def _whole(text: str | None) -> int | None:
    return int(text) if text and text.isdecimal() else None


def _number(attributes: dict[str, str]) -> str:
    def number(name: str) -> float | None:
        try:
            return float(attributes.get(name, ""))
        except ValueError:
            return None

    low, high, step = number("min"), number("max"), number("step") or 1.0
    start = low if low is not None else (high - 2 * step if high is not None else 1.0)
    value = start + step
    if high is not None and value > high:
        value = start
    if attributes.get("value") == _plain(value) and (high is None or value + step <= high):
        value += step  # another one than stands there, so that it can be seen
    return _plain(value)


def _plain(value: float) -> str:
    return str(int(value)) if value == int(value) else f"{value:.10g}"


def _date(kind: str, attributes: dict[str, str]) -> str:
    low, high = attributes.get("min", ""), attributes.get("max", "")
    if kind == "time":
        return low or high or "21:30"
    if kind == "week":
        return low or high or "2031-W33"
    if kind == "month":
        return low or high or "2031-08"
    clock = "T21:30" if kind == "datetime-local" else ""
    try:
        first = datetime.date.fromisoformat(low[:10]) if low else None
        last = datetime.date.fromisoformat(high[:10]) if high else None
    except ValueError:
        first = last = None
    day = first + datetime.timedelta(days=1) if first else last or datetime.date(2031, 8, 13)
    day = last if last is not None and day > last else day
    return f"{day.isoformat()}{clock}"


def matching(pattern: str) -> str:
    """A short text that a regular expression matches whole (that of a `pattern` attribute); empty where none was found."""
    try:
        made = "".join(_made(list(_parser.parse(pattern))))
        return made if re.fullmatch(pattern, made) else ""
    except (re.error, KeyError, ValueError, IndexError, RecursionError):
        return ""


def _made(parts: Any) -> list[str]:
    made: list[str] = []
    for code, value in parts:
        if code is _codes.LITERAL:
            made.append(chr(value))
        elif code is _codes.ANY:
            made.append("a")
        elif code is _codes.IN:
            made.append(_one_of(value))
        elif code in (_codes.MAX_REPEAT, _codes.MIN_REPEAT):
            low, high, inner = value
            times = min(max(low, 1 if high and not low else low, 3 if high >= 3 and low < 2 else low), high)
            made += [text for _ in range(times) for text in _made(inner)]
        elif code is _codes.SUBPATTERN:
            made += _made(value[3])
        elif code is _codes.BRANCH:
            made += _made(value[1][0])
        elif code is _codes.AT:
            continue
        else:
            raise ValueError(f"{code} is not made")
    return made


def _one_of(items: Any) -> str:
    if items and items[0][0] is _codes.NEGATE:
        raise ValueError("what is left out is not made")
    code, value = items[0]
    if code is _codes.LITERAL:
        return chr(value)
    if code is _codes.RANGE:
        return chr(value[0])
    if code is _codes.CATEGORY:
        return {_codes.CATEGORY_DIGIT: "7", _codes.CATEGORY_WORD: "n", _codes.CATEGORY_SPACE: " "}[value]
    raise ValueError(f"{code} is not made")
