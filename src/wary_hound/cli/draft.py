"""draft: steps that fill a section of a page, and its outline."""

from __future__ import annotations

import contextlib
from collections.abc import Iterator
from pathlib import Path

import click
from rich.text import Text

from wary_hound.cli.common import FILE, json_option, print_json, read_page
from wary_hound.errors import FileError, NotFound
from wary_hound.journey.drafting import Draft, draft, outline, title_of
from wary_hound.locator.typed import typed
from wary_hound.page import Element, Page
from wary_hound.report.terminal import console, shown


@click.command()
@click.argument("page")
@click.option("--in", "where", default="", metavar="LOCATOR", help="The section; the first form of the page where none is named.")
@click.option("--pick", is_flag=True, help="Open a window and point at the section.")
@click.option("-o", "--output", type=FILE, help="Write the journey (YAML) with its book and snapshot; a new file.")
@click.option("--outline", "only_outline", is_flag=True, help="What is in the section, as text: roles, names, values, locators.")
@click.option("--title", default="", help="What the journey is called.")
@click.option("--browser", type=click.Choice(["chromium", "firefox"]), default="chromium", show_default=True)
@json_option
def command(
    page: str, where: str, pick: bool, output: Path | None, only_outline: bool, title: str, browser: str, as_json: bool
) -> None:
    """Steps that fill a section of a page and send it, with made-up data by type, label, limits, pattern and options.

    PAGE is a snapshot or an address.

    \b
    Example, on the demo's snapshots (wary-hound demo writes them to demo-out/):
      wary-hound draft demo-out/pages/nights@r1.html --in 'css{#night-form}' -o booking.yaml
    """
    if output is not None and output.exists():
        raise FileError(f"{output}: is there already; draft into a new file")
    with _shown(page, browser, pick) as (there, picked):
        section = picked or _section(there, where)
        if only_outline:
            lines = list(outline(section))
            if as_json:
                fields = ("depth", "role", "name", "value", "locator")
                print_json({"outline": [{name: getattr(line, name) for name in fields} for line in lines]})
            else:
                for line in lines:
                    click.echo(shown(str(line)))
            return
        made = draft(section, title or title_of(section), output or Path("draft.yaml"))
    if output is not None:
        used = {step.on for step in made.journey.steps}
        made.book.write(used, {output: made.journey.to_yaml().encode()}, made.journey.journey)
    if as_json:
        left = [{"element": str(element), "why": why} for element, why in made.left]
        print_json({"journey": made.journey.model_dump(by_alias=True), "left": left})
        return
    _tell(made, output)


@contextlib.contextmanager
def _shown(page: str, browser: str, pick: bool) -> Iterator[tuple[Page, Element | None]]:
    if not pick and "://" not in page:
        yield read_page(Path(page)), None
        return
    from wary_hound.browser import Browser

    with Browser.start(browser, window=pick) as opened:
        live = opened.open(page if "://" in page else Path(page).resolve().as_uri())
        if not pick:
            yield live.capture(), None
            return
        with live.picking() as picking:
            for picked in picking:
                yield picked.element.page, picked.element
                return
        raise NotFound("nothing was picked")


def _section(page: Page, where: str) -> Element:
    if where:
        return page.find(typed(where))
    form = next((page[i] for i in range(len(page)) if page[i].tag == "form" and page[i].visible), None)
    if form is None:
        raise NotFound("there is no form on the page: name the section (--in LOCATOR)")
    return form


def _tell(made: Draft, output: Path | None) -> None:
    out = console()
    for number, step in enumerate(made.journey.steps, 1):
        kind = made.journey.made_up.get(step.value.strip("{}"), "") if step.value.startswith("{") else ""
        out.print(Text.assemble(f"{number:3} ", shown(str(step)), (f"   made up: {kind}" if kind else "", "dim")))
    for element, why in made.left:
        out.print(Text(f"left: {shown(str(element))}: {why}", "yellow"))
    if output is not None:
        out.print(f"Written: {output} and {made.book.path}")
    else:
        out.print(Text("Nothing is written without -o FILE.", "dim"))
