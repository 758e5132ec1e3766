"""Learns the weights of relocation from labelled histories, and writes them as healing/weights.json.

usage: learn_relocation.py FOLDER [--cache FILE] [--write]

First the scores by which elements compete: a conditional logit where, for each labelled element on each pair of versions,
the right choice among the elements of the new page is the one with the same label. Then whether the winner is the one: a
logistic regression on these choices, and on the same with the element and all in it taken out of the new page. Both by
penalised maximum likelihood. Prints how it does on applications that were left out of the learning.
"""

from __future__ import annotations

import argparse
import json
import pickle
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
import numpy.typing as npt
from scipy.optimize import minimize

from wary_hound.healing.evidence import FEATURES, evidence, perfect
from wary_hound.healing.fingerprint import fingerprint
from wary_hound.healing.relocation import GONE, SURE, TRUST_NAMES, WORST, Weights, trust_row
from wary_hound.measuring.history import PageHistory, labelled, read_histories

Floats = npt.NDArray[np.float64]
RIVALS = 24
GONE_COUNTS = 0.15
"""An element taken out on purpose counts this much of a real observation: real ones are seldom gone."""


@dataclass(frozen=True)
class Choice:
    """The right element (first row of `table`, if it is there) and its strongest rivals."""

    application: str
    pair: tuple[str, int, int]
    table: npt.NDArray[np.float32]
    related: npt.NDArray[np.bool_]
    """For each pair of rows, whether one element holds the other."""
    perfect: npt.NDArray[np.float32]
    there: bool
    artificial: bool


_ROUGH = {"tag": 1, "role": 1, "id": 1.5, "text": 3, "name": 2, "label": 1, "classes": 1, "trail": 1, "before": 0.5,
          "heading": 0.5, "row": 1, "href": 1, "place": 1, "name-attribute": 2}  # fmt: skip


def collect(history: PageHistory) -> list[Choice]:
    rough = np.asarray([_ROUGH.get(f, 0.3) for f in FEATURES])
    pages, wanted = labelled(history)
    found = []

    def choice(pair: tuple[int, int], table: Floats, rows: list[int], ideal: Floats, there: bool, artificial: bool) -> Choice:
        page = pages[pair[1]]
        start = np.asarray(rows)
        end = page.end[start]
        holds = (start[:, None] <= start[None, :]) & (start[None, :] < end[:, None])
        return Choice(
            history.application, (history.name, *pair), table[rows].astype(np.float32), holds | holds.T,
            ideal.astype(np.float32), there, artificial,
        )  # fmt: skip

    for pair in history.pairs():
        old, new = pair
        page = pages[new]
        for label, index in wanted[old].items():
            if index is None or label not in wanted[new]:
                continue
            remembered = fingerprint(pages[old][index])
            table = evidence(remembered, page, range(len(page)))
            strength = np.nan_to_num(table, nan=0.0) @ rough
            now = wanted[new][label]
            order = [i for i in np.argsort(-strength).tolist() if i != now]
            ideal = perfect(remembered)
            if now is None:
                found.append(choice(pair, table, order[:RIVALS], ideal, False, False))
                continue
            found.append(choice(pair, table, [now, *order[:RIVALS]], ideal, True, False))
            outside = [i for i in order if not now <= i < page.end[now]][:RIVALS]
            found.append(choice(pair, table, outside, ideal, False, True))
    return found


def balance(choices: Sequence[Choice]) -> Floats:
    """Weights that keep an application with many pairs from outvoting the others."""
    counts: dict[str, int] = {}
    for c in choices:
        counts[c.application] = counts.get(c.application, 0) + 1
    mean = float(np.mean(list(counts.values())))
    return np.asarray([(mean / counts[c.application]) ** 0.5 for c in choices])


def fit_scores(choices: Sequence[Choice]) -> tuple[Floats, Floats]:
    chosen = [c for c in choices if c.there]
    features, count = len(FEATURES), len(chosen)
    design = np.zeros((count, RIVALS + 1, 2 * features), np.float32)
    there = np.zeros((count, RIVALS + 1), np.float32)
    for k, entry in enumerate(chosen):
        missing = np.isnan(entry.table)
        design[k, : len(missing), :features] = np.where(missing, 0, entry.table)
        design[k, : len(missing), features:] = missing
        there[k, : len(missing)] = 1
    weight = balance(chosen)

    def value(theta: Floats) -> tuple[float, Floats]:
        scores = (design @ theta.astype(np.float32) - 1e9 * (1 - there)).astype(np.float64)
        scores -= scores.max(axis=1, keepdims=True)
        raised = np.exp(scores)
        chance = raised / raised.sum(axis=1, keepdims=True)
        loss = -np.sum(weight * np.log(np.maximum(chance[:, 0], 1e-12)))
        error = chance * weight[:, None]
        error[:, 0] -= weight
        gradient = np.einsum("kr,krf->f", error.astype(np.float32), design, optimize=True).astype(np.float64)
        ridge = np.concatenate([np.full(features, 1.0), np.full(features, 3.0)])
        return float(loss + 0.5 * np.sum(ridge * theta**2)), gradient + ridge * theta

    bounds: list[tuple[Any, Any]] = [(0, None)] * features + [(None, None)] * features
    found = minimize(value, np.zeros(2 * features), jac=True, method="L-BFGS-B", bounds=bounds, options={"maxiter": 300}).x
    return found[:features], found[features:]


@dataclass(frozen=True)
class Won:
    """What stage two sees of one choice."""

    row: Floats
    right: bool


