"""Columns and several relations: tables with spans and named headers, ARIA grids, boxes; the notation of `and`."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from conftest import read
from wary_hound import NotationError, Page, convert, match, parse

SPANNED = Page.parse(
    """<table>
    <tr><th rowspan=2 id=who>Watcher</th><th colspan=2 id=spring>Spring</th><th id=autumn>Autumn</th></tr>
    <tr><th id=march>March</th><th id=april>April</th><th>October</th></tr>
    <tr><td>Ada</td><td>a3</td><td>a4</td><td>a10</td></tr>
    <tr><td>Ben</td><td colspan=2>b34</td><td>b10</td></tr>
    <tr><td>Cleo</td><td>c3</td><td headers="autumn">c4</td><td>c10</td></tr>
    </table>"""
)
GRID = Page.parse(
    """<div role=grid>
    <div role=row><b role=columnheader aria-colindex=2>Night</b><b role=columnheader aria-colindex=5>Moon</b></div>
    <div role=row><span role=gridcell aria-colindex=2>Vega</span><span role=gridcell aria-colindex=5>half</span></div>
    </div>"""
)


@pytest.mark.parametrize(
    ("anchor", "cells"),
    [
        ("text{Watcher}", "Ada Ben Cleo"),
        ("text{March}", "a3 b34 c3"),
        ("text{Spring}", "a3 a4 b34 c3 c4"),
        ("text{April}", "a4 b34 c4"),
        ("text{October}", "a10 b10 c10"),
    ],
)
def test_columns_go_by_what_cells_cover(anchor: str, cells: str) -> None:
    assert " ".join(e.text for e in SPANNED.find_all(f"css{{td}} @column-of {anchor}")) == cells


def test_a_cell_is_in_the_column_of_the_header_that_it_names() -> None:
    assert "c4" in [e.text for e in SPANNED.find_all("css{td} @column-of text{Autumn}")]


def test_grids_have_columns_too() -> None:
    assert [e.text for e in GRID.find_all("role{gridcell} @column-of text{Moon}")] == ["half"]
    assert [e.text for e in GRID.find_all("css{span} @column-of text{Night} and @row-of text{half}")] == ["Vega"]


HEADS = "<tr><th>Star</th><th>Edit</th><th>Remove</th></tr>"
WHOLE = "<tr><td>Vega</td><td>edit 1</td><td>remove 1</td></tr>"
LACKS_ONE = "<tr><td>Lyra</td><td>remove 2</td></tr>"
BESIDE_A_SPAN = "<tr><td>Deneb</td><td>edit 5</td><td rowspan=2>remove 5</td></tr><tr><td>Lyra</td><td>edit 6</td></tr>"
BELOW_A_SPAN = "<tr><td rowspan=2>Deneb</td><td>edit 3</td><td>remove 3</td></tr><tr><td>edit 4</td><td>remove 4</td></tr>"


@pytest.mark.parametrize(
    ("rows", "cells"),
    [
        (WHOLE + LACKS_ONE, "edit 1"),
        (LACKS_ONE, "remove 2"),  # no row says that the heads mean more columns than there are
        (BELOW_A_SPAN, "edit 3 edit 4"),
        (BESIDE_A_SPAN, "edit 5 edit 6"),
        (WHOLE + "<tr><td colspan=3>No more</td></tr>", "edit 1 No more"),
    ],
)
def test_a_row_that_lacks_a_cell_tells_no_column(rows: str, cells: str) -> None:
    page = Page.parse(f"<table>{HEADS}{rows}</table>")
    assert " ".join(e.text for e in page.find_all("css{td} @column-of text{Edit}")) == cells
    as_xpath = convert("css{td} @column-of text{Edit}", "xpath")
    assert "remove 2" not in [e.text for e in page.find_all(as_xpath)]
    assert ("edit 1" in cells) == ("edit 1" in [e.text for e in page.find_all(as_xpath)])


def test_a_cell_that_says_its_column_is_taken_at_its_word() -> None:
    def row(*cells: tuple[int, str], role: str = "gridcell") -> str:
        return f"<div role=row>{''.join(f'<span role={role} aria-colindex={at}>{text}</span>' for at, text in cells)}</div>"

    heads = row((2, "Night"), (5, "Moon"), (6, "Wind"), role="columnheader")
    page = Page.parse(f"<div role=grid>{heads}{row((2, 'Vega'), (5, 'half'), (6, 'calm'))}{row((2, 'Lyra'), (5, 'full'))}</div>")
    assert [e.text for e in page.find_all("role{gridcell} @column-of text{Moon}")] == ["half", "full"]


def test_both_relations_must_hold() -> None:
    page = read("nights@r1")
    cell = page.find("css{td} @row-of text{Saturn} and @column-of text{Places}")
    assert cell.text == "8"
    in_row = page.find_all("css{td} @row-of text{Saturn}")
    in_column = page.find_all("css{td} @column-of text{Places}")
    assert [e for e in in_row if e in in_column] == [cell]
    assert len(in_row) > 1
    assert len(in_column) > 1


@given(
    st.lists(
        st.sampled_from(["@row-of text{A}", "@column-of css{th}", "@inside css{table}", "@after role{link}"]),
        min_size=1,
        max_size=3,
    )
)
def test_several_relations_print_back_as_they_were_parsed(relations: list[str]) -> None:
    line = f"css{{td}} {' and '.join(relations)}"
    assert str(parse(line)) == line
    assert len(parse(line).hops[0].finder.relations) == len(relations)


@pytest.mark.parametrize(
    "line", ["css{td} and @row-of text{A}", "css{td} @row-of text{A} and", "css{td} @row-of text{A} and css{b}"]
)
def test_an_and_without_two_relations_is_refused(line: str) -> None:
    with pytest.raises(NotationError):
        parse(line)


def test_outside_of_tables_columns_need_boxes() -> None:
    page = Page.parse("<p>Moon</p><b>half</b>")
    assert match(page, "css{b} @column-of text{Moon}") == []
