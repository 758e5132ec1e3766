"""Checks on a live page: each waits until it holds or its limit ends, and can fail.

`hidden` and `gone` hold only of what was seen before in the run (or while the check waited), unless they are said to hold from
the start: what was never there has not gone.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence, Set
from dataclasses import dataclass, field

from wary_hound.browser.browser import LivePage
from wary_hound.journey.journey import Step
from wary_hound.locator.evaluate import match
from wary_hound.locator.near import nearest
from wary_hound.locator.values import Locator
from wary_hound.page import Page


@dataclass
class Seen:
    """Which locators had an element on the page (`there`), and one that was shown, at any moment that was looked at."""

    there: set[Locator] = field(default_factory=set)
    shown: set[Locator] = field(default_factory=set)

    def look(self, page: Page, locators: Sequence[Locator]) -> None:
        """Note what is there now."""
        for locator in locators:
            found = match(page, locator)
            if found:
                self.there.add(locator)
            if any(page.semantics.visible[i] for i in found):
                self.shown.add(locator)

    def used(self, locator: Locator) -> None:
        """Note that its element was acted on, whatever found it."""
        self.there.add(locator)
        self.shown.add(locator)


@dataclass(frozen=True, slots=True)
class Checked:
    """What came of a check. `message`: what was expected and what was there, where it did not hold."""

    held: bool
    page: Page
    message: str = ""


def check(live: LivePage, step: Step, locator: Locator, seen: Seen) -> Checked:
    """Wait until what a step expects holds, at most the page's limit."""

    def holds(page: Page) -> bool:
        seen.look(page, [locator])
        return not untold and _holds(step, page, match(page, locator), locator, seen)

    untold = step.expect == "gone" and step.on in {h.name for h in live.healed}  # its locator would find nothing anyway
    page, held = live.until(holds)
    if held:
        return Checked(True, page)
    if step.expect in ("shown", "hidden", "reads", "contains"):
        other = live.elsewhere(step.on, page) if len(match(page, locator)) != 1 else None
        if other is not None and other.acted and other.element is not None:
            if _holds(step, page, [other.element.index], locator, seen):
                return Checked(True, page)
    return Checked(False, page, _message(step, page, match(page, locator), locator, {h.name for h in live.healed}))


_Test = Callable[[Step, Page, Sequence[int]], bool]


def _visible(page: Page, found: Sequence[int]) -> list[int]:
    return [i for i in found if page.semantics.visible[i]]


_HOLDS: dict[str, _Test] = {
    "shown": lambda step, page, found: len(found) == 1 and bool(_visible(page, found)),
    "hidden": lambda step, page, found: bool(found) and not _visible(page, found),
    "gone": lambda step, page, found: not found,
    "reads": lambda step, page, found: len(found) == 1 and page.semantics.text[found[0]] == step.value,
    "contains": lambda step, page, found: len(found) == 1 and step.value in page.semantics.text[found[0]],
    "counts": lambda step, page, found: len(found) == int(step.value),
}
"""One entry an expectation."""


def _holds(step: Step, page: Page, found: Sequence[int], locator: Locator, seen: Seen) -> bool:
    held = _HOLDS[str(step.expect)](step, page, found)
    if held and not step.from_start:
        if step.expect == "gone":
            return locator in seen.there
        if step.expect == "hidden":
            return locator in seen.shown
    return held


def _message(step: Step, page: Page, found: Sequence[int], locator: Locator, healed: Set[str]) -> str:
    """Expected and actual, in words."""
    expect = str(step.expect)
    if expect in ("gone", "hidden") and _HOLDS[expect](step, page, found):
        if step.on in healed:
            return (
                f"nothing can be said of the absence of {step.on}: its locator was in trouble before in this run; repair it first"
            )
        was = "there" if expect == "gone" else "shown"
        return f"expected {step.on} to be {expect}; it was never {was} in this run (say `from: the start` if that is meant)"
    if expect == "gone" and not _visible(page, found):
        return f"expected {step.on} to be gone; it is there, but not visible (say `is: hidden` if that is meant)"
    wanted = f'{expect[:-1]} "{step.value}"' if expect in ("reads", "contains") else f"be {expect}"
    if expect == "counts":
        return f"expected {step.on} to match {step.value} elements; there are {len(found)}"
    if not found:
        near = "; ".join(str(one) for one in nearest(locator, page)[:2])
        return f"expected {step.on} to {wanted}; {locator} matches nothing{f'; near it: {near}' if near else ''}"
    if len(found) > 1 and expect != "hidden":
        return f"expected {step.on} to {wanted}; {locator} matches {len(found)} elements"
    if expect in ("reads", "contains"):
        return f'expected {step.on} to {wanted}; it reads "{page.semantics.text[found[0]]}"'
    if expect == "shown":
        return f"expected {step.on} to be shown; it is there, but not visible"
    return f"expected {step.on} to {wanted}; it is {'shown' if _visible(page, found) else 'there'}"
