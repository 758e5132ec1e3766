"""What tells a row of a table: its title, and not its state, the label of its box, its number or what can be done with it."""

from __future__ import annotations

import pytest

from conftest import proposed, weak
from wary_hound import Page, rank
from wary_hound.authoring.anchors import own_texts, titles_of
from wary_hound.authoring.predicates import head_of, path_of
from wary_hound.authoring.question import Question
from wary_hound.authoring.ranking import assess
from wary_hound.authoring.signs import gives_a_hint
from wary_hound.locator.blocks import rows_around
from wary_hound.locator.notation import parse
from wary_hound.robustness.data import counts_things, holds_a_count, is_passing, known_by_number
from wary_hound.robustness.dependence import dependencies
from wary_hound.robustness.dependency import COMMON
from wary_hound.robustness.model import key_of
from wary_hound.robustness.tabular import Tabular, is_label, is_of_a_state

RUNS = """<table id=runs><tr><th>Star<th>Last<th>
<tr id=run_vega class=done><td>Vega<td data="2031-03-04T20:00:00Z">14 h <span class=badge><a href="/runs/41">#41</a></span>
<td><a class=deed href="/runs/vega/start"><i class=go></i></a>
<tr id=run_mizar class=failed><td>Mizar<td data="-">never<td><a class=deed href="/runs/mizar/start"><i class=go></i></a></table>"""
FAULTS = "<table><tr><th><th>#<th>Status<th>Subject<th>Watcher<th>" + "".join(
    f'<tr><td><input type=checkbox name="ids[]" value={n}><td><a href="/faults/{n}">{n}</a><td class=status>{state}'
    f'<td class=subject><a href="/faults/{n}">{said}</a><td>{who}<td><a href=# title=Actions>Actions</a>'
    for n, state, said, who in ((214, "New", "Dome slows near the zenith", "Ben"), (212, "Held", "Lamp stays red", "Cleo"))
)
NOTES = "<table><tr><th><th>Title<th>Who" + "".join(
    f"<tr><th><input id=cb{n} type=checkbox><label for=cb{n}>Select {said}</label>"
    f'<td><a href="/notes/edit?note={n}">{said}</a> <a href="/notes/edit?note={n}">Edit</a><td>{who}'
    for n, said, who in ((41, "Rings at their widest", "ada"), (38, "The dome door", "ben"))
)
DOMES = "<table><tr><th><th>Name<th>Places" + "".join(
    f'<tr><td><input type=checkbox aria-label="Select row {n}"><td data-label=Name><a href="/domes/{name.lower()}">{name}</a>'
    f"<td data-label=Places><b>{places}</b>"
    for n, name, places in ((0, "North", 8), (1, "South", 6))
)


@pytest.mark.parametrize(
    ("page", "locator", "is_so"),
    [
        (RUNS, "css{.badge a}", True),
        (RUNS, "css{#runs .badge a}", True),  # which table that is says not in which row
        (RUNS, "css{.done .badge}", True),
        (RUNS, 'css{[data="2031-03-04T20:00:00Z"] a}', True),  # when that was
        (RUNS, "css{#run_vega .badge}", False),
        (RUNS, "css{.badge} @row-of text{Vega}", False),
        (RUNS, "css{#runs th:nth-of-type(1)}", True),
        (FAULTS, "css{.status} @row-of text{Lamp stays red}", False),
        (FAULTS, "css{.status} @row-of text{Actions}", True),  # as each row says
        ("<table id=one><tr><td><b class=sum>4</b></table>", "css{#one .sum}", False),  # there is one row
        ("<table id=one><tr><th>Sum<tr><td><b class=sum>4</b></table>", "css{#one .sum}", False),  # the other is that of the heads
        (
            f"<table><tr><td>Menu<tr><td><div class=head><b class=sum>4</b></div>{DOMES}</table>",
            "css{.head .sum}",
            False,
        ),  # laid out so
        ("<ul id=list><li><b class=sum>4</b><li><b>5</b></ul>", "css{#list .sum}", False),
    ],
)
def test_of_what_stands_in_a_row_something_says_in_which(page: str, locator: str, is_so: bool) -> None:
    assert weak(page, locator) is is_so


