"""What the style sheets of a page hide: `display` and `visibility` by the cascade (CSS Cascading and Inheritance 4, sections 6
and 7), for pages of which no browser has said what is shown.

Sheets that stand in the page are read, each for its own tree; of a shadow tree also what it says of its host. What is left out:
linked sheets, `::slotted`, `@container`, nested rules. Media are those of a screen as wide as the page was seen, or 1280 pixels.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import TYPE_CHECKING, Any

import numpy as np
import numpy.typing as npt
import tinycss2

from wary_hound.page.trees import SHADOW

if TYPE_CHECKING:
    from wary_hound.page.arena import Page

Selecting = Callable[["Page", str, int], "tuple[Sequence[int], Specificity]"]
"""The elements of a tree (by number) that a selector matches, and its specificity; nothing for what is no selector."""
Specificity = tuple[int, int, int]
NOTHING: tuple[Sequence[int], Specificity] = ((), (0, 0, 0))
MOST_SELECTORS = 20_000
"""Of more, the rest is not read."""
WIDTH = 1280
PROPERTIES = ("display", "visibility")
_UNSAID = frozenset({"inherit", "initial", "unset", "revert", "revert-layer"})
_LENGTH = re.compile(r"\(\s*(min|max)-width\s*:\s*([\d.]+)\s*(px|em|rem)\s*\)", re.I)

_selecting: list[Selecting] = []


def select_by(selecting: Selecting) -> None:
    """Say how selectors are matched: the layer above knows."""
    _selecting[:] = [selecting]


@dataclass(frozen=True, slots=True)
class _Rule:
    """One selector of a rule, and what it sets: property, value, whether it is important. `host`: what it asks of the host of its
    tree (`:host(...)`), None where it is not about that; the selector is what stands behind it then."""

    host: str | None
    selector: str
    sets: tuple[tuple[str, str, bool], ...]
    layered: bool


def styled(page: Page) -> tuple[npt.NDArray[np.int8], npt.NDArray[np.int8]]:
    """For each element what the sheets and its own style say of `display` and of `visibility`: -1 that it is hidden, 1 that it is
    shown, 0 nothing."""
    best: dict[str, dict[int, _Said]] = {name: {} for name in PROPERTIES}

    def say(index: int, name: str, value: str, key: _Key) -> None:
        said = best[name]
        if index not in said or key >= said[index][0]:
            said[index] = (key, value)

    order = 0
    width = _width(page)
    sheets = [int(i) for i in page.index.by_tag.get("style", [])] if _selecting else []
    for sheet in sheets:
        text = page.semantics.raw_text(sheet)
        if not any(name in text.lower() for name in PROPERTIES) or not _applies(page.attribute(sheet, "media") or "", width):
            continue
        tree = int(page.tree[sheet])
        for rule in _rules(text, width):
            order += 1
            if order > MOST_SELECTORS:
                break
            outer, (found, specificity) = _found(page, rule, tree)
            for name, value, important in rule.sets:
                weight = (2, not outer, rule.layered) if important else (0, outer, not rule.layered)
                for index in found:
                    say(int(index), name, value, (*weight, specificity, order))
    for index, style in page.index.attribute_column("style").items():
        if any(name in style.lower() for name in PROPERTIES):
            for name, value, important in _sets(tinycss2.parse_blocks_contents(style)):
                say(index, name, value, (2 if important else 1, True, True, (0, 0, 0), 0))
    return _as_array(page, best["display"], "none"), _as_array(page, best["visibility"], "hidden", "collapse")


_Key = tuple[int, bool, bool, Specificity, int]
"""What wins: important ones, what the outer tree says, what stands in no layer, the more specific, the later."""
_Said = tuple[_Key, str]


def _as_array(page: Page, said: dict[int, _Said], *hiding: str) -> npt.NDArray[np.int8]:
    array = np.zeros(len(page), np.int8)
    for index, (_, value) in said.items():
        array[index] = 0 if value in _UNSAID else -1 if value in hiding else 1
    return array


def _found(page: Page, rule: _Rule, tree: int) -> tuple[bool, tuple[Sequence[int], Specificity]]:
    """Whether a rule is of the tree of what it matches (not of a shadow tree below), and what it matches."""
    selecting = _selecting[0]
    if rule.host is None:
        return True, selecting(page, rule.selector, tree)
    where = page.trees[tree]
    if where.kind != SHADOW:
        return False, NOTHING
    own, asked = selecting(page, rule.host, where.parent) if rule.host else ([where.host], (0, 0, 0))
    if where.host not in own:
        return False, NOTHING
    inside, more = selecting(page, rule.selector, tree) if rule.selector else ([where.host], (0, 0, 0))
    return bool(rule.selector), (inside, (asked[0] + more[0], asked[1] + more[1] + 1, asked[2] + more[2]))


@lru_cache(maxsize=128)
def _rules(text: str, width: float) -> tuple[_Rule, ...]:
    """The rules of a sheet that set what is looked for, those of groups that apply among them, in their order. Kept: components of
    a kind bring the same sheet each, and so do the pages of an application."""
    return tuple(_read(text, width))


def _read(text: str, width: float) -> Iterator[_Rule]:
    stack: list[tuple[Iterator[Any], bool]] = [(iter(tinycss2.parse_stylesheet(text, True, True)), False)]
    while stack:
        nodes, layered = stack[-1]
        node = next(nodes, None)
        if node is None:
            stack.pop()
        elif node.type == "qualified-rule":
            if any(token.type == "ident" and token.lower_value in PROPERTIES for token in node.content):
                sets = tuple(_sets(tinycss2.parse_blocks_contents(node.content)))
                yield from (_Rule(*one, sets, layered) for one in (_selectors(node.prelude) if sets else ()))
        elif node.type == "at-rule" and node.content is not None and len(stack) < 20:
            told = tinycss2.serialize(node.prelude).strip().lower()
            name = node.lower_at_keyword
            met = (name == "media" and _applies(told, width)) or (name == "supports" and not told.startswith("not"))
            if name == "layer" or met:
                stack.append((iter(tinycss2.parse_rule_list(node.content, True, True)), layered or name == "layer"))


def _sets(nodes: Sequence[Any]) -> Iterator[tuple[str, str, bool]]:
    for node in nodes:
        if node.type == "declaration" and node.lower_name in PROPERTIES:
            yield node.lower_name, tinycss2.serialize(node.value).strip().lower(), node.important


def _selectors(prelude: Sequence[Any]) -> Iterator[tuple[str | None, str]]:
    """The selectors of a list, one by one: what is asked of the host, and what else."""
    part: list[Any] = []
    for token in [*prelude, None]:
        if token is not None and token != ",":
            if part or token.type != "whitespace":
                part.append(token)
            continue
        host = None
        if len(part) > 1 and part[0] == ":" and part[1].type in ("ident", "function"):
            name = part[1].lower_value if part[1].type == "ident" else part[1].lower_name
            if name == "host":
                host = tinycss2.serialize(part[1].arguments).strip() if part[1].type == "function" else ""
                part = part[2:]
        said = tinycss2.serialize(part).strip()
        if said or host is not None:
            yield host, said.removeprefix(">").strip() if host is not None else said
        part = []


def _width(page: Page) -> float:
    """How wide the page was seen, in CSS pixels."""
    return float((page.facts.viewport[0] if page.facts is not None else 0) or WIDTH)


def _applies(media: str, width: float) -> bool:
    """Whether a list of media queries says yes of a screen that wide; no where that is not known."""
    return not media.strip() or any(_query(query.strip().lower(), width) for query in media.split(","))


def _query(query: str, width: float) -> bool:
    rest = re.sub(r"\band\b|^only\b|\bscreen\b|\ball\b", " ", query)
    for bound in _LENGTH.finditer(rest):
        pixels = float(bound[2]) * (1 if bound[3].lower() == "px" else 16)
        if not (width >= pixels if bound[1].lower() == "min" else width <= pixels):
            return False
    return not _LENGTH.sub("", rest).strip()
