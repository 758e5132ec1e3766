"""Parsed CSS and XPath as text again: for explanations, conversion and authoring."""

from __future__ import annotations

import re

from wary_hound.locator.css import values as c
from wary_hound.locator.xpath import values as x

_PLAIN = re.compile(r"-?[a-zA-Z_\u0080-\U0010ffff][\w\u0080-\U0010ffff-]*\Z")


def css_identifier(text: str) -> str:
    """An identifier, escaped as CSSOM's `serialize an identifier` has it."""
    if _PLAIN.match(text):
        return text
    out = []
    for at, letter in enumerate(text):
        if letter == "\0":
            out.append("\ufffd")
        elif ord(letter) < 0x20 or ord(letter) == 0x7F:
            out.append(f"\\{ord(letter):x} ")
        elif letter.isascii() and letter.isdigit() and (at == 0 or (at == 1 and text[0] == "-")):
            out.append(f"\\{ord(letter):x} ")
        elif letter == "-" and len(text) == 1:
            out.append("\\-")
        elif ord(letter) >= 0x80 or letter.isalnum() or letter in "-_":
            out.append(letter)
        else:
            out.append("\\" + letter)
    return "".join(out)


def css_string(text: str) -> str:
    out = []
    for letter in text:
        if letter in '"\\':
            out.append("\\" + letter)
        elif ord(letter) < 0x20 or ord(letter) == 0x7F:
            out.append(f"\\{ord(letter):x} ")
        else:
            out.append(letter)
    return '"' + "".join(out) + '"'


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


def css_text(selectors: tuple[c.Complex, ...]) -> str:
    return ", ".join(map(complex_text, selectors))


def complex_text(selector: c.Complex) -> str:
    out = []
    for at, (combinator, compound) in enumerate(zip(selector.combinators, selector.compounds, strict=True)):
        text = "".join(map(simple_text, compound.simples))
        if at == 0:
            out.append(f"{combinator} {text}" if combinator.strip() else text)
        else:
            out.append(f" {text}" if combinator == " " else f" {combinator} {text}")
    return "".join(out)


def simple_text(simple: c.Simple) -> str:
    match simple:
        case c.Type(name):
            return name if name == "*" else css_identifier(name)
        case c.Id(value):
            return "#" + css_identifier(value)
        case c.Class(value):
            return "." + css_identifier(value)
        case c.Attribute(name, operator, value, case):
            if not operator:
                return f"[{css_identifier(name)}]"
            return f"[{css_identifier(name)}{operator}{css_string(value)}{' ' + case if case else ''}]"
        case c.Matches(name, selectors):
            return f":{name}({css_text(selectors)})"
        case c.Nth(name, a, b, of):
            formula = str(b) if a == 0 else f"{a}n{b:+d}" if b else f"{a}n"
            return f":{name}({formula}{' of ' + css_text(of) if of else ''})"
        case c.Pseudo(name, arguments):
            if name == "element":
                return "::before"
            return f":{name}({', '.join(map(css_string, arguments))})" if arguments else f":{name}"


def xpath_text(expression: x.Expression, outer: int = 0) -> str:
    from wary_hound.locator.xpath.parser import PRECEDENCE

    match expression:
        case x.Literal(value):
            return f'"{value}"' if '"' not in value else f"'{value}'"
        case x.Number(value):
            return str(int(value)) if value == int(value) else repr(value)
        case x.Call(name, arguments):
            return f"{name}({', '.join(xpath_text(a) for a in arguments)})"
        case x.Negative(operand):
            text = f"-{xpath_text(operand, 7)}"
            return f"({text})" if outer > 6 else text
        case x.Binary("|", left, right):
            text = f"{xpath_text(left, 7)} | {xpath_text(right, 8)}"
            return f"({text})" if outer > 7 else text
        case x.Binary(operator, left, right):
            binds = PRECEDENCE[operator]
            text = f"{xpath_text(left, binds)} {operator} {xpath_text(right, binds + 1)}"
            return f"({text})" if outer > binds else text
        case x.Filtered(primary, predicates):
            inner = xpath_text(primary)
            return f"({inner})" + "".join(f"[{xpath_text(p)}]" for p in predicates)
        case x.Path(absolute, steps, start):
            begin = "/" if absolute else ""
            if start is not None:
                simple = isinstance(start, x.Call | x.Filtered | x.Literal)
                begin = (xpath_text(start) if simple else f"({xpath_text(start)})") + "/"
            return begin + _steps_text(steps)


def _steps_text(steps: tuple[x.Step, ...]) -> str:
    out: list[str] = []
    for step in steps:
        if step == x.Step("descendant-or-self", "node()"):
            out.append("")
        else:
            out.append(step_text(step))
    text = "/".join(out)
    return text + "/descendant-or-self::node()" if steps and not out[-1] else text


def step_text(step: x.Step) -> str:
    if step == x.Step("self", "node()"):
        return "."
    if step == x.Step("parent", "node()"):
        return ".."
    axis = {"child": "", "attribute": "@"}.get(step.axis, f"{step.axis}::")
    return axis + step.test + "".join(f"[{xpath_text(p)}]" for p in step.predicates)