@pytest.mark.parametrize(
    ("page", "element", "only", "said"),
    [
        (RUNS, "css{.badge}", "css", "css{#run_vega .badge}"),
        (RUNS, "css{.badge a}", "css", "css{#run_vega .badge a}"),
        (FAULTS, "css{input}#1", "", "css{input} @row-of text{Dome slows near the zenith}"),
        (
            NOTES,
            "css{td:last-child}#1",
            "",
            "css{td} @row-of text{Rings at their widest} and @column-of text{Who}",
        ),
        (DOMES, "css{input}#1", "", "css{input} @row-of text{North}"),
        (DOMES, "css{input}#1", "css", 'css{tr:has([href="/domes/north"]) input}'),
        (DOMES, "css{b}#2", "css", 'css{tr:has([href="/domes/south"]) b}'),
    ],
)
def test_rows_are_told_by_their_title(page: str, element: str, only: str, said: str) -> None:
    assert proposed(page, element, only) == said


def test_a_title_leads_where_the_number_of_its_row_leads() -> None:
    page = Page.parse(FAULTS)
    box, texts = page.find("css{input}#1").index, page.semantics.worded
    row = page.find("css{tr}#2").index
    said = own_texts(page, row, box)
    assert [texts[at] for at in said] == ["Dome slows near the zenith", "Ben", "Actions", "214", "New"]
    assert [texts[at] for at in titles_of(page, row, said)] == ["Dome slows near the zenith"]
    other = Page.parse(FAULTS.replace('<a href="/faults/214">214</a>', "<a href=#>214</a>"))  # one that leads nowhere
    said = own_texts(other, row, box)
    assert len(titles_of(other, row, said)) == len(said)


def test_a_title_comes_before_what_stands_before_it() -> None:
    page = Page.parse("<table><tr><td>Ben<td><a href=/f/1>1</a><td><a href=/f/1>Dome slows</a><tr><td>Cleo<td>2<td>Lamp</table>")
    said = own_texts(page, page.find("css{tr}#1").index, page.find("css{td}#1").index)
    assert [page.semantics.worded[at] for at in said] == ["Dome slows", "Ben"]


def test_a_title_is_a_whole_word_of_the_name() -> None:
    page = Page.parse(
        "<ul><li aria-label='Starline, 3 hours'><b>Star</b><i>Starline</i><li aria-label=Moon><b>Moon</b><i>x</i></ul>"
    )
    row = page.find("css{li}#1").index
    assert [page.semantics.worded[at] for at in titles_of(page, row, own_texts(page, row, row))] == ["Starline"]


def test_states_and_labels_tell_no_row() -> None:
    page = Page.parse(FAULTS)
    assert is_of_a_state(page, page.find("text{New}").index)
    assert not is_of_a_state(page, page.find("text{Ben}").index)
    assert not is_of_a_state(page, page.find("text{Status}").index)  # the head itself
    assert Tabular.of(page).known_as(page.find("text{Ben}").index) == "Dome slows near the zenith"
    told = Page.parse("<table><tr><td data-label=Kind>Dome<td>Vega<tr><td data-label=Kind>Lamp<td>Mizar</table>")
    assert is_of_a_state(told, told.find("text{Lamp}").index)
    notes = Page.parse(NOTES)
    assert is_label(notes, notes.find("text{Select The dome door}").index)
    assert not is_label(notes, notes.find("text{The dome door}").index)
    assert Tabular.of(notes).known_as(notes.find("text{ben}").index).startswith("The dome door")


def test_what_a_plain_cell_says_is_data_in_however_many_rows() -> None:
    rows = "".join(f"<tr><td>{star}<td>{dome}<td><a href=/{star}>More</a>" for star, dome in zip("abcde", "NNNNS", strict=True))
    page = Page.parse(f"<table><tr><th>Star<th>Dome<th>{rows}</table>")
    tabular = Tabular.of(page)
    assert tabular.is_datum(page.find("css{td:nth-of-type(2)}#1").index)
    assert not tabular.is_datum(page.find("css{a}#1").index)
    named = Page.parse("<table><tr><td class=status>New<td>Vega<tr><td class=status>Held<td>Mizar</table>")
    assert is_of_a_state(named, named.find("text{New}").index)


