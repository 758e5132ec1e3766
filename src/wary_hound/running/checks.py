"""Checks on a live page: each waits until it holds or its limit ends, and can fail.

`hidden` and `gone` hold only of what was seen before in the run (or while the check waited), unless they are said to hold from
the start: what was never there has not gone.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence, Set
from dataclasses import dataclass, field
from pathlib import Path

from wary_hound.browser.page import LivePage
from wary_hound.browser.reading import ControlState
from wary_hound.errors import BrowserTimeout
from wary_hound.journey.review.of_steps import found_by
from wary_hound.journey.steps import Step
from wary_hound.locator.evaluate import match
from wary_hound.locator.near import nearest
from wary_hound.locator.notation import parse
from wary_hound.locator.values import Locator
from wary_hound.page import Page
from wary_hound.running.page_checks import Told, check_page, check_picture


@dataclass
class Seen:
    """Which locators had an element on the page (`there`), and one that was shown, at any moment that was looked at."""

    there: set[Locator] = field(default_factory=set)
    shown: set[Locator] = field(default_factory=set)

    def look(self, page: Page, locators: Sequence[Locator]) -> None:
        """Note what is there now."""
        for locator in locators:
            matched = match(page, locator)
            if matched:
                self.there.add(locator)
            if any(page.semantics.visible[i] for i in matched):
                self.shown.add(locator)

    def used(self, locator: Locator) -> None:
        """Note that its element was acted on, whatever found it."""
        self.there.add(locator)
        self.shown.add(locator)


@dataclass(frozen=True, slots=True)
class Checked:
    """What came of a check. `message`: what was expected and what was there, where it did not hold. `page`: None where none was
    taken."""

    held: bool
    page: Page | None
    message: str = ""


def check(live: LivePage, step: Step, locator: Locator | None, seen: Seen, folder: Path) -> Checked:
    """Wait until what a step expects holds, at most the page's limit. `folder`: where the journey's files lie."""
    if locator is None:
        return _told(check_page(live, step, folder))
    if step.expect == "looks":
        return _told(check_picture(live, step, folder))
    if step.expect in _STATES:
        return _told(_check_state(live, step))
    if "row" in step.more:
        locator = cell(locator, str(step.more["row"]), str(step.more["column"]))
    elif step.expect in ("reads", "contains") and "attribute" not in step.more and found_by(locator, step.value):
        word = "is somewhere on the page; find the element by something else, or say `is: shown`"
        return Checked(False, None, f'{locator} finds it by the text that is checked: this says only that "{step.value}" {word}')
    return _check_element(live, step, locator, seen)


def _told(told: Told) -> Checked:
    return Checked(not told, None, told)


def cell(table: Locator, row: str, column: str) -> Locator:
    """The cell of a table by the texts of its row and its column."""
    cells = "css{td, th, [role=cell], [role=gridcell]}"
    return parse(f"{table.alternatives[0]} -> {cells} @row-of text{{{row}}} and @column-of text{{{column}}}")


def _check_element(live: LivePage, step: Step, locator: Locator, seen: Seen) -> Checked:
    def holds(page: Page) -> bool:
        seen.look(page, [locator])
        return not untold and _holds(step, page, match(page, locator.alternatives[0]), locator, seen)

    def holds_of(page: Page, index: int) -> bool:
        seen.look(page, [locator])
        return _holds(step, page, [index], locator, seen)

    if step.expect in _OF_ONE and live._told_by_part(locator, holds_of):
        return Checked(True, None)
    untold = step.expect == "gone" and step.on in {h.name for h in live.healed}  # its locator would find nothing anyway
    page, held = live.until(holds)
    if held:
        return Checked(True, page)
    matched = match(page, locator.alternatives[0])
    if step.expect in ("shown", "hidden", "reads", "contains", "matches") and "row" not in step.more:
        other = live.elsewhere(step.on, page) if len(matched) != 1 else None
        if other is not None and other.acted and other.element is not None:
            if _holds(step, page, [other.element.index], locator, seen):
                return Checked(True, page)
    return Checked(False, page, _message(step, page, matched, locator, {h.name for h in live.healed}))


def _visible(page: Page, matched: Sequence[int]) -> list[int]:
    return [i for i in matched if page.semantics.visible[i]]


def _said(step: Step, page: Page, index: int) -> str | None:
    """The text, or the attribute, that a check is about."""
    if "attribute" in step.more:
        return page[index].attributes.get(str(step.more["attribute"]))
    return page.semantics.text[index]


def _one(step: Step, page: Page, matched: Sequence[int], test: Callable[[str], bool]) -> bool:
    said = _said(step, page, matched[0]) if len(matched) == 1 else None
    return said is not None and test(said)


def _texts(step: Step, page: Page, matched: Sequence[int]) -> list[str]:
    texts = [page.semantics.text[i] for i in matched]
    texts = [text for text in texts if text] if step.more.get("empty") == "left out" else texts
    return sorted(texts) if step.more.get("order") == "any" else texts


def _wanted_texts(step: Step) -> list[str]:
    return sorted(step.values) if step.more.get("order") == "any" else list(step.values)


_HOLDS: dict[str, Callable[[Step, Page, Sequence[int]], bool]] = {
    "shown": lambda step, page, at: len(at) == 1 and bool(_visible(page, at)),
    "hidden": lambda step, page, at: bool(at) and not _visible(page, at),
    "gone": lambda step, page, at: not at,
    "reads": lambda step, page, at: _one(step, page, at, lambda said: said == step.value),
    "contains": lambda step, page, at: _one(step, page, at, lambda said: step.value in said),
    "matches": lambda step, page, at: _one(step, page, at, lambda said: re.fullmatch(step.value, said) is not None),
    "counts": lambda step, page, at: len(at) == int(step.value),
    "texts": lambda step, page, at: _texts(step, page, at) == _wanted_texts(step),
}
"""One entry an expectation that the page as data tells."""
_OF_ONE = frozenset({"shown", "reads", "contains", "matches"})
"""What a part of the page tells where it holds."""
_STATES: dict[str, Callable[[Step, ControlState], bool]] = {
    "ticked": lambda step, now: now.ticked is True,
    "unticked": lambda step, now: now.ticked is False,
    "enabled": lambda step, now: now.enabled,
    "disabled": lambda step, now: not now.enabled,
    "focused": lambda step, now: now.focused,
    "editable": lambda step, now: now.editable,
    "holds": lambda step, now: now.value == step.value,
    "chosen": lambda step, now: now.chosen == (step.values or (step.value,)),
}
"""One entry an expectation that the control itself tells."""


def _check_state(live: LivePage, step: Step) -> Told:
    try:
        live._poll(lambda: live.state(step.on), lambda now: _STATES[str(step.expect)](step, now), "", "")
    except BrowserTimeout as error:
        if error.explanation is not None:
            return str(error)
        now = live.state(step.on)
        if step.expect == "holds":
            return f'expected {step.on} to hold "{step.value}"; it holds "{now.value}"'
        if step.expect == "chosen":
            wanted = ", ".join(step.values or (step.value,))
            return f"expected {step.on} to have chosen {wanted or 'nothing'}; chosen is {', '.join(now.chosen) or 'nothing'}"
        if step.expect in ("ticked", "unticked") and now.ticked is None:
            return f"expected {step.on} to be {step.expect}; it cannot be ticked"
        return f"expected {step.on} to be {step.expect}; it is not"
    return ""


def _holds(step: Step, page: Page, matched: Sequence[int], locator: Locator, seen: Seen) -> bool:
    held = _HOLDS[str(step.expect)](step, page, matched)
    if held and not step.from_start:
        if step.expect == "gone":
            return locator in seen.there
        if step.expect == "hidden":
            return locator in seen.shown
    return held


def _message(step: Step, page: Page, matched: Sequence[int], locator: Locator, healed: Set[str]) -> str:
    """Expected and actual, in words."""
    expect = str(step.expect)
    if expect in ("gone", "hidden") and _HOLDS[expect](step, page, matched):
        if step.on in healed:
            return (
                f"nothing can be said of the absence of {step.on}: its locator was in trouble before in this run; repair it first"
            )
        was = "there" if expect == "gone" else "shown"
        return f"expected {step.on} to be {expect}; it was never {was} in this run (say `from: the start` if that is meant)"
    if expect == "gone" and not _visible(page, matched):
        return f"expected {step.on} to be gone; it is there, but not visible (say `is: hidden` if that is meant)"
    of_text = expect in ("reads", "contains", "matches")
    words = {"reads": "read", "contains": "contain", "matches": "match"}
    wanted = f'{words[expect]} "{step.value}"' if of_text else f"be {expect}"
    if expect == "counts":
        return f"expected {step.on} to match {step.value} elements; there are {len(matched)}"
    if expect == "texts":
        return _differing(step, _wanted_texts(step), _texts(step, page, matched))
    if not matched:
        near = "; ".join(str(one) for one in nearest(locator, page)[:2])
        return f"expected {step.on} to {wanted}; {locator} matches nothing{f'; near it: {near}' if near else ''}"
    if len(matched) > 1 and expect != "hidden":
        return f"expected {step.on} to {wanted}; {locator} matches {len(matched)} elements"
    if of_text:
        said = _said(step, page, matched[0])
        what = f"its {step.more['attribute']} is" if "attribute" in step.more else "it reads"
        return f"expected {step.on} to {wanted}; {what} " + ("not there" if said is None else f'"{said}"')
    if expect == "shown":
        return f"expected {step.on} to be shown; it is there, but not visible"
    return f"expected {step.on} to {wanted}; it is {'shown' if _visible(page, matched) else 'there'}"


def _differing(step: Step, wanted: Sequence[str], there: Sequence[str]) -> str:
    """Where two lists of texts part."""
    lead = f"expected {step.on} to have {len(wanted)} text{'' if len(wanted) == 1 else 's'}; there are {len(there)}"
    for number, (one, other) in enumerate(zip(wanted, there, strict=False), 1):
        if one != other:
            return f'{lead}, and number {number} reads "{other}", not "{one}"'
    more = there[len(wanted)] if len(there) > len(wanted) else wanted[len(there)]
    return f'{lead}: {"one too many" if len(there) > len(wanted) else "there is no"} "{more}"'
