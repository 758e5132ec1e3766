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
        print_json([{"page": str(path), **_json(found)} for path, found in explanations])
    else:
        for number, (path, found) in enumerate(explanations):
            if number:
                console().print()
            _show(path, found)
    context.exit(0 if all(len(found.found) == 1 for _, found in explanations) else 1)


def _json(found: Explanation) -> dict[str, Any]:
    return {
        "locator": str(found.locator),
        "count": len(found.found),
        "matches": [element_json(found.page[i]) for i in found.found[:100]],
        "hops": [{"hop": h.text, "in": h.where, "steps": [[s.text, s.count] for s in h.steps], "note": h.note} for h in found.hops],
        "nearly": [
            {
                "locator": m.locator,
                "count": m.count,
                "change": m.change,
                "matches": [element_json(found.page[i]) for i in m.found[:5]],
            }
            for m in found.misses
        ],
        "nearest": [
            {**element_json(near.element), "why": near.why}
            for near in (nearest(found.locator, found.page) if not found.found else ())
        ],
        "apart": list(found.apart),
        "notes": list(found.notes),
    }


def _show(path: str | Path, found: Explanation) -> None:
    out = console()
    count = len(found.found)
    sign, colour = ("✓", "green") if count == 1 else ("✗", "red")
    said = "1 of 1" if count == 1 else f"{count or 'no'} matches"
    out.print(Text.assemble((f"{sign} {said}", colour), f"  {path.name if isinstance(path, Path) else path}"))
    for hop in found.hops:
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
        for number, index in enumerate(found.found[:MOST_LISTED]):
            element = found.page[index]
            last = (found.apart[number] or "nothing of its own") if found.apart else _place(found, index)
            rows.append((str(index), short(element, 44), element.role or "–", last))
        out.print(table([("no.", "right"), "match", "role", "only it has" if found.apart else "on the screen"], rows))
        if count > MOST_LISTED:
            out.print(f"  and {count - MOST_LISTED} more")
    for near in nearest(found.locator, found.page) if not count else ():
        out.print(Text.assemble(("  comes nearest ", "dim"), short(near.element, 50), (f"  ({near.why})", "dim")))
    for miss in found.misses:
        out.print(
            Text.assemble(("  nearly ", "dim"), miss.locator, f"  matches {_missed(found, miss)} ", (f"({miss.change})", "dim"))
        )
    for note in found.notes:
        out.print(Text(f"  {note}", "yellow"))


def _missed(found: Explanation, miss: Miss) -> str:
    return f"1, {short(found.page[miss.found[0]], 40)}" if miss.count == 1 else str(miss.count)


def _place(found: Explanation, index: int) -> str:
    element = found.page[index]
    if not element.visible:
        return "not shown"
    try:
        left, top, width, height = element.box
    except FactsError:
        return "not known"
    return f"{width:.0f} x {height:.0f} at {left:.0f}, {top:.0f}"
