"""A journey as a table of steps, a row a step, in CSV or in a sheet of a workbook, and back; errors name sheet and cell.

The columns: step, action, element, value, check, options, remark. Rows above the first step say what is said of the journey.
"""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Sequence
from contextlib import closing
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from wary_hound.errors import FileError
from wary_hound.files import read_text
from wary_hound.journey.forms import Written, sections
from wary_hound.journey.journey import Journey
from wary_hound.journey.steps import ACTIONS, STATES, Step

COLUMNS = ("step", "action", "element", "value", "check", "options", "remark")
_MAPPINGS = ("data", "made-up", "secrets", "start")


def rows_of(written: Written) -> list[tuple[str, ...]]:
    """The rows of a table, the names of its columns first."""
    journey = written.journey
    rows: list[tuple[str, ...]] = [COLUMNS]
    plain = journey.model_dump(by_alias=True, exclude_defaults=True, exclude={"before", "steps", "after", "guards"})
    rows.append(("", "journey", "", journey.journey, "", "", written.head))
    plain.pop("journey")
    for key, value in plain.items():
        if isinstance(value, dict):
            rows += [("", key, name, _cell(text), "", "", "") for name, text in value.items()]
        else:
            rows.append(("", key, "", _cell(value), "", "", ""))
    rows += [("", "guard", guard.when, guard.click, "", "", "") for guard in journey.guards]
    at = 0
    for name, steps in sections(journey):
        for number, step in enumerate(steps, 1):
            rows.append((f"{number}" if name == "steps" else f"{name} {number}", *_row(step), written.remark(at)))
            at += 1
    return rows


def _row(step: Step) -> tuple[str, str, str, str, str]:
    value = _cell(list(step.values)) if step.values else _cell(step.value)
    more = {name: list(v) if isinstance(v, tuple) else v for name, v in step.more.items()}
    more |= {"from": "the start"} if step.from_start else {}
    options = json.dumps(more, ensure_ascii=False) if more else ""
    return step.action, step.on, value, step.expect or "", options


def _cell(value: Any) -> str:
    """A value as a cell: a text as it is, unless it would be read as a list or another value; the rest as JSON."""
    if isinstance(value, str) and not value.startswith(("[", '"', "'", "=", "{")) and value == value.strip():
        return value
    return json.dumps(value, ensure_ascii=False)


def _value(cell: str, where: str) -> Any:
    if cell.startswith(("[", '"', "{")):
        try:
            return json.loads(cell)
        except ValueError:
            if not cell.startswith('"'):
                return cell
            raise FileError(f"{where}: a text in quotes that does not end, or a list that is none") from None
    return cell


def journey_of(rows: Sequence[Sequence[str]], where: str) -> Written:
    """The journey that rows say. `where` is the file, and the sheet. FileError names the cell."""
    head = [cell.strip().lower() for cell in rows[0]] if rows else []
    missing = next((name for name in ("action", "element", "value") if name not in head), None)
    if missing is not None:
        raise FileError(f"{where}: the first row names the columns ({', '.join(COLUMNS)}); there is no {missing!r}")
    at = {name: head.index(name) for name in COLUMNS if name in head}
    said: dict[str, Any] = {"guards": [], "before": [], "steps": [], "after": []}
    remarks: dict[str, list[str]] = {"before": [], "steps": [], "after": []}
    places: dict[str, list[tuple[int, int]]] = {"before": [], "steps": [], "after": []}
    lead = ""
    for number, row in enumerate(rows[1:], 2):
        cells = {name: (row[place] if place < len(row) else "") for name, place in at.items()}
        if not any(cell.strip() for cell in cells.values()):
            continue

        def cell(name: str, number: int = number) -> str:
            return f"{where}, cell {_letter(at.get(name, 0))}{number}"

        action = cells["action"].strip()
        if action in ACTIONS:
            section = cells.get("step", "").strip().partition(" ")[0]
            section = section if section in ("before", "after") else "steps"
            said[section].append(_step(action, cells, cell("action"), cell("value")))
            remarks[section].append(cells.get("remark", ""))
            places[section].append((number, 1))
        elif action == "guard":
            said["guards"].append({"when": cells["element"], "click": cells["value"]})
        elif action in _MAPPINGS and cells["element"]:
            said.setdefault(action, {})[cells["element"]] = _value(cells["value"], cell("value"))
        elif action in ("journey", "book", "data", "seed"):
            said[action] = _value(cells["value"], cell("value"))
            lead = cells.get("remark", "") if action == "journey" else lead
        else:
            raise FileError(f"{cell('action')}: {action or 'nothing'!r} is no action; there are {', '.join(ACTIONS)}")
    try:
        journey = Journey.model_validate({"journey": where, **said})
    except ValidationError as error:
        first = error.errors()[0]
        raise FileError(f"{where}: {first['msg'].removeprefix('Value error, ')}") from None
    order = ("before", "steps", "after")
    rows_at = tuple(place for name in order for place in places[name])
    return Written(journey, lead, tuple(remark for name in order for remark in remarks[name]), rows_at)


