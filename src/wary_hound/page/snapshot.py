"""Snapshots: a page on disk, as NAME.html with NAME.facts.json and NAME.png beside it."""

from __future__ import annotations

import hashlib
import json
from pathlib import Path
from typing import Any

from wary_hound.errors import FactsError, FileError, PageError
from wary_hound.files import write_aside
from wary_hound.page.arena import Page
from wary_hound.page.build import Builder
from wary_hound.page.facts import Facts
from wary_hound.page.parse import parse_html
from wary_hound.page.serialize import to_html

MOST_BYTES = 200_000_000


def facts_path(path: Path) -> Path:
    return path.with_suffix(".facts.json")


def read_page(path: Path) -> Page:
    """Read NAME.html and the facts beside it. Facts that do not fit the HTML are left out, with a note on the page."""
    html = _read_text(path)
    beside = facts_path(path)
    if not beside.exists():
        return parse_html(html, source=path)
    try:
        data = json.loads(_read_text(beside))
    except json.JSONDecodeError as error:
        raise FactsError(f"{beside}: not JSON (line {error.lineno}): capture the page again, or delete the file") from None
    try:
        facts = Facts.from_json(data)
    except FactsError as error:
        raise FactsError(f"{beside}: {error}") from None
    if data.get("html_sha256") != _digest(html):
        note = f"{beside.name} was taken from other HTML than {path.name} holds now: boxes and visibility are left out"
        return parse_html(html, url=facts.url, source=path, notes=(note,))
    if "tree" in data:
        return from_tree(data["tree"], facts, path)
    page = parse_html(html, url=facts.url, facts=facts, source=path)
    if len(page) != len(facts.boxes):
        raise FactsError(f"{beside}: facts of {len(facts.boxes)} elements, but {path.name} has {len(page)}: capture again")
    return page


def write_page(page: Page, path: Path) -> Path:
    """Write a snapshot; `path` may leave out the ending. Each file is written aside and moved into place."""
    if path.suffix != ".html":
        path = path.with_name(path.name + ".html")
    html = to_html(page)
    files: dict[Path, bytes] = {path: html.encode()}
    if page.facts is not None:
        data = page.facts.to_json()
        data["html_sha256"] = _digest(html)
        if not _same_shape(page, parse_html(html)):
            data["tree"] = to_tree(page)
        files[facts_path(path)] = json.dumps(data, separators=(",", ":")).encode()
    if page.picture is not None and page.picture != path.with_suffix(".png"):
        files[path.with_suffix(".png")] = page.picture.read_bytes()
    write_aside(files)
    return path


def _digest(html: str) -> str:
    return hashlib.sha256(html.encode()).hexdigest()


def _read_text(path: Path) -> str:
    try:
        if path.stat().st_size > MOST_BYTES:
            raise PageError(f"{path}: more than {MOST_BYTES // 1_000_000} MB; that is no page")
        data = path.read_bytes()
    except FileNotFoundError:
        raise FileError(f"{path}: there is no such file") from None
    except OSError as error:
        raise FileError(f"{path}: cannot be read ({error.strerror})") from None
    if not data.strip():
        raise PageError(f"{path}: the file is empty")
    if b"\x00" in data[:4096] and not data.startswith((b"\xff\xfe", b"\xfe\xff")):
        raise PageError(f"{path}: this is no HTML text (it holds zero bytes)")
    if data.startswith((b"\xff\xfe", b"\xfe\xff")):
        return data.decode("utf-16", errors="replace")
    return data.decode("utf-8-sig", errors="replace").replace("\r\n", "\n")


def _same_shape(page: Page, other: Page) -> bool:
    """Whether parsing what was written gave the same elements in the same trees."""
    return (
        len(page) == len(other)
        and page.tags == other.tags
        and bool((page.parent == other.parent).all())
        and bool((page.tree == other.tree).all())
    )


def to_tree(page: Page) -> dict[str, Any]:
    """The arena itself, for pages whose markup does not parse back to the same tree (nested forms, rows by script)."""
    return {
        "trees": [[t.kind, t.host, t.mode, t.url, t.start, t.end] for t in page.trees],
        "elements": [
            [page.tags[i], int(page.parent[i]), int(page.tree[i]), int(page.namespace[i]), page.attributes_of(i)]
            for i in range(len(page))
        ],
        "texts": [
            [int(page.text_parent[t]), int(page.text_next[t]), int(page.text_comment[t]), value]
            for t, value in enumerate(page.text_values)
        ],
    }


def from_tree(data: dict[str, Any], facts: Facts, path: Path) -> Page:
    """Feed a stored arena through the builder again, so that a broken file meets the same checks as any other page."""
    try:
        builder = Builder()
        elements, texts = data["elements"], data["texts"]
        trees = {(host, kind): (mode, url) for kind, host, mode, url, _, _ in data["trees"]}
        hosts = {host: kind for kind, host, *_ in data["trees"]}
        open_elements: list[int] = []
        open_trees: list[int] = [-1]
        builder.open_tree(url=trees[(-1, "document")][1])
        upcoming = 0

        def unwind(parent: int, tree_host: int) -> None:
            """Close what does not lie above the next element."""
            while open_trees[-1] != tree_host or (open_elements and open_elements[-1] != parent):
                if open_elements and open_elements[-1] == open_trees[-1]:
                    if open_trees[-1] == tree_host and parent < 0:
                        return
                    builder.close_tree()
                    open_trees.pop()
                    if open_elements[-1] == parent and open_trees[-1] == tree_host:
                        return
                builder.close()
                open_elements.pop()

        tree_hosts = [entry[1] for entry in data["trees"]]
        for i in range(len(elements) + 1):
            while upcoming < len(texts) and texts[upcoming][1] == i:
                parent, _, comment, value = texts[upcoming]
                if parent >= 0:
                    unwind(parent, tree_hosts[elements[parent][2]])
                else:
                    unwind(-1, tree_hosts[-1 - parent])
                builder.text(value, bool(comment))
                upcoming += 1
            if i == len(elements):
                break
            tag, parent, tree, namespace, attributes = elements[i]
            unwind(parent, tree_hosts[tree])
            builder.open(tag, attributes.items(), namespace)
            open_elements.append(i)
            if i in hosts:
                mode, url = trees[(i, hosts[i])]
                builder.open_tree(hosts[i], mode, url)
                open_trees.append(i)
        while open_elements:
            if open_elements[-1] == open_trees[-1]:
                builder.close_tree()
                open_trees.pop()
            builder.close()
            open_elements.pop()
        builder.close_tree()
        return builder.finish(url=facts.url, facts=facts, source=path)
    except (KeyError, TypeError, ValueError, IndexError) as error:
        where = facts_path(path)
        raise FactsError(f"{where}: the stored tree is broken ({type(error).__name__}): capture the page again") from None
