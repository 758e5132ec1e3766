"""Adding elements to a book that is there, in place: comments, order and layout stay."""

from __future__ import annotations

import re
from collections.abc import Collection
from pathlib import Path

from ruamel.yaml.nodes import MappingNode, Node, SequenceNode

from wary_hound.errors import FileError
from wary_hound.journey import yaml_text
from wary_hound.journey.book import Book, Entry, book_of, entry_lines, parse_book, remember, remembered_line
from wary_hound.page import Element

MOST_WORDS = 4


def name_for(element: Element, taken: Collection[str] = ()) -> str:
    """A short name for an element, from what people read on it: `hold-this-night`; numbered where it is taken."""
    said = element.label or element.name or element.text or element.attributes.get("id", "") or element.role or element.tag
    words = re.findall(r"\w+", said.lower())[:MOST_WORDS]
    base = "-".join(words) or element.tag
    number = 2
    name = base
    while name in taken:
        name, number = f"{base}-{number}", number + 1
    return name


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
    lines = "".join(f"  {line}" for line in entry_lines(name, entry).splitlines(keepends=True))
    new = _inserted(path, text, "elements", lines)
    new = _inserted(path, new, "remembered", f"  {name}: {remembered_line(memory)}\n")
    book_of(yaml_text.mapping(new, path, "book"), path)
    yaml_text.write_changed({path: text}, {path: new})


def _inserted(path: Path, text: str, key: str, lines: str) -> str:
    """The text with lines (indented by two) at the end of a top-level mapping, which is made where there is none."""
    node = yaml_text.node_at(text, (key,))
    text = text if text.endswith("\n") else text + "\n"
    if node is None:
        return f"{text}{key}:\n{lines}"
    if isinstance(node, MappingNode) and not node.value:
        return yaml_text.apply(text, [yaml_text.replace_node(node, "\n" + lines.rstrip("\n"))])
    if not isinstance(node, MappingNode) or node.flow_style:
        raise FileError(f"{path}: {key} is written on one line: write it as a block, an element a line, to have more added")
    column = node.value[0][0].start_mark.column
    lines = "".join(" " * (column - 2) + line for line in lines.splitlines(keepends=True)) if column > 2 else lines
    end = _last(node).end_mark.index
    at = end if text[:end].endswith("\n") else text.index("\n", end) + 1
    return text[:at] + lines + text[at:]


def _last(node: Node) -> Node:
    """The scalar, or the braces, that a node ends with: a block's own mark is past the comments that follow it."""
    if isinstance(node, MappingNode) and node.value and not node.flow_style:
        return _last(node.value[-1][1])
    if isinstance(node, SequenceNode) and node.value and not node.flow_style:
        return _last(node.value[-1])
    return node
