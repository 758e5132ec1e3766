"""Anchors: other elements that the wanted one can be found from (ancestors, its row, its group, a text before it)."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence
from itertools import islice, pairwise, takewhile

import numpy as np

from wary_hound.authoring.cache import Authored
from wary_hound.authoring.predicates import attribute_predicates, class_predicates, is_initials, read_of, words_alone, words_beside
from wary_hound.authoring.signs import is_decoration, is_drawn
from wary_hound.authoring.weakness import BOXES_AND_WORDS
from wary_hound.locator.blocks import HEADS, group_of, is_whole, narrowing, row_of, rows_around
from wary_hound.locator.css.building import selector
from wary_hound.locator.css.values import Id, Type
from wary_hound.locator.evaluate import find_in
from wary_hound.locator.making import css, role, text
from wary_hound.locator.tables import Cell, Tables
from wary_hound.locator.values import Finder, Relation
from wary_hound.page import Page
from wary_hound.page.names import CONTROL_ROLES, labelling
from wary_hound.page.slots import Slots
from wary_hound.robustness.categories import Categories
from wary_hound.robustness.data import is_amount, is_count, is_passing
from wary_hound.robustness.looks import is_sign, look_of_class, look_of_text
from wary_hound.robustness.tabular import Tabular

MOST_ABOVE = 7
LONGEST_ANCHOR = 60
MOST_BEFORE = 60
"""So many elements of a group are looked at for what heads it."""
SHORTEST_ANCHOR = 3
BEGINS = 2
"""A row begins with so many texts."""
_LANDMARKS = frozenset(
    """main navigation banner contentinfo complementary region form search dialog alertdialog table grid list tablist
    toolbar tabpanel menu group article radiogroup""".split()
)
_TELLING = frozenset({"heading", "link", "cell", "rowheader"})
"""Roles of what a row or a card is known by."""
_BESIDE_ITS_TERM = BOXES_AND_WORDS | {"td", "th", "dd"}
_PLAIN_TAGS = frozenset({"div", "span", "html", "body", "tr", "td", "li", "p", "tbody"})


def _unique(page: Page, finder: Finder, index: int) -> bool:
    found = find_in(page, finder, (int(page.tree[index]), -1))
    return len(found) == 1 and int(found[0]) == index


def above(page: Page, index: int) -> Iterator[Finder]:
    """Unique finders of ancestors, nearest first; at most three for one ancestor, none for what holds nearly all."""
    count = 0
    for at in narrowing(page, index):
        height = 0
        for finder in of_ancestor(page, at):
            if _unique(page, finder, at):
                yield finder
                height += 1
                if height == 3:
                    break
        count += bool(height)
        if count == MOST_ABOVE:
            return


def of_ancestor(page: Page, at: int) -> Iterator[Finder]:
    """Ways to say an ancestor, unique or not: id, role with its name, tag, attributes, named classes."""
    attributes = page.attributes_of(at)
    if attributes.get("id"):
        yield css(selector(Id(attributes["id"])))
    own_role = page.semantics.roles[at]
    if own_role in _LANDMARKS and page.semantics.exposed[at]:
        name = page.semantics.name(at)
        if words := _before_figures(page, at, name):
            yield role(own_role, words, part=True)
        elif 0 < len(name) <= LONGEST_ANCHOR:
            yield role(own_role, name)
        yield role(own_role)
    if words := words_beside(page, at):
        yield text(words, part=True)
    elif words := words_alone(page, at):
        yield text(words)
    tag = page.tags[at]
    if tag not in _PLAIN_TAGS:
        yield css(selector(Type(tag)))
    for predicate in list(attribute_predicates(attributes, page.tags[at]))[:4]:
        yield css(selector(Type(tag), predicate))
    for one in class_predicates(attributes):
        if look_of_class(one.value) in ("named", "numbered"):
            yield css(selector(one))


def _before_figures(page: Page, at: int, name: str) -> str:
    """What names a part of the page, before figures that stand in what says it: *Dome account* of `Dome account <b>4417</b>`."""
    words = next((said for one in labelling(page, at) if (said := words_beside(page, one))), "")
    return words if name.startswith(words) and any(map(str.isdigit, name[len(words) :])) else ""


def related(page: Page, index: int) -> Iterator[tuple[Relation, Finder]]:
    """Relations to unique texts: what else the row says, or a row around that; what heads the group, what stands before."""
    nearest = row_of(page, index)
    cell = Tables.of(page).around(index)
    for row in rows_around(page, index):
        if not (cell is not None and cell.index == index and cell.header and cell.row == row):
            for finder in _texts_in(page, row, index, 2 if row == nearest else 1):
                yield Relation.ROW_OF, finder
    if cell is not None and not cell.header and cell.behind - cell.first == 1:
        for head in Tables.of(page).heads_of(cell)[:2]:
            said = page.semantics.worded[called_in(page, head.index)]
            if 0 < len(said) <= LONGEST_ANCHOR and _heads_alone(page, text(said), head, int(page.tree[index])):
                yield Relation.COLUMN_OF, text(said)
    group = group_of(page, index)
    level = 0
    while group >= 0 and level < 3 and not is_whole(page, group):
        for finder in _headings(page, group, index):
            yield Relation.GROUP_OF, finder
        group = group_of(page, group)
        level += 1
    before = _text_before(page, index)
    if before is not None:
        yield Relation.AFTER, before
        if page.facts is not None and page.facts.has_boxes and page.semantics.visible[index]:
            yield Relation.RIGHTWARD_OF, before
            yield Relation.UNDER, before


def fits_anchor(page: Page, anchor: Finder, own: Finder, index: int) -> bool:
    """Whether what is said of an element (`own`) is true of its anchor as well: nobody calls a link *the other link beside Hours*.
    The cell, or the words, beside those that say what they are is another matter."""
    tag = page.tags[index]
    if tag in _BESIDE_ITS_TERM and own == css(selector(Type(tag))):
        return False
    scope = (int(page.tree[index]), -1)
    return not set(find_in(page, anchor, scope).tolist()).isdisjoint(find_in(page, own, scope).tolist())


def beside(page: Page, index: int) -> Iterator[tuple[Finder, str]]:
    """Unique previous siblings, with the combinator that leads on to the element."""
    at, steps = int(page.index.previous[index]), 0
    while at >= 0 and steps < 3:
        for finder in of_ancestor(page, at):
            if finder.strategy == "css" and _unique(page, finder, at):
                yield finder, "+" if steps == 0 else "~"
                break
        at, steps = int(page.index.previous[at]), steps + 1


def called_in(page: Page, head: int) -> int:
    """What in the head of a column says what is in it: the first of several parts, before what that costs, or a button; else the
    head itself."""
    own, texts = page.semantics.own_text, page.semantics.worded
    if own[head]:
        return head
    parts = [at for at in range(head + 1, int(page.end[head])) if own[at] and page.tree[at] == page.tree[head]][:2]
    first = parts[0] if len(parts) == 2 else head
    return first if own[first] == texts[first] and texts[head].startswith(texts[first]) and _is_word(texts[first]) else head


def _is_word(said: str) -> bool:
    return len(said) >= SHORTEST_ANCHOR and look_of_text(said) == "words"


def _heads_alone(page: Page, finder: Finder, head: Cell, tree: int) -> bool:
    """Whether all that is found in a tree stands in header cells, in this table in those of one column, above it or below. Another
    table may have such a head, too: a head that stays while its rows scroll, or one of which the row is not."""
    tables = Tables.of(page)
    around = (tables.around(int(at)) for at in find_in(page, finder, (tree, -1)))
    cells = [cell for cell in around if cell is not None]  # no column is that of what stands outside of tables
    heads = [cell for cell in cells if cell.header or page.tags[cell.index] == "th"]
    return len(heads) == len(cells) > 0 and all(cell.table != head.table or cell.shares_column(head) for cell in heads)


def whole_texts(page: Page, holder: int, tree: int) -> Sequence[int]:
    """The elements of a tree that a holder shows and that say one text each, and no more: figures, and what is no word, last. No
    mere signs, nor the words of a program, each in its colour, nor what a closed list would offer, nor the names by which a font
    draws icons; nor how long ago something was, nor the first letters of what comes next."""
    known = Authored.of(page).texts
    said = known.get((holder, tree))
    if said is None:
        said = known[holder, tree] = _whole_texts(page, holder, tree)
    return said


def _whole_texts(page: Page, holder: int, tree: int) -> list[int]:
    texts, own = page.semantics.worded, page.semantics.own_text
    inside = Slots.of(page).members(holder)
    whole = [at for at in inside if own[at] and own[at] == texts[at] and page.tree[at] == tree and not is_sign(own[at])]
    terms = [at for at in whole if page.tags[at] == "dt"]  # they say what the rest is, in each row
    whole = [at for at in whole if at not in terms] if any(page.tags[at] not in ("dt", "dd") for at in whole) else whole
    whole = [at for at in whole if page.parent[at] < 0 or page.tags[int(page.parent[at])] not in ("pre", "code")]
    whole = [at for at in whole if page.tags[at] != "option" and not is_drawn(page, at) and not is_passing(texts[at])]
    letters = {at for at, behind in pairwise(whole) if is_initials(texts[at], texts[behind])}
    whole = [at for at in whole if at not in letters]
    return sorted(whole, key=lambda at: len(texts[at]) < SHORTEST_ANCHOR or look_of_text(texts[at]) == "number")


def own_texts(page: Page, row: int, index: int) -> list[int]:
    """The whole texts of a row for an element in it; of one around the element's own row its title, which stands in no other row.
    No figures for what the row is known by, and nothing that says of what kind it is."""
    texts = whole_texts(page, row, int(page.tree[index]))
    words, roles = page.semantics.worded, page.semantics.roles
    said = words[index]
    if index != row and look_of_text(said) == "words" and len(find_in(page, text(said), (int(page.tree[index]), -1))) == 1:
        texts = [at for at in texts if look_of_text(words[at]) != "number"]
    texts = [at for at in texts if not (at > index and words[at].endswith(":"))]  # that says what comes next
    kinds = Categories.of(page)
    texts = [at for at in texts if not kinds.tells_a_kind(row, at)]
    texts = _titles_first(page, row, texts)
    pressed = {at for at in texts if any(roles[one] == "button" and words[one] == words[at] for one in (at, int(page.parent[at])))}
    if any(at not in pressed and look_of_text(words[at]) != "number" for at in texts):
        texts = [at for at in texts if at not in pressed]  # what can be done with it is not what it is
    if row_of(page, index) in (row, -1):
        return texts
    begins = _beginning(page, row)
    heads = [at for at in begins if roles[at] == "heading"]
    titles = {*begins[:1], *heads[:1]}
    return [at for at in texts if at in titles and row_of(page, at) == row]


def _titles_first(page: Page, row: int, texts: Sequence[int]) -> list[int]:
    """The texts of a row, those first that lead where another link of it leads, too; last what a column calls a state or a kind,
    and what labels a field in it (*Select Vega*)."""
    led = _leading_twice(page, row, texts)
    words, tabular = page.semantics.worded, Tabular.of(page)

    def rank(at: int) -> int:
        if tabular.tells_no_row(at):
            return 2
        return at not in led or look_of_text(words[at]) == "number"

    return sorted(texts, key=rank)


def _leading_twice(page: Page, row: int, texts: Sequence[int]) -> set[int]:
    """The texts of a row that are links to where another link of it leads: its number, and its title."""
    known = Authored.of(page).twice
    twice = known.get(row)
    if twice is None:
        inside = range(row, int(page.end[row]))
        leads = Counter(address for at in inside if page.tags[at] == "a" and (address := page.attribute(at, "href")))
        twice = known[row] = {address for address, times in leads.items() if times > 1 and len(address) > 1}

    def leads_twice(at: int) -> bool:
        return any(page.attribute(one, "href") in twice for one in (at, *takewhile(lambda one: one > row, page.ancestors(at))))

    return {at for at in texts if leads_twice(at)} if twice else set()


def _beginning(page: Page, row: int) -> list[int]:
    """The first elements in a row that say something themselves, and no mere sign."""
    own = page.semantics.own_text
    return [*islice((at for at in range(row + 1, int(page.end[row])) if not is_sign(own[at])), BEGINS)]


def heads_with_deeds(page: Page, row: int, index: int) -> list[int]:
    """What a row begins with for an element in it (-1: there is none), where that says something and holds a button, or a link that
    says what others do: *Discount* of `<td>Discount <a href="#">Edit</a></td>`. That is its title."""
    own, roles = page.semantics.own_text, page.semantics.roles
    first = next(iter(_beginning(page, row)), -1)
    tree = page.tree[index if index >= 0 else row]
    if first < 0 or page.tree[first] != tree or not words_beside(page, first):
        return []
    if row < index <= first < page.end[index]:
        return []
    inside = [at for at in range(first + 1, int(page.end[first])) if own[at]]
    deeds = [at for at in inside if roles[at] == "button" or (roles[at] == "link" and not _unique(page, text(own[at]), at))]
    return [first] if deeds else []


def _texts_in(page: Page, holder: int, index: int, most: int) -> Iterator[Finder]:
    """Unique texts in a holder, outside the element and not of controls: what a person would tell the row by, figures last."""
    texts = page.semantics.worded
    said = [
        (finder, at)
        for at in own_texts(page, holder, index)
        if not index <= at < page.end[index] and len(texts[at]) <= LONGEST_ANCHOR and not is_decoration(texts[at])
        for finder in _called(page, at)
    ]
    if heads := heads_with_deeds(page, holder, index):
        said = [(text(words_beside(page, at), part=True), at) for at in heads]
    if index != holder and page.tree[index] == page.tree[holder] and (words := words_beside(page, holder)):
        said.insert(0, (text(words, part=True), holder))
    alone = [(finder, at) for finder, at in said if _unique(page, finder, at)]
    kept = titles_of(page, holder, [at for _, at in alone])
    yield from [finder for finder, at in alone if at in kept][:most]


def titles_of(page: Page, row: int, said: Sequence[int]) -> Sequence[int]:
    """Of the elements whose texts tell a row from all others, in their order, what it is known by: what names it, or what its name
    begins with; a link to where another one of it leads; the heading or the link that it begins with, or begins with but for a
    ribbon; else any. A ribbon (*Most booked*) or a state (*Sold out*) is another row's tomorrow."""
    roles, own = page.semantics.roles, page.semantics.own_text
    called = page.attribute(row, "aria-label") or ""
    labels = labelling(page, row)
    if naming := [at for at in said if any(one <= at < page.end[one] for one in labels)]:
        return naming[:1]
    begins = (at for at in said if called.startswith(own[at]) and not called[len(own[at]) :][:1].isalnum())
    if named := [at for at in begins if look_of_text(own[at]) == "words"]:
        return named[:1]
    led = _leading_twice(page, row, said)
    if titles := [at for at in said if at in led and look_of_text(own[at]) != "number"]:
        return titles[:1]
    first = _beginning(page, row)
    links = {at for at in first[:1] if roles[at] == "link" and not is_count(own[at])}
    heads = [at for at in first if at in said and (roles[at] == "heading" or at in links) and not _is_figure(own[at])]
    return heads[:1] or said


