"""Ranking: candidates of an element by how long they will last."""

from __future__ import annotations

import itertools
from collections import Counter
from collections.abc import Callable, Collection, Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from functools import partial
from typing import NamedTuple, TypeVar

import numpy as np
import numpy.typing as npt

from wary_hound.authoring.alternatives import alike, alternatives, says_itself
from wary_hound.authoring.cache import Authored
from wary_hound.authoring.candidates import Hops, Proposal, boundary_of, in_tree, in_xpath_too, is_unique, proposals
from wary_hound.authoring.paths import goes_by_levels, is_from_the_top
from wary_hound.authoring.question import OBSERVED, STOLEN_COSTS, Question
from wary_hound.authoring.rules import PREFERRED
from wary_hound.authoring.search import search
from wary_hound.authoring.taste import LENGTH, Surroundings, distaste
from wary_hound.authoring.weakness import NEARNESS, is_chosen, is_weak, rests_on_chance, says_what_it_shows
from wary_hound.locator.evaluate import as_locator, match
from wary_hound.locator.values import Locator
from wary_hound.page import Element, Page
from wary_hound.robustness.components import components_of
from wary_hound.robustness.data import known_by_number
from wary_hound.robustness.dependence import dependencies
from wary_hound.robustness.dependency import Dependency
from wary_hound.robustness.model import ChangeModel
from wary_hound.robustness.reasons import reasons
from wary_hound.robustness.survival import Futures, Outlook, closed_form, failures, outlook_of_ways, outlooks

T = TypeVar("T")
HOST_WAYS = 2
MOST_WEAK = 12
SHORTLIST, FEW = 40, 3
"""So many candidates that last longest are simulated, and so many of each kind and of each language, however long they last."""
WORTH = 1.0
"""What the whole of a loss weighs among what lasts alike: of two that read alike the one that lasts longer, if not surely."""
AS_GOOD = 0.005
"""Shares of futures that are no further apart than this are as good."""
SURELY = 0.02
"""By so much less must what asks for less lose to be written in place of what asks for more."""


@dataclass(frozen=True, slots=True)
class Candidate:
    """A locator proposed for an element. Survival and its kin are probabilities after the releases that were asked for."""

    locator: Locator
    kind: str
    survival: float
    interval: tuple[float, float]
    """90 % interval of the survival over applications: they differ in how fast they change, and the rates are uncertain."""
    lost: float
    stolen: float
    ambiguous: float
    curve: tuple[float, ...]
    """Survival after 1, 2, ... releases."""
    reasons: tuple[str, ...]
    outlook: Outlook
    costs: float = STOLEN_COSTS
    """What a stolen match costs, where a lost one costs 1."""
    weak: bool = False
    """Nothing that it rests on says which element is meant: offered only where nothing else is unique (see `weakness.is_weak`)."""
    distaste: float = 0.0
    """How much an engineer would rather have another that lasts alike (see `taste.distaste`)."""
    fails_on: tuple[str, ...] = ()
    """Other snapshots of the page on which it does not find the element alone (see `tried_on`)."""
    proven: bool = False
    """Search has proven that, by the closed form, no other conjunction of facts within its tree, none of them idle, loses less."""

    doubt: float = 0.0
    """How much greater the loss may be (95 % bound) by the uncertainty of the rates alone."""

    @property
    def loss(self) -> float:
        """Expected loss: a lost or ambiguous match costs 1, a stolen one `costs`."""
        return self.lost + self.ambiguous + self.costs * self.stolen

    def __str__(self) -> str:
        return str(self.locator)


