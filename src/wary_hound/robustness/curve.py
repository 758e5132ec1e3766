"""Logistic curves from what was said to what comes true (Platt 1999)."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
from scipy.optimize import minimize

from wary_hound.robustness.model import UNCALIBRATED, Curve

Floats = npt.NDArray[np.float64]


def fit_curve(said: Floats, true: npt.NDArray[np.bool_], weight: Floats, prior: float) -> Curve:
    """Intercept and slope, in logits, of what was said (logits), whether it came true, and how much each counts. `prior`: the
    precision of the prior that what was said is right as it stands."""
    sign = np.where(true, 1.0, -1.0)

    def loss(values: Floats) -> float:
        intercept, slope = values
        surprise = np.logaddexp(0, -sign * (intercept + slope * said))
        return float(np.sum(weight * surprise) + prior / 2 * (intercept**2 + (slope - 1) ** 2))

    intercept, slope = minimize(loss, np.asarray(UNCALIBRATED)).x
    return float(intercept), float(slope)
