"""How pages change: the change model, simulation, survival."""

from wary_hound.robustness.model import ChangeModel

__all__ = ["ChangeModel"]
