"""convert: a locator in other notations."""

from __future__ import annotations

import json
from collections.abc import Sequence
from pathlib import Path
from typing import Any

import click
from rich.text import Text

from wary_hound.authoring.candidates import boundary_of
from wary_hound.authoring.paths import absolute_css, relative_xpath
from wary_hound.cli.common import FILE, json_option, print_json, read_page
from wary_hound.errors import LocatorError
from wary_hound.locator.convert import FORMS, convert, read_any
from wary_hound.locator.evaluate import match
from wary_hound.locator.finding import find
from wary_hound.locator.values import Hop, Locator
from wary_hound.page import Element
from wary_hound.report.terminal import console, table


@click.command()
@click.argument("locator")
@click.option("--to", "form", type=click.Choice(FORMS), help="Print this form alone, to paste.")
@click.option("--page", type=FILE, help="Also count matches on a page, and give paths to the element there.")
@json_option
def command(locator: str, form: str | None, page: Path | None, as_json: bool) -> None:
    """A locator in other notations: CSS, XPath, Web Annotation, WebDriver, BiDi; or from any of them.

    LOCATOR may be our notation, a bare CSS selector or XPath, or the JSON of one of the other forms.

    \b
    Example, on the demo's snapshots (wary-hound demo writes them to demo-out/):
      wary-hound convert 'css{#night-form [name="email"]}' --page demo-out/pages/nights@r1.html
    """
    value = read_any(locator)
    if form is not None:
        made = convert(value, form)
        click.echo(str(made) if isinstance(made, Locator) else json.dumps(made, ensure_ascii=False))
        return
    found: dict[str, Any] = {"notation": str(value)}
    missing: dict[str, str] = {}
    for name in FORMS:
        try:
            made = convert(value, name)
            found[name] = str(made) if isinstance(made, Locator) else made
        except LocatorError as error:
            missing[name] = str(error)
    there = read_page(page) if page is not None else None
    counts: dict[str, int] = {}
    paths: dict[str, str] = {}
    if there is not None:
        counts = {name: len(match(there, found[name])) for name in ("notation", "css", "xpath") if name in found}
        element = find(there, value)
        paths = {"relative XPath": str(_path(element, relative=True)), "CSS path": str(_path(element, relative=False))}
    if as_json:
        print_json({**found, "no_equivalent": missing, "matches": counts, **paths})
        return
    rows: list[Sequence[str | Text]] = []
    for name in ("notation", *FORMS):
        if name in found:
            made = found[name] if isinstance(found[name], str) else json.dumps(found[name], ensure_ascii=False)
            rows.append((name, made, str(counts.get(name, ""))))
        else:
            rows.append((name, Text(f"– {missing[name]}", "yellow"), ""))
    rows.extend((name, made, "1") for name, made in paths.items())
    matches: list[str | tuple[str, str]] = [("matches", "right")] if there is not None else []
    console().print(table(["form", ("locator", "wide"), *matches], [row[: 2 + len(matches)] for row in rows]))


def _path(element: Element, relative: bool) -> Locator:
    """A path that is unique on the element's page, tree by tree."""
    page = element.page
    way = relative_xpath if relative else absolute_css
    hops = [Hop(way(page, host), boundary_of(page, host)) for host in page.hosts(element.index)]
    return Locator((*hops, Hop(way(page, element.index))))
