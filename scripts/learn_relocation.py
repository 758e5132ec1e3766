"""Learns the judge of relocation from labelled histories and variants, and writes it as healing/judge.json.

usage: learn_relocation.py FOLDER [--folds N] [--hidden] [--foreign] [--write]

First the weights by which pairs of elements are aligned: a conditional logit where, for each labelled element on each pair of
pages, the right choice among its candidates is the element with the same label. Then the trees that say whether a candidate is
the one, on the evidence of all candidates, of the same with the element and all in it taken out of the new page, and of the
same where what has come in its place is nobody else's. Last the calibration, on what was left out.

With --hidden the trees hear each pair once more with facts hidden that made it sure: a pair that an id shows teaches how to find
one whose id has changed. With --foreign they hear pages of other applications, on which nothing is to be found. What is learnt
with both names more on variants and next to nothing on foreign pages, and is too sure of a lone control on a page where all else of
it has changed: the judge that ships does without.

The witnesses of all elements are heard. Of every fourth the trees learn to do without: where the old page is at hand, only those
that are not settled by the rest are asked for them, and so it is judged.

What is printed is of applications that nothing was learnt from: the applications are cut into folds, one each unless told
otherwise, and all is learnt anew without each. scikit-learn is needed (the extra `learn`).
"""

from __future__ import annotations

import argparse
import json
from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Executor, ProcessPoolExecutor
from dataclasses import dataclass, replace
from itertools import permutations
from pathlib import Path
from typing import Any
from zlib import crc32

import numpy as np
import numpy.typing as npt
from scipy.optimize import minimize
from sklearn.ensemble import HistGradientBoostingClassifier
from sklearn.isotonic import IsotonicRegression

from wary_hound.healing.alignment import Aligning, Scores
from wary_hound.healing.forest import Forest
from wary_hound.healing.hiding import without_sure
from wary_hound.healing.judge import EITHER, EVIDENCE, GONE, STANDING, SURE, WIDEST, Judge, believed, contradicted, gather
from wary_hound.healing.likeness import FEATURES, OWN
from wary_hound.healing.relocation import SETTLED
from wary_hound.healing.remembering import fingerprint
from wary_hound.healing.witnesses import votes, witnesses
from wary_hound.measuring.history import PageHistory, Variants, Version, labelled, read_histories, read_variants, targets
from wary_hound.page import Page

Floats = npt.NDArray[np.float64]
ALIGNED, REMEMBERED = "aligned", "remembered"
CASES = (ALIGNED, REMEMBERED)
HIDDEN = "hidden"
FOREIGN = "foreign"
REAL = ("adjacent", "far", FOREIGN)
RIVALS = 14
VARIANTS_COUNT = 3.0
"""Pairs of variants are few, and say what releases with the same content cannot."""
TAKEN_COUNTS, FREE_COUNTS, HIDDEN_COUNTS, FOREIGN_COUNTS = 0.15, 0.05, 0.1, 0.3
"""An element taken out on purpose counts this much of a real observation, where its place was then free, where sure facts are
hidden, and where the page is another application's: real ones are seldom gone, and seldom change in all that is hidden at once."""
ON_FOREIGN = 24
"""Elements that are looked for on each page of another application."""
UNASKED = 4
"""Of one element in so many the trees learn without witnesses."""
VOTED = [EVIDENCE.index("votes"), EVIDENCE.index("vote share")]
NOTHING = -99.0
"""The logit of no chance."""
ROUGH = {
    "tag": 1, "role": 1, "id": 2, "name-attribute": 2, "href": 1.5, "text": 2, "text-equal": 1, "name": 1, "terms": 1, "label": 1,
    "classes": 1, "trail": 1, "before": 0.5, "after": 0.5, "heading": 0.5, "row": 1, "place": 1, "icon": 1, "rarity": 2,
    "shape": 0.5, "tree": 0.5, "parent": 1, "ancestors": 2, "nearest-ancestor": 1, "inside": 2, "previous": 1, "next": 1,
    "row-aligned": 1, "group-aligned": 0.5,
}  # fmt: skip
"""Weights that learning begins with."""


