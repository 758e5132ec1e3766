"""What stands around each element of a page: neighbour texts, headings, rows, ancestors."""

from __future__ import annotations

from wary_hound.healing.fingerprint import LONGEST
from wary_hound.locator.blocks import row_around, section_of
from wary_hound.page import Page
from wary_hound.page.cache import Cache

MOST_STEPS = 12


class Context(Cache):
    """Neighbour texts, headings, rows and trails of all elements of a page. Lists are in page order."""

    def __init__(self, page: Page) -> None:
        super().__init__(page)
        self._rows: dict[int, str] = {}
        self._trails: dict[int, tuple[str, ...]] = {}
        own = page.semantics.own_text
        count = len(page)
        rendered = page.semantics.rendered
        self.before: list[str] = [""] * count
        self.after: list[str] = [""] * count
        self.heading: list[str] = [""] * count
        last = ""
        heads: list[tuple[int, str]] = []
        roles, tags, texts = page.semantics.roles, page.tags, page.semantics.worded
        ends = page.end.tolist()
        for i in range(count):
            self.before[i] = last
            while heads and heads[-1][0] <= i:
                heads.pop()
            self.heading[i] = heads[-1][1] if heads else ""
            if rendered[i] and (roles[i] == "heading" or tags[i] in ("legend", "caption")):
                holder = section_of(page, i)
                heads.append((ends[holder] if holder >= 0 else count, texts[i][:LONGEST]))
            if own[i] and rendered[i]:
                last = own[i][:LONGEST]
        following = [""] * (count + 1)
        for i in range(count - 1, -1, -1):
            following[i] = own[i][:LONGEST] if own[i] and rendered[i] else following[i + 1]
        for i in range(count):
            self.after[i] = following[ends[i]]

    def row(self, index: int) -> str:
        """The text of the row that an element stands in, without its own."""
        page = self.page
        at = row_around(page, index)
        if at < 0 or at == index:
            return ""
        if at not in self._rows:
            self._rows[at] = page.semantics.worded[at]
        own = page.semantics.worded[index]
        whole = self._rows[at]
        return (whole.replace(own, "", 1) if own else whole).strip()[:LONGEST]

    def trail(self, index: int) -> tuple[str, ...]:
        """Ancestors as `tag`, `tag#id` or `tag@role`, nearest first, at most twelve, over the edges of trees."""
        page, known = self.page, self._trails
        asked: list[tuple[int, int]] = []
        at = index
        while at not in known:
            above = int(page.parent[at])
            if above < 0:
                above = page.trees[page.tree[at]].host
            if above < 0:
                known[at] = ()
                break
            asked.append((at, above))
            at = above
        for below, above in reversed(asked):
            known[below] = (self._step(above), *known[above])[:MOST_STEPS]
        return known[index]

    def _step(self, at: int) -> str:
        page = self.page
        own = page.attribute(at, "id")
        if own:
            return f"{page.tags[at]}#{own}"
        given = page.attribute(at, "role")
        return f"{page.tags[at]}@{given}" if given else page.tags[at]
