"""The command line, driven for real on the demo's files."""

from __future__ import annotations

import json
import re
import subprocess
import sys
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from conftest import run
from wary_hound.cli import COMMANDS
from wary_hound.cli.common import in_lines


def test_every_command_has_help_with_an_example() -> None:
    for name in COMMANDS:
        result = run(name, "--help")
        assert result.exit_code == 0
        assert f"wary-hound {name}" in result.output, name
    listed = run("--help").output
    assert all(name in listed for name in COMMANDS)


def test_look_shows_a_page_and_an_element(demo: Path) -> None:
    shown = run("look", "pages/nights@r4.html")
    assert shown.exit_code == 0
    assert "the shadow tree (open) of <night-booking" in shown.output
    assert max(map(len, shown.output.splitlines())) <= 100
    one = run("look", "pages/nights@r4.html", "--at", "shadow css{night-booking} -> css{[value=cocoa]}")
    assert "shared by 3" in one.output
    assert "unique" in one.output
    data = json.loads(run("look", "pages/nights@r4.html", "--all", "--json").output)
    assert (data["elements"], len(data["listed"]), len(data["trees"])) == (211, 211, 4)
    data = json.loads(run("look", "pages/nights@r1.html", "--at", "css{#party-size}", "--json").output)
    assert (data["role"], data["label"], data["shared_by"]["type"]) == ("spinbutton", "Party size", 1)


def test_check_explains_and_its_exit_code_tells(demo: Path) -> None:
    assert run("check", "label{Visitor name}", "pages/nights@r3.html").exit_code == 0
    both = run("check", "label{Visitor name}", "pages/nights@r3.html", "pages/nights@r4.html")
    assert both.exit_code == 1
    assert "✓ 1 of 1" in both.output
    assert "✗ no matches" in both.output
    assert "does not look" in " ".join(both.output.split())
    data = json.loads(run("check", "css{#night-form button.btn}", "pages/nights@r1.html", "--json").output)
    assert [s[1] for s in data[0]["hops"][0]["steps"]] == [1, 3, 0]
    assert data[0]["nearly"][0]["count"] == 3


def test_rank_names_the_best_and_how_the_given_one_does(demo: Path) -> None:
    result = run("rank", "pages/nights@r1.html", "xpath{//tr[1]//button}", "--plot", "out.svg", "-n", "3")
    assert result.exit_code == 0
    weak = "Weak: it says what kind of element, or where, not which one."
    assert weak in result.output.partition("The locator given:")[2]
    assert weak not in result.output.partition("The locator given:")[0]
    assert "position among 5 alike siblings" in " ".join(result.output.split())
    assert Path("out.svg").read_text().count("<svg") == 1
    data = json.loads(run("rank", "pages/nights@r1.html", "css{#visitor-name}", "--json", "--releases", "1").output)
    assert data["candidates"][0]["survival"] >= data["given"]["survival"]
    assert len(data["candidates"][0]["curve"]) == 10
    assert data["fallbacks"] == ['css{[name="visitor"]}', "label{Visitor name}"]
    assert run("rank", "pages/nights@r1.html", "css{#visitor-name}", "--plot", "out.pdf").exit_code == 2


def test_repair_proposes_patches_and_applies(demo: Path) -> None:
    book, journey = Path("books/nights.yaml"), Path("books/hold-a-night.yaml")
    before = book.read_text()
    pair = ["pages/nights@r2.html", "pages/nights@r3.html", "--book", str(book), "--journey", str(journey)]
    dry = run("repair", *pair)
    assert dry.exit_code == 1
    assert "≠ drifted" in dry.output
    assert "Nothing was written" in dry.output
    assert book.read_text() == before
    patched = run("repair", *pair, "--patch", "a.patch", "--report", "report.html", "--json")
    data = json.loads(patched.output)
    assert {r["state"] for r in data["repairs"]} == {"works", "drifted", "broken"}
    assert data["changed_files"] == [str(book), str(journey)]
    assert "Repairs, one by one" in Path("report.html").read_text()
    assert book.read_text() == before
    assert run("repair", *pair, "--apply").exit_code == 1
    assert book.read_text() != before
    assert "table[@id=" not in journey.read_text()
    again = run("repair", "pages/nights@r3.html", "pages/nights@r3.html", "--book", str(book))
    assert again.exit_code == 0, again.output
    assert "17 work" in again.output


