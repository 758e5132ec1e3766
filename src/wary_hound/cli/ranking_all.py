"""rank --all: the best locator of every element that a person can use, as a table, a book, a CSV or constants."""

from __future__ import annotations

import csv
import io
from dataclasses import dataclass, replace
from pathlib import Path

import click
from rich.text import Text

from wary_hound.authoring.batch import Best, best_of_all, usable
from wary_hound.authoring.question import Question
from wary_hound.authoring.rules import Rules
from wary_hound.cli.common import element_json, print_json
from wary_hound.errors import FileError, LocatorError
from wary_hound.files import write_aside
from wary_hound.journey.book import Book, Entry, remember
from wary_hound.journey.naming import names_for
from wary_hound.locator.values import Locator
from wary_hound.page import Page
from wary_hound.report.constants import constants
from wary_hound.report.terminal import console, percent, progress, survival_colour, table

PAIRS = ("css", "xpath")
"""The strategies of W3C WebDriver that any locator of ours can be said in without loss."""


@dataclass(frozen=True)
class _Found:
    """The elements with their names, and those that nothing finds alone."""

    named: dict[str, Best]
    without: tuple[str, ...]


def rank_all(page: Page, question: Question, language: str | None, output: Path | None, as_json: bool) -> None:
    """Print, or write, the best locators of a page's elements. LocatorError where there is nothing that a person can use."""
    if language and not question.rules.only:
        question = replace(question, rules=Rules(PAIRS, question.rules.without, question.rules.prefer))
    ranked = _found(page, question)
    title = page.title or page.url or "a page"
    if language:
        text = constants(_remarked(ranked), language, f"Locators of {title}, {len(ranked.named)} elements")
        if output is None:
            click.echo(text, nl=False)
    elif output is not None and output.suffix == ".csv":
        text = _csv(ranked, question)
    elif output is not None:
        text = _book(ranked, title).to_yaml()
    if output is not None:
        if output.exists():
            raise FileError(f"{output}: is there already; name another file, or take that one away")
        write_aside({output: text.encode()}, {output: None})
        console().print(f"{len(ranked.named)} elements written: {output}")
    elif as_json:
        print_json(
            [
                {"name": n, "locator": str(b.locator), **_figures(b), "element": element_json(b.element)}
                for n, b in ranked.named.items()
            ]
        )
    elif not language:
        _show(ranked, question)
    for name in ranked.without:
        click.echo(f"No locator under these rules finds {name} alone.", err=True)


def _found(page: Page, question: Question) -> _Found:
    elements = usable(page)
    if not elements:
        raise LocatorError("there is nothing on this page that a person can use: no control, no link, no field that is shown")
    with progress(console()) as shown:
        task = shown.add_task("ranking", total=len(elements))
        best = best_of_all(elements, question, lambda: shown.advance(task))
    named = dict(zip(names_for(elements), best, strict=True))
    return _Found({n: b for n, b in named.items() if b is not None}, tuple(n for n, b in named.items() if b is None))


def _book(ranked: _Found, title: str) -> Book:
    memory = {}
    with progress(console()) as shown:
        for name, best in shown.track(ranked.named.items(), description="remembering"):
            memory[name] = remember(best.element, at_once=True)
    entries = {name: Entry(locator=str(best.locator)) for name, best in ranked.named.items()}
    return Book(book=title, elements=entries, remembered=memory)


def _figures(best: Best) -> dict[str, float | bool]:
    return {"survival": round(best.survival, 4), "weak": best.weak}


def _remarked(ranked: _Found) -> list[tuple[str, Locator, str]]:
    weak = "weak: says what kind of element, or where, not which one"
    return [(name, best.locator, weak if best.weak else "") for name, best in ranked.named.items()]


def _csv(ranked: _Found, question: Question) -> str:
    written = io.StringIO()
    rows = csv.writer(written, lineterminator="\n")
    rows.writerow(["name", "locator", f"survival after {question.releases}", "weak", "role", "text"])
    for name, best in ranked.named.items():
        element = best.element
        said = [
            name,
            str(best.locator),
            f"{best.survival:.3f}",
            "yes" if best.weak else "no",
            element.role,
            element.name or element.text,
        ]
        rows.writerow([f"'{cell}" if cell[:1] in "=+-@\t\r" and cell else cell for cell in said])  # no formula for a spreadsheet
    return written.getvalue()


def _show(ranked: _Found, question: Question) -> None:
    rows = [
        (
            name,
            str(best.locator),
            Text(percent(best.survival), survival_colour(best.survival)),
            Text("weak", "yellow") if best.weak else "",
        )
        for name, best in ranked.named.items()
    ]
    out = console()
    after = f"{question.releases} release{'s' if question.releases > 1 else ''} and a change of use"
    out.print(f"{len(rows)} elements that a person can use, each with its best locator and how likely that lasts\n{after}\n")
    out.print(table(["name", ("locator", "wide"), ("lasts", "right"), ""], rows))
    weak = sum(best.weak for best in ranked.named.values())
    if weak:
        out.print(f"\n{weak} weak: nothing says which element is meant (rank PAGE LOCATOR tells more of each).")
