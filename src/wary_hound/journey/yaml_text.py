"""YAML files read with positions, and changed in place: only what changes is written again, in the file's own line ends."""

from __future__ import annotations

import difflib
import json
import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from functools import lru_cache
from pathlib import Path
from typing import Any

from pydantic import ValidationError
from ruamel.yaml import YAML
from ruamel.yaml.error import YAMLError
from ruamel.yaml.events import (
    AliasEvent,
    MappingEndEvent,
    MappingStartEvent,
    ScalarEvent,
    SequenceEndEvent,
    SequenceStartEvent,
)

from wary_hound.errors import FileError
from wary_hound.files import read_text, write_aside

MOST_DEEP = 40
MOST_NODES = 200_000
"""Values of a file, those that aliases repeat counted each time."""
_UNPRINTED = re.compile("[\x00-\x08\x0b-\x1f\x7f-\x9f\u2028\u2029\ud800-\udfff\ufeff\ufffe\uffff]")
_PROPERTIES = re.compile(r"(?:[&!]\S*[ \t]+)*")


@dataclass
class Node:
    """A value of a file: where it stands, from `start` to `end` (characters), and what is in it."""

    start: int
    end: int
    kind: str
    """`scalar`, `mapping` or `sequence`."""
    style: str = ""
    """Of a scalar its quotes or block sign; of the others `flow` or empty."""
    value: str = ""
    entries: list[tuple[Node | None, Node]] = field(default_factory=list)
    """Key (None in a sequence) and value."""
    target: Node | None = None
    """What it stands for, where it is an alias."""
    in_flow: bool = False
    """Whether it stands within braces or brackets, where plain texts may hold less."""

    @property
    def meant(self) -> Node:
        """The node itself, or what the alias stands for."""
        return self.target if self.target is not None else self


