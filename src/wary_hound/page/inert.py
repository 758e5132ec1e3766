"""Snapshots that do nothing when a browser opens them: no script runs, nothing is fetched, nowhere is gone to.

A content policy (CSP) in the head forbids scripts and everything from outside. What it does not reach (event handlers, pages that
refresh themselves, links that connect ahead, templates that would become shadow trees) is written under another name, from
which reading makes it what it was.
"""

from __future__ import annotations

from collections.abc import Mapping

_MARK = "data-wary-hound"
POLICY = (
    f"<meta {_MARK} http-equiv=\"Content-Security-Policy\" content=\"default-src 'none'; style-src 'unsafe-inline'; "
    "img-src data:; font-src data:; base-uri 'none'; form-action 'none'\">"
)
PREFIX = "inert-"
_ASLEEP = frozenset({"http-equiv", "shadowrootmode", "ping", "manifest", "autoplay", "autofocus", "srcdoc", "srcset"})
_LINKED = frozenset({"rel", "href", "imagesrcset"})


def is_ours(html: str) -> bool:
    """Whether a text was written as an inert snapshot."""
    return POLICY in html


def is_policy(tag: str, attributes: Mapping[str, str]) -> bool:
    """The policy's own element, which is no element of the page."""
    return tag == "meta" and _MARK in attributes


def asleep(tag: str, attributes: Mapping[str, str]) -> dict[str, str]:
    """Attributes under names that do nothing, where theirs would do something."""
    return {PREFIX + name if _acts(tag, name, value) else name: value for name, value in attributes.items()}


def _acts(tag: str, name: str, value: str) -> bool:
    if name.startswith((PREFIX, "on")) or name in _ASLEEP or name == _MARK:
        return True
    if tag == "link":
        return name in _LINKED
    return value.lstrip("\0 \t\r\n\f").lower().startswith(("javascript", "java\tscript", "vbscript:"))


def revived(attributes: Mapping[str, str]) -> dict[str, str]:
    """The inverse of `asleep`."""
    return {name.removeprefix(PREFIX): value for name, value in attributes.items()}
