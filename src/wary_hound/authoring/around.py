"""What stands around an element, said in one language: its row by what the row says, its group by its heading, what stands
before it, in XPath; its row by what tells it in its own tag, in both."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from itertools import islice

from wary_hound.authoring import anchors
from wary_hound.authoring.anchors import LONGEST_ANCHOR, SHORTEST_ANCHOR
from wary_hound.authoring.predicates import (
    MOST_BESIDE,
    attribute_predicates,
    in_xpath,
    named_classes,
    read_of,
    step_of,
    words_alone,
    words_beside,
    xpath_tag,
)
from wary_hound.authoring.signs import is_decoration, unmarked
from wary_hound.authoring.weakness import TELLING, tells_nothing
from wary_hound.locator.blocks import group_of, is_no_row, is_whole, narrowing, row_of, rows_around
from wary_hound.locator.css.values import Attribute, Class, Id, Simple, Type
from wary_hound.locator.evaluate import find_in
from wary_hound.locator.making import text, xpath
from wary_hound.locator.tables import Tables
from wary_hound.locator.xpath import building as x
from wary_hound.locator.xpath.functions import normalized
from wary_hound.locator.xpath.values import Binary, Call, Expression, Number, Path, Step
from wary_hound.page import Page
from wary_hound.robustness.data import figures_in, is_amount, is_count
from wary_hound.robustness.dependency import attribute_kind

MOST_LEVELS = 3
MOST_ATTRIBUTES = 4
MOST_SIBLINGS = 80
"""So many siblings are asked for a heading."""
MOST_SAID = 6
"""So many texts of a row are looked at."""
UNNAMED = frozenset({"html", "body", "main"})
_BOXES = frozenset({"div", "span"})


@dataclass(frozen=True, slots=True)
class Around:
    """An ancestor of an element as a step of XPath, as simple selectors, or both (None or empty where it cannot be said so)."""

    ancestor: int
    step: Step | None
    simples: tuple[Simple, ...]


def held_in_xpath(page: Page, index: int) -> Iterator[Step]:
    """`tr[td="Vega"]`: a row itself, by texts in it that a person would tell it by; `select[option="Month"]`: a list that nobody
    named by what it begins with, which says what to choose."""
    called = page.semantics.label(index) or any(page.attribute(index, name) for name in ("id", "name", "title"))
    listed = page.tags[index] == "select" and not called
    prompt = next((at for at in page.children(index) if listed and page.tags[at] == "option"), -1)
    if prompt >= 0 and sum(map(str.isalpha, page.semantics.worded[prompt])) >= SHORTEST_ANCHOR:
        test = _reading(page, index, prompt)
        if test is not None:
            yield x.child("select", test)
    if row_of(page, index) == index and not is_no_row(page, index) and xpath_tag(page, index) != "*":
        for tests in islice(_tests_of_texts(page, index, -1), 2):
            yield x.child(page.tags[index], *tests)
        if (said := _beside(page, index)) is not None:
            yield x.child(page.tags[index], said)


def _rows(page: Page, index: int) -> Iterator[int]:
    """The rows around an element in its own tree, the nearest first."""
    for row in rows_around(page, index):
        if row != index and page.tree[row] == page.tree[index]:
            yield row


def rows_in_xpath(page: Page, index: int) -> Iterator[Around]:
    """`tr[td="Vega"]`: the row of an element, or one around that, by texts of it that a person would tell it by."""
    nearest = row_of(page, index)
    for row in _rows(page, index):
        if xpath_tag(page, row) == "*":
            continue
        for tests in islice(_tests_of_texts(page, row, index), 2 if row == nearest else 1):
            yield Around(row, x.child(page.tags[row], *tests), ())
        if row == nearest:
            yield from islice(_parts_in_xpath(page, row, index), 2)


def rows_by_key(page: Page, index: int) -> Iterator[Around]:
    """`tr[data-star="vega"]`: the row of an element, or one around that, by what tells it in its own tag."""
    for row in _rows(page, index):
        tag = page.tags[row]
        for one in islice(attribute_predicates(page.attributes_of(row), tag), MOST_ATTRIBUTES):
            if one.operator == "=" and attribute_kind(one.name) in TELLING and not tells_nothing(one.name, one.value):
                yield Around(row, step_of((Type(tag), one)), (Type(tag), one))


def _parts_in_xpath(page: Page, row: int, index: int) -> Iterator[Around]:
    """`div[h5="Saturn"]`: the part of a row that holds an element and a text right in it."""
    for at in anchors.whole_texts(page, row, int(page.tree[row])):
        holder = int(page.parent[at])
        if holder != row and holder < index < page.end[holder] and not at <= index < page.end[at]:
            test = _reading(page, holder, at) if xpath_tag(page, holder) != "*" else None
            if test is not None:
                yield Around(holder, x.child(page.tags[holder], test), ())


def saying_in_xpath(page: Page, index: int) -> Iterator[Around]:
    """`li[contains(., "Vega")]`: what holds an element, by what it says itself beside it."""
    for at in islice(narrowing(page, index), MOST_LEVELS):
        if xpath_tag(page, at) != "*" and (test := _beside(page, at)) is not None:
            yield Around(at, x.child(page.tags[at], test), ())


def _beside(page: Page, at: int) -> Expression | None:
    """`normalize-space()="Vega"`, where it says no more; else `contains(., "Vega")`, or `text()[contains(., "Vega")]` where another
    of its tag around it contains that, too."""
    if alone := words_alone(page, at):
        return x.reads(alone) if normalized(page.semantics.raw_text(at)) == alone else None
    words = words_beside(page, at)
    if not words or words not in page.semantics.raw_text(at) or figures_in(words) > 1:
        return None
    around = any(page.tags[above] == page.tags[at] for above in page.ancestors(at))
    return Path(False, (x.child("text()", x.contains(words)),)) if around else x.contains(words)


def groups_in_xpath(page: Page, index: int) -> Iterator[Around]:
    """`section[h2="Your booking"]`: the groups around an element, by their headings."""
    group, level = group_of(page, index), 0
    tags = page.tags
    while group >= 0 and level < MOST_LEVELS and not is_whole(page, group):
        if tags[group] not in UNNAMED and xpath_tag(page, group) != "*":
            at = anchors.head_in(page, group, index)
            test = _reading(page, group, at) if at >= 0 else None
            if test is not None and not at <= index < page.end[at]:
                yield Around(group, x.child(tags[group], test), ())
        group, level = group_of(page, group), level + 1


def below_headings_in_xpath(page: Page, index: int) -> Iterator[Around]:
    """What holds an element below one of several headings (`below_heading`)."""
    for at in islice(narrowing(page, index), MOST_LEVELS - 1):
        if (step := below_heading(page, at)) is not None:
            yield Around(at, step, ())


def below_heading(page: Page, at: int) -> Step | None:
    """`ul[preceding-sibling::h3[1][normalize-space()="Today"]]`: an element below one of several headings that stand in one box
    with what they head."""
    head = _heading_before(page, at)
    said = _said(page, head, page.semantics.worded[head]) if head >= 0 and xpath_tag(page, at) != "*" else None
    if said is None:
        return None
    return x.child(page.tags[at], Path(False, (Step("preceding-sibling", page.tags[head], (Number(1.0), said)),)))


def _heading_before(page: Page, at: int) -> int:
    """The nearest heading among the siblings before one that is none; -1 where there is none, or it is the only one of its rank."""
    roles = page.semantics.roles
    before, steps = int(page.index.previous[at]), 0
    while before >= 0 and roles[before] != "heading" and steps < MOST_SIBLINGS:
        before, steps = int(page.index.previous[before]), steps + 1
    if before < 0 or roles[before] != "heading" or roles[at] == "heading" or xpath_tag(page, before) == "*":
        return -1
    return before if page.index.siblings_of_type[before] > 1 else -1


def _tests_of_texts(page: Page, holder: int, index: int) -> Iterator[tuple[Expression, ...]]:
    """Tests of a holder by the texts in it, outside the element (-1: there is none): whole texts of one element each; what nothing
    else says before what other rows say, too, and what something costs last. Where others of its tag stand around it, which hold
    the text as well, by a class that they have not (`[.//p="Vega"]` of a card), or by the way to the text (`div/p="Vega"`)."""
    for at in anchors.heads_with_deeds(page, holder, index):
        if xpath_tag(page, at) != "*":
            reading = x.child(page.tags[at], x.says(words_beside(page, at)))
            yield (Path(False, (reading,)) if page.parent[at] == holder else x.holds(reading),)
            return
    texts, tree = page.semantics.worded, int(page.tree[holder])
    said = [
        at
        for at in (anchors.own_texts(page, holder, index) if index >= 0 else anchors.whole_texts(page, holder, tree))
        if at != holder and not (index >= 0 and index <= at < page.end[index]) and len(texts[at]) <= LONGEST_ANCHOR
    ][:MOST_SAID]
    alone = {at: len(find_in(page, text(texts[at]), (tree, -1))) == 1 for at in said}
    kept = anchors.titles_of(page, holder, [at for at in said if alone[at]])
    said = [*kept, *(at for at in said if not alone[at])]
    said.sort(key=lambda at: (not alone[at], is_amount(texts[at]) or is_count(texts[at])))
    for at in said:
        whole = at  # a cell rather than the link that fills it
        while (above := int(page.parent[whole])) != holder and texts[above] == texts[at] and page.tags[above] not in _BOXES:
            whole = above
        for one in (whole, at):
            if (test := _reading(page, holder, one)) is not None:
                yield _apart(page, holder, one, test)
                break


def _apart(page: Page, holder: int, at: int, test: Expression) -> tuple[Expression, ...]:
    """A test of a holder by a text in it so that nothing that it stands in meets it as well."""
    near = int(page.parent[at]) == holder
    if not any(_meets(page, above, holder, at, near) for above in page.ancestors(holder)):
        return (test,)
    if (called := _called(page, holder)) is not None and (said := in_xpath(called)) is not None:
        return *said[1], test
    between = [one for one in page.ancestors(at) if one > holder]
    if len(between) > MOST_LEVELS or any(xpath_tag(page, one) == "*" for one in between):
        return (test,)
    way = [x.child(page.tags[one]) for one in (*reversed(between), at)]
    raw, shown = page.semantics.raw_text(at), page.semantics.worded[at]
    if raw == shown:
        return (Binary("=", Path(False, tuple(way)), x.literal(shown)),)
    return (Path(False, (*way[:-1], x.child(page.tags[at], x.reads(shown)))),)


def _meets(page: Page, above: int, holder: int, at: int, near: bool) -> bool:
    """Whether what is around a holder meets a test of it by a text in it (`near`: right in it), too: of its tag, and what stands
    right in it reads no more than the text, where that is what is asked for."""
    if page.tags[above] != page.tags[holder]:
        return False
    inner = next((one for one in page.children(above) if one <= holder < page.end[one]), -1)
    return not near or (
        page.tags[inner] == page.tags[at] and normalized(page.semantics.raw_text(inner)) == page.semantics.worded[at]
    )


def _called(page: Page, holder: int) -> Class | Attribute | None:
    """A class of a holder, or its role where that is written down, that nothing has in which it stands."""
    above = list(page.ancestors(holder))
    for one in named_classes(page.attributes_of(holder)):
        if not any(one.value in (page.attribute(at, "class") or "") for at in above):
            return one
    called = page.attribute(holder, "role")
    alone = called and not any(page.attribute(at, "role") == called for at in above)
    return Attribute("role", "=", called) if called and alone else None


def _reading(page: Page, holder: int, at: int) -> Expression | None:
    """`td="Vega"` or `.//a="Vega"`: that something in a holder reads so."""
    shown, raw = page.semantics.worded[at], page.semantics.raw_text(at)
    if not 0 < len(shown) <= LONGEST_ANCHOR or normalized(raw) != shown or is_decoration(shown):
        return None
    tag = xpath_tag(page, at)
    if tag == "*":
        return None
    near = int(page.parent[at]) == holder
    if raw == shown:
        return Binary("=", Path(False, (x.child(tag),)) if near else x.holds(x.child(tag)), x.literal(shown))
    said = x.child(tag, x.reads(shown))
    return Path(False, (said,)) if near else x.holds(said)


def label_in_xpath(page: Page, index: int) -> Expression | None:
    """`@id=//label[.="Visitor name"]/@for`: a field by the text of the label that names it."""
    own = page.attribute(index, "id")
    for label in page.semantics.labels_of.get(index, []):
        shown = page.semantics.worded[label]
        if own and page.attribute(label, "for") == own and 0 < len(shown) <= LONGEST_ANCHOR:
            if normalized(page.semantics.raw_text(label)) == shown:
                asked = unmarked(shown)
                said = x.reads(shown) if not asked or not is_decoration(shown) else x.contains(asked)
                labels = x.anywhere(x.child("label", said))
                return Binary("=", x.attribute("id"), Path(True, (*labels.steps, Step("attribute", "for"))))
    return None


def labels_in_xpath(page: Page, index: int) -> Iterator[Around]:
    """`label[contains(., "Visitor name")]`: the label that a field stands in."""
    for label in page.semantics.labels_of.get(index, []):
        if label < index < page.end[label]:
            said = _said(page, label, unmarked(page.semantics.label(index)))
            if said is not None:
                yield Around(label, x.child("label", said), ())


def before_in_xpath(page: Page, index: int) -> Iterator[Path]:
    """`//td[.="args"]/following-sibling::td`, `//span[.="waiting"]/following::button[1]`: an element by what stands before it. Not
    the head of a column by that of another one."""
    cell = Tables.of(page).cells.get(index)
    if cell is not None and cell.header:
        return
    tag = xpath_tag(page, index)
    previous, steps = int(page.index.previous[index]), 0
    while previous >= 0 and steps < MOST_LEVELS:
        if (before := _alone(page, previous, read_of(page, previous))) is not None:
            yield Path(True, (*before.steps, Step("following-sibling", tag)))
            yield Path(True, (*before.steps, Step("following-sibling", tag, (x.place(1),))))
        previous, steps = int(page.index.previous[previous]), steps + 1
    for at in anchors.texts_before(page, index):
        shown = page.semantics.worded[at]
        if page.semantics.own_text[at] == shown and (before := _alone(page, at, shown)) is not None:
            yield Path(True, (*before.steps, Step("following", tag, (x.place(1),))))


def _alone(page: Page, at: int, shown: str) -> Path | None:
    """`//td[.="args"]`: an element by what it says, where no other says so: behind that the same may come. Not by the words of a
    link or a button in it, beside others."""
    texts, roles = page.semantics.worded, page.semantics.roles
    inside = range(at + 1, min(int(page.end[at]), at + 1 + MOST_BESIDE))
    if any(roles[one] in ("link", "button") and texts[one] not in ("", texts[at]) for one in inside):
        return None
    said = _said(page, at, shown)
    path = x.anywhere(x.child(xpath_tag(page, at), said)) if said is not None else None
    return path if path is not None and len(find_in(page, xpath(path), (int(page.tree[at]), -1))) == 1 else None


def _said(page: Page, at: int, shown: str) -> Expression | None:
    """`normalize-space()="text"` where an element reads so and no more, else `contains(., "text")`; None where neither holds."""
    if not 0 < len(shown) <= LONGEST_ANCHOR or is_decoration(shown):
        return None
    raw = page.semantics.raw_text(at)
    if normalized(raw) == shown:
        return x.reads(shown)
    return x.contains(shown) if shown in raw else None


def column_in_xpath(page: Page, index: int, around: bool = False) -> Step | None:
    """`*[count(//th[.="Places"]/preceding-sibling::* | //th[.="Places"])]`: a cell by the head of its column, where no cell before
    it spans several; none where the head is not there. Where other tables have such a head, of the table that has this id.
    `around`: the cell is what another element stands in."""
    tables = Tables.of(page)
    cell = tables.cells.get(index)
    if cell is None or cell.header or cell.behind - cell.first > 1 or cell.first != page.index.place[index] - 1:
        return None
    for head in tables.heads_of(cell)[:1]:
        said = anchors.called_in(page, head.index)
        shown = page.semantics.worded[said]
        tag = page.tags[head.index]
        plain = normalized(page.semantics.raw_text(said)) == shown and tag in ("th", "td")
        test = x.reads(shown) if said == head.index else _reading(page, head.index, said)
        if (
            plain
            and test is not None
            and 0 < len(shown) <= LONGEST_ANCHOR
            and head.first == page.index.place[head.index] - 1 == cell.first
        ):
            before = x.anywhere(x.child(tag, test))
            found = find_in(page, xpath(before), (int(page.tree[index]), -1))
            if len(found) > 1:
                outer = outer_in_xpath(page, head.index, found, by_id=True)
                if outer is None:
                    return None
                before = x.anywhere(outer, x.child(tag, test))
            place = Call("count", (Binary("|", Path(True, (*before.steps, Step("preceding-sibling", "*"))), before),))
            if all(page.tags[one] == "td" for one in page.children(int(page.parent[index]))):
                return x.child("td", place)
            return x.child("*", place) if around else x.child("*", place, Path(False, (Step("self", xpath_tag(page, index)),)))
    return None


def outer_of(page: Page, holder: int, alike: Iterable[int], by_id: bool = False) -> tuple[Simple, ...]:
    """The nearest that a holder stands in, and none that is like it: by an id where one has it, else, unless that is asked for, by
    what it alone is called. Empty where there is none."""
    rest = [int(at) for at in alike if at != holder]
    above = [at for at in page.ancestors(holder) if not any(at < other < page.end[at] for other in rest)]
    ways = [
        (at, finder, finder.query.tree[0].compounds[0].simples)
        for at in above
        for finder in islice(anchors.of_ancestor(page, at), 8)
        if finder.strategy == "css"
    ]
    for at, finder, simples in sorted(ways, key=lambda way: not isinstance(way[2][0], Id)):
        if by_id and not isinstance(simples[0], Id):
            return ()
        if find_in(page, finder, (int(page.tree[holder]), -1)).tolist() == [at]:
            return tuple(simples)
    return ()


def outer_in_xpath(page: Page, holder: int, alike: Iterable[int], by_id: bool = False) -> Step | None:
    """The same as a step; None where there is none, or XPath cannot say it readably."""
    outer = outer_of(page, holder, alike, by_id)
    return step_of(outer) if outer else None
