"""Advice to the people who make the page: which attribute, on which element, would make locators last longest."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

from wary_hound.authoring.cache import Authored
from wary_hound.authoring.question import Question
from wary_hound.authoring.ranking import rank
from wary_hound.page import Page
from wary_hound.page.events import with_attribute
from wary_hound.robustness.components import components_of
from wary_hound.robustness.dependency import attribute_kind

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


def advise(page: Page, named: Mapping[str, int], question: Question | None = None, most: int = 3) -> list[Advice]:
    """The attributes that would lift the best locators of some elements (by name) most, the greatest gain first.

    Each is tried for real: put on a copy of the page, on which all elements are ranked anew, in the same futures. Tried are the
    elements themselves and the heads of their components, with an attribute for tests (the page's own kind, where it has one).
    """
    asked = replace(question or Question(releases=3), ways=1, seed=0)

    def survivals(page: Page, names: Iterable[str]) -> dict[str, float]:
        ranked = {name: rank(page[named[name]], asked) for name in names}
        return {name: candidates[0].survival if candidates else 0.0 for name, candidates in ranked.items()}

    attribute = _kind_of_attribute(page)
    before = survivals(page, named)
    found = []
    for element, names in _places(page, named, before):
        value = _value_for(page, element, names)
        changed = changed_copy(page, element, attribute, value)
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
    value = re.sub(r"[^a-z0-9]+", "-", said.lower()).strip("-")
    # what has no letter is data: no name for anything
    return value if re.search("[a-z]", value) else page.semantics.roles[element] or page.tags[element]


def changed_copy(page: Page, element: int, attribute: str, value: str) -> Page:
    """The page as it would be with an attribute more on an element, to be judged in the same futures as the page itself."""
    changed = with_attribute(page, element, attribute, value)
    Authored.of(changed).stream = Authored.of(page).stream or page.digest
    return changed
