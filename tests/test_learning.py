"""Learning rates: recovered from made-up worlds, kept where little is known, shown beside the shipped ones."""

from __future__ import annotations

import json
import random
from pathlib import Path

import numpy as np
import pytest

from conftest import read, run
from wary_hound.locator.notation import parse
from wary_hound.measuring.following import compared, facts_of, follow, versions_of
from wary_hound.measuring.forecasts import Forecasts
from wary_hound.robustness.components import components_of
from wary_hound.robustness.dependence import dependencies
from wary_hound.robustness.fitting import Trial, learn
from wary_hound.robustness.model import ChangeModel, Rate, Size, tier_of
from wary_hound.robustness.survival import Futures, closed_form, failures, outlook
from wary_hound.robustness.updating import Observation, differences, updated

SHIPPED = ChangeModel.shipped()


def world(hazards: dict[str, float], together: float, seed: int) -> list[Trial]:
    """Trials in a world of known hazards: 6 applications, 5 releases, 8 elements in 2 components, one fact each."""
    rng = random.Random(seed)
    found = []
    for app in range(6):
        sizes = [rng.choice([0.2, 0.5, 3.0]) for _ in range(5)]
        for step, size in enumerate(sizes):
            shocks = [rng.choice([0.0, 0.0, 0.0, 4.0]) if together else 1.0 for _ in range(2)]
            for element in range(8):
                for group, hazard in hazards.items():
                    for copy in range(3):
                        lost = rng.random() > np.exp(-hazard * size * shocks[element % 2])
                        case = (f"app{app}/p", f"{element}-{group}-{copy}", step, step + 1)
                        event = "lost" if lost else "alive"
                        found.append(Trial(f"app{app}", case, (step, step + 1), (group,), "id", element % 2, event))
    return found


def test_hazards_of_a_made_up_world_are_found_again() -> None:
    true = {"id/named": 0.05, "class/named": 0.4, "role": 0.12}
    model = learn(world(true, 0, 1), "t", "t", jackknife=False)
    found = {group: model.rate(model.lost, group).hazard for group in true}
    assert found["id/named"] < found["role"] < found["class/named"]
    ratio = found["class/named"] / found["id/named"]
    assert 3 < ratio < 14  # 8 in truth
    assert model.lost["test-attribute"].hazard < model.lost["class/hashed"].hazard


def test_what_only_counted_ones_were_met_of_is_not_stolen_like_these() -> None:
    trials = [
        Trial(
            f"app{app}",
            (f"app{app}/p", f"{key}-{copy}", 0, 1),
            (0, 1),
            ("id/named",),
            key,
            0,
            "stolen" if counted and copy % 3 else "alive",
        )
        for app in range(4)
        for key, counted in (("id", False), ("title", False), ("attribute/counted", True))
        for copy in range(12)
    ]
    stolen = learn(trials, "t", "t", jackknife=False).stolen
    assert stolen["attribute"].hazard < 2 * max(stolen["id"].hazard, stolen["title"].hazard)
    assert stolen["attribute/counted"].hazard > 5 * stolen["attribute"].hazard


def test_shocks_that_components_share_are_seen_where_there_are_any() -> None:
    true = {"class/named": 0.3, "role": 0.3}
    apart, shared = (learn(world(true, t, 2), "t", "t", jackknife=False).together for t in (0.0, 1.0))
    assert shared > 3 * apart + 0.2


