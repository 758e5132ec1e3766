"""What the kinds that ask for words (role, label, text) have in common: escapes, and what is written nearly so."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from rapidfuzz import fuzz, process

from wary_hound.errors import NotationError
from wary_hound.locator.values import TextQuery

ALIKE = 55
"""Of 100: texts that are so much alike are worth a word."""
MOST_ALIKE = 2


def unescaped(text: str) -> str:
    """The text without its backslashes, each of which takes the next character as it is."""
    if "\\" not in text:
        return text
    out, at = [], 0
    while at < len(text):
        if text[at] == "\\" and at + 1 < len(text):
            at += 1
        out.append(text[at])
        at += 1
    return "".join(out)


def parse_text(expression: str) -> TextQuery:
    """The text of `text{...}` and `label{...}`: exact, or contained where it begins with ~."""
    part = expression.startswith("~")
    folded = " ".join(unescaped(expression[1:] if part else expression).split())
    if not folded:
        raise NotationError(expression, 1, "a text")
    return TextQuery(folded, part)


def print_text(query: TextQuery) -> str:
    """Braces of a plain text need a backslash only where they do not nest; a backslash and a leading ~ always do."""
    escaped = query.text.replace("\\", "\\\\")
    depth = 0
    for letter in query.text:
        depth += (letter == "{") - (letter == "}")
        if depth < 0:
            break
    if depth != 0:
        escaped = escaped.replace("{", "\\{").replace("}", "\\}")
    if query.part:
        return "~" + escaped
    return "\\" + escaped if escaped.startswith("~") else escaped


def near_texts(wanted: TextQuery, texts: Iterable[str]) -> Iterator[tuple[TextQuery, str]]:
    """A part for the whole, and the texts that are most alike."""
    if not wanted.part:
        yield TextQuery(wanted.text, True), "a part for the whole"
    different = sorted({text for text in texts if text and text != wanted.text})
    for near, score, _ in process.extract(wanted.text, different, scorer=fuzz.ratio, limit=MOST_ALIKE, score_cutoff=ALIKE):
        yield TextQuery(near), f"reads {round(score)} % alike"
