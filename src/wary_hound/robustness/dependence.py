"""What a locator depends on: the facts of a page that must last for it to go on finding its element.

Each dependency names the kind of fact, what its value looks like, and the element that bears it, so that the locators of
one page share dependencies and fail together where they share them.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass

from wary_hound.locator import css, xpath
from wary_hound.locator.css import values as c
from wary_hound.locator.css.matcher import Matcher
from wary_hound.locator.evaluate import TOP, Scope, find_in, match, opened
from wary_hound.locator.notation import parse_role, parse_wanted
from wary_hound.locator.printing import simple_text, xpath_text
from wary_hound.locator.values import Finder, Locator, Strategy, Wanted
from wary_hound.locator.xpath import values as x
from wary_hound.locator.xpath.evaluator import match as xpath_match
from wary_hound.page import Page
from wary_hound.robustness.looks import look_of_class, look_of_text, look_of_token

_TEST = re.compile(r"data-(?:.*-)?(?:test|qa)(?:$|[-_]?\w*)")
_STATE_ATTRIBUTES = frozenset(
    """checked selected disabled open hidden aria-expanded aria-selected aria-checked aria-pressed aria-current aria-hidden
    aria-busy aria-invalid aria-disabled tabindex aria-activedescendant readonly data-state""".split()
)
_PLAIN_ATTRIBUTES = frozenset("id name placeholder title href value type for role alt src style aria-label class".split())
_REFERENCES = frozenset({"aria-labelledby", "aria-controls", "aria-describedby", "aria-owns", "list", "form", "headers"})


@dataclass(frozen=True, slots=True)
class Dependency:
    """One fact: its kind (`id`, `class`, `text`, `child`, ...), the look of its value, the element that bears it."""

    kind: str
    look: str
    element: int
    value: str = ""

    @property
    def group(self) -> str:
        """The row of the rate table: kind and look."""
        return f"{self.kind}/{self.look}" if self.look else self.kind


def attribute_kind(name: str) -> str:
    """The kind of fact that an attribute is."""
    if _TEST.match(name):
        return "test-attribute"
    if name in _PLAIN_ATTRIBUTES:
        return name
    if name in _STATE_ATTRIBUTES:
        return "state-attribute"
    if name in _REFERENCES:
        return "reference"
    if name.startswith("data-"):
        return "data"
    return "aria" if name.startswith("aria-") else "attribute"


_READ = frozenset({"placeholder", "title", "aria-label", "alt"})


def attribute_look(kind: str, value: str) -> str:
    if kind in ("type", "role", "state-attribute", "style"):
        return ""
    if kind in _READ:
        return look_of_text(value)
    if kind == "value" or " " in value:
        return look_of_text(value)
    return look_of_token(value)


def dependencies(page: Page, locator: Locator, element: int) -> tuple[Dependency, ...]:
    """The facts that `locator` needs in order to find `element` on `page`, each once, in the order of the locator; of several
    alternatives, those of the one that finds it.

    Hops and anchors count with the elements that they bind on the way; where several would do, the nearest.
    """
    if locator.otherwise is not None:
        locator = next((way for way in locator.alternatives if match(page, way) == [element]), locator)
    found: dict[Dependency, None] = {}
    bound = _bind_hops(page, locator, element)
    for hop, (scope, target) in zip(locator.hops, bound, strict=True):
        for dependency in _finder(page, hop.finder, scope, target):
            found.setdefault(dependency)
        if hop.boundary:
            found.setdefault(Dependency(str(hop.boundary), "", target))
        elif target != element:
            found.setdefault(Dependency("inside", "", target))
    return tuple(found)


def _bind_hops(page: Page, locator: Locator, element: int) -> list[tuple[Scope, int]]:
    """For each hop, where it looks and the element that it binds on the way to `element`."""
    bound: list[tuple[Scope, int]] = []
    scope = TOP
    for hop in locator.hops[:-1]:
        found = find_in(page, hop.finder, scope).tolist()
        leads = [i for i in found if i < element < page.end[i]]
        at = leads[-1] if leads else -1
        bound.append((scope, at))
        onward = opened(page, hop, [at] if at >= 0 else [])
        scope = onward[0] if onward else TOP
    return [*bound, (scope, element)]


def _finder(page: Page, finder: Finder, scope: Scope, target: int) -> Iterator[Dependency]:
    if target < 0:
        return
    yield from _BY_STRATEGY[finder.strategy](page, finder.expression, scope, target)
    if finder.ordinal is not None:
        yield Dependency("ordinal", "", target, str(finder.ordinal))
    if finder.relation is not None and finder.anchor is not None:
        yield Dependency("geometry" if finder.relation.geometric else str(finder.relation), "", target)
        anchors = find_in(page, finder.anchor, scope).tolist()
        if anchors:
            nearest = min(anchors, key=lambda a: abs(a - target))
            yield from _finder(page, finder.anchor, scope, nearest)


# --- role, label, text ---------------------------------------------------------------------------------------------------


def _wanted(kind: str, wanted: Wanted, element: int) -> Dependency:
    return Dependency(kind + ("~" if wanted.part else ""), look_of_text(wanted.text), element, wanted.text)


def _role(page: Page, expression: str, scope: Scope, target: int) -> Iterator[Dependency]:
    wanted = parse_role(expression)
    yield Dependency("role", "", target, wanted.role)
    if wanted.name is not None:
        yield _wanted("accessible-name", wanted.name, target)


def _label(page: Page, expression: str, scope: Scope, target: int) -> Iterator[Dependency]:
    yield _wanted("label", parse_wanted(expression), target)


def _text(page: Page, expression: str, scope: Scope, target: int) -> Iterator[Dependency]:
    yield _wanted("text", parse_wanted(expression), target)


# --- css ---------------------------------------------------------------------------------------------------------------


def _css(page: Page, expression: str, scope: Scope, target: int) -> Iterator[Dependency]:
    matcher = Matcher(page, scope[0], scope[1])
    for selector in css.parse(expression):
        prefixes = [matcher.compound(selector.compounds[0])]
        for combinator, compound in zip(selector.combinators[1:], selector.compounds[1:], strict=True):
            prefixes.append(matcher.step(prefixes[-1], combinator, matcher.compound(compound)))
        if target not in prefixes[-1]:
            continue
        at = target
        for k in range(len(prefixes) - 1, -1, -1):
            for simple in selector.compounds[k].simples:
                yield from _simple(page, simple, at)
            if k:
                combinator = selector.combinators[k]
                yield Dependency(_COMBINATORS[combinator], "", at)
                at = _before(page, at, combinator, set(prefixes[k - 1].tolist()))
        return


_COMBINATORS = {" ": "descendant", ">": "child", "+": "adjacent", "~": "sibling"}


def _before(page: Page, at: int, combinator: str, allowed: set[int]) -> int:
    """The nearest element of `allowed` that the combinator leads back to."""
    if combinator in " >":
        return next((a for a in page.ancestors(at) if a in allowed), at)
    previous = int(page.index.previous[at])
    while previous >= 0 and previous not in allowed:
        previous = int(page.index.previous[previous])
    return previous if previous >= 0 else at


def _simple(page: Page, simple: c.Simple, at: int) -> Iterator[Dependency]:
    match simple:
        case c.Type(name):
            if name != "*":
                yield Dependency("tag", "", at, name)
        case c.Id(value):
            yield Dependency("id", look_of_token(value), at, value)
        case c.Class(value):
            yield Dependency("class", look_of_class(value), at, value)
        case c.Attribute(name, operator, value, _):
            yield _attribute(name, value, operator not in ("", "="), at, bare=not operator)
        case c.Nth() | c.Pseudo():
            yield Dependency("place" if _positional(simple) else "state-attribute", "", at, simple_text(simple))
        case c.Matches():
            yield Dependency("other", "", at, simple_text(simple))


def _positional(simple: c.Nth | c.Pseudo) -> bool:
    return isinstance(simple, c.Nth) or simple.name.endswith(("-child", "-of-type"))


def _attribute(name: str, value: str, part: bool, at: int, bare: bool = False) -> Dependency:
    kind = attribute_kind(name)
    if kind == "class" and not bare and " " not in value:
        return Dependency("class" + ("~" if part else ""), look_of_class(value), at, value)
    if bare:
        return Dependency("having", "", at, name)
    return Dependency(kind + ("~" if part else ""), attribute_look(kind, value), at, f"{name}={value}")


# --- xpath -------------------------------------------------------------------------------------------------------------


def _xpath(page: Page, expression: str, scope: Scope, target: int) -> Iterator[Dependency]:
    parsed = xpath.parse(expression)
    if isinstance(parsed, x.Filtered):
        for predicate in parsed.predicates:
            yield _place_or_other(predicate, target)
        parsed = parsed.primary
    if not isinstance(parsed, x.Path) or parsed.start is not None:
        yield Dependency("other", "", target, expression)
        return
    steps = parsed.steps
    at = target
    for k in range(len(steps) - 1, -1, -1):
        step = steps[k]
        if step.test == "node()" and step.axis in ("descendant-or-self", "self"):
            continue
        if step.test not in ("*", "node()"):
            yield Dependency("tag", "", at, step.test)
        for predicate in step.predicates:
            yield from _predicate(page, predicate, at)
        if k == 0:
            break
        deep = steps[k - 1].test == "node()" and steps[k - 1].axis == "descendant-or-self"
        if deep and k - 1 == 0:
            break
        yield Dependency(_AXES.get(step.axis, "other") if not deep else "descendant", "", at)
        onward = steps[: k - 1] if deep else steps[:k]
        at = _xpath_before(page, x.Path(parsed.absolute, onward), scope, at)


_AXES = {
    "child": "child", "descendant": "descendant", "following-sibling": "sibling", "preceding-sibling": "sibling",
    "parent": "child", "ancestor": "descendant", "following": "after", "preceding": "before", "self": "child",
}  # fmt: skip


def _xpath_before(page: Page, path: x.Path, scope: Scope, at: int) -> int:
    found = xpath_match(page, path, scope[0], scope[1])
    return min(found, key=lambda i: (abs(i - at), i)) if found else at


def _place_or_other(predicate: x.Expression, at: int) -> Dependency:
    return Dependency("ordinal" if x.is_positional(predicate) else "other", "", at, xpath_text(predicate))


def _predicate(page: Page, predicate: x.Expression, at: int) -> Iterator[Dependency]:
    if x.is_positional(predicate):
        yield Dependency("place", "", at, xpath_text(predicate))
        return
    match predicate:
        case x.Binary("and", left, right):
            yield from _predicate(page, left, at)
            yield from _predicate(page, right, at)
        case x.Binary("=", left, x.Literal(value)):
            yield _compared(left, value, False, at, predicate)
        case x.Call("contains" | "starts-with", (left, x.Literal(value))):
            yield _compared(left, value, True, at, predicate)
        case x.Path(False, (x.Step("attribute", name, ()),), None):
            yield Dependency("having", "", at, name)
        case x.Path(False, steps, None) if steps and steps[-1].predicates:
            yield Dependency("descendant", "", at, xpath_text(predicate))
            for inner in steps[-1].predicates:
                yield from _predicate(page, inner, at)
        case _:
            yield Dependency("other", "", at, xpath_text(predicate))


def _compared(left: x.Expression, value: str, part: bool, at: int, whole: x.Expression) -> Dependency:
    match left:
        case x.Path(False, (x.Step("attribute", name, ()),), None):
            return _attribute(name, value, part, at)
        case x.Call("normalize-space" | "string", _) | x.Path(False, (x.Step("self", "node()", ()),), None):
            return _wanted("content", Wanted(value, part), at)
        case x.Path(False, (x.Step("child", "text()", ()),), None):
            return _wanted("content", Wanted(value, part), at)
        case _:
            return Dependency("other", "", at, xpath_text(whole))


_BY_STRATEGY = {
    Strategy.CSS: _css,
    Strategy.XPATH: _xpath,
    Strategy.ROLE: _role,
    Strategy.LABEL: _label,
    Strategy.TEXT: _text,
}
