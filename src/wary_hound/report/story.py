"""The report: one self-contained HTML page on what became of a book's elements, release by release."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from dataclasses import dataclass, field
from pathlib import Path

from markupsafe import Markup

from wary_hound.authoring.question import Question
from wary_hound.authoring.ranking import Candidate, assess, rank
from wary_hound.errors import FactsError
from wary_hound.files import write_aside
from wary_hound.journey.book import Book
from wary_hound.journey.repairing import NamedRepair
from wary_hound.page import Element, Page
from wary_hound.report.marked import as_address
from wary_hound.report.pages import render

CROP = (744, 360)
"""What a picture shows around an element, in CSS pixels; narrower where the page ends."""
SCALE = 0.72
SAYS = {
    "works": ("✓", "works"),
    "drifted": ("≠", "drifted"),
    "broken": ("✗", "broken"),
    "gone": ("∅", "gone"),
    "unsure": ("?", "unsure"),
    "unknown": ("?", "unknown"),
    "start": ("●", "written"),
}


@dataclass(frozen=True, slots=True)
class Cell:
    """The fate of one element at one release; `fixed` where a new locator was put in."""

    state: str
    note: str = ""
    fixed: bool = False

    @property
    def sign(self) -> str:
        """A sign for the state."""
        return SAYS[self.state][0]

    @property
    def word(self) -> str:
        """A word for the state."""
        return SAYS[self.state][1]


@dataclass(frozen=True, slots=True)
class Row:
    """One element through the releases."""

    name: str
    about: str
    locator: str
    cells: tuple[Cell, ...]


@dataclass(frozen=True, slots=True)
class Crop:
    """A part of a page's picture, with boxes outlined in it; all in displayed pixels."""

    picture: str
    left: float
    top: float
    width: float
    height: float
    boxes: tuple[tuple[str, float, float, float, float], ...]
    says: str


@dataclass(frozen=True, slots=True)
class Card:
    """One repair, or one thing that could not be repaired."""

    name: str
    step: str
    state: str
    trouble: str
    before: str
    after: str
    outcome: str
    confidence: float
    reasons: tuple[str, ...]
    lasts: float | None
    why: tuple[str, ...]
    old: Crop | None
    new: Crop | None
    others: tuple[str, ...]

    @property
    def sign(self) -> str:
        """A sign for what became of it."""
        return SAYS["gone" if self.outcome == "gone" else self.state][0]


