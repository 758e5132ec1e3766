"""Fingerprints: what is remembered of an element in order to find it again, as plain values that a book can hold."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass, field
from typing import Any, ClassVar

from pydantic import ConfigDict, FiniteFloat, TypeAdapter, ValidationError

from wary_hound.errors import FileError

LONGEST = 120


@dataclass(frozen=True, slots=True)
class Fingerprint:
    """What is remembered of one element. Texts are cut at LONGEST characters."""

    __pydantic_config__: ClassVar[ConfigDict] = ConfigDict(extra="ignore", coerce_numbers_to_str=True)

    tag: str
    attributes: Mapping[str, str] = field(default_factory=dict)
    """`id` and `class` too."""
    text: str = ""
    role: str = ""
    name: str = ""
    label: str = ""
    before: str = ""
    """The nearest text before it."""
    after: str = ""
    """The nearest text after it."""
    heading: str = ""
    """The heading of the part of the page that it stands in."""
    row: str = ""
    """The text of the row it stands in, without its own."""
    trail: tuple[str, ...] = ()
    """Tags of its ancestors, nearest first, over the edges of trees; with id or role where they have one."""
    place: FiniteFloat = 0.0
    """Where it stands in page order, from 0 to 1."""
    sibling: int = 1
    """Its place among siblings of its tag."""
    box: tuple[FiniteFloat, FiniteFloat, FiniteFloat, FiniteFloat] | None = None
    own_text: str = ""
    """Its text without that of elements inside."""
    icon: str = ""
    """What it shows as a picture: path data, the name of a symbol or a file, classes of an icon font."""
    column: str = ""
    """The header of the column it stands in."""
    identity: tuple[str, ...] = ()
    """What tells its row from the others beside it."""
    apart: tuple[str, ...] = ()
    """What stands with it and with none of the elements that look like it."""
    tree: str = ""
    """The kind of tree it stands in: document, frame or shadow."""
    alone: bool = False
    """Whether no other element on its page is called so (a control), or says so."""
    of_row: str = ""
    """What the row of the table is known by that it stands in."""
    crowd: int = 0
    """How many controls of its page are of its tag, role and classes, itself with them; 0 where it is no control, or not known."""
    witnesses: tuple[str, ...] = ()
    """Locators that find it, which rest on different facts; what they agree on is believed."""

    def to_json(self) -> dict[str, Any]:
        """Without what is empty."""
        data = asdict(self)
        for key in ("trail", "identity", "apart", "witnesses"):
            data[key] = list(data[key])
        data["place"] = round(self.place, 4)
        if self.box is not None:
            data["box"] = [round(v, 1) for v in self.box]
        return {key: value for key, value in data.items() if value not in ("", None, [], {}, False)}

    @classmethod
    def from_json(cls, data: Any) -> Fingerprint:
        """The inverse of `to_json`; what it does not know is left out. FileError where it is none."""
        try:
            return _READER.validate_python(data)
        except (ValidationError, RecursionError) as error:
            first = error.errors()[0] if isinstance(error, ValidationError) else None
            said = f"{'.'.join(str(part)[:40] for part in first['loc'])}: {first['msg']}" if first else "nested too deep"
            raise FileError(f"a fingerprint is broken ({said}): see the element again to renew it") from None


_READER = TypeAdapter(Fingerprint)
