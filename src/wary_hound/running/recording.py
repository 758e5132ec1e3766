"""Recording: what a person does in a real window becomes a journey with its book, written as it goes."""

from __future__ import annotations

import contextlib
import datetime
import json
import time
from collections import deque
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path
from types import TracebackType
from typing import Any
from urllib.parse import urlsplit

from wary_hound.browser import capture as capturing
from wary_hound.browser.page import LivePage
from wary_hound.browser.protocol import Event, channel
from wary_hound.browser.scripts import script, taking
from wary_hound.errors import BrowserError, BrowserTimeout
from wary_hound.journey.data import literal
from wary_hound.journey.draft_book import DraftBook
from wary_hound.journey.journey import Journey, Start
from wary_hound.journey.review.of_steps import found_by
from wary_hound.journey.steps import Step
from wary_hound.page import Element
from wary_hound.running.handlers import handler_of

CHANNEL = "wary-hound-record"
BY_ACTION = 2.5
"""Seconds after an action in which a navigation is what the action did; a later one is somebody's who typed an address."""
SHOWN = 5
"""So many of the last steps stand on the panel."""
LONGEST = 200
"""A text of more characters is not proposed for a check."""
FORMS = ("reads", "contains", "shown", "counts", "texts")
"""What a check of an element's text can be turned into, in turn."""


@dataclass(frozen=True)
class Noted:
    """A step that was recorded, with the element that it is about."""

    step: Step
    element: Element | None = None


