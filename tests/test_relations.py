"""Relations between elements: structure by markup, geometry by boxes put together by hand."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from wary_hound import Page
from wary_hound.page import Facts
from wary_hound.page.events import build, events_of

STRUCTURE = Page.parse("""<main><section id=one><h2>Nights</h2><table>
<tr id=r1><td>Vega</td><td><button id=v1>Hold</button></td></tr>
<tr id=r2><td>Moon</td><td><button id=m1>Hold</button></td></tr></table>
</section><section id=two><div class=bar><h2>Reports</h2><a id=all>All</a></div>
<ul><li><b>Monday</b> <button id=mon>Thank</button></li>
<li><b>Sunday</b> <button id=sun>Thank</button></li></ul></section>
<div id=cards><div class=card><h3>Dune</h3><p>40 cm</p><button id=c1>Pick</button></div>
<div class=card><h3>Heron</h3><p>1 m</p><button id=c2>Pick</button></div></div>
<form id=f><label>Name</label><input id=i1><label>E-mail</label><input id=i2><button id=send>Send</button></form></main>""")


@pytest.mark.parametrize(
    ("locator", "ids"),
    [
        ("css{button} @row-of text{Vega}", ["v1"]),
        ("css{button} @row-of text{Moon}", ["m1"]),
        ("css{button} @row-of text{Sunday}", ["sun"]),
        ("css{button} @row-of text{Heron}", ["c2"]),
        ("css{button} @row-of text{40 cm}", ["c1"]),
        ("css{button} @row-of text{Hold}", []),
        ("css{button} @row-of text{Nights}", []),
        ("css{button} @group-of text{Nights}", ["v1", "m1"]),
        ("css{a} @group-of text{Reports}", ["all"]),
        ("css{button} @group-of text{Reports}", ["mon", "sun"]),
        ("css{button} @group-of text{Heron}", ["c2"]),
        ("css{button} @group-of css{#i1}", ["send"]),
        ("css{input} @group-of css{#send}", ["i1", "i2"]),
        ("css{button} @inside css{#two}", ["mon", "sun"]),
        ("css{button} @inside css{.card}", ["c1", "c2"]),
        ("css{button}#2 @inside css{.card}", ["c2"]),
        ("css{section} @inside css{section}", []),
        ("css{input} @after text{Name}", ["i1"]),
        ("css{input} @after text{E-mail}", ["i2"]),
        ("css{input} @after css{label}", ["i1", "i2"]),
        ("css{button} @after css{#r1}", ["m1"]),
        ("css{button} @after css{#send}", []),
        ("css{input} @before css{#send}", ["i2"]),
        ("css{section} @before css{#i1}", ["two"]),
        ("css{button} @before css{#i1}", ["c2"]),
        ("css{section} @before css{#v1}", []),
        ("css{button} @after text{Name} @inside css{#f}", ["send"]),
        ("css{button} @row-of css{b}#2", ["sun"]),
        ("css{#f} -> css{input} @after text{E-mail}", ["i2"]),
        ("css{#one} -> css{button} @row-of text{Sunday}", []),
    ],
)
def test_structure(locator: str, ids: list[str]) -> None:
    assert [e.attributes["id"] for e in STRUCTURE.find_all(locator)] == ids


def placed(boxes: dict[str, tuple[float, float, float, float]]) -> Page:
    """A page of elements with these ids and boxes (left, top, width, height)."""
    page = Page.parse("<main>" + "".join(f"<i id={name}>{name}</i>" for name in boxes) + "</main>")
    known = np.full((len(page), 4), np.nan, np.float32)
    for name, box in boxes.items():
        known[page.find(f"css{{#{name}}}").index] = box
    return build(events_of(page), facts=replace(Facts(), boxes=known))


#   a  b   c
#   d      e
#      f (hidden)
GRID = placed(
    {
        "a": (0, 0, 40, 20),
        "b": (60, 2, 40, 20),
        "c": (200, 0, 40, 20),
        "d": (0, 40, 40, 20),
        "e": (200, 60, 40, 20),
        "f": (60, 30, 0, 0),
        "g": (50, 200, 100, 20),
    }
)


@pytest.mark.parametrize(
    ("locator", "ids"),
    [
        ("css{i} @rightward-of css{#a}", ["b"]),
        ("css{i} @rightward-of css{#b}", ["c"]),
        ("css{i} @rightward-of css{#c}", []),
        ("css{i} @leftward-of css{#c}", ["b"]),
        ("css{i} @leftward-of css{#a}", []),
        ("css{i} @under css{#a}", ["d"]),
        ("css{i} @under css{#b}", ["g"]),
        ("css{i} @under css{#c}", ["e"]),
        ("css{i} @over css{#d}", ["a"]),
        ("css{i} @over css{#g}", ["b"]),
        ("css{i} @over css{#a}", []),
        ("css{i} @closest-to css{#a}", ["b"]),
        ("css{i} @closest-to css{#e}", ["c"]),
        ("css{i} @closest-to css{#g}", ["e"]),
        ("css{#e, #d} @closest-to css{#a}", ["d"]),
        ("css{i} @rightward-of css{#f}", []),
        ("css{#f} @closest-to css{#b}", []),
        ("css{i} @rightward-of css{#a, #b}", ["b", "c"]),
    ],
)
def test_geometry(locator: str, ids: list[str]) -> None:
    assert [e.attributes["id"] for e in GRID.find_all(locator)] == ids


def test_boxes_are_told_and_missed() -> None:
    assert GRID.find("css{#b}").box == (60, 2, 40, 20)
    assert not GRID.find("css{#f}").visible
