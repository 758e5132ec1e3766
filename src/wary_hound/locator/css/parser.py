"""CSS selectors parsed from tinycss2's tokens, with the column in every error. What browsers refuse is refused here."""

from __future__ import annotations

import contextlib
import re
from functools import lru_cache
from typing import Any

import tinycss2

from wary_hound.errors import NotationError
from wary_hound.locator.css.values import (
    ANY_NAMESPACE,
    Attribute,
    Class,
    Complex,
    Compound,
    Id,
    Matches,
    Nth,
    Pseudo,
    Selectors,
    Simple,
    Type,
)

MOST_NESTED = 20
MOST_PARTS = 20_000
FORGIVING = frozenset({"is", "where", "-webkit-any"})
LISTS = frozenset({*FORGIVING, "not", "has"})
NTH = frozenset({"nth-child", "nth-last-child", "nth-of-type", "nth-last-of-type"})
STATIC = frozenset(
    """first-child last-child only-child first-of-type last-of-type only-of-type empty root scope link any-link enabled
    disabled checked required optional read-only read-write placeholder-shown default indeterminate in-range out-of-range
    valid invalid defined open host""".split()
)
UNKNOWABLE = frozenset(
    """hover active focus focus-visible focus-within target visited autofill fullscreen modal playing paused seeking buffering
    stalled muted volume-locked popover-open user-valid user-invalid picture-in-picture -webkit-autofill
    active-view-transition -moz-ui-valid -moz-ui-invalid -moz-focusring""".split()
)
"""States that a page as data cannot hold: they match nothing."""
PSEUDO_ELEMENTS = frozenset(
    """before after first-line first-letter marker placeholder selection backdrop file-selector-button details-content
    target-text grammar-error spelling-error cue view-transition""".split()
)
WITH_WORDS = frozenset({"lang", "dir"})
NOWHERE = frozenset({"host", "host-context", "state", "slotted", "part", "highlight"})
"""What looks outside of the tree that is searched, or at what a page as data does not hold: matches nothing."""
_NTH = re.compile(r"(?P<word>even|odd)|(?P<a>[+-]?\d*)n(?:\s*(?P<sign>[+-])\s*(?P<b>\d+))?|(?P<only>[+-]?\d+)", re.I)
MOST_NUMBER = 1_000_000_000


@lru_cache(maxsize=20_000)
def parse(text: str) -> Selectors:
    """The selector list. NotationError, with the column, for what is not CSS."""
    if (len(text) - len(text.rstrip("\\"))) % 2:  # CSS escapes the end of the text there, which no notation can hold
        raise NotationError(text, len(text), "a character behind the backslash", "css")
    try:
        tokens = tinycss2.parse_component_value_list(text)
        return _Reader(text, tokens, len(text) + 1, 0).selector_list(relative=False)
    except RecursionError:
        raise NotationError(text, len(text), "blocks that are nested less deep", "css") from None
    except (ValueError, OverflowError):
        raise NotationError(text, 1, "numbers of fewer digits", "css") from None