def rank(element: Element, question: Question | None = None) -> list[Candidate]:
    """Candidates for an element, best first: least expected loss after a number of releases; among those that last alike, what an
    engineer would rather read. The best of each language is among them (`best_of_each`). Where the question asks for several
    `ways`, those come first that have alternatives (`A else B`), which find the element when the first does not.

    Each candidate finds the element, and it alone, on its page. Where the question's rules leave nothing, the list is empty.
    """
    asked = question or Question()
    model, page = asked.weighing, element.page
    searched = search(page, element.index, model, asked.stolen_costs, asked.releases, allow=asked.rules.allow_facts)
    best = searched.hops[0][0] if searched.proven and searched.hops else None
    weighed: list[_Weighed] = []
    around = Surroundings.of(page, element.index)
    preferred: set[Locator] = set()
    for order, proposal in enumerate(proposals(element, partial(ways_to_host, model=model), searched.hops)):
        facts = dependencies(page, proposal.locator, element.index)
        if not asked.rules.allow(proposal.locator, facts):
            continue
        if asked.rules.prefers(facts):
            preferred.add(proposal.locator)
        loss = -closed_form(model, facts, element.index, asked.releases)
        taste = distaste(facts, proposal.locator, element.index, around)
        weighed.append(_Weighed(loss, order, proposal, facts, _weakness(facts, element, proposal, asked), taste))
    weighed.sort(key=lambda one: (one.proposal.locator not in preferred, one.loss, one.order))
    offered = min((one.weakness for one in weighed), default=0)
    rest = [one for one in weighed if one.weakness == offered]
    futures = futures_of(page, asked)
    short = _shortlist(rest[:MOST_WEAK] if offered else rest)
    told = outlooks(futures, [one.facts for one in short], element.index)
    chosen = [
        replace(
            _told(element, one.proposal.locator, one.proposal.kind, [one.facts], outlook, futures, asked, one.distaste),
            weak=bool(one.weakness),
            proven=_ends_with(one.proposal.locator, best),
        )
        for one, outlook in zip(short, told, strict=True)
    ]
    chosen = _in_order(chosen, preferred)
    joined = [
        _assess(element, locator, "either", _resting(element, locator), futures, asked)
        for locator in _joined(element, chosen, futures, asked)
    ]
    return [*reversed(joined), *chosen]


class _Weighed(NamedTuple):
    """The loss of a proposal by the closed form, the order in which it was found, the facts that it rests on, how weak it is, and
    how little an engineer would like it."""

    loss: float
    order: int
    proposal: Proposal
    facts: tuple[Dependency, ...]
    weakness: int
    distaste: float


def _weakness(facts: Sequence[Dependency], element: Element, proposal: Proposal, asked: Question) -> int:
    """0 where it says which element is meant; 1 where it says of what kind it is, or which of several next to something; 2 where it
    rests on chance alone; 3 on a state that the next click changes, of the element itself or of what is chosen around it, or on all
    levels from the top."""
    if asked.purpose in OBSERVED and says_what_it_shows(facts, element.index, element.text):
        return 2
    if is_weak(facts, element.index, known_by_number(element.page, element.index)):
        stated = any(fact.kind == "state-attribute" and (fact.element == element.index or is_chosen(fact)) for fact in facts)
        if stated or is_from_the_top(proposal.locator.hops[-1].finder):
            return 3
        return 2 if rests_on_chance(facts) else 1
    return int(_goes_on_to_the_next(element.page, proposal.locator))


def _goes_on_to_the_next(page: Page, locator: Locator) -> bool:
    """Whether it finds the next of several to something: when its element has gone, it finds the one behind."""
    *before, last = locator.hops
    kept = tuple(r for r in last.finder.relations if r.relation.value not in NEARNESS and not r.relation.geometric)
    if len(kept) == len(last.finder.relations):
        return False
    return len(match(page, Locator((*before, replace(last, finder=replace(last.finder, relations=kept)))))) > 1


def _ends_with(locator: Locator, best: Hops | None) -> bool:
    return best is not None and locator.hops[-len(best) :] == best


def _shortlist(weighed: Sequence[_Weighed]) -> list[_Weighed]:
    """The first, and of each kind and each language the first few and those that read best, so that every language is at its
    best."""
    kept: list[_Weighed] = []
    met: Counter[str] = Counter()
    spoken = [language_of(entry.proposal.locator) for entry in weighed]
    by_taste = sorted(range(len(weighed)), key=lambda at: weighed[at].distaste)
    reading = {at for tongue in set(spoken) for at in [at for at in by_taste if spoken[at] == tongue][:FEW]}
    for at, entry in enumerate(weighed):
        marks = (entry.proposal.kind, spoken[at])
        if at < SHORTLIST or at in reading or any(met[mark] < FEW for mark in marks):
            kept.append(entry)
        met.update(marks)
    return kept


