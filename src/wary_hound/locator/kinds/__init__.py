"""The strategies, one module each. A new one is a module here and a line in the table."""

from wary_hound.locator.kinds.css import CSS
from wary_hound.locator.kinds.kind import Counted, Kind, Part, Scope
from wary_hound.locator.kinds.label import LABEL
from wary_hound.locator.kinds.role import ROLE
from wary_hound.locator.kinds.text import TEXT
from wary_hound.locator.kinds.xpath import XPATH

KINDS: dict[str, Kind] = {kind.name: kind for kind in (CSS, XPATH, ROLE, LABEL, TEXT)}

__all__ = ["KINDS", "Counted", "Kind", "Part", "Scope"]
