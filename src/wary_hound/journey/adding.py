"""Adding elements to a book that is there, in place: comments, order and layout stay."""

from __future__ import annotations

from pathlib import Path

from wary_hound.errors import FileError
from wary_hound.journey import yaml_text
from wary_hound.journey.book import Book, Entry, book_of, entry_lines, parse_book, remember, remembered_line
from wary_hound.page import Element


def add_to_book(path: Path, name: str, entry: Entry, element: Element, title: str = "") -> None:
    """Write an element into a book: a new file, or the one that is there. FileError where the name is taken, the book is
    broken, or somebody else changed it meanwhile; nothing is written then."""
    memory = remember(element)
    if not path.exists():
        Book(book=title or path.stem, elements={name: entry}, remembered={name: memory}).write(path)
        return
    text, book = parse_book(path)
    if name in book.elements:
        raise FileError(f"{path}: there is an element named {name} already: give it another name")
    document = yaml_text.Document(text, path)
    lines = "".join(f"  {line}" for line in entry_lines(name, entry).splitlines(keepends=True))
    new = inserted(document, "elements", lines)
    document = yaml_text.Document(new, path)
    new = inserted(document, "remembered", f"  {yaml_text.scalar(name)}: {remembered_line(memory)}\n")
    book_of(yaml_text.mapping(new, path, "book"), path)
    yaml_text.write_changed({path: text}, {path: new})


def inserted(document: yaml_text.Document, key: str, lines: str) -> str:
    """The text of a file with lines (indented by two) at the end of a top-level mapping, which is made where there is none."""
    node, text = document.at((key,)), document.text
    line_end = "\r\n" if "\r\n" in text else "\n"
    lines = lines.replace("\n", line_end)
    ended = text if text.endswith("\n") else text + line_end
    if node is None:
        return f"{ended}{key}:{line_end}{lines}"
    if node.kind == "mapping" and not node.entries:
        return text[: node.start] + line_end + lines.removesuffix(line_end) + text[node.end :]
    if node.kind == "scalar" and not node.value:  # nothing behind the colon
        return ended[: node.start] + line_end + lines.removesuffix(line_end) + ended[node.end :]
    if node.kind != "mapping" or node.style:
        raise FileError(f"{document.path}: {key} is written on one line: write an element a line, to have more added")
    first = node.entries[0][0]
    assert first is not None
    column = first.start - (text.rfind("\n", 0, first.start) + 1)
    lines = "".join(" " * (column - 2) + line for line in lines.splitlines(keepends=True)) if column > 2 else lines
    at = ended.find("\n", node.end)
    at = len(ended) if at < 0 else at + 1
    return ended[:at] + lines + ended[at:]