def language_of(locator: Locator) -> str:
    """The one strategy that a locator is written in throughout; empty where there are several, relations, or it looks anywhere."""
    strategies = {finder.strategy for hop in locator.hops for finder in hop.finder.with_anchors()}
    related = any(hop.finder.relations or hop.anywhere for hop in locator.hops)
    return strategies.pop() if len(strategies) == 1 and not related else ""


def best_of_each(candidates: Sequence[Candidate], as_ranked: bool = False) -> dict[str, Candidate]:
    """The best plain candidate in each language, in the order in which they come: of what lasts alike in a language the one that
    reads best, as if there were no other; or the first (`as_ranked`), where a question says what is preferred."""
    spoken: dict[str, list[Candidate]] = {}
    for candidate in candidates:
        language = language_of(candidate.locator) if candidate.locator.otherwise is None else ""
        if language:
            spoken.setdefault(language, []).append(candidate)
    return {language: (said if as_ranked else _in_order(said, ()))[0] for language, said in spoken.items()}


def _in_order(candidates: Sequence[Candidate], preferred: Collection[Locator]) -> list[Candidate]:
    """By expected loss; among those that last alike as far as is known (the best's interval holds them), by taste."""

    def loss(candidate: Candidate) -> float:
        return candidate.loss - (PREFERRED if candidate.locator in preferred else 0.0)

    by_loss = sorted(candidates, key=lambda c: (loss(c), c.distaste, str(c.locator)))
    if not by_loss:
        return []
    best = by_loss[0]
    equal = [c for c in by_loss if loss(c) <= loss(best) + alike(best.doubt)]
    rest = by_loss[len(equal) :]
    taste = {c.locator: c.distaste for c in equal}
    for one in equal:
        for looser in _looser(one, equal):  # it holds wherever the other does: what it gains is not in doubt
            taste[one.locator] = max(taste[one.locator], looser.distaste + LENGTH)
    return [*sorted(equal, key=lambda c: (c.locator not in preferred, taste[c.locator] + WORTH * loss(c), str(c.locator))), *rest]


def _looser(one: Candidate, others: Sequence[Candidate]) -> Iterator[Candidate]:
    """Of a candidate that asks for a whole address those in the same language that ask for no more than it does, and of the address
    for its beginning alone, and lose less: what it goes on with says the state of a page."""
    asked = {(fact.kind, fact.element, fact.value) for fact, _ in one.outlook.hazards}
    begun = {(f"{kind}~" if kind == "href" else kind, element, value) for kind, element, value in asked}
    if begun == asked:
        return
    for other in others:
        rests = {(fact.kind, fact.element, fact.value) for fact, _ in other.outlook.hazards}
        if rests <= begun and not rests <= asked and other.loss < one.loss - SURELY:
            if language_of(other.locator) == language_of(one.locator):
                yield other


def _joined(element: Element, ranked: Sequence[Candidate], futures: Futures, asked: Question) -> list[Locator]:
    """The best candidate with one more alternative after the other, those that fail when it does not."""
    if asked.ways < 2 or not ranked or ranked[0].weak:
        return []
    first, *rest = [ranked[0], *(c for c in ranked[1:] if says_itself(c, element.index, element.page))]
    ways = alternatives(first, rest, element, futures, asked)
    return [Locator.either(*(way.locator for way in ways[:count])) for count in range(2, len(ways) + 1)]


def failures_of(element: Element, locator: Locator, futures: Futures) -> npt.NDArray[np.bool_]:
    """Where a plain locator no longer finds its element alone; shape (futures, releases)."""
    return failures(futures, dependencies(element.page, locator, element.index), element.index)


