"""One fact that a locator depends on, as the change model knows it: its kind, the look of its value, the element that bears it."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass, field

from wary_hound.locator.facts import Fact
from wary_hound.robustness.looks import MADE_UP, PASSED_ON, before_digest, look_of_class, look_of_text, look_of_token

_TEST = re.compile(r"data-(?:.*-)?(?:test|qa)(?:$|[-_]?\w*)")
_STATE_ATTRIBUTES = frozenset(
    """checked selected disabled open hidden active current expanded collapsed pressed focused indeterminate invalid busy loading
    aria-expanded aria-selected aria-checked aria-pressed aria-current aria-hidden aria-busy aria-invalid aria-disabled tabindex
    aria-activedescendant aria-valuenow aria-valuetext readonly data-state""".split()
)
_PLAIN_ATTRIBUTES = frozenset("id name placeholder title href value type for role alt src style aria-label class".split())
_BINDING = re.compile(
    r"(?:(?:data-)?ng|v|x|wire|bind)[-:.]model(?:\.[a-z.]+)?|form(?:control|group|array)name|asp-for|th:field", re.I
)
"""Attributes by which a framework is told what a field is called in the data of its form: a name, in other letters."""
_REFERENCES = frozenset({"aria-labelledby", "aria-controls", "aria-describedby", "aria-owns", "list", "form", "headers"})


def base_of(kind: str) -> str:
    """A kind of fact, without the mark of a part."""
    return kind.rstrip("~$")


@dataclass(frozen=True, slots=True)
class Dependency:
    """One fact: its kind (`id`, `class`, `text`, `child`, ...), the look of its value, the element that bears it."""

    kind: str
    look: str
    element: int
    value: str = ""
    shared: bool = field(default=False, compare=False, repr=False)
    """Whether it says nothing of what stands in its element: a class of a kind, what the main part of a page is called."""
    remark: str = field(default="", compare=False, repr=False)
    """What its page says of it: that it is in a by-line (`SIGNED`), is the address of a person (`CONTACT`), that others say it, too
    (`COMMON`; `ALONGSIDE` where all of these stand in one row of a table: in which row, it says), or that it is what a button in a
    row does (`DEED`), which tells no row."""
    row: int = field(default=-1, compare=False, repr=False)
    """The row of a table, of several, that its element stands in, or is; -1 where there is none."""
    group: str = field(init=False, compare=False, repr=False)
    """The row of the rate table: kind and look."""
    base: str = field(init=False, compare=False, repr=False)
    """The kind, whether the whole value is asked for, a part of it (`~`) or, of a name, what it does not begin with (`$`)."""

    def __post_init__(self) -> None:
        object.__setattr__(self, "base", base_of(self.kind))
        kind = self.base if self.look in MADE_UP else self.kind  # a part of what is made up lasts no longer than the whole
        object.__setattr__(self, "group", f"{kind}/{self.look}" if self.look else kind)


def row_by(facts: Iterable[Dependency], element: int) -> int:
    """The row of a table that an element stands in, by what is known of it (see `Dependency.row`); or -1."""
    return max((fact.row for fact in facts if fact.element == element), default=-1)


def attribute_kind(name: str) -> str:
    """The kind of fact that an attribute is."""
    if _TEST.match(name):
        return "test-attribute"
    if name in _PLAIN_ATTRIBUTES:
        return name
    if name in _STATE_ATTRIBUTES:
        return "state-attribute"
    if _BINDING.fullmatch(name):
        return "name"
    if name in _REFERENCES:
        return "reference"
    if name.startswith("data-"):
        return "data"
    return "aria" if name.startswith("aria-") else "attribute"


_KEY = re.compile(r"[/=]\d+(?![^/?#&])|\?\d+(?:-|\Z)")
"""The number by which a server knows a thing, in an address: `/nights/42/edit`. On another one it is another. So is that by which
it counts the pages that it has sent: `/visit?8-1.-form`."""
_LONG_KEY = re.compile(
    r"(?<![0-9a-z])(?=[a-f]*\d)(?=\d*[a-f])(?:[0-9a-f]{10,}|[0-9a-f]{8}-(?:[0-9a-f]{4}-){3}[0-9a-f]{12})(?![0-9a-z])", re.I
)
"""The key that a server makes up for a thing, in an address: nobody types that, and in another copy of its data it is another."""
_COUNTED_PLACE = re.compile(r"#[a-z][a-z_-]*[-_]\d{3,}", re.I)
"""What a server calls a place of a page, by the number of what stands there: `#comment-1183`."""
SEEN = frozenset({"text", "content", "accessible-name"})
"""What is read on an element, however it is asked for."""
READ = frozenset({"placeholder", "title", "aria-label", "alt"})
"""Attributes that say a name, and may go on to give a hint."""


def attribute_look(kind: str, value: str) -> str:
    """What the value of an attribute of a kind looks like."""
    if kind in ("type", "role", "state-attribute", "style"):
        return ""
    if kind in READ:
        return look_of_text(value)
    if kind in ("src", "href") and before_digest(value):
        return "hashed"
    if kind == "href" and _LONG_KEY.search(value):
        return "generated"
    if _KEY.search(value) and (kind == "href" or value.startswith(("/", "./", "../", "?")) or "://" in value):
        return "numbered"
    if kind == "reference" and " " in value:  # several ids: as steady as the loosest
        looks = [look_of_token(one) for one in value.split()]
        return next((look for look in looks if look in PASSED_ON), looks[0] if looks else "empty")
    if kind == "value" or " " in value:
        return look_of_text(value)
    if len(value) < 2 or not value.startswith("#"):
        return look_of_token(value)
    look = look_of_token(value[1:])  # an id, as selectors have it: as steady as that; an address may lead to a place of any name
    return look if kind != "href" or _COUNTED_PLACE.fullmatch(value) else look_of_token(value)


SIGNED, CONTACT, COMMON, ALONGSIDE, DEED = "signed", "contact", "common", "alongside", "deed"
IDENTIFYING = re.compile(r"data-(?:.*[-_])?(?:id|key|name|title|slug|code|uid|uuid)=")
"""How a `data-*` attribute begins that says which thing it is about, and not what that is like or in what state."""


def is_dated(name: str, value: str) -> bool:
    """Whether an attribute is how a calendar calls a day or an hour: there is one of that date, and no other takes it."""
    return _DAYS.fullmatch(f"{name}={value}") is not None


def is_key(fact: Dependency) -> bool:
    """Whether it is the number by which a thing is known, in an attribute that says so: `data-id="1207"`."""
    return fact.kind == "data" and fact.look == "number" and IDENTIFYING.match(fact.value) is not None


_DAYS = re.compile(r"data-(?:date|day|time)=(?=\d)(?:\d{4}-\d\d-\d\d)?T?(?:\d\d:\d\d(?::\d\d)?)?")
_WORDS = frozenset({"text", "content", "accessible-name", "label"})
_ENDING = frozenset({"id", "name", "for", "data"})
"""Names that begin alike in a family, and end with which of it is meant: `line-3-amount`."""
SWITCHED, _SWITCHES = frozenset({"data", "attribute"}), frozenset({"true", "false", "on", "off", "yes", "no"})


_BUILT_NAMES = re.compile(r"js(?:name|controller|action|model|log|data|slot|shadow|owner)|data-(?:reactid|editor|offset-key)")
"""Attributes to which a build gives names that mean nothing, even where they look like words."""


def dependency_of(fact: Fact) -> Dependency:
    """A fact as the change model knows it: by the kind that its attribute is of, and what its value looks like."""
    part = "~" if fact.part else ""
    if fact.kind in _WORDS:
        return Dependency(fact.kind + part, look_of_text(fact.value), fact.element, fact.value)
    if fact.kind == "class":
        return Dependency("class" + part, look_of_class(fact.value), fact.element, fact.value)
    if fact.kind == "id":
        return Dependency("id", look_of_token(fact.value), fact.element, fact.value)
    if fact.kind == "having":
        kind = "state-attribute" if fact.name in _STATE_ATTRIBUTES else "having"
        return Dependency(kind, "", fact.element, fact.name)
    if fact.kind == "state":
        return Dependency("state-attribute", "", fact.element, fact.value)
    if fact.kind != "attribute":
        return Dependency(fact.kind, "", fact.element, fact.value)
    kind = attribute_kind(fact.name)
    if part and kind in _ENDING and not fact.begins:
        part = "$"
    if kind == "class" and " " not in fact.value:
        return Dependency("class" + part, look_of_class(fact.value.rstrip("_-")), fact.element, fact.value)
    if kind in SWITCHED and fact.value in _SWITCHES and not part:  # it says that there is such a thing, and no more
        return Dependency("having", "", fact.element, fact.name)
    look = "dated" if is_dated(fact.name, fact.value) else attribute_look(kind, fact.value)
    look = "hashed" if _BUILT_NAMES.fullmatch(fact.name) else look
    return Dependency(kind + part, look, fact.element, f"{fact.name}={fact.value}")
