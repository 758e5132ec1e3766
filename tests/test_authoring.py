"""Which locators are authored for which element: the ways an engineer would write, each by example."""

from __future__ import annotations

import json
import os
import re
import shutil
import subprocess
import sys
from pathlib import Path

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from conftest import PAGES, proposed, read, run
from judging import CSS, XPATH
from wary_hound import ChangeModel, Page, match, portfolio, rank
from wary_hound.authoring.alternatives import ALIKE
from wary_hound.authoring.paths import absolute_css, absolute_xpath, copied_path, relative_css, relative_xpath
from wary_hound.authoring.predicates import attribute_predicates, class_predicates, head_of, stems
from wary_hound.authoring.question import Question
from wary_hound.authoring.ranking import assess, best_of_each
from wary_hound.authoring.rules import Rules
from wary_hound.authoring.search import search
from wary_hound.authoring.taste import distaste
from wary_hound.authoring.weakness import is_weak
from wary_hound.healing.known import tried_on
from wary_hound.locator import css, xpath
from wary_hound.locator.css.printing import css_identifier, css_string, css_text, simple_text
from wary_hound.locator.notation import parse
from wary_hound.locator.xpath.printing import xpath_string, xpath_text
from wary_hound.robustness.data import is_amount
from wary_hound.robustness.dependence import dependencies
from wary_hound.robustness.dependency import attribute_look

PRINTED = ["-(1 + 2) * 3", "1 - (2 - 3)", "(a | b)/c", "a[b][c]/@d", "- - a", "(a)[1]/b", "a or (b and c)"]
ROOT = Path(__file__).parent.parent


@pytest.mark.parametrize(
    ("page", "element", "authored"),
    [
        ("nights@r1", "css{tr:has([href='#saturn']) .places}", "css{td} @row-of text{Saturn} and @column-of text{Places}"),
        ("nights@r1", "css{#visitor-name}", "css{#visitor-name}"),
        ("nights@r1", "css{#visitor-name}", "label{Visitor name}"),
        ("nights@r1", "css{#visitor-name}", 'role{textbox "Visitor name"}'),
        ("nights@r1", "css{#visitor-name}", 'css{[name="visitor"]}'),
        ("nights@r1", "css{#visitor-email}", 'css{[placeholder="you@example.org"]}'),
        ("nights@r1", "css{#party-size}", 'css{[name="party"]}'),
        ("nights@r1", "css{input[value=cocoa]}", 'css{[value="cocoa"]}'),
        ("nights@r1", "css{input[value=cocoa]}", "label{Cocoa}"),
        ("nights@r1", "css{input[value=dusk]}", 'role{radio "At dusk"}'),
        ("nights@r1", "css{.notice-close}", 'css{[aria-label="Close notice"]}'),
        ("nights@r1", "css{.quiet-link}", "text{Print the list}"),
        ("nights@r1", "css{.quiet-link}", 'xpath{//a[normalize-space()="Print the list"]}'),
        ("nights@r1", "css{.quiet-link}", 'css{[href="print.html"]}'),
        ("nights@r1", "css{button[value=vega]}", 'role{button "Hold this night"} @row-of text{Vega}'),
        ("nights@r1", "css{button[value=vega]}", 'css{[type="button"]} @row-of text{Vega}'),
        ("nights@r1", "css{td.places}#3", "css{.places} @row-of text{Saturn}"),
        ("nights@r1", "css{.link-button}#2", "text{Thank the watcher} @row-of text{Sunday}"),
        ("nights@r1", "css{h1}", 'role{heading "Telescope nights"}'),
        ("nights@r1", "css{#night-form}", "css{#night-form}"),
        ("nights@r1", "css{table}", "css{#nights}"),
        (
            "nights@r1",
            "css{td} @row-of text{Saturn} and @column-of text{Places}",
            "css{td} @row-of text{Saturn} and @column-of text{Places}",
        ),
        ("nights@r1", "css{#night-form h2}", "text{Your booking}"),
        ("sky@r1", "css{canvas}", 'role{image "Star map of tonight"}'),
        ("sky@r1", "css{.zoom}", 'xpath{//button[normalize-space()="Zoom"]}'),
        ("nights@r3", "css{[data-test=send]}", 'css{[data-test="send"]}'),
        ("nights@r4", "shadow css{night-booking} -> css{select}", "anywhere label{Telescope}"),
        ("sky@r4", "shadow css{sky-dial} -> css{button}#1", 'shadow css{sky-dial} -> css{[title="Turn west"]}'),
        ("sky@r4", "frame css{iframe} -> css{button}", 'frame css{iframe} -> role{button "Refresh"}'),
    ],
)
def test_is_authored(page: str, element: str, authored: str) -> None:
    found = read(page)
    assert match(found, authored) == match(found, element)
    assert authored in [str(c) for c in rank(found.find(element))]


@pytest.mark.parametrize(
    ("element", "weak"),
    [
        ("css{#visitor-name}", 'css{[type="text"]}'),
        ("css{#visitor-name}", 'css{input[autocomplete="name"]}'),
        ("css{table}", "css{table}"),
        ("css{h1}", "css{h1}"),
        ("css{#booking-status}", "text{Nothing held yet}"),
        ("css{#booking-status}", 'css{[aria-live="polite"]}'),
    ],
)
def test_what_only_says_a_kind_or_data_is_not_offered_beside_what_says_which(element: str, weak: str) -> None:
    page = read("nights@r1")
    assert match(page, weak) == match(page, element)
    candidates = rank(page.find(element))
    assert weak not in [str(c) for c in candidates]
    assert not any(c.weak for c in candidates)


def test_a_row_is_told_by_its_price_only_where_nothing_else_tells_it() -> None:
    rows = "".join(
        f"<tr><td>Vega<td>{hour}:10<td>{price} crowns<td><button>Hold</button>" for hour, price in ((19, 36), (20, 52), (21, 38))
    )
    button = Page.parse(f"<table>{rows}</table>").find("css{button}#2")
    assert str(rank(button)[0]).endswith("@row-of text{20:10}")
    button = Page.parse(f"<table>{rows.replace('19:', '20:').replace('21:', '20:')}</table>").find("css{button}#2")
    assert str(rank(button)[0]).endswith("@row-of text{52 crowns}")
    amounts = ["58 crowns", "$12", "2.4 kB", "42 %", "7 °C"]
    others = ["09:45", "2nd floor", "12th", "12 May 2031", "3", "Night 89", "3D view"]
    assert [is_amount(text) for text in (*amounts, *others)] == [True] * 5 + [False] * 7