def covering(
    failing: Sequence[npt.NDArray[np.bool_]],
    most: int,
    tastes: Sequence[float] = (),
    worth: float = 0.0,
    same: Callable[[int, int], bool] | None = None,
) -> list[int]:
    """The first, then greedily whichever leaves the fewest futures in which all fail; where it is told how little an engineer would
    like each (`tastes`), of those that are as good the one liked best. None that leaves less than `worth` fewer, and none that is
    the `same` as one before it.

    Greedy choice is within 1 - 1/e of the best set, since covering futures is submodular (Nemhauser, Wolsey, Fisher 1978).
    """
    chosen = [0] if failing else []
    together = failing[0] if failing else np.zeros(0, np.bool_)
    while len(chosen) < min(most, len(failing)):
        left = (k for k in range(len(failing)) if k not in chosen and not (same and any(same(k, one) for one in chosen)))
        still = {k: float((together & failing[k]).mean()) for k in left}
        fewest = min(still.values(), default=1.0)
        if not still or float(together.mean()) - fewest < worth:
            break
        as_good = [k for k in still if still[k] <= fewest + (AS_GOOD if tastes else 0.0)]
        chosen.append(min(as_good, key=lambda k: (tastes[k] if tastes else 0.0, k)))
        together = together & failing[chosen[-1]]
    return chosen


def telling(candidates: Sequence[Candidate], most: int) -> list[Candidate]:
    """The first candidates that say something else than those before them: none that rests on all that a better one does."""
    return apart(((c, frozenset(fact for fact, _ in c.outlook.hazards)) for c in candidates), most)


def apart(ranked: Iterable[tuple[T, frozenset[Dependency]]], most: int) -> list[T]:
    """The first of some, with what they rest on, of which none rests on all that one before it does."""
    kept: list[tuple[T, frozenset[Dependency]]] = []
    for one, resting in ranked:
        if not any(resting >= known for _, known in kept):
            kept.append((one, resting))
            if len(kept) == most:
                break
    return [one for one, _ in kept]


def assess(locator: Locator | str, element: Element, question: Question | None = None) -> Candidate:
    """The same figures for a locator of the user's own, which must find the element (among others at most), else ValueError. Weak
    where one of its ways is."""
    asked = question or Question()
    value = as_locator(locator)
    if element.index not in match(element.page, value):
        raise ValueError(f"the locator does not find that element: {value}")
    resting = _resting(element, value)
    told = _assess(element, value, "given", resting, futures_of(element.page, asked), asked)
    numbered = known_by_number(element.page, element.index)
    return replace(told, weak=any(is_weak(facts, element.index, numbered) for facts in resting))


def futures_of(page: Page, question: Question) -> Futures:
    """The futures of a page, the same for all questions about it by one model and seed."""
    kept = Authored.of(page)
    key = (question.weighing.digest, question.seed)
    futures = kept.futures.get(key)
    if futures is None:
        futures = kept.futures[key] = Futures(
            question.weighing, question.seed, components=components_of(page), page=kept.stream or page.digest
        )
    return futures


def _resting(element: Element, locator: Locator) -> list[tuple[Dependency, ...]]:
    """What each of its ways rests on that finds the element alone."""
    page, index = element.page, element.index
    ways = [way for way in locator.alternatives if match(page, way) == [index]] if locator.otherwise else [locator]
    return [dependencies(page, way, index) for way in ways or [locator]]


def _assess(
    element: Element, locator: Locator, kind: str, resting: list[tuple[Dependency, ...]], futures: Futures, asked: Question
) -> Candidate:
    around = Surroundings.of(element.page, element.index)
    taste = min(distaste(facts, locator, element.index, around) for facts in resting)
    return _told(element, locator, kind, resting, outlook_of_ways(futures, resting, element.index), futures, asked, taste)


