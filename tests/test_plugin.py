"""The pytest plugin, by pytest itself."""

from __future__ import annotations

import shutil

import pytest

from wary_hound.demo.tour import demo_folder

pytest_plugins = ["pytester"]


@pytest.fixture
def suite(pytester: pytest.Pytester, site: str) -> str:
    shutil.copytree(demo_folder() / "books", pytester.path / "books")
    shutil.copytree(demo_folder() / "pages", pytester.path / "pages")
    pytester.makeini(
        f"[pytest]\nhound-base = {site}/r1\nhound-book = books/nights.yaml\nhound-limit = 3\nhound-journeys = books/hold-*\n"
    )
    pytester.makepyfile(
        """
        def test_by_name(hound):
            page = hound.open("index.html")
            page.type("visitor-name", "Ada Quill")
            page.click("hold-vega")
            assert page.find("booking-status").text == "Held: Vega"

        def test_a_journey(hound):
            assert [run.state for run in hound.run("books/hold-a-night.yaml")] == ["passed"]
        """
    )
    return site


def test_the_fixture_and_journeys_as_tests(pytester: pytest.Pytester, suite: str) -> None:
    result = pytester.runpytest_subprocess("-v", "-p", "no:cacheprovider")
    result.assert_outcomes(passed=3)
    result.stdout.fnmatch_lines(["*hold-a-night.yaml::hold-a-night PASSED*"])


def test_failures_say_the_step_and_leave_evidence(pytester: pytest.Pytester, suite: str) -> None:
    result = pytester.runpytest_subprocess("--hound-base", f"{suite}/r3", "--hound-limit", "6", "--hound-evidence", "ev", "books")
    result.assert_outcomes(failed=1)
    result.stdout.fnmatch_lines(["*step 2, click notice-close*", "*would be the one*", "evidence: *"])
    result.stdout.no_fnmatch_line("*replay.py*")
    assert (pytester.path / "ev" / "hold-a-night-for-vega-chromium-1" / "failed.html").exists()


def test_it_works_with_others_at_once_and_keeps_out_of_the_way(pytester: pytest.Pytester, suite: str) -> None:
    result = pytester.runpytest_subprocess("-n", "2")
    result.assert_outcomes(passed=3)
    pytester.makeini("[pytest]\n")
    pytester.makepyfile(test_plain="def test_plain(): pass")
    result = pytester.runpytest_subprocess("test_plain.py", "books")
    result.assert_outcomes(passed=1)
