"""Files written whole or not at all: aside first, then moved into place."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Mapping
from pathlib import Path

from wary_hound.errors import FileError


def write_aside(files: Mapping[Path, bytes]) -> None:
    """Write several files: all are written aside before the first is moved. FileError, and nothing changed, on failure."""
    aside: list[tuple[str, Path]] = []
    current = Path()
    try:
        for path, data in files.items():
            current = path
            path.parent.mkdir(parents=True, exist_ok=True)
            handle, name = tempfile.mkstemp(dir=path.parent, prefix=f".{path.name}.", suffix=".part")
            aside.append((name, path))
            with os.fdopen(handle, "wb") as out:
                out.write(data)
                out.flush()
                os.fsync(out.fileno())
            os.chmod(name, path.stat().st_mode & 0o777 if path.exists() else 0o644)
        for name, path in aside:
            current = path
            os.replace(name, path)
    except OSError as error:
        raise FileError(f"{current}: cannot be written ({error.strerror or error}); nothing was changed") from None
    finally:
        for name, _ in aside:
            if os.path.exists(name):
                os.unlink(name)


def read_text(path: Path, what: str = "file") -> str:
    """A text file, whole. FileError says what is wrong with it."""
    try:
        return path.read_text(encoding="utf-8")
    except FileNotFoundError:
        raise FileError(f"{path}: there is no such {what}") from None
    except UnicodeDecodeError:
        raise FileError(f"{path}: this {what} is no UTF-8 text") from None
    except OSError as error:
        raise FileError(f"{path}: the {what} cannot be read ({error.strerror})") from None
