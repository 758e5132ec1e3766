"""Relocation: where remembered elements are on a later page, how sure that is, and whether they are gone.

The old page and the new one are aligned as wholes (`alignment`), candidates are judged on all the evidence (`judge`), and the
verdict follows from the chance and from what a wrong one costs. Of elements that are merely remembered, without their page, the
same is asked with what is remembered alone.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import numpy as np

from wary_hound.healing.alignment import Aligning
from wary_hound.healing.context import Context
from wary_hound.healing.crowd import is_of_another_row, is_shifted, known_as
from wary_hound.healing.fingerprint import Fingerprint
from wary_hound.healing.judge import EITHER, GONE, SURE, Evidence, contradicted, gather, shipped
from wary_hound.healing.likeness import FEATURES, Floats
from wary_hound.healing.said import plainly
from wary_hound.healing.sheet import Sheet
from wary_hound.healing.witnesses import Known, votes
from wary_hound.locator.values import Locator
from wary_hound.page import Element, Page
from wary_hound.page.cache import Bounded, Cache
from wary_hound.robustness.model import AS_SHIPPED, ChangeModel

Outcome = Literal["same", "moved", "unsure", "gone"]
Ways = Sequence[Locator | str]

SETTLED = 0.98
"""Elements that are so sure by the alignment are not looked for on the whole page, and no witnesses are asked for."""
MOST_ALTERNATIVES = 3
LEAST_ALTERNATIVE = 0.01


@dataclass(frozen=True, slots=True)
class Verdict:
    """Where an element is on a new page. `element` is None when it is gone; when unsure it is the best guess."""

    outcome: Outcome
    element: Element | None
    confidence: float
    """Probability of the outcome: that this element is the one, or that it is gone; of the best guess when unsure."""
    alternatives: tuple[tuple[Element, float], ...]
    """Other elements that could be it, with their probabilities, best first."""
    reasons: tuple[str, ...]


def relocate(element: Element | Fingerprint, new_page: Page, ways: Ways = (), model: ChangeModel | None = None) -> Verdict:
    """The verdict on one element (or on what a book remembers of it). `ways`: other ways to say it that are known (witnesses);
    where there are none, and it is not surely found without, its own page is asked for some. `model`: one of your own, which says
    how sure to be on your pages. Ask for many at once with `relocate_all`."""
    return relocate_all([element], new_page, [ways], model)[0]


def relocate_all(
    elements: Sequence[Element | Fingerprint],
    new_page: Page,
    ways: Sequence[Ways] | None = None,
    model: ChangeModel | None = None,
) -> list[Verdict]:
    """Verdicts on several elements, in their order; of those of one old page, no two name the same element, unless they were one in
    the other and are one now. `ways`: for each the other ways to say it that are known; those that a fingerprint holds are heard
    anyway. `model`: as of `relocate`."""
    known = [(*(e.witnesses if isinstance(e, Fingerprint) else ()), *(ways[k] if ways else ())) for k, e in enumerate(elements)]
    pages = list(dict.fromkeys(e.page for e in elements if isinstance(e, Element)))
    found: dict[int, Verdict] = {}
    for page in [*pages, None]:
        numbers = [k for k, e in enumerate(elements) if (e.page if isinstance(e, Element) else None) == page]
        if numbers:
            verdicts = Pursuit([elements[k] for k in numbers], new_page, [known[k] for k in numbers], model).verdicts()
            found.update(zip(numbers, verdicts, strict=True))
    return [found[k] for k in range(len(elements))]


class Aligned(Cache):
    """The alignments of a page with the old pages that were asked for last."""

    def __init__(self, page: Page) -> None:
        super().__init__(page)
        self._kept: Bounded[Page, Aligning] = Bounded(3)

    def from_page(self, old: Page) -> Aligning:
        """The alignment with an old page, all rounds done."""
        aligned = self._kept.get(old)
        if aligned is None:
            judge = shipped()[0]
            aligned = self._kept[old] = Aligning(old, self.page, judge.first, judge.later)
            aligned.run()
        return aligned


class Pursuit:
    """The pursuit of several elements of one old page, or of several that are merely remembered: evidence is gathered once."""

    def __init__(
        self,
        elements: Sequence[Element | Fingerprint],
        new_page: Page,
        ways: Sequence[Ways] | None = None,
        model: ChangeModel | None = None,
    ) -> None:
        self.page = new_page
        self.elements = elements
        at_hand, from_memory = model.judging if model is not None else AS_SHIPPED
        said = [votes(w, new_page) for w in ways] if ways else []
        old = next((e.page for e in elements if isinstance(e, Element)), None)
        if old is None:
            self.judge, self.own = shipped()[1], from_memory
            remembered = [e for e in elements if isinstance(e, Fingerprint)]
            self.aligning = Aligning(remembered, new_page, self.judge.first, self.judge.later)
            self.aligning.run()
            self.numbers = list(range(len(elements)))
        else:
            self.judge, self.own = shipped()[0], at_hand
            self.numbers = [e.index for e in elements if isinstance(e, Element)]
            self.aligning = Aligned.of(new_page).from_page(old)
        self.votes = dict(zip(self.numbers, said, strict=False))
        open_ = self._open(self.numbers)
        if open_:
            self.aligning = self.aligning.looking_everywhere(np.unique(open_))
            if old is not None:
                for number in self._open([k for k in open_ if not self.votes.get(k)]):
                    self.votes[number] = votes(Known.of(old).of_element(number), new_page)

    def _open(self, numbers: Sequence[int]) -> list[int]:
        """Those whose new element is not settled."""
        return [number for number, found in self._judged(numbers).items() if not len(found.chance) or found.chance.max() < SETTLED]

    @cached_property
    def _all(self) -> tuple[dict[int, _Candidates], dict[int, int]]:
        """The candidates of all elements asked for, and which of these has each new element."""
        judged = self._judged(self.numbers)
        return judged, self._claims(judged)

    def verdicts(self) -> list[Verdict]:
        """The verdict on each element, in their order."""
        return [self._verdict(k, *self._all) for k in range(len(self.elements))]

    def verdict_without(self, k: int, removed: slice) -> Verdict:
        """The verdict on the element of a number, had an interval of the page not been there: to judge "gone" by."""
        number = self.numbers[k]
        others = {b: n for b, n in self._all[1].items() if n != number}
        return self._verdict(k, self._judged([number], removed), others)

    def _judged(self, numbers: Sequence[int], barred: slice | None = None) -> dict[int, _Candidates]:
        """The candidates of some old elements, with their chances."""
        found = gather(self.aligning, np.unique(numbers), barred, self.votes)
        chance = self.judge.probabilities(found, self.own)
        lifted = found.sole & (chance == self.judge.sole)
        return {number: _Candidates.of(number, found, chance, lifted) for number in set(numbers)}

    @staticmethod
    def _claims(judged: dict[int, _Candidates]) -> dict[int, int]:
        """Which old element has each new one, the surest first: no two the same."""
        taken: dict[int, int] = {}
        claims = [(float(p), n, int(b)) for n, c in judged.items() for p, b in zip(c.chance, c.b, strict=True)]
        served: set[int] = set()
        for _, number, b in sorted(claims, reverse=True):
            if number not in served and b not in taken:
                taken[b] = number
                served.add(number)
        return taken

    def _verdict(self, k: int, judged: dict[int, _Candidates], taken: dict[int, int]) -> Verdict:
        page, number = self.page, self.numbers[k]
        mine = judged[number]
        free = [
            row
            for row, b in enumerate(mine.b.tolist())
            if (holder := taken.get(b, number)) == number or (mine.lifted[row] and self._is_nested(number, holder))
        ]
        if not free:
            nothing = "nothing on the page is like it" if not len(mine.b) else "what is like it is another that was asked for"
            return Verdict("gone", None, 1.0, (), (nothing,))
        best = max(free, key=lambda row: float(mine.chance[row]))
        sure, at, row = float(mine.chance[best]), int(mine.b[best]), mine.table[best]
        if not _anything_telling(row):
            sure = min(sure, GONE)
        shifted = is_shifted(self.elements[k], page, at, row)
        moved_in = is_of_another_row(self.elements[k], page, at, row)
        if sure > EITHER and (mine.parted[best] or mine.contradicted or shifted or moved_in):
            sure = EITHER
        outcome: Outcome = "unsure"
        if sure >= SURE:
            outcome = "same" if self._same_place(k, at) else "moved"
        elif sure <= GONE:
            outcome = "gone"
        others = sorted((r for r in free if r != best), key=lambda r: -float(mine.chance[r]))
        alternatives = tuple((page[int(mine.b[r])], min(float(mine.chance[r]), 1 - sure)) for r in others)
        alternatives = tuple(entry for entry in alternatives if entry[1] >= LEAST_ALTERNATIVE)[:MOST_ALTERNATIVES]
        doubt = ""
        if outcome == "unsure" and mine.parted[best]:
            doubt = "a control in it says the same now: either could be meant"
        elif outcome == "unsure" and mine.contradicted:
            doubt = "another one alone is called so, or says so: either could be meant"
        elif outcome == "unsure" and moved_in:
            was, now = known_as(self.elements[k]), known_as(page[at])
            doubt = f"its row was that of{_quoted(was)}, and is that of{_quoted(now)} now"
        elif outcome == "unsure" and shifted:
            doubt = "nothing that it says itself is the same: it could be another one of its kind"
        why = (
            *([doubt] if doubt else []),
            *([_alone_in(self.elements[k], page, at)] if mine.lifted[best] and outcome != "gone" else []),
            *_reasons(page, at, row, outcome),
        )
        if outcome == "gone":
            return Verdict("gone", None, 1 - sure, ((page[at], sure), *alternatives)[:MOST_ALTERNATIVES], why)
        return Verdict(outcome, page[at], sure, alternatives, why)

    def _is_nested(self, number: int, other: int) -> bool:
        """Whether one of two old elements is in the other."""
        old = self.aligning.old
        return old is not None and old.nested(number, other)

    def _same_place(self, k: int, at: int) -> bool:
        """Under the same ancestors, as the same tag, with the same id."""
        old, page = self.elements[k], self.page
        if isinstance(old, Element):
            tag, trail, own = old.tag, Context.of(old.page).trail(old.index), old.attributes.get("id", "")
        else:
            tag, trail, own = old.tag, old.trail, old.attributes.get("id", "")
        return page.tags[at] == tag and Context.of(page).trail(at) == trail and (page.attribute(at, "id") or "") == own


@dataclass(frozen=True)
class _Candidates:
    """The candidates of one element, with what the judge says of each."""

    b: np.ndarray[tuple[int], np.dtype[np.int64]]
    table: Floats
    chance: np.ndarray[tuple[int], np.dtype[np.float64]]
    lifted: np.ndarray[tuple[int], np.dtype[np.bool_]]
    """Which are believed for being alone in what they are called or say: the trees by themselves were less sure."""
    parted: np.ndarray[tuple[int], np.dtype[np.bool_]]
    contradicted: bool
    """Whether the trees are sure of one, and another is alone in what it is called or says."""

    @classmethod
    def of(
        cls,
        number: int,
        found: Evidence,
        chance: np.ndarray[tuple[int], np.dtype[np.float64]],
        lifted: np.ndarray[tuple[int], np.dtype[np.bool_]],
    ) -> _Candidates:
        rows = np.flatnonzero(found.a == number)
        disputed = contradicted(chance[rows], found.sole[rows], found.a[rows])
        return cls(found.b[rows], found.table[rows], chance[rows], lifted[rows], found.parted[rows], bool(disputed.any()))


TELLING = (
    "id", "numbered-id", "name-attribute", "numbered-name", "href", "value", "test-attribute", "other-attributes", "text", "name",
    "label", "before", "after", "row", "heading", "classes", "icon", "inside", "previous", "next",
)  # fmt: skip
ALIKE = 0.6
_TELLING = [FEATURES.index(name) for name in TELLING]


def _anything_telling(row: Floats) -> bool:
    """Whether anything but kind and position agrees: on a page where all is other, the best of a bad lot is not the one."""
    return bool(np.nanmax(np.append(row[_TELLING], 0.0)) >= ALIKE)


_SAID = {
    "id": "id", "numbered-id": "id", "name-attribute": "name attribute", "numbered-name": "name attribute", "href": "link target",
    "text": "text", "name": "accessible name", "label": "label", "icon": "icon", "role": "role", "tag": "tag",
    "classes": "classes", "column": "column", "identity": "row", "heading": "heading above", "before": "text before it",
    "after": "text after it", "trail": "ancestors", "other-attributes": "other attributes", "test-attribute": "data attributes",
    "value": "value", "type": "type",
}  # fmt: skip


def _reasons(page: Page, at: int, row: Floats, outcome: str) -> tuple[str, ...]:
    """What agrees and what differs between the element and the one named, in words."""
    alike = dict(zip(FEATURES, row[: len(FEATURES)].tolist(), strict=True))
    same = [*dict.fromkeys(said for key, said in _SAID.items() if alike[key] >= 0.999)]
    differs = [*dict.fromkeys(said for key, said in _SAID.items() if alike[key] < 0.75)]
    reasons = []
    if outcome == "gone":
        reasons.append(f"the nearest is <{page.tags[at]}>{_quoted(page.semantics.worded[at])}")
    if same:
        reasons.append(f"same {', '.join(same[:5])}")
    if differs:
        reasons.append(f"other {', '.join(differs[:5])}")
    return tuple(reasons)


def _alone_in(old: Element | Fingerprint, page: Page, at: int) -> str:
    """What an element has in common with the one that was, and with nothing else on either page."""
    sheet = Sheet.of(page)
    kind, _, said = sheet.column("sole")[at].partition(" ")
    name, text = page.semantics.name(at), page.semantics.worded[at]
    if said and said in (plainly(old.name), plainly(old.text)):
        told = f"is called{_quoted(name or text)}" if kind == "called" else f"says{_quoted(text)}"
        return f"nothing else on either page {told}"
    if sheet.column("sole-name")[at] == f"{old.role} {plainly(old.name)}":
        return f"no other {old.role} on either page is called{_quoted(name)}"
    if sheet.column("sole-label")[at] == f"{old.role} {plainly(old.label)}":
        return f"no other {old.role} on either page is labelled{_quoted(page.semantics.label(at))}"
    if sheet.column("sole-text")[at] == f"{old.tag} {plainly(old.text)}":
        return f"no other <{old.tag}> on either page says{_quoted(text)}"
    own = sheet.column("sole-own")[at]
    if own and isinstance(old, Element) and own == Sheet.of(old.page).column("sole-own")[old.index]:
        return f"no other <{old.tag}> on either page itself says{_quoted(page.semantics.own_text[at])}"
    return f"nothing else on either page leads to{_quoted(page.attribute(at, 'href') or '')}"


def _quoted(text: str) -> str:
    return f' "{text[:40]}"' if text else ""


__all__ = ["GONE", "SURE", "Pursuit", "Verdict", "relocate", "relocate_all"]
