"""Candidates for an element: every way to say it that finds it, and it alone, on its page."""

from __future__ import annotations

import itertools
from collections import Counter
from collections.abc import Callable, Collection, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from wary_hound.authoring import anchors, paths
from wary_hound.authoring.around import before_in_xpath
from wary_hound.authoring.icons import icon_predicates, sign_of
from wary_hound.authoring.predicates import (
    LONGEST_TEXT,
    attribute_predicates,
    class_predicates,
    content_of,
    first_of,
    head_of,
    label_leading,
    leading_of,
    named_classes,
    parts_of,
    place_predicate,
    read_of,
    stems,
    step_of,
    tag_step,
    whole_of,
    words_beside,
    xpath_tag,
)
from wary_hound.authoring.signs import is_decoration, unmarked
from wary_hound.authoring.weakness import TELLING, is_weak
from wary_hound.locator.css.building import joined, selector
from wary_hound.locator.css.values import Attribute, Class, Id, Simple, Type
from wary_hound.locator.evaluate import find_in, in_scopes, looked_in
from wary_hound.locator.kinds import Scope
from wary_hound.locator.making import css, label, role, text, xpath
from wary_hound.locator.values import Boundary, Finder, Hop, Locator, Related, Relation
from wary_hound.locator.xpath import building as x
from wary_hound.locator.xpath.values import Path, Step
from wary_hound.page import Element, Page
from wary_hound.page.names import without_value
from wary_hound.page.roles import NAME_FROM_CONTENT
from wary_hound.page.trees import SHADOW
from wary_hound.robustness.data import is_count
from wary_hound.robustness.dependence import dependencies
from wary_hound.robustness.dependency import attribute_kind
from wary_hound.robustness.looks import look_of_token
from wary_hound.robustness.tabular import Tabular

FEW = 3
"""A language that has so many ways to say an element needs no short path."""
MOST_IN_A_TREE = 90
MOST_LED = 15
"""Ways within a tree that go with any but the best way into it."""
MOST_BETWEEN = 50
"""Elements that a hop on the way may find."""
_NAMING = frozenset({"test-attribute", "name", "aria-label", "placeholder"})
"""Attributes by which people call an element, in whatever language."""
_TELLING = frozenset({"id", "attribute", "text", "role", "label", "relative"})
"""Kinds of proposals that may say which element is meant whatever tree it stands in."""

_PRESENTATIONAL = frozenset({"", "none", "generic"})
"""Roles of what ARIA says nothing of."""
_AMONG = frozenset({Relation.ROW_OF, Relation.GROUP_OF})
"""Relations that hold between an element and any other that stands with it."""

Hops = tuple[Hop, ...]


@dataclass(frozen=True, slots=True)
class Proposal:
    """A unique locator, and its kind: id, attribute, class, text, role, label, tag, chain, relative or path."""

    locator: Locator
    kind: str


def proposals(
    element: Element, choose_host: Callable[[Page, int], list[Hops]], searched: Iterable[tuple[Hops, str]] = ()
) -> list[Proposal]:
    """All proposals for an element, each unique on its page, the more direct ones first.

    `choose_host` gives, for a shadow host or frame element, the hops that lead into its tree, best first. `searched` are
    hops within the element's own tree, with their kinds, to propose as well.
    """
    page, index = element.page, element.index
    hosts = page.hosts(index)
    proven = dict(searched)
    best = frozenset(proven)
    inner = [(hops, proven.pop(hops, kind)) for hops, kind in in_tree(page, index)]  # a path from an id may say no more than that
    scope = (int(page.tree[index]), -1)
    inner += [(hops, kind) for hops, kind in proven.items() if is_unique(page, hops, scope, index)]
    if not hosts:
        return [Proposal(Locator(hops), kind) for hops, kind in inner]
    proposed = list(anywhere(page, index, inner, choose_host))
    for rank, prefix in enumerate(choose_host(page, hosts[-1])):
        take = inner if rank == 0 else _few(inner, prefix, best)
        proposed.extend(Proposal(Locator(prefix + hops), kind) for hops, kind in take)
    return proposed


def _few(inner: Iterable[tuple[Hops, str]], prefix: Hops, best: Collection[Hops]) -> list[tuple[Hops, str]]:
    """The first ways within a tree to go with another way into it, and those in its language, of these first the `best`."""
    said = [entry for entry in inner if entry[1] != "path"]
    own = {hop.finder.strategy for hop in prefix}
    same = [entry for entry in said if {hop.finder.strategy for hop in entry[0]} == own]
    same.sort(key=lambda entry: entry[0] not in best)
    return [*dict.fromkeys([*said[:MOST_LED], *same[:MOST_LED]])]


