"""review: weaknesses of journeys, and a proof of what their checks notice."""

from __future__ import annotations

import os
from collections.abc import Sequence
from importlib.metadata import version
from pathlib import Path
from typing import Any

import click
from rich.padding import Padding
from rich.progress import Progress, TaskID
from rich.text import Text

from wary_hound.cli.common import FILE, journey_files, json_option, print_json
from wary_hound.files import read_text, write_aside
from wary_hound.journey import yaml_text
from wary_hound.journey.reading import read_written
from wary_hound.journey.review import RULES, Finding, Reviewed, review
from wary_hound.journey.review.findings import WEIGHTS
from wary_hound.journey.review.reviewing import fixed
from wary_hound.journey.review.sources import is_source, review_source
from wary_hound.report.terminal import bold, console, progress, shown, table
from wary_hound.running.proving import Mutation, prove, verdict

COLOURS = {"wrong": ("✗", "red"), "weak": ("△", "yellow"), "note": ("·", "dim")}


@click.command()
@click.argument("journeys", type=FILE, nargs=-1, required=True)
@click.option("--fix", is_flag=True, help="Put the safe ones right in the files (YAML): the same element by a better locator.")
@click.option("--patch", type=FILE, help="Write what --fix would change as a unified diff.")
@click.option(
    "--fail-on", type=click.Choice([*WEIGHTS, "nothing"]), default="weak", show_default=True, help="Exit 1 from this weight on."
)
@click.option("--sarif", type=FILE, help="Write SARIF 2.1.0, which code hosts show beside the lines.")
@click.option(
    "--prove", "proving", is_flag=True, help="Leave out each action and break each expectation in a browser: who notices?"
)
@click.option("--base", default="", metavar="ADDRESS", help="With --prove: the address that paths start from.")
@click.option("--browser", type=click.Choice(["chromium", "firefox"]), default="chromium", show_default=True, help="With --prove.")
@click.option("--most", type=click.IntRange(1), default=200, show_default=True, help="With --prove: at most so many changes.")
@click.option(
    "--limit", type=click.FloatRange(0.5, 60), default=2.5, show_default=True, help="With --prove: seconds for each thing."
)
@click.option("--report", "report_path", type=FILE, help="With --prove: write a report as one HTML page.")
@json_option
@click.pass_context
def command(
    context: click.Context,
    journeys: tuple[Path, ...],
    fix: bool,
    patch: Path | None,
    fail_on: str,
    sarif: Path | None,
    proving: bool,
    base: str,
    browser: str,
    most: int,
    limit: float,
    report_path: Path | None,
    as_json: bool,
) -> None:
    """Weaknesses of journeys and their books, each with its place, why, and a better form; of locators in sources too. A folder
    stands for the journeys in it.

    \b
    Example, on the demo's files (wary-hound demo writes them to demo-out/):
      wary-hound review demo-out/books/hold-a-night.yaml

    Exit 1 where something is found that weighs enough (--fail-on), or a change is not noticed (--prove).
    """
    sources = [path for path in journeys if path.is_file() and is_source(path)]
    files = journey_files([path for path in journeys if path not in sources])
    reviewed = review(files) if files else Reviewed([], 0, 0)
    for path in sources:
        reviewed.findings.extend(review_source(path))
    proof = {path: _proof(path, base, browser, most, limit, as_json) for path in files} if proving else {}
    if fix or patch is not None:
        _fix(reviewed.findings, fix, patch)
    if sarif is not None:
        from wary_hound.report.sarif import sarif_of

        write_aside({sarif: sarif_of(reviewed.findings, version("wary-hound")).encode()})
    if report_path is not None:
        from wary_hound.report.proof import write_proof

        write_proof(proof, reviewed.findings, report_path)
    if as_json:
        mutations = [_mutation(m) for ms in proof.values() for m in ms]
        print_json({"findings": [_json(f) for f in reviewed.findings], "proof": mutations})
    else:
        _tell(reviewed, len(sources), fix)
        for path, changes in proof.items():
            _tell_proof(path, changes)
        for written in (patch, sarif, report_path):
            if written is not None:
                console().print(f"Written: {written}")
    heavy = WEIGHTS[: WEIGHTS.index(fail_on) + 1] if fail_on in WEIGHTS else ()
    weak = any(f.weight in heavy and not (fix and f.fix) for f in reviewed.findings)
    context.exit(1 if weak or any(m.missed for ms in proof.values() for m in ms) else 0)


