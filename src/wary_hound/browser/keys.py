"""Keys by name, as WebDriver has them (W3C WebDriver, section 17.4.2)."""

from __future__ import annotations

from wary_hound.errors import BrowserError

KEYS = {
    "Backspace": "\ue003", "Tab": "\ue004", "Enter": "\ue007", "Shift": "\ue008", "Control": "\ue009", "Alt": "\ue00a",
    "Escape": "\ue00c", "Space": " ", "PageUp": "\ue00e", "PageDown": "\ue00f", "End": "\ue010", "Home": "\ue011",
    "ArrowLeft": "\ue012", "ArrowUp": "\ue013", "ArrowRight": "\ue014", "ArrowDown": "\ue015", "Insert": "\ue016",
    "Delete": "\ue017", "Meta": "\ue03d", **{f"F{n}": chr(0xE030 + n) for n in range(1, 13)},
}  # fmt: skip


def chord(text: str) -> list[str]:
    """The keys of `Control+Shift+K`, in the order that they go down. BrowserError for a name that is no key."""
    names = text.removesuffix("+").removesuffix("+").split("+") if text.endswith("++") else text.split("+")
    names = ["+"] if text == "+" else [*names, "+"] if text.endswith("++") else names
    values = [name if len(name) == 1 else KEYS.get(name, "") for name in names]
    if not all(values):
        odd = next(name for name, key in zip(names, values, strict=True) if not key)
        raise BrowserError(f"no key is named {odd!r}: one character, or one of {', '.join(KEYS)}")
    return values