@dataclass(frozen=True)
class Foreign:
    """A page of one application, and one of another: nothing that is labelled on the first is there."""

    application: str
    other: str
    old: Version
    labels: tuple[str, ...]
    new: Version

    @classmethod
    def pairs(cls, histories: Sequence[PageHistory]) -> Iterator[Foreign]:
        """One for each two applications, with pages and elements drawn by lot."""
        dice = np.random.default_rng(7)
        by: dict[str, list[PageHistory]] = {}
        for history in histories:
            by.setdefault(history.application, []).append(history)
        for own, other in permutations(sorted(by), 2):
            pages = [by[name][dice.integers(len(by[name]))].versions for name in (own, other)]
            old, new = (versions[dice.integers(len(versions))] for versions in pages)
            there = [label for label, path in old.targets.items() if path is not None]
            yield cls(own, other, old, tuple(dice.permutation(there)[:ON_FOREIGN].tolist()), new)


Task = PageHistory | Variants | Foreign


@dataclass(frozen=True)
class Choice:
    """The candidates of one labelled element; the right one is first where it is among them."""

    application: str
    kind: str
    right: bool
    table: npt.NDArray[np.float32]


@dataclass(frozen=True)
class Heard:
    """The evidence on the candidates of one element, and which is the right one (-1 for none). `kind`: adjacent, far, or that of
    a variant; `taken`: "", HIDDEN, FOREIGN, or how the element was taken out; `other`: the application of a foreign page;
    `unasked`: whether the trees are to learn of it without witnesses."""

    application: str
    kind: str
    taken: str
    gone: bool
    right: int
    table: npt.NDArray[np.float32]
    sole: npt.NDArray[np.bool_]
    parted: npt.NDArray[np.bool_]
    other: str = ""
    unasked: bool = False

    def without_votes(self) -> Heard:
        """The same, had no witness been heard."""
        table = self.table.copy()
        table[:, VOTED] = np.nan
        return replace(self, table=table)

    def within(self, applications: Sequence[str]) -> bool:
        """Whether all that it is about is of these."""
        return self.application in applications and (not self.other or self.other in applications)

    def apart_from(self, applications: Sequence[str]) -> bool:
        """Whether nothing that it is about is of these."""
        return self.application not in applications and self.other not in applications


def rough() -> Scores:
    return Scores(np.asarray([ROUGH.get(f, 0.3) for f in FEATURES]), np.full(len(FEATURES), 0.3))


def pairs_of(task: Task) -> Iterator[tuple[str, Page, Page, dict[str, int | None], dict[str, int | None]]]:
    """All pairs of pages, with what is labelled on each."""
    if isinstance(task, PageHistory):
        pages, wanted = labelled(task)
        for old, new in task.pairs():
            yield "adjacent" if new == old + 1 else "far", pages[old], pages[new], wanted[old], wanted[new]
        return
    if isinstance(task, Foreign):
        page = task.old.read()
        known = targets(page, task.old)
        yield FOREIGN, page, task.new.read(), {label: known[label] for label in task.labels}, dict.fromkeys(task.labels)
        return
    for pair in task.pairs:
        base, other = pair.base.read(), pair.other.read()
        yield pair.kind, base, other, targets(base, pair.base), targets(other, pair.other)


def aligned(case: str, old: Page, new: Page, elements: Sequence[int], first: Scores, later: Scores) -> tuple[Aligning, list[int]]:
    """The alignment of a case, and the number of each element in it."""
    if case == REMEMBERED:
        aligned = Aligning([fingerprint(old[i]) for i in elements], new, first, later)
        aligned.run()
        return aligned.looking_everywhere(np.arange(len(elements))), list(range(len(elements)))
    aligned = Aligning(old, new, first, later)
    aligned.run()
    return aligned.looking_everywhere(np.unique(elements)), list(elements)


def labels_of(was: dict[str, int | None], now: dict[str, int | None]) -> list[tuple[int, int | None, bool]]:
    """The labelled elements of two pages, and which of them the trees are to learn of without witnesses."""
    known = [(label, index) for label, index in was.items() if index is not None and label in now]
    return [(index, now[label], crc32(label.encode()) % UNASKED == 0) for label, index in known]


Votes = list[dict[int, tuple[int, ...]]]


def vote(task: Task) -> Votes:
    """For each pair of pages what the witnesses of each labelled element find on the new one."""
    ways: dict[tuple[str, int], tuple[Any, ...]] = {}
    found: Votes = []
    for _, old, new, was, now in pairs_of(task):
        cast: dict[int, tuple[int, ...]] = {}
        for label, index in was.items():
            if index is None or label not in now:
                continue
            key = (old.digest, index)
            if key not in ways:
                ways[key] = witnesses(old[index])
            cast[index] = votes(ways[key], new)
        found.append(cast)
    return found


