"""look --pick: point at elements in a browser's window, and take them into the terminal or a book."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from rich.text import Text

from wary_hound.authoring.portfolio import portfolio
from wary_hound.browser import Browser
from wary_hound.browser.picking import Picked
from wary_hound.cli.common import element_json, file_address, print_json, short, tell_status
from wary_hound.journey import Book
from wary_hound.journey.adding import add_to_book
from wary_hound.journey.book import Entry
from wary_hound.journey.naming import name_for
from wary_hound.report.terminal import console

SHOWN = 3
WINDOW = True
"""Whether the browser has a window; tests do without."""


def pick_on(page: str | Path, browser: str, book: Path | None, as_json: bool) -> None:
    """Let a person point at elements of a page until Escape is pressed or the window is closed."""
    address = page if isinstance(page, str) else file_address(page)
    names = set(Book.read(book).elements) if book is not None and book.exists() else set()
    out = console()
    taken: list[dict[str, Any]] = []
    with Browser.start(browser, window=WINDOW) as running:
        live = running.open(address)
        tell_status(live.status, address)
        if not as_json:
            out.print("Point at an element in the window; a click or Enter takes it, Escape there ends.")
        with live.picking() as picking:
            for picked in picking:
                name = name_for(picked.element, names)
                names.add(name)
                if book is not None and picked.candidates:
                    add_to_book(book, name, _entry(picked), picked.element, picked.element.page.title)
                if as_json:
                    taken.append({"name": name, **_json(picked)})
                else:
                    _show(picked, name, book)
    if as_json:
        print_json(taken)
    elif not names:
        out.print("Nothing was taken.")


def _entry(picked: Picked) -> Entry:
    chosen = portfolio(picked.element, ranked=picked.candidates)
    main, *spare = (str(c.locator) for c in (chosen.main, *chosen.fallbacks))
    return Entry(locator=main, fallbacks=tuple(spare))


def _json(picked: Picked) -> dict[str, Any]:
    candidates = [{"locator": str(c.locator), "survival": round(c.survival, 4)} for c in picked.candidates]
    return {"element": element_json(picked.element), "candidates": candidates}


def _show(picked: Picked, name: str, book: Path | None) -> None:
    out = console()
    if not picked.candidates:
        out.print(Text.assemble((f"✗ {short(picked.element)}", "red"), "  no locator is unique to it"))
        return
    out.print(Text.assemble(("✓ ", "green"), (short(picked.element), "bold")))
    for candidate in picked.candidates[:SHOWN]:
        out.print(Text.assemble(f"  {candidate.survival:.2f}  ", str(candidate.locator)))
    if book is not None:
        out.print(Text(f"  in {book} as {name}", "dim"))
