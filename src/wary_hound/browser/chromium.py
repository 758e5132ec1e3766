"""What Chromium tells in the terms of its own protocol, which its BiDi end hands through under a prefix.

Pages whose process dies: BiDi has no event for it. (Firefox shows a page of its own in place of the one that was there, and refuses
to be asked there.) And how many elements there are in all trees, closed ones too, which spares most pages the dear question which
of them are closed.
"""

from __future__ import annotations

import contextlib
from typing import Any

from wary_hound.browser.capture import NOT_KNOWN
from wary_hound.browser.connection import Connection
from wary_hound.browser.protocol import DIED, Event
from wary_hound.errors import BrowserError

_CRASHED = "goog:cdp.Inspector.targetCrashed"


class Chromium:
    """Tells a connection of the pages, among those that are watched, whose process dies, and closes what is left of them; and how
    many elements a page has."""

    def __init__(self, connection: Connection) -> None:
        self._connection = connection
        self._sessions: dict[str, str] = {}
        connection.on(_CRASHED, self._crashed)
        with contextlib.suppress(BrowserError):
            connection.send("session.subscribe", events=[_CRASHED])
            connection.total = self.total

    def watch(self, context: str) -> None:
        """From now on it is told when the process of a page dies; nothing where a browser has no such thing."""
        if self._connection.total is None:
            return
        with contextlib.suppress(BrowserError):
            session = self._connection.send("goog:cdp.getSession", context=context)["session"]
            self._sessions[context] = str(session)
            self._sent(context, "Inspector.enable")

    def drop(self, context: str) -> None:
        """Forget a page that is there no more."""
        self._sessions.pop(context, None)

    def total(self, context: str) -> int:
        """How many elements there are in all trees of a page, closed ones and those of frames too, and texts with a `<` in them;
        NOT_KNOWN where it is not told."""
        if context not in self._sessions:
            return NOT_KNOWN
        try:
            self._sent(context, "DOM.enable")
            # all nodes whose name begins with nothing
            found = self._sent(context, "DOM.performSearch", query="<", includeUserAgentShadowDOM=False)
            self._sent(context, "DOM.discardSearchResults", searchId=found["searchId"])
            return int(found["resultCount"])
        except BrowserError:
            return NOT_KNOWN

    def _sent(self, context: str, method: str, **params: Any) -> Any:
        answer = self._connection.send("goog:cdp.sendCommand", session=self._sessions[context], method=method, params=params)
        return answer["result"]

    def _crashed(self, event: Event) -> None:
        died = [context for context, session in self._sessions.items() if session == str(event.params.get("session"))]
        for context in died:
            del self._sessions[context]
            self._connection.lose(context, DIED)
            self._connection.post("browsingContext.close", context=context)
