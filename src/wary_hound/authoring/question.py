"""What is asked when locators are ranked: by which model, how far ahead, under which rules."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property

from wary_hound.authoring.rules import Rules
from wary_hound.robustness.model import ChangeModel
from wary_hound.robustness.survival import HORIZON

STOLEN_COSTS = 10.0
"""A wrong match costs this many times what a lost one does, unless told otherwise: it stays green."""
WAYS = 3
"""So many alternatives a proposed locator holds at most, unless told otherwise."""
PURPOSES = ("click", "type", "read", "check")
"""What an element is wanted for."""
OBSERVED = frozenset({"read", "check"})
"""Purposes for which the element's own text is what a test waits to see change."""


@dataclass(frozen=True)
class Question:
    """`releases`: how many releases ahead (1 to 10). `rules` leave out what a team does not want. `stolen_costs` (1 or more):
    what a wrong match costs, where a lost one costs 1. `seed`: of the simulated futures. `ways`: how many alternatives a
    locator may hold (`A else B`); with 1 there are plain ones only. `purpose`: what the element is wanted for, one of PURPOSES
    or empty; what is read or checked is never found by its own text. `use`: weigh one change of use (other data, another state,
    another width or language) besides. Raises ValueError for other numbers and purposes.
    """

    model: ChangeModel = field(default_factory=ChangeModel.shipped)
    releases: int = 1
    rules: Rules = field(default_factory=Rules)
    stolen_costs: float = STOLEN_COSTS
    seed: int = 0
    ways: int = WAYS
    purpose: str = ""
    use: bool = True

    @cached_property
    def weighing(self) -> ChangeModel:
        """The change model that candidates are weighed by."""
        return self.model.in_use(self.releases) if self.use else self.model

    def __post_init__(self) -> None:
        if self.purpose and self.purpose not in PURPOSES:
            raise ValueError(f"an element is wanted for one of {', '.join(PURPOSES)}, not {self.purpose!r}")
        if not 1 <= self.releases <= HORIZON:
            raise ValueError(f"releases must be 1 to {HORIZON}, not {self.releases}")
        if self.ways < 1:
            raise ValueError(f"a locator holds at least 1 way to find its element, not {self.ways}")
        if not 1 <= self.stolen_costs < float("inf"):
            raise ValueError(f"a stolen match costs at least what a lost one does, 1, not {self.stolen_costs}")
