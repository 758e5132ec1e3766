"""A journey as a Python script against the public face, and back: each step is one call of `walk`, with plain values."""

from __future__ import annotations

import ast
import io
import re
import tokenize
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from wary_hound.errors import FileError
from wary_hound.files import read_text
from wary_hound.journey import yaml_text
from wary_hound.journey.forms import Written, sections
from wary_hound.journey.journey import Journey
from wary_hound.journey.steps import ACTIONS, STATES, Step

WORDS = {"is": "is_", "from": "from_", "with": "with_", "in": "in_"}
"""Keys of a step that Python keeps for itself."""
BACK = {python: key for key, python in WORDS.items()}


def to_script(written: Written) -> str:
    """The script as text."""
    journey = written.journey
    lines = [f"# {line}".rstrip() for line in written.head.split("\n")] if written.head else []
    lines += ["from wary_hound import walking", ""]
    plain = journey.model_dump(by_alias=True, exclude_defaults=True, exclude={"before", "steps", "after", "journey"})
    plain["guards"] = [[g.when, g.click] for g in journey.guards]
    named = [f"{key.replace('-', '_')}={value!r}" for key, value in plain.items() if value]
    lines.append(f"with walking({', '.join([repr(journey.journey), *named])}) as walk:")
    at = 0
    calls: dict[str, list[str]] = {}
    for name, steps in sections(journey):
        calls[name] = []
        for step in steps:
            remark = written.remark(at).split("\n") if written.remark(at) else []
            call = call_of(step)
            if len(remark) == 1:
                calls[name].append(f"{call}  # {remark[0]}")
            else:
                calls[name] += [*(f"# {line}".rstrip() for line in remark), call]
            at += 1
    for name in ("before", "after"):
        if name in calls:
            lines += [f"    with walk.{name}:", *(f"        {call}" for call in calls[name])]
    lines += [f"    {call}" for call in calls["steps"]]
    return "\n".join(lines) + "\n"


def call_of(step: Step) -> str:
    """A step as a call."""
    plain = step.to_plain()
    action = step.action
    first = plain.pop(action)
    given = [repr(first)]
    if "in" in plain:
        given.insert(0, repr(plain.pop("in")))
    given += [f"{WORDS.get(key, key.replace('-', '_'))}={value!r}" for key, value in plain.items()]
    return f"walk.{action.replace('-', '_')}({', '.join(given)})"


def step_of_call(name: str, positional: list[Any], named: Mapping[str, Any]) -> Step:
    """The step that a call says. ValueError says what is wrong with it."""
    action = name.replace("_", "-")
    form = ACTIONS.get(action)
    if form is None:
        raise ValueError(f"a step does one of {', '.join(key.replace('-', '_') for key in ACTIONS)}, not {name}")
    wanted = 2 if form.on == "in" else 1
    if len(positional) != wanted:
        raise ValueError(f"{name} takes {'an element and a value' if wanted == 2 else 'one thing'} first")
    plain: dict[str, Any] = {action: positional[-1]}
    if wanted == 2:
        plain["in"] = positional[0]
    for key, value in named.items():
        plain[BACK.get(key, key if key in _KNOWN else key.replace("_", "-"))] = value
    return Step.from_plain(plain)


_KNOWN = frozenset({"is", "from", *STATES})


