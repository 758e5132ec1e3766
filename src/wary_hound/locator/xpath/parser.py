"""XPath 1.0 parsed, with the column in every error. Operators by precedence, so that depth costs little stack."""

from __future__ import annotations

import re
from collections.abc import Sequence
from functools import lru_cache
from typing import NamedTuple

from wary_hound.errors import NotationError
from wary_hound.locator.xpath.values import CHAINED, Binary, Call, Expression, Filtered, Literal, Negative, Number, Path, Step

AXES = frozenset(
    """ancestor ancestor-or-self attribute child descendant descendant-or-self following following-sibling namespace parent
    preceding preceding-sibling self""".split()
)
FUNCTIONS = {
    "last": (0, 0), "position": (0, 0), "count": (1, 1), "id": (1, 1), "local-name": (0, 1), "namespace-uri": (0, 1),
    "name": (0, 1), "string": (0, 1), "concat": (2, 999), "starts-with": (2, 2), "contains": (2, 2),
    "substring-before": (2, 2), "substring-after": (2, 2), "substring": (2, 3), "string-length": (0, 1),
    "normalize-space": (0, 1), "translate": (3, 3), "boolean": (1, 1), "not": (1, 1), "true": (0, 0), "false": (0, 0),
    "lang": (1, 1), "number": (0, 1), "sum": (1, 1), "floor": (1, 1), "ceiling": (1, 1), "round": (1, 1),
}  # fmt: skip
"""Each function of the core library, with the least and most arguments."""
NODE_TYPES = frozenset({"node", "text", "comment", "processing-instruction"})
PRECEDENCE = {
    "or": 1, "and": 2, "=": 3, "!=": 3, "<": 4, "<=": 4, ">": 4, ">=": 4, "+": 5, "-": 5, "*": 6, "div": 6, "mod": 6,
}  # fmt: skip
MOST_NESTED = 40
MOST_TOKENS = 5_000
MOST_CHAINED = 100
_NAME = r"[^\W\d][\w.\-\u00b7]*"
_TOKEN = re.compile(
    rf"""(?P<blank>\s+)|(?P<number>\d+(?:\.\d*)?|\.\d+)|(?P<literal>"[^"]*"|'[^']*')
    |(?P<operator>//|::|\.\.|!=|<=|>=|[()\[\].@,/|+\-=<>*$])|(?P<name>{_NAME}(?::(?:{_NAME}|\*))?)""",
    re.X,
)
_OPERATOR_NAMES = frozenset({"and", "or", "div", "mod"})
_BEFORE_OPERAND = frozenset({"@", "::", "(", "[", ",", "/", "//", "|", "+", "-", "=", "!=", "<", "<=", ">", ">="})


class Token(NamedTuple):
    """A token with the column that it begins at."""

    kind: str
    text: str
    column: int


@lru_cache(maxsize=20_000)
def parse(text: str) -> Expression:
    """The expression. NotationError, with the column, where it does not parse or names an unknown function."""
    reader = _Reader(text)
    tree = reader.expression(0)
    if reader.token.kind != "end":
        raise reader.fail("an operator or the end")
    return tree


def _tokens(text: str) -> list[Token]:
    tokens: list[Token] = []
    at = 0
    while at < len(text):
        piece = _TOKEN.match(text, at)
        if piece is None:
            expected = "the quote that closes the literal" if text[at] in "\"'" else "an XPath token"
            raise NotationError(text, (len(text) if text[at] in "\"'" else at) + 1, expected, "xpath")
        kind, value = str(piece.lastgroup), piece.group()
        if kind != "blank":
            before = tokens[-1] if tokens else None
            if before is not None and not (before.kind == "operator" and before.text in _BEFORE_OPERAND | {"binary"}):
                if before.kind != "binary" and (value == "*" or value in _OPERATOR_NAMES):
                    kind = "binary"
            tokens.append(Token(kind, value, at + 1))
            if len(tokens) > MOST_TOKENS:
                raise NotationError(text, at + 1, f"at most {MOST_TOKENS:,} tokens", "xpath")
        at = piece.end()
    tokens.append(Token("end", "", len(text) + 1))
    return tokens


