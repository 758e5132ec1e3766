"""What markup cannot say of a page: address, time, viewport, boxes, visibility, form state. By element index."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Annotated, Any, Literal

import numpy as np
import numpy.typing as npt
from pydantic import BaseModel, ConfigDict, Field, FiniteFloat, NonNegativeInt, PositiveFloat, ValidationError

from wary_hound.errors import FactsError

FORMAT = 1
LONGEST_SIDE = 10_000_000


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
    """State of form controls: `value` and `checked` where they differ from the markup (`filled` for a value that was left
    out); of a select the positions of the `selected` options. `states`: the pseudo-classes that the browser says hold of a
    control; `defined`: False for a custom element that no script has defined."""
    style: dict[int, Style] = field(default_factory=dict)
    ratio: float = 1.0
    """Device pixels for each CSS pixel: those of the picture."""

    def __post_init__(self) -> None:
        self.boxes.setflags(write=False)

    @property
    def has_boxes(self) -> bool:
        """Whether it is known where elements stand."""
        return len(self.boxes) > 0

    def box(self, index: int) -> tuple[float, float, float, float]:
        """Left, top, width, height of an element in CSS pixels. FactsError where it has none."""
        left, top, width, height = (float(x) for x in self.boxes[index])
        if np.isnan(left):
            raise FactsError(f"element {index} has no box: it is not rendered")
        return left, top, width, height

    def to_json(self) -> dict[str, Any]:
        """As a facts file holds it."""
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
    def from_json(cls, data: Any) -> Facts:
        """The inverse of `to_json`. Raises FactsError where the data are of another format or shape, or say what cannot be."""
        if not isinstance(data, dict) or data.get("format") != FORMAT:
            given = data.get("format") if isinstance(data, dict) else type(data).__name__
            raise FactsError(
                f"facts of format {str(given)[:40]} are not known here; this version reads format {FORMAT}: capture again"
            )
        try:
            stored = _Stored.model_validate(data)
        except ValidationError as error:
            first = error.errors()[0]
            where = ".".join(str(part) for part in first["loc"][:3])
            raise FactsError(f"the facts are broken at {where} ({first['msg']}): capture the page again") from None
        except RecursionError:
            raise FactsError("the facts are broken (nested too deep): capture the page again") from None
        count = len(stored.boxes)
        for index in (*stored.hidden, *stored.form, *stored.style):
            if index >= max(count, 1):
                raise FactsError(f"the facts are broken: they speak of element {index} of {count}: capture the page again")
        boxes = np.asarray([[np.nan] * 4 if b is None else b for b in stored.boxes], np.float32).reshape(-1, 4)
        return cls(
            url=stored.url,
            time=stored.time,
            viewport=stored.viewport,
            boxes=boxes,
            hidden=frozenset(stored.hidden),
            form={i: state.model_dump(exclude_none=True) for i, state in stored.form.items()},
            style={i: Style(bool(apart), case, before, after) for i, (apart, case, before, after) in stored.style.items()},
            ratio=stored.ratio,
        )


_Side = Annotated[FiniteFloat, Field(ge=-LONGEST_SIDE, le=LONGEST_SIDE)]
_Index = Annotated[NonNegativeInt, Field(le=10_000_000)]


class _State(BaseModel):
    """The state of one form control, as a file has it."""

    model_config = ConfigDict(extra="ignore")

    value: str | None = None
    filled: bool | None = None
    checked: bool | None = None
    indeterminate: bool | None = None
    open: bool | None = None
    defined: bool | None = None
    states: Annotated[str, Field(max_length=1_000)] | None = None
    selected: list[_Index] | None = None


class _Stored(BaseModel):
    """A facts file."""

    model_config = ConfigDict(extra="ignore")

    url: str
    time: str
    viewport: tuple[Annotated[int, Field(ge=0, le=LONGEST_SIDE)], Annotated[int, Field(ge=0, le=LONGEST_SIDE)]]
    boxes: list[tuple[_Side, _Side, _Side, _Side] | None]
    hidden: list[_Index]
    form: dict[_Index, _State]
    style: dict[_Index, tuple[Literal[0, 1], str, str, str]] = Field(default_factory=dict)
    ratio: Annotated[PositiveFloat, Field(le=100)] = 1.0
