"""repair: what became of a book's locators on a new page, and the change of files that mends them."""

from __future__ import annotations

import os
from pathlib import Path
from typing import Any

import click
from rich.padding import Padding
from rich.table import Table
from rich.text import Text

from wary_hound.authoring.question import Question
from wary_hound.cli.common import (
    FILE,
    PAGE,
    browser_option,
    element_json,
    in_lines,
    json_option,
    page_name,
    print_json,
    rates_option,
    read_page,
    read_rates,
    short,
)
from wary_hound.cli.repair_files import changes_of, undo
from wary_hound.errors import FileError
from wary_hound.files import write_aside
from wary_hound.healing.relocation import SURE
from wary_hound.journey.book import Book, parse_book
from wary_hound.journey.decisions import decided, read_decisions
from wary_hound.journey.journey import parse_journey
from wary_hound.journey.repairing import NamedRepair, changed_texts, pages_last_seen, repair_book
from wary_hound.journey.sources import Found
from wary_hound.report.terminal import bold, confidence, console, mark, percent, shown


@click.command()
@click.argument("old_page", type=PAGE, required=False)
@click.argument("new_page", type=PAGE, required=False)
@click.option("--book", "book_path", type=FILE, required=True, help="The book whose locators are checked.")
@click.option("--journey", "journeys", type=FILE, multiple=True, help="Journeys in which they are changed as well.")
@click.option("--source", "sources", type=FILE, multiple=True, help="Sources (files or folders) in which they are changed as well.")
@click.option("--known", type=PAGE, multiple=True, help="Another page on which new locators should be right, too.")
@click.option("--accept", "accepted", multiple=True, metavar="NAME", help="Take the best guess for this element.")
@click.option("--decisions", type=FILE, help="What was decided on the review page (its exported file).")
@click.option("--save-page", type=FILE, help="Write the new page as a snapshot (for an address).")
@rates_option
@browser_option
@click.option("--patch", type=FILE, help="Write the change of files as a unified diff.")
@click.option("--apply", "do_apply", is_flag=True, help="Change the files; comments and order stay.")
@click.option("--sure-from", type=click.FloatRange(SURE, 1), default=SURE, show_default=True, help="Repair from this confidence.")
@click.option("--undo", "do_undo", is_flag=True, help="Take the last repair of the book back.")
@click.option("--report", "report_path", type=FILE, help="Write a report as one HTML page.")
@click.option("--review", "review_path", type=FILE, help="Write a page on which each repair is decided on, for --decisions.")
@json_option
@click.pass_context
def command(
    context: click.Context,
    old_page: str | Path | None,
    new_page: str | Path | None,
    book_path: Path,
    journeys: tuple[Path, ...],
    sources: tuple[Path, ...],
    known: tuple[str | Path, ...],
    accepted: tuple[str, ...],
    decisions: Path | None,
    save_page: Path | None,
    rates: Path | None,
    browser: str,
    patch: Path | None,
    do_apply: bool,
    sure_from: float,
    do_undo: bool,
    report_path: Path | None,
    review_path: Path | None,
    as_json: bool,
) -> None:
    """Which locators of a book work, have drifted or broke on a new page, where the elements went, and what to write now.

    Pages are snapshots, or addresses, which a headless browser shows.

    \b
    Example, on the demo's files (wary-hound demo writes them to demo-out/):
      wary-hound repair demo-out/pages/nights@r2.html demo-out/pages/nights@r3.html \\
        --book demo-out/books/nights.yaml --patch nights.patch

    Exit 1 where any locator does not work.
    """
    if do_undo:
        undo(book_path)
        return
    if old_page is None or new_page is None:
        raise click.UsageError("give the page on which the elements were last seen, and the new one")
    text, book = parse_book(book_path)
    check_page(book, book_path)
    for name in accepted:
        if name not in book.elements:
            raise FileError(f"{book_path}: no element is named {name}; it has {', '.join(book.elements)}")
    journey_texts = {path: parse_journey(path)[0] for path in journeys}
    old, new = read_page(old_page, browser), read_page(new_page, browser)
    others = [read_page(one, browser) for one in known]
    last_seen = pages_last_seen(book, book_path.parent, old)
    question = Question(read_rates(rates))
    repairs = repair_book(book, old, new, question, last_seen=last_seen, accepted=accepted, known=others, sure_from=sure_from)
    if decisions is not None:
        repairs = decided(repairs, read_decisions(decisions))
    if save_page is not None:
        seen_at = os.path.relpath(new.write(save_page), book_path.parent)
    else:
        seen_at = os.path.relpath(new_page, book_path.parent) if isinstance(new_page, Path) else ""
    texts = {book_path: text, **journey_texts}
    changes = changes_of(texts, changed_texts(book_path, text, book, repairs, journey_texts, seen_at), repairs, sources)
    names = (page_name(old_page), page_name(new_page))
    if report_path is not None:
        from wary_hound.report.story import single_story, write_story

        write_story(single_story(book, repairs, old, new), report_path)
    if review_path is not None:
        from wary_hound.report.review import write_review

        write_review(book, repairs, old, new, changes.diff(), review_path, names)
    if patch is not None:
        write_aside({patch: changes.diff().encode()})
    if do_apply:
        changes.apply(book_path, repairs, names)
    if as_json:
        print_json(
            {
                "repairs": [repair_json(r) for r in repairs],
                "sources": [found_json(f) for f in changes.found],
                "changed_files": [str(p) for p in changes.changed],
            }
        )
    else:
        _show(repairs, book, names)
        _say_places(changes.found)
        _say_files(changes.changed, patch, do_apply, report_path, review_path)
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
        "failing": named.repair.failing,
        "around": named.repair.around,
        "matches": len(named.repair.found),
        "verdict": verdict.outcome,
        "confidence": round(verdict.confidence, 4),
        "element": element_json(verdict.element) if verdict.element else None,
        "reasons": list(verdict.reasons),
        "proposed": str(main.locator) if main else None,
        "guess": str(guess.locator) if (guess := named.repair.guess) else None,
        "survival": round(main.survival, 4) if main else None,
        "fallbacks": list(named.fallbacks),
        "candidates": [str(c.locator) for c in named.repair.candidates],
    }


