"""House rules: what a team wants its locators to be made of, and what never."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from fnmatch import fnmatchcase

from wary_hound.locator.values import ANYWHERE, Locator
from wary_hound.robustness.dependency import Dependency

PREFERRED = 0.1
"""Expected loss that a preferred attribute may cost more than the best without one."""
WORDS = frozenset({"text", "content", "accessible-name", "label", "placeholder", "title", "aria-label", "alt"})
_FAMILIES: dict[str, frozenset[str]] = {
    "text": WORDS,
    "id": frozenset({"id"}),
    "class": frozenset({"class"}),
    "position": frozenset({"place", "ordinal", "adjacent"}),
    "tag": frozenset({"tag"}),
    "relation": frozenset({"row-of", "column-of", "group-of", "after", "before", "geometry"}),
    "geometry": frozenset({"geometry"}),
    ANYWHERE: frozenset(),  # no fact, but where a hop looks
}
_MARKUP = frozenset({"css", "xpath"})
FACTS = tuple(_FAMILIES)
"""What `without` can name; any attribute can be named as well."""


@dataclass(frozen=True, slots=True)
class Rules:
    """What candidates may be. An empty tuple of `only` allows all strategies.

    `only`: strategies allowed (css, xpath, role, label, text); of css and xpath alone, none that looks anywhere, since neither can
    say so. `without`: facts never to rest on: one of FACTS, or the name of an attribute (a pattern such as `data-*` too).
    `prefer`: names of attributes (patterns too) to be chosen first where that costs at most PREFERRED in expected loss.
    """

    only: tuple[str, ...] = ()
    without: tuple[str, ...] = ()
    prefer: tuple[str, ...] = ()

    def allow(self, locator: Locator, facts: Iterable[Dependency]) -> bool:
        """Whether a locator, and what it rests on, keeps to the rules."""
        if self.only and any(strategy not in self.only for strategy in _strategies(locator)):
            return False
        markup_alone = bool(self.only) and _MARKUP.issuperset(self.only)
        if (markup_alone or ANYWHERE in self.without) and any(hop.anywhere for hop in locator.hops):
            return False
        return self.allow_facts(facts)

    def allow_facts(self, facts: Iterable[Dependency]) -> bool:
        """Whether a locator may rest on these facts."""
        return not any(_is(fact, name) for fact in facts for name in self.without)

    def prefers(self, facts: Iterable[Dependency]) -> bool:
        """Whether it rests on an attribute that is to be chosen first."""
        return any(fnmatchcase(_attribute(fact), name) for fact in facts for name in self.prefer)


def _strategies(locator: Locator) -> Iterable[str]:
    for hop in locator.hops:
        for finder in hop.finder.with_anchors():
            yield finder.strategy


def _is(fact: Dependency, name: str) -> bool:
    kind = fact.base
    return kind in _FAMILIES[name] if name in _FAMILIES else fnmatchcase(_attribute(fact), name)


def _attribute(fact: Dependency) -> str:
    """The attribute that a fact is about; empty for others."""
    kind = fact.base
    if kind in ("id", "class"):
        return kind
    name, equals, _ = fact.value.partition("=")
    if kind == "having":
        return fact.value
    return name if equals and kind not in WORDS - {"placeholder", "title", "aria-label", "alt"} else ""
