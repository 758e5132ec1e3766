"""Controls that look alike, and how many of them there are: where one came or went, and nothing that a control says itself is the
same, its place does not tell which of them it has become."""

from __future__ import annotations

from collections import Counter

import numpy as np

from wary_hound.healing.alone import INTERACTIVE
from wary_hound.healing.fingerprint import Fingerprint
from wary_hound.healing.likeness import FEATURES, Floats
from wary_hound.healing.said import lasting_classes
from wary_hound.page import Element, Page
from wary_hound.page.cache import Cache

_OWN = [FEATURES.index(name) for name in "id name-attribute href value test-attribute text name label icon".split()]
_ROW = [FEATURES.index(name) for name in ("row", "identity")]
_BESIDE = [FEATURES.index(name) for name in ("before", "after")]
AGREES = 0.6

Kind = tuple[str, str, str]


def _kind(tag: str, role: str, classes: str) -> Kind:
    return tag, role, lasting_classes(classes)


class Crowds(Cache):
    """How many controls of a page are of one tag, role and classes."""

    def __init__(self, page: Page) -> None:
        super().__init__(page)
        roles = page.semantics.roles
        self._counts = Counter(self.kind(at) for at in range(len(page)) if roles[at] in INTERACTIVE)

    def kind(self, at: int) -> Kind:
        """What an element looks like."""
        return _kind(self.page.tags[at], self.page.semantics.roles[at], self.page.attribute(at, "class") or "")

    def like(self, at: int) -> int:
        """How many controls look like an element, itself with them; 0 where it is no control."""
        return self._counts[self.kind(at)]


def is_shifted(old: Element | Fingerprint, page: Page, at: int, features: Floats) -> bool:
    """Whether an element may have become another one of its kind than that on the new page: nothing that it says itself agrees, nor
    its row, nor what stands on both sides of it, and there are more or fewer of its kind."""
    agrees = np.nan_to_num(features[: len(FEATURES)]) >= AGREES
    if agrees[_OWN].any() or agrees[_ROW].any() or agrees[_BESIDE].all():
        return False
    was = Crowds.of(old.page).like(old.index) if isinstance(old, Element) else old.crowd
    now, classes = Crowds.of(page), old.attributes.get("class", "")
    return was > 0 and _kind(old.tag, old.role, classes) == now.kind(at) and was != now.like(at)
