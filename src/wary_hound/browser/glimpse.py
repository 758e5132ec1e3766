"""What a locator finds, from a capture of what it can mean alone: on large pages a small part of the whole.

The page lets through all elements that the locator, by tests that must hold, may mean, with what their roles, names, labels and
texts rest on (sieve.js); what it means is then decided on that part by the same code as on a whole page. Where a part may not
tell (frames, texts in shadow trees, expressions that ask for places among siblings, most relations), there is no glimpse.
"""

from __future__ import annotations

import json
import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any

from wary_hound.browser import capture as capturing
from wary_hound.browser.connection import Connection
from wary_hound.errors import LocatorError
from wary_hound.locator.blocks import MOST_IN_A_ROW, ROW_ROLES, ROW_TAGS, row_of
from wary_hound.locator.evaluate import TOP, in_scopes, looked_in
from wary_hound.locator.kinds import Scope
from wary_hound.locator.kinds.label import plain_label
from wary_hound.locator.values import Finder, Locator, Relation, TextQuery
from wary_hound.page import Page
from wary_hound.page.names import CONTROL_ROLES, LABELABLE, NAMING
from wary_hound.page.roles import ALIASES, BY_INPUT, BY_TAG, TEXT_INPUT
from wary_hound.page.secrets import Secrets

Plan = dict[str, Any]
MOST_WITNESSES = 3
"""So many are asked for beside a locator: one that agrees is enough, and each costs time."""
_UNARMED = "() => { if (globalThis.waryHoundPress) globalThis.waryHoundPress.ended.abort(); globalThis.waryHoundPress = null; }"
"""Ends that ready.js listens for a press of an element which is not meant."""
_PLAIN = re.compile(r"(?:[\w-]+|\*)?(?:[#.][\w-]+|\[[\w-]+(?:[~^$*|]?=(?:[\w-]+|\"[^\"\\]*\"|'[^'\\]*'))?\])*")
"""CSS selectors of one element alone: nothing of its neighbours, places or states."""
_BY_RULE = {
    "link": ["a", "area"], "listbox": ["select"], "combobox": ["select", "input"], "image": ["img"], "none": ["img"],
    "region": ["section"], "banner": ["header"], "contentinfo": ["footer"], "cell": ["td"], "gridcell": ["td"],
    "rowheader": ["th"], "columnheader": ["th"],
}  # fmt: skip
"""Tags that may have a role by more than their name."""


def _marked(role: str) -> str:
    return f'[role~="{role}" i]'


_ROWS = {"selector": ",".join([*sorted(ROW_TAGS), *map(_marked, sorted(ROW_ROLES))]), "most": MOST_IN_A_ROW}
"""What is a row by its tag or role, and how many elements another block may hold to be one."""


@dataclass(frozen=True, slots=True)
class AskedFor:
    """What a glimpse is to show: a locator, witnesses of which one must agree where there are any, and what the sieve lets through
    for them (JSON)."""

    locator: Locator
    agreeing: tuple[Locator, ...]
    plans: str


def asked_for(locator: Locator, witnesses: Sequence[Locator] = ()) -> AskedFor | None:
    """What to ask of a part of a page for a locator and its witnesses; None where only the whole can tell."""
    own, agreeing = _plan_of(locator), tuple(w for w in witnesses if _plan_of(w) is not None)[:MOST_WITNESSES]
    if own is None or (witnesses and not agreeing):
        return None
    return AskedFor(locator, agreeing, json.dumps([own, *map(_plan_of, agreeing)]))


@dataclass(frozen=True, slots=True)
class Glimpse:
    """A capture of a part of a page, the index of the element that a locator means there, and what ready.js has seen of it where it
    is to be pressed."""

    taken: capturing.Capture
    index: int
    seen: list[Any]


def glimpse(
    connection: Connection,
    context: str,
    time: str,
    secrets: Secrets,
    asked: AskedFor,
    *,
    undrawn: bool = False,
    press: bool = False,
) -> Glimpse | None:
    """A part of the page in which a locator finds the one element that it finds on the whole; None where it does not find one, none
    of its witnesses agrees, or a part cannot tell. `time` (ISO 8601) goes into the facts; `undrawn`: once a frame shows what was
    done last; `press`: the element is to be clicked. Errors as of `capture`."""
    part = capturing.part(connection, context, time, secrets, asked.plans, undrawn=undrawn, press=press)
    if part is None:
        return None
    locators = (asked.locator, *asked.agreeing)
    index, *others = (_sole(part, locator, passed) for locator, passed in zip(locators, part.passed, strict=True))
    told = index >= 0 and (not others or index in others)
    itself = told and part.seen is not None and part.seen.number == part.taken.places[index][1]
    if part.seen is not None and not itself:
        connection.call_if_there(context, _UNARMED)
    return Glimpse(part.taken, index, part.seen.answer if part.seen and itself else []) if told else None


