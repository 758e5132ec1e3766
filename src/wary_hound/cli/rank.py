"""rank: locators for an element, by how long they will last."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import click
from rich.padding import Padding
from rich.text import Text

from wary_hound.authoring.advice import Advice, advise
from wary_hound.authoring.portfolio import Portfolio, portfolio
from wary_hound.authoring.question import PURPOSES, STOLEN_COSTS, WAYS, Question
from wary_hound.authoring.ranking import Candidate, assess, best_of_each, rank, telling
from wary_hound.authoring.rules import FACTS, Rules
from wary_hound.authoring.targets import control_around
from wary_hound.authoring.tradeoff import tradeoff
from wary_hound.cli.common import (
    COSTS,
    FILE,
    PAGE,
    browser_option,
    element_json,
    in_lines,
    json_option,
    print_json,
    rates_option,
    read_locator,
    read_page,
    read_rates,
    short,
)
from wary_hound.cli.ranking_all import rank_all
from wary_hound.errors import LocatorError
from wary_hound.healing.known import tried_on
from wary_hound.locator.finding import find
from wary_hound.locator.kinds import KINDS
from wary_hound.locator.values import Locator
from wary_hound.page import Element, Page
from wary_hound.report.constants import LANGUAGES
from wary_hound.report.terminal import bar, console, percent, survival_colour, table


@click.command()
@click.argument("page", type=PAGE)
@click.argument("locator", required=False)
@click.option("--all", "everything", is_flag=True, help="The best locator of every element that a person can use.")
@click.option("--as", "language", type=click.Choice([*LANGUAGES]), help="With --all: as constants, plain W3C strategy and value.")
@click.option("-o", "--output", type=FILE, help="With --all: write a book (.yaml), a table (.csv), or the constants.")
@click.option("--releases", type=click.IntRange(1, 10), default=3, show_default=True, help="How many releases ahead.")
@click.option("-n", "--most", type=click.IntRange(1), default=8, show_default=True, help="How many candidates to show.")
@click.option("--plot", type=FILE, help="Also write a survival plot (.png or .svg).")
@click.option("--report", type=FILE, help="Write a report as one HTML page.")
@click.option("--only", multiple=True, type=click.Choice(list(KINDS)), help="Strategies allowed; may be given again.")
@click.option("--without", multiple=True, metavar="FACT", help=f"Never rest on: {', '.join(FACTS)}, or an attribute.")
@click.option("--for", "purpose", type=click.Choice(PURPOSES), help="What for; what is read or checked is not found by its text.")
@click.option("--also", type=PAGE, multiple=True, help="The page in another use (data, state, user); what fails there is marked.")
@click.option("--prefer", multiple=True, metavar="ATTRIBUTE", help="Attributes to choose first (data-* for patterns).")
@click.option(
    "--stolen-costs",
    type=COSTS,
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
    locator: str | None,
    everything: bool,
    language: str | None,
    output: Path | None,
    releases: int,
    most: int,
    plot: Path | None,
    report: Path | None,
    only: tuple[str, ...],
    without: tuple[str, ...],
    prefer: tuple[str, ...],
    stolen_costs: float,
    ways: int,
    purpose: str | None,
    also: tuple[str | Path, ...],
    browser: str,
    rates: Path | None,
    as_json: bool,
) -> None:
    """Locators for the element that LOCATOR finds on PAGE, those that will last longest first; with --all, for every element.

    \b
    Example, on the demo's snapshots (wary-hound demo writes them to demo-out/):
      wary-hound rank demo-out/pages/nights@r1.html 'css{#night-form [type=submit]}'
    """
    rules = Rules(only, without, prefer)
    question = Question(read_rates(rates), releases, rules, stolen_costs, ways=ways, purpose=purpose or "")
    if (locator is None) != everything:
        raise click.UsageError("name one element by a LOCATOR, or all of them by --all")
    if everything:
        rank_all(read_page(page, browser), question, language, output, as_json)
        return
    if language or output:
        raise click.UsageError("--as and -o go with --all")
    wanted = read_locator(locator or "")
    element = find(read_page(page, browser), wanted)
    control = control_around(element)
    if control is not None:
        click.echo(f"That is the icon in {short(control)}, which takes the click: locators are for that.", err=True)
        wanted, element = rank(control, question)[0].locator, control
    ranking = _ranked(element, wanted, question, {str(other): read_page(other, browser) for other in also})
    _write_files(ranking, plot, report)
    if as_json:
        print_json(ranking.to_json(most))
        return
    _tell(ranking, most)
    for file in (plot, report):
        if file is not None:
            console().print(f"Written: {file}")


@dataclass(frozen=True)
class _Ranking:
    """All that is known of one element's locators."""

    element: Element
    question: Question
    candidates: list[Candidate]
    given: Candidate
    chosen: Portfolio
    advice: list[Advice]

    def best_of_each(self) -> dict[str, Candidate]:
        return best_of_each(self.candidates, as_ranked=bool(self.question.rules.prefer))

    def to_json(self, most: int) -> dict[str, Any]:
        return {
            "element": element_json(self.element),
            "releases": self.question.releases,
            "candidates": [_json(c) for c in self.candidates[:most]],
            "given": _json(self.given),
            "best_of_each_language": {language: _json(c) for language, c in self.best_of_each().items()},
            "fallbacks": [str(c) for c in self.chosen.fallbacks],
            "portfolio_survival": round(self.chosen.survival, 4),
            "advice": [
                {
                    "attribute": a.attribute,
                    "value": a.value,
                    "on": element_json(self.element.page[a.element]),
                    "survival": round(after, 4),
                }
                for a in self.advice
                for _, _, after in a.lifts
            ],
        }