def _proof(path: Path, base: str, browser: str, most: int, limit: float, quiet: bool) -> list[Mutation]:
    from wary_hound.browser import Browser

    proofs: list[Mutation] = []
    for written in read_written(path):
        journey = written.journey
        book = journey.read_book(path.parent)
        rows = journey.rows(path.parent, os.environ, str(path))
        with Browser.start(browser) as opened, progress(console()) as bar:
            line = bar.add_task(f"proving {journey.journey}", total=None)

            def told(_: Mutation, bar: Progress = bar, line: TaskID = line) -> None:
                bar.update(line, advance=1)

            proofs += prove(
                journey, book, opened, base=base, values=rows[0], folder=path.parent, limit=limit, most=most,
                told=told,
            )  # fmt: skip
    return proofs


def _fix(findings: Sequence[Finding], write: bool, patch: Path | None) -> None:
    paths = {f.place.path for f in findings if f.fix is not None and f.place.path.suffix in (".yaml", ".yml")}
    texts = {path: read_text(path) for path in sorted(paths)}
    new = fixed(findings, texts)
    if patch is not None:
        write_aside({patch: yaml_text.unified_diff(texts, new).encode()})
    if write:
        yaml_text.write_changed(texts, new)


def _tell(reviewed: Reviewed, sources: int, fix: bool) -> None:
    out = console()
    dead: dict[Path, list[str]] = {}
    for finding in reviewed.findings:
        if finding.rule == "dead-entry":
            dead.setdefault(finding.place.path, []).append(finding.about)
            continue
        sign, colour = COLOURS[finding.weight]
        out.print(Text.assemble((f"{sign} {finding.rule}", colour), f"  {shown(str(finding.place))}"))
        out.print(Padding(Text(shown(finding.about), "bold"), (0, 0, 0, 2)))
        why = RULES[finding.rule].about if finding.why in ("", finding.about) else f"{RULES[finding.rule].about} ({finding.why})"
        out.print(Padding(Text(shown(why)), (0, 0, 0, 2)))
        if finding.better:
            done = "now" if fix and finding.fix else "better"
            out.print(Padding(Text.assemble((f"{done}: ", "green"), shown(finding.better)), (0, 0, 0, 2)))
    for path, names in dead.items():
        out.print(Text.assemble(("· dead-entry", "dim"), f"  {path}: no journey that was reviewed uses {shown(', '.join(names))}"))
    counts = {weight: sum(f.weight == weight for f in reviewed.findings) for weight in WEIGHTS}
    said = ", ".join(f"{count} {weight}" for weight, count in counts.items() if count) or "nothing found"
    read = [f"{reviewed.journeys} journey{'' if reviewed.journeys == 1 else 's'}, {reviewed.steps} steps"] * bool(reviewed.journeys)
    read += [f"{sources} source{'' if sources == 1 else 's'}"] * bool(sources)
    out.print(Text.assemble(bold(said), f" in {' and '.join(read)}"))
    fixable = sum(f.fix is not None for f in reviewed.findings)
    if fixable and not fix:
        out.print(Text(f"{fixable} can be put right by --fix.", "dim"))


def _tell_proof(path: Path, changes: Sequence[Mutation]) -> None:
    out = console()
    noticed, of, _ = verdict(list(changes))
    out.print(Text.assemble(bold(f"{path}: {noticed} of {of} changes were noticed"), "", style="" if noticed == of else "yellow"))
    rows = [
        (
            Text("✓ noticed", "green") if m.noticed else Text("✗ not noticed", "red") if m.tried else Text("· not tried", "dim"),
            f"{m.step}",
            shown(m.says),
            m.change,
            f"step {m.noticed_by}" if m.noticed else "",
        )
        for m in changes
    ]
    out.print(table(["", ("step", "right"), ("what", "wide"), "change", "by"], rows))


def _json(finding: Finding) -> dict[str, Any]:
    place = finding.place
    return {
        "rule": finding.rule, "weight": finding.weight, "path": str(place.path), "line": place.line, "column": place.column,
        "what": place.what, "about": finding.about, "why": finding.why, "better": finding.better,
        "fixable": finding.fix is not None,
    }  # fmt: skip


def _mutation(m: Mutation) -> dict[str, Any]:
    return {"step": m.step, "says": m.says, "change": m.change, "noticed_by": m.noticed_by, "tried": m.tried, "message": m.message}
