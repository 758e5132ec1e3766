"""Conversions: the same elements in every form that has an equivalent, and a clear word where one has not."""

from __future__ import annotations

import json
from typing import Any

import pytest

from conftest import read, run
from judging import CSS, XPATH, compiled, generated
from wary_hound import LocatorError, NotationError, Page, Question, convert, match, rank
from wary_hound.authoring.batch import usable
from wary_hound.authoring.paths import relative_xpath
from wary_hound.cli.look import interesting
from wary_hound.locator import css, xpath
from wary_hound.locator.convert import from_json, read_any, unsaid
from wary_hound.locator.making import finder as css_or_xpath
from wary_hound.locator.notation import parse
from wary_hound.locator.translate import css_to_xpath, xpath_to_css
from wary_hound.locator.values import Hop, Locator


@pytest.mark.parametrize("name", ["nights@r1", "held@r3", "nights@r6"])
def test_what_is_translated_matches_the_same(name: str) -> None:
    page = read(name)
    cases = [("css", s) for s in CSS] + [("xpath", e) for e in XPATH] + list(generated(page, 0, seed=5, count=500))
    translated = 0
    for strategy, expression in cases:
        try:
            other = css_to_xpath(css.parse(expression)) if strategy == "css" else xpath_to_css(xpath.parse(expression))
        except LocatorError as error:
            assert "no equivalent" in str(error) or "cannot" in str(error) or "CSS finds elements only" in str(error)
            continue
        translated += 1
        by_css = css.match(page, css.parse(expression if strategy == "css" else other), 0).tolist()
        by_xpath = xpath.match(page, xpath.parse(other if strategy == "css" else expression), 0)
        assert by_css == by_xpath, (expression, other)
    assert translated > 0.8 * len(cases)


@pytest.mark.parametrize(
    ("selector", "path"),
    [
        ("#hold", '//*[@id="hold"]'),
        ("div > a", "//div/a"),
        ("h2 + p", "//h2/following-sibling::*[1][self::p]"),
        ("h2 ~ p", "//h2/following-sibling::p"),
        ("tr:nth-child(3)", "//tr[count(preceding-sibling::*)=2]"),
        ("[href^='#']", '//*[starts-with(@href, "#")]'),
        ("a:not([id])", "//a[not(@id)]"),
        ("section:has(> h2)", "//section[h2]"),
    ],
)
def test_css_as_xpath(selector: str, path: str) -> None:
    assert css_to_xpath(css.parse(selector)) == path


@pytest.mark.parametrize(
    ("path", "selector"),
    [
        ("/html/body/div[2]", "html > body > div:nth-of-type(2)"),
        ('//a[@href="#"]', 'a[href="#"]'),
        ("//tr[last()]/td", "tr:last-of-type > td"),
        ("//*[3]", ":nth-child(3)"),
        ("//h2/following-sibling::*[1][self::p]", "h2 + :is(p)"),
        ('//p[contains(@class, "x")]', 'p[class*="x"]'),
        ('//p[contains(concat(" ", normalize-space(@class), " "), " x ")]', "p.x"),
        ('//a[not(@id) and (@rel or @rev)]', "a:not([id]):is([rel], [rev])"),
    ],
)  # fmt: skip
def test_xpath_as_css(path: str, selector: str) -> None:
    assert xpath_to_css(xpath.parse(path)) == selector


@pytest.mark.parametrize(
    ("locator", "form", "said"),
    [
        ("text{Vega}", "css", "neither texts nor names"),
        ("label{E-mail}", "css", "neither texts nor names"),
        ("css{a}#2", "css", "no equivalent of #2"),
        ("css{a:hover}", "xpath", ":hover"),
        ("css{a} @leftward-of text{x}", "xpath", "where elements stand"),
        ("css{li:nth-child(2) > a} @after text{x}", "xpath", "several steps"),
        ('role{button ~"Ho"}', "bidi", "whole names only"),
        ('xpath{//a[.="x"]}', "css", "cannot ask for text"),
        ("xpath{//a/ancestor::div}", "css", "axis ancestor"),
    ],
)
def test_what_has_no_equivalent_is_said(locator: str, form: str, said: str) -> None:
    with pytest.raises(LocatorError, match=said):
        convert(locator, form)


@pytest.mark.parametrize("name", ["nights@r1", "nights@r6", "sky@r1"])
def test_one_xpath_finds_what_the_locator_finds_and_never_another(name: str) -> None:
    page = read(name)
    said = cards = 0
    for element in usable(page):
        for candidate in rank(element, Question(ways=3)):
            try:
                one = convert(candidate.locator, "xpath")
            except LocatorError as error:
                assert "no equivalent" in str(error)
                continue
            assert len(one.alternatives) == 1
            found = match(page, one)
            assert found in ([element.index], []), (str(candidate), str(one))
            if not any(hop.anywhere for hop in candidate.locator.hops):  # these say the same as in their own tree
                said += 1
                cards += not found  # rows that no markup says
    assert said > 100
    assert cards < 0.1 * said


@pytest.mark.parametrize("name", ["nights@r1", "held@r3", "nights@r6", "sky@r4"])
def test_roles_names_labels_and_relations_are_compiled(name: str) -> None:
    """On what is shown: the same, hardly ever nothing, and another only where a hidden one reads the same."""
    page = read(name)
    same = nothing = 0
    for spoken, expression in compiled(page):
        wanted, found = match(page, spoken), match(page, Locator((Hop(css_or_xpath("xpath", expression)),)))
        shown = [i for i in found if page.semantics.visible[i] or i in wanted]
        assert shown in (wanted, []), (spoken, expression)
        same += shown == wanted
        nothing += shown != wanted
    assert same > 150
    assert nothing < 0.03 * same