def contest(choices: Sequence[Choice], known: Floats, unknown: Floats) -> list[Won]:
    weights = Weights(known, unknown, np.zeros(len(TRUST_NAMES)))
    scores = [weights.scores(c.table.astype(np.float64)) for c in choices]
    ideals = [float(weights.scores(c.perfect.astype(np.float64)[None, :])[0]) for c in choices]
    best = [int(np.argmax(s)) for s in scores]
    deficits = [min(WORST, i - float(s[b])) for i, s, b in zip(ideals, scores, best, strict=True)]
    of_pair: dict[tuple[str, int, int], list[float]] = {}
    for c, deficit in zip(choices, deficits, strict=True):
        if not c.artificial:
            of_pair.setdefault(c.pair, []).append(deficit)
    found = []
    last = 0.0
    for k, c in enumerate(choices):
        rivals = scores[k][~c.related[best[k]]]
        margin = min(WORST, float(scores[k][best[k]] - rivals.max())) if len(rivals) else 0.0
        own = last if c.artificial else deficits[k]
        last = deficits[k]
        entries = of_pair[c.pair]
        of_page = (sum(entries) - own) / (len(entries) - 1) if len(entries) > 1 else deficits[k] / 2
        row = trust_row(deficits[k], margin, of_page, c.table[best[k]].astype(np.float64))
        found.append(Won(row, c.there and best[k] == 0))
    return found


def fit_trust(choices: Sequence[Choice], won: Sequence[Won]) -> Floats:
    design = np.vstack([w.row for w in won])
    right = np.asarray([w.right for w in won], np.float64)
    weight = balance(choices) * np.asarray([GONE_COUNTS if c.artificial else 1.0 for c in choices]) * 0.2
    ridge = np.full(design.shape[1], 0.5)
    ridge[0] = 0.01

    def value(theta: Floats) -> tuple[float, Floats]:
        eta = design @ theta
        loss = np.sum(weight * (np.logaddexp(0, eta) - right * eta)) + 0.5 * np.sum(ridge * theta**2)
        gradient = design.T @ (weight * (1 / (1 + np.exp(-eta)) - right)) + ridge * theta
        return float(loss), gradient

    return np.asarray(minimize(value, np.zeros(design.shape[1]), jac=True, method="L-BFGS-B").x)


def fit(choices: Sequence[Choice]) -> Weights:
    known, unknown = fit_scores(choices)
    return Weights(known, unknown, fit_trust(choices, contest(choices, known, unknown)))


KEYS = ("right", "wrong", "unsure", "called gone", "gone: found gone", "gone: unsure", "gone: wrong")


def judge(choices: Sequence[Choice], weights: Weights) -> tuple[dict[str, int], list[tuple[float, bool]]]:
    counts = dict.fromkeys(KEYS, 0)
    sure = []
    for choice, won in zip(choices, contest(choices, weights.known, weights.unknown), strict=True):
        confidence = float(1 / (1 + np.exp(-won.row @ weights.trust)))
        named, gone = confidence >= SURE, confidence <= GONE
        if not choice.artificial:
            sure.append((confidence, won.right))
        if choice.there:
            key = "called gone" if gone else "unsure" if not named else "right" if won.right else "wrong"
        else:
            key = "gone: found gone" if gone else "gone: unsure" if not named else "gone: wrong"
        counts[key] += 1
    return counts, sure


def said(counts: dict[str, int]) -> str:
    there = sum(counts[k] for k in KEYS[:4])
    gone = sum(counts[k] for k in KEYS[4:])
    return ", ".join(f"{k} {counts[k] / max(1, gone if k.startswith('gone:') else there):.1%}" for k in KEYS)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("folder", type=Path)
    parser.add_argument("--cache", type=Path)
    parser.add_argument("--write", action="store_true")
    options = parser.parse_args()
    if options.cache and options.cache.exists():
        choices = pickle.loads(options.cache.read_bytes())
    else:
        with ProcessPoolExecutor() as pool:
            choices = [c for found in pool.map(collect, read_histories(options.folder)) for c in found]
        if options.cache:
            options.cache.write_bytes(pickle.dumps(choices))
    applications = sorted({c.application for c in choices})
    total = dict.fromkeys(KEYS, 0)
    confident: list[tuple[float, bool]] = []
    for application in applications:
        held = [c for c in choices if c.application == application]
        found, sure = judge(held, fit([c for c in choices if c.application != application]))
        confident += sure
        total = {k: total[k] + found[k] for k in KEYS}
        print(f"left out, {len(held):6} choices: {said(found)}", flush=True)
    print(f"all left out: {said(total)}")
    chances = np.asarray([c for c, _ in confident])
    right = np.asarray([r for _, r in confident])
    for low, high in ((0, 0.2), (0.2, 0.4), (0.4, 0.6), (0.6, 0.8), (0.8, 0.9), (0.9, 0.97), (0.97, 1.01)):
        inside = (chances >= low) & (chances < high)
        if inside.any():
            print(f"  confidence {chances[inside].mean():.2f}: right {right[inside].mean():.1%} of {inside.sum()}")
    weights = fit(choices)
    if options.write:
        data = {
            "source": f"{len(choices):,} choices on pairs of versions of {len(applications)} open-source web interfaces, "
            "fitted by scripts/learn_relocation.py",
            "known": {f: round(float(w), 4) for f, w in zip(FEATURES, weights.known, strict=True)},
            "unknown": {f: round(float(w), 4) for f, w in zip(FEATURES, weights.unknown, strict=True)},
            "trust": {f: round(float(w), 4) for f, w in zip(TRUST_NAMES, weights.trust, strict=True)},
        }
        text = json.dumps(data, indent=1)
        print(text)
        target = Path(__file__).parent.parent / "src" / "wary_hound" / "healing" / "weights.json"
        target.write_text(text + "\n", encoding="utf-8")


if __name__ == "__main__":
    main()
