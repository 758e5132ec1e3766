"""Journeys run on live pages: green where the page is sound, red with the right words where it is not, never green by mistake."""

from __future__ import annotations

import json
import shutil
from collections.abc import Callable, Iterator
from pathlib import Path
from xml.etree import ElementTree

import distributed
import pytest

from conftest import LIMIT, run
from wary_hound import Book, Browser, FileError, Journey, Page, walking
from wary_hound.browser.page import LivePage
from wary_hound.cli.run import wilson
from wary_hound.demo.server import serve
from wary_hound.demo.tour import demo_folder
from wary_hound.errors import StepFailed
from wary_hound.journey.book import Entry, remember
from wary_hound.journey.steps import Step
from wary_hound.journey.yaml_text import mapping
from wary_hound.running.doing import address_of
from wary_hound.running.replay import Run, replay

FOLDER = demo_folder() / "books"
JOURNEY = Journey.read(FOLDER / "hold-a-night.yaml")
BOOK = Book.read(FOLDER / "nights.yaml")


@pytest.mark.parametrize("name", ["chromium", "firefox"])
def test_the_demos_journey_passes_on_its_release(name: str, request: pytest.FixtureRequest, site: str) -> None:
    browser: Browser = request.getfixturevalue(name)
    told: list[str] = []
    done = replay(JOURNEY, BOOK, browser, base=f"{site}/r1", name=name, told=lambda step: told.append(step.says))
    assert (done.state, [s.message for s in done.steps if s.message]) == ("passed", [])
    assert told == [str(step) for step in JOURNEY.steps]
    assert all(step.picture.startswith(b"\x89PNG") for step in done.steps)
    assert done.page is None


@pytest.fixture
def planted(tmp_path: Path) -> Iterator[Callable[[str, str], str]]:
    """The address of the first release with something in its files replaced."""
    shutil.copytree(demo_folder() / "site" / "r1", tmp_path / "r1")
    with serve(tmp_path) as address:

        def plant(old: str, new: str) -> str:
            changed = 0
            for file in [*(tmp_path / "r1").glob("*.js"), *(tmp_path / "r1").glob("*.html")]:
                text = file.read_text()
                changed += text.count(old)
                file.write_text(text.replace(old, new))
            assert changed, old
            return f"{address}/r1"

        yield plant


def failing(done: Run) -> tuple[str, str]:
    assert done.failing is not None
    behind = done.steps[done.failing.number :]
    assert {step.state for step in behind} <= {"not run"}
    assert done.page is not None
    return done.failing.says, done.failing.message


@pytest.mark.parametrize(
    ("old", "new", "step", "said"),
    [
        ('"Held: " +', '"Kept: " +', "check that booking-status reads", 'it reads "Kept: Vega"'),
        ('value="vega"', 'value="vega" disabled', "click hold-vega", "it is disabled"),
        ('id="visitor-name"', 'id="visitor"', 'type "Ada Marsh" in visitor-name', "finds nothing"),
        ("Heron, 1 m", "Heron, 2 m", 'choose "Heron, 1 m"', "its options are"),
        (
            'class="notice-close"',
            'class="notice-close" onclick="event.stopImmediatePropagation()"',
            "check that notice-close",
            "shown",
        ),
    ],
)
def test_a_planted_fault_is_caught_by_its_step_in_its_words(
    chromium: Browser, planted: Callable[[str, str], str], old: str, new: str, step: str, said: str
) -> None:
    done = replay(JOURNEY, BOOK, chromium, base=planted(old, new), limit=4, opening=LIMIT, pictures=False)
    says, message = failing(done)
    assert says.startswith(step)
    assert said in message


HIDING = """<!doctype html><p id=toast hidden>Saved</p><p id=never hidden>Never</p><button id=go>Go</button><ul id=list></ul>
<input type=checkbox id=box><p id=late></p><script>
go.onclick = () => { toast.hidden = false; setTimeout(() => { toast.hidden = true; }, 400);
  const busy = document.createElement("i"); busy.id = "busy"; busy.textContent = "busy"; document.body.append(busy);
  setTimeout(() => { busy.remove(); list.innerHTML = "<li>a</li><li>b</li>"; late.textContent = "done"; }, 700); };
document.onkeydown = (e) => { if (e.key === "Escape") late.textContent = "escaped"; };
</script>"""


