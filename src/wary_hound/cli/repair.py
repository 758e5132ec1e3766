"""repair: what became of a book's locators on a new page, and the change of files that mends them."""

from __future__ import annotations

import os
from pathlib import Path
from typing import Any

import click
from rich.text import Text

from wary_hound.cli.common import FILE, element_json, json_option, print_json, read_page, short
from wary_hound.errors import FileError
from wary_hound.files import write_aside
from wary_hound.journey import yaml_text
from wary_hound.journey.book import Book, parse_book
from wary_hound.journey.journey import parse_journey
from wary_hound.journey.repairing import NamedRepair, changed_texts, repair_book
from wary_hound.report.terminal import bold, console, mark, percent


@click.command()
@click.argument("old_page", type=FILE)
@click.argument("new_page", type=FILE)
@click.option("--book", "book_path", type=FILE, required=True, help="The book whose locators are checked.")
@click.option("--journey", "journeys", type=FILE, multiple=True, help="Journeys in which they are changed as well.")
@click.option("--patch", type=FILE, help="Write the change of files as a unified diff.")
@click.option("--apply", "do_apply", is_flag=True, help="Change the files; comments and order stay.")
@click.option("--report", "report_path", type=FILE, help="Write a report as one HTML page.")
@json_option
@click.pass_context
def command(
    context: click.Context,
    old_page: Path,
    new_page: Path,
    book_path: Path,
    journeys: tuple[Path, ...],
    patch: Path | None,
    do_apply: bool,
    report_path: Path | None,
    as_json: bool,
) -> None:
    """Which locators of a book work, have drifted or broke on a new page, where the elements went, and what to write now.

    \b
    Example, on the demo's files (wary-hound demo writes them to demo-out/):
      wary-hound repair demo-out/pages/nights@r2.html demo-out/pages/nights@r3.html \\
        --book demo-out/books/nights.yaml --patch nights.patch

    Exit 1 where any locator does not work.
    """
    text, book = parse_book(book_path)
    check_page(book, book_path)
    journey_texts = {path: parse_journey(path)[0] for path in journeys}
    old, new = read_page(old_page), read_page(new_page)
    repairs = repair_book(book, old, new)
    seen_at = os.path.relpath(new_page, book_path.parent)
    before = {book_path: text, **journey_texts}
    after = changed_texts(book_path, text, book, repairs, journey_texts, seen_at)
    changed = [path for path in before if before[path] != after[path]]
    if report_path is not None:
        from wary_hound.report.story import single_story, write_story

        write_story(single_story(book, repairs, old, new), report_path)
    if patch is not None:
        write_aside({patch: yaml_text.unified_diff(before, after).encode()})
    if do_apply:
        yaml_text.write_changed(before, after)
    if as_json:
        print_json({"repairs": [repair_json(r) for r in repairs], "changed_files": [str(p) for p in changed]})
    else:
        _show(repairs, book, old_page, new_page)
        _say_files(changed, patch, do_apply, report_path)
    context.exit(0 if all(r.state == "works" for r in repairs) else 1)


def check_page(book: Book, path: Path) -> None:
    """A book that names a page which is not there is not to be trusted with the rest."""
    for name in book.elements:
        named = book.page_of(name, path.parent)
        if named is not None and not named.exists():
            raise FileError(f"{path}: names the page {book.elements[name].page or book.page}, which is not there")


def repair_json(named: NamedRepair) -> dict[str, Any]:
    """What became of one element, as JSON has it."""
    data: dict[str, Any] = {"name": named.name, "locator": str(named.locator), "state": named.state}
    if named.repair is None:
        return {**data, "trouble": named.trouble}
    verdict, main = named.repair.verdict, named.repair.main
    return {
        **data,
        "trouble": named.repair.trouble,
        "matches": len(named.repair.found),
        "verdict": verdict.outcome,
        "confidence": round(verdict.confidence, 4),
        "element": element_json(verdict.element) if verdict.element else None,
        "reasons": list(verdict.reasons),
        "proposed": str(main.locator) if main else None,
        "survival": round(main.survival, 4) if main else None,
        "fallbacks": list(named.fallbacks),
        "candidates": [str(c.locator) for c in named.repair.candidates],
    }


def _show(repairs: list[NamedRepair], book: Book, old_page: Path, new_page: Path) -> None:
    out = console()
    out.print(Text.assemble(bold(book.book), f": {old_page.name} → {new_page.name}\n"))
    width = max(len(r.name) for r in repairs) if repairs else 0
    for named in repairs:
        head = Text.assemble(f"{named.name:{width}}  ", mark(named.state))
        if named.repair is None:
            out.print(Text.assemble(head, f"  {named.trouble}"))
            continue
        verdict, main = named.repair.verdict, named.repair.main
        if named.state == "works" and verdict.outcome not in ("gone", "unsure"):
            out.print(Text.assemble(head, (f"    {named.locator}", "dim")))
            continue
        out.print(Text.assemble(head, f"  {named.repair.trouble}"))
        indent = " " * (width + 2)
        out.print(Text(f"{indent}was  {named.locator}", "dim"))
        sure = percent(verdict.confidence)
        where = f"  {short(verdict.element, 50)}" if verdict.element is not None else ""
        out.print(Text.assemble(f"{indent}", mark(verdict.outcome), f", {sure} sure{where}"))
        if verdict.reasons:
            out.print(Text(f"{indent}     {'; '.join(verdict.reasons)}", "dim"))
        if main is not None:
            out.print(Text.assemble(f"{indent}now  ", (str(main.locator), "bold"), f"  lasts {percent(main.survival)}"))
        elif verdict.outcome == "unsure":
            out.print(Text(f"{indent}look at it yourself: nothing is changed while in doubt", "yellow"))
        elif verdict.outcome == "gone":
            out.print(Text(f"{indent}nothing to propose; is the step still needed?", "yellow"))
    states = [r.state for r in repairs]
    proposed = sum(r.repair is not None and r.repair.main is not None for r in repairs)
    words = {"works": "work", "drifted": "drifted", "broken": "broken", "unknown": "unknown"}
    counts = ", ".join(f"{states.count(s)} {word}" for s, word in words.items() if s in states)
    out.print(f"\n{len(repairs)} elements: {counts}; {proposed} repair{'' if proposed == 1 else 's'} proposed")


def _say_files(changed: list[Path], patch: Path | None, applied: bool, report: Path | None) -> None:
    out = console()
    if applied:
        out.print("Changed: " + (", ".join(map(str, changed)) if changed else "nothing"))
    elif changed and patch is None:
        out.print("Nothing was written; --patch FILE writes the change, --apply makes it")
    if patch is not None:
        out.print(f"Patch: {patch}")
    if report is not None:
        out.print(f"Report: {report}")