def test_where_nothing_says_which_what_is_offered_is_marked() -> None:
    page = Page.parse("<main><div><span></span></div><p></p><p></p></main>")
    for text in ("css{span}", "css{p}#2"):
        candidates = rank(page.find(text), Question(ways=3))
        assert candidates
        assert all(c.weak and c.locator.otherwise is None for c in candidates)


def test_what_is_read_or_checked_is_not_found_by_its_own_text() -> None:
    element = read("nights@r1").find("text{Print the list}")
    free, checked = (rank(element, Question(purpose=purpose)) for purpose in ("click", "check"))
    assert any("Print the list" in str(c) for c in free)
    assert checked
    assert not any("Print the list" in str(c) for c in checked)
    with pytest.raises(ValueError, match="one of click, type, read, check"):
        Question(purpose="hover")


def test_each_language_is_at_its_best() -> None:
    page = read("nights@r1")
    best = best_of_each(rank(page.find("css{td} @row-of text{Saturn} and @column-of text{Places}")))
    assert str(best["css"]) == 'css{tr:has([href="#saturn"]) .places}'
    assert "Saturn" in str(best["xpath"])
    assert "places" in str(best["xpath"]).lower()  # by the head of the column, or by the class of the cell
    for element in page.find_all("css{button}"):
        for language, candidate in best_of_each(rank(element)).items():
            only = rank(element, Question(rules=Rules(only=(language,))))
            assert only[0].loss <= candidate.loss + ALIKE, (language, str(candidate), str(only[0]))


def test_a_language_that_may_not_use_a_value_still_says_the_row() -> None:
    rules = Rules(only=("xpath",), without=("value",))
    first = rank(read("nights@r1").find("css{button[value=vega]}"), Question(rules=rules))[0]
    assert str(first) == 'xpath{//tr[td="Vega"]//button} else xpath{//tr[.//*[@href="#vega"]]//button}'
    assert not first.weak


@pytest.mark.parametrize(
    ("attributes", "predicates"),
    [
        ({"id": "a", "class": "b", "style": "c"}, []),
        ({"name": "visitor"}, ['[name="visitor"]']),
        ({"title": "x", "name": "n", "data-test": "t"}, ['[data-test="t"]', '[name="n"]', '[title="x"]']),
        ({"required": ""}, ["[required]"]),
        ({"spellcheck": "true", "min": "0", "slot": "helper"}, []),
        ({"onclick": "x()"}, []),
        ({"value": "x" * 200}, []),
        ({"id": "row-4711"}, ['[id^="row-"]']),
        ({"href": "/nights/vega?x=1"}, ['[href="/nights/vega?x=1"]', '[href*="vega"]', '[href^="/nights/vega"]']),
        ({"title": 'say "hi"'}, ['[title="say \\"hi\\""]']),
        ({"title": "Bold (Ctrl+B)"}, ['[title="Bold (Ctrl+B)"]', '[title^="Bold"]']),
        ({"placeholder": "Search…"}, ['[placeholder="Search…"]', '[placeholder^="Search"]']),
        ({"href": "#", "data-bind": "[object Object]"}, []),
        ({"href": "javascript:void(0)"}, []),
    ],
)
def test_predicates_the_more_telling_first(attributes: dict[str, str], predicates: list[str]) -> None:
    assert list(map(simple_text, attribute_predicates(attributes))) == predicates


def test_classes_and_stems() -> None:
    assert list(map(simple_text, class_predicates({"class": "a b a 1c md:x"}))) == [".a", ".b", ".\\31 c", ".md\\:x"]
    assert list(stems("Show older reports")) == []
    assert list(stems("More (12)")) == ["More"]
    assert list(stems("12 km/h, west")) == ["west"]
    assert list(stems("Clear skies, a warm dome and somebody who knows the way around.")) == ["warm dome and somebody"]


def test_paths() -> None:
    page = Page.parse("<main><div></div><div id=k><p>a</p><p><svg><a></a></svg></p></div></main>")
    last = page.find("css{p}#2").index
    assert str(absolute_xpath(page, last)) == "xpath{/html/body/main/div[2]/p[2]}"
    assert str(absolute_css(page, last)) == "css{html > body > main > div:nth-of-type(2) > p:nth-of-type(2)}"
    assert str(copied_path(page, last)) == 'xpath{//*[@id="k"]/p[2]}'
    link = page.find("css{svg a}").index
    assert xpath.match(page, xpath.parse(absolute_xpath(page, link).expression), 0) == [link]


@given(st.text(min_size=1, max_size=12))
def test_identifiers_and_strings_are_escaped_so_that_they_read_back(text: str) -> None:
    if "\0" in text or any(0xD800 <= ord(c) <= 0xDFFF for c in text) or "\r" in text or "\f" in text:
        return
    parsed = css.parse(f"#{css_identifier(text)}[title={css_string(text)}]")
    assert [getattr(s, "value", "") for s in parsed[0].compounds[0].simples] == [text, text]


@given(st.text("'\"ab ", max_size=8))
def test_xpath_texts_of_any_quotes_read_back(text: str) -> None:
    letters = ", ".join(['""', *map(_quoted, text), '""'])
    expression = f"//p[{xpath_string(text)} = concat({letters})]"
    assert len(xpath.match(Page.parse("<p></p>"), xpath.parse(expression), 0)) == 1


def _quoted(letter: str) -> str:
    return f"'{letter}'" if letter == '"' else f'"{letter}"'


@pytest.mark.parametrize("expression", CSS)
def test_selectors_print_back(expression: str) -> None:
    parsed = css.parse(expression)
    assert css.parse(css_text(parsed)) == parsed


@pytest.mark.parametrize("expression", [*XPATH, *PRINTED])
def test_expressions_print_back(expression: str) -> None:
    parsed = xpath.parse(expression)
    assert xpath.parse(xpath_text(parsed)) == parsed


def test_rates_are_learnt_from_histories(tmp_path: Path) -> None:
    """The script that made the shipped rates, on a small part of the demo's history: ids that are renamed cost more."""
    (tmp_path / "app").mkdir()
    (tmp_path / "other").mkdir()
    truth = json.loads((PAGES / "truth.json").read_text())["nights"][1:4]
    for entry in truth:
        entry["targets"] = {k: v for k, v in entry["targets"].items() if k.startswith(("visitor", "hold", "party", "tab"))}
    for folder in ("app", "other"):
        for entry in truth:
            shutil.copy(PAGES / entry["file"], tmp_path / folder)
        (tmp_path / folder / "truth.json").write_text(json.dumps({"nights": truth}))
    sys.path.insert(0, str(ROOT / "scripts"))
    try:
        import learn_rates
    finally:
        sys.path.pop(0)
    from wary_hound.measuring.history import read_histories

    rows = [row for history in read_histories(tmp_path) for row in learn_rates.collect(history)]
    assert {row.event for row in rows} >= {"alive", "lost"}
    model = learn_rates.learn(rows, "t", "test", jackknife=False)
    assert sum(s.share for s in model.sizes) == pytest.approx(1)
    assert model.rate(model.lost, "id/named").hazard > model.rate(model.lost, "text/words").hazard
    path = tmp_path / "rates.json"
    path.write_text(json.dumps(model.to_json()))
    assert ChangeModel.read(path).version == "t"


