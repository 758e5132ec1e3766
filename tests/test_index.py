"""The arena's arrays against plain definitions, on pages that nobody would write."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from conftest import read
from wary_hound import Page
from wary_hound.locator import css
from wary_hound.locator.css.matcher import distinct

TAGS = st.sampled_from(["div", "p", "span", "b", "li", "a-b"])


def nested(children: st.SearchStrategy[str]) -> st.SearchStrategy[str]:
    def made(tag: str, mark: str, inside: list[str], shadow: list[str] | None) -> str:
        tree = f'<template shadowrootmode="open">{"".join(shadow)}</template>' if shadow is not None and tag == "a-b" else ""
        return f"<{tag}{mark}>{tree}{''.join(inside)}</{tag}>"

    marks = st.sampled_from(["", " class=x", " class='x y'", " id=q", " title='t'"])
    return st.builds(made, TAGS, marks, st.lists(children, max_size=4), st.none() | st.lists(children, max_size=2))


MARKUP = st.recursive(st.sampled_from(["<b></b>", "<div class=x></div>", "text", "<!-- c -->"]), nested, max_leaves=20)


def siblings(page: Page, index: int) -> list[int]:
    parent, tree = page.parent[index], page.tree[index]
    return [i for i in range(len(page)) if page.parent[i] == parent and page.tree[i] == tree]


@settings(max_examples=120, deadline=None)
@given(MARKUP)
def test_positions_are_what_they_say(markup: str) -> None:
    page = Page.parse(f"<main>{markup}</main>")
    index = page.index
    for i in range(len(page)):
        family = siblings(page, i)
        alike = [s for s in family if page.tags[s] == page.tags[i]]
        at = family.index(i)
        assert index.place[i] == at + 1
        assert index.siblings[i] == len(family)
        assert index.place_of_type[i] == alike.index(i) + 1
        assert index.siblings_of_type[i] == len(alike)
        assert index.previous[i] == (family[at - 1] if at else -1)
        assert index.next[i] == (family[at + 1] if at + 1 < len(family) else -1)


@settings(max_examples=120, deadline=None)
@given(MARKUP)
def test_subtrees_are_intervals_and_trees_partition_the_page(markup: str) -> None:
    page = Page.parse(f"<main>{markup}</main>")
    for i in range(len(page)):
        inside = {j for j in range(len(page)) if i in [j, *page.ancestors(j)]}
        in_interval = {j for j in range(i, int(page.end[i])) if page.tree[j] == page.tree[i]}
        assert inside == in_interval
        assert page.depth[i] == len(page.ancestors(i))
        assert page.children(i) == [j for j in range(len(page)) if page.parent[j] == i]
    assert sorted(i for tree in page.index.in_tree for i in tree.tolist()) == list(range(len(page)))
    for tree in page.trees[1:]:
        assert page.hosted[tree.host] == tree
        assert tree.start == tree.host + 1


@settings(max_examples=80, deadline=None)
@given(MARKUP, st.integers(-4, 4), st.integers(-4, 6), st.booleans(), st.sampled_from(["child", "of-type"]))
def test_nth_is_what_the_standard_says(markup: str, a: int, b: int, last: bool, kind: str) -> None:
    page = Page.parse(f"<main>{markup}</main>")
    selector = f":nth-{'last-' if last else ''}{kind}({a}n{b:+d})"
    found = set(css.match(page, css.parse(selector), 0).tolist())
    for i in page.index.in_tree[0].tolist():
        family = [s for s in siblings(page, i) if kind == "child" or page.tags[s] == page.tags[i]]
        place = len(family) - family.index(i) if last else family.index(i) + 1
        wanted = any(a * n + b == place for n in range(50))
        assert (i in found) is wanted


COMBINED = {
    " ": lambda page, i: page.ancestors(i),
    " > ": lambda page, i: page.ancestors(i)[:1],
    " + ": lambda page, i: [p for p in [int(page.index.previous[i])] if p >= 0],
    " ~ ": lambda page, i: [s for s in siblings(page, i) if s < i],
}


@pytest.mark.parametrize("combinator", list(COMBINED))
@settings(max_examples=60, deadline=None)
@given(markup=MARKUP)
def test_combinators_are_what_the_standard_says(combinator: str, markup: str) -> None:
    page = Page.parse(f"<main>{markup}</main>")
    related = COMBINED[combinator]
    for left, right in ((".x", "*"), ("div", ".x"), (":not(.x)", "b")):
        lefts = set(css.match(page, css.parse(left), 0).tolist())
        rights = css.match(page, css.parse(right), 0).tolist()
        wanted = [i for i in rights if lefts.intersection(related(page, i))]
        assert css.match(page, css.parse(left + combinator + right), 0).tolist() == wanted
        has = css.match(page, css.parse(f"*:has({combinator}{right})"), 0).tolist()
        holders = {h for i in rights for h in related(page, i)}
        assert has == sorted(holders)


def test_attributes_and_classes_are_indexed() -> None:
    page = Page.parse("<p class='a  b a' title=x></p><p class=b></p><p title=x id=i></p>")
    index = page.index
    ps = index.by_tag["p"].tolist()
    assert index.by_class["b"].tolist() == ps[:2]
    assert index.by_class["a"].tolist() == ps[:1]
    assert index.valued("title", "x").tolist() == [ps[0], ps[2]]
    assert index.having("title").tolist() == [ps[0], ps[2]]
    assert index.valued("nothing", "x").tolist() == []
    assert page.attribute(ps[2], "id") == "i"
    assert page.attribute(ps[1], "id") is None
    assert page[ps[2]].attributes == {"title": "x", "id": "i"}


def test_elements_are_values() -> None:
    page = Page.parse("<p id=i>x</p>")
    assert page[-1] == page.find("css{#i}")
    assert page[-1] != Page.parse("<p id=i>x</p>")[-1]
    assert len({page[0], page[0], page[1]}) == 2
    assert [e.index for e in page[1:3]] == [1, 2]
    assert repr(page[-1]) == '<p id="i"> (element 3)'
    with pytest.raises(IndexError, match="page of 4"):
        page[4]
    assert page.elements == list(page)
    assert page[3].parent == page[2]
    assert page[0].parent is None


@settings(max_examples=80, deadline=None)
@given(st.lists(st.integers(-1, 40), max_size=60), st.integers(41, 400))
def test_distinct_values_are_those_that_are_there(values: list[int], count: int) -> None:
    found = distinct(np.asarray(values, np.int32), count)
    assert found.tolist() == sorted({v for v in values if v >= 0})


@pytest.mark.parametrize("name", ["nights@r1", "nights@r4"])
def test_indexes_of_texts_and_beginnings_hold_what_the_page_says(name: str) -> None:
    page = read(name)
    index = page.index
    for tree in range(len(page.trees)):
        for folded, text in ((False, index.whole_text), (True, index.folded_text)):
            lengths = index.text_lengths(tree, folded)
            for i in index.in_tree[tree].tolist():
                said = "".join(text(i).split()) if folded else text(i)
                assert lengths[i] == len(said)
    values = index.attribute_column("class")
    for start in ("b", "button", "zz", "n"):
        found = sorted(i for owners in index.begins("class", start) for i in owners.tolist())
        assert found == [i for i, value in values.items() if value.startswith(start)]
    readings = {" ".join(v.split()) for v in page.text_values}
    for said in sorted(readings)[::7]:
        numbers = index.texts_reading(said, True).tolist()
        assert numbers == [n for n, v in enumerate(page.text_values) if " ".join(v.split()) == said]
    for (family, tag), children in index.children_by_tag.items():
        assert all(page.tags[i] == tag and index.family[i] == family for i in children)
