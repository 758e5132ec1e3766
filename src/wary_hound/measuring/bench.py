"""`bench`: what authored locators and relocations came to on labelled histories, beside the yardsticks."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from concurrent.futures import Executor, as_completed
from dataclasses import dataclass, field, replace
from typing import Any, NamedTuple
from zlib import crc32

from wary_hound.authoring.portfolio import portfolio
from wary_hound.authoring.question import Question
from wary_hound.authoring.ranking import Candidate, assess, rank
from wary_hound.authoring.rules import Rules
from wary_hound.errors import FileError, LocatorError
from wary_hound.healing.relocation import Pursuit, Verdict
from wary_hound.healing.repair import corroborated, judge_state
from wary_hound.locator.evaluate import match
from wary_hound.locator.values import Locator
from wary_hound.measuring.calibrating import calibrated, calibrations
from wary_hound.measuring.forecasts import FIRST, Bin, Forecasts
from wary_hound.measuring.history import PageHistory, Variants, labelled, outcome, targets
from wary_hound.measuring.trials import collect, collect_use
from wary_hound.measuring.yardsticks import YARDSTICKS, whole
from wary_hound.page import Element, Page
from wary_hound.page.serialize import to_html
from wary_hound.robustness.fitting import Trial, learn
from wary_hound.robustness.model import ChangeModel
from wary_hound.robustness.survival import HORIZON

TOP = "top candidate"
IN_CSS, IN_XPATH, JOINED = "css alone", "xpath alone", "several ways"
LANGUAGES = {"css": IN_CSS, "xpath": IN_XPATH}
"""The best plain one where only that language is allowed; the first proposal then is `..., several ways`."""
REACHED = "ladder where xpath reaches"
"""The attribute ladder on the elements that have an XPath: those in shadow trees have none."""
WAYS = (TOP, JOINED, *(way for one in LANGUAGES.values() for way in (one, f"{one}, {JOINED}")), *YARDSTICKS, REACHED)
FATES = ("alive", "lost", "stolen", "ambiguous")
THERE = ("right", "wrong", "unsure", "called gone")
RELOCATED = "relocation"
GONE = ("called gone", "unsure", "wrong")
TOLD = ("works", "drifted", "in doubt")
ITS_OWN, ANOTHER = "its element", "another element"


@dataclass(frozen=True)
class Result:
    """Counts over all version pairs of one page state (or of several, summed).

    `locators[way][fate]` counts locators on pairs where the element is still there, `used[way][fate]` the same over variants of
    one version; `without[way]` those of elements taken out of their own page, with nothing else changed: whether they then find
    nothing, another element, or several; `there[verdict]` relocations on the same
    pairs; `gone[verdict]` relocations of elements that are gone, `taken[verdict]` of elements taken out of the new page with
    all in them; `drift[what][told]` what repair says of locators, authored or of a yardstick, that find one element, which is
    theirs or another.
    """

    name: str
    pairs: int = 0
    locators: dict[str, Counter[str]] = field(default_factory=lambda: {way: Counter() for way in WAYS})
    used: dict[str, Counter[str]] = field(default_factory=lambda: {way: Counter() for way in WAYS})
    without: dict[str, Counter[str]] = field(default_factory=lambda: {way: Counter() for way in WAYS})
    there: Counter[str] = field(default_factory=Counter)
    gone: Counter[str] = field(default_factory=Counter)
    taken: Counter[str] = field(default_factory=Counter)
    nested: Counter[str] = field(default_factory=Counter)
    """How many of the stolen ones of `locators`, and of the wrong ones of relocation (RELOCATED), find what stands in their
    element, or what holds it: a click mostly does there what it should."""
    drift: dict[str, Counter[str]] = field(default_factory=lambda: {what: Counter() for what in (ITS_OWN, ANOTHER)})
    forecasts: Forecasts = field(default_factory=Forecasts)
    joined: Forecasts = field(default_factory=Forecasts)
    """Those of the first proposal of several ways; `forecasts` are the plain ones'."""
    proven: Counter[bool] = field(default_factory=Counter)
    """For how many elements search proved its best."""

    def nested_share(self, way: str) -> float | None:
        """The share of pairs in which it finds what is in its element, or around it; None where nothing was counted."""
        count = sum((self.there if way == RELOCATED else self.locators[way]).values())
        return self.nested[way] / count if count else None

    def to_json(self) -> dict[str, Any]:
        """Shares and counts as plain JSON."""
        return {
            "name": self.name,
            "version_pairs": self.pairs,
            "locators": {
                way: {"count": sum(c.values()), **{f: share(c, f) for f in FATES}, "stolen_in_or_around": self.nested_share(way)}
                for way, c in self.locators.items()
            },
            "in_use": {way: {"count": sum(c.values()), **{f: share(c, f) for f in FATES}} for way, c in self.used.items()},
            "without_the_element": {
                way: {"count": sum(c.values()), **{f: share(c, f) for f in FATES}} for way, c in self.without.items()
            },
            "relocation": {
                "count": sum(self.there.values()),
                **{v: share(self.there, v) for v in THERE},
                "wrong_in_or_around": self.nested_share(RELOCATED),
            },
            "gone": {"count": sum(self.gone.values()), **{v: share(self.gone, v) for v in GONE}},
            "drift": {what: {"count": sum(c.values()), **{t: share(c, t) for t in TOLD}} for what, c in self.drift.items()},
            "taken_out": {"count": sum(self.taken.values()), **{v: share(self.taken, v) for v in GONE}},
            "forecasts": {
                **_bins_json(self.forecasts),
                "regret": self.forecasts.regret,
                "any_of_the_first_alive": self.forecasts.some / self.forecasts.count if self.forecasts.count else None,
                "concordance": self.forecasts.concordance,
                "with_fallbacks": {fate: share(self.forecasts.team, fate) for fate in FATES},
            },
            "forecasts_of_several_ways": _bins_json(self.joined),
            "search_proven": share({str(k): v for k, v in self.proven.items()}, "True"),
        }


