"""CSS selectors parsed from tinycss2's tokens, with the column in every error."""

from __future__ import annotations

import contextlib
from functools import lru_cache
from typing import Any

import tinycss2
import tinycss2.nth

from wary_hound.errors import NotationError
from wary_hound.locator.css.values import Attribute, Class, Complex, Compound, Id, Matches, Nth, Pseudo, Simple, Type

MOST_NESTED = 20
LISTS = frozenset({"is", "where", "not", "has", "matches", "-webkit-any"})
NTH = frozenset({"nth-child", "nth-last-child", "nth-of-type", "nth-last-of-type"})
STATIC = frozenset(
    """first-child last-child only-child first-of-type last-of-type only-of-type empty root scope link any-link enabled
    disabled checked required optional read-only read-write placeholder-shown default indeterminate in-range out-of-range
    valid invalid defined open""".split()
)
UNKNOWABLE = frozenset(
    """hover active focus focus-visible focus-within target target-within visited autofill fullscreen modal playing paused
    popover-open user-valid user-invalid current past future""".split()
)
"""States that a page as data cannot hold: they match nothing."""
PSEUDO_ELEMENTS = frozenset("before after first-line first-letter marker placeholder selection backdrop".split())
WITH_WORDS = frozenset({"lang", "dir"})


@lru_cache(maxsize=20_000)
def parse(text: str) -> tuple[Complex, ...]:
    """The selector list. NotationError, with the column, for what is not CSS."""
    tokens = [t for t in tinycss2.parse_component_value_list(text) if t.type != "comment"]
    return _Reader(text, tokens, len(text) + 1, 0).selector_list(relative=False)