def _told(
    element: Element,
    locator: Locator,
    kind: str,
    resting: Sequence[Sequence[Dependency]],
    outlook: Outlook,
    futures: Futures,
    asked: Question,
    taste: float,
) -> Candidate:
    """With its figures; `resting`: what each of its ways rests on; `taste`: its distaste."""
    at = asked.releases - 1
    return Candidate(
        locator=locator,
        kind=kind,
        survival=outlook.alive[at],
        interval=(outlook.low[at], outlook.high[at]),
        lost=outlook.lost[at],
        stolen=outlook.stolen[at],
        ambiguous=outlook.ambiguous[at],
        curve=outlook.alive,
        doubt=outlook.doubt[at] + (asked.stolen_costs - 1) * outlook.theft_doubt[at],
        reasons=_why(element.page, outlook, resting, futures, element.index),
        outlook=outlook,
        costs=asked.stolen_costs,
        distaste=taste,
    )


def _why(page: Page, outlook: Outlook, resting: Sequence[Sequence[Dependency]], futures: Futures, element: int) -> tuple[str, ...]:
    """Of several ways what each rests on most, since one that lasts is enough."""
    if len(resting) == 1:
        return reasons(page, outlook.hazards, element)
    model = futures.model
    first: list[str] = []
    for facts in resting:
        weighed = sorted(((d, model.rate(model.lost, d.group).hazard) for d in facts), key=lambda entry: -entry[1])
        first.extend(reasons(page, weighed, element)[:1])
    return (f"{first[0]}; or else {', or else '.join(first[1:])}",) if len(first) > 1 else tuple(first)


def ways_to_host(page: Page, host: int, model: ChangeModel) -> list[Hops]:
    """Hops that open the tree of a host, by different facts; one in CSS and one in XPath among them. The longest-lasting first;
    what rests on chance last."""
    kept, key = Authored.of(page).ways, (host, model.digest)
    if key in kept:
        return kept[key]
    above = page.hosts(host)
    prefixes: Sequence[Hops] = ways_to_host(page, above[-1], model) if above else [()]
    boundary = boundary_of(page, host)
    # by chance, the loss, the length; the way; what it rests on
    weighed: list[tuple[tuple[bool, float, int], Hops, frozenset[Dependency]]] = []
    scope = (int(page.tree[host]), -1)
    leading = dict.fromkeys([*prefixes[:1], *_in("css", prefixes), *_in("xpath", prefixes)])
    ways = [hops for hops, _ in in_tree(page, host)]
    ways += _searched_too(page, host, ways, model)
    said = filter(None, (in_xpath_too(page, hops, host) for hops in ways))
    twins = [twin for twin in said if is_unique(page, twin, scope, host)]
    for hops in dict.fromkeys([*ways, *twins]):
        # the way to its tree is the same for all, and is not weighed again
        facts = dependencies(page, Locator(hops), host, scope)
        chance = rests_on_chance(facts) or goes_by_levels(hops[-1].finder)
        survival = closed_form(model, facts, host, 1)
        for prefix in leading:
            opening = (*prefix, *hops[:-1], replace(hops[-1], boundary=boundary))
            weighed.append(((chance, -survival, sum(len(str(hop)) for hop in hops)), opening, frozenset(facts)))
    weighed.sort(key=lambda entry: entry[0])
    ordered = [hops for _, hops, _ in weighed]
    first = apart(((hops, resting) for _, hops, resting in weighed), HOST_WAYS)
    best = kept[key] = [*dict.fromkeys([*first, *_in("css", ordered), *_in("xpath", ordered)])]
    return best


def _searched_too(page: Page, host: int, ways: Sequence[Hops], model: ChangeModel) -> list[Hops]:
    """What a search finds, where no way in CSS, or none in XPath, tells a host from others of its tree by more than chance."""
    scope = (int(page.tree[host]), -1)
    for language in ("css", "xpath"):
        said = (hops for hops in ways if _is_in(language, hops))
        if all(is_weak(dependencies(page, Locator(hops), host, scope), host) for hops in said):
            return [hops for hops, _ in search(page, host, model, STOLEN_COSTS).hops]
    return []


def _in(language: str, ways: Iterable[Hops]) -> list[Hops]:
    """The first of some ways that is in one language throughout."""
    return [*itertools.islice((hops for hops in ways if _is_in(language, hops)), 1)]


def _is_in(language: str, hops: Hops) -> bool:
    return all(finder.strategy == language for hop in hops for finder in hop.finder.with_anchors())
