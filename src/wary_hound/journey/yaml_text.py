"""YAML files read with positions, and changed in place: only the scalars that change are written again."""

from __future__ import annotations

import difflib
import json
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from pydantic import ValidationError
from ruamel.yaml import YAML
from ruamel.yaml.error import YAMLError
from ruamel.yaml.nodes import MappingNode, Node, ScalarNode, SequenceNode

from wary_hound.errors import FileError
from wary_hound.files import read_text, write_aside


@dataclass(frozen=True, slots=True)
class Edit:
    """Replace the characters `start` to `end` of a text."""

    start: int
    end: int
    text: str


def load(path: Path, what: str) -> tuple[str, dict[str, Any]]:
    """The text of a YAML file, and its content as plain values. FileError where it is no mapping."""
    text = read_text(path, what)
    return text, mapping(text, path, what)


def mapping(text: str, path: Path, what: str) -> dict[str, Any]:
    """The content of a YAML text that is, or will be, the file `path`. FileError where it is no mapping."""
    try:
        data = YAML(typ="safe", pure=True).load(text)
    except YAMLError as error:
        mark = getattr(error, "problem_mark", None)
        where = f"line {mark.line + 1}: " if mark is not None else ""
        raise FileError(f"{path}: {where}no YAML ({getattr(error, 'problem', None) or 'broken'})") from None
    if not isinstance(data, dict):
        raise FileError(f"{path}: this {what} is no mapping of keys to values")
    return data


def explain_invalid(path: Path, what: str, error: ValidationError) -> FileError:
    """The first thing wrong with a file, by its place in it."""
    first = error.errors()[0]
    place = " > ".join(str(part) for part in first["loc"]) or "at the top"
    message = first["msg"].removeprefix("Value error, ")
    return FileError(f"{path}: this {what} is broken at {place}: {message}")


def node_at(text: str, keys: Iterable[str | int]) -> Node | None:
    """The node at a path of keys, with its marks; None where there is none."""
    node: Node | None = YAML(typ="rt", pure=True).compose(text)
    for key in keys:
        if isinstance(node, MappingNode):
            node = next((value for name, value in node.value if name.value == key), None)
        elif isinstance(node, SequenceNode) and isinstance(key, int) and key < len(node.value):
            node = node.value[key]
        else:
            return None
    return node


def scalars(text: str) -> list[ScalarNode]:
    """All scalar nodes of a file, keys left out, in order."""
    found: list[ScalarNode] = []
    stack: list[Node] = [YAML(typ="rt", pure=True).compose(text)]
    while stack:
        node = stack.pop()
        if isinstance(node, ScalarNode):
            found.append(node)
        elif isinstance(node, MappingNode):
            stack.extend(value for _, value in reversed(node.value))
        elif isinstance(node, SequenceNode):
            stack.extend(reversed(node.value))
    return found


def scalar(value: str) -> str:
    """A value as a person would write it: plain where that reads back as the same text, else in single quotes."""
    try:
        if "\n" not in value and YAML(typ="safe", pure=True).load(f"key: {value}\n") == {"key": value}:
            return value
    except YAMLError:
        pass
    if "\n" in value or any(ord(c) < 32 for c in value):
        return json.dumps(value, ensure_ascii=False)
    return "'" + value.replace("'", "''") + "'"


def replace_node(node: Node, text: str) -> Edit:
    return Edit(node.start_mark.index, node.end_mark.index, text)


def rewrite(node: Node, value: str) -> Edit:
    """Put another value in a scalar's place; one in quotes stays so, since it may stand where plain text cannot."""
    text = scalar(value)
    if isinstance(node, ScalarNode) and node.style in ("'", '"') and text == value:
        text = "'" + value.replace("'", "''") + "'"
    return replace_node(node, text)


def apply(text: str, edits: Iterable[Edit]) -> str:
    """The text with all edits made; they must not overlap."""
    out, at = [], 0
    for edit in sorted(edits, key=lambda e: e.start):
        out.append(text[at : edit.start])
        out.append(edit.text)
        at = edit.end
    return "".join(out) + text[at:]


def unified_diff(old: Mapping[Path, str], new: Mapping[Path, str]) -> str:
    """One patch for all files that differ, as `patch -p0` and `git apply -p0` take it."""
    parts = []
    for path, before in old.items():
        lines = difflib.unified_diff(before.splitlines(keepends=True), new[path].splitlines(keepends=True), str(path), str(path))
        for line in lines:
            parts.append(line if line.endswith("\n") else line + "\n\\ No newline at end of file\n")
    return "".join(parts)


def write_changed(old: Mapping[Path, str], new: Mapping[Path, str]) -> list[Path]:
    """Write the files that differ, all or none. FileError where one was changed by somebody else meanwhile."""
    changed = [path for path in new if new[path] != old[path]]
    for path in changed:
        if read_text(path) != old[path]:
            raise FileError(f"{path}: was changed by somebody else meanwhile; nothing was written: run it again")
    write_aside({path: new[path].encode() for path in changed})
    return changed
