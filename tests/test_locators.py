"""The locator language: notation, strategies, relations, hops, explanations."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from conftest import read
from wary_hound import Ambiguous, LocatorError, NotationError, NotFound, Page, explain, match, parse
from wary_hound.locator.making import css, label, role, text, xpath
from wary_hound.locator.values import Boundary, Finder, Hop, Locator, Related, Relation
from wary_hound.locator.work import Work
from wary_hound.page.roles import KNOWN

WORDS = st.text(min_size=1, max_size=30).filter(lambda t: t.split() and not any(ord(c) < 32 for c in t))
FINDERS = st.one_of(
    st.builds(text, WORDS, st.booleans()),
    st.builds(label, WORDS, st.booleans()),
    st.builds(role, st.sampled_from(sorted(KNOWN)), WORDS, st.booleans()),
    st.builds(css, st.sampled_from(["#hold", 'a[href="}"]', "tr:nth-child(2n+1) > td", "a\\{b", '[title="{"] i'])),
    st.builds(xpath, st.sampled_from(['//a[.="}"]', "//tr[2]/td", "/html/body", "//*[@id='{{']"])),
)
RELATED = st.recursive(
    st.builds(lambda f, n: Finder(f.strategy, f.query, n), FINDERS, st.none() | st.integers(1, 99)),
    lambda inner: st.builds(
        lambda f, r, a, more: Finder(f.strategy, f.query, f.ordinal, (*more, Related(r, a))),
        FINDERS,
        st.sampled_from(Relation),
        inner,
        st.lists(st.builds(Related, st.sampled_from(Relation), FINDERS), max_size=2).map(tuple),
    ),
    max_leaves=3,
)
LOCATORS = st.builds(
    lambda hops, last, wide: Locator((*hops, Hop(last, anywhere=wide and last.ordinal is None))),
    st.lists(
        st.builds(lambda f, b, wide: Hop(f, b, wide and f.ordinal is None), RELATED, st.sampled_from(Boundary), st.booleans()),
        max_size=3,
    ),
    RELATED,
    st.booleans(),
)


@settings(deadline=None)
@given(LOCATORS)
def test_a_locator_prints_back_as_it_was_parsed(locator: Locator) -> None:
    assert parse(str(locator)) == locator


@settings(deadline=None, max_examples=300)
@given(st.text(alphabet="csxpathrolelabtfmdw{}[]()\"'@#->~ :.*/=1", max_size=60))
def test_any_text_parses_or_says_where_it_does_not(line: str) -> None:
    try:
        assert str(parse(str(parse(line)))) == str(parse(line))
    except NotationError as error:
        assert 1 <= error.column <= len(line) + 1
        assert error.expected


@pytest.mark.parametrize(
    ("line", "column", "expected"),
    [
        ("css{a", 6, "} to close"),
        ("css{a >}", 8, "a selector"),
        ("css{a:hoover}", 7, "not :hoover"),
        ("xpath{//a[}", 11, "an expression"),
        ("xpath{//a[foo()]}", 11, "XPath 1.0, not foo()"),
        ("xpath{substring('a')}", 7, "arguments in substring()"),
        ("role{knob}", 6, "an ARIA role"),
        ("role{button Hold}", 13, "double quotes"),
        ("css{a}#0", 8, "a number from 1"),
        ("css{a} @beside text{x}", 9, "row-of"),
        ("text{ }", 6, "between the braces"),
        ("button{a}", 1, "css{...}"),
        ("css{a} ->", 10, "css{...}"),
        ("frame css{a}", 13, "inside the frame"),
        ("css{a} b", 8, "the end"),
        ("", 1, "css{...}"),
    ],
)
def test_bad_notation_says_the_column_and_what_was_expected(line: str, column: int, expected: str) -> None:
    with pytest.raises(NotationError) as caught:
        parse(line)
    assert caught.value.column == column
    assert expected in caught.value.expected


def test_nesting_is_bounded() -> None:
    for line in ("xpath{" + "(" * 5000 + "1" + ")" * 5000 + "}", "css{" + ":not(" * 500 + "a" + ")" * 500 + "}"):
        with pytest.raises(NotationError):
            parse(line)
    assert parse("xpath{" + "-" * 300 + "1 = 1}")


@pytest.mark.parametrize(
    ("locator", "tag", "says"),
    [
        ('role{button "Hold this night"} @row-of text{Vega}', "button", "Hold this night"),
        ("css{td}#4 @row-of text{Saturn}", "td", "8"),
        ("css{button} @group-of text{Sky reports}", "button", None),
        ("css{input} @after text{E-mail}", "input", ""),
        ("css{label} @before css{#visitor-email}", "label", "E-mail"),
        ("css{button} @inside css{#notice}", "button", "×"),
        ("label{Party size}", "input", ""),
        ("label{~Visitor}", "input", ""),
        ('role{button ~"older"}', "button", "Show older reports"),
        ("text{~newsletter}", "label", "Send me the newsletter"),
        ("css{#night-form} -> role{heading}", "h2", "Your booking"),
        ("css{#night-form} -> xpath{//h2}", "h2", "Your booking"),
        ('css{input} @under text{E-mail}', "input", ""),
        ('css{input} @rightward-of css{#party-size}', "input", ""),
        ('text{Vega} @leftward-of text{Tue 12 Aug}', "a", "Vega"),
        ('css{h2} @over css{table}', "h2", "Open nights"),
        ('css{button} @closest-to text{Tonight the north dome opens an hour later.}', "button", None),
    ],
)  # fmt: skip
def test_strategies_and_relations_on_the_demo(locator: str, tag: str, says: str | None) -> None:
    page = read("nights@r1")
    found = page.find_all(locator)
    assert found, explain(page, locator)
    assert found[0].tag == tag
    assert says is None or (len(found) == 1 and found[0].text == says)


def test_exact_geometry() -> None:
    page = read("nights@r1")
    assert page.find("css{input} @under text{E-mail}").attributes["id"] == "visitor-email"
    assert page.find("css{input} @rightward-of css{#party-size}").attributes["id"] == "visit-date"
    assert page.find("css{button} @closest-to text{Tonight the north dome opens an hour later.}").name == "Close notice"
    with pytest.raises(LocatorError, match="capture the page"):
        Page.parse("<p>a</p><input>").find("css{input} @rightward-of text{a}")


def test_trees_are_not_pierced_and_hops_open_them() -> None:
    page = read("nights@r4")
    assert not page.find_all("label{Visitor name}")
    assert page.find("shadow css{night-booking} -> label{Visitor name}").attributes["name"] == "visitor"
    assert page.find("shadow css{sky-dial} -> css{button}#3").tree.mode == "closed"
    assert page.find('frame css{iframe[title="Weather"]} -> css{dd}#1').tree.kind == "frame"
    assert not page.find_all("frame css{night-booking} -> css{input}")
    assert len(page.find_all("shadow css{night-booking} -> css{fieldset} -> css{input}")) == 5


def test_find_explains_what_it_does_not_find() -> None:
    page = read("nights@r4")
    with pytest.raises(NotFound, match="shadow tree \\(open\\) of <night-booking") as caught:
        page.find("label{Visitor name}")
    assert caught.value.explanation is not None
    with pytest.raises(Ambiguous, match="5 elements match"):
        page.find('role{button "Hold this night"}')
    with pytest.raises(NotFound, match=r"nearly: css\{#nights button"):
        page.find("css{#nights button.primary}")


def test_explain_counts_step_by_step() -> None:
    page = read("nights@r1")
    found = explain(page, "css{#nights tr.night-row > td.nowhere}")
    assert [(s.text, s.count) for s in found.hops[0].steps] == [
        ("#nights", 1),
        ("#nights tr", 6),
        ("#nights tr.night-row", 5),
        ("#nights tr.night-row > td", 25),
        ("#nights tr.night-row > td.nowhere", 0),
    ]
    assert found.misses[0].count == 25
    xpath_steps = explain(page, 'xpath{//tr[td="Vega"]/td[9]}').hops[0].steps
    assert [s.count for s in xpath_steps] == [6, 1, 5, 0]
    texts = explain(page, "text{Open night}")
    assert "text{Open nights}" in [m.locator for m in texts.misses]
    assert "hover" in explain(page, "css{a:hover}").notes[-1]
    assert explain(page, "css{button} @row-of text{Nowhere}").hops[0].steps[1].count == 0


def test_too_much_work_is_given_up(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(Work, "most", 20_000)
    with pytest.raises(LocatorError, match="given up"):
        match(read("nights@r1"), "xpath{//*[count(following::node()) + count(preceding::node()) > 1]}")
    with pytest.raises(LocatorError, match="gives a number"):
        match(read("nights@r1"), "xpath{count(//a)}")
