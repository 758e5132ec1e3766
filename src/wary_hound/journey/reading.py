"""Reading and writing journeys in whichever of their forms a file is."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from wary_hound.errors import FileError
from wary_hound.files import write_aside
from wary_hound.journey.forms import Written, form_of, read_yaml, to_yaml
from wary_hound.journey.script import read_script, to_script
from wary_hound.journey.tables import read_csv, read_workbook, to_csv, to_workbook


def read_written(path: Path) -> list[Written]:
    """The journeys of a file, with remarks: one, or those of a workbook's sheets. FileError says where it is broken."""
    match form_of(path):
        case "yaml":
            return [read_yaml(path)]
        case "python":
            return [read_script(path)]
        case "csv":
            return [read_csv(path)]
        case _:
            return read_workbook(path)


def text_of(several: Sequence[Written], form: str) -> bytes:
    """Journeys in a form. FileError where it takes one, and there are several."""
    if form == "xlsx":
        return to_workbook(several)
    if len(several) != 1:
        raise FileError(f"{len(several)} journeys are a workbook (xlsx), or a file each")
    made = {"yaml": to_yaml, "python": to_script, "csv": to_csv}[form](several[0])
    return made.encode()


def write_written(several: Sequence[Written], path: Path) -> None:
    """Write journeys in the form that the file's name says."""
    write_aside({path: text_of(several, form_of(path))})
