"""Pointing at elements of live pages and outlining them, driven by input actions; what is taken goes into a book."""

from __future__ import annotations

import io
import json
from pathlib import Path

import pytest
from PIL import Image

from conftest import read, run
from wary_hound import Book, Browser, FileError, Locator, match
from wary_hound.browser import LivePage
from wary_hound.browser.input import pointer as _pointer
from wary_hound.browser.picking import Picked, Picking
from wary_hound.cli import picking as command
from wary_hound.journey.adding import add_to_book
from wary_hound.journey.book import Entry
from wary_hound.journey.naming import name_for

NIGHTS = """<!doctype html><title>Dome</title>
<body style="margin:20px"><button onclick="document.title='pressed'">Hold Vega</button>
<label>Visitor <input id=visitor></label><button disabled>Sold out</button><a href="#x">Print</a><sky-dial></sky-dial>
<iframe title=in srcdoc="<body style='margin:0'><button>inside</button>" style="width:200px;height:60px"></iframe><p id=end>end</p>
<script>customElements.define("sky-dial", class extends HTMLElement {
  constructor() { super(); this.attachShadow({ mode: "closed" }).innerHTML = "<button><b>Turn</b></button>"; } });</script>"""
VIOLET = (0x6A, 0x3D, 0x9A)


@pytest.fixture(params=["chromium", "firefox"])
def live(request: pytest.FixtureRequest, tmp_path: Path) -> LivePage:
    browser: Browser = request.getfixturevalue(request.param)
    (tmp_path / "nights.html").write_text(NIGHTS)
    return browser.open((tmp_path / "nights.html").as_uri())


def locators(taken: list[Picked]) -> list[Locator]:
    return [picked.candidates[0].locator for picked in taken]


def test_what_is_clicked_is_taken_and_the_page_gets_nothing_of_it(live: LivePage) -> None:
    places = ["text{Hold Vega}", "shadow css{sky-dial} -> css{b}", "frame css{iframe} -> text{inside}", "label{Visitor}"]
    with live.picking() as picking:
        for place in places:
            live.click(place)
            (taken,) = picking.step(2)
            page = taken.element.page
            assert match(page, place) == match(page, locators([taken])[0]) == [taken.element.index]
        live.hover("css{a}")
        assert picking.step(1) == []
        assert picking.pointed is not None
        assert picking.pointed.element.text == "Print"
        live.keys("Enter")
        assert picking.step(1)[0].element.text == "Print"
        live.keys("Escape")
        assert list(picking) == []
    assert live.capture().title == "Dome"
    assert len(live.capture()) == len(page)
    live.click("text{Hold Vega}")
    assert live.capture().title == "pressed"
    live.close()


def test_what_the_page_changes_meanwhile_is_seen(live: LivePage) -> None:
    with live.picking() as picking:
        live.script("""() => { const b = document.createElement("button"); b.textContent = "Hold Saturn";
          document.body.prepend(b); }""")
        live.click("text{Hold Saturn}")
        assert [p.element.text for p in picking.step(2)] == ["Hold Saturn"]
        left, top, width, height = live.find("text{Hold Vega}").box
        picking._install()
        live.script("() => { document.body.append('late'); document.head.prepend(document.createElement('meta')); }")
        there = {"type": "pointerMove", "x": round(left + width / 2), "y": round(top + height / 2), "origin": "viewport"}
        press = [{"type": "pointerDown", "button": 0}, {"type": "pointerUp", "button": 0}]
        live._perform(live.context, _pointer([there, *press]))  # nobody has seen the page since it changed
        assert [p.element.text for p in picking.step(2) + picking.step(2)] == ["Hold Vega"]
        live.reload()
        for _ in range(10):  # it listens again when the page has loaded
            picking.step(0.2)
        live.click("text{Hold Vega}")
        assert [p.element.text for p in picking.step(2)] == ["Hold Vega"]
        live.close()
        assert list(picking) == []


