"""Forecasts: calibrated by what came, over applications that differ in pace; ways that fail together; what stands behind `else`."""

from __future__ import annotations

import json
import random
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from scipy.special import expit, logit

from conftest import PAGES, read
from wary_hound import Page, Question, Rules, assess, rank
from wary_hound.authoring.batch import usable
from wary_hound.authoring.weakness import NEARNESS
from wary_hound.errors import FileError
from wary_hound.journey.stress import Task, stress
from wary_hound.locator.notation import parse
from wary_hound.measuring.calibrating import FATES, Said, calibrated, fitted
from wary_hound.robustness.dependence import dependencies
from wary_hound.robustness.looks import PASSED_ON
from wary_hound.robustness.model import UNCALIBRATED, ChangeModel
from wary_hound.robustness.survival import Futures, failures, outlook
from wary_hound.robustness.updating import Observation, updated


def test_calibration_finds_how_too_sure_forecasts_were() -> None:
    dice = random.Random(4)

    def rows(application: str, count: int, intercept: float, slope: float) -> list[Said]:
        said = [dice.uniform(0.05, 0.98) for _ in range(count)]
        return [
            Said(application, {"alive": p}, "alive" if dice.random() < expit(intercept + slope * logit(p)) else "lost")
            for p in said
        ]

    alone = [row for name in "abcd" for row in rows(name, 3000, 0.4, 0.7)]
    assert fitted(alone) == pytest.approx((0.4, 0.7), abs=0.08)
    # one application of many pairs does not outvote four of few
    assert fitted([*alone, *rows("e", 48_000, -3.0, 0.7)])[0] > -1.1
    assert fitted([]) == UNCALIBRATED


def test_calibration_keeps_the_order_and_what_is_sure() -> None:
    model = replace(ChangeModel.shipped(), calibration=(0.4, 0.7))
    shares = np.linspace(0, 1, 101)
    told = model.calibrated(shares)
    assert (told[0], told[-1]) == (0, 1)
    assert (np.diff(told) > 0).all()
    assert model.calibrated(np.asarray(0.95)) < 0.95
    assert np.array_equal(replace(model, calibration=UNCALIBRATED).calibrated(shares), shares)


def test_theft_and_look_alikes_are_calibrated_and_the_rest_is_lost() -> None:
    model = replace(ChangeModel.shipped(), failing=((-2.0, 0.8), (0.0, 1.0)))
    alive, stolen, ambiguous = (
        np.asarray([0.9, 0.5, 1.0, 0.99]),
        np.asarray([0.05, 0.0, 0.0, 0.03]),
        np.asarray([0.02, 0.1, 0.0, 0.4]),
    )
    lost, taken, unclear = model.failures_calibrated(alive, stolen, ambiguous)
    assert lost + taken + unclear == pytest.approx(1 - alive)
    assert 0 < taken[0] < 0.02
    assert (taken[1], unclear[1], taken[2]) == (0, pytest.approx(0.1), 0)
    assert lost[3] == pytest.approx(0), "what fails otherwise leaves nothing to be lost"
    assert taken[3] < unclear[3]
    dice = random.Random(5)
    rows = [
        Said(application, {"stolen": p}, "stolen" if dice.random() < p / 4 else "alive")
        for application in "abcdefghijkl"
        for p in [dice.uniform(0.01, 0.3) for _ in range(900)]
    ]
    intercept, slope = fitted(rows, "stolen")
    assert expit(intercept + slope * logit(0.2)) == pytest.approx(0.05, abs=0.015)
    told = calibrated(model, [replace(row, shares=dict.fromkeys(FATES, 0.1)) for row in rows])
    assert told.calibration[0] > model.calibration[0]
    assert told.failing[1] != told.failing[0]


def test_what_is_said_of_one_model_is_not_said_of_another_that_only_its_experience_tells_apart() -> None:
    page = read("nights@r1")
    element, shipped = page.find("label{E-mail}"), ChangeModel.shipped()
    plain = assess("label{E-mail}", element, Question(replace(shipped, calibration=UNCALIBRATED)))
    dark = assess("label{E-mail}", element, Question(replace(shipped, calibration=(-1.0, 1.0))))
    assert dark.survival < plain.survival - 0.05


def test_what_has_lasted_in_an_application_is_likelier_to_last_again() -> None:
    plain = replace(ChangeModel.shipped(), calibration=UNCALIBRATED, pace=0.0)
    paced = replace(plain, pace=0.8)
    hazard = 0.2
    one, ten = (float(paced.lasting(hazard, n)) for n in (1, 10))
    assert ten > one**10 + 0.05
    assert float(plain.lasting(hazard, 10)) == pytest.approx(float(plain.lasting(hazard, 1)) ** 10)
    page = read("nights@r1")
    element = page.find("label{E-mail}")
    facts = dependencies(page, parse("label{E-mail}"), element.index)
    narrow, wide = (outlook(Futures(model), facts, element.index) for model in (plain, paced))
    assert wide.high[2] - wide.low[2] > narrow.high[2] - narrow.low[2] + 0.05
    assert 0 < wide.doubt[2] < wide.alive[2] - wide.low[2]


@pytest.mark.parametrize(
    ("one", "other", "apart"),
    [
        ('role{link "Hold"}', "css{a}", 'css{[title="Seats"]}'),
        ('css{[title="Seats"]}', 'css{[aria-label="Seats"]}', 'css{[data-star="vega"]}'),
    ],
)
def test_ways_that_rest_on_one_making_or_one_wording_fail_together(one: str, other: str, apart: str) -> None:
    page = Page.parse('<a href="/x">Hold</a><input title=Seats aria-label=Seats data-star=vega>')
    futures = Futures(ChangeModel.shipped(), count=20_000)

    def fails(locator: str) -> np.ndarray:
        element = page.find(locator)
        return failures(futures, dependencies(page, parse(locator), element.index), element.index)[:, 4]

    first, second, third = (fails(locator) for locator in (one, other, apart))

    def excess(a: np.ndarray, b: np.ndarray) -> float:
        return float((a & b).mean() - a.mean() * b.mean()) / float(np.sqrt(a.mean() * b.mean()))

    assert excess(first, second) > excess(first, third) + 0.02


