"""Journeys many times over, and what a step costs. Run:

python benchmarks/journeys.py [times] [busy processes beside it] [chromium,firefox]

The demo's journey in each browser, with a notice that now and then comes up over the whole page at some moment: how many runs
pass. What a step of a journey takes
beside the input action alone, by strategy, with and without pictures, on a small page and a large one. How large the evidence of a
run is. How long a dozen runs take in one process, in two, and on two workers of a cluster, beside one another.
"""

from __future__ import annotations

import json
import multiprocessing
import random
import shutil
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import distributed  # type: ignore[import-untyped,unused-ignore]

from evaluation import season
from wary_hound import Browser, Journey
from wary_hound.demo.server import serve, site_folder
from wary_hound.demo.tour import demo_folder
from wary_hound.journey.reading import read_written
from wary_hound.running.evidence import write_evidence
from wary_hound.running.replay import replay

STRATEGIES = ("css{button}#90", "xpath{(//button)[90]}", 'role{button "Hold 89"}', "text{Hold 89}")
SMALL = ("css{#b}", "xpath{//button}", 'role{button "x"}', "text{x}")
PAGE = "<!doctype html><ul><li><i>Vega</i><button id=b>x</button></ul>"
RUNS = 12


def _busy() -> None:
    while True:
        pass


COVERED = """
if (Math.random() < 0.7) {
  setTimeout(() => {
    const notice = document.getElementById("notice");
    notice.style.cssText = "position: fixed; inset: 0; z-index: 9";
    notice.hidden = false;
    notice.querySelector("button").addEventListener("click", () => { notice.hidden = true; });
  }, Math.random() * 2000);
}
"""
"""What makes the site's notice come over all else, on most visits, some time in the first seconds."""


def passes(browser: Browser, kind: str, times: int, made: Path) -> None:
    """The demo's journey, each time with another seed of the site: reports and numbers differ, and when the notice comes."""
    folder = demo_folder() / "books"
    shutil.copytree(site_folder() / "r1", made / "r1")
    script = made / "r1" / "site.js"
    script.write_text(script.read_text() + COVERED)
    written = read_written(folder / "hold-a-night.yaml")[0].journey
    dice, passed, seconds, guarded = random.Random(7), 0, list[float](), 0
    guard = {"when": "notice-close", "click": "notice-close"}
    steps = [s for s in written.steps if s.on != "notice-close"]
    with serve(made) as site:
        for number in range(times):
            seed = dice.randrange(1000)
            opening = steps[0].model_copy(update={"value": f"/index.html?seed={seed}"})
            plain = written.model_dump(by_alias=True) | {"guards": [guard]}
            plain["steps"] = [s.to_plain() for s in (opening, *steps[1:])]
            for other in ("before", "after"):
                plain[other] = []
            journey = Journey.model_validate(plain)
            run = replay(journey, journey.read_book(folder), browser, base=f"{site}/r1", folder=folder, pictures=False)
            passed += run.state == "passed"
            guarded += bool(run.guards)
            seconds.append(run.seconds)
            if run.failing is not None:
                print(
                    f"  run {number + 1}, seed {seed}: {run.failing.says}: {run.failing.message.splitlines()[0][:140]}", flush=True
                )
    print(
        f"{kind}: {passed} of {times} runs pass, its guard was needed in {guarded}; {statistics.median(seconds):.1f} s each",
        flush=True,
    )


