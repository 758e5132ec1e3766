"""What can be asked for of an element, of what holds it and of the row, column or group that it is in; sets of it as locators."""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np

from wary_hound.authoring import anchors
from wary_hound.authoring.around import (
    Around,
    below_heading,
    below_headings_in_xpath,
    column_in_xpath,
    groups_in_xpath,
    held_in_xpath,
    label_in_xpath,
    labels_in_xpath,
    outer_in_xpath,
    outer_of,
    rows_by_key,
    rows_in_xpath,
    saying_in_xpath,
)
from wary_hound.authoring.cache import Authored
from wary_hound.authoring.holders import held, holders
from wary_hound.authoring.icons import icon_predicates, sign_of
from wary_hound.authoring.predicates import (
    attribute_predicates,
    class_predicates,
    content_of,
    named_classes,
    parts_of,
    place_predicate,
    read_of,
    step_of,
    tag_step,
    xpath_tag,
)
from wary_hound.authoring.weakness import UNTOLD
from wary_hound.locator.blocks import narrowing, row_of
from wary_hound.locator.css.building import joined, selector
from wary_hound.locator.css.values import Attribute, Class, Id, Pseudo, Selectors, Simple, Type
from wary_hound.locator.evaluate import find_in
from wary_hound.locator.making import css, xpath
from wary_hound.locator.tables import Tables
from wary_hound.locator.values import Finder, Hop, Locator, Related, Relation
from wary_hound.locator.xpath import building as x
from wary_hound.locator.xpath.values import Step, is_positional
from wary_hound.page import Page
from wary_hound.robustness.dependence import dependencies
from wary_hound.robustness.dependency import Dependency
from wary_hound.robustness.looks import look_of_token
from wary_hound.robustness.model import ChangeModel

RELATED = "related"
MOST_ABOVE = 10
"""So much is asked for of what holds an element."""
MOST_HOLDING = 50
"""What so many hold, and more, is not asked for of them."""
MOST_ROWS = 2
"""So many ways to say a row are taken for what a part of it holds."""
_WORDED = frozenset({"a", "button", "option", "label"})
"""What people call by its words with its kind (`//button[.="Hold"]`): none of them stands in another one that reads the same."""
OWN, ABOVE, BESIDE, COLUMN = "own", "above", "beside", "column"


@dataclass(frozen=True)
class Predicate:
    """One thing to ask for: as simple selectors and as an XPath step where it can be said so, the elements that meet it (as
    bits), what it rests on."""

    stands: str
    css: tuple[Simple, ...]
    xpath: Step | None
    bits: int
    facts: tuple[Dependency, ...]
    related: Related | None = None
    within: tuple[Step, ...] = ()
    """Steps before that of XPath: what its holder stands in ..."""
    outer: tuple[Simple, ...] = ()
    """... and the same as simple selectors."""


def universe_of(page: Page, index: int, model: ChangeModel) -> Iterator[Predicate]:
    yield from _own(page, index)
    yield from _steady(_above(page, index), model)[:MOST_ABOVE]
    yield from _around(page, index)
    yield from _beside(page, index)


def _steady(predicates: Iterable[Predicate], model: ChangeModel) -> list[Predicate]:
    """The steadiest first, but behind all others what narrows no more than one that is as steady."""
    front, rest = list[Predicate](), list[Predicate]()
    for one in sorted(predicates, key=lambda p: model.hazard(fact.group for fact in p.facts)):
        (rest if any(other.bits & one.bits == other.bits for other in front) else front).append(one)
    return front + rest