def _sole(part: capturing.Part, locator: Locator, passed: int) -> int:
    """The one element that a locator finds, where all that it rests on was taken; -1 otherwise. `passed`: how many before the place
    that it asks for were not."""
    [hop] = locator.hops
    finder, page = hop.finder, part.taken.page
    scopes = looked_in(page, hop, [TOP])
    if finder.ordinal is not None:
        finder = replace(finder, ordinal=finder.ordinal - passed)
    try:
        elements = in_scopes(page, finder, scopes).tolist()
        rests_on = {*elements, *_anchors(page, finder, scopes)}
    except LocatorError:
        return -1
    return elements[0] if len(elements) == 1 and part.complete >= rests_on else -1


def _anchors(page: Page, finder: Finder, scopes: list[Scope]) -> Iterator[int]:
    for related in finder.relations:
        for anchor in in_scopes(page, related.anchor, scopes).tolist():
            yield anchor
            if related.relation is Relation.ROW_OF and (row := row_of(page, anchor)) >= 0:
                yield row


@lru_cache(maxsize=1000)
def _plan_of(locator: Locator) -> Plan | None:
    """What the sieve is asked for; None where a part of the page cannot tell what a locator means."""
    if len(locator.hops) != 1 or locator.hops[0].boundary:
        return None
    [hop] = locator.hops
    plan = _plan_with_anchor(hop.finder)
    if plan is None or not hop.anywhere:
        return plan
    return {**plan, "anywhere": True} if plan["kind"] != "text" else None  # a text may go on in another tree


def _plan_with_anchor(finder: Finder) -> Plan | None:
    own = _plan(finder)
    if not finder.relations or own is None:
        return own
    if len(finder.relations) > 1 or finder.ordinal is not None:
        return None
    relation, anchor = finder.relations[0].relation, finder.relations[0].anchor
    plan = _plan(anchor) if not anchor.relations and anchor.ordinal is None else None
    if plan is None or relation not in (Relation.ROW_OF, Relation.INSIDE):
        return None
    return {**plan, "rows": _ROWS if relation is Relation.ROW_OF else None, "target": own.get("selector", "*")}


def _plan(finder: Finder) -> Plan | None:
    """What may be meant by a finder without its relations."""
    query = finder.query.tree
    match finder.strategy:
        case "text":
            return {"kind": "text", "text": query.text, "part": query.part}
        case "role":
            tags, selector = _tags(query.role), _selector(query.role)
            name = query.name or TextQuery("", part=False)
            plan = {"kind": "role", "text": name.text, "part": name.part}
            plan |= {"selector": selector, "tags": tags, "naming": NAMING}
            if (place := finder.ordinal) is None:
                return plan
            # Not all that may have a role has it.
            return {**plan, "place": place, "most": place + place // 4 + 10, "sure": "" if query.name else _sure(query.role)}
        case "label":
            every = ",".join([*sorted(LABELABLE), *(_marked(role) for role in sorted(CONTROL_ROLES))])
            return {"kind": "label", "selector": every, "text": plain_label(query.text), "part": True}  # a colon may follow
        case "css" if _PLAIN.fullmatch(finder.expression):
            return {"kind": "css", "selector": finder.expression, "text": ""}
        case _:
            return None


def _tags(role: str) -> list[str]:
    return sorted({tag for tag, own in BY_TAG.items() if own == role} | set(_BY_RULE.get(role, ())))


def _selector(role: str) -> str:
    tags = set(_tags(role))
    inputs = {f'input[type*="{kind}" i]' for kind, own in BY_INPUT.items() if own == role}
    tags |= {"input"} if role == BY_INPUT["text"] else inputs  # of no type, or an unknown one, it takes texts
    named = [role, *(alias for alias, meant in ALIASES.items() if meant == role)]
    return ",".join([*sorted(tags), *(_marked(name) for name in named)])


def _sure(role: str) -> str:
    """What has a role whatever stands around it and in it; empty where there is no such thing."""
    tags = [tag for tag, own in BY_TAG.items() if own == role]
    inputs = [f'input[type="{kind}" i]' for kind, own in BY_INPUT.items() if own == role and kind not in TEXT_INPUT]
    links = ["a[href]", "area[href]"] if role == "link" else []
    return ",".join(f"{one}:not([role])" for one in (*tags, *inputs, *links))
