"""Learns the rates of the change model from labelled histories, and writes them as robustness/rates.json.

usage: learn_rates.py FOLDER [--cache FILE] [--write]

`robustness/fitting.py` says how they are fitted, and what floors are assumed.
"""

from __future__ import annotations

import argparse
import json
import pickle
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

from wary_hound.measuring.bench import each_without
from wary_hound.measuring.calibrating import calibrated, calibrations
from wary_hound.measuring.history import read_histories, read_variants
from wary_hound.measuring.trials import collect, collect_use
from wary_hound.robustness.fitting import learn


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("folder", type=Path)
    parser.add_argument("--cache", type=Path)
    parser.add_argument("--write", action="store_true")
    options = parser.parse_args()
    histories = read_histories(options.folder)
    if options.cache and options.cache.exists():
        rows, use = pickle.loads(options.cache.read_bytes())
    else:
        with ProcessPoolExecutor() as pool:
            rows = [row for trials in pool.map(collect, histories) for row in trials]
            use = [row for trials in pool.map(collect_use, read_variants(options.folder)) for row in trials]
        if options.cache:
            options.cache.write_bytes(pickle.dumps((rows, use)))
    pairs = len({(r.case[0], r.case[2], r.case[3]) for r in rows})
    elements = len({r.case for r in rows})
    applications = len({r.application for r in rows})
    source = (
        f"{len(rows):,} trials of locators, for {elements:,} labelled elements on {pairs:,} pairs of page versions, "
        f"{applications} open-source web interfaces, and {len(use):,} trials on other uses of the same versions, fitted by "
        "scripts/learn_rates.py; floors assumed: robustness/fitting.py"
    )
    model = learn(rows, "10", source, use=use)
    with ProcessPoolExecutor() as pool:
        names = sorted({history.application for history in histories})
        without = each_without(names, rows, use, pool)
        model = calibrated(model, calibrations(histories, without, pool))
    print(f"pace {model.pace:.2f}, calibration {model.calibration}, of stolen and ambiguous {model.failing}")
    print(source)
    print([(s.name, round(s.share, 2), round(s.multiplier, 2)) for s in model.sizes])
    for name in ("lost", "stolen", "ambiguous"):
        print(name)
        for group, rate in sorted(getattr(model, name).items(), key=lambda e: e[1].hazard):
            used = model.rate(model.use[name], group)
            said = f"{rate.hazard:.4f}  spread {rate.spread:.2f}  n {rate.observed}"
            print(f"  {group:32} {said}  in use {used.hazard:.4f}  n {used.observed}")
    if options.write:
        target = Path(__file__).parent.parent / "src" / "wary_hound" / "robustness" / "rates.json"
        text = json.dumps(model.to_json(), indent=0, ensure_ascii=False)
        target.write_text(text + "\n", encoding="utf-8")
        print(f"written: {target.name}")


if __name__ == "__main__":
    main()