def _bins_json(forecasts: Forecasts) -> dict[str, Any]:
    def plain(entry: Bin) -> dict[str, float]:
        return {"count": entry.count, "predicted": round(entry.predicted, 4), "observed": round(entry.observed, 4)}

    return {
        "count": forecasts.count,
        "brier": forecasts.brier,
        "calibration_error": forecasts.calibration_error,
        "calibration": [plain(b) for b in forecasts.calibration()],
        "by_releases": {str(k): plain(b) for k, b in forecasts.by_releases().items()},
    }


def share(counts: Mapping[str, int], key: str) -> float | None:
    """A share of all that was counted; None where nothing was."""
    total = sum(counts.values())
    return counts[key] / total if total else None


def total(results: Sequence[Result], name: str = "all") -> Result:
    """Several results summed."""
    summed = Result(name, sum(r.pairs for r in results))
    for result in results:
        for way, counts in result.locators.items():
            summed.locators[way].update(counts)
            summed.used[way].update(result.used[way])
            summed.without[way].update(result.without[way])
        for what, counts in result.drift.items():
            summed.drift[what].update(counts)
        summed.nested.update(result.nested)
        summed.there.update(result.there)
        summed.gone.update(result.gone)
        summed.taken.update(result.taken)
        summed.forecasts.add(result.forecasts)
        summed.joined.add(result.joined)
        summed.proven.update(result.proven)
    return summed


def bench(
    histories: Sequence[PageHistory],
    executor: Executor,
    done: Callable[[Result], None] | None = None,
    models: Mapping[str, ChangeModel] | None = None,
    variants: Sequence[Variants] = (),
    every: int = 1,
) -> list[Result]:
    """Measure each history (locators of one labelled element in `every`), with the variants of the same page, in any
    `concurrent.futures` executor; `done` is told of each as it comes. In the order given.

    `models` has the change model to judge each application with (see `left_out`); the shipped one where it has none.
    """
    given = models or {}
    used = {(v.application, v.page): v for v in variants}
    futures = {
        executor.submit(measure, history, given.get(history.application), used.get((history.application, history.page)), every): k
        for k, history in enumerate(histories)
    }
    measured: dict[int, Result] = {}
    for future in as_completed(futures):
        result = future.result()
        measured[futures[future]] = result
        if done is not None:
            done(result)
    return [measured[k] for k in range(len(histories))]


