"""The locator notation: one line of text, to and from values.

    locator  := chain (" else " chain)*           the first chain that matches exactly one element
    chain    := hop (" -> " hop)*
    hop      := ["frame " | "shadow "] finder
    finder   := strategy "{" expression "}" ["#" ordinal] [" @" relation " " finder]

Braces inside an expression nest. In css and xpath those in quotes do not count, and a backslash in css takes the next
character as it is; in text, label and role a backslash does.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache

from wary_hound.errors import NotationError
from wary_hound.locator import css, xpath
from wary_hound.locator.values import Boundary, Finder, Hop, Locator, Relation, RoleExpression, Strategy, Wanted

MOST_CHARACTERS = 20_000
MOST_ANCHORS = 50
MOST_WAYS = 20


@lru_cache(maxsize=20_000)
def parse(text: str) -> Locator:
    """The locator that a line of notation says. NotationError, with the column, where it does not parse."""
    return _Reader(text).locator()


class _Reader:
    def __init__(self, text: str) -> None:
        self.text = text
        self.at = 0

    def fail(self, expected: str, at: int | None = None) -> NotationError:
        return NotationError(self.text, (self.at if at is None else at) + 1, expected)

    def blanks(self) -> None:
        while self.at < len(self.text) and self.text[self.at].isspace():
            self.at += 1

    def take(self, word: str) -> bool:
        if self.text.startswith(word, self.at):
            self.at += len(word)
            return True
        return False

    def word(self) -> str:
        start = self.at
        while self.at < len(self.text) and (self.text[self.at].isalpha() or self.text[self.at] == "-"):
            self.at += 1
        return self.text[start : self.at]

    def locator(self) -> Locator:
        if len(self.text) > MOST_CHARACTERS:
            raise NotationError(self.text, MOST_CHARACTERS, f"at most {MOST_CHARACTERS:,} characters")
        ways = [self.chain()]
        while self.at < len(self.text):
            if len(ways) >= MOST_WAYS:
                raise self.fail(f"the end: at most {MOST_WAYS} ways to find it")
            self.take("else")
            if not self.text[self.at : self.at + 1].isspace():
                raise self.fail("a blank and another way to find it")
            ways.append(self.chain())
        return Locator.either(*ways)

    def chain(self) -> Locator:
        """Up to an `else`, or the end."""
        hops = [self.hop()]
        while True:
            self.blanks()
            if self.at == len(self.text) or self.text.startswith("else", self.at):
                break
            if not self.take("->"):
                raise self.fail('"->" and another hop, "else" and another way to find it, or the end')
            hops.append(self.hop())
        if hops[-1].boundary:
            raise self.fail(f'"->" and what to find inside the {hops[-1].boundary}')
        return Locator(tuple(hops))

    def hop(self) -> Hop:
        self.blanks()
        start = self.at
        boundary = Boundary.NONE
        word = self.word()
        if word in (Boundary.FRAME, Boundary.SHADOW) and self.text[self.at : self.at + 1].isspace():
            boundary = Boundary(word)
        else:
            self.at = start
        return Hop(self.finder(0), boundary)

    def finder(self, level: int) -> Finder:
        self.blanks()
        start = self.at
        word = self.word()
        if word not in Strategy.__members__.values() or not self.take("{"):
            known = ", ".join(f"{s}{{...}}" for s in Strategy)
            raise self.fail(f"one of {known}, with frame or shadow before it where it opens one", start)
        strategy = Strategy(word)
        begin = self.at
        expression = self.expression(strategy, begin)
        self.check(strategy, expression, begin)
        ordinal = None
        if self.take("#"):
            digits = self.at
            while self.text[self.at : self.at + 1].isdecimal() and self.text[self.at].isascii():
                self.at += 1
            if self.at == digits or self.at - digits > 9 or int(self.text[digits : self.at]) < 1:
                raise self.fail("a number from 1", digits)
            ordinal = int(self.text[digits : self.at])
        after = self.at
        self.blanks()
        if not self.take("@"):
            self.at = after
            return Finder(strategy, expression, ordinal)
        begin = self.at
        name = self.word()
        if name not in Relation.__members__.values():
            raise self.fail(f"one of {', '.join(Relation)}", begin)
        if level >= MOST_ANCHORS:
            raise self.fail(f"at most {MOST_ANCHORS} anchors one after the other", begin)
        return Finder(strategy, expression, ordinal, Relation(name), self.finder(level + 1))

    def expression(self, strategy: Strategy, start: int) -> str:
        """Up to the brace that closes the finder; `at` stands behind it afterwards."""
        text, depth, quote = self.text, 1, ""
        quotes = strategy in (Strategy.CSS, Strategy.XPATH, Strategy.ROLE)
        escapes = strategy is not Strategy.XPATH
        at = start
        while at < len(text):
            letter = text[at]
            if escapes and letter == "\\":
                at += 2
                continue
            if quote:
                quote = "" if letter == quote else quote
            elif quotes and (letter == '"' or (letter == "'" and strategy is not Strategy.ROLE)):
                quote = letter
            elif letter == "{":
                depth += 1
            elif letter == "}":
                depth -= 1
                if depth == 0:
                    self.at = at + 1
                    return text[start:at]
            at += 1
        raise self.fail(f"{quote or '}'} to close the {strategy} expression", len(text))

    def check(self, strategy: Strategy, expression: str, start: int) -> None:
        """Parse the expression too, so that a locator that parses is whole; columns count in the whole line."""
        if not expression.strip():
            raise self.fail(f"a {strategy} expression between the braces", start)
        try:
            _PARSERS[strategy](expression)
        except NotationError as error:
            raise NotationError(self.text, start + error.column, error.expected) from None


def parse_wanted(expression: str) -> Wanted:
    """The text of `text{...}` and `label{...}`: exact, or contained where it begins with ~."""
    part = expression.startswith("~")
    text = _unescape(expression[1:] if part else expression)
    folded = " ".join(text.split())
    if not folded:
        raise NotationError(expression, 1, "a text")
    return Wanted(folded, part)


def parse_role(expression: str) -> RoleExpression:
    """The role and name of `role{button "Hold"}`, `role{button ~"Ho"}`, `role{heading}`."""
    from wary_hound.page.roles import KNOWN

    head, _, tail = expression.strip().partition(" ")
    offset = len(expression) - len(expression.lstrip())
    aliases = {"img": "image", "presentation": "none", "directory": "list"}
    if head not in KNOWN:
        raise NotationError(expression, offset + 1, f"an ARIA role (button, link, textbox, ...), not {head!r}")
    role = aliases.get(head, head)
    rest = tail.strip()
    if not rest:
        return RoleExpression(role)
    begin = expression.index(rest, offset + len(head))
    part = rest.startswith("~")
    quoted = rest[1:] if part else rest
    if len(quoted) < 2 or not quoted.startswith('"') or not quoted.endswith('"'):
        raise NotationError(expression, begin + 1, 'the accessible name in double quotes, ~ before it for a part: "Hold"')
    inner = quoted[1:-1]
    plain = _unescape(inner)
    if '"' in inner.replace("\\\\", "").replace('\\"', "") or inner.replace("\\\\", "").endswith("\\"):
        raise NotationError(expression, begin + 2, 'a name whose inner quotes are written \\"')
    return RoleExpression(role, Wanted(" ".join(plain.split()), part))


def _unescape(text: str) -> str:
    if "\\" not in text:
        return text
    out, at = [], 0
    while at < len(text):
        if text[at] == "\\" and at + 1 < len(text):
            at += 1
        out.append(text[at])
        at += 1
    return "".join(out)


_PARSERS: dict[Strategy, Callable[[str], object]] = {
    Strategy.CSS: css.parse,
    Strategy.XPATH: xpath.parse,
    Strategy.ROLE: parse_role,
    Strategy.TEXT: parse_wanted,
    Strategy.LABEL: parse_wanted,
}
