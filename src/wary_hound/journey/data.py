"""Data of journeys: `{visitor}` in a step stands for a text from the file, a row of a table, the environment, or made up.

Secrets come from the environment alone. They are known as such, so that nothing that is written, printed or pictured has them.
"""

from __future__ import annotations

import csv
import io
import re
import uuid
from collections.abc import Callable, Iterable, Mapping
from contextlib import closing
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from wary_hound.errors import FileError
from wary_hound.files import read_text
from wary_hound.journey.steps import Step

PLACE = re.compile(r"(?<![\w$])\{\{|\}\}|(?<![\w$])\{([A-Za-z][\w.-]*)\}")
"""A place for data: braces behind a letter (`css{a}`) are a locator's; doubled ones (`{{x}}`) are braces."""
HIDDEN = "•••"
KINDS = (
    "name",
    "first name",
    "last name",
    "email",
    "phone",
    "street",
    "town",
    "company",
    "word",
    "sentence",
    "number",
    "date",
    "password",
    "unique",
)
"""What can be made up."""


@dataclass(frozen=True, slots=True)
class Values:
    """What names stand for. `secrets` are those values that nobody may see."""

    texts: Mapping[str, str]
    secrets: frozenset[str] = frozenset()
    label: str = ""
    """What a row of a table is called in reports: its first value."""

    def hide(self, text: str) -> str:
        """A text without the secrets in it."""
        for secret in sorted(self.secrets, key=len, reverse=True):
            text = text.replace(secret, HIDDEN)
        return text


NOTHING = Values({})


def filled(step: Step, values: Values, where: str) -> Step:
    """A step with its data in place. FileError where a name stands for nothing."""

    def fill(text: str) -> str:
        return fill_text(text, values.texts, where)

    def deep(value: Any) -> Any:
        if isinstance(value, dict):
            return {key: deep(item) for key, item in value.items()}
        return tuple(map(deep, value)) if isinstance(value, tuple) else fill(value)

    done = {"value": fill(step.value), "values": tuple(map(fill, step.values)), "more": deep(step.more)}
    return step.model_copy(update={"on": in_locator(step.on, values.texts), **done})


def in_locator(text: str, texts: Mapping[str, str]) -> str:
    """A name or a locator with data in the place of `{name}`, where there is such a name; all other braces are the locator's."""
    return PLACE.sub(lambda found: texts.get(found.group(1) or "", found.group()), text) if "{" in text else text


def fill_text(text: str, texts: Mapping[str, str], where: str) -> str:
    """A text with data in the place of `{name}`. FileError where nothing has such a name."""

    open_braces = 0

    def one(hit: re.Match[str]) -> str:
        nonlocal open_braces
        if hit.group() == "{{":
            open_braces += 1
            return "{"
        if hit.group() == "}}":
            if not open_braces:
                return "}}"  # a locator's
            open_braces -= 1
            return "}"
        name = hit.group(1)
        if name not in texts:
            known = f"there are {', '.join(sorted(texts)[:12])}" if texts else "the journey has no data"
            raise FileError(
                f"{where}: nothing is named {name!r} in the data; {known}. Braces themselves are doubled: {{{{{name}}}}}"
            )
        return texts[name]

    return PLACE.sub(one, text) if "{" in text or "}}" in text else text


def literal(text: str) -> str:
    """A text that stands for itself where data could stand: its braces doubled."""
    return text.replace("{", "{{").replace("}", "}}")


def places(step: Step) -> set[str]:
    """The names of data that a step uses."""
    places: set[str] = set()

    def look(value: Any) -> None:
        if isinstance(value, str):
            places.update(name for name in PLACE.findall(value) if name)
        elif isinstance(value, dict):
            for item in value.values():
                look(item)
        elif isinstance(value, tuple):
            for item in value:
                look(item)

    look((step.on, step.value, step.values, dict(step.more)))
    return places


