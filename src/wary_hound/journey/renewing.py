"""What a book remembers of its elements, renewed from runs that passed."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import Any

from wary_hound.journey import yaml_text
from wary_hound.journey.adding import inserted
from wary_hound.journey.book import book_of, parse_book, remembered_line


def renew_book(path: Path, memories: Mapping[str, Mapping[str, Any]]) -> int:
    """Let a book remember its elements as they were seen; all else in it stays. Gives how many were renewed. FileError where the
    book is broken, or somebody else changed it meanwhile."""
    text, book = parse_book(path)
    document = yaml_text.Document(text, path)
    edits: list[tuple[yaml_text.Node, Any]] = []
    fresh: list[str] = []
    for name, memory in memories.items():
        if name not in book.elements:
            continue
        node = document.at(("remembered", name))
        if node is not None:
            edits.append((node, dict(memory)))
        else:
            fresh.append(f"  {yaml_text.scalar(name)}: {remembered_line(memory)}\n")
    new = document.changed(edits) if edits else text
    if fresh:
        new = inserted(yaml_text.Document(new, path), "remembered", "".join(fresh))
    book_of(yaml_text.mapping(new, path, "book"), path)
    yaml_text.write_changed({path: text}, {path: new})
    return len(edits) + len(fresh)
