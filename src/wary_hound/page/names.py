"""Accessible names by the W3C's Accessible Name and Description Computation 1.2, in shadow trees and slots too."""

from __future__ import annotations

from itertools import islice
from typing import TYPE_CHECKING

from wary_hound.errors import LocatorError
from wary_hound.page import roles
from wary_hound.page.cache import Cache
from wary_hound.page.text import Reading, fold

if TYPE_CHECKING:
    from wary_hound.page.arena import Page

LABELABLE = frozenset({"button", "input", "meter", "output", "progress", "select", "textarea"})
NAMING = ("alt", "aria-label", "aria-placeholder", "placeholder", "title")
"""Attributes whose values may be an element's name, beside the value of a field."""
_BUTTON_INPUT = {"submit": "Submit", "reset": "Reset", "button": "", "image": "Submit Query"}
_PLACEHOLDER = frozenset({"input", "textarea"})
_CAPTIONS = {"fieldset": "legend", "table": "caption", "figure": "figcaption"}
_MOST_DEEP = 200
MOST_VISITS = 200_000
MOST_VISITS_AN_ELEMENT = 50


def without_value(page: Page, index: int) -> str:
    """Of a control that is labelled by a label and by itself, what is in it or what holds it (a button that shows what was
    chosen, a field with buttons beside it), the label's text alone, and so of one that opens a list and whose label ends with what
    it shows (*Seat, none*); empty for others. The whole name is another one as soon as something else is chosen."""
    said, shown = page.attribute(index, "aria-label") or "", page.semantics.worded[index]
    if shown and said.endswith(shown) and (page.semantics.roles[index] == "combobox" or page.attribute(index, "aria-haspopup")):
        return said.removesuffix(shown).rstrip(" ,:;-–—")
    if len((page.attribute(index, "aria-labelledby") or "").split()) < 2:
        return ""
    elements = labelling(page, index)
    holding = [one for one in elements if one < index < int(page.end[one]) and page.tags[one] != "label"]
    outside = [one for one in elements if not index <= one < int(page.end[index]) and one not in holding]
    return page.semantics.text[outside[0]] if outside and len(outside) < len(elements) else ""


def labelling(page: Page, index: int) -> list[int]:
    """The elements of its tree to which the `aria-labelledby` of one leads, in the order in which it says them."""
    named = (page.attribute(index, "aria-labelledby") or "").split()
    return [one for name in named for one in page.index.valued("id", name).tolist() if page.tree[one] == page.tree[index]]


def accessible_name(page: Page, index: int) -> str:
    """The name of one element; empty where it has none."""
    return fold(_name(page, index, set(), top=True, referred=False, level=0))


def is_named_by_the_browser(page: Page, index: int) -> bool:
    """Whether a button's words are those that a browser puts on it for want of others (HTML, 4.10.5.1.20): each has its own, in its
    own language."""
    kind = (page.attribute(index, "type") or "").lower()
    if page.tags[index] != "input" or not _BUTTON_INPUT.get(kind):
        return False
    given = page.attribute(index, "alt" if kind == "image" else "value")
    return given is None and page.semantics.name(index) == _BUTTON_INPUT[kind]


def label(page: Page, index: int) -> str:
    """The text of a form control's labels; `aria-labelledby` and `aria-label` count as labels. Empty for others."""
    if page.tags[index] not in LABELABLE and page.semantics.roles[index] not in CONTROL_ROLES:
        return ""
    return fold(_by_reference(page, index, {index}, 0) or _by_attribute(page, index) or _by_label(page, index, set(), 0))


CONTROL_ROLES = frozenset(
    "checkbox combobox listbox menuitemcheckbox menuitemradio radio searchbox slider spinbutton switch textbox".split()
)


class _Work(Cache):
    """How many elements were visited for the names of a page: on hostile ones each name may take them all."""

    def __init__(self, page: Page) -> None:
        super().__init__(page)
        self.left = MOST_VISITS + MOST_VISITS_AN_ELEMENT * len(page)

    def spend(self) -> None:
        self.left -= 1
        if self.left < 0:
            raise LocatorError("the accessible names of this page take too much work: labels are nested in one another")


def labels_of(page: Page) -> dict[int, list[int]]:
    """The `<label>` elements of each form control: by `for`, else around it."""
    index = page.index
    labels: dict[int, list[int]] = {}
    targets = index.attribute_column("for")
    for element in index.by_tag.get("label", []):
        at = int(element)
        if at in targets:
            wanted = [i for i in index.valued("id", targets[at]).tolist() if page.tree[i] == page.tree[at]][:1]
        else:
            inside = (i for i in range(at + 1, int(page.end[at])) if page.tree[i] == page.tree[at] and page.tags[i] in LABELABLE)
            wanted = [*islice(inside, 1)]
        for control in wanted:
            labels.setdefault(control, []).append(at)
    return labels


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
    parts = [_name(page, at, seen | {index}, top=False, referred=True, level=level + 1, labelled=True) for at in labels]
    return " ".join(part for part in parts if part.strip())


def _name(page: Page, index: int, seen: set[int], *, top: bool, referred: bool, level: int, labelled: bool = False) -> str:
    """Steps 2A to 2I of the computation. `seen` stops circles of references; within a label (`labelled`) no other label is
    followed, as no reference is within a reference: else labels of one another would take exponential work."""
    if index in seen or level > _MOST_DEEP:
        return ""
    _Work.of(page).spend()
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
    native = _native(page, index, tag, seen, level, labelled)
    if native is not None and native.strip():
        return native
    if native is None or role in roles.NAME_FROM_CONTENT:
        by_content = (role in roles.NAME_FROM_CONTENT and (tag != "tr" or _in_grid(page, index))) or tag in ("summary", "dt")
        if by_content or referred or not top:
            content = _content(page, index, seen, level, labelled)
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


def _native(page: Page, index: int, tag: str, seen: set[int], level: int, labelled: bool) -> str | None:
    """The name that the host language gives (HTML-AAM section 4); None where it gives no rule."""
    if tag == "input":
        kind = (page.attribute(index, "type") or "text").lower()
        if kind in _BUTTON_INPUT:
            named = page.attribute(index, "alt") if kind == "image" else page.attribute(index, "value")
            by_label = "" if labelled else _by_label(page, index, seen, level)
            return by_label or (named if named is not None else _BUTTON_INPUT[kind])
    if tag in LABELABLE:
        by_label = "" if labelled else _by_label(page, index, seen, level)
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
        captions = [c for c in page.children(index) if page.tags[c] == caption]
        return _name(page, captions[0], seen, top=False, referred=True, level=level + 1, labelled=labelled) if captions else ""
    if tag == "iframe":
        return ""
    return None


def _content(page: Page, index: int, seen: set[int], level: int, labelled: bool) -> str:
    """Name from content: texts and children of the flat tree, in order, with what style sheets put before and after."""
    reading, count = Reading.of(page), len(page)
    parts = [reading.before(index)]
    for node in reading.flat_children(index):
        if node >= count:
            if not page.text_comment[node - count]:
                parts.append(reading.piece(node - count))
        elif page.tags[node] not in ("style", "script", "template"):
            said = _name(page, node, seen, top=False, referred=False, level=level + 1, labelled=labelled)
            parts.append(f" {said} " if reading.apart(node) else said)
    parts.append(reading.after(index))
    return "".join(parts)
