"""Boosted trees as plain arrays: what scikit-learn fitted, evaluated with NumPy alone."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]
MOST_ROWS = 2_000
"""So many rows go through all trees at once: it bounds the memory."""


@dataclass(frozen=True)
class Forest:
    """Regression trees whose values add up to a logit (Friedman 2001). One entry a node in each array; `roots` are the nodes at
    which the trees begin; a leaf is its own child. What is not known (NaN) goes the way that `unknown_left` says."""

    start: float
    roots: npt.NDArray[np.int32]
    feature: npt.NDArray[np.int32]
    threshold: Floats
    left: npt.NDArray[np.int32]
    right: npt.NDArray[np.int32]
    unknown_left: npt.NDArray[np.bool_]
    value: Floats
    deepest: int

    def logits(self, table: npt.NDArray[np.float32]) -> Floats:
        """The logit of each row, shape (rows)."""
        total = np.full(len(table), self.start)
        for begin in range(0, len(table), MOST_ROWS):
            part = table[begin : begin + MOST_ROWS]
            rows = np.arange(len(part))[:, None]
            at = np.broadcast_to(self.roots, (len(part), len(self.roots)))  # of each row the node in each tree
            for _ in range(self.deepest):
                said = part[rows, self.feature[at]]
                goes_left = np.where(np.isnan(said), self.unknown_left[at], said <= self.threshold[at])
                at = np.where(goes_left, self.left[at], self.right[at])
            total[begin : begin + MOST_ROWS] += self.value[at].sum(axis=1)
        return total

    def to_json(self) -> dict[str, Any]:
        """Plain lists, numbers rounded to what matters."""
        return {
            "start": round(self.start, 5),
            "deepest": self.deepest,
            "roots": self.roots.tolist(),
            "feature": self.feature.tolist(),
            "threshold": [float(f"{v:.5g}") for v in self.threshold.tolist()],
            "left": self.left.tolist(),
            "right": self.right.tolist(),
            "unknown_left": self.unknown_left.astype(int).tolist(),
            "value": [float(f"{v:.4g}") for v in self.value.tolist()],
        }

    @classmethod
    def from_json(cls, data: Mapping[str, Any]) -> Forest:
        """The inverse of `to_json`."""
        return cls(
            float(data["start"]),
            np.asarray(data["roots"], np.int32),
            np.asarray(data["feature"], np.int32),
            np.asarray(data["threshold"], np.float64),
            np.asarray(data["left"], np.int32),
            np.asarray(data["right"], np.int32),
            np.asarray(data["unknown_left"], np.bool_),
            np.asarray(data["value"], np.float64),
            int(data["deepest"]),
        )
