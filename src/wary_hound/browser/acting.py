"""Acting on a live page as a person does: by the protocol's input actions, on elements that are ready for it.

Before an action the page is asked, in one call that waits inside it, until the element is shown, still, enabled, in view and
not covered; after it, a navigation that it started is awaited. Elements in frames and shadow trees need nothing special.
"""

from __future__ import annotations

import contextlib
import datetime
import time
from collections.abc import Callable, Iterator, Mapping
from contextlib import AbstractContextManager
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from wary_hound.browser import capture as capturing
from wary_hound.browser.connection import Connection
from wary_hound.browser.dialogs import Dialogs, Kind
from wary_hound.browser.direct import direct_form, ready_script
from wary_hound.browser.keys import KEYS, chord
from wary_hound.browser.protocol import Event, Json
from wary_hound.errors import BrowserError, BrowserTimeout
from wary_hound.healing import relocate
from wary_hound.healing.names import Healed, Healing, Known, by_another_way, contradicted, healed, trouble_of
from wary_hound.locator.evaluate import as_locator, match
from wary_hound.locator.explain import explain
from wary_hound.locator.near import Near, nearest
from wary_hound.locator.values import Locator
from wary_hound.page import Element, Page
from wary_hound.page.secrets import ORDINARY, Secrets
from wary_hound.page.trees import FRAME

Where = Locator | str
GUARDED_AFTER = 0.5
"""Seconds that an action may be held up before guards look."""
MOST_USED = 20
"""Of so many locators it is remembered what they last found, to look for it when they find nothing."""
ANOTHER_LIMIT = 3.0
"""Seconds that an element has to be ready which is used in the place of one that was not found."""
GUARD_LIMIT = 3.0
"""Seconds for what a guard has acted upon to go away."""
_FRAME = "() => new Promise((next) => { requestAnimationFrame(() => setTimeout(next)); setTimeout(next, 100); })"
_LOADED = "() => document.readyState === 'complete' || new Promise((next) => addEventListener('load', () => next(true)))"
_CHOOSE = """(select, by, wanted) => {
  if (select.localName !== "select") return "it is no select";
  const options = [...select.options];
  const at = by === "position" ? Number(wanted) - 1
    : options.findIndex((o) => by === "value" ? o.value === wanted : o.text.trim().replace(/\\s+/g, " ") === wanted);
  const option = options[at];
  if (!option) return "its options are: " + options.map((o) => o.text.trim()).join(", ");
  if (option.disabled) return "that option is disabled";
  if (select.multiple ? !option.selected : select.selectedIndex !== at) {
    select.focus();
    option.selected = true;
    for (const kind of ["input", "change"]) select.dispatchEvent(new Event(kind, { bubbles: true, composed: kind === "input" }));
  }
  return "";
}"""
_EMPTY = """(element) => {
  element.focus();
  if (element.select) element.select(); else getSelection().selectAllChildren(element);
  return element.value === undefined ? element.textContent : element.value;
}"""
_PICKED = """(element, value) => {
  if (!["date", "time", "datetime-local", "month", "week", "color", "range"].includes(element.type)) return "";
  element.focus();
  element.value = value;
  if (element.value !== value && !(element.type === "range" && Number(element.value) === Number(value))) {
    return `it holds ${JSON.stringify(element.value)} then`;
  }
  for (const kind of ["input", "change"]) element.dispatchEvent(new Event(kind, { bubbles: true, composed: kind === "input" }));
  return "set";
}"""
_HELD = """(element) => {
  if (!element.isConnected) return ["", -1];
  const most = element.maxLength === undefined ? -1 : element.maxLength;
  return typeof element.value === "string" && element.type !== "password" ? [element.value, most] : null;
}"""


@dataclass
class Guard:
    """When something is shown and in the way of an action, do something about it. `uses` counts how often that was needed."""

    shown: Locator
    act: Callable[[], None]
    uses: int = 0

    def needed(self, page: Page) -> bool:
        """Whether what it guards against is shown on a page."""
        return any(page.semantics.visible[i] for i in match(page, self.shown))


MOST_TYPED = 200
"""So many characters are typed in one call of the protocol: each has the time limit."""


