"""Stress of books and journeys, advice to the page's developers, the picture; the same in every executor."""

from __future__ import annotations

import json
from concurrent.futures import ProcessPoolExecutor, ThreadPoolExecutor
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from conftest import read, run
from wary_hound import Question, rank
from wary_hound.authoring.advice import advise, changed_copy
from wary_hound.authoring.rules import Rules
from wary_hound.journey.stress import stress, tasks_of
from wary_hound.report.terminal import percent
from wary_hound.robustness.model import ChangeModel, Rate

MODEL = ChangeModel.shipped()
JOURNEY = "books/hold-a-night.yaml"


def test_a_journey_is_no_stronger_than_its_weakest_element(demo: Path) -> None:
    title, tasks = tasks_of(Path(JOURNEY), Question(MODEL, 3))
    with ThreadPoolExecutor(2) as pool:
        found = stress(title, tasks, pool)
    assert title == "Hold a night for Vega"
    risks = [e.survival(3) for e in found.elements]
    assert risks == sorted(risks)
    assert found.survival <= risks[0]
    assert found.survival > np.prod(risks) + 0.02  # they fail together more than by chance
    assert all(a >= b for a, b in zip(found.curve, found.curve[1:], strict=False))
    assert all(w >= c for w, c in zip(found.with_fallbacks, found.curve, strict=True))
    assert found.with_fallbacks[2] > found.survival
    weakest = found.weakest[0]
    assert weakest.best is not None
    assert weakest.best.survival > weakest.survival(3) + 0.1
    assert len(found.elements) == len({e.name for e in found.elements}) == 9


def test_every_executor_gives_the_same(demo: Path) -> None:
    distributed = pytest.importorskip("distributed")
    title, tasks = tasks_of(Path(JOURNEY), Question(MODEL, 2))
    tasks = [replace(task, page=task.page.resolve()) for task in tasks[:4]]
    with ThreadPoolExecutor(1) as one, ProcessPoolExecutor(2) as two:
        curves = [stress(title, tasks, pool).curve for pool in (one, two)]
    with distributed.LocalCluster(n_workers=1, threads_per_worker=1, processes=False, dashboard_address="127.0.0.1:0") as cluster:
        shown = run("stress", JOURNEY, "--cluster", cluster.scheduler_address, "--json")
        with distributed.Client(cluster) as client:
            curves.append(stress(title, tasks, client.get_executor()).curve)
    assert curves[0] == curves[1] == curves[2]
    assert json.loads(shown.output)["elements"]


def test_the_command_says_who_fails_first_and_fails_under_a_bound(demo: Path) -> None:
    result = run("stress", JOURNEY, "--releases", "3", "--fail-under", "0.9", "--advice", "--plot", "s.svg", "--picture", "s.png")
    assert result.exit_code == 1
    lines = result.output.splitlines()
    assert lines[0].startswith("Hold a night for Vega: 9 elements")
    first = next(line for line in lines if "send-booking" in line)
    assert "styling classes" in first
    assert "is under the 90 % asked for" in result.output
    assert max(map(len, lines)) <= 100
    assert "<svg" in Path("s.svg").read_text()
    with Image.open("s.png") as picture, Image.open("pages/nights@r1.png") as plain:
        assert picture.width == plain.width
        assert picture.height > plain.height
    assert run("stress", "books/nights.yaml", "--jobs", "1").exit_code == 0


def test_a_locator_that_is_broken_today_is_shown_and_fails(demo: Path) -> None:
    book = Path("books/nights.yaml")
    book.write_text(book.read_text().replace("text{Print the list}", "text{Print no list}"))
    data = json.loads((result := run("stress", str(book), "--json")).output)
    assert result.exit_code == 1
    broken = next(e for e in data["elements"] if e["name"] == "print-link")
    assert broken["survival"] == 0
    assert "matches nothing" in broken["reasons"][0]
    assert data["survival"] == 0


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("book: x\nelements: {a: {locator: 'css{a}'}}\n", "names no page"),
        ("journey: x\nbook: none.yaml\nsteps: [{click: a}]\n", "no such book"),
        ("", "empty.yaml"),
    ],
)
def test_what_cannot_be_stressed_is_said(demo: Path, text: str, said: str) -> None:
    Path("empty.yaml").write_text(text)
    result = run("stress", "empty.yaml")
    assert result.exit_code == 2
    assert said in result.stderr


def test_a_cluster_that_is_not_there_is_said(demo: Path) -> None:
    result = run("stress", JOURNEY, "--cluster", "tcp://127.0.0.1:9")
    assert result.exit_code == 2
    assert "tcp://127.0.0.1:9" in result.stderr


def test_advice_is_what_ranking_says_of_the_changed_page() -> None:
    page = read("nights@r1")
    names = {f"hold-{v}": page.find(f"css{{button[value='{v}']}}").index for v in ("vega", "moon")}
    weak = replace(MODEL, lost={**MODEL.lost, **{k: Rate(0.6, 0.2) for k in MODEL.lost if k.startswith(("text", "value"))}})
    found = advise(page, names, Question(weak, 3))
    assert found
    assert found[0].gain >= found[-1].gain > 0
    best = found[0]
    changed = changed_copy(page, best.element, best.attribute, best.value)
    assert len(changed) == len(page)
    assert changed[best.element].attributes == {**page[best.element].attributes, best.attribute: best.value}
    for name, before, after in best.lifts:
        assert rank(page[names[name]], Question(weak, 3, ways=1))[0].survival == pytest.approx(before)
        assert rank(changed[names[name]], Question(weak, 3, ways=1))[0].survival == pytest.approx(after)
        assert after > before


def test_advice_keeps_to_the_house_rules(demo: Path) -> None:
    args = ["rank", "pages/nights@r1.html", "css{.notice-close}", "--without", "text"]
    shown = json.loads(run(*args, "--json").output)
    assert shown["advice"]
    plain = next(c for c in shown["candidates"] if " else " not in c["locator"])
    assert shown["advice"][0]["survival"] > plain["survival"]
    element = read("nights@r1").find("css{.notice-close}")
    before = rank(element, Question(releases=3, rules=Rules(without=("text",)), ways=1))[0].survival
    assert f"lift the best of one way from {percent(before)}" in " ".join(run(*args).output.split())
    assert not json.loads(run(*args, "--without", "data-*", "--json").output)["advice"]