def anywhere(
    page: Page, index: int, inner: Iterable[tuple[Hops, str]], choose_host: Callable[[Page, int], list[Hops]]
) -> Iterator[Proposal]:
    """What tells an element of a shadow tree from all others of its document, whatever trees they stand in: no host need be named.
    `inner`: hops within its own tree, with their kinds."""
    hosts = page.hosts(index)
    frames = [host for host in hosts if page.hosted[host].kind != SHADOW]
    if not hosts or hosts[-1] in frames:
        return
    prefix = choose_host(page, frames[-1])[:1] if frames else [()]
    scope = (page.hosted[frames[-1]].number if frames else 0, -1)
    for hops, kind in inner:
        finder = hops[0].finder
        if len(hops) > 1 or kind not in _TELLING or finder.ordinal or finder.strategy == "xpath":  # which browsers have not there
            continue
        wide = (replace(hops[0], anywhere=True),)
        if is_unique(page, wide, scope, index):
            yield from (Proposal(Locator((*before, *wide)), kind) for before in prefix)


def boundary_of(page: Page, host: int) -> Boundary:
    """What edge a hop to this host crosses."""
    return Boundary.SHADOW if page.hosted[host].kind == SHADOW else Boundary.FRAME


def in_tree(page: Page, index: int) -> Iterator[tuple[Hops, str]]:
    """Unique hops within the element's own tree, with their kinds."""
    scope: Scope = (int(page.tree[index]), -1)
    seen: set[Hops] = set()
    count = 0
    said: Counter[str] = Counter()
    own = list(own_finders(page, index))
    ways = itertools.chain(_direct(page, index, scope, own), _chained(page, index, scope, own), _paths(page, index, said))
    for hops, kind in ways:
        if count >= MOST_IN_A_TREE:
            return
        if hops in seen:
            continue
        seen.add(hops)
        if is_unique(page, hops, scope, index):
            count += 1
            if len(hops) == 1 and not hops[0].finder.relations:
                said[hops[0].finder.strategy] += 1
            yield hops, kind


def is_unique(page: Page, hops: Hops, scope: Scope, index: int) -> bool:
    """Whether hops without boundaries find the element and nothing else."""
    *before, last = hops
    scopes = [scope]
    for hop in before:
        found = in_scopes(page, hop.finder, looked_in(page, hop, scopes))
        if not 0 < len(found) <= MOST_BETWEEN:
            return False
        scopes = [(scope[0], int(i)) for i in found]
    found = in_scopes(page, last.finder, looked_in(page, last, scopes))
    return len(found) == 1 and found[0] == index


def _one(finder: Finder, kind: str) -> tuple[Hops, str]:
    return (Hop(finder),), kind


def _sayable(words: str) -> bool:
    """Whether a text may be asked for whole: not long, nothing in it that is only there to be seen."""
    return 0 < len(words) <= LONGEST_TEXT and not is_decoration(words)


def _parts(name: str, shown: str = "") -> Iterator[str]:
    """Steady parts of a name: what stands before a hint, or of a long one its longest run of words."""
    head = head_of(name, shown)
    yield from (head,) if head else stems(name)


def _before_figures(name: str, words: str) -> tuple[str, ...]:
    """Some words, where a name begins with them and goes on with figures in elements of their own: *Yearly* before *save 20 %*."""
    goes_on = (
        _sayable(words)
        and any(map(str.isalpha, words))
        and name.startswith(f"{words} ")
        and any(map(str.isdigit, name[len(words) :]))
    )
    return (words,) if goes_on else ()


def _known_by(page: Page, row: int) -> list[str]:
    """The first texts of a row that are no data: what a person would call it."""
    tabular, texts = Tabular.of(page), page.semantics.worded
    said = (at for at in anchors.whole_texts(page, row, int(page.tree[row])) if not tabular.is_datum(at))
    return [texts[at] for at in itertools.islice(said, 2) if _sayable(texts[at])]


def _holds_others(page: Page, index: int) -> bool:
    """Whether its name is all that it holds, one after the other, of which a part is what it is known by: that of a row; of what
    holds others of its role (a menu item and the menu that it opens), or buttons that have names, whatever they show."""
    roles, texts = page.semantics.roles, page.semantics.worded
    if roles[index] == "row" or page.tags[index] == "tr":
        return True
    if roles[index] not in NAME_FROM_CONTENT:
        return False
    inside = range(index + 1, int(page.end[index]))
    if any(roles[at] == roles[index] and texts[at] for at in inside):
        return True
    return bool(texts[index]) and any(roles[at] == "button" and page.attribute(at, "aria-label") for at in inside)


