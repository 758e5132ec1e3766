"""The report of a comparison: both pictures side by side with outlines, and beside them what changed, part by part."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from wary_hound.errors import FactsError
from wary_hound.files import write_aside
from wary_hound.healing.changes import Alignment, Told
from wary_hound.journey.touched import Touched
from wary_hound.page import Element, Page
from wary_hound.report.marked import as_address
from wary_hound.report.pages import render

WIDE = 560
"""Width of a picture on the report, in pixels."""
MOST_OUTLINED = 400


@dataclass(frozen=True, slots=True)
class Box:
    """An outline on a picture: which change it belongs to, its state, and where it is in displayed pixels."""

    number: int
    state: str
    left: float
    top: float
    width: float
    height: float


@dataclass(frozen=True, slots=True)
class Picture:
    """A page's picture as it is displayed."""

    title: str
    data: str
    width: int
    height: int
    boxes: tuple[Box, ...]


@dataclass(frozen=True, slots=True)
class Line:
    """One change as the report tells it."""

    number: int
    state: str
    element: str
    more: str
    says: str


def write_comparison(
    alignment: Alignment, lines: Sequence[Told], touched: Sequence[Touched], names: tuple[str, str], path: Path
) -> None:
    """Write the report as one page. A page without a picture or boxes is told of without one."""
    write_aside({path: comparison_html(alignment, lines, touched, names).encode()})


def comparison_html(alignment: Alignment, lines: Sequence[Told], touched: Sequence[Touched], names: tuple[str, str]) -> str:
    """The report as one page."""
    sections: dict[str, list[Line]] = {}
    old_boxes: list[tuple[int, str, Element]] = []
    new_boxes: list[tuple[int, str, Element]] = []
    for number, told in enumerate(lines, 1):
        sections.setdefault(told.section or "the page", []).append(_line(number, told))
        for element in told.elements:
            (old_boxes if told.state == "gone" else new_boxes).append((number, told.state, element))
            origin = alignment.origin.get(element)
            if origin is not None:
                old_boxes.append((number, told.state, origin.old))
    return render(
        "comparison",
        names=names,
        counts={
            "paired": len(alignment.pairs),
            "changed": len(alignment.changed),
            "gone": len(alignment.gone),
            "new": len(alignment.added),
        },
        total=len(alignment.old),
        sections=sections,
        touched=touched,
        pictures=[_picture(alignment.old, names[0], old_boxes), _picture(alignment.new, names[1], new_boxes)],
    )


def _line(number: int, told: Told) -> Line:
    first = told.elements[0]
    mark = next((f' {k}="{v}"' for k in ("id", "name", "type") if (v := first.attributes.get(k))), "")
    text = (first.text or first.name)[:60]
    more = f"and {len(told.elements) - 1} more" if len(told.elements) > 1 else f"with {told.inside} inside" if told.inside else ""
    return Line(number, told.state, f"<{first.tag}{mark}> {text}".strip(), more, "; ".join(map(str, told.changes)))


def _picture(page: Page, title: str, wanted: Sequence[tuple[int, str, Element]]) -> Picture | None:
    shot = as_address(page) if page.facts is not None and page.facts.has_boxes else None
    if shot is None:
        return None
    data, width, height = shot
    scale = WIDE / max(1.0, width)
    boxes = []
    for number, state, element in wanted[:MOST_OUTLINED]:
        try:
            left, top, wide, high = element.box
        except FactsError:
            continue
        if element.visible and wide > 0 and high > 0 and left < width and top < height:
            boxes.append(Box(number, state, left * scale, top * scale, wide * scale, high * scale))
    return Picture(title, data, WIDE, round(height * scale), tuple(boxes))
