"""`role{...}`: elements of an ARIA role that a person can perceive, by accessible name."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Any

import numpy as np

from wary_hound.errors import LocatorError, NotationError
from wary_hound.locator.cache import Matches
from wary_hound.locator.facts import Fact
from wary_hound.locator.kinds.kind import Counted, IntArray, Kind, Part, Scope
from wary_hound.locator.kinds.markup import name_test, role_test
from wary_hound.locator.kinds.words import near_texts, unescaped
from wary_hound.locator.values import RoleQuery, TextQuery
from wary_hound.page import Page
from wary_hound.page.roles import ALIASES, KNOWN


class Role(Kind):
    """`button "Hold"`, `button ~"Ho"`, `heading`: case counts in names, white space is folded."""

    name = "role"
    quotes = '"'

    def parse(self, text: str) -> RoleQuery:
        head, _, tail = text.strip().partition(" ")
        offset = len(text) - len(text.lstrip())
        if head not in KNOWN:
            raise NotationError(text, offset + 1, f"an ARIA role (button, link, textbox, ...), not {head!r}")
        role = ALIASES.get(head, head)
        rest = tail.strip()
        if not rest:
            return RoleQuery(role)
        begin = text.index(rest, offset + len(head))
        part = rest.startswith("~")
        quoted = rest[1:] if part else rest
        if len(quoted) < 2 or not quoted.startswith('"') or not quoted.endswith('"'):
            raise NotationError(text, begin + 1, 'the accessible name in double quotes, ~ before it for a part: "Hold"')
        inner = quoted[1:-1]
        bare = inner.replace("\\\\", "")
        if '"' in bare.replace('\\"', "") or bare.endswith("\\"):
            raise NotationError(text, begin + 2, 'a name whose inner quotes are written \\"')
        return RoleQuery(role, TextQuery(" ".join(unescaped(inner).split()), part))

    def print(self, query: RoleQuery) -> str:
        if query.name is None:
            return query.role
        quoted = query.name.text.replace("\\", "\\\\").replace('"', '\\"')
        return f'{query.role} {"~" if query.name.part else ""}"{quoted}"'

    def match(self, page: Page, query: RoleQuery, tree: int, scope: int) -> IntArray:
        if query.name is None:
            return np.asarray(_by_role(page).get((tree, query.role), []), np.int32)
        named, name = _by_name(page, tree, query.role), query.name
        if not name.part:
            return np.asarray(named.get(name.text, []), np.int32)
        return np.asarray(sorted(i for known, group in named.items() if name.fits(known) for i in group), np.int32)

    def parts(self, page: Page, query: RoleQuery, scopes: Sequence[Scope], counted: Counted) -> Iterator[Part]:
        yield Part(f"role {query.role}", counted(RoleQuery(query.role)))
        if query.name is not None:
            yield Part(f'name {"contains" if query.name.part else "is"} "{query.name.text}"', counted(query))

    def weaker(self, page: Page, query: RoleQuery, trees: Sequence[int]) -> Iterator[tuple[Any, str]]:
        if query.name is None:
            return
        yield RoleQuery(query.role), "any name"
        names = (name for tree in trees for name in _by_name(page, tree, query.role))
        for name, change in near_texts(query.name, names):
            yield RoleQuery(query.role, name), change

    def facts(self, page: Page, query: RoleQuery, scope: Scope, target: int) -> Iterator[Fact]:
        yield Fact("role", target, query.role)
        if query.name is not None:
            yield Fact("accessible-name", target, query.name.text, part=query.name.part)

    def says(self, query: RoleQuery) -> Iterator[tuple[str, str]]:
        yield "role", query.role
        if query.name is not None:
            yield "name", query.name.text

    def to_xpath(self, query: RoleQuery) -> str:
        named = f"[{name_test(query.role, query.name)}]" if query.name is not None else ""
        return f"//*[{role_test(query.role)}]{named}"

    def to_bidi(self, query: RoleQuery) -> dict[str, Any]:
        if query.name is not None and query.name.part:
            raise LocatorError("BiDi's accessibility locator takes whole names only, not a part of one")
        named = {"name": query.name.text} if query.name is not None else {}
        return {"type": "accessibility", "value": {"role": query.role, **named}}


ROLE = Role()


def _by_role(page: Page) -> dict[tuple[int, str], list[int]]:
    """Elements by tree and role, built once a page."""
    tables = Matches.of(page).tables
    if "role" not in tables:
        table = tables["role"] = {}
        exposed, trees = page.semantics.exposed, page.tree.tolist()
        for index, role in enumerate(page.semantics.roles):
            if role and exposed[index]:
                table.setdefault((trees[index], role), []).append(index)
    return tables["role"]


def _by_name(page: Page, tree: int, role: str) -> dict[str, list[int]]:
    """The elements of one role in a tree by their names, built once a page."""
    names = Matches.of(page).names
    if (tree, role) not in names:
        table: dict[str, list[int]] = {}
        for index in _by_role(page).get((tree, role), []):
            table.setdefault(page.semantics.name(index), []).append(index)
        names[tree, role] = table
    return names[tree, role]
