"""compare: what of a page is other on another one, told as a person would, and which locators that touches."""

from __future__ import annotations

from dataclasses import asdict
from pathlib import Path
from typing import Any

import click
from rich.padding import Padding
from rich.text import Text

from wary_hound.cli.common import (
    FILE,
    PAGE,
    browser_option,
    element_json,
    json_option,
    page_name,
    print_json,
    rates_option,
    read_page,
    read_rates,
    short,
)
from wary_hound.errors import FileError
from wary_hound.healing.changes import Alignment, Told, align, told
from wary_hound.journey.book import parse_book
from wary_hound.journey.journey import parse_journey
from wary_hound.journey.touched import Touched, touched_by
from wary_hound.report.terminal import bold, console, mark, shown

STATES = ("broken", "drifted", "unsure", "gone", "changed")
SHOWN_EACH = 8
"""So many lines of each part of the page, unless all are asked for."""


class _States(click.ParamType[frozenset[str]]):
    """States that fail a comparison, separated by commas."""

    name = "states"

    def convert(self, value: Any, parameter: click.Parameter | None, context: click.Context | None) -> frozenset[str]:
        if isinstance(value, frozenset):
            return value
        given = frozenset(part.strip() for part in str(value).split(",") if part.strip())
        odd = sorted(given - set(STATES))
        if odd:
            self.fail(f"{odd[0]!r} is none of {', '.join(STATES)}", parameter, context)
        return given


@click.command()
@click.argument("old_page", type=PAGE)
@click.argument("new_page", type=PAGE)
@click.option("--book", "books", type=FILE, multiple=True, help="A book: which of its locators the changes touch.")
@click.option("--journey", "journeys", type=FILE, multiple=True, help="A journey: which of its steps they touch.")
@click.option(
    "--fail-on", type=_States(), default="broken,drifted", show_default=True, help=f"Exit 1 on any of {', '.join(STATES)}."
)
@click.option("--all", "everything", is_flag=True, help=f"All changes, not the first {SHOWN_EACH} of each part of the page.")
@click.option("--report", "report_path", type=FILE, help="Write a report as one HTML page, with both pictures.")
@rates_option
@browser_option
@json_option
@click.pass_context
def command(
    context: click.Context,
    old_page: str | Path,
    new_page: str | Path,
    books: tuple[Path, ...],
    journeys: tuple[Path, ...],
    fail_on: frozenset[str],
    everything: bool,
    report_path: Path | None,
    rates: Path | None,
    browser: str,
    as_json: bool,
) -> None:
    """What changed between two pages: elements that are gone, new, moved or other than before; with a book or a journey, which
    locators that touches. Pages are snapshots, or addresses, which a headless browser shows.

    \b
    Example, on the demo's files (wary-hound demo writes them to demo-out/):
      wary-hound compare demo-out/pages/nights@r2.html demo-out/pages/nights@r3.html \\
        --book demo-out/books/nights.yaml

    Exit 1 where a locator is in a state of --fail-on (gone and changed: where any element of the page is).
    """
    read = [parse_book(path)[1] for path in books]
    walks = [(path, parse_journey(path)[1]) for path in journeys]
    for path, journey in walks:
        if journey.book and not books:
            read.append(parse_book(path.parent / journey.book)[1])
    old, new = read_page(old_page, browser), read_page(new_page, browser)
    if not len(old) or not len(new):
        raise FileError("a page without elements cannot be compared")
    model = read_rates(rates)
    alignment = align(old, new, model)
    lines = told(alignment)
    touched = [entry for book in read for entry in touched_by(book, [journey for _, journey in walks], old, new, model)]
    if report_path is not None:
        from wary_hound.report.comparison import write_comparison

        write_comparison(alignment, lines, touched, (page_name(old_page), page_name(new_page)), report_path)
    if as_json:
        print_json(_json(alignment, lines, touched))
    else:
        _show(alignment, lines, touched, (page_name(old_page), page_name(new_page)), everything)
        if report_path is not None:
            console().print(f"Report: {report_path}")
    states: set[str] = {entry.state for entry in touched}
    if alignment.gone:
        states.add("gone")
    if lines:
        states.add("changed")
    context.exit(1 if states & fail_on else 0)


def _json(alignment: Alignment, lines: list[Told], touched: list[Touched]) -> dict[str, Any]:
    return {
        "elements": {"old": len(alignment.old), "new": len(alignment.new), "paired": len(alignment.pairs)},
        "changes": [
            {
                "state": line.state,
                "section": line.section,
                "elements": [element_json(e) for e in line.elements],
                "inside": line.inside,
                "what": [asdict(change) for change in line.changes],
            }
            for line in lines
        ],
        "locators": [
            {"name": t.name, "locator": t.locator, "state": t.state, "trouble": t.trouble, "steps": list(t.steps)} for t in touched
        ],
    }


def _show(alignment: Alignment, lines: list[Told], touched: list[Touched], names: tuple[str, str], everything: bool) -> None:
    out = console()
    pairs = len(alignment.pairs)
    out.print(Text.assemble(bold(f"{names[0]} → {names[1]}")))
    changed = len(alignment.changed)
    out.print(
        f"{pairs} of {len(alignment.old)} elements are there again, {changed} of them changed; "
        f"{len(alignment.gone)} gone, {len(alignment.added)} new"
    )
    sections: dict[str, list[Told]] = {}
    for line in lines:
        sections.setdefault(line.section, []).append(line)
    for section, inside in sections.items():
        out.print("")
        out.print(bold(section or "the page"))
        for line in inside if everything else inside[:SHOWN_EACH]:
            _show_line(line)
        if not everything and len(inside) > SHOWN_EACH:
            out.print(Text(f"  … and {len(inside) - SHOWN_EACH} more; --all shows them", "dim"))
    if not lines:
        out.print("Nothing changed.")
    if touched:
        out.print("")
        out.print(bold("Locators"))
        width = max(len(t.name) for t in touched)
        for entry in (t for t in touched if t.state != "works"):
            out.print(Text.assemble(f"  {entry.name:{width}}  ", mark(entry.state), f"  {entry.trouble}"))
            out.print(Text(f"  {'':{width}}  {entry.locator}", "dim"))
            for step in entry.steps:
                out.print(Padding(Text(shown(f"used in {step}"), "dim"), (0, 0, 0, width + 4)))
        fine = sum(t.state == "works" for t in touched)
        out.print(f"  {fine} of {len(touched)} work as before")


def _show_line(line: Told) -> None:
    out = console()
    state = mark(line.state)
    state.pad_right(10 - len(state))
    head = Text.assemble("  ", state, f" {short(line.elements[0], 44)}")
    if line.state != "changed":
        out.print(Text.assemble(head, Text(f", with {line.inside} inside" if line.inside else "", "dim")))
        return
    more = f"  and {len(line.elements) - 1} more" if len(line.elements) > 1 else ""
    out.print(Text.assemble(head, Text(more, "dim")))
    out.print(Padding(Text(shown("; ".join(map(str, line.changes)))), (0, 0, 0, 13)))
