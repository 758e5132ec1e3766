"""What pages ask servers for: a log of requests, made-up answers for tests, names and passwords that servers ask for."""

from __future__ import annotations

import base64
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any
from urllib.parse import urlsplit

from wary_hound.browser.connection import Connection
from wary_hound.browser.protocol import Event
from wary_hound.browser.reading import address_pattern
from wary_hound.page.secrets import masked

EVENTS = ["network.beforeRequestSent", "network.responseCompleted", "network.fetchError", "network.authRequired"]
MOST_REQUESTS = 20_000


@dataclass
class Request:
    """A request of a page. `status` is 0, and `seconds` too, until the answer is there; `error` says why there is none. Credentials
    and tokens are masked in `address` and `path`. `document`: whether it was for the page itself; `stubbed`: answered by a stub."""

    method: str
    address: str
    document: bool
    status: int = 0
    error: str = ""
    seconds: float = 0.0
    stubbed: bool = False
    _raw: str = field(default="", repr=False)
    _navigation: str = field(default="", repr=False)
    _begun: int = field(default=0, repr=False)

    @property
    def host(self) -> str:
        """Host and port that it went to."""
        return urlsplit(self.address).netloc.rpartition("@")[2]

    @property
    def path(self) -> str:
        """Its path, without the query."""
        return urlsplit(self.address).path or "/"

    def is_like(self, pattern: str, method: str = "", host: str = "") -> bool:
        """Whether it went to an address like this (a whole one, or a path; `*` is anything), by this method. `host`: the one that a
        path is of, where that is known."""
        if method and self.method != method.upper():
            return False
        if host and "://" not in pattern and self.host != host:
            return False
        return bool(address_pattern(pattern).search(self._raw or self.address))

    def __str__(self) -> str:
        came = self.error or (str(self.status) if self.status else "no answer yet")
        return f"{self.method} {self.address}: {came}"


@dataclass
class Stub:
    """A made-up answer to requests of a page. `uses` counts them; `remove` ends it."""

    pattern: str
    method: str
    status: int
    body: bytes
    headers: Mapping[str, str]
    fails: bool
    passes: bool
    delay: float
    withholds: bool = False
    """It fails, and the log knows nothing of it: as if it had never been sent."""
    uses: int = 0
    remove: Callable[[], None] = field(default=lambda: None, repr=False)


