"""Terminal output: tables that fit 100 columns; colour means something and is never the only sign."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Any

from rich.box import SIMPLE_HEAD
from rich.console import Console
from rich.padding import Padding
from rich.progress import BarColumn, MofNCompleteColumn, Progress, TextColumn, TimeRemainingColumn
from rich.table import Table
from rich.text import Text

WIDTH = 100
MARKS = {
    "works": ("✓ works", "green"),
    "same": ("✓ same", "green"),
    "moved": ("→ moved", "cyan"),
    "drifted": ("≠ drifted", "magenta"),
    "broken": ("✗ broken", "red"),
    "gone": ("∅ gone", "red"),
    "unsure": ("? unsure", "yellow"),
    "unknown": ("? unknown", "yellow"),
    "repaired": ("↻ repaired", "cyan"),
    "new": ("+ new", "green"),
    "changed": ("~ changed", "cyan"),
    "passed": ("✓ passed", "green"),
    "healed": ("↻ healed", "yellow"),
    "failed": ("✗ failed", "red"),
    "not run": ("· not run", "dim"),
}
"""A sign and a word for each state; the colour only repeats them."""


_SHOWN = {
    **{code: chr(0x2400 + code) for code in range(32) if chr(code) not in "\n\t"},
    0x7F: "\u2421",
    **dict.fromkeys([*range(0x80, 0xA0), *range(0x202A, 0x202F), *range(0x2066, 0x206A), *range(0xD800, 0xE000)], "\ufffd"),
}


def shown(text: str) -> str:
    """A text that a page or file chose, with signs in the place of what would command a terminal (escape sequences, marks that
    turn the direction of writing). As long as before."""
    return text.translate(_SHOWN)


class _Console(Console):
    """Prints texts as they are: no markup in them counts, and nothing in them commands the terminal."""

    def print(self, *objects: Any, **how: Any) -> None:
        super().print(*(_tamed(one) for one in objects), **how)


def _tamed(one: Any) -> Any:
    if isinstance(one, str):
        return Text(shown(one))
    if isinstance(one, Text):
        one.plain = shown(one.plain)
    elif isinstance(one, Padding):
        one.renderable = _tamed(one.renderable)
    return one


def bold(text: str) -> Text:
    """A text that stands out."""
    return Text(text, "bold")


def console() -> Console:
    """Standard output, at most WIDTH wide; plain where it is no terminal."""
    known = Console(highlight=False, soft_wrap=False)
    return _Console(highlight=False, markup=False, emoji=False, width=min(known.width, WIDTH) if known.is_terminal else WIDTH)


def sign(state: str) -> str:
    """The sign of a state alone."""
    return MARKS[state][0].partition(" ")[0]


def mark(state: str) -> Text:
    """A state as a sign and a word in its colour."""
    word, colour = MARKS[state]
    return Text(word, style=colour)


def table(columns: Iterable[str | tuple[str, str]], rows: Iterable[Sequence[str | Text]]) -> Table:
    """A table; a column given with "right" holds numbers, with "cut" is cut to fit, with "whole" never breaks."""
    made = Table(box=SIMPLE_HEAD, pad_edge=False, header_style="bold", show_edge=False, padding=(0, 1, 0, 0))
    for column in columns:
        name, kind = column if isinstance(column, tuple) else (column, "")
        made.add_column(
            name,
            justify="right" if kind == "right" else "left",
            overflow="ellipsis" if kind == "cut" else "fold",
            no_wrap=kind in ("right", "cut", "whole"),
            ratio=1 if kind == "wide" else None,
        )
    for row in rows:
        made.add_row(*(_tamed(cell) for cell in row))
    return made


def percent(share: float | None, digits: int = 0) -> str:
    """A share in per cent; a dash for none."""
    return "–" if share is None else f"{100 * share:.{digits}f} %"


def confidence(chance: float) -> str:
    """A confidence in per cent; nothing is wholly sure."""
    return "over 99 %" if chance > 0.99 else percent(chance)


def survival_colour(survival: float) -> str:
    """Green, yellow or red."""
    return "green" if survival >= 0.8 else "yellow" if survival >= 0.6 else "red"


def bar(share: float, width: int = 10) -> str:
    """A share as a bar of blocks."""
    full = share * width
    blocks = "█" * int(full)
    rest = int((full - int(full)) * 8)
    return (blocks + (" ▏▎▍▌▋▊▉"[rest] if rest else "")).ljust(width, "·")


def progress(console: Console) -> Progress:
    """A progress bar on standard error; nothing where that is no terminal."""
    err = Console(stderr=True)
    return Progress(
        TextColumn("{task.description}", markup=False),
        BarColumn(bar_width=30),
        MofNCompleteColumn(),
        TimeRemainingColumn(),
        console=err,
        transient=True,
        disable=not err.is_terminal,
    )


def shorten(text: str, most: int) -> str:
    """A text cut to a length, with a sign that it was."""
    return text if len(text) <= most else text[: most - 1] + "…"