def test_with_a_page_at_hand_it_is_what_an_engineer_would_write() -> None:
    page = read("nights@r1")
    for spoken, wanted in (
        ("label{E-mail}", '//input[@id=//label[.="E-mail"]/@for]'),
        ("css{button} @row-of text{Vega}", '//tr[.//a[.="Vega"]]//button'),
        ("text{Open nights}", '//h2[.="Open nights"]'),
        ('role{textbox "E-mail"}', '//input[@id=//label[.="E-mail"]/@for]'),
    ):
        short = convert(spoken, "xpath", page)
        assert short.hops[0].finder.expression == wanted
        assert match(page, short) == match(page, spoken)
        assert convert(spoken, "webdriver", page) == [{"using": "xpath", "value": wanted}]
    assert convert('role{textbox "E-mail"}', "bidi", page)[0]["type"] == "accessibility"
    assert len(unsaid(parse("label{E-mail}"))) == 3
    assert not unsaid(parse("css{a}"))


def test_a_column_is_counted_in_its_own_table() -> None:
    page = Page.parse(
        "<table><tr><th>Night<th>Places<tr><td>Vega<td>6</table><table><tr><th>Places<th>Night<tr><td>8<td>Moon</table>"
        "<table><tr><th>Night<tr><td>Saturn</table>"
    )
    one = convert("css{td} @column-of text{Places}", "xpath")
    assert [page[i].text for i in match(page, one)] == ["6", "8"]
    assert match(page, one) == match(page, "css{td} @column-of text{Places}")


LOCATORS = [
    "css{#night-form input[name='email']}",
    "xpath{//tr[td='Vega']//button}",
    'role{button "Show older reports"}',
    "text{Open nights}",
    "text{~newsletter}",
    "css{#night-form} -> css{button}",
    "css{button}#3",
    "css{button} @inside css{#notice}",
]
HOPS = ["shadow css{night-booking} -> css{select}", 'frame css{iframe[title="Weather"]} -> xpath{//button}']


@pytest.mark.parametrize("form", ["annotation", "webdriver", "bidi"])
def test_standards_forms_lead_back_to_the_same_elements(form: str) -> None:
    for page, locators in ((read("nights@r1"), LOCATORS), (read("nights@r4"), HOPS)):
        for locator in locators:
            try:
                made: Any = convert(locator, form)
            except LocatorError as error:
                assert "equivalent" in str(error)
                continue
            again = from_json(json.loads(json.dumps(made)))
            assert match(page, again) == match(page, locator), (locator, made)


def test_the_forms_themselves() -> None:
    assert convert("shadow css{sky-dial} -> css{button}", "annotation") == {
        "type": "CssSelector", "value": "sky-dial", "open": "shadow", "refinedBy": {"type": "CssSelector", "value": "button"},
    }  # fmt: skip
    assert convert("css{a}", "webdriver") == [{"using": "css selector", "value": "a"}]
    assert convert('role{button "Hold"}', "bidi") == [{"type": "accessibility", "value": {"role": "button", "name": "Hold"}}]
    assert convert("text{~Ho}", "bidi") == [{"type": "innerText", "value": "Ho", "matchType": "partial"}]
    with pytest.raises(ValueError, match="no form is named"):
        convert("css{a}", "prose")


def test_anything_that_people_paste_is_read() -> None:
    for given, wanted in (
        ("//a[1]", "xpath{//a[1]}"),
        ("(//a)[2]", "xpath{(//a)[2]}"),
        ("div > a.b", "css{div > a.b}"),
        ('[title="x"]', 'css{[title="x"]}'),
        ("text{Vega}", "text{Vega}"),
        ('{"using": "link text", "value": "Vega"}', 'xpath{//a[normalize-space()="Vega"]}'),
        ('{"using": "tag name", "value": "a"}', "css{a}"),
        ('{"type": "XPathSelector", "value": "//a"}', "xpath{//a}"),
        ('[{"type": "css", "value": "a", "open": "shadow"}, {"type": "css", "value": "b"}]', "shadow css{a} -> css{b}"),
        ('{"type": "accessibility", "value": {"name": "E-mail"}}', "label{E-mail}"),
    ):
        assert str(read_any(given)) == wanted
    for given, said in (
        ('{"using": "id", "value": "x"}', "no strategy 'id'"),
        ('{"type": "TextQuoteSelector", "exact": "x"}', "not an element"),
        ('{"a": 1}', "no locator of a known form"),
        ("{oops", "no JSON"),
        ("[]", "empty"),
    ):
        with pytest.raises(LocatorError, match=said):
            read_any(given)
    with pytest.raises(NotationError):
        read_any("css{a >}")


def test_relative_paths_are_unique_and_start_anywhere() -> None:
    page = read("nights@r1")
    for element in interesting(page):
        finder = relative_xpath(page, element.index)
        assert xpath.match(page, xpath.parse(finder.expression), element.tree.number) == [element.index]
        assert finder.expression.startswith("//")


def test_the_command(demo: object) -> None:
    shown = run("convert", "/html/body/main/div[3]/section[1]/table/tbody/tr[3]/td[5]/button", "--page", "pages/nights@r1.html")
    assert shown.exit_code == 0
    assert 'xpath{//button[@value="saturn"]}' in shown.output
    assert max(map(len, shown.output.splitlines())) <= 100
    assert run("convert", "//a[2]", "--to", "css").output == "css{a:nth-of-type(2)}\n"
    data = json.loads(run("convert", "text{Vega}", "--json", "--page", "pages/nights@r1.html").output)
    assert data["matches"] == {"notation": 1, "xpath": 1}
    assert "neither texts" in data["no_equivalent"]["css"]
    assert run("convert", "text{Vega}", "--to", "css").exit_code == 2
    assert run("convert", "css{", "--to", "xpath").exit_code == 2
