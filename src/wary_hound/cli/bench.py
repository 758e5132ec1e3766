"""bench: measure locators and relocation on labelled histories."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from pathlib import Path

import click
from rich.console import Console
from rich.text import Text

from wary_hound.cli.common import FILE, json_option, print_json, workers
from wary_hound.measuring.bench import (
    FATES,
    GONE,
    IN_CSS,
    IN_XPATH,
    JOINED,
    RELOCATED,
    THERE,
    TOLD,
    TOP,
    WAYS,
    Result,
    bench,
    left_out,
    share,
    total,
)
from wary_hound.measuring.forecasts import Bin
from wary_hound.measuring.history import read_histories, read_variants
from wary_hound.report.terminal import bold, console, percent, progress, table


@click.command()
@click.argument("folder", type=FILE)
@click.option("--jobs", type=click.IntRange(1), help="Processes to use; as many as there are processors by default.")
@click.option("--leave-out", is_flag=True, help="Learn the rates anew for each application, from all the others.")
@click.option(
    "--every", type=click.IntRange(1), default=1, show_default=True, help="Rank one labelled element in so many (a sample)."
)
@click.option("--plot", type=FILE, help="Draw predicted against observed survival (.png or .svg).")
@json_option
def command(folder: Path, jobs: int | None, leave_out: bool, every: int, plot: Path | None, as_json: bool) -> None:
    """How authored locators and relocations did on labelled histories: all pairs of versions, old before new.

    \b
    Example, on the demo's own history (wary-hound demo writes it to demo-out/):
      wary-hound bench demo-out/pages
    """
    histories, variants = read_histories(folder), read_variants(folder)
    out = console()
    with workers(jobs) as executor, progress(out) as shown:
        task = shown.add_task("measuring", total=len(histories))
        models = left_out(histories, executor, variants) if leave_out else None
        results = bench(histories, executor, lambda _: shown.advance(task), models, variants, every)
    summed = total(results)
    if plot is not None:
        from wary_hound.report.plots import reliability_plot, write_plot

        write_plot(reliability_plot(summed.forecasts), plot)
    if as_json:
        print_json({"pages": [r.to_json() for r in results], "all": summed.to_json()})
        return
    _show(out, results, summed)


def _show(out: Console, results: Sequence[Result], summed: Result) -> None:
    out.print(Text.assemble(bold("Still finds exactly its element"), " (share of pairs where the element is still there)\n"))
    rows = []
    shown = {JOINED: JOINED, TOP: "plain", IN_CSS: "css", IN_XPATH: "xpath", "attribute ladder": "ladder"}
    for result in [*results, summed]:
        counts = result.locators
        rows.append((result.name, str(sum(counts[TOP].values())), *(percent(share(counts[way], "alive"), 1) for way in shown)))
    out.print(table([("page", "whole"), ("pairs", "right"), *((head, "right") for head in shown.values())], rows))
    _show_fates(
        out, "How they fail", ", over releases; nested: stolen by what is in the element, or around it", summed.locators, summed
    )
    if any(summed.used[TOP].values()):
        _show_fates(out, "In other uses", " of the same version (other data, state, width or language)", summed.used)
    _show_fates(out, "Without their element", ": it is off the page, nothing else has changed; lost is right", summed.without)
    _show_forecasts(out, summed)
    out.print(Text.assemble("\n", bold("Relocation"), ": the element is there; it is gone; it was taken out of the new page\n"))
    rows = []
    for result in [*results, summed]:
        there = [percent(share(result.there, v), 1) for v in THERE]
        rows.append(
            (
                result.name,
                *there,
                f"{result.gone['called gone']} of {sum(result.gone.values())}",
                *(percent(share(result.taken, v), 1) for v in GONE),
            )
        )
    heads = ["right", "wrong", "unsure", "gone", "gone ones", "out: gone", "unsure", "wrong"]
    out.print(table([("page", "whole"), *((h, "right") for h in heads)], rows))
    out.print(f"In {percent(summed.nested_share(RELOCATED), 2)} of all pairs the wrong one stands in the element, or around it")
    out.print(Text.assemble("\n", bold("Drift"), ": what repair says of a locator that finds one element on a later version\n"))
    rows = [
        (what, f"{sum(counts.values()):,}", *(percent(share(counts, told), 1) for told in TOLD))
        for what, counts in summed.drift.items()
    ]
    out.print(table(["it finds", ("pairs", "right"), *((told, "right") for told in TOLD)], rows))


def _show_fates(out: Console, title: str, what: str, counts: Mapping[str, Counter[str]], nested: Result | None = None) -> None:
    out.print(Text.assemble("\n", bold(title), what, "\n"))
    rows = [
        (
            way,
            f"{sum(counts[way].values()):,}",
            *(percent(share(counts[way], fate), 1) for fate in FATES),
            *([percent(nested.nested_share(way), 1)] if nested else []),
        )
        for way in WAYS
        if sum(counts[way].values())
    ]
    heads = [*FATES, *(["nested"] if nested else [])]
    out.print(table(["locator", ("pairs", "right"), *((head, "right") for head in heads)], rows))


def _told(entry: Bin) -> tuple[str, str, str]:
    return percent(entry.predicted, 1), percent(entry.observed, 1), f"{100 * (entry.predicted - entry.observed):+.1f}"


def _show_forecasts(out: Console, summed: Result) -> None:
    forecasts = summed.forecasts
    if not forecasts.count:
        return
    out.print(
        Text.assemble("\n", bold("Forecasts"), " of survival, of the top candidate and of the first proposal of several ways\n")
    )
    joined = summed.joined.by_releases()
    rows = [(str(k), f"{b.count:,}", *_told(b), *_told(joined[k])) for k, b in forecasts.by_releases().items()]
    heads = ["releases ahead", "pairs", "predicted", "observed", "off by", "several ways", "observed", "off by"]
    out.print(table([(h, "right") for h in heads], rows))
    out.print()
    bins = [(f"{100 * b.predicted:.0f}", f"{b.count:,}", percent(b.observed, 1)) for b in forecasts.calibration()]
    out.print(table([("predicted %", "right"), ("pairs", "right"), ("observed", "right")], bins))
    assert forecasts.brier is not None
    assert forecasts.regret is not None
    assert forecasts.calibration_error is not None
    out.print(
        f"\nBrier score {forecasts.brier:.3f}; calibration error {forecasts.calibration_error:.3f}, "
        f"of several ways {summed.joined.calibration_error:.3f}"
    )
    out.print(
        f"Regret {100 * forecasts.regret:.1f} points: so much more would the best of the first ten candidates have been right, had "
        f"one known; some one of them is right in {percent(forecasts.some / forecasts.count, 1)} of pairs"
    )
    if forecasts.concordance is not None:
        out.print(f"Of two candidates of which one was right, it had the higher forecast in {percent(forecasts.concordance, 1)}")
    fates = ", ".join(f"{fate} {percent(share(forecasts.team, fate), 1)}" for fate in ("alive", "lost", "stolen", "ambiguous"))
    out.print(f"With two fallbacks, the first locator that finds one element: {fates}")
    out.print(f"Search proved its best for {percent(summed.proven[True] / max(1, sum(summed.proven.values())), 1)} of elements")