@dataclass
class Story:
    """What a report tells. `pictures`: data addresses by key, with width and height in CSS pixels."""

    title: str
    releases: list[str]
    rows: list[Row] = field(default_factory=list)
    cards: list[Card] = field(default_factory=list)
    pictures: dict[str, tuple[str, int, int]] = field(default_factory=dict)
    plot_name: str = ""
    plot_light: str = ""
    plot_dark: str = ""
    candidates: list[Candidate] = field(default_factory=list)

    @property
    def counts(self) -> dict[str, int]:
        """What the story comes to, in numbers."""
        cells = [cell for row in self.rows for cell in row.cells[1:]]
        return {
            "elements": len(self.rows),
            "checks": len(cells),
            "drifted": sum(c.state == "drifted" for c in cells),
            "broken": sum(c.state == "broken" for c in cells),
            "repaired": sum(c.fixed for c in cells),
            "gone": sum(any(c.state == "gone" for c in row.cells) for row in self.rows),
            "unsure": sum(any(c.state == "unsure" for c in row.cells) for row in self.rows),
            "untouched": sum(all(c.state == "works" for c in row.cells[1:]) for row in self.rows),
        }

    def picture_of(self, page: Page) -> str | None:
        """The key of a page's picture, taken in when first asked for."""
        path = page.picture
        if path is None:
            return None
        key = "p" + hashlib.sha256(str(path.absolute()).encode("utf-8", "surrogateescape")).hexdigest()[:12]
        if key not in self.pictures:
            shot = as_address(page)
            assert shot is not None
            self.pictures[key] = (shot[0], round(shot[1]), round(shot[2]))
        return key

    def add(self, named: NamedRepair, old: Page, new: Page, step: str) -> None:
        """Take in one repair as a card, if there is anything to tell."""
        repair = named.repair
        if repair is None or (named.state == "works" and repair.verdict.outcome != "unsure"):
            return
        main, verdict = repair.main, repair.verdict
        wrong = [e for e in repair.found if e != verdict.element][:1] if named.state != "works" else []
        marks = [("here", verdict.element)] if verdict.element is not None else []
        marks += [("wrong", e) for e in wrong]
        self.cards.append(
            Card(
                name=named.name,
                step=step,
                state=named.state,
                trouble=repair.trouble,
                before=str(named.locator),
                after=str(main.locator) if main else "",
                outcome=verdict.outcome,
                confidence=verdict.confidence,
                reasons=verdict.reasons,
                lasts=main.survival if main else None,
                why=main.reasons if main else (),
                old=self.crop(old, [("here", named.old)] if named.old is not None else []),
                new=self.crop(new, marks),
                others=tuple(str(c.locator) for c in repair.candidates[1:4]) if main else (),
            )
        )

    def crop(self, page: Page, marks: Sequence[tuple[str, Element]]) -> Crop | None:
        """The part of a page's picture around the first mark; None where there is no picture, or nothing to see."""
        shown = [(kind, box) for kind, element in marks if (box := _box(element)) is not None]
        key = self.picture_of(page)
        if not shown or key is None:
            return None
        _, page_width, page_height = self.pictures[key]
        width, height = min(CROP[0], page_width), min(CROP[1], page_height)
        x, y, w, h = shown[0][1]
        left = min(max(0.0, x + w / 2 - width / 2), page_width - width)
        top = min(max(0.0, y + h / 2 - height / 2), page_height - height)
        boxes = []
        for kind, (bx, by, bw, bh) in shown:
            if bx + bw > left and bx < left + width and by + bh > top and by < top + height:
                boxes.append((kind, (bx - left) * SCALE - 4, (by - top) * SCALE - 4, bw * SCALE + 8, bh * SCALE + 8))
        first = marks[0][1]
        says = f"<{first.tag}> {first.text[:60] or first.name[:60]}".strip()
        return Crop(key, left * SCALE, top * SCALE, width * SCALE, height * SCALE, tuple(boxes), says)

    def plot(self, name: str, element: Element, locator: str) -> None:
        """Add the survival plot of the candidates for one element."""
        from wary_hound.report.plots import survival_plot, svg

        asked = Question(releases=3, ways=1)
        best, given = rank(element, asked), assess(locator, element, asked)
        chosen = _varied(best, 4)
        self.plot_name = name
        self.candidates = [*chosen, given]
        self.plot_light, self.plot_dark = (svg(survival_plot(chosen, given, dark)) for dark in (False, True))


def _varied(ranked: Sequence[Candidate], most: int) -> list[Candidate]:
    """The best of each kind, so that a plot shows what the ways differ by."""
    kinds: dict[str, Candidate] = {}
    for candidate in ranked:
        kinds.setdefault(candidate.kind, candidate)
    return list(kinds.values())[:most]


def _box(element: Element) -> tuple[float, float, float, float] | None:
    if not element.visible:
        return None
    try:
        return element.box
    except FactsError:
        return None


def cell_of(named: NamedRepair) -> Cell:
    """The fate of an element as a cell of the table."""
    if named.repair is None:
        return Cell("unknown", named.trouble)
    verdict, main = named.repair.verdict, named.repair.main
    if verdict.outcome == "gone":
        return Cell("gone", named.repair.trouble)
    if verdict.outcome == "unsure":
        return Cell("unsure", f"the best guess is {verdict.confidence:.0%} sure")
    return Cell(named.state, named.repair.trouble, main is not None)


def single_story(book: Book, repairs: Sequence[NamedRepair], old: Page, new: Page) -> Story:
    """The report on one pair of pages."""
    names = [page.source.stem if page.source else page.url or "page" for page in (old, new)]
    story = Story(book.book, names)
    for named in repairs:
        entry = book.elements[named.name]
        story.rows.append(Row(named.name, entry.about, entry.locator, (Cell("start"), cell_of(named))))
        story.add(named, old, new, f"{names[0]} → {names[1]}")
    return story


def to_html(story: Story) -> str:
    """The story as one page."""
    return render(
        "story",
        story=story,
        counts=story.counts,
        scale=SCALE,
        plot_light=Markup(story.plot_light),
        plot_dark=Markup(story.plot_dark),
    )


def write_story(story: Story, path: Path) -> None:
    """Write the story as one page."""
    write_aside({path: to_html(story).encode()})