def _ranked(element: Element, locator: Locator, question: Question, also: Mapping[str, Page]) -> _Ranking:
    candidates = rank(element, question)
    if not candidates:
        raise LocatorError("the house rules leave no candidate: allow more with --only, or drop a --without")
    tried = tried_on(element, candidates, also)
    candidates = list(tried.candidates)
    for name in tried.unsure:
        click.echo(f"On {name} it is not sure which element this is; that page says nothing here.", err=True)
    named = {element.name or element.tag: element.index}
    return _Ranking(
        element,
        question,
        candidates,
        tried_on(element, [assess(locator, element, question)], also).candidates[0],
        portfolio(element, question=question, ranked=[c for c in candidates if not c.fails_on] or candidates),
        advise(element.page, named, question),
    )


def _write_files(ranking: _Ranking, plot: Path | None, report: Path | None) -> None:
    if plot is not None:
        from wary_hound.report.plots import survival_plot, write_plot

        write_plot(survival_plot(ranking.candidates[:5], ranking.given), plot)
    if report is not None:
        from wary_hound.report.ranking import ranking_page, write_ranking

        page = ranking_page(ranking.element, ranking.candidates, ranking.given, ranking.chosen, ranking.advice, ranking.question)
        write_ranking(page, report)


AFTER_BAR, INDENT = 37, 6
"""So much stands in a line before a locator, and before what it goes on with."""


def _tell(ranking: _Ranking, most: int) -> None:
    out, candidates, releases = console(), ranking.candidates, ranking.question.releases
    out.print(Text.assemble(("Element ", "bold"), short(ranking.element, 80)))
    after = f"after {releases} release{'s' if releases > 1 else ''} and a change of use"
    costs = f"{ranking.question.stolen_costs:g}"
    out.print(f"{len(candidates)} candidates, {after}; a stolen match weighs {costs} times.")
    out.print(Text("In brackets what nine applications of ten come to: they differ in how fast they change.\n", "dim"))
    said = telling(candidates, most)
    for number, candidate in enumerate(said, 1):
        _show(out, f"{number:2}", candidate, said[0])
    left = len(candidates) - len(said)
    if left:
        out.print(Text(f"    and {left} more, most of which rest on all that a better one does (--json, -n)", "dim"))
    _show_each_language(out, ranking.best_of_each())
    same = next((k for k, c in enumerate(candidates, 1) if c.locator == ranking.given.locator), None)
    out.print()
    if same is None:
        out.print("The locator given:")
        _show(out, "  ", ranking.given, said[0] if said else ranking.given)
    else:
        out.print(f"The locator given is number {same} of {len(candidates)}.")
    chosen = ranking.chosen
    if chosen.fallbacks:
        fallbacks = "  and  ".join(str(c) for c in chosen.fallbacks)
        out.print(Text(f"With fallbacks {fallbacks}, one of them finds it in {percent(chosen.survival)} of futures after 3."))
    for entry in ranking.advice:
        what = f'{entry.attribute}="{entry.value}" on {short(ranking.element.page[entry.element], 40)}'
        _, now, then = entry.lifts[0]
        out.print(Text(f"To do better: {what} would lift the best of one way from {percent(now)} to {percent(then)}."))


def _show_each_language(out: Any, best: dict[str, Candidate]) -> None:
    if len(best) < 2:
        return
    rows = [
        (language, Text(percent(c.survival), survival_colour(c.survival)), Text(str(c.locator), "bold"), "weak" if c.weak else "")
        for language, c in best.items()
    ]
    out.print()
    out.print(table([("best in", "whole"), ("lasts", "right"), ("locator", "wide"), ""], rows))


def _show(out: Any, number: str, candidate: Candidate, first: Candidate) -> None:
    low, high = candidate.interval
    first_way, *ways = str(candidate.locator).split(" else ")
    lines = [in_lines(first_way, out.width - AFTER_BAR), *(in_lines(f"else {way}", out.width - INDENT) for way in ways)]
    said = "\n".join(lines).replace("\n", "\n" + INDENT * " ")
    out.print(
        Text.assemble(
            f"{number}  ",
            (bar(candidate.survival), survival_colour(candidate.survival)),
            f" {percent(candidate.survival):>5} ",
            (f"({100 * low:.0f} to {100 * high:.0f})", "dim"),
            "  ",
            (said, "bold"),
            ("  ✓ proven best" if candidate.proven else "", "cyan"),
        )
    )
    if candidate.fails_on:
        out.print(Padding(Text(f"Fails on {', '.join(candidate.fails_on)}", "red"), (0, 0, 0, INDENT)))
    if candidate.weak:
        weak = "Weak: it says what kind of element, or where, not which one."
        weak += "" if candidate.kind == "given" else " Nothing better finds it alone."
        out.print(Padding(Text(weak, "yellow"), (0, 0, 0, INDENT)))
    if candidate is not first:
        out.print(Padding(Text(tradeoff(candidate, first)), (0, 0, 0, INDENT)))
    fails = f"lost {percent(candidate.lost, 1)}, stolen {percent(candidate.stolen, 1)}, ambiguous {percent(candidate.ambiguous, 1)}"
    out.print(Padding(Text(f"{fails}; {'; '.join(candidate.reasons)}", "dim"), (0, 0, 0, INDENT)))


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
        "weak": candidate.weak,
        "fails_on": list(candidate.fails_on),
    }
