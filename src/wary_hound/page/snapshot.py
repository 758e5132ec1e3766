"""Snapshots: a page on disk, as NAME.html with NAME.facts.json and NAME.png beside it."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import TYPE_CHECKING, Any

from wary_hound.errors import FactsError, FileError, PageError
from wary_hound.files import read_bytes, write_aside
from wary_hound.page.events import COMMENT, ELEMENT, END, TEXT, TREE, TREE_END, Event, build, events_of, in_order
from wary_hound.page.facts import Facts
from wary_hound.page.parse import parse_html
from wary_hound.page.serialize import to_html
from wary_hound.page.trees import SHADOW

if TYPE_CHECKING:
    from wary_hound.page.arena import Page

MOST_BYTES = 200_000_000


def facts_path(path: Path) -> Path:
    """The facts file beside a snapshot."""
    return path.with_suffix(".facts.json")


def read_page(path: Path) -> Page:
    """Read NAME.html and the facts beside it. Facts that do not fit the HTML are left out, with a note on the page."""
    html = _read_html(path)
    beside = facts_path(path)
    if not beside.exists():
        return parse_html(html, source=path)
    try:
        data = json.loads(read_bytes(beside, "facts", MOST_BYTES))
    except (ValueError, RecursionError) as error:
        line = f"line {error.lineno}" if isinstance(error, json.JSONDecodeError) else type(error).__name__
        raise FactsError(f"{beside}: not JSON ({line}): capture the page again, or delete the file") from None
    try:
        facts = Facts.from_json(data)
    except FactsError as error:
        raise FactsError(f"{beside}: {error}") from None
    if data.get("html_sha256") != _digest(html):
        note = f"{beside.name} was taken from other HTML than {path.name} holds now: boxes and visibility are left out"
        return parse_html(html, url=facts.url, source=path, notes=(note,))
    if "events" in data or "tree" in data:
        page = _stored(data, facts, path)
    else:
        page = parse_html(html, url=facts.url, facts=facts, source=path)
    if len(page) != len(facts.boxes):
        raise FactsError(f"{beside}: facts of {len(facts.boxes)} elements, but {path.name} has {len(page)}: capture again")
    return page


def write_page(page: Page, path: Path) -> Path:
    """Write a snapshot; `path` may leave out the ending. Each file is written aside and moved into place."""
    if not path.name or path.is_dir():
        raise FileError(f"{path}: is a folder; give the snapshot a name in it")
    if path.suffix != ".html":
        path = path.with_name(path.name + ".html")
    html = to_html(page)
    files: dict[Path, bytes] = {path: html.encode()}
    if page.facts is not None:
        data = page.facts.to_json()
        data["html_sha256"] = _digest(html)
        if parse_html(html).digest != page.digest:
            data["events"] = list(events_of(page))
        files[facts_path(path)] = json.dumps(data, separators=(",", ":")).encode()
    if page.picture is not None and page.picture != path.with_suffix(".png"):
        files[path.with_suffix(".png")] = read_bytes(page.picture, "picture", MOST_BYTES)
    write_aside(files)
    return path


def _digest(html: str) -> str:
    return hashlib.sha256(html.encode()).hexdigest()


def _read_html(path: Path) -> str:
    data = read_bytes(path, "file", MOST_BYTES)
    if not data.strip():
        raise PageError(f"{path}: the file is empty")
    if data.startswith((b"\xff\xfe", b"\xfe\xff")):
        return data.decode("utf-16", errors="replace")
    if b"\x00" in data[:4096]:
        raise PageError(f"{path}: this is no HTML text (it holds zero bytes)")
    return data.decode("utf-8-sig", errors="replace")


def _stored(data: Mapping[str, Any], facts: Facts, path: Path) -> Page:
    """What a facts file keeps of a page whose markup does not parse back to it (nested forms, rows put in by script)."""
    try:
        events = map(tuple, data["events"]) if "events" in data else _events_of_tree(data["tree"])
        return build(events, url=facts.url, facts=facts, source=path)
    except (TypeError, ValueError, AttributeError, KeyError, IndexError, OverflowError) as error:
        where = facts_path(path)
        raise FactsError(f"{where}: the stored tree is broken ({type(error).__name__}): capture the page again") from None


def _events_of_tree(data: Mapping[str, Any]) -> Iterator[Event]:
    """What versions before 0.3 kept: elements as [tag, parent, tree, namespace, attributes], texts as [parent, next element, is a
    comment, text], trees as [kind, host, mode, address, ...]."""
    elements, texts, trees = data["elements"], data["texts"], data["trees"]
    above = [int(parent) if parent >= 0 else -1 - int(tree) for _, parent, tree, _, _ in elements]
    hosted = {int(tree[1]): number for number, tree in enumerate(trees) if tree[1] >= 0}
    steps = in_order(above, [int(t[0]) for t in texts], [int(t[1]) for t in texts], [bool(t[2]) for t in texts], hosted)
    for kind, number in steps:
        if kind is ELEMENT:
            tag, _, _, namespace, attributes = elements[number]
            yield "e", tag, namespace, [text for pair in attributes.items() for text in pair]
        elif kind is END:
            yield ("/",)
        elif kind is TREE and number:
            yield ("s", trees[number][2]) if trees[number][0] == SHADOW else ("f", trees[number][3])
        elif kind is TREE_END and number:
            yield ("/s",)
        elif kind is TEXT or kind is COMMENT:
            yield "t" if kind is TEXT else "c", texts[number][3]