def test_outlines_are_drawn_numbered_and_no_part_of_the_page(live: LivePage) -> None:
    before, plain = live.capture(), live.screenshot()
    found = live.outline("css{button}")
    with Image.open(io.BytesIO(live.screenshot())) as shown:
        colours = shown.convert("RGB")
        left, top, width, height = found[0].box
        assert colours.getpixel((round(left - 2), round(top + height / 2))) == VIOLET
        assert colours.getpixel((round(left + width + 1.5), round(top + height / 2))) == VIOLET
    assert [e.text for e in found] == ["Hold Vega", "Sold out"]
    assert len(live.outline("frame css{iframe} -> css{button}")) == 1
    assert live.capture().tags == before.tags
    live.outline_off()
    assert live.screenshot() == plain
    assert live.outline("css{#none}") == []
    live.close()


def test_picking_into_a_book(site: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    def driven(picking: Picking, seconds: float) -> list[Picked]:
        acted.append(len(acted))
        if len(acted) <= 2:
            picking.live.click(["text{Print the list}", "shadow css{night-booking} -> label{E-mail}"][len(acted) - 1])
        else:
            picking.live.keys("Escape")
        return usual(picking, seconds)

    acted: list[int] = []
    usual = Picking.step
    monkeypatch.setattr(Picking, "step", driven)
    monkeypatch.setattr(command, "WINDOW", False)
    address, book = f"{site}/r4/index.html?seed=2", tmp_path / "mine.yaml"
    done = run("look", address, "--pick", "--book", str(book))
    assert done.exit_code == 0, done.output
    assert f"in {book} as print-the-list" in done.output
    made = Book.read(book)
    assert list(made.elements) == ["print-the-list", "e-mail"]
    page = read("nights@r4")
    assert page[match(page, made.elements["e-mail"].main)[0]].attributes["id"] == "guest-email"
    assert made.fingerprint("e-mail") is not None
    assert len(made.elements["e-mail"].fallbacks) == 2
    acted.clear()
    again = json.loads(run("look", address, "--pick", "--book", str(book), "--json").output)
    assert [taken["name"] for taken in again] == ["print-the-list-2", "e-mail-2"]
    assert list(Book.read(book).elements) == ["print-the-list", "e-mail", "print-the-list-2", "e-mail-2"]
    assert run("look", address, "--book", str(book)).exit_code == 2


def test_an_element_is_added_to_a_book_as_a_person_would(tmp_path: Path) -> None:
    path = tmp_path / "nights.yaml"
    path.write_text("""# ours
book: Nights
elements:
  # the first
  vega:
    locator: css{#vega}   # as it was
    fallbacks:
      - text{Vega}

# what comes after
page: nights.html
""")
    element = read("nights@r1").find("css{#visitor-name}")
    entry = Entry(locator="label{Visitor name}", fallbacks=("css{#visitor-name}",), about="whose name")
    add_to_book(path, "visitor", entry, element)
    text = path.read_text()
    assert "      - text{Vega}\n  visitor:\n    locator: label{Visitor name}\n    fallbacks:\n" in text
    assert "css{#vega}   # as it was" in text
    assert text.index("visitor:") < text.index("# what comes after") < text.index("remembered:")
    assert Book.read(path).elements["visitor"] == entry
    with pytest.raises(FileError, match="an element named visitor already"):
        add_to_book(path, "visitor", entry, element)
    add_to_book(path, "again", entry, element)
    assert list(Book.read(path).remembered) == ["visitor", "again"]
    for start in ("book: n\nelements: {}\n", "book: n\nelements: {}"):
        path.write_text(start)
        add_to_book(path, "visitor", entry, element)
        assert list(Book.read(path).elements) == ["visitor"]
    path.write_text("book: n\nelements: {a: {locator: 'css{a}'}}\n")
    with pytest.raises(FileError, match="elements is written on one line"):
        add_to_book(path, "visitor", entry, element)
    assert path.read_text() == "book: n\nelements: {a: {locator: 'css{a}'}}\n"


def test_names_say_what_people_read() -> None:
    page = read("nights@r1")
    assert name_for(page.find("css{#visitor-name}")) == "visitor-name"
    assert name_for(page.find("css{#booking-status}")) == "booking-status"  # what it says is there to change
    assert name_for(page.find("css{button[value=vega]}"), {"hold-this-night", "hold-this-night-2"}) == "hold-this-night-3"
    assert name_for(page.find("css{html}")).count("-") <= 3
