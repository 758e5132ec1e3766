"""What markup cannot say of a page: address, time, viewport, boxes, visibility, form state. By element index."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import numpy as np
import numpy.typing as npt

from wary_hound.errors import FactsError

FORMAT = 1


@dataclass(frozen=True, slots=True)
class Style:
    """What a style sheet does to the words of an element; kept where it is not what the tag alone would do."""

    apart: bool
    """Stands apart from its neighbours, as a block or a box in the line does; False: runs on in the line."""
    case: str = ""
    """`uppercase`, `lowercase`, `capitalize` (CSS `text-transform`), or empty."""
    before: str = ""
    """Text of `::before`."""
    after: str = ""
    """Text of `::after`."""


@dataclass(frozen=True, slots=True)
class Facts:
    """Facts of one capture. `boxes` has shape (elements, 4): left, top, width, height in CSS pixels; NaN: no box."""

    url: str = ""
    time: str = ""
    """When it was captured, ISO 8601."""
    viewport: tuple[int, int] = (0, 0)
    """Width and height in CSS pixels."""
    boxes: npt.NDArray[np.float32] = field(default_factory=lambda: np.zeros((0, 4), np.float32))
    hidden: frozenset[int] = frozenset()
    """Elements that are not rendered or have `visibility: hidden`."""
    form: dict[int, dict[str, Any]] = field(default_factory=dict)
    """State of form controls: `value` and `checked` where they differ from the markup; of a select its `value` and the
    positions of the `selected` options."""
    style: dict[int, Style] = field(default_factory=dict)
    ratio: float = 1.0
    """Device pixels for each CSS pixel: those of the picture."""

    @property
    def has_boxes(self) -> bool:
        return len(self.boxes) > 0

    def box(self, index: int) -> tuple[float, float, float, float]:
        left, top, width, height = (float(x) for x in self.boxes[index])
        if np.isnan(left):
            raise FactsError(f"element {index} has no box: it is not rendered")
        return left, top, width, height

    def to_json(self) -> dict[str, Any]:
        return {
            "format": FORMAT,
            "url": self.url,
            "time": self.time,
            "viewport": list(self.viewport),
            "ratio": self.ratio,
            "elements": len(self.boxes),
            "boxes": [None if np.isnan(b[0]) else [round(float(x), 1) for x in b] for b in self.boxes],
            "hidden": sorted(self.hidden),
            "form": {str(i): state for i, state in sorted(self.form.items())},
            "style": {str(i): [int(s.apart), s.case, s.before, s.after] for i, s in sorted(self.style.items())},
        }

    @classmethod
    def from_json(cls, data: dict[str, Any]) -> Facts:
        """The inverse of `to_json`. Raises FactsError where the data are of another format or shape."""
        if not isinstance(data, dict) or data.get("format") != FORMAT:
            found = data.get("format") if isinstance(data, dict) else type(data).__name__
            raise FactsError(f"facts of format {found!r} are not known here; this version reads format {FORMAT}: capture again")
        try:
            boxes = [[np.nan] * 4 if b is None else b for b in data["boxes"]]
            width, height = data["viewport"]
            return cls(
                url=str(data["url"]),
                time=str(data["time"]),
                viewport=(int(width), int(height)),
                boxes=np.asarray(boxes, np.float32).reshape(-1, 4),
                hidden=frozenset(int(i) for i in data["hidden"]),
                form={int(i): dict(state) for i, state in data["form"].items()},
                style={int(i): Style(bool(s[0]), *map(str, s[1:])) for i, s in data.get("style", {}).items()},
                ratio=float(data.get("ratio", 1.0)),
            )
        except (KeyError, TypeError, ValueError, IndexError, AttributeError) as error:
            raise FactsError(f"the facts are broken ({type(error).__name__}: {error}): capture the page again") from None
