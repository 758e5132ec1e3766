"""Throws inputs at every door of the library and counts what comes out: a result, one of our own errors, or something else.

usage: fuzz.py [COUNT] [SEED]

Doors: pages with locators, expressions, files of ours (facts, books, journeys, rates, histories), JSON for `convert`. What is
neither a result nor a WaryHoundError is printed with its place, once a kind; so is what takes longer than SLOW seconds. Exit 1
where there was any.
"""

# ruff: noqa: E501 (tables of bits)

from __future__ import annotations

import json
import random
import sys
import time
import traceback
from collections import Counter
from collections.abc import Callable
from pathlib import Path
from tempfile import TemporaryDirectory

from wary_hound import Book, ChangeModel, Fingerprint, Journey, NotationError, Page, WaryHoundError, convert, explain, match, parse
from wary_hound.authoring.question import Question
from wary_hound.demo.tour import demo_folder
from wary_hound.journey.stress import tasks_of
from wary_hound.locator.convert import read_any
from wary_hound.locator.near import nearest
from wary_hound.measuring.history import read_histories

SLOW = 2.0
DEMO = Page.read(demo_folder() / "pages" / "sky@r4.html")
HTML = """<div> </div> <p> <table> <tr> <td> </table> <svg> </svg> <math> <select> <option> <iframe srcdoc="<b>"> <template
shadowrootmode=open> </template> <slot> <label for=a> <input id=a> <button> <style> </style> <script> <!-- --> <ol> <li> <a href=x> <form> <b> <i>
<textarea> <title> <plaintext> <frameset> <noscript> <details open> <fieldset disabled> <legend> é \x00 \ud800 &nbsp; " ' > < text aria-labelledby=a
<x-y> <bdi> <dialog> <object> <input type=radio name=r checked> <td colspan=9999999999> class="a&nbsp;b" style="display:block" hidden""".split()
CSS = """a div .b #c * > + ~ , : :: [ ] ( ) [a=b] [href^="x"] :not( :is( :has( :nth-child( 2n+1 n- 3000000000n odd of :checked :lang( en
:dir(rtl) :hover ::before \\ \\d800 \\0 /* */ " ' .a.a.a 99999999999999999999 { } | i] é \ud800 \x00 :host :in-range""".split()
XPATH = """// / a div * @id @* text() comment() node() [1] [last()] [ ] ( ) | or and + - = != < <= mod div 9e999 99999999999999999999999999 "x" 'y'
ancestor::a following::b preceding::* parent:: self::p count( sum( not( contains(., "a") normalize-space() position() string( name() lang("en") id("a")
.. . , $x -- following-sibling::*[2] preceding::node() substring(@id,1,2) translate( concat( number( é \ud800 \x00 :""".split()
WORDS = """button "Hold" ~ \\ { } heading text é "" link \ud800""".split()
JSON_BITS: list[object] = [
    None,
    True,
    -1,
    0,
    10**30,
    float("inf"),
    float("nan"),
    "",
    "x",
    "css{a}",
    [],
    {},
    [[]],
    {"a": 1},
    "\ud800",
    "9" * 5000,
]


def soup(dice: random.Random, bits: list[str], most: int) -> str:
    return dice.choice(["", " "]).join(dice.choice(bits) for _ in range(dice.randint(1, most)))


def expression(dice: random.Random) -> str:
    kind = dice.choice(["css", "css", "xpath", "xpath", "text", "role", "label"])
    bits = {"css": CSS, "xpath": XPATH}.get(kind, WORDS)
    body = soup(dice, bits, 12)
    if dice.random() < 0.05:
        body = dice.choice(bits) * dice.randint(50, 900)
    ends = ["", "", "", "#2", " @row-of text{x}", " -> css{b}", " else text{y}", " @under css{a}", "#"]
    return f"{dice.choice(['', '', '', 'shadow ', 'frame '])}{kind}{{{body}}}{dice.choice(ends)}"


def ask(page: Page, text: str) -> None:
    locator = parse(text)
    assert parse(str(locator)) == locator
    match(page, locator)
    explain(page, locator)
    nearest(locator, page)
    for form in ("css", "xpath", "annotation", "webdriver", "bidi"):
        try:
            convert(locator, form)
        except WaryHoundError:
            continue


def pages(dice: random.Random, folder: Path) -> None:
    page = Page.parse(soup(dice, HTML, 60))
    for index in range(len(page)):
        element = page[index]
        _ = element.name, element.role, element.text, element.label, element.visible
    for text in ("xpath{//li[not(ancestor::ol)]}", "css{:checked, :dir(rtl), :lang(en), :default}", expression(dice)):
        try:
            ask(page, text)
        except NotationError:
            continue
    if dice.random() < 0.2:
        again = Page.read(page.write(folder / "page"))
        assert len(again)


def expressions(dice: random.Random, folder: Path) -> None:
    ask(DEMO, expression(dice))


