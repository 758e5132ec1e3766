"""Following elements through a team's own snapshots: which facts lasted from one release to the next.

Labelled folders say which elements are the same; in others, elements are followed by relocation, and only sure matches
count. That favours elements that changed little, so rates from unlabelled snapshots are rather too low.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path

from wary_hound.errors import FileError
from wary_hound.healing.relocation import relocate_all
from wary_hound.healing.sureness import Heard, hear, overhear
from wary_hound.measuring.history import labelled, read_histories
from wary_hound.page import Page
from wary_hound.page.index import tokens
from wary_hound.robustness.dependency import Dependency, attribute_kind, attribute_look
from wary_hound.robustness.looks import look_of_class, look_of_text, look_of_token
from wary_hound.robustness.updating import Observation

SURE = 0.9
MOST_FOLLOWED = 250
_FOLLOWED = frozenset(
    """button link textbox searchbox combobox listbox checkbox radio switch tab menuitem option slider spinbutton heading cell
    row img dialog""".split()
)
_VERSIONED = re.compile(r"(.+)@([^@]+)\.html?\Z")


@dataclass(frozen=True)
class Followed:
    """What was seen: facts, how many pairs of snapshots and of elements they come from, and by which way. `heard`: of labelled
    elements what relocation says of them, with the old page at hand and from memory; of others, of those that it is sure of, what
    it says when some of what makes it sure is hidden."""

    observations: tuple[Observation, ...]
    pairs: int
    elements: int
    labelled: bool
    heard: tuple[tuple[Heard, ...], tuple[Heard, ...]] = ((), ())


def facts_of(page: Page, index: int) -> dict[Dependency, str]:
    """The facts that an element bears, each with what it says. The element itself is left out of them (0)."""
    semantics = page.semantics
    attributes = page.attributes_of(index)
    facts: dict[Dependency, str] = {Dependency("tag", "", 0): page.tags[index], Dependency("role", "", 0): semantics.roles[index]}
    for name, value in attributes.items():
        if name == "class":
            for token in tokens(value):
                facts[Dependency("class", look_of_class(token), 0, token)] = token
        elif name == "id":
            facts[Dependency("id", look_of_token(value), 0)] = value
        elif not name.startswith("on") and name != "style" and value:
            kind = attribute_kind(name)
            facts[Dependency(kind, attribute_look(kind, value), 0, name)] = value
    for kind, said in (
        ("text", semantics.text[index]),
        ("accessible-name", semantics.name(index)),
        ("label", semantics.label(index)),
    ):
        if 0 < len(said) <= 80:
            facts[Dependency(kind, look_of_text(said), 0)] = said
    if page.index.siblings_of_type[index] > 1:
        facts[Dependency("place", "", 0)] = str(page.index.place_of_type[index])
    parent = int(page.parent[index])
    if parent >= 0:
        facts[Dependency("child", "", 0)] = page.tags[parent]
    return facts


def compared(release: str, old: Page, before: int, new: Page, after: int) -> Iterator[Observation]:
    """Each fact of an element on the old page: whether the same element has it on the new one."""
    now = {(fact.kind, fact.value): said for fact, said in facts_of(new, after).items()}
    for fact, said in facts_of(old, before).items():
        yield Observation(release, fact.group, now.get((fact.kind, fact.value)) == said)


def follow(folder: Path, done: Callable[[str], None] | None = None) -> Followed:
    """All that a folder of snapshots says: with a truth.json by its labels, else NAME@VERSION.html by relocation.

    Raises FileError where it holds no page in two versions.
    """
    truths = sorted(folder.rglob("truth.json")) if folder.is_dir() else []
    followed = _labelled(folder, done) if truths else _unlabelled(folder, done)
    if not followed.observations:
        raise FileError(f"{folder}: no element could be followed from one snapshot to the next")
    return followed


def _labelled(folder: Path, done: Callable[[str], None] | None) -> Followed:
    observations: list[Observation] = []
    at_hand: list[Heard] = []
    from_memory: list[Heard] = []
    pairs = elements = 0
    for history in read_histories(folder):
        pages, wanted = labelled(history)
        for at in range(len(pages) - 1):
            pairs += 1
            later = wanted[at + 1]
            same = {before: later[label] for label, before in wanted[at].items() if before is not None and label in later}
            if same:
                for said, those in zip((at_hand, from_memory), hear(pages[at], pages[at + 1], same), strict=True):
                    said.extend(those)
            for label, before in wanted[at].items():
                after = wanted[at + 1].get(label)
                if before is not None and after is not None:
                    elements += 1
                    release = f"{history.application} {at}"
                    observations.extend(compared(release, pages[at], before, pages[at + 1], after))
        if done is not None:
            done(history.name)
    return Followed(tuple(observations), pairs, elements, True, (tuple(at_hand), tuple(from_memory)))


def versions_of(folder: Path) -> dict[str, list[Path]]:
    """Snapshots NAME@VERSION.html of a folder, by NAME, in order of VERSION (numbers as numbers)."""
    if not folder.is_dir():
        raise FileError(f"{folder}: there is no such folder")
    versions: dict[str, list[tuple[list[tuple[int, str]], Path]]] = {}
    for file in folder.rglob("*.htm*"):
        named = _VERSIONED.match(file.name)
        if named:
            order = [(int(part), "") if part.isdigit() else (-1, part) for part in re.findall(r"\d+|\D+", named.group(2))]
            versions.setdefault(str(file.parent / named.group(1)), []).append((order, file))
    several = {name: [file for _, file in sorted(files)] for name, files in sorted(versions.items()) if len(files) > 1}
    if not several:
        raise FileError(f"{folder}: holds no page in two versions; snapshots are named NAME@VERSION.html")
    return several


def _unlabelled(folder: Path, done: Callable[[str], None] | None) -> Followed:
    observations: list[Observation] = []
    at_hand: list[Heard] = []
    from_memory: list[Heard] = []
    pairs = elements = 0
    for name, files in versions_of(folder).items():
        old = Page.read(files[0])
        for at, file in enumerate(files[1:]):
            new = Page.read(file)
            pairs += 1
            wanted = [e for e in old if e.visible and (e.role in _FOLLOWED or e.attributes.get("id"))][:MOST_FOLLOWED]
            sure = {
                element.index: verdict.element.index
                for element, verdict in zip(wanted, relocate_all(wanted, new), strict=True)
                if verdict.outcome in ("same", "moved") and verdict.confidence >= SURE and verdict.element is not None
            }
            elements += len(sure)
            for before, after in sure.items():
                observations.extend(compared(f"{folder.name} {at}", old, before, new, after))
            if sure:
                for said, those in zip((at_hand, from_memory), overhear(old, new, sure), strict=True):
                    said.extend(those)
            old = new
        if done is not None:
            done(name)
    return Followed(tuple(observations), pairs, elements, False, (tuple(at_hand), tuple(from_memory)))
