"""Why a locator may not last, in words: its weightiest dependencies, and what they look like."""

from __future__ import annotations

from collections.abc import Sequence

from wary_hound.page import Page
from wary_hound.robustness.dependency import Dependency
from wary_hound.robustness.looks import describe

MOST_REASONS = 4
NEGLIGIBLE = 0.012
"""Hazards below this are not worth a word."""

_PLAIN = {
    "tag": "depends on the tag",
    "child": "depends on {n} parent-child steps",
    "descendant": "depends on what stands around it",
    "adjacent": "depends on the element just before it",
    "sibling": "depends on an element before it",
    "ordinal": "is a number among alike matches",
    "row-of": "depends on its row staying one",
    "group-of": "depends on its group staying one",
    "column-of": "depends on its column keeping its head",
    "after": "depends on what comes next to a text",
    "before": "depends on what comes next to a text",
    "inside": "depends on its container",
    "geometry": "depends on where things stand on the screen",
    "shadow": "depends on the shadow tree of its component",
    "frame": "depends on the frame that it is in",
    "state-attribute": "depends on a state that comes and goes",
    "other": "depends on an expression that is hard to foresee",
    "having": "depends on having an attribute",
    "role": "depends on the role",
}
_NAMED = {
    "accessible-name": "name",
    "accessible-name~": "part of the name",
    "content": "text",
    "content~": "part of the text",
    "text": "text",
    "text~": "part of the text",
    "label": "label",
    "label~": "part of the label",
    "id": "id",
    "id~": "beginning of the id",
    "id$": "end of the id",
    "href": "link target",
    "href~": "part of the link target",
    "test-attribute": "test attribute",
}


def reasons(page: Page, hazards: Sequence[tuple[Dependency, float]], element: int) -> tuple[str, ...]:
    """A few short phrases, the weightiest first; what is steady is said too where nothing is weak."""
    by_kind: dict[str, list[tuple[Dependency, float]]] = {}
    for dependency, hazard in hazards:
        family = dependency.base if dependency.kind.startswith("class") else dependency.kind
        by_kind.setdefault(family, []).append((dependency, hazard))
    weighed = sorted(by_kind.items(), key=lambda entry: -sum(h for _, h in entry[1]))
    reasons = []
    for kind, entries in weighed:
        if sum(h for _, h in entries) >= NEGLIGIBLE:
            reasons.append(_phrase(page, kind, [d for d, _ in entries], element))
    if not reasons and weighed:
        steady = [d for d, _ in hazards if d.kind not in ("tag", "role")] or [d for d, _ in hazards]
        reasons.append(f"rests on {_what(steady[0], element)}, which seldom changes")
    return tuple(dict.fromkeys(reasons))[:MOST_REASONS]


def _phrase(page: Page, kind: str, facts: list[Dependency], element: int) -> str:
    if kind == "class":
        odd = [d for d in facts if d.look in ("hashed", "generated")]
        if odd:
            return f"class {odd[0].value} {describe(odd[0].look)}"
        return f"depends on {len(facts)} styling class{'es' if len(facts) > 1 else ''}"
    if kind == "place":
        at = facts[0].element
        alike = int(page.index.siblings_of_type[at])
        more = f", {len(facts)} times" if len(facts) > 1 else ""
        return f"position among {alike} alike sibling{'s' if alike > 1 else ''}{more}"
    if kind == "child":
        steps = len(facts)
        return f"depends on {steps} parent-child step{'s' if steps > 1 else ''}"
    if kind in _PLAIN:
        return _PLAIN[kind] + (f" {facts[0].value.removeprefix('role=')}" if kind in ("tag", "role") and len(facts) == 1 else "")
    looks = describe(facts[0].look)
    what = _what(facts[0], element)
    return f"{what} {looks}" if looks else f"depends on {what}"


def _what(dependency: Dependency, element: int) -> str:
    whose = "" if dependency.element == element else " of another element"
    name = _NAMED.get(dependency.kind)
    if name is None:
        attribute = dependency.value.partition("=")[0]
        name = f"{attribute} attribute" if attribute and dependency.kind != "class" else dependency.kind
        if dependency.kind != dependency.base:
            name = f"part of the {name}"
    return f"its {name}" if not whose else f"the {name}{whose}"
