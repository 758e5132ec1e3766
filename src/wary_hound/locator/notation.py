"""The locator notation: one line of text, to and from values.

    locator  := chain (" else " chain)*           the first chain that matches exactly one element
    chain    := hop (" -> " hop)*
    hop      := ["anywhere "] ["frame " | "shadow "] finder
    finder   := strategy "{" expression "}" ["#" ordinal] [relation (" and" relation)*]
    relation := " @" name " " finder

Braces inside an expression nest. In css and xpath those in quotes do not count, and a backslash in css takes the next
character as it is; in text, label and role a backslash does.
"""

from __future__ import annotations

from functools import lru_cache

from wary_hound.errors import NotationError
from wary_hound.locator.kinds import KINDS, Kind
from wary_hound.locator.values import ANYWHERE, Boundary, Finder, Hop, Locator, Query, Related, Relation

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
        anywhere = bool(self.lead(ANYWHERE))
        boundary = Boundary(self.lead(Boundary.FRAME, Boundary.SHADOW))
        self.blanks()
        start = self.at
        finder = self.finder(0)
        if anywhere and finder.ordinal is not None:
            raise self.fail(f"no #{finder.ordinal} of what is looked for anywhere: places are counted in one tree", start)
        return Hop(finder, boundary, anywhere)

    def lead(self, *words: str) -> str:
        """One of some words that may stand before a finder; empty where none does."""
        self.blanks()
        start = self.at
        word = self.word()
        if word in words and self.text[self.at : self.at + 1].isspace():
            return word
        self.at = start
        return ""

    def finder(self, level: int) -> Finder:
        self.blanks()
        start = self.at
        word = self.word()
        kind = KINDS.get(word)
        if kind is None or not self.take("{"):
            known = ", ".join(f"{name}{{...}}" for name in KINDS)
            raise self.fail(f"one of {known}, with frame or shadow before it where it opens one, or anywhere", start)
        begin = self.at
        query = self.query(kind, self.expression(kind, begin), begin)
        ordinal = None
        if self.take("#"):
            digits = self.at
            while self.text[self.at : self.at + 1].isdecimal() and self.text[self.at].isascii():
                self.at += 1
            if self.at == digits or self.at - digits > 9 or int(self.text[digits : self.at]) < 1:
                raise self.fail("a number from 1", digits)
            ordinal = int(self.text[digits : self.at])
        relations = [self.related(level)] if self.follows("@") else []
        while relations and not relations[-1].anchor.relations and self.follows("and"):
            if not self.follows("@"):
                raise self.fail("@ and another relation")
            relations.append(self.related(level))
        return Finder(kind.name, query, ordinal, tuple(relations))

    def follows(self, word: str) -> bool:
        """Whether a word comes next, behind blanks; they are taken with it."""
        before = self.at
        self.blanks()
        if self.take(word):
            return True
        self.at = before
        return False

    def related(self, level: int) -> Related:
        begin = self.at
        name = self.word()
        if name not in Relation.__members__.values():
            raise self.fail(f"one of {', '.join(Relation)}", begin)
        if level >= MOST_ANCHORS:
            raise self.fail(f"at most {MOST_ANCHORS} anchors one after the other", begin)
        return Related(Relation(name), self.finder(level + 1))

    def expression(self, kind: Kind, start: int) -> str:
        """Up to the brace that closes the finder; `at` stands behind it afterwards."""
        text, depth, quote = self.text, 1, ""
        at = start
        while at < len(text):
            letter = text[at]
            if kind.escapes and letter == "\\":
                at += 2
                continue
            if quote:
                quote = "" if letter == quote else quote
            elif letter in kind.quotes:
                quote = letter
            elif letter == "{":
                depth += 1
            elif letter == "}":
                depth -= 1
                if depth == 0:
                    self.at = at + 1
                    return text[start:at]
            at += 1
        raise self.fail(f"{quote or '}'} to close the {kind.name} expression", len(text))

    def query(self, kind: Kind, expression: str, start: int) -> Query:
        """The expression parsed, so that a locator that parses is whole; columns count in the whole line."""
        if not expression.strip():
            raise self.fail(f"a {kind.name} expression between the braces", start)
        try:
            return Query(expression, kind.parse(expression))
        except NotationError as error:
            raise NotationError(self.text, start + error.column, error.expected) from None
