"""Whatever comes in: a result or one of our own errors comes out, after a bounded amount of work."""

# ruff: noqa: E501 (tables of hostile input)

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest

from conftest import PAGES, read, run
from wary_hound import (
    FactsError,
    FileError,
    LocatorError,
    NotationError,
    Page,
    PageError,
    WaryHoundError,
    convert,
    explain,
    match,
    rank,
)
from wary_hound.authoring.predicates import head_of
from wary_hound.healing.said import is_counted, plainly
from wary_hound.locator import xpath
from wary_hound.locator.xpath import evaluator, sets
from wary_hound.locator.xpath.nodes import Nodes
from wary_hound.page import names
from wary_hound.page.facts import Facts
from wary_hound.robustness.data import is_amount, is_count, is_moment
from wary_hound.robustness.looks import LOOKS, look_of_class, look_of_text, look_of_token

LONG = {
    "classes": "css{" + ".a" * 4900 + "}",
    "descendants": "css{" + " ".join(["a"] * 5000) + "}",
    "nots": "css{" + ":not(a)" * 1200 + "}",
    "siblings": "css{" + " ~ ".join(["*"] * 4000) + "}",
    "adjacent": "css{" + " + ".join(["a"] * 1500) + "}",
    "paths": "xpath{" + "//p" * 1200 + "}",
    "predicates": "xpath{//*" + "[@a]" * 1200 + "}",
    "or": "xpath{//*[" + " or ".join(["@a"] * 1500) + "]}",
    "union": "xpath{" + " | ".join(["//a"] * 1500) + "}",
    "plus": "xpath{//*[" + "+".join(["1"] * 1500) + "]}",
    "following": "xpath{//*[//following::zz[2]]}",
    "preceding": "xpath{//*[//preceding::p]}",
    "ancestors": "xpath{//*" + "/ancestor::*/descendant::*" * 300 + "}",
    "digits": "css{:nth-child(" + "9" * 60 + ")}",
    "numbers": "css{:nth-child(" + "9" * 5000 + "n+1)}",
    "infinite": "xpath{//p[" + "9" * 400 + "]}",
}


@pytest.mark.parametrize("name", LONG)
def test_long_expressions_end(name: str) -> None:
    page = read("nights@r1")
    try:
        assert explain(page, LONG[name]).found == tuple(match(page, LONG[name]))
        assert len(str(explain(page, LONG[name]))) < 100_000
        convert(LONG[name], "xpath")
    except (LocatorError, NotationError) as error:
        assert len(str(error)) < 1000


def test_work_is_counted_where_nothing_fits() -> None:
    page = Page.parse("<p>" + "<b>x</b>" * 1500)
    with pytest.raises(LocatorError, match="given up after 1,500,000 visited nodes"):
        match(page, "xpath{//*[count(following::zz) + count(preceding::node()) > 9]}")


@pytest.mark.parametrize(
    ("expression", "html"),
    [
        ("//li[not(ancestor::ol)]", "<ul><li>a</ul>"),
        ("/div//p", "<p>a"),
        ("//*[ancestor::svg]", "<p>a"),
        ("/tr/preceding::div", "<div>a</div><p>b"),
        ("/tr/following::div", "<p>b<div>a</div>"),
        ("(//p//text())[last()]", "<p>a<b>c</b>d</p><p><b>e</b></p>"),
        ("(//input/@*)[position()<4]", "<input a=1 b=2><input a=1 b=2 c=3>"),
        ("(//p/text() | //b/@c)[2]", "<p>a<b c=1>x</b>d</p>"),
        ("//p[//b]", "<p>a<p>b<b>x</b>"),
        ("//p[preceding::b][following::i]", "<b>1</b><p>x</p><p>y</p><i>2</i>"),
    ],
)
def test_sets_and_nodes_and_lxml_agree_where_they_did_not(expression: str, html: str) -> None:
    from lxml import html as lxml_html

    page = Page.parse(html)
    parsed = xpath.parse(expression)
    ours = xpath.match(page, parsed, 0)
    nodes = Nodes.of(page)
    value = evaluator.Evaluator(nodes).value(parsed, evaluator.Context(-1, 1, 1))
    assert isinstance(value, list)
    assert ours == sorted({nodes.element_of(node) for node in value})
    root = lxml_html.document_fromstring(html).getroottree()
    theirs = {
        e.getparent() if isinstance(e, str) and not e.is_tail else e.getparent().getparent() if isinstance(e, str) else e
        for e in root.xpath(expression)
    }
    assert [page.tags[i] for i in ours] == [e.tag for e in root.iter() if e in theirs]
    try:
        assert sets.match(page, parsed, 0) == ours
    except sets.Unfit:
        assert "text()" in expression or "@" in expression


