"""A locator as one standalone XPath 1.0, for whoever takes nothing else: hops, positions, relations and ways in one expression."""

from __future__ import annotations

from dataclasses import replace

from wary_hound.errors import LocatorError, NotationError
from wary_hound.locator.blocks import GROUP_ROLES, GROUP_TAGS, HEADS, WHOLE
from wary_hound.locator.kinds import KINDS
from wary_hound.locator.values import Finder, Locator, Related, Relation
from wary_hound.locator.xpath import parse
from wary_hound.locator.xpath.building import ANYWHERE
from wary_hound.locator.xpath.values import Path, Step, is_positional

ROW = 'self::tr or self::li or self::article or self::option or @role="row" or @role="listitem" or @role="article"'
"""What a row is where markup says it. Cards (blocks alike) are rows for `@row-of` too, which XPath 1.0 cannot say."""
_CELL = "self::td or self::th"
_GROUP = " or ".join(
    [
        *(f"self::{tag}" for tag in sorted(GROUP_TAGS)),
        *(f'@role="{role}"' for role in sorted(GROUP_ROLES)),
        'contains(local-name(), "-")',
    ]
)
_HEADING_TAGS = frozenset({*(f"h{level}" for level in range(1, 7)), *HEADS})
_HEADING = " or ".join([*(f"self::{tag}" for tag in sorted(_HEADING_TAGS)), '@role="heading"'])


def one_xpath(locator: Locator) -> str:
    """The expression. Of several ways, the first that finds exactly one; nothing where none does.

    LocatorError names what XPath 1.0 cannot say: another tree, states, relations by where elements stand. Roles, names and labels
    are those of markup (`kinds/markup.py`); rows are those that markup says, none within another; columns are counted in the cells
    of one table, none of which spans several.
    """
    ways = [_way(way) for way in locator.alternatives]
    if len(ways) == 1:
        return ways[0]
    parts = []
    for at, way in enumerate(ways):
        before = "".join(f"[not(count({other})=1)]" for other in ways[:at])
        parts.append(f"({way})[last()=1]{before}")
    whole = " | ".join(parts)
    try:
        parse(whole)
    except NotationError:
        raise LocatorError("xpath has no short equivalent of all these ways; convert each alone") from None
    return whole


def _way(way: Locator) -> str:
    made = ""
    for hop in way.hops:
        if hop.boundary or hop.anywhere:
            word = "anywhere" if hop.anywhere else hop.boundary
            raise LocatorError(f"xpath has no equivalent of {word}: an expression looks in one tree; convert each hop alone")
        made = _below(made, _finder(hop.finder)) if made else _finder(hop.finder)
    return made


def _below(outer: str, inner: str) -> str:
    """What an expression finds below what another one found."""
    if not _is_below_all(inner):
        raise LocatorError("xpath has no equivalent of a position or a union inside of what was found")
    return f"{_closed(outer)}{inner}"


def _is_below_all(expression: str) -> bool:
    """Whether it looks anywhere, and for one thing: so it can be looked for below another."""
    return expression.startswith("//") and " | " not in expression


def _closed(expression: str) -> str:
    return f"({expression})" if " | " in expression else expression


def unrelated_xpath(finder: Finder) -> str:
    """What a finder asks for, whatever it is related to."""
    own = finder.expression if finder.strategy == "xpath" else KINDS[finder.strategy].to_xpath(finder.query.tree)
    return _counted(own, finder)


def _counted(expression: str, finder: Finder) -> str:
    return expression if finder.ordinal is None else f"({expression})[{finder.ordinal}]"


def _finder(finder: Finder) -> str:
    own = unrelated_xpath(replace(finder, ordinal=None))
    for related in finder.relations:
        own = _related(own, related)
    return _counted(own, finder)


