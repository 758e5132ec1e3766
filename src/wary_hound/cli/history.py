"""history: what a team's own snapshots say of how its pages change."""

from __future__ import annotations

import json
from dataclasses import replace
from pathlib import Path
from typing import Any

import click
from rich.text import Text
from scipy.special import expit, logit

from wary_hound.cli.common import FILE, json_option, print_json
from wary_hound.files import write_aside
from wary_hound.healing.sureness import fitted, told
from wary_hound.measuring.following import Followed, follow
from wary_hound.report.terminal import bar, console, percent, progress, table
from wary_hound.robustness.model import AS_SHIPPED, UNCALIBRATED, ChangeModel, Curve
from wary_hound.robustness.updating import Difference, differences, updated

MOST = 15
SAID = 0.8
"""A confidence to show by what has been learnt of it."""


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
    labels, elements are followed by relocation, and only sure matches count. It is also learnt how sure relocation may be
    on your pages (repair and compare take --rates, too): without labels from sure matches, with what makes them sure hidden.

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
    at_hand, from_memory = folders.heard
    own = replace(updated(shipped, folders.observations, source), judging=(fitted(at_hand), fitted(from_memory)))
    write_aside({out: (json.dumps(own.to_json(), indent=0) + "\n").encode()})
    _told(own, shipped, plot, as_json)
    if as_json:
        return
    _judged(folders, own.judging)
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


def _judged(followed: Followed, judging: tuple[Curve, Curve]) -> None:
    """How relocation did on elements that are known, or hidden in part: as it ships, and as it is taken from now on."""
    asked = "elements" if followed.labelled else "sure elements, with what makes them sure hidden,"
    for heard, curve, where in zip(followed.heard, judging, ("with the old page", "from memory"), strict=True):
        if not heard:
            continue
        count = len([one for one in heard if not one.taken])
        (was, wrong), (right, mistaken) = told(heard, UNCALIBRATED), told(heard, curve)
        learnt = f"now {_share(right)} and {_share(mistaken)}" if curve != UNCALIBRATED else "nothing better was learnt"
        console().print(f"Relocation {where}: of {count:,} {asked} {_share(was)} found, {_share(wrong)} wrong; {learnt}.")


def _share(value: float) -> str:
    return f"{100 * value:.1f} %"


def _told(own: ChangeModel, shipped: ChangeModel, plot: Path | None, as_json: bool) -> None:
    differing = differences(own, shipped)
    if plot is not None:
        from wary_hound.report.plots import rates_plot, write_plot

        write_plot(rates_plot(differing[:MOST]), plot)
    if as_json:
        print_json({"source": own.source, "differences": [_json(d) for d in differing], "judging": own.judging})
        return
    out = console()
    out.print(f"From {own.source}.")
    sure = sum(d.sure for d in differing)
    out.print(
        f"{len(differing)} kinds of facts were seen; of {sure} it is sure that they last otherwise than the shipped rates say.\n"
    )
    rows = []
    for entry in differing[:MOST]:
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
    if len(differing) > MOST:
        out.print(f"and {len(differing) - MOST} more (--json gives all)")
    if own.judging != AS_SHIPPED:
        taken = [expit(intercept + slope * logit(SAID)) for intercept, slope in own.judging]
        out.print(
            f"\nWhere relocation says {percent(SAID)}: taken for {percent(taken[0])} with the old page at hand, "
            f"{percent(taken[1])} from memory."
        )
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