def _own(page: Page, index: int) -> Iterator[Predicate]:
    attributes = page.attributes_of(index)
    said: list[tuple[Simple, ...]] = [(Id(attributes["id"]),)] if attributes.get("id") else []
    said += [(one,) for one in itertools.islice(attribute_predicates(attributes, page.tags[index], read_of(page, index)), 8)]
    said += [(one,) for one in itertools.islice(class_predicates(attributes), 6)]
    said += [(one,) for one in itertools.islice(icon_predicates(page, index), 3)]
    said += [(Type(page.tags[index]),), place_predicate(page, index), *held(page, index)]
    for simples in filter(None, dict.fromkeys(said)):
        svg = page.namespace[index] and isinstance(simples[0], Type) and len(simples) == 1
        step = tag_step(page, index) if svg else step_of(simples)
        yield _predicate(page, css(selector(*simples)), index, simples, step)
    shown = content_of(page, index)
    if page.namespace[index]:
        if shown:
            step = x.child("*", *tag_step(page, index).predicates, x.reads(shown))
            yield _predicate(page, xpath(x.anywhere(step)), index, (), step)
        return
    tag = xpath_tag(page, index) if page.tags[index] in _WORDED else "*"
    shown = shown or (sign_of(page, index) if tag != "*" else "")
    steps = [x.child(tag, x.reads(shown))] if shown else []
    if shown and tag == "*" and page.semantics.own_text[index] == shown == page.semantics.worded[max(0, int(page.parent[index]))]:
        steps.append(x.child(tag, x.says(shown)))
    steps += [x.child(tag, x.contains(part)) for part in parts_of(page, index)]
    label, column = label_in_xpath(page, index), column_in_xpath(page, index)
    steps += [x.child("*", label)] if label is not None else []
    steps += [column] if column is not None else []
    steps += held_in_xpath(page, index)
    below = below_heading(page, index)
    steps += [below] if below is not None else []
    for step in steps:
        predicate = _predicate(page, xpath(x.anywhere(step)), index, (), step)
        if predicate.bits >> index & 1:
            yield predicate


def _above(page: Page, index: int) -> Iterator[Predicate]:
    descends = Dependency("descendant", "", index)
    for at in itertools.islice(narrowing(page, index), 12):
        for holder in _holding(page, at):
            yield replace(holder, facts=(*holder.facts, descends))


def _holding(page: Page, at: int) -> list[Predicate]:
    """What can be asked for of one that holds others, whichever is meant of these; remembered."""
    known, scope = Authored.of(page).above.get(at), (int(page.tree[at]), -1)
    if known is not None:
        return known
    said: list[Predicate] = []
    for finder in itertools.islice(anchors.of_ancestor(page, at), 8):
        found = find_in(page, finder, scope) if finder.strategy == "css" else ()
        if 0 < len(found) <= MOST_HOLDING:
            simples = finder.query.tree[0].compounds[0].simples
            facts = dependencies(page, Locator((Hop(finder),)), at, scope)
            said.append(Predicate(ABOVE, simples, step_of(simples), _bits(_inside(page, found)), facts))
    Authored.of(page).above[at] = said
    return said


def _around(page: Page, index: int) -> Iterator[Predicate]:
    """Rows and groups as one language can say them: by their texts in XPath, by what they hold."""
    scope = (int(page.tree[index]), -1)
    rows = [*rows_in_xpath(page, index)]
    spoken = (*rows, *saying_in_xpath(page, index), *labels_in_xpath(page, index))
    ways = (*spoken, *groups_in_xpath(page, index), *below_headings_in_xpath(page, index), *holders(page, index))
    for way in ways:
        finder = xpath(x.anywhere(way.step)) if way.step is not None else css(selector(*way.simples))
        found, within = find_in(page, finder, scope), tuple[Step, ...]()
        if len(found) > 1 and way.step is not None and not way.simples:
            for outer in _steps_around(page, way, found, rows):
                narrowed = xpath(x.anywhere(outer, way.step))
                if find_in(page, narrowed, scope).tolist() == [way.ancestor]:
                    finder, found, within = narrowed, np.asarray([way.ancestor], np.int32), (outer,)
                    break
        if 0 < len(found) <= MOST_HOLDING:
            facts = _facts_of_holder(page, finder, way.ancestor, index)
            yield Predicate(ABOVE, way.simples, way.step, _bits(_inside(page, found)), facts, within=within)
    yield from _keyed(page, index)
    yield from _in_cell(page, index, rows)
    yield from _in_part(page, index, ways)


def _steps_around(page: Page, way: Around, found: Iterable[int], rows: Iterable[Around]) -> Iterator[Step]:
    """What a holder stands in, of several that are said alike: by what that alone is called, or as a row around it."""
    outer = outer_in_xpath(page, way.ancestor, found)
    if outer is not None:
        yield outer
    for row in rows:
        if row.step is not None and row.ancestor < way.ancestor < page.end[row.ancestor]:
            yield row.step


