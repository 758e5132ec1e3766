"""What a check expects is broken on the page just before it: a check that holds nevertheless notices nothing.

First the check's own expectation is waited for, so that what the page still has to do cannot mend what was broken.
"""

from __future__ import annotations

import contextlib
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from urllib.parse import urlsplit

from wary_hound.browser.network import Request
from wary_hound.browser.page import LivePage
from wary_hound.browser.scripts import script
from wary_hound.errors import BrowserError, WaryHoundError
from wary_hound.journey.parts import Planned
from wary_hound.journey.steps import THE_PAGE
from wary_hound.locator.evaluate import match
from wary_hound.running.checks import Seen, check
from wary_hound.running.replay import Run

NO_DIALOG, OTHER_DIALOG = "its dialog does not open", "its dialog says something else"
PUT_BACK, UNSENT = "put back", "never sent"
_OF_ELEMENTS = {
    "shown": "hidden", "hidden": "shown", "gone": PUT_BACK, "reads": "another text", "contains": "another text",
    "matches": "another text", "counts": "one taken out", "texts": "another text", "holds": "another value",
    "chosen": "nothing chosen", "ticked": "the other state", "unticked": "the other state", "enabled": "disabled",
    "disabled": "enabled", "editable": "not editable", "focused": "not focused", "looks": "other colours",
}  # fmt: skip
_OF_THE_PAGE = {
    "title": "another title", "console": "an error in the console", "address": "another address", "asked": UNSENT,
    "looks": "other colours",
}  # fmt: skip
_IN_THE_PAGE = {
    "another title": "() => { document.title = 'broken on purpose'; }",
    "an error in the console": "() => { setTimeout(() => { throw new Error('broken on purpose'); }); }",
    "another address": "() => { history.replaceState(history.state, '', '/broken-on-purpose'); }",
    "other colours": "() => { document.documentElement.style.setProperty('filter', 'invert(1)', 'important'); }",
}
_DIALOGS = """(says) => {
  for (const name of ["alert", "confirm", "prompt"]) {
    const opens = window[name];
    window[name] = (message, ...more) => says ? opens.call(window, says, ...more) : { confirm: true, prompt: "" }[name];
  }
  if (!says) addEventListener("beforeunload", (event) => event.stopImmediatePropagation(), true);
}"""
_OUTER = "(number) => (globalThis.waryHoundTaken || [])[number]?.outerHTML || ''"
_INSERT = "(html) => { document.body.insertAdjacentHTML('beforeend', html); }"


def changes_to(planned: Planned) -> list[str]:
    """What is done to what a step expects, in words; nothing where it expects nothing that can be broken."""
    step = planned.step
    if step.action == "check":
        table = _OF_THE_PAGE if step.on == THE_PAGE else _OF_ELEMENTS
        change = table.get(str(step.expect), "")
        return [change] if change else []
    dialog = str(step.more.get("dialog", ""))
    return [*([NO_DIALOG] if dialog else []), *([OTHER_DIALOG] if "saying" in step.more and dialog != "beforeunload" else [])]


@dataclass
class Breaking:
    """A change to a page, done before its step: call it before each step with the page and the step's number. `sound`: the run
    without it; `folder`: where the journey's files lie."""

    planned: Planned
    change: str
    sound: Run
    folder: Path
    done: bool = False
    """Whether there was anything to change."""
    _kept: str = field(default="", repr=False)
    _acts: dict[str, Callable[[LivePage], bool]] = field(init=False, repr=False)

    def __post_init__(self) -> None:
        self._acts = {
            PUT_BACK: self._put_back,
            NO_DIALOG: lambda live: self._dialogs(live, ""),
            OTHER_DIALOG: lambda live: self._dialogs(live, "broken on purpose"),
        }

    def __call__(self, live: LivePage, number: int) -> None:
        if self.change == UNSENT and number == 1:
            self.done = self._withhold(live)
        if self.change == PUT_BACK and number <= self.planned.number:
            self._keep(live)
        if number == self.planned.number and self.change != UNSENT:
            self.done = self._acts.get(self.change, self._on_the_page)(live)

    def _on_the_page(self, live: LivePage) -> bool:
        step, locator = self.planned.step, self.planned.locator
        seen = Seen()
        if locator is not None:
            seen.used(locator)
        with contextlib.suppress(WaryHoundError):  # what is wrong already the check will say
            check(live, step, locator, seen, self.folder)
        if step.on == THE_PAGE or locator is None:
            with contextlib.suppress(BrowserError):  # such as another address where there is no server
                live.script(_IN_THE_PAGE[self.change])
                return True
            return False
        taken = live._taken()
        matched = match(taken.page, locator.alternatives[0])
        for place in matched if self.change in ("another text", "hidden", "shown") else matched[:1]:
            context, number = taken.places[place]
            live._connection.call_if_there(context, script("break.js"), number, self.change)
        return bool(matched)

    # --- absence ------------------------------------------------------------------------------------------------------

    def _keep(self, live: LivePage) -> None:
        """Keep the markup of what is to go, as it was last there."""
        locator = self.planned.locator
        if locator is None:
            return
        taken = live._taken()
        for place in match(taken.page, locator.alternatives[0])[:1]:
            context, number = taken.places[place]
            self._kept = str(live._connection.call_if_there(context, _OUTER, number) or self._kept)

    def _put_back(self, live: LivePage) -> bool:
        locator = self.planned.locator
        if locator is None or not self._kept:
            return False
        live.until(lambda page: not match(page, locator.alternatives[0]))
        live.script(_INSERT, self._kept)
        return bool(match(live._taken().page, locator.alternatives[0]))

    # --- dialogs and requests -----------------------------------------------------------------------------------------

    def _dialogs(self, live: LivePage, says: str) -> bool:
        """In the page's own realm, in all of its frames: there its scripts open them."""
        tree = live._connection.send("browsingContext.getTree", root=live.context)
        contexts = list(tree["contexts"])
        for entry in contexts:
            contexts.extend(entry.get("children") or ())
            live._connection.send(
                "script.callFunction", functionDeclaration=_DIALOGS, awaitPromise=False,
                target={"context": entry["context"]}, arguments=[{"type": "string", "value": says}],
            )  # fmt: skip
        return True

    def _withhold(self, live: LivePage) -> bool:
        """Requests to where the last one went that the check counted: a pattern that others meet too is too wide."""
        method, _, pattern = self.planned.step.value.rpartition(" ")
        sent = [said.split(" ", 2)[:2] for step in self.sound.steps[: self.planned.number] for said in step.requests]
        asked = [Request(way, address.removesuffix(":"), document=False) for way, address in sent]
        fitting = [r for r in asked if r.is_like(pattern, method)]
        if not fitting:
            return False
        parts = urlsplit(fitting[-1].address)
        for ending in ("", "?*"):
            live.withhold(f"{parts.scheme}://{parts.netloc}{parts.path}{ending}", fitting[-1].method)
        return True
