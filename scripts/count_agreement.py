"""Counts how far our engines agree with a browser's on pages: the long form of the judges in the tests.

usage: count_agreement.py BROWSER COUNT PAGE.html [PAGE.html ...]
       count_agreement.py names PAGE.html [PAGE.html ...]
       count_agreement.py shown PAGE.html [PAGE.html ...]

The first: for each page opened in the browser, the selectors and expressions of tests/judging.py, and COUNT more made from
each tree's own content by a seed. The second: role and accessible name of every element that a person can perceive, in
Chromium. The third: which elements are shown, worked out from the page alone, beside what Chromium says. All print cases,
disagreements, and each one that is left.
"""

from __future__ import annotations

import sys
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent.parent / "tests"))

from test_accessibility import compared
from test_judges import judge
from test_styling import taken_otherwise
from wary_hound import Browser, Page


def shown(seen: Page) -> tuple[int, list[tuple[str, str, str]]]:
    """How many elements a captured page has; which are taken otherwise than the browser shows them, and how that is."""
    rendered = seen.semantics.rendered
    return len(seen), [(e.tag, str(e.attributes), "shown" if rendered[e.index] else "hidden") for e in taken_otherwise(seen)]


def main() -> None:
    kind, files = sys.argv[1], [Path(file) for file in sys.argv[2:] if not file.isdigit()]
    cases = odd = known = 0
    printed: set[str] = set()
    with Browser.start("chromium" if kind in ("names", "shown") else kind) as browser:
        for file in files:
            excused = 0
            if kind == "names":
                live = browser.open(file.resolve().as_uri())
                count, found = compared(browser, live.capture(), live)
            elif kind == "shown":
                count, found = shown(browser.open(file.resolve().as_uri()).capture())
            else:
                count, found, excused = judge(browser, kind, file, int(sys.argv[2]))
            cases, odd, known = cases + count, odd + len(found), known + excused
            for entry in found:
                what = str(entry[2] if kind != "names" else entry[:2])
                if what not in printed:
                    print(f"{file.name}: {', '.join(str(part)[:80] for part in entry)}")
                printed.add(what)
    share = f"{1 - odd / max(cases, 1):.2%} agree, {odd} disagreements, {known} where the browser is known to differ"
    print(f"{kind}: {cases:,} cases on {len(files)} pages: {share}")


if __name__ == "__main__":
    main()
