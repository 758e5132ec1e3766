"""`xpath{...}`: an XPath 1.0 expression, evaluated as `document.evaluate` does."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from wary_hound.locator import xpath
from wary_hound.locator.facts import Fact
from wary_hound.locator.kinds.kind import Counted, IntArray, Kind, Part, Scope, around
from wary_hound.locator.translate import xpath_to_css
from wary_hound.locator.xpath.building import PADDED_CLASS, anywhere
from wary_hound.locator.xpath.printing import step_text, xpath_text
from wary_hound.locator.xpath.values import Binary, Call, Expression, Filtered, Literal, Number, Path, Step, is_positional
from wary_hound.page import Page
from wary_hound.page.cache import Bounded, Cache
from wary_hound.page.names import CONTROL_ROLES

MOST_PARTS = 30
"""So many parts of an expression are told one by one, and so many left out in turn."""
_AXES = {
    "child": "child", "descendant": "descendant", "following-sibling": "sibling", "preceding-sibling": "sibling",
    "parent": "child", "ancestor": "descendant", "following": "after", "preceding": "before", "self": "child",
}  # fmt: skip

_BEHIND = Step("preceding-sibling", "*")
_FIRST_OF = {"following-sibling": "adjacent", "preceding-sibling": "adjacent", "following": "after", "preceding": "before"}
"""Axes of which the first is what comes next, and no position."""


class XPath(Kind):
    """XPath 1.0, whole."""

    name = "xpath"
    quotes = "\"'"
    escapes = False

    def parse(self, text: str) -> Expression:
        return xpath.parse(text)

    def print(self, query: Expression) -> str:
        return xpath_text(query)

    def match(self, page: Page, query: Expression, tree: int, scope: int) -> IntArray:
        return np.asarray(xpath.match(page, query, tree, scope), np.int32)

    def depends_on_scope(self, query: Expression) -> bool:
        return not (isinstance(query, Path) and query.absolute and query.start is None)

    def parts(self, page: Page, query: Expression, scopes: Sequence[Scope], counted: Counted) -> Iterator[Part]:
        if not isinstance(query, Path) or query.start is not None:
            yield Part(xpath_text(query), counted(query))
            return
        told = 0
        for k, step in enumerate(query.steps):
            if _anywhere(step):
                continue
            for n in range(len(step.predicates) + 1):
                told += 1
                if told > MOST_PARTS and not (k == len(query.steps) - 1 and n == len(step.predicates)):
                    continue
                part = Path(query.absolute, (*query.steps[:k], replace(step, predicates=step.predicates[:n])))
                elements = {i for tree, scope in scopes for i in xpath.match(page, part, tree, scope)}
                text = step_text(replace(step, predicates=())) if n == 0 else f"[{xpath_text(step.predicates[n - 1])}]"
                yield Part(("  " if n else "") + text, len(elements))

    def weaker(self, page: Page, query: Expression, trees: Sequence[int]) -> Iterator[tuple[Any, str]]:
        if not isinstance(query, Path):
            return
        for k, step in list(enumerate(query.steps))[-MOST_PARTS:]:
            for n, predicate in enumerate(step.predicates[:MOST_PARTS]):
                looser = replace(step, predicates=step.predicates[:n] + step.predicates[n + 1 :])
                yield _with(query, k, looser), f"without [{xpath_text(predicate)}]"
            if step.axis == "child" and step.test not in ("*", "node()", "text()"):
                yield _with(query, k, replace(step, test="*")), f"any tag for {step.test}"

    def facts(self, page: Page, query: Expression, scope: Scope, target: int) -> Iterator[Fact]:
        path = query
        while isinstance(path, Filtered):
            for predicate in path.predicates:
                yield Fact("ordinal" if is_positional(predicate) else "other", target, xpath_text(predicate))
            path = path.primary
        if not isinstance(path, Path) or path.start is not None:
            yield Fact("other", target, xpath_text(path))
            return
        steps, at = path.steps, target
        for k in range(len(steps) - 1, -1, -1):
            step = steps[k]
            if step.test == "node()" and step.axis in ("descendant-or-self", "self"):
                continue
            if step.test not in ("*", "node()"):
                yield Fact("tag", at, step.test)
            first = step.axis in _FIRST_OF and Number(1.0) in step.predicates
            for predicate in step.predicates:
                if not (first and predicate == Number(1.0)):
                    yield from _of_predicate(page, predicate, at, target)
            if k == 0:
                break
            deep = _anywhere(steps[k - 1])
            if deep and k == 1:
                break
            axis = _FIRST_OF[step.axis] if first else _AXES.get(step.axis, "other")
            before = _bound(page, Path(path.absolute, steps[: k - 1] if deep else steps[:k]), scope, at, "" if deep else step.axis)
            if not deep and step.axis == "following-sibling" and _in_row(page, before, at, first):
                axis = "row-of"
            yield Fact(axis if not deep else "descendant", at)
            at = before

    def says(self, query: Expression) -> Iterator[tuple[str, str]]:
        while isinstance(query, Filtered):
            query = query.primary
        if not isinstance(query, Path) or not query.steps:
            return
        step = query.steps[-1]
        if step.axis in ("attribute", "namespace") or step.test.endswith("()"):
            return
        if step.test != "*":
            yield "tag", step.test.lower()
        for predicate in step.predicates[:MOST_PARTS]:
            yield from _said(predicate)

    def to_xpath(self, query: Expression) -> str:
        return xpath_text(query)

    def to_css(self, query: Expression) -> str:
        return xpath_to_css(query)


XPATH = XPath()


def _in_row(page: Page, cell: int, index: int, first: bool) -> bool:
    """Whether an element behind a cell stands in the cell's row: the one that is there, or the first behind a term of a list. It is
    not what the cell says of its row where it is the next of its like: another head, another item of a menu."""
    roles, tags = page.semantics.roles, page.tags
    if tags[cell] == tags[index] == "th" or (roles[cell] == roles[index] and roles[cell] in CONTROL_ROLES):
        return False
    if first:
        return page.tags[cell] == "dt" and page.tags[index] == "dd"
    holder = int(page.parent[index])
    return holder >= 0 and around(page, holder) == "row-of"


def _anywhere(step: Step) -> bool:
    return step.test == "node()" and step.axis == "descendant-or-self" and not step.predicates


def _with(path: Path, at: int, step: Step) -> Path:
    return replace(path, steps=(*path.steps[:at], step, *path.steps[at + 1 :]))


class _Befores(Cache):
    """What steps before others find, by the steps and the scope: ways to an element begin alike."""

    def __init__(self, page: Page) -> None:
        super().__init__(page)
        self.found: Bounded[tuple[Path, Scope], IntArray] = Bounded(200)


def _bound(page: Page, path: Path, scope: Scope, at: int, axis: str) -> int:
    """The nearest element that the steps before find, on the side that the axis leads away from; of steps down one around it. By
    any other axis the nearest of all."""
    kept = _Befores.of(page).found
    elements = kept.get((path, scope))
    if elements is None:
        elements = kept[path, scope] = np.asarray(xpath.match(page, path, scope[0], scope[1]), np.int32)
    if axis in ("", "child"):
        elements = elements[(elements < at) & (page.end[elements] > at)]
    elif axis.startswith("following"):
        elements = elements[elements < at]
    elif axis.startswith("preceding"):
        elements = elements[elements > at]
    return int(elements[np.abs(elements - at).argmin()]) if len(elements) else at


def _of_predicate(page: Page, predicate: Expression, at: int, target: int) -> Iterator[Fact]:
    if is_positional(predicate):
        yield from _of_position(page, predicate, at)
        return
    match predicate:
        case Binary("and", left, right):
            yield from _of_predicate(page, left, at, target)
            yield from _of_predicate(page, right, at, target)
        case Binary(
            "=", Path(False, (Step("attribute", "id", ()),), None), Path(True, (*labels, Step("attribute", "for", ())), None)
        ):
            yield from (Fact("label", at, text, part=part) for text, part in _words_in(labels))
        case Binary("=", Path(False, steps, None), Literal(value)) if steps and _is_element(steps[-1]):
            yield Fact(around(page, at), target)
            yield Fact("content", _holding(page, at, steps[-1].test, value), value)
        case Binary("=", left, Literal(value)):
            yield _compared(left, value, False, at, predicate)
        case Call("contains", (padded, Literal(value))) if padded == PADDED_CLASS and value == f" {value.strip()} ":
            yield Fact("class", at, value.strip())
        case Call("contains" | "starts-with" as function, (left, Literal(value))):
            yield replace(_compared(left, value, True, at, predicate), begins=function == "starts-with")
        case Path(False, (Step("attribute", name, ()),), None):
            yield Fact("having", at, "", name)
        case Path(False, (Step("self", tag, ()),), None) if not tag.endswith("()"):
            yield Fact("tag", at, tag)
        case Path(False, (Step("preceding-sibling", tag, _) as step,), None) if _texts_in((step,)):
            yield Fact("group-of", target)
            before = [one for one in page.children(int(page.parent[at])) if one < at and page.tags[one] == tag]
            yield from (Fact("content", before[-1] if before else at, text) for text in _texts_in((step,)))
        case Path(False, steps, None) if steps and _is_element(steps[-1]) and _texts_in(steps):
            yield Fact(around(page, at), target)
            for text in _texts_in(steps):
                yield Fact("content", _holding(page, at, steps[-1].test, text), text)
        case Path(False, (Step("self", "node()", ()), deep, Step("child", _, (held,)) as inside), None) if _anywhere(deep):
            yield Fact(around(page, at), target)
            found = xpath.match(page, anywhere(inside), int(page.tree[at]), -1)
            yield from _of_predicate(page, held, next((i for i in found if at < i < page.end[at]), at), target)
        case Path(False, steps, None) if steps and steps[-1].predicates:
            yield Fact("descendant", at, xpath_text(predicate))
            for inner in steps[-1].predicates:
                yield from _of_predicate(page, inner, at, target)
        case _:
            yield Fact("other", at, xpath_text(predicate))


def _of_position(page: Page, predicate: Expression, at: int) -> Iterator[Fact]:
    """A number; or how many stand before the head of a column, which is that column."""
    match predicate:
        case Binary("+", Call("count", (Path(True, (*heads, step), None),)), Number(1.0)) if step == _BEHIND and _texts_of(heads):
            yield from _of_column(page, heads, at)
        case Call("count", (Binary("|", Path(True, (*heads, step), None), Path(True, same, None)),)) if (
            step == _BEHIND and _texts_of(heads) and tuple(heads) == same
        ):
            yield from _of_column(page, heads, at)
        case _:
            yield Fact("place", at, xpath_text(predicate))


def _of_column(page: Page, heads: Sequence[Step], at: int) -> Iterator[Fact]:
    """The head, and what names its table."""
    yield Fact("column-of", at)
    scope = (int(page.tree[at]), -1)
    head = _bound(page, Path(True, tuple(heads)), scope, at, "any")
    for text in _texts_of(heads):
        yield Fact("content", head, text)
    for step in [step for step in heads[:-1] if not _anywhere(step)][:1]:
        holder = _bound(page, anywhere(step), scope, head, "")
        for inner in step.predicates:
            yield from _of_predicate(page, inner, holder, at)


def _is_element(step: Step) -> bool:
    return step.axis in ("child", "descendant") and not step.test.endswith("()")


def _texts_in(steps: Sequence[Step]) -> list[str]:
    """The texts that the last of some steps must read."""
    return [text for text, part in _words_in(steps) if not part]


def _texts_of(heads: Sequence[Step]) -> list[str]:
    """The texts that a head must read, or something in it: `th[div="Watcher"]`."""
    texts = _texts_in(heads)
    for predicate in heads[-1].predicates if heads else ():
        match predicate:
            case Binary("=", Path(False, steps, _), Literal(value)) if all(map(_is_element, steps)):
                texts.append(value)
    return texts


def _words_in(steps: Sequence[Step]) -> Iterator[tuple[str, bool]]:
    """The texts that the last of some steps must read, or (`True`) contain or begin with."""
    for predicate in steps[-1].predicates if steps else ():
        match predicate:
            case Binary("=", Call("normalize-space", ()) | Path(False, (Step("self", "node()", ()),), None), Literal(value)):
                yield value, False
            case Call("contains" | "starts-with", (Path(False, (Step("self", "node()", ()),), None), Literal(value))):
                yield value, True


def _holding(page: Page, holder: int, tag: str, text: str) -> int:
    """The element in a holder (-1: anywhere) that reads so; the holder where there is none."""
    inside = range(holder + 1, int(page.end[holder]) if holder >= 0 else len(page))
    shown = page.semantics.text
    return next((i for i in inside if (tag in ("*", page.tags[i])) and shown[i] == text), max(holder, 0))


_OWN_WORDS = Path(False, (Step("child", "text()"),))


def _compared(left: Expression, value: str, part: bool, at: int, whole: Expression) -> Fact:
    match left:
        case Path(False, (Step("attribute", name, ()),), None):
            return Fact("id" if name == "id" and not part else "attribute", at, value, name, part)
        case Call("normalize-space", (words,)) if words == _OWN_WORDS:
            return Fact("text", at, value, part=part)  # which an element in it takes that they are wrapped in
        case Call("normalize-space" | "string", _) | Path(False, (Step("self", "node()", ()),), None):
            return Fact("content", at, value, part=part)
        case Path(False, (Step("child", "text()", ()),), None):
            return Fact("content", at, value, part=part)
        case _:
            return Fact("other", at, xpath_text(whole))


def _said(predicate: Expression) -> Iterator[tuple[str, str]]:
    match predicate:
        case Binary("and", left, right):
            yield from _said(left)
            yield from _said(right)
        case Binary("=", left, Literal(value)) | Call("contains" | "starts-with", (left, Literal(value))):
            match left:
                case Path(False, (Step("attribute", name, ()),), None):
                    yield "class" if name.lower() == "class" else f"@{name.lower()}", value
                case Call("normalize-space" | "string", _) | Path(False, (Step(_, "node()" | "text()", ()),), None):
                    yield "text", value