def test_weights_of_relocation_are_learnt_from_histories(tmp_path: Path) -> None:
    truth = json.loads((PAGES / "truth.json").read_text())["nights"][:3]
    for folder in ("app", "other"):
        (tmp_path / folder).mkdir()
        for entry in truth:
            shutil.copy(PAGES / entry["file"], tmp_path / folder)
        (tmp_path / folder / "truth.json").write_text(json.dumps({"nights": truth}))
    done = subprocess.run(
        [sys.executable, ROOT / "scripts" / "learn_relocation.py", tmp_path, "--case", "aligned"],
        capture_output=True,
        text=True,
        check=True,
    )
    said = next(line for line in done.stdout.splitlines() if "all pairs of releases" in line)
    found = re.search(r"right (\d+)\.\d%, wrong (\d+)\..*best guess (\d+)\.", said)
    assert found is not None, said
    right, wrong, best = map(int, found.groups())
    assert right > 80, said
    assert wrong < 5, said
    assert best > 90, said


def test_what_is_proposed_does_not_hang_on_the_order_of_sets(tmp_path: Path) -> None:
    code = "import sys; from wary_hound import Page, rank; "
    code += "page = Page.read(sys.argv[1]); print([str(c) for found in sys.argv[2:] for c in rank(page.find(found))])"
    asked = [sys.executable, "-c", code, str(PAGES / "nights@r1.html"), 'xpath{//tr[td="Saturn"]/td[4]}', "css{#visitor-name}"]
    said = {
        subprocess.run(asked, env={**os.environ, "PYTHONHASHSEED": seed}, capture_output=True, text=True, check=True).stdout
        for seed in ("1", "3", "4")
    }
    assert len(said) == 1


def test_the_options_of_a_list_are_no_text_to_find_it_by() -> None:
    page = read("nights@r4")
    found = rank(page.find("shadow css{night-booking} -> css{select}"))
    assert found
    assert not [c for c in found if "Dune" in str(c.locator)]
    assert [c for c in rank(page.find("shadow css{night-booking} -> css{option}#2")) if "Dune" in str(c.locator)]


def test_what_fails_in_another_use_is_marked_and_comes_last(tmp_path: Path) -> None:
    page = (
        "<main><h1>Nights</h1><table id=nights><tr><td>Vega</td><td>6</td><td><button name=hold>Hold</button></td></tr>"
        "<tr><td>Moon</td><td>2</td><td><button name=ask>Ask</button></td></tr></table></main>"
    )
    (tmp_path / "a.html").write_text(page)
    (tmp_path / "b.html").write_text(page.replace(">Hold<", ">Held<").replace(">6<", ">5<"))
    old, new = Page.read(tmp_path / "a.html"), Page.read(tmp_path / "b.html")
    element = old.find("css{[name=hold]}")
    tried = tried_on(element, rank(element, Question(ways=1)), {"b": new})
    assert not tried.unsure
    fails = [bool(c.fails_on) for c in tried.candidates]
    assert fails == sorted(fails)
    assert {True, False} == set(fails)
    for candidate in tried.candidates:
        assert bool(candidate.fails_on) == (match(new, candidate.locator) != match(new, "css{[name=hold]}"))
    other = str(tmp_path / "b.html")
    shown = run("rank", str(tmp_path / "a.html"), "text{Hold}", "--also", other, "-n", "30")
    assert f"Fails on {other}" in " ".join(shown.output.split())
    told = json.loads(run("rank", str(tmp_path / "a.html"), "text{Hold}", "--also", other, "--json").output)
    assert told["given"]["fails_on"] == [other]
    assert told["candidates"][0]["fails_on"] == []
    assert "text{Hold}" not in told["fallbacks"]


MARKUP = st.recursive(
    st.sampled_from(["<b>Vega</b>", "<i id=x>Moon</i>", "<input name=q>", "<svg><path d='M0 0'/></svg>", "<b class=old>x</b>"]),
    lambda inner: st.tuples(st.sampled_from(["div", "p", "ul", "section id=part"]), st.lists(inner, max_size=3)).map(
        lambda made: f"<{made[0]}>{''.join(made[1])}</{made[0].split()[0]}>"
    ),
    max_leaves=12,
)


@given(st.lists(MARKUP, min_size=1, max_size=3).map("".join))
@example("<ul><b>Vega</b><ul></ul><ul><b>Vega</b></ul></ul>")
def test_a_path_by_positions_finds_its_element_alone_and_is_no_longer_than_the_absolute_one(markup: str) -> None:
    page = Page.parse(f"<!doctype html><body>{markup}")
    for element in page.find_all("css{body *}"):
        for short, whole in ((relative_css, absolute_css), (relative_xpath, absolute_xpath)):
            finder = short(page, element.index)
            assert match(page, parse(str(finder))) == [element.index]
            if short is relative_css:
                assert len(str(finder)) <= len(str(whole(page, element.index)))


def test_what_only_a_class_or_a_drawing_tells_is_said_in_xpath_too() -> None:
    page = Page.parse(
        "<div class=backdrop></div><div></div>"
        "<table><tr><th data-column=state>State<svg><path d='M0 0'/></svg><th>x<svg></svg></table>"
    )
    only = Question(rules=Rules(only=("xpath",)), ways=1)
    for where, said, weak in (("css{.backdrop}", "backdrop", True), ("css{th[data-column] svg}", 'name()="svg"', False)):
        best = rank(page.find(where), only)[0]
        assert (said in str(best), best.weak) == (True, weak), best
        assert match(page, best.locator) == [page.find(where).index]


