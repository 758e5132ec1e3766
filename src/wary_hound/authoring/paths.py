"""Paths by position: what browsers' inspectors copy. Weak, but always there; also the yardsticks of `bench`."""

from __future__ import annotations

from wary_hound.locator.evaluate import find_in
from wary_hound.locator.printing import css_identifier, xpath_string
from wary_hound.locator.values import Finder, css, xpath
from wary_hound.page import Page
from wary_hound.page.arena import HTML


def _level(page: Page, at: int) -> str:
    """One step of an XPath: the tag, and its number among siblings of that tag where there are several."""
    number = int(page.index.place_of_type[at])
    alone = page.index.siblings_of_type[at] == 1
    if page.namespace[at] != HTML:
        return f'*[name()="{page.tags[at]}"][{number}]'
    return page.tags[at] if alone else f"{page.tags[at]}[{number}]"


def absolute_xpath(page: Page, index: int) -> Finder:
    """`/html/body/div[2]/button`, from the top of the element's tree."""
    line = [index, *page.ancestors(index)]
    return xpath("".join(f"/{_level(page, at)}" for at in reversed(line)))


def absolute_css(page: Page, index: int) -> Finder:
    """`html > body > div:nth-of-type(2) > button`."""
    levels = []
    for at in [index, *page.ancestors(index)]:
        tag = css_identifier(page.tags[at])
        alone = page.index.siblings_of_type[at] == 1
        levels.append(tag if alone else f"{tag}:nth-of-type({page.index.place_of_type[at]})")
    return css(" > ".join(reversed(levels)))


def copied_path(page: Page, index: int) -> Finder:
    """From the nearest ancestor-or-self with a unique id, then by position."""
    tree = page.tree[index]
    levels: list[str] = []
    for at in [index, *page.ancestors(index)]:
        own = page.attribute(at, "id")
        if own and '"' not in own and sum(page.tree[i] == tree for i in page.index.valued("id", own).tolist()) == 1:
            return xpath(f'//*[@id="{own}"]' + "".join(reversed(levels)))
        levels.append(f"/{_level(page, at)}")
    return xpath("".join(reversed(levels)))


def relative_xpath(page: Page, index: int) -> Finder:
    """The shortest XPath that does not start at the root, unique in its tree: as few levels and predicates as do.

    From the element upwards: a level is its tag with an attribute or text that is not data-like first, its position last.
    """
    scope = (int(page.tree[index]), -1)
    below: list[str] = []
    for at in [index, *page.ancestors(index)]:
        for level in _ways(page, at):
            for joint in ("/", "//"):
                finder = xpath("//" + joint.join([level, *below][:2]) + "".join(f"/{b}" for b in below[1:]))
                if find_in(page, finder, scope).tolist() == [index]:
                    return finder
                if not below:
                    break
        below.insert(0, _level(page, at))
    return absolute_xpath(page, index)


def _ways(page: Page, at: int) -> list[str]:
    """An element as one step, the more telling first."""
    if page.namespace[at] != HTML:
        return [_level(page, at)]
    tag, attributes = page.tags[at], page.attributes_of(at)
    named = ("id", "name", "aria-label", "placeholder", "title", "for", "value", "href", "type")
    ways = [f"{tag}[@{n}={xpath_string(attributes[n])}]" for n in named if attributes.get(n)]
    shown = " ".join(page.semantics.raw_text(at).split())
    if 0 < len(shown) <= 60:
        ways.append(f"{tag}[normalize-space()={xpath_string(shown)}]")
    return [*ways, tag, _level(page, at)]
