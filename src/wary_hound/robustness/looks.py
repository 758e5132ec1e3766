"""What a value looks like: named by a person, generated, hashed, a counter, styling, state. How long it lasts follows."""

from __future__ import annotations

import itertools
import re
from functools import lru_cache
from urllib.parse import unquote

from wary_hound.robustness import style_classes

LOOKS = tuple("named words long numbered number generated hashed utility state path empty data counting".split())
MADE_UP = frozenset({"generated", "hashed"})
"""A name that a build or a server makes up (`#e3/gPAY=`) is another one the next time."""
SHIFTING = frozenset({"data", "counting"})
"""What is there to change, and what is a position by another name."""
PASSED_ON = frozenset({"numbered", "number", "generated", "hashed", "counting"})
"""Looks of what is counted or made up at run time: a neighbour has it when the element has gone."""

_NUMBER = re.compile(r"(?=\D*\d)[\d\s.,:/%+$€£°-]+\Z")
_MONTHS = (  # and no other words that begin so: Maren, Julia, Decker; nor what may be
    "jan(?:uary)?|feb(?:ruary)?|mar(?:ch)?|apr(?:il)?|(?-i:May|MAY)|june?|july?|aug(?:ust)?|sept?(?:ember)?|oct(?:ober)?|nov(?:ember)?|dec(?:ember)?"
)
_UUID = re.compile(r"[0-9a-f]{8}-(?:[0-9a-f]{4}-){3}[0-9a-f]{12}\Z", re.I)
_DATE = re.compile(rf"\d{{4}}-\d{{2}}-\d{{2}}|\d{{1,2}}[:.]\d{{2}}|\b(?:{_MONTHS})\b", re.I)
_HEX = re.compile(r"(?:[0-9a-f]{8,}|[0-9a-f]{8}-[0-9a-f]{4}-.*)\Z", re.I)
_GENERATED = re.compile(
    "|".join(
        (
            r"[a-z]*\d{4,}\Z",  # night20417
            r".*[-_:]\d{3,}\Z",  # row-204
            r".*[-_:](?!(?:19|20)\d\d[-_:]\d)\d{3,}[-_:]",  # row-8421-name, and no date
            r".*\.\d{4,}(?:[-_.:]|\Z)",  # note.10214-foot
            r".*[-_][0-9a-f]{8,}\Z",  # f_1f2a8c3b
            r"(?:.*[-_:]|.*[a-z](?=(?-i:I)))?id[-_]?(?=[0-9a-f]*\d)[0-9a-f]+\Z",  # id3f, ui-id-9, rowId4
            r"(?:.*[-_:.])?gen[-_]?\d\d",  # yui-gen12-button
            r"(?:.*[-_:.])?(?:uid|guid|uuid|idt|autoid|autogen|anonymous|unique)[-_:]*[0-9a-f]*\d",  # j_idt45, form:j_idt23:save
            r"__[a-z]+_*\d",  # __button7-inner
            r".*0\.\d{6,}",  # a fraction at random
            r"\d+:\d+;\w",  # 45:1482;a
            r"(?:.*-)?(?::[rR][0-9a-z]{0,9}:|«[rR][0-9a-z]{0,9}»|_[rR]_[0-9a-z]+_(?:-|\Z))",  # :r1a:-form-item, «rb»
        )
    ),
    re.I,
)
"""What programs call what they make: by a long number, by a counter of their own, at random or by a digest."""
_COLON = re.compile(r":\w{1,6}:?\Z")
"""So some count: `:2p`."""
_MADE_BY = re.compile(r"(?:.*[-_:.])?(?:gen|uid|guid|uuid|j_idt?|idt?|autoid|autogen|anonymous|unique)[-_:]*\Z", re.I)
_FIGURES = re.compile(
    r"(?<![a-z0-9])(?:h[1-6]|w3c?|a11y|i18n|l10n|k8s|html[45]|css3|es6|utf[-_]?(?:8|16)|md5|sha[-_]?(?:1|2|256|512)|mp[34]|h26[45]|[23]d|[23]fa|oauth2|base64"
    r"|ipv[46]|http2|e2e|p2p|b2[bc]|(?:time)?(?:12|24)hr?)(?![a-z0-9])|(?<=[a-z]{3})[23]d(?![a-z0-9])",
    re.I,
)
"""Figures that are part of a word."""
_BUILT = re.compile(r"(.*[^/.-][.-])([A-Za-z0-9_]{6,32})(?:\.min)?\.\w{2,5}(?:[?#].*)?")
_DIGEST = re.compile(r"(?=[a-f]*\d)(?=\d*[a-f])[0-9a-f]{7,64}\Z")
"""What a program calls a version of something: `9f3ac0e`."""
_BASE16 = re.compile(r"[0-9a-f]+")
_COUNTER = re.compile(r"(?=.*[a-z]).*\d", re.I)
_HASHED_END = re.compile(r"(?:.*?(?:__|--|-|_))?([A-Za-z0-9]{5,10})\Z")
_ENCODED = re.compile(r"(?=.*[a-z])(?=.*[A-Z])[A-Za-z0-9+/_-]{5,}={1,2}\Z")
"""Base64 with its padding (RFC 4648)."""
_SIGNED = re.compile(r"[^\W\d_\x00-\u024f][0-9a-z]{1,3}\Z")
"""A letter that is not Latin, and a counter behind it that is, as style sheets that are made at run time call their classes."""
CAMEL = re.compile(r"[A-Z]+(?![a-z])|[A-Z]?[a-z]+")
"""The words of a name as programs write it: `txtVisitor`."""
SHORTEST_WORDS, LEAST_WORDS = 2.5, 3
"""Letters in the words of a value that a person wrote in camel case, on average, from so many words on: of random ones few."""
_SHORT = frozenset("a an as at be by db do go id if in io is it my no of ok on or os so to ui up us we".split())
"""Short words of which a person makes names, too: `goToTop`."""
_STYLED = re.compile(
    r"sc-(?=[a-z]*[A-Z])[a-zA-Z]{5,8}\Z|sc-[0-9a-f]{6,8}-\d+\Z|css-(?=[a-z]*\d)[0-9a-z]{5,8}(?:-|\Z)"
    r"|_[a-zA-Z][\w-]*_(?=[a-z]*\d)[0-9a-z]{5,6}_\d+\Z|_(?=[a-z]*\d)[0-9a-z]{3,6}\Z"
)
"""How tools call classes that keep one component's styles from others'."""
_SHORTENED, _CAPITALS = re.compile(r"[a-z]{1,2}[A-Z][A-Za-z]?"), frozenset({"iOS", "pH", "dB", "eV", "kW"})
"""Names that a build has made short (`zE`, `aXw`); and what people write so."""
_VOWELS = frozenset("aeiouy")