@pytest.mark.parametrize(
    ("markup", "locator", "weak"),
    [
        ("<a class='tab tab--active'>x</a><a class=tab>x</a>", "css{.tab--active}", True),
        ("<a class='nav-current'>x</a><a>x</a>", "css{.nav-current}", True),
        ("<table><tr><th class=sorting_asc>x<th>x</table>", "css{.sorting_asc}", True),
        ("<table><tr class=oddRow><td>x<tr class=evenRow><td>x</table>", "css{.evenRow}", True),
        ("<a aria-expanded=true>x</a><a>x</a>", 'css{[aria-expanded="true"]}', True),
        ("<p id=ed><a class='tab tab--active'>x</a><a>x</a></p>", "css{#ed .tab--active}", True),
        ("<p class=is-open><a id=go>x</a></p>", "css{#go}", False),
        ("<a id='e3/gPAY='>x</a>", 'css{[id="e3/gPAY="]}', True),
        ("<section><h2>Star</h2><p id=kX9Qa72b><a class=k>x</a></section>", "css{#kX9Qa72b .k} @group-of text{Star}", True),
        ("<p>34 rows</p>", "text{34 rows}", True),
        ("<p>34 rows</p>", "text{~rows}", False),
        ("<p>1 to 10 of 57 nights</p>", "text{1 to 10 of 57 nights}", True),
        ("<p>Night 89</p>", "text{Night 89}", False),
        ("<p>May 2031</p>", "text{May 2031}", True),
        ("<p>March of the stars</p>", "text{March of the stars}", False),
        ("<span>June</span>", "text{June}", True),
        ("<div id=user-tools>Seen as <b>Tycho</b></div>", "text{Tycho}", True),
        ("<div id=user-tools><a href=/out><b>Leave</b></a></div>", "text{Leave}", False),
        ("<div id=user-stories><b>Tycho</b></div>", "text{Tycho}", False),
        ("<p id=ed><sky-tab active>x</sky-tab></p>", "css{#ed [active]}", True),
        ("<p id=ed><sky-tab star>x</sky-tab></p>", "css{#ed [star]}", False),
        ("<iframe id=map srcdoc='<em>x</em>'></iframe>", "frame css{#map} -> css{em}", True),
        ("<iframe id=map srcdoc='<p id=sky><em>x</em></p>'></iframe>", "frame css{#map} -> css{#sky em}", False),
        ("<button title='Seen: Nov 23, 2031, 6:54'>x</button>", 'css{[title="Seen: Nov 23, 2031, 6:54"]}', True),
        ("<button title='Seen by Nova'>x</button>", 'css{[title="Seen by Nova"]}', False),
    ],
)
def test_what_is_there_to_change_is_weak(markup: str, locator: str, weak: bool) -> None:
    page = Page.parse(markup)
    index = page.find(locator).index
    assert is_weak(dependencies(page, parse(locator), index), index) is weak


def test_what_holds_several_texts_is_not_found_by_all_of_them() -> None:
    page = Page.parse(
        "<form action=/hold><p>Visitor</p><p>Star</p><button>Hold</button></form><form><p>Moon</p></form>"
        "<iframe id=sky frameborder=0 srcdoc='<h1>Sky</h1>'></iframe><div data-dome-placement=east>x</div><div>y</div>"
    )
    proposed = [str(c.locator) for c in rank(page.find("css{form}#1"))]
    assert proposed
    assert not any("Visitor Star" in one for one in proposed)
    framed = [str(c.locator) for c in rank(page.find("frame css{iframe} -> css{h1}"))]
    placed = [str(c.locator) for c in rank(page.find("css{[data-dome-placement]}"))]
    assert not any("frameborder" in one or "placement" in one for one in framed + placed)


def test_a_name_that_holds_what_was_chosen_is_asked_for_by_its_label() -> None:
    page = Page.parse(
        "<span id=l>Dome</span><div role=button tabindex=0 aria-labelledby='l v'><span id=v>Heron</span></div><button>Send</button>"
    )
    said = [str(c) for c in rank(page.find("css{[role=button]}"), Question(ways=1))]
    assert any(s == 'role{button ~"Dome"}' for s in said)
    assert not any("Dome Heron" in s for s in said if s.startswith("role"))


def test_what_a_list_says_of_a_term_is_data_and_the_term_is_not() -> None:
    page = Page.parse("<dl><dt>Wind</dt><dd>Fresh, from the west</dd><dt>Cloud</dt><dd>Little <a href=/c>Map</a></dd></dl>")
    wind = rank(page.find("css{dd}#1"))
    assert str(wind[0].locator) == 'xpath{//dt[normalize-space()="Wind"]/following-sibling::dd[1]}'
    assert not any("west" in str(c.locator) for c in wind)
    assert str(rank(page.find("css{a}"), Question(ways=1))[0].locator) == 'role{link "Map"}'


def test_what_words_in_a_span_would_steal_comes_behind_the_role() -> None:
    page = read("held@r3")
    for told in ('role{link "Perseids"}', 'role{tab "Sky tonight"}', 'role{link "Visit"}'):
        assert str(rank(page.find(told), Question(ways=1))[0].locator) == told


def test_words_that_last_a_little_longer_are_not_worth_it_where_a_theft_costs_ten_times_a_loss() -> None:
    visit = read("held@r3").find('role{link "Visit"}')
    for costs, worth in ((1, 0.02), (10, 0.002)):
        by_words, by_role = (assess(way, visit, Question(stolen_costs=costs)).loss for way in ("text{Visit}", 'role{link "Visit"}'))
        assert (by_role - by_words > worth) == (costs == 1)


def test_a_field_with_buttons_beside_it_is_asked_for_by_its_label() -> None:
    page = Page.parse(
        "<b id=l>Dome</b><div id=w><input aria-labelledby='l w'><button>Clear</button></div><label>Visitor <input></label>"
    )
    said = [str(c) for c in rank(page.find("css{#w input}"), Question(ways=1))]
    assert {"label{~Dome}", 'role{textbox ~"Dome"}'} <= {*said}
    assert not any("Dome Clear" in s for s in said)


@pytest.mark.parametrize(
    ("name", "shown", "head"),
    [
        ("Hours: activate to sort", "Hours", "Hours"),
        ("Hours Hours: activate to sort", "Hours", "Hours"),
        ("Hold Vega", "Hold", ""),  # which row it is, and no hint
        ("Exposure (seconds)", "", "Exposure"),
        ("Moon 5: full", "", ""),
        ("https://marram-ridge.example", "", ""),
        ("Hours", "Hours", ""),
    ],
)
def test_a_name_that_goes_on_to_give_a_hint_is_asked_for_by_what_stands_before(name: str, shown: str, head: str) -> None:
    assert head_of(name, shown) == head


