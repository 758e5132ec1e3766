"""What a locator depends on: the facts of a page that must last for it to go on finding its element.

Each dependency names the kind of fact, what its value looks like, and the element that bears it, so that the locators of
one page share dependencies and fail together where they share them.
"""

from __future__ import annotations

import re
from bisect import bisect_left
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from wary_hound.locator.blocks import rows_around
from wary_hound.locator.evaluate import TOP, find_in, in_scopes, looked_in, match, opened
from wary_hound.locator.facts import Fact
from wary_hound.locator.kinds import KINDS, Scope
from wary_hound.locator.tables import Tables
from wary_hound.locator.values import Finder, Locator
from wary_hound.page import Page
from wary_hound.page.cache import Bounded, Cache
from wary_hound.page.names import is_named_by_the_browser, without_value
from wary_hound.robustness.bylines import is_contact, is_signed
from wary_hound.robustness.data import (
    counts_things,
    holds_a_count,
    holds_its_state,
    is_composed,
    is_measured,
    is_moment,
    is_one_of_marked,
    says_only_its_deed,
    shows_data,
)
from wary_hound.robustness.looks import PASSED_ON, before_digest, look_of_class, look_of_text, look_of_token
from wary_hound.robustness.numbering import Numbering
from wary_hound.robustness.tabular import CONTROLS, NAMES, Tabular

