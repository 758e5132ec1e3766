"""Trials: what each proposed locator of a labelled element came to on every later version. What the change model is fitted to."""

from __future__ import annotations

from functools import partial

from wary_hound.authoring.candidates import proposals
from wary_hound.authoring.question import STOLEN_COSTS
from wary_hound.authoring.ranking import ways_to_host
from wary_hound.authoring.search import search
from wary_hound.locator.evaluate import match
from wary_hound.measuring.history import PageHistory, labelled
from wary_hound.robustness.components import components_of
from wary_hound.robustness.dependence import dependencies
from wary_hound.robustness.fitting import Trial
from wary_hound.robustness.model import ChangeModel, key_of


def collect(history: PageHistory) -> list[Trial]:
    """All trials of one page state: what is proposed for each labelled element, tried on every later version."""
    model = ChangeModel.shipped()
    pages, wanted = labelled(history)
    rows: list[Trial] = []
    for old in range(len(pages) - 1):
        for label, index in wanted[old].items():
            if index is None:
                continue
            element = pages[old][index]
            authored = []
            found = search(pages[old], index, model, STOLEN_COSTS)
            component = components_of(pages[old])[index]
            for proposal in proposals(element, partial(ways_to_host, model=model), found.hops):
                facts = dependencies(pages[old], proposal.locator, index)
                authored.append((proposal.locator, tuple(f.group for f in facts), key_of(facts, index)))
            for new in range(old + 1, len(pages)):
                now = wanted[new].get(label)
                if now is None:
                    continue
                for locator, groups, key in authored:
                    matched = match(pages[new], locator)
                    if now in matched:
                        event = "alive" if len(matched) == 1 else "ambiguous"
                    else:
                        event = "stolen" if len(matched) == 1 else "lost"
                    case = (history.name, label, old, new)
                    rows.append(Trial(history.application, case, (old, new), groups, key, component, event))
    return rows
