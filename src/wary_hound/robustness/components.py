"""Components: the parts of a page that a team rewrites as one (a form, a dialog, a navigation, a custom element)."""

from __future__ import annotations

from wary_hound.page import Page

_ROLES = frozenset(
    """alertdialog article banner complementary contentinfo dialog form grid list listbox menu menubar navigation radiogroup region
    search table tablist tabpanel toolbar tree""".split()
)


def components_of(page: Page) -> list[int]:
    """For each element, the element that heads its component; -1 - tree where only the document or shadow tree is around it.

    A component is what has a role of a landmark, a dialog or a collection, or is a custom element (its shadow tree with it).
    """
    memo: list[int] | None = page.memo.get("components")
    if memo is not None:
        return memo
    roles, found = page.semantics.roles, []
    hosts = [tree.host for tree in page.trees]
    for index, (parent, tree) in enumerate(zip(page.parent.tolist(), page.tree.tolist(), strict=True)):
        if roles[index] in _ROLES or "-" in page.tags[index]:
            found.append(index)
        elif parent >= 0:
            found.append(found[parent])
        else:
            found.append(found[hosts[tree]] if hosts[tree] >= 0 and page.trees[tree].kind == "shadow" else -1 - tree)
    page.memo["components"] = found
    return found
