"""What tables say of their words: data differs from row to row, names that count the rows are positions, figures tell rows last."""

from __future__ import annotations

from collections.abc import Sequence

import pytest

from wary_hound import Page, Question, match, parse, rank
from wary_hound.authoring.rules import Rules
from wary_hound.robustness.dependence import dependencies
from wary_hound.robustness.numbering import Numbering
from wary_hound.robustness.tabular import Tabular

ROWS = [("2031-04-02", "Vega", "North dome", "4"), ("2031-04-03", "Rigel", "South dome", "6"), ("2031-04-04", "Mira", "Shed", "2")]


def nights(rows: list[tuple[str, str, str, str]] = ROWS) -> str:
    body = "".join(
        f"""<tr><td>{date}<td>{star}<td><a href="/domes/{dome[:2]}">{dome}</a> <i>{k}</i>
        <td><input name="lines-{k}-places" value="{places}">
        <td><a href="/nights/{k}/edit">Change</a><td><button>Hold</button></tr>"""
        for k, (date, star, dome, places) in enumerate(rows)
    )
    heads = "".join(f"<th scope=col><span role=button>{name}</span></th>" for name in ("Date", "Star", "Dome", "Places", "", ""))
    feet = heads.replace("role=button", "")
    return f"<!doctype html><table><thead><tr>{heads}</thead><tbody>{body}</tbody><tfoot><tr>{feet}</tfoot></table>"


@pytest.mark.parametrize(
    ("element", "datum"),
    [
        ("text{Rigel}", False),  # what the row is known by
        ("text{South dome}", True),
        ("css{td:nth-of-type(3)} @row-of text{Rigel}", True),
        ("text{2031-04-03}", False),  # figures are weighed as such
        ("text{Change} @row-of text{Rigel}", False),  # the same in every row
        ("text{Hold} @row-of text{Rigel}", False),
        ("css{thead span} @column-of text{Dome}", False),
    ],
)
def test_what_differs_from_row_to_row_is_data(element: str, datum: bool) -> None:
    page = Page.parse(nights())
    [index] = match(page, element) if "thead" not in element else [page.find("css{thead th:nth-of-type(3) span}").index]
    assert Tabular.of(page).is_datum(index) is datum


def test_a_column_that_repeats_itself_is_data_wherever_it_stands() -> None:
    rows = "".join(
        f"<tr><td>{star}<td>{state}<td>{hold}<td>held</tr>"
        for star, state, hold in (("Vega", "free", "h-k"), ("Mira", "taken", "h-m"), ("Vega", "free", "h-n"))
    )
    page = Page.parse(f"<table><tr><th>Star<th>State<th>Hold<th>Was</tr>{rows}</table>")
    tabular = Tabular.of(page)
    said = {text: tabular.is_datum(page.find(f"text{{{text}}}").index) for text in ("Mira", "taken", "h-m")}
    assert said == {"Mira": True, "taken": True, "h-m": False}


@pytest.mark.parametrize("many", [1, 2])
def test_in_few_rows_that_all_say_the_same_it_is_data(many: int) -> None:
    rows = "".join(f"<tr><td>{star}<td>Ada Marsh<td><a href=/{star}>Change</a>" for star in ("Vega", "Mira")[:many])
    tabular = Tabular.of(page := Page.parse(f"<table><tr><th>Star<th>Watcher<th>{rows}</table>"))
    cells = [match(page, f"css{{td}}#{n}")[0] for n in (1, 2)] + match(page, "css{a}#1")
    assert [tabular.is_datum(cell) for cell in cells] == [False, True, False]


def test_a_link_in_a_cell_is_said_by_its_row_and_column() -> None:
    page = Page.parse(nights())
    link = page.find("text{South dome}")
    first = rank(link)[0]
    assert not first.weak
    assert "South" not in str(first.locator)
    assert "/domes/So" not in str(first.locator)
    assert "Rigel" in str(first.locator)
    moved = Page.parse(nights([*ROWS[:1], ("2031-04-03", "Rigel", "Shed", "6"), ("2031-04-04", "Mira", "South dome", "2")]))
    [found] = match(moved, first.locator)
    assert moved[found].text == "Shed"
    cell = rank(page.find("css{td:nth-of-type(3)} @row-of text{Rigel}"))[0]
    assert str(cell) == "css{td} @row-of text{Rigel} and @column-of text{Dome}"  # the head stands above and below