def left_out(histories: Sequence[PageHistory], executor: Executor, variants: Sequence[Variants] = ()) -> dict[str, ChangeModel]:
    """For each application, a change model learnt from all the others: nothing is judged on what it taught.

    Raises FileError where there are fewer than three applications.
    """
    applications = sorted({history.application for history in histories})
    if len(applications) < 3:
        raise FileError(f"to leave one application out takes three or more; this folder has {len(applications)}")
    trials = [trial for found in executor.map(collect, histories) for trial in found]
    use = [trial for found in executor.map(collect_use, variants) for trial in found]
    models = each_without(applications, trials, use, executor)
    rows = calibrations(histories, models, executor)
    return {
        application: calibrated(model, [row for row in rows if row.application != application])
        for application, model in models.items()
    }


def each_without(applications: Sequence[str], trials: list[Trial], use: list[Trial], executor: Executor) -> dict[str, ChangeModel]:
    """For each application, a change model, not calibrated, of all the others."""
    count = len(applications)
    return dict(zip(applications, executor.map(_learnt_without, [trials] * count, [use] * count, applications), strict=True))


def _learnt_without(trials: list[Trial], use: list[Trial], application: str) -> ChangeModel:
    others, used = ([t for t in rows if t.application != application] for rows in (trials, use))
    return learn(others, "left out", f"all but {application}", jackknife=False, use=used)


def measure(history: PageHistory, model: ChangeModel | None = None, variants: Variants | None = None, every: int = 1) -> Result:
    """One page state over all its version pairs, and over its variants; locators of each `every`-th labelled element."""
    pages, wanted = labelled(history)
    result = Result(history.name)
    counted = 0
    verdicts: dict[tuple[int, int], dict[str, Verdict]] = {}
    for old, new in history.pairs():
        counted += 1
        labels = [label for label, index in wanted[old].items() if index is not None and label in wanted[new]]
        if labels:
            verdicts[old, new] = _relocate(pages[old], pages[new], labels, wanted[old], wanted[new], result)
    for old, page in enumerate(pages):
        later = [new for first, new in history.pairs() if first == old]
        for label, index in wanted[old].items():
            if index is not None and crc32(label.encode()) % every == 0:
                there = [
                    Later(new - old, pages[new], now, verdicts[old, new][label])
                    for new in later
                    if (now := wanted[new].get(label)) is not None
                ]
                _locators(page[index], there, model, result)
    for pair in variants.pairs if variants else ():
        base, other = pair.base.read(), pair.other.read()
        before, after = targets(base, pair.base), targets(other, pair.other)
        for label, index in before.items():
            now = after.get(label)
            if index is not None and now is not None and crc32(label.encode()) % every == 0:
                for way, locator in _authored(base[index], model)[0].items():
                    result.used[way][outcome(match(other, locator), now)] += 1
    return replace(result, pairs=counted)


def _authored(element: Element, model: ChangeModel | None) -> tuple[dict[str, Locator], list[Candidate]]:
    """What each way of writing locators gives for an element, and all plain candidates."""
    question = Question() if model is None else Question(model)
    candidates = rank(element, question)
    plain = [c for c in candidates if c.locator.otherwise is None]
    own = {TOP: plain[0].locator, JOINED: candidates[0].locator}
    for language, way in LANGUAGES.items():
        ranked = [c.locator for c in rank(element, replace(question, rules=Rules(only=(language,))))]
        if ranked:
            own[way], own[f"{way}, {JOINED}"] = next(one for one in ranked if one.otherwise is None), ranked[0]
    yardsticks = {name: whole(element, way) for name, way in YARDSTICKS.items()}
    if IN_XPATH in own:
        yardsticks[REACHED] = yardsticks["attribute ladder"]
    return own | yardsticks, plain


def _without(element: Element, ways: Mapping[str, Locator], result: Result) -> None:
    """What locators find once their element, with all in it, is off the page and nothing else has changed: lost is right."""
    page = Page.parse(to_html(element.page, leave_out=element.index))
    for name, locator in ways.items():
        try:
            found = match(page, locator)
        except LocatorError:  # where elements stand is not known of a page that was changed here
            continue
        result.without[name]["lost" if not found else "stolen" if len(found) == 1 else "ambiguous"] += 1


