"""bench: measure locators and relocation on labelled histories."""

from __future__ import annotations

from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import click

from wary_hound.cli.common import FILE, json_option, print_json
from wary_hound.measuring.bench import GONE, THERE, TOP, WAYS, Result, bench, share, total
from wary_hound.measuring.history import read_histories
from wary_hound.report.terminal import console, percent, progress, table


@click.command()
@click.argument("folder", type=FILE)
@click.option("--jobs", type=click.IntRange(1), help="Processes to use; as many as there are processors by default.")
@json_option
def command(folder: Path, jobs: int | None, as_json: bool) -> None:
    """How authored locators and relocations did on labelled histories: all pairs of versions, old before new.

    \b
    Example, on the demo's own history (wary-hound demo writes it to demo-out/):
      wary-hound bench demo-out/pages
    """
    histories = read_histories(folder)
    out = console()
    with ProcessPoolExecutor(jobs) as executor, progress(out) as shown:
        task = shown.add_task("measuring", total=len(histories))
        try:
            results = bench(histories, executor, lambda _: shown.advance(task))
        except KeyboardInterrupt:
            executor.shutdown(wait=True, cancel_futures=True)
            raise
    summed = total(results)
    if as_json:
        print_json({"pages": [r.to_json() for r in results], "all": summed.to_json()})
        return
    _show(out, results, summed)


def _show(out: object, results: Sequence[Result], summed: Result) -> None:
    from rich.console import Console

    assert isinstance(out, Console)
    out.print("[bold]Still finds exactly its element[/bold] (share of pairs where the element is still there)\n")
    rows = []
    for result in [*results, summed]:
        counts = result.locators
        rows.append((result.name, str(sum(counts[TOP].values())), *(percent(share(counts[way], "alive"), 1) for way in WAYS)))
    out.print(table([("page", "whole"), ("pairs", "right"), *((way, "right") for way in WAYS)], rows))
    out.print("\n[bold]How they fail[/bold], in all\n")
    rows = [
        (way, *(percent(share(summed.locators[way], fate), 1) for fate in ("alive", "lost", "stolen", "ambiguous"))) for way in WAYS
    ]
    out.print(table(["locator", *((f, "right") for f in ("alive", "lost", "stolen", "ambiguous"))], rows))
    out.print("\n[bold]Relocation[/bold]: the element is there; it is gone; it was taken out of the new page\n")
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
