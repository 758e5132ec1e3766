"""HTML text to a page. The HTML5 parsing is lexbor's (selectolax); this walks its tree once, without recursion."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Any

from selectolax.lexbor import LexborHTMLParser

from wary_hound.errors import PageError
from wary_hound.page import inert
from wary_hound.page.build import MOST_DEPTH, TOO_DEEP
from wary_hound.page.events import Event, build
from wary_hound.page.facts import Facts
from wary_hound.page.serialize import VOID

if TYPE_CHECKING:
    from wary_hound.page.arena import Page

MOST_FRAMES_DEEP = 20


def parse_html(
    html: str,
    url: str = "",
    facts: Facts | None = None,
    notes: tuple[str, ...] = (),
    source: Path | None = None,
) -> Page:
    """Build a page from HTML text.

    `<template shadowrootmode>` becomes the shadow tree of its parent, `<iframe srcdoc>` a frame document; other templates
    stay elements without content. Raises PageError where the text is blank, or nested too deep.
    """
    if not html.strip():
        raise PageError("the page is empty: there is no HTML in it")
    if html.count("<") > MOST_DEPTH:
        _check_depth(html)
    return build(_document(html, inert.is_ours(html), 0), url, facts, notes, source)


_TAG = re.compile(r"<(/?)([a-zA-Z][^\s/>]*)")
_CLOSED_BY_OTHERS = frozenset("p li dt dd option optgroup tr td th thead tbody tfoot colgroup caption rb rt rtc rp a nobr".split())


def _check_depth(html: str) -> None:
    """An HTML parser takes time by the square of the depth: what is surely too deep is refused before it is parsed."""
    deep = 0
    for tag in _TAG.finditer(html):
        name = tag.group(2).lower()
        if name not in VOID and name not in _CLOSED_BY_OTHERS:
            deep = max(0, deep - 1) if tag.group(1) else deep + 1
            if deep > MOST_DEPTH:
                raise PageError(TOO_DEEP)


def _document(html: str, ours: bool, level: int) -> Iterator[Event]:
    text = html.replace("\r\n", "\n").replace("\r", "\n")  # as browsers read it
    try:
        root = LexborHTMLParser(text.encode("utf-8", "replace").decode()).root
    except Exception as error:  # lexbor raises plain exceptions of several kinds
        raise PageError(f"the HTML cannot be parsed ({type(error).__name__}: {error})") from None
    if root is not None:
        yield from _walked(root, ours, level)


def _walked(root: Any, ours: bool, level: int) -> Iterator[Event]:
    """The events of a document, depth first over an explicit stack: pages nest deeper than Python's call stack allows. What
    is put on the stack besides nodes are the events that come behind them."""
    stack: list[Any] = [root]
    deep = 0
    while stack:
        node = stack.pop()
        if isinstance(node, tuple):
            deep -= node[0] == "/"
            yield node
            continue
        tag = node.tag
        if tag == "-text":
            yield "t", node.text_content or ""
            continue
        if tag == "-comment" or tag == "_comment":
            yield "c", node.comment_content or ""
            continue
        if tag is None or tag.startswith(("-", "!")):
            continue
        attributes = {name: value or "" for name, value in node.attributes.items()}
        if ours:
            if inert.is_policy(tag, attributes):
                continue
            attributes = inert.revived(attributes)
        # what a frame holds is a tree of its own, and no attribute here
        source = attributes.pop("srcdoc", None) if tag == "iframe" else None
        deep += 1
        if deep > MOST_DEPTH:
            raise PageError(TOO_DEEP)
        yield "e", tag, None, [text for pair in attributes.items() for text in pair]
        stack.append(("/",))
        if tag == "template":
            continue
        if source is not None and level < MOST_FRAMES_DEEP:
            yield "f", attributes.get("src", "about:srcdoc")
            yield from _document(source, ours, level + 1)
            yield ("/s",)
        children = list(_children(node))
        shadow = next((child for child in children if _is_shadow_root(child)), None)
        stack.extend(child for child in reversed(children) if child is not shadow)
        if shadow is not None:
            yield "s", _mode(shadow)
            stack.append(("/s",))
            fragments = shadow.template_fragments()
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
