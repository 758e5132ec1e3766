"""Locators in sources of any language: found as wholes, written back in their quotes; all files or none; and the way back."""

from __future__ import annotations

import ast
import csv
import io
import json
import random
import re
import shutil
import signal
import subprocess
import sys
import time
import zipfile
from pathlib import Path

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from conftest import run
from wary_hound import FileError, Page, parse
from wary_hound.journey.journal import journal_of, read_journal
from wary_hound.journey.sources import LANGUAGES, Renewal, forms_of, occurrences, renewal, rewritten

OLD = 'css{input[name="email"]}'
SOURCES = Path(__file__).parent.parent / "examples" / "sources"


def mended(name: str, text: str, old: str = OLD, new: str = "css{#mail}") -> str:
    entry = renewal("mail", parse(old), Page.parse("<input>").find("css{input}"), [parse(new)])
    return rewritten(text, occurrences(Path(name), text, [entry]))


@pytest.mark.parametrize(
    ("name", "text", "expected"),
    [
        ("a.py", "A = 'css{input[name=\"email\"]}'", "A = 'css{#mail}'"),
        ("a.py", 'A = r"""input[name="email"]"""', 'A = r"""#mail"""'),
        ("a.py", "find('css selector', 'input[name=\"email\"]')", "find('css selector', '#mail')"),
        ("A.java", 'x("css selector", "input[name=\\"email\\"]");', 'x("css selector", "#mail");'),
        ("a.js", 'a(`input[name="email"]`); b(\'input[name="email"]\')', "a(`#mail`); b('#mail')"),
        ("a.ts", 'const a: string = "input[name=\\"email\\"]";', 'const a: string = "#mail";'),
        ("A.cs", 'a(@"input[name=""email""]"); b("input[name=\\"email\\"]");', 'a(@"#mail"); b("#mail");'),
        ("a.rb", "a('input[name=\"email\"]')", "a('#mail')"),
        ("a.csv", '1,css,"input[name=""email""]",x\r\n', '1,css,"#mail",x\r\n'),
        ("a.txt", 'input[name="email"]\nmail = input[name="email"]\n', "#mail\nmail = #mail\n"),
        ("a.py", 'x("name", "email")', 'x("name", "email")'),  # by name: what it should be cannot be said so
    ],
)
def test_it_is_found_as_it_is_written_and_written_back_in_its_quotes(name: str, text: str, expected: str) -> None:
    assert mended(name, text) == expected


@pytest.mark.parametrize(
    ("name", "text"),
    [
        ("a.py", '# css{input[name="email"]}\nA = \'see css{input[name="email"]}\'\nB = f\'input[name="email"]{x}\''),
        ("a.py", 'email = "email"; name = "email"'),
        ("A.java", '// "css{input[name=\\"email\\"]}"\nchar c = \'"\'; String s = "input[name=\\"email\\"] b";'),
        ("a.js", 'const r = /"input[name="email"]"/; const t = `${"a"}input[name="email"]`; /* "css{input[name=\\"email\\"]}" */'),
        ("A.cs", 'var s = $"input[name=\\"email\\"]";'),
        ("a.rb", 'a("input[name=\\"email\\"]#{b}") # "css{input[name=\\"email\\"]}"'),
        ("a.csv", 'before input[name="email"] after,email'),
        ("a.unknown", OLD),
    ],
)
def test_what_is_no_whole_string_or_no_locator_is_left_alone(name: str, text: str) -> None:
    assert mended(name, text) == text


@pytest.mark.parametrize(
    ("name", "text", "lines"),
    [
        ("a.py", "A = 1\nB = f'css{input[name=\"email\"]} @row-of text{x}'\nC = f'{x} input[name=\"email\"]'", [2, 3]),
        ("a.py", "B = f'input[name=\"email\"]s'\nC = f'.input[name=\"email\"]'\nD = 'at css{input[name=\"email\"]} again'", []),
        ("A.java", 'String s = """\n  input[name="email"]\n  """;', [1]),
        ("a.ts", 'const t = `${form} input[name="email"]`;', [1]),
        ("A.cs", 'var s = $"{form} input[name=\\"email\\"]"; var t = $@"{form} input[name=""email""]";', [1, 1]),
        ("a.rb", 'a("#{form} input[name=\\"email\\"]")', [1]),
    ],
)
def test_in_strings_that_are_put_together_it_is_named_and_left(name: str, text: str, lines: list[int]) -> None:
    entry = renewal("mail", parse(OLD), Page.parse("<input>").find("css{input}"), [parse("css{#mail}")])
    places = occurrences(Path(name), text, [entry])
    assert [(place.line, place.after, place.place.pieced) for place in places] == [(line, None, True) for line in lines]
    assert rewritten(text, places) == text


