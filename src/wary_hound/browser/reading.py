"""What an element is now, and waiting for what it will be."""

from __future__ import annotations

import base64
import io
import re
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import TypeVar

from wary_hound.browser import capture as capturing
from wary_hound.browser.acting import Acting
from wary_hound.browser.scripts import state_script
from wary_hound.browser.target import Where
from wary_hound.browser.waiting import pause
from wary_hound.errors import BrowserError, BrowserTimeout
from wary_hound.locator.evaluate import match
from wary_hound.page import Page
from wary_hound.page.secrets import masked

T = TypeVar("T")
EVERY = 0.05
"""Seconds between two looks at what no change of the page tells of: values, addresses."""
GREY = (96, 96, 96)
Box = tuple[float, float, float, float]


@dataclass(frozen=True, slots=True)
class ControlState:
    """An element as it is now, whatever its markup says. `value` is None for what has none, `ticked` for what cannot be ticked;
    `chosen`: texts of the options chosen in a select; `text` as it is shown."""

    value: str | None
    ticked: bool | None
    chosen: tuple[str, ...]
    shown: bool
    enabled: bool
    editable: bool
    focused: bool
    text: str


class Reading(Acting):
    """Questions to a live page about one element. Waits raise BrowserTimeout, with what was there, at the limit."""

    def state(self, where: Where) -> ControlState:
        """What an element is now."""

        def question() -> ControlState:
            context, node = self._target.node(where)
            said = self._view.connection.call(context, state_script(), node)
            return ControlState(**{**said, "chosen": tuple(said["chosen"])})

        return self._view.ask(question, self._target.deadline)

    def style(self, where: Where, *names: str) -> dict[str, str]:
        """Computed style properties of an element, by name (`color`, `display`), as the browser has them."""
        function = "(element, ...names) => names.map((name) => getComputedStyle(element).getPropertyValue(name))"

        def question() -> dict[str, str]:
            context, node = self._target.node(where)
            return dict(zip(names, self._view.connection.call(context, function, node, *names), strict=True))

        return self._view.ask(question, self._target.deadline)

    # --- waiting ------------------------------------------------------------------------------------------------------

    def until_shown(self, where: Where) -> None:
        """Wait until an element is there, alone, and visible."""
        self._wait_of_one(where, "to be shown", lambda page, at: bool(page.semantics.visible[at]))

    def until_hidden(self, where: Where) -> None:
        """Wait until an element is there, and not visible."""
        self._wait(where, "to be hidden", lambda page, at: bool(at) and not any(page.semantics.visible[i] for i in at))

    def until_gone(self, where: Where) -> None:
        """Wait until an element is not in the page. That it ever was is not asked: see the checks of journeys."""
        self._wait(where, "to be gone", lambda page, at: not at)

    def until_counts(self, where: Where, count: int) -> None:
        """Wait until a locator matches so many elements."""
        self._wait(where, f"to match {count} elements", lambda page, at: len(at) == count)

    def until_reads(self, where: Where, text: str) -> None:
        """Wait until an element's text is this."""
        self._wait_of_one(where, f"to read {text!r}", lambda page, at: page.semantics.text[at] == text)

    def until_holds(self, where: Where, value: str) -> None:
        """Wait until a control holds a value."""
        self._poll(lambda: self.state(where).value, lambda held: held == value, f"{where} to hold {value!r}", "it holds")

    def until_address(self, pattern: str) -> str:
        """Wait until the page's address is this one, or ends in this path, or matches it with `*` for anything; gives it."""
        wanted = address_pattern(pattern)
        return self._poll(
            self.address, lambda address: bool(wanted.search(address)), f"the address to be {masked(pattern)}", "it is", masked
        )

    def address(self) -> str:
        """The address that the page is at now."""
        return str(self._view.call("() => location.href", deadline=self._target.deadline))

    def title(self) -> str:
        """The page's title now."""
        return str(self._view.call("() => document.title", deadline=self._target.deadline))

    def _told_by_part(self, where: Where, holds: Callable[[Page, int], bool]) -> bool:
        """Whether a part of the page tells that something holds of the one element now; False too where only the whole can tell."""
        part = self._view.glimpse(self._target.meant(where).alternatives[0], (), self._target.deadline)
        return part is not None and holds(part.taken.page, part.index)

    def _wait_of_one(self, where: Where, wanted: str, holds: Callable[[Page, int], bool]) -> None:
        """The same of one element: where a part of the page tells that it holds, no whole one is taken."""
        if not self._told_by_part(where, holds):
            self._wait(where, wanted, lambda page, at: len(at) == 1 and holds(page, at[0]))

    def _wait(self, where: Where, wanted: str, holds: Callable[[Page, Sequence[int]], bool]) -> None:
        locator = self._target.meant(where)
        page, held = self._target.until(lambda page: holds(page, match(page, locator.alternatives[0])))
        if not held:
            raise self._target.failed(f"waited {self.limit:g} s for {where} {wanted}; at the end:", page, locator)

    def _poll(
        self, ask: Callable[[], T], holds: Callable[[T], bool], wanted: str, there: str, shown: Callable[[T], object] = lambda v: v
    ) -> T:
        deadline = self._target.deadline
        while not holds(value := ask()):
            if time.monotonic() > deadline:
                raise BrowserTimeout(f"waited {self.limit:g} s for {wanted}; {there} {shown(value)!r}")
            pause(EVERY)
        return value

    # --- pictures -----------------------------------------------------------------------------------------------------

    def screenshot(self) -> bytes:
        """The whole document as PNG; where it is larger than the browser can picture, what is in view."""
        return self._view.ask(lambda: capturing.screenshot(self._view.connection, self.context), self._target.deadline)

    def picture(self, where: Where, masks: Sequence[Where] = ()) -> bytes:
        """An element as PNG; what the locators of `masks` match is grey."""
        self._target.ready(where, "hover")
        page = self._view.taken(self._target.deadline).page
        matched = match(page, self._target.meant(where).alternatives[0])
        if len(matched) != 1:
            raise BrowserError(f"{where} matches {len(matched)} elements now: a picture is of one")
        return covered(self.screenshot(), page, self._boxes(page, masks), page[matched[0]].box)

    def view(self, masks: Sequence[Where] = ()) -> bytes:
        """What is in view as PNG; what the locators of `masks` match is grey."""
        deadline = self._target.deadline
        picture = self._view.ask(lambda: capturing.screenshot(self._view.connection, self.context, whole=False), deadline)
        if not masks:
            return picture
        page = self._view.taken(deadline).page
        return covered(picture, page, self._boxes(page, masks), corner=self._corner())

    def _corner(self) -> tuple[float, float]:
        """Where what is in view begins, in CSS pixels of the document."""
        left, top = self._view.call("() => [scrollX, scrollY]", deadline=self._target.deadline)
        return left, top

    def _boxes(self, page: Page, masks: Sequence[Where]) -> list[Box]:
        inside = [page[index] for mask in masks for index in match(page, self._target.meant(mask))]
        return [element.box for element in inside if element.visible]

    def pdf(self) -> bytes:
        """The page as it would be printed, as PDF."""
        return base64.b64decode(self._view.connection.send("browsingContext.print", context=self.context, limit=self.limit)["data"])