def test_a_name_that_counts_the_rows_is_no_name() -> None:
    page = Page.parse(nights())
    field = page.find("css{[name=lines-1-places]}")
    looks = {d.look for d in dependencies(page, rank(field, Question(rules=Rules(only=("css",))))[0].locator, field.index)}
    assert "counting" not in looks
    first = rank(field)[0]
    assert not any("lines-1" in str(way) for way in first.locator.alternatives)
    [found] = match(Page.parse(nights(ROWS[1:])), first.locator)  # the first night is over
    assert Page.parse(nights(ROWS[1:]))[found].attributes["value"] == "6"


@pytest.mark.parametrize(
    ("numbers", "counts"), [((0, 1, 2), True), ((7, 8), True), ((4, 19, 7), False), ((2, 1, 0), False), ((3,), False)]
)
def test_only_numbers_that_go_up_by_one_count(numbers: tuple[int, ...], counts: bool) -> None:
    rows = "".join(f"<li class=night id=night-{n}><b>Star {n}</b><button>Hold</button></li>" for n in numbers)
    page = Page.parse(f"<ul>{rows}</ul>")
    index = page.find(f"css{{#night-{numbers[-1]}}}").index
    assert Tabular.of(page).counts_rows(index, "id", f"night-{numbers[-1]}") is counts


def test_where_nothing_else_is_known_of_a_row_its_number_is() -> None:
    new = nights([*ROWS, ("", "", "", "1")])
    page = Page.parse(new)
    field = page.find("css{[name=lines-3-places]}")
    assert not Tabular.of(page).counts_rows(field.index, "name", "lines-3-places")
    [named] = [c for c in rank(field) if str(c) == 'css{[name="lines-3-places"]}']
    assert not named.weak


def test_empty_rows_for_what_is_new_make_no_data_of_what_the_others_are_known_by() -> None:
    page = Page.parse(nights([*ROWS, ("", "", "", ""), ("", "", "", "")]))
    assert not Tabular.of(page).is_datum(page.find("text{Rigel}").index)
    assert Tabular.of(page).is_datum(page.find("text{South dome}").index)
    field = page.find("css{[name=lines-1-places]}")
    assert str(rank(field, Question(ways=1))[0]) == "css{input} @row-of text{Rigel}"


def test_a_row_itself_is_said_by_what_it_is_known_by() -> None:
    page = Page.parse(nights())
    row = page[page.find("text{Rigel}").index].parent
    assert row is not None
    assert str(rank(row)[0].locator.alternatives[0]) == 'xpath{//tr[td="Rigel"]}'
    in_css = rank(row, Question(rules=Rules(only=("css",))))[0]
    assert (str(in_css), in_css.weak) == ('css{tr:has([href="/nights/1/edit"])}', False)


def test_an_error_is_data() -> None:
    page = Page.parse(
        "<form><p class=field-star><label>Star <input name=star></label><ul class=errorlist><li>Say which one</ul></form>"
    )
    error = page.find("text{Say which one}")
    assert not any("Say which" in str(c) for c in rank(error) if not c.weak)
    assert "data" in {d.look for d in dependencies(page, parse("text{Say which one}"), error.index)}


def test_a_column_never_stands_behind_else() -> None:
    page = Page.parse(nights())
    cell = page.find("css{td:nth-of-type(3)} @row-of text{Rigel}")
    for candidate in rank(cell, Question(rules=Rules(only=("xpath",)))):
        assert not any("preceding-sibling" in str(way) for way in candidate.locator.alternatives[1:])


def test_a_row_is_told_by_its_words_before_its_figures_and_by_no_state() -> None:
    rows = "<tr><td>{}<td aria-current={}><b>{}</b><td><button>Hold</button></tr>"
    page = Page.parse("<table>" + rows.format(24, "true", "Vega") + rows.format(25, "false", "Mira") + "</table>")
    button = page.find("css{tr:first-child button}")
    for rules, said in ((Rules(), "Vega"), (Rules(only=("xpath",)), "Vega")):
        first = str(rank(button, Question(rules=rules))[0].locator.alternatives[0])
        assert (said in first, "24" in first) == (True, False)
    assert not any("aria-current" in str(c) for c in rank(button, Question(rules=Rules(only=("css",)))) if not c.weak)


def test_what_some_days_of_a_calendar_are_like_is_data() -> None:
    weeks = "".join(
        "<tr>" + "".join(f"<td class='day {'free' if day > 4 else 'held'}'>{7 * week + day}" for day in range(7))
        for week in range(4)
    )
    page = Page.parse(f"<!doctype html><table>{weeks}</table>")
    told = [Tabular.of(page).is_told_by_its_state(page.find("text{12}").index, name) for name in ("free", "held", "day")]
    assert told == [True, False, False]


