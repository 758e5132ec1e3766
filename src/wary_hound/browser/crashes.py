"""Pages whose process dies: noticed when the browser tells it, not at the limit of what waits for an answer.

The protocol has no event for it. Chromium tells it in the terms of its own protocol, which its BiDi end hands through under a
prefix; Firefox shows a page of its own in place of the one that was there, and refuses to be asked there.
"""

from __future__ import annotations

import contextlib

from wary_hound.browser.connection import Connection
from wary_hound.browser.protocol import DIED, Event
from wary_hound.errors import BrowserError

_CRASHED = "goog:cdp.Inspector.targetCrashed"


class Crashes:
    """Tells a connection of the pages, among those that are watched, whose process dies, and closes what is left of them."""

    def __init__(self, connection: Connection) -> None:
        self._connection = connection
        self._watched: dict[str, str] = {}
        connection.on(_CRASHED, self._crashed)
        self._there = False
        with contextlib.suppress(BrowserError):
            connection.send("session.subscribe", events=[_CRASHED])
            self._there = True

    def watch(self, context: str) -> None:
        """From now on it is told when the process of a page dies; nothing where a browser has no such thing."""
        if not self._there:
            return
        with contextlib.suppress(BrowserError):
            session = str(self._connection.send("goog:cdp.getSession", context=context)["session"])
            self._watched[session] = context
            self._connection.send("goog:cdp.sendCommand", session=session, method="Inspector.enable", params={})

    def _crashed(self, event: Event) -> None:
        context = self._watched.pop(str(event.params.get("session")), None)
        if context is not None:
            self._connection.lose(context, DIED)
            self._connection.post("browsingContext.close", context=context)
