"""A page as standard HTML: declarative shadow roots, frames as `srcdoc`, scripts left out, nothing that acts when opened."""

from __future__ import annotations

from html import escape
from typing import TYPE_CHECKING

from wary_hound.page import inert
from wary_hound.page.events import COMMENT, ELEMENT, END, TEXT, TREE, walk
from wary_hound.page.trees import FRAME, HTML

if TYPE_CHECKING:
    from wary_hound.page.arena import Page

VOID = frozenset("area base basefont bgsound br col embed frame hr img input keygen link meta param source track wbr".split())
RAW = frozenset("style xmp iframe noembed noframes plaintext".split())
EMPTIED = frozenset({"script", "noscript"})
_OWN_NEWLINE = frozenset({"pre", "textarea", "listing"})
DOCTYPE = "<!DOCTYPE html>"


def to_html(page: Page, leave_out: int | None = None) -> str:
    """The page as HTML text that parses back to it, where HTML can say it; `leave_out`: without an element and all in it.
    Opened in a browser it runs and fetches nothing."""
    return _Writer(page, leave_out).written()


class _Writer:
    """Writes a page event by event; what a frame holds is written aside, since it goes into an attribute of the frame."""

    def __init__(self, page: Page, leave_out: int | None = None) -> None:
        self.page = page
        self.leave_out = leave_out
        self.out: list[str] = [DOCTYPE, "\n"]
        self.outer: list[tuple[int, list[str]]] = []
        self.policy_due = True

    def written(self) -> str:
        page = self.page
        hosts = {tree.number: tree.host for tree in page.trees if tree.kind == FRAME}
        skipping = False
        for kind, number in walk(page):
            if self.leave_out is not None and number == self.leave_out and kind in (ELEMENT, END):
                skipping = kind is ELEMENT
                continue
            if skipping:
                continue
            if kind is ELEMENT:
                self.begin(number)
            elif kind is END:
                if page.tags[number] not in VOID or page.namespace[number]:
                    self.out.append(f"</{page.tags[number]}>")
            elif kind is TEXT or kind is COMMENT:
                self.text(number, kind is COMMENT)
            elif number in hosts:
                self.frame(hosts[number], kind is TREE)
            elif number:
                mode = page.trees[number].mode or "open"
                self.out.append(f'<template shadowrootmode="{mode}">' if kind is TREE else "</template>")
        return "".join(self.out).replace("\0", "\ufffd").encode("utf-8", "replace").decode()

    def begin(self, index: int) -> None:
        page, tag = self.page, self.page.tags[index]
        hosted = page.hosted.get(index)
        self.out.append(f"<{tag}{_marks(page, index)}")
        if hosted is None or hosted.kind != FRAME:  # a frame's own tag goes on with what it holds
            self.out.append(">")
        if self.policy_due and tag == "head" and page.depth[index] == 1:
            self.out.append(inert.POLICY)
            self.policy_due = False
        if tag in _OWN_NEWLINE:
            first = page.index.texts_of.get(index, [])
            if first and page.text_values[first[0]].startswith("\n"):
                self.out.append("\n")

    def frame(self, host: int, begins: bool) -> None:
        if begins:
            self.outer.append((host, self.out))
            self.out = [DOCTYPE]
        else:
            inside = "".join(self.out)
            _, self.out = self.outer.pop()
            self.out.append(f' srcdoc="{escape(inside)}">')

    def text(self, number: int, comment: bool) -> None:
        page = self.page
        value, above = page.text_values[number], int(page.text_parent[number])
        tag = page.tags[above] if above >= 0 else ""
        if tag in EMPTIED:
            return
        if comment:
            self.out.append(f"<!--{_comment(value)}-->")
        elif tag in RAW and page.namespace[above] == HTML:
            # nothing in it may end it early, or be markup where a parser takes its element for another
            self.out.append(value.replace("<", "\\3c " if tag == "style" else "&lt;"))
        else:
            self.out.append(_escaped(value))


def _escaped(value: str, quote: bool = False) -> str:
    return escape(value, quote).replace("\r", "&#13;")  # which a parser would read as another line end


def _comment(value: str) -> str:
    """What a comment can hold: the few texts that would end it early get a blank."""
    safe = value.replace("--", "- -")
    safe = " " + safe if safe.startswith((">", "->")) else safe
    return safe + " " if safe.endswith(("-", "<!")) else safe


def _marks(page: Page, index: int) -> str:
    tag = page.tags[index]
    attributes = {} if tag == "script" else inert.asleep(tag, page.attributes_of(index))
    return "".join(f' {name}="{_escaped(value, quote=True)}"' if value else f' {name}=""' for name, value in attributes.items())
