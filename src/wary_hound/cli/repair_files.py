"""The files that a repair changes: the book, journeys, and sources in any language; all of them or none."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import UTC, datetime
from pathlib import Path

import click

from wary_hound.errors import FileError
from wary_hound.files import read_bytes, write_aside
from wary_hound.journey import yaml_text
from wary_hound.journey.journal import journal_of, recorded, undone
from wary_hound.journey.repairing import NamedRepair
from wary_hound.journey.sources import LANGUAGES, Found, Renewal, occurrences, renewal, rewritten
from wary_hound.journey.workbook import occurrences_in_workbook, rewritten_workbook
from wary_hound.report.terminal import console

WORKBOOK = ".xlsx"
MOST_BYTES = 5_000_000
"""A longer file is no source that a person wrote."""
_LEFT_OUT = frozenset({"node_modules", "__pycache__", "venv", "build", "dist", "target"})


@dataclass
class Changes:
    """What files hold, and what they will hold; and where locators stand in sources."""

    before: dict[Path, bytes]
    after: dict[Path, bytes]
    found: list[Found] = field(default_factory=list)

    @property
    def changed(self) -> list[Path]:
        """The files that will hold something else."""
        return [path for path in self.before if self.before[path] != self.after[path]]

    def diff(self) -> str:
        """The change of all text files as one unified diff."""
        texts = [path for path in self.changed if path.suffix.lower() != WORKBOOK]
        return yaml_text.unified_diff({p: self.before[p].decode() for p in texts}, {p: self.after[p].decode() for p in texts})

    def apply(self, book: Path, repairs: Sequence[NamedRepair], pages: tuple[str, str]) -> None:
        """Write all of them, with a record in the book's journal, or none. FileError where one was changed meanwhile."""
        if not self.changed:
            return
        journal = journal_of(book)
        was = read_bytes(journal, "journal of repairs") if journal.exists() else None
        when = datetime.now(UTC).isoformat(timespec="seconds")
        record = recorded(journal, repairs, self.before, self.after, pages, when)
        files = {path: self.after[path] for path in self.changed}
        write_aside({**files, journal: record}, {**{path: self.before[path] for path in files}, journal: was})


def changes_of(
    texts: Mapping[Path, str], after: Mapping[Path, str], repairs: Sequence[NamedRepair], sources: Sequence[Path]
) -> Changes:
    """The change of the book and the journeys, and of all sources in which the old locators stand."""
    changes = Changes({path: text.encode() for path, text in texts.items()}, {path: after[path].encode() for path in texts})
    renewals = [entry for named in repairs if (entry := _renewal(named)) is not None]
    for path in files_of(sources):
        if path not in changes.before:
            _source(path, renewals, changes)
    return changes


def _renewal(named: NamedRepair) -> Renewal | None:
    repair = named.repair
    if repair is None or repair.main is None or repair.verdict.element is None:
        return None
    locators = [repair.main.locator, *(c.locator for c in repair.candidates if not c.weak)]
    return renewal(named.name, named.locator, repair.verdict.element, locators)


def _source(path: Path, renewals: Sequence[Renewal], into: Changes) -> None:
    content = read_bytes(path, "source", MOST_BYTES)
    if path.suffix.lower() == WORKBOOK:
        parts = occurrences_in_workbook(path, content, renewals)
        places = [entry for entries in parts.values() for entry in entries]
        new = rewritten_workbook(path, content, parts) if any(entry.after is not None for entry in places) else content
    else:
        try:
            text = content.decode("utf-8")
        except UnicodeDecodeError:
            click.echo(f"wary-hound: note: {path}: left alone, since it is no UTF-8 text", err=True)
            return
        places = occurrences(path, text, renewals)
        new = rewritten(text, places).encode()
    if places:
        into.before[path], into.after[path] = content, new
        into.found.extend(places)


def files_of(sources: Sequence[Path]) -> Iterator[Path]:
    """Files as they were given, and those of a known language in folders. FileError where one is not there, or not known."""
    known = {*LANGUAGES, WORKBOOK}
    for source in sources:
        if source.is_dir():
            for path in sorted(source.rglob("*")):
                inside = path.relative_to(source).parts
                if path.suffix.lower() in known and path.is_file() and not any(p.startswith(".") or p in _LEFT_OUT for p in inside):
                    yield path
        elif not source.exists():
            raise FileError(f"{source}: there is no such file or folder")
        elif source.suffix.lower() not in known:
            raise FileError(f"{source}: strings of such a file are not known; known are {', '.join(sorted(known))}")
        else:
            yield source


def undo(book: Path) -> None:
    """Take the last repair back, and say what that was."""
    last, files, expected = undone(journal_of(book))
    write_aside(files, expected)
    out = console()
    out.print(f"Undone: the repair of {last.when} ({last.old_page} → {last.new_page})")
    for entry in last.mended:
        out.print(f"  {entry.name}: {entry.after}\n  {' ' * len(entry.name)}  back to {entry.before}")
    out.print("Changed: " + ", ".join(str(path) for path in files if path != journal_of(book)))
