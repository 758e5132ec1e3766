"""The best locator of each of many elements: straight from what an element says of itself where that is good, searched for
where it is not."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from functools import partial

from wary_hound.authoring.anchors import related
from wary_hound.authoring.candidates import anywhere, is_unique, own_finders
from wary_hound.authoring.question import OBSERVED, Question
from wary_hound.authoring.ranking import rank, ways_to_host
from wary_hound.authoring.taste import MADE_UP, Surroundings, distaste, is_weak, known_by_number, says_what_it_shows
from wary_hound.locator.kinds import Scope
from wary_hound.locator.values import Hop, Locator, Related, Relation
from wary_hound.page import Element, Page
from wary_hound.robustness.dependence import dependencies
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
    """The elements that a person can use: controls, links and fields, exposed and not hidden, in page order."""
    roles, tags, exposed, shown = page.semantics.roles, page.tags, page.semantics.exposed, page.semantics.rendered
    wanted = (i for i in range(len(page)) if exposed[i] and shown[i] and (roles[i] in ACTED_ON or tags[i] in FIELDS))
    return [page[i] for i in wanted]


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
    for locator in _own(element, asked):
        facts = dependencies(page, locator, index)
        if is_weak(facts, index, known_by_number(element.tag, element.role)) or any(fact.look in MADE_UP for fact in facts):
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


def _own(element: Element, asked: Question) -> Iterator[Locator]:
    """Unique locators of the element by facts of its own or in the row of a text, behind the best way to its tree."""
    page, index = element.page, element.index
    hosts = page.hosts(index)
    choose = partial(ways_to_host, model=asked.weighing)
    prefixes = choose(page, hosts[-1])[:1] if hosts else [()]
    scope: Scope = (int(page.tree[index]), -1)
    said = list(own_finders(page, index))
    yield from (one.locator for one in anywhere(page, index, (((Hop(finder),), kind) for finder, kind in said), choose))
    own = [finder for finder, _ in said]
    rows = [Related(relation, anchor) for relation, anchor in related(page, index) if relation is Relation.ROW_OF][:MOST_ROWS]
    kinds = [finder for finder in own if str(finder) in (f"css{{{element.tag}}}", f"role{{{element.role}}}")]
    for finder in [*own, *(replace(kind, relations=(row,)) for row in rows for kind in kinds)]:
        if is_unique(page, (Hop(finder),), scope, index):
            for prefix in prefixes:
                yield Locator((*prefix, Hop(finder)))
