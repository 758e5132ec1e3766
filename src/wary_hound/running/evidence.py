"""What a run leaves behind: a folder that can be moved, with its steps, their pictures, and the page where it failed."""

from __future__ import annotations

import json
import re
from pathlib import Path
from typing import Any

from wary_hound.files import write_aside
from wary_hound.running.replay import Run


def run_json(run: Run) -> dict[str, Any]:
    """A run as plain JSON, without pictures."""
    return {
        "journey": run.journey,
        "browser": run.browser,
        "state": run.state,
        "seconds": round(run.seconds, 3),
        "guards": dict(run.guards),
        "dialogs": list(run.dialogs),
        "steps": [
            {
                "number": step.number,
                "step": step.says,
                "locator": step.locator,
                "state": step.state,
                "seconds": round(step.seconds, 3),
                "message": step.message,
                "healed": list(step.healed),
                "address": step.address,
                "picture": picture_name(step.number) if step.picture else "",
            }
            for step in run.steps
        ],
    }


def picture_name(number: int) -> str:
    """The file of a step's picture."""
    return f"step-{number:02}.png"


def folder_name(run: Run, number: int) -> str:
    """A name for a run's folder: journey, browser, and which time it was."""
    return f"{re.sub(r'[^a-z0-9]+', '-', run.journey.lower()).strip('-') or 'journey'}-{run.browser}-{number}"


def write_evidence(run: Run, folder: Path) -> Path:
    """Write a run into a folder: run.json, step-NN.png, and the page where it failed as a snapshot (failed.html)."""
    files = {folder / picture_name(step.number): step.picture for step in run.steps if step.picture}
    files[folder / "run.json"] = (json.dumps(run_json(run), indent=1, ensure_ascii=False) + "\n").encode()
    write_aside(files)
    if run.page is not None:
        run.page.write(folder / "failed.html")
        failing = run.failing
        if failing is not None and failing.picture:
            write_aside({folder / "failed.png": failing.picture})
    return folder