class _Reader:
    def __init__(self, text: str) -> None:
        self.text = text
        self.tokens = _tokens(text)
        self.at = 0
        self.level = 0

    @property
    def token(self) -> Token:
        return self.tokens[self.at]

    def fail(self, expected: str) -> NotationError:
        return NotationError(self.text, self.token.column, expected, "xpath")

    def is_operator(self, *texts: str) -> bool:
        return self.token.kind == "operator" and self.token.text in texts

    def take(self, text: str, expected: str = "") -> None:
        if not self.is_operator(text):
            raise self.fail(expected or text)
        self.at += 1

    def expression(self, least: int) -> Expression:
        """Precedence climbing; all XPath operators bind to the left."""
        self.level += 1
        if self.level > MOST_NESTED:
            raise self.fail(f"expressions nested at most {MOST_NESTED} deep")
        left = self.unary()
        length = 0
        while True:
            token = self.token
            binds = PRECEDENCE.get(token.text, 0) if token.kind in ("operator", "binary") else 0
            if binds <= least:
                self.level -= 1
                return left
            if token.text in CHAINED:
                left = self.chain(token.text, binds, left)
                continue
            self.at += 1
            length += 1
            if length > MOST_CHAINED:
                raise self.fail(f"at most {MOST_CHAINED} operators in a row")
            left = Binary(token.text, left, self.expression(binds))

    def chain(self, operator: str, binds: int, first: Expression) -> Expression:
        """All operands of a row of `or` or `and`, as a tree that is no deeper than need be."""
        operands = [first]
        while self.token.kind == "binary" and self.token.text == operator:
            self.at += 1
            operands.append(self.expression(binds))
        return balanced(operator, operands)

    def unary(self) -> Expression:
        signs = 0
        while self.is_operator("-"):
            self.at += 1
            signs += 1
        operand = self.union()
        if signs:
            operand = Negative(operand) if signs % 2 else Negative(Negative(operand))
        return operand

    def union(self) -> Expression:
        operands = [self.path()]
        while self.is_operator("|"):
            self.at += 1
            operands.append(self.path())
        return balanced("|", operands)

    def path(self) -> Expression:
        if self.is_operator("/"):
            self.at += 1
            return Path(True, self.steps() if self.begins_step() else ())
        if self.is_operator("//"):
            self.at += 1
            return Path(True, (_ANYWHERE, *self.steps()))
        if self.begins_primary():
            return self.filtered()
        if not self.begins_step():
            raise self.fail("an expression")
        return Path(False, self.steps())

    def filtered(self) -> Expression:
        start = self.primary()
        predicates = self.predicates()
        if predicates:
            start = Filtered(start, predicates)
        if self.is_operator("/", "//"):
            deep = self.is_operator("//")
            self.at += 1
            steps = self.steps()
            start = Path(False, (_ANYWHERE, *steps) if deep else steps, start)
        return start

    def begins_primary(self) -> bool:
        token = self.token
        if token.kind in ("literal", "number") or self.is_operator("(", "$"):
            return True
        following = self.tokens[self.at + 1] if token.kind == "name" else None
        return following is not None and following.text == "(" and token.text not in NODE_TYPES

    def begins_step(self) -> bool:
        return self.token.kind == "name" or self.is_operator(".", "..", "@", "*")

    def primary(self) -> Expression:
        token = self.token
        if token.kind == "literal":
            self.at += 1
            return Literal(token.text[1:-1])
        if token.kind == "number":
            self.at += 1
            return Number(float(token.text))
        if self.is_operator("$"):
            raise self.fail("no variable: none is bound here")
        if self.is_operator("("):
            self.at += 1
            inner = self.expression(0)
            self.take(")")
            return inner
        return self.call()

    def call(self) -> Expression:
        name = self.token.text
        limits = FUNCTIONS.get(name)
        if limits is None:
            raise self.fail(f"a function of XPath 1.0, not {name}()")
        begin = self.token
        self.at += 2
        arguments: list[Expression] = []
        if not self.is_operator(")"):
            arguments.append(self.expression(0))
            while self.is_operator(","):
                self.at += 1
                arguments.append(self.expression(0))
        self.take(")", "a comma or )")
        if not limits[0] <= len(arguments) <= limits[1]:
            wanted = str(limits[0]) if limits[0] == limits[1] else f"{limits[0]} or more"
            raise NotationError(self.text, begin.column, f"{wanted} arguments in {name}()", "xpath")
        return Call(name, tuple(arguments))

    def steps(self) -> tuple[Step, ...]:
        steps = [self.step()]
        while self.is_operator("/", "//"):
            if self.token.text == "//":
                steps.append(_ANYWHERE)
            self.at += 1
            steps.append(self.step())
        return tuple(steps)

    def step(self) -> Step:
        if self.is_operator("."):
            self.at += 1
            return Step("self", "node()")
        if self.is_operator(".."):
            self.at += 1
            return Step("parent", "node()")
        axis = "child"
        if self.is_operator("@"):
            self.at += 1
            axis = "attribute"
        elif self.token.kind == "name" and self.tokens[self.at + 1].text == "::":
            axis = self.token.text
            if axis not in AXES:
                raise self.fail(f"an axis, not {axis}")
            self.at += 2
        return Step(axis, self.node_test(), self.predicates())

    def node_test(self) -> str:
        token = self.token
        if self.is_operator("*"):
            self.at += 1
            return "*"
        if token.kind != "name":
            raise self.fail("a step: a name, *, @name, . or ..")
        self.at += 1
        if token.text in NODE_TYPES and self.is_operator("("):
            self.at += 1
            if token.text == "processing-instruction" and self.token.kind == "literal":
                self.at += 1
            self.take(")")
            return token.text + "()"
        if ":" in token.text:
            raise NotationError(self.text, token.column, "a name without a prefix: pages bind no namespaces", "xpath")
        return token.text

    def predicates(self) -> tuple[Expression, ...]:
        predicates: list[Expression] = []
        while self.is_operator("["):
            self.at += 1
            predicates.append(self.expression(0))
            self.take("]")
        return tuple(predicates)


def balanced(operator: str, operands: Sequence[Expression]) -> Expression:
    """A row of one operator as a tree of least depth, which means the same for those in CHAINED."""
    if len(operands) == 1:
        return operands[0]
    middle = (len(operands) + 1) // 2 if len(operands) > 2 else 1
    return Binary(operator, balanced(operator, operands[:middle]), balanced(operator, operands[middle:]))


_ANYWHERE = Step("descendant-or-self", "node()")
