"""What a run leaves behind: a folder that can be moved, with its steps, their pictures, and the page where it failed."""

from __future__ import annotations

import json
import re
import shutil
from collections.abc import Callable
from pathlib import Path
from typing import Any

from wary_hound.files import write_aside
from wary_hound.running.replay import Run, StepResult

MOST_BYTES = 60_000_000
"""Pictures of one run take no more; those of steps that passed go first."""


def run_json(run: Run) -> dict[str, Any]:
    """A run as plain JSON, without pictures."""
    return {
        "journey": run.journey,
        "browser": run.browser,
        "setting": run.setting,
        "row": run.row,
        "state": run.state,
        "seconds": round(run.seconds, 3),
        "guards": dict(run.guards),
        "dialogs": list(run.dialogs),
        "steps": [step_json(step) for step in run.steps],
    }


def step_json(step: StepResult) -> dict[str, Any]:
    """A step as plain JSON."""
    return {
        "number": step.number,
        "section": step.section,
        "step": step.says,
        "locator": step.locator,
        "state": step.state,
        "seconds": round(step.seconds, 3),
        "message": step.message,
        "healed": list(step.healed),
        "address": step.address,
        "requests": list(step.requests),
        "console": list(step.console),
        "picture": picture_name(step.number) if step.picture else "",
    }


def picture_name(number: int) -> str:
    """The file of a step's picture."""
    return f"step-{number:02}.png"


def folder_name(run: Run, number: int) -> str:
    """A name for a run's folder: journey, browser, size, row, and which time it was."""
    parts = (run.journey, run.browser, run.setting, run.row)
    named = (re.sub(r"[^a-z0-9]+", "-", part.lower()).strip("-")[:60] for part in parts)
    return "-".join([part for part in named if part] or ["journey"]) + f"-{number}"


def write_evidence(run: Run, folder: Path, hide: Callable[[str], str] = str) -> Path:
    """Write a run into a folder: run.json, step-NN.png, and the page where it failed as a snapshot (failed.html). `hide`: takes
    secrets out of a text."""
    pictures = _bounded(run)
    files = {folder / picture_name(number): picture for number, picture in pictures.items()}
    said = run_json(run)
    for step in said["steps"]:
        step["picture"] = step["picture"] if step["number"] in pictures else ""
    files[folder / "run.json"] = (json.dumps(said, indent=1, ensure_ascii=False) + "\n").encode()
    write_aside(files)
    if run.page is not None:
        run.page.write(folder / "failed.html")
        for name in ("failed.html", "failed.facts.json"):
            text = (folder / name).read_text(encoding="utf-8")
            if hide(text) != text:
                write_aside({folder / name: hide(text).encode()})
        failing = run.failing
        if failing is not None and failing.picture:
            write_aside({folder / "failed.png": failing.picture})
    return folder


def _bounded(run: Run) -> dict[int, bytes]:
    """The pictures that are kept, by step: the latest, and those of steps that did not pass."""
    left, kept = MOST_BYTES, {}
    for step in sorted(run.steps, key=lambda step: (step.state == "passed", -step.number)):
        if step.picture and len(step.picture) <= left:
            kept[step.number] = step.picture
            left -= len(step.picture)
    return kept


def sweep(folder: Path, keep: int) -> list[Path]:
    """Remove the folders of runs but the latest ones; what is no run of ours stays. Gives what went."""
    runs = sorted(
        (path for path in folder.iterdir() if (path / "run.json").is_file()), key=lambda p: (p / "run.json").stat().st_mtime
    )
    gone = runs[: max(0, len(runs) - keep)]
    for path in gone:
        shutil.rmtree(path)
    return gone