def test_a_word_is_a_locator_only_where_the_word_before_it_says_so() -> None:
    text = 'a("id", "mail"); b("mail"); c = {"using": "id", "mail"}; By.id("mail"); log("name", "mail")'
    found = mended("a.js", text, "css{#mail}", "css{#post}")
    assert found == 'a("id", "post"); b("mail"); c = {"using": "id", "post"}; By.id("post"); log("name", "mail")'


def test_the_forms_in_which_a_locator_can_be_said() -> None:
    assert forms_of(parse("css{#a}")) == {"notation": "css{#a}", "css": "#a", "id": "a"}
    assert forms_of(parse('xpath{//*[@name="b"]}')) == {"notation": 'xpath{//*[@name="b"]}', "xpath": '//*[@name="b"]', "name": "b"}
    assert set(forms_of(parse("text{More}"))) == {"notation", "link text"}
    for text in ("css{#a}#2", "shadow css{b} -> css{#a}", "css{#a} else css{#b}", "css{a} @row-of text{b}"):
        assert forms_of(parse(text)) == {"notation": text}


QUOTED = st.text(st.characters(exclude_categories=["Cs", "Cc"], exclude_characters="\u2028\u2029"), min_size=1, max_size=30)


@example("0", "\\#", ".rb")
@example("\\#{a", "\\#{", ".rb")
@given(QUOTED, QUOTED, st.sampled_from([".py", ".java", ".js", ".ts", ".cs", ".rb"]))
def test_what_is_written_reads_back_as_the_same(old: str, new: str, suffix: str) -> None:
    entry = Renewal("x", {"notation": old}, {"notation": new})
    text = json.dumps(old, ensure_ascii=False)
    if suffix == ".rb":
        text = re.sub(r"#(?=[{$@])", r"\\#", text)
    found = occurrences(Path(f"a{suffix}"), f"a = {text}", [entry])
    assert [f.before for f in found] == [old]
    written = rewritten(f"a = {text}", found)
    assert [place.value for place in LANGUAGES[suffix](written)] == [new]
    if suffix == ".py":
        assert ast.literal_eval(written[4:]) == new


@pytest.mark.parametrize(
    ("suffix", "said", "meant"),
    [
        (".rb", r'"\\#{a}"', None),  # an escaped backslash, and what is put in at run time
        (".rb", r'"\#{a}"', "#{a}"),
        (".rb", r'"\\#b"', r"\#b"),
        (".ts", r"`\\${a}`", None),
        (".ts", r"`\${a}`", "${a}"),
        (".ts", r"`\\$b`", r"\$b"),
    ],
)
def test_what_is_put_in_at_run_time(suffix: str, said: str, meant: str | None) -> None:
    (place,) = LANGUAGES[suffix](f"a = {said}")
    assert (None if place.pieced else place.value) == meant


@given(st.lists(QUOTED, min_size=2, max_size=4), QUOTED)
def test_cells_read_back_as_another_reader_has_them(row: list[str], new: str) -> None:
    out = io.StringIO()
    csv.writer(out, lineterminator="\n").writerow([cell.strip() or "x" for cell in row])
    values = next(csv.reader(io.StringIO(out.getvalue())))
    entry = Renewal("x", {"notation": values[0]}, {"notation": new.strip() or "y"})
    if any(letter in values[0] for letter in ",;\t") and '"' not in out.getvalue():
        return  # a bare cell that another dialect would cut
    written = rewritten(out.getvalue(), occurrences(Path("a.csv"), out.getvalue(), [entry]))
    expected = [new.strip() or "y" if value == values[0] else value for value in values]
    if not any(";" in value for value in values):
        assert next(csv.reader(io.StringIO(written))) == expected


@pytest.mark.parametrize("suffix", sorted(LANGUAGES))
def test_no_source_is_too_odd(suffix: str) -> None:
    words = ["'", '"', "`", "\\", "\n", "//", "/*", "*/", "#", '"""', "@", "$", "{", "}", "css{#a}", "=", ",", "(", "r", "=begin"]
    picked = random.Random(5)
    for _ in range(300):
        text = "".join(picked.choice(words) for _ in range(40))
        for place in LANGUAGES[suffix](text):
            assert 0 <= place.start <= place.end <= len(text)


def copied(demo: Path) -> Path:
    shutil.copytree(SOURCES, demo / "suite")
    return demo / "suite"


REPAIR = ["repair", "pages/nights@r1.html", "pages/nights@r3.html", "--book", "books/nights.yaml", "--source", "suite"]


