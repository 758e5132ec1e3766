"""Boosted trees as plain arrays: what scikit-learn fitted, evaluated with NumPy alone.

A row is not led down each tree: of each feature it is looked up which leaves of all trees its value leaves open, and the first
leaf that all features leave open is the one (QuickScorer, Lucchese et al. 2015).
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]
Leaves = npt.NDArray[np.unsignedinteger[Any]]
"""Sets of the leaves of one tree, as bits."""
MOST_LEAVES = 64
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

    def logits(self, table: npt.NDArray[np.float32]) -> Floats:
        """The logit of each row, shape (rows)."""
        total = np.full(len(table), self.start)
        trees = np.arange(len(self.roots))
        values = self._leaves
        for begin in range(0, len(table), MOST_ROWS):
            part = table[begin : begin + MOST_ROWS]
            left_open: Leaves | None = None
            for feature, thresholds, leaves in self._left_open:
                said = part[:, feature]
                place = np.searchsorted(thresholds, said)
                place[np.isnan(said)] = len(thresholds) + 1
                left_open = leaves[place] if left_open is None else np.bitwise_and(left_open, leaves[place], out=left_open)
            if left_open is None:
                total[begin : begin + MOST_ROWS] += values[:, 0].sum()
                continue
            first = np.log2(left_open & (~left_open + 1)).astype(np.int64)  # the lowest bit
            total[begin : begin + MOST_ROWS] += values[trees, first].sum(axis=1)
        return total

    @cached_property
    def _below(self) -> list[list[tuple[int, list[int]]]]:
        """Of each tree its nodes, with the leaves below each, in order from the left."""

        def walk(node: int, found: list[tuple[int, list[int]]]) -> list[int]:
            leaf = self.left[node] == node
            below = [node] if leaf else walk(int(self.left[node]), found) + walk(int(self.right[node]), found)
            found.append((node, below))
            return below

        trees: list[list[tuple[int, list[int]]]] = [[] for _ in self.roots]
        for root, found in zip(self.roots.tolist(), trees, strict=True):
            if len(walk(root, found)) > MOST_LEAVES:
                raise ValueError(f"a tree has more than {MOST_LEAVES} leaves")
        return trees

    @cached_property
    def _leaves(self) -> Floats:
        """The values of the leaves of each tree, from the left; shape (trees, most leaves)."""
        values = np.zeros((len(self.roots), max(len(nodes[-1][1]) for nodes in self._below)))
        for tree, nodes in enumerate(self._below):
            whole = nodes[-1][1]
            values[tree, : len(whole)] = self.value[whole]
        return values

    @cached_property
    def _left_open(self) -> list[tuple[int, Floats, Leaves]]:
        """Of each feature that is asked for: its thresholds, rising, and the leaves of each tree that are left open by a value at
        each place among them, and last by one that is not known; shape (thresholds + 2, trees)."""
        most = self._leaves.shape[1]
        kind = np.dtype(np.uint16 if most <= 16 else np.uint32 if most <= 32 else np.uint64)
        asked: dict[int, list[tuple[float, int, int, bool]]] = {}
        for tree, nodes in enumerate(self._below):
            place = {leaf: 1 << k for k, leaf in enumerate(nodes[-1][1])}
            below = dict(nodes)
            for node in below:
                left = int(self.left[node])
                if left == node:
                    continue
                closed = sum(place[leaf] for leaf in below[left])
                entry = (float(self.threshold[node]), tree, closed, bool(self.unknown_left[node]))
                asked.setdefault(int(self.feature[node]), []).append(entry)
        every = (1 << 8 * kind.itemsize) - 1
        found = []
        for feature, entries in sorted(asked.items()):
            thresholds = np.unique([threshold for threshold, *_ in entries])
            leaves = np.full((len(thresholds) + 2, len(self.roots)), every, kind)
            for threshold, tree, closed, unknown_left in entries:
                keep = kind.type(every - closed)
                leaves[int(np.searchsorted(thresholds, threshold)) + 1 : -1, tree] &= keep  # what is above it goes right
                if not unknown_left:
                    leaves[-1, tree] &= keep
            found.append((feature, thresholds, leaves))
        return found

    def to_json(self) -> dict[str, Any]:
        """Plain lists, numbers rounded to what matters."""
        return {
            "start": round(self.start, 5),
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
        )
