"""The demo's own data, histories, examples, and the promises of the public face."""

from __future__ import annotations

import json
import runpy
import subprocess
import sys
from pathlib import Path

import pytest

import wary_hound
from conftest import PAGES, read
from wary_hound import FileError, match
from wary_hound.demo.tour import demo_folder
from wary_hound.measuring.history import labelled, locate, outcome, read_histories
from wary_hound.measuring.yardsticks import YARDSTICKS, whole

ROOT = Path(__file__).parent.parent
EXAMPLES = sorted((ROOT / "examples").glob("*.py"))


def test_the_shipped_site_is_what_the_templates_make(tmp_path: Path) -> None:
    subprocess.run([sys.executable, ROOT / "scripts" / "make_site.py", tmp_path], check=True)
    shipped = demo_folder() / "site"
    made = {p.relative_to(tmp_path): p.read_text() for p in tmp_path.rglob("*.*")}
    assert made == {p.relative_to(shipped): p.read_text() for p in shipped.rglob("*.*")}
    assert len({made[Path(f"r{r}/index.html")] for r in range(1, 7)}) == 6
    assert not any("data-truth" in text for text in made.values())


def test_the_labels_lead_to_what_they_say() -> None:
    histories = read_histories(PAGES)
    assert {h.page for h in histories} == {"nights", "held", "sky"}
    for history in histories:
        pages, wanted = labelled(history)
        assert len(pages) == 6
        assert len(wanted[0]) >= 25
        truth = json.loads((PAGES / "truth.json").read_text())[history.page]
        for page, targets, entry in zip(pages, wanted, truth, strict=True):
            assert not page.index.having("data-truth").size
            for label, index in targets.items():
                said = entry["targets"][label]
                assert (index is None) == (said is None)
                if index is not None:
                    assert (page.tags[index], page.semantics.text[index]) == (said["tag"], said["text"])
        assert [k for k, v in wanted[5].items() if v is None] == ["extra-letter", "print-link"]


def test_each_release_differs_as_its_notes_say() -> None:
    pages = [read(f"nights@r{r}") for r in range(1, 7)]
    assert [len(p.find_all("css{.night-row}")) for p in pages] == [5, 0, 0, 0, 0, 0]
    assert [len(p.find_all("css{#visitor-name}")) for p in pages] == [1, 1, 0, 0, 0, 0]
    assert [len(p.find_all("css{[data-test=hold]}")) for p in pages] == [0, 0, 5, 5, 5, 5]
    assert [len(p.trees) for p in pages] == [2, 2, 2, 4, 4, 4]
    assert [len(p.find_all("css{table}")) for p in pages] == [1, 1, 1, 1, 0, 0]
    assert [len(p.find_all("text{Reserve for a school}")) for p in pages] == [0, 0, 0, 0, 0, 5]


def test_yardsticks_find_their_element_when_they_are_made() -> None:
    for name in ("nights@r1", "sky@r4"):
        page = read(name)
        for index in range(len(page)):
            for way in YARDSTICKS.values():
                assert match(page, whole(page[index], way)) == [index]


def test_outcomes() -> None:
    assert [outcome(f, 3) for f in ([3], [], [4], [3, 4], [4, 5])] == ["alive", "lost", "stolen", "ambiguous", "ambiguous"]


@pytest.mark.parametrize(
    ("truth", "said"), [("[", "no history"), ('{"p": [{"version": 1}]}', "no history"), ('{"p": 3}', "no history")]
)
def test_broken_histories(tmp_path: Path, truth: str, said: str) -> None:
    (tmp_path / "truth.json").write_text(truth)
    with pytest.raises(FileError, match=said):
        read_histories(tmp_path)


def test_paths_that_lead_nowhere() -> None:
    page = read("nights@r4")
    for path, said in ((["html > nav"], "leads to 0"), (["html"], None), (["html", "p"], "hosts no tree"), (["a["], "broken")):
        if said is None:
            assert locate(page, path) == 0
        else:
            with pytest.raises(FileError, match=said):
                locate(page, path)


@pytest.mark.parametrize("example", EXAMPLES, ids=[p.stem for p in EXAMPLES])
def test_examples_run_and_say_something(example: Path, capsys: pytest.CaptureFixture[str]) -> None:
    runpy.run_path(str(example), run_name="__main__")
    assert len(capsys.readouterr().out.splitlines()) >= 2
    imports = [line for line in example.read_text().splitlines() if "wary_hound" in line and "import" in line]
    assert all(line.startswith(("from wary_hound import", "from wary_hound.demo")) for line in imports)


def test_the_public_face_is_whole_and_documented() -> None:
    assert len(EXAMPLES) >= 3
    for name in wary_hound.__all__:
        thing = getattr(wary_hound, name)
        assert thing.__doc__, name
    with pytest.raises(AttributeError):
        _ = wary_hound.nothing
    assert (Path(wary_hound.__file__).parent / "py.typed").exists()
