"""A suite's locators as constants of a programming language: plain pairs of a W3C WebDriver strategy and its value."""

from __future__ import annotations

import json
import re
import unicodedata
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from wary_hound.locator.convert import convert
from wary_hound.locator.values import Locator


def _quoted(text: str) -> str:
    return json.dumps(text, ensure_ascii=False)


@dataclass(frozen=True, slots=True)
class _Language:
    """How a language writes a file of constants: what stands before, one line (`{name}`, `{using}`, `{value}`), what behind, how a
    remark begins, how names are spelled."""

    before: str
    line: str
    behind: str
    remark: str
    spelled: Callable[[Sequence[str]], str]
    quoted: Callable[[str], str] = _quoted


def _upper(words: Sequence[str]) -> str:
    return "_".join(words).upper()


def _camel(words: Sequence[str]) -> str:
    return words[0].lower() + "".join(word.capitalize() for word in words[1:])


def _pascal(words: Sequence[str]) -> str:
    return "".join(word.capitalize() for word in words)


def _ruby(text: str) -> str:
    return _quoted(text).replace("#", "\\#")  # which would begin an interpolation


LANGUAGES: dict[str, _Language] = {
    "python": _Language("", "{name} = ({using}, {value})", "", "#", _upper),
    "java": _Language(
        "final class Locators {{\n    private Locators() {{ }}\n\n",
        "    static final String[] {name} = {{{using}, {value}}};",
        "}}\n",
        "    //",
        _upper,
    ),
    "javascript": _Language("", "export const {name} = {{ using: {using}, value: {value} }};", "", "//", _camel),
    "typescript": _Language("", "export const {name} = {{ using: {using}, value: {value} }} as const;", "", "//", _camel),
    "csharp": _Language(
        "static class Locators\n{{\n",
        "    public static readonly (string Using, string Value) {name} = ({using}, {value});",
        "}}\n",
        "    //",
        _pascal,
    ),
    "ruby": _Language("module Locators\n", "  {name} = [{using}, {value}].freeze", "end\n", "  #", _upper, _ruby),
}
"""One entry a language."""
_RESERVED = frozenset(
    """abstract as async await begin break case catch class const continue default delete do else end enum export extends false
    finally for from function if import in instanceof interface is let module new nil none null of package private protected public
    return static super switch this throw true try type typeof var void while with yield""".split()
)


def constants(named: Sequence[tuple[str, Locator, str]], language: str, title: str) -> str:
    """A file of constants. `named`: name, locator and a remark each. What stands in a shadow tree or frame has a constant for each
    host before it (`..._HOST`), since a pair looks in one tree.

    Raises LocatorError where a locator cannot be said as pairs; ValueError for another language.
    """
    if language not in LANGUAGES:
        raise ValueError(f"no language is named {language!r}: {', '.join(LANGUAGES)}")
    form = LANGUAGES[language]
    lines = [f"{form.remark.strip()} {_one_line(title)}\n", form.before.format()]
    used: set[str] = set()
    for name, locator, remark in named:
        pairs = convert(locator, "webdriver")
        words = _words(name)
        if remark:
            lines.append(f"{form.remark} {_one_line(remark)}\n")
        for number, pair in enumerate(pairs, 1):
            last = number == len(pairs)
            spelled = form.spelled(words if last else [*words, "host", *([str(number)] if len(pairs) > 2 else [])])
            while spelled in used:
                spelled += "_"
            used.add(spelled)
            using, value = form.quoted(pair["using"]), form.quoted(pair["value"])
            lines.append(form.line.format(name=spelled, using=using, value=value) + "\n")
    lines.append(form.behind.format())
    return "".join(lines)


def _words(name: str) -> list[str]:
    """The words of a name in plain letters and digits; the first begins with a letter and is no word of a language."""
    plain = unicodedata.normalize("NFKD", name).encode("ascii", "ignore").decode()
    words = re.findall(r"[A-Za-z0-9]+", plain) or ["element"]
    if words[0][0].isdigit() or (len(words) == 1 and words[0].lower() in _RESERVED):
        words.insert(0, "the")
    return words


def _one_line(text: str) -> str:
    return " ".join("".join(letter if letter.isprintable() else " " for letter in text).split())