class Network:
    """The requests of all pages of a browser, by page."""

    def __init__(self, connection: Connection) -> None:
        self._connection = connection
        self.requests: dict[str, list[Request]] = {}
        self._by_id: dict[str, Request] = {}
        self._stubs: dict[str, list[Stub]] = {}
        self._intercepts: dict[str, str] = {}
        self._parents: dict[str, str] = {}
        self._signing: list[tuple[str, str, str]] = []
        self._asked: set[str] = set()
        connection.on("browsingContext.contextCreated", self._created)
        connection.on("network.beforeRequestSent", self._sent)
        connection.on("network.responseCompleted", self._answered)
        connection.on("network.fetchError", self._broken)
        connection.on("network.authRequired", self._sign)

    # --- the log ------------------------------------------------------------------------------------------------------

    def _created(self, event: Event) -> None:
        if event.params.get("parent"):
            self._parents[str(event.params["context"])] = str(event.params["parent"])

    def page_of(self, context: str) -> str:
        """The page that a frame is in; a page itself."""
        while context in self._parents:
            context = self._parents[context]
        return context

    def drop(self, context: str) -> None:
        """Forget all of a page or frame that is there no more."""
        self.requests.pop(context, None)
        self._stubs.pop(context, None)
        self._intercepts.pop(context, None)
        self._parents.pop(context, None)

    def _sent(self, event: Event) -> None:
        page, asked = self.page_of(str(event.params.get("context"))), event.params["request"]
        raw = str(asked.get("url", ""))
        navigation = str(event.params.get("navigation") or "")
        top = page == str(event.params.get("context"))
        request = Request(
            str(asked.get("method", "")), masked(raw), bool(navigation) and top, _raw=raw, _navigation=navigation,
            _begun=int(event.params.get("timestamp") or 0),
        )  # fmt: skip
        if not raw.startswith("data:"):  # no server is asked for those
            log = self.requests.setdefault(page, [])
            log.append(request)
            del log[:-MOST_REQUESTS]
        self._by_id[str(asked.get("request"))] = request
        if event.params.get("isBlocked"):
            self._answer(page, str(asked.get("request")), request)

    def _answered(self, event: Event) -> None:
        request = self._by_id.pop(str(event.params["request"].get("request")), None)
        if request is not None:
            request.status = int(event.params.get("response", {}).get("status") or 0)
            request.seconds = max(0, int(event.params.get("timestamp") or 0) - request._begun) / 1000

    def _broken(self, event: Event) -> None:
        request = self._by_id.pop(str(event.params["request"].get("request")), None)
        if request is not None:
            request.error = str(event.params.get("errorText") or "it failed")

    def host_of(self, page: str) -> str:
        """The host that a page's document came from; empty where none has."""
        documents = [request for request in self.requests.get(page, ()) if request.document]
        return documents[-1].host if documents else ""

    def status_of(self, page: str, navigation: str | None) -> int:
        """The status of the document of a navigation; 0 where none is known."""
        documents = [
            r for r in self.requests.get(page, ()) if r.document and r.status and (not navigation or r._navigation == navigation)
        ]
        return documents[-1].status if documents else 0

    # --- made-up answers ----------------------------------------------------------------------------------------------

    def stub(self, page: str, made: Stub) -> Stub:
        """From now on requests of a page that are like a stub's pattern are answered by it; the latest stub first."""
        if page not in self._intercepts:
            answer = self._connection.send("network.addIntercept", phases=["beforeRequestSent"], contexts=[page])
            self._intercepts[page] = str(answer["intercept"])
        inside = self._stubs.setdefault(page, [])
        inside.append(made)

        def remove() -> None:
            if made in inside:
                inside.remove(made)
            if not inside and page in self._intercepts:
                self._connection.send("network.removeIntercept", intercept=self._intercepts.pop(page))

        made.remove = remove
        return made

    def _answer(self, page: str, number: str, request: Request) -> None:
        host = self.host_of(page)
        stub = next((s for s in reversed(self._stubs.get(page, [])) if request.is_like(s.pattern, s.method, host)), None)
        if stub is None:
            self._connection.post("network.continueRequest", request=number)
            return
        stub.uses += 1
        if stub.passes:
            self._connection.post("network.continueRequest", after=stub.delay, request=number)
        elif stub.fails:
            request.stubbed = True
            if stub.withholds:
                self.requests[page].remove(request)
            self._connection.post("network.failRequest", after=stub.delay, request=number)
        else:
            request.stubbed = True
            headers = [{"name": k, "value": {"type": "string", "value": v}} for k, v in stub.headers.items()]
            body = {"type": "base64", "value": base64.b64encode(stub.body).decode()}
            said: dict[str, Any] = {"statusCode": stub.status, "reasonPhrase": "Made up", "headers": headers, "body": body}
            self._connection.post("network.provideResponse", after=stub.delay, request=number, **said)

    # --- names and passwords ------------------------------------------------------------------------------------------

    def sign_in(self, user: str, password: str, host: str) -> None:
        """Answer servers that ask for a name and a password, of one host where one is named."""
        if not self._signing:
            self._connection.send("network.addIntercept", phases=["authRequired"])
        self._signing.append((host, user, password))

    def _sign(self, event: Event) -> None:
        if not event.params.get("isBlocked"):
            return
        number, address = str(event.params["request"]["request"]), str(event.params["request"].get("url"))
        host = urlsplit(address).netloc.rpartition("@")[2]
        found = next((entry for entry in reversed(self._signing) if entry[0] in ("", host, host.partition(":")[0])), None)
        if found is None or number in self._asked:  # refused once: the server shows what it has to say then
            self._connection.post("network.continueWithAuth", request=number, action="cancel")
            return
        self._asked.add(number)
        given = {"type": "password", "username": found[1], "password": found[2]}
        self._connection.post("network.continueWithAuth", request=number, action="provideCredentials", credentials=given)