def spoiled(dice: random.Random, data: object) -> object:
    """JSON data with one thing in it replaced, dropped or doubled."""
    if isinstance(data, dict) and data and dice.random() < 0.85:
        key = dice.choice(list(data))
        made = dict(data)
        if dice.random() < 0.15:
            del made[key]
        else:
            made[key] = spoiled(dice, data[key])
        return made
    if isinstance(data, list) and data and dice.random() < 0.85:
        at = dice.randrange(len(data))
        return [*data[:at], spoiled(dice, data[at]), *data[at + 1 :]]
    return dice.choice(JSON_BITS)


def broken(dice: random.Random, text: str) -> str:
    at = dice.randrange(len(text) + 1)
    bits = [
        "\x00",
        "&a *a ",
        "!!float x",
        "*b",
        "{",
        "[",
        ": ",
        "\t",
        "- ",
        "? ",
        "\x85",
        "|",
        ">",
        "<<: ",
        "%",
        "@",
        "\r\n",
        "é",
        "!!bool m",
        "&a",
    ]
    return text[:at] + dice.choice(bits) + text[at + dice.choice([0, 0, 1, 30]) :]


def files(dice: random.Random, folder: Path) -> None:
    source = demo_folder()
    match dice.randrange(6):
        case 0:
            data = json.loads((source / "pages" / "nights@r1.facts.json").read_text(encoding="utf-8"))
            target = folder / "nights@r1.html"
            target.write_bytes((source / "pages" / "nights@r1.html").read_bytes())
            (folder / "nights@r1.facts.json").write_text(json.dumps(spoiled(dice, data)), encoding="utf-8")
            _ = [element.text for element in Page.read(target)]
        case 1:
            path = folder / "book.yaml"
            path.write_text(broken(dice, (source / "books" / "sky.yaml").read_text(encoding="utf-8")), encoding="utf-8", newline="")
            book = Book.read(path)
            _ = [book.fingerprint(name) for name in book.elements]
        case 2:
            path = folder / "journey.yaml"
            path.write_text(
                broken(dice, (source / "books" / "hold-a-night.yaml").read_text(encoding="utf-8")), encoding="utf-8", newline=""
            )
            Journey.read(path)
            tasks_of(path, Question())
        case 3:
            path = folder / "rates.json"
            path.write_text(json.dumps(spoiled(dice, ChangeModel.shipped().to_json())), encoding="utf-8")
            _ = ChangeModel.read(path).lasting(0.1, 3)
        case 4:
            data = json.loads((source / "pages" / "truth.json").read_text(encoding="utf-8"))
            (folder / "truth.json").write_text(json.dumps(spoiled(dice, data)), encoding="utf-8")
            read_histories(folder)
        case _:
            data = {"type": "CssSelector", "value": "a", "refinedBy": {"type": "XPathSelector", "value": "//b", "open": "frame"}}
            read_any(
                json.dumps(
                    dice.choice(
                        [spoiled(dice, data), spoiled(dice, [{"using": "xpath", "value": "//a"}]), {"type": "css", "value": "a"}]
                    )
                )
            )
            Fingerprint.from_json(spoiled(dice, {"tag": "a", "attributes": {"id": "x"}, "box": [1, 2, 3, 4], "trail": ["b"]}))


DOORS: dict[str, tuple[Callable[[random.Random, Path], None], float]] = {
    "pages with locators": (pages, 0.4),
    "expressions": (expressions, 0.5),
    "files": (files, 0.1),
}


def main() -> int:
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 100_000
    seed = int(sys.argv[2]) if len(sys.argv) > 2 else 1
    wrong = 0
    for name, (door, share) in DOORS.items():
        kinds: Counter[str] = Counter()
        shown: set[str] = set()
        with TemporaryDirectory() as made:
            for number in range(int(count * share)):
                dice = random.Random(f"{seed} {name} {number}")
                folder = Path(made)
                started = time.process_time()
                try:
                    door(dice, folder)
                    kind = "a result"
                except WaryHoundError as error:
                    kind = f"our {type(error).__name__}"
                except Exception as error:
                    last = traceback.extract_tb(error.__traceback__)[-1]
                    kind = f"CRASH {type(error).__name__} at {Path(last.filename).name}:{last.lineno}"
                if time.process_time() - started > SLOW:
                    kind = f"SLOW, then {kind}"
                kinds[kind] += 1
                if kind.startswith(("CRASH", "SLOW")) and kind not in shown:
                    shown.add(kind)
                    print(f"  {kind}: number {number}")
        print(f"{name}: {sum(kinds.values()):,}; " + "; ".join(f"{k} {n:,}" for k, n in kinds.most_common()))
        wrong += sum(n for k, n in kinds.items() if k.startswith(("CRASH", "SLOW")))
    print(f"neither a result nor an error of ours, or slow: {wrong}")
    return int(wrong > 0)


if __name__ == "__main__":
    sys.exit(main())
