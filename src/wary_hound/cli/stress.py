"""stress: how long a book's or a journey's locators will last."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import click
from rich.text import Text

from wary_hound.authoring.advice import Advice, advise
from wary_hound.authoring.question import Question
from wary_hound.cli.common import FILE, executor, json_option, print_json, rates_option, read_page, read_rates, short
from wary_hound.journey.stress import Stress, Stressed, stress, tasks_of
from wary_hound.page import Page
from wary_hound.report.terminal import bar, bold, console, percent, progress, shorten, survival_colour, table


@click.command()
@click.argument("path", type=FILE)
@click.option("--releases", type=click.IntRange(1, 10), default=3, show_default=True, help="How many releases ahead.")
@click.option("--fail-under", type=click.FloatRange(0, 1), help="Exit 1 where the whole survives in a smaller share of futures.")
@click.option("--advice", "with_advice", is_flag=True, help="Which attributes on the page would help most.")
@click.option("--plot", type=FILE, help="Write the survival plot (.png or .svg).")
@click.option("--picture", type=FILE, help="Write the page's picture, elements tinted by risk (.png).")
@rates_option
@click.option("--jobs", type=click.IntRange(1), help="Processes to use; as many as there are processors by default.")
@click.option("--cluster", metavar="ADDRESS", help="Spread the work over a Dask cluster (needs the extra `cluster`).")
@json_option
@click.pass_context
def command(
    context: click.Context,
    path: Path,
    releases: int,
    fail_under: float | None,
    with_advice: bool,
    plot: Path | None,
    picture: Path | None,
    rates: Path | None,
    jobs: int | None,
    cluster: str | None,
    as_json: bool,
) -> None:
    """How long the locators of a book, or of a journey with its book, will last; which fail first, and why.

    \b
    Example, on the demo's files (wary-hound demo writes them to demo-out/):
      wary-hound stress demo-out/books/hold-a-night.yaml --advice --picture risk.png
    """
    model = read_rates(rates)
    question = Question(model, releases)
    title, tasks = tasks_of(path, question)
    with executor(jobs, cluster) as pool, progress(console()) as shown:
        going = shown.add_task("judging", total=len(tasks))
        stressed = stress(title, tasks, pool, lambda _: shown.advance(going))
    pages = {task.page: read_page(task.page) for task in tasks}
    advice = [(page, a) for file, page in pages.items() for a in _advice(stressed, file, page, question)] if with_advice else []
    if plot is not None:
        from wary_hound.report.plots import stress_plot, write_plot

        write_plot(stress_plot(stressed), plot)
    if picture is not None:
        _write_pictures(stressed, pages, advice, picture)
    if as_json:
        print_json(_json(stressed, advice))
    else:
        _show(stressed)
        _show_advice(advice, with_advice)
        for file in (plot, picture):
            if file is not None:
                console().print(f"Written: {file}")
    low = fail_under is not None and stressed.survival < fail_under
    if low and not as_json:
        console().print(Text(f"✗ {percent(stressed.survival)} is under the {percent(fail_under)} asked for", "red"))
    context.exit(1 if low or any(e.main is None for e in stressed.elements) else 0)


def _advice(stressed: Stress, file: Path, page: Page, question: Question) -> list[Advice]:
    here = {e.name: e.element for e in stressed.elements if e.page == file and e.element >= 0}
    return advise(page, here, question) if here else []


def _write_pictures(stressed: Stress, pages: dict[Path, Page], advice: list[tuple[Page, Advice]], target: Path) -> None:
    from wary_hound.report.marked import Mark, write_picture

    for number, (file, page) in enumerate(pages.items()):
        marks = [
            Mark(e.element, f"{shorten(e.name, 26)} {percent(e.survival(stressed.releases))}", e.survival(stressed.releases))
            for e in stressed.elements
            if e.page == file and e.element >= 0
        ]
        marks += [Mark(a.element, f'+ {a.attribute}="{a.value}"') for on, a in advice if on is page]
        caption = (
            f"In how many futures its locator still finds each element, after {stressed.releases} releases; blue is "
            "steady, red weak."
        )
        write_picture(page, marks, target if number == 0 else target.with_stem(f"{target.stem}-{file.stem}"), caption)


def _show(stressed: Stress) -> None:
    out = console()
    after = f"after {stressed.releases} release{'s' if stressed.releases > 1 else ''}"
    out.print(Text.assemble((stressed.title, "bold"), f": {len(stressed.elements)} elements, {after}"))
    out.print(
        Text.assemble(
            (f"{bar(stressed.survival)} {percent(stressed.survival)}", survival_colour(stressed.survival)),
            " of futures have all of them right; with fallbacks ",
            percent(stressed.with_fallbacks[stressed.releases - 1]),
        )
    )
    rows = []
    for entry in stressed.elements:
        survival = entry.survival(stressed.releases)
        main = entry.main
        cell = Text(f"{bar(survival, 6)} {percent(survival):>5}", survival_colour(survival))
        rows.append(
            (
                shorten(entry.name, 24),
                cell,
                *((percent(v) for v in (main.lost, main.stolen, main.ambiguous)) if main else ("–", "–", "–")),
                shorten(main.reasons[0] if main else entry.note, 44),
            )
        )
    columns: list[str | tuple[str, str]] = [
        "element",
        ("survives", "whole"),
        ("lost", "right"),
        ("stolen", "right"),
        ("ambig.", "right"),
        "why",
    ]
    out.print()
    out.print(table(columns, rows))
    better = [e for e in stressed.weakest if e.best is not None]
    if better:
        out.print(bold("\nThe weakest, and what would last longer"))
    for entry in better:
        assert entry.best is not None
        out.print(Text.assemble(f"  {entry.name}: ", (str(entry.best.locator), "bold"), f"  {percent(entry.best.survival)}"))


def _show_advice(advice: list[tuple[Page, Advice]], asked: bool) -> None:
    out = console()
    if not asked:
        return
    out.print(bold("\nWhat the page could offer"))
    if not advice:
        out.print("  No single attribute would lift these elements by much.")
    for page, entry in advice:
        before = sum(b for _, b, _ in entry.lifts) / len(entry.lifts)
        after = sum(a for _, _, a in entry.lifts) / len(entry.lifts)
        what = f'{entry.attribute}="{entry.value}"'
        count = f"{len(entry.lifts)} locator{'s' if len(entry.lifts) > 1 else ''}"
        out.print(
            Text.assemble(
                "  ",
                (what, "bold"),
                f" on {short(page[entry.element], 40)} lifts {count} from {before:.2f} to {after:.2f}: ",
                shorten(", ".join(name for name, _, _ in entry.lifts), 60),
            )
        )


def _json(stressed: Stress, advice: list[tuple[Page, Advice]]) -> dict[str, Any]:
    return {
        "title": stressed.title,
        "releases": stressed.releases,
        "survival": round(stressed.survival, 4),
        "curve": [round(v, 4) for v in stressed.curve],
        "with_fallbacks": [round(v, 4) for v in stressed.with_fallbacks],
        "elements": [_element_json(e, stressed.releases) for e in stressed.elements],
        "advice": [
            {
                "page": str(page.source),
                "element": short(page[a.element]),
                "index": a.element,
                "attribute": a.attribute,
                "value": a.value,
                "lifts": [{"element": n, "before": round(x, 4), "after": round(y, 4)} for n, x, y in a.lifts],
            }
            for page, a in advice
        ],
    }


def _element_json(entry: Stressed, releases: int) -> dict[str, Any]:
    main = entry.main
    return {
        "name": entry.name,
        "page": str(entry.page),
        "locator": entry.locator,
        "survival": round(entry.survival(releases), 4),
        "lost": round(main.lost, 4) if main else None,
        "stolen": round(main.stolen, 4) if main else None,
        "ambiguous": round(main.ambiguous, 4) if main else None,
        "reasons": list(main.reasons) if main else [entry.note],
        "better": {"locator": str(entry.best.locator), "survival": round(entry.best.survival, 4)} if entry.best else None,
    }