class Document:
    """A YAML text with the positions of its values. FileError where it is no YAML, or more than a file of ours can be."""

    def __init__(self, text: str, path: Path) -> None:
        self.text = text
        self.path = path
        self.aliases: list[Node] = []
        self._shift = 1 if text.startswith("\ufeff") else 0
        self.root = self._composed()
        self._count = 0
        self._bounded(self.root, 0)

    # --- reading -----------------------------------------------------------------------------------------------------

    def _composed(self) -> Node:
        anchors: dict[str, Node] = {}
        open_nodes: list[tuple[Node, list[Node]]] = []
        top = Node(0, 0, "scalar")
        try:
            for event in YAML(typ="safe", pure=True).parse(self.text[self._shift :]):
                node = self._node(event, anchors)
                if node is not None:
                    node.in_flow = any(outer.style for outer, _ in open_nodes)
                if isinstance(event, MappingEndEvent | SequenceEndEvent):
                    node, items = open_nodes.pop()
                    keys = items[::2] if node.kind == "mapping" else [None] * len(items)
                    values = items[1::2] if node.kind == "mapping" else items
                    node.entries = list(zip(keys, values, strict=True))
                    last = values[-1] if values else None
                    node.end = self._at(event.end_mark) if node.style or last is None else last.end
                elif node is None:
                    continue
                elif isinstance(event, MappingStartEvent | SequenceStartEvent):
                    open_nodes.append((node, []))
                    if len(open_nodes) > MOST_DEEP:
                        raise FileError(f"{self.path}: nested more than {MOST_DEEP} deep; that is no file of ours")
                    continue
                assert node is not None
                if open_nodes:
                    open_nodes[-1][1].append(node)
                else:
                    top = node
        except YAMLError as error:
            raise self._broken(error) from None
        except (ValueError, TypeError, KeyError, AttributeError, RecursionError, IndexError, OverflowError) as error:
            raise FileError(f"{self.path}: no YAML ({type(error).__name__})") from None
        return top

    def _at(self, mark: Any) -> int:
        return int(mark.index) + self._shift

    def _node(self, event: Any, anchors: dict[str, Node]) -> Node | None:
        match event:
            case ScalarEvent():
                node = Node(self._at(event.start_mark), self._at(event.end_mark), "scalar", str(event.style or ""), event.value)
                if node.style in ("|", ">"):  # a block's mark stands behind the line ends that follow it
                    node.end = node.start + len(self.text[node.start : node.end].rstrip())
            case MappingStartEvent() | SequenceStartEvent():
                kind = "mapping" if isinstance(event, MappingStartEvent) else "sequence"
                node = Node(self._at(event.start_mark), 0, kind, "flow" if event.flow_style else "")
            case AliasEvent():
                if event.anchor not in anchors:
                    raise FileError(f"{self.path}: no YAML (the alias *{event.anchor} stands for nothing)")
                node = Node(self._at(event.start_mark), self._at(event.end_mark), "scalar", target=anchors[event.anchor])
                self.aliases.append(node)
                return node
            case _:
                return None
        if event.anchor:
            anchors[event.anchor] = node
        return node

    def _bounded(self, node: Node, level: int) -> None:
        """Files of a few hundred bytes can say gigabytes by aliases of aliases."""
        self._count += 1
        if self._count > MOST_NODES or level > MOST_DEEP:
            raise FileError(f"{self.path}: says more than {MOST_NODES:,} values, or nests them too deep: no file of ours does")
        for key, value in node.meant.entries:
            if key is not None:
                self._bounded(key, level + 1)
            self._bounded(value, level + 1)

    def data(self) -> Any:
        """The content as plain values."""
        try:
            return YAML(typ="safe", pure=True).load(self.text[self._shift :])
        except YAMLError as error:
            raise self._broken(error) from None
        except (ValueError, TypeError, KeyError, AttributeError, RecursionError, IndexError, OverflowError) as error:
            raise FileError(f"{self.path}: a value does not fit its tag ({type(error).__name__}: {str(error)[:60]})") from None

    def _broken(self, error: YAMLError) -> FileError:
        mark = getattr(error, "problem_mark", None)
        where = f"line {mark.line + 1}: " if mark is not None else ""
        return FileError(f"{self.path}: {where}no YAML ({getattr(error, 'problem', None) or 'broken'})")

    def at(self, keys: Iterable[str | int]) -> Node | None:
        """The node at a path of keys; an alias where one stands there. None where there is none."""
        node = self.root
        for key in keys:
            inside = node.meant
            if inside.kind == "mapping":
                entry = next((value for name, value in inside.entries if name is not None and name.meant.value == str(key)), None)
            else:
                entry = inside.entries[key][1] if isinstance(key, int) and key < len(inside.entries) else None
            if entry is None:
                return None
            node = entry
        return node

    def place(self, node: Node) -> tuple[int, int]:
        """Line and column where a value begins, from 1."""
        return self.text.count("\n", 0, node.start) + 1, node.start - self.text.rfind("\n", 0, node.start)

    def scalars(self) -> Iterator[Node]:
        """All scalar values, aliases too, keys left out, in order."""
        stack = [self.root]
        while stack:
            node = stack.pop()
            if node.target is not None or node.kind == "scalar":
                yield node
            else:
                stack.extend(value for _, value in reversed(node.entries))

    # --- changing ----------------------------------------------------------------------------------------------------

    def changed(self, edits: Sequence[tuple[Node, Any]]) -> str:
        """The text with other values (texts, or plain JSON) in the place of some nodes; all else stays as it is, comments too.

        What the result says is compared with what it should say. FileError, and no text, where that is not the same.
        """
        wanted = {id(node): (node, value) for node, value in edits}
        # Aliases of what changes, that do not change themselves, go on saying what they said.
        changing = {id(node) for node, _ in edits if node.target is None}
        for alias in self.aliases:
            if alias.target is not None and id(alias.target) in changing and id(alias) not in wanted:
                if alias.target.kind != "scalar":
                    raise FileError(f"{self.path}: an alias repeats what would change: write it out there, and run it again")
                wanted[id(alias)] = (alias, alias.target.value)
        pieces, at = [], 0
        for node, value in sorted(wanted.values(), key=lambda entry: entry[0].start):
            pieces.append(self.text[at : node.start])
            pieces.append(self._written(node, value))
            at = node.end
        new = "".join(pieces) + self.text[at:]
        said = Document(new, self.path).data()
        if said != self._expected(wanted):
            raise FileError(f"{self.path}: cannot be changed in place without changing what else it says; change it by hand")
        return new

    def _written(self, node: Node, value: Any) -> str:
        old = self.text[node.start : node.end]
        properties = _PROPERTIES.match(old) if node.target is None else None
        lead = properties.group() if properties is not None else ""
        if not isinstance(value, str):
            made = flow(value)
            comments = self._comments(node)
            if comments:
                indent = node.start - (self.text.rfind("\n", 0, node.start) + 1)
                made = "".join(f"{comment}{self._line_end}{' ' * indent}" for comment in comments) + made
            return lead + made
        text = scalar(value)
        if (node.style in ("'", '"') or node.in_flow) and text == value:
            text = "'" + value.replace("'", "''") + "'"
        head = old.partition("\n")[0]
        comment = re.search(r"[ \t]#.*", head) if node.style in ("|", ">") else None
        return lead + text + (comment.group().rstrip("\r") if comment else "")

    @property
    def _line_end(self) -> str:
        return "\r\n" if "\r\n" in self.text else "\n"

    def _comments(self, node: Node) -> list[str]:
        """The comments inside a block mapping, which goes."""
        if node.style or node.kind == "scalar":
            return []
        spans: list[tuple[int, int]] = []
        stack = [node]
        while stack:
            inner = stack.pop()
            if inner.kind == "scalar" or inner.style:
                spans.append((inner.start, inner.end))
            for key, value in inner.entries:
                stack.extend(part for part in (key, value) if part is not None)
        comments, at = [], node.start
        for start, end in [*sorted(spans), (node.end, node.end)]:
            comments += re.findall(r"(?:(?<=\s)|^)#[^\r\n]*", self.text[at : max(at, start)])
            at = max(at, end)
        return comments

    def _expected(self, wanted: Mapping[int, tuple[Node, Any]]) -> Any:
        """What the text says with other values in the place of some nodes."""

        def made(node: Node, said: Any) -> Any:
            for one in (node, node.meant):
                if id(one) in wanted:
                    return wanted[id(one)][1]
            inside = node.meant
            if inside.kind == "mapping" and isinstance(said, dict) and len(said) == len(inside.entries):
                return {key: made(value, own) for (_, value), (key, own) in zip(inside.entries, said.items(), strict=True)}
            if inside.kind == "sequence" and isinstance(said, list):
                return [made(value, own) for (_, value), own in zip(inside.entries, said, strict=True)]
            return said

        return made(self.root, self.data())