class Later(NamedTuple):
    """An element on a later version: so many releases later, on that page, its index there, and what relocation says of it."""

    releases: int
    page: Page
    now: int
    verdict: Verdict


def _locators(element: Element, later: Sequence[Later], model: ChangeModel | None, result: Result) -> None:
    """What the locators of one element came to on later versions."""
    ways, plain = _authored(element, model)
    for there in later:
        found = {locator: match(there.page, locator) for locator in set(ways.values())}
        for name, locator in ways.items():
            result.locators[name][outcome(found[locator], there.now)] += 1
            result.nested[name] += _is_nested(there.page, found[locator], there.now)
        for matched in found.values():
            if len(matched) == 1:
                result.drift[ITS_OWN if matched[0] == there.now else ANOTHER][_told(there, matched[0])] += 1
    _without(element, ways, result)
    result.proven[any(c.proven for c in plain)] += 1
    # the histories held their content as it was: forecasts are judged on releases alone
    question = Question(use=False) if model is None else Question(model, use=False)
    first = [assess(c.locator, element, question) for c in plain[:FIRST]]
    fates = [[outcome(match(there.page, c.locator), there.now) for there in later] for c in first]
    ahead = [min(there.releases, HORIZON) for there in later]
    predicted = [[c.curve[k - 1] for k in ahead] for c in first]
    result.forecasts.judge(ahead, predicted, [[fate == "alive" for fate in row] for row in fates])
    joined = assess(ways[JOINED], element, question)
    alive = [outcome(match(page, joined.locator), now) == "alive" for _, page, now, _ in later]
    result.joined.judge(ahead, [[joined.curve[k - 1] for k in ahead]], [alive])
    chosen = portfolio(element, question=question, ranked=plain)
    for _, page, now, _ in later:
        tried = [match(page, c.locator) for c in (chosen.main, *chosen.fallbacks)]
        result.forecasts.team[outcome(next((f for f in tried if len(f) == 1), tried[0]), now)] += 1


def _is_nested(page: Page, found: Sequence[int], wanted: int) -> bool:
    """Whether the one other element that was found is in the wanted one, or holds it."""
    return len(found) == 1 and found[0] != wanted and page.nested(found[0], wanted)


def _told(there: Later, found: int) -> str:
    """What repair says of a locator that finds one element; one of TOLD."""
    elements = (there.page[found],)
    said = corroborated(there.verdict, elements)
    state = judge_state(elements, said)
    return "in doubt" if state == "drifted" and said.outcome == "unsure" else state


def _relocate(
    old: Page,
    new: Page,
    labels: Sequence[str],
    before: dict[str, int | None],
    after: dict[str, int | None],
    result: Result,
) -> dict[str, Verdict]:
    """What relocation says of the labelled elements of a pair of versions."""
    elements = [old[index] for label in labels if (index := before[label]) is not None]
    search = Pursuit(elements, new)
    verdicts = search.verdicts()
    for k, (label, verdict) in enumerate(zip(labels, verdicts, strict=True)):
        now = after[label]
        if now is None:
            result.gone[_judged_gone(verdict)] += 1
            continue
        judged = _judged(verdict, new[now])
        result.there[judged] += 1
        if judged == "wrong" and verdict.element is not None:
            result.nested[RELOCATED] += _is_nested(new, [verdict.element.index], now)
        without = search.verdict_without(k, slice(now, int(new.end[now])))
        result.taken[_judged_gone(without)] += 1
    return dict(zip(labels, verdicts, strict=True))


def _judged(verdict: Verdict, wanted: Element) -> str:
    if verdict.outcome == "gone":
        return "called gone"
    if verdict.outcome == "unsure":
        return "unsure"
    return "right" if verdict.element == wanted else "wrong"


def _judged_gone(verdict: Verdict) -> str:
    return {"gone": "called gone", "unsure": "unsure"}.get(verdict.outcome, "wrong")
