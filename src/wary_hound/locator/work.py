"""How much work one evaluation may be: counted in what is visited, not by the clock, so that it ends alike on every machine."""

from __future__ import annotations

from wary_hound.errors import LocatorError

MOST_WORK = 1_500_000


class Work:
    """Counts what an evaluation visits, and gives it up with a LocatorError when that is too much."""

    most = MOST_WORK

    def __init__(self, what: str) -> None:
        self.what = what
        self.done = 0

    def spend(self, count: int) -> None:
        """Count some visits."""
        self.done += count
        if self.done > self.most:
            raise LocatorError(f"the {self.what} was given up after {self.most:,} visited nodes: begin it nearer to the element")
