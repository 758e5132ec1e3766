"""What of a page is nobody's business: values of secret fields, tokens, credentials in addresses. Pure functions.

A capture leaves out what these name; a field, or an attribute, stays where it is, with an empty value.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from urllib.parse import urlsplit, urlunsplit

MASK = "***"
_NAMED = re.compile(
    r"(?:^|[^a-z])(?:csrf|xsrf|token|secret|passw(?:or)?d|passwd|pwd|passphrase|passcode|api-?key|auth|session-?id|sid|otp|pin|cvc|cvv|nonce|"
    r"signature|sig|jwt|credential|code|key|state)(?:$|[^a-z])",
    re.I,
)
_FIELD = re.compile(
    r"csrf|xsrf|token|secret|passw|passphrase|passcode|api[-_]?key|(?:^|[-_])(?:otp|pin|cvc|cvv|csc|pwd|ssn|iban)(?:$|[-_])|"
    r"card[-_]?(?:no|num)|one[-_]?time",
    re.I,
)
_ATTRIBUTE = re.compile(r"csrf|xsrf|token|secret|passw|api[-_]?key|nonce", re.I)
_AUTOCOMPLETE = re.compile(r"(?:^|\s)(?:one-time-code|current-password|new-password|cc-\S+)(?:\s|$)", re.I)
_ADDRESSES = frozenset({"href", "src", "action", "formaction", "cite", "data", "poster", "ping", "xlink:href", "srcset"})
_CREDENTIALS = re.compile(r"([a-z][a-z0-9+.-]*://)[^\s/@?#]*@", re.I)


@dataclass(frozen=True, slots=True)
class Secrets:
    """What a capture leaves out, besides passwords, hidden, card and one-time-code fields, and tokens.

    `names`: fields by name or id. `keep_values`: keep what was typed into the fields that are left.
    """

    names: tuple[str, ...] = ()
    keep_values: bool = False

    def is_secret(self, tag: str, attributes: Mapping[str, str]) -> bool:
        """Whether an element is a field whose value nobody should read."""
        if tag not in ("input", "textarea", "select", "output"):
            return False
        known = (attributes.get("name", ""), attributes.get("id", ""))
        if any(name in self.names for name in known if name):
            return True
        if tag == "input" and attributes.get("type", "").lower() in ("password", "hidden"):
            return True
        return bool(_AUTOCOMPLETE.search(attributes.get("autocomplete", "")) or any(_FIELD.search(name) for name in known))

    def kept(self, tag: str, attributes: Mapping[str, str]) -> dict[str, str]:
        """The attributes of an element without its secrets; all names stay."""
        made = dict(attributes)
        if "value" in made and self.is_secret(tag, attributes):
            made["value"] = ""
        if tag == "meta" and "content" in made and _FIELD.search(made.get("name", "") + made.get("property", "")):
            made["content"] = ""
        for name, value in made.items():
            if name in _ADDRESSES:
                made[name] = masked(value)
            elif _ATTRIBUTE.search(name) and not name.startswith("aria-"):
                made[name] = ""
        return made


ORDINARY = Secrets()


def masked(address: str) -> str:
    """An address without credentials, and without the values of query and fragment parameters that are named like tokens."""
    if "@" not in address and "=" not in address:
        return address
    plain = _CREDENTIALS.sub(rf"\1{MASK}@", address)
    try:
        parts = urlsplit(plain)
    except ValueError:
        return plain
    query, fragment = _parameters(parts.query), _parameters(parts.fragment)
    if (query, fragment) == (parts.query, parts.fragment):
        return plain
    return urlunsplit((parts.scheme, parts.netloc, parts.path, query, fragment))


def _parameters(text: str) -> str:
    if "=" not in text:
        return text
    return "&".join(f"{name}={MASK}" if equals and value and _NAMED.search(name.replace("_", "-")) else f"{name}{equals}{value}"
                    for name, equals, value in (pair.partition("=") for pair in text.split("&")))  # fmt: skip


def hidden_in(text: str, secrets: Iterable[str]) -> str:
    """A text in which some secrets do not stand."""
    for secret in secrets:
        if secret:
            text = text.replace(secret, MASK)
    return text
