"""Relocation: where remembered elements are on a later page, how sure that is, and whether they are gone.

Elements of the new page compete by score, a weighted sum of similarities (a conditional logit, McFadden 1974), for all
elements asked for at once (linear assignment, Jonker and Volgenant 1987), so that two never claim one. Whether the winner
is the one at all is then a logistic regression on how much it has changed, by how much it won, and how much else on the
page has changed; its probability is the confidence. weights.json says what both were fitted on.
"""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from importlib import resources
from typing import Literal

import numpy as np
import numpy.typing as npt
from scipy.optimize import linear_sum_assignment

from wary_hound.healing.evidence import FEATURES, evidence, perfect
from wary_hound.healing.fingerprint import Context, Fingerprint, fingerprint
from wary_hound.page import Element, Page

Floats = npt.NDArray[np.float64]
Outcome = Literal["same", "moved", "unsure", "gone"]

SURE = 0.75
"""Confidence from which an element is named: a wrong one costs about three times what an open question does."""
GONE = 0.3
"""Confidence below which it is called gone; between the two the verdict is unsure."""
MOST_ALTERNATIVES = 3

TRUST = ("text-equal", "name-equal", "id", "tag", "role", "before", "after", "row", "href", "value", "classes")
"""Similarities of the best element that tell, besides its score, whether it is the one."""
CLAIMED = 4.0
"""By how much an element that another one has claimed falls back."""
WORST = 12.0
"""Deficits and margins are cut here: beyond it they say no more."""


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


@dataclass(frozen=True)
class Weights:
    """`known` weighs a similarity, `unknown` is added where it cannot be told: that gives the scores by which elements
    compete. `trust` weighs what says whether the best of them is the one at all (see `trust_row`)."""

    known: Floats
    unknown: Floats
    trust: Floats

    def scores(self, table: Floats) -> Floats:
        """The score of each row of evidence, shape (elements)."""
        missing = np.isnan(table)
        found: Floats = np.where(missing, 0.0, table) @ self.known + missing @ self.unknown
        return found


@lru_cache(maxsize=1)
def shipped_weights() -> Weights:
    """The weights that ship with the package (`weights.json`, which says what they were fitted on)."""
    path = resources.files("wary_hound.healing") / "weights.json"
    data = json.loads(path.read_text(encoding="utf-8"))
    known = np.asarray([data["known"][f] for f in FEATURES])
    unknown = np.asarray([data["unknown"][f] for f in FEATURES])
    return Weights(known, unknown, np.asarray(list(data["trust"].values())))


TRUST_NAMES = (
    "constant", "deficit", "margin", "deficit of the page", "deficit beyond the page's", *TRUST,
    *(f"{name} unknown" for name in TRUST),
)  # fmt: skip


def trust_row(deficit: float, margin: float, of_page: float, best: Floats) -> Floats:
    """What says whether the best element is the one.

    `deficit`: how far its score is below that of an unchanged element; `margin`: how far above the next best one's;
    `of_page`: the mean deficit of the others asked for at the same time, since a redesign moves all of them.
    """
    picked = best[[FEATURES.index(name) for name in TRUST]]
    missing = np.isnan(picked)
    deficit, margin = min(WORST, deficit), min(WORST, margin)
    head = [1.0, deficit, margin, of_page, max(0.0, deficit - of_page)]
    return np.concatenate([head, np.where(missing, 0.0, picked), missing])


def relocate(element: Element | Fingerprint, new_page: Page) -> Verdict:
    """The verdict on one element (or on what a book remembers of it). Ask for many at once with `relocate_all`."""
    return relocate_all([element], new_page)[0]


def relocate_all(elements: Sequence[Element | Fingerprint], new_page: Page, weights: Weights | None = None) -> list[Verdict]:
    """Verdicts on several elements of one old page, in their order; no two name the same element."""
    return Pursuit(elements, new_page, weights).verdicts() if elements else []