def test_a_component_fails_together_and_the_closed_form_still_holds() -> None:
    page = read("nights@r1")
    one, two = page.find("css{#visitor-name}"), page.find("css{#visitor-email}")
    far = page.find("css{#sky-dial}")
    model = ChangeModel(
        (Size("all", 1.0, 1.0),), {"id": Rate(0.3, 0.1)}, {"id": Rate(1e-9, 1)}, {"id": Rate(1e-9, 1)}, together=4.0
    )
    futures = Futures(model, count=20_000, components=components_of(page))
    fates = []
    for element in (one, two, far):
        facts = dependencies(page, parse(f"css{{#{element.attributes['id']}}}"), element.index)
        fates.append(failures(futures, facts, element.index)[:, 0])
        assert outlook(futures, facts, element.index).alive[2] == pytest.approx(
            closed_form(model, facts, element.index, 3), abs=0.015
        )
    near = np.corrcoef(fates[0], fates[1])[0, 1]
    assert near > np.corrcoef(fates[0], fates[2])[0, 1] + 0.05
    assert components_of(page)[one.index] == components_of(page)[two.index] != components_of(page)[far.index]


def test_a_key_that_is_seldom_seen_is_stolen_as_often_as_those_that_tell_in_the_same_way() -> None:
    dice = random.Random(8)
    often = {"name": 0.01, "label": 0.01, "aria-label": 0.01, "ordinal": 0.5, "place": 0.4, "after/role": 0.5}
    seen = [Trial(f"a{n % 4}", ("p", f"{key}{n}", 0, 1), (0, 1), ("tag",), key, 0, "stolen" if dice.random() < share else "alive")
            for key, share in often.items() for n in range(3000)]  # fmt: skip
    few = [
        Trial("a1", ("p", f"{key}{n}", 0, 1), (0, 1), ("tag",), key, 0, "alive") for key in ("id", "before/role") for n in range(3)
    ]
    stolen = learn([*seen, *few], "t", "made up", jackknife=False).stolen
    assert stolen["id"].hazard < stolen["before/role"].hazard / 4
    assert stolen["ordinal"].hazard > 5 * stolen["label"].hazard
    assert [tier_of(key) for key in ("id~", "class", "place", "row-of/tag", "guarded/id", "id/counted")] == [
        "telling", "kind", "position", "relation", "guarded", "counted",
    ]  # fmt: skip


def test_the_shipped_rate_stays_where_little_is_seen_and_moves_with_much() -> None:
    few = [Observation("r1", "id/named", n % 2 == 0) for n in range(4)]
    many = [Observation(f"r{r}", "id/named", n % 2 == 0) for r in range(8) for n in range(100)]
    steady = [Observation(f"r{r}", "role", True) for r in range(8) for _ in range(100)]
    little, much = updated(SHIPPED, few, "few"), updated(SHIPPED, many + steady, "many")
    before = SHIPPED.rate(SHIPPED.lost, "id/named")
    assert abs(np.log(little.lost["id/named"].hazard / before.hazard)) < 0.3
    assert much.lost["id/named"].hazard > 2 * before.hazard
    assert much.lost["id/named"].spread < little.lost["id/named"].spread < before.spread * 1.01
    assert much.lost["class/named"] == SHIPPED.lost["class/named"]
    shown = {d.group: d for d in differences(much, SHIPPED)}
    assert set(shown) == {"id/named", "role"}
    assert shown["id/named"].sure
    assert shown["id/named"].own < shown["id/named"].shipped
    low, high = shown["id/named"].interval
    assert low < shown["id/named"].own < high
    assert not differences(SHIPPED, SHIPPED)


def test_facts_of_an_element_are_compared_one_by_one() -> None:
    old, new = read("nights@r1"), read("nights@r2")
    before = old.find("label{Visitor name}")
    after = new.find("label{Visitor name}")
    seen = {(o.group, o.lasted) for o in compared("r", old, before.index, new, after.index)}
    assert ("label/words", True) in seen
    assert ("tag", True) in seen
    assert {o.lasted for o in compared("r", old, before.index, old, before.index)} == {True}
    assert len(facts_of(old, before.index)) == len(list(compared("r", old, before.index, new, after.index)))


