"""run: journeys in real browsers, once or many times, with evidence."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Sequence
from concurrent.futures import as_completed
from dataclasses import dataclass, replace
from math import sqrt
from pathlib import Path

import click
from rich.padding import Padding
from rich.text import Text

from wary_hound.browser import Browser
from wary_hound.cli.common import FILE, json_option, print_json, workers
from wary_hound.errors import FileError
from wary_hound.files import write_aside
from wary_hound.healing.names import Healing
from wary_hound.journey.book import parse_book
from wary_hound.journey.journey import parse_journey
from wary_hound.report.terminal import MARKS, bold, console, mark, percent, progress, shown, sign, table
from wary_hound.running.evidence import folder_name, run_json, write_evidence
from wary_hound.running.replay import Run, StepResult, replay

BROWSERS = ("chromium", "firefox")


@dataclass(frozen=True)
class Task:
    """One run to do; plain, so that another process can take it."""

    journey: Path
    browser: str
    number: int
    base: str
    healing: Healing
    limit: float
    evidence: Path | None
    window: bool = False
    slow: float = 0.0


@click.command()
@click.argument("journeys", type=FILE, nargs=-1, required=True)
@click.option("--base", default="", metavar="ADDRESS", help="The address that `open` steps with a path start from.")
@click.option("--browser", "browsers", default="chromium", show_default=True, help="chromium, firefox, or both, with a comma.")
@click.option("--times", type=click.IntRange(1, 1000), default=1, show_default=True, help="Run each so many times.")
@click.option("--jobs", type=click.IntRange(1, 64), default=1, show_default=True, help="So many at once.")
@click.option(
    "--healing",
    type=click.Choice(["off", "propose", "sure"]),
    default="propose",
    show_default=True,
    help="What becomes of a name whose locator finds nothing.",
)
@click.option("--limit", type=click.FloatRange(0.1, 600), default=15, show_default=True, help="Seconds for each thing.")
@click.option("--evidence", type=FILE, help="Folder for steps, pictures and the page where it failed.")
@click.option("--report", "report_path", type=FILE, help="Write a report as one HTML page.")
@click.option("--junit", "junit_path", type=FILE, help="Write JUnit XML.")
@click.option("--window", is_flag=True, help="In a window, for eyes.")
@click.option("--slow", type=click.FloatRange(0, 60), default=0, help="Seconds between steps, for eyes.")
@json_option
@click.pass_context
def command(
    context: click.Context,
    journeys: tuple[Path, ...],
    base: str,
    browsers: str,
    times: int,
    jobs: int,
    healing: Healing,
    limit: float,
    evidence: Path | None,
    report_path: Path | None,
    junit_path: Path | None,
    window: bool,
    slow: float,
    as_json: bool,
) -> None:
    """Run journeys, step by step, in real browsers. A folder stands for the journeys in it.

    \b
    Example, with the demo site served by `wary-hound demo --serve` in another terminal:
      wary-hound run demo-out/books/hold-a-night.yaml --base http://127.0.0.1:8700/r1

    Exit 1 where a run failed, or passed by healing: that is not plainly green.
    """
    files = _files(journeys)
    named = [name.strip() for name in browsers.split(",") if name.strip()]
    odd = [name for name in named if name not in BROWSERS]
    if odd or not named:
        raise click.BadParameter(f"{odd[0] if odd else browsers!r} is none of {', '.join(BROWSERS)}", param_hint="--browser")
    tasks = [
        Task(file, browser, number, base, healing, limit, evidence, window, slow)
        for file in files
        for browser in named
        for number in range(1, times + 1)
    ]
    quiet = as_json or len(tasks) > 1
    runs = _all(tasks, jobs) if quiet else [_live(tasks[0])]
    if report_path is not None:
        from wary_hound.report.runs import write_runs

        write_runs(runs, report_path)
    if junit_path is not None:
        from wary_hound.report.junit import junit

        write_aside({junit_path: junit(runs).encode()})
    if as_json:
        print_json({"runs": [run_json(run) for run in runs]})
    else:
        _tell(runs)
        for file in (evidence, report_path, junit_path):
            if file is not None:
                console().print(f"Written: {file}")
    context.exit(0 if all(run.state == "passed" for run in runs) else 1)


def _files(given: Sequence[Path]) -> list[Path]:
    found: list[Path] = []
    for path in given:
        if path.is_dir():
            inside = [file for file in sorted(path.glob("*.yaml")) if b"\nsteps:" in b"\n" + file.read_bytes()]
            if not inside:
                raise FileError(f"{path}: there is no journey in this folder")
            found += inside
        else:
            found.append(path)
    return found


def run_task(task: Task, told: Callable[[StepResult], None] = lambda _: None) -> Run:
    """Do one run, and write its evidence."""
    _, journey = parse_journey(task.journey)
    book = parse_book(task.journey.parent / journey.book)[1] if journey.book else None
    with Browser.start(task.browser, limit=task.limit, window=task.window) as browser:
        run = replay(
            journey,
            book,
            browser,
            base=task.base,
            healing=task.healing,
            slow=task.slow,
            name=task.browser,
            told=told,
        )
    if task.evidence is not None:
        write_evidence(run, task.evidence / folder_name(run, task.number))
    return replace(run, page=None)  # pages stay in the process that took them


def _live(task: Task) -> Run:
    """One run, told step by step as it goes."""
    out = console()
    _, journey = parse_journey(task.journey)
    out.print(Text.assemble(bold(journey.journey), f", {task.browser}"))

    def told(step: StepResult) -> None:
        ran = step.state != "not run"
        seconds = f"{1000 * step.seconds:6.0f} ms" if ran else " " * 9
        lead = (sign(step.state), MARKS[step.state][1])
        out.print(Text.assemble(f"{step.number:3} ", lead, f" {seconds}  ", (step.says, "" if ran else "dim")))
        for one in step.healed if step.state != "failed" else ():
            out.print(Padding(Text(shown(one), "yellow"), (0, 0, 0, 17)))
        if step.message:
            out.print(Padding(Text(shown(step.message), "red"), (0, 0, 0, 17)))

    return run_task(task, told)


def _all(tasks: list[Task], jobs: int) -> list[Run]:
    """All runs, in the order asked for."""
    found: dict[int, Run] = {}
    with progress(console()) as bar:
        line = bar.add_task("running", total=len(tasks))
        if jobs == 1:
            for number, task in enumerate(tasks):
                found[number] = run_task(task)
                bar.update(line, advance=1)
        else:
            with workers(jobs) as pool:
                futures = {pool.submit(run_task, task): number for number, task in enumerate(tasks)}
                for future in as_completed(futures):
                    found[futures[future]] = future.result()
                    bar.update(line, advance=1)
    return [found[number] for number in range(len(tasks))]


def _tell(runs: Sequence[Run]) -> None:
    out = console()
    if len(runs) > 1:
        groups: dict[tuple[str, str], list[Run]] = {}
        for run in runs:
            groups.setdefault((run.journey, run.browser), []).append(run)
        rows = []
        for (journey, browser), inside in groups.items():
            states = Counter(run.state for run in inside)
            low, high = wilson(states["passed"], len(inside))
            said = f"{states['passed']} of {len(inside)}"
            seconds = sorted(run.seconds for run in inside)[len(inside) // 2]
            counted = [str(states["healed"]), str(states["failed"]), f"{seconds:.1f} s"]
            rows.append([journey, browser, said, f"{100 * low:.0f} to {percent(high)}", *counted])
        columns: list[str | tuple[str, str]] = [("journey", "wide"), "browser", "passed", "90 % interval"]
        columns += [("healed", "right"), ("failed", "right"), ("median", "right")]
        out.print(table(columns, rows))
        reasons = Counter(
            (r.failing.number, r.failing.says, r.failing.message.splitlines()[0]) for r in runs if r.failing is not None
        )
        for (number, says, message), count in reasons.most_common():
            out.print(Text.assemble((f"{count} × ", "red"), f"step {number}, {says}"))
            out.print(Padding(Text(shown(message), "dim"), (0, 0, 0, 4)))
        return
    run = runs[0]
    done = sum(step.state in ("passed", "healed") for step in run.steps)
    out.print(Text.assemble(mark(run.state), f": {done} of {len(run.steps)} steps in {run.seconds:.1f} s"))
    if run.state == "healed":
        out.print(Text("It passed, but not by its own locators: repair them.", "yellow"))
    for when, uses in run.guards.items():
        out.print(f"The guard for {when} was needed {uses} time{'' if uses == 1 else 's'}.")
    for dialog in run.dialogs:
        out.print(f"A dialog opened: {shown(dialog)}")


def wilson(right: int, of: int, z: float = 1.645) -> tuple[float, float]:
    """The interval of a share that covers 90 % (Wilson 1927)."""
    share, square = right / of, z * z
    middle = (share + square / (2 * of)) / (1 + square / of)
    half = z * sqrt(share * (1 - share) / of + square / (4 * of * of)) / (1 + square / of)
    return max(0.0, middle - half), min(1.0, middle + half)