def _says_its_label(page: Page, index: int, part: str) -> bool:
    """Whether a part of the name of a field is said by its label itself, where that says anything, and not by what stands in it
    (*21:40 <em>4 left</em>*)."""
    said = [page.semantics.own_text[at] for at in page.semantics.labels_of.get(index, ())]
    return not any(said) or any(part in one for one in said)


def _label_counts(page: Page, index: int) -> bool:
    """Whether a part of the label of a field says how many, how much or when."""
    own = page.semantics.own_text
    labels = page.semantics.labels_of.get(index, ())
    return any(own[at] and is_count(own[at]) for one in labels for at in range(one + 1, int(page.end[one])))


def own_finders(page: Page, index: int) -> Iterator[tuple[Finder, str]]:
    """What can be said of the element itself, unique or not, the more telling first."""
    tag = Type(page.tags[index])
    semantics = page.semantics
    attributes = page.attributes_of(index)
    if attributes.get("id"):
        yield css(selector(Id(attributes["id"]))), "id"
    shown = read_of(page, index)
    predicates = list(attribute_predicates(attributes, page.tags[index], shown))
    for predicate in predicates:
        yield css(selector(predicate)), "attribute"
        yield css(selector(tag, predicate)), "attribute"
    name, own_role, words = semantics.name(index), semantics.roles[index], words_beside(page, index)
    asked_by = next((own for at in semantics.labels_of.get(index, ()) if (own := semantics.own_text[at])), "")
    steady, counts = without_value(page, index), _label_counts(page, index)
    exposed = own_role not in _PRESENTATIONAL and bool(semantics.exposed[index])
    if exposed:
        joined_up = _holds_others(page, index) and not attributes.get("aria-label")
        if joined_up:
            yield from ((role(own_role, known, part=True), "role") for known in _known_by(page, index))
        elif steady:
            yield role(own_role, steady, part=True), "role"
        elif words and not shown and name.startswith(words):
            yield role(own_role, words, part=True), "role"  # what stands in it says the rest
        elif shown and name != shown and name.endswith(shown) and _sayable(shown):
            yield role(own_role, shown, part=True), "role"  # what stands before it is the name of a control in it
        elif (_sayable(name) or name == sign_of(page, index) != "") and not counts:
            yield role(own_role, name), "role"
        leading = leading_of(page, index, name)
        parts = (leading,) if _sayable(leading) else _before_figures(name, words or asked_by) or _parts(name, shown)
        for part in parts if not steady and not joined_up else ():
            if _says_its_label(page, index, part):
                yield role(own_role, first_of(page, index, whole_of(page, index, part, name)), part=True), "role"
    labelled = semantics.label(index)
    if labelled and steady:
        yield label(steady, part=True), "label"
    elif _sayable(labelled):
        if not counts:
            yield label(labelled), "label"
        leading = label_leading(page, index)
        for part in (leading,) if _sayable(leading) else _before_figures(labelled, asked_by) or _parts(labelled):
            if _says_its_label(page, index, part):
                yield label(part, part=True), "label"
    elif (asked := unmarked(labelled)) != labelled and _sayable(asked) and not counts:
        yield label(asked, part=True), "label"
    if _sayable(shown):
        yield text(shown), "text"
        if content_of(page, index):
            yield xpath(x.anywhere(x.child(xpath_tag(page, index), x.reads(shown)))), "text"
    for part in stems(shown):
        if part in semantics.own_text[index]:  # of what several say together another element may be the innermost tomorrow
            yield text(part, part=True), "text"
    if words:
        yield text(words, part=True), "text"
    for part in parts_of(page, index) if not page.namespace[index] else ():
        yield xpath(x.anywhere(x.child(xpath_tag(page, index), x.contains(part)))), "text"
    alone = {one for one in predicates if one.operator == "=" and _is_alone(page, index, one)}
    for one, other in itertools.islice(itertools.combinations(predicates, 2), 10):
        if (one in alone) == (other in alone):  # what others have as well guards it from none of them
            yield css(selector(tag, one, other)), "attribute"
    for icon in icon_predicates(page, index):
        yield css(selector(tag, icon)), "attribute"
    told = (
        look_of_token(attributes.get("id", "")) == "named"
        or name
        or shown
        or any(attribute_kind(one.name) in TELLING for one in predicates)
    )
    if attributes.get("part") and not told:
        yield css(selector(Attribute("part", "=", attributes["part"]))), "class"  # as its component lets others style it
    classes = list(class_predicates(attributes))
    for single in classes:
        yield css(selector(single)), "class"
        yield css(selector(tag, single)), "class"
        for predicate in predicates[:3]:
            yield css(selector(tag, single, predicate)), "class"
    for first, second in itertools.islice(itertools.combinations(classes, 2), 10):
        yield css(selector(first, second)), "class"
    if exposed:
        yield role(own_role), "role"
    yield css(selector(tag)), "tag"
    if "-" in tag.name or page.hosts(index) or tag.name == "h1":  # what is called so at all, what a component is made of, the title
        yield xpath(x.anywhere(x.child(xpath_tag(page, index)))), "tag"


