"""Times ranking by simulated futures, against evaluating each candidate on each future page with lxml, in one run.

usage: survival.py

The page has 5,600 elements, 1,600 of them links and buttons to rank. A part is measured and scaled up: ranking of a few
elements, and lxml's compiled XPath (CSS through cssselect) for their candidates on one page, counted once a future.
"""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable
from typing import Any

from lxml import etree, html
from lxml.cssselect import CSSSelector

from evaluation import season
from wary_hound.authoring.batch import best_of_all
from wary_hound.authoring.ranking import rank
from wary_hound.healing.witnesses import witnesses_at_once
from wary_hound.page import Element, Page
from wary_hound.robustness.survival import FUTURES


def lxml_seconds(text: str, candidates: list[str], strategies: list[str]) -> float:
    """The mean time of one candidate on one page; only those that lxml can be asked."""
    root = html.fromstring(text).getroottree()
    taken = []
    ask: Callable[[Any], object]
    for expression, strategy in zip(candidates, strategies, strict=True):
        if strategy == "css":
            ask = CSSSelector(expression, translator="html")
        elif strategy == "xpath":
            ask = etree.XPath(expression)
        else:
            continue
        rounds = []
        for _ in range(5):
            start = time.perf_counter()
            ask(root)
            rounds.append(time.perf_counter() - start)
        taken.append(statistics.median(rounds))
    return statistics.fmean(taken)


def ranked(elements: list[Element]) -> tuple[float, float]:
    """Seconds for an element, and candidates, in the mean."""
    start = time.perf_counter()
    found = [rank(element) for element in elements]
    return (time.perf_counter() - start) / len(elements), statistics.fmean(len(c) for c in found)


def main() -> None:
    text = season(700)
    page = Page.parse(text)
    wanted = [e for e in page if e.tag in ("a", "button")]
    rank(wanted[0])  # what a page remembers once
    some = wanted[50 :: len(wanted) // 40]
    seconds, candidates = ranked(some)
    finders = [c.locator.hops[-1].finder for c in rank(some[3])]
    plain = [f for f in finders if not f.relations]
    once = lxml_seconds(text, [f.expression for f in plain], [f.strategy for f in plain])
    theirs = once * candidates * FUTURES
    print(
        f"A page of {len(page):,} elements, {len(wanted):,} of them ranked, {candidates:.0f} candidates each, {FUTURES:,} futures"
    )
    print(f"  ours: {1e3 * seconds:.0f} ms an element, {seconds * len(wanted):.0f} s for all, in one process")
    print(
        f"  lxml: {1e3 * once:.2f} ms for one candidate on one page, {theirs * len(wanted) / 3600:.1f} hours for all on each future"
    )
    print(f"  ratio {theirs / seconds:.0f}\n")
    start = time.perf_counter()
    for best in best_of_all(wanted):
        assert best is not None
        witnesses_at_once(best.element)
    at_once = (time.perf_counter() - start) / len(wanted)
    told = f"{1e3 * at_once:.1f} ms an element, {at_once * len(wanted):.0f} s for all"
    print(f"The best of each with its witnesses, as for a book: {told}")
    print(f"  ratio {seconds / at_once:.0f} to ranking each\n")
    print(f"{'elements':>9} {'ms an element':>14}")
    for rows in (143, 700, 2800):
        grown = Page.parse(season(rows))
        rank(grown[20])
        each, _ = ranked([e for e in grown if e.tag == "button"][5:100:10])
        print(f"{len(grown):9,} {1e3 * each:14.0f}")


if __name__ == "__main__":
    main()