@lru_cache(maxsize=50_000)
def look_of_token(value: str) -> str:
    """Look of an id, a class or an attribute value without blanks; one of LOOKS."""
    if not value:
        return "empty"
    if _COLON.match(value):
        return "generated"
    if _NUMBER.match(value):
        return "number"
    if value.startswith(("/", "#", "./", "../", "?")) or "://" in value or value.startswith(("mailto:", "tel:", "data:")):
        return "path"
    if _HEX.match(value) or _GENERATED.match(value) or _ENCODED.match(value) or _SIGNED.match(value):
        return "generated"
    plain = _FIGURES.sub("", value) if any(map(str.isdigit, value)) else value
    if _looks_hashed(plain):
        return "hashed"
    return "numbered" if _COUNTER.match(unquote(plain)) else "named"


@lru_cache(maxsize=50_000)
def look_of_class(value: str) -> str:
    """Look of one class; utility and state classes beside those of any token."""
    if style_classes.is_plain_state(value):
        return "state"
    if style_classes.is_utility(value):
        return "utility"
    return "state" if style_classes.ends_in_state(value) else look_of_token(value)


@lru_cache(maxsize=50_000)
def look_of_text(value: str) -> str:
    """Look of a text that people read (visible text, name, label, title)."""
    if not value:
        return "empty"
    if _NUMBER.match(value) and not _UUID.match(value):
        return "number"
    if _DIGEST.match(value):
        return "hashed"
    if len(value) > 40:
        return "long"
    if any(c.isdigit() for c in value) or _DATE.search(value):
        return "numbered"
    return "words"


def is_sign(text: str) -> bool:
    """Whether a text holds neither a letter nor a figure: `×`, `[–]`; an empty one, too."""
    return not any(map(str.isalnum, text))


def before_digest(address: str) -> str:
    """What the address of a file begins with before the digest that a build has put into its name (`/static/dome.` of
    `/static/dome.3f9a1c.svg`); empty where there is none."""
    hit = _BUILT.fullmatch(address)
    if hit is None or not any(map(str.isdigit, hit[2])):
        return ""
    cases = {letter.isupper() for letter in hit[2] if letter.isalpha()}
    return hit[1] if _BASE16.fullmatch(hit[2]) or len(cases) > 1 else ""


def is_made_by(beginning: str) -> bool:
    """Whether the beginning of a name is that of whatever a program makes: `j_idt`, `yui-gen`."""
    return _MADE_BY.fullmatch(beginning) is not None


def _looks_hashed(value: str) -> bool:
    """The end of the value mixes letters and digits, or cases, as no person writes: `Card_root__x8Qa2`, `css-1k2b9c`."""
    if _STYLED.match(value) or (_SHORTENED.fullmatch(value) and value not in _CAPITALS):
        return True
    hit = _HASHED_END.match(value)
    if not hit:
        return False
    end = hit.group(1)
    digits = sum(c.isdigit() for c in end)
    if digits and digits < len(end):
        switches = sum(a.isdigit() != b.isdigit() for a, b in itertools.pairwise(end))
        return switches >= 2 or (digits >= 2 and not end[0].isalpha())
    parts = CAMEL.findall(value)
    if value.isalpha() and len(parts) >= LEAST_WORDS and len(value) <= SHORTEST_WORDS * sum(p.lower() not in _SHORT for p in parts):
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
