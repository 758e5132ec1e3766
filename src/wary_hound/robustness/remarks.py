"""What a page says of a fact: that its words are data, that its name counts rows, that others say the same, in which row it is."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Iterator
from dataclasses import replace

import numpy as np

from wary_hound.locator.blocks import is_block, is_most
from wary_hound.locator.tables import Tables
from wary_hound.page import Page
from wary_hound.page.index import tokens
from wary_hound.page.names import is_named_by_the_browser, without_value
from wary_hound.robustness.bylines import is_contact, is_signed
from wary_hound.robustness.categories import Categories
from wary_hound.robustness.data import (
    counts_things,
    holds_a_count,
    holds_a_moment,
    holds_its_state,
    is_composed,
    is_measured,
    is_moment,
    is_one_of_marked,
    says_how_long_ago,
    says_only_its_deed,
    says_when,
    shows_data,
)
from wary_hound.robustness.dependency import ALONGSIDE, COMMON, CONTACT, DEED, READ, SEEN, SIGNED, SWITCHED, Dependency
from wary_hound.robustness.numbering import Numbering
from wary_hound.robustness.tabular import CALLED, CONTROLS, NAMES, SHOWN, Tabular, is_label

MOST_FIELDS = 20
ROWS_BESIDE = 2
"""So many rows above and below are asked ..."""
MOST_IN_A_ROW = 200
"""... and so many elements of each."""
FAMILY = 3
"""What so many have, and more, that are not in one another, is the class of a kind."""
_BORNE = frozenset({"test-attribute", "data", "aria-label", "title", "alt"})
"""Attributes by which what stands in a column may be called in each row."""
_ANSWERS = frozenset({"yes", "no"})
_TICKED = frozenset({"radio", "checkbox"})
_CHOICES = frozenset({"radio", "menuitemradio", "option"})
_CELLS = frozenset({"cell", "gridcell"})
_NAMING = ("aria-label", "title", "alt")
_FIELDS = frozenset({"input", "select", "textarea"})
_UNNAMED, _PRESSED = frozenset({"button", "submit", "commit", "btn"}), frozenset({"button", "input"})
"""What frameworks call a button that nobody gave a name."""
_NUMBERED = frozenset({"id", "for", "reference"})
_NAMED = frozenset({"accessible-name", "label", "aria-label", "title", "alt"})
"""What a program may put together from all that a card or a bar of a chart shows: its hours, its price, how many there are."""
_SIGNING = frozenset({"text", "content", "accessible-name", "title", "aria-label", "alt", "href", "data"})
"""What says in a by-line who wrote it."""


def as_shown(page: Page, fact: Dependency) -> Dependency:
    """Words that a page shows as data look so, whatever they look like, and names that count its rows. A name that is not the text
    is no data."""
    at, tabular = fact.element, Tabular.of(page)
    fact = replace(fact, row=tabular.row_of(at))
    if (
        page.tags[at] == "main"
        or page.semantics.roles[at] == "main"
        or (fact.kind == "tag" and "-" in fact.value and is_most(page, at))
    ):
        return replace(fact, shared=True)
    if fact.base == "class":
        is_row = fact.row == at or (fact.row < 0 and is_block(page, at))
        whole = (one for one in tokens(page.attribute(at, "class") or "") if fact.value in one)
        name = fact.value if fact.kind == "class" else next(whole, fact.value)
        told = tabular.says_the_kind(at, name) if is_row else (fact.kind == "class" and tabular.is_told_by_its_state(at, name))
        look = "data" if told else fact.look
        return replace(fact, look=look, shared=_is_of_a_family(page, at, name))
    if fact.base == "name" and page.tags[at] == "slot":  # a place in a component, not what a person called a field
        return replace(fact, kind="having", look="")
    borne = _bearing(page, fact)
    named = fact.kind in _NAMED and (
        _is_put_together(page, fact) or _says_a_state(page, fact, borne) or holds_a_moment(page, at, fact.value)
    )
    told = named or _says_a_choice(page, fact)
    look = _look_of_name(page, fact) or ("data" if told else "") or _look_of_words(page, fact) or fact.look
    return replace(fact, look=look, remark=_remark(page, fact, borne))


Borne = tuple[str, str] | None
"""The attribute that says a fact, and what of its value is asked for (`_bearing`)."""


def _remark(page: Page, fact: Dependency, borne: Borne) -> str:
    """What a page says of a fact besides (see `Dependency.remark`)."""
    if fact.base in _SIGNING and is_signed(page, fact.element):
        return SIGNED
    if fact.base in _SIGNING and is_contact(page, fact.element):
        return CONTACT
    if fact.kind in READ and says_only_its_deed(page, fact.element, fact.value.partition("=")[2]):
        return DEED
    answers = fact.base in ("label", "accessible-name") and page.semantics.roles[fact.element] in _TICKED
    if answers and fact.value.casefold() in _ANSWERS:
        return COMMON
    if _is_common(page, fact) or _is_in_other_rows(page, fact, borne) or _tells_a_kind(page, fact, borne):
        return COMMON
    called = _called_alike(page, fact, borne)
    within = fact.row >= 0 and fact.kind != "test-attribute" and all(fact.row < at < page.end[fact.row] for at in called)
    return (ALONGSIDE if within else COMMON) if called else ""


def _look_of_name(page: Page, fact: Dependency) -> str:
    """The look of a number in an attribute, where its page tells what that is: counted by a program, by the rows; alone in what a
    person called a field. Empty of others."""
    tabular, (attribute, _, said) = Tabular.of(page), fact.value.partition("=")
    numbering = Numbering.of(page)
    if fact.kind in _NUMBERED and fact.look == "numbered" and numbering.counts(fact.value.rpartition("=")[2].lstrip("#")):
        return "generated"
    if fact.kind == "name" and fact.look == "numbered":
        if attribute == "name" and numbering.is_alone(fact.element, said):
            return "named"  # what a person called a field, whatever its number
        return "counting" if tabular.counts_rows(fact.element, attribute, said) else ""
    if fact.base == "href" or (fact.kind in NAMES and fact.look == "numbered"):
        return tabular.shift(fact.element, fact.base, fact.value.removeprefix(f"{fact.base}="))
    if fact.look == "numbered" and fact.base in _NAMED | SEEN and fact.row >= 0:
        return "counting" if _is_called_by_number(page, fact) else ""
    if fact.look in ("number", "numbered") and fact.kind in SWITCHED and not said.startswith("#"):
        return "counting" if tabular.counts_rows(fact.element, attribute, said) else ""
    return ""


def _is_called_by_number(page: Page, fact: Dependency) -> bool:
    """Whether what a control, or its label, says in a row counts the rows: *Select item 3*. What is only read may be a title."""
    at, base = fact.element, fact.base
    labels = base not in SEEN or page.semantics.roles[at] in CONTROLS or page.attribute(at, "aria-label") is not None
    if not labels and not any(is_label(page, one) for one in _saying_all(page, at)):
        return False
    shown = base in ("text", "content")
    value = page.semantics.worded[at] if shown else page.semantics.name(at)
    return Tabular.of(page).counts_rows(at, SHOWN if shown else CALLED, value)


def _is_put_together(page: Page, fact: Dependency) -> bool:
    """Whether a name is made of figures that change, or an attribute gives it that says how many of something there are."""
    said = fact.value.partition("=")[2] or fact.value
    given = fact.kind in READ or page.attribute(fact.element, "aria-label") == said
    chosen = page.semantics.roles[fact.element] in _CHOICES  # *3 stars* of five
    return is_composed(said) or (given and not chosen and counts_things(said))


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


def _fields_in(page: Page, element: int) -> Iterator[int]:
    """An element and the first fields in it, whose names its own may be made of."""
    fields = page.index.by_tag.get("input", ())
    first = int(np.searchsorted(fields, element))
    yield from (int(at) for at in fields[first : first + MOST_FIELDS] if at < page.end[element])


def _look_of_words(page: Page, fact: Dependency) -> str:
    """The look of words that a page shows, where they are data: a count, a measure, a status, what a table holds; or empty."""
    at, tabular = fact.element, Tabular.of(page)
    if fact.base not in SEEN:
        return ""
    if fact.look == "number" and tabular.is_moment_of_its_row(at):
        return "numbered"
    if holds_a_count(page, at, fact.value) or says_how_long_ago(page, at, fact.value):
        return "data"
    shown = is_measured(page, at, fact.value) or any(shows_data(page, one) for one in _saying_all(page, at)) or tabular.is_datum(at)
    named = fact.kind.startswith("accessible-name") and fact.value not in page.semantics.worded[at]
    if fact.row >= 0 and page.semantics.roles[at] in _CELLS and (named or _says_a_kind(page, fact)):
        return "data"
    return "data" if shown and not (named and not is_moment(page.semantics.name(at))) else ""


def _says_a_kind(page: Page, fact: Dependency) -> bool:
    """Whether a cell, of a column that has a head, says of what kind its row is, or in what state: what several rows say in that
    place."""
    return Tables.of(page).is_headed(fact.element) and (fact.value.casefold() in _ANSWERS or _tells_a_kind(page, fact, None))


def _is_common(page: Page, fact: Dependency) -> bool:
    """Whether others lead to what begins as its address does; whether a part of an address is a word that its link says, and others
    say, too (the deed in `/9/edit` of several *Edit*), or the end of an id says which part it is of what is called by the rest
    (`-arrow` of `box1-arrow` in `box1`); whether others have its id, which they should not; whether its name is that of the first
    of several (`stars[]`), or that of whatever button a framework makes."""
    part = fact.value.partition("=")[2]
    tree = page.tree[fact.element]
    if fact.kind == "name" and (part.endswith("[]") or (part.casefold() in _UNNAMED and page.tags[fact.element] in _PRESSED)):
        return True
    if fact.kind == "href~" and (whole := page.attribute(fact.element, "href") or "").startswith(part):
        column = page.index.attribute_column("href").items()
        return any(other != whole and other.startswith(part) and page.tree[at] == tree for at, other in column)
    if fact.kind == "id":
        return sum(page.tree[at] == tree for at in page.index.valued("id", part or fact.value).tolist()) > 1
    if fact.kind == "id$":
        whole = page.attribute(fact.element, "id") or ""
        return len(page.index.valued("id", whole.removesuffix(part))) > 0
    texts = page.semantics.worded
    said = texts[fact.element]
    if fact.kind != "href~" or not part.isalpha() or part.casefold() not in said.casefold().split():
        return False
    return any(texts[at] == said and at != fact.element for at in page.index.by_tag.get(page.tags[fact.element], ()))


def _called_alike(page: Page, fact: Dependency, borne: Borne) -> list[int]:
    """Other elements of its tree, tag and role (of whatever role, where they are fields) that an attribute calls as it does its
    element: *Filter cell*; or an attribute by which a kit calls all of a kind, outside the rows of tables."""
    if fact.kind == "attribute":
        name, _, value = fact.value.partition("=")
        borne = name, value
    of_a_kind = fact.kind == "test-attribute" or (fact.kind in ("data", "attribute") and fact.row < 0)
    if borne is None or not (borne[0] in _NAMING or of_a_kind):
        return []
    at, tag = fact.element, page.tags[fact.element]
    alike = [one for one in _bearers(page, fact, *borne) if page.tree[one] == page.tree[at] and page.tags[one] == tag]
    roles = page.semantics.roles
    return [one for one in alike if one != at and (tag in _FIELDS or roles[one] == roles[at])]


def _is_in_other_rows(page: Page, fact: Dependency, borne: Borne) -> bool:
    """Whether the rows of a table beside the one in which a text or an attribute stands have it, too: what can be done with each,
    of what type a column is."""
    if fact.row < 0 or not (borne or (fact.base in SEEN and fact.look != "number")):
        return False
    rows, texts = Tables.of(page).rows_with(fact.row), page.semantics.worded
    at = bisect_left(rows, fact.row)
    near = [one for one in rows[max(0, at - ROWS_BESIDE) : at + ROWS_BESIDE + 1] if one != fact.row]
    if not borne:
        ends = {one: min(int(page.end[one]), one + 1 + MOST_IN_A_ROW) for one in near}
        return any(fact.value == texts[inside] for one in near for inside in range(one + 1, ends[one]))
    bearers = _bearers(page, fact, *borne)
    return any(one <= bearer < page.end[one] for one in near for bearer in bearers)


def _tells_a_kind(page: Page, fact: Dependency, borne: Borne) -> bool:
    """Whether a text or an attribute in a row of a table says what several rows say, if other ones."""
    if fact.row < 0 or not (borne or fact.base in SEEN):
        return False
    return Categories.of(page).tells_a_kind(fact.row, fact.element, borne[0] if borne else "")


def _says_a_state(page: Page, fact: Dependency, borne: Borne) -> bool:
    """Whether an attribute of what is no control calls it as it is today: *Yes*; in a row of a table *Held*, as other rows, too."""
    if borne is None or page.semantics.roles[fact.element] in CONTROLS | {"link"}:
        return False
    return borne[1].casefold() in _ANSWERS or says_when(borne[1]) or _tells_a_kind(page, fact, borne)


def _bearing(page: Page, fact: Dependency) -> Borne:
    """The attribute that says a fact, and what of its value is asked for: of names and labels, too, that one gives; None where none
    does."""
    if fact.base in _BORNE:
        name, _, value = fact.value.partition("=")
        return name, value
    if fact.base not in ("accessible-name", "label"):
        return None
    said = fact.value
    names = ((name, page.attribute(fact.element, name) or "") for name in _NAMING)
    return next(((name, said) for name, value in names if value == said or (fact.kind != fact.base and said in value)), None)


def _bearers(page: Page, fact: Dependency, name: str, value: str) -> list[int]:
    """The elements that have that value in an attribute, or that part of it."""
    if fact.kind == fact.base:
        return page.index.valued(name, value).tolist()
    return [at for at, other in page.index.attribute_column(name).items() if value in other]


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