def _keyed(page: Page, index: int) -> Iterator[Predicate]:
    """`#coming tr[data-star="vega"]`: rows by what tells them in their own tag, where another table has one that says the same."""
    scope = (int(page.tree[index]), -1)
    for way in rows_by_key(page, index):
        found = find_in(page, css(selector(*way.simples)), scope)
        outer = outer_of(page, way.ancestor, found) if len(found) > 1 else ()
        finder = css(joined(selector(*outer), " ", selector(*way.simples))) if outer else None
        if finder is not None and find_in(page, finder, scope).tolist() == [way.ancestor]:
            bits, facts = _bits(_inside(page, [way.ancestor])), _facts_of_holder(page, finder, way.ancestor, index)
            step = step_of(outer)
            said, within = (None, ()) if step is None else (way.step, (step,))
            yield Predicate(ABOVE, way.simples, said, bits, facts, within=within, outer=outer)


def _in_cell(page: Page, index: int, rows: Iterable[Around]) -> Iterator[Predicate]:
    """The cell around an element in XPath: by its row, of some, and the head of its column."""
    cell = Tables.of(page).around(index)
    if cell is None or cell.index == index or (column := column_in_xpath(page, cell.index, around=True)) is None:
        return
    for way in rows:
        if way.step is not None and way.ancestor == page.parent[cell.index]:
            finder = xpath(x.anywhere(way.step, column))
            found = find_in(page, finder, (int(page.tree[index]), -1))
            if 0 < len(found) <= MOST_HOLDING:
                facts = _facts_of_holder(page, finder, cell.index, index)
                yield Predicate(ABOVE, (), column, _bits(_inside(page, found)), facts, within=(way.step,))


def _in_part(page: Page, index: int, ways: Iterable[Around]) -> Iterator[Predicate]:
    """`#run_vega .badge a`: one of several alike in a row by the class of the part that it is in, where CSS can say the row."""
    row, scope = row_of(page, index), (int(page.tree[index]), -1)
    inside = range(row + 1, int(page.end[row])) if 0 <= row < index else ()
    if sum(page.tags[at] == page.tags[index] for at in inside) < 2:
        return
    named = page.attribute(row, "id") or ""
    by_id = [Around(row, step_of((Id(named),)), (Id(named),))] if look_of_token(named) not in UNTOLD else []
    by_holding = ways if page.tags[row] == "tr" else ()  # a card has a title
    said = (way for way in (*by_id, *rows_by_key(page, index), *by_holding) if way.simples and way.ancestor == row)
    alone = (way for way in said if find_in(page, css(selector(*way.simples)), scope).tolist() == [row])
    for way in itertools.islice(alone, MOST_ROWS):
        for part in itertools.takewhile(lambda at: at > row, page.ancestors(index)):
            for one in itertools.islice(named_classes(page.attributes_of(part)), 1):
                finder = css(joined(selector(*way.simples), " ", selector(one)))
                if find_in(page, finder, scope).tolist() == [part]:
                    step, within = step_of((one,)), (way.step,) if way.step is not None else ()
                    facts, bits = _facts_of_holder(page, finder, part, index), _bits(_inside(page, [part]))
                    yield Predicate(ABOVE, (one,), step if within else None, bits, facts, within=within, outer=way.simples)


def _facts_of_holder(page: Page, finder: Finder, holder: int, index: int) -> tuple[Dependency, ...]:
    """What finding a holder rests on, for an element in it: what it is to the holder it is to what is looked for; the rest stands
    where it stands."""
    own = dependencies(page, Locator((Hop(finder),)), holder, (int(page.tree[index]), -1))
    facts = [replace(fact, element=index) if fact.kind in ("row-of", "group-of") else fact for fact in own]
    return (*facts, Dependency("descendant", "", index))


def _inside(page: Page, found: Iterable[int]) -> np.ndarray[tuple[int], np.dtype[np.bool_]]:
    """Which elements stand in one of some others."""
    inside = np.zeros(len(page), np.bool_)
    for one in found:
        inside[int(one) + 1 : int(page.end[one])] = True
    return inside


