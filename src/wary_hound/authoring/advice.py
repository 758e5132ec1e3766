"""Advice to the people who make the page: which attribute, on which element, would make locators last longest."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path

from wary_hound.authoring.ranking import ANY, STOLEN_COSTS, rank
from wary_hound.authoring.rules import Rules
from wary_hound.page import Facts, Page
from wary_hound.page.snapshot import from_tree, to_tree
from wary_hound.robustness.components import components_of
from wary_hound.robustness.dependence import attribute_kind
from wary_hound.robustness.model import ChangeModel

TEST_ATTRIBUTE = "data-test"
MOST_PLACES = 12
WORTH = 0.02
"""A lift in mean survival below this is not worth a developer's time."""


@dataclass(frozen=True, slots=True)
class Advice:
    """One attribute to add: where, and what it would lift (survival of the best locator before and after, by name)."""

    element: int
    attribute: str
    value: str
    lifts: tuple[tuple[str, float, float], ...]

    @property
    def gain(self) -> float:
        """Summed survival gained."""
        return sum(after - before for _, before, after in self.lifts)


def advise(
    page: Page,
    named: Mapping[str, int],
    model: ChangeModel | None = None,
    releases: int = 3,
    most: int = 3,
    rules: Rules = ANY,
    stolen_costs: float = STOLEN_COSTS,
) -> list[Advice]:
    """The attributes that would lift the best locators of some elements (by name) most, the greatest gain first.

    Each is tried for real: put on a copy of the page, on which all elements are ranked anew. Tried are the elements
    themselves and the heads of their components, with an attribute for tests (the page's own kind, where it has one).
    `model`, `releases`, `rules` and `stolen_costs` are those of `rank`.
    """

    def survivals(page: Page, names: Iterable[str]) -> dict[str, float]:
        ranked = {name: rank(page[named[name]], model, releases, 0, rules, stolen_costs, ways=1) for name in names}
        return {name: candidates[0].survival if candidates else 0.0 for name, candidates in ranked.items()}

    attribute = _kind_of_attribute(page)
    before = survivals(page, named)
    found = []
    for element, names in _places(page, named, before):
        value = _value_for(page, element, names)
        changed = with_attribute(page, element, attribute, value)
        after = survivals(changed, names)
        lifts = [(name, before[name], after[name]) for name in names if after[name] > before[name] + WORTH]
        if lifts:
            found.append(Advice(element, attribute, value, tuple(sorted(lifts, key=lambda lift: lift[1] - lift[2]))))
    return sorted(found, key=lambda advice: -advice.gain)[:most]


def _places(page: Page, named: Mapping[str, int], before: Mapping[str, float]) -> list[tuple[int, list[str]]]:
    """Where to try: components that hold several of the elements, and the weakest elements themselves."""
    components = components_of(page)
    heads: Counter[int] = Counter()
    inside: dict[int, list[str]] = {}
    for name, index in named.items():
        for head in {components[at] for at in (index, *page.ancestors(index), *page.hosts(index))}:
            if head >= 0 and head != index:
                heads[head] += 1
                inside.setdefault(head, []).append(name)
    shared = [(head, inside[head]) for head, count in heads.most_common(MOST_PLACES // 3) if count > 1]
    weakest = sorted(named, key=lambda name: before[name])[: MOST_PLACES - len(shared)]
    return [*shared, *((named[name], [n for n in named if named[n] == named[name]]) for name in weakest)]


def _kind_of_attribute(page: Page) -> str:
    own = [name for name in page.index.attribute_names if attribute_kind(name) == "test-attribute"]
    return max(own, key=lambda name: len(page.index.having(name)), default=TEST_ATTRIBUTE)


def _value_for(page: Page, element: int, names: Sequence[str]) -> str:
    said = (
        names[0]
        if len(names) == 1 and "{" not in names[0]
        else page.semantics.name(element) or page.semantics.roles[element] or page.tags[element]
    )
    return re.sub(r"[^a-z0-9]+", "-", said.lower()).strip("-") or page.tags[element]


def with_attribute(page: Page, element: int, name: str, value: str) -> Page:
    """A copy of a page in which one element has one attribute more; elements keep their indexes."""
    data = to_tree(page)
    data["elements"][element][4] = {**data["elements"][element][4], name: value}
    return from_tree(data, page.facts or Facts(url=page.url), Path(str(page.source or "page")))
