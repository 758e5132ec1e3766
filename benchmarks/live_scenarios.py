"""What pages do to whoever drives them, many times over: which scenarios always come out right. Run:

python benchmarks/live_scenarios.py [times] [busy processes beside it] [chromium,firefox]
"""

from __future__ import annotations

import multiprocessing
import sys
import time
from collections import Counter
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent.parent / "tests"))

from scenarios import SCENARIOS, drive, serving
from wary_hound import Browser


def _busy() -> None:
    while True:
        pass


def main(times: int = 10, busy: int = 0, names: str = "chromium,firefox") -> None:
    """Print each scenario that failed, and the share that always held."""
    beside = [multiprocessing.Process(target=_busy, daemon=True) for _ in range(busy)]
    for process in beside:
        process.start()
    try:
        with serving() as site:
            for name in names.split(","):
                _browser(name, times, site)
    finally:
        for process in beside:
            process.terminate()


def _browser(name: str, times: int, site: str) -> None:
    failed: Counter[str] = Counter()
    begun = time.perf_counter()
    for scenario in SCENARIOS:
        with Browser.start(name) as browser:
            for _ in range(times):
                try:
                    drive(browser, scenario, site)
                except Exception as error:
                    failed[scenario] += 1
                    said = str(error).splitlines()[0][:120] if str(error) else ""
                    print(f"{name}: {scenario}: {type(error).__name__} {said}", flush=True)
    seconds = time.perf_counter() - begun
    right, passed = len(SCENARIOS) - len(failed), times * len(SCENARIOS) - failed.total()
    print(f"{name}: {right} of {len(SCENARIOS)} scenarios always; {passed} of {times * len(SCENARIOS)} runs; {seconds:.0f} s")


if __name__ == "__main__":
    main(*(kind(value) for kind, value in zip((int, int, str), sys.argv[1:], strict=False)))