class _Reader:
    def __init__(self, text: str, tokens: list[Any], end: int, level: int, in_has: bool = False) -> None:
        self.text = text
        self.tokens = [token for token in tokens if token.type != "comment"]
        self.at = 0
        self.end = end
        self.level = level
        self.in_has = in_has
        if level > MOST_NESTED:
            raise NotationError(text, end, f"selectors nested at most {MOST_NESTED} deep", "css")

    def inside(self, tokens: list[Any], end: int, has: bool = False) -> _Reader:
        """A reader of what stands in the brackets of a pseudo-class."""
        return _Reader(self.text, tokens, end, self.level + 1, self.in_has or has)

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
        met = False
        while self.peek() is not None and self.peek().type == "whitespace":
            self.at += 1
            met = True
        return met

    def selector_list(self, relative: bool) -> Selectors:
        selectors = [self.complex(relative)]
        while True:
            self.blanks()
            if self.peek() is None:
                return tuple(selectors)
            if not self.is_literal(","):
                raise self.fail("a selector, a combinator or a comma")
            self.at += 1
            selectors.append(self.complex(relative))

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
            if any(isinstance(one, Pseudo) and one.name == "element" for one in compounds[-1].simples):
                if self.peek() is not None and not self.is_literal(","):
                    raise self.fail("nothing more behind a pseudo-element")
                return Complex(tuple(combinators), tuple(compounds))
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
        behind = self.any_namespace()
        token = self.peek()
        if behind and not (self.is_literal("*") or (token is not None and token.type == "ident")):
            raise self.fail("a tag name behind *|")
        if token is not None and token.type == "ident":
            simples.append(Type(token.value))
            self.at += 1
        elif self.is_literal("*"):
            simples.append(Type("*"))
            self.at += 1
        if self.is_literal("|"):
            raise self.fail("no namespace prefix: pages as data have none")
        ended = False
        while True:
            token = self.peek()
            if token is None:
                break
            if ended and not self.is_literal(":"):
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
                simple = self.pseudo()
                if ended and not (isinstance(simple, Pseudo) and simple.name != "element"):
                    raise self.fail("nothing more behind a pseudo-element")
                ended = ended or simple == Pseudo("element", getattr(simple, "arguments", ()))
                simples.append(simple)
            else:
                break
        if not simples:
            raise self.fail("a selector")
        return Compound(tuple(simples))

    def any_namespace(self) -> bool:
        """Whether `*|` stands here, which is skipped: what follows may be in any namespace."""
        behind = self.tokens[self.at + 1 : self.at + 3]
        any_one = self.is_literal("*") and bool(behind) and behind[0].type == "literal" and behind[0].value == "|"
        self.at += 2 * any_one
        return any_one

    def attribute(self, block: Any) -> Attribute:
        content = [t for t in block.content if t.type != "comment"]
        inner = _Reader(self.text, content, self.after(content, self.column() + 1), self.level)
        inner.blanks()
        lead = ANY_NAMESPACE if inner.any_namespace() else ""
        name = inner.peek()
        if name is None or name.type != "ident":
            raise inner.fail("an attribute name")
        inner.at += 1
        inner.blanks()
        if inner.peek() is None:
            self.at += 1
            return Attribute(lead + name.value)
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
        return Attribute(lead + name.value, operator, value.value, case)

    def pseudo(self) -> Simple:
        self.at += 1
        element = self.is_literal(":")
        if element:
            self.at += 1
        token = self.peek()
        if token is None or token.type not in ("ident", "function"):
            raise self.fail("the name of a pseudo-class")
        name = token.lower_value if token.type == "ident" else token.lower_name
        if element or (token.type == "ident" and name in ("before", "after", "first-line", "first-letter")):
            known = name in PSEUDO_ELEMENTS or name.startswith("-webkit-") or (token.type == "function" and name in NOWHERE)
            if not known:
                raise self.fail(f"a pseudo-element of the standard, not ::{name}")
            if self.level:
                raise self.fail(f"no pseudo-element within a pseudo-class, such as ::{name}")
            self.at += 1
            return Pseudo("element", (name,))
        if token.type == "ident":
            if name not in STATIC and name not in UNKNOWABLE:
                raise self.fail(f"a pseudo-class of the standard, not :{name}")
            self.at += 1
            return Pseudo(name)
        simple = self.function(name, token)
        self.at += 1
        return simple

    def function(self, name: str, token: Any) -> Simple:
        content = [t for t in token.arguments if t.type != "comment"]
        end = self.after(content, self.column() + len(name) + 1)
        if name in LISTS:
            if name == "has" and self.in_has:
                raise self.fail("no :has() within :has()")
            inner = self.inside(content, end, name == "has")
            if name in FORGIVING:
                return Matches("where" if name == "where" else "is", inner.forgiving())
            return Matches(name, inner.selector_list(relative=name == "has"))
        if name in NTH:
            return self.nth(name, content, end)
        if name in WITH_WORDS:
            return Pseudo(name, self.words(name, content))
        if name in ("host", "host-context"):
            self.inside(content, end).complex(relative=False)
            return Pseudo(name, (tinycss2.serialize(content),))
        if name == "state" and len(content) == 1 and content[0].type == "ident":
            return Pseudo(name, (content[0].value,))
        raise self.fail(f"a pseudo-class of the standard, not :{name}()")

    def nth(self, name: str, content: list[Any], end: int) -> Nth:
        split = next((k for k, t in enumerate(content) if t.type == "ident" and t.lower_value == "of"), None)
        formula = tinycss2.serialize(content if split is None else content[:split]).replace("/**/", "").strip(" \t\r\n\f")
        read = _NTH.fullmatch(formula)
        if read is None:
            raise self.fail("a position such as 2, odd or 2n+1")
        of: Selectors = ()
        if split is not None:
            if not name.endswith("child"):
                raise self.fail(f'no "of" in :{name}')
            of = self.inside(content[split + 1 :], end).selector_list(relative=False)
        if read["word"]:
            a, b = 2, int(read["word"].lower() == "odd")
        elif read["only"]:
            a, b = 0, _bounded(read["only"])
        else:
            a = _bounded(read["a"] + "1" if read["a"] in ("", "+", "-") else read["a"])
            b = _bounded((read["sign"] or "") + read["b"]) if read["b"] else 0
        return Nth(name, a, b, of)

    def words(self, name: str, content: list[Any]) -> tuple[str, ...]:
        """The arguments of `:lang()` (ranges, with commas) and `:dir()` (one word)."""
        parts: list[list[Any]] = [[]]
        for token in content:
            if token.type == "literal" and token.value == ",":
                parts.append([])
            elif token.type != "whitespace":
                parts[-1].append(token)
        kinds = ("ident", "string") if name == "lang" else ("ident",)
        if any(len(part) != 1 or part[0].type not in kinds for part in parts) or (name == "dir" and len(parts) > 1):
            raise self.fail(f"a word in :{name}(), such as {'rtl' if name == 'dir' else 'de or de-CH'}")
        return tuple(part[0].value for part in parts)

    def forgiving(self) -> Selectors:
        """`:is` and `:where` drop the selectors that do not parse, as browsers do."""
        selectors: list[Complex] = []
        part: list[Any] = []
        for token in [*self.tokens, None]:
            if token is None or (token.type == "literal" and token.value == ","):
                with contextlib.suppress(NotationError):
                    reader = _Reader(self.text, part, self.end, self.level, self.in_has)
                    selectors.extend(reader.selector_list(relative=False))
                part = []
            else:
                part.append(token)
        return tuple(selectors)


def _bounded(digits: str) -> int:
    """A number that fits: beyond the greatest of any page they all mean the same."""
    if len(digits) > 12:
        return -MOST_NUMBER if digits.startswith("-") else MOST_NUMBER
    return max(-MOST_NUMBER, min(MOST_NUMBER, int(digits)))