def read_script(path: Path) -> Written:
    """A journey that a script says. FileError, with the line, where it does more than plain steps with plain values."""
    text = read_text(path, "script")
    try:
        tree = ast.parse(text)
    except (SyntaxError, ValueError) as error:
        line = getattr(error, "lineno", None)
        raise FileError(f"{path}:{line or 1}: no Python ({getattr(error, 'msg', error)})") from None
    comments = _comments(text)
    walks = [node for node in tree.body if isinstance(node, ast.With)]
    if len(walks) != 1:
        raise FileError(f"{path}: a script of a journey has one `with walking(...) as walk:`, not {len(walks)}")
    walk = walks[0]
    call = walk.items[0].context_expr
    if not (isinstance(call, ast.Call) and isinstance(call.func, ast.Name) and call.func.id == "walking"):
        raise FileError(f"{path}:{walk.lineno}: `with walking(...) as walk:` is expected here")
    given = {k.arg.replace("_", "-") if k.arg == "made_up" else str(k.arg): _plain(k.value, path) for k in call.keywords if k.arg}
    title = _plain(call.args[0], path) if call.args else ""
    parts: dict[str, list[tuple[Step, str, int]]] = {"before": [], "steps": [], "after": []}
    for statement in walk.body:
        section, inside = _section(statement)
        for step, remark, line in _steps(inside, path, comments):
            parts[section].append((step, remark, line))
    guards = [{"when": when, "click": click} for when, click in given.pop("guards", [])]
    steps = {name: [step for step, _, _ in entries] for name, entries in parts.items()}
    try:
        journey = Journey.model_validate({"journey": title, **given, "guards": guards, **steps})
    except ValidationError as error:
        raise yaml_text.explain_invalid(path, "script", error) from None
    head: list[str] = []
    for number in sorted(comments):
        if number < walk.lineno and number == len(head) + 1:
            head.append(comments[number][1])
    entries = [entry for name in ("before", "steps", "after") for entry in parts[name]]
    places = tuple((line, 1) for _, _, line in entries)
    return Written(journey, "\n".join(head), tuple(remark for _, remark, _ in entries), places)


def _section(statement: ast.stmt) -> tuple[str, list[ast.stmt]]:
    if isinstance(statement, ast.With):
        around = statement.items[0].context_expr
        if isinstance(around, ast.Attribute) and around.attr in ("before", "after"):
            return around.attr, statement.body
    return "steps", [statement]


def _steps(statements: list[ast.stmt], path: Path, comments: Mapping[int, tuple[bool, str]]) -> Iterator[tuple[Step, str, int]]:
    for statement in statements:
        call = statement.value if isinstance(statement, ast.Expr) else None
        if not (
            isinstance(call, ast.Call)
            and isinstance(call.func, ast.Attribute)
            and isinstance(call.func.value, ast.Name)
            and call.func.value.id == "walk"
        ):
            raise FileError(
                f"{path}:{statement.lineno}: only plain steps (`walk.click(...)`) can be read, not loops or calculations"
            )
        named = {str(k.arg): _plain(k.value, path) for k in call.keywords}
        try:
            step = step_of_call(call.func.attr, [_plain(a, path) for a in call.args], named)
        except (ValueError, ValidationError) as error:
            said = error.errors()[0]["msg"].removeprefix("Value error, ") if isinstance(error, ValidationError) else error
            raise FileError(f"{path}:{statement.lineno}: {said}") from None
        above: list[str] = []
        line = statement.lineno - 1
        while line in comments and comments[line][0]:
            above.insert(0, comments[line][1])
            line -= 1
        behind = comments.get(statement.end_lineno or statement.lineno)
        remark = [*above, *([behind[1]] if behind is not None and not behind[0] else [])]
        yield step, "\n".join(remark), statement.lineno


def _plain(node: ast.expr, path: Path) -> Any:
    try:
        return ast.literal_eval(node)
    except (ValueError, TypeError, SyntaxError, MemoryError, RecursionError):
        raise FileError(f"{path}:{node.lineno}: a plain value is expected here, not a calculation") from None


def _comments(text: str) -> dict[int, tuple[bool, str]]:
    """Comments by line: whether they stand alone there, and what they say."""
    lines = text.splitlines()
    return {
        token.start[0]: (lines[token.start[0] - 1].lstrip().startswith("#"), re.sub(r"^#+ ?", "", token.string).rstrip())
        for token in tokenize.generate_tokens(io.StringIO(text).readline)
        if token.type == tokenize.COMMENT
    }
