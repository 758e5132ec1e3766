"""What each strategy's expression matches in one tree. One entry a strategy: a new one is a function and a line here."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from wary_hound.locator import css, xpath
from wary_hound.locator.css.matcher import NOTHING, IntArray
from wary_hound.locator.notation import parse_role, parse_wanted
from wary_hound.locator.values import Strategy, Wanted
from wary_hound.page import Page


def by_css(page: Page, expression: str, tree: int, scope: int) -> IntArray:
    return css.match(page, css.parse(expression), tree, scope)


def by_xpath(page: Page, expression: str, tree: int, scope: int) -> IntArray:
    return np.asarray(xpath.match(page, xpath.parse(expression), tree, scope), np.int32)


def by_role(page: Page, expression: str, tree: int, scope: int) -> IntArray:
    """Elements of a role that a person can perceive, by accessible name: case counts, white space is folded."""
    wanted = parse_role(expression)
    found = _table(page, "role").get((tree, wanted.role), [])
    if wanted.name is not None:
        name = wanted.name
        named = _named(page, tree, wanted.role, found)
        found = sorted(i for n, group in named.items() if name.fits(n) for i in group) if name.part else named.get(name.text, [])
    return np.asarray(found, np.int32)


def _named(page: Page, tree: int, role: str, found: list[int]) -> dict[str, list[int]]:
    """The elements of one role by their names, built once a page."""
    key = ("role names", tree, role)
    table: dict[str, list[int]] | None = page.memo.get(key)
    if table is None:
        table = page.memo[key] = {}
        for i in found:
            table.setdefault(page.semantics.name(i), []).append(i)
    return table


def by_label(page: Page, expression: str, tree: int, scope: int) -> IntArray:
    """Form controls by label: case counts, white space is folded, a colon or asterisk at its end does not count."""
    wanted = parse_wanted(expression)
    table = _table(page, "label")
    if not wanted.part:
        return np.asarray(table.get((tree, plain_label(wanted.text)), []), np.int32)
    found = [i for (t, text), group in table.items() if t == tree and wanted.fits(text) for i in group]
    return np.asarray(sorted(found), np.int32)


def by_text(page: Page, expression: str, tree: int, scope: int) -> IntArray:
    """The innermost elements whose text reads so: case counts, white space is folded, hidden parts do not count."""
    wanted = parse_wanted(expression)
    if wanted.part:
        texts = page.semantics.text
        found = [i for i in page.index.in_tree[tree].tolist() if wanted.text in texts[i]]
    else:
        found = _table(page, "text").get((tree, wanted.text), [])
    return _innermost(page, np.asarray(found, np.int32))


def plain_label(text: str) -> str:
    return text.rstrip(" :*\u2009")


def _innermost(page: Page, found: IntArray) -> IntArray:
    """Those that hold no other of the set."""
    if len(found) < 2:
        return found
    following = np.append(found[1:], np.iinfo(np.int32).max)
    return found[following >= page.end[found]]


def _table(page: Page, kind: str) -> dict[tuple[int, str], list[int]]:
    """Elements by tree and role, label or text, built once a page."""
    key = ("strategy table", kind)
    table: dict[tuple[int, str], list[int]] | None = page.memo.get(key)
    if table is None:
        table = {}
        trees = page.tree.tolist()
        for i, value in _values(page, kind):
            if value:
                table.setdefault((trees[i], value), []).append(i)
        page.memo[key] = table
    return table


def _values(page: Page, kind: str) -> list[tuple[int, str]]:
    semantics = page.semantics
    if kind == "text":
        return list(enumerate(semantics.text))
    if kind == "role":
        return [(i, role) for i, role in enumerate(semantics.roles) if role and semantics.exposed[i]]
    return [(i, plain_label(semantics.label(i))) for i in range(len(page)) if semantics.rendered[i]]


def wanted_of(strategy: Strategy, expression: str) -> Wanted | None:
    """The text that a role, label or text finder asks for."""
    if strategy is Strategy.ROLE:
        return parse_role(expression).name
    return parse_wanted(expression) if strategy in (Strategy.LABEL, Strategy.TEXT) else None


MATCHERS: dict[Strategy, Callable[[Page, str, int, int], IntArray]] = {
    Strategy.CSS: by_css,
    Strategy.XPATH: by_xpath,
    Strategy.ROLE: by_role,
    Strategy.LABEL: by_label,
    Strategy.TEXT: by_text,
}
"""Each takes the page, the expression, the number of a tree, and the element to search in (-1: the whole tree)."""

__all__ = ["MATCHERS", "NOTHING", "plain_label", "wanted_of"]