class Pursuit:
    """The pursuit of several remembered elements on one page: all evidence is gathered once."""

    def __init__(self, elements: Sequence[Element | Fingerprint], new_page: Page, weights: Weights | None = None) -> None:
        self.page = new_page
        self.weights = weights or shipped_weights()
        self.remembered = [fingerprint(e) if isinstance(e, Element) else e for e in elements]
        among = list(range(len(new_page)))
        self.tables = [evidence(p, new_page, among) for p in self.remembered]
        self.scores = np.vstack([self.weights.scores(table) for table in self.tables])
        self.perfects = [float(self.weights.scores(perfect(p)[None, :])[0]) for p in self.remembered]

    def verdicts(self) -> list[Verdict]:
        """The verdict on each remembered element, in their order."""
        chosen, deficits = self._assigned(self.scores)
        return [self._verdict(k, self.scores, chosen, deficits) for k in range(len(self.remembered))]

    def verdict_without(self, k: int, removed: slice) -> Verdict:
        """The verdict on the element of a number, had an interval of the page not been there: to judge "gone" by."""
        scores = self.scores.copy()
        scores[:, removed] = -1e6
        return self._verdict(k, scores, *self._assigned(scores))

    def _assigned(self, scores: Floats) -> tuple[dict[int, int], list[float]]:
        """The element assigned to each remembered one, and how far its score is below that of an unchanged one."""
        rows, columns = linear_sum_assignment(-scores)
        chosen = dict(zip(rows.tolist(), columns.tolist(), strict=True))
        found = [min(WORST, ideal - float(scores[k, chosen[k]])) if k in chosen else WORST for k, ideal in enumerate(self.perfects)]
        return chosen, found

    def _verdict(self, k: int, scores: Floats, chosen: dict[int, int], deficits: Sequence[float]) -> Verdict:
        page, old, table = self.page, self.remembered[k], self.tables[k]
        at = chosen.get(k, -1)
        if at < 0:
            return Verdict("gone", None, 1.0, (), ("all elements of the page are others that were asked for",))
        free = scores[k].copy()
        free[[i for other, i in chosen.items() if other != k]] -= CLAIMED
        row = trust_row(deficits[k], margin_of(page, free, at), mean_of_others(deficits, k), table[at])
        sure = confidence_of(row, self.weights)
        if not _anything_telling(table[at]):
            sure = min(sure, GONE)
        outcome: Outcome
        if sure >= SURE:
            outcome = "same" if _same_place(old, page, at) else "moved"
        else:
            outcome = "gone" if sure <= GONE else "unsure"
        why = _reasons(old, page, at, table, outcome)
        alternatives = _alternatives(page, free, at, sure)
        if outcome == "gone":
            return Verdict("gone", None, 1 - sure, ((page[at], sure), *alternatives)[:MOST_ALTERNATIVES], why)
        return Verdict(outcome, page[at], sure, alternatives, why)


def _alternatives(page: Page, scores: Floats, best: int, sure: float) -> tuple[tuple[Element, float], ...]:
    """The next best elements, with their shares of what the best one leaves of the probability."""
    order = [i for i in np.argsort(-scores)[: MOST_ALTERNATIVES + 1].tolist() if i != best]
    raised = np.exp(scores[order] - scores[best])
    shares = raised / (1 + raised.sum()) if len(order) else raised
    found = [(page[i], float(min(share, 1 - sure))) for i, share in zip(order, shares.tolist(), strict=True)]
    return tuple(entry for entry in found if entry[1] >= 0.01)[:MOST_ALTERNATIVES]


def mean_of_others(deficits: Sequence[float], k: int) -> float:
    """The mean deficit of the others that were asked for; the element's own, halved, where it is the only one."""
    others = [min(WORST, d) for at, d in enumerate(deficits) if at != k]
    return float(np.mean(others)) if others else min(WORST, deficits[k]) / 2


def margin_of(page: Page, scores: Floats, best: int) -> float:
    """How far the best is above the next that neither holds it nor is in it (wrappers share its text); 0 without rivals."""
    related = np.zeros(len(page), np.bool_)
    related[best : page.end[best]] = True
    at = best
    while at >= 0:
        related[at] = True
        at = int(page.parent[at])
    rivals = scores[~related]
    return min(WORST, float(scores[best] - rivals.max())) if len(rivals) else 0.0


def confidence_of(row: Floats, weights: Weights) -> float:
    """The probability that the best element is the one, given its trust row."""
    return float(1 / (1 + np.exp(-np.clip(row @ weights.trust, -30, 30))))


TELLING = (
    "id", "name-attribute", "href", "value", "test-attribute", "other-attributes", "text", "name", "label", "before", "after",
    "row", "heading", "classes",
)  # fmt: skip
ALIKE = 0.6


def _anything_telling(row: Floats) -> bool:
    """Whether anything but kind and position agrees: on a page where all is other, the best of a bad lot is not the one."""
    return bool(np.nanmax([row[FEATURES.index(name)] for name in TELLING] + [0.0]) >= ALIKE)


def _same_place(old: Fingerprint, page: Page, at: int) -> bool:
    """Under the same ancestors, as the same tag, with the same id."""
    return (
        page.tags[at] == old.tag
        and Context.of(page).trail(at) == old.trail
        and (page.attribute(at, "id") or "") == old.attributes.get("id", "")
    )


_SAID = {
    "id": "id", "name-attribute": "name attribute", "href": "link target", "text": "text", "name": "accessible name",
    "label": "label", "role": "role", "tag": "tag", "classes": "classes", "heading": "heading above", "row": "row",
    "before": "text before it", "after": "text after it", "trail": "ancestors", "other-attributes": "other attributes",
    "test-attribute": "data attributes", "value": "value", "type": "type",
}  # fmt: skip


def _reasons(old: Fingerprint, page: Page, at: int, table: Floats, outcome: str) -> tuple[str, ...]:
    """What agrees and what differs between the remembered element and the one named, in words."""
    if at < 0:
        return ("nothing on the page is like it",)
    row = dict(zip(FEATURES, table[at].tolist(), strict=True))
    same = [said for key, said in _SAID.items() if row[key] >= 0.999]
    differs = [said for key, said in _SAID.items() if row[key] < 0.75]
    found = []
    if outcome == "gone":
        found.append(f"the nearest is <{page.tags[at]}>{_quoted(page.semantics.text[at])}")
    if same:
        found.append(f"same {', '.join(same[:5])}")
    if differs:
        found.append(f"other {', '.join(differs[:5])}")
    return tuple(found)


def _quoted(text: str) -> str:
    return f' "{text[:40]}"' if text else ""