def test_what_the_rows_beside_say_too_is_common() -> None:
    page = Page.parse(FAULTS)

    def remark(locator: str) -> str:
        return dependencies(page, parse(locator), page.find_all(locator)[0].index)[0].remark

    assert remark("text{Actions}") == COMMON
    assert remark("text{Lamp stays red}") == ""
    assert Page.parse("<p>Hold</p><p>Hold</p>").find_all("text{Hold}")
    plain = Page.parse("<p>Hold</p><p>Hold</p>")
    assert dependencies(plain, parse("text{Hold}"), plain.find_all("text{Hold}")[0].index)[0].remark == ""


def test_a_name_that_counts_the_rows_is_a_position() -> None:
    assert weak(DOMES, 'css{[aria-label="Select row 0"]}')
    assert weak(DOMES, "label{Select row 0}")
    said = [str(one.locator) for one in rank(Page.parse(DOMES).find("css{b}#1"))]
    assert not [one for one in said if "Select row" in one]
    slides = '<div><button aria-label="Go to slide 1"></button><button aria-label="Go to slide 2"></button></div>'
    assert not weak(slides, "label{Go to slide 2}")


@pytest.mark.parametrize(
    ("text", "counts"),
    [
        ("12 replies, jump to the first", True),
        ("1 reply, jump to the first", True),
        ("Show notes window with 3 new notes", True),
        ("This night has 12 visitors", True),
        ("Notes, 3 unread", True),
        ("All (12)", True),
        ("Last 7 days", False),
        ("24 hours", False),
        ("Apply heading level 1 formatting", False),
        ("Go to slide 2", False),
        ("Row 1, seat 3", False),
        ("Messier 31", False),
        ("3", False),
    ],
)
def test_names_that_say_how_many_there_are(text: str, counts: bool) -> None:
    assert counts_things(text) is counts


def test_a_name_that_counts_is_data_where_an_attribute_gives_it() -> None:
    given = "<button aria-label='12 replies, jump to the first'>12</button>"
    assert weak(given, "label{12 replies, jump to the first}")
    assert weak(given, 'css{[aria-label="12 replies, jump to the first"]}')
    assert not weak("<button aria-label='Replies'>12</button>", "label{Replies}")


def test_a_count_in_brackets_is_one_however_short_the_word() -> None:
    page = Page.parse("<a href=#a>All <i>(12)</i></a><a href=#b>Mo <i>12</i></a>")
    assert holds_a_count(page, page.find("css{a}#1").index, "All (12)")
    assert not holds_a_count(page, page.find("css{a}#2").index, "Mo 12")


@pytest.mark.parametrize(
    ("address", "path"),
    [
        ("/nights/view?id=81", ""),
        ("/nights/view?tab=2&night_id=81", ""),
        ("/nights/vega?tab=sky", "/nights/vega"),
        ("/nights?page=2", "/nights"),
    ],
)
def test_an_address_that_says_which_thing_it_is_about_is_asked_for_whole(address: str, path: str) -> None:
    assert path_of(address) == path


def test_data_attributes_in_rows_are_no_data() -> None:
    page, model = Page.parse(DOMES), Question().weighing
    locator = parse("css{[data-label=Places]} @row-of text{North}")
    key = key_of(dependencies(page, locator, page.find("css{b}#1").parent.index), page.find("css{b}#1").parent.index)
    assert key == "row-of/data"
    for key in ("row-of/data", "group-of/data", "guarded/data"):
        assert model.rate(model.stolen, key).hazard < model.rate(model.stolen, "place").hazard
    assert model.rate(model.lost, "label/data").hazard > 0.5  # there it is the look of words


VISITORS = "".join(
    f"<div class=visitor data-index={n}><div class=head><h4>Visitor {n + 1}</h4><button>Remove</button></div>"
    f"<div class=field><label for=v-{n}-name>Name</label><input id=v-{n}-name></div>"
    f"<div class=field><label for=v-{n}-age>Age</label><input id=v-{n}-age type=number></div></div>"
    for n in range(2)
)
SETTINGS = "".join(
    f"<div class=setting><div class=said><div class=title>{title}</div><div class=hint>{hint}</div></div>"
    "<button role=switch></button></div>"
    for title, hint in (("Red light at night", "Spares your eyes"), ("Warm the eyepiece", "Uses more power"))
)
PICTURES = "".join(
    f"<figure><figcaption>{said}</figcaption><button aria-label=Like><i></i><span>{liked}</span></button></figure>"
    for said, liked in (("Vega", 12), ("Lyra at dusk", 3))
)


