"""People in what a page shows: who wrote something, and when, as the line below a title says; the address or the number by which
one is reached. Another article has another author, and another visitor another number."""

from __future__ import annotations

import re

from wary_hound.locator.blocks import is_whole, row_of, section_of
from wary_hound.page import Page
from wary_hound.robustness.data import NAME_TAGS, is_date, is_moment

_INLINE = NAME_TAGS | {"a", "cite"}
_NAME = re.compile(r"@?[^\W\d_][\w.'’-]*(?: [^\W\d_][\w.'’-]*){0,2}")
_AUTHOR = re.compile(r"(?:^|[-_])author(?:[-_](?:name|link|wrapper))?\Z", re.I)
LONGEST, MOST_BEFORE = 12, 2
"""A by-line is so many words at most, of which so many stand before the name: *by*, *written by*."""
NEAR = 2
"""So far around a name the rest of its line stands."""


def is_signed(page: Page, element: int) -> bool:
    """Whether an element is the name in a by-line: a link or a few words with a date behind them, in a block that has a heading
    before. A name that is itself what the block is known by is none."""
    if page.tags[element] not in _INLINE or page.semantics.roles[element] == "button":
        return False
    if _is_the_author(page, element):
        return True
    name = page.semantics.worded[element]
    if not _NAME.fullmatch(name) or any(word[:1].islower() for word in name.split()):
        return False
    lines = (page.semantics.worded[at] for at in page.ancestors(element)[:NEAR])
    line = next((line for line in lines if _is_byline(line, name)), "")
    return bool(line) and _is_headed(page, element, line)


def _is_the_author(page: Page, element: int) -> bool:
    """Whether it is called the author, the only one of its page, by a class or by the relation of its link (HTML, 4.6.7.2)."""
    said = page.semantics.worded[element]
    if not _NAME.fullmatch(said) or "author" in said.lower():
        return False
    if "author" in (page.attribute(element, "rel") or "").lower().split():
        return len(page.index.valued("rel", page.attribute(element, "rel") or "")) < 2
    names = (page.attribute(element, "class") or "").split()
    return any(_AUTHOR.search(name) is not None and len(page.index.by_class.get(name, ())) < 2 for name in names)


def _is_byline(line: str, name: str) -> bool:
    before, found, rest = line.partition(name)
    if not found or len(line.split()) > LONGEST or len(before.split()) > MOST_BEFORE:
        return False
    return is_date(rest) or is_moment(rest)


def _is_headed(page: Page, element: int, line: str) -> bool:
    """Whether a heading stands before it in the row or the section in which something else stands than the line."""
    around = page.ancestors(element)
    for at in around:
        if is_whole(page, at):
            return False
        if page.semantics.worded[at] != line and at in (row_of(page, at), section_of(page, element)):
            return any(page.semantics.roles[one] == "heading" and one not in around for one in range(at + 1, element))
    return False


_REACHING = re.compile(r"(?:mailto|tel|sms):(?://)?", re.I)
_BETWEEN = re.compile(r"[^\w@+.]|[.](?=\d)")
_ELSEWHERE = frozenset({"contentinfo", "banner", "navigation"})


def is_contact(page: Page, element: int) -> bool:
    """Whether it is a link to the address or the number that it shows, of whomever the page is about; not in the head or the
    foot of the page, where the site's own stands."""
    address = page.attribute(element, "href") or ""
    reaching = _REACHING.match(address) if page.tags[element] == "a" else None
    if reaching is None or not _same(address[reaching.end() :].partition("?")[0], page.semantics.worded[element]):
        return False
    return all(page.semantics.roles[at] not in _ELSEWHERE for at in page.ancestors(element))


def _same(address: str, shown: str) -> bool:
    """Whether they are but for what is written between the figures of a number."""
    said, read = (_BETWEEN.sub("", one).casefold() for one in (address, shown))
    return bool(shown) and said == read
