"""Fingerprints: what is remembered of an element in order to find it again, as plain values that a book can hold."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass, fields
from typing import Any

from wary_hound.errors import FileError
from wary_hound.locator.relations import row_of, section_of
from wary_hound.page import Element, Page

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
    def from_json(cls, data: Mapping[str, Any]) -> Fingerprint:
        """The inverse of `to_json`. FileError where it is none."""
        known = {f.name for f in fields(cls)}
        try:
            given = {str(k): v for k, v in data.items() if k in known}
            given["attributes"] = {str(k): str(v) for k, v in dict(given.get("attributes", {})).items()}
            given["trail"] = tuple(str(t) for t in given.get("trail", ()))
            if given.get("box") is not None:
                left, top, width, height = (float(v) for v in given["box"])
                given["box"] = (left, top, width, height)
            given["place"] = float(given.get("place", 0))
            for key in ("tag", "text", "role", "name", "label", "before", "after", "heading", "row"):
                if key in given:
                    given[key] = str(given[key])
            return cls(**given)
        except (TypeError, ValueError) as error:
            raise FileError(f"a fingerprint is broken ({error}): see the element again to renew it") from None


def fingerprint(element: Element) -> Fingerprint:
    """The fingerprint of an element; computed once for each."""
    memo: dict[int, Fingerprint] = element.page.memo.setdefault("fingerprints", {})
    found = memo.get(element.index)
    if found is None:
        found = memo[element.index] = _fingerprint(element.page, element.index)
    return found


def _fingerprint(page: Page, index: int) -> Fingerprint:
    semantics = page.semantics
    context = context_of(page)
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


class Context:
    """Neighbour texts, headings, rows and trails of all elements of a page. Lists are in page order."""

    def __init__(self, page: Page) -> None:
        self._page = page
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
        page = self._page
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
        page = self._page
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
        page = self._page
        own = page.attribute(at, "id")
        if own:
            return f"{page.tags[at]}#{own}"
        given = page.attribute(at, "role")
        return f"{page.tags[at]}@{given}" if given else page.tags[at]


def context_of(page: Page) -> Context:
    found: Context | None = page.memo.get("context")
    if found is None:
        found = page.memo["context"] = Context(page)
    return found
