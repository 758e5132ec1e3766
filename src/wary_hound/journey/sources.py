"""Locators in sources of any language: found exactly as they are written there, with that place's quoting and escapes, and in the
form that the place uses (our notation, bare CSS or XPath, or a W3C WebDriver strategy with its value); never in part.

A language is how its strings look: one entry in LANGUAGES. What a string means is decoded, compared as a whole, and written back
in the same quotes.
"""

from __future__ import annotations

import ast
import json
import re
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

from wary_hound.locator.values import Finder, Hop, Locator
from wary_hound.page import Element

Form = Literal["notation", "css", "xpath", "id", "name", "link text"]
FORMS: tuple[Form, ...] = ("notation", "css", "xpath", "id", "name", "link text")
_TELLING = re.compile(r"[#.\[\]>:()/@=*~]")
_WORD_BEFORE = re.compile(r"([A-Za-z_][A-Za-z_ ]*)[\"']?\s*[,(:=]\s*(?:new\s+)?\Z")
_OWN: tuple[tuple[Form, str], ...] = (("id", "id"), ("name", "name"))
_STRATEGIES: dict[str, Form] = {
    "css": "css", "cssselector": "css", "xpath": "xpath", "id": "id", "name": "name", "linktext": "link text",
}  # fmt: skip
"""What the word before a string says that it holds, without case and joints."""


@dataclass(frozen=True, slots=True)
class Place:
    """A string of a source: where it stands (characters, quotes included), what it means, and how another is written there."""

    start: int
    end: int
    value: str
    write: Callable[[str], str]
    strategy: Form | None = None
    """What the word before it says that it holds."""
    pieced: bool = False
    """Whether it is a string that is put together, or a block of text: `value` is then what stands there; nothing is written."""


@dataclass(frozen=True, slots=True)
class Found:
    """A locator in a source. `after` is None where what it should be now cannot be said in the form of the place, or where the
    place is a string that is put together (`place.pieced`)."""

    path: Path
    line: int
    form: Form
    before: str
    after: str | None
    name: str
    place: Place


@dataclass(frozen=True, slots=True)
class Renewal:
    """What one locator was and should be, in each form in which it can be said."""

    name: str
    was: Mapping[Form, str]
    now: Mapping[Form, str]


def forms_of(locator: Locator) -> dict[Form, str]:
    """The forms in which a locator may stand in a source."""
    forms: dict[Form, str] = {"notation": str(locator)}
    hop = locator.hops[0]
    if len(locator.hops) > 1 or locator.otherwise is not None or hop != Hop(Finder(hop.finder.strategy, hop.finder.query)):
        return forms
    finder = hop.finder
    text = str(finder.query)
    if finder.strategy == "css":
        forms["css"] = text
        named = re.fullmatch(r"#([A-Za-z_][\w-]*)", text)
        if named:
            forms["id"] = named.group(1)
        named = re.fullmatch(r"""(?:\w+)?\[name=["']?([^"'\]]+)["']?\]""", text)
        if named:
            forms["name"] = named.group(1)
    elif finder.strategy == "xpath":
        forms["xpath"] = text
        named = re.fullmatch(r"""//(?:\*|\w+)\[@(id|name)=["']([^"']+)["']\]""", text)
        if named:
            forms["id" if named.group(1) == "id" else "name"] = named.group(2)
    elif finder.strategy == "text" and not text.startswith("~"):
        forms["link text"] = text
    return forms


def renewal(name: str, was: Locator, element: Element, candidates: Sequence[Locator]) -> Renewal:
    """What a locator was, and what it should be for an element: of each form the first candidate that can be said in it, and its id
    and name where no other element has them."""
    now: dict[Form, str] = {}
    for candidate in candidates:
        for form, text in forms_of(candidate).items():
            if form != "link text" or element.role == "link":
                now.setdefault(form, text)
    for form, attribute in _OWN:
        value = element.attributes.get(attribute, "")
        if value and len(element.page.index.valued(attribute, value)) == 1 and element.tree.host < 0:
            now.setdefault(form, value)
    return Renewal(name, forms_of(was), now)


