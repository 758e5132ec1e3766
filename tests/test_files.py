"""Files are written whole or not at all, and the demo site is served on loopback alone."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from collections.abc import Callable, Iterator
from pathlib import Path

import httpx
import pytest

from wary_hound import FileError
from wary_hound.demo.server import serve
from wary_hound.files import read_text, write_aside


def test_all_or_none(tmp_path: Path) -> None:
    one, other = tmp_path / "a" / "one", tmp_path / "other"
    write_aside({one: b"1", other: b"2"})
    assert (one.read_bytes(), other.read_bytes()) == (b"1", b"2")
    blocked = tmp_path / "other" / "below"
    with pytest.raises(FileError, match="nothing was changed"):
        write_aside({one: b"new", blocked: b"3"})
    assert one.read_bytes() == b"1"
    assert sorted(p.name for p in tmp_path.rglob("*")) == ["a", "one", "other"]


def test_modes_are_kept(tmp_path: Path) -> None:
    path = tmp_path / "x"
    path.write_text("old")
    path.chmod(0o600)
    write_aside({path: b"new", tmp_path / "fresh": b""})
    assert oct(path.stat().st_mode & 0o777) == "0o600"
    assert oct((tmp_path / "fresh").stat().st_mode & 0o777) == "0o644"


def test_a_directory_in_the_way(tmp_path: Path) -> None:
    (tmp_path / "x").mkdir()
    with pytest.raises(FileError, match="cannot be written"):
        write_aside({tmp_path / "x": b"1"})
    assert not [n for n in os.listdir(tmp_path) if n.endswith(".part")]


def test_what_cannot_be_read_says_why(tmp_path: Path) -> None:
    with pytest.raises(FileError, match="no such book"):
        read_text(tmp_path / "none", "book")
    (tmp_path / "binary").write_bytes(b"\xff\xfe\x00")
    with pytest.raises(FileError, match="no UTF-8"):
        read_text(tmp_path / "binary", "book")
    with pytest.raises(FileError, match="cannot be read"):
        read_text(tmp_path)


def test_the_site_is_served_and_then_not() -> None:
    with serve() as address:
        assert address.startswith("http://127.0.0.1:")
        answer = httpx.get(f"{address}/r1/index.html", trust_env=False)
        assert "Telescope nights" in answer.text
        assert answer.headers["cache-control"] == "no-store"
        assert httpx.get(f"{address}/../server.py", trust_env=False).status_code == 404
    with pytest.raises(httpx.ConnectError):
        httpx.get(address, trust_env=False)


def test_what_is_no_file_is_neither_read_nor_replaced(tmp_path: Path) -> None:
    os.mkfifo(tmp_path / "pipe")
    for path, said in ((tmp_path / "pipe", "a pipe"), (Path("/dev/zero"), "a device"), (tmp_path, "a folder")):
        with pytest.raises(FileError, match=f"cannot be read: this is {said}"):
            read_text(path)
    with pytest.raises(FileError, match="cannot be written: this is a pipe"):
        write_aside({tmp_path / "pipe": b"x"})
    assert (tmp_path / "pipe").is_fifo()


def test_links_modes_and_read_only_files_are_respected(tmp_path: Path) -> None:
    real, soft, hard, locked = (tmp_path / name for name in ("real", "soft", "hard", "locked"))
    real.write_bytes(b"old")
    soft.symlink_to("real")
    os.link(real, hard)
    write_aside({soft: b"new"})
    assert soft.is_symlink()
    assert (real.read_bytes(), hard.read_bytes()) == (b"new", b"new")
    locked.write_bytes(b"mine")
    locked.chmod(0o444)
    with pytest.raises(FileError, match="read-only; nothing was changed"):
        write_aside({tmp_path / "other": b"1", locked: b"2"})
    assert (locked.read_bytes(), (tmp_path / "other").exists()) == (b"mine", False)


def test_when_a_second_file_cannot_be_put_in_place_the_first_is_put_back(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    one, two = tmp_path / "one", tmp_path / "two"
    one.write_bytes(b"1")
    two.write_bytes(b"2")
    replace = os.replace

    def failing(source: str, target: str) -> None:
        if Path(target) == two:
            raise OSError(28, "No space left on device")
        replace(source, target)

    monkeypatch.setattr(os, "replace", failing)
    with pytest.raises(FileError, match=r"two: cannot be written .No space left on device.; nothing was changed"):
        write_aside({one: b"new", two: b"new"})
    assert (one.read_bytes(), two.read_bytes()) == (b"1", b"2")
    assert sorted(p.name for p in tmp_path.iterdir()) == ["one", "two"]


WRITER = """
import sys; from pathlib import Path; from wary_hound.errors import FileError; from wary_hound.files import write_aside
path, mine = Path(sys.argv[1]), sys.argv[2].encode()
old = path.read_bytes(); print("read", flush=True); sys.stdin.readline()
try: write_aside({path: mine}, {path: old}); print("written")
except FileError as error: print(error)
"""


def test_of_two_writers_at_once_one_is_told(tmp_path: Path) -> None:
    path = tmp_path / "book"
    path.write_bytes(b"old")
    command = [sys.executable, "-c", WRITER, str(path)]
    both = [subprocess.Popen([*command, name], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True) for name in "ab"]
    for writer in both:
        assert writer.stdout is not None
        assert writer.stdout.readline() == "read\n"
    for writer in both:
        assert writer.stdin is not None
        writer.stdin.write("go\n")
        writer.stdin.flush()
    said = sorted(writer.communicate(timeout=60)[0].strip() for writer in both)
    assert said[1] == "written"
    assert "changed by somebody else meanwhile" in said[0]
    assert path.read_bytes() in (b"a", b"b")


KILLED = """
import json, os, sys; from pathlib import Path; from wary_hound import files
at = calls = 0
def counted(function):
    def call(*arguments, **named):
        global calls
        calls += 1
        if calls == at: os._exit(9)
        return function(*arguments, **named)
    return call
