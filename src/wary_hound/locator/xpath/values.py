"""Parsed XPath 1.0 as immutable values, one class a kind of expression."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property


@dataclass(frozen=True, slots=True)
class Literal:
    """A text in quotes."""

    value: str


@dataclass(frozen=True, slots=True)
class Number:
    """A number."""

    value: float


@dataclass(frozen=True, slots=True)
class Call:
    """A function with its arguments."""

    name: str
    arguments: tuple[Expression, ...] = ()


@dataclass(frozen=True, slots=True)
class Negative:
    """`-operand`."""

    operand: Expression


@dataclass(frozen=True, slots=True)
class Binary:
    """`or and = != < <= > >= + - * div mod |`."""

    operator: str
    left: Expression
    right: Expression


@dataclass(frozen=True, slots=True)
class Step:
    """`test` is a name, `*`, `node()`, `text()`, `comment()` or `processing-instruction()`."""

    axis: str
    test: str
    predicates: tuple[Expression, ...] = ()


@dataclass(frozen=True)
class Path:
    """Steps from the root of the tree (`absolute`), from the context node, or from what `start` gives."""

    absolute: bool
    steps: tuple[Step, ...]
    start: Expression | None = None

    @cached_property
    def descent(self) -> tuple[tuple[str, int], ...]:
        """The first steps as far as they go to children by tag, and at most by place: tag and place (0: all of the tag)."""
        steps = []
        for step in self.steps:
            if step.axis != "child" or step.test == "*" or step.test.endswith("()") or len(step.predicates) > 1:
                break
            place = 0.0
            if step.predicates:
                only = step.predicates[0]
                if not isinstance(only, Number) or not 1 <= only.value < 2**31 or only.value % 1:
                    break
                place = only.value
            steps.append((step.test.lower(), int(place)))
        return tuple(steps)


@dataclass(frozen=True, slots=True)
class Filtered:
    """A primary expression with predicates: `(//tr)[2]`."""

    primary: Expression
    predicates: tuple[Expression, ...]


Expression = Literal | Number | Call | Negative | Binary | Path | Filtered

CHAINED = frozenset({"or", "and", "|"})
"""Operators whose chains mean the same however they are grouped."""
NUMBER_FUNCTIONS = frozenset({"last", "position", "count", "string-length", "number", "sum", "floor", "ceiling", "round"})
_ARITHMETIC = frozenset({"+", "-", "*", "div", "mod"})


def is_number(expression: Expression) -> bool:
    """Whether an expression gives a number, so that as a predicate it asks for a position."""
    match expression:
        case Number() | Negative():
            return True
        case Binary(operator, _, _):
            return operator in _ARITHMETIC
        case Call(name, _):
            return name in NUMBER_FUNCTIONS
        case _:
            return False


def uses_position(expression: Expression) -> bool:
    """Whether the value depends on where the context node stands (`position()`, `last()`)."""
    match expression:
        case Call(name, arguments):
            return name in ("position", "last") or any(map(uses_position, arguments))
        case Negative(operand):
            return uses_position(operand)
        case Binary(_, left, right):
            return uses_position(left) or uses_position(right)
        case Path(_, _, start):
            return start is not None and uses_position(start)
        case Filtered(primary, _):
            return uses_position(primary)
        case _:
            return False


def is_positional(predicate: Expression) -> bool:
    """Whether a predicate asks for a position."""
    return is_number(predicate) or uses_position(predicate)
