"""Fingerprints: what is remembered of an element in order to find it again, as plain values that a book can hold."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass
from typing import Any

from pydantic import BaseModel, ConfigDict, Field, FiniteFloat, ValidationError

from wary_hound.errors import FileError
from wary_hound.locator.relations import row_of, section_of
from wary_hound.page import Element, Page
from wary_hound.page.cache import Bounded, Cache

LONGEST = 120


@dataclass(frozen=True, slots=True)
class Fingerprint:
    """What is remembered of one element. Texts are cut at LONGEST characters."""

    tag: str
    attributes: Mapping[str, str]
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
    place: float = 0.0
    """Where it stands in page order, from 0 to 1."""
    sibling: int = 1
    """Its place among siblings of its tag."""
    box: tuple[float, float, float, float] | None = None

    def to_json(self) -> dict[str, Any]:
        """Without what is empty."""
        data = asdict(self)
        data["trail"] = list(self.trail)
        data["place"] = round(self.place, 4)
        if self.box is not None:
            data["box"] = [round(v, 1) for v in self.box]
        return {key: value for key, value in data.items() if value not in ("", None, [], {})}

    @classmethod
    def from_json(cls, data: Any) -> Fingerprint:
        """The inverse of `to_json`; what it does not know is left out. FileError where it is none."""
        try:
            stored = _Stored.model_validate(data)
        except (ValidationError, RecursionError) as error:
            first = error.errors()[0] if isinstance(error, ValidationError) else None
            said = f"{'.'.join(str(part)[:40] for part in first['loc'])}: {first['msg']}" if first else "nested too deep"
            raise FileError(f"a fingerprint is broken ({said}): see the element again to renew it") from None
        return cls(**dict(stored))


class _Stored(BaseModel):
    """A fingerprint as a file has it."""

    model_config = ConfigDict(extra="ignore", coerce_numbers_to_str=True)

    tag: str
    attributes: dict[str, str] = Field(default_factory=dict)
    text: str = ""
    role: str = ""
    name: str = ""
    label: str = ""
    before: str = ""
    after: str = ""
    heading: str = ""
    row: str = ""
    trail: tuple[str, ...] = ()
    place: FiniteFloat = 0.0
    sibling: int = 1
    box: tuple[FiniteFloat, FiniteFloat, FiniteFloat, FiniteFloat] | None = None


def fingerprint(element: Element) -> Fingerprint:
    """The fingerprint of an element; computed once for each."""
    kept = Context.of(element.page).fingerprints
    made = kept.get(element.index)
    if made is None:
        made = kept[element.index] = _fingerprint(element.page, element.index)
    return made


def _fingerprint(page: Page, index: int) -> Fingerprint:
    semantics = page.semantics
    context = Context.of(page)
    facts = page.facts
    box = None
    if facts is not None and facts.has_boxes and semantics.visible[index]:
        left, top, width, height = facts.box(index)
        box = (left, top, width, height)
    return Fingerprint(
        tag=page.tags[index],
        attributes={k: v[:LONGEST] for k, v in page.attributes_of(index).items()},
        text=semantics.text[index][:LONGEST],
        role=semantics.roles[index],
        name=semantics.name(index)[:LONGEST],
        label=semantics.label(index)[:LONGEST],
        before=context.before[index],
        after=context.after[index],
        heading=context.heading[index],
        row=context.row(index),
        trail=context.trail(index),
        place=index / len(page),
        sibling=int(page.index.place_of_type[index]),
        box=box,
    )


class Context(Cache):
    """Neighbour texts, headings, rows and trails of all elements of a page. Lists are in page order."""

    def __init__(self, page: Page) -> None:
        super().__init__(page)
        self.fingerprints: Bounded[int, Fingerprint] = Bounded(50_000)
        self._rows: dict[int, str] = {}
        own = page.semantics.own_text
        count = len(page)
        rendered = page.semantics.rendered
        self.before: list[str] = [""] * count
        self.after: list[str] = [""] * count
        self.heading: list[str] = [""] * count
        last = ""
        heads: list[tuple[int, str]] = []
        roles, tags, texts = page.semantics.roles, page.tags, page.semantics.text
        ends = page.end.tolist()
        for i in range(count):
            self.before[i] = last
            while heads and heads[-1][0] <= i:
                heads.pop()
            self.heading[i] = heads[-1][1] if heads else ""
            if rendered[i] and (roles[i] == "heading" or tags[i] in ("legend", "caption")):
                holder = section_of(page, i)
                heads.append((ends[holder] if holder >= 0 else count, texts[i][:LONGEST]))
            if own[i] and rendered[i]:
                last = own[i][:LONGEST]
        following = [""] * (count + 1)
        for i in range(count - 1, -1, -1):
            following[i] = own[i][:LONGEST] if own[i] and rendered[i] else following[i + 1]
        for i in range(count):
            self.after[i] = following[ends[i]]

    def row(self, index: int) -> str:
        """The text of the row that an element stands in, without its own."""
        page = self.page
        at = row_of(page, index)
        if at < 0 or at == index:
            return ""
        if at not in self._rows:
            self._rows[at] = page.semantics.text[at]
        own = page.semantics.text[index]
        whole = self._rows[at]
        return (whole.replace(own, "", 1) if own else whole).strip()[:LONGEST]

    def trail(self, index: int) -> tuple[str, ...]:
        """Ancestors as `tag`, `tag#id` or `tag@role`, nearest first, at most twelve, over the edges of trees."""
        page = self.page
        found: list[str] = []
        at = index
        while len(found) < 12:
            above = int(page.parent[at])
            if above < 0:
                above = page.trees[page.tree[at]].host
                if above < 0:
                    break
            found.append(self._step(above))
            at = above
        return tuple(found)

    def _step(self, at: int) -> str:
        page = self.page
        own = page.attribute(at, "id")
        if own:
            return f"{page.tags[at]}#{own}"
        given = page.attribute(at, "role")
        return f"{page.tags[at]}@{given}" if given else page.tags[at]