def test_an_icon_tells_a_control() -> None:
    def button(icon: str, words: str, said: str = "") -> str:
        return f"<button title='{words}'>{said}<svg class='icon {icon}'><path d='M0 0h9'/></svg></button>"

    page = Page.parse(button("icon-hold", "Hold") + button("icon-moon", "Moon") + button("icon-dial", "Dial", "Turn the dial"))
    first = rank(page.find('css{[title="Hold"]}'))[0].locator
    assert "css{button:has(.icon-hold)}" in map(str, first.alternatives[1:])
    translated = Page.parse(button("icon-hold", "Halten") + button("icon-moon", "Mond"))
    assert match(translated, first) == [page.find("css{button}#1").index]
    gone = Page.parse(button("icon-moon", "Moon"))
    assert match(gone, first) == []
    dial = [str(c) for c in rank(page.find('css{[title="Dial"]}'), Question(ways=1))]
    assert ":has(" not in dial[0]  # it says something, which is better
    assert "css{button:has(.icon-dial)}" in dial


def test_what_a_head_says_and_its_hint_does_not() -> None:
    heads = "".join(f"<th aria-label='{name}: activate to sort'>{name}</th>" for name in ("Night", "Hours"))
    page = Page.parse(f"<table><thead><tr>{heads}</tr></thead><tbody><tr><td>Vega<td>4</table>")
    said = {str(c) for c in rank(page.find("css{th}#2"), Question(ways=1))}
    assert {'css{[aria-label^="Hours"]}', 'role{columnheader ~"Hours"}', "text{Hours}"} <= said


def test_several_ids_are_as_steady_as_the_loosest() -> None:
    looks = [attribute_look("reference", value) for value in ("help-text", "help-text label-17", "label hint", "")]
    assert looks == ["named", "numbered", "named", "empty"]


LISTED = "<ul><li>Vega <button>Remove</button></li><li>Saturn <button>Remove</button></li></ul>"
CHIPS = "<p><span class=chip>lyra <button class=x>×</button></span><span class=chip>cygnus <button class=x>×</button></span></p>"
CARDS = "<p>Saturn</p><div class=cards>" + "".join(
    f"<div class=col-4><div class=card><h5>{name}</h5><p>Rises at {hour}.</p><a href='#'>Hold</a></div></div>"
    for name, hour in [("Vega", "21:04"), ("Saturn", "23:10")]
)
COUNTED = "".join(
    f"<tr><td>{name}<td><input type=checkbox name=lines-{k}-fragile {state}><td><input type=checkbox name=lines-{k}-gone></tr>"
    for k, (name, state) in enumerate([("Lens cap", "checked"), ("Tripod", "")])
)


def test_what_any_alike_holds_says_not_which_of_them_is_meant() -> None:
    tabs = "".join(f"<h3 aria-controls=ui-id-{n}><i class=fold{n}></i></h3>" for n in (3, 4))
    ranked = rank(Page.parse(f"<!doctype html>{tabs}").find("css{h3}#2"), Question(rules=Rules(only=("css",))))
    assert not [str(one) for one in ranked if "ui-id" in str(one) and not one.weak]


def test_the_root_of_an_application_says_not_where() -> None:
    nights = "".join(f"<li><a href='/nights/{n}'>Night {n}</a></li>" for n in range(120))
    page = Page.parse(f"<!doctype html><div id=app><div class=tools><input value=x></div><ul>{nights}</ul></div>")
    assert str(rank(page.find("css{input}"), Question(ways=1))[0]) == "css{.tools input}"


CODE = (
    "<section><h2>{}</h2><div class=cell><pre><i>{}</i><i>{}</i></pre><button>C</button></div>"
    "<div class=cell><a></a></div></section>"
)
HEADS = "<tr><th>Night<th>Hours<th>Stars"
UNCALLED = "".join(
    f"<tr><td>0c5d1f0{n}-5d1c-4b7e-9a51-7f3f0d1c2b44<td>{hours}<td>3" for n, hours in enumerate(("1.5", "3.5", "2.5"), start=1)
)
MADE_OF = f"<template shadowrootmode=open>{'<i></i>' * 40}</template>"
PARTED = (
    f"<div class=night><div class='part left'><x-box>{MADE_OF}</x-box></div>"
    f"<div class='part right'><x-go class=go>{MADE_OF}</x-go></div><b>{{}}</b></div>"
)
TIMES = (("21:15", 41), ("22:40", 58), ("23:05", 35))
SOLD = (
    "<table>"
    + "".join(
        f"<tr><td>{hour}<td>North dome<td>{price} crowns<td><button>Hold</button><button>Note</button>" for hour, price in TIMES
    )
    + "</table>"
)
NIGHTS = "<table>" + "".join(f"<tr><td>{star}<td><button>Hold</button>" for star in ("Vega", "Saturn", "Mira")) + "</table>"
TWICE = f"<div id=held>{NIGHTS}</div><div id=plan>{NIGHTS}</div>"
INNER = "<template shadowrootmode=open>{}</template>"
NUMBERED = [f"000010{n}-0000-4000-8000-0000000000{n}" for n in (16, 17, 18)]
PLACES = "<tr><th>Star<th>Hold<th>Dome" + "".join(
    f"<tr><td>{star}<td>{n} free<td>North" for star, n in (("Mira", 2), ("Vega", 3), ("Rigel", 4))
)
MONTHS = "".join(
    "<div class='month box'><table class=calendar>"
    + "<tr>".join(f"<td data-month={month}><a href=#>{day}</a>" for day in range(1, 9))
    + "</table></div>"
    for month in (6, 7)
)