def _is_figure(said: str) -> bool:
    return look_of_text(said) == "number" or is_amount(said)


def _called(page: Page, at: int) -> Iterator[Finder]:
    """An element by its text; by its role as well, where others of another role say the same."""
    shown, own_role = page.semantics.worded[at], page.semantics.roles[at]
    yield text(shown)
    if own_role in _TELLING and page.semantics.exposed[at] and page.semantics.name(at) == shown:
        if not _unique(page, text(shown), at):
            yield role(own_role, shown)


def _headings(page: Page, group: int, index: int) -> Iterator[Finder]:
    """The first heading, legend or caption of a group, if it heads the group alone."""
    at = head_in(page, group, index)
    shown = page.semantics.worded[at] if at >= 0 else ""
    if 0 < len(shown) <= LONGEST_ANCHOR and group_of(page, at) == group:
        words = "" if read_of(page, at) else words_beside(page, at)  # not what a control in it says
        finder = text(words, part=True) if words else text(shown)
        if _unique(page, finder, at) and (words or not _says_deeds(page, at)):
            yield finder


def _says_deeds(page: Page, head: int) -> bool:
    """Whether the words of a heading are those of buttons in it, too."""
    roles, texts = page.semantics.roles, page.semantics.worded
    return any(roles[at] == "button" and texts[at] not in ("", texts[head]) for at in range(head + 1, int(page.end[head])))