class _Reader:
    def __init__(self, text: str, tokens: list[Any], end: int, level: int) -> None:
        self.text = text
        self.tokens = tokens
        self.at = 0
        self.end = end
        self.level = level
        if level > MOST_NESTED:
            raise NotationError(text, end, f"selectors nested at most {MOST_NESTED} deep", "css")

    def column(self) -> int:
        if self.at >= len(self.tokens):
            return self.end
        token = self.tokens[self.at]
        lines = self.text.split("\n")[: token.source_line - 1]
        return sum(len(line) + 1 for line in lines) + int(token.source_column)

    def after(self, content: list[Any], empty: int) -> int:
        """The column behind the last token of a block; `empty` where the block holds none."""
        if not content:
            return empty
        last = content[-1]
        nested = last.type == "function" or last.type.endswith("block")  # they may nest deeper than the stack is
        return int(last.source_column) + (0 if nested else len(last.serialize()))

    def fail(self, expected: str) -> NotationError:
        return NotationError(self.text, self.column(), expected, "css")

    def peek(self) -> Any:
        return self.tokens[self.at] if self.at < len(self.tokens) else None

    def is_literal(self, value: str) -> bool:
        token = self.peek()
        return token is not None and token.type == "literal" and token.value == value

    def blanks(self) -> bool:
        found = False
        while self.peek() is not None and self.peek().type == "whitespace":
            self.at += 1
            found = True
        return found

    def selector_list(self, relative: bool) -> tuple[Complex, ...]:
        found = [self.complex(relative)]
        while True:
            self.blanks()
            if self.peek() is None:
                return tuple(found)
            if not self.is_literal(","):
                raise self.fail("a selector, a combinator or a comma")
            self.at += 1
            found.append(self.complex(relative))

    def complex(self, relative: bool) -> Complex:
        self.blanks()
        lead = " " if relative else ""
        if relative and self.combinator():
            lead = self.tokens[self.at].value
            self.at += 1
            self.blanks()
        combinators, compounds = [lead], [self.compound()]
        while True:
            blank = self.blanks()
            if self.combinator():
                combinators.append(self.tokens[self.at].value)
                self.at += 1
                self.blanks()
            elif blank and self.peek() is not None and not self.is_literal(","):
                combinators.append(" ")
            else:
                return Complex(tuple(combinators), tuple(compounds))
            compounds.append(self.compound())

    def combinator(self) -> bool:
        return any(self.is_literal(c) for c in ">+~")

    def compound(self) -> Compound:
        simples: list[Simple] = []
        token = self.peek()
        if token is not None and token.type == "ident":
            simples.append(Type(token.value))
            self.at += 1
        elif self.is_literal("*"):
            simples.append(Type("*"))
            self.at += 1
        if self.is_literal("|"):
            raise self.fail("no namespace prefix: pages as data have none")
        while True:
            token = self.peek()
            if token is None:
                break
            if token.type == "hash" and token.is_identifier:
                simples.append(Id(token.value))
                self.at += 1
            elif token.type == "hash":
                raise self.fail('an id that does not begin with a digit (write it as [id="..."])')
            elif self.is_literal("."):
                self.at += 1
                name = self.peek()
                if name is None or name.type != "ident":
                    raise self.fail("a class name behind the dot (escape a digit that leads it)")
                simples.append(Class(name.value))
                self.at += 1
            elif token.type == "[] block":
                simples.append(self.attribute(token))
            elif self.is_literal(":"):
                simples.append(self.pseudo())
            else:
                break
        if not simples:
            raise self.fail("a selector")
        return Compound(tuple(simples))

    def attribute(self, block: Any) -> Attribute:
        content = [t for t in block.content if t.type != "comment"]
        inner = _Reader(self.text, content, self.after(content, self.column() + 1), self.level)
        inner.blanks()
        name = inner.peek()
        if name is None or name.type != "ident":
            raise inner.fail("an attribute name")
        inner.at += 1
        inner.blanks()
        if inner.peek() is None:
            self.at += 1
            return Attribute(name.value)
        token = inner.peek()
        operator = token.value if token.type == "literal" else ""
        if operator not in ("=", "~=", "|=", "^=", "$=", "*="):
            raise inner.fail("one of = ~= |= ^= $= *=")
        inner.at += 1
        inner.blanks()
        value = inner.peek()
        if value is None or value.type not in ("ident", "string"):
            raise inner.fail("a value, in quotes unless it is a plain word")
        inner.at += 1
        inner.blanks()
        case = ""
        flag = inner.peek()
        if flag is not None:
            if flag.type != "ident" or flag.value.lower() not in ("i", "s"):
                raise inner.fail("i, s or ]")
            case = flag.value.lower()
            inner.at += 1
            inner.blanks()
            if inner.peek() is not None:
                raise inner.fail("]")
        self.at += 1
        return Attribute(name.value, operator, value.value, case)

    def pseudo(self) -> Simple:
        self.at += 1
        element = self.is_literal(":")
        if element:
            self.at += 1
        token = self.peek()
        if token is None or token.type not in ("ident", "function"):
            raise self.fail("the name of a pseudo-class")
        name = token.lower_value if token.type == "ident" else token.lower_name
        if element or name in PSEUDO_ELEMENTS:
            self.at += 1
            return Pseudo("element")
        if token.type == "ident":
            if name not in STATIC and name not in UNKNOWABLE:
                raise self.fail(f"a pseudo-class of the standard, not :{name}")
            self.at += 1
            return Pseudo(name)
        found = self.function(name, token)
        self.at += 1
        return found

    def function(self, name: str, token: Any) -> Simple:
        content = [t for t in token.arguments if t.type != "comment"]
        end = self.after(content, self.column() + len(name) + 1)
        if name in LISTS:
            inner = _Reader(self.text, content, end, self.level + 1)
            if name in ("is", "where", "matches", "-webkit-any"):
                return Matches("is", inner.forgiving())
            return Matches(name, inner.selector_list(relative=name == "has"))
        if name in NTH:
            split = next((k for k, t in enumerate(content) if t.type == "ident" and t.lower_value == "of"), None)
            formula = tinycss2.nth.parse_nth(content if split is None else content[:split])
            if formula is None:
                raise self.fail("a position such as 2, odd or 2n+1")
            of: tuple[Complex, ...] = ()
            if split is not None:
                if not name.endswith("child"):
                    raise self.fail(f'no "of" in :{name}')
                of = _Reader(self.text, content[split + 1 :], end, self.level + 1).selector_list(relative=False)
            return Nth(name, formula[0], formula[1], of)
        if name in WITH_WORDS:
            words = tuple(t.value for t in content if t.type in ("ident", "string"))
            if not words:
                raise self.fail(f"a word in :{name}()")
            return Pseudo(name, words)
        raise self.fail(f"a pseudo-class of the standard, not :{name}()")

    def forgiving(self) -> tuple[Complex, ...]:
        """`:is` and `:where` drop the selectors that do not parse, as browsers do."""
        found: list[Complex] = []
        part: list[Any] = []
        for token in [*self.tokens, None]:
            if token is None or (token.type == "literal" and token.value == ","):
                with contextlib.suppress(NotationError):
                    found.extend(_Reader(self.text, part, self.end, self.level).selector_list(relative=False))
                part = []
            else:
                part.append(token)
        return tuple(found)