def test_demo_tells_the_whole_story(tmp_path: Path) -> None:
    result = run("demo", "-o", str(tmp_path / "out"))
    assert result.exit_code == 0
    assert "repairs made" in " ".join(result.output.split())
    assert max(map(len, result.output.splitlines())) <= 100 + len(str(tmp_path))
    report = (tmp_path / "out" / "report.html").read_text()
    assert report.count('<article class="card"') > 20
    assert "http://" not in report.replace("http://www.w3.org/", "")
    assert not re.search(r"<(?:script|link|img|iframe)\b", report)
    assert "data:image/png;base64" in report
    subprocess.run(["git", "apply", "-p0", "repairs.patch"], check=True, cwd=tmp_path / "out")
    for name in ("nights.yaml", "sky.yaml", "hold-a-night.yaml"):
        assert (tmp_path / "out" / "books" / name).read_text() == (tmp_path / "out" / "repaired" / name).read_text()


def test_bench_measures_the_demos_history(demo: Path) -> None:
    truth = json.loads(Path("pages/truth.json").read_text())
    Path("pages/truth.json").write_text(json.dumps({"nights": truth["nights"][:3]}))
    data = json.loads(run("bench", "pages", "--jobs", "1", "--every", "3", "--json").output)
    top = data["all"]["locators"]["top candidate"]
    assert data["all"]["version_pairs"] == 3
    assert top["count"] > 50
    assert top["alive"] > data["all"]["locators"]["absolute path"]["alive"]
    assert sum(top[k] for k in ("alive", "lost", "stolen", "ambiguous")) == pytest.approx(1)
    assert data["all"]["relocation"]["right"] > 0.8
    drift = data["all"]["drift"]
    assert all(sum(shares[told] for told in ("works", "drifted", "in doubt")) == pytest.approx(1) for shares in drift.values())
    assert drift["its element"]["works"] > 0.9
    assert drift["another element"]["works"] < 0.2
    for told, way in (("forecasts", "top candidate"), ("forecasts_of_several_ways", "several ways")):
        bins = data["all"][told]["calibration"]
        observed = sum(b["count"] * b["observed"] for b in bins) / sum(b["count"] for b in bins)
        assert observed == pytest.approx(data["all"]["locators"][way]["alive"], abs=1e-3)
    shown = run("bench", "pages", "--jobs", "2", "--every", "9").output
    assert "attribute ladder" in shown
    assert max(map(len, shown.splitlines())) <= 100


