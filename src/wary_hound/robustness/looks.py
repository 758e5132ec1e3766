"""What a value looks like: named by a person, generated, hashed, a counter, styling, state. How long it lasts follows."""

from __future__ import annotations

import itertools
import re
from functools import lru_cache
from urllib.parse import unquote

LOOKS = tuple("named words long numbered number generated hashed utility state path empty data counting".split())
PASSED_ON = frozenset({"numbered", "number", "generated", "hashed", "counting"})
"""Looks of what is counted or made up at run time: a neighbour has it when the element has gone."""

_NUMBER = re.compile(r"[\d\s.,:/%+$€£°-]*\d[\d\s.,:/%+$€£°-]*\Z")
_MONTHS = (  # and no other words that begin so: Maren, Julia, Decker; nor what may be
    "jan(?:uary)?|feb(?:ruary)?|mar(?:ch)?|apr(?:il)?|(?-i:May|MAY)|june?|july?|aug(?:ust)?|sept?(?:ember)?|oct(?:ober)?|nov(?:ember)?|dec(?:ember)?"
)
_UUID = re.compile(r"[0-9a-f]{8}-(?:[0-9a-f]{4}-){3}[0-9a-f]{12}\Z", re.I)
_DATE = re.compile(rf"\d{{4}}-\d{{2}}-\d{{2}}|\d{{1,2}}[:.]\d{{2}}|\b(?:{_MONTHS})\b", re.I)
_HEX = re.compile(r"(?:[0-9a-f]{8,}|[0-9a-f]{8}-[0-9a-f]{4}-.*)\Z", re.I)
_GENERATED = re.compile(r"(?::\w{1,6}:|[a-z]*\d{4,}|.*[-_:]\d{3,}|[a-z]{1,4}[-_]?id[-_]?\d+|.*[-_][0-9a-f]{8,})\Z", re.I)
_COUNTER = re.compile(r".*[a-z]{2,}.*\d", re.I)
_HASHED_END = re.compile(r"(?:.*?(?:__|--|-|_))?([A-Za-z0-9]{5,10})\Z")
_ENCODED = re.compile(r"(?=.*[a-z])(?=.*[A-Z])[A-Za-z0-9+/_-]{5,}={1,2}\Z")
"""Base64 with its padding (RFC 4648)."""
_SIGNED = re.compile(r"[^\W\d_\x00-\u024f][0-9a-z]{1,3}\Z")
"""A letter that is not Latin, and a counter behind it that is, as style sheets that are made at run time call their classes."""
_CAMEL = re.compile(r"[A-Z]+(?![a-z])|[A-Z]?[a-z]+")
SHORTEST_WORDS, LEAST_WORDS = 2.5, 3
"""Letters in the words of a value that a person wrote in camel case, on average, from so many words on: of random ones few."""
_UTILITY = re.compile(
    r"-?(?:[a-z]{1,3}:)*(?:[mp][trblxyse]?|w|h|gap|col|row|flex|grid|text|bg|border|rounded|font|d|order|g|z|top|left|inset|"
    r"leading|tracking|space|justify|items|align|float|overflow|shadow|opacity|size|pull|offset|sm|md|lg|xl|min|max)"
    r"[-_](?:auto|none|center|left|right|start|end|full|screen|row|col|column|wrap|nowrap|between|around|bold|muted|block|inline|hidden|\w{0,3}-?\d+\S*|"
    r"xs|sm|md|lg|xl|[2-9]xl|\[.*\])\Z"
)
_KIT = re.compile(
    r"(?:btn|button)(?:[-_](?:default|xs|sm|lg|small|large|block))*\Z"
    r"|(?:container|wrapper)(?:[-_]fluid)?\Z|(?:row|col|column|clearfix|pull-left|pull-right)\Z"
    r"|(?:.+[-_])?(?:corner|rounded|shadow)s?[-_](?:all|left|right|top|bottom|tl|tr|bl|br|xs|sm|md|lg)\Z"
    r"|(?:(?:small|larg|bigg|wid)er|small|large|medium|tiny|big|huge|mini|compact|wide|narrow|left|right|cent(?:er|re)(?:ed)?|bold|italic)\Z"
)
"""What kits of styles call every button and every box, and how large they are, or where, and how their corners are."""
_STATES = frozenset(
    """active inactive open opened closed hidden visible shown selected checked disabled enabled focus focused hover hovered
    current expanded collapsed loading loaded busy invalid valid error even odd first last end show on off in out true false
    dirty pristine touched empty filled dragging sorting sorted asc desc ready hydrated locked unlocked muted unmuted pinned
    unpinned connected disconnected animate animated animating""".split()
)
_STATE_PREFIX = re.compile(r"(?:is|has|no|not|state|js)[-_](.+)\Z")
_STATE_CAMEL = re.compile(r"(?:is|has)[A-Z]")
_MODIFIER = (
    "active|inactive|selected|current|open|opened|closed|checked|disabled|hidden|visible|focused|hovered|expanded|collapsed|loading"
    "|dragging|sorted|asc|desc|ascending|descending|even|odd|first|last"
)
_STATE_END = re.compile(rf".+(?:[-_](?i:{_MODIFIER})|(?<=[a-z])(?:{'|'.join(word.title() for word in _MODIFIER.split('|'))}))\Z")
"""As modifiers are written: `tab--active`, `nav-current`, `sorting_asc`, `rowSelected`."""
_EVERY_OTHER = re.compile(r"(?:even|odd)(?:[-_A-Z].*)\Z")
"""As stripes are: `evenRow`, `odd-line`."""
_VOWELS = frozenset("aeiouy")


