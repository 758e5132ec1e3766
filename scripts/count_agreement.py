"""Counts how far our engines agree with a browser's on pages: the long form of the judges in the tests.

usage: count_agreement.py BROWSER COUNT PAGE.html [PAGE.html ...]

For each page opened in the browser: the selectors and expressions of tests/judging.py, and COUNT more made from each tree's
own content by a seed. Prints cases, disagreements, and each one that is left.
"""

from __future__ import annotations

import json
import sys
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent.parent / "tests"))

from judging import CSS, XPATH, generated
from test_judges import JUDGE, KNOWN, route
from wary_hound import Browser
from wary_hound.errors import WaryHoundError
from wary_hound.locator import css, xpath


def main() -> None:
    kind, count, files = sys.argv[1], int(sys.argv[2]), sys.argv[3:]
    cases = odd = known = 0
    reasons: dict[str, int] = {}
    with Browser.start(kind) as browser:
        for number, file in enumerate(files):
            live = browser.open(Path(file).resolve().as_uri())
            page = live.capture()
            asked: dict[int, list[tuple[str, str]]] = {}
            for seen in page.trees:
                if seen.mode == "closed" or not len(page.index.in_tree[seen.number]):
                    continue
                own = [("css", s) for s in CSS] + [("xpath", e) for e in XPATH]
                own += generated(page, seen.number, seed=number, count=count)
                asked[seen.number] = [c for c in own if c[0] == "css"] if seen.kind == "shadow" else own
            routes = {t: route(page, t) for t in asked}
            answers = json.loads(live.script(JUDGE, json.dumps(routes), json.dumps(asked)))
            flat = [(t, *case) for t, entries in asked.items() for case in entries]
            for (tree, strategy, expression), theirs in zip(flat, answers, strict=True):
                cases += 1
                place = {index: n for n, index in enumerate(page.index.in_tree[tree].tolist())}
                try:
                    if strategy == "css":
                        found = css.match(page, css.parse(expression), tree).tolist()
                    else:
                        found = xpath.match(page, xpath.parse(expression), tree)
                    ours: object = [place[i] for i in found]
                except WaryHoundError as error:
                    ours = str(error)
                if ours == theirs or (isinstance(ours, str) and isinstance(theirs, str)):
                    continue
                if expression in KNOWN[kind]:
                    known += 1
                    continue
                odd += 1
                if reasons.setdefault(expression, 0) < 1:
                    print(f"{Path(file).name}, tree {tree}: {strategy} {expression}: {str(ours)[:80]} / {str(theirs)[:80]}")
                reasons[expression] += 1
    print(f"{kind}: {cases:,} cases on {len(files)} pages, {odd} disagreements, {known} where the browser is known to differ")


if __name__ == "__main__":
    main()