_TEST = re.compile(r"data-(?:.*-)?(?:test|qa)(?:$|[-_]?\w*)")
_STATE_ATTRIBUTES = frozenset(
    """checked selected disabled open hidden active current expanded collapsed pressed focused indeterminate invalid busy loading
    aria-expanded aria-selected aria-checked aria-pressed aria-current aria-hidden aria-busy aria-invalid aria-disabled tabindex
    aria-activedescendant aria-valuenow aria-valuetext readonly data-state""".split()
)
_PLAIN_ATTRIBUTES = frozenset("id name placeholder title href value type for role alt src style aria-label class".split())
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
    (`COMMON`), or that it is what a button in a row does (`DEED`), which tells no row."""
    row: int = field(default=-1, compare=False, repr=False)
    """The row of a table, of several, that its element stands in, or is; -1 where there is none."""
    group: str = field(init=False, compare=False, repr=False)
    """The row of the rate table: kind and look."""
    base: str = field(init=False, compare=False, repr=False)
    """The kind, whether the whole value is asked for, a part of it (`~`) or, of a name, what it does not begin with (`$`)."""

    def __post_init__(self) -> None:
        object.__setattr__(self, "base", base_of(self.kind))
        object.__setattr__(self, "group", f"{self.kind}/{self.look}" if self.look else self.kind)


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


_KEY = re.compile(r"[/=]\d+(?![^/?#&])")
"""The number by which a server knows a thing, in an address: `/nights/42/edit`. On another one it is another."""
_COUNTED_PLACE = re.compile(r"#[a-z][a-z_-]*[-_]\d{3,}", re.I)
"""What a server calls a place of a page, by the number of what stands there: `#comment-1183`."""
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


class Known(Cache):
    """What the facts of a page are to the change model: many locators rest on the same."""

    def __init__(self, page: Page) -> None:
        super().__init__(page)
        self.dependencies: Bounded[Fact, Dependency] = Bounded(20_000)
        self.finders: Bounded[tuple[Finder, Scope, int], tuple[Dependency, ...]] = Bounded(5_000)
        """What a finder rests on that finds an element in a scope."""
        self.rows: dict[int, int] = {}
        """Of elements the row that they stand in (`_row_of_several`)."""


def dependencies(page: Page, locator: Locator, element: int, start: Scope = TOP) -> tuple[Dependency, ...]:
    """The facts that `locator` needs in order to find `element` on `page`, each once, in the order of the locator; of several
    alternatives, those of the one that finds it.

    Hops and anchors count with the elements that they bind on the way; where several would do, the nearest. `start`: where
    the first hop looks.
    """
    if locator.otherwise is not None:
        locator = next((way for way in locator.alternatives if match(page, way) == [element]), locator)
    facts: dict[Dependency, None] = {}
    bound = _bind_hops(page, locator, element, start)
    for hop, (scope, target) in zip(locator.hops, bound, strict=True):
        for dependency in _finder(page, hop.finder, scope, target):
            facts.setdefault(dependency)
        if hop.boundary:
            facts.setdefault(Dependency(str(hop.boundary), "", target))
        elif target != element:
            facts.setdefault(Dependency("inside", "", target))
    return tuple(facts)


def _bind_hops(page: Page, locator: Locator, element: int, scope: Scope) -> list[tuple[Scope, int]]:
    """For each hop, where it looks and the element that it binds on the way to `element`."""
    bound: list[tuple[Scope, int]] = []
    for hop in locator.hops[:-1]:
        scopes = looked_in(page, hop, [scope])
        found = in_scopes(page, hop.finder, scopes).tolist()
        leads = [i for i in found if i < element < page.end[i]]
        at = leads[-1] if leads else -1
        bound.append((_scope_of(page, at, scopes), at))
        onward = opened(page, hop, [at] if at >= 0 else [])
        scope = onward[0] if onward else TOP
    return [*bound, (_scope_of(page, element, looked_in(page, locator.hops[-1], [scope])), element)]


def _scope_of(page: Page, element: int, scopes: Sequence[Scope]) -> Scope:
    """Which of some scopes holds an element; the first where none does."""
    return next((scope for scope in scopes if scope[0] == page.tree[element]), scopes[0])


def _finder(page: Page, finder: Finder, scope: Scope, target: int) -> tuple[Dependency, ...]:
    """What a finder rests on; remembered: many locators lean on the same."""
    if target < 0:
        return ()
    kept, key = Known.of(page).finders, (finder, scope, target)
    resting = kept.get(key)
    if resting is None:
        resting = kept[key] = tuple(_resting(page, finder, scope, target))
    return resting


def _resting(page: Page, finder: Finder, scope: Scope, target: int) -> Iterator[Dependency]:
    known = Known.of(page).dependencies
    if finder.relations or finder.ordinal is not None:
        yield from _finder(page, Finder(finder.strategy, finder.query), scope, target)
    else:
        for fact in KINDS[finder.strategy].facts(page, finder.query.tree, scope, target):
            dependency = known.get(fact)
            if dependency is None:
                dependency = known[fact] = _as_data(page, dependency_of(fact))
            yield dependency
    if finder.ordinal is not None:
        yield Dependency("ordinal", "", target, str(finder.ordinal))
    for related in finder.relations:
        yield Dependency("geometry" if related.relation.geometric else str(related.relation), "", target)
        anchors = find_in(page, related.anchor, scope)
        if len(anchors):
            nearest = int(anchors[np.abs(anchors - target).argmin()])
            yield from _finder(page, related.anchor, scope, nearest)


SIGNED, CONTACT, COMMON, DEED = "signed", "contact", "common", "deed"
IDENTIFYING = re.compile(r"data-(?:.*[-_])?(?:id|key|name|title|slug|code|uid|uuid)=")
"""How a `data-*` attribute begins that says which thing it is about, and not what that is like or in what state."""


def is_dated(name: str, value: str) -> bool:
    """Whether an attribute is how a calendar calls a day or an hour: there is one of that date, and no other takes it."""
    return _DAYS.fullmatch(f"{name}={value}") is not None


def is_key(fact: Dependency) -> bool:
    """Whether it is the number by which a thing is known, in an attribute that says so: `data-id="1207"`."""
    return fact.kind == "data" and fact.look == "number" and IDENTIFYING.match(fact.value) is not None


_DAYS = re.compile(r"data-(?:date|day|time)=(?=\d)(?:\d{4}-\d\d-\d\d)?T?(?:\d\d:\d\d(?::\d\d)?)?")
MOST_FIELDS = 20
ROWS_BESIDE = 2
"""So many rows above and below are asked ..."""
MOST_IN_A_ROW = 200
"""... and so many elements of each."""
FAMILY = 3
"""What so many have, and more, that are not in one another, is the class of a kind."""
_BORNE = frozenset({"test-attribute", "data", "aria-label", "title", "alt"})
"""Attributes by which what stands in a column may be called in each row."""
_NUMBERED = frozenset({"id", "for", "reference"})
_COMPOSED = frozenset({"accessible-name", "label", "aria-label", "title", "alt"})
"""What a program may put together from all that a card or a bar of a chart shows: its hours, its price, how many there are."""
_SHOWN = frozenset({"text", "text~", "content", "content~", "accessible-name", "accessible-name~"})
_SIGNING = frozenset({"text", "content", "accessible-name", "title", "aria-label", "alt", "href", "data"})
"""What says in a by-line who wrote it."""


def _as_data(page: Page, fact: Dependency) -> Dependency:
    """Words that a page shows as data look so, whatever they look like, and names that count its rows. A name that is not the text
    is no data."""
    at, row = fact.element, _row_of_several(page, fact.element)
    if page.tags[at] == "main" or page.semantics.roles[at] == "main":
        return replace(fact, shared=True, row=row)
    if fact.kind == "class":
        look = "data" if Tabular.of(page).is_told_by_its_state(at, fact.value) else fact.look
        return replace(fact, look=look, shared=_is_of_a_family(page, at, fact.value), row=row)
    if fact.base == "name" and page.tags[at] == "slot":  # a place in a component, not what a person called a field
        return replace(fact, kind="having", look="", row=row)
    told = _says_a_choice(page, fact) or (fact.kind in _COMPOSED and _is_put_together(page, fact))
    look = _look_of_name(page, fact) or ("data" if told else "") or _look_of_words(page, fact) or fact.look
    return replace(fact, look=look, remark=_remark(page, fact), row=row)


def _remark(page: Page, fact: Dependency) -> str:
    """What a page says of a fact besides (see `Dependency.remark`)."""
    if fact.base in _SIGNING and is_signed(page, fact.element):
        return SIGNED
    if fact.base in _SIGNING and is_contact(page, fact.element):
        return CONTACT
    if fact.kind in READ and says_only_its_deed(page, fact.element, fact.value.partition("=")[2]):
        return DEED
    return COMMON if _is_common(page, fact) or _is_in_other_rows(page, fact) else ""


def _look_of_name(page: Page, fact: Dependency) -> str:
    """The look of a number in an attribute, where its page tells what that is: counted by a program, by the rows; alone in what a
    person called a field. Empty of others."""
    tabular, said = Tabular.of(page), fact.value.partition("=")[2]
    numbering = Numbering.of(page)
    if fact.kind in _NUMBERED and fact.look == "numbered" and numbering.counts(fact.value.rpartition("=")[2].lstrip("#")):
        return "generated"
    if fact.kind == "name" and fact.look == "numbered" and numbering.is_alone(fact.element, said):
        return "named"  # what a person called a field, whatever its number
    if fact.base == "href" or (fact.kind in NAMES and fact.look == "numbered"):
        return tabular.shift(fact.element, fact.base, fact.value.removeprefix(f"{fact.base}="))
    if fact.look == "numbered" and fact.kind in _COMPOSED and _row_of_several(page, fact.element) >= 0:
        name, value = (fact.kind, said) if fact.kind in READ else ("aria-label", fact.value)
        if page.attribute(fact.element, name) == value:
            return "counting" if tabular.counts_rows(fact.element, name, value) else ""
    if fact.look in ("number", "numbered") and fact.kind in _SWITCHED and not said.startswith("#"):
        return "counting" if tabular.counts_rows(fact.element, fact.value.partition("=")[0], said) else ""
    return ""


def _is_put_together(page: Page, fact: Dependency) -> bool:
    """Whether a name is made of figures that change, or an attribute gives it that says how many of something there are."""
    said = fact.value.partition("=")[2] or fact.value
    given = fact.kind in READ or page.attribute(fact.element, "aria-label") == said
    return is_composed(said) or (given and counts_things(said))


def _says_a_choice(page: Page, fact: Dependency) -> bool:
    """Whether an attribute, a label or a name says what was chosen, ticked or filled in, or are a browser's own."""
    at, kind, said = fact.element, fact.base, fact.value.partition("=")[2]
    role, shown = page.semantics.roles[at], page.semantics.worded[at]
    if kind == "value" and holds_its_state(page, at):
        return True
    if role == "combobox" and kind in ("label", "accessible-name", "aria-label"):
        beside = page.semantics.worded[max(0, int(page.parent[at]))]  # it shows what was chosen, mostly
        named = said or fact.value
        if beside and beside != named and beside in named:
            return True
    if kind == "label":
        return role == "combobox" and fact.value in shown
    if kind in ("data", "attribute", "value"):
        return shown != "" and said == shown and (role == "combobox" or page.attribute(at, "aria-haspopup") is not None)
    if kind == "aria-label":
        return without_value(page, at) not in ("", said)
    if kind == "accessible-name" and any(is_named_by_the_browser(page, one) for one in _fields_in(page, at)):
        return True
    return fact.kind == "accessible-name" and role in CONTROLS and is_one_of_marked(page, at)