def choices(task: Task, case: str, first: Scores, later: Scores) -> list[Choice]:
    choices: list[Choice] = []
    if isinstance(task, Foreign):
        return choices
    for kind, old, new, was, now in pairs_of(task):
        wanted = labels_of(was, now)
        if not wanted:
            continue
        aligning, numbers = aligned(case, old, new, [i for i, _, _ in wanted], first, later)
        for number, (_, right, _) in zip(numbers, wanted, strict=True):
            rows = np.flatnonzero(aligning.a == number)
            rows = rows[np.argsort(-aligning.score[rows], kind="stable")]
            is_right = aligning.b[rows] == (-1 if right is None else right)
            kept = np.concatenate([rows[is_right], rows[~is_right][:RIVALS]])
            choices.append(Choice(task.application, kind, bool(is_right.any()), aligning.table[kept]))
    return choices


def hear(task: Task, case: str, first: Scores, later: Scores, cast: Votes, hidden: bool = False) -> list[Heard]:
    heard = []
    reverse, claimed, image = (len(FEATURES) + STANDING.index(name) for name in ("reverse", "claimed", "is the image"))
    for known, (kind, old, new, was, now) in zip(cast, pairs_of(task), strict=True):
        wanted = labels_of(was, now)
        if not wanted:
            continue
        aligning, numbers = aligned(case, old, new, [i for i, _, _ in wanted], first, later)
        for number, (index, right, unasked) in zip(numbers, wanted, strict=True):
            said = {number: known[index]} if index in known else {}
            there = gather(aligning, np.asarray([number]), votes=said)
            if isinstance(task, Foreign):
                heard.append(Heard(task.application, kind, FOREIGN, True, -1, there.table, there.sole, there.parted, task.other))
                continue
            at = np.flatnonzero(there.b == (-1 if right is None else right))
            place = int(at[0]) if len(at) else -1
            heard.append(
                Heard(task.application, kind, "", right is None, place, there.table, there.sole, there.parted, unasked=unasked)
            )
            if right is None:
                continue
            without = gather(aligning, np.asarray([number]), slice(right, int(new.end[right])), said)
            heard.append(
                Heard(task.application, kind, "taken", True, -1, without.table, without.sole, without.parted, unasked=unasked)
            )
            free = without.table.copy()
            free[:, reverse], free[:, claimed], free[:1, image] = WIDEST, 0, 1
            heard.append(Heard(task.application, kind, "free", True, -1, free, without.sole, without.parted, unasked=unasked))
        if hidden:
            same = {number: right for number, (_, right, _) in zip(numbers, wanted, strict=True) if right is not None}
            for number, less in without_sure(aligning, same, f"{task.application} {kind}"):
                at = np.flatnonzero(less.b == same[number])
                place = int(at[0]) if len(at) else -1
                heard.append(Heard(task.application, kind, HIDDEN, False, place, less.table, less.sole, less.parted))
    return heard


def balance(applications: Sequence[str]) -> dict[str, float]:
    """Weights that keep an application with many pairs from outvoting the others."""
    counts = Counter(applications)
    mean = float(np.mean(list(counts.values())))
    return {application: (mean / count) ** 0.5 for application, count in counts.items()}


