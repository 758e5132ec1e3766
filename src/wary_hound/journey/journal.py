"""The journal of repairs beside a book: when, why, how sure, before and after; and the way back."""

from __future__ import annotations

import hashlib
import json
import os
from collections.abc import Mapping, Sequence
from pathlib import Path

from pydantic import BaseModel, ConfigDict, ValidationError

from wary_hound.errors import FileError
from wary_hound.files import read_bytes, read_text
from wary_hound.journey.repairing import NamedRepair

KEPT = 20
"""So many applied repairs can be undone, one after the other."""


class Mended(BaseModel):
    """One locator that was put in."""

    model_config = ConfigDict(frozen=True, extra="ignore")

    name: str
    before: str
    after: str
    confidence: float
    outcome: str
    why: tuple[str, ...] = ()


class Record(BaseModel):
    """One repair that was applied. `files`: what each file (relative to the journal) held before, and the digest of what it held
    after (SHA-256)."""

    model_config = ConfigDict(frozen=True, extra="ignore")

    when: str
    old_page: str
    new_page: str
    mended: tuple[Mended, ...]
    files: dict[str, tuple[str, str]]


def journal_of(book: Path) -> Path:
    """The journal of a book: beside it, with its name."""
    return book.with_name(book.name + ".repairs.jsonl")


def read_journal(path: Path) -> list[Record]:
    """The records of a journal, the oldest first. FileError where it is broken; empty where there is none."""
    if not path.exists():
        return []
    entries = []
    for number, line in enumerate(read_text(path, "journal of repairs").splitlines(), 1):
        try:
            entries.append(Record.model_validate_json(line))
        except ValidationError as error:
            raise FileError(f"{path}: line {number} is no record of a repair ({error.errors()[0]['msg']})") from None
    return entries


def recorded(
    path: Path,
    repairs: Sequence[NamedRepair],
    before: Mapping[Path, bytes],
    after: Mapping[Path, bytes],
    pages: tuple[str, str],
    when: str,
) -> bytes:
    """The text of the journal with one more record, of files that change. `when`: the time, as it shall stand there."""
    mended = tuple(
        Mended(
            name=r.name,
            before=str(r.locator),
            after=str(r.repair.main.locator),
            confidence=round(r.repair.verdict.confidence, 4),
            outcome=r.repair.verdict.outcome,
            why=r.repair.verdict.reasons,
        )
        for r in repairs
        if r.repair is not None and r.repair.main is not None
    )
    files = {
        os.path.relpath(file, path.parent): (before[file].decode("latin-1"), hashlib.sha256(content).hexdigest())
        for file, content in after.items()
        if content != before[file]
    }
    record = Record(when=when, old_page=pages[0], new_page=pages[1], mended=mended, files=files)
    lines = [json.dumps(r.model_dump(), ensure_ascii=True) for r in [*read_journal(path), record][-KEPT:]]
    return ("\n".join(lines) + "\n").encode()


def undone(path: Path) -> tuple[Record, dict[Path, bytes], dict[Path, bytes | None]]:
    """The last record, what each file (and the journal) holds again without it, and what they must hold for that now.

    Raises FileError where there is nothing to undo, or where a file is no longer what the repair had made of it.
    """
    records = read_journal(path)
    if not records:
        raise FileError(f"{path}: there is no repair to undo")
    last = records[-1]
    files: dict[Path, bytes] = {}
    expected: dict[Path, bytes | None] = {}
    for name, (held, digest) in last.files.items():
        file = path.parent / name
        now = read_bytes(file)
        if hashlib.sha256(now).hexdigest() != digest:
            raise FileError(f"{file}: was changed since it was repaired ({last.when}); undo that by hand")
        files[file], expected[file] = held.encode("latin-1"), now
    expected[path] = read_bytes(path)
    files[path] = "".join(json.dumps(r.model_dump(), ensure_ascii=True) + "\n" for r in records[:-1]).encode()
    return last, files, expected
