"""What the layers keep of a page, so that nothing is computed twice: one class a layer, typed and bounded."""

from __future__ import annotations

from typing import TYPE_CHECKING, Self, TypeVar

if TYPE_CHECKING:
    from wary_hound.page.arena import Page

Key = TypeVar("Key")
Value = TypeVar("Value")


class Cache:
    """Base of the caches: a subclass names what it keeps in attributes, and is asked for by `Subclass.of(page)`."""

    def __init__(self, page: Page) -> None:
        self.page = page

    @classmethod
    def of(cls, page: Page) -> Self:
        """The one cache of this class that a page has, made when first asked for."""
        kept = page.caches.get(cls)
        if kept is None:
            kept = page.caches[cls] = cls(page)
        assert isinstance(kept, cls)
        return kept


class Bounded(dict[Key, Value]):
    """A table that forgets its oldest entries when it would hold more than `most`."""

    def __init__(self, most: int) -> None:
        super().__init__()
        self.most = most

    def __setitem__(self, key: Key, value: Value) -> None:
        if len(self) >= self.most and key not in self:
            del self[next(iter(self))]
        super().__setitem__(key, value)

    def __reduce__(self) -> tuple[type[Bounded[Key, Value]], tuple[int]]:
        return Bounded, (self.most,)  # empty: what it holds can be found again
