"""Files are written whole or not at all, and the demo site is served on loopback alone."""

from __future__ import annotations

import os
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
