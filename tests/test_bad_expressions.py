"""What is not CSS or XPath: the column, and what was expected. Browsers refuse the same."""

from __future__ import annotations

import json

import pytest

from wary_hound import Browser, NotationError
from wary_hound.locator import css, xpath

CSS = [
    ("", 1, "a selector"),
    ("a,", 3, "a selector"),
    (",a", 1, "a selector"),
    ("a >", 4, "a selector"),
    ("> a", 1, "a selector"),
    ("a > > b", 5, "a selector"),
    ("a..b", 3, "a class name"),
    ("a.", 3, "a class name"),
    (".1a", 1, "a selector"),
    ("#1a", 1, "does not begin with a digit"),
    ("a#", 2, "a combinator"),
    ("[]", 2, "an attribute name"),
    ("[a=]", 4, "a value"),
    ("[a=1]", 4, "a value"),
    ("[a='x' z]", 8, "i, s or ]"),
    ("[a='x' i i]", 10, "]"),
    ("[a!=x]", 3, "one of"),
    ("[a b]", 4, "one of"),
    ("a:", 3, "the name of a pseudo-class"),
    ("a:first", 3, "not :first"),
    ("a:contains(x)", 3, "not :contains()"),
    ("a:not()", 7, "a selector"),
    ("a:not(b", None, ""),
    ("a:nth-child()", 3, "a position"),
    ("a:nth-child(x)", 3, "a position"),
    ("a:nth-child(2 of)", 17, "a selector"),
    ("a:nth-of-type(2 of b)", 3, 'no "of"'),
    ("a:lang()", 3, "a word"),
    ("a $ b", 3, "a selector"),
    ("a b {", 5, "a selector"),
    ("a!", 2, "a combinator"),
    ("ns|a", 3, "namespace"),
    ("a:has()", 7, "a selector"),
    ("a:not(b,)", 9, "a selector"),
]
XPATH = [
    ("", 1, "an expression"),
    ("//", 3, "a step"),
    ("//a[", 5, "an expression"),
    ("//a[]", 5, "an expression"),
    ("//a]", 4, "an operator or the end"),
    ("//a[1", 6, "]"),
    ("//a[@]", 6, "a step"),
    ("//a/", 5, "a step"),
    ("///a", 3, "a step"),
    ("//a//", 6, "a step"),
    ("a b", 3, "an operator or the end"),
    ("//a[.='x]", 10, "the quote"),
    ("foo()", 1, "not foo()"),
    ("count()", 1, "arguments in count()"),
    ("count(a, b)", 1, "arguments in count()"),
    ("concat('a')", 1, "arguments in concat()"),
    ("contains('a')", 1, "arguments in contains()"),
    ("beside::a", 1, "an axis"),
    ("child::", 8, "a step"),
    ("$x", 1, "no variable"),
    ("svg:rect", 1, "without a prefix"),
    ("a = ", 5, "an expression"),
    ("a and", 6, "an expression"),
    ("= a", 1, "an expression"),
    ("(a", 3, ")"),
    ("a | ", 5, "an expression"),
    ("a[1]]", 5, "an operator or the end"),
    ("a ! b", 3, "an XPath token"),
    ("a # b", 3, "an XPath token"),
    ("text(", None, ""),
    ("//a[text(]", None, ""),
    ("1 +", 4, "an expression"),
    ("a,b", 2, "an operator or the end"),
]
REFUSE = """(css, xpath) => JSON.stringify([
  JSON.parse(css).map((e) => { try { document.querySelector(e); return false; } catch { return true; } }),
  JSON.parse(xpath).map((e) => { try { document.evaluate(e, document, null, 0, null); return false; } catch { return true; } })])"""


@pytest.mark.parametrize(("expression", "column", "expected"), CSS)
def test_css_errors(expression: str, column: int | None, expected: str) -> None:
    if column is None:  # what is left open at the end is closed there, as the standard has it
        assert css.parse(expression)
        return
    with pytest.raises(NotationError) as caught:
        css.parse(expression)
    assert expected in caught.value.expected
    assert caught.value.column == column


@pytest.mark.parametrize(("expression", "column", "expected"), XPATH)
def test_xpath_errors(expression: str, column: int | None, expected: str) -> None:
    with pytest.raises(NotationError) as caught:
        xpath.parse(expression)
    assert expected in caught.value.expected
    assert column is None or caught.value.column == column


@pytest.mark.parametrize("name", ["chromium", "firefox"])
def test_browsers_refuse_the_same(request: pytest.FixtureRequest, site: str, name: str) -> None:
    browser: Browser = request.getfixturevalue(name)
    live = browser.open(f"{site}/r1/weather.html")
    sets = [[e for e, column, _ in CSS if column is not None], [e for e, _, _ in XPATH if e != "$x"]]
    answers = json.loads(live.script(REFUSE, json.dumps(sets[0]), json.dumps(sets[1])))
    taken = [e for case, refused in zip(sets, answers, strict=True) for e, no in zip(case, refused, strict=True) if not no]
    assert not taken


def test_selectors_left_open_are_closed_at_the_end() -> None:
    assert css.parse("a:not(b") == css.parse("a:not(b)")
    assert css.parse("[a='x'") == css.parse("[a='x']")
