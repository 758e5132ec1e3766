"""`css{...}`: a CSS selector list, matched as `querySelectorAll` does."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Any

from wary_hound.locator import css
from wary_hound.locator.css.matcher import Matcher
from wary_hound.locator.css.parser import NOWHERE, UNKNOWABLE
from wary_hound.locator.css.printing import complex_text, css_text, simple_text
from wary_hound.locator.css.states import Controls
from wary_hound.locator.css.values import Attribute, Class, Complex, Compound, Id, Nth, Pseudo, Selectors, Simple, Type
from wary_hound.locator.css.values import Matches as Nested
from wary_hound.locator.facts import Fact
from wary_hound.locator.kinds.kind import Counted, IntArray, Kind, Part, Scope, around
from wary_hound.locator.translate import css_to_xpath
from wary_hound.page import Page

MOST_PARTS = 30
"""So many parts of a selector are told one by one, and so many left out in turn."""
_COMBINATORS = {" ": "descendant", ">": "child", "+": "adjacent", "~": "sibling"}


_VALIDITY = frozenset({"valid", "invalid"})
"""Known of a page that was captured, where the browser was asked; not worked out from markup."""


class Css(Kind):
    """Selectors Level 4, as browsers have it."""

    name = "css"
    quotes = "\"'"

    def parse(self, text: str) -> Selectors:
        return css.parse(text)

    def print(self, query: Selectors) -> str:
        return css_text(query)

    def match(self, page: Page, query: Selectors, tree: int, scope: int) -> IntArray:
        return css.match(page, query, tree, scope)

    def depends_on_scope(self, query: Selectors) -> bool:
        return True

    def parts(self, page: Page, query: Selectors, scopes: Sequence[Scope], counted: Counted) -> Iterator[Part]:
        if len(query) > 1:
            for selector in query[:MOST_PARTS]:
                yield Part(complex_text(selector), counted((selector,)))
            return
        (selector,) = query
        last = len(selector.compounds) - 1
        told = 0
        for k, compound in enumerate(selector.compounds):
            for n in range(1, len(compound.simples) + 1):
                told += 1
                if told > MOST_PARTS and not (k == last and n == len(compound.simples)):
                    continue
                partial = Complex(selector.combinators[: k + 1], (*selector.compounds[:k], Compound(compound.simples[:n])))
                yield Part(complex_text(partial), _count(page, partial, scopes, inside=k == last))

    def weaker(self, page: Page, query: Selectors, trees: Sequence[int]) -> Iterator[tuple[Any, str]]:
        if len(query) != 1:
            return
        (selector,) = query
        compounds, combinators = selector.compounds[-MOST_PARTS:], selector.combinators[-MOST_PARTS:]
        for k, compound in enumerate(compounds):
            for n, simple in enumerate(compound.simples[:MOST_PARTS]):
                rest = compound.simples[:n] + compound.simples[n + 1 :]
                if simple == Type("*") or (not rest and (len(compounds) == 1 or k < len(compounds) - 1)):
                    continue  # what is left would say nothing
                looser = (*compounds[:k], Compound(rest or (Type("*"),)), *compounds[k + 1 :])
                yield (Complex(("", *combinators[1:]), looser),), f"without {simple_text(simple)}"
            if k < len(compounds) - 1:
                said = "".join(map(simple_text, compound.simples))
                yield (Complex(("", *combinators[k + 2 :]), compounds[k + 1 :]),), f"without {said} before it"
        for k, combinator in enumerate(combinators):
            if k and combinator == ">":
                looser_way = ("", *combinators[1:k], " ", *combinators[k + 1 :])
                yield (Complex(looser_way, compounds),), "any descendant for a child"

    def facts(self, page: Page, query: Selectors, scope: Scope, target: int) -> Iterator[Fact]:
        if len(query) == len(query[0].compounds) == 1:
            for simple in query[0].compounds[0].simples:
                yield from _fact(page, simple, target, target)
            return
        matcher = Matcher(page, scope[0], scope[1])
        for selector in query:
            *before, last = selector.compounds
            prefixes: list[IntArray] = []
            for combinator, compound in zip(selector.combinators, before, strict=False):
                found = matcher.compound(compound)
                prefixes.append(matcher.step(prefixes[-1], combinator, found) if prefixes else found)
            if len(query) > 1:  # which of them finds it
                found = matcher.compound(last)
                if target not in (matcher.step(prefixes[-1], selector.combinators[-1], found) if prefixes else found):
                    continue
            at = target
            for k in range(len(before), -1, -1):
                for simple in selector.compounds[k].simples:
                    yield from _fact(page, simple, at, target)
                if k:
                    combinator = selector.combinators[k]
                    yield Fact(_COMBINATORS[combinator], at)
                    at = _before(page, at, combinator, set(prefixes[k - 1].tolist()))
            return

    def says(self, query: Selectors) -> Iterator[tuple[str, str]]:
        for simple in query[0].compounds[-1].simples[:MOST_PARTS]:
            match simple:
                case Type(name) if name != "*":
                    yield "tag", name.lower()
                case Id(value):
                    yield "@id", value
                case Class(value):
                    yield "class", value
                case Attribute(name, _, value, _) if value:
                    yield "class" if name.lower() == "class" else f"@{name.lower()}", value

    def unknowable(self, page: Page | None, query: Selectors) -> str:
        judged = page is None or bool(Controls.of(page).noted)
        return next((name for name in _unknowable(query) if not (judged and name in _VALIDITY)), "")

    def to_xpath(self, query: Selectors) -> str:
        return css_to_xpath(query)

    def to_css(self, query: Selectors) -> str:
        return css_text(query)

    def to_bidi(self, query: Selectors) -> dict[str, Any]:
        return {"type": "css", "value": css_text(query)}


CSS = Css()


def _count(page: Page, selector: Complex, scopes: Sequence[Scope], inside: bool) -> int:
    elements: set[int] = set()
    for tree, scope in scopes:
        matched = Matcher(page, tree, scope).complex(selector).tolist()
        elements.update(i for i in matched if not inside or scope < 0 or scope < i < page.end[scope])
    return len(elements)


def _before(page: Page, at: int, combinator: str, allowed: set[int]) -> int:
    """The nearest element of `allowed` that the combinator leads back to."""
    if combinator in " >":
        return next((above for above in page.ancestors(at) if above in allowed), at)
    previous = int(page.index.previous[at])
    while previous >= 0 and previous not in allowed:
        previous = int(page.index.previous[previous])
    return previous if previous >= 0 else at


def _fact(page: Page, simple: Simple, at: int, target: int) -> Iterator[Fact]:
    match simple:
        case Type("*"):
            return
        case Type(name):
            yield Fact("tag", at, name)
        case Id(value):
            yield Fact("id", at, value, "id")
        case Class(value):
            yield Fact("class", at, value, "class")
        case Attribute(name, "", _, _):
            yield Fact("having", at, "", name)
        case Attribute(name, operator, value, _):
            yield Fact("attribute", at, value, name, part=operator != "=", begins=operator in ("^=", "|="))
        case Nth():
            yield Fact("place", at, simple_text(simple))
        case Pseudo(name, _):
            yield Fact("place" if name.endswith(("-child", "-of-type")) else "state", at, simple_text(simple))
        case Nested("has", (Complex((" ",), (Compound((mark,)),)),)) if isinstance(mark, Id | Class | Attribute):
            yield Fact(around(page, at), target)
            holding = Matcher(page, int(page.tree[at])).simple(mark).tolist()
            yield from _fact(page, mark, next((i for i in holding if at < i < page.end[at]), at), target)
        case _:
            yield Fact("other", at, simple_text(simple))


def _unknowable(selectors: Selectors) -> Iterator[str]:
    for selector in selectors:
        for compound in selector.compounds:
            for simple in compound.simples:
                match simple:
                    case Pseudo("element", arguments):
                        yield f":{arguments[0]}"
                    case Pseudo(name, _) if name in UNKNOWABLE or name in NOWHERE or name in _VALIDITY:
                        yield name
                    case Nested(_, inner):
                        yield from _unknowable(inner)
