"""Files read whole, and written whole or not at all.

A set of files is written aside first, under a lock on its folders, and then moved into place. A journal is written between the
two, so that after a kill at any moment the next start finds all of them old, or makes all of them new (write-ahead logging,
Gray and Reuter, Transaction Processing, chapter 9). What a killed writer left lying about is swept by the next.
"""

from __future__ import annotations

import contextlib
import json
import os
import stat
import tempfile
from collections.abc import Iterator, Mapping, Sequence
from pathlib import Path
from typing import Any

from wary_hound.errors import FileError

try:
    import fcntl
except ImportError:  # no such locks on this system
    fcntl = None  # type: ignore[assignment]

JOURNAL = ".wary-hound.journal"
ASIDE = ".wary-part"
MOST_BYTES = 50_000_000


def read_bytes(path: Path, what: str = "file", most: int = MOST_BYTES) -> bytes:
    """A file, whole. FileError where it is not there, cannot be read, is no regular file (a pipe, a device), or too long."""
    try:
        recover(path.parent)
        status = path.stat()
        if not stat.S_ISREG(status.st_mode):
            raise FileError(f"{path}: the {what} cannot be read: this is {_kind(status.st_mode)}")
        if status.st_size > most:
            raise FileError(f"{path}: more than {most // 1_000_000} MB; that is no {what}")
        return path.read_bytes()
    except FileNotFoundError:
        raise FileError(f"{path}: there is no such {what}") from None
    except (OSError, ValueError) as error:
        raise FileError(f"{path}: the {what} cannot be read ({getattr(error, 'strerror', None) or error})") from None


def read_text(path: Path, what: str = "file") -> str:
    """A text file, whole, its line ends as they are. FileError says what is wrong with it."""
    try:
        return read_bytes(path, what).decode("utf-8")
    except UnicodeDecodeError:
        raise FileError(f"{path}: this {what} is no UTF-8 text") from None


def write_aside(files: Mapping[Path, bytes], expected: Mapping[Path, bytes | None] | None = None) -> None:
    """Write several files, all or none. Links are followed to their targets; modes stay as they are.

    `expected`: what each of some files must hold for that, under the lock; None: it must not be there. Raises FileError, and
    nothing has changed, where one is read-only, is no regular file, holds something else by now, or cannot be written.
    """
    current = next(iter(files), Path())
    try:
        targets = {current: _target(current) for current in files}
        for current in targets.values():
            current.parent.mkdir(parents=True, exist_ok=True)
        folders = sorted({target.parent for target in targets.values()})
        with _locked(folders):
            for folder in folders:
                _recovered(folder)
            for path, content in (expected or {}).items():
                _check_unchanged(path, content)
            for current, target in targets.items():
                _check_writable(current, target)
            _write({targets[path]: content for path, content in files.items()}, folders)
    except OSError as error:
        raise FileError(f"{current}: cannot be written ({error.strerror or error}); nothing was changed") from None
    except ValueError as error:
        raise FileError(f"{current}: cannot be written ({error}); nothing was changed") from None


def recover(folder: Path) -> None:
    """Finish what a killed writer had begun in a folder."""
    if (folder / JOURNAL).exists():
        with contextlib.suppress(OSError), _locked([folder]):
            _recovered(folder)


def _kind(mode: int) -> str:
    tests = ((stat.S_ISDIR, "a folder"), (stat.S_ISFIFO, "a pipe"), (stat.S_ISCHR, "a device"), (stat.S_ISBLK, "a device"))
    return next((word for test, word in tests if test(mode)), "a socket")


def _target(path: Path) -> Path:
    return path.resolve() if path.is_symlink() else path


def _check_unchanged(path: Path, content: bytes | None) -> None:
    if content is None:
        if path.exists():
            raise FileError(f"{path}: is there already; nothing was written")
    elif not path.exists() or path.read_bytes() != content:
        raise FileError(f"{path}: was changed by somebody else meanwhile; nothing was written: run it again")


def _check_writable(path: Path, target: Path) -> None:
    if not target.exists():
        return
    status = target.stat()
    if not stat.S_ISREG(status.st_mode):
        raise FileError(f"{path}: cannot be written: this is {_kind(status.st_mode)}; nothing was changed")
    if not status.st_mode & stat.S_IWUSR or not os.access(target, os.W_OK):
        raise FileError(f"{path}: cannot be written: it is read-only; nothing was changed")


def _write(files: Mapping[Path, bytes], folders: Sequence[Path]) -> None:
    pairs: list[tuple[Path, Path]] = []
    try:
        for target, content in files.items():
            handle, name = tempfile.mkstemp(dir=target.parent, prefix=f".{target.name[:100]}.", suffix=ASIDE)
            pairs.append((Path(name), target))
            with os.fdopen(handle, "wb") as out:
                out.write(content)
                out.flush()
                os.fsync(out.fileno())
            _like(Path(name), target)
        if len(pairs) > 1:
            _commit(pairs, folders)
        _move(pairs)
    finally:
        for folder in reversed(folders):
            (folder / JOURNAL).unlink(missing_ok=True)
        for aside, _ in pairs:
            aside.unlink(missing_ok=True)


