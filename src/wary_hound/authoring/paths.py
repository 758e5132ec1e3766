"""Paths by position: what browsers' inspectors copy. Weak, but always there; also the yardsticks of `bench`."""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Iterator

from wary_hound.authoring.predicates import named_classes
from wary_hound.locator.blocks import is_whole
from wary_hound.locator.css.building import joined, selector
from wary_hound.locator.css.values import Complex, Id, Nth, Selectors, Simple, Type
from wary_hound.locator.evaluate import find_in
from wary_hound.locator.making import css, xpath
from wary_hound.locator.values import Finder
from wary_hound.locator.xpath import building as x
from wary_hound.locator.xpath.values import Binary, Call, Literal, Path, Step
from wary_hound.page import Page
from wary_hound.page.trees import HTML

FROM_THE_TOP = 4
"""A path of fewer levels can be read."""
LONGEST = 40
"""A path of more levels is one from the top."""
MOST_ALIKE = 50
"""Of more alike none is told by its place."""


def _level(page: Page, at: int) -> Step:
    """One step of an XPath: the tag, and its number among siblings of that tag where there are several."""
    number = x.place(int(page.index.place_of_type[at]))
    if page.namespace[at] != HTML or not x.NAME.match(page.tags[at]):
        return x.child("*", Binary("=", Call("name"), Literal(page.tags[at])), number)
    return x.child(page.tags[at]) if page.index.siblings_of_type[at] == 1 else x.child(page.tags[at], number)


def absolute_xpath(page: Page, index: int) -> Finder:
    """`/html/body/div[2]/button`, from the top of the element's tree."""
    return xpath(Path(True, tuple(_level(page, at) for at in reversed([index, *page.ancestors(index)]))))


def absolute_css(page: Page, index: int) -> Finder:
    """`html > body > div:nth-of-type(2) > button`."""
    path = None
    for at in reversed([index, *page.ancestors(index)]):
        tag = Type(page.tags[at])
        alone = page.index.siblings_of_type[at] == 1
        level = selector(tag) if alone else selector(tag, Nth("nth-of-type", 0, int(page.index.place_of_type[at])))
        path = level if path is None else joined(path, ">", level)
    assert path is not None
    return css(path)


def goes_by_levels(finder: Finder) -> bool:
    """Whether it is an XPath that begins at the root and goes down level by level."""
    tree = finder.query.tree
    return isinstance(tree, Path) and tree.absolute and all(step.axis == "child" for step in tree.steps)


def is_from_the_top(finder: Finder) -> bool:
    """Whether a way goes level by level from the top of a tree, as inspectors copy it: nobody reads it, and all that is put in
    between breaks it."""
    match finder.query.tree:
        case Path(True, steps):
            return len(steps) >= FROM_THE_TOP and goes_by_levels(finder)
        case (Complex(combinators, compounds),):
            return len(compounds) >= FROM_THE_TOP and set(combinators[1:]) == {">"} and Type("html") in compounds[0].simples
        case _:
            return False


def relative_css(page: Page, index: int) -> Finder:
    """The shortest path by tags and positions that does not start at the root, unique in its tree; from the nearest id where there
    is one on the way."""
    scope = (int(page.tree[index]), -1)
    below: Selectors | None = None
    for at in [index, *page.ancestors(index)][:LONGEST]:
        tag, own = Type(page.tags[at]), page.attribute(at, "id")
        place = Nth("nth-of-type", 0, int(page.index.place_of_type[at]))
        named = [selector(Id(own))] if own else []
        for level in (*named, selector(tag), selector(tag, place)):
            for between in (" ", ">") if below is not None else ("",):
                finder = css(level if below is None else joined(level, between, below))
                if find_in(page, finder, scope).tolist() == [index]:
                    return min(finder, absolute_css(page, index), key=lambda made: len(str(made)))
        level = selector(tag) if page.index.siblings_of_type[at] == 1 else selector(tag, place)
        below = level if below is None else joined(level, ">", below)
    return absolute_css(page, index)


def among_alike(page: Page, index: int, own: Iterable[tuple[Simple, ...]]) -> Iterator[Finder]:
    """`div.card:nth-of-type(2) [type="submit"]`, `.cards > div:nth-of-type(2) button`: which of several alike it is, by the place
    at which they part, and how else a person would call it. `own`: ways to say the element itself."""
    scope = (int(page.tree[index]), -1)
    for simples in own:
        said = selector(*simples)
        others = [at for at in find_in(page, css(said), scope).tolist() if at != index]
        parted = index
        for at in page.ancestors(index) if len(others) <= MOST_ALIKE else ():
            if any(at < one < page.end[at] for one in others):
                break
            parted = at
        if not others or parted == index:
            continue
        where = selector(*_called(page, parted), Nth("nth-of-type", 0, int(page.index.place_of_type[parted])))
        yield css(joined(where, " ", said))
        holder = int(page.parent[parted])
        if holder >= 0 and len(called := _called(page, holder)) > 1:
            yield css(joined(joined(selector(called[-1]), ">", where), " ", said))


def _called(page: Page, at: int) -> tuple[Simple, ...]:
    """The tag of an element, and the first class that a person gave it."""
    return (Type(page.tags[at]), *itertools.islice(named_classes(page.attributes_of(at)), 1))


def copied_path(page: Page, index: int, narrowing: bool = False) -> Finder:
    """From the nearest ancestor-or-self with a unique id, then by position. `narrowing`: not from one that holds nearly all of the
    page, which says nothing of what stands in it."""
    tree = page.tree[index]
    levels: list[Step] = []
    for at in [index, *page.ancestors(index)]:
        own = page.attribute(at, "id") if at == index or not (narrowing and is_whole(page, at)) else None
        if own and '"' not in own and sum(page.tree[i] == tree for i in page.index.valued("id", own).tolist()) == 1:
            return xpath(Path(True, (x.ANYWHERE, x.child("*", x.equals("id", own)), *reversed(levels))))
        levels.append(_level(page, at))
    return xpath(Path(True, tuple(reversed(levels))))


def relative_xpath(page: Page, index: int) -> Finder:
    """The shortest XPath that does not start at the root, unique in its tree: as few levels and predicates as do.

    From the element upwards: a level is its tag with an attribute or text that is not data-like first, its position last.
    """
    scope = (int(page.tree[index]), -1)
    below: list[Step] = []
    for at in [index, *page.ancestors(index)]:
        for level in _ways(page, at):
            for between in ((), (x.ANYWHERE,)) if below else ((),):
                finder = xpath(Path(True, (x.ANYWHERE, level, *between, *below)))
                if find_in(page, finder, scope).tolist() == [index]:
                    return finder
        below.insert(0, _level(page, at))
    return absolute_xpath(page, index)


def _ways(page: Page, at: int) -> Iterator[Step]:
    """An element as one step, the more telling first."""
    if page.namespace[at] == HTML and x.NAME.match(page.tags[at]):
        tag, attributes = page.tags[at], page.attributes_of(at)
        for name in ("id", "name", "aria-label", "placeholder", "title", "for", "value", "href", "type"):
            if attributes.get(name):
                yield x.child(tag, x.equals(name, attributes[name]))
        shown = " ".join(page.semantics.raw_text(at).split())
        if 0 < len(shown) <= 60 and tag not in ("html", "body"):
            yield x.child(tag, x.reads(shown))
        yield x.child(tag)
    yield _level(page, at)