def test_names_of_buttons_that_label_one_another_take_bounded_work() -> None:
    markup = "".join(f"<label for=b{n}><button id=b{n}>{n}</button>" for n in range(25)) + "</label>" * 25
    page = Page.parse(markup)
    before = names._Work.of(page).left
    assert all(page.semantics.name(i) for i in page.index.by_tag["button"].tolist())
    assert before - names._Work.of(page).left < 10_000


def test_names_that_take_too_much_work_are_refused(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(names, "MOST_VISITS", 10)
    monkeypatch.setattr(names, "MOST_VISITS_AN_ELEMENT", 0)
    with pytest.raises(LocatorError, match="too much work"):
        Page.parse("<button>" + "<b>x</b>" * 50).find("role{button}").name  # noqa: B018


def test_deep_pages_are_told_apart_from_pages() -> None:
    with pytest.raises(PageError, match="20,000 deep"):
        Page.parse("<div>" * 100_000)


def test_nested_shadow_roots_are_written_and_read(tmp_path: Path) -> None:
    depth = 3000
    page = Page.parse("<a-b><template shadowrootmode=open>" * depth + "<p>in" + "</template></a-b>" * depth)
    again = Page.read(page.write(tmp_path / "deep"))
    assert len(again.trees) == len(page.trees) > 100
    assert again.digest == page.digest


def test_texts_that_no_file_can_hold_are_kept_in_the_facts(tmp_path: Path) -> None:
    from wary_hound.page.events import build, events_of

    def odd(event: tuple[object, ...]) -> tuple[object, ...]:
        return ("t", "\ud800 \x00") if event[0] == "t" else (*event[:3], ["title", "a\r\nb\ud800"]) if event[1] == "p" else event

    plain = Page.parse("<p title=x>y</p>")
    facts = Facts(boxes=read("nights@r1").facts.boxes[: len(plain)])  # type: ignore[union-attr]
    page = build((odd(e) if len(e) > 1 else e for e in events_of(plain)), facts=facts)
    again = Page.read(page.write(tmp_path / "odd"))
    assert again.digest == page.digest
    assert again.facts is not None
    assert not again.notes
    assert run("look", str(tmp_path / "odd.html")).exit_code == run("look", str(tmp_path / "odd.html"), "--json").exit_code == 0


@pytest.mark.parametrize(
    "spoil",
    [
        ('"hidden":[', '"hidden":[-1,'), ('"hidden":[', '"hidden":[99999999999,'), ('"ratio":1', '"ratio":Infinity,"x":1'), ('"ratio":1', '"ratio":NaN,"x":1'),
        ('"boxes":[', '"boxes":[[1,2,3],'), ('"boxes":[', '"boxes":[["a",2,3,4],'), ('"form":{', '"form":{"5":{"selected":"x"},'),
        ('"form":{', '"form":{"x":{},'), ('"viewport":[', '"viewport":[' + "9" * 5000 + ","), ('"style":{', '"style":{"3":[7,1,2,3],'),
        ('"format":1', '"format":' + "[" * 5000 + "]" * 5000), ('"url":"', '"url":5,"u":"'), ('"time":"', '"time":null,"t":"'),
    ],
)  # fmt: skip
def test_broken_facts_are_refused(tmp_path: Path, spoil: tuple[str, str]) -> None:
    (tmp_path / "x.html").write_bytes((PAGES / "nights@r1.html").read_bytes())
    text = (PAGES / "nights@r1.facts.json").read_text()
    assert spoil[0] in text
    (tmp_path / "x.facts.json").write_text(text.replace(spoil[0], spoil[1], 1))
    with pytest.raises((FactsError, FileError)):
        Page.read(tmp_path / "x.html")
    assert run("look", str(tmp_path / "x.html")).exit_code == 2


def test_what_a_page_says_does_not_command_the_terminal(tmp_path: Path) -> None:
    evil = "\x1b]8;;http://x\x07\x9b31mV\u202eega[beta] [/x]"
    (tmp_path / "e.html").write_text(
        f"<title>[beta] {evil}</title><button title='{evil}' id=b>{evil}</button><p>[/x]</p>", encoding="utf-8"
    )
    page = str(tmp_path / "e.html")
    for arguments in (
        ["look", page],
        ["look", page, "--at", "css{#b}"],
        ["check", "css{button}", page],
        ["rank", page, "css{#b}"],
        ["look", page, "--json"],
    ):
        result = run(*arguments)
        assert result.exit_code == 0
        assert not set(result.output) & set("\x1b\x07\x9b\u202e")
        assert "[beta]" in result.output or arguments[0] == "check"
    assert "\u202e" not in run("check", f"text{{{evil}x}}", page).output + run("check", f"{evil}{{", page).stderr


@pytest.mark.parametrize("sign", [signal.SIGTERM, signal.SIGKILL])
def test_workers_end_with_their_owner(demo: Path, sign: signal.Signals) -> None:
    started = subprocess.Popen(
        [sys.executable, "-m", "wary_hound", "bench", "pages", "--jobs", "2"], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
    )
    children = Path(f"/proc/{started.pid}/task/{started.pid}/children")
    deadline = time.monotonic() + 60
    while len(children.read_text().split()) < 2 and time.monotonic() < deadline:
        time.sleep(0.02)
    workers = children.read_text().split()
    assert len(workers) >= 2
    os.kill(started.pid, sign)
    started.wait(60)
    while any(alive(pid) for pid in workers) and time.monotonic() < deadline + 60:
        time.sleep(0.02)
    assert not [pid for pid in workers if alive(pid)]


def alive(pid: str) -> bool:
    try:
        return Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()[0] != "Z"
    except (FileNotFoundError, ProcessLookupError):
        return False


def test_odd_pictures_and_journeys_are_one_clear_error(demo: Path) -> None:
    book = Path("books/nights.yaml")
    for spoil in (b"no picture", b"\x89PNG\r\n\x1a\n" + b"\0" * 40):
        Path("pages/nights@r1.png").write_bytes(spoil)
        result = run("stress", str(book), "--picture", "x.png")
        assert (result.exit_code, "picture cannot be read" in result.stderr) == (2, True)
    journey = Path("books/hold-a-night.yaml")
    journey.write_text(journey.read_text().replace("click: hold-vega", "click: nosuch"))
    result = run("stress", str(journey))
    assert (result.exit_code, "no element is named 'nosuch'" in result.stderr) == (2, True)
    book.write_bytes(b"\xff\xfe\x00")
    assert "no UTF-8 text" in run("stress", str(book)).stderr
    assert run("rank", "pages/nights@r1.html", "css{h1}", "--stolen-costs", "nan").exit_code == 2


def test_errors_travel_between_processes() -> None:
    import pickle

    for error in (NotationError("css{", 3, "a brace"), FileError("x"), PageError("y")):
        again = pickle.loads(pickle.dumps(error))
        assert (type(again), str(again)) == (type(error), str(error))
        assert isinstance(again, WaryHoundError)


@pytest.mark.parametrize("part", ["1", "-1", "1,", "a-", "Aa", " ", ":r", "12:30 ", "a1_", "(", "[name]", "0.", "May "])
def test_long_names_and_texts_are_looked_at_once(part: str) -> None:
    """What looks at them would take hours, did it try each of their letters with all behind it."""
    value = part * (200_000 // len(part)) + "x"
    assert look_of_token(value) in LOOKS
    assert look_of_class(value) in LOOKS
    assert look_of_text(value) in LOOKS
    assert not is_count(value)
    assert not is_amount(value)
    assert plainly(value)
    is_counted(value)
    assert not is_moment(value)
    assert not head_of(value)
    page = Page.parse(f'<main><button id="{value}" class="{value}" title="{value}">Hold</button><p>{value}</p></main>')
    assert rank(page.find("css{button}"))