def occurrences(path: Path, text: str, renewals: Sequence[Renewal]) -> list[Found]:
    """All places of a source that hold one of the locators as a whole. Empty where the language is not known."""
    language = LANGUAGES.get(path.suffix.lower())
    if language is None:
        return []
    held = (found for place in language(text) if (found := held_in(place, renewals)) is not None)
    return [found_at(path, text.count("\n", 0, place.start) + 1, place, entry, form) for place, entry, form in held]


def held_in(place: Place, renewals: Sequence[Renewal]) -> tuple[Place, Renewal, Form] | None:
    """A place with the locator that it holds, and in which form; None where it holds none of them."""
    return next(((place, entry, form) for entry in renewals if (form := form_in(place, entry)) is not None), None)


def found_at(path: Path, line: int, place: Place, entry: Renewal, form: Form) -> Found:
    """What a place holds, and what it should hold."""
    before, after = (entry.was[form], None) if place.pieced else (place.value, entry.now.get(form))
    return Found(path, line, form, before, after, entry.name, place)


def form_in(place: Place, entry: Renewal) -> Form | None:
    """The form in which a place holds a locator; None where it does not. A bare word is one only where the word before says so; of
    a string that is put together, what stands in it as a whole."""
    if place.pieced:
        return next((form for form in ("notation", "css", "xpath") if _stands_in(entry.was.get(form, ""), place.value)), None)
    for form in FORMS:
        if entry.was.get(form) != place.value:
            continue
        if form == "notation" or place.strategy == form:
            return form
        if form in ("css", "xpath") and place.strategy is None and _TELLING.search(place.value):
            return form
    return None


def _stands_in(locator: str, text: str) -> bool:
    """Whether a locator, as it is or with its quotes escaped, stands in a text with nothing that goes on at its ends."""
    if not _TELLING.search(locator):
        return False
    forms = {locator, locator.replace('"', '\\"'), locator.replace('"', '""')}
    return any(re.search(rf"(?<![\w.#/>:-]){re.escape(form)}(?![\w.#/>:\[-])", text) for form in forms)


def rewritten(text: str, found: Sequence[Found]) -> str:
    """The text with what each place should hold now; places for which that cannot be said stay."""
    for entry in sorted(found, key=lambda f: -f.place.start):
        if entry.after is not None:
            text = text[: entry.place.start] + entry.place.write(entry.after) + text[entry.place.end :]
    return text


# --- languages -----------------------------------------------------------------------------------------------------------


def _strategy_before(text: str, start: int) -> Form | None:
    said = _WORD_BEFORE.search(text, max(0, start - 60), start)
    return _STRATEGIES.get(re.sub(r"[_ ]", "", said.group(1)).lower().removeprefix("by")) if said else None


def _escaping(quote: str, value: str) -> str:
    """A value between quotes as languages of C's family write it."""
    inner = value.replace("\\", "\\\\").replace(quote, "\\" + quote).replace("\n", "\\n").replace("\r", "\\r").replace("\t", "\\t")
    return quote + inner + quote


def _unescaped(inner: str) -> str | None:
    """What the inside of such a string means; None where it uses more than common escapes."""
    plain = re.sub(r"\\(['`])", r"\1", inner)
    plain = re.sub(r'(?<!\\)((?:\\\\)*)"', r'\1\\"', plain)
    try:
        text = json.loads(f'"{plain}"', strict=False)
    except ValueError:
        return None
    return text if isinstance(text, str) else None


_REGEX_BEFORE = r"(?:(?<=[(,=:\[!&|?{};])|(?<=return))\s*"
_C_LIKE = {
    "comment": r"//[^\n]*|/\*.*?\*/",
    "text": r'"(?:[^"\\\n]|\\.)*"',
}


