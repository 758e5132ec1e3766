"""Drafts: steps that fill a section of a page and send it, with sensible data, and what to check then; the section's outline."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from wary_hound.authoring.question import Question
from wary_hound.authoring.ranking import rank
from wary_hound.journey.data import literal
from wary_hound.journey.draft_book import DraftBook
from wary_hound.journey.journey import Journey
from wary_hound.journey.naming import name_for
from wary_hound.journey.steps import Step
from wary_hound.journey.values import filling_for
from wary_hound.page import Element

BUTTONS = frozenset({"submit", "image", "button", "reset"})
_SENDS = re.compile(
    r"send|save|submit|book|search|find|log.?in|sign|create|add|next|continue|ok\b|apply|go\b|order|join|register", re.I
)
LONGEST = 80


@dataclass(frozen=True)
class Draft:
    """A journey that fills a section, and the elements that could not be filled, with why."""

    journey: Journey
    book: DraftBook
    left: tuple[tuple[Element, str], ...]


def fields_of(section: Element) -> Iterator[Element]:
    """The fields of a section that a person can fill, in page order; those in frames and shadow trees too. A box that is hidden is
    ticked by its label where that is shown. What is kept from readers of the screen is a part of how another control is built."""
    page = section.page
    semantics = page.semantics
    for index in range(section.index, int(page.end[section.index])):
        element = page[index]
        if element.tag not in ("input", "select", "textarea") or not element.visible:
            labelled = any(semantics.visible[at] for at in semantics.labels_of.get(index, ()))
            if not (element.tag == "input" and element.attributes.get("type") in ("checkbox", "radio") and labelled):
                continue
        kind = element.attributes.get("type", "text").lower()
        if element.attributes.get("aria-hidden") == "true" or (element.visible and not semantics.exposed[index]):
            continue
        closed = "disabled" in element.attributes or ("readonly" in element.attributes and element.tag != "select")
        if kind in BUTTONS or kind == "hidden" or closed:
            continue
        yield element


def draft(section: Element, title: str, path: Path) -> Draft:
    """A journey that fills the fields of a section and sends it. `path`: where it will be; its book and snapshot lie beside."""
    book = DraftBook(path.with_name(f"{path.stem}.book.yaml"), path.parent / "pages", path.stem)
    made_up: dict[str, str] = {}
    steps: list[Step] = []
    left: list[tuple[Element, str]] = []
    groups: set[str] = set()
    for element in fields_of(section):
        step = _step(element, book, made_up, groups, left)
        if step is not None:
            steps.append(step)
    sender = _sender(section)
    address = section.page.url or "/"
    checks = [
        Step(action="check", on=step.on, expect="holds", value=step.value)
        for step in steps
        if step.action == "type" and step.value.startswith("{") and made_up.get(step.value.strip("{}")) == "unique"
    ]
    if sender is not None:
        steps += [*checks, Step(action="click", on=book.name(sender, "click"))]
    told = _answers(section)
    if told is not None:
        steps.append(Step(action="check", on=book.name(told, "check"), expect="shown"))
    journey = Journey.model_validate(
        {"journey": title, "book": book.path.name, "made-up": made_up, "steps": [Step(action="open", value=address), *steps]}
    )
    return Draft(journey, book, tuple(left))


def _step(
    element: Element, book: DraftBook, made_up: dict[str, str], groups: set[str], left: list[tuple[Element, str]]
) -> Step | None:
    kind = element.attributes.get("type", "text").lower() if element.tag == "input" else element.tag
    match kind:
        case "checkbox":
            ticked = "checked" in element.attributes
            return None if ticked else Step(action="tick", on=book.name(element, "click"))
        case "radio":
            group = element.attributes.get("name", "")
            if group in groups or "checked" in element.attributes:
                return None  # one of a group, and another than stands there
            groups.add(group)
            return Step(action="tick", on=book.name(element, "click"))
        case "select":
            options = _options(element)
            if not options:
                left.append((element, "it has no option to choose"))
                return None
            return Step(action="choose", on=book.name(element, "click"), value=options[0])
        case "file":
            left.append((element, "it takes a file: add `upload: FILE`"))
            return None
    filling = filling_for(element)
    name = book.name(element, "type")
    if filling.kind:
        made_up[name] = filling.kind
        return Step(action="type", on=name, value=f"{{{name}}}")
    if not filling.value:
        left.append((element, f"no text was found that its pattern takes ({element.attributes.get('pattern', '')})"))
        return None
    return Step(action="type", on=name, value=literal(filling.value))


def _options(select: Element) -> list[str]:
    """The texts of options that can be chosen, those that are not chosen now first."""
    page = select.page
    inside = [page[i] for i in range(select.index + 1, int(page.end[select.index])) if page[i].tag == "option"]
    usable = [o for o in inside if "disabled" not in o.attributes and o.text]
    real = [o for o in usable if o.attributes.get("value", o.text)]
    chosen = [o for o in real if "selected" in o.attributes] or real[:1]
    return [o.text for o in real if o not in chosen] + [o.text for o in chosen]


def _sender(section: Element) -> Element | None:
    """What sends the section: its submit button, or the button that reads as if it did."""
    page = section.page
    inside = [page[i] for i in range(section.index, int(page.end[section.index])) if page[i].visible]
    buttons = [e for e in inside if e.role == "button" or (e.tag == "input" and e.attributes.get("type") in ("submit", "image"))]
    submits = [e for e in buttons if e.attributes.get("type", "submit" if e.tag == "button" else "") in ("submit", "image")]
    said = [e for e in submits or buttons if _SENDS.search(e.name or e.text or "")]
    return next(iter(said or submits), None)


def _answers(section: Element) -> Element | None:
    """What of the section, or of the page where it has none, tells how it went: a status or an alert."""
    page = section.page
    inside = range(section.index, int(page.end[section.index]))
    for where in (inside, range(len(page))):
        for index in where:
            if page.semantics.roles[index] in ("status", "alert") and page.semantics.visible[index]:
                return page[index]
    return None


# --- the outline --------------------------------------------------------------------------------------------------------


@dataclass(frozen=True, slots=True)
class Line:
    """A part of a section: how deep, what it is, its name, what it holds, and its best locator where it can be used."""

    depth: int
    role: str
    name: str
    value: str = ""
    locator: str = ""

    def __str__(self) -> str:
        said = f"{'  ' * self.depth}{self.role}{f' {self.name!r}' if self.name else ''}{f' = {self.value}' if self.value else ''}"
        return f"{said}   {self.locator}" if self.locator else said


_FIELDS = ("input", "select", "textarea")
_USED = frozenset(
    "button link checkbox radio combobox listbox textbox searchbox spinbutton slider switch tab menuitem option field".split()
)
_QUIET = frozenset({"generic", "none", "presentation", ""})


def outline(section: Element, locators: bool = True) -> Iterator[Line]:
    """The section as a person would tell it: roles, names, values; without scripts and styles."""
    page, semantics = section.page, section.page.semantics
    depths = {section.index: 0}
    for index in range(section.index, int(page.end[section.index])):
        parent = int(page.parent[index])
        depth = depths.get(parent, 0)
        element = page[index]
        role = semantics.roles[index] or ("field" if element.tag in _FIELDS else "")
        own = semantics.own_text[index]
        told = semantics.visible[index] and (role not in _QUIET or own) and element.tag not in ("script", "style", "option")
        inside_text = role in _QUIET and bool(own) and parent in depths and semantics.roles[parent] in _USED
        if told and not inside_text:
            name = element.name or own or ""
            value = element.attributes.get("value", "") if role in ("textbox", "spinbutton", "slider") else ""
            best = rank(element, Question(ways=1)) if locators and role in _USED else []
            yield Line(depth, role or "text", name[:LONGEST], value, str(best[0].locator) if best else "")
        depths[index] = depth + 1 if told and role not in _QUIET else depth


def title_of(section: Element) -> str:
    """What a section is called."""
    return section.name or name_for(section).replace("-", " ").capitalize()
