"""check: evaluate locators on pages, and explain."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import click
from rich.text import Text

from wary_hound.cli.common import FILE, PAGE, browser_option, element_json, json_option, print_json, read_locator, seen_page, short
from wary_hound.errors import FactsError
from wary_hound.locator.explain import Explanation, Miss, explain
from wary_hound.locator.near import nearest
from wary_hound.report.terminal import console, table

MOST_LISTED = 10


@click.command()
@click.argument("locator")
@click.argument("pages", type=PAGE, nargs=-1, required=True)
@click.option("--picture", type=FILE, help="Write a picture of the (first) page, its matches outlined and numbered (.png).")
@browser_option
@json_option
@click.pass_context
def command(
    context: click.Context, locator: str, pages: tuple[str | Path, ...], picture: Path | None, browser: str, as_json: bool
) -> None:
    """Evaluate a locator on one or more pages, and explain what it matches. Exit 1 unless it matches one on each.

    \b
    Example, on the demo's snapshots (wary-hound demo writes them to demo-out/):
      wary-hound check 'label{Visitor name}' demo-out/pages/nights@r3.html demo-out/pages/nights@r4.html
    """
    value = read_locator(locator)
    seen = [(path, *seen_page(path, browser)) for path in pages]
    explanations = [(path, explain(page, value)) for path, page, _ in seen]
    if picture is not None:
        from wary_hound.report.marked import Mark, write_picture

        marks = [Mark(index, str(number)) for number, index in enumerate(explanations[0][1].found, 1)]
        said = f"{value}: {explanations[0][1].summary}"
        write_picture(seen[0][1], marks, picture, said, seen[0][2])
    if as_json:
        print_json([{"page": str(path), **_json(explanation)} for path, explanation in explanations])
    else:
        for number, (path, explanation) in enumerate(explanations):
            if number:
                console().print()
            _show(path, explanation)
    context.exit(0 if all(len(explanation.found) == 1 for _, explanation in explanations) else 1)


def _json(explanation: Explanation) -> dict[str, Any]:
    return {
        "locator": str(explanation.locator),
        "count": len(explanation.found),
        "matches": [element_json(explanation.page[i]) for i in explanation.found[:100]],
        "hops": [
            {"hop": h.text, "in": h.where, "steps": [[s.text, s.count] for s in h.steps], "note": h.note} for h in explanation.hops
        ],
        "nearly": [
            {
                "locator": m.locator,
                "count": m.count,
                "change": m.change,
                "matches": [element_json(explanation.page[i]) for i in m.found[:5]],
            }
            for m in explanation.misses
        ],
        "nearest": [
            {**element_json(near.element), "why": near.why}
            for near in (nearest(explanation.locator, explanation.page) if not explanation.found else ())
        ],
        "apart": list(explanation.apart),
        "notes": list(explanation.notes),
    }


def _show(path: str | Path, explanation: Explanation) -> None:
    out = console()
    count = len(explanation.found)
    sign, colour = ("✓", "green") if count == 1 else ("✗", "red")
    said = "1 of 1" if count == 1 else f"{count or 'no'} matches"
    out.print(Text.assemble((f"{sign} {said}", colour), f"  {path.name if isinstance(path, Path) else path}"))
    for hop in explanation.hops:
        out.print(Text.assemble(("  in ", "dim"), hop.where))
        first = next((k for k, step in enumerate(hop.steps) if not step.count), None)
        for number, step in enumerate(hop.steps):
            out.print(
                Text.assemble(f"  {step.count:5}  ", step.text, ("   <- nothing is left here", "red") if number == first else "")
            )
        if hop.note:
            out.print(Text(f"         {hop.note}", "yellow"))
    if count:
        rows = []
        for number, index in enumerate(explanation.found[:MOST_LISTED]):
            element = explanation.page[index]
            last = (explanation.apart[number] or "nothing of its own") if explanation.apart else _place(explanation, index)
            rows.append((str(index), short(element, 44), element.role or "–", last))
        out.print(table([("no.", "right"), "match", "role", "only it has" if explanation.apart else "on the screen"], rows))
        if count > MOST_LISTED:
            out.print(f"  and {count - MOST_LISTED} more")
    for near in nearest(explanation.locator, explanation.page) if not count else ():
        out.print(Text.assemble(("  comes nearest ", "dim"), short(near.element, 50), (f"  ({near.why})", "dim")))
    for miss in explanation.misses:
        matches = f"  matches {_missed(explanation, miss)} "
        out.print(Text.assemble(("  nearly ", "dim"), miss.locator, matches, (f"({miss.change})", "dim")))
    for note in explanation.notes:
        out.print(Text(f"  {note}", "yellow"))


def _missed(explanation: Explanation, miss: Miss) -> str:
    return f"1, {short(explanation.page[miss.found[0]], 40)}" if miss.count == 1 else str(miss.count)


def _place(explanation: Explanation, index: int) -> str:
    element = explanation.page[index]
    if not element.visible:
        return "not shown"
    try:
        left, top, width, height = element.box
    except FactsError:
        return "not known"
    return f"{width:.0f} x {height:.0f} at {left:.0f}, {top:.0f}"
