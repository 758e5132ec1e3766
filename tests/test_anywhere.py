"""`anywhere`: what is looked for in all shadow trees at once, open and closed, in a snapshot and in both browsers."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path

import lxml.html
import pytest

from conftest import PAGES, read, run
from wary_hound import Browser, Page, Rules, rank
from wary_hound.authoring.question import Question
from wary_hound.browser import LivePage
from wary_hound.errors import BrowserTimeout, LocatorError, NotationError
from wary_hound.locator import Hop, match, parse
from wary_hound.locator.convert import convert, from_json
from wary_hound.locator.evaluate import find_in
from wary_hound.locator.explain import explain
from wary_hound.page.trees import FRAME

NESTED = """<!doctype html><main><p>Zoom</p><sky-card><template shadowrootmode=open><label>Power <input name=power></label>
<button>Zoom</button><sky-dial><template shadowrootmode=closed><ul>
<li><b>Vega</b> <button>Hold Vega</button></li><li><b>Lyra</b> <button>Hold Lyra</button></li></ul>
</template></sky-dial></template><i>slotted</i></sky-card></main><sky-foot><template shadowrootmode=closed><button>Help</button>
<iframe srcdoc="<button>Inner</button>"></iframe></template></sky-foot>"""


WAYS = [
    ('anywhere role{button "Hold Vega"}', ["Hold Vega"]),
    ("anywhere css{button} @row-of text{Lyra}", ["Hold Lyra"]),
    ("anywhere text{Zoom}", ["Zoom", "Zoom"]),
    ("css{main} -> anywhere css{button}", ["Zoom", "Hold Vega", "Hold Lyra"]),
    ("css{sky-foot} -> anywhere css{button}", ["Help"]),
    ("shadow css{sky-card} -> anywhere css{button}", ["Zoom", "Hold Vega", "Hold Lyra"]),
    ("anywhere shadow css{sky-dial} -> css{button}", ["Hold Vega", "Hold Lyra"]),
    ("anywhere css{ul} -> css{button}#2", ["Hold Lyra"]),
    ("anywhere frame css{iframe} -> text{Inner}", ["Inner"]),
    ("anywhere text{Inner}", []),  # frames are opened by name
    ("role{button}", []),
    ("css{main} -> anywhere text{Help}", []),
]


@pytest.mark.parametrize(("locator", "texts"), WAYS)
def test_all_shadow_trees_below_are_looked_in_and_no_frames(locator: str, texts: list[str]) -> None:
    page = Page.parse(NESTED)
    assert [page[index].text for index in match(page, locator)] == texts


def test_what_was_found_below_one_is_not_taken_for_what_is_below_another() -> None:
    page = Page.parse(NESTED)
    for locator, texts in (*WAYS, *reversed(WAYS)):
        assert [page[index].text for index in match(page, locator)] == texts


@pytest.mark.parametrize("name", ["nights@r4", "sky@r4", "sky@r6"])
@pytest.mark.parametrize("selector", ["button", "input[name]", "label, legend", "[id]", "option"])
def test_another_parser_that_takes_templates_for_content_counts_the_same(name: str, selector: str) -> None:
    page = read(name)
    frames = sum(len(find_in(page, parse(f"css{{{selector}}}").last, (t.number, -1))) for t in page.trees if t.kind == FRAME)
    flat = lxml.html.document_fromstring((PAGES / f"{name}.html").read_text())
    assert len(match(page, f"anywhere css{{{selector}}}")) == len(flat.cssselect(selector)) > 0
    assert frames == 0 or not any("srcdoc" in one.attrib for one in flat.cssselect(selector))


def test_places_are_not_counted_over_trees() -> None:
    with pytest.raises(NotationError, match="no #2 of what is looked for anywhere") as caught:
        parse("css{main} -> anywhere css{button}#2")
    assert caught.value.column == 23
    with pytest.raises(ValueError, match="no ordinal"):
        Hop(parse("css{a}#2").last, anywhere=True)


def test_other_forms_say_it_or_say_that_they_cannot() -> None:
    for form in ("webdriver", "bidi", "annotation"):
        made = convert("css{main} -> anywhere shadow css{sky-dial} -> css{button}", form)
        assert str(from_json(made)) == "css{main} -> anywhere shadow css{sky-dial} -> css{button}"
    page = Page.parse(NESTED)
    for locator in ("css{main} -> anywhere css{li} -> css{button}", "anywhere css{button} @row-of text{Lyra}"):
        assert match(page, convert(locator, "xpath")) == match(page, locator) != []
    with pytest.raises(LocatorError, match="no equivalent of anywhere"):
        convert("anywhere text{Zoom} else text{Help}", "xpath")


def test_why_it_finds_nothing_or_several_is_told() -> None:
    page = Page.parse(NESTED)
    told = explain(page, 'anywhere role{button "Hold Vga"}')
    assert told.hops[0].where == "the document and 3 shadow trees in it"
    assert [step.count for step in told.hops[0].steps] == [4, 0]
    assert "or say anywhere text{Help}" in str(explain(page, "text{Help}"))


def test_what_is_in_a_shadow_tree_is_proposed_without_the_way_there() -> None:
    page = Page.parse(NESTED)
    [index] = match(page, 'anywhere role{button "Hold Vega"}')
    ranked = rank(page[index])
    assert str(ranked[0].locator.alternatives[0]) == 'anywhere role{button "Hold Vega"}'
    assert all(match(page, candidate.locator) == [index] for candidate in ranked)
    [field] = match(page, "anywhere css{input}")
    assert 'anywhere css{[name="power"]}' in [str(c) for c in rank(page[field])]
    for rules in (Rules(only=("css",)), Rules(only=("css", "xpath")), Rules(without=("anywhere",))):
        kept = rank(page[field], Question(rules=rules))
        assert kept
        assert not any(hop.anywhere for c in kept for way in c.locator.alternatives for hop in way.hops)
    [light] = match(page, "css{main > p}")
    assert not any("anywhere" in str(candidate) for candidate in rank(page[light]))


def test_it_lasts_where_the_form_moves_into_a_component() -> None:
    """From r3 to r4 the demo's booking form moves into a web component."""
    for name in ("nights@r3", "nights@r4"):
        assert len(match(read(name), "anywhere label{Visitor name}")) == 1
    assert match(read("nights@r4"), "label{Visitor name}") == []