def _holds(text: str, held: str, most: int) -> bool:
    """Whether the letters and figures of a text are what a field holds, in order (it may add signs, or be too short for all)."""
    said, there = ([c.casefold() for c in value if c.isalnum()] for value in (text, held))
    return said == there or (most >= 0 and said[: len(there)] == there and len(held) >= most) or (not there and not said)


class Acting:
    """Actions of a live page. Each takes a locator, and raises BrowserTimeout with what failed last at the time limit. Other ways
    of a locator (behind `else`) count only when the first has had the limit; `healed` then tells it."""

    def __init__(
        self,
        connection: Connection,
        context: str,
        dialogs: Dialogs,
        limit: float,
        touch: bool = False,
        secrets: Secrets = ORDINARY,
    ) -> None:
        self._connection = connection
        self.context = context
        self._dialogs = dialogs
        self.limit = limit
        self._touch = touch
        self._secrets = secrets
        self.guards: list[Guard] = []
        self._used: dict[Locator, Element] = {}
        self._guarding = False
        self._names: Mapping[str, Known] = {}
        self._healing: Healing = "propose"
        self._healed: list[Healed] = []

    @property
    def healed(self) -> tuple[Healed, ...]:
        """The uses of names so far whose locators were in trouble: a run that has any is not plainly green."""
        return tuple(self._healed)

    def know(self, names: Mapping[str, Known], healing: Healing = "propose") -> None:
        """From now on names stand for locators here. `healing`: what becomes of one whose locator does not find its element, or
        finds another as its witnesses agree: nothing is looked for (`off`); the error says where it is (`propose`); or it is acted
        on when that is sure (`sure`), which `healed` tells."""
        self._names, self._healing = dict(names), healing

    def _meant(self, where: Where) -> Locator:
        known = self._names.get(where) if isinstance(where, str) else None
        return known.locator if known is not None else as_locator(where)

    def guard(self, shown: Where, act: Callable[[], None] | Where) -> Guard:
        """From now on, when `shown` is on the page and an action does not get ready, `act` (click a locator, or call) and wait
        until it is away. BrowserError where that does not help."""
        if not callable(act):
            where = self._meant(act)
            made = Guard(self._meant(shown), lambda: self.click(where))
        else:
            made = Guard(self._meant(shown), act)
        self.guards.append(made)
        return made

    # --- pointing -----------------------------------------------------------------------------------------------------

    def click(self, where: Where) -> None:
        """Click an element, or tap it on an emulated phone."""
        self._press(where, [0])

    def double_click(self, where: Where) -> None:
        """Click an element twice."""
        self._press(where, [0, 0])

    def right_click(self, where: Where) -> None:
        """Click an element with the right button."""
        self._press(where, [2])

    def hover(self, where: Where) -> None:
        """Bring the pointer over an element."""
        context, node = self._ready(where, "hover")
        self._perform(context, _pointer([_to(node)]))

    def drag(self, where: Where, onto: Where) -> None:
        """Press on one element, move to another and let go. Both must be in one frame."""
        context, node = self._ready(where, "drag")
        other, target = self._ready(onto, "hover")
        if context != other:
            raise BrowserError(f"{where} and {onto} are in different frames: a drag cannot cross that edge")
        moves = [_to(node), {"type": "pointerDown", "button": 0}, _to(node, 4), _to(target, 0, 120), _to(target, 1, 60)]
        self._perform(context, _pointer([*moves, {"type": "pointerUp", "button": 0}]))

    def scroll_to(self, where: Where) -> None:
        """Bring an element into view."""
        self._ready(where, "hover")

    def scroll_by(self, right: int = 0, down: int = 0) -> None:
        """Turn the wheel over the middle of the window, by CSS pixels."""
        middle = self._connection.call(self.context, "() => [Math.floor(innerWidth / 2), Math.floor(innerHeight / 2)]")
        wheel = {"type": "scroll", "x": middle[0], "y": middle[1], "deltaX": right, "deltaY": down, "origin": "viewport"}
        self._perform(self.context, [{"type": "wheel", "id": "wheel", "actions": [wheel]}])

    def _press(self, where: Where, buttons: list[int]) -> None:
        context, node = self._ready(where, "click")
        moves: list[Json] = [_to(node)]
        for button in buttons:
            moves += [{"type": "pointerDown", "button": button}, {"type": "pointerUp", "button": button}]
        self._perform(context, _pointer(moves, "touch" if self._touch and not any(buttons) else "mouse"))

    # --- writing ------------------------------------------------------------------------------------------------------

    def type(self, where: Where, text: str) -> None:
        """Write a text into a field, in place of what is there. Dates, times, colours and ranges as HTML has them (2031-08-12).

        What the field holds then is looked at: where letters or figures of the text did not arrive (a page that draws its fields
        anew while one writes), it is written once more, and if they do not arrive again, BrowserError says what the field holds.
        """
        for last in (False, True):
            context, node = self._ready(where, "type")
            picked = self._connection.call(context, _PICKED, node, text)
            if picked:
                if picked != "set":
                    raise BrowserError(f"{where} does not take {text!r}: {picked}")
                return
            self._emptied(context, node)
            for start in range(0, len(text), MOST_TYPED):
                self._perform(context, _typed(text[start : start + MOST_TYPED]))
            held = self._connection.call_if_there(context, _HELD, node)
            if held is None or _holds(text, str(held[0]), int(held[1])):
                return
            if last:
                raise BrowserError(f"{where} holds {held[0]!r} after {text!r} was typed into it: the page changes what is written")

    def clear(self, where: Where) -> None:
        """Empty a field."""
        context, node = self._ready(where, "type")
        self._emptied(context, node)

    def keys(self, keys: str) -> None:
        """Press a key or a chord, such as `Enter` or `Control+A`, wherever the focus is."""
        held = chord(keys)
        down = [{"type": "keyDown", "value": key} for key in held]
        up = [{"type": "keyUp", "value": key} for key in reversed(held)]
        self._perform(self.context, [{"type": "key", "id": "keys", "actions": [*down, *up]}])

    def _emptied(self, context: str, node: Json) -> None:
        if self._connection.call(context, _EMPTY, node):
            self._perform(context, _typed(KEYS["Delete"]))

    # --- forms --------------------------------------------------------------------------------------------------------

    def choose(self, where: Where, option: str = "", *, value: str | None = None, position: int | None = None) -> None:
        """Choose an option of a native select by its text, its value or its position (from 1)."""
        by, wanted = ("value", value) if value is not None else ("position", str(position)) if position else ("text", option)
        context, node = self._ready(where, "choose")
        wrong = self._connection.call(context, _CHOOSE, node, by, str(wanted))
        if wrong:
            raise BrowserError(f"{where}: no option with {by} {wanted!r}; {wrong}")

    def tick(self, where: Where) -> None:
        """See to it that a checkbox or radio is ticked."""
        self._ticked(where, True)

    def untick(self, where: Where) -> None:
        """See to it that a checkbox is not ticked."""
        self._ticked(where, False)

    def _ticked(self, where: Where, wanted: bool) -> None:
        context, node = self._ready(where, "hover")
        state = "(e) => String(e.checked ?? e.getAttribute('aria-checked') === 'true')"
        if (self._connection.call(context, state, node) == "true") != wanted:
            self.click(where)
            if (self._connection.call(context, state, node) == "true") != wanted:
                raise BrowserError(f"{where} was clicked, but is {'not ' if wanted else ''}ticked")

    def upload(self, where: Where, *files: str | Path) -> None:
        """Give files to a file field. BrowserError where one is not there."""
        paths = [Path(file).resolve() for file in files]
        for path in paths:
            if not path.is_file():
                raise BrowserError(f"{path}: there is no such file to upload")
        (context, number), *_ = self._one(where, time.monotonic() + self.limit)
        node = self._connection.call(context, f"() => globalThis.waryHoundTaken[{number}]")
        self._connection.send(
            "input.setFiles", context=context, element={"sharedId": node["sharedId"]}, files=[str(path) for path in paths]
        )

    # --- going places -------------------------------------------------------------------------------------------------

    def back(self) -> None:
        """To the page before, as the browser's history has it."""
        deadline = time.monotonic() + self.limit
        self._connection.send("browsingContext.traverseHistory", context=self.context, delta=-1)
        while True:
            try:  # a page that comes back whole from the browser's cache tells of no loading
                self._connection.call(self.context, _LOADED, waited_for="the page before to load", limit=self.limit)
                return
            except BrowserError:
                if time.monotonic() > deadline:
                    raise

    def reload(self) -> None:
        """Load the page again."""
        self._connection.send("browsingContext.reload", context=self.context, wait="complete", limit=self.limit)

    def answering(
        self, kind: Kind, message: str | None = None, *, accept: bool = True, text: str | None = None
    ) -> AbstractContextManager[None]:
        """For a `with` block in which a dialog opens: its kind and message are checked, it is accepted or dismissed, `text` goes
        into a prompt. BrowserError where none opened, or another."""
        return self._dialogs.answering(kind, message, accept, text)

    # --- readiness ----------------------------------------------------------------------------------------------------

    def _taken(self) -> capturing.Capture:
        """What the page shows now."""
        now = datetime.datetime.now(datetime.UTC).isoformat(timespec="seconds")
        return capturing.capture(self._connection, self.context, now, self._secrets)

    def _captures(self, deadline: float) -> Iterator[capturing.Capture]:
        """The page now, and again whenever it has changed, at least once a second, until the deadline."""
        while True:
            yield self._taken()
            left = deadline - time.monotonic()
            if left <= 0:
                return
            self._connection.call(self.context, capturing.script("changed.js"), int(1000 * min(left, 1.0)), limit=left + 5)

    def _sole(self, where: Where, deadline: float) -> tuple[capturing.Capture, int]:
        """A capture in which a locator matches one element, waited for where it does not yet, and that element's index. For a name
        whose locator is in trouble at the end, the element that the judge is sure of, where it may be used."""
        locator = self._meant(where)
        first = locator.alternatives[0]
        known = self._names.get(where) if isinstance(where, str) and self._healing != "off" else None
        for taken in self._captures(deadline):
            found = match(taken.page, first)
            if len(found) == 1 and (known is None or not contradicted(known, taken.page, found[0])):
                self._used[locator] = taken.page[found[0]]
                if len(self._used) > MOST_USED:
                    self._used.pop(next(iter(self._used)))
                return taken, found[0]
            if self._guarded(taken.page):
                return self._sole(where, deadline)
        healing = self.elsewhere(where, taken.page)
        if healing is not None and healing.acted and healing.element is not None:
            return taken, healing.element.index
        if healing is not None:
            raise self._failed(f"waited {self.limit:g} s: {healing}; at the end:", taken.page, locator)
        raise self._failed(f"waited {self.limit:g} s for {locator} to find one element; at the end:", taken.page, locator)

    def elsewhere(self, where: Where, page: Page) -> Healed | None:
        """What is used, or would be, in the place of an element that its locator does not find on a page: what another way of the
        locator finds, or what the judge finds of a name. `healed` tells it. None where there is neither."""
        found = by_another_way(str(where), self._meant(where), page)
        known = self._names.get(where) if isinstance(where, str) else None
        if found is None and known is not None:
            found = healed(known, page, self._healing, trouble_of(known, page))
        if found is not None:
            self._healed.append(found)
        return found

    def _one(self, where: Where, deadline: float) -> list[tuple[str, int]]:
        """The one element: its browsing context and number, then those of the frames that it is in, from the inside."""
        taken, found = self._sole(where, deadline)
        hosts = [host for host in taken.page.hosts(found) if taken.page.hosted[host].kind == FRAME]
        return [taken.places[at] for at in (found, *reversed(hosts))]

    def _ready(self, where: Where, wants: str) -> tuple[str, Json]:
        """The context of the element and a reference to it, when it can be acted on."""
        deadline, healed_before = time.monotonic() + self.limit, len(self._healed)
        direct = direct_form(as_locator(where).alternatives[0]) if where not in self._names else None
        if direct is not None:
            state, node, *_ = self._waited(self.context, direct, wants, deadline)
            if state == "ready":
                return self.context, {"sharedId": node["sharedId"]}
        while True:
            (context, number), *frames = self._one(where, deadline)
            if len(self._healed) > healed_before:  # it has had the limit: what was found instead has a moment to be ready
                deadline, healed_before = max(deadline, time.monotonic() + ANOTHER_LIMIT), len(self._healed)
            state, node, *point = self._waited(context, number, wants, deadline)
            for outer, frame in frames:
                if state == "ready":
                    state, _, *point = self._waited(outer, frame, "hover", deadline, *point)
            if state == "ready":
                return context, {"sharedId": node["sharedId"]}
            if self.guards and not self._guarding and time.monotonic() < deadline:
                self._guarded(self._taken().page)
                continue
            if state != "gone" or time.monotonic() > deadline:
                word = "it was taken out of the page again and again" if state == "gone" else state
                raise self._failed(f"waited {self.limit:g} s to {wants} {where}: {word};", self._taken().page, self._meant(where))

    def _failed(self, said: str, page: Page, locator: Locator) -> BrowserTimeout:
        """The error at the time limit, with all that helps to see why."""
        found = explain(page, locator)
        lines = [f"{said} {found.summary}", *str(found).splitlines()[1:]]
        near: tuple[Near, ...] = ()
        if not found.found:
            near = self._nearest(page, locator)
            lines.extend(f"  near it: {one}" for one in near)
        strangers = [dialog for dialog in self._dialogs.seen if not dialog.expected]
        lines.extend(f"  before: {d.kind} {d.message!r} opened, which nobody expected, and was dismissed" for d in strangers[-3:])
        picture = b""
        with contextlib.suppress(BrowserError):
            picture = capturing.screenshot(self._connection, self.context)
        return BrowserTimeout("\n".join(lines), found, near, picture)

    def _nearest(self, page: Page, locator: Locator) -> tuple[Near, ...]:
        """By relocation where the locator has been used before on this page; else by what it says itself."""
        known = self._used.get(locator)
        if known is None:
            return nearest(locator, page)
        verdict = relocate(known, page)
        first = () if verdict.element is None else ((verdict.element, verdict.confidence),)
        found = [
            Near(element, f"the one used before: {min(99, round(100 * chance))} % sure")
            for element, chance in (*first, *verdict.alternatives)
        ]
        return tuple(Near(near.element, "; ".join((near.why, *verdict.reasons))) if near is found[0] else near for near in found)

    def _waited(self, context: str, which: int | str, wants: str, deadline: float, *point: float) -> list[Any]:
        left = max(0.05, deadline - time.monotonic())
        if self.guards and not self._guarding:
            left = min(left, GUARDED_AFTER)
        asked = (which, wants, int(1000 * left), *point)
        found: list[Any] = self._connection.call(context, ready_script(), *asked, limit=left + 5)
        return found

    def _guarded(self, page: Page) -> bool:
        """Let the guards whose time has come act; whether any did."""
        if self._guarding:
            return False
        acted = False
        for guard in self.guards:
            if guard.needed(page):
                self._guarding = True
                try:
                    guard.act()
                finally:
                    self._guarding = False
                guard.uses += 1
                acted = True
                self._away(guard)
        return acted

    def _away(self, guard: Guard) -> None:
        for taken in self._captures(time.monotonic() + GUARD_LIMIT):
            if not guard.needed(taken.page):
                return
        raise BrowserError(f"the guard for {guard.shown} has acted, but it is still shown after {GUARD_LIMIT:g} s")

    def _perform(self, context: str, sources: list[Json]) -> None:
        self._connection.events.clear()
        self._connection.send("input.performActions", context=context, actions=sources, limit=self.limit)
        self._arrived()

    def _arrived(self) -> None:
        """Wait for the end of a navigation, where one has started."""
        must = False
        try:
            self._connection.call(self.context, _FRAME)
        except BrowserTimeout:
            raise
        except BrowserError:
            must = True  # the document went away under the question

        def of_ours(event: Event, *methods: str) -> bool:
            return event.method in methods and event.params.get("context") == self.context

        if must or any(of_ours(e, "browsingContext.navigationStarted") for e in self._connection.events):
            ends = ("browsingContext.load", "browsingContext.fragmentNavigated", "browsingContext.navigationFailed")
            self._connection.await_event(lambda event: of_ours(event, *ends), "the page to load", self.limit)


def _to(node: Json, right: int = 0, milliseconds: int = 0) -> Json:
    origin = {"type": "element", "element": node}
    return {"type": "pointerMove", "x": right, "y": 0, "duration": milliseconds, "origin": origin}


def _pointer(actions: list[Json], kind: str = "mouse") -> list[Json]:
    return [{"type": "pointer", "id": kind, "parameters": {"pointerType": kind}, "actions": actions}]


def _typed(text: str) -> list[Json]:
    pairs: list[dict[str, Any]] = []
    for character in text:
        key = {"\n": KEYS["Enter"], "\t": KEYS["Tab"]}.get(character, character)
        pairs += [{"type": "keyDown", "value": key}, {"type": "keyUp", "value": key}]
    return [{"type": "key", "id": "keys", "actions": pairs}]