def fit_scores(choices: Sequence[Choice], width: int) -> Scores:
    """The conditional logit over the first features; no likeness may count against a pair."""
    chosen = [c for c in choices if c.right]
    design = np.zeros((len(chosen), RIVALS + 1, 2 * width), np.float32)
    absent = np.ones((len(chosen), RIVALS + 1))
    by = balance([c.application for c in chosen])
    weight = np.asarray([by[c.application] * (VARIANTS_COUNT if c.kind not in REAL else 1) for c in chosen])
    for k, entry in enumerate(chosen):
        table = entry.table[:, :width]
        missing = np.isnan(table)
        design[k, : len(table), :width] = np.where(missing, 0, table)
        design[k, : len(table), width:] = missing
        absent[k, : len(table)] = 0
    flat = design.reshape(-1, 2 * width)
    ridge = np.concatenate([np.full(width, 1.0), np.full(width, 3.0)])

    def value(theta: Floats) -> tuple[float, Floats]:
        scores = (flat @ theta.astype(np.float32)).reshape(absent.shape).astype(np.float64) - 1e9 * absent
        scores -= scores.max(axis=1, keepdims=True)
        raised = np.exp(scores)
        chance = raised / raised.sum(axis=1, keepdims=True)
        error = chance * weight[:, None]
        error[:, 0] -= weight
        loss = -np.sum(weight * np.log(np.maximum(chance[:, 0], 1e-12)))
        gradient = (flat.T @ error.reshape(-1).astype(np.float32)).astype(np.float64)
        return float(loss + 0.5 * np.sum(ridge * theta**2)), gradient + ridge * theta

    bounds: list[tuple[Any, Any]] = [(0, None)] * width + [(None, None)] * width
    theta = minimize(value, np.zeros(2 * width), jac=True, method="L-BFGS-B", bounds=bounds, options={"maxiter": 120}).x
    rest = np.zeros(len(FEATURES) - width)
    return Scores(np.concatenate([theta[:width], rest]), np.concatenate([theta[width:], rest]))


_SIGNS = {
    "votes": 1, "vote share": 1, "score": 1, "margin": 1, "reverse": 1, "nested": 1, "is the image": 1, "deficit": -1,
    "claimed": -1, "rank": -1,
}  # fmt: skip
_EITHER_WAY = frozenset({"shown", "tree"})


def fit_forest(heard: Sequence[Heard]) -> Forest:
    signs = [_SIGNS.get(name, 0) if name in STANDING else 0 if name in _EITHER_WAY else 1 for name in EVIDENCE]
    by = balance([h.application for h in heard])
    counts = {"": 1.0, "taken": TAKEN_COUNTS, "free": FREE_COUNTS, HIDDEN: HIDDEN_COUNTS, FOREIGN: FOREIGN_COUNTS}
    weight = [
        np.full(len(h.table), by[h.application] * counts[h.taken] * (VARIANTS_COUNT if h.kind not in REAL else 1)) for h in heard
    ]
    right = [np.arange(len(h.table)) == h.right for h in heard]
    model = HistGradientBoostingClassifier(
        max_iter=150, learning_rate=0.08, max_leaf_nodes=15, min_samples_leaf=60, l2_regularization=5.0, monotonic_cst=signs,
        random_state=1,
    )  # fmt: skip
    design = np.vstack([h.without_votes().table if h.unasked else h.table for h in heard])
    design[:, np.isnan(design).all(axis=0)] = 0  # of what is remembered nothing is known of what stands around it
    model.fit(design, np.concatenate(right), sample_weight=np.concatenate(weight))
    return as_arrays(model)


def as_arrays(model: Any) -> Forest:
    """The trees that scikit-learn fitted, one list of nodes."""
    columns: dict[str, list[Any]] = {k: [] for k in ("feature", "threshold", "left", "right", "unknown_left", "value")}
    roots = []
    for (tree,) in model._predictors:
        base = len(columns["feature"])
        roots.append(base)
        for k, node in enumerate(tree.nodes):
            leaf = bool(node["is_leaf"])
            columns["feature"].append(0 if leaf else int(node["feature_idx"]))
            columns["threshold"].append(0.0 if leaf else float(node["num_threshold"]))
            columns["left"].append(base + (k if leaf else int(node["left"])))
            columns["right"].append(base + (k if leaf else int(node["right"])))
            columns["unknown_left"].append(bool(node["missing_go_to_left"]))
            columns["value"].append(float(node["value"]) if leaf else 0.0)
    data = {**columns, "start": float(model._baseline_prediction.ravel()[0]), "roots": roots}
    return Forest.from_json(data)


@dataclass(frozen=True)
class Best:
    """What the trees say of the candidates: their logits, and whether the best is the one. The same of the best of those that are
    alone in what they are called or say."""

    heard: Heard
    logits: Floats

    @property
    def logit(self) -> float:
        """Of the best."""
        return float(self.logits.max())

    @property
    def right(self) -> bool:
        """Whether that is the one."""
        return int(self.logits.argmax()) == self.heard.right

    @property
    def sole_right(self) -> bool:
        """Whether the best of those that are alone in what they are called is the one."""
        return bool(self.heard.sole.any()) and int(np.where(self.heard.sole, self.logits, NOTHING).argmax()) == self.heard.right

    def told(self, said: Floats, true: Floats, sole: float) -> tuple[float, bool]:
        """The chance that a judge gives to the best, and whether that is the one."""
        plain = 1 / (1 + np.exp(-np.interp(self.logits, said, true)))
        one = np.zeros(len(plain), np.int64)  # all are candidates of one element
        chance = believed(plain, self.heard.sole, sole, one)
        best = int(chance.argmax())
        doubted = bool(self.heard.parted[best] or contradicted(chance, self.heard.sole, one).any())
        return min(float(chance[best]), EITHER if doubted else 1.0), best == self.heard.right