def walked(browser: Browser, tmp_path: Path, *steps: Step, html: str = HIDING, book: Book | None = None, **more: object) -> Run:
    (tmp_path / "index.html").write_text(html)
    with serve(tmp_path) as address:
        journey = Journey(journey="Walk", steps=(Step(action="open", value="index.html"), *steps))
        return replay(journey, book, browser, base=address, limit=1.5, opening=LIMIT, pictures=False, **more)  # type: ignore[arg-type]


def checked(on: str, expect: str, value: str = "", start: bool = False) -> Step:
    return Step(action="check", on=on, expect=expect, value=value, from_start=start)  # type: ignore[arg-type]


GO = Step(action="click", on="css{#go}")


@pytest.mark.parametrize(
    ("step", "state", "said"),
    [
        (checked("css{#busy}", "gone"), "passed", ""),  # it comes, then goes
        (checked("css{#toast}", "hidden"), "passed", ""),
        (checked("css{#none}", "gone"), "failed", "never there in this run"),
        (checked("css{#none}", "gone", start=True), "passed", ""),
        (checked("css{#never}", "hidden"), "failed", "never shown in this run"),
        (checked("css{#never}", "hidden", start=True), "passed", ""),
        (checked("css{#never}", "gone"), "failed", "there, but not visible (say `is: hidden`"),
        (checked("css{#never}", "shown"), "failed", "there, but not visible"),
        (checked("css{#go}", "hidden"), "failed", "it is shown"),
        (checked("css{#list li}", "counts", "2"), "passed", ""),
        (checked("css{#list li}", "counts", "3"), "failed", "there are 2"),
        (checked("css{#late}", "reads", "done"), "passed", ""),
        (checked("css{#late}", "contains", "nothing"), "failed", 'it reads "done"'),
        (checked("css{#list li}", "reads", "a"), "failed", "matches 2 elements"),
        (checked("css{#lste}", "reads", "a"), "failed", "matches nothing; near it"),
    ],
)
def test_checks_wait_and_can_fail(chromium: Browser, tmp_path: Path, step: Step, state: str, said: str) -> None:
    done = walked(chromium, tmp_path, GO, step)
    assert (done.state, said in done.steps[-1].message) == (state, True), done.steps[-1].message


def test_ticks_and_keys(chromium: Browser, tmp_path: Path) -> None:
    steps = [Step(action="tick", on="css{#box}"), checked("css{#box:checked}", "shown"), Step(action="untick", on="css{#box}")]
    steps += [checked("css{#box:checked}", "gone"), Step(action="keys", value="Escape"), checked("css{#late}", "reads", "escaped")]
    done = walked(chromium, tmp_path, *steps)
    assert done.state == "passed", [s.message for s in done.steps]


def test_what_comes_between_two_steps_is_in_the_evidence_of_one(chromium: Browser, tmp_path: Path) -> None:
    def asks(live: LivePage, number: int) -> None:
        if number == 3:
            live.script("() => { console.warn('low'); return fetch('/between').then((r) => r.text()); }")
            live.until_asked("/between")

    done = walked(chromium, tmp_path, GO, checked("css{#go}", "shown"), checked("css{#late}", "reads", "done"), before=asks)
    assert [sum("/between: 404" in said for said in step.requests) for step in done.steps] == [0, 0, 1, 0]
    assert [said for step in done.steps for said in step.console] == ["warn: low"]


def test_a_healed_name_is_loud_and_its_absence_proves_nothing(chromium: Browser, tmp_path: Path) -> None:
    old = HIDING.replace("id=go>", "id=start class=b>")
    seen = Page.parse(old).find("css{#start}")
    book = Book(book="B", elements={"go": Entry(locator="css{#start}")}, remembered={"go": remember(seen)})
    press = Step(action="click", on="go")
    done = walked(chromium, tmp_path, press, book=book, healing="sure")
    assert (done.state, done.steps[1].state) == ("healed", "healed")
    assert "was used instead" in done.steps[1].healed[0]
    done = walked(chromium, tmp_path, press, checked("go", "gone"), book=book, healing="sure")
    assert (done.state, "nothing can be said of the absence" in done.steps[2].message) == ("failed", True)
    done = walked(chromium, tmp_path, press, book=book, healing="propose")
    assert (done.state, "would be the one" in done.steps[1].message) == ("failed", True)