def _row_of_several(page: Page, element: int) -> int:
    """The row of a table that an element stands in, or is, where the table has several, and it is not that of the heads, nor one by
    which the parts of a page are put side by side; or -1."""
    known = Known.of(page).rows
    if element not in known:
        tables = Tables.of(page)
        known[element] = next((row for row in rows_around(page, element) if len(tables.rows_with(row)) > 1), -1)
    return known[element]


def _fields_in(page: Page, element: int) -> Iterator[int]:
    """An element and the first fields in it, whose names its own may be made of."""
    fields = page.index.by_tag.get("input", ())
    first = int(np.searchsorted(fields, element))
    yield from (int(at) for at in fields[first : first + MOST_FIELDS] if at < page.end[element])


def _look_of_words(page: Page, fact: Dependency) -> str:
    """The look of words that a page shows, where they are data: a count, a measure, a status, what a table holds; or empty."""
    at, tabular = fact.element, Tabular.of(page)
    if fact.kind not in _SHOWN:
        return ""
    if fact.look == "number" and tabular.is_moment_of_its_row(at):
        return "numbered"
    if holds_a_count(page, at, fact.value):
        return "data"
    shown = is_measured(page, at, fact.value) or any(shows_data(page, one) for one in _saying_all(page, at)) or tabular.is_datum(at)
    named = fact.kind.startswith("accessible-name") and fact.value not in page.semantics.worded[at]
    return "data" if shown and not (named and not is_moment(page.semantics.name(at))) else ""


