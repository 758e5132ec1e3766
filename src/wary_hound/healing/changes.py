"""Two pages compared as wholes: which element became which, what of it changed, what is gone and what is new.

`align` names the pairs that the judge believes; what a pair's changes are is told as a person would: a tag, an id, classes,
attributes, the element's own text, and whether it stands elsewhere (under another parent, in a wrapper, in another tree).
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import numpy as np

from wary_hound.healing.judge import gather, shipped
from wary_hound.healing.relocation import Aligned
from wary_hound.healing.sheet import Sheet
from wary_hound.page import Element, Page
from wary_hound.page.index import tokens
from wary_hound.robustness.looks import look_of_token
from wary_hound.robustness.model import AS_SHIPPED, ChangeModel

Kind = Literal["tag", "id", "class", "attribute", "text", "moved", "wrapped", "unwrapped", "tree"]

LIKELY = 0.5
"""Pairs from this confidence are named; what has none is gone, or new."""


@dataclass(frozen=True, slots=True)
class Change:
    """One thing that is other than before. `name`: of the attribute; `before` and `after`: values, empty where there was none."""

    kind: Kind
    name: str = ""
    before: str = ""
    after: str = ""

    def __str__(self) -> str:
        if self.kind == "text":
            return f"text {_quoted(self.before)} → {_quoted(self.after)}"
        if self.kind == "class":
            return " ".join([*(f"-{c}" for c in self.before.split()), *(f"+{c}" for c in self.after.split())])
        if self.kind in ("moved", "wrapped", "unwrapped", "tree"):
            between = {"moved": "moved to", "wrapped": "now inside a new", "unwrapped": "no longer inside", "tree": "now in"}
            return f"{between[self.kind]} {self.before if self.kind == 'unwrapped' else self.after}"
        if self.kind == "tag":
            return f"<{self.before}> → <{self.after}>"
        if self is MADE_ANEW:
            return "ids that a machine made, made anew"
        name = "id" if self.kind == "id" else f"[{self.name}]"
        if not self.before:
            return f"{name} {_quoted(self.after)} added"
        if not self.after:
            return f"{name} {_quoted(self.before)} removed"
        return f"{name} {_quoted(self.before)} → {_quoted(self.after)}"


def _quoted(text: str) -> str:
    return f'"{text if len(text) <= 40 else text[:39] + "…"}"'


@dataclass(frozen=True, slots=True)
class Pair:
    """An element of the old page and what it became, with the probability that it is the one."""

    old: Element
    new: Element
    confidence: float


@dataclass(frozen=True)
class Alignment:
    """Two pages, aligned. All in page order."""

    old: Page
    new: Page
    pairs: tuple[Pair, ...]

    @cached_property
    def image(self) -> dict[Element, Pair]:
        """The pair of each old element that has one."""
        return {pair.old: pair for pair in self.pairs}

    @cached_property
    def origin(self) -> dict[Element, Pair]:
        """The pair of each new element that has one."""
        return {pair.new: pair for pair in self.pairs}

    @cached_property
    def gone(self) -> tuple[Element, ...]:
        """Elements of the old page that are not on the new one."""
        return tuple(element for element in self.old if element not in self.image)

    @cached_property
    def added(self) -> tuple[Element, ...]:
        """Elements of the new page that were not on the old one."""
        return tuple(element for element in self.new if element not in self.origin)

    @cached_property
    def changed(self) -> tuple[tuple[Pair, tuple[Change, ...]], ...]:
        """The pairs in which anything is other than before, with what is."""
        told = ((pair, self.changes(pair)) for pair in self.pairs)
        return tuple((pair, changes) for pair, changes in told if changes)

    def changes(self, pair: Pair) -> tuple[Change, ...]:
        """What is other than before in a pair."""
        old, new = pair.old, pair.new
        changes: list[Change] = []
        if old.tag != new.tag:
            changes.append(Change("tag", "", old.tag, new.tag))
        was, now = old.attributes, new.attributes
        if was.get("id", "") != now.get("id", ""):
            changes.append(Change("id", "id", was.get("id", ""), now.get("id", "")))
        left, right = set(tokens(was.get("class", ""))), set(tokens(now.get("class", "")))
        if left != right:
            changes.append(Change("class", "class", " ".join(sorted(left - right)), " ".join(sorted(right - left))))
        for name in sorted({*was, *now} - {"id", "class"}):
            if was.get(name) != now.get(name):
                changes.append(Change("attribute", name, was.get(name, ""), now.get(name, "")))
        said, says = (page.semantics.own_text[index] for page, index in ((self.old, old.index), (self.new, new.index)))
        if said != says:
            changes.append(Change("text", "", said, says))
        return (*changes, *self._place(pair))

    def _place(self, pair: Pair) -> tuple[Change, ...]:
        """Whether it stands under what its parent became."""
        above_old, above_new = Sheet.of(self.old).above, Sheet.of(self.new).above
        was, now = int(above_old[pair.old.index]), int(above_new[pair.new.index])
        if was < 0 or now < 0:
            return ()
        if pair.old.tree.kind != pair.new.tree.kind:
            into = {"shadow": "a shadow tree", "frame": "a frame", "document": "the document"}[pair.new.tree.kind]
            return (Change("tree", "", pair.old.tree.kind, into),)
        parent = self.image.get(self.old[was])
        if parent is not None and parent.new.index == now:
            return ()
        if parent is not None and parent.new.index < now < self.new.end[parent.new.index]:
            between = [self.new[i] for i in self._up(above_new, now, parent.new.index)]
            return (Change("wrapped", "", "", _named(between[-1])),) if all(e not in self.origin for e in between) else ()
        origin = self.origin.get(self.new[now])
        if origin is not None and origin.old.index < was < self.old.end[origin.old.index]:
            between = [self.old[i] for i in self._up(above_old, was, origin.old.index)]
            return (Change("unwrapped", "", _named(between[-1]), ""),) if all(e not in self.image for e in between) else ()
        if parent is None and origin is None:
            return ()  # what holds it is told of itself
        return (Change("moved", "", _named(self.old[was]), _named(self.new[now])),)

    @staticmethod
    def _up(above: np.ndarray[tuple[int], np.dtype[np.int64]], at: int, top: int) -> list[int]:
        found = []
        while at >= 0 and at != top:
            found.append(at)
            at = int(above[at])
        return found


def _named(element: Element) -> str:
    """A holder in a few characters."""
    own = element.attributes.get("id")
    first = element.attributes.get("class", "").split()
    return f"<{element.tag}{f'#{own}' if own else f'.{first[0]}' if first else ''}>"


def align(old: Page, new: Page, model: ChangeModel | None = None) -> Alignment:
    """Which element of an old page became which of a new one, all at once. `model`: one of your own, which says how sure to be on
    your pages."""
    aligning = Aligned.of(new).from_page(old)
    evidence = gather(aligning, np.arange(len(old)))
    chance = shipped()[0].probabilities(evidence, (model.judging if model is not None else AS_SHIPPED)[0])
    order = np.argsort(-chance, kind="stable")
    taken: dict[int, tuple[int, float]] = {}
    claimed: set[int] = set()
    for a, b, p in zip(evidence.a[order].tolist(), evidence.b[order].tolist(), chance[order].tolist(), strict=True):
        if p < LIKELY:
            break
        if a not in taken and b not in claimed:
            taken[a] = (b, p)
            claimed.add(b)
    return Alignment(old, new, tuple(Pair(old[a], new[b], p) for a, (b, p) in sorted(taken.items())))


@dataclass(frozen=True, slots=True)
class Told:
    """One thing to tell of two pages: what changed of an element, the same change of several, or a part that came or went with all
    in it.

    `elements`: of the new page; of the old one where they are gone."""

    state: Literal["changed", "gone", "new"]
    section: str
    """The part of the page that it is told of: its heading or name; empty for the page."""
    elements: tuple[Element, ...]
    changes: tuple[Change, ...] = ()
    inside: int = 0
    """How many elements came or went with it."""


REFERENCES = frozenset(
    "for aria-controls aria-labelledby aria-describedby aria-owns aria-activedescendant aria-details list form headers".split()
)
MADE_ANEW = Change("id", "id", "made by a machine", "made anew")
"""Stands for all ids that nobody wrote, and that are others on each page."""


def told(alignment: Alignment) -> list[Told]:
    """What changed, as a person would tell it: the same change of several elements once, a part that came or went as one, by the
    part of the page that it stands in. References that follow the id that they name are not told, and machine-made ids once."""
    by_pair = [(pair, [_plainly(change) for change in changes]) for pair, changes in alignment.changed]
    renamed = {c.before: c.after for _, changes in alignment.changed for c in changes if c.kind == "id"}
    kept = [(pair.new, [c for c in changes if not _follows(c, renamed)]) for pair, changes in by_pair]
    count = Counter(change for _, changes in kept for change in changes)
    same: dict[Change, list[Element]] = {}
    own: list[Told] = []
    for element, changes in kept:
        for change in changes:
            if count[change] > 1 or change is MADE_ANEW:
                same.setdefault(change, []).append(element)
        alone = tuple(c for c in changes if count[c] == 1 and c is not MADE_ANEW)
        if alone:
            own.append(Told("changed", section_name(element), (element,), alone))
    several = [
        Told("changed", "" if change is MADE_ANEW else section_name(elements[0]), tuple(elements), (change,))
        for change, elements in same.items()
    ]
    gone = [Told("gone", section_name(top), (top,), inside=inside) for top, inside in _tops(alignment.gone)]
    new = [Told("new", section_name(top), (top,), inside=inside) for top, inside in _tops(alignment.added)]
    return sorted([*several, *own, *gone, *new], key=lambda one: one.section != "")  # what is said of the whole page first


def _plainly(change: Change) -> Change:
    looks = {look_of_token(change.before), look_of_token(change.after)}
    if change.kind == "id" and looks <= {"generated", "hashed"}:
        return MADE_ANEW
    return change


def _follows(change: Change, renamed: Mapping[str, str]) -> bool:
    """Whether a reference says what it said before, by the ids that there are now."""
    if change.kind != "attribute" or change.name not in REFERENCES or not change.before or not change.after:
        return False
    return [renamed.get(word, word) for word in change.before.split()] == change.after.split()


def _tops(elements: Sequence[Element]) -> list[tuple[Element, int]]:
    """Of elements that came or went those that stand in no other of them, each with how many are in it."""
    tops: list[tuple[Element, int]] = []
    for element in elements:
        page = element.page
        if tops and tops[-1][0].index < element.index < page.end[tops[-1][0].index]:
            tops[-1] = (tops[-1][0], tops[-1][1] + 1)
        else:
            tops.append((element, 0))
    return tops


def section_name(element: Element) -> str:
    """What a person calls the part of the page that an element stands in: its heading, or the name or role of what holds it."""
    page, index = element.page, element.index
    sheet = Sheet.of(page)
    heading = sheet.as_written("heading")[index]
    if heading:
        return heading
    holder = int(sheet.holder("group")[index])
    if holder < 0:
        return ""
    return page.semantics.name(holder) or page.semantics.roles[holder] or page.tags[holder]