def test_the_example_sources_are_mended_and_everything_can_be_undone(demo: Path) -> None:
    suite = copied(demo)
    (suite / "notes.bin").write_bytes(b"\xff css{#telescope}")
    before = {path: path.read_bytes() for path in [*suite.iterdir(), demo / "books" / "nights.yaml"]}
    shown = run(*REPAIR, "--patch", "all.patch")
    assert shown.exit_code == 1
    assert {path: path.read_bytes() for path in before} == before
    patch = subprocess.run(["patch", "-p0", "--dry-run", "-i", "all.patch"], capture_output=True, text=True, check=False)
    assert patch.returncode == 0, patch.stdout
    applied = run(*REPAIR, "--apply", "--json")
    data = json.loads(applied.output)
    changed = {Path(name).name for name in data["changed_files"]}
    assert {"nights.py", "Nights.java", "nights.js", "nights.ts", "Nights.cs", "nights.rb", "nights.csv", "nights.yaml"} <= changed
    assert all(place["after"] for place in data["sources"])
    python = (suite / "nights.py").read_text()
    compile(python, "nights.py", "exec")
    assert 'VISITOR_NAME = ("id", "guest-name")  # the same word in a text is left alone: "visitor-name"' in python
    assert 'GREETING = "Good evening, visitor-name"' in python
    assert "(a comment stays as it is)" in (suite / "Nights.java").read_text()
    again = run(*REPAIR[:1], "pages/nights@r3.html", "pages/nights@r3.html", *REPAIR[3:])
    assert again.exit_code == 0, again.output
    record = read_journal(journal_of(demo / "books" / "nights.yaml"))[0]
    assert {m.name for m in record.mended} >= {"send-booking", "hold-moon"}
    assert all(m.before != m.after and 0 < m.confidence <= 1 for m in record.mended)
    undone = run("repair", "--book", "books/nights.yaml", "--undo")
    assert undone.exit_code == 0
    assert {path: path.read_bytes() for path in before} == before
    nothing = run("repair", "--book", "books/nights.yaml", "--undo")
    assert (nothing.exit_code, "no repair to undo" in nothing.output) == (2, True)


def test_nothing_is_undone_over_a_persons_change(demo: Path) -> None:
    suite = copied(demo)
    run(*REPAIR, "--apply")
    with (suite / "nights.py").open("a") as file:
        file.write("# mine\n")
    held = {path: path.read_bytes() for path in suite.iterdir()}
    result = run("repair", "--book", "books/nights.yaml", "--undo")
    assert (result.exit_code, "was changed since" in result.output) == (2, True)
    assert {path: path.read_bytes() for path in suite.iterdir()} == held
    Path("books/nights.yaml.repairs.jsonl").write_text("{}\n")
    with pytest.raises(FileError, match="line 1 is no record"):
        read_journal(Path("books/nights.yaml.repairs.jsonl"))


def workbook(path: Path, texts: list[str]) -> None:
    """A minimal workbook with one column of texts."""
    strings = "".join(f"<si><t>{t.replace('&', '&amp;').replace('<', '&lt;')}</t></si>" for t in texts)
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as book:
        book.writestr("xl/workbook.xml", "<workbook/>")
        book.writestr("xl/media/picture.png", b"\x89PNG not touched")
        book.writestr("xl/sharedStrings.xml", f'<?xml version="1.0"?><sst>{strings}</sst>')


def test_cells_of_a_spreadsheet(demo: Path) -> None:
    (demo / "suite").mkdir()
    path = demo / "suite" / "steps.xlsx"
    workbook(path, ["form.booking > div.form-actions > button.button:first-child", "a & b", "telescope"])
    run(*REPAIR, "--apply")
    with zipfile.ZipFile(path) as book:
        text = book.read("xl/sharedStrings.xml").decode()
        assert book.read("xl/media/picture.png") == b"\x89PNG not touched"
    assert "form.booking" not in text
    assert "<t>a &amp; b</t>" in text
    path.write_bytes(b"no zip")
    result = run(*REPAIR)
    assert (result.exit_code, "cannot be read" in result.output) == (2, True)


def test_a_repair_that_is_killed_leaves_all_old_or_all_new(demo: Path) -> None:
    suite = copied(demo)
    for number in range(24):
        shutil.copy(suite / "nights.py", suite / f"more{number}.py")
    files = [*suite.iterdir(), demo / "books" / "nights.yaml"]
    old = {path: path.read_bytes() for path in files}
    code = "import sys; from wary_hound.cli import main; sys.argv[1:] = " + repr([*REPAIR, "--apply"]) + "; main()"
    begun = time.monotonic()
    subprocess.run([sys.executable, "-c", code], cwd=demo, capture_output=True, check=False)
    whole = time.monotonic() - begun
    new = {path: path.read_bytes() for path in files}
    assert sum(new[path] != old[path] for path in files) > 25
    picked = random.Random(3)
    for _ in range(4):
        for path, content in old.items():
            path.write_bytes(content)
        journal_of(demo / "books" / "nights.yaml").unlink(missing_ok=True)
        process = subprocess.Popen([sys.executable, "-c", code], cwd=demo, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        time.sleep(whole * picked.uniform(0.7, 1.0))
        process.send_signal(signal.SIGKILL)
        process.wait()
        run("repair", "pages/nights@r1.html", "pages/nights@r1.html", "--book", "books/nights.yaml", "--source", "suite")
        held = {path: path.read_bytes() for path in files}
        assert held in (old, new)
