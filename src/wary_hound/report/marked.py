"""A page's picture with marks on its elements: outlines tinted by risk, numbered, said in words as well."""

from __future__ import annotations

import base64
import io
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from wary_hound.errors import FactsError, FileError
from wary_hound.files import read_bytes, write_aside
from wary_hound.page import Page

RISK = ((0.8, "#0072B2"), (0.6, "#E69F00"), (0.0, "#B2182B"))
"""Colours by survival, from steady to weak; told apart by colour-blind people, and each mark has its figure."""
_HEIGHT = 20
MOST_PIXELS = 30_000
"""A side of a picture."""
MOST_BYTES = 200_000_000


@dataclass(frozen=True, slots=True)
class Mark:
    """An element to outline, what stands on its tag, and its survival (colour), or None for a mark without."""

    element: int
    text: str
    survival: float | None = None


def colour_of(survival: float | None) -> str:
    """The colour of a survival."""
    return "#6A3D9A" if survival is None else next(colour for least, colour in RISK if survival >= least)


def marked_picture(page: Page, marks: Sequence[Mark], caption: str = "", picture: bytes | None = None) -> Any:
    """The page's picture (a Pillow image) with the marks; `picture` (PNG), or the one beside the snapshot.

    FactsError where there is no picture, or the boxes are not known.
    """
    from PIL import Image, ImageDraw, ImageFont

    if picture is None and page.picture is not None:
        picture = read_bytes(page.picture, "picture", MOST_BYTES)
    if picture is None:
        raise FactsError(f"{page.source or 'this page'}: there is no picture beside the snapshot: capture the page again")
    if page.facts is None or not page.facts.has_boxes:
        raise FactsError(f"{page.source or 'this page'}: the boxes of its elements are not known: capture the page again")
    base = opened(picture, str(page.source or "this page")).convert("RGBA")
    if page.facts.ratio != 1.0:  # marks count in CSS pixels
        base = base.resize((max(1, round(base.width / page.facts.ratio)), max(1, round(base.height / page.facts.ratio))))
    layer = Image.new("RGBA", base.size)
    draw = ImageDraw.Draw(layer)
    font = ImageFont.load_default(size=13)
    tags: list[tuple[float, float, float, float]] = []
    for mark in marks:
        if not page[mark.element].visible:
            continue
        left, top, width, height = page[mark.element].box
        colour = colour_of(mark.survival)
        draw.rectangle((left - 2, top - 2, left + width + 2, top + height + 2), outline=colour, width=2, fill=colour + "38")
        wide = draw.textlength(mark.text, font=font) + 10
        at = _free(tags, left - 2, top - 2 - _HEIGHT, wide, base.size)
        tags.append(at)
        draw.rounded_rectangle(at, radius=4, fill=colour)
        draw.text((at[0] + 5, at[1] + 2), mark.text, fill="#1c2536" if colour == RISK[1][1] else "white", font=font)
    marked = Image.alpha_composite(base, layer).convert("RGB")
    if not caption:
        return marked
    whole = Image.new("RGB", (base.width, base.height + 34), "#1c2536")
    whole.paste(marked)
    ImageDraw.Draw(whole).text((16, base.height + 9), caption, fill="white", font=font)
    return whole


def as_address(page: Page) -> tuple[str, float, float] | None:
    """The picture beside a page as a data address, with its width and height in CSS pixels; None where there is none."""
    if page.picture is None:
        return None
    content = read_bytes(page.picture, "picture", MOST_BYTES)
    ratio = page.facts.ratio if page.facts is not None else 1.0
    width, height = (side / ratio for side in opened(content, str(page.picture)).size)
    return f"data:image/png;base64,{base64.b64encode(content).decode()}", width, height


def opened(picture: bytes, where: str) -> Any:
    """A picture (a Pillow image), whole. FactsError where it is none, or larger than any page."""
    from PIL import Image

    try:
        with Image.open(io.BytesIO(picture)) as image:
            if max(image.size) > MOST_PIXELS or image.width * image.height > MOST_PIXELS**2 // 4:
                raise FactsError(f"{where}: its picture is {image.width} x {image.height} pixels: that is no page's")
            image.load()
            return image.copy()
    except (OSError, ValueError, SyntaxError, MemoryError, Image.DecompressionBombError) as error:
        raise FactsError(f"{where}: its picture cannot be read ({type(error).__name__}): capture the page again") from None


def _free(
    taken: Sequence[tuple[float, float, float, float]], left: float, top: float, wide: float, size: tuple[int, int]
) -> tuple[float, float, float, float]:
    """A place for a tag near its element that covers no other tag."""
    left = min(max(0.0, left), max(0.0, size[0] - wide))
    for shift in range(12):
        y = max(0.0, top) + shift * (_HEIGHT + 1)
        box = (left, y, left + wide, y + _HEIGHT)
        if not any(box[0] < t[2] and t[0] < box[2] and box[1] < t[3] and t[1] < box[3] for t in taken):
            return box
    return left, max(0.0, top), left + wide, max(0.0, top) + _HEIGHT


def write_picture(page: Page, marks: Sequence[Mark], path: Path, caption: str = "", picture: bytes | None = None) -> None:
    """Write it as PNG."""
    if path.suffix.lower() != ".png":
        raise FileError(f"{path}: a picture is written as .png")
    out = io.BytesIO()
    marked_picture(page, marks, caption, picture).save(out, format="PNG", optimize=True)
    write_aside({path: out.getvalue()})