@pytest.mark.parametrize(
    ("page", "element", "only", "first"),
    [
        (  # the button that sends, of those that may come
            "<form><input name=star><button type=submit class=b>Go</button></form><form><button type=submit>x</button></form>",
            "css{form:first-of-type button}",
            "css",
            'css{form:has([name="star"]) [type="submit"]}',
        ),
        (  # a tag that says nothing
            "<ul><li><a href=/vega>V</a><span class=mark>new</span></li><li><a href=/mira>M</a><span class=mark>old</span></ul>",
            "css{li:first-of-type span}",
            "css",
            'css{li:has([href="/vega"]) .mark}',
        ),
        (  # where an address leads, not what is asked for there
            "<ul><li><a href='/stars/vega?tab=sky&amp;page=2'>V</a><i>x</i><li><a href=/stars/mira>M</a><i>y</i>",
            "css{li:first-of-type i}",
            "css",
            'css{li:has([href^="/stars/vega"]) i}',
        ),
        (  # a list around it says less than a part of a page
            "<div role=navigation><ul><li><a href=/home>H</a><li><a href=/x>X</a></ul></div><p><a href=/home>H</a>",
            "css{ul li:first-of-type a}",
            "css",
            'css{div[role="navigation"] [href="/home"]}',
        ),
        # what says of what kind it is, where it stands
        ("<header id=top><strong>Tycho</strong></header>", "css{strong}", "css", "css{#top strong}"),
        ("<div id=top class=bar><p class='btn hold'>x</p><p>y</p></div>", "css{.hold}", "css", "css{#top .hold}"),
        # words that stand together in one element, whole
        (
            "<button><b>/nights/hold</b> Hold the dome of the moon 4 times</button><button><b>/x</b></button>",
            "css{button}#1",
            "text",
            "text{~Hold the dome}",
        ),
        # what a line says itself tells it from others, and what stands in it
        (LISTED, "css{li}#2", "", 'xpath{//li[contains(., "Saturn")]}'),
        (LISTED, "css{li}#2", "xpath", 'xpath{//li[contains(., "Saturn")]}'),
        (LISTED, "css{button}#2", "", "css{button} @row-of text{~Saturn}"),
        (LISTED, "css{button}#2", "xpath", 'xpath{//li[contains(., "Saturn")]//button}'),
        (CHIPS, "css{.x}#2", "", "text{~cygnus} -> css{button}"),
        (f"<div><span>All: {CHIPS}</span></div>", "css{.x}#2", "xpath", 'xpath{//span[text()[contains(., "cygnus")]]//button}'),
        # what an attribute calls the thing, before what it says of it
        (
            "<p data-mark=seen data-night-id=vega><b>x</b></p><p data-mark=new data-night-id=mira><b>y</b></p>",
            "css{b}#1",
            "css",
            'css{p[data-night-id="vega"] b}',
        ),
        # a card by its heading, which is said elsewhere, too
        (CARDS, "css{a}#2", "", 'css{a} @row-of role{heading "Saturn"}'),
        (CARDS, "css{a}#2", "xpath", 'xpath{//div[h5="Saturn"]//a}'),
        # not what a control in it says
        ("<h2>Nights <button>Edit</button></h2><h2>Domes <button>Edit</button></h2>", "css{h2}#1", "", 'role{heading ~"Nights"}'),
        (
            "<p><label>Colour <select><option>red</select></label>",
            "css{select}",
            "xpath",
            'xpath{//label[contains(., "Colour")]//select}',
        ),
        # which field of a line it is stands behind the number of the line
        (f"<table>{COUNTED}</table>", "css{input}#1", "", 'css{[name$="-fragile"]} @row-of text{Lens cap}'),
        (f"<table>{COUNTED}</table>", "css{input}#1", "xpath", 'xpath{//tr[td="Lens cap"]//*[contains(@name, "-fragile")]}'),
        # what a press would do is no part of a name
        (
            "<table><tr><th aria-label='Night: activate to sort'>Night<th aria-label='Dome: activate to sort'>Dome</table>",
            "css{th}#2",
            "css",
            'css{[aria-label^="Dome"]}',
        ),
        # an attribute that is on or off says less than where it stands
        (
            "<div class=status><button class=count data-stop=true>4</button></div><button class=go>Go</button>",
            "css{.count}",
            "css",
            "css{.status button}",
        ),
        # what others have as well guards it from none of them; no part that says nothing more
        (
            "<form id=book><button title=Copy data-from='#line1'>C</button><button title=Copy data-from='#line2'>C</button></form>",
            "css{button}#2",
            "css",
            'css{[data-from="#line2"]}',
        ),
        ("<form id=book><input name=night_1><input name=night_2></form>", "css{input}#2", "", 'css{[name="night_2"]}'),
        # what a click turns into its opposite; keys that do the same; a stroke between two words
        (
            "<div id=vega><button title='Collapse night' class=fold></button></div><p><button title='Collapse night'></button></p>",
            "css{button}#1",
            "",
            "css{#vega button}",
        ),
        ("<button title='Show sky - [alt-P]'></button><button>Go</button>", "css{button}#1", "", 'role{button ~"Show sky"}'),
        ("<button>Open/close dome</button><button>Go</button>", "css{button}#1", "", 'role{button "Open/close dome"}'),
        # what a box has where nobody gave it a value; the family that an id is of
        (
            "<div id=night><input type=checkbox value=on id=box-51><input></div><input type=checkbox id=box-52>",
            "css{#box-51}",
            "css",
            'css{#night [type="checkbox"]}',
        ),
        # the words of a program name no row
        (
            f"{CODE.format('Lens', 'if', 'open')}{CODE.format('Dome', 'x', 'y')}",
            "css{button}#1",
            "",
            "css{button} @group-of text{Lens}",
        ),
        # a state by what stands before it in its row
        (
            "<div id=night><table><tr><td>State<td><span>Held</span><tr><td>Dome<td>North</table></div>",
            "css{span}",
            "",
            "css{span} @row-of text{State}",
        ),
        # which row of which nobody knows but its number; a head that stays while its rows scroll
        (
            f"<table>{HEADS}</table><table>{HEADS}{UNCALLED}</table>",
            "css{td}#5",
            "",
            "css{td} @row-of text{0c5d1f02-5d1c-4b7e-9a51-7f3f0d1c2b44} and @column-of text{Hours}",
        ),
        # of two blocks alike in a card neither is its row; nor is a card none for what its parts are made of
        (
            f"<div class=nights>{''.join(map(PARTED.format, ('Vega', 'Saturn')))}</div>",
            "css{.go}#2",
            "",
            "css{x-go} @row-of text{Saturn}",
        ),
        # a role says more than a tag that says nothing
        (
            "<main><h1>Dome</h1><div role=progressbar aria-valuenow=55 aria-valuemax=80></div></main>",
            "css{div}",
            "",
            "role{progressbar} @group-of text{Dome}",
        ),
        # a row by its hour before its price; the table of which there are two with such a row
        (SOLD, "css{button}#3", "xpath", 'xpath{//tr[td="22:40"]//button[normalize-space()="Hold"]}'),
        (TWICE, "css{#plan button}#2", "xpath", 'xpath{//*[@id="plan"]//tr[td="Saturn"]//button}'),
        # words to where the text goes on
        ("<p>12 nights, 13 hours on air</p><p>Domes</p>", "css{p}#1", "", "text{~hours on air}"),
        # what something is called first, before what kind of it is meant, or how it is
        (
            "<div class='planner upright'><span class=next></span></div><p class=upright></p><span class=next></span>",
            "css{.planner span}",
            "css",
            "css{.planner .next}",
        ),
        # what a component is made of by its name, where it has one of its own
        (
            "".join(
                f"<x-box name={name}>{INNER.format('<button aria-label=Close-it></button>')}</x-box>" for name in ("dome", "shed")
            ),
            "shadow css{[name=dome]} -> css{button}",
            "",
            'shadow css{[name="dome"]} -> label{Close-it}',
        ),
        # how fields are used says not which
        (
            "<p id=day><input class=year title='Turn to change'><input title=Day></p><input title='Turn to change'>",
            "css{.year}",
            "css",
            "css{#day .year}",
        ),
        # what it is called first
        (
            "<div id=seats><i class='night-bar tip'></i><i class=x></i></div><i class='night-bar tip'></i>",
            "css{i}#1",
            "css",
            "css{#seats .night-bar}",
        ),
        # a column of the table that is meant, where another one has such a head
        (
            f"<table><tr><th>Dome<th>Hold</table><table id=plan>{PLACES}</table>",
            "css{#plan td}#5",
            "xpath",
            'xpath{//tr[td="Vega"]//td[count(//*[@id="plan"]//th[normalize-space()="Hold"]/preceding-sibling::*'
            ' | //*[@id="plan"]//th[normalize-space()="Hold"])]}',
        ),
        # a day by its month, though much that is steadier stands around both
        (
            f"<div id=when class='when sheet box front'><div class='months pair'>{MONTHS}</div></div>",
            "css{[data-month='7'] a}#2",
            "xpath",
            'xpath{//td[@data-month="7"]//a[normalize-space()="2"]}',
        ),
        # what a component looks like is not what it is called
        (
            "<div class=plan><x-key theme=primary class=save></x-key><x-key class=stop></x-key></div><b class=save></b>",
            "css{x-key}#1",
            "css",
            "css{.plan .save}",
        ),
        # a row by what it says rather than by an id that CSS must escape
        (
            f"<table>{HEADS}{''.join(f'<tr id={night}><td>{night}<td>{n}.5<td>3' for n, night in enumerate(NUMBERED))}</table>",
            "css{td}#2",
            "",
            "css{td} @row-of text{00001016-0000-4000-8000-000000000016} and @column-of text{Hours}",
        ),
        # a row by its hour, where nothing in words tells it
        (
            "<table>" + "".join(f"<tr><td>{hour}<td>{price} crowns<td><button>Hold</button>" for hour, price in TIMES) + "</table>",
            "css{button}#2",
            "",
            "css{button} @row-of text{22:40}",
        ),
        # how it looks is where it stands
        (
            "<p id=way><label for=one class=corner-left>One</label><label for=two class=corner-right>Two</label></p>",
            "css{label}#2",
            "css",
            'css{[for="two"]}',
        ),
        # a number is asked for of what says it
        ("<p><a>1</a> <a>2</a> <a>3</a></p>", "css{a}#2", "", 'xpath{//a[normalize-space()="2"]}'),
    ],
)
def test_what_an_engineer_would_write(page: str, element: str, only: str, first: str) -> None:
    assert proposed(page, element, only) == first


