"""What one gets and gives for a candidate beside the first one, in a line of words."""

from __future__ import annotations

from wary_hound.authoring.ranking import Candidate
from wary_hound.authoring.taste import WEIGHTS
from wary_hound.authoring.weakness import TELLING

ALIKE = 0.01
"""Survivals this near are the same to a reader."""
STOLEN_MORE = 0.003
_SAID = {
    "test-attribute": "a test attribute", "id": "an id", "name": "a name attribute", "label": "a label", "for": "a label's for",
    "accessible-name": "an accessible name", "aria-label": "an aria-label", "data": "a data attribute", "text": "a text",
    "placeholder": "a placeholder", "content": "a text", "alt": "an alternative text", "title": "a title", "href": "a link target",
    "value": "a value", "src": "an image's address", "reference": "a reference", "aria": "an ARIA attribute",
    "attribute": "an attribute",
}  # fmt: skip


def tradeoff(candidate: Candidate, first: Candidate) -> str:
    """How a candidate stands to the first: how much longer or shorter it lasts, how often it is stolen, what it rests on instead,
    and how long it is to read."""
    parts = [_lasting(candidate.survival - first.survival)]
    stolen = candidate.stolen - first.stolen
    if abs(stolen) > STOLEN_MORE:
        parts.append(f"{'more' if stolen > 0 else 'less'} often stolen")
    mine, theirs = rests_on(candidate), rests_on(first)
    if mine != theirs:
        parts.append(f"rests on {mine or 'no name of its own'} instead of {theirs or 'none'}")
    ratio = len(str(candidate.locator)) / len(str(first.locator))
    if ratio < 0.75 or ratio > 1.35:
        parts.append("shorter" if ratio < 1 else "longer")
    return ", ".join(parts)


def _lasting(more: float) -> str:
    if abs(more) < ALIKE:
        return "lasts as long as the first"
    points = max(1, round(100 * abs(more)))
    return f"lasts {points} point{'' if points == 1 else 's'} {'more' if more > 0 else 'less'} than the first"


def rests_on(candidate: Candidate) -> str:
    """What tells the element, the best that engineers like first, in words; empty where nothing does."""
    kinds = {fact.base for fact, _ in candidate.outlook.hazards} & TELLING
    best = min(kinds, key=lambda kind: (WEIGHTS.get(kind, 2.0), kind), default="")
    return _SAID.get(best, "")