def _like(aside: Path, target: Path) -> None:
    """Mode and owner of what it takes the place of; of a new file, those that any new file gets."""
    if target.exists():
        status = target.stat()
        os.chmod(aside, stat.S_IMODE(status.st_mode))
        with contextlib.suppress(OSError):
            os.chown(aside, status.st_uid, status.st_gid)
    else:
        mask = os.umask(0)
        os.umask(mask)
        os.chmod(aside, 0o666 & ~mask)


def _commit(pairs: Sequence[tuple[Path, Path]], folders: Sequence[Path]) -> None:
    """Journals in all folders but the first only point to the first's: with that one, the new files are what counts."""
    first, *others = folders
    entry = json.dumps({"moves": [[_seen_from(first, aside), _seen_from(first, target)] for aside, target in pairs]})
    for folder in others:
        _put(folder / JOURNAL, json.dumps({"at": _seen_from(folder, first / JOURNAL)}))
    _put(first / JOURNAL, entry)


def _seen_from(folder: Path, path: Path) -> str:
    """The way from a folder to a file, which holds whatever way the folder is come to by the next start."""
    there = path.parent.resolve() / path.name
    with contextlib.suppress(ValueError):  # no way leads from one drive to another
        return os.path.relpath(there, folder.resolve())
    return str(there)


def _put(path: Path, text: str) -> None:
    aside = path.with_name(path.name + ASIDE)
    with open(aside, "w", encoding="utf-8") as out:
        out.write(text)
        out.flush()
        os.fsync(out.fileno())
    os.replace(aside, path)


def _move(pairs: Sequence[tuple[Path, Path]]) -> None:
    """All into place. Where one cannot be, those that were are put back."""
    before = {target: target.read_bytes() if target.exists() else None for _, target in pairs} if len(pairs) > 1 else {}
    moved: list[Path] = []
    try:
        for aside, target in pairs:
            _place(aside, target)
            moved.append(target)
    except OSError:
        for target in moved:
            content = before[target]
            if content is None:
                target.unlink()
            else:
                target.write_bytes(content)
        raise


def _place(aside: Path, target: Path) -> None:
    """What other names (hard links) lead to is written in place, so that they still lead to the same."""
    if target.exists() and target.stat().st_nlink > 1:
        with open(target, "r+b") as out:
            out.write(aside.read_bytes())
            out.truncate()
            out.flush()
            os.fsync(out.fileno())
        aside.unlink()
    else:
        os.replace(aside, target)


def _recovered(folder: Path) -> None:
    """Under the lock of a folder: finish what was committed, sweep what was not."""
    journal = folder / JOURNAL
    if journal.exists():
        main = _main_of(journal)
        for aside, target in _moves(main):
            with contextlib.suppress(FileNotFoundError):  # it has been moved
                _place(aside, target)
        main.unlink(missing_ok=True)
        journal.unlink(missing_ok=True)
    for left in folder.glob(f".*{ASIDE}"):
        left.unlink(missing_ok=True)


def _entry(journal: Path) -> dict[str, Any]:
    """What a journal says; nothing where it is broken."""
    with contextlib.suppress(OSError, ValueError, RecursionError):
        data = json.loads(journal.read_text(encoding="utf-8"))
        if isinstance(data, dict):
            return data
    return {}


def _main_of(journal: Path) -> Path:
    """The journal that counts: the one that this one points to, or itself."""
    at = _entry(journal).get("at")
    return (journal.parent.resolve() / (at if isinstance(at, str) else journal.name)).resolve()


def _moves(main: Path) -> Iterator[tuple[Path, Path]]:
    """What a journal has committed to: only in its own folder, and in those whose journals point to it, so that one that came
    with somebody's files reaches no others."""
    with contextlib.suppress(TypeError, ValueError):
        for pair in _entry(main).get("moves", ()):
            aside, target = ((main.parent / name).parent.resolve() / Path(name).name for name in pair)
            folder = target.parent
            points = folder == main.parent or _main_of(folder / JOURNAL) == main
            if points and aside.parent == folder and aside.name.endswith(ASIDE):
                yield aside, target


@contextlib.contextmanager
def _locked(folders: Sequence[Path]) -> Iterator[None]:
    """Hold folders against other writers, in one order for all, so that none waits for another in a circle."""
    with contextlib.ExitStack() as held:
        if fcntl is not None:
            for folder in folders:
                handle = os.open(folder, os.O_RDONLY)
                held.callback(os.close, handle)
                fcntl.flock(handle, fcntl.LOCK_EX)
        yield
