"""A journey in its forms without loss: YAML, a Python script (script.py), a table of steps (tables.py); remarks go with steps."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, field
from pathlib import Path

from wary_hound.errors import FileError
from wary_hound.journey import yaml_text
from wary_hound.journey.journey import Journey, parse_journey, step_lines
from wary_hound.journey.steps import Step

FORMS = ("yaml", "python", "csv", "xlsx")
SUFFIXES = {".yaml": "yaml", ".yml": "yaml", ".py": "python", ".csv": "csv", ".xlsx": "xlsx"}


@dataclass(frozen=True)
class Written:
    """A journey with what its writer remarked: at its head, and beside each of `all_steps` (lines, empty for none)."""

    journey: Journey
    head: str = ""
    remarks: tuple[str, ...] = ()
    places: tuple[tuple[int, int], ...] = field(default=(), compare=False)
    """Line and column of each step, where the form has them (of a table the row)."""

    def remark(self, at: int) -> str:
        """What is remarked beside a step, by its place in `all_steps`."""
        return self.remarks[at] if at < len(self.remarks) else ""


def sections(journey: Journey) -> list[tuple[str, Sequence[Step]]]:
    """The parts of a journey that have steps, in order."""
    return [
        (name, steps) for name, steps in (("before", journey.before), ("steps", journey.steps), ("after", journey.after)) if steps
    ]


def form_of(path: Path) -> str:
    """The form that a file is in, by its name. FileError where it is none."""
    form = SUFFIXES.get(path.suffix.lower())
    if form is None:
        raise FileError(f"{path}: a journey is a file of {', '.join(SUFFIXES)}")
    return form


def read_yaml(path: Path) -> Written:
    """A journey in YAML, with its comments. FileError says where it is broken."""
    text, journey = parse_journey(path)
    document = yaml_text.Document(text, path)
    quoted = [(node.start, node.end) for node in document.scalars()]
    remarks: list[str] = []
    places: list[tuple[int, int]] = []
    for section, _ in sections(journey):
        node = document.at((section,))
        assert node is not None
        for _, value in node.entries:
            places.append(document.place(value))
            start, end = value.start, text.find("\n", value.end)
            end = len(text) if end < 0 else end
            line = text.rfind("\n", 0, start) + 1
            above: list[str] = []
            while line > 0:
                before = text.rfind("\n", 0, line - 1) + 1
                said = text[before : line - 1].strip()
                if not said.startswith("#"):
                    break
                above.insert(0, said)
                line = before
            own = [*above, *_trailing(text[start:end], quoted, start)]
            remarks.append("\n".join(re.sub(r"^#+ ?", "", part).rstrip() for part in own))
    first = re.match(r"(?:[ \t]*#[^\n]*\n|[ \t]*\n)*", text)
    head = [line.strip() for line in (first.group() if first else "").splitlines() if line.strip()]
    return Written(journey, "\n".join(re.sub(r"^#+ ?", "", line) for line in head), tuple(remarks), tuple(places))


def _trailing(text: str, quoted: Sequence[tuple[int, int]], start: int) -> list[str]:
    """Comments behind the values of a step, on its own lines. `quoted`: from where to where values stand; `start`: where it is."""
    trailing = []
    at = 0
    for line in text.splitlines(keepends=True):
        if at and line.lstrip().startswith("#"):
            break  # it stands above the next step
        for sign in re.finditer(r"(?<=\s)#", line):
            place = start + at + sign.start()
            if not any(left <= place < right for left, right in quoted):
                trailing.append(line[sign.start() :].rstrip("\n"))
                break
        at += len(line)
    return trailing


def to_yaml(written: Written) -> str:
    """A journey as YAML, its remarks as comments."""
    journey = written.journey
    bare = journey.model_copy(update={"before": (), "after": (), "steps": (Step(action="go", value="again"),)}).to_yaml()
    lines = [f"# {line}\n" if line else "#\n" for line in written.head.split("\n")] if written.head else []
    lines.append(bare[: bare.rindex("steps:\n")])
    at = 0
    for name, steps in sections(journey):
        lines.append(f"{name}:\n")
        for step in steps:
            remark = written.remark(at).split("\n") if written.remark(at) else []
            own = step_lines(step)
            if len(remark) == 1 and not own[0].rstrip("\n").endswith("|"):
                own[0] = f"{own[0].rstrip()}   # {remark[0]}\n"
            else:
                lines.extend(f"  # {line}\n" for line in remark)
            lines.extend(f"  {line}" for line in own)
            at += 1
    return "".join(lines)
