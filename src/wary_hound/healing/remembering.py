"""Seeing an element in order to remember it: its fingerprint, from all that is compared of it."""

from __future__ import annotations

from wary_hound.healing.context import Context
from wary_hound.healing.crowd import Crowds
from wary_hound.healing.fingerprint import LONGEST, Fingerprint
from wary_hound.healing.sheet import Sheet
from wary_hound.page import Element, Page
from wary_hound.page.cache import Bounded, Cache
from wary_hound.robustness.tabular import Tabular

MOST_TOLD = 6
"""So many texts that tell an element's row, or the element, from others are remembered."""


class Remembered(Cache):
    """The fingerprints of a page's elements that were asked for."""

    def __init__(self, page: Page) -> None:
        super().__init__(page)
        self.fingerprints: Bounded[int, Fingerprint] = Bounded(50_000)


def fingerprint(element: Element) -> Fingerprint:
    """The fingerprint of an element; computed once for each."""
    kept = Remembered.of(element.page).fingerprints
    made = kept.get(element.index)
    if made is None:
        made = kept[element.index] = _fingerprint(element.page, element.index)
    return made


def _fingerprint(page: Page, index: int) -> Fingerprint:
    semantics, context, sheet = page.semantics, Context.of(page), Sheet.of(page)
    facts = page.facts
    box = None
    if facts is not None and facts.has_boxes and semantics.visible[index]:
        left, top, width, height = facts.box(index)
        box = (left, top, width, height)

    def told(column: str) -> tuple[str, ...]:
        said = sheet.as_written(column)[index]
        return tuple(said.split("\n")[:MOST_TOLD]) if said else ()

    return Fingerprint(
        tag=page.tags[index],
        attributes={k: v[:LONGEST] for k, v in page.attributes_of(index).items()},
        text=semantics.worded[index][:LONGEST],
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
        own_text=semantics.own_text[index][:LONGEST],
        icon=sheet.column("icon")[index],
        column=sheet.as_written("column")[index],
        identity=told("identity"),
        apart=told("apart"),
        tree=page.trees[int(page.tree[index])].kind,
        alone=bool(sheet.column("sole")[index]),
        of_row=Tabular.of(page).known_as(index)[:LONGEST],
        crowd=Crowds.of(page).like(index),
    )