@pytest.mark.parametrize("name", ["nights@r1", "nights@r6", "sky@r4"])
def test_nothing_that_passes_on_to_a_neighbour_stands_behind_else(name: str) -> None:
    page = read(name)
    several = 0
    for element in usable(page):
        for candidate in rank(element, Question(ways=3)):
            for way in candidate.locator.alternatives[1:]:
                several += 1
                for fact in dependencies(page, way, element.index):
                    assert fact.kind.rstrip("~") not in NEARNESS | {"place", "ordinal"}, str(candidate)
                    assert fact.look not in PASSED_ON, str(candidate)
    assert several > 5


def test_one_element_under_stress_lasts_as_long_as_its_ranking_says(tmp_path: Path) -> None:
    pages = tmp_path / "nights.html"
    pages.write_text((PAGES / "nights@r1.html").read_text(encoding="utf-8"), encoding="utf-8")
    question = Question(releases=4, ways=1)
    task = Task("email", pages, ("label{E-mail}",), question)
    with ThreadPoolExecutor(1) as executor:
        found = stress("nights", [task], executor)
    own = assess("label{E-mail}", read("nights@r1").find("label{E-mail}"), question)
    assert found.elements[0].survival(4) == pytest.approx(own.survival, abs=0.02)
    assert found.curve == pytest.approx(found.elements[0].curve)


def test_a_team_s_own_releases_narrow_what_its_application_comes_to(tmp_path: Path) -> None:
    shipped = ChangeModel.shipped()
    seen = [Observation(f"r{n % 6}", "id/named", n % 9 != 0) for n in range(120)]
    own = updated(shipped, seen, "ours")
    assert 0 < own.pace < shipped.pace
    assert own.calibration == shipped.calibration
    path = tmp_path / "rates.json"
    path.write_text(json.dumps(own.to_json()), encoding="utf-8")
    again = ChangeModel.read(path)
    assert (again.pace, *again.calibration) == pytest.approx((own.pace, *own.calibration), abs=1e-4)
    assert np.asarray(again.failing) == pytest.approx(np.asarray(own.failing), abs=1e-4)


@pytest.mark.parametrize(
    ("key", "value", "said"),
    [
        ("calibration", [0.0, -1.0], "calibration"),
        ("calibration", [0.4], "calibration"),
        ("failing", [[0.0, 1.0], [0.0, 0.0]], "failing"),
        ("pace", -0.1, "pace"),
        ("pace", "fast", "pace"),
    ],
)
def test_wrong_figures_in_a_file_of_rates_are_named(tmp_path: Path, key: str, value: object, said: str) -> None:
    path = tmp_path / "rates.json"
    path.write_text(json.dumps(ChangeModel.shipped().to_json() | {key: value}), encoding="utf-8")
    with pytest.raises(FileError, match=f"at {said}"):
        ChangeModel.read(path)


# --- taste --------------------------------------------------------------------------------------------------------------


def best(page: Page, locator: str, *only: str) -> list[str]:
    return [str(c.locator) for c in rank(page.find(locator), Question(ways=1, rules=Rules(only=only)))]


def test_nobody_says_anything_at_all_where_the_tag_can_be_said() -> None:
    page = Page.parse("<div class=page-header><h1>Nights</h1></div><div><h1>Moon</h1></div>")
    names = best(page, "css{.page-header h1}", "css")
    assert "css{.page-header h1}" in names
    assert not any("*" in name for name in (*names, *best(page, "css{.page-header h1}", "xpath")) if name.endswith("*}"))


def test_what_a_build_makes_up_is_no_attribute_to_rest_on() -> None:
    page = Page.parse("<p data-v-7f3c21ab _ngcontent-nom-c135 data-i18n=hold.title>x</p><p data-v-7f3c21ab>y</p>")
    names = best(page, "css{[data-i18n]}")
    assert 'css{[data-i18n="hold.title"]}' in names
    assert not any("ngcontent" in name or "data-v" in name for name in names)


def test_a_host_is_not_known_by_a_number_that_it_shows_while_another_way_is_there() -> None:
    inner = "<template shadowrootmode=open><div aria-label=Progress></div><slot></slot></template>"
    page = Page.parse(f"<x-bar id=dome>{inner}55</x-bar><x-bar id=mirror>{inner}70</x-bar>")
    names = best(page, "shadow css{#dome} -> css{[aria-label]}")
    assert names
    assert not any("55" in name for name in names)
    assert all("css{" in name.partition(" -> ")[0] for name in best(page, "shadow css{#dome} -> css{[aria-label]}", "css"))


def test_xpath_asks_for_one_class_and_that_is_a_fact_of_its_own() -> None:
    page = Page.parse('<div class="breadcrumbs big"><a>Vega</a><a>Lyra</a></div><div><a>Vega</a></div>')
    expression = '//*[contains(concat(" ", normalize-space(@class), " "), " breadcrumbs ")]//a[normalize-space()="Vega"]'
    assert f"xpath{{{expression}}}" in best(page, "css{.breadcrumbs a}#1", "xpath")
    facts = dependencies(page, parse(f"xpath{{{expression}}}"), page.find("css{.breadcrumbs a}#1").index)
    assert ("class", "breadcrumbs") in {(fact.kind, fact.value) for fact in facts}