def steps(browser: Browser, kind: str, folder: Path) -> None:
    """A click as a step beside the input action alone."""
    print(f"\n{kind}: {'elements':>8} {'a click':>24} {'bare':>7} {'step':>8} {'ratio':>6} {'with picture':>13} {'ratio':>6}")
    for rows in (0, 700):
        (folder / "page.html").write_text(season(rows) if rows else PAGE)
        with serve(folder) as site:
            live = browser.open(f"{site}/page.html")
            count = len(live.capture())
            for locator in STRATEGIES if rows else SMALL:
                bare = _bare(browser, f"{site}/page.html", locator)
                told = []
                for pictures in (False, True):
                    clicks = [{"open": "/page.html"}, *[{"click": locator}] * 8]
                    journey = Journey.model_validate({"journey": "Clicks", "steps": clicks})
                    run = replay(journey, None, browser, base=site, folder=folder, pictures=pictures)
                    told.append(statistics.median(step.seconds for step in run.steps[1:]))
                first, other = told
                print(
                    f"{kind}: {count:8,} {locator:>24} {bare * 1e3:5.0f}ms {first * 1e3:6.0f}ms {first / bare:6.1f} "
                    f"{other * 1e3:11.0f}ms {other / bare:6.1f}",
                    flush=True,
                )
            live.close()


def _bare(browser: Browser, address: str, locator: str) -> float:
    live = browser.open(address)
    ready = live._target.ready(locator, "click")
    move = {"type": "pointerMove", "x": 0, "y": 0, "origin": {"type": "element", "element": ready.node}}
    press = [{"type": way, "button": 0} for way in ("pointerDown", "pointerUp")]
    actions = [{"type": "pointer", "id": "mouse", "parameters": {"pointerType": "mouse"}, "actions": [move, *press]}]
    taken = []
    for _ in range(9):
        start = time.perf_counter()
        live._connection.send("input.performActions", context=ready.context, actions=actions)
        taken.append(time.perf_counter() - start)
    live.close()
    return statistics.median(taken)


def evidence(browser: Browser, folder: Path) -> None:
    """The size of what one run of the demo's journey leaves behind."""
    books = demo_folder() / "books"
    journey = read_written(books / "hold-a-night.yaml")[0].journey
    for release in ("r1", "r6"):
        with serve() as site:
            run = replay(journey, journey.read_book(books), browser, base=f"{site}/{release}", folder=books, limit=5.0)
        write_evidence(run, folder / release)
        files = [f for f in (folder / release).rglob("*") if f.is_file()]
        print(f"\nEvidence of a run on {release} ({run.state}): {len(files)} files, {sum(f.stat().st_size for f in files):,} bytes")


def growth(kind: str) -> None:
    """A dozen runs by one process, two, and two workers of a cluster."""
    path = demo_folder() / "books" / "hold-a-night.yaml"
    taken = dict[str, float]()
    run = ["wary-hound", "run", str(path), "--browser", kind, "--times", str(RUNS), "--json"]
    workers = distributed.LocalCluster(n_workers=2, threads_per_worker=1, dashboard_address="127.0.0.1:0")  # type: ignore[no-untyped-call]
    with serve() as site, workers as cluster:
        for name, more in (
            ("one process", ["--jobs", "1"]),
            ("two processes", ["--jobs", "2"]),
            ("two workers", ["--cluster", cluster.scheduler_address]),
        ):
            start = time.perf_counter()
            done = subprocess.run([*run, "--base", f"{site}/r1", *more], capture_output=True, text=True, check=False)
            taken[name] = time.perf_counter() - start
            states = [run["state"] for run in json.loads(done.stdout)["runs"]]
            print(
                f"{kind}: {name}: {states.count('passed')} of {RUNS} passed in {taken[name]:.0f} s, "
                f"{taken['one process'] / taken[name]:.2f} times as fast",
                flush=True,
            )


def main(times: int = 50, busy: int = 0, names: str = "chromium,firefox") -> None:
    """Print all of it for each browser."""
    beside = [multiprocessing.Process(target=_busy, daemon=True) for _ in range(busy)]
    for process in beside:
        process.start()
    try:
        for kind in names.split(","):
            with Browser.start(kind) as browser, tempfile.TemporaryDirectory() as made:
                passes(browser, kind, times, Path(made))
                if not busy:
                    steps(browser, kind, Path(made))
                    evidence(browser, Path(made))
            if not busy:
                growth(kind)
    finally:
        for process in beside:
            process.terminate()


if __name__ == "__main__":
    main(*(kind(value) for kind, value in zip((int, int, str), sys.argv[1:], strict=False)))
