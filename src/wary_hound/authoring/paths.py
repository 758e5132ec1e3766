"""Paths by position: what browsers' inspectors copy. Weak, but always there; also the yardsticks of `bench`."""

from __future__ import annotations

from wary_hound.locator.printing import css_identifier
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
