"""Locators to and from other notations: CSS, XPath, W3C Web Annotation selectors, W3C WebDriver pairs, WebDriver BiDi locators."""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import replace
from itertools import zip_longest
from typing import Any

from wary_hound.errors import LocatorError
from wary_hound.locator.evaluate import as_locator
from wary_hound.locator.kinds import KINDS
from wary_hound.locator.kinds.markup import UNSAID
from wary_hound.locator.making import css, label, role, text, xpath
from wary_hound.locator.notation import parse
from wary_hound.locator.one_xpath import one_xpath, unrelated_xpath
from wary_hound.locator.short_xpath import short_xpath
from wary_hound.locator.typed import typed
from wary_hound.locator.values import ANYWHERE, Boundary, Finder, Hop, Locator, Relation
from wary_hound.locator.xpath.printing import xpath_string
from wary_hound.page import Page

FORMS = ("css", "xpath", "annotation", "webdriver", "bidi")


def convert(locator: Locator | str, form: str, page: Page | None = None) -> Any:
    """A locator in another form: `css` and `xpath` as our notation, the others as JSON values.

    `annotation`: a W3C Web Annotation selector, hops chained with `refinedBy`. `webdriver`: a list of `using`/`value` pairs,
    `bidi`: a list of BiDi locators. In each of these `open` says how the next tree is reached, where one is, and `look` that it
    looks anywhere.
    With a `page`, the XPath is the shortest that finds the same there; without one, it holds on any page.
    Raises LocatorError, naming the part, where a form has no equivalent; ValueError for another form.
    """
    value = as_locator(locator)
    if form not in FORMS:
        raise ValueError(f"no form is named {form!r}: {', '.join(FORMS)}")
    if page is not None and form != "css" and not _is_native(value, form):
        short = short_xpath(value, page)
        value = Locator((Hop(xpath(short)),)) if short is not None else value
    if value.otherwise is not None:
        if form not in ("css", "xpath"):
            raise LocatorError(f"{form} has no equivalent of else: convert each way alone")
        if form == "css":
            return Locator.either(*(convert(way, form) for way in value.alternatives))
    return _FORMS[form](value)


def _is_native(locator: Locator, form: str) -> bool:
    """Whether a form has finders of that kind itself."""
    finder = locator.hops[0].finder
    if finder.relations or form == "xpath":
        return False
    return finder.strategy == "css" or (form == "bidi" and finder.strategy in ("role", "text"))


def unsaid(locator: Locator) -> tuple[str, ...]:
    """What the XPath of a locator does not ask, where roles, names or labels are in it: its conditions are those of markup."""
    spoken = {f.strategy for way in locator.alternatives for hop in way.hops for f in hop.finder.with_anchors()}
    return UNSAID if spoken & {"role", "label"} else UNSAID[:2] if "text" in spoken else ()


def read_any(given: str) -> Locator:
    """A locator from our notation, a bare XPath or CSS, or the JSON of one of the other forms."""
    line = given.strip()
    if line.startswith(("{", "[")):
        try:
            data = json.loads(line)
        except RecursionError:
            raise LocatorError("this JSON is nested too deep to be a locator") from None
        except ValueError as error:
            if line.startswith("["):  # an attribute selector
                return Locator((Hop(css(line)),))
            raise LocatorError(f"this is no JSON ({str(error)[:80]}), and no locator begins with a brace") from None
        return from_json(data)
    return typed(line)


def from_json(data: Any) -> Locator:
    """A locator from a Web Annotation selector, a WebDriver pair, a BiDi locator, or a list of the latter two."""
    try:
        if isinstance(data, dict) and str(data.get("type", "")).endswith("Selector"):
            return Locator(tuple(_from_annotation(data)))
        entries = data if isinstance(data, list) else [data]
        if not entries:
            raise LocatorError("the list of locators is empty")
        hops = [_opening(_from_entry(entry), entry) for entry in entries]
        return parse(str(Locator(tuple(hops))))
    except (AttributeError, KeyError, TypeError, ValueError, RecursionError) as error:
        raise LocatorError(f"this JSON is no locator of a known form ({type(error).__name__}: {error})") from None


def _trees(hop: Hop) -> dict[str, Any]:
    """What JSON says of the trees that a hop looks in and opens."""
    opens = {"open": str(hop.boundary)} if hop.boundary else {}
    return opens | ({"look": ANYWHERE} if hop.anywhere else {})


def _opening(finder: Finder, entry: dict[str, Any]) -> Hop:
    return Hop(finder, Boundary(entry.get("open", "")), entry.get("look") == ANYWHERE)


# --- CSS and XPath -----------------------------------------------------------------------------------------------------


def _as_css(locator: Locator) -> Locator:
    return Locator(tuple(replace(hop, finder=_finder_css(_unrelated(hop.finder, "css"))) for hop in locator.hops))


