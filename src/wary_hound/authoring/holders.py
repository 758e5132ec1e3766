"""What stands around an element by something that it alone holds: `tr:has([href="#vega"])`, and an element by that itself."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import islice

from wary_hound.authoring.around import UNNAMED, Around
from wary_hound.authoring.predicates import (
    attribute_predicates,
    head_of,
    named_classes,
    path_of,
    step_of,
)
from wary_hound.authoring.signs import says_a_state
from wary_hound.authoring.weakness import TELLING, tells_nothing
from wary_hound.locator.blocks import is_most, narrowing, row_of
from wary_hound.locator.css.values import Attribute, Complex, Compound, Id, Matches, Simple, Type
from wary_hound.locator.tables import Tables
from wary_hound.page import Page
from wary_hound.page.index import tokens
from wary_hound.robustness.data import says_only_its_deed
from wary_hound.robustness.dependency import READ, attribute_kind, is_dated
from wary_hound.robustness.looks import MADE_UP, look_of_token
from wary_hound.robustness.tabular import Tabular

MOST_HAVING = 4
"""So many holders are offered."""
MOST_INSIDE = 80
"""So many elements of a holder are looked at."""


def holders(page: Page, index: int) -> Iterator[Around]:
    """`tr:has([data-night="vega"])`, `tr[.//*[@data-night="vega"]]`: ancestors of an element by something that they alone hold
    beside it."""
    met: set[int] = set()
    count = 0
    for ancestor in islice(narrowing(page, index), 8):
        if page.tags[ancestor] in UNNAMED or count >= MOST_HAVING or is_most(page, ancestor):
            return
        spare: Simple | None = None
        mark: Simple | None = None
        for at in range(ancestor + 1, min(int(page.end[ancestor]), ancestor + MOST_INSIDE)):
            if at in met or page.tree[at] != page.tree[index] or index <= at < page.end[index] or at in page.ancestors(index):
                continue
            met.add(at)
            mark = _mark(page, at)
            if isinstance(mark, Attribute) and mark.name == "for" and mark.value == page.attribute(index, "id"):
                mark = None  # what its label says it is called, its id says
            if isinstance(mark, Attribute) and mark.name in READ and says_only_its_deed(page, at, mark.value):
                mark, spare = None, spare or mark  # weak, but better than none
            if mark is not None:
                break
        if (best := mark or spare) is not None:
            yield from (Around(ancestor, step_of(simples), simples) for simples in _having(page, ancestor, best))
            count += 1


def held(page: Page, index: int) -> Iterator[tuple[Simple, ...]]:
    """`tr:has([data-night="vega"])`, `:has([data-panel="nights"])`: a row itself, or what stands around a part of it, by something
    that it alone holds."""
    headed = Tables.of(page).is_headed(index)
    for at in range(index + 1, min(int(page.end[index]), index + MOST_INSIDE)):
        if headed and page.namespace[at]:  # which says a state
            continue
        if page.tree[at] == page.tree[index] and (mark := _mark(page, at)) is not None:
            having = next(_having(page, index, mark))
            yield having if row_of(page, index) == index else having[1:]
            return


def _having(page: Page, holder: int, mark: Simple) -> Iterator[tuple[Simple, ...]]:
    """By its tag; by a class as well of several that are not in one another, where something around it has that tag."""
    has = Matches("has", (Complex((" ",), (Compound((mark,)),)),))
    yield Type(page.tags[holder]), has
    above = page.ancestors(holder)
    if any(page.tags[at] == page.tags[holder] for at in above):
        for one in named_classes(page.attributes_of(holder)):
            bearers = page.index.by_class.get(one.value, ())
            if len(bearers) > 1 and not any(one.value in tokens(page.attribute(at, "class") or "") for at in above):
                yield one, has
                return


def _mark(page: Page, at: int) -> Simple | None:
    """What alone has that on its tree: an id, or an attribute with its value; none that is there to change, or counts the rows, or
    that is made up; no place that a component keeps for others, and nothing that nobody sees (what a form sends with it)."""
    attributes = page.attributes_of(at)
    if page.tags[at] == "slot" or (page.tags[at] == "input" and attributes.get("type", "").lower() == "hidden"):
        return None
    tree, tabular = page.tree[at], Tabular.of(page)

    def alone(name: str, value: str) -> bool:
        return (
            not tabular.shift(at, name, value) and sum(page.tree[i] == tree for i in page.index.valued(name, value).tolist()) == 1
        )

    if attributes.get("id") and look_of_token(attributes["id"]) not in MADE_UP and alone("id", attributes["id"]):
        return Id(attributes["id"])
    for one in islice(attribute_predicates(attributes, page.tags[at]), 3):
        which = attribute_kind(one.name) in TELLING and not tells_nothing(one.name, one.value)
        which = which and not (one.name in READ and says_a_state(one.value)) and not is_dated(one.name, one.value)
        which = which and not (one.name in READ and tabular.counts_rows(at, one.name, one.value))
        if which and one.operator == "=" and alone(one.name, one.value):
            return _beginning(page, one)
    return None


def _beginning(page: Page, mark: Attribute) -> Attribute:
    """Where an address leads, or what a name says before it gives a hint, where it is alone in that: what is asked for there
    (`?page=2`), or would happen (`Base: activate to sort`), changes sooner."""
    begins = path_of(mark.value) if mark.name == "href" else head_of(mark.value) if mark.name in READ else ""
    if begins and sum(value.startswith(begins) for value in page.index.attribute_column(mark.name).values()) == 1:
        return Attribute(mark.name, "^=", begins)
    return mark
