"""Books and journeys changed in place: as people write YAML, and as nobody should."""

# ruff: noqa: E501 (tables of texts)

from __future__ import annotations

import subprocess
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from conftest import read, run
from wary_hound import Book, FileError
from wary_hound.journey import yaml_text
from wary_hound.journey.adding import add_to_book
from wary_hound.journey.book import Entry
from wary_hound.journey.yaml_text import Document, flow, scalar

AS_PEOPLE_WRITE = """# our book
book: >-
  Telescope
  nights
page: |
  ../pages/nights@r2.html
elements:
  hold: {locator: &l 'css{.odd}', about: "quoted"}  # flow
  again:
    locator: *l
  long:
    locator: >-   # folded, with a word on it
      css{button.hold
      > span}
  tagged: {locator: !!str 'text{Vega}', about: plain}
remembered:
  hold:
    # what it was
    seen: 2031-08-12  # on a Tuesday
    tag: button
    attributes: {id: x}
  other: {"tag": "a"}
# the end
"""
P = Path("book.yaml")


def changed(text: str, edits: dict[tuple[str | int, ...], Any]) -> str:
    document = Document(text, P)
    pairs = []
    for keys, value in edits.items():
        node = document.at(keys)
        assert node is not None
        pairs.append((node, value))
    return document.changed(pairs)


@pytest.mark.parametrize("line_end", ["\n", "\r\n"])
def test_blocks_aliases_and_comments_survive_a_change(line_end: str) -> None:
    text = AS_PEOPLE_WRITE.replace("\n", line_end)
    new = changed(
        text,
        {
            ("page",): "../pages/nights@r3.html",
            ("elements", "hold", "locator"): "css{#a: b}",
            ("elements", "long", "locator"): "css{b}",
            ("remembered", "hold"): {"tag": "b", "text": "é"},
            ("elements", "tagged", "about"): "a, b",
        },
    )
    said = Document(new, P).data()
    assert said["elements"]["hold"]["locator"] == "css{#a: b}"
    assert said["elements"]["again"]["locator"] == "css{.odd}"  # the alias of what changed says what it said
    assert (said["page"], said["elements"]["long"]["locator"]) == ("../pages/nights@r3.html", "css{b}")
    assert said["remembered"] == {"hold": {"tag": "b", "text": "é"}, "other": {"tag": "a"}}
    assert said["elements"]["tagged"] == {"locator": "text{Vega}", "about": "a, b"}
    for comment in ("# our book", "# flow", "# folded, with a word on it", "# what it was", "# on a Tuesday", "# the end"):
        assert comment in new
    assert new.count("\r\n") == (new.count("\n") if line_end == "\r\n" else 0)
    untouched = [line for line in text.splitlines() if "again" in line or "Telescope" in line]
    assert all(line in new.splitlines() for line in untouched)


def test_an_alias_alone_may_change(tmp_path: Path) -> None:
    new = changed(AS_PEOPLE_WRITE, {("elements", "again", "locator"): "css{c}"})
    said = Document(new, P).data()
    assert (said["elements"]["hold"]["locator"], said["elements"]["again"]["locator"]) == ("css{.odd}", "css{c}")


TEXTS = st.text(st.characters(exclude_characters=""), max_size=25)


@settings(deadline=None, max_examples=150)
@given(TEXTS, TEXTS)
def test_whatever_is_written_reads_back(name: str, value: str) -> None:
    text = f"top:\n  {scalar(name)}: {scalar(value)}\n  {scalar(name + 'x')}: {flow({'k': value})}\n"
    assert Document(text, P).data() == {"top": {name: value, name + "x": {"k": value}}}
    new = changed(text, {("top", name): value + "!"})
    assert Document(new, P).data()["top"][name] == value + "!"


@pytest.mark.parametrize(
    "name", ["2", "True", "null", "1e3", "~", "a: b", "- a", "#", "x\x7fy", "x\x85y", "<<", "é", "", "*a", "2031-08-12"]
)
def test_any_name_can_be_picked_into_a_book(tmp_path: Path, name: str) -> None:
    element, path = read("nights@r1").find("css{#visitor-name}"), tmp_path / "mine.yaml"
    add_to_book(path, "first", Entry(locator="css{a}"), element)
    add_to_book(path, name, Entry(locator="css{#visitor-name}"), element)
    book = Book.read(path)
    assert list(book.elements) == ["first", name]
    assert book.fingerprint(name) == book.fingerprint("first") is not None


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("a: &a [1,1,1,1,1,1,1,1,1]\n" + "".join(f"{k}: &{k} [{','.join(['*' + p] * 9)}]\n" for p, k in zip("abcdefgh", "bcdefghi", strict=True)), "values"),
        ("x: " + "[" * 400 + "]" * 400, "nested more than 40 deep"),
        ("book: !!float x", "does not fit its tag"),
        ("book: !!bool maybe", "does not fit its tag"),
        ("book: *nothing", "stands for nothing"),
        ("book: [", "no YAML"),
        ("a: \x00", "no YAML"),
        ("- 1", "no mapping"),
    ],
)  # fmt: skip
def test_what_is_no_file_of_ours_is_one_clear_error(tmp_path: Path, text: str, said: str) -> None:
    path = tmp_path / "book.yaml"
    path.write_text(text)
    with pytest.raises(FileError, match=said):
        Book.read(path)
    assert run("stress", str(path)).exit_code == 2


def test_a_change_that_would_change_more_is_not_made() -> None:
    merged = "base: &b {locator: 'css{a}'}\nelements:\n  one:\n    <<: *b\n    about: x\n"
    with pytest.raises(FileError, match="change it by hand"):
        changed(merged, {("base", "locator"): "css{c}"})


@pytest.mark.parametrize("line_end", ["\n", "\r\n"])
def test_a_patch_applies_and_apply_does_the_same(demo: Path, line_end: str) -> None:
    book = Path("books/nights.yaml")
    text = book.read_text().replace("page: ../pages/nights@r1.html", "page: >-\n  ../pages/nights@r1.html").replace("\n", line_end)
    book.write_text(text, newline="")
    arguments = ["repair", "pages/nights@r2.html", "pages/nights@r3.html", "--book", str(book)]
    assert run(*arguments, "--patch", "x.patch").exit_code == 1
    subprocess.run(["git", "init", "-q", "."], check=True)
    subprocess.run(["git", "apply", "-p0", "--whitespace=nowarn", "x.patch"], check=True)
    patched = book.read_bytes()
    book.write_text(text, newline="")
    run(*arguments, "--apply")
    assert book.read_bytes() == patched != text.encode()
    assert patched.count(b"\r\n") == (patched.count(b"\n") if line_end == "\r\n" else 0)
    yaml_text.mapping(patched.decode(), book, "book")