@pytest.mark.parametrize(
    ("page", "element", "only", "said"),
    [
        (VISITORS, "css{#v-0-name}", "", "label{Name} @row-of text{Visitor 1}"),
        (VISITORS, "css{#v-1-age}", "", "label{Age} @row-of text{Visitor 2}"),
        (VISITORS, "css{button}#2", "", "css{button} @row-of text{Visitor 2}"),
        (SETTINGS, "css{button}#1", "", "css{button} @row-of text{Red light at night}"),
        (PICTURES, "css{button}#1", "xpath", 'xpath{//figure[figcaption="Vega"]//button}'),
        ("<table><tr><th abbr=Monday>M<th abbr=Tuesday>T<tr><td>3<td>4</table>", "css{th}#1", "css", 'css{[abbr="Monday"]}'),
    ],
)
def test_blocks_are_told_as_rows_are(page: str, element: str, only: str, said: str) -> None:
    assert proposed(page, element, only) == said


def test_no_head_is_told_by_another_one() -> None:
    heads = Page.parse("<table><tr><th abbr=Monday>M<th abbr=Tuesday>T<tr><td>3<td>4</table>")
    said = [str(one.locator) for one in rank(heads.find("css{th}#1"))]
    assert not [one for one in said if "row-of" in one]


def test_an_index_of_blocks_is_a_position() -> None:
    assert weak(VISITORS, 'css{[data-index="0"] [id$="-name"]}')
    assert not weak(VISITORS.replace("data-index=0", "data-index=vega"), 'css{[data-index="vega"] [id$="-name"]}')


def test_rows_right_in_one_another_are_both_around_what_is_in_them() -> None:
    page = Page.parse(VISITORS)
    around = [page.attribute(row, "class") for row in rows_around(page, page.find("css{#v-0-name}").index)]
    assert around == ["field", "visitor"]


def test_what_is_written_in_a_field_is_data() -> None:
    assert weak("<div role=textbox contenteditable>open(dome)</div>", "text{open(dome)}")
    assert not weak("<div role=button>open(dome)</div>", "text{open(dome)}")


@pytest.mark.parametrize(
    ("name", "shown", "head"),
    [
        ("Name: Vega night, Path: nights", "Vega night", ""),  # it says what that is
        ("Hours: activate to sort", "Hours", "Hours"),
        ("Delete this cell (D, D)", "", "Delete this cell"),
    ],
)
def test_what_a_name_says_before_a_hint(name: str, shown: str, head: str) -> None:
    assert head_of(name, shown) == head


def test_keys_in_brackets_are_a_hint() -> None:
    assert gives_a_hint("Delete this cell (D, D)")
    assert not gives_a_hint("Delete (all of them)")


def test_seconds_ago_passes() -> None:
    assert is_passing("seconds ago")
    assert not is_passing("seconds")


def test_a_number_beside_a_name_is_no_name() -> None:
    page = Page.parse("<button aria-label=Like>12</button><button aria-label='Page 12'>12</button><button>12</button>")
    assert [known_by_number(page, page.find(f"css{{button}}#{at}").index) for at in (1, 2, 3)] == [False, True, True]


def test_no_block_is_told_by_the_label_of_its_field() -> None:
    page = Page.parse(VISITORS)
    said = [str(one.locator) for one in rank(page.find("css{#v-0-name}"))]
    assert not [one for one in said if 'for="v-0-name"]' in one]


def test_a_locator_that_is_given_is_called_weak_too() -> None:
    page = Page.parse(RUNS)
    badge = page.find("css{.badge}")
    assert assess("css{#runs .badge}", badge).weak
    assert not assess("css{#run_vega .badge}", badge).weak
    assert assess("css{#run_vega .badge} else css{#runs .badge}", badge).weak  # when the row has gone, the next is found
