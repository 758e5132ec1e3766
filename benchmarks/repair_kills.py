"""Repairs that are killed while they write: what is left, once the next command has started. Run:

python benchmarks/repair_kills.py [times]

A book and thirty-odd sources in six languages are repaired from one release of the demo to another, in a process of its own, which
is killed: every other time at a moment within the whole repair, else within the writing, at a moment behind the first file that
is written aside. Then the book is read, as whatever comes next would. All files must hold what they held, or
all what the repair writes.
"""

from __future__ import annotations

import os
import random
import shutil
import signal
import sys
import tempfile
import time
from collections import Counter
from pathlib import Path

from click.testing import CliRunner

from wary_hound import Book
from wary_hound.cli import group
from wary_hound.demo.tour import unpack
from wary_hound.files import ASIDE, JOURNAL
from wary_hound.journey.journal import journal_of

REPAIR = (
    "repair", "pages/nights@r1.html", "pages/nights@r3.html", "--book", "books/nights.yaml", "--source", "suite", "--apply",
)  # fmt: skip
COPIES = 4


def repairing() -> int:
    """A repair in a process of its own; its number."""
    child = os.fork()
    if child == 0:
        null = os.open(os.devnull, os.O_WRONLY)
        os.dup2(null, 1)
        os.dup2(null, 2)
        group.main(list(REPAIR), standalone_mode=False)
        os._exit(0)
    return child


def written_aside(folder: Path) -> bool:
    """Whether the writing has begun."""
    return any(folder.glob(f"suite/.*{ASIDE}")) or any(folder.glob(f"books/.*{ASIDE}"))


def main(times: int = 200) -> None:
    """Print what was left of so many repairs."""
    dice = random.Random(5)
    with tempfile.TemporaryDirectory() as made:
        os.chdir(made)
        folder = Path(made)
        unpack(folder)
        (folder / "suite").mkdir()
        for source in sorted((Path(__file__).parent.parent / "examples" / "sources").iterdir()):
            for number in range(COPIES + 1):
                shutil.copy(source, folder / "suite" / f"{source.stem}{number}{source.suffix}")
        book = folder / "books" / "nights.yaml"
        old = {path: path.read_bytes() for path in [*(folder / "suite").iterdir(), book]}
        CliRunner().invoke(group, REPAIR[:-1])  # what a first command has to load is no part of what is killed
        begun, child = time.monotonic(), repairing()
        while not written_aside(folder):
            pass
        writes_from = time.monotonic()
        os.waitpid(child, 0)
        whole, writing = time.monotonic() - begun, time.monotonic() - writes_from
        new = {path: path.read_bytes() for path in old}
        changes = sum(new[path] != content for path, content in old.items())
        left: Counter[str] = Counter()
        stages: Counter[str] = Counter()
        for number in range(times):
            for path, content in old.items():
                path.write_bytes(content)
            journal_of(book).unlink(missing_ok=True)
            child = repairing()
            if number % 2:
                time.sleep(whole * dice.uniform(0.0, 1.1))
            else:
                while not written_aside(folder) and not os.waitpid(child, os.WNOHANG)[0]:
                    pass
                time.sleep(writing * dice.uniform(0.0, 1.0))
            try:
                os.kill(child, signal.SIGKILL)
                os.waitpid(child, 0)
            except (ProcessLookupError, ChildProcessError):
                stages["done before"] += 1
            stages["journal there"] += any((folder / name / JOURNAL).exists() for name in ("books", "suite"))
            stages["files of both kinds"] += {path: path.read_bytes() for path in old} not in (old, new)
            stages["written aside"] += written_aside(folder)
            Book.read(book if number % 4 < 2 else book.relative_to(folder))  # from beside it, as people name it, too
            held = {path: path.read_bytes() for path in old if path.exists()}
            left["all old" if held == old else "all new" if held == new else "half done" if len(held) == len(old) else "lost"] += 1
        print(
            f"{times} repairs of {changes} files killed: {left['all old']} all old, {left['all new']} all new, "
            f"{left['half done']} half done, {left['lost']} lost"
        )
        print(
            f"at the kill: {stages['written aside']} with files written aside, {stages['journal there']} with a journal, "
            f"{stages['files of both kinds']} with files of both kinds, {stages['done before']} done before"
        )


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 200)
