"""Accessible names by the W3C's Accessible Name and Description Computation 1.2, in shadow trees and slots too."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from wary_hound.page import roles

if TYPE_CHECKING:
    from wary_hound.page.arena import Page

LABELABLE = frozenset({"button", "input", "meter", "output", "progress", "select", "textarea"})
_BUTTON_INPUT = {"submit": "Submit", "reset": "Reset", "button": "", "image": "Submit Query"}
_PLACEHOLDER = frozenset({"input", "textarea"})
_CAPTIONS = {"fieldset": "legend", "table": "caption", "figure": "figcaption"}
_MOST_DEEP = 200


def accessible_name(page: Page, index: int) -> str:
    """The name of one element; empty where it has none."""
    from wary_hound.page.semantics import fold

    return fold(_name(page, index, set(), top=True, referred=False, level=0))


def label(page: Page, index: int) -> str:
    """The text of a form control's labels; `aria-labelledby` and `aria-label` count as labels. Empty for others."""
    from wary_hound.page.semantics import fold

    if page.tags[index] not in LABELABLE and page.semantics.roles[index] not in _CONTROL_ROLES:
        return ""
    return fold(_by_reference(page, index, set(), 0) or _by_attribute(page, index) or _by_label(page, index, set(), 0))


_CONTROL_ROLES = frozenset(
    "checkbox combobox listbox menuitemcheckbox menuitemradio radio searchbox slider spinbutton switch textbox".split()
)


def labels_of(page: Page) -> dict[int, list[int]]:
    """The `<label>` elements of each form control: by `for`, else around it."""
    index = page.index
    found: dict[int, list[int]] = {}
    targets = index.attribute_column("for")
    for element in index.by_tag.get("label", []):
        at = int(element)
        if at in targets:
            wanted = [i for i in index.valued("id", targets[at]).tolist() if page.tree[i] == page.tree[at]][:1]
        else:
            inside = range(at + 1, int(page.end[at]))
            wanted = [i for i in inside if page.tree[i] == page.tree[at] and page.tags[i] in LABELABLE][:1]
        for control in wanted:
            found.setdefault(control, []).append(at)
    return found


def _by_reference(page: Page, index: int, seen: set[int], level: int) -> str:
    value = page.attribute(index, "aria-labelledby")
    if not value:
        return ""
    parts = []
    for token in value.split():
        for target in page.index.valued("id", token).tolist():
            if page.tree[target] == page.tree[index]:
                parts.append(_name(page, target, seen, top=False, referred=True, level=level + 1))
                break
    return " ".join(part for part in parts if part.strip())


def _by_attribute(page: Page, index: int) -> str:
    return (page.attribute(index, "aria-label") or "").strip()


def _by_label(page: Page, index: int, seen: set[int], level: int) -> str:
    labels = page.semantics.labels_of.get(index, [])
    parts = [_name(page, at, seen | {index}, top=False, referred=True, level=level + 1) for at in labels]
    return " ".join(part for part in parts if part.strip())


def _name(page: Page, index: int, seen: set[int], *, top: bool, referred: bool, level: int) -> str:
    """Steps 2A to 2I of the computation. `seen` stops circles of references."""
    if index in seen or level > _MOST_DEEP:
        return ""
    seen = seen | {index}
    semantics = page.semantics
    if not top and not referred and _hidden(page, index):
        return ""
    if top or not referred:
        by_reference = "" if not top else _by_reference(page, index, seen, level)
        if by_reference:
            return by_reference
    tag, role = page.tags[index], semantics.roles[index]
    if not top and (role in ("textbox", "searchbox", "combobox", "spinbutton", "slider") or tag == "select"):
        return _value(page, index)
    by_attribute = _by_attribute(page, index)
    if by_attribute:
        return by_attribute
    native = _native(page, index, tag, seen, level)
    if native is not None and native.strip():
        return native
    if native is None or role in roles.NAME_FROM_CONTENT:
        by_content = (role in roles.NAME_FROM_CONTENT and (tag != "tr" or _in_grid(page, index))) or tag in ("summary", "dt")
        if by_content or referred or not top:
            content = _content(page, index, seen, level)
            if content.strip():
                return content
    title = (page.attribute(index, "title") or "").strip()
    if title and (role or tag not in ("div", "span")):  # what has no role of its own may not be named
        return title
    if tag in _PLACEHOLDER:
        return (page.attribute(index, "placeholder") or page.attribute(index, "aria-placeholder") or "").strip()
    return ""


