"""Wary Hound: element locators that last, and what became of them.

from wary_hound import Page, explain, rank, relocate, repair

page = Page.read("nights.html")
button = page.find('role{button "Hold this night"}')
best = rank(button)[0]
"""

import importlib
from typing import TYPE_CHECKING, Any

__version__ = "0.29.0"

if TYPE_CHECKING:
    from wary_hound._face import *  # noqa: F403
    from wary_hound._face import __all__ as __all__


def __getattr__(name: str) -> Any:
    """Names of the public face are imported when first asked for, so that a command starts without what it does not use."""
    if name.startswith("_") and name != "__all__":
        raise AttributeError(f"module {__name__!r} has no attribute {name!r}")
    _face = importlib.import_module("wary_hound._face")
    if name == "__all__":
        return _face.__all__
    if name not in _face.__all__:
        raise AttributeError(f"module {__name__!r} has no attribute {name!r}")
    return getattr(_face, name)


def __dir__() -> list[str]:
    return [*globals(), *importlib.import_module("wary_hound._face").__all__]
