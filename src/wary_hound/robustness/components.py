"""Components: the parts of a page that a team rewrites as one (a form, a dialog, a navigation, a custom element)."""

from __future__ import annotations

from wary_hound.page import Page
from wary_hound.page.cache import Cache
from wary_hound.page.trees import SHADOW

_ROLES = frozenset(
    """alertdialog article banner complementary contentinfo dialog form grid list listbox menu menubar navigation radiogroup region
    search table tablist tabpanel toolbar tree""".split()
)


class _Components(Cache):
    """The component of each element of a page."""

    def __init__(self, page: Page) -> None:
        super().__init__(page)
        roles, hosts = page.semantics.roles, [tree.host for tree in page.trees]
        self.heads: list[int] = []
        for index, (parent, tree) in enumerate(zip(page.parent.tolist(), page.tree.tolist(), strict=True)):
            if roles[index] in _ROLES or "-" in page.tags[index]:
                self.heads.append(index)
            elif parent >= 0:
                self.heads.append(self.heads[parent])
            elif hosts[tree] >= 0 and page.trees[tree].kind == SHADOW:
                self.heads.append(self.heads[hosts[tree]])
            else:
                self.heads.append(-1 - tree)


def components_of(page: Page) -> list[int]:
    """For each element, the element that heads its component; -1 - tree where only the document or shadow tree is around it.

    A component is what has a role of a landmark, a dialog or a collection, or is a custom element (its shadow tree with it).
    """
    return _Components.of(page).heads
