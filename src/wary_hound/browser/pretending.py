"""What a page is told of the world: language, time zone, place, network, colour scheme, permissions."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from wary_hound.browser.connection import Connection
from wary_hound.errors import BrowserError, NotSupported


def pretend(
    connection: Connection,
    context: str,
    origin: str,
    *,
    language: str | None,
    time_zone: str | None,
    place: tuple[float, float] | None,
    offline: bool | None,
    dark: bool | None,
    permissions: Mapping[str, str],
) -> None:
    """Tell it. BrowserError says what this browser cannot pretend."""
    asked: list[tuple[str, str, dict[str, Any]]] = []
    if language is not None:
        asked.append(("another language", "emulation.setLocaleOverride", {"locale": language or None}))
    if time_zone is not None:
        asked.append(("another time zone", "emulation.setTimezoneOverride", {"timezone": time_zone or None}))
    if place is not None:
        where = {"latitude": place[0], "longitude": place[1], "accuracy": 10}
        asked.append(("another place", "emulation.setGeolocationOverride", {"coordinates": where}))
        permissions = {"geolocation": "granted", **permissions}
    if offline is not None:
        conditions = {"type": "offline"} if offline else None
        asked.append(("to be offline", "emulation.setNetworkConditions", {"networkConditions": conditions}))
    if dark is not None:
        features = {"prefers-color-scheme": "dark" if dark else "light"}
        asked.append(("a colour scheme", "emulation.setMediaFeaturesOverride", {"features": features}))
    for what, method, params in asked:
        try:
            connection.send(method, contexts=[context], **params)
        except NotSupported:
            raise NotSupported(f"this browser cannot pretend {what} ({method})") from None
    for name, state in permissions.items():
        try:
            connection.send("permissions.setPermission", descriptor={"name": name}, state=state, origin=origin)
        except NotSupported:
            raise NotSupported("this browser has no permissions that can be set (permissions.setPermission)") from None
        except BrowserError as error:
            raise BrowserError(f"the permission {name!r} cannot be {state}: {error}") from None
