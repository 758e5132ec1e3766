"""The review page: each repair with both pictures, the evidence and what could be written instead; decided on with two keys, and
the decisions exported as a file that `repair --decisions` takes. One HTML page, no server."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from wary_hound.files import write_aside
from wary_hound.journey.book import Book
from wary_hound.journey.repairing import NamedRepair
from wary_hound.page import Page
from wary_hound.report.pages import render
from wary_hound.report.story import SCALE, Crop, Story

MOST_CHOICES = 5


@dataclass(frozen=True, slots=True)
class Choice:
    """A locator that could be written."""

    locator: str
    survival: float
    why: str


@dataclass(frozen=True, slots=True)
class Item:
    """One element to decide on. `kind`: repair (proposed with confidence), guess (a person must say) or gone."""

    name: str
    about: str
    kind: str
    state: str
    trouble: str
    before: str
    outcome: str
    confidence: float
    reasons: tuple[str, ...]
    failing: str
    around: str
    choices: tuple[Choice, ...]
    others: tuple[tuple[str, float], ...]
    old: Crop | None
    new: Crop | None


KINDS = {"repair": "proposed", "guess": "open questions", "gone": "gone"}


def write_review(
    book: Book, repairs: Sequence[NamedRepair], old: Page, new: Page, diff: str, path: Path, names: tuple[str, str]
) -> None:
    """Write the review page. `diff`: the change of files that accepting all proposals makes."""
    write_aside({path: review_html(book, repairs, old, new, diff, names).encode()})


def review_html(book: Book, repairs: Sequence[NamedRepair], old: Page, new: Page, diff: str, names: tuple[str, str]) -> str:
    """The review page as text."""
    story = Story(book.book, list(names))
    items = [item for named in repairs if (item := _item(story, book, named, old, new)) is not None]
    order = list(KINDS)
    items.sort(key=lambda item: (order.index(item.kind), -item.confidence))
    counts = {kind: sum(item.kind == kind for item in items) for kind in KINDS}
    works = sum(named.state == "works" for named in repairs)
    return render(
        "review", story=story, items=items, names=names, counts=counts, kinds=KINDS, works=works, total=len(repairs), diff=diff,
        scale=SCALE,
    )  # fmt: skip


def _item(story: Story, book: Book, named: NamedRepair, old: Page, new: Page) -> Item | None:
    repair = named.repair
    if repair is None or (named.state == "works" and repair.verdict.outcome not in ("gone", "unsure")):
        return None
    verdict = repair.verdict
    kind = "gone" if verdict.outcome == "gone" else "repair" if repair.main is not None else "guess"
    if kind == "guess" and repair.guess is None:
        return None
    wrong = [e for e in repair.found if e != verdict.element][:1]
    marks = [("here", verdict.element)] if verdict.element is not None else []
    marks += [("wrong", e) for e in wrong]
    return Item(
        name=named.name,
        about=book.elements[named.name].about,
        kind=kind,
        state=named.state,
        trouble=repair.trouble,
        before=str(named.locator),
        outcome=verdict.outcome,
        confidence=verdict.confidence,
        reasons=verdict.reasons,
        failing=repair.failing,
        around=repair.around,
        choices=tuple(Choice(str(c.locator), c.survival, "; ".join(c.reasons)) for c in repair.candidates[:MOST_CHOICES]),
        others=tuple((f"<{e.tag}> {(e.text or e.name)[:50]}".strip(), chance) for e, chance in verdict.alternatives),
        old=story.crop(old, [("here", named.old)] if named.old is not None else []),
        new=story.crop(new, marks),
    )