def _in_grid(page: Page, index: int) -> bool:
    """Rows of grids are named by their cells, those of plain tables are not (as browsers do, sparing the work)."""
    if page.attribute(index, "role"):
        return True
    table = next((a for a in page.ancestors(index) if page.tags[a] == "table"), None)
    return table is not None and page.semantics.roles[table] in ("grid", "treegrid")


def _hidden(page: Page, index: int) -> bool:
    return not page.semantics.rendered[index] or page.attribute(index, "aria-hidden") == "true"


def _value(page: Page, index: int) -> str:
    """What a control inside a label or link adds to the name: its value."""
    state = page.facts.form.get(index, {}) if page.facts else {}
    if page.tags[index] == "select":
        options = [i for i in range(index + 1, int(page.end[index])) if page.tags[i] == "option"]
        chosen = [options[n] for n in state.get("selected", ())]
        chosen = chosen or [i for i in options if page.attribute(i, "selected") is not None] or options[:1]
        return " ".join(page.semantics.text[i] for i in chosen)
    return str(state.get("value", page.attribute(index, "aria-valuetext") or page.attribute(index, "value") or ""))


def _native(page: Page, index: int, tag: str, seen: set[int], level: int) -> str | None:
    """The name that the host language gives (HTML-AAM section 4); None where it gives no rule."""
    if tag == "input":
        kind = (page.attribute(index, "type") or "text").lower()
        if kind in _BUTTON_INPUT:
            named = page.attribute(index, "alt") if kind == "image" else page.attribute(index, "value")
            by_label = _by_label(page, index, seen, level)
            return by_label or (named if named is not None else _BUTTON_INPUT[kind])
    if tag in LABELABLE:
        by_label = _by_label(page, index, seen, level)
        if by_label:
            return by_label
        return None if tag in ("button", "output") else ""
    if tag in ("img", "area"):
        return page.attribute(index, "alt") or ""
    if tag == "svg":
        titles = [c for c in page.children(index) if page.tags[c] == "title"]
        return page.semantics.raw_text(titles[0]) if titles else None
    caption = _CAPTIONS.get(tag)
    if caption:
        found = [c for c in page.children(index) if page.tags[c] == caption]
        return _name(page, found[0], seen, top=False, referred=True, level=level + 1) if found else ""
    if tag == "iframe":
        return ""
    return None


def _content(page: Page, index: int, seen: set[int], level: int) -> str:
    """Name from content: texts and children of the flat tree, in order, with what style sheets put before and after."""
    styles = page.facts.style if page.facts else {}
    own = styles.get(index)
    parts = [own.before] if own else []
    for node in _flat_children(page, index):
        if node < 0:
            value = page.text_values[-1 - node]
            parts.append(_cased(value, own.case) if own and own.case else value)
        elif page.tags[node] not in ("style", "script", "template"):
            text = _name(page, node, seen, top=False, referred=False, level=level + 1)
            parts.append(f" {text} " if page.semantics.apart(node) else text)
    if own:
        parts.append(own.after)
    return "".join(parts)


def _cased(text: str, case: str) -> str:
    """CSS `text-transform`."""
    if case == "uppercase":
        return text.upper()
    if case == "lowercase":
        return text.lower()
    return re.sub(r"(?<![\w'’])\w", lambda found: found[0].upper(), text) if case == "capitalize" else text


def _flat_children(page: Page, index: int) -> list[int]:
    """Children in the flat tree: elements (index) and texts (-1 - number)."""
    semantics = page.semantics
    if page.tags[index] == "slot":
        assigned = semantics.assigned(index)
        if assigned:
            return assigned
    hosted = page.hosted.get(index)
    if hosted is not None and hosted.kind == "shadow":
        inside = page.index.in_tree[hosted.number]
        nodes = [(int(i), 1, int(i)) for i in inside[page.parent[inside] < 0]]
        texts = page.index.texts_of.get(-1 - hosted.number, [])
    else:
        nodes = [(i, 1, i) for i in page.children(index)]
        texts = page.index.texts_of.get(index, [])
    nodes += [(int(page.text_next[t]), 0, -1 - t) for t in texts]
    return [node for _, _, node in sorted(nodes)]