def test_what_a_program_writes_is_data() -> None:
    page = Page.parse("<!doctype html><div id=night><p>The log of the night</p><pre class=log>dome turned west</pre></div>")
    first = rank(page.find("css{pre}"), Question(ways=1))[0]
    assert str(first) == "css{#night pre}"


def ids(names: list[str], tags: str = "p ul li form dialog nav b h2 i em") -> Numbering:
    return Numbering.of(
        Page.parse("".join(f"<{tag} id={name}></{tag}>" for name, tag in zip(names, tags.split() * 3, strict=False)))
    )


def test_one_counter_for_all_that_a_program_makes() -> None:
    through = ids([f"pane_{n}" for n in range(30, 40)])
    assert through.counts("pane_31")
    assert through.counts("pane_31-title")
    assert not through.counts("pane")
    assert not ids([f"pane_{n}" for n in range(30, 36)]).counts("pane_31"), "too few to tell"
    assert not ids([f"night_{n}" for n in range(30, 40)], "input select textarea").counts("night_31"), "fields of a form"
    assert not ids([f"row_{n}" for n in range(30, 40)], "li").counts("row_31"), "all of one kind"


def test_one_counter_for_many_names() -> None:
    parts = ["label-name", "error-name", "input-name", "label-star", "error-star", "input-star", "label-dome", "input-dome"]
    rows = [f"row-{n}" for n in range(1, 9)]
    assert ids([*(f"{part}-{n}" for n, part in enumerate(parts)), "x-0", *rows]).counts("label-star-3")
    assert not ids([*(f"{part}-1" for part in parts), "x-1", *rows]).counts("label-star-1"), "each name begins anew"


def components(numbers: Sequence[int]) -> Numbering:
    """Of six components, two of a kind, each with three parts that have its number."""
    trees = [
        "".join(f"<i id={kind}-{part}-{n}></i>" for part in ("label", "input", "error"))
        for kind, n in zip(("text", "text", "day", "day", "hour", "hour"), numbers, strict=True)
    ]
    return Numbering.of(Page.parse("".join(f"<x-box><template shadowrootmode=open>{ids}</template></x-box>" for ids in trees)))


def test_one_counter_for_all_components() -> None:
    assert components(range(6)).counts("day-input-2")
    assert not components([1] * 6).counts("day-input-1"), "each begins anew"


@pytest.mark.parametrize("around", ["<template shadowrootmode=open>{}</template>", "{}"])
def test_a_person_numbers_each_name_from_one_wherever_that_is(around: str) -> None:
    names = [f"{part}-{n}" for part in ("label", "error", "input", "star", "dome", "hour", "night", "place") for n in range(1, 6)]
    page = Page.parse(f"<x-box>{around.format(''.join(f'<i id={name}></i>' for name in names))}</x-box>")
    assert not Numbering.of(page).counts("label-1")


def test_what_is_wrong_with_a_row_today_is_data() -> None:
    row = "<tr><td>{}<td>{}<td><input>"
    page = Page.parse(f"<table>{row.format('Vega', '')}{row.format('Mira', '<ul class=errorlist><li>Say an hour</ul>')}</table>")
    field = page.find("css{input}#2").index
    looks = {
        text: [
            fact.look
            for fact in dependencies(page, parse(f'xpath{{//tr[td[normalize-space()="{text}"]]//input}}'), field)
            if fact.value == text
        ]
        for text in ("Mira", "Say an hour")
    }
    assert looks == {"Mira": ["words"], "Say an hour": ["data"]}


def test_an_attribute_that_counts_the_rows_is_a_position_by_another_name() -> None:
    def best(numbers: tuple[int, int]) -> tuple[str, bool]:
        rows = "".join(f"<div role=row row-index={k}><div role=gridcell col-id=star>x</div></div>" for k in numbers)
        page = Page.parse(f"<div role=grid>{rows}</div>")
        one = rank(page.find('css{[col-id="star"]}#2'), Question(ways=1, rules=Rules(only=("css",))))[0]
        return str(one.locator), one.weak

    assert best((0, 1))[1]
    assert best((41, 7)) == ('css{div[row-index="7"] [col-id="star"]}', False)


def test_what_is_read_is_not_found_by_a_title_that_says_the_same() -> None:
    page = Page.parse("<main><div class=chosen><span class=item title=Vega>Vega</span></div><p class=item title=Hours>4</p></main>")
    for purpose, expected in (("read", False), ("click", True)):
        said = {str(one.locator) for one in rank(page.find("css{span}"), Question(ways=1, purpose=purpose))}
        assert ('css{[title="Vega"]}' in said) is expected
    assert 'css{[title="Hours"]}' in {str(one.locator) for one in rank(page.find("css{p}"), Question(ways=1, purpose="read"))}
