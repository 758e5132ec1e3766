"""Values of number and date fields as numbers, and their limits (HTML, section 4.10.5.1)."""

from __future__ import annotations

import datetime
import re

_NUMBER = re.compile(r"-?(?:\d+(?:\.\d+)?|\.\d+)(?:[eE][-+]?\d+)?\Z")
_DATE = re.compile(r"(\d{4,})-(\d\d)-(\d\d)\Z")
_MONTH = re.compile(r"(\d{4,})-(\d\d)\Z")
_WEEK = re.compile(r"(\d{4,})-W(\d\d)\Z")
_TIME = re.compile(r"(\d\d):(\d\d)(?::(\d\d)(?:\.(\d{1,3}))?)?\Z")


def number_of(kind: str, value: str) -> float | None:
    """The value of a field as a number: days, months, weeks (in days), milliseconds; None where it is none."""
    try:
        match kind:
            case "number" | "range":
                number = float(value) if _NUMBER.match(value) and len(value) < 400 else None
                return None if number in (float("inf"), float("-inf")) else number
            case "date":
                return _date(value)
            case "month":
                read = _MONTH.match(value)
                return float(int(read[1]) * 12 + int(read[2])) if read and 1 <= int(read[2]) <= 12 and int(read[1]) else None
            case "week":
                read = _WEEK.match(value)
                return float(datetime.date.fromisocalendar(int(read[1]), int(read[2]), 1).toordinal()) if read else None
            case "time":
                return _time(value)
            case "datetime-local":
                day, _, hour = value.replace("T", " ").partition(" ")
                date, time = _date(day), _time(hour)
                return None if date is None or time is None else date * 86_400_000 + time
            case _:
                return None
    except (ValueError, OverflowError):
        return None


def _date(value: str) -> float | None:
    read = _DATE.match(value)
    return float(datetime.date(int(read[1]), int(read[2]), int(read[3])).toordinal()) if read else None


def _time(value: str) -> float | None:
    read = _TIME.match(value)
    if not read or int(read[1]) > 23 or int(read[2]) > 59 or int(read[3] or 0) > 59:
        return None
    return float(((int(read[1]) * 60 + int(read[2])) * 60 + int(read[3] or 0)) * 1000 + int((read[4] or "0").ljust(3, "0")))


def limits_of(kind: str, low: str | None, high: str | None) -> tuple[float | None, float | None] | None:
    """The limits of a field; None where it has none. A range has limits even where it names none."""
    if kind not in ("number", "range", "date", "month", "week", "time", "datetime-local"):
        return None
    least, most = number_of(kind, low or ""), number_of(kind, high or "")
    if kind == "range":
        return 0.0 if least is None else least, 100.0 if most is None else most
    return None if least is None and most is None else (least, most)
