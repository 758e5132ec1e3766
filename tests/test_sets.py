"""The two ways to evaluate XPath agree: by sets over the indexes, and node by node."""

from __future__ import annotations

import pytest
from hypothesis import event, given, settings
from hypothesis import strategies as st

from conftest import read
from judging import XPATH, generated
from wary_hound import LocatorError, Page
from wary_hound.locator import xpath
from wary_hound.locator.xpath import sets
from wary_hound.locator.xpath.evaluator import Context, Evaluator
from wary_hound.locator.xpath.nodes import Nodes

PAGE = Page.parse(
    """<main id=m class="a b"><h1>Nights</h1><table id=t><tr class=x><td>Vega</td><td>6</td><td><a href=#v>Hold</a></td></tr>
<tr><td>Moon</td><td>8 </td><td><a href=#m title="">Hold</a><b>!</b></td></tr><tr class="x y"><td colspan=3>Closed</td></tr></table>
<ul><li>a<ul><li>b</li><li class=x>c</li></ul></li><li>d</li></ul>
<p class="x&#12;z">one <b>two</b> three</p><p> one </p><svg><a><b>s</b></a></svg>
<a-b><template shadowrootmode=open><td>in</td></template></a-b></main>"""
)


def by_nodes(page: Page, expression: str, tree: int = 0) -> list[int]:
    """What the node-by-node evaluator finds, whatever the sets would say."""
    nodes = Nodes.of(page)
    value = Evaluator(nodes).value(xpath.parse(expression), Context(-1 - tree, 1, 1))
    assert isinstance(value, list)
    return sorted({e for e in map(nodes.element_of, value) if e >= 0})


NAMES = st.sampled_from(["*", "td", "tr", "a", "b", "li", "ul", "p", "main", "svg", "nothing"])
AXES = st.sampled_from(
    ["", "", "", "descendant::", "following-sibling::", "preceding-sibling::", "parent::", "ancestor::", "self::", "following::",
     "preceding::"]
)  # fmt: skip
TESTS = st.sampled_from(
    [
        "1",
        "2",
        "last()",
        "last() - 1",
        "position() = 2",
        "position() < 3",
        "position() mod 2 = 1",
        "position() > 1 and position() < last()",
        "not(position() = 1)",
        "@class",
        '@class="x"',
        'contains(@class, "x")',
        'contains(concat(" ", normalize-space(@class), " "), " x ")',
        'starts-with(@href, "#")',
        "not(@class)",
        "@class or @href",
        "@title and @href",
        '@title=""',
        '.="Hold"',
        'normalize-space()="one"',
        'normalize-space(.)="8"',
        'contains(., "o")',
        'contains(., "two ")',
        'starts-with(., "on")',
        'text()="Vega"',
        "text()",
        "td",
        "td[2]",
        'td="Moon"',
        'td/a="Hold"',
        ".//b",
        './/li[@class="x"]',
        "*/*",
        "descendant::a",
        "following-sibling::*",
        "preceding-sibling::td",
        "parent::tr",
        "ancestor::table",
        "ancestor::ul/li",
        "self::td or self::li",
        "self::td[2]",
        "../td",
        "count(*) > 1",
        "string-length(.) = 1",
        "true()",
        '@href="#v" and position()=1',
    ]
)
STEPS = st.builds(
    lambda joint, axis, name, tests: joint + axis + name + "".join(f"[{t}]" for t in tests),
    st.sampled_from(["/", "//"]),
    AXES,
    NAMES,
    st.lists(TESTS, max_size=2),
)
PATHS = st.builds(lambda head, rest: "//" + head.lstrip("/") + "".join(rest), STEPS, st.lists(STEPS, max_size=3))
EXPRESSIONS = st.one_of(
    PATHS,
    st.builds(lambda p, n: f"({p})[{n}]", PATHS, st.sampled_from(["1", "3", "last()", "position() > 2", "@class"])),
    st.builds(lambda p, q: f"{p} | {q}", PATHS, PATHS),
    st.builds(lambda p, end: p + end, PATHS, st.sampled_from(["/@class", "//@href", "/text()", "/@*", "/..", "/.", "//."])),
)


@settings(max_examples=600, deadline=None)
@given(EXPRESSIONS)
def test_sets_and_nodes_agree(expression: str) -> None:
    parsed = xpath.parse(expression)
    by_index = xpath.match(PAGE, parsed, 0)  # by sets where they can, else by nodes
    assert by_index == by_nodes(PAGE, expression)
    try:
        found = sets.match(PAGE, parsed, 0)
    except sets.Unfit:
        event("not by sets")
        return
    event("by sets")
    assert found == by_index


@pytest.mark.parametrize("name", ["nights@r1", "held@r3", "nights@r6"])
def test_they_agree_on_the_demo_in_every_tree(name: str) -> None:
    page = read(name)
    fitting = 0
    for tree in range(len(page.trees)):
        expressions = XPATH + [e for kind, e in generated(page, tree, seed=3, count=300) if kind == "xpath"]
        for expression in expressions:
            try:
                found = sets.match(page, xpath.parse(expression), tree)
            except sets.Unfit:
                continue
            fitting += 1
            assert found == by_nodes(page, expression, tree), expression
    assert fitting > 150


@pytest.mark.parametrize(
    "expression",
    [
        "//td",
        "/html/body/main/table/tbody/tr[2]/td[3]",
        '//tr[td="Moon"]//a',
        '//a[normalize-space()="Hold"]',
        '//*[contains(., "two ")]',
        "//li[last()]",
        "(//td)[4]",
        "//td/following-sibling::td[1]",
        "//td/preceding-sibling::td[2]",
        '//td[.="Vega"]/following::a[1]',
        "//a/following::td[2][@colspan]",
        "//td/preceding::td[2]",
        '//*[contains(concat(" ", normalize-space(@class), " "), " y ")]',
        '//*[contains(@class, "x")]/td[last()]',
        "//tr[not(@class)]/td",
        "//b/..",
        "//td/@colspan",
        "//p/text()",
        "//tr[2]|//li[1]",
    ],
)
def test_what_is_mostly_written_is_answered_by_sets(expression: str) -> None:
    assert sets.match(PAGE, xpath.parse(expression), 0) == by_nodes(PAGE, expression)


@pytest.mark.parametrize(
    "expression",
    [
        "id('t')",
        "//td/ancestor::*[1]",
        '//*[contains(concat(" ", normalize-space(@class), " "), " z ")]',
        "//comment()",
        "//td[sum(.) > 2]",
        "td",
        "count(//td)",
    ],
)
def test_the_rest_is_left_to_nodes(expression: str) -> None:
    with pytest.raises(sets.Unfit):
        sets.match(PAGE, xpath.parse(expression), 0)
    if expression != "count(//td)":
        assert xpath.match(PAGE, xpath.parse(expression), 0) == by_nodes(PAGE, expression)
    else:
        with pytest.raises(LocatorError, match="a number"):
            xpath.match(PAGE, xpath.parse(expression), 0)
