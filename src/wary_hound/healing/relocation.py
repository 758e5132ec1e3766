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
from wary_hound.healing.fingerprint import Fingerprint, context_of, fingerprint
from wary_hound.page import Element, Page

Floats = npt.NDArray[np.float64]
Outcome = Literal["same", "moved", "unsure", "gone"]

SURE = 0.75
"""Confidence from which an element is named: a wrong one costs about three times what an open question does."""
GONE = 0.4
"""Confidence below which it is called gone; between the two the verdict is unsure."""
MOST_ALTERNATIVES = 3

TRUST = ("text-equal", "name-equal", "id", "tag", "role", "before", "after", "row", "href", "value", "classes")
"""Similarities of the best element that tell, besides its score, whether it is the one."""
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
        missing = np.isnan(table)
        found: Floats = np.where(missing, 0.0, table) @ self.known + missing @ self.unknown
        return found


@lru_cache(maxsize=1)
def shipped_weights() -> Weights:
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


def relocate_all(
    elements: Sequence[Element | Fingerprint], new_page: Page, weights: Weights | None = None
) -> list[Verdict]:
    """Verdicts on several elements of one old page, in their order; no two name the same element."""
    if not elements:
        return []
    weights = weights or shipped_weights()
    prints = [fingerprint(e) if isinstance(e, Element) else e for e in elements]
    among = list(range(len(new_page)))
    tables = [evidence(p, new_page, among) for p in prints]
    scores = np.vstack([weights.scores(table) for table in tables])
    rows, columns = linear_sum_assignment(-scores[:, : len(new_page)])
    chosen = dict(zip(rows.tolist(), columns.tolist(), strict=True))
    free = np.vstack([_without(scores[k], chosen, k) for k in range(len(prints))])
    perfects = [float(weights.scores(perfect(p)[None, :])[0]) for p in prints]
    deficits = [perfects[k] - float(scores[k, chosen[k]]) if k in chosen else WORST for k in range(len(prints))]
    return [
        _verdict(new_page, prints[k], chosen.get(k, -1), free[k], tables[k], deficits, k, weights)
        for k in range(len(prints))
    ]


def _without(scores: Floats, chosen: dict[int, int], k: int) -> Floats:
    """Scores with what others have claimed put far back."""
    found = scores.copy()
    found[[i for at, i in chosen.items() if at != k]] -= 4.0
    return found


def mean_of_others(deficits: Sequence[float], k: int) -> float:
    """The mean deficit of the others that were asked for; the element's own, halved, where it is the only one."""
    others = [min(WORST, d) for at, d in enumerate(deficits) if at != k]
    return float(np.mean(others)) if others else min(WORST, deficits[k]) / 2


def margin_of(page: Page, scores: Floats, best: int) -> float:
    """How far the best is above the next that neither holds it nor is in it: wrappers share its text."""
    related = np.zeros(len(page), np.bool_)
    related[best : page.end[best]] = True
    at = best
    while at >= 0:
        related[at] = True
        at = int(page.parent[at])
    rivals = scores[~related]
    return float(scores[best] - rivals.max()) if len(rivals) else WORST


def confidence_of(row: Floats, weights: Weights) -> float:
    return float(1 / (1 + np.exp(-np.clip(row @ weights.trust, -30, 30))))


def _verdict(
    page: Page,
    old: Fingerprint,
    at: int,
    scores: Floats,
    table: Floats,
    deficits: Sequence[float],
    k: int,
    weights: Weights,
) -> Verdict:
    if at < 0:
        return Verdict("gone", None, 1.0, (), ("other elements of the page are surely the others that were asked for",))
    row = trust_row(deficits[k], margin_of(page, scores, at), mean_of_others(deficits, k), table[at])
    sure = confidence_of(row, weights)
    chances = np.exp(scores - scores.max())
    chances *= max(sure, 1 - sure) / chances.sum() if sure < 0.5 else 1 / chances.sum()
    order = [i for i in np.argsort(-scores)[: MOST_ALTERNATIVES + 1].tolist() if i != at]
    alternatives = tuple((page[i], float(chances[i])) for i in order if chances[i] >= 0.01)[:MOST_ALTERNATIVES]
    outcome: Outcome
    if sure >= SURE:
        outcome = "same" if _same_place(old, page, at) else "moved"
    else:
        outcome = "gone" if sure <= GONE else "unsure"
    why = _reasons(old, page, at, table, outcome)
    if outcome == "gone":
        return Verdict("gone", None, 1 - sure, ((page[at], sure), *alternatives)[:MOST_ALTERNATIVES], why)
    return Verdict(outcome, page[at], sure, alternatives, why)


def _same_place(old: Fingerprint, page: Page, at: int) -> bool:
    """Under the same ancestors, as the same tag, with the same id."""
    return (
        page.tags[at] == old.tag
        and context_of(page).trail(at) == old.trail
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
