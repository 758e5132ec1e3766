"""Acting on a live page as a person does: by the protocol's input actions, on elements that are ready for it.

After an action a navigation that it started is awaited, and what can be verified is: that a field holds what was typed, that a
click was received by the element or what is in it.
"""

from __future__ import annotations

import json
import time
from collections.abc import Callable, Sequence
from contextlib import AbstractContextManager, suppress
from dataclasses import replace
from functools import partial
from pathlib import Path
from typing import Any

from wary_hound.browser import input as sources
from wary_hound.browser.connection import ANSWERING, answering
from wary_hound.browser.dialogs import Dialogs, Kind
from wary_hound.browser.keys import KEYS
from wary_hound.browser.protocol import Event, Json, channel
from wary_hound.browser.scripts import script
from wary_hound.browser.target import Guard, Ready, Target, Where
from wary_hound.browser.view import View
from wary_hound.errors import BrowserError, BrowserTimeout, DocumentGone, ElementGone
from wary_hound.locator.evaluate import match

MOST_GONE = 3
"""So often an element may go away between a look and an act before the point at which it stands is acted on."""
BEGINNING = 0.5
"""Seconds in which a navigation is told of that a page has said to begin."""
HEARING = 0.05
"""Seconds in which a click that was heard in the page is told of, once the browser has answered for the input."""
MOST_TYPED = 100
"""So many characters are typed in one call of the protocol: each has the time limit."""


def _holds(text: str, held: str, most: int) -> bool:
    """Whether the letters and figures of a text are what a field holds, in order (it may add signs, or be too short for all)."""
    said, there = ([c.casefold() for c in value if c.isalnum()] for value in (text, held))
    return said == there or (most >= 0 and said[: len(there)] == there and len(held) >= most) or (not there and not said)


_HEARD = "() => globalThis.waryHoundPress ? globalThis.waryHoundPress.hear() : null"
"""What heard.js tells of the press that ready.js has listened for; null where nobody listens."""
_SAYING = """(say) => {
  globalThis.waryHoundSay = say;
  return globalThis.waryHoundPress ? globalThis.waryHoundPress.number : 0;
}"""
"""Has heard.js say it of itself from now on; the number of the press that is listened for now."""
_CHANNEL = "wary-hound-press"
_TICKED = f"""(e) => [
  e.checked ?? e.getAttribute("aria-checked") === "true", !({script("shown.js")})(e, 1) && Boolean(e.labels && e.labels.length),
]"""
"""Whether a box is ticked, and whether the page hides it behind its label."""


def _said_of(number: float, event: Event) -> bool:
    """Whether an event is what heard.js says of a press."""
    ours = event.method == "script.message" and event.params.get("channel") == _CHANNEL
    return ours and json.loads(event.params["data"]["value"])[0] == number


def _told(event: Event) -> list[Any]:
    """What it says there; empty where it is to be asked for."""
    told: list[Any] = json.loads(event.params["data"]["value"])[1:]
    return told


