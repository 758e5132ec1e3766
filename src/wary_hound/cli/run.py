"""run: journeys in real browsers, once or many times, with evidence."""

from __future__ import annotations

import contextlib
import json
import os
from collections import Counter
from collections.abc import Callable, Sequence
from concurrent.futures import as_completed
from dataclasses import dataclass, replace
from functools import partial
from math import sqrt
from pathlib import Path
from typing import Any

import click
from rich.padding import Padding
from rich.text import Text

from wary_hound.browser import Browser, Phone
from wary_hound.cli.common import FILE, executor, journey_files, json_option, print_json
from wary_hound.files import write_aside
from wary_hound.healing.names import Healing
from wary_hound.journey.book import Book
from wary_hound.journey.data import NOTHING, Values
from wary_hound.journey.journey import Journey, size_of
from wary_hound.journey.reading import read_written
from wary_hound.journey.renewing import renew_book
from wary_hound.report.terminal import MARKS, bold, console, mark, percent, progress, shown, sign, table
from wary_hound.running.evidence import folder_name, run_json, step_json, sweep, write_evidence
from wary_hound.running.replay import Run, StepResult, replay

BROWSERS = ("chromium", "firefox")


@dataclass(frozen=True)
class Setting:
    """How large the window is, or that it is a phone's; empty for what is usual."""

    size: tuple[int, int] | None = None
    phone: bool = False

    @property
    def name(self) -> str:
        """As it is told: empty for what is usual."""
        return "phone" if self.phone else f"{self.size[0]}x{self.size[1]}" if self.size else ""


@dataclass(frozen=True)
class Task:
    """One run to do; plain, so that another process or machine can take it."""

    journey: Journey
    book: Book | None
    folder: Path
    browser: str
    number: int
    base: str
    healing: Healing
    limit: float
    values: Values = NOTHING
    setting: Setting = Setting()
    evidence: bool = False
    renew: bool = False
    window: bool = False
    slow: float = 0.0


