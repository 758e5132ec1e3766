"""What is drawn of survival: the report on one element, the page tinted by risk, the plots of stress, rates and forecasts."""

from __future__ import annotations

import re
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from conftest import read, run
from wary_hound import Browser, FactsError, FileError, Page
from wary_hound.measuring.forecasts import Forecasts
from wary_hound.report.marked import Mark, colour_of, marked_picture, write_picture
from wary_hound.report.plots import rates_plot, reliability_plot, svg
from wary_hound.robustness.updating import Difference

GIVEN = "css{#night-form [type=submit]}"


def test_the_report_on_one_element_is_whole_and_reads_in_a_browser(demo: Path, chromium: Browser) -> None:
    result = run("rank", "pages/nights@r1.html", GIVEN, "--report", "rank.html", "--plot", "rank.png")
    assert result.exit_code == 0
    html = Path("rank.html").read_text()
    assert not re.search(r"(?:src|href)=[\"']?https?:", html)
    assert "<script" not in html
    live = chromium.open(Path("rank.html").resolve().as_uri())
    page = live.capture()
    assert page.find("css{h1}").text == "Which locator will last?"
    rows = page.find_all("css{tbody tr}")
    assert 10 <= len(rows) <= 13  # twelve at most, and the one given
    assert sum("the one given" in row.text for row in rows) == 1
    assert sum("proven" in row.text for row in rows) == 1
    shares = [int(found) for found in re.findall(r"(\d+) % \(", " ".join(row.text for row in rows))]
    assert len(shares) == len(rows)
    assert shares[0] >= shares[-1]
    assert page.find("css{.crop}").name == "<button> Send booking"
    assert len(page.find_all("css{svg}")) == 2
    assert live.script("() => String(document.documentElement.scrollWidth <= innerWidth)") == "true"


def test_the_report_does_without_a_picture(tmp_path: Path) -> None:
    (tmp_path / "plain.html").write_text("<main><h1>Nights</h1><button>Hold &lt;Vega&gt;</button></main>")
    out = tmp_path / "rank.html"
    assert run("rank", str(tmp_path / "plain.html"), "css{button}", "--report", str(out)).exit_code == 0
    html = out.read_text()
    assert "Hold &lt;Vega&gt;" in html
    assert 'class="crop' not in html


def test_marks_stand_on_their_elements_and_beside_each_other() -> None:
    page = read("nights@r1")
    names = ["visitor-name", "visitor-email"]
    marks = [Mark(page.find(f"css{{#{n}}}").index, n, s) for n, s in zip(names, (0.9, 0.3), strict=True)]
    marks += [Mark(marks[0].element, "again")]
    drawn = np.asarray(marked_picture(page, marks, "a caption"))
    plain = np.asarray(marked_picture(page, []))
    assert drawn.shape[0] == plain.shape[0] + 34
    changed = (drawn[: plain.shape[0]] != plain).any(axis=2)
    left, top, width, height = (int(v) for v in page[marks[0].element].box)
    assert changed[top + height // 2, left + width // 2]
    assert not changed[:50].any()  # nothing on the page's head
    tag = changed[: top - 2].any(axis=1)
    assert tag.sum() >= 18  # a tag above the field, at least
    assert colour_of(0.9) != colour_of(0.7) != colour_of(0.3) != colour_of(None)


def test_what_cannot_be_marked_is_said(tmp_path: Path) -> None:
    with pytest.raises(FactsError, match="no picture"):
        marked_picture(Page.parse("<p>x"), [])
    with pytest.raises(FileError, match=r"as \.png"):
        write_picture(read("nights@r1"), [], tmp_path / "x.jpg")
    hidden = read("nights@r4")
    index = next(e.index for e in hidden if not e.visible)
    write_picture(hidden, [Mark(index, "nowhere")], tmp_path / "x.png")
    with Image.open(tmp_path / "x.png") as picture:
        assert picture.height > 800


def test_plots_of_rates_and_forecasts_say_what_they_hold() -> None:
    rates = [Difference("id/named", 0.95, 0.8, (0.7, 0.88), 40), Difference("role", 0.95, 0.96, (0.9, 0.99), 90)]
    drawn = rates_plot(rates)
    axes = drawn.axes[0]
    assert [label.get_text() for label in axes.get_yticklabels()] == ["id/named", "role  (like shipped)"]
    assert "%" in axes.get_xlabel()
    found = Forecasts()
    for predicted, alive in ((0.9, True), (0.85, True), (0.4, False), (0.45, True)):
        found.judge([1, 2], [[predicted, predicted**2]], [[alive, False]])
    left, right = reliability_plot(found).axes
    assert all("%" in axes.get_ylabel() for axes in (left, right))
    heights = sorted(float(y) for _, y in left.collections[0].get_offsets())
    assert heights[0] == 0
    assert heights[-1] == 100
    assert [text.get_text() for text in right.texts] == ["predicted", "observed"]
    assert svg(reliability_plot(found)).startswith("<svg")