class Acting:
    """Actions of a live page. Each takes a locator, and raises BrowserTimeout with what failed last at the time limit. Other ways
    of a locator (behind `else`) count only when the first has had the limit; `healed` then tells it."""

    def __init__(self, view: View, target: Target, dialogs: Dialogs, touch: bool = False) -> None:
        self._view = view
        self._target = target
        self._dialogs = dialogs
        self._touch = touch

    @property
    def context(self) -> str:
        """The page's name in the protocol (its top-level browsing context)."""
        return self._view.context

    @property
    def limit(self) -> float:
        """Seconds for each thing that is waited for."""
        return self._target.limit

    @limit.setter
    def limit(self, seconds: float) -> None:
        self._target.limit = seconds

    def guard(self, shown: Where, act: Callable[[], None] | Where) -> Guard:
        """From now on, when `shown` is on the page and an action does not get ready, `act` (click a locator, or call) and wait
        until it is away. BrowserError where that does not help."""
        if not callable(act):
            where = self._target.meant(act)
            made = Guard(self._target.meant(shown), lambda: self.click(where))
        else:
            made = Guard(self._target.meant(shown), act)
        self._target.guards.append(made)
        return made

    # --- pointing -----------------------------------------------------------------------------------------------------

    def click(self, where: Where, *, at: tuple[int, int] = (0, 0), holding: str = "", seconds: float = 0.0) -> None:
        """Click an element, or tap it on an emulated phone: `at` CSS pixels to the right of its middle and below, with keys such
        as `Control+Shift` down, pressed for some seconds. BrowserError where something else received the click.

        What came in between, or a move of the element, is seen when it is pressed: the press is held back from the page then, and
        made once more when the element is at rest."""
        kind = "touch" if self._touch else "mouse"

        def act(move: Json) -> list[Json]:
            return sources.clicks(move, [sources.LEFT], kind, holding, seconds)

        deadline = self._target.deadline
        if self._touch:
            self._acted(where, "tap", act, deadline, at)
            return
        still = False
        while True:
            ready, mark = self._acted(where, "click", act, deadline, at, still=still)
            if self._received(where, ready, mark, deadline):
                return
            still = True

    def double_click(self, where: Where) -> None:
        """Click an element twice."""
        self._press(where, [sources.LEFT, sources.LEFT], "double-click")

    def right_click(self, where: Where) -> None:
        """Click an element with the right button."""
        self._press(where, [sources.RIGHT], "right-click")

    def hover(self, where: Where) -> None:
        """Bring the pointer over an element."""
        self._press(where, [], "hover")

    def _press(self, where: Where, buttons: Sequence[int], wants: str) -> None:
        def act(move: Json) -> list[Json]:
            return sources.clicks(move, buttons)

        deadline = self._target.deadline
        _, mark = self._acted(where, wants, act, deadline)
        self._view.after_action(mark, max(1.0, deadline - time.monotonic()))

    def drag(self, where: Where, onto: Where | None = None, *, by: tuple[int, int] = (0, 0), steps: int = 4) -> None:
        """Press on an element, move onto another one or `by` so many CSS pixels to the right and down, in so many `steps`, and
        let go; across frames too. Where a browser begins a drag of HTML's own (`draggable`) and does not carry it on, the events
        of its end are given to the page as HTML has them."""
        deadline = self._target.deadline
        start = self._target.ready(where, "drag", deadline)
        end = self._target.ready(onto, "hover", deadline).point if onto is not None else None
        start = self._target.ready(where, "drag", deadline) if end is not None else start  # the page may have been scrolled
        x, y = start.point
        mark = self._view.connection.mark
        self._view.connection.call(start.context, script("dragging.js"), start.node)
        points = [(x, y), end or (x + by[0], y + by[1])]
        self._send(self.context, sources.drags(points, steps))
        if onto is not None:
            other = self._target.node(onto)
            if other[0] == start.context:
                self._view.connection.call_if_there(start.context, script("dropping.js"), start.node, other[1])
        self._view.after_action(mark, self.limit)

    def scroll_to(self, where: Where) -> None:
        """Bring an element into view."""
        self._target.ready(where, "hover")

    def scroll_by(self, right: int = 0, down: int = 0, over: Where | None = None) -> None:
        """Turn the wheel over the middle of the window, or over an element, by CSS pixels."""
        if over is not None:
            ready = self._target.ready(over, "hover")
            self._perform(ready.context, sources.wheel(right, down, ready.node))
            return
        middle = "() => [Math.floor(innerWidth / 2), Math.floor(innerHeight / 2)]"
        self._perform(self.context, sources.wheel(right, down, point=self._view.call(middle, deadline=self._target.deadline)))

    def _heard(self, ready: Ready, mark: int, limit: float) -> Any:
        """What heard.js tells of a click behind a mark, asked for where it does not say it of itself."""
        connection, said = self._view.connection, partial(_said_of, ready.press)
        if ready.press:
            with suppress(BrowserTimeout):
                event = connection.await_event(said, "what was heard of a click", min(HEARING, limit), mark)
                if told := _told(event):
                    return told
        asked = connection.call(ready.context, _HEARD, limit=limit)
        # It may have come too late, and just before that.
        return asked or next((told for event in connection.since(mark) if said(event) and (told := _told(event))), None)

    def _received(self, where: Where, ready: Ready, mark: int, deadline: float) -> bool:
        """Whether a click was received by its element or what is in it; False where it was held back, the page replaced the element
        meanwhile, or a guard has cleared away what received it, so that it is to be clicked again. BrowserError where something
        else received it, or it was held back until the deadline."""
        left = max(1.0, deadline - time.monotonic())
        try:
            heard = self._heard(ready, mark, answering(deadline))
        except DocumentGone:  # it went elsewhere: whatever was clicked has heard it
            self._view.after_action(mark, left)
            return True
        except BrowserTimeout:
            return True
        if heard is not None and heard[-1]:
            self._view.begun(mark, min(left, BEGINNING))
        self._view.arrive(mark, left)
        if heard is None:
            return True  # it is another document already
        pressed, clicked, there, other, held, drawn, _ = heard
        self._view.undrawn = not drawn
        if held:
            if time.monotonic() > deadline:
                raise BrowserError(
                    f"{where} was not clicked: whenever it was pressed, {held}; the press was held back from the page"
                )
            return False
        if clicked or (pressed and there) or not (other or pressed) or (there and not other):
            return True
        if not there and time.monotonic() < deadline:
            copy = self._copy(where)
            return copy is None or copy  # the one that stands in its place now has received it, or is to be clicked
        if pressed or not there:
            return True
        if self._target.guards and time.monotonic() < deadline and self._target.guard_now(self._view.taken(deadline).page):
            return False
        raise BrowserError(f"{where} was clicked, but {other} received the click: it came in between")

    def _copy(self, where: Where) -> bool | None:
        """Whether the one that is found in the place of an element that was replaced under a click received it; None: none is."""
        taken = self._view.taken(self._target.deadline)
        matched = match(taken.page, self._target.meant(where).alternatives[0])
        if len(matched) != 1:
            return None
        context, number = taken.places[matched[0]]
        struck = """(number) => {
          let at = globalThis.waryHoundStruck;
          while (at && at !== globalThis.waryHoundTaken[number]) at = at.parentNode || at.host;
          return Boolean(at);
        }"""
        return bool(self._view.connection.call_if_there(context, struck, number))

    # --- writing ------------------------------------------------------------------------------------------------------

    def type(self, where: Where, text: str) -> None:
        """Write a text into a field, in place of what is there. Dates, times, colours and ranges as HTML has them (2031-08-12).

        What the field holds then is looked at: where letters or figures of the text did not arrive (a page that draws its fields
        anew while one writes), it is written once more, and if they do not arrive again, BrowserError says what the field holds.
        """
        self._written(where, text, "all")

    def add(self, where: Where, text: str, *, before: bool = False) -> None:
        """Write a text behind what a field holds, or before it."""
        self._written(where, text, "start" if before else "end")

    def _written(self, where: Where, text: str, place: str) -> None:
        deadline = self._target.deadline
        before: str | None = None
        tries = 0
        while True:
            try:
                ready, held = self._focused(where, text if place == "all" else None, place, deadline)
                if held is None:
                    return
                before = held if before is None else before
                wanted = {"all": text, "end": before + text, "start": text + before}[place]
                if tries:  # what was drawn anew may hold it all the same; what was added twice is not what was asked for
                    if _holds(wanted, held, -1):
                        return
                    if tries > 1 or (place != "all" and held != before):
                        shown = self._view.connection.call_if_there(ready.context, script("held.js"), ready.node)
                        said = repr(shown[0]) if shown else "something else"
                        raise BrowserError(
                            f"{where} holds {said} after {text!r} was typed into it: the page changes what is written"
                        )
                tries += 1
                if self._wrote(ready, text, wanted, erase=place == "all" and bool(held)):
                    return
            except (DocumentGone, ElementGone):
                if time.monotonic() > deadline:
                    raise

    def _focused(self, where: Where, picked: str | None, place: str, deadline: float) -> tuple[Ready, str | None]:
        """The field, once it has the focus, and what it holds; None where it is of those that are set to what is `picked`."""
        while True:
            ready = self._target.ready(where, "type", deadline)
            call = self._view.connection.call
            if picked is not None:
                said = call(ready.context, script("picked.js"), ready.node, picked)
                if said == "set":
                    return ready, None
                if said:
                    raise BrowserError(f"{where} does not take {picked!r}: {said}")
            held = call(ready.context, script("caret.js"), ready.node, place)
            if held is not None:
                return ready, str(held)
            if time.monotonic() > deadline:
                raise BrowserError(f"{where} was not written into: the page drew it anew whenever it was to have the focus")

    def _wrote(self, ready: Ready, text: str, wanted: str, *, erase: bool) -> bool:
        """Write once where the focus is; whether the field holds what is wanted then, as far as that can be told."""
        if erase:
            self._perform(ready.context, sources.typed(KEYS["Delete"]))
        for start in range(0, len(text), MOST_TYPED):
            self._perform(ready.context, sources.typed(text[start : start + MOST_TYPED]))
        held = self._view.connection.call_if_there(ready.context, script("held.js"), ready.node)
        return held is None or _holds(wanted, str(held[0]), int(held[1]))

    def clear(self, where: Where) -> None:
        """Empty a field."""
        ready, held = self._focused(where, None, "all", self._target.deadline)
        if held:
            self._perform(ready.context, sources.typed(KEYS["Delete"]))

    def keys(self, keys: str) -> None:
        """Press a key or a chord, such as `Enter` or `Control+A`, wherever the focus is."""
        self._perform(self.context, sources.struck(keys))

    # --- forms --------------------------------------------------------------------------------------------------------

    def choose(self, where: Where, *options: str, value: str | None = None, position: int | None = None) -> None:
        """Choose an option of a native select by its text, its value or its position (from 1); several, by their texts, of one
        that takes several: these and no others then."""
        if len(options) > 1:
            self._chosen(where, "texts", "\n".join(options))
        elif value is not None:
            self._chosen(where, "value", value)
        else:
            self._chosen(where, *(("position", str(position)) if position else ("text", options[0] if options else "")))

    def unchoose(self, where: Where, option: str) -> None:
        """Take an option, by its text, out of what is chosen in a select that takes several."""
        self._chosen(where, "not", option)

    def _chosen(self, where: Where, by: str, wanted: str) -> None:
        ready = self._target.ready(where, "choose")
        wrong = self._view.connection.call(ready.context, script("choose.js"), ready.node, by, wanted)
        if wrong:
            told = {"texts": "options", "not": "option to take out,"}.get(by, f"option with {by}")
            raise BrowserError(f"{where}: no {told} {wanted!r}; {wrong}")

    def tick(self, where: Where) -> None:
        """See to it that a checkbox or radio is ticked."""
        self._ticked(where, True)

    def untick(self, where: Where) -> None:
        """See to it that a checkbox is not ticked."""
        self._ticked(where, False)

    def _ticked(self, where: Where, wanted: bool) -> None:
        def is_ticked() -> tuple[bool, bool]:
            context, node = self._target.node(where)
            ticked, hidden = self._view.connection.call(context, _TICKED, node)
            return bool(ticked), bool(hidden)

        ticked, hidden = self._view.ask(is_ticked, self._target.deadline)
        if ticked != wanted:
            if hidden:
                self._press(where, [sources.LEFT], "tick")
            else:
                self.click(where)
            if self._view.ask(is_ticked, self._target.deadline)[0] != wanted:
                raise BrowserError(f"{where} was clicked, but is {'not ' if wanted else ''}ticked")

    def upload(self, where: Where, *files: str | Path) -> None:
        """Give files to a file field. BrowserError where one is not there."""
        context, node = self._target.node(where)
        self._view.connection.send("input.setFiles", context=context, element=node, files=existing(files))

    # --- going places -------------------------------------------------------------------------------------------------

    def back(self) -> None:
        """To the page before, as the browser's history has it."""
        self._view.go(-1, self.limit)

    def forward(self) -> None:
        """To the page that one has gone back from."""
        self._view.go(1, self.limit)

    def reload(self) -> None:
        """Load the page again."""
        mark = self._view.connection.mark
        self._view.connection.send("browsingContext.reload", context=self.context, wait="interactive", limit=self.limit)
        self._view.arrive(mark, self.limit)

    def answering(
        self, kind: Kind, message: str | None = None, *, accept: bool = True, text: str | None = None
    ) -> AbstractContextManager[None]:
        """For a `with` block by which a dialog opens: its kind and message are checked, it is accepted or dismissed, `text` goes
        into a prompt. BrowserError where another opened, or none within the limit behind the block."""
        return self._dialogs.answering(kind, message, accept, text, self.context, self.limit)

    # --- sending ------------------------------------------------------------------------------------------------------

    def _acted(
        self,
        where: Where,
        wants: str,
        act: Callable[[Json], list[Json]],
        deadline: float,
        at: tuple[int, int] = (0, 0),
        *,
        still: bool = True,
    ) -> tuple[Ready, int]:
        """Wait until an element is ready and act, given the move to it; again where it was taken out of the page in between. Where
        that happens again and again, the point at which it stood is moved to: what stands there now is looked at afterwards. Gives
        the mark behind which the input was sent, too."""
        gone = 0
        while True:
            ready = self._target.ready(where, wants, deadline, still=still)
            if wants == "click" and not ready.press:
                ready = replace(ready, press=self._listening(ready.context))
            mark = self._view.connection.mark
            x, y = ready.point
            itself = gone < MOST_GONE and not ready.aside and (still or ready.context != self.context)
            move = sources.to_element(ready.node, *at) if itself else sources.to_point(x + at[0], y + at[1])
            try:
                self._send(ready.context if itself else self.context, act(move))
                return ready, mark
            except (DocumentGone, ElementGone):
                gone += 1
                if self._view.closed:
                    return ready, mark  # it closed itself by what was done
                if time.monotonic() > deadline:
                    raise

    def _listening(self, context: str) -> float:
        """Has heard.js in a document say what it hears; the number of the press that it listens for now, 0 where there is none."""
        return float(self._view.connection.call_if_there(context, _SAYING, channel(_CHANNEL)) or 0)

    def _send(self, context: str, actions: list[Json]) -> None:
        """Perform input."""
        connection = self._view.connection
        with connection.exclusive():
            self._to_front_for_input()
            connection.send("input.performActions", context=context, actions=actions, limit=max(self.limit, ANSWERING))

    def _to_front_for_input(self) -> None:
        """Input goes to the page that is before the others; pages behind it are not drawn, and may never answer."""

    def _perform(self, context: str, actions: list[Json]) -> None:
        mark = self._view.connection.mark
        try:
            self._send(context, actions)
        except DocumentGone:
            if not self._view.closed:
                raise
        self._view.after_action(mark, self.limit)


def existing(files: Sequence[str | Path]) -> list[str]:
    """Paths of files that are there. BrowserError where one is not."""
    paths = [Path(file).resolve() for file in files]
    for path in paths:
        if not path.is_file():
            raise BrowserError(f"{path}: there is no such file to upload")
    return [str(path) for path in paths]
