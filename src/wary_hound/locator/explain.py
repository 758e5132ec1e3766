"""Why a locator matches what it matches: counts hop by hop and step by step, and what it nearly matched."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

from wary_hound.locator.apart import marks_apart
from wary_hound.locator.evaluate import TOP, as_locator, find_in, in_scopes, looked_in, opened
from wary_hound.locator.kinds import KINDS, Part, Scope
from wary_hound.locator.making import finder as made
from wary_hound.locator.near import Miss, misses
from wary_hound.locator.values import Boundary, Finder, Locator
from wary_hound.page import Page
from wary_hound.page.trees import FRAME


@dataclass(frozen=True, slots=True)
class HopReport:
    """One hop: where it looked, its steps, and the elements that it found (indexes)."""

    text: str
    where: str
    steps: tuple[Part, ...]
    found: tuple[int, ...]
    note: str = ""


@dataclass(frozen=True)
class Explanation:
    """What `explain` found out. `found` holds element indexes in page order; `str()` gives it as lines of text.

    `apart` says of each of several matches (the first ones) what no other of them has; empty where it has nothing of its own.
    """

    locator: Locator
    page: Page
    found: tuple[int, ...]
    hops: tuple[HopReport, ...]
    misses: tuple[Miss, ...]
    notes: tuple[str, ...]
    apart: tuple[str, ...] = ()

    @property
    def summary(self) -> str:
        """How many elements match, in words."""
        count = len(self.found)
        return "1 match" if count == 1 else f"{count or 'no'} matches"

    def __str__(self) -> str:
        lines = [f"{self.locator}: {self.summary}"]
        for hop in self.hops:
            lines.append(f"  {hop.text}  in {hop.where}")
            lines.extend(f"    {step.count:6}  {step.text}" for step in hop.steps)
            if hop.note:
                lines.append(f"    {hop.note}")
        for index, mark in zip(self.found, self.apart, strict=False):
            lines.append(f"  {self.page[index]}: {f'only it has {mark}' if mark else 'nothing of its own tells it apart'}")
        lines.extend(f"  nearly: {m.locator} matches {named(self.page, m)} ({m.change})" for m in self.misses)
        lines.extend(f"  {note}" for note in self.notes)
        return "\n".join(lines)


def explain(page: Page, locator: Locator | str) -> Explanation:
    """Evaluate a locator hop by hop and step by step. Raises NotationError where it does not parse."""
    value = as_locator(locator)
    if value.otherwise is not None:
        return _decisive(value, [explain(page, way) for way in value.alternatives])
    scopes: list[Scope] = [TOP]
    reports: list[HopReport] = []
    found: list[int] = []
    close: list[Miss] = []
    notes: list[str] = []
    for number, hop in enumerate(value.hops):
        start, scopes = scopes, looked_in(page, hop, scopes)
        found = in_scopes(page, hop.finder, scopes).tolist()
        note = ""
        onward = opened(page, hop, found)
        if hop.boundary and found and not onward:
            note = f"found, but {'it holds' if len(found) == 1 else 'they hold'} no {_inside(hop.boundary)} in this snapshot"
        steps = tuple(_steps(page, hop.finder, scopes))
        reports.append(HopReport(str(hop), _looked(page, start, len(scopes)), steps, tuple(found), note))
        if not found:
            close = misses(page, value, number, scopes)
            notes = list(_elsewhere(page, hop.finder, scopes))
            break
        if hop.boundary and not onward:
            found = []
            break
        scopes = onward
    state = unknowable(page, value)
    if state:
        notes.append(f":{state} is a state that a page as data cannot hold: it matches nothing here")
    return Explanation(value, page, tuple(found), tuple(reports), tuple(close), tuple(notes), marks_apart(page, found))


def _decisive(locator: Locator, ways: list[Explanation]) -> Explanation:
    """Why several alternatives match what they match: the one that decides, and how many each of them matches."""
    decisive = next((way for way in ways if len(way.found) == 1), ways[0])
    said = "; ".join(f"{'else ' if number else ''}{way.locator}: {way.summary}" for number, way in enumerate(ways))
    return replace(decisive, locator=locator, notes=(said, *decisive.notes))


def named(page: Page, miss: Miss) -> str:
    """How many elements a near miss finds; the element itself where it is one."""
    return f"1: {page[miss.found[0]]}" if miss.count == 1 else str(miss.count)


def _inside(boundary: Boundary) -> str:
    return "shadow tree" if boundary is Boundary.SHADOW else "frame document"


def tree_name(page: Page, number: int) -> str:
    """A tree in words: `the document`, `the shadow tree (closed) of <sky-dial>`."""
    tree = page.trees[number]
    if tree.host < 0:
        return "the document"
    host = page[tree.host]
    mark = next((f' {k}="{host.attributes[k]}"' for k in ("id", "title", "name") if host.attributes.get(k)), "")
    if tree.kind == FRAME:
        return f"the frame <{host.tag}{mark}>"
    return f"the shadow tree ({tree.mode}) of <{host.tag}{mark}>"


def _looked(page: Page, start: list[Scope], count: int) -> str:
    """Where a hop looked that began in some scopes."""
    more = count - len(start)
    return _where(page, start) + (f" and {more} shadow tree{'s' if more > 1 else ''} in it" if more else "")


def _where(page: Page, scopes: list[Scope]) -> str:
    if len(scopes) > 1:
        return f"{len(scopes)} places"
    tree, inside = scopes[0]
    return tree_name(page, tree) if inside < 0 else f"<{page.tags[inside]}> (element {inside})"


# --- parts -------------------------------------------------------------------------------------------------------------


def _steps(page: Page, finder: Finder, scopes: list[Scope]) -> Iterator[Part]:
    yield from KINDS[finder.strategy].parts(
        page, finder.query.tree, scopes, lambda query: len(in_scopes(page, made(finder.strategy, query), scopes))
    )
    for number, related in enumerate(finder.relations, 1):
        yield Part(f"anchor {related.anchor}", len(in_scopes(page, related.anchor, scopes)))
        so_far = replace(finder, ordinal=None, relations=finder.relations[:number])
        yield Part(f"@{related.relation} that anchor", len(in_scopes(page, so_far, scopes)))
    if finder.ordinal is not None:
        yield Part(f"#{finder.ordinal} of them", len(in_scopes(page, finder, scopes)))


def _elsewhere(page: Page, finder: Finder, scopes: list[Scope]) -> Iterator[str]:
    """Whether a frame or shadow edge is why: the same finder in the trees where it was not asked to look."""
    if any(related.relation.geometric for related in finder.relations):
        return
    looked = {tree for tree, _ in scopes}
    for tree in page.trees:
        if tree.number in looked:
            continue
        count = len(find_in(page, finder, (tree.number, -1)))
        if count:
            way = f"{'frame' if tree.kind == FRAME else 'shadow'} css{{{page.tags[tree.host]}}} -> ..."
            way += "" if tree.kind == FRAME else f", or say anywhere {finder}"
            yield (
                f"it matches {count} inside {tree_name(page, tree.number)}, where a locator that starts at "
                f"{_where(page, scopes)} does not look: open it with a hop, {way}"
                if tree.host >= 0
                else f"it matches {count} in the document, outside of where this hop looks"
            )


def unknowable(page: Page | None, locator: Locator) -> str:
    """A state that it names and a page as data (None: any that is captured) does not hold (`hover`, ...), or nothing."""
    for hop in locator.hops:
        for finder in hop.finder.with_anchors():
            state = KINDS[finder.strategy].unknowable(page, finder.query.tree)
            if state:
                return state
    return ""


__all__ = ["Explanation", "HopReport", "Miss", "explain", "tree_name"]
