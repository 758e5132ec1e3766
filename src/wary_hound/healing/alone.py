"""What an element is called, or says, as nothing else on its page, or nothing else of its kind."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence

from wary_hound.healing.said import if_figure

INTERACTIVE = frozenset(
    "button link textbox checkbox radio combobox listbox option menuitem tab switch slider spinbutton searchbox".split()
)
CONTROLS = frozenset("a button input option select summary textarea".split())
"""Tags of the same."""
LONGEST_SAID = 80
MOST_AROUND = 4
"""So far up an element may be called what one in it is."""


def is_control(tag: str, role: str) -> bool:
    """Whether people work with what has this tag and role."""
    return role in INTERACTIVE or tag in CONTROLS


def called(tag: str, role: str, name: str, text: str) -> str:
    """What people call what they work with: its name, or its text; of other elements, and for figures, nothing."""
    said = if_figure(name or text, False)
    return f"called {said}" if said and is_control(tag, role) else ""


def soles(above: Sequence[int], names: Sequence[str], texts: Sequence[str], words: Sequence[str], nested: bool) -> list[str]:
    """What each element is called, or says, that no other on its page is called or says. `above`: parents, -1 for none; `names`:
    what each is `called`; `words`: their texts where these are no figures.

    Where one in it, or what holds it, says the same, either could be meant: of these nothing, unless they count as one (`nested`).
    """
    inner = [above[i] >= 0 and texts[above[i]] == text for i, text in enumerate(texts)]
    holding = {above[i] for i in range(len(texts)) if inner[i]}
    says = [f"says {text}" if text and (nested or (not inner[i] and i not in holding)) else "" for i, text in enumerate(words)]
    outermost = [name if not nested or name not in (names[at] for at in _around(above, i)) else "" for i, name in enumerate(names)]
    often = Counter(outermost) + Counter(f"says {text}" for i, text in enumerate(texts) if not inner[i])
    return [next((said for said in ways if said and often[said] == 1), "") for ways in zip(names, says, strict=True)]


def of_its_kind(kinds: Sequence[str], roles: Sequence[str], said: Sequence[str]) -> list[str]:
    """What each element with a role says as no other of its kind on its page; figures, and what goes on and on, say nothing."""
    whole = [
        f"{kind} {text}" if role and len(text) <= LONGEST_SAID and if_figure(text, False) else ""
        for kind, role, text in zip(kinds, roles, said, strict=True)
    ]
    often = Counter(whole)
    return [one if often[one] == 1 else "" for one in whole]


def _around(above: Sequence[int], index: int) -> Iterator[int]:
    at = above[index]
    for _ in range(MOST_AROUND):
        if at < 0:
            return
        yield at
        at = above[at]
