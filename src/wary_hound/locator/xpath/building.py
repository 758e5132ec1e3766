"""XPath expressions put together from their parts."""

from __future__ import annotations

import re

from wary_hound.locator.xpath.values import Binary, Call, Expression, Literal, Number, Path, Step

ANYWHERE = Step("descendant-or-self", "node()")
NAME = re.compile(r"[a-zA-Z_][\w.-]*\Z")


def anywhere(*steps: Step) -> Path:
    """`//a//b`: each step anywhere below the one before."""
    return Path(True, tuple(part for step in steps for part in (ANYWHERE, step)))


def literal(text: str) -> Expression:
    """A text; one with both kinds of quotes is put together by concat(), since XPath 1.0 has no escapes."""
    if '"' not in text or "'" not in text:
        return Literal(text)
    return Call("concat", tuple(Literal(part) for part in re.split(r'("+)', text) if part))


def attribute(name: str) -> Path:
    """`@name`."""
    return Path(False, (Step("attribute", name),))


PADDED_CLASS = Call("concat", (Literal(" "), Call("normalize-space", (attribute("class"),)), Literal(" ")))
"""The classes of an element with a space before and after each: how XPath 1.0 asks for one of them."""


def has_class(name: str) -> Expression:
    """`contains(concat(" ", normalize-space(@class), " "), " name ")`."""
    return Call("contains", (PADDED_CLASS, literal(f" {name} ")))


def equals(name: str, value: str) -> Expression:
    """`@name="value"`."""
    return Binary("=", attribute(name), literal(value))


def reads(text: str) -> Expression:
    """`normalize-space()="text"`."""
    return Binary("=", Call("normalize-space"), literal(text))


def says(text: str) -> Expression:
    """`normalize-space(text())="text"`: that its own first words are that, which what is around it may read, too."""
    return Binary("=", Call("normalize-space", (Path(False, (Step("child", "text()"),)),)), literal(text))


def contains(text: str) -> Expression:
    """`contains(., "text")`."""
    return Call("contains", (Path(False, (Step("self", "node()"),)), literal(text)))


def is_of_text(said: Expression) -> bool:
    """Whether it asks for what an element reads: made by `reads`, `says` or `contains`."""
    match said:
        case Binary("=", Call("normalize-space", () | (Path(),)), Literal()) | Call(
            "contains", (Path(False, (Step("self"),)), Literal())
        ):
            return True
        case _:
            return False


def holds(step: Step) -> Expression:
    """`.//step`: that it stands somewhere in the element."""
    return Path(False, (Step("self", "node()"), ANYWHERE, step))


def child(tag: str, *predicates: Expression) -> Step:
    """A step to children of a tag."""
    return Step("child", tag, predicates)


def place(number: int) -> Number:
    """A position, from 1."""
    return Number(float(number))
