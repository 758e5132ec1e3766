"""How long whole pages take to align, beside a plain all-pairs comparison of texts; how time and memory grow.

usage: alignment.py [FOLDER] [--largest N]

FOLDER: histories (the demo's where none is given); the largest page of each is aligned with its next version. Prints ratios in
one run beside plain ways, which compare every element of the old page with every one of the new by rapidfuzz: on the attributes,
text and names as one string; and on each of nine things apart, weighed and summed, which finds far more: by rapidfuzz's own
all-pairs comparison of whole columns, and as one writes it first, a loop over pairs (of SOME old elements, as much longer for all).
"""

from __future__ import annotations

import argparse
import time
import tracemalloc
from collections.abc import Sequence
from pathlib import Path

import numpy as np
from rapidfuzz import fuzz, process

from wary_hound import Element, Page, align, fingerprint, relocate_all
from wary_hound.demo.tour import demo_folder
from wary_hound.measuring.history import read_histories


def plain(old: Page, new: Page) -> float:
    """Seconds of the plain way."""
    begun = time.perf_counter()
    texts = [
        [" ".join([e.tag, *(f"{k}={v}" for k, v in e.attributes.items()), e.text[:200], e.name[:200], e.label[:200]]) for e in page]
        for page in (old, new)
    ]
    scores = np.vstack([process.cdist([text], texts[1], scorer=fuzz.ratio, dtype=np.uint8) for text in texts[0]])
    scores.argmax(axis=1)
    return time.perf_counter() - begun


WEIGHTS = {"tag": 1.5, "id": 1.5, "name": 1.5, "text": 1.5, "beside": 1.5, "class": 0.5, "href": 0.5, "alt": 0.5, "path": 0.5}


def thing_by_thing(old: Page, new: Page) -> float:
    """Seconds of the plain way that compares each of nine things."""
    begun = time.perf_counter()
    columns = [{name: [_said(e, name) for e in page] for name in WEIGHTS} for page in (old, new)]
    total = np.zeros((len(old), len(new)), np.float32)
    for name, weight in WEIGHTS.items():
        total += weight * process.cdist(columns[0][name], columns[1][name], scorer=fuzz.ratio, dtype=np.uint8)
    total.argmax(axis=1)
    return time.perf_counter() - begun


SOME = 25


def pair_by_pair(old: Page, new: Page) -> float:
    """Seconds of the same in a loop over pairs, from those of some old elements, evenly taken."""
    begun = time.perf_counter()
    columns = [[[(_said(e, name), weight) for name, weight in WEIGHTS.items()] for e in page] for page in (old, new)]
    prepared = time.perf_counter() - begun
    some = columns[0][:: max(1, len(old) // SOME)]
    begun = time.perf_counter()
    for one in some:
        max(
            range(len(new)),
            key=lambda at, one=one: sum(w * fuzz.ratio(a, b) for (a, w), (b, _) in zip(one, columns[1][at], strict=True)),  # type: ignore[misc]
        )
    return prepared + (time.perf_counter() - begun) * len(old) / len(some)


def _said(e: Element, name: str) -> str:
    if name == "path":
        return " ".join(e.page.tags[above] for above in e.page.ancestors(e.index))
    if name == "beside":
        return e.parent.text[:200] if e.parent is not None else ""
    return {"tag": e.tag, "text": e.text[:200]}.get(name) or e.attributes.get(name, "")


def aligned(old: Page, new: Page) -> float:
    begun = time.perf_counter()
    align(old, new)
    return time.perf_counter() - begun


def _times(times: Sequence[float]) -> str:
    one, nine, looped = times
    return f"as one string {one:.1f} times as long, nine things {nine:.1f} times, pair by pair {looped:.0f} times"


def made(count: int, word: str) -> Page:
    rows = "".join(
        f"<tr id=n{k}><td>Night {k}</td><td>{k % 7}</td><td><a href=/nights/{k}>More</a></td><td><button>{word}</button></td></tr>"
        for k in range(count // 7)
    )
    return Page.parse(f"<main><h1>Nights</h1><table>{rows}</table></main>")


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("folder", type=Path, nargs="?", default=demo_folder() / "pages")
    parser.add_argument("--largest", type=int, default=50_000)
    options = parser.parse_args()
    ratios = []
    for history in read_histories(options.folder):
        files = history.versions[-2].file, history.versions[-1].file
        old, new = (Page.read(file) for file in files)
        fast = aligned(old, new)
        old, new = (Page.read(file) for file in files)
        one = plain(old, new)
        old, new = (Page.read(file) for file in files)
        ratios.append((len(old), fast, one / fast, thing_by_thing(old, new) / fast, pair_by_pair(old, new) / fast))
    for count, fast, *times in sorted(ratios)[-5:]:
        print(f"{count:6} elements: {1000 * fast:6.0f} ms; {_times(times)}")
    print(f"median of {len(ratios)}: {_times(np.median([entry[2:] for entry in ratios], axis=0).tolist())}")
    before = 0.0
    count = 3_000
    while count <= options.largest:
        old, new = made(count, "Hold"), made(count, "Reserve")
        taken = aligned(old, new)
        more = f", {taken / before:4.1f} times the one before" if before else ""
        print(f"{len(old):6} elements, a table of look-alikes: {taken:6.2f} s{more}")
        before, count = taken, count * 2
    page = made(20_000, "Hold")
    remembered = [fingerprint(e) for e in page.find_all("css{button}")[:250]]
    tracemalloc.start()
    begun = time.perf_counter()
    relocate_all(remembered, made(20_000, "Reserve"))
    taken = time.perf_counter() - begun
    print(f"250 remembered elements on 20,000: {taken:.2f} s, at most {tracemalloc.get_traced_memory()[1] / 1e6:.0f} MB")


if __name__ == "__main__":
    main()