def _scanned(
    pattern: re.Pattern[str], text: str, read: Callable[[str], tuple[str, Callable[[str], str]] | None]
) -> Iterator[Place]:
    """The strings among the tokens of a source: `read` gives what one means, and how another is written in its place; None for
    those that are put together at run time. Blocks of text are given as such."""
    for token in pattern.finditer(text):
        if token.lastgroup not in ("string", "block"):
            continue
        start, end = token.span()
        meant = read(token.group()) if token.lastgroup == "string" else None
        if meant is None:
            yield Place(start, end, token.group(), lambda new: new, pieced=True)
        else:
            yield Place(start, end, meant[0], meant[1], _strategy_before(text, start))


_PYTHON = re.compile(
    r"""(?P<comment>\#[^\n]*)
    |(?P<string>(?<![\w])[rRuUbBfFtT]{0,2}(?:'{3}.*?(?<!\\)'{3}|"{3}.*?(?<!\\)"{3}|'(?:[^'\\\n]|\\.)*'|"(?:[^"\\\n]|\\.)*"))""",
    re.VERBOSE | re.DOTALL,
)


def _python(text: str) -> Iterator[Place]:
    def read(token: str) -> tuple[str, Callable[[str], str]] | None:
        quote_at = next(k for k, letter in enumerate(token) if letter in "'\"")
        prefix, rest = token[:quote_at].lower(), token[quote_at:]
        if set(prefix) & set("bft"):
            return None
        try:
            value = ast.literal_eval(token)
        except (ValueError, SyntaxError):
            return None
        quote = rest[:3] if rest[:3] in ("'''", '"""') else rest[0]

        def write(new: str) -> str:
            if "r" in prefix and quote[0] not in new and "\n" not in new and not new.endswith("\\"):
                return token[:quote_at] + quote + new + quote
            return _escaping(quote[0], new)

        return (value, write) if isinstance(value, str) else None

    return _scanned(_PYTHON, text, read)


def _quoted(token: str) -> tuple[str, Callable[[str], str]] | None:
    value = _unescaped(token[1:-1])
    return (value, lambda new: _escaping(token[0], new)) if value is not None else None


_JAVA = re.compile(
    rf"""(?P<comment>{_C_LIKE["comment"]})|(?P<block>\"\"\".*?\"\"\")|(?P<letter>'(?:[^'\\\n]|\\.)+')
    |(?P<string>{_C_LIKE["text"]})""",
    re.VERBOSE | re.DOTALL,
)


def _java(text: str) -> Iterator[Place]:
    return _scanned(_JAVA, text, _quoted)


_ESCAPE = re.compile(r"\\.", re.DOTALL)
"""A backslash with what it stands before, which may be another one."""


def _plain(sign: str, text: str) -> str:
    """A text in which a sign that begins what is put in at run time stands without the backslash before it."""
    return _ESCAPE.sub(lambda pair: sign if pair[0] == f"\\{sign}" else pair[0], text)


_SCRIPT = re.compile(
    rf"""(?P<comment>{_C_LIKE["comment"]})
    |(?P<regex>{_REGEX_BEFORE}/(?![*/])(?:[^/\\\n\[]|\\.|\[(?:[^\]\\\n]|\\.)*\])+/[a-z]*)
    |(?P<string>{_C_LIKE["text"]}|'(?:[^'\\\n]|\\.)*'|`(?:[^`\\]|\\.)*`)""",
    re.VERBOSE | re.DOTALL,
)


def _script(text: str) -> Iterator[Place]:
    def read(token: str) -> tuple[str, Callable[[str], str]] | None:
        if token[0] != "`":
            return _quoted(token)
        if "${" in _ESCAPE.sub(" ", token) or "\n" in token:
            return None
        value = _unescaped(_plain("$", token[1:-1]))
        return (value, lambda new: _escaping("`", new).replace("${", "\\${")) if value is not None else None

    return _scanned(_SCRIPT, text, read)


_SHARP = re.compile(
    rf"""(?P<comment>{_C_LIKE["comment"]})|(?P<block>\$*\"\"\".*?\"\"\")|(?P<letter>'(?:[^'\\\n]|\\.)+')
    |(?P<string>@\$?"(?:[^"]|"")*"|\$@?"(?:[^"\\\n]|\\.|"")*"|{_C_LIKE["text"]})""",
    re.VERBOSE | re.DOTALL,
)