def test_bench_tells_what_stands_in_the_element_from_what_stands_apart(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """A link whose words went into a span, and one that another link took the address of."""
    monkeypatch.chdir(tmp_path)
    links = {"r1": "<a>Vega</a><a href=/mira>Mira</a>", "r2": "<a><span>Vega</span></a><a href=/m>M</a>"}
    links["r2"] += "<p><a href=/mira>Mira</a></p>"
    truth = []
    for version, markup in links.items():
        Path(f"stars@{version}.html").write_text(f"<!doctype html><body><nav>{markup}</nav>", encoding="utf-8")
        at = {
            name: {"path": [f"html > body:nth-child(2) > nav:nth-child(1) > a:nth-child({k})"]}
            for k, name in ((1, "in"), (2, "apart"))
        }
        truth.append({"version": version, "file": f"stars@{version}.html", "targets": at})
    Path("truth.json").write_text(json.dumps({"stars": truth}))
    ladder = json.loads(run("bench", ".", "--jobs", "1", "--json").output)["all"]["locators"]["attribute ladder"]
    assert (ladder["count"], ladder["stolen"], ladder["stolen_in_or_around"]) == (2, 1.0, 0.5)
    shown = run("bench", ".", "--jobs", "1").output
    assert "nested" in shown
    assert "of all pairs the wrong one stands in the element" in shown


@pytest.mark.parametrize(
    ("arguments", "said"),
    [
        (["look", "none.html"], "none.html: there is no such file"),
        (["look", "empty.html"], "the file is empty"),
        (["look", "pages/nights@r1.html", "--at", "css{"], "does not parse at column 5"),
        (["look", "pages/nights@r1.html", "--at", "css{.zz}"], "no element matches"),
        (["look", "pages/nights@r1.html", "--at", "css{tr}"], "6 elements match"),
        (["check", "css{a:foo}", "pages/nights@r1.html"], "not :foo"),
        (["rank", "pages/nights@r1.html", "text{Nobody}"], "no element matches"),
        (["rank", "pages/nights@r1.html", "css{tr}"], "6 elements match"),
        (["repair", "pages/nights@r1.html", "pages/nights@r2.html", "--book", "none.yaml"], "no such book"),
        (["repair", "pages/nights@r1.html", "pages/nights@r2.html", "--book", "lost.yaml"], "gone.html, which is not there"),
        (["repair", "pages/nights@r1.html", "pages/nights@r2.html", "--book", "bad.yaml"], "broken at elements > a"),
        (["bench", "books"], "no truth.json"),
        (["bench", "nowhere"], "there is no such folder"),
        (["capture", "none.html", "-o", "x"], "there is no such file"),
        (["capture", "pages/nights@r1.html", "-o", "x", "--until", "css{"], "does not parse"),
    ],
)
def test_bad_input_is_one_clear_line_and_exit_2(demo: Path, arguments: list[str], said: str) -> None:
    Path("empty.html").write_text(" ")
    Path("lost.yaml").write_text("book: x\npage: gone.html\nelements: {a: {locator: 'css{a}'}}\n")
    Path("bad.yaml").write_text("book: x\nelements: {a: {}}\n")
    before = sorted(p.name for p in Path().rglob("*"))
    result = run(*arguments)
    assert result.exit_code == 2
    assert said in result.stderr
    assert len(result.stderr.strip().splitlines()) == 1
    assert not result.stdout
    assert sorted(p.name for p in Path().rglob("*")) == before


def test_the_module_runs_as_a_program_and_survives_a_closed_pipe(demo: Path) -> None:
    command = f"{sys.executable} -m wary_hound look pages/nights@r1.html --all --json | head -c 20"
    done = subprocess.run(command, shell=True, capture_output=True, text=True)
    assert done.stdout.startswith("{")
    assert "Traceback" not in done.stderr


def test_a_misspelt_command_is_misuse() -> None:
    assert run("lok").exit_code == 2
    assert run("capture", "x", "-o", "y", "--size", "big").exit_code == 2


@given(st.text(st.sampled_from('/[]@ab "'), max_size=80), st.integers(4, 40))
def test_a_long_locator_is_broken_where_a_part_of_it_ends(locator: str, width: int) -> None:
    lines = in_lines(locator, width).split("\n")
    assert "".join(lines) == locator
    assert all(len(line) <= width for line in lines)
    told = in_lines('//tr[td="Saturn"]//td[count(//th[.="Places"]/preceding-sibling::*)]', 40).split("\n")
    assert told == ['//tr[td="Saturn"]//td[count(//th', '[.="Places"]/preceding-sibling::*)]']
    classed = '//*[contains(concat(" ", normalize-space(@class), " "), " night ")]//button'
    assert in_lines(classed, 60).split("\n") == [classed[:56], classed[56:]]  # and not within the quotes
