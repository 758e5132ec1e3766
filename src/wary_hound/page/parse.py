"""HTML text to a page. The HTML5 parsing is lexbor's (selectolax); this walks its tree once, without recursion."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

from selectolax.lexbor import LexborHTMLParser

from wary_hound.errors import PageError
from wary_hound.page.arena import FRAME, SHADOW, Page
from wary_hound.page.build import Builder
from wary_hound.page.facts import Facts

MOST_FRAMES_DEEP = 20
_CLOSE, _CLOSE_TREE = object(), object()


def parse_html(
    html: str,
    url: str = "",
    facts: Facts | None = None,
    notes: tuple[str, ...] = (),
    source: Path | None = None,
) -> Page:
    """Build a page from HTML text.

    `<template shadowrootmode>` becomes the shadow tree of its parent, `<iframe srcdoc>` a frame document; other templates
    stay elements without content. Raises PageError where the text is blank.
    """
    if not html.strip():
        raise PageError("the page is empty: there is no HTML in it")
    builder = Builder()
    builder.open_tree(url=url)
    _document(builder, html, 0)
    builder.close_tree()
    return builder.finish(url=url, facts=facts, notes=notes, source=source)


def _document(builder: Builder, html: str, level: int) -> None:
    try:
        root = LexborHTMLParser(html).root
    except Exception as error:  # lexbor raises plain exceptions of several kinds
        raise PageError(f"the HTML cannot be parsed ({type(error).__name__}: {error})") from None
    if root is not None:
        _walk(builder, root, level)


def _walk(builder: Builder, root: Any, level: int) -> None:
    """Depth first over an explicit stack: pages nest deeper than Python's call stack allows."""
    stack: list[Any] = [root]
    while stack:
        item = stack.pop()
        if item is _CLOSE:
            builder.close()
            continue
        if item is _CLOSE_TREE:
            builder.close_tree()
            continue
        tag = item.tag
        if tag == "-text":
            builder.text(item.text_content or "")
            continue
        if tag == "-comment" or tag == "_comment":
            builder.text(item.comment_content or "", comment=True)
            continue
        if tag is None or tag.startswith(("-", "!")):
            continue
        attributes = [(name, value or "") for name, value in item.attributes.items()]
        source = None
        if tag == "iframe":  # what it holds is a tree of its own, and no attribute here
            source = next((value for name, value in attributes if name == "srcdoc"), None)
            attributes = [(name, value) for name, value in attributes if name != "srcdoc"]
        builder.open(tag, attributes)
        stack.append(_CLOSE)
        if tag == "template":
            continue
        if source is not None and level < MOST_FRAMES_DEEP:
            address = next((value for name, value in attributes if name == "src"), "about:srcdoc")
            builder.open_tree(FRAME, url=address)
            _document(builder, source, level + 1)
            builder.close_tree()
        children = list(_children(item))
        shadow = next((node for node in children if _is_shadow_root(node)), None)
        later = [node for node in children if node is not shadow]
        stack.extend(reversed(later))
        if shadow is not None:
            fragments = shadow.template_fragments()
            builder.open_tree(SHADOW, mode=_mode(shadow))
            stack.append(_CLOSE_TREE)
            if fragments:
                stack.extend(reversed(list(_children(fragments[0]))))


def _children(node: Any) -> Iterator[Any]:
    child = node.child
    while child is not None:
        yield child
        child = child.next


def _is_shadow_root(node: Any) -> bool:
    return node.tag == "template" and _mode(node) in ("open", "closed")


def _mode(node: Any) -> str:
    return (node.attributes.get("shadowrootmode") or "").lower()
