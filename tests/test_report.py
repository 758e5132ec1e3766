"""What people look at: report, plots, terminal tables."""

from __future__ import annotations

import itertools
import json
import re
from pathlib import Path

import pytest

from conftest import PAGES, read
from wary_hound import Book, Browser, FileError, Page, assess, rank
from wary_hound.journey.book import Entry
from wary_hound.journey.repairing import repair_book
from wary_hound.report.plots import set_apart, survival_plot, svg, write_plot
from wary_hound.report.story import Story, cell_of, single_story, to_html, write_story
from wary_hound.report.terminal import MARKS, bar, console, percent, shorten, table

ENTRIES = {
    "send": Entry(locator="shadow css{night-booking} -> css{[type=submit]}", about="sends <it> & all"),
    "hold": Entry(locator='css{button[value="vega"]}'),
    "letter": Entry(locator='shadow css{night-booking} -> css{input[value="letter"]}'),
    "unheard": Entry(locator="css{#nowhere}"),
}


@pytest.fixture(scope="module")
def story() -> Story:
    old, new = read("nights@r5"), read("nights@r6")
    book = Book(book="Nights & more", elements=ENTRIES)
    made = single_story(book, repair_book(book, old, new), old, new)
    made.plot("send", old.find(ENTRIES["send"].locator), ENTRIES["send"].locator)
    return made


def test_a_story_counts_what_it_tells(story: Story) -> None:
    assert [row.cells[1].state for row in story.rows] == ["works", "broken", "gone", "unknown"]
    assert story.counts == {
        "elements": 4,
        "checks": 4,
        "drifted": 0,
        "broken": 1,
        "repaired": 1,
        "gone": 1,
        "unsure": 0,
        "untouched": 1,
    }
    assert [card.name for card in story.cards] == ["hold", "letter"]
    hold, letter = story.cards
    assert hold.after
    assert hold.trouble == "matches 2 elements"
    assert [kind for kind, *_ in (hold.new.boxes if hold.new else ())] == ["here", "wrong"]
    assert (letter.after, letter.outcome) == ("", "gone")
    assert letter.old is not None


def test_boxes_lie_within_their_pictures(story: Story) -> None:
    for card in story.cards:
        for crop in (card.old, card.new):
            if crop is None:
                continue
            _, left, top, width, height = crop.boxes[0]
            assert -8 <= left <= crop.width
            assert -8 <= top <= crop.height
            assert 10 < width < crop.width
            assert 10 < height < crop.height


def test_the_page_is_whole_and_escapes_what_it_shows(story: Story) -> None:
    text = to_html(story)
    assert "sends &lt;it&gt; &amp; all" in text
    assert "<it>" not in text
    assert "Nights &amp; more" in text
    assert len(re.findall(r"data:image/png;base64", text)) == 2
    assert not re.search(r"<(?:script|link|img|iframe)\b", text)
    page = Page.parse(text)
    ids = [e.attributes["id"] for e in page if "id" in e.attributes and e.tree.number == 0]
    assert "fates" in ids
    assert page.find('role{heading "Nights & more"}').tag == "h1"
    assert len(page.find_all("role{article}")) == 2
    assert len(page.find_all("css{th[scope=row]}")) >= 4


@pytest.mark.parametrize("width", [1280, 640])
def test_the_report_fits_its_window_and_can_be_used_by_keyboard(story: Story, tmp_path: Path, width: int) -> None:
    write_story(story, tmp_path / "report.html")
    with Browser.start("chromium", viewport=(width, 800)) as browser:
        live = browser.open((tmp_path / "report.html").as_uri())
        seen = json.loads(
            live.script("""() => JSON.stringify({
              over: document.documentElement.scrollWidth - innerWidth,
              fetched: performance.getEntriesByType("resource").filter((e) => !e.name.startsWith("data:")).length,
              small: [...document.querySelectorAll("td, dd, p, small")]
                .filter((e) => parseFloat(getComputedStyle(e).fontSize) < 11).length,
              unnamed: [...document.querySelectorAll("[role=img]")].filter((e) => !e.getAttribute("aria-label")).length,
              focusable: document.querySelectorAll("a[href], [tabindex='0']").length,
              headings: [...document.querySelectorAll("h1, h2, h3")].map((e) => Number(e.tagName[1])),
            })""")
        )
    assert seen["over"] <= 0
    assert (seen["fetched"], seen["small"], seen["unnamed"]) == (0, 0, 0)
    assert seen["focusable"] >= 2
    steps = [b - a for a, b in zip(seen["headings"], seen["headings"][1:], strict=False)]
    assert max(steps) <= 1, "no level of headings is left out"


