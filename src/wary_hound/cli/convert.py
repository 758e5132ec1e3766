"""convert: a locator in other notations."""

from __future__ import annotations

import contextlib
import json
import time
from collections.abc import Sequence
from pathlib import Path
from typing import Any

import click
from rich.text import Text

from wary_hound.authoring.candidates import boundary_of
from wary_hound.authoring.paths import absolute_css, relative_xpath
from wary_hound.cli.common import FILE, json_option, print_json, read_page
from wary_hound.errors import FileError, LocatorError, WaryHoundError
from wary_hound.journey import forms as journey_forms
from wary_hound.journey.forms import SUFFIXES, form_of
from wary_hound.journey.reading import read_written, text_of, write_written
from wary_hound.locator.convert import FORMS, convert, read_any, unsaid
from wary_hound.locator.evaluate import match
from wary_hound.locator.finding import find
from wary_hound.locator.values import Hop, Locator
from wary_hound.page import Element
from wary_hound.report.terminal import console, shown, table

JOURNEY_FORMS = journey_forms.FORMS
TURN = 0.4
"""Seconds between two looks at whether a file was edited."""


def _schema(context: click.Context, _: click.Parameter, wanted: bool) -> None:
    if wanted:
        from wary_hound.journey.schema import journey_schema

        print_json(journey_schema())
        context.exit(0)


@click.command()
@click.argument("locator")
@click.option("--to", "form", type=click.Choice([*FORMS, *JOURNEY_FORMS]), help="Print this form alone, to paste.")
@click.option("-o", "--output", type=FILE, help="Of a journey: write the form that the file's name says (.yaml .py .csv .xlsx).")
@click.option("--watch", is_flag=True, help="Of a journey: keep both files the same while either is edited; Ctrl-C ends.")
@click.option(
    "--schema", is_flag=True, is_eager=True, expose_value=False, callback=_schema, help="Print the JSON Schema of journey files."
)
@click.option("--page", type=FILE, help="Also count matches on a page, and give paths to the element there.")
@json_option
def command(locator: str, form: str | None, output: Path | None, watch: bool, page: Path | None, as_json: bool) -> None:
    """A locator in other notations (CSS, XPath, Web Annotation, WebDriver, BiDi), or from any of them; a journey in other forms.

    LOCATOR may be our notation, a bare CSS selector or XPath, the JSON of one of the other forms, or the file of a journey: YAML, a
    Python script, a table of steps (CSV, XLSX).

    \b
    Example, on the demo's snapshots (wary-hound demo writes them to demo-out/):
      wary-hound convert 'css{#night-form [name="email"]}' --page demo-out/pages/nights@r1.html
    """
    if Path(locator).suffix in SUFFIXES and Path(locator).exists():
        _journey(Path(locator), form, output, watch)
        return
    if output is not None or watch or form in JOURNEY_FORMS:
        raise FileError(f"{locator}: there is no journey of this name (a file of {', '.join(SUFFIXES)})")
    value = read_any(locator)
    there = read_page(page) if page is not None else None
    if form is not None:
        made = convert(value, form, there)
        click.echo(str(made) if isinstance(made, Locator) else json.dumps(made, ensure_ascii=False))
        return
    forms: dict[str, Any] = {"notation": str(value)}
    missing: dict[str, str] = {}
    for name in FORMS:
        try:
            made = convert(value, name, there)
            forms[name] = str(made) if isinstance(made, Locator) else made
        except LocatorError as error:
            missing[name] = str(error)
    open_questions = unsaid(value) if "xpath" in forms else ()
    counts: dict[str, int] = {}
    paths: dict[str, str] = {}
    if there is not None:
        counts = {name: len(match(there, forms[name])) for name in ("notation", "css", "xpath") if name in forms}
        element = find(there, value)
        paths = {"relative XPath": str(_path(element, relative=True)), "CSS path": str(_path(element, relative=False))}
    if as_json:
        print_json({**forms, "no_equivalent": missing, "xpath_does_not_ask": open_questions, "matches": counts, **paths})
        return
    rows: list[Sequence[str | Text]] = []
    for name in ("notation", *FORMS):
        if name in forms:
            made = forms[name] if isinstance(forms[name], str) else json.dumps(forms[name], ensure_ascii=False)
            rows.append((name, made, str(counts.get(name, ""))))
        else:
            rows.append((name, Text(f"– {missing[name]}", "yellow"), ""))
    rows.extend((name, made, "1") for name, made in paths.items())
    matches: list[str | tuple[str, str]] = [("matches", "right")] if there is not None else []
    console().print(table(["form", ("locator", "wide"), *matches], [row[: 2 + len(matches)] for row in rows]))
    if open_questions:
        console().print(Text(f"The XPath does not ask: {'; '.join(open_questions)}.", "dim"))


def _journey(path: Path, form: str | None, output: Path | None, watch: bool) -> None:
    """A journey in another form: printed, written, or kept the same."""
    written = read_written(path)
    if output is None:
        if form not in JOURNEY_FORMS or form == "xlsx" or watch:
            raise FileError(f"{path}: say where to write the other form (-o FILE), or which to print (--to yaml, python, csv)")
        click.echo(text_of(written, str(form)).decode(), nl=False)
        return
    if form is not None and form_of(output) != form:
        raise FileError(f"{output}: by its name it is {form_of(output)}, not {form}")
    write_written(written, output)
    console().print(f"Written: {output}")
    if watch:
        _watch(path, output)


def _watch(first: Path, second: Path) -> None:
    """When one of two files is edited, write the other anew; what cannot be read is told, and waited for."""
    out = console()
    out.print(Text(f"Edits of {first} and {second} go to the other. Ctrl-C ends.", "dim"))
    stamps = {path: path.stat().st_mtime_ns for path in (first, second)}
    with contextlib.suppress(KeyboardInterrupt):
        while True:
            time.sleep(TURN)
            for path, other in ((first, second), (second, first)):
                if not path.exists() or path.stat().st_mtime_ns == stamps[path]:
                    continue
                stamps[path] = path.stat().st_mtime_ns
                try:
                    write_written(read_written(path), other)
                except WaryHoundError as error:
                    out.print(Text(shown(str(error)), "red"))
                    continue
                stamps[other] = other.stat().st_mtime_ns
                out.print(f"{path.name} was edited; written: {other}")


def _path(element: Element, relative: bool) -> Locator:
    """A path that is unique on the element's page, tree by tree."""
    page = element.page
    way = relative_xpath if relative else absolute_css
    hops = [Hop(way(page, host), boundary_of(page, host)) for host in page.hosts(element.index)]
    return Locator((*hops, Hop(way(page, element.index))))
