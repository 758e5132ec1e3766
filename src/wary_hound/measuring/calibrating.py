"""Calibration of forecasts by what came true on applications that nothing was learnt from (Platt scaling).

Survival simulated from rates is too sure of itself: rates are means over applications, and the best candidate is chosen by
them. So each application's pages are ranked by a model learnt without it, each proposal is tried on all later versions, and a
logistic curve of two numbers is fitted from what was said to what came (Platt 1999), an application by the root of its pairs.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from concurrent.futures import Executor
from dataclasses import dataclass, replace
from zlib import crc32

import numpy as np
from scipy.special import logit

from wary_hound.authoring.question import Question
from wary_hound.authoring.ranking import assess, rank
from wary_hound.locator.evaluate import match
from wary_hound.measuring.history import PageHistory, labelled, outcome
from wary_hound.robustness.curve import fit_curve
from wary_hound.robustness.model import AS_SIMULATED, UNCALIBRATED, ChangeModel, Curve
from wary_hound.robustness.survival import HORIZON

FATES = ("alive", "stolen", "ambiguous")
"""What is calibrated; the rest is lost."""
EVERY = 5
"""One labelled element in so many is asked."""
PRIOR = 0.05
"""Precision of the prior that the simulation is right as it stands."""


@dataclass(frozen=True, slots=True)
class Said:
    """The shares that were simulated for a proposal, by fate, and what came of it: alive, lost, stolen or ambiguous."""

    application: str
    shares: Mapping[str, float]
    fate: str


def said_and_come(history: PageHistory, model: ChangeModel, every: int = EVERY) -> list[Said]:
    """What was said of the first proposal and the first plain one of labelled elements, and what came, over all later versions."""
    pages, wanted = labelled(history)
    question = Question(replace(model, calibration=UNCALIBRATED, failing=AS_SIMULATED))
    pairs = []
    for old, page in enumerate(pages):
        for label, index in wanted[old].items():
            if index is None or crc32(label.encode()) % every:
                continue
            later = [(new, wanted[new].get(label)) for new in range(old + 1, len(pages))]
            ranked = rank(page[index], question)
            proposals = {c.locator for c in (*ranked[:1], *[c for c in ranked if c.locator.otherwise is None][:1])}
            for locator in sorted(proposals, key=str):
                told = assess(locator, page[index], replace(question, use=False)).outlook
                for new, now in later:
                    if now is not None:
                        at = min(new - old, HORIZON) - 1
                        shares = {fate: getattr(told, fate)[at] for fate in FATES}
                        pairs.append(Said(history.application, shares, outcome(match(pages[new], locator), now)))
    return pairs


def calibrated(model: ChangeModel, rows: Sequence[Said]) -> ChangeModel:
    """A model that says what came where it said so."""
    alive, stolen, ambiguous = (fitted(rows, fate) for fate in FATES)
    return replace(model, calibration=alive, failing=(stolen, ambiguous))


def fitted(rows: Sequence[Said], fate: str = "alive") -> Curve:
    """Intercept and slope, in logits, from what was said of a fate to what came."""
    if not rows:
        return UNCALIBRATED
    counts = Counter(row.application for row in rows)
    weight = np.asarray([counts[row.application] ** -0.5 for row in rows])
    weight *= len(counts) / weight.sum()
    simulated = logit(np.clip([row.shares[fate] for row in rows], 1e-3, 1 - 1e-3))
    intercept, slope = fit_curve(simulated, np.asarray([row.fate == fate for row in rows]), weight, PRIOR)
    return intercept, max(0.1, slope)


def calibrations(histories: Sequence[PageHistory], models: Mapping[str, ChangeModel], executor: Executor) -> list[Said]:
    """What was said and came in each application, by the model learnt without it (`models`)."""
    return [
        row
        for rows in executor.map(said_and_come, histories, [models[history.application] for history in histories])
        for row in rows
    ]