def test_guards_of_a_journey_clear_what_comes_up(chromium: Browser, site: str) -> None:
    text = (FOLDER / "hold-a-night.yaml").read_text()
    start = text.index("  - click: notice-close")
    end = text.index("  - click: hold-vega")
    guarded = (text[:start] + text[end:]).replace("steps:", "guards:\n  - when: 'css{#notice}'\n    click: notice-close\nsteps:")
    target = FOLDER.parent / "none.yaml"
    journey = Journey.model_validate({**_loaded(guarded), "book": "nights.yaml"})
    assert Journey.model_validate(_loaded(journey.to_yaml())) == journey
    done = replay(journey, BOOK, chromium, base=f"{site}/r1", pictures=False)
    assert done.state == "passed", [s.message for s in done.steps]
    assert not target.exists()


def _loaded(text: str) -> dict[str, object]:
    return mapping(text, Path("journey.yaml"), "journey")


@pytest.mark.parametrize(
    ("step", "message"),
    [
        ({"check": "a", "is": "gone", "from": "noon"}, "from the start"),
        ({"check": "a", "counts": "many"}, "needs a number"),
        ({"check": "a", "is": "shown", "from": "the start"}, "only what is hidden or gone"),
        ({"jump": "a"}, "a step does one of"),
        ({"keys": ""}, "keys needs a key"),
        ({"tick": "a", "in": "b"}, "does not take 'in'"),
    ],
)
def test_steps_that_make_no_sense_are_refused(step: dict[str, str], message: str) -> None:
    with pytest.raises(ValueError, match=message):
        Journey.model_validate({"journey": "x", "steps": [step]})


def test_where_an_address_is_missing_it_is_said_before_anything_runs() -> None:
    assert address_of("/a?b=1", "http://127.0.0.1/r1/") == "http://127.0.0.1/r1/a?b=1"
    assert address_of("https://x.example/", "") == "https://x.example/"
    with pytest.raises(FileError, match="no base address"):
        address_of("/a", "")


def test_the_command_leaves_evidence_that_other_commands_take(demo: Path, site: str) -> None:
    files = ["--evidence", "ev", "--report", "runs.html", "--junit", "runs.xml", "--limit", "6"]
    result = run("run", "books/hold-a-night.yaml", "--base", f"{site}/r3", *files)
    assert result.exit_code == 1
    assert "✗ failed: 1 of 12 steps" in result.output
    folder = demo / "ev" / "hold-a-night-for-vega-chromium-1"
    data = json.loads((folder / "run.json").read_text())
    assert [s["state"] for s in data["steps"][:3]] == ["passed", "failed", "not run"]
    assert run("check", "css{[aria-label='Close notice']}", str(folder / "failed.html")).exit_code == 0
    suite = ElementTree.parse("runs.xml").getroot()
    assert suite.attrib["failures"] == "1"
    failure = suite.find("./testsuite/testcase/failure")
    assert failure is not None
    assert failure.attrib["message"].startswith("step 2, click notice-close")
    page = Path("runs.html").read_text()
    assert "1 of 1 run failed" in page
    assert "<script" not in page
    assert 'src="http' not in page


def test_many_runs_are_a_table_with_an_interval(demo: Path, site: str) -> None:
    Path("books/give-up-a-night.yaml").unlink()
    arguments = [
        "run",
        "books",
        "--base",
        f"{site}/r1",
        "--browser",
        "chromium,firefox",
        "--times",
        "2",
        "--jobs",
        "2",
        "--limit",
        str(LIMIT),
    ]
    result = run(*arguments)
    assert result.exit_code == 0, result.output
    assert result.output.count("2 of 2") == 2
    data = json.loads(run(*arguments[:4], "--json").output)
    assert [r["state"] for r in data["runs"]] == ["passed"]
    low, high = wilson(50, 50)
    assert (round(low, 3), round(high, 3)) == (0.949, 1.0)
    assert wilson(0, 10)[0] == 0.0


@pytest.mark.parametrize(
    ("arguments", "message"),
    [
        (["books/nights.yaml"], "this journey is broken"),
        (["books/none.yaml"], "there is no such journey"),
        (["books/hold-a-night.yaml"], "no base address"),
        (["books/hold-a-night.yaml", "--browser", "lynx"], "none of chromium, firefox"),
        (["pages"], "no journey in this folder"),
    ],
)
def test_what_cannot_be_run_is_said(demo: Path, arguments: list[str], message: str) -> None:
    result = run("run", *arguments)
    assert (result.exit_code, message in result.output) == (2, True), result.output