class Recorder:
    """Records what is done on a page and the pages that it opens, as a `with` block; `listen` takes in what was done. The
    journey is at `path`, its book beside it, its snapshots in a folder `pages`; all are written after each step."""

    def __init__(self, live: LivePage, path: Path, title: str, told: Callable[[Noted], None] = lambda _: None) -> None:
        self.live = live
        self.path = path
        self.title = title
        self.book = DraftBook(path.with_name(f"{path.stem}.book.yaml"), path.parent / "pages", path.stem)
        self.steps: list[Noted] = []
        self.ended = False
        self._told = told
        self._heard: deque[tuple[str, dict[str, Any]]] = deque()
        self._documents: dict[str, dict[str, capturing.Document]] = {}
        self._offs: list[Callable[[], None]] = []
        self._acted = 0.0
        self._typed_address: set[str] = set()
        self._checking = False
        self._numbers: set[tuple[str | None, int | None]] = set()
        self._secrets: dict[str, str] = {}
        self._preload = ""

    # --- beginning and ending -----------------------------------------------------------------------------------------

    def __enter__(self) -> Recorder:
        connection, browser = self.live._connection, self.live.browser
        browser.answers_dialogs = False
        heard: dict[str, Callable[[Event], None]] = {
            "script.message": self._hear,
            "browsingContext.contextDestroyed": self._closed,
            "browsingContext.navigationStarted": self._started,
            "browsingContext.userPromptClosed": self._answered,
            "browsingContext.downloadWillBegin": self._downloads,
            "browsingContext.domContentLoaded": self._parsed,
        }
        self._offs = [connection.on(method, handler) for method, handler in heard.items()]
        connection.send("session.subscribe", events=["browsingContext.userPromptClosed"])
        self._preload = connection.send(
            "script.addPreloadScript", functionDeclaration=_record(), arguments=[_tell()], sandbox="wary-hound"
        )["script"]
        address = urlsplit(self.live.address())
        self.base = f"{address.scheme}://{address.netloc}" if address.netloc else ""
        self._add(self._opens(address.geturl()))
        self._attach(self.live.context)
        return self

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None) -> None:
        for off in self._offs:
            off()
        self.live.browser.answers_dialogs = True
        with contextlib.suppress(BrowserError):
            self.live._connection.send("script.removePreloadScript", script=self._preload)

    def listen(self, seconds: float) -> None:
        """Take in what is done within some seconds, and what was done before. `ended` where the window was closed."""
        deadline = time.monotonic() + seconds
        while not self.ended:
            while self._heard:
                self._take_in(*self._heard.popleft())
            try:
                self.live._connection.listen(deadline)
            except BrowserTimeout:
                return
            except BrowserError:
                self.ended = True

    def finish(self) -> None:
        """Take in what is still being written in a field."""
        for context in list(self._documents):
            for inner in self._documents[context]:
                self.live._connection.call_if_there(inner, "() => globalThis.waryHoundRecord && globalThis.waryHoundRecord.flush()")
        self.listen(0.3)

    # --- what the browser tells ---------------------------------------------------------------------------------------

    def _hear(self, event: Event) -> None:
        if event.params.get("channel") == CHANNEL:
            said = json.loads(event.params["data"]["value"])
            number = (said.pop("own", None), said.pop("count", None))
            if number == (None, None) or number not in self._numbers:
                self._numbers.add(number)
                self._heard.append((str(event.params["source"]["context"]), said))

    def _closed(self, event: Event) -> None:
        if event.params.get("context") == self.live.context and not event.params.get("parent"):
            self._heard.append((self.live.context, {"kind": "closed"}))

    def _started(self, event: Event) -> None:
        if time.monotonic() - self._acted > BY_ACTION:
            self._typed_address.add(str(event.params.get("context")))

    def _parsed(self, event: Event) -> None:
        self._heard.append((str(event.params.get("context")), {"kind": "changed"}))

    def _answered(self, event: Event) -> None:
        accepted = bool(event.params.get("accepted"))
        kind = str(event.params.get("type") or "")
        answer = str(event.params.get("userText") or "") if kind == "prompt" and accepted else "yes" if accepted else "no"
        self._heard.append((str(event.params["context"]), {"kind": "dialog", "type": kind, "answer": answer or "yes"}))

    def _downloads(self, event: Event) -> None:
        name = str(event.params.get("suggestedFilename", ""))
        self._heard.append((str(event.params["context"]), {"kind": "download", "name": name}))

    def _take_in(self, context: str, said: dict[str, Any]) -> None:
        kind = str(said["kind"])
        if kind == "closed":
            self._go_on_elsewhere()
        elif kind in ("loaded", "changed"):
            self._loaded(context, said) if kind == "loaded" else self._attach(self._page_of(context))
        elif kind in ("undo", "rename", "next", "checking"):
            self._asked(kind, int(said["at"]), said)
        elif kind in ("dialog", "download"):
            self._beside(kind, said)
        else:
            self._acted = time.monotonic()
            self._done(context, kind, said)

    def _go_on_elsewhere(self) -> None:
        others = [page for page in self.live.browser.pages if not page.closed]
        if not others:
            self.ended = True
            return
        self._switch(others[-1].context)

    def _page_of(self, context: str) -> str:
        """The page that a frame is in."""
        return self.live.browser.network.page_of(context)

    def _attach(self, page: str) -> None:
        """See a page anew, and listen in all its documents and closed trees."""
        connection = self.live._connection
        try:
            self._documents[page], _ = capturing.documents(connection, page)
        except BrowserError:
            return  # it has gone on already, and will tell
        for context in self._documents[page]:
            connection.call_if_there(context, _record(), _tell())
        self._panel()

    def _loaded(self, context: str, said: dict[str, Any]) -> None:
        page = self._page_of(context)
        if said.get("top") and page == self.live.context and context in self._typed_address:
            how = {"back_forward": Step(action="go", value="back"), "reload": Step(action="go", value="again")}
            if said["address"] != "about:blank":
                self._add(how.get(str(said["how"])) or self._opens(str(said["address"])))
        self._typed_address.discard(context)
        self._attach(page)

    def _opens(self, address: str) -> Step:
        """The step that goes to an address: a path where it is of the recording's own site."""
        parts = urlsplit(address)
        own = self.base and f"{parts.scheme}://{parts.netloc}" == self.base
        return Step(action="open", value=(parts._replace(scheme="", netloc="").geturl() if own else address) or "/")

    # --- what was done ------------------------------------------------------------------------------------------------

    def _done(self, context: str, kind: str, said: dict[str, Any]) -> None:
        page_context = self._page_of(context)
        taken = self._assembled(page_context, context, str(said["nodes"]))
        if taken is None:
            return
        if page_context != self.live.context:
            self._switch(page_context)
        element = _at(taken, context, int(said["number"]))
        if element is None and kind != "keys":
            return
        if kind == "check":
            assert element is not None
            self._check(element, said)
            return
        if kind == "keys":
            self._add(Step(action="keys", value=str(said["value"])))
            return
        assert element is not None
        handler = handler_of(element, _at(taken, context, int(said["aim"]))) if "click" in kind else element
        name = self.book.name(handler, "type" if kind == "type" else "click")
        self._add(self._step(kind, name, said, taken, context), handler)

    def _step(self, kind: str, name: str, said: dict[str, Any], taken: capturing.Capture, context: str) -> Step:
        match kind:
            case "type":
                value = literal(str(said["value"]))
                if said.get("secret"):
                    key = f"{name}-secret" if name in self._secrets else name
                    self._secrets[key] = key.upper().replace("-", "_")
                    value = f"{{{key}}}"
                return Step(action="type", on=name, value=value) if value else Step(action="clear", on=name)
            case "choose" | "upload":
                values = tuple(str(v) for v in said["values"]) or ("",)
                one = len(values) == 1
                return Step(action=kind, on=name, value=values[0] if one else "", values=() if one else values)
            case "drag":
                onto = _at(taken, context, int(said["onto"]))
                target = self.book.name(onto, "click") if onto is not None else ""
                return Step(action="drag", on=name, more={"onto": target})
            case "click" if said.get("keys"):
                names = {"ctrl": "Control", "shift": "Shift", "alt": "Alt", "meta": "Meta"}
                return Step(action="click", on=name, more={"holding": "+".join(names[k] for k in said["keys"])})
        return Step(action=kind, on=name)

    def _assembled(self, page: str, context: str, text: str) -> capturing.Capture | None:
        """The page as it was when something was done in one of its documents."""
        try:
            if page not in self._documents:
                self._documents[page], _ = capturing.documents(self.live._connection, page)
            documents = dict(self._documents[page])
            frames = documents[context].frames if context in documents else []
            documents[context], _ = capturing.document_of(text, frames)
            count = sum(node[0] == "f" for node in documents[context].nodes)
            documents[context].frames = [*frames, *[""] * count][:count]
            if page not in documents:
                return None
            now = datetime.datetime.now(datetime.UTC).isoformat(timespec="seconds")
            return capturing.assembled(documents, page, now, self.live.browser._secrets)
        except BrowserError:
            return None

    def _check(self, element: Element, said: dict[str, Any]) -> None:
        self._checking = False
        name = self.book.name(element, "check")
        if said.get("expect"):
            values = tuple(str(v) for v in said.get("values", ()))
            value = str(said.get("value", "")) if not values else values[0] if len(values) == 1 else ""
            step = Step(action="check", on=name, expect=str(said["expect"]), value=value, values=values if len(values) > 1 else ())
        elif element.text and len(element.text) <= LONGEST and not found_by(self.book.entries[name].main, element.text):
            step = Step(action="check", on=name, expect="reads", value=element.text)
        else:
            step = Step(action="check", on=name, expect="shown")
        self._add(step, element)

    def _switch(self, page: str) -> None:
        for live in self.live.browser.pages:
            if live.context == page:
                self.live = live
                path = urlsplit(live.address()).path or "/"
                self._add(Step(action="switch", value=path))
                self._attach(page)
                return

    def _beside(self, kind: str, said: dict[str, Any]) -> None:
        """A dialog or a download belongs to the step before it."""
        if not self.steps or self.steps[-1].step.action not in ("click", "double-click", "type", "keys"):
            return
        last = self.steps[-1]
        if kind == "download":
            more = {"downloads": str(said["name"])} if last.step.action == "click" else {}
        else:
            message = self.live.dialogs[-1].message if self.live.dialogs else ""
            more = {"dialog": said["type"] or (self.live.dialogs[-1].kind if self.live.dialogs else "alert")}
            more |= {"saying": message} if message else {}
            more |= {"answer": said["answer"]} if said["answer"] != "yes" else {}
        self.steps[-1] = replace(last, step=last.step.model_copy(update={"more": {**last.step.more, **more}}))
        self._changed()

    def _add(self, step: Step, element: Element | None = None) -> None:
        last = self.steps[-1].step if self.steps else None
        same = last is not None and last.on == step.on and bool(step.on)
        if same and last is not None and step.action in ("type", "clear") and last.action in ("type", "clear"):
            self.steps.pop()  # one step a field
        elif same and last is not None and step.action in ("tick", "untick", "choose") and last.action == step.action:
            self.steps.pop()
        elif same and last is not None and step.action == "double-click" and last.action == "click":
            self.steps.pop()  # the first of the two
        self.steps.append(Noted(step, element))
        self._told(self.steps[-1])
        self._changed()

    # --- what the panel asks for --------------------------------------------------------------------------------------

    def _asked(self, kind: str, at: int, said: dict[str, Any]) -> None:
        if kind == "checking":
            self._checking = not self._checking
        elif 0 <= at < len(self.steps):
            noted = self.steps[at]
            if kind == "undo":
                self.steps.pop(at)
            elif kind == "rename" and noted.step.on:
                fresh = self.book.rename(noted.step.on, str(said["name"]))
                self.steps = [n if n.step.on != noted.step.on else _renamed(n, fresh) for n in self.steps]
            elif kind == "next" and noted.element is not None:
                self.steps[at] = replace(noted, step=self._other_form(noted))
        self._changed()

    def _other_form(self, noted: Noted) -> Step:
        """The same check in its next form: text whole, text in part, shown, how many like it, the texts of all like it."""
        element, step = noted.element, noted.step
        assert element is not None
        form = FORMS[(FORMS.index(str(step.expect)) + 1) % len(FORMS)] if step.expect in FORMS else "shown"
        if form in ("reads", "contains") and element.text and not found_by(self.book.entries[step.on].main, element.text):
            return Step(action="check", on=self.book.name(element, "check"), expect=form, value=element.text)
        if form in ("counts", "texts"):
            alike = self.book.name_of_all_like(element)
            if alike is not None:
                name, texts = alike
                if form == "counts":
                    return Step(action="check", on=name, expect="counts", value=str(len(texts)))
                return Step(action="check", on=name, expect="texts", values=texts)
        return Step(action="check", on=self.book.name(element, "check"), expect="shown")

    # --- showing and writing ------------------------------------------------------------------------------------------

    def _changed(self) -> None:
        self.write()
        self._panel()

    def _panel(self) -> None:
        lines = [
            {"at": at, "says": str(n.step), "name": n.step.on, "check": n.step.action == "check" and n.element is not None}
            for at, n in list(enumerate(self.steps))[-SHOWN:]
        ]
        state = json.dumps({"lines": lines, "count": len(self.steps), "checking": self._checking})
        panel, draw = script("panel.js"), script("draw.js")
        self.live._connection.call_if_there(self.live.context, f"(tell, state) => ({panel})(tell, {draw}, state)", _tell(), state)

    @property
    def journey(self) -> Journey:
        """What has been recorded so far."""
        return Journey(
            journey=self.title, book=self.book.path.name, start=Start(base=self.base), secrets=self._secrets,
            steps=tuple(noted.step for noted in self.steps),
        )  # fmt: skip

    def write(self) -> None:
        """Write journey and book, both or neither."""
        if self.steps:
            used = {noted.step.on for noted in self.steps} | {str(n.step.more.get("onto", "")) for n in self.steps}
            self.book.write(used, {self.path: self.journey.to_yaml().encode()}, self.title)


def _renamed(noted: Noted, name: str) -> Noted:
    return replace(noted, step=noted.step.model_copy(update={"on": name}))


def _at(taken: capturing.Capture, context: str, number: int) -> Element | None:
    try:
        return taken.page[taken.places.index((context, number))]
    except ValueError:
        return None


def _record() -> str:
    return f"(tell) => ({script('record.js')})(tell, {taking()})"


def _tell() -> dict[str, Any]:
    return channel(CHANNEL)
