"""rank: locators for an element, by how long they will last."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import click
from rich.padding import Padding
from rich.text import Text

from wary_hound.authoring.advice import advise
from wary_hound.authoring.portfolio import portfolio
from wary_hound.authoring.ranking import STOLEN_COSTS, WAYS, Candidate, assess, rank, telling
from wary_hound.authoring.rules import FACTS, Rules
from wary_hound.cli.common import (
    FILE,
    PAGE,
    browser_option,
    element_json,
    json_option,
    print_json,
    rates_option,
    read_page,
    read_rates,
    short,
)
from wary_hound.errors import LocatorError
from wary_hound.locator.finding import find
from wary_hound.locator.values import Strategy
from wary_hound.report.terminal import bar, console, percent, survival_colour


@click.command()
@click.argument("page", type=PAGE)
@click.argument("locator")
@click.option("--releases", type=click.IntRange(1, 10), default=3, show_default=True, help="How many releases ahead.")
@click.option("-n", "--most", type=click.IntRange(1), default=8, show_default=True, help="How many candidates to show.")
@click.option("--plot", type=FILE, help="Also write a survival plot (.png or .svg).")
@click.option("--report", type=FILE, help="Write a report as one HTML page.")
@click.option(
    "--only", multiple=True, type=click.Choice([str(s) for s in Strategy]), help="Strategies allowed; may be given again."
)
@click.option("--without", multiple=True, metavar="FACT", help=f"Never rest on: {', '.join(FACTS)}, or an attribute.")
@click.option("--prefer", multiple=True, metavar="ATTRIBUTE", help="Attributes to choose first (data-* for patterns).")
@click.option(
    "--stolen-costs",
    type=click.FloatRange(1),
    default=STOLEN_COSTS,
    show_default=True,
    help="What a wrong match costs; a lost one: 1.",
)
@click.option(
    "--ways", type=click.IntRange(1), default=WAYS, show_default=True, help="How many ways a locator may hold (A else B)."
)
@browser_option
@rates_option
@json_option
def command(
    page: str | Path,
    locator: str,
    releases: int,
    most: int,
    plot: Path | None,
    report: Path | None,
    only: tuple[str, ...],
    without: tuple[str, ...],
    prefer: tuple[str, ...],
    stolen_costs: float,
    ways: int,
    browser: str,
    rates: Path | None,
    as_json: bool,
) -> None:
    """Locators for the element that LOCATOR finds on PAGE, those that will last longest first.

    \b
    Example, on the demo's snapshots (wary-hound demo writes them to demo-out/):
      wary-hound rank demo-out/pages/nights@r1.html 'css{#night-form [type=submit]}'
    """
    element = find(read_page(page, browser), locator)
    model = read_rates(rates)
    rules = Rules(only, without, prefer)
    candidates = rank(element, model, releases=releases, rules=rules, stolen_costs=stolen_costs, ways=ways)
    if not candidates:
        raise LocatorError("the house rules leave no candidate: allow more with --only, or drop a --without")
    given = assess(locator, element, model, releases=releases)
    chosen = portfolio(element, model=model, ranked=candidates)
    if plot is not None:
        from wary_hound.report.plots import survival_plot, write_plot

        write_plot(survival_plot(candidates[:5], given), plot)
    named = {element.name or element.tag: element.index}
    advice = advise(element.page, named, model, releases, rules=rules, stolen_costs=stolen_costs)
    if report is not None:
        from wary_hound.report.ranking import ranking_page, write_ranking

        write_ranking(ranking_page(element, candidates, given, chosen, advice, releases, model.source), report)
    if as_json:
        print_json(
            {
                "element": element_json(element),
                "releases": releases,
                "candidates": [_json(c) for c in candidates[:most]],
                "given": _json(given),
                "fallbacks": [str(c) for c in chosen.fallbacks],
                "portfolio_survival": round(chosen.survival, 4),
                "advice": [
                    {
                        "attribute": a.attribute,
                        "value": a.value,
                        "on": element_json(element.page[a.element]),
                        "survival": round(after, 4),
                    }
                    for a in advice
                    for _, _, after in a.lifts
                ],
            }
        )
        return
    out = console()
    out.print(Text.assemble(("Element ", "bold"), short(element, 80)))
    after = f"after {releases} release{'s' if releases > 1 else ''}"
    out.print(f"{len(candidates)} candidates, {after}; a match that is stolen by another element weighs {stolen_costs:g} times\n")
    shown = telling(candidates, most)
    for number, candidate in enumerate(shown, 1):
        _show(out, f"{number:2}", candidate)
    left = len(candidates) - len(shown)
    if left:
        out.print(f"    and {left} more, most of which rest on all that a better one does (--json, -n)", style="dim")
    same = next((k for k, c in enumerate(candidates, 1) if c.locator == given.locator), None)
    out.print()
    if same is None:
        out.print("The locator given:")
        _show(out, "  ", given)
    else:
        out.print(f"The locator given is number {same} of {len(candidates)}.")
    if chosen.fallbacks:
        fallbacks = "  and  ".join(str(c) for c in chosen.fallbacks)
        out.print(Text(f"With fallbacks {fallbacks}, one of them finds it in {percent(chosen.survival)} of futures after 3."))
    for entry in advice:
        what = f'{entry.attribute}="{entry.value}" on {short(element.page[entry.element], 40)}'
        _, now, then = entry.lifts[0]
        out.print(Text(f"To do better: {what} would lift the best of one way from {percent(now)} to {percent(then)}."))
    for file in (plot, report):
        if file is not None:
            out.print(f"Written: {file}")


def _show(out: Any, number: str, candidate: Candidate) -> None:
    low, high = candidate.interval
    out.print(
        Text.assemble(
            f"{number}  ",
            (bar(candidate.survival), survival_colour(candidate.survival)),
            f" {percent(candidate.survival):>5} ",
            (f"({100 * low:.0f} to {100 * high:.0f})", "dim"),
            "  ",
            (str(candidate.locator).replace(" else ", "\n      else "), "bold"),
            ("  ✓ best of CSS and XPath, proven" if candidate.proven else "", "cyan"),
        )
    )
    fails = f"lost {percent(candidate.lost, 1)}, stolen {percent(candidate.stolen, 1)}, ambiguous {percent(candidate.ambiguous, 1)}"
    out.print(Padding(Text(f"{fails}; {'; '.join(candidate.reasons)}", "dim"), (0, 0, 0, 6)))


def _json(candidate: Candidate) -> dict[str, Any]:
    return {
        "locator": str(candidate.locator),
        "kind": candidate.kind,
        "survival": round(candidate.survival, 4),
        "interval": [round(v, 4) for v in candidate.interval],
        "lost": round(candidate.lost, 4),
        "stolen": round(candidate.stolen, 4),
        "ambiguous": round(candidate.ambiguous, 4),
        "curve": [round(v, 4) for v in candidate.curve],
        "reasons": list(candidate.reasons),
        "proven_best": candidate.proven,
    }