def rows_of(
    data: Mapping[str, str] | str,
    made_up: Mapping[str, str],
    secrets: Mapping[str, str],
    seed: int,
    folder: Path,
    environment: Mapping[str, str],
    where: str,
) -> list[Values]:
    """The values of each run that a journey's data ask for: one, or one for each row of its table (CSV or XLSX, relative to
    `folder`). FileError says what is missing."""
    hidden: dict[str, str] = {}
    for name, variable in secrets.items():
        if not environment.get(variable):
            raise FileError(f"{where}: the secret {name!r} comes from the environment, where {variable} is not set")
        hidden[name] = environment[variable]
    tables = table(folder / data) if isinstance(data, str) and data else [dict(data) if not isinstance(data, str) else {}]
    rows = []
    for number, row in enumerate(tables):
        texts = {
            **_made_up(made_up, seed + number, where),
            **{k: _from_environment(v, environment, where) for k, v in row.items()},
            **hidden,
        }
        label = next(iter(row.values()), "") if isinstance(data, str) and data else ""
        rows.append(Values(texts, frozenset(hidden.values()), label))
    return rows


def _from_environment(value: str, environment: Mapping[str, str], where: str) -> str:
    if not value.startswith("env:"):
        return value
    name = value.removeprefix("env:").strip()
    if name not in environment:
        raise FileError(f"{where}: {name} is not set in the environment")
    return environment[name]


def table(path: Path) -> list[dict[str, str]]:
    """The rows of a CSV or XLSX file, each by the names in its first row; empty rows are left out. FileError where it is none."""
    if path.suffix.lower() == ".xlsx":
        lines = _sheet(path)
    else:
        lines = list(csv.reader(io.StringIO(read_text(path, "table"))))
    head = [cell.strip() for cell in lines[0]] if lines else []
    if not any(head):
        raise FileError(f"{path}: the first row of a table has the names of its columns")
    doubled = [name for name in head if name and head.count(name) > 1]
    if doubled:
        raise FileError(f"{path}: two columns are named {doubled[0]!r}")
    rows = []
    for line in lines[1:]:
        if any(cell.strip() for cell in line):
            cells = [*line, *[""] * (len(head) - len(line))]
            rows.append({name: cell for name, cell in zip(head, cells, strict=False) if name})
    if not rows:
        raise FileError(f"{path}: there is no row under the names of the columns")
    return rows


def _sheet(path: Path) -> list[list[str]]:
    from openpyxl import load_workbook  # not needed by most

    if not path.is_file():
        raise FileError(f"{path}: there is no such table")
    try:
        with closing(load_workbook(path, read_only=True, data_only=True)) as book:
            rows = book.worksheets[0].iter_rows(values_only=True)
            return [["" if v is None else str(v) for v in row] for row in rows]
    except Exception as error:  # the reader of such files has errors of many kinds
        raise FileError(f"{path}: no workbook ({type(error).__name__})") from None


def _made_up(wanted: Mapping[str, str], seed: int, where: str) -> dict[str, str]:
    if not wanted:
        return {}
    from faker import Faker

    fake = Faker()
    fake.seed_instance(seed)
    makers: dict[str, Callable[[], object]] = {
        "name": fake.name, "first name": fake.first_name, "last name": fake.last_name, "email": fake.safe_email,
        "phone": fake.phone_number, "street": fake.street_address, "town": fake.city, "company": fake.company,
        "word": fake.word, "unique": lambda: f"{fake.word().capitalize()} {uuid.uuid4().hex[:8]}",
        "sentence": fake.sentence, "number": lambda: fake.random_int(1, 9),
        "date": lambda: fake.date_between("+1d", "+90d").isoformat(), "password": lambda: fake.password(14),
    }  # fmt: skip
    odd = next((kind for kind in wanted.values() if kind not in makers), None)
    if odd is not None:
        raise FileError(f"{where}: {odd!r} cannot be made up; these can: {', '.join(KINDS)}")
    return {name: str(makers[kind]()) for name, kind in wanted.items()}


def with_values(values: Values, more: Mapping[str, str]) -> Values:
    """The same with some names standing for something else: what a part is given."""
    return replace(values, texts={**values.texts, **more})


def unused(names: Iterable[str], steps: Iterable[Step]) -> list[str]:
    """The names of data that no step uses."""
    used = set().union(*(places(step) for step in steps)) if names else set()
    return [name for name in names if name not in used]
