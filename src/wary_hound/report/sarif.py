"""Findings of a review as SARIF 2.1.0 (OASIS), which code hosts show beside the lines."""

from __future__ import annotations

import json
from collections.abc import Sequence

from wary_hound.journey.review import RULES, Finding

LEVELS = {"wrong": "error", "weak": "warning", "note": "note"}
SCHEMA = "https://json.schemastore.org/sarif-2.1.0.json"


def sarif_of(findings: Sequence[Finding], version: str) -> str:
    """The log as JSON text."""
    rules = [
        {"id": name, "shortDescription": {"text": rule.about}, "defaultConfiguration": {"level": LEVELS[rule.weight]}}
        for name, rule in RULES.items()
    ]
    results = [
        {
            "ruleId": finding.rule,
            "level": LEVELS[finding.weight],
            "message": {"text": _said(finding)},
            "locations": [
                {
                    "physicalLocation": {
                        "artifactLocation": {"uri": finding.place.path.as_posix()},
                        "region": {"startLine": max(1, finding.place.line), "startColumn": max(1, finding.place.column)},
                    }
                }
            ],
        }
        for finding in findings
    ]
    driver = {"name": "Wary Hound", "version": version, "rules": rules}
    return (
        json.dumps({"$schema": SCHEMA, "version": "2.1.0", "runs": [{"tool": {"driver": driver}, "results": results}]}, indent=1)
        + "\n"
    )


def _said(finding: Finding) -> str:
    better = f" Better: {finding.better}" if finding.better else ""
    return f"{finding.about}: {RULES[finding.rule].about} {finding.why}.{better}"