@click.command()
@click.argument("journeys", type=FILE, nargs=-1, required=True)
@click.option("--base", default="", metavar="ADDRESS", help="The address that `open` steps with a path start from.")
@click.option("--browser", "browsers", default="", help="chromium, firefox, or both, with a comma; the journey's, or chromium.")
@click.option("--size", "sizes", default="", metavar="SIZES", help="Sizes of the window, such as 1280x800,390x844, each a run.")
@click.option("--phone", is_flag=True, help="Run on an emulated phone as well, or alone where no size is named.")
@click.option("--times", type=click.IntRange(1, 1000), default=1, show_default=True, help="Run each so many times.")
@click.option("--jobs", type=click.IntRange(1, 64), default=1, show_default=True, help="So many at once.")
@click.option("--cluster", metavar="ADDRESS", help="On the workers of a Dask scheduler (tcp://HOST:PORT), which have browsers.")
@click.option("--stop", is_flag=True, help="Begin no further run when one has failed.")
@click.option(
    "--healing",
    type=click.Choice(["off", "propose", "sure"]),
    default="propose",
    show_default=True,
    help="What becomes of a name whose locator finds nothing.",
)
@click.option("--limit", type=click.FloatRange(0.1, 600), default=15, show_default=True, help="Seconds for each thing.")
@click.option("--evidence", type=FILE, help="Folder for steps, pictures and the page where it failed.")
@click.option("--keep", type=click.IntRange(1), metavar="N", help="Of the runs in the evidence folder keep the N latest.")
@click.option("--report", "report_path", type=FILE, help="Write a report as one HTML page.")
@click.option("--junit", "junit_path", type=FILE, help="Write JUnit XML.")
@click.option("--lines", "lines_path", type=FILE, help="Write each step as a line of JSON while it runs.")
@click.option("--renew", is_flag=True, help="Let books remember their elements as runs that passed have seen them.")
@click.option("--window", is_flag=True, help="In a window, for eyes.")
@click.option("--slow", type=click.FloatRange(0, 60), default=0, help="Seconds between steps, for eyes.")
@json_option
@click.pass_context
def command(
    context: click.Context,
    journeys: tuple[Path, ...],
    base: str,
    browsers: str,
    sizes: str,
    phone: bool,
    times: int,
    jobs: int,
    cluster: str | None,
    stop: bool,
    healing: Healing,
    limit: float,
    evidence: Path | None,
    keep: int | None,
    report_path: Path | None,
    junit_path: Path | None,
    lines_path: Path | None,
    renew: bool,
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
    files = journey_files(journeys)
    given = {"base": base, "healing": healing, "limit": limit, "evidence": evidence is not None, "renew": renew}
    given |= {"window": window, "slow": slow}
    walks = [(file, written.journey) for file in files for written in read_written(file)]
    tasks = [task for file, journey in walks for task in _tasks(file, journey, browsers, sizes, phone, times, given)]
    quiet = as_json or len(tasks) > 1
    with Lines(lines_path) as lines:
        runs = _all(tasks, jobs, cluster, stop, evidence, lines) if quiet else [_live(tasks[0], evidence, lines)]
    if evidence is not None and keep is not None:
        sweep(evidence, keep)
    renewed = _renewed(runs, walks) if renew else {}
    if report_path is not None:
        from wary_hound.report.runs import write_runs

        write_runs(runs, report_path)
    if junit_path is not None:
        from wary_hound.report.junit import junit

        write_aside({junit_path: junit(runs).encode()})
    if as_json:
        print_json({"runs": [run_json(run) for run in runs]})
    else:
        _tell(runs, len(tasks))
        for file in (evidence, report_path, junit_path, lines_path):
            if file is not None:
                console().print(f"Written: {file}")
        for path, names in renewed.items():
            console().print(f"{path} remembers {names} element{'' if names == 1 else 's'} as seen now.")
    context.exit(0 if len(runs) == len(tasks) and all(run.state == "passed" for run in runs) else 1)


def _renewed(runs: Sequence[Run], walks: Sequence[tuple[Path, Journey]]) -> dict[Path, int]:
    """How many elements each book remembers anew, from the runs that passed."""
    renewed: dict[Path, dict[str, Any]] = {}
    books = {journey.journey: file.parent / journey.book for file, journey in walks if journey.book}
    for run in runs:
        if run.state == "passed" and run.seen and run.journey in books:
            renewed.setdefault(books[run.journey], {}).update(run.seen)
    return {path: renew_book(path, memories) for path, memories in renewed.items()}


def _tasks(file: Path, journey: Journey, browsers: str, sizes: str, phone: bool, times: int, given: dict[str, Any]) -> list[Task]:
    """The runs of one journey: browsers by settings by rows of data by times."""
    book = journey.read_book(file.parent)
    named = [name.strip() for name in (browsers or journey.start.browser or "chromium").split(",") if name.strip()]
    odd = [name for name in named if name not in BROWSERS]
    if odd or not named:
        raise click.BadParameter(f"{odd[0] if odd else browsers!r} is none of {', '.join(BROWSERS)}", param_hint="--browser")
    rows = journey.rows(file.parent, os.environ, str(file))
    return [
        Task(journey, book, file.parent, browser, number, values=values, setting=setting, **given)
        for browser in named
        for setting in _settings(journey, sizes, phone)
        for values in rows
        for number in range(1, times + 1)
    ]


def _settings(journey: Journey, sizes: str, phone: bool) -> list[Setting]:
    asked = [text.strip() for text in sizes.split(",") if text.strip()]
    odd = next((text for text in asked if size_of(text) is None), None)
    if odd is not None:
        raise click.BadParameter(f"{odd!r} is no size such as 1280x800", param_hint="--size")
    settings = [Setting(size_of(text)) for text in asked] + ([Setting(phone=True)] if phone else [])
    if settings:
        return settings
    return [Setting(size_of(journey.start.size) if journey.start.size else None, journey.start.phone)]


class Lines:
    """A file that gets each step as a line of JSON as soon as it is done."""

    def __init__(self, path: Path | None) -> None:
        self._file = None
        if path is not None:
            write_aside({path: b""})  # with the words that are ours where it cannot be written
            self._file = path.open("a", encoding="utf-8")

    def add(self, task: Task, step: StepResult) -> None:
        """One step."""
        if self._file is not None:
            run = {"journey": task.journey.journey, "browser": task.browser, "setting": task.setting.name}
            said = {**run, "row": task.values.label, "time": task.number, **step_json(step)}
            self._file.write(json.dumps(said, ensure_ascii=False) + "\n")
            self._file.flush()

    def __enter__(self) -> Lines:
        return self

    def __exit__(self, *_: object) -> None:
        if self._file is not None:
            self._file.close()


def run_task(task: Task, told: Callable[[StepResult], None] = lambda _: None) -> Run:
    """Do one run. Its page, where it failed, is given only where evidence is wanted."""
    size, phone = task.setting.size, Phone() if task.setting.phone else None
    shape = {"viewport": size} if size else {}
    with Browser.start(task.browser, limit=task.limit, window=task.window, phone=phone, **shape) as browser:  # type: ignore[arg-type]
        run = replay(
            task.journey,
            task.book,
            browser,
            base=task.base,
            healing=task.healing,
            slow=task.slow,
            name=task.browser,
            values=task.values,
            folder=task.folder,
            renew=task.renew,
            told=told,
        )
    return replace(run, setting=task.setting.name, page=run.page if task.evidence else None)


def _done(task: Task, run: Run, evidence: Path | None) -> Run:
    """Write the evidence of a run; the page is not needed any longer."""
    if evidence is not None:
        write_evidence(run, evidence / folder_name(run, task.number), task.values.hide)
    return replace(run, page=None)


def _live(task: Task, evidence: Path | None, lines: Lines) -> Run:
    """One run, told step by step as it goes."""
    out = console()
    where = ", ".join(part for part in (task.browser, task.setting.name, task.values.label) if part)
    out.print(Text.assemble(bold(task.journey.journey), f", {shown(where)}"))

    def told(step: StepResult) -> None:
        lines.add(task, step)
        ran = step.state != "not run"
        seconds = f"{1000 * step.seconds:6.0f} ms" if ran else " " * 9
        lead = (sign(step.state), MARKS[step.state][1])
        says = step.says if step.section == "steps" else f"{step.section}: {step.says}"
        out.print(Text.assemble(f"{step.number:3} ", lead, f" {seconds}  ", (says, "" if ran else "dim")))
        for one in step.healed if step.state != "failed" else ():
            out.print(Padding(Text(shown(one), "yellow"), (0, 0, 0, 17)))
        if step.message:
            out.print(Padding(Text(shown(step.message), "red"), (0, 0, 0, 17)))

    return _done(task, run_task(task, told), evidence)


def _all(tasks: list[Task], jobs: int, cluster: str | None, stop: bool, evidence: Path | None, lines: Lines) -> list[Run]:
    """All runs, in the order asked for; those that were done where it is stopped (by `stop`, or Ctrl-C)."""
    runs: dict[int, Run] = {}

    def keep(number: int, run: Run) -> bool:
        runs[number] = _done(tasks[number], run, evidence)
        bar.update(line, advance=1)
        return not (stop and run.state == "failed")

    with progress(console()) as bar, contextlib.suppress(KeyboardInterrupt):
        line = bar.add_task("running", total=len(tasks))
        if jobs == 1 and cluster is None:
            for number, task in enumerate(tasks):
                if not keep(number, run_task(task, partial(lines.add, task))):
                    break
        else:
            with executor(jobs, cluster) as pool:
                futures = {pool.submit(run_task, task): number for number, task in enumerate(tasks)}
                for future in as_completed(futures):
                    number = futures[future]
                    run = future.result()
                    for step in run.steps:
                        lines.add(tasks[number], step)
                    if not keep(number, run):
                        for other in futures:
                            other.cancel()
                        break
    return [runs[number] for number in sorted(runs)]


def _tell(runs: Sequence[Run], asked: int) -> None:
    out = console()
    if asked > 1:
        groups: dict[tuple[str, str], list[Run]] = {}
        for run in runs:
            groups.setdefault((run.journey, run.where), []).append(run)
        rows = []
        for (journey, browser), inside in groups.items():
            states = Counter(run.state for run in inside)
            low, high = wilson(states["passed"], len(inside))
            said = f"{states['passed']} of {len(inside)}"
            seconds = sorted(run.seconds for run in inside)[len(inside) // 2]
            counted = [str(states["healed"]), str(states["failed"]), f"{seconds:.1f} s"]
            rows.append([journey, browser, said, f"{100 * low:.0f} to {percent(high)}", *counted])
        columns: list[str | tuple[str, str]] = [("journey", "wide"), "where", "passed", "90 % interval"]
        columns += [("healed", "right"), ("failed", "right"), ("median", "right")]
        out.print(table(columns, rows))
        reasons = Counter(
            (r.failing.number, r.failing.says, r.failing.message.splitlines()[0]) for r in runs if r.failing is not None
        )
        if len(runs) < asked:
            out.print(Text(f"Stopped: {asked - len(runs)} of {asked} runs were not begun or not ended.", "yellow"))
        for (number, says, message), count in reasons.most_common():
            out.print(Text.assemble((f"{count} × ", "red"), f"step {number}, {says}"))
            out.print(Padding(Text(shown(message), "dim"), (0, 0, 0, 4)))
        return
    run = runs[0]
    failing = run.failing
    if failing is not None and failing.console:
        out.print(Padding(Text("The console said: " + shown("; ".join(failing.console[:3])), "dim"), (0, 0, 0, 17)))
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