@lru_cache(maxsize=50_000)
def look_of_token(value: str) -> str:
    """Look of an id, a class or an attribute value without blanks; one of LOOKS."""
    if not value:
        return "empty"
    if _NUMBER.match(value):
        return "number"
    if value.startswith(("/", "#", "./", "../", "?")) or "://" in value or value.startswith(("mailto:", "tel:", "data:")):
        return "path"
    if _HEX.match(value) or _GENERATED.match(value) or _ENCODED.match(value) or _SIGNED.match(value):
        return "generated"
    if _looks_hashed(value):
        return "hashed"
    return "numbered" if _COUNTER.match(unquote(value)) else "named"


@lru_cache(maxsize=50_000)
def look_of_class(value: str) -> str:
    """Look of one class; utility and state classes beside those of any token."""
    prefixed = _STATE_PREFIX.match(value)
    if value.lower() in _STATES or (prefixed and (prefixed.group(1).lower() in _STATES or value.startswith("is-"))):
        return "state"
    if _UTILITY.match(value) or _KIT.match(value):
        return "utility"
    stated = _STATE_END.match(value) or _STATE_CAMEL.match(value) or _EVERY_OTHER.match(value)
    return "state" if stated else look_of_token(value)


@lru_cache(maxsize=50_000)
def look_of_text(value: str) -> str:
    """Look of a text that people read (visible text, name, label, title)."""
    if not value:
        return "empty"
    if _NUMBER.match(value) and not _UUID.match(value):
        return "number"
    if len(value) > 40:
        return "long"
    if any(c.isdigit() for c in value) or _DATE.search(value):
        return "numbered"
    return "words"


def _looks_hashed(value: str) -> bool:
    """The end of the value mixes letters and digits, or cases, as no person writes: `Card_root__x8Qa2`, `css-1k2b9c`."""
    hit = _HASHED_END.match(value)
    if not hit:
        return False
    end = hit.group(1)
    digits = sum(c.isdigit() for c in end)
    if digits and digits < len(end):
        switches = sum(a.isdigit() != b.isdigit() for a, b in itertools.pairwise(end))
        return switches >= 2 or (digits >= 2 and not end[0].isalpha())
    parts = _CAMEL.findall(value)
    if value.isalpha() and len(parts) >= LEAST_WORDS and len(value) <= SHORTEST_WORDS * len(parts):
        return True
    if digits or "__" not in value:
        return False
    cases = sum(a.islower() != b.islower() for a, b in itertools.pairwise(end))
    return cases >= 3 or not (_VOWELS & set(end.lower()))


def describe(look: str) -> str:
    """The look in words that a person can read."""
    return {
        "data": "is there to change",
        "counting": "counts the rows",
        "generated": "looks generated",
        "hashed": "looks hashed",
        "numbered": "holds a number",
        "number": "is a number or date",
        "utility": "is a utility class",
        "state": "says a state that comes and goes",
        "long": "is long",
        "path": "is an address",
    }.get(look, "")
