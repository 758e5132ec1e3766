"""Locators in the cells of a spreadsheet (Office Open XML): only the texts that change are written again, all else of the file
stays byte for byte, so that pictures, charts and formats are kept."""

from __future__ import annotations

import io
import re
import zipfile
from collections.abc import Iterator, Sequence
from html import escape, unescape
from pathlib import Path

from wary_hound.errors import FileError
from wary_hound.journey.sources import Found, Place, Renewal, found_at, held_in, rewritten

MOST_BYTES = 100_000_000
_PARTS = re.compile(r"xl/(?:sharedStrings|worksheets/[^/]+)\.xml\Z")
_TEXT = re.compile(r"<(?P<holder>si|is)>\s*<t(?:\s[^>]*)?>(?P<value>[^<]*)</t>\s*</(?P=holder)>")


def occurrences_in_workbook(path: Path, content: bytes, renewals: Sequence[Renewal]) -> dict[str, list[Found]]:
    """The cells that hold one of the locators as a whole, by the part of the file that holds their text. FileError where the
    file is no workbook."""
    by_cell: dict[str, list[Found]] = {}
    for name, text in _texts(path, content):
        for number, place in enumerate(_places(text), 1):
            held = held_in(place, renewals)
            if held is not None:
                by_cell.setdefault(name, []).append(found_at(path, number, *held))
    return by_cell


def rewritten_workbook(path: Path, content: bytes, found: dict[str, list[Found]]) -> bytes:
    """The file with what the cells should hold now."""
    texts = dict(_texts(path, content))
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(content)) as old, zipfile.ZipFile(out, "w") as new:
        for info in old.infolist():
            changed = found.get(info.filename)
            data = rewritten(texts[info.filename], changed).encode() if changed else old.read(info)
            new.writestr(info, data, info.compress_type)
    return out.getvalue()


def _texts(path: Path, content: bytes) -> Iterator[tuple[str, str]]:
    """The parts of a workbook that hold texts of cells."""
    try:
        with zipfile.ZipFile(io.BytesIO(content)) as book:
            if sum(info.file_size for info in book.infolist()) > MOST_BYTES:
                raise FileError(f"{path}: says more than {MOST_BYTES // 1_000_000} MB; that is no table of steps")
            if "xl/workbook.xml" not in book.namelist():
                raise FileError(f"{path}: this is no workbook (.xlsx)")
            for info in book.infolist():
                if _PARTS.match(info.filename):
                    yield info.filename, book.read(info).decode("utf-8")
    except (zipfile.BadZipFile, UnicodeDecodeError, NotImplementedError, RuntimeError, EOFError, OSError) as error:
        raise FileError(f"{path}: this workbook cannot be read ({type(error).__name__})") from None


def _places(text: str) -> Iterator[Place]:
    for cell in _TEXT.finditer(text):
        yield Place(cell.start("value"), cell.end("value"), unescape(cell.group("value")), lambda new: escape(new, quote=False))