def load(path: Path, what: str) -> tuple[str, dict[str, Any]]:
    """The text of a YAML file, and its content as plain values. FileError where it is no mapping."""
    text = read_text(path, what)
    return text, mapping(text, path, what)


def mapping(text: str, path: Path, what: str) -> dict[str, Any]:
    """The content of a YAML text that is, or will be, the file `path`. FileError where it is no mapping."""
    data = Document(text, path).data()
    if not isinstance(data, dict):
        raise FileError(f"{path}: this {what} is no mapping of keys to values")
    return data


def explain_invalid(path: Path, what: str, error: ValidationError) -> FileError:
    """The first thing wrong with a file, by its place in it."""
    first = error.errors()[0]
    place = " > ".join(str(part) for part in first["loc"]) or "at the top"
    message = first["msg"].removeprefix("Value error, ")
    return FileError(f"{path}: this {what} is broken at {place}: {message}")


@lru_cache(maxsize=10_000)
def scalar(value: str) -> str:
    """A value or key as a person would write it: plain where that reads back as the same text, else in quotes."""
    if _UNPRINTED.search(value) or "\n" in value or "\t" in value:
        return flow(value)
    try:
        read = YAML(typ="safe", pure=True).load(f"- {value}\n- {{}}\n- {value}: 1\n")
        if read == [value, {}, {value: 1}] and value != "<<":
            return value
    except (YAMLError, ValueError, TypeError, AttributeError):
        pass
    return "'" + value.replace("'", "''") + "'"


def flow(value: Any) -> str:
    """Plain JSON on one line, which YAML reads as the same."""
    text = json.dumps(value, ensure_ascii=False)
    return _UNPRINTED.sub(lambda letter: f"\\u{ord(letter.group()):04x}", text)


def unified_diff(old: Mapping[Path, str], new: Mapping[Path, str]) -> str:
    """One patch for all files that differ, as `patch -p0` and `git apply -p0` take it."""
    parts = []
    for path, before in old.items():
        lines = difflib.unified_diff(_lines(before), _lines(new[path]), str(path), str(path))
        for line in lines:
            parts.append(line if line.endswith("\n") else line + "\n\\ No newline at end of file\n")
    return "".join(parts)


def _lines(text: str) -> list[str]:
    """Lines as patches count them: ended by a line feed and nothing else."""
    return re.findall(r"[^\n]*\n|[^\n]+", text)


def write_changed(old: Mapping[Path, str], new: Mapping[Path, str]) -> list[Path]:
    """Write the files that differ, all or none. FileError where one was changed by somebody else meanwhile."""
    changed = [path for path in new if new[path] != old[path]]
    write_aside({path: new[path].encode() for path in changed}, {path: old[path].encode() for path in changed})
    return changed
