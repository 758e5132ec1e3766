"""The demo's story: the books of r1 are followed through all releases, repaired at each, and told in a report."""

from __future__ import annotations

import itertools
import shutil
from collections.abc import Callable
from dataclasses import dataclass
from importlib import resources
from pathlib import Path

from wary_hound.files import read_text, write_aside
from wary_hound.journey import yaml_text
from wary_hound.journey.book import Book, book_of, parse_book
from wary_hound.journey.repairing import NamedRepair, changed_texts, pages_last_seen, repair_book
from wary_hound.page import Page
from wary_hound.report.story import Cell, Row, Story, cell_of, write_story

RELEASES = ("r1", "r2", "r3", "r4", "r5", "r6")
BOOKS = ("nights", "sky")
JOURNEY = "hold-a-night.yaml"
SHOWN = "send-booking"
"""The element whose candidates are plotted."""


def demo_folder() -> Path:
    """Where the demo's pages, books and site lie."""
    return Path(str(resources.files("wary_hound.demo")))


@dataclass(frozen=True)
class Told:
    """What the demo wrote."""

    folder: Path
    report: Path
    patch: Path
    story: Story


def unpack(folder: Path) -> None:
    """Write the demo's pages, books and release notes into a folder, to try the commands on."""
    for name in ("pages", "books"):
        shutil.copytree(demo_folder() / name, folder / name, dirs_exist_ok=True)
    shutil.copy2(demo_folder() / "RELEASES.md", folder / "RELEASES.md")


def tell(folder: Path, progress: Callable[[str], None] = lambda _: None) -> Told:
    """Write the demo's files into a folder, follow the books through the releases, and write patch and report."""
    unpack(folder)
    story = Story("Marram Ridge Observatory, telescope nights", list(RELEASES))
    journey = folder / "books" / JOURNEY
    before = {journey: read_text(journey)}
    after = dict(before)
    for name in BOOKS:
        path = folder / "books" / f"{name}.yaml"
        before[path] = read_text(path)
        after[path], after[journey] = _follow(name, path, after[journey], journey, story, progress)
    first = Page.read(folder / "pages" / "nights@r1.html")
    book = Book.read(folder / "books" / "nights.yaml")
    locator = book.elements[SHOWN].locator
    story.plot(SHOWN, first.find(locator), locator)
    progress("report")
    report, patch = folder / "report.html", folder / "repairs.patch"
    write_story(story, report)
    diff = yaml_text.unified_diff(
        {p.relative_to(folder): t for p, t in before.items()}, {p.relative_to(folder): t for p, t in after.items()}
    )
    repaired = {folder / "repaired" / path.name: text.encode() for path, text in after.items()}
    write_aside({patch: diff.encode(), **repaired})
    return Told(folder, report, patch, story)


def _follow(
    name: str, path: Path, journey_text: str, journey: Path, story: Story, progress: Callable[[str], None]
) -> tuple[str, str]:
    """Follow one book from release to release, with the repairs of each taken over into the next."""
    text, book = parse_book(path)
    original = book
    cells: dict[str, list[Cell]] = {key: [Cell("start")] for key in book.elements}
    pages = path.parent.parent / "pages"
    old = Page.read(pages / f"{name}@{RELEASES[0]}.html")
    for was, now in itertools.pairwise(RELEASES):
        progress(f"{name} {was} → {now}")
        new = Page.read(pages / f"{name}@{now}.html")
        repairs = repair_book(book, old, new, last_seen=pages_last_seen(book, path.parent, old))
        for named in repairs:
            seen_gone = cells[named.name][-1].state == "gone"
            cells[named.name].append(cell_of(named))
            if not (seen_gone and _is_gone(named)):
                story.add(named, old, new, f"{was} → {now}")
        texts = changed_texts(path, text, book, repairs, {journey: journey_text}, f"../pages/{name}@{now}.html")
        text, journey_text = texts[path], texts[journey]
        book = book_of(yaml_text.mapping(text, path, "book"), path)
        old = new
    for key, entry in original.elements.items():
        story.rows.append(Row(key, entry.about, entry.locator, tuple(cells[key])))
    return text, journey_text


def _is_gone(named: NamedRepair) -> bool:
    return named.repair is not None and named.repair.verdict.outcome == "gone"