BUILT = "".join(f"<{tag} id=pane_{n}></{tag}>" for n, tag in enumerate("p ul li form dialog nav p h2".split(), start=30))


@pytest.mark.parametrize(
    ("page", "element", "only", "first"),
    [
        (
            "<p><i id=label-x-3f9a2c81></i><em>Io</em><b></b></p><p><i id=label-x-77b1e0d4></i><em>Leda</em><b></b></p>",
            "css{b}#2",
            "xpath",
            'xpath{//em[normalize-space()="Leda"]/following-sibling::b}',
        ),
        (
            f"<table role=grid>{''.join(f'<tr role=row aria-rowindex={n}><td role=gridcell><b></b>' for n in (7, 8))}</table>",
            "css{b}#2",
            "css",
            "css{tr:nth-of-type(2) b}",
        ),
        ("<h1>Dome</h1><div role=progressbar aria-valuenow=55></div>", "css{div}", "css", 'css{[role="progressbar"]}'),
        # one counter for all that a program makes
        (f"{BUILT}<div id=pane_44><button>Keep</button></div>", "css{button}", "css", "css{button}"),
    ],
)
def test_what_is_made_up_or_counted_names_nothing(page: str, element: str, only: str, first: str) -> None:
    """Where nothing else is left, what is proposed is called weak."""
    ranked = rank(Page.parse(page).find(element), Question(rules=Rules(only=(only,)), ways=1))
    assert (str(ranked[0]), ranked[0].weak) == (first, True)


def test_a_way_behind_else_asks_for_something_else() -> None:
    page = Page.parse(f"<table>{''.join(f'<tr><td>{star}<td><button>Hold</button>' for star in ('Vega', 'Mira', 'Rigel'))}</table>")
    ways = [c.locator for c in rank(page.find("css{button}#2"), Question(rules=Rules(only=("xpath",)))) if c.locator.otherwise]
    assert not [str(way) for way in ways if str(way).count('td="Mira"') > 1]


def test_of_what_is_weak_neither_a_state_nor_all_levels_come_first() -> None:
    page = Page.parse(f"<!doctype html><body><main><table>{COUNTED}</table></main>")
    field = page.find("css{input}#1")
    ranked = rank(field, Question(rules=Rules(only=("css",))))
    assert ranked[0].weak
    assert not [str(c) for c in ranked if "checked" in str(c) or str(c).startswith("css{html")]
    assert not portfolio(field, question=Question(rules=Rules(only=("css",)))).fallbacks, "they would find whatever is left"


def test_what_is_in_a_shadow_tree_is_weighed_there() -> None:
    inside = "<template shadowrootmode=open><input id=seeing><input></template>"
    page = Page.parse(f"<sky-board name=dome>{inside}</sky-board>")
    field = page.find("anywhere css{#seeing}")
    found = search(page, field.index, ChangeModel.shipped(), 10.0)
    assert [str(hop) for hops, kind in found.hops if kind == "id" for hop in hops] == ["css{#seeing}"]
    ranked = rank(field, Question(rules=Rules(only=("xpath",)), ways=1))
    assert str(ranked[0]) == 'shadow xpath{//*[@name="dome"]} -> xpath{//*[@id="seeing"]}'


def test_what_says_only_what_it_holds_is_liked_less_than_what_says_itself() -> None:
    page = Page.parse("<div id=sky><div class=row-head><i id=vega></i></div></div>")
    index = page.find("css{.row-head}").index

    def weight(text: str) -> float:
        return distaste(dependencies(page, parse(text), index), parse(text), index)

    assert weight("css{#sky :has(#vega)}") > weight("css{#sky .row-head}")


