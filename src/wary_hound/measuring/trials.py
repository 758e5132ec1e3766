"""Trials: what each proposed locator of a labelled element came to on every later version, and in every other use of the same
version. What the change model is fitted to."""

from __future__ import annotations

from collections.abc import Collection, Iterator
from dataclasses import replace
from functools import partial

from wary_hound.authoring.candidates import proposals
from wary_hound.authoring.question import STOLEN_COSTS
from wary_hound.authoring.ranking import ways_to_host
from wary_hound.authoring.search import search
from wary_hound.locator.evaluate import match
from wary_hound.locator.values import Locator
from wary_hound.measuring.history import PageHistory, Variants, labelled, targets
from wary_hound.page import Element, Page
from wary_hound.robustness.components import components_of
from wary_hound.robustness.dependence import dependencies
from wary_hound.robustness.fitting import Trial
from wary_hound.robustness.model import ChangeModel, key_of

Authored = list[tuple[Locator, tuple[str, ...], str]]
_WORDS = frozenset({"text", "content", "accessible-name", "label"})


def collect(history: PageHistory) -> list[Trial]:
    """All trials of one page state: what is proposed for each labelled element, tried on every later version.

    What rests on words that the history's authors made up is left out: they kept them the same, so they say nothing of how long
    an application's own words last.
    """
    model = ChangeModel.shipped()
    pages, wanted = labelled(history)
    rows: list[Trial] = []
    for old in range(len(pages) - 1):
        for label, index in wanted[old].items():
            if index is None:
                continue
            authored = _authored(pages[old][index], model, history.made_up)
            component = components_of(pages[old])[index]
            for new in range(old + 1, len(pages)):
                now = wanted[new].get(label)
                if now is not None:
                    case = (history.name, label, old, new)
                    rows.extend(_tried(history.application, case, (old, new), authored, component, pages[new], now))
    return rows


def collect_use(variants: Variants) -> list[Trial]:
    """All trials of one page in other uses: what is proposed on the base, tried on the variant of the same version."""
    model = ChangeModel.shipped()
    rows: list[Trial] = []
    for at, pair in enumerate(variants.pairs):
        base, other = pair.base.read(), pair.other.read()
        before, after = targets(base, pair.base), targets(other, pair.other)
        for label, index in before.items():
            now = after.get(label)
            if index is None or now is None:
                continue
            authored = _authored(base[index], model, frozenset())
            case = (variants.name, label, at, at + 1)
            rows.extend(_tried(variants.name, case, (at, at + 1), authored, components_of(base)[index], other, now))
    return [replace(row, application=variants.application) for row in rows]


def _authored(element: Element, model: ChangeModel, made_up: Collection[str]) -> Authored:
    """What is proposed for an element, with the facts that it rests on, but for what rests on words that were made up."""
    page, index = element.page, element.index
    found = search(page, index, model, STOLEN_COSTS)
    authored: Authored = []
    for proposal in proposals(element, partial(ways_to_host, model=model), found.hops):
        facts = dependencies(page, proposal.locator, index)
        if not any(fact.base in _WORDS and fact.value in made_up for fact in facts):
            authored.append((proposal.locator, tuple(f.group for f in facts), key_of(facts, index)))
    return authored


def _tried(
    application: str,
    case: tuple[str, str, int, int],
    steps: tuple[int, int],
    authored: Authored,
    component: int,
    page: Page,
    now: int,
) -> Iterator[Trial]:
    for locator, groups, key in authored:
        matched = match(page, locator)
        if now in matched:
            event = "alive" if len(matched) == 1 else "ambiguous"
        else:
            event = "stolen" if len(matched) == 1 else "lost"
        yield Trial(application, case, steps, groups, key, component, event)