def _related(own: str, related: Related) -> str:
    anchor = _finder(related.anchor)
    if related.relation is Relation.INSIDE:
        return _below(anchor, own)
    if related.relation in (Relation.AFTER, Relation.BEFORE):
        return _next(anchor, "following" if related.relation is Relation.AFTER else "preceding", own)
    step = _step(anchor)
    if step is None:
        raise LocatorError(f"xpath has no equivalent of @{related.relation} with an anchor of several steps")
    if related.relation is Relation.GROUP_OF:
        return _in_group(anchor, step, own)
    said = f"*[{_reading(related.anchor)}]" if related.anchor.strategy == "text" else step
    if related.relation is Relation.ROW_OF and _is_below_all(own) and "/ancestor" not in own:  # another relation is in that
        return _below(f"{_closed(anchor)}/ancestor-or-self::*[{ROW}][1]", own) + _but(own, step)
    if related.relation is Relation.ROW_OF:
        return f"{_closed(own)}[ancestor::*[{ROW}][1][.//{said}]]{_but(own, step)}"
    if related.relation is Relation.COLUMN_OF:
        head = f"*[{_CELL}][descendant-or-self::{said}]"
        heads = f"ancestor::table[1]//{head}"
        whole = f"[not(count(../*)<count({heads}/../*))]"  # a row that lacks a cell tells no column
        cell = f"ancestor-or-self::*[{_CELL}][1]{whole}[count(preceding-sibling::*)=count({heads}/preceding-sibling::*)]"
        return f"{_closed(own)}[ancestor::table[1][.//{head}]][{cell}]{_but(own, step)}"
    raise LocatorError(f"xpath has no equivalent of @{related.relation}: it does not know where elements stand on the screen")


def _next(anchor: str, axis: str, own: str) -> str:
    """The nearest of its kind on an axis, for each anchor."""
    step = _step(own)
    if step is None or any(map(is_positional, _last(own).predicates)):
        raise LocatorError(f"xpath has no equivalent of the nearest on the {axis} axis with a position or several steps")
    return f"{_closed(anchor)}/{axis}::{step}[1]"


def _in_group(anchor: str, step: str, own: str) -> str:
    """What stands in the group of an anchor; a heading stands for what it heads, or for the block that it is in."""
    whole = " or ".join(f"self::{tag}" for tag in sorted(WHOLE))
    test = _last(anchor).test
    if test != "*" and test not in _HEADING_TAGS:
        return _below(f"{anchor}/ancestor::*[{_GROUP}][1]", own) + _but(own, step)
    ways = [
        (f"[ancestor::*[{_GROUP}][1][not({whole})]]", f"ancestor::*[{_GROUP}][1]"),
        (f"[{_HEADING}][ancestor::*[{_GROUP}][1][{whole}]]", "ancestor::*[count(*)>1][1]"),
        (f"[not({_HEADING})][ancestor::*[{_GROUP}][1][{whole}]]", f"ancestor::*[{_GROUP}][1]"),
    ]
    return f"({' | '.join(_below(f'{anchor}{which}/{around}', own) for which, around in ways)}){_but(own, step)}"


def _but(own: str, step: str) -> str:
    """That an element is not the anchor itself, where it could be."""
    tags = {"*" if _step(own) is None else _last(own).test, step.partition("[")[0]}
    return f"[not(self::{step})]" if "*" in tags or len(tags) == 1 else ""


def _last(expression: str) -> Step:
    parsed = parse(expression)
    assert isinstance(parsed, Path)
    return parsed.steps[-1]


def _reading(finder: Finder) -> str:
    """What a text asks of an element, whether or not something in it reads the same."""
    expression = KINDS[finder.strategy].to_xpath(finder.query.tree)
    return expression.removeprefix("//*[").split("][not(.//", 1)[0]


def _step(expression: str) -> str | None:
    """The one step of an expression such as `//a[@href]`; None where it has several, or is no such."""
    parsed = parse(expression)
    if not isinstance(parsed, Path) or not parsed.absolute or len(parsed.steps) != 2 or parsed.steps[0] != ANYWHERE:
        return None
    last = parsed.steps[1]
    return expression.removeprefix("//") if last.axis == "child" and expression.startswith("//") else None
