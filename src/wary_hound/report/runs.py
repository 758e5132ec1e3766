"""The report of runs as one HTML page: verdict first, the failing step at once, a strip of pictures, every step."""

from __future__ import annotations

import base64
import io
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from markupsafe import Markup

from wary_hound.files import write_aside
from wary_hound.report.marked import opened
from wary_hound.report.pages import render
from wary_hound.report.terminal import sign
from wary_hound.report.timing import timing
from wary_hound.running.replay import Run, StepResult

WIDE = 640
"""Pictures are made so many pixels wide, to keep the page small."""
HIGH = 460


@dataclass(frozen=True, slots=True)
class Shot:
    """A step with its picture as a data address; empty where there is none."""

    step: StepResult
    sign: str
    picture: str


def write_runs(runs: Sequence[Run], path: Path) -> None:
    """Write the report as one page."""
    write_aside({path: runs_html(runs).encode()})


def runs_html(runs: Sequence[Run]) -> str:
    """The report as text."""
    told = [(run, [Shot(step, sign(step.state), _small(step.picture)) for step in run.steps]) for run in runs]
    told.sort(key=lambda entry: ("failed", "healed", "passed", "not run").index(entry[0].state))
    states = Counter(run.state for run in runs)
    reasons = Counter((run.failing.says, run.failing.message.splitlines()[0]) for run in runs if run.failing is not None)
    groups: dict[str, list[Run]] = {}
    for run in runs:
        groups.setdefault(run.journey, []).append(run)
    drawn = [(name, Markup(drawing)) for name, inside in groups.items() if (drawing := timing(inside))]
    return render("runs", runs=told, states=states, reasons=reasons.most_common(), timings=drawn)


def _small(picture: bytes) -> str:
    """A picture of the upper part of a page, small enough for a report."""
    if not picture:
        return ""
    image = opened(picture, "a step").convert("RGB")
    high = min(image.height, round(image.width * HIGH / WIDE))
    image = image.crop((0, 0, image.width, high)).resize((WIDE, round(high * WIDE / image.width)))
    out = io.BytesIO()
    image.save(out, format="JPEG", quality=70)
    return f"data:image/jpeg;base64,{base64.b64encode(out.getvalue()).decode()}"