for name in ("replace", "fsync", "chmod"): setattr(os, name, counted(getattr(os, name)))
for line in sys.stdin:  # a process for each, without the time that one takes to start
    if not (child := os.fork()):
        at, home, given = json.loads(line)
        os.chdir(home)
        folder = Path(given)
        files.write_aside({folder / "a" / "one": b"new", folder / "b" / "two": b"new", folder / "b" / "three": b"new"})
        os._exit(0)
    print(os.waitstatus_to_exitcode(os.waitpid(child, 0)[1]), flush=True)
"""


@pytest.fixture(scope="module")
def killed() -> Iterator[Callable[[int, Path], int]]:
    """Writes three files anew and is killed at its nth call of the system's; the exit code."""
    with subprocess.Popen([sys.executable, "-c", KILLED], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True) as writer:
        assert writer.stdin is not None
        assert writer.stdout is not None
        to, back = writer.stdin, writer.stdout

        def kill(at: int, folder: Path) -> int:
            print(json.dumps([at, os.getcwd(), str(folder)]), file=to, flush=True)
            return int(back.readline())

        yield kill
        to.close()


@pytest.mark.parametrize("come", ["by its whole path", "from beside it", "by a link", "after a move"])
def test_a_set_of_files_is_all_old_or_all_new_wherever_its_writer_is_killed(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, killed: Callable[[int, Path], int], come: str
) -> None:
    monkeypatch.chdir(tmp_path)
    outcomes = set()
    for at in range(1, 40):
        folder = tmp_path / str(at) if come == "by its whole path" else Path(str(at))
        for name in ("a/one", "b/two", "b/three"):
            (folder / name).parent.mkdir(parents=True, exist_ok=True)
            (folder / name).write_bytes(b"old")
        code = killed(at, folder)
        if come == "by a link":
            (tmp_path / f"to{at}").symlink_to(folder)
            folder = Path(f"to{at}")
        elif come == "after a move":
            folder = folder.rename(tmp_path / f"from{at}")
        names = ("b/three", "a/one", "b/two") if at % 2 else ("a/one", "b/two", "b/three")
        found = {read_text(folder / name) for name in names}  # the next start
        assert len(found) == 1, (at, found)
        outcomes |= found
        write_aside({folder / "a" / "next": b"", folder / "b" / "next": b""})
        assert not [p for p in folder.rglob(".*") if p.name.startswith(".")]
        if code == 0:
            break
    assert code == 0
    assert outcomes == {"old", "new"}


def test_a_journal_that_came_with_a_folder_reaches_no_other(tmp_path: Path) -> None:
    victim, folder = tmp_path / "victim", tmp_path / "given"
    victim.write_text("mine")
    folder.mkdir()
    (folder / ".x.wary-part").write_text("theirs")
    (folder / ".wary-hound.journal").write_text(json.dumps({"moves": [[str(folder / ".x.wary-part"), str(victim)]]}))
    (folder / "book").write_text("b")
    assert read_text(folder / "book") == "b"
    assert victim.read_text() == "mine"