def contrast(one: str, other: str) -> float:
    """WCAG 2.2 contrast of two colours written #rrggbb."""

    def light(colour: str) -> float:
        parts = [int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5)]
        linear = [p / 12.92 if p <= 0.03928 else ((p + 0.055) / 1.055) ** 2.4 for p in parts]
        return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]

    low, high = sorted((light(one), light(other)))
    return (high + 0.05) / (low + 0.05)


def test_colours_can_be_read_in_light_and_dark(story: Story) -> None:
    text = to_html(story)
    light, dark = re.findall(r":root \{(.*?)\}", text, re.S)[:2]
    for scheme in (light, dark):
        colours = dict(re.findall(r"--([\w-]+): (#[0-9a-f]{6})", scheme))
        for name in ("ok", "fix", "bad", "drift", "ask"):
            assert contrast(colours[name], colours[f"{name}-bg"]) >= 4.5, name
        assert contrast(colours["ink"], colours["paper"]) >= 7
        assert contrast(colours["quiet"], colours["card"]) >= 4.5


def test_pages_without_pictures_or_boxes_are_told_in_words() -> None:
    old, new = Page.parse("<p id=a>Vega</p><i>x</i>"), Page.parse("<div><p id=b>Vega</p><i>x</i></div>")
    book = Book(book="x", elements={"v": Entry(locator="css{#a}")})
    made = single_story(book, repair_book(book, old, new), old, new)
    assert made.cards[0].old is None
    assert "not shown on the picture" in to_html(made)
    assert not made.pictures


def test_nothing_to_repair_is_said() -> None:
    page = read("nights@r1")
    book = Book(book="x", elements={"v": Entry(locator="css{#visitor-name}")})
    made = single_story(book, repair_book(book, page, page), page, page)
    assert "Nothing needed repair." in to_html(made)
    assert cell_of(repair_book(book, page, page)[0]).word == "works"


def test_plots_are_labelled_with_units_and_directly(tmp_path: Path) -> None:
    element = read("nights@r1").find("css{#visitor-name}")
    candidates = rank(element)[:4]
    figure = survival_plot(candidates, assess("css{form #visitor-name}", element))
    axes = figure.axes[0]
    assert "releases" in axes.get_xlabel()
    assert "%" in axes.get_ylabel()
    said = [t.get_text() for t in axes.texts]
    assert len(said) == 5
    assert all(any(str(c.locator)[:20] in t for t in said) for c in candidates)
    assert sum("(given)" in t for t in said) == 1
    assert axes.get_legend() is None
    assert svg(figure).startswith("<svg")
    for ending in ("png", "svg"):
        write_plot(figure, tmp_path / f"plot.{ending}")
        assert (tmp_path / f"plot.{ending}").stat().st_size > 5000
    with pytest.raises(FileError, match=r"\.png or \.svg"):
        write_plot(figure, tmp_path / "plot.gif")


@pytest.mark.parametrize("values", [[50.0, 49.0, 48.0], [1.0, 1.0, 1.0, 1.0], [90.0, 10.0], [5.0], []])
def test_labels_do_not_cover_one_another(values: list[float]) -> None:
    found = sorted(set_apart(values, 6.5))
    assert all(b - a >= 6.5 - 1e-9 for a, b in itertools.pairwise(found))
    assert len(found) == len(values)
    assert all(v >= 0 for v in found)


def test_terminal_pieces() -> None:
    assert [percent(v, d) for v, d in ((0.123, 0), (0.1234, 1), (None, 0), (1.0, 0))] == ["12 %", "12.3 %", "–", "100 %"]
    assert [bar(v, 4) for v in (0, 0.5, 1)] == ["····", "██··", "████"]
    assert len(bar(0.33)) == 10
    assert shorten("Marram Ridge", 7) == "Marram…"
    assert shorten("Marram", 7) == "Marram"
    signs = [word.split()[0] for word, _ in MARKS.values()]
    assert all(not sign.isalnum() for sign in signs), "a sign beside the colour"
    assert console().width == 100


def test_tables_fit_whatever_they_hold(capsys: pytest.CaptureFixture[str]) -> None:
    rows = [("x" * 300, "short", "y" * 90), ("a", "b", "c")]
    console().print(table([("one", "cut"), "two", ("three", "fold")], rows))
    lines = capsys.readouterr().out.splitlines()
    assert max(map(len, lines)) <= 100
    assert any("…" in line for line in lines)


def test_pictures_of_the_demo_match_their_pages() -> None:
    from PIL import Image

    for path in sorted(PAGES.glob("*.png")):
        page = Page.read(path.with_suffix(".html"))
        with Image.open(path) as image:
            assert image.size[0] == 1280
            boxes = [e.box for e in page if e.visible]
            assert max(left + width for left, _, width, _ in boxes) <= 1280 + 1
            assert max(top + height for _, top, _, height in boxes) <= image.size[1] + 1