def test_labels_and_relocation_tell_nearly_the_same(demo: Path) -> None:
    labelled = follow(Path("pages"))
    assert labelled.labelled
    assert labelled.pairs == 15
    Path("pages/truth.json").unlink()
    for file in Path("pages").glob("[hs]*@*"):
        file.unlink()
    followed = follow(Path("pages"))
    assert not followed.labelled
    assert followed.pairs == 5
    assert followed.elements > 100
    own = [updated(SHIPPED, f.observations, "x") for f in (labelled, followed)]
    for group in ("role", "id/named", "text/words"):
        lasting = [float(model.lasting(model.rate(model.lost, group).hazard, 1)) for model in own]
        assert lasting[0] == pytest.approx(lasting[1], abs=0.12)


def test_history_learns_shows_and_is_used(demo: Path) -> None:
    learnt = run("history", "learn", "pages", "-o", "ours.json", "--plot", "ours.png")
    assert learnt.exit_code == 0
    assert "followed by labels" in learnt.output
    assert "lasts less" in learnt.output
    assert "Relocation with the old page: " in learnt.output
    assert Path("ours.png").stat().st_size > 5_000
    data = json.loads(run("history", "show", "ours.json", "--json").output)
    classes = next(d for d in data["differences"] if d["group"] == "class/named")
    assert classes["sure"]
    assert classes["lasts"] < classes["shipped"]
    assert data["judging"] != [[0, 1], [0, 1]]
    mending = ["repair", "pages/nights@r2.html", "pages/nights@r3.html", "--book", "books/nights.yaml", "--json"]
    sure, sure_before = (
        [entry.get("confidence") for entry in json.loads(run(*mending, *more).output)["repairs"]]
        for more in (["--rates", "ours.json"], [])
    )
    assert sure != sure_before
    args = ["rank", "pages/nights@r1.html", "css{.notice-close}", "--json"]
    own, shipped = (json.loads(run(*args, *more).output)["given"]["survival"] for more in (["--rates", "ours.json"], []))
    assert own < shipped
    assert max(map(len, run("history", "show", "ours.json").output.splitlines())) <= 100


@pytest.mark.parametrize(
    ("arguments", "said"),
    [
        (["history", "learn", "books", "-o", "x.json"], "NAME@VERSION.html"),
        (["history", "learn", "nowhere", "-o", "x.json"], "no such folder"),
        (["history", "show", "pages/truth.json"], "no change model"),
        (["rank", "pages/nights@r1.html", "css{h1}", "--rates", "none.json"], "none.json"),
        (["rank", "pages/nights@r1.html", "css{h1}", "--only", "label"], "house rules leave no candidate"),
        (["bench", "pages", "--leave-out"], "takes three or more"),
    ],
)
def test_bad_input_to_learning_is_one_clear_line(demo: Path, arguments: list[str], said: str) -> None:
    result = run(*arguments)
    assert result.exit_code == 2
    assert said in result.stderr
    assert len(result.stderr.strip().splitlines()) == 1


def test_versions_come_in_the_order_of_their_numbers(tmp_path: Path) -> None:
    for version in ("2.0.0", "10.1", "1.9", "2.0.0-rc1"):
        (tmp_path / f"nights@{version}.html").write_text("<p>x")
    found = versions_of(tmp_path)
    assert [f.name for f in found[str(tmp_path / "nights")]] == [
        "nights@1.9.html", "nights@2.0.0.html", "nights@2.0.0-rc1.html", "nights@10.1.html",
    ]  # fmt: skip


def test_forecasts_are_scored_as_the_books_have_it() -> None:
    found = Forecasts()
    found.judge([1, 2], [[0.9, 0.7], [0.8, 0.75]], [[True, False], [True, True]])
    found.judge([1], [[0.5]], [[False]])
    found.judge([], [[]], [[]])
    assert found.count == 3
    assert found.brier == pytest.approx((0.01 + 0.49 + 0.25) / 3)
    assert found.regret == pytest.approx(1 / 3)
    assert found.some == 2
    assert found.concordance == 1.0
    assert {k: b.count for k, b in found.by_releases().items()} == {1: 2, 2: 1}
    assert found.calibration_error == pytest.approx((0.1 + 0.7 + 0.5) / 3)
    assert Forecasts().brier is None
