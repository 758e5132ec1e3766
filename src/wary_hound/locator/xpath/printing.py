"""Parsed XPath as text again."""

from __future__ import annotations

import math
import re

from wary_hound.locator.xpath.parser import PRECEDENCE
from wary_hound.locator.xpath.values import CHAINED, Binary, Call, Expression, Filtered, Literal, Negative, Number, Path, Step


def xpath_string(text: str) -> str:
    """A literal; one with both kinds of quotes becomes a concat(), since XPath 1.0 has no escapes."""
    if '"' not in text:
        return f'"{text}"'
    if "'" not in text:
        return f"'{text}'"
    parts = []
    for part in re.split(r'("+)', text):
        if part:
            parts.append(f"'{part}'" if part.startswith('"') else f'"{part}"')
    return f"concat({', '.join(parts)})"


def xpath_text(expression: Expression, outer: int = 0) -> str:
    """An expression as text; in parentheses where it binds less than what is around it (`outer`)."""
    match expression:
        case Literal(value):
            return f'"{value}"' if '"' not in value else f"'{value}'"
        case Number(value):
            return _number(value)
        case Call(name, arguments):
            return f"{name}({', '.join(xpath_text(a) for a in arguments)})"
        case Negative(operand):
            text = f"-{xpath_text(operand, 7)}"
            return f"({text})" if outer > 6 else text
        case Binary("|", left, right):
            text = f"{xpath_text(left, 7)} | {xpath_text(right, 7)}"
            return f"({text})" if outer > 7 else text
        case Binary(operator, left, right):
            binds = PRECEDENCE[operator]
            # chains of `and` and `or` mean the same however they are grouped
            sign = operator if operator in ("=", "!=") else f" {operator} "
            text = f"{xpath_text(left, binds)}{sign}{xpath_text(right, binds + (operator not in CHAINED))}"
            return f"({text})" if outer > binds else text
        case Filtered(primary, predicates):
            inner = xpath_text(primary)
            return f"({inner})" + "".join(f"[{xpath_text(p)}]" for p in predicates)
        case Path(absolute, steps, start):
            begin = "/" if absolute else ""
            if start is not None:
                simple = isinstance(start, Call | Filtered | Literal)
                begin = (xpath_text(start) if simple else f"({xpath_text(start)})") + "/"
            return begin + _steps_text(steps)


def _number(value: float) -> str:
    if math.isinf(value):
        return "9" * 320  # as great as a number can be written
    return str(int(value)) if value == int(value) else format(value, "f").rstrip("0") if "e" in repr(value) else repr(value)


def _steps_text(steps: tuple[Step, ...]) -> str:
    out: list[str] = []
    for step in steps:
        if step == Step("descendant-or-self", "node()"):
            out.append("")
        else:
            out.append(step_text(step))
    text = "/".join(out)
    return text + "/descendant-or-self::node()" if steps and not out[-1] else text


def step_text(step: Step) -> str:
    """One step of a path as text."""
    if step == Step("self", "node()"):
        return "."
    if step == Step("parent", "node()"):
        return ".."
    axis = {"child": "", "attribute": "@"}.get(step.axis, f"{step.axis}::")
    return axis + step.test + "".join(f"[{xpath_text(p)}]" for p in step.predicates)
