"""What a place does not tell. Controls that look alike: where one came or went, and nothing that a control says itself is the same,
it may be any of them now. Rows: where another thing has a row, what stands in it is of that thing."""

from __future__ import annotations

from collections import Counter

import numpy as np
from rapidfuzz import fuzz

from wary_hound.healing.alone import INTERACTIVE
from wary_hound.healing.fingerprint import Fingerprint
from wary_hound.healing.likeness import FEATURES, Floats
from wary_hound.healing.said import lasting_classes, plainly
from wary_hound.page import Element, Page
from wary_hound.page.cache import Cache
from wary_hound.robustness.data import is_amount
from wary_hound.robustness.tabular import Tabular

_OWN = [FEATURES.index(name) for name in "id name-attribute href value test-attribute text name label icon".split()]
_TERMS = FEATURES.index("terms")
_ROW = [FEATURES.index(name) for name in ("row", "identity")]
_BESIDE = [FEATURES.index(name) for name in ("before", "after")]
_NAMING = [FEATURES.index(name) for name in "id name-attribute href value test-attribute label".split()]
AGREES = 0.6
LONGEST_KEY = 60
"""A row is known by no more letters."""

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
    its row; and there are more or fewer of its kind, and not both of what stood beside it do. Without the old page also where
    there are as many, and no word means the same: nothing says whether the other one had been there."""
    agrees = np.nan_to_num(features[: len(FEATURES)]) >= AGREES
    if agrees[_OWN].any() or agrees[_ROW].any():
        return False
    was = old.crowd if isinstance(old, Fingerprint) else Crowds.of(old.page).like(old.index)
    now, classes = Crowds.of(page), old.attributes.get("class", "")
    if was == 0 or _kind(old.tag, old.role, classes) != now.kind(at):
        return False
    if isinstance(old, Fingerprint) and was > 1 and not agrees[_TERMS]:
        return True
    return was != now.like(at) and not agrees[_BESIDE].all()


def known_as(old: Element | Fingerprint) -> str:
    """What the row of a table is known by that an element stood in."""
    return Tabular.of(old.page).known_as(old.index) if isinstance(old, Element) else old.of_row


def is_of_another_row(old: Element | Fingerprint, page: Page, at: int, features: Floats) -> bool:
    """Whether what was in the row of one thing (*Vega*) is in that of another now (*Mars*), and has no name or address of its own
    that says that it is the same: the row is another one, whatever else it has in common with the one that was."""
    was = known_as(old)
    now = known_as(page[at]) if was else ""
    if not now or max(len(was), len(now)) > LONGEST_KEY or is_amount(was) or is_amount(now):
        return False
    named = (np.nan_to_num(features[: len(FEATURES)]) >= AGREES)[_NAMING].any()
    return not named and fuzz.token_set_ratio(plainly(was), plainly(now)) < 100 * AGREES