def covered(
    picture: bytes, page: Page, boxes: Sequence[Box], part: Box | None = None, corner: tuple[float, float] = (0.0, 0.0)
) -> bytes:
    """A picture of a page, from a `corner` of it on, with some boxes grey, and a part of it alone where one is given (all in CSS
    pixels of the whole page)."""
    from PIL import Image, ImageDraw  # not needed by most

    image = Image.open(io.BytesIO(picture)).convert("RGB")
    ratio = page.facts.ratio if page.facts is not None else 1.0
    draw = ImageDraw.Draw(image)
    for x, y, *size in boxes:
        left, top, wide, high = (value * ratio for value in (x - corner[0], y - corner[1], *size))
        if wide > 0 and high > 0:
            draw.rectangle((left, top, left + wide, top + high), fill=GREY)
    if part is not None:
        left, top, wide, high = (value * ratio for value in part)
        image = image.crop((round(left), round(top), round(left + wide), round(top + high)))
    out = io.BytesIO()
    image.save(out, format="PNG")
    return out.getvalue()


def address_pattern(pattern: str) -> re.Pattern[str]:
    """What an address must be like: a whole one, or a path (with its query where one is named) that it ends in. `*`: anything."""
    inner = ".*".join(re.escape(part) for part in pattern.split("*"))
    if "://" in pattern or pattern.startswith("about:"):
        return re.compile(rf"\A{inner}\Z")
    behind = r"\Z" if "?" in pattern or "#" in pattern else r"(?:[?#].*)?\Z"
    return re.compile(rf"\A[a-z]+://[^/?#]*{'' if pattern.startswith('/') else '/(?:[^?#]*/)?'}{inner}{behind}")