@pytest.fixture(params=["chromium", "firefox"])
def opened(request: pytest.FixtureRequest, tmp_path: Path) -> Iterator[Callable[[str], LivePage]]:
    browser: Browser = request.getfixturevalue(request.param)
    live: list[LivePage] = []

    def open_page(markup: str) -> LivePage:
        (tmp_path / "page.html").write_text(markup)
        live.append(browser.open((tmp_path / "page.html").as_uri()))
        return live[-1]

    yield open_page
    for page in live:
        page.close()


ACT = """<script>for (const t of document.querySelectorAll('sky-card')) for (const b of t.shadowRoot.querySelectorAll('button'))
b.addEventListener('click', () => { document.title += 'pressed ' + b.textContent + ';'; });</script>"""


def test_browsers_act_on_what_stands_in_open_and_closed_trees(opened: Callable[[str], LivePage]) -> None:
    live = opened(NESTED + ACT)
    live.click('anywhere role{button "Zoom"}')
    assert live.script("() => document.title") == "pressed Zoom;"
    live.type("anywhere label{Power}", "40")
    assert live.state("anywhere label{Power}").value == "40"
    live.click("anywhere css{button} @row-of text{Lyra}")
    live.click("anywhere text{Help}")
    live.click("anywhere frame css{iframe} -> text{Inner}")
    taken = live.capture()
    snapshot = Page.parse(NESTED)
    for locator in ("anywhere css{button}", "anywhere text{Zoom}", "css{main} -> anywhere role{button}"):
        assert [e.text for e in taken.find_all(locator)] == [e.text for e in snapshot.find_all(locator)]
    live.limit = 1.0
    with pytest.raises(BrowserTimeout, match="4 matches"):
        live.click("anywhere role{button}")


def test_a_closed_tree_that_nobody_has_looked_for_counts(opened: Callable[[str], LivePage]) -> None:
    card = "<sky-card><template shadowrootmode={}><button onclick='document.title += 1'>Hold</button></template></sky-card>"
    live = opened("<!doctype html>" + card.format("open") + card.format("closed"))
    live.limit = 1.0
    with pytest.raises(BrowserTimeout, match="2 matches"):
        live.click("anywhere css{button}")
    assert live.script("() => document.title") == ""


def test_a_page_is_looked_at_from_the_command_line(demo: Path) -> None:
    shown = run("check", "anywhere label{Visitor name}", "pages/nights@r4.html").stdout
    assert "1 of 1" in shown
    assert "in the document and 2 shadow trees in it" in shown
    assert "anywhere" in run("rank", "pages/nights@r4.html", "shadow css{night-booking} -> label{Visitor name}").stdout
