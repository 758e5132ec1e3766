"""Locators as people type them: our notation, a bare CSS selector, a bare XPath."""

from __future__ import annotations

import difflib
import re

from wary_hound.errors import NotationError
from wary_hound.locator.css.values import Selectors, Type
from wary_hound.locator.kinds import KINDS
from wary_hound.locator.making import css
from wary_hound.locator.notation import parse
from wary_hound.locator.values import Hop, Locator

_NOTATION = re.compile(rf"\s*(?:(?:{'|'.join(KINDS)})\s*\{{|(?:(?:anywhere|frame|shadow)\s+)+\w+\s*\{{)")
_XPATH = re.compile(r"\s*(?:\(*\s*\.{0,2}//?|\(+\s*[a-z*]|id\()")
_STRATEGY = re.compile(r"\s*([A-Za-z]{2,8})\s*\{(.*)\}\s*\Z", re.S)
_TAGS = frozenset(
    """a abbr address area article aside audio b base bdi bdo blockquote body br button canvas caption cite code col colgroup data
    datalist dd del details dfn dialog div dl dt em embed fieldset figcaption figure font footer form frame frameset g h1 h2 h3 h4
    h5 h6 head header hgroup hr html i iframe img input ins kbd label legend li line link main map mark menu meta meter nav noscript
    object ol optgroup option output p param path picture polygon pre progress q rect rp rt ruby s samp script search section select
    slot small source span strong style sub summary sup svg symbol table tbody td template text textarea tfoot th thead time title
    tr track u ul use var video wbr circle ellipse image""".split()
)


def typed(text: str) -> Locator:
    """A locator from our notation, or from a bare CSS selector or XPath, told by how it begins and whether it parses.

    NotationError where it is none of these: with what it comes nearest to, where that can be said.
    """
    if _NOTATION.match(text):
        return parse(text)
    if _XPATH.match(text):
        return parse(f"xpath{{{text.strip()}}}")
    line = text.strip()
    try:
        finder = css(line)
    except NotationError as error:
        raise _with_advice(text, error) from None
    unknown = _words(finder.query.tree)
    if unknown:
        ways = f"text{{{line}}}, label{{{line}}} or #{'-'.join(line.split()).lower()}"
        asked = ", ".join(f"<{name}>" for name in unknown)
        raise NotationError(text, 1, f"a locator; as CSS this asks for {asked}, which HTML has not: did you mean {ways}?")
    return Locator((Hop(finder),))


def _words(selectors: Selectors) -> list[str]:
    """What a selector that is nothing but words asks for, if HTML has no such elements: somebody wrote a text."""
    simples = [simple for one in selectors for compound in one.compounds for simple in compound.simples]
    if not simples or not all(isinstance(simple, Type) for simple in simples):
        return []
    names = [str(simple.name) for simple in simples if isinstance(simple, Type)]
    return [name for name in names if name.lower() not in _TAGS and "-" not in name and name != "*"]


def _with_advice(text: str, error: NotationError) -> NotationError:
    """The error of the notation itself, with the strategy that a misspelt one comes nearest to."""
    pair = _STRATEGY.match(text)
    if pair:
        near = difflib.get_close_matches(pair.group(1).lower(), [*KINDS], 1, 0.5)
        if near:
            meant = f"{near[0]}{{{pair.group(2)}}}"
            return NotationError(text, 1, f"one of {', '.join(KINDS)}: did you mean {meant}?")
    try:
        parse(text)
    except NotationError as own:
        return own if own.column > error.column else NotationError(text, error.column, f"{error.expected} (read as CSS)")
    return error