def _is_alone(page: Page, index: int, predicate: Attribute) -> bool:
    """Whether no other element of its tree has that attribute with that value."""
    bearers = page.index.valued(predicate.name, predicate.value)
    return np.count_nonzero(page.tree[bearers] == page.tree[index]) == 1


Own = Sequence[tuple[Finder, str]]
"""What can be said of an element itself, as `own_finders` has it."""


def _direct(page: Page, index: int, scope: Scope, own: Own) -> Iterator[tuple[Hops, str]]:
    for finder, kind in own:
        yield _one(finder, kind)
    for one in attribute_predicates(page.attributes_of(index), page.tags[index], read_of(page, index)):
        if attribute_kind(one.name) in _NAMING and one.operator == "=":
            hops = (Hop(css(selector(one))),)
            if is_unique(page, hops, scope, index) and (twin := in_xpath_too(page, hops, index)):
                yield twin, "attribute"
    tag = Type(page.tags[index])
    for single in itertools.islice(class_predicates(page.attributes_of(index)), 2):
        # the same in XPath takes longer to look up
        if isinstance(single, Class) and is_unique(page, (Hop(css(selector(tag, single))),), scope, index):
            yield _one(xpath(x.anywhere(x.child(xpath_tag(page, index), x.has_class(single.value)))), "class")


def _chained(page: Page, index: int, scope: Scope, own: Own) -> Iterator[tuple[Hops, str]]:
    """The element from an anchor: inside a unique ancestor, in the row or group of a text, after a label."""
    found = [(finder, found) for finder, _ in own if index in (found := find_in(page, finder, scope))]
    among_others = (finder for finder, at in found if len(at) > 1)
    alone = (finder for finder, at in found if len(at) == 1)
    short = list(dict.fromkeys([*_varied(among_others), *_of_a_kind(page, index, alone, scope)]))
    place = [css(selector(*simples))] if (simples := place_predicate(page, index)) else []
    tagged = css(selector(Type(page.tags[index])))
    tagging = short if tagged in short else [*short[:FEW], tagged, *short[FEW:]]
    for anchor in anchors.above(page, index):
        for number, finder in enumerate(tagging if anchor.strategy == "css" else short):
            if finder.strategy == "css" and anchor.strategy == "css":
                both = css(joined(anchor.query.tree, " ", finder.query.tree))
                yield _one(both, "chain")
                steps = (_step(page, anchor, -1), _step(page, finder, index)) if number <= FEW else (None, None)
                if steps[0] is not None and steps[1] is not None and is_unique(page, (Hop(both),), scope, index):
                    yield _one(xpath(x.anywhere(steps[0], steps[1])), "chain")
            else:
                yield (Hop(anchor), Hop(finder)), "chain"
    related = list(anchors.related(page, index))
    yield from _crossed(page, index, related)
    for relation, anchor in related:
        told: Counter[str] = Counter()
        for finder in (*short, *place):
            # what comes after says the same at greater length
            if (
                finder != anchor
                and told[finder.strategy] < FEW
                and not (relation in _AMONG and anchors.fits_anchor(page, anchor, finder, index))
            ):
                way = _one(replace(finder, relations=(Related(relation, anchor),)), "relative")
                told[finder.strategy] += is_unique(page, way[0], scope, index)
                yield way
    for anchor, combinator in anchors.beside(page, index):
        yield _one(css(joined(anchor.query.tree, combinator, selector(Type(page.tags[index])))), "chain")
        if (sibling := _step(page, anchor, -1)) is not None:
            first = (x.place(1),) if combinator == "+" else ()
            step = Step("following-sibling", xpath_tag(page, index), first)
            yield _one(xpath(Path(True, (*x.anywhere(sibling).steps, step))), "chain")
    for path in before_in_xpath(page, index):
        yield _one(xpath(path), "relative")