def _as_xpath(locator: Locator) -> Locator:
    """One expression a tree; of several ways in one tree, one for all."""
    if locator.otherwise is not None:
        return Locator((Hop(xpath(one_xpath(locator))),))
    hops: list[Hop] = []
    within: list[Hop] = []
    for hop, following in zip_longest(locator.hops, locator.hops[1:]):
        within.append(hop)
        if hop.boundary or following is None or following.anywhere:
            whole = Locator(tuple(Hop(one.finder) for one in within))
            hops.append(Hop(xpath(one_xpath(whole)), hop.boundary, within[0].anywhere))
            within = []
    return Locator(tuple(hops))


def _unrelated(finder: Finder, form: str) -> Finder:
    """Relations as XPath; CSS has `@inside` alone, as a descendant."""
    if not finder.relations:
        return finder
    inside = all(related.relation is Relation.INSIDE for related in finder.relations) and finder.ordinal is None
    if form == "css" and not inside:
        raise LocatorError(f"css has no equivalent of @{finder.relations[0].relation}")
    return xpath(one_xpath(Locator((Hop(finder),))))


def _finder_css(finder: Finder) -> Finder:
    if finder.ordinal is not None:
        raise LocatorError(f"CSS has no equivalent of #{finder.ordinal}: positions count siblings there, not matches")
    return finder if finder.strategy == "css" else css(KINDS[finder.strategy].to_css(finder.query.tree))


def _finder_xpath(finder: Finder) -> Finder:
    return xpath(unrelated_xpath(finder))


# --- Web Annotation ----------------------------------------------------------------------------------------------------


def _annotation(locator: Locator) -> dict[str, Any]:
    made: dict[str, Any] = {}
    for hop in reversed(locator.hops):
        finder = _unrelated(hop.finder, "a Web Annotation selector")
        plain = finder.strategy == "css" and finder.ordinal is None
        entry: dict[str, Any] = {
            "type": "CssSelector" if plain else "XPathSelector",
            "value": finder.expression if plain else _finder_xpath(finder).expression,
        }
        entry |= _trees(hop)
        if made:
            entry["refinedBy"] = made
        made = entry
    return made


def _from_annotation(data: dict[str, Any]) -> list[Hop]:
    makers: dict[str, Callable[[str], Finder]] = {"CssSelector": css, "XPathSelector": xpath}
    if data["type"] not in makers:
        raise LocatorError(f"a {data['type']} finds a part of a text or resource, not an element")
    finder = makers[data["type"]](str(data["value"]))
    parse(str(finder))
    inner = data.get("refinedBy")
    hop = _opening(finder, data)
    return [hop, *_from_annotation(inner)] if inner else [hop]


# --- WebDriver and BiDi ------------------------------------------------------------------------------------------------


def _steps(locator: Locator, one: Callable[[Finder], dict[str, Any]]) -> list[dict[str, Any]]:
    made = []
    for hop in locator.hops:
        made.append(one(hop.finder) | _trees(hop))
    return made


def _pair(finder: Finder) -> dict[str, Any]:
    finder = _unrelated(finder, "WebDriver")
    if finder.strategy == "css" and finder.ordinal is None:
        return {"using": "css selector", "value": finder.expression}
    return {"using": "xpath", "value": _finder_xpath(finder).expression}


def _bidi(finder: Finder) -> dict[str, Any]:
    finder = _unrelated(finder, "BiDi")
    own = KINDS[finder.strategy].to_bidi(finder.query.tree) if finder.ordinal is None else None
    if own is not None:
        return {**own, "value": finder.expression} if finder.strategy == "css" else own
    return {"type": "xpath", "value": _finder_xpath(finder).expression}


def _from_entry(entry: dict[str, Any]) -> Finder:
    if "using" in entry:
        value = str(entry["value"])
        match entry["using"]:
            case "css selector" | "tag name":
                return css(value)
            case "xpath":
                return xpath(value)
            case "link text":
                return xpath(f"//a[normalize-space()={xpath_string(value.strip())}]")
            case "partial link text":
                return xpath(f"//a[contains(normalize-space(), {xpath_string(value.strip())})]")
            case other:
                raise LocatorError(f"W3C WebDriver has no strategy {other!r}")
    match entry["type"]:
        case "css":
            return css(str(entry["value"]))
        case "xpath":
            return xpath(str(entry["value"]))
        case "innerText":
            return text(str(entry["value"]), entry.get("matchType") == "partial")
        case "accessibility":
            wanted = entry["value"]
            if "role" not in wanted:
                return label(str(wanted["name"]))
            return role(str(wanted["role"]), wanted.get("name"))
        case other:
            raise LocatorError(f"no equivalent of a BiDi locator of type {other!r}")


_FORMS: dict[str, Callable[[Locator], Any]] = {
    "css": _as_css,
    "xpath": _as_xpath,
    "annotation": _annotation,
    "webdriver": lambda locator: _steps(locator, _pair),
    "bidi": lambda locator: _steps(locator, _bidi),
}
"""One entry a form."""