@dataclass(frozen=True)
class Judged:
    """What the trees say of an element with its witnesses, and (where these are asked for only then) what they say without."""

    heard: Heard
    asked: Best
    unasked: Best | None

    def told(self, said: Floats, true: Floats, sole: float) -> tuple[float, bool]:
        """The chance that relocation gives to the best, and whether that is the one."""
        if self.unasked is not None:
            settled = self.unasked.told(said, true, sole)
            if settled[0] >= SETTLED:
                return settled
        return self.asked.told(said, true, sole)


def judge(heard: Sequence[Heard], forest: Forest, at_once: bool) -> list[Judged]:
    """What a forest says of each. `at_once`: witnesses are heard at once, as what is remembered holds them."""
    heard = [h for h in heard if len(h.table)]
    asked = _best(heard, forest)
    unasked: Sequence[Best | None] = [None] * len(heard) if at_once else _best([h.without_votes() for h in heard], forest)
    return [Judged(*entry) for entry in zip(heard, asked, unasked, strict=True)]


def _best(heard: Sequence[Heard], forest: Forest) -> list[Best]:
    logits = forest.logits(np.vstack([h.table for h in heard]))
    ends = np.cumsum([len(h.table) for h in heard])
    return [Best(h, own) for h, own in zip(heard, np.split(logits, ends[:-1]), strict=True)]


def often_right(judged: Sequence[Judged], said: Floats, true: Floats) -> float:
    """How often what is alone in what it is called, or says, is the one where the trees are not sure (Laplace's estimate)."""
    asked = [
        j.asked.sole_right
        for j in judged
        if not j.heard.taken and j.asked.told(said, true, 0.0)[0] < SURE and j.asked.told(said, true, 1.0)[0] == 1
    ]
    return (sum(asked) + 1) / (len(asked) + 2)


def calibration(judged: Sequence[Judged]) -> tuple[Floats, Floats]:
    """Logits of the trees and the logits of what came true there: isotonic, at a few knots between which lines are drawn."""
    by = balance([j.heard.application for j in judged])
    judged = [j for j in judged if j.heard.taken != HIDDEN]
    counts = {"": 1.0, "taken": 0.06, "free": 0.02, FOREIGN: 0.1}
    weight = np.asarray([by[j.heard.application] * counts[j.heard.taken] for j in judged])
    logit = np.asarray([j.asked.logit for j in judged])
    right = np.asarray([j.asked.right for j in judged], np.float64)
    fitted = IsotonicRegression(y_min=0.005, y_max=0.9985, out_of_bounds="clip").fit(logit, right, sample_weight=weight)
    knots = np.asarray([-6, -4, -3, -2, -1, 0, 1, 2, 3, 4, 5, 6, 8], np.float64)
    window = np.linspace(-0.7, 0.7, 15)
    chance = np.asarray([fitted.predict(k + window).mean() for k in knots])
    return knots, np.maximum.accumulate(np.log(chance / (1 - chance)))


