"""What is weak about the steps of a journey: checks that cannot fail, actions that nothing checks, absence that is not proven."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence

from wary_hound.journey.steps import THE_PAGE, Step
from wary_hound.locator.values import Locator

ACTING = frozenset({"click", "double-click", "right-click", "drag", "upload", "keys"})
"""Actions that a page answers to."""
_PASSWORD = re.compile(r"pass(?:word|phrase|code)?\b|\bpin\b|kennwort", re.I)


def found_by(locator: Locator, text: str) -> bool:
    """Whether a locator finds its element by a text: to check that it reads so says only that the text is somewhere."""
    finder = locator.alternatives[0].hops[-1].finder
    quoted = (f'"{text}"', f"'{text}'")
    by_name = finder.strategy == "role" and any(q in finder.expression for q in quoted)
    by_path = finder.strategy == "xpath" and any(
        re.search(rf"(?:text\(\)|normalize-space\([^)]*\)|\.)\s*=\s*{re.escape(q)}\s*\]\Z", finder.expression) for q in quoted
    )
    part = text and finder.strategy == "text" and finder.expression.strip().lstrip("~").strip('"') == text
    return bool(part) or by_name or by_path


def of_steps(steps: Sequence[Step], locators: Sequence[Locator | None]) -> Iterator[tuple[int, str, str]]:
    """(place in the steps, rule, why) for each weakness."""
    checks = [at for at, step in enumerate(steps) if step.action == "check" or {"dialog", "downloads"} & set(step.more)]
    acts = [at for at, step in enumerate(steps) if step.action in ACTING]
    if not checks and steps:
        yield len(steps) - 1, "nothing-checked", "it does things and checks none of them: it fails only where a page cannot be used"
    elif acts and not any(at >= acts[-1] for at in checks):
        yield acts[-1], "unchecked-action", "nothing is checked behind it: what it does may be wrong, and nobody is told"
    seen: set[str] = set()
    for at, step in enumerate(steps):
        if step.action == "check":
            yield from _of_check(at, step, locators[at], seen, steps)
        if step.on and step.on != THE_PAGE and step.expect not in ("gone", "hidden"):
            seen.add(step.on)
        if step.action in ("type", "add") and _PASSWORD.search(step.on) and "{" not in step.value:
            yield at, "secret-in-clear", "name it under `secrets`, and let it come from the environment"
        pattern = step.value.rpartition(" ")[2] if step.expect == "asked" else step.value if step.action == "stub" else ""
        if pattern and _too_wide(pattern):
            yield at, "request-too-wide", f"{pattern} is like requests that are not meant"
        if step.action == "stub" and "delay" in step.more and "body" not in step.more:
            yield at, "fixed-wait", f"the answer is held back {step.more['delay']} s, whatever the page does"


def _of_check(
    at: int, step: Step, locator: Locator | None, seen: set[str], steps: Sequence[Step]
) -> Iterator[tuple[int, str, str]]:
    plain = "attribute" not in step.more and "row" not in step.more
    if locator is not None and plain and step.expect in ("reads", "contains", "matches") and found_by(locator, step.value):
        yield (
            at,
            "found-by-its-text",
            f"{locator} says only that the text is somewhere; find it by something else, or say `is: shown`",
        )
    if step.expect == "contains" and not step.value.strip():
        yield at, "cannot-fail", "every text contains nothing"
    if step.expect == "matches" and re.fullmatch(r"(?:\^?\.\*\$?)+|\\?\.?\*", step.value):
        yield at, "cannot-fail", f"every text matches {step.value}"
    if step.expect in ("gone", "hidden"):
        if step.from_start and step.on not in seen:
            yield at, "absence-from-start", "it holds as well where the locator finds nothing because it is broken"
        elif not step.from_start and step.on not in seen:
            yield at, "absence-unproven", "no step before has used it or checked that it is shown: check that first"
    before = steps[at - 1] if at else None
    if before is None or before.on != step.on or not step.on:
        return
    if before == step:
        yield at, "says-it-again", "the check before is the same, and nothing was done since"


def _too_wide(pattern: str) -> bool:
    bare = pattern.split("://", 1)[-1]
    host, _, path = bare.partition("/")
    if "://" in pattern:
        return "*" in host or not path.strip("*/")
    return pattern.startswith("*") or not pattern.strip("*/")
