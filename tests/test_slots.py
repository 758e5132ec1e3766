"""Grids that components put together by slots: their cells stand in the light tree in any order, their rows in the shadow tree."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import pytest

from wary_hound import Browser, Page, Question, match, parse, rank, relocate
from wary_hound.authoring.batch import usable
from wary_hound.browser.glimpse import asked_for, glimpse
from wary_hound.healing.sheet import Sheet
from wary_hound.journey.naming import names_for
from wary_hound.locator.blocks import row_of
from wary_hound.page.secrets import ORDINARY
from wary_hound.page.slots import Slots

NIGHTS = [("Vega", "12"), ("Saturn", "8"), ("Lyra", "8")]
HEADS = ("Night", "Places", "Action")
FLAT = """() => [...document.querySelectorAll("*")].flatMap(function inner(e) {
  return [e, ...(e.shadowRoot ? [...e.shadowRoot.querySelectorAll("*")].flatMap(inner) : [])];
}).map((e) => {
  const chain = [];
  const up = (node) => node.assignedSlot || node.parentElement || (node.parentNode && node.parentNode.host);
  for (let at = up(e); at; at = up(at)) chain.push(at.id);
  return [e.id, ...chain];
})"""


def grid(nights: Sequence[tuple[str, str]], order: Sequence[int], head: str = "td") -> str:
    """A grid in a list item; its cells are in the light tree in the order of `order`."""
    cell = f"<{head}><slot name=h%d></slot></{head}>"
    rows = "".join(f"<tr>{''.join(f'<td><slot name=c{r}{c}></slot></td>' for c in range(3))}</tr>" for r in range(len(nights)))
    table = f"<table><thead><tr>{''.join(cell % c for c in range(3))}</tr></thead><tbody>{rows}</tbody></table>"
    cells = [f"<x-cell slot=h{c}>{head}</x-cell>" for c, head in enumerate(HEADS)]
    for r in order:
        name, places = nights[r]
        cells += [f"<x-cell slot=c{r}0>{name}</x-cell>", f"<x-cell slot=c{r}1>{places}</x-cell>"]
        cells.append(f"<x-cell slot=c{r}2><button id=b{r}>Book</button><button>Plan</button></x-cell>")
    host = f"<x-grid><template shadowrootmode=open>{table}</template>{''.join(cells)}</x-grid>"
    return f"<!doctype html><h1>Nights</h1><ul><li>{host}</li></ul>"


GRID = grid(NIGHTS, (2, 0, 1), "th")


@pytest.mark.parametrize(
    ("locator", "found"),
    [
        ("css{button} @row-of text{Saturn}", ["Book", "Plan"]),
        ("text{Book} @row-of text{Lyra}", ["Book"]),
        ("css{x-cell} @row-of text{Vega} and @column-of text{Places}", ["12"]),
        ("css{x-cell} @column-of text{Night}", ["Lyra", "Vega", "Saturn"]),
        ("css{x-cell} @column-of css{#b0}", ["Action", "BookPlan", "BookPlan"]),
        ("css{h1} @row-of text{Saturn}", []),
        ("shadow css{x-grid} -> css{td} @row-of css{td}#4", ["8", "BookPlan"]),
    ],
)
def test_rows_and_columns_are_those_that_are_seen(locator: str, found: list[str]) -> None:
    page = Page.parse(GRID)
    assert [page[i].text.replace(" ", "") for i in match(page, parse(locator))] == found


def test_an_engineer_would_name_a_cell_by_its_row_and_column() -> None:
    page = Page.parse(GRID)
    book, places = page.find("css{#b1}"), page.find("css{x-cell}#11")
    assert places.text == "8"
    without_id = Page.parse(GRID.replace("id=b1", ""))
    assert str(rank(without_id[book.index], Question(ways=1))[0].locator) == 'role{button "Book"} @row-of text{Saturn}'
    first = rank(places, Question(ways=1))[0]
    assert str(first.locator) == "css{x-cell} @row-of text{Saturn} and @column-of text{Places}"
    assert not first.weak
    for one in rank(without_id[book.index]):  # no step leads from the light tree to a row of the shadow tree
        assert match(without_id, one.locator) == [book.index]
    assert match(page, parse("xpath{//tr//button}")) == []


def test_names_in_a_book_say_the_row() -> None:
    page = Page.parse(GRID.replace("id=b", "class=b"))
    assert names_for(usable(page))[:4] == ["book-lyra", "plan-lyra", "book-vega", "plan-vega"]


def test_what_was_in_a_row_is_found_in_it_again() -> None:
    """The rows are other ones, in another order, and the cells stand as they come."""
    book = Page.parse(GRID).find("css{#b1}")
    assert Sheet.of(book.page).column("apart")[book.index] == "saturn"
    old = Page.parse(grid(NIGHTS, (2, 0, 1)).replace("id=b", "class=b"))
    nights = [("Io", "3"), ("Saturn", "9"), ("Dione", "1"), ("Vega", "4"), ("Lyra", "2")]
    new = Page.parse(grid(nights, (4, 1, 0, 3, 2)).replace("id=b", "class=b"))
    for name, _ in NIGHTS:
        verdict = relocate(old.find(f"text{{Book}} @row-of text{{{name}}}"), new)
        assert verdict.element == new.find(f"text{{Book}} @row-of text{{{name}}}"), name
        assert verdict.outcome in ("same", "moved")


@pytest.mark.parametrize("kind", ["chromium", "firefox"])
def test_the_browser_holds_the_same_in_the_same(kind: str, request: pytest.FixtureRequest, tmp_path: Path) -> None:
    """Slots in slots, of several names, with what is in no slot; and a live page finds what stands in the row."""
    inner = "<template shadowrootmode=open><p id=p><slot id=s3></slot></p><slot id=s4 name=late></slot></template>"
    late = "<b id=b><slot id=s2 name=two slot=late></slot></b><slot id=s5 slot=late></slot>"
    outer = f"<x-in id=in>{inner}<slot id=s1></slot>{late}</x-in>"
    light = "<i id=i>a</i><u id=u slot=two>b</u><s id=s slot=none>c<em id=em></em></s><i id=j><x-in id=k></x-in></i>"
    shape = f"<x-out id=out><template shadowrootmode=open><div id=d>{outer}</div></template>{light}</x-out>"
    (tmp_path / "grid.html").write_text(GRID + shape)
    browser: Browser = request.getfixturevalue(kind)
    live = browser.open((tmp_path / "grid.html").as_uri())
    page = live.capture()
    ids = page.index.attribute_column("id")
    held = Slots.of(page)
    expected = {own: chain for own, *chain in live.script(FLAT) if own}
    assert len(expected) > 15
    assert expected["u"][:4] == ["s2", "b", "s3", "p"]
    for index, own in ids.items():
        chain, tree = [], int(page.tree[index])
        for at in held.around(index):
            chain.append(ids.get(at, ""))
        while page.trees[tree].host >= 0:
            host = page.trees[tree].host
            chain += [ids.get(host, ""), *(ids.get(at, "") for at in held.around(host))]
            tree = int(page.tree[host])
        assert chain == expected[own], own
    for row, (name, _) in enumerate(NIGHTS):
        assert live.find(f"text{{Book}} @row-of text{{{name}}}").attributes["id"] == f"b{row}"
    live.close()


@pytest.mark.parametrize("kind", ["chromium", "firefox"])
def test_a_part_of_a_live_page_is_no_row(kind: str, request: pytest.FixtureRequest, tmp_path: Path) -> None:
    """The cell that a text is in looks like a row, where nothing is known of the slot that it is in."""
    nights = [(f"<b>{name} {n}</b><i>old</i><button>Info</button>", "1") for n in range(9) for name in ("Vega", "Saturn", "Lyra")]
    (tmp_path / "grid.html").write_text(grid(nights, range(len(nights))).replace("li>", "div>"))
    browser: Browser = request.getfixturevalue(kind)
    live = browser.open((tmp_path / "grid.html").as_uri())
    assert live.find("text{Book} @row-of text{Saturn 4}").attributes["id"] == "b13"
    for said in ("css{button} @row-of text{Saturn 4}", "text{Info} @row-of text{Saturn 4}"):
        asked = asked_for(parse(said))
        assert asked is not None
        assert glimpse(live._connection, live.context, "2026-11-26T00:00:00+00:00", ORDINARY, asked) is None
    live.close()


def test_no_part_is_counted_twice() -> None:
    page = Page.parse(GRID + "<x-card><template shadowrootmode=open><article><slot></slot></article></template>" + GRID)
    slots = Slots.of(page)

    def holders(index: int) -> set[int]:
        host = page.trees[page.tree[index]].host
        return {index, *slots.around(index)} | (holders(host) if host >= 0 else set())

    held = [holders(index) for index in range(len(page))]
    for holder in range(len(page)):
        members = list(slots.members(holder))
        assert len(members) == len(set(members))
        assert set(members) == {index for index in range(len(page)) if holder in held[index]}


def test_many_slots_in_one_another_take_no_longer_than_they_are_deep() -> None:
    depth = 400
    nested = "<x-a><template shadowrootmode=open><table><tr><td><slot></slot></td></tr></table></template>" * depth
    page = Page.parse(f"<ul><li>{nested}<b>Deep</b></ul>")
    deep = page.find("text{Deep}").index
    assert page.tags[row_of(page, deep)] == "tr"
    assert len([at for at in Slots.of(page).around(deep) if page.tags[at] == "td"]) == depth
    assert len(list(Slots.of(page).members(page.find("css{li}").index))) == len(page) - page.find("css{li}").index


def test_neither_a_slot_nor_one_of_two_says_something_alone() -> None:
    page = Page.parse(
        "<p><span><span id=a>Io</span></span><span id=b>Leda</span></p>"
        "<x-a id=x><template shadowrootmode=open><slot id=c>Late</slot><b id=d>Dust</b></template></x-a>"
    )
    said = dict(zip(page.index.attribute_column("id").values(), page.index.attribute_column("id"), strict=True))
    alone = Sheet.of(page).column("sole-own")
    assert [alone[said[name]] for name in "abcd"] == ["", "span leda", "", "b dust"]
