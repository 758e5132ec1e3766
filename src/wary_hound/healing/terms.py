"""The words by which an element goes, in whatever form: an id, a class, an icon, a name, a text.

A redesign says the same in another form: the class `icon-save` of a button becomes its label *Save*, `data-panel="nights"` an id
`nights-tab`. How far the words of one element are among those of another is weighed by how few elements of both pages say each
(Spärck Jones 1972).
"""

from __future__ import annotations

import math
import re
from collections import Counter
from collections.abc import Mapping, Sequence

from wary_hound.healing.fingerprint import LONGEST
from wary_hound.page.index import tokens
from wary_hound.robustness.looks import look_of_class

LONGEST_TEXT = 60
"""What is said at more length is no name."""
MOST = 24
_NAMING = ("id", "name", "aria-label", "title", "alt", "placeholder", "for", "value", "part")
SAME = {
    term: line.split()[0]
    for line in """
save ok apply done submit confirm disk floppy
delete remove trash bin drop discard
close dismiss times xmark
previous prev back backward
next forward
settings preferences options configure configuration gear cog
reload refresh sync
search find magnifier
edit modify pencil
add new create plus
login signin
logout signout
menu hamburger
help question
home house
copy duplicate clone clipboard
upload import
download export
""".strip().split("\n")
    for term in line.split()
}
"""Words that say the same in interfaces, icons and labels alike: written down by us, and weighed by what was learnt."""
_TERM = re.compile(r"[A-Z]+(?![a-z])|[A-Z]?[a-z]+|[^\W\d_A-Za-z]+")


def terms(attributes: Mapping[str, str], icon: str, name: str, text: str) -> str:
    """The words of an element, one a line."""
    said = [attributes[key][:LONGEST] for key in _NAMING if attributes.get(key)]
    said += [value[:LONGEST] for key, value in attributes.items() if key.startswith("data-")]
    said += [one for one in tokens(attributes.get("class", "")) if look_of_class(one) in ("named", "numbered")]
    said.append(attributes.get("href", "").partition("?")[0].rstrip("/").rpartition("/")[2].lstrip("#"))
    said += [one for one in (icon, name, text) if len(one) <= LONGEST_TEXT]
    found = (SAME.get(term.lower(), term.lower()) for one in said for term in _TERM.findall(one) if len(term) > 1)
    return "\n".join(sorted(list(dict.fromkeys(found))[:MOST]))


class Terms:
    """The terms of all elements of two pages, weighed."""

    def __init__(self, old: Sequence[str], new: Sequence[str]) -> None:
        self._counts = tuple(Counter(term for one in page for term in one.split("\n")) for page in (old, new))

    def _weight(self, terms: set[str]) -> float:
        old, new = self._counts
        return math.fsum(1 / (max(old[term], 1) * max(new[term], 1)) ** 0.5 for term in terms)  # in whatever order a set has them

    def alike(self, left: str, right: str) -> float:
        """How much of what the one says with fewer or more common words the other says, too: from 0 to 1."""
        was, now = set(left.split("\n")), set(right.split("\n"))
        both = was & now
        return self._weight(both) / min(self._weight(was), self._weight(now)) if both else 0.0