def report(case: str, judged: Sequence[Judged], said: Floats, true: Floats, sole: float) -> None:
    told = [j.told(said, true, sole) for j in judged]
    chance, right = np.asarray([c for c, _ in told]), np.asarray([r for _, r in told])
    print(f"\n{case}: on applications that were left out (sure from {SURE}, gone to {GONE})")

    def line(name: str, wanted: Callable[[Heard], bool]) -> None:
        rows = np.asarray([wanted(j.heard) for j in judged])
        if rows.any():
            there, sure, gone = right[rows], chance[rows] >= SURE, chance[rows] <= GONE
            print(
                f"  {name:28} {len(there):6}: right {np.mean(there & sure):.1%}, wrong {np.mean(~there & sure):.2%}, "
                f"unsure {np.mean(~sure & ~gone):.1%}, gone {np.mean(gone):.1%}; best guess {np.mean(there):.1%}"
            )

    line("all pairs of releases", lambda h: not h.taken and not h.gone and h.kind in ("adjacent", "far"))
    line("adjacent releases", lambda h: not h.taken and not h.gone and h.kind == "adjacent")
    line("variants", lambda h: not h.taken and not h.gone and h.kind not in ("adjacent", "far"))
    line("gone", lambda h: not h.taken and h.gone)
    line("taken out", lambda h: h.taken == "taken")
    line("taken out, its place taken", lambda h: h.taken == "free")
    line("sure facts hidden", lambda h: h.taken == HIDDEN)
    line("on another application", lambda h: h.taken == FOREIGN)
    plain = np.asarray([not j.heard.taken for j in judged])
    error = 0.0
    for low, high in ((0, 0.2), (0.2, 0.4), (0.4, 0.6), (0.6, 0.8), (0.8, 0.9), (0.9, 0.97), (0.97, 1.01)):
        inside = plain & (chance >= low) & (chance < high)
        if inside.any():
            error += abs(float(chance[inside].mean() - right[inside].mean())) * int(inside.sum())
            print(f"    confidence {chance[inside].mean():.2f}: right {right[inside].mean():.1%} of {int(inside.sum())}")
    print(f"    calibration error {error / int(plain.sum()):.4f}", flush=True)


def learn(tasks: Sequence[Task], case: str, folds: int | None, pool: Executor, cast: Sequence[Votes], hidden: bool) -> Judge:
    """The judge of a case, from all tasks; prints how those learnt without a fold do on it."""
    count = len(tasks)
    start = rough()
    begun = [c for learnt in pool.map(choices, tasks, [case] * count, [start] * count, [start] * count) for c in learnt]
    applications = sorted({task.application for task in tasks})

    def weights(without: Sequence[str]) -> tuple[Scores, Scores]:
        kept = [c for c in begun if c.application not in without]
        first = fit_scores(kept, len(OWN))
        return first, first if case == REMEMBERED else fit_scores(kept, len(FEATURES))

    def all_heard(first: Scores, later: Scores) -> list[Heard]:
        told = pool.map(hear, tasks, [case] * count, [first] * count, [later] * count, cast, [hidden] * count)
        return [h for learnt in told for h in learnt]

    judged: list[Judged] = []
    folds = min(folds or len(applications), len(applications))
    for fold in range(folds):
        held = applications[fold::folds]
        first, later = weights(held)
        heard = all_heard(first, later)
        forest = fit_forest([h for h in heard if h.apart_from(held)])
        judged += judge([h for h in heard if h.within(held)], forest, case == REMEMBERED)
        print(f"{case}: fold {fold + 1} of {folds}", flush=True)
    said, true = calibration(judged)
    sole = often_right(judged, said, true)
    report(case, judged, said, true, sole)
    first, later = weights(())
    return Judge(first, later, fit_forest(all_heard(first, later)), said, true, sole)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("folder", type=Path)
    parser.add_argument("--folds", type=int, help="one an application unless told otherwise")
    parser.add_argument("--case", choices=CASES, action="append")
    parser.add_argument("--hidden", action="store_true")
    parser.add_argument("--foreign", action="store_true")
    parser.add_argument("--write", action="store_true")
    options = parser.parse_args()
    histories = read_histories(options.folder)
    tasks: list[Task] = [*histories, *read_variants(options.folder)]
    tasks += Foreign.pairs(histories) if options.foreign else ()
    with ProcessPoolExecutor() as pool:
        cast = list(pool.map(vote, tasks))
        print("witnesses heard", flush=True)
        for case in options.case or CASES:
            learnt = learn(tasks, case, options.folds, pool, cast, options.hidden)
            if options.write:
                write(case, learnt, len({task.application for task in tasks}))


def write(case: str, learnt: Judge, many: int) -> None:
    target = Path(__file__).parent.parent / "src" / "wary_hound" / "healing" / "judge.json"
    data = json.loads(target.read_text(encoding="utf-8")) if target.exists() else {}
    data["source"] = f"histories and variants of {many} open-source web interfaces, fitted by scripts/learn_relocation.py"
    data[case] = learnt.to_json()
    target.write_text(json.dumps(data, separators=(",", ":")) + "\n", encoding="utf-8")
    print(f"{target}: {target.stat().st_size:,} bytes", flush=True)


if __name__ == "__main__":
    main()