def head_in(page: Page, group: int, index: int) -> int:
    """The first heading, legend or caption of a group that stands in the tree of an element, and heads it; or -1: none behind a
    field, none of a row or a card in the group, which heads that, and none after which another of its rank begins."""
    roles, tags, tree = page.semantics.roles, page.tags, page.tree[index]
    for at in range(group + 1, min(int(page.end[group]), group + MOST_BEFORE)):
        if page.tree[at] != tree:
            continue
        if roles[at] in CONTROL_ROLES:
            return -1
        if roles[at] == "heading" or tags[at] in HEADS:
            return -1 if group < row_of(page, at) < at or _begins_anew(page, at, index) else at
    return -1


def _begins_anew(page: Page, head: int, index: int) -> bool:
    """Whether an element, or what stands between it and a heading, is another heading of the same rank or above, outside of any row
    or card that ends before the element: the section is that one's (HTML, 4.3.11)."""
    at, ranks = Authored.of(page).headings
    same = np.asarray(page.tree)[at] == page.tree[head]
    ranked = page.semantics.roles[head] == "heading"  # a legend, which is not, heads all of its group
    rank = int(ranks[np.searchsorted(at, head)]) if ranked else 0
    for other in at[same & (ranks <= rank) & (at > head) & (at <= index)].tolist():
        row = row_of(page, other)
        if not (head < row and page.end[row] <= index):
            return True
    return False


def _text_before(page: Page, index: int) -> Finder | None:
    """The nearest unique text that stands before the element."""
    for at in texts_before(page, index):
        finder = text(page.semantics.worded[at])
        if _unique(page, finder, at):
            return finder
    return None


def texts_before(page: Page, index: int) -> Iterator[int]:
    """The elements with a text of their own that end before an element, within its nearest eight predecessors."""
    own, texts = page.semantics.own_text, page.semantics.worded
    for at in range(index - 1, max(-1, index - 9), -1):
        if page.tree[at] == page.tree[index] and own[at] and page.end[at] <= index and 0 < len(texts[at]) <= LONGEST_ANCHOR:
            if page.tags[at] != "option" and not is_sign(own[at]):  # which could be chosen before it; a mere sign
                yield at