def in_xpath_too(page: Page, hops: Hops, index: int) -> Hops:
    """The same in XPath, where it is one selector of an element or of one in another, and can be said so readably; else nothing."""
    finder = hops[0].finder
    if len(hops) > 1 or finder.strategy != "css" or finder.relations or finder.ordinal or len(finder.query.tree) > 1:
        return ()
    (whole,) = finder.query.tree
    if len(whole.compounds) > 2 or not {*whole.combinators[1:]} <= {" "} or page.namespace[index]:
        return ()
    steps = [step for compound in whole.compounds if (step := step_of(compound.simples)) is not None]
    return (Hop(xpath(x.anywhere(*steps))),) if len(steps) == len(whole.compounds) else ()


def _step(page: Page, finder: Finder, index: int) -> Step | None:
    """A CSS selector of one element as a step of XPath. `index`: the element that it is about, where it may be of SVG."""
    compounds = finder.query.tree[0].compounds
    if len(compounds) != 1:
        return None
    simples = compounds[0].simples
    if index >= 0 and page.namespace[index] and any(isinstance(one, Type) for one in simples):
        return tag_step(page, index) if len(simples) == 1 else None
    return step_of(simples)


def _crossed(page: Page, index: int, related: Iterable[tuple[Relation, Finder]]) -> Iterator[tuple[Hops, str]]:
    """A cell, or what is in it, by its row and its column, as a person would say it; a box to tick by its type, too: beside it a
    framework may put a hidden field."""
    rows = [Related(relation, anchor) for relation, anchor in related if relation is Relation.ROW_OF]
    columns = [Related(relation, anchor) for relation, anchor in related if relation is Relation.COLUMN_OF]
    ticked = page.tags[index] == "input" and page.attribute(index, "type") in ("checkbox", "radio")
    said: list[Simple] = [Type(page.tags[index])]
    said += [Attribute("type", "=", page.attribute(index, "type") or "")] if ticked else []
    for row, column in itertools.islice(itertools.product(rows, columns), 2):
        for one in said:
            yield _one(replace(css(selector(one)), relations=(row, column)), "relative")


def _of_a_kind(page: Page, index: int, alone: Iterable[Finder], scope: Scope) -> list[Finder]:
    """Of what finds the element alone what says only of what kind it is: `css{[type="submit"]}`, its tag. There is one
    today, which is better said with where it is. The first of these, and the last, which say the least."""
    weak = [finder for finder in alone if is_weak(dependencies(page, Locator((Hop(finder),)), index, scope), index)]
    return [*weak[:2], *weak[-2:]]


def _varied(finders: Iterable[Finder]) -> list[Finder]:
    """A few finders of each strategy, in the order given."""
    counts: dict[str, int] = {}
    kept = []
    for finder in finders:
        limit = 6 if finder.strategy == "css" else 2
        if counts.get(finder.strategy, 0) < limit:
            counts[finder.strategy] = counts.get(finder.strategy, 0) + 1
            kept.append(finder)
    return kept


def _sayings(page: Page, index: int) -> Iterator[tuple[Simple, ...]]:
    """Ways to say an element in CSS, for want of any that tells: its icon, its attributes, its classes, its tag."""
    attributes, tag = page.attributes_of(index), Type(page.tags[index])
    said: list[Simple] = [
        *icon_predicates(page, index),
        *itertools.islice(attribute_predicates(attributes, page.tags[index], read_of(page, index)), 2),
        *itertools.islice(named_classes(attributes), 2),
    ]
    if not said:
        yield place_predicate(page, index) or (tag,)
    for one in said:
        yield tag, one


def _paths(page: Page, index: int, said: Mapping[str, int]) -> Iterator[tuple[Hops, str]]:
    """Paths by positions; a short one, which takes longer to find, where CSS has said little. `said`: how many ways each strategy
    has so far."""
    yield _one(paths.copied_path(page, index, narrowing=True), "path")
    yield _one(paths.absolute_xpath(page, index), "path")
    if said["css"] < FEW:
        yield _one(paths.relative_css(page, index), "path")
        yield from (_one(finder, "path") for finder in paths.among_alike(page, index, _sayings(page, index)))
    yield _one(paths.absolute_css(page, index), "path")
    scope = (int(page.tree[index]), -1)
    base = css(selector(Type(page.tags[index])))
    alike = find_in(page, base, scope).tolist()
    yield _one(replace(base, ordinal=alike.index(index) + 1) if index in alike else base, "path")