def _step(action: str, cells: dict[str, str], where: str, value_at: str) -> Step:
    plain: dict[str, Any] = {}
    value, on = _value(cells["value"], value_at), cells["element"]
    form, expect = ACTIONS[action], cells.get("check", "").strip()
    if action == "check":
        plain = {"check": on, **({"is": expect} if expect in STATES else {expect: value})}
    elif form.on == "itself":
        plain = {action: on}
    else:
        plain = {action: value, **({"in": on} if form.on else {})}
    options = cells.get("options", "").strip()
    if options:
        try:
            plain |= json.loads(options)
        except (ValueError, TypeError):
            raise FileError(f'{where}: the options are JSON such as {{"dialog": "confirm"}}, not {options!r}') from None
    try:
        return Step.from_plain(plain)
    except ValidationError as error:
        raise FileError(f"{where}: {error.errors()[0]['msg'].removeprefix('Value error, ')}") from None
    except ValueError as error:
        raise FileError(f"{where}: {error}") from None


def _letter(place: int) -> str:
    return chr(ord("A") + place)


def to_csv(written: Written) -> str:
    """The table as CSV."""
    out = io.StringIO()
    csv.writer(out, lineterminator="\n").writerows(rows_of(written))
    return out.getvalue()


def read_csv(path: Path) -> Written:
    """A journey in a CSV table."""
    try:
        rows = list(csv.reader(io.StringIO(read_text(path, "table")), strict=True))
    except csv.Error as error:
        raise FileError(f"{path}: no CSV ({error})") from None
    return journey_of(rows, str(path))


def to_workbook(several: Sequence[Written]) -> bytes:
    """Journeys as a workbook (XLSX), a sheet each."""
    from openpyxl import Workbook
    from openpyxl.styles import Alignment, Font

    book = Workbook()
    book.remove(book.active)
    titles: set[str] = set()
    for written in several:
        title = _title(written.journey.journey, titles)
        sheet = book.create_sheet(title)
        for row in rows_of(written):
            sheet.append([None if cell == "" else cell for cell in row])
        for cells in sheet.iter_rows():
            for cell in cells:
                cell.data_type = "s" if cell.value is not None else cell.data_type
                cell.alignment = Alignment(vertical="top", wrap_text=True)
        for cell in sheet[1]:
            cell.font = Font(bold=True)
        for letter, width in zip("ABCDEFG", (9, 12, 34, 44, 11, 34, 44), strict=True):
            sheet.column_dimensions[letter].width = width
        sheet.freeze_panes = "A2"
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def _title(name: str, taken: set[str]) -> str:
    plain = "".join("-" if c in "[]:*?/\\" or ord(c) < 32 else c for c in name)[:28].strip("' ") or "journey"
    title, number = plain, 2
    while title.lower() in taken:
        title, number = f"{plain[:26]} {number}", number + 1
    taken.add(title.lower())
    return title


def read_workbook(path: Path) -> list[Written]:
    """The journeys of a workbook, a sheet each."""
    from openpyxl import load_workbook

    if not path.is_file():
        raise FileError(f"{path}: there is no such workbook")
    try:
        with closing(load_workbook(path, read_only=True)) as book:
            read = [(s.title, [["" if v is None else str(v) for v in r] for r in s.iter_rows(values_only=True)]) for s in book]
    except Exception as error:  # the reader of such files has errors of many kinds
        raise FileError(f"{path}: no workbook ({type(error).__name__})") from None
    return [journey_of(rows, f"{path}, sheet {title}") for title, rows in read]
