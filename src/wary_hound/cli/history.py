"""history: what a team's own snapshots say of how its pages change."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import click
from rich.text import Text

from wary_hound.cli.common import FILE, json_option, print_json
from wary_hound.files import write_aside
from wary_hound.measuring.following import follow
from wary_hound.report.terminal import bar, console, percent, progress, table
from wary_hound.robustness.model import ChangeModel
from wary_hound.robustness.updating import Difference, differences, updated

MOST = 15


@click.group()
def command() -> None:
    """How your pages change from release to release, learnt from your own snapshots.

    \b
    Example, on the demo's snapshots (wary-hound demo writes them to demo-out/):
      wary-hound history learn demo-out/pages -o ours.json
      wary-hound rank demo-out/pages/nights@r1.html 'css{.notice-close}' --rates ours.json
    """


@command.command()
@click.argument("folder", type=FILE)
@click.option("-o", "--out", type=FILE, required=True, help="The change model to write (JSON).")
@click.option("--plot", type=FILE, help="Also draw what differs from the shipped rates (.png or .svg).")
@json_option
def learn(folder: Path, out: Path, plot: Path | None, as_json: bool) -> None:
    """Estimate rates from snapshots of the same pages: with a truth.json by its labels, else NAME@VERSION.html.

    The shipped rates are the prior: where your snapshots say little of a kind of fact, the shipped rate stays. Without
    labels, elements are followed by relocation, and only sure matches count.

    \b
    Example: wary-hound history learn demo-out/pages -o ours.json
    """
    shipped = ChangeModel.shipped()
    with progress(console()) as shown:
        going = shown.add_task("following", total=None)
        folders = follow(folder, lambda name: shown.update(going, description=f"following {Path(name).name}"))
    way = "labels" if folders.labelled else "relocation, sure matches only"
    source = (
        f"{len(folders.observations):,} facts of {folders.elements:,} elements on {folders.pairs} pairs of snapshots, "
        f"followed by {way}; prior: the shipped rates, version {shipped.version}"
    )
    own = updated(shipped, folders.observations, source)
    write_aside({out: (json.dumps(own.to_json(), indent=0) + "\n").encode()})
    _told(own, shipped, plot, as_json)
    if not as_json:
        console().print(f"Written: {out}")


@command.command()
@click.argument("rates", type=FILE)
@click.option("--plot", type=FILE, help="Also draw it (.png or .svg).")
@json_option
def show(rates: Path, plot: Path | None, as_json: bool) -> None:
    """What differs from the shipped rates in a change model that `history learn` wrote.

    \b
    Example: wary-hound history show ours.json --plot ours.png
    """
    _told(ChangeModel.read(rates), ChangeModel.shipped(), plot, as_json)


def _told(own: ChangeModel, shipped: ChangeModel, plot: Path | None, as_json: bool) -> None:
    told = differences(own, shipped)
    if plot is not None:
        from wary_hound.report.plots import rates_plot, write_plot

        write_plot(rates_plot(told[:MOST]), plot)
    if as_json:
        print_json({"source": own.source, "differences": [_json(d) for d in told]})
        return
    out = console()
    out.print(f"From {own.source}.")
    sure = sum(d.sure for d in told)
    out.print(f"{len(told)} kinds of facts were seen; of {sure} it is sure that they last otherwise than the shipped rates say.\n")
    rows = []
    for entry in told[:MOST]:
        word = Text("like shipped", "dim")
        if entry.sure:
            word = Text("▲ lasts longer", "green") if entry.own > entry.shipped else Text("▼ lasts less", "red")
        low, high = entry.interval
        rows.append(
            (
                entry.group,
                f"{bar(entry.own, 8)} {percent(entry.own):>5}",
                f"{100 * low:.0f} to {100 * high:.0f}",
                percent(entry.shipped),
                word,
                f"{entry.observed:,}",
            )
        )
    columns: list[str | tuple[str, str]] = [
        ("kind / look", "whole"),
        ("last a release", "whole"),
        ("90 %", "right"),
        ("shipped", "right"),
        "",
        ("facts", "right"),
    ]
    out.print(table(columns, rows))
    if len(told) > MOST:
        out.print(f"and {len(told) - MOST} more (--json gives all)")
    if plot is not None:
        out.print(f"Plot: {plot}")


def _json(entry: Difference) -> dict[str, Any]:
    return {
        "group": entry.group,
        "lasts": round(entry.own, 4),
        "interval": [round(v, 4) for v in entry.interval],
        "shipped": round(entry.shipped, 4),
        "sure": entry.sure,
        "observed": entry.observed,
    }