def test_runs_go_over_sizes_rows_and_a_cluster(demo: Path, site: str) -> None:
    kept = ["--evidence", "kept", "--lines", "l.jsonl"]
    arguments = ["run", "books/give-up-a-night.yaml", "--base", f"{site}/r1", "--limit", str(LIMIT), *kept]
    with distributed.LocalCluster(n_workers=2, threads_per_worker=1, processes=False, dashboard_address="127.0.0.1:0") as cluster:
        result = run(*arguments, "--size", "1280x800,800x700", "--cluster", cluster.scheduler_address, "--keep", "3")
    assert result.exit_code == 0, result.output
    for where in ("chromium, 1280x800, Ada Marsh", "chromium, 800x700, Bram Tolliver"):
        assert where in result.output
    lines = [json.loads(line) for line in Path("l.jsonl").read_text().splitlines()]
    assert {(line["setting"], line["row"]) for line in lines} == {
        (size, row) for size in ("1280x800", "800x700") for row in ("Ada Marsh", "Bram Tolliver")
    }
    assert len([path for path in Path("kept").iterdir() if (path / "run.json").is_file()]) == 3


def test_a_run_renews_what_its_book_remembers(demo: Path, site: str) -> None:
    before = Book.read("books/nights.yaml")
    result = run("run", "books/hold-a-night.yaml", "--base", f"{site}/r1", "--renew", "--limit", str(LIMIT))
    assert result.exit_code == 0, result.output
    assert "remembers 8 elements as seen now" in result.output
    after = Book.read("books/nights.yaml")
    changed = {name for name in before.remembered if before.remembered[name] != after.remembered[name]}
    assert "hold-vega" in changed
    assert "print-link" not in changed
    assert after.elements == before.elements
    assert run("run", "books/hold-a-night.yaml", "--base", f"{site}/r1", "--healing", "sure", "--limit", str(LIMIT)).exit_code == 0


def test_secrets_are_nowhere_in_what_a_run_leaves(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    (tmp_path / "index.html").write_text(
        "<!doctype html><label>Key <input id=k></label><p id=o></p>"
        "<button onclick=\"o.textContent='no entry with '+k.value\">Go</button>"
    )
    (tmp_path / "j.yaml").write_text(
        "journey: Enter\nsecrets: {key: DOME_KEY}\nsteps:\n  - open: /index.html\n  - type: '{key}'\n    in: css{#k}\n"
        "  - click: text{Go}\n  - check: css{#o}\n    reads: Welcome\n"
    )
    monkeypatch.setenv("DOME_KEY", "tulip-77")
    monkeypatch.chdir(tmp_path)
    with serve(tmp_path) as address:
        asked = ["--base", address, "--limit", "6", "--evidence", "kept", "--report", "r.html", "--junit", "r.xml"]
        result = run("run", "j.yaml", *asked, "--lines", "l.jsonl")
    assert result.exit_code == 1
    assert "no entry with" in result.output
    left = [path for path in tmp_path.rglob("*") if path.is_file()]
    assert len(left) > 7
    for path in left:
        assert b"tulip-77" not in path.read_bytes(), path
    assert "tulip-77" not in result.output


def test_a_script_does_its_steps_at_once(chromium: Browser, site: str) -> None:
    with walking("Hold", book="nights.yaml", start={"base": f"{site}/r1"}, browser=chromium, folder=FOLDER, limit=5) as walk:
        with walk.after:
            walk.check("the page", console="quiet")
        walk.open("/index.html")
        walk.click("hold-vega")
        walk.check("booking-status", reads="Held: Vega")
    assert [step.state for step in walk.run.steps] == ["passed"] * 4

    def fails() -> None:
        with walking("Hold", book="nights.yaml", start={"base": f"{site}/r1"}, browser=chromium, folder=FOLDER, limit=5) as walk:
            walk.open("/index.html")
            walk.check("booking-status", reads="Held: Moon")

    with pytest.raises(StepFailed, match="step 2, check that booking-status"):
        fails()
    with pytest.raises(ValueError, match="a step does one of"), walking("Hold", browser=chromium, folder=FOLDER) as walk:
        walk.tap("x")