def _beside(page: Page, index: int) -> Iterator[Predicate]:
    """The row, column or group of a text: a set of its own, so that it can be met with others."""
    simples, scope = (Type(page.tags[index]),), (int(page.tree[index]), -1)
    tag = css(selector(*simples))
    for relation, anchor in anchors.related(page, index):
        if relation not in (Relation.ROW_OF, Relation.GROUP_OF, Relation.COLUMN_OF):
            continue
        whole = replace(tag, relations=(Related(relation, anchor),))
        mask = np.zeros(len(page), np.bool_)
        mask[find_in(page, whole, scope)] = True
        for at in find_in(page, anchor, scope).tolist():
            mask[at] = at != index and page.tags[at] == page.tags[index]  # what is said of it must not be true of its anchor
        facts = dependencies(page, Locator((Hop(whole),)), index, scope)
        stands = COLUMN if relation is Relation.COLUMN_OF else BESIDE
        yield Predicate(stands, simples, step_of(simples), _bits(mask), facts, Related(relation, anchor))


def _predicate(page: Page, finder: Finder, index: int, simples: tuple[Simple, ...], step: Step | None) -> Predicate:
    kept, tree = Authored.of(page).bits, int(page.tree[index])
    scope = (tree, -1)
    bits = kept.get((finder, tree))
    if bits is None:
        mask = np.zeros(len(page), np.bool_)
        mask[find_in(page, finder, scope)] = True
        bits = kept[finder, tree] = _bits(mask)
    return Predicate(OWN, simples, step, bits, dependencies(page, Locator((Hop(finder),)), index, scope))


def _bits(mask: np.ndarray[tuple[int], np.dtype[np.bool_]]) -> int:
    return int.from_bytes(np.packbits(mask, bitorder="little").tobytes(), "little")


def compiled(members: Sequence[Predicate], language: str) -> tuple[tuple[Hop, ...], str]:
    """The set in a language; a row, column or group of a text as a relation. With its kind."""
    own = [m for m in members if m.stands == OWN]
    above = next((m for m in members if m.stands == ABOVE), None)
    beside = sorted((m for m in members if m.stands in (BESIDE, COLUMN)), key=lambda m: m.stands == COLUMN)
    own = [*own, *beside[:1]]  # what stands in the row was asked for by its tag
    if language == "css" or (language == RELATED and all(m.css for m in (*own, *([above] if above else [])))):
        compound = _compound(own)
        holder = selector(*above.css) if above else ()
        holder = joined(selector(*above.outer), " ", holder) if above and above.outer else holder
        finder = css(joined(holder, " ", compound) if above else compound)
        kind = "chain" if above else _kind([simple for m in own for simple in m.css])
    else:
        steps = [*above.within, _merged([above]), _merged(own)] if above else [_merged(own)]
        finder = xpath(x.anywhere(*steps))
        kind = "chain" if above else "text"
    if beside:
        finder, kind = replace(finder, relations=tuple(m.related for m in beside if m.related is not None)), "relative"
    return (Hop(finder),), kind


def _kind(simples: Sequence[Simple]) -> str:
    if any(isinstance(one, Id) for one in simples):
        return "id"
    return "attribute" if any(isinstance(one, Attribute) for one in simples) else "class"


def _compound(own: Sequence[Predicate]) -> Selectors:
    """Simple selectors in one compound, the tag first and once, then ids, classes, attributes, positions."""
    rank = {Type: 0, Id: 1, Class: 2, Attribute: 3, Pseudo: 4}
    simples = dict.fromkeys(simple for m in own for simple in m.css)
    return selector(*sorted(simples, key=lambda one: rank.get(type(one), 5)))


def _merged(own: Sequence[Predicate]) -> Step:
    """Steps of one element in one: its tag, a position first, then attributes, then what it reads."""
    steps = [m.xpath for m in own if m.xpath is not None]
    tags = [step.test for step in steps if step.test != "*"]
    tests = dict.fromkeys(said for step in steps for said in step.predicates)
    return x.child(tags[0] if tags else "*", *sorted(tests, key=lambda said: (not is_positional(said), x.is_of_text(said))))
