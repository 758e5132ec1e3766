"""What a person decided on repairs, as the review page exports it: which to accept, to reject, or to write otherwise."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

from pydantic import BaseModel, ConfigDict, ValidationError

from wary_hound.errors import FileError
from wary_hound.files import read_text
from wary_hound.journey.repairing import NamedRepair


@dataclass(frozen=True, slots=True)
class Decision:
    """What was decided on one element. `locator`: the candidate to take instead of the first; empty for the first."""

    accept: bool
    locator: str = ""


class _Row(BaseModel):
    model_config = ConfigDict(extra="forbid")

    name: str
    accept: bool
    locator: str = ""


class _File(BaseModel):
    model_config = ConfigDict(extra="ignore")

    decisions: list[_Row]


def read_decisions(path: Path) -> dict[str, Decision]:
    """The decisions of a file, by the name of the element. FileError where it is none."""
    try:
        rows = _File.model_validate_json(read_text(path, "file of decisions")).decisions
    except ValidationError as error:
        first = error.errors()[0]
        place = ".".join(str(part) for part in first["loc"]) or "the top"
        raise FileError(
            f"{path}: no decisions (at {place}: {first['msg']}); the review page of repair exports such a file"
        ) from None
    return {row.name: Decision(row.accept, row.locator) for row in rows}


def decided(repairs: Sequence[NamedRepair], decisions: Mapping[str, Decision]) -> list[NamedRepair]:
    """The repairs with what was decided: accepted guesses are taken, rejected repairs propose nothing.

    Raises FileError for a name that is not there, and for a locator that is not among what is proposed now.
    """
    names = {entry.name for entry in repairs}
    for name in decisions:
        if name not in names:
            raise FileError(f"the decisions name {name}, which is not in the book: were they made for another one?")
    return [_decided(entry, decisions.get(entry.name)) for entry in repairs]


def _decided(entry: NamedRepair, decision: Decision | None) -> NamedRepair:
    repair = entry.repair
    if decision is None or repair is None or repair.state == "works":
        return entry
    if not decision.accept:
        return replace(entry, repair=replace(repair, candidates=()), fallbacks=())
    if decision.locator:
        chosen = [c for c in repair.candidates if str(c.locator) == decision.locator]
        if not chosen:
            raise FileError(f"{entry.name}: {decision.locator} is not among what is proposed now; look at it again")
        rest = [c for c in repair.candidates if c is not chosen[0]]
        repair = replace(repair, candidates=(chosen[0], *rest))
    return replace(entry, repair=repair.accepted())