def _told(out: Any, width: int, word: str, text: str | Text, style: str = "") -> None:
    """A word and what it says, later lines below the first."""
    if text:
        line = Table.grid(padding=(0, 1, 0, 0))
        line.add_column(width=4)
        line.add_column(overflow="fold")  # a locator is never cut
        said = text if isinstance(text, Text) else Text(text, style)
        said.plain = shown(said.plain)
        line.add_row(word, said)
        out.print(Padding(line, (0, 0, 0, width + 2)))


def found_json(found: Found) -> dict[str, Any]:
    """A place in a source, as JSON has it."""
    return {
        "file": str(found.path),
        "line": found.line,
        "name": found.name,
        "form": found.form,
        "before": found.before,
        "after": found.after,
        "in_a_text": found.place.pieced,
    }


def _say_places(found: list[Found]) -> None:
    out = console()
    if found:
        out.print("")
        out.print(bold("In sources"))
    for entry in found:
        where = f"{entry.path}:{entry.line}"
        if entry.after is None:
            why = (
                "it stands in a text that is put together"
                if entry.place.pieced
                else f"what it should be cannot be said as {entry.form}"
            )
            out.print(Text(f"  {where}  {entry.name}: by hand; {why}", "yellow"))
        else:
            out.print(Text.assemble(f"  {where}  ", (f"{entry.form} ", "dim"), entry.after))


def _show(repairs: list[NamedRepair], book: Book, names: tuple[str, str]) -> None:
    out = console()
    out.print(Text.assemble(bold(book.book), f": {names[0]} → {names[1]}\n"))
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
        room = out.width - width - 8  # beside the name, and "was "
        _told(out, width, "was", in_lines(str(named.locator), room), "dim")
        sure = confidence(verdict.confidence)
        where = f"  {short(verdict.element, 50)}" if verdict.element is not None else ""
        out.print(Text.assemble(f"{indent}", mark(verdict.outcome), f", {sure} sure{where}"))
        if verdict.reasons:
            _told(out, width, "", "; ".join(verdict.reasons), "dim")
        _told(out, width, "why", named.repair.failing)
        _told(out, width, "here", named.repair.around)
        if main is not None:
            _told(
                out, width, "now", Text.assemble((in_lines(str(main.locator), room), "bold"), f"  lasts {percent(main.survival)}")
            )
        elif verdict.outcome == "unsure":
            if named.repair.guess is not None:
                out.print(Text.assemble(f"{indent}if so ", str(named.repair.guess.locator)))
            out.print(Text(f"{indent}look at it yourself; --accept {named.name} takes it, else nothing is changed", "yellow"))
        elif verdict.outcome == "gone":
            out.print(Text(f"{indent}nothing to propose; is the step still needed?", "yellow"))
    states = [r.state for r in repairs]
    proposed = sum(r.repair is not None and r.repair.main is not None for r in repairs)
    words = {"works": "work", "drifted": "drifted", "broken": "broken", "unknown": "unknown"}
    counts = ", ".join(f"{states.count(s)} {word}" for s, word in words.items() if s in states)
    many = "" if len(repairs) == 1 else "s"
    out.print(f"\n{len(repairs)} element{many}: {counts}; {proposed} repair{'' if proposed == 1 else 's'} proposed")


def _say_files(changed: list[Path], patch: Path | None, applied: bool, report: Path | None, review: Path | None) -> None:
    out = console()
    if applied:
        out.print("Changed: " + (", ".join(map(str, changed)) if changed else "nothing"))
    elif changed and patch is None:
        out.print("Nothing was written; --patch FILE writes the change, --apply makes it")
    if patch is not None:
        out.print(f"Patch: {patch}")
    if report is not None:
        out.print(f"Report: {report}")
    if review is not None:
        out.print(f"Review: {review}")
