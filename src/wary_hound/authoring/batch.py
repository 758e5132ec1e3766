"""The best locator of each of many elements: straight from what an element says of itself where that is good, searched for
where it is not."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from functools import partial

import numpy as np

from wary_hound.authoring.anchors import above, fits_anchor, related
from wary_hound.authoring.candidates import Hops, anywhere, is_unique, own_finders
from wary_hound.authoring.predicates import named_classes
from wary_hound.authoring.question import OBSERVED, Question
from wary_hound.authoring.ranking import rank, ways_to_host
from wary_hound.authoring.targets import takes_focus
from wary_hound.authoring.taste import DIGESTED, Surroundings, distaste
from wary_hound.authoring.weakness import BOXES_AND_WORDS, is_weak, says_what_it_shows
from wary_hound.locator.css.building import joined, selector
from wary_hound.locator.css.values import Type
from wary_hound.locator.kinds import Scope
from wary_hound.locator.making import css, role
from wary_hound.locator.values import Finder, Hop, Locator, Related, Relation
from wary_hound.page import Element, Page
from wary_hound.robustness.data import known_by_number
from wary_hound.robustness.dependence import dependencies
from wary_hound.robustness.looks import MADE_UP
from wary_hound.robustness.survival import closed_form

ALIKE = 0.05
"""Survivals no further apart last alike: taste decides."""
GOOD = 0.8
"""Where something lasts one release with that probability, it is good enough to look no further."""
ACTED_ON = frozenset(
    """button link textbox checkbox radio combobox listbox menuitem menuitemcheckbox menuitemradio option tab switch slider
    spinbutton searchbox treeitem""".split()
)
MOST_ROWS = 2
FIELDS = frozenset({"input", "select", "textarea", "summary", "output"})


@dataclass(frozen=True, slots=True)
class Best:
    """An element's locator; `survival` after the releases asked for, by the closed form. `weak`: see `Candidate.weak`."""

    element: Element
    locator: Locator
    survival: float
    weak: bool


def usable(page: Page) -> list[Element]:
    """The elements that a person can use: controls, links and fields, and what holds none of these and takes the focus, a click or
    what is written by itself (`takes_focus`); exposed and not hidden, in page order."""
    roles, tags, exposed, shown = page.semantics.roles, page.tags, page.semantics.exposed, page.semantics.rendered
    there = [i for i in range(len(page)) if exposed[i] and shown[i]]
    told = np.array([i for i in there if roles[i] in ACTED_ON or tags[i] in FIELDS], np.int64)

    def holds_one(at: int) -> bool:
        return bool(np.searchsorted(told, at, "right") < np.searchsorted(told, page.end[at]))

    wanted = {*told.tolist(), *(i for i in there if takes_focus(page, i) and not holds_one(i))}
    return [page[i] for i in sorted(wanted)]


def best_of_all(
    elements: Sequence[Element], question: Question | None = None, done: Callable[[], None] | None = None
) -> list[Best | None]:
    """The best locator of each element, None where the rules leave none; `done` is called after each."""
    asked = question or Question()
    best = []
    for element in elements:
        best.append(_at_once(element, asked) or _ranked(element, asked))
        if done is not None:
            done()
    return best


def _ranked(element: Element, asked: Question) -> Best | None:
    candidates = rank(element, replace(asked, ways=1))
    return Best(element, candidates[0].locator, candidates[0].survival, candidates[0].weak) if candidates else None


def _at_once(element: Element, asked: Question) -> Best | None:
    """The best of what the element says of itself, or of its row; None where that is not good, and a search may find better."""
    if asked.rules.prefer:
        return None
    page, index = element.page, element.index
    model, found = asked.weighing, list[tuple[float, float, Locator]]()
    around = Surroundings.of(page, index)
    for locator in _own(element, asked, list(related(page, index))):
        facts = dependencies(page, locator, index)
        if is_weak(facts, index, known_by_number(page, index)):
            continue
        if any(fact.look in MADE_UP or fact.kind == DIGESTED for fact in facts):
            continue
        if asked.purpose in OBSERVED and says_what_it_shows(facts, index, element.text):
            continue
        if asked.rules.allow(locator, facts):
            survival = closed_form(model, facts, index, asked.releases)
            found.append((survival, distaste(facts, locator, index, around), locator))
    if not found:
        return None
    most = max(survival for survival, _, _ in found)
    if most ** (1 / asked.releases) < GOOD:
        return None
    survival, _, locator = min((f for f in found if f[0] >= most - ALIKE), key=lambda f: (f[1], str(f[2])))
    return Best(element, locator, survival, False)


def _own(element: Element, asked: Question, relations: Sequence[tuple[Relation, Finder]]) -> Iterator[Locator]:
    """Unique locators of the element by facts of its own or in the row of a text, behind the best way to its tree. `relations`: all
    that it has to texts."""
    page, index = element.page, element.index
    said = list(own_finders(page, index))
    yield from (one.locator for one in anywhere(page, index, (((Hop(finder),), kind) for finder, kind in said), _ways_in(asked)))
    own = [finder for finder, _ in said]
    rows = [one for one in relations if one[0] is Relation.ROW_OF][:MOST_ROWS]
    yield from _unique(element, [*own, *_with(rows, element, own)], asked)


def _around(element: Element, asked: Question, relations: Sequence[tuple[Relation, Finder]]) -> Iterator[Locator]:
    """Unique locators of the element by its kind in a named ancestor, its part of the page, its column, or behind a text."""
    page, index = element.page, element.index
    kind = css(selector(Type(element.tag)))
    inside = (css(joined(anchor.query.tree, " ", kind.query.tree)) for anchor in above(page, index) if anchor.strategy == "css")
    around = [one for one in relations if one[0] is not Relation.ROW_OF]
    own = [kind, *([role(element.role)] if element.role else [])]
    yield from _unique(element, [*inside, *_with(around, element, own)], asked)


def ways_at_once(element: Element, asked: Question) -> Iterator[Locator]:
    """Unique locators of the element that need no search: by what it says of itself, and by its kind in what stands around it."""
    relations = list(related(element.page, element.index))
    return itertools.chain(_own(element, asked, relations), _around(element, asked, relations))


def _with(relations: Iterable[tuple[Relation, Finder]], element: Element, own: Iterable[Finder]) -> Iterator[Finder]:
    """The finders that say the element's kind alone (of a mere box its class, too), with relations."""
    called = named_classes(element.attributes) if element.tag in BOXES_AND_WORDS else ()
    said = {f"css{{{element.tag}}}", f"role{{{element.role}}}", *(str(css(selector(one))) for one in itertools.islice(called, 1))}
    kinds = [finder for finder in own if str(finder) in said]
    page, index = element.page, element.index
    pairs = ((one, kind) for one in relations for kind in kinds if not fits_anchor(page, one[1], kind, index))
    return (replace(kind, relations=(Related(*one),)) for one, kind in pairs)


def _unique(element: Element, finders: Iterable[Finder], asked: Question) -> Iterator[Locator]:
    page, index = element.page, element.index
    hosts = page.hosts(index)
    prefixes = _ways_in(asked)(page, hosts[-1])[:1] if hosts else [()]
    scope: Scope = (int(page.tree[index]), -1)
    for finder in finders:
        if is_unique(page, (Hop(finder),), scope, index):
            for prefix in prefixes:
                yield Locator((*prefix, Hop(finder)))


def _ways_in(asked: Question) -> Callable[[Page, int], list[Hops]]:
    return partial(ways_to_host, model=asked.weighing)