def _sharp(text: str) -> Iterator[Place]:
    def read(token: str) -> tuple[str, Callable[[str], str]] | None:
        lead = token[: token.index('"')]
        if "$" in lead:
            return None
        if lead == "@":
            return token[2:-1].replace('""', '"'), lambda new: '@"' + new.replace('"', '""') + '"'
        return _quoted(token)

    return _scanned(_SHARP, text, read)


_RUBY = re.compile(
    r"""(?P<comment>\#[^\n]*|^=begin.*?^=end)|(?P<string>"(?:[^"\\\n]|\\.)*"|'(?:[^'\\\n]|\\.)*')""",
    re.VERBOSE | re.DOTALL | re.MULTILINE,
)


def _ruby(text: str) -> Iterator[Place]:
    def read(token: str) -> tuple[str, Callable[[str], str]] | None:
        if token[0] == "'":
            value = re.sub(r"\\(['\\])", r"\1", token[1:-1])
            return value, lambda new: "'" + new.replace("\\", "\\\\").replace("'", "\\'") + "'"
        if re.search(r"#[{$@]", _ESCAPE.sub(" ", token)):
            return None
        value_or_none = _unescaped(_plain("#", token[1:-1]))
        if value_or_none is None:
            return None
        return value_or_none, lambda new: re.sub(r"#(?=[{$@])", r"\\#", _escaping('"', new))

    return _scanned(_RUBY, text, read)


_CELL = re.compile(r'(?P<quoted>"(?:[^"]|"")*")|(?P<bare>[^,;\t\r\n"][^,;\t\r\n]*)')


def _cells(text: str) -> Iterator[Place]:
    """The cells of a table in text; separated by comma, semicolon or tab."""
    before = ""
    for cell in _CELL.finditer(text):
        quoted = cell.lastgroup == "quoted"
        value = cell.group()[1:-1].replace('""', '"') if quoted else cell.group().strip()
        start = cell.start() + (0 if quoted else len(cell.group()) - len(cell.group().lstrip()))
        end = start + len(value) if not quoted else cell.end()

        def write(new: str, quoted: bool = quoted) -> str:
            return '"' + new.replace('"', '""') + '"' if quoted or re.search(r'[,;\t\r\n"]', new) else new

        yield Place(start, end, value, write, _STRATEGIES.get(re.sub(r"[_ ]", "", before).lower()))
        before = value


def _lines(text: str) -> Iterator[Place]:
    """Whole lines, and what stands behind a key and a colon, an equals sign or a tab."""
    for line in re.finditer(r"^[^\r\n]+", text, re.MULTILINE):
        whole = line.group().strip()
        start = line.start() + line.group().index(whole) if whole else line.start()
        yield Place(start, start + len(whole), whole, lambda new: new)
        keyed = re.match(r"[\w.$ -]+?[ ]*[:=\t][ ]*(?=\S)", whole)
        if keyed:
            value = whole[keyed.end() :]
            at = start + keyed.end()
            if len(value) > 1 and value[0] == value[-1] and value[0] in "'\"":
                quote = value[0]
                yield Place(at, at + len(value), value[1:-1], lambda new, q=quote: q + new + q)  # type: ignore[misc]
            else:
                yield Place(at, at + len(value), value, lambda new: new)


LANGUAGES: dict[str, Callable[[str], Iterator[Place]]] = {
    ".py": _python,
    ".java": _java,
    ".kt": _java,
    **dict.fromkeys((".js", ".mjs", ".cjs", ".jsx", ".ts", ".mts", ".cts", ".tsx"), _script),
    ".cs": _sharp,
    ".rb": _ruby,
    **dict.fromkeys((".csv", ".tsv"), _cells),
    **dict.fromkeys((".txt", ".properties", ".ini", ".md"), _lines),
}
"""How strings look, by the end of a file's name: a new language is a function and a line here."""
