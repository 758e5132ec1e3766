"""`bench`: what authored locators and relocations came to on labelled histories, beside the yardsticks."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Executor, as_completed
from dataclasses import dataclass, field
from typing import Any

from wary_hound.authoring.ranking import rank
from wary_hound.healing.relocation import Search, Verdict
from wary_hound.locator.evaluate import match
from wary_hound.locator.values import Locator
from wary_hound.measuring.history import PageHistory, labelled, outcome
from wary_hound.measuring.yardsticks import YARDSTICKS, whole
from wary_hound.page import Element, Page

TOP = "top candidate"
WAYS = (TOP, *YARDSTICKS)
FATES = ("alive", "lost", "stolen", "ambiguous")
THERE = ("right", "wrong", "unsure", "called gone")
GONE = ("called gone", "unsure", "wrong")


@dataclass(frozen=True)
class Result:
    """Counts over all version pairs of one page state (or of several, summed).

    `locators[way][fate]` counts locators on pairs where the element is still there; `there[verdict]` relocations on the same
    pairs; `gone[verdict]` relocations of elements that are gone, `taken[verdict]` of elements taken out of the new page with
    all in them.
    """

    name: str
    pairs: int = 0
    locators: dict[str, Counter[str]] = field(default_factory=lambda: {way: Counter() for way in WAYS})
    there: Counter[str] = field(default_factory=Counter)
    gone: Counter[str] = field(default_factory=Counter)
    taken: Counter[str] = field(default_factory=Counter)

    def to_json(self) -> dict[str, Any]:
        return {
            "name": self.name,
            "version_pairs": self.pairs,
            "locators": {way: {"count": sum(c.values()), **{f: share(c, f) for f in FATES}} for way, c in self.locators.items()},
            "relocation": {"count": sum(self.there.values()), **{v: share(self.there, v) for v in THERE}},
            "gone": {"count": sum(self.gone.values()), **{v: share(self.gone, v) for v in GONE}},
            "taken_out": {"count": sum(self.taken.values()), **{v: share(self.taken, v) for v in GONE}},
        }


def share(counts: Counter[str], key: str) -> float | None:
    """A share of all that was counted; None where nothing was."""
    total = sum(counts.values())
    return counts[key] / total if total else None


def total(results: Sequence[Result], name: str = "all") -> Result:
    summed = Result(name, sum(r.pairs for r in results))
    for result in results:
        for way, counts in result.locators.items():
            summed.locators[way].update(counts)
        summed.there.update(result.there)
        summed.gone.update(result.gone)
        summed.taken.update(result.taken)
    return summed


def bench(histories: Sequence[PageHistory], executor: Executor, done: Callable[[Result], None] | None = None) -> list[Result]:
    """Measure each history in any `concurrent.futures` executor; `done` is told of each as it comes. In the order given."""
    futures = {executor.submit(measure, history): k for k, history in enumerate(histories)}
    found: dict[int, Result] = {}
    for future in as_completed(futures):
        result = future.result()
        found[futures[future]] = result
        if done is not None:
            done(result)
    return [found[k] for k in range(len(histories))]


def measure(history: PageHistory) -> Result:
    """One page state over all its version pairs."""
    pages, wanted = labelled(history)
    result = Result(history.name)
    authored = [dict(_authored(page, targets)) for page, targets in zip(pages, wanted, strict=True)]
    counted = 0
    for old, new in history.pairs():
        counted += 1
        labels = [label for label, index in wanted[old].items() if index is not None and label in wanted[new]]
        for label in labels:
            now = wanted[new][label]
            if now is not None:
                for way, locator in authored[old][label].items():
                    result.locators[way][outcome(match(pages[new], locator), now)] += 1
        if labels:
            _relocate(pages[old], pages[new], labels, wanted[old], wanted[new], result)
    return Result(result.name, counted, result.locators, result.there, result.gone, result.taken)


def _authored(page: Page, targets: dict[str, int | None]) -> Iterator[tuple[str, dict[str, Locator]]]:
    for label, index in targets.items():
        if index is not None:
            element = page[index]
            ways = {name: whole(element, way) for name, way in YARDSTICKS.items()}
            yield label, {TOP: rank(element)[0].locator, **ways}


def _relocate(
    old: Page,
    new: Page,
    labels: Sequence[str],
    before: dict[str, int | None],
    after: dict[str, int | None],
    result: Result,
) -> None:
    elements = [old[index] for label in labels if (index := before[label]) is not None]
    search = Search(elements, new)
    for k, (label, verdict) in enumerate(zip(labels, search.verdicts(), strict=True)):
        now = after[label]
        if now is None:
            result.gone[_judged_gone(verdict)] += 1
            continue
        result.there[_judged(verdict, new[now])] += 1
        without = search.verdict_without(k, slice(now, int(new.end[now])))
        result.taken[_judged_gone(without)] += 1


def _judged(verdict: Verdict, wanted: Element) -> str:
    if verdict.outcome == "gone":
        return "called gone"
    if verdict.outcome == "unsure":
        return "unsure"
    return "right" if verdict.element == wanted else "wrong"


def _judged_gone(verdict: Verdict) -> str:
    return {"gone": "called gone", "unsure": "unsure"}.get(verdict.outcome, "wrong")
