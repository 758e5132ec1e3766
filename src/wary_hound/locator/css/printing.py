"""Parsed CSS selectors as text again."""

from __future__ import annotations

import re
from functools import lru_cache

from wary_hound.locator.css.values import (
    ANY_NAMESPACE,
    Attribute,
    Class,
    Complex,
    Id,
    Matches,
    Nth,
    Pseudo,
    Selectors,
    Simple,
    Type,
)

_PLAIN = re.compile(r"-?[a-zA-Z_\u0080-\U0010ffff][\w\u0080-\U0010ffff-]*\Z")
_ORDINARY = re.compile(r'[^"\\\x00-\x1f\x7f]*\Z')


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
    """A string, escaped as CSSOM's `serialize a string` has it."""
    if _ORDINARY.match(text):
        return f'"{text}"'
    out = []
    for letter in text:
        if letter in '"\\':
            out.append("\\" + letter)
        elif ord(letter) < 0x20 or ord(letter) == 0x7F:
            out.append(f"\\{ord(letter):x} ")
        else:
            out.append(letter)
    return '"' + "".join(out) + '"'


def css_text(selectors: Selectors) -> str:
    """A selector list as text."""
    return ", ".join(map(complex_text, selectors))


def complex_text(selector: Complex) -> str:
    """One selector of a list as text."""
    out = []
    for at, (combinator, compound) in enumerate(zip(selector.combinators, selector.compounds, strict=True)):
        text = "".join(map(simple_text, compound.simples))
        if at == 0:
            out.append(f"{combinator} {text}" if combinator.strip() else text)
        else:
            out.append(f" {text}" if combinator == " " else f" {combinator} {text}")
    return "".join(out)


@lru_cache(4_000)
def simple_text(simple: Simple) -> str:
    """A simple selector as text."""
    match simple:
        case Type(name):
            return name if name == "*" else css_identifier(name)
        case Id(value):
            return "#" + css_identifier(value)
        case Class(value):
            return "." + css_identifier(value)
        case Attribute(name, operator, value, case):
            lead = ANY_NAMESPACE if name.startswith(ANY_NAMESPACE) else ""
            said = lead + css_identifier(name.removeprefix(lead))
            if not operator:
                return f"[{said}]"
            return f"[{said}{operator}{css_string(value)}{' ' + case if case else ''}]"
        case Matches(name, selectors):
            return f":{name}({css_text(selectors)})"
        case Nth(name, a, b, of):
            formula = str(b) if a == 0 else f"{a}n{b:+d}" if b else f"{a}n"
            return f":{name}({formula}{' of ' + css_text(of) if of else ''})"
        case Pseudo(name, arguments):
            if name == "element":
                return f"::{arguments[0]}"
            return f":{name}({', '.join(map(_word, arguments))})" if arguments else f":{name}"


def _word(argument: str) -> str:
    """An argument of `:lang()` or `:dir()`, in quotes where it is no plain word."""
    return argument if _PLAIN.match(argument) else css_string(argument)