def test_what_nobody_sees_is_no_part_of_a_locator() -> None:
    page = Page.parse("<button aria-label='hold\u200b now'>hold\u200b now</button><button title='نیم\u200cفاصله'></button>")
    assert not any("\u200b" in str(c) for c in rank(page[page.find("css{button}#1").index]))
    assert "\u200c" in str(rank(page.find("css{button}#2"))[0])  # which joins letters


def test_a_host_is_named_by_its_tag_in_xpath() -> None:
    page = Page.parse("<sky-board><template shadowrootmode=open><p id=x>Hold</p></template></sky-board><p></p>")
    assert "shadow xpath{//sky-board} -> " in str(rank(page.find("anywhere css{#x}"), Question(rules=Rules(only=("xpath",))))[0])


def test_what_a_framework_writes_for_itself_is_no_locator() -> None:
    page = Page.parse("<div ng-reflect-value=vega><input ng-reflect-name=star name=star></div><input><div></div>")
    assert [
        str(c) for c in rank(page.find("css{[name=star]}"), Question(rules=Rules(only=("css",)), ways=1)) if "ng-" in str(c)
    ] == []


def test_a_part_of_the_page_is_named_where_nothing_else_is() -> None:
    button = read("nights@r1").find("text{Send booking}")
    assert "aside" not in str(rank(button)[0])
    first = rank(button, Question(rules=Rules(only=("css",)), ways=1))[0]
    assert str(first) == 'css{#night-form [type="submit"]}'
    assert str(best_of_each(rank(button))["css"]) == str(first), "of what lasts alike in CSS, whatever else there is"


@pytest.mark.parametrize("state", ["unlocked", "night-first", "row-last"])
def test_what_is_locked_or_stands_first_is_a_state(state: str) -> None:
    page = Page.parse(f"<div id=ops><button class='{state}'><i></i></button><button class=more><i></i></button></div>")
    first = rank(page.find(f"css{{.{state}}}"), Question(rules=Rules(only=("css",)), ways=1))[0]
    assert first.weak


def test_a_part_of_a_text_is_whole_words_that_the_element_says_itself() -> None:
    assert list(stems("dome/north_2")) == ["north"]
    assert list(stems("nights.hold_dome 12")) == [], "no part of a name"
    page = Page.parse("<main><p><b>Hold the dome</b> tonight 4</p><p>x</p></main>")
    assert not [str(c) for c in rank(page.find("css{p}#1"), Question(ways=1)) if str(c).startswith("text{~")]


STARS = "<p><button><i class='icon icon-{}'></i></button><button><i class='icon icon-star'></i></button></p>"
ROWS = "<table role=grid>{}</table>"
ROW = "<tr role=row><td>{}<td>{}<td><button>Hold</button><button>Note</button>"


@pytest.mark.parametrize(
    ("html", "element", "said"),
    [
        ("<a href='/nights/7/plan/'>7</a> <a href='/nights/8/plan/'>8</a>", "css{a}#1", 'css{[href^="/nights/7/plan/"]}'),
        ("<a href='/night?sort=places'>Places</a> <a href='/night?sort=date'>Date</a>", "css{a}#1", 'role{link "Places"}'),
        (STARS.format("moon"), "css{button}#1", "css{button:has(.icon-moon)}"),
        (ROWS.format(ROW.format("Vega", "free 6") + ROW.format("Mira", "full")), "css{tr}#1", 'role{row ~"Vega"}'),
        (
            "<table><tr><th><i aria-label='Night: press to sort'></i><th><i aria-label='Places: press to sort'></i></table>",
            "css{th}#2",
            'role{columnheader ~"Places"}',
        ),
        (
            "<x-time><template shadowrootmode=open><div><div part=less></div><div part=more></div></div></template></x-time>",
            "shadow css{x-time} -> css{[part=more]}",
            'shadow css{x-time} -> css{[part="more"]}',
        ),
        (
            "<x-box><template shadowrootmode=open><button><slot name=to></slot></button><button>Hold</button></template></x-box>",
            "shadow css{x-box} -> css{button}#2",
            'anywhere role{button "Hold"}',
        ),
    ],
)
def test_of_what_lasts_alike_the_first_is_what_an_engineer_would_write(html: str, element: str, said: str) -> None:
    assert str(rank(Page.parse(html).find(element), Question(ways=1))[0].locator) == said


def test_xpath_asks_an_element_of_its_tag_for_a_text() -> None:
    page = Page.parse("<a href='/night?sort=places'>Places</a> <a href='/night?sort=date'>Date</a>")
    assert str(best_of_each(rank(page.find("css{a}#1")))["xpath"]) == 'xpath{//a[normalize-space()="Places"]}'


def test_a_thing_is_known_by_its_number_where_that_is_no_count_of_rows() -> None:
    def drop(*numbers: int) -> tuple[str, bool]:
        rows = "".join(f"<li data-id={number}><button>Drop</button>" for number in numbers)
        best = best_of_each(rank(Page.parse(f"<ul>{rows}</ul>").find("css{button}#2")))["css"]
        return str(best.locator), best.weak

    assert drop(1207, 88, 4100) == ('css{li[data-id="88"] button}', False)
    assert drop(1, 2, 3) == ('css{li[data-id="2"] button}', True)


@pytest.mark.parametrize(
    ("html", "element", "data"),
    [
        (
            "<table><tr><td>A<td><b class='pin up'></b><tr><td>B<td><b class='pin low'></b><tr><td>C<td><b class='pin up'></b>",
            "css{b}#2",
            ".low",
        ),
        ("<button aria-label=Dome aria-haspopup=listbox>North</button><button>Send</button>", "css{button}#1", "North"),
        (
            "<x-field value='Ada Marsh'><input value='Ada Marsh'></x-field><x-field value=Bo><input value=Bo></x-field>",
            "css{input}#1",
            "Ada",
        ),
        ("<p><a href='#'>&lt;</a> <a class=month href='#'>&gt;</a></p>", "css{a}#2", ">"),
        (
            "".join(f"<x-bar value={n}>{INNER.format(f'<p aria-label=Done aria-valuenow={n}></p>')}</x-bar>" for n in (55, 70)),
            "shadow css{x-bar}#1 -> css{p}",
            "55",
        ),
        ("<p><time title='3 years ago'>2031</time></p><p><time title='2 years ago'>2032</time></p>", "css{time}#1", "ago"),
        ("<p><time title='3 years ago'>2031</time></p><p><time title='2 months ago'>2033</time></p>", "css{time}#1", "years"),
    ],
)
def test_nobody_is_told_by_what_was_chosen_typed_or_drawn(html: str, element: str, data: str) -> None:
    ranked = rank(Page.parse(html).find(element))
    assert not [str(c.locator) for c in ranked if data in str(c.locator) and not c.weak]