def _is_common(page: Page, fact: Dependency) -> bool:
    """Whether others of its tag have a test attribute, too, by which a kit calls all of a kind, or lead to what begins as its
    address does; whether a part of an address is a word that its link says, and others say, too (the deed in `/9/edit` of several
    *Edit*), or the end of an id says which part it is of what is called by the rest (`-arrow` of `box1-arrow` in `box1`)."""
    part = fact.value.partition("=")[2]
    tree, tag = page.tree[fact.element], page.tags[fact.element]
    if fact.kind == "test-attribute":
        bearers = page.index.valued(fact.value.partition("=")[0], part).tolist()
        return any(at != fact.element and page.tree[at] == tree and page.tags[at] == tag for at in bearers)
    if fact.kind == "href~" and (whole := page.attribute(fact.element, "href") or "").startswith(part):
        column = page.index.attribute_column("href").items()
        return any(other != whole and other.startswith(part) and page.tree[at] == tree for at, other in column)
    if fact.kind == "id$":
        whole = page.attribute(fact.element, "id") or ""
        return len(page.index.valued("id", whole.removesuffix(part))) > 0
    texts = page.semantics.worded
    said = texts[fact.element]
    if fact.kind != "href~" or not part.isalpha() or part.casefold() not in said.casefold().split():
        return False
    return any(texts[at] == said and at != fact.element for at in page.index.by_tag.get(page.tags[fact.element], ()))


def _is_in_other_rows(page: Page, fact: Dependency) -> bool:
    """Whether the rows of a table beside the one in which a text or an attribute stands have it, too: what can be done with each,
    of what type a column is."""
    asked = fact.kind in _SHOWN or fact.kind in _BORNE
    row = _row_of_several(page, fact.element) if asked and (fact.look != "number" or fact.kind in _BORNE) else -1
    if row < 0:
        return False
    rows, texts = Tables.of(page).rows_with(row), page.semantics.worded
    at = bisect_left(rows, row)
    near = [one for one in rows[max(0, at - ROWS_BESIDE) : at + ROWS_BESIDE + 1] if one != row]
    if fact.kind in _SHOWN:
        ends = {one: min(int(page.end[one]), one + 1 + MOST_IN_A_ROW) for one in near}
        return any(fact.value == texts[inside] for one in near for inside in range(one + 1, ends[one]))
    name, _, value = fact.value.partition("=")
    bearers = page.index.valued(name, value).tolist()
    return any(one <= bearer < page.end[one] for one in near for bearer in bearers)


def _is_of_a_family(page: Page, element: int, name: str) -> bool:
    """Whether a class is one that several of its tree have, apart from one another."""
    behind, met = -1, 0
    for at in page.index.by_class.get(name, ()):
        if page.tree[at] == page.tree[element] and at >= behind:
            behind, met = int(page.end[at]), met + 1
            if met == FAMILY:
                return True
    return False


def _saying_all(page: Page, element: int) -> Iterator[int]:
    """An element, and what in it says all that is read on it: a cell, the list of errors that fills it."""
    texts, at = page.semantics.worded, element
    while at >= 0:
        yield at
        at = next((inner for inner in page.children(at) if texts[inner] and texts[inner] == texts[at]), -1)


_WORDS = frozenset({"text", "content", "accessible-name", "label"})
_ENDING = frozenset({"id", "name", "for", "data"})
"""Names that begin alike in a family, and end with which of it is meant: `line-3-amount`."""
_SWITCHED, _SWITCHES = frozenset({"data", "attribute"}), frozenset({"true", "false", "on", "off", "yes", "no"})


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
    if kind in _SWITCHED and fact.value in _SWITCHES and not part:  # it says that there is such a thing, and no more
        return Dependency("having", "", fact.element, fact.name)
    look = "dated" if is_dated(fact.name, fact.value) else attribute_look(kind, fact.value)
    return Dependency(kind + part, look, fact.element, f"{fact.name}={fact.value}")
