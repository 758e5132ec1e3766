"""A page as standard HTML: declarative shadow roots, frames as `srcdoc`, scripts left out."""

from __future__ import annotations

from html import escape

from wary_hound.page.arena import FRAME, SHADOW, Page

VOID = frozenset("area base br col embed hr img input link meta param source track wbr".split())
RAW = frozenset("style script xmp iframe noembed noframes plaintext".split())
EMPTIED = frozenset({"script", "noscript"})
_OWN_NEWLINE = frozenset({"pre", "textarea", "listing"})


def to_html(page: Page) -> str:
    """The page as HTML text that parses back to it, where HTML can say it."""
    return "<!DOCTYPE html>\n" + _tree(page, 0)


def _tree(page: Page, number: int) -> str:
    """One tree as text. Inner trees are written first, each into one string, so that nothing recurses deeply."""
    out: list[str] = []
    closing: list[int] = []
    elements = page.index.in_tree[number].tolist()
    texts = {
        t
        for key, numbers in _texts_by_parent(page).items()
        if (page.tree[key] == number if key >= 0 else -1 - key == number)
        for t in numbers
    }
    waiting = sorted(texts, reverse=True)

    def texts_before(limit: int, parent: int | None) -> None:
        while waiting and page.text_next[waiting[-1]] <= limit:
            if parent is not None and int(page.text_parent[waiting[-1]]) != parent:
                return
            _text(page, waiting.pop(), out)

    def close() -> None:
        done = closing.pop()
        texts_before(int(page.end[done]), done)
        if page.tags[done] not in VOID or page.namespace[done]:
            out.append(f"</{page.tags[done]}>")

    for i in elements:
        while closing and page.end[closing[-1]] <= i:
            close()
        texts_before(i, None)
        out.append(_open_tag(page, i))
        hosted = page.hosted.get(i)
        if hosted is not None and hosted.kind == SHADOW:
            out.append(f'<template shadowrootmode="{hosted.mode or "open"}">{_tree(page, hosted.number)}</template>')
        closing.append(i)
        if page.tags[i] in _OWN_NEWLINE:
            first = page.index.texts_of.get(i, [])
            if first and page.text_values[first[0]].startswith("\n"):
                out.append("\n")
    while closing:
        close()
    while waiting:
        _text(page, waiting.pop(), out)
    return "".join(out)


def _texts_by_parent(page: Page) -> dict[int, list[int]]:
    found: dict[int, list[int]] | None = page.memo.get("texts by parent")
    if found is None:
        found = {}
        for number, parent in enumerate(page.text_parent.tolist()):
            found.setdefault(parent, []).append(number)
        page.memo["texts by parent"] = found
    return found


def _text(page: Page, number: int, out: list[str]) -> None:
    value = page.text_values[number]
    parent = int(page.text_parent[number])
    tag = page.tags[parent] if parent >= 0 else ""
    if tag in EMPTIED:
        return
    if page.text_comment[number]:
        out.append(f"<!--{_comment(value)}-->")
    elif tag in RAW and not page.namespace[parent]:
        out.append(value)
    else:
        out.append(escape(value, quote=False))


def _comment(value: str) -> str:
    """What a comment can hold: the few texts that would end it early get a blank."""
    safe = value.replace("--", "- -")
    safe = " " + safe if safe.startswith((">", "->")) else safe
    return safe + " " if safe.endswith(("-", "<!")) else safe


def _open_tag(page: Page, index: int) -> str:
    hosted = page.hosted.get(index)
    attributes = page.attributes_of(index)
    if page.tags[index] == "script":
        attributes = {}
    if hosted is not None and hosted.kind == FRAME:
        attributes["srcdoc"] = "<!DOCTYPE html>" + _tree(page, hosted.number)
    marks = "".join(f' {name}="{escape(value)}"' if value else f' {name}=""' for name, value in attributes.items())
    return f"<{page.tags[index]}{marks}>"
