"""demo: the whole story on the demo data."""

from __future__ import annotations

import threading
from pathlib import Path

import click
from rich.padding import Padding
from rich.text import Text

from wary_hound.cli.common import FILE, json_option, print_json
from wary_hound.demo.server import serve
from wary_hound.demo.tour import BOOKS, RELEASES, Told, tell
from wary_hound.errors import BrowserError
from wary_hound.report.terminal import bold, console, mark, progress, shown, table
from wary_hound.running.evidence import run_json
from wary_hound.running.replay import Run


@click.command()
@click.option("-o", "--output", type=FILE, default=Path("demo-out"), show_default=True, help="Folder to write into.")
@click.option("--serve", "serving", is_flag=True, help="Serve the demo site on loopback instead, until Ctrl-C.")
@click.option("--port", type=click.IntRange(0, 65535), default=8700, show_default=True, help="Port for --serve.")
@click.option("--live/--no-live", default=True, help="Run its journey in a real browser too, where there is one.")
@json_option
def command(output: Path, serving: bool, port: int, live: bool, as_json: bool) -> None:
    """Follow the demo's books through six releases of a site, repair them, write a report; run its journey before and after.

    \b
    Example:
      wary-hound demo -o demo-out
    """
    if serving:
        _serve(port)
        return
    with progress(console()) as bar:
        task = bar.add_task("following", total=len(BOOKS) * (len(RELEASES) - 1) + 1)
        told = tell(output, lambda step: bar.update(task, advance=1, description=step))
    if not as_json:
        _show(told)
    runs, why = _live(output, as_json) if live else ([], "")
    if as_json:
        print_json({**_json(told), "runs": [run_json(run) for run in runs], "no_runs": why})
    elif why:
        console().print(Text(f"\nThe journey was not run: {shown(why)}", "yellow"))


def _live(folder: Path, quiet: bool) -> tuple[list[Run], str]:
    """The journey's runs, and why there are none."""
    from wary_hound.demo.live import play
    from wary_hound.report.runs import write_runs

    out, runs = console(), []
    try:
        if not quiet:
            out.print(Text.assemble("\n", bold("Its journey in a real browser")))
        for run in play(folder):
            runs.append(run)
            if quiet:
                continue
            done = sum(step.state in ("passed", "healed") for step in run.steps)
            out.print(Text.assemble(f"  on {run.browser:24}", mark(run.state), f", {done} of {len(run.steps)} steps"))
            if run.failing is not None:
                first = run.failing.message.splitlines()[0]
                out.print(Padding(Text(shown(f"step {run.failing.number}, {run.failing.says}: {first}"), "dim"), (0, 0, 0, 5)))
    except BrowserError as error:
        return runs, str(error)
    write_runs(runs, folder / "runs.html")
    if not quiet:
        out.print(f"Runs     {folder / 'runs.html'}")
    return runs, ""


def _serve(port: int) -> None:
    try:
        with serve(port=port) as address:
            click.echo(f"The demo site: {address}/r1/index.html to {address}/r6/index.html (?seed=1 brings the notice up)")
            threading.Event().wait()
    except OSError as error:
        raise click.UsageError(f"port {port} cannot be used ({error.strerror}); give another with --port") from None
    except KeyboardInterrupt:
        click.echo("")


def _json(told: Told) -> dict[str, object]:
    rows = [{"name": r.name, "locator": r.locator, "fates": [c.state for c in r.cells]} for r in told.story.rows]
    return {"report": str(told.report), "patch": str(told.patch), "counts": told.story.counts, "elements": rows}


def _show(told: Told) -> None:
    out = console()
    counts = told.story.counts
    title = bold("Marram Ridge Observatory")
    out.print(Text.assemble(title, ", telescope nights: two books of r1, followed through six releases\n"))
    rows = []
    for row in told.story.rows:
        cells: list[str | Text] = [row.name]
        for cell in row.cells[1:]:
            text = mark(cell.state)
            cells.append(Text.assemble(text, (" ↻", "cyan")) if cell.fixed else text)
        rows.append(cells)
    out.print(table(["element", *RELEASES[1:]], rows))
    out.print(
        f"\n{counts['checks']} checks: {counts['broken']} found broken, {counts['drifted']} drifted; ↻ {counts['repaired']} "
        f"repairs made.\n{counts['untouched']} of {counts['elements']} locators never broke, {counts['gone']} elements are "
        f"gone, {counts['unsure']} left in doubt."
    )
    out.print(f"\nReport   {told.report}\nPatch    {told.patch}\nTo try   {told.folder}/pages, {told.folder}/books")
