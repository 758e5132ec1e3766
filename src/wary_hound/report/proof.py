"""The proof of journeys as one HTML page: what was changed, and which check noticed."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path

from wary_hound.files import write_aside
from wary_hound.journey.review import RULES, Finding
from wary_hound.report.pages import render
from wary_hound.running.proving import Mutation, verdict


def write_proof(proof: Mapping[Path, Sequence[Mutation]], findings: Sequence[Finding], path: Path) -> None:
    """Write the report."""
    told = [(str(file), verdict(list(changes)), changes) for file, changes in proof.items()]
    write_aside({path: render("proof", proof=told, findings=findings, rules=RULES).encode()})
