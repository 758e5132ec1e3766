"""Cookies and storage of a user: read, set, and kept in a file, so that one signs in once."""

from __future__ import annotations

import json
import os
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from wary_hound.browser.connection import Connection
from wary_hound.browser.protocol import Json
from wary_hound.errors import FileError
from wary_hound.files import read_text, write_aside

_STORED = "() => JSON.stringify([location.origin, {...localStorage}, {...sessionStorage}])"
_RESTORE = """() => {
  const kept = %s;
  if (kept[location.origin] && !sessionStorage.getItem("")) for (const [k, v] of Object.entries(kept[location.origin])) {
    if (localStorage.getItem(k) === null) localStorage.setItem(k, v);
  }
}"""


@dataclass(frozen=True, slots=True)
class Cookie:
    """A cookie. Its `value` is not in its `repr`; `expires` in seconds since 1970, None for the session."""

    name: str
    value: str
    domain: str
    path: str = "/"
    secure: bool = False
    http_only: bool = False
    same_site: str = "none"
    expires: int | None = None

    def __repr__(self) -> str:
        return f"Cookie({self.name!r}, domain={self.domain!r}, path={self.path!r})"

    def to_protocol(self) -> Json:
        """As the protocol sets it."""
        said: Json = {"name": self.name, "value": {"type": "string", "value": self.value}, "domain": self.domain, "path": self.path}
        said |= {"secure": self.secure, "httpOnly": self.http_only}
        if self.same_site in ("lax", "strict") or (self.same_site == "none" and self.secure):  # else browsers refuse it
            said["sameSite"] = self.same_site
        return said if self.expires is None else {**said, "expiry": self.expires}


def cookies_of(connection: Connection, context: str) -> tuple[Cookie, ...]:
    """The cookies of the user whose page this is."""
    answer = connection.send("storage.getCookies", partition={"type": "context", "context": context})["cookies"]
    return tuple(map(_cookie, answer))


def _cookie(said: Json) -> Cookie:
    flags = (bool(said.get("secure")), bool(said.get("httpOnly")), str(said.get("sameSite", "none")))
    return Cookie(
        said["name"], str(said["value"].get("value", "")), said["domain"], said.get("path", "/"), *flags, said.get("expiry")
    )


def set_cookie(connection: Connection, user: str, cookie: Cookie) -> None:
    """Set a cookie for a user."""
    connection.send("storage.setCookie", cookie=cookie.to_protocol(), partition={"type": "storageKey", "userContext": user})


def stored(connection: Connection, context: str) -> tuple[str, dict[str, str], dict[str, str]]:
    """The origin that a page is of, its local storage, and its session storage."""
    origin, local, session = json.loads(connection.call(context, _STORED))
    return str(origin), dict(local), dict(session)


def keep(connection: Connection, context: str, path: Path) -> None:
    """Write cookies and local storage of a page into a file that only its owner can read: what signs a user in is in it."""
    origin, local, _ = stored(connection, context)
    fields = [{name: getattr(c, name) for name in Cookie.__slots__} for c in cookies_of(connection, context)]
    text = json.dumps({"cookies": fields, "storage": {origin: local}}, indent=1, ensure_ascii=False) + "\n"
    write_aside({path: text.encode()})
    os.chmod(path, 0o600)


def kept(path: Path) -> tuple[tuple[Cookie, ...], Mapping[str, Mapping[str, str]]]:
    """Cookies, and local storage by origin, of a file that `keep` wrote. FileError where it is another one."""
    try:
        data: Any = json.loads(read_text(path))
        cookies = tuple(Cookie(**entry) for entry in data["cookies"])
        return cookies, {str(k): {str(a): str(b) for a, b in v.items()} for k, v in data["storage"].items()}
    except (ValueError, KeyError, TypeError, AttributeError) as error:
        raise FileError(f"{path}: no kept sign-in ({type(error).__name__}); write one with page.keep(path)") from None


def restoring(storage: Mapping[str, Mapping[str, str]]) -> str:
    """A function that gives a page its local storage before its own scripts run."""
    return _RESTORE % json.dumps(storage).replace("</", "<\\/")
