"""Evidence that an element of a new page is the remembered one: a row of similarities for every element at once.

Each feature is between 0 and 1, or NaN where neither side can tell (no text on both, no boxes known).
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
import numpy.typing as npt
from rapidfuzz import fuzz, process

from wary_hound.healing.fingerprint import LONGEST, Context, Fingerprint
from wary_hound.page import Page
from wary_hound.page.cache import Cache
from wary_hound.page.index import tokens
from wary_hound.robustness.looks import look_of_class, look_of_token

Floats = npt.NDArray[np.float64]

FEATURES = (
    "tag", "role", "id", "name-attribute", "href", "value", "type", "test-attribute", "other-attributes", "classes",
    "text", "text-equal", "name", "name-equal", "label", "before", "after", "heading", "row", "trail", "trail-ids",
    "place", "sibling", "box", "shown",
)  # fmt: skip

_INTERACTIVE = frozenset(
    "button link textbox checkbox radio combobox listbox option menuitem tab switch slider spinbutton searchbox".split()
)


class Columns(Cache):
    """What is compared, of all elements of one page; lists in page order."""

    def __init__(self, page: Page) -> None:
        super().__init__(page)
        context, semantics = Context.of(page), page.semantics
        every = range(len(page))
        classes = page.index.attribute_column("class")
        self.texts = [text[:LONGEST] for text in semantics.text]
        self.names = [semantics.name(i)[:LONGEST] for i in every]
        self.labels = [semantics.label(i)[:LONGEST] for i in every]
        self.before = context.before
        self.after = context.after
        self.headings = context.heading
        self.rows = [context.row(i) for i in every]
        self.trails = [context.trail(i) for i in every]
        self.classes = [lasting_classes(classes.get(i, "")) for i in every]


def lasting_classes(value: str) -> frozenset[str]:
    """The classes that do not merely say a state."""
    return frozenset(c for c in tokens(value) if look_of_class(c) != "state")


def evidence(old: Fingerprint, page: Page, among: Sequence[int]) -> Floats:
    """Similarities of the elements `among` to a fingerprint; shape (elements, FEATURES)."""
    columns = Columns.of(page)
    table = np.empty((len(among), len(FEATURES)))
    at = np.asarray(among, np.int64)
    for number, feature in enumerate(FEATURES):
        table[:, number] = _FEATURES[feature](old, columns, at)
    return table


def perfect(old: Fingerprint) -> Floats:
    """The row that an unchanged element would have: 1 for all that is remembered, NaN for what is not."""
    remembered = {
        "role": old.role,
        "id": old.attributes.get("id"),
        "name-attribute": old.attributes.get("name"),
        "href": old.attributes.get("href"),
        "value": old.attributes.get("value"),
        "type": old.attributes.get("type"),
        "test-attribute": any(n.startswith("data-") for n in old.attributes),
        "other-attributes": any(n not in _HANDLED and not n.startswith("data-") for n in old.attributes),
        "classes": lasting_classes(old.attributes.get("class", "")),
        "text": old.text,
        "text-equal": old.text,
        "name": old.name,
        "name-equal": old.name,
        "label": old.label,
        "before": old.before,
        "after": old.after,
        "heading": old.heading,
        "row": old.row,
        "trail-ids": any("#" in s or "@" in s for s in old.trail),
        "box": old.box,
    }
    return np.asarray([1.0 if remembered.get(f, True) else np.nan for f in FEATURES])


def _alike(old: str, new: list[str], at: npt.NDArray[np.int64]) -> Floats:
    """String similarity, 0 to 1; NaN where both are empty, 0 where one is."""
    texts = [new[i] for i in at.tolist()]
    if not old:
        return np.asarray([np.nan if not t else 0.0 for t in texts])
    unique = list(dict.fromkeys(texts))
    scores = process.cdist([old], unique, scorer=fuzz.ratio, dtype=np.float64)[0] / 100
    by_text = dict(zip(unique, scores.tolist(), strict=True))
    return np.asarray([by_text[t] if t else 0.0 for t in texts])


def _equal(old: str, new: list[str], at: npt.NDArray[np.int64]) -> Floats:
    if not old:
        return np.asarray([np.nan if not new[i] else 0.0 for i in at.tolist()])
    return np.asarray([float(new[i] == old) for i in at.tolist()])


def _attribute(name: str) -> Callable[[Fingerprint, Columns, npt.NDArray[np.int64]], Floats]:
    def feature(old: Fingerprint, columns: Columns, at: npt.NDArray[np.int64]) -> Floats:
        column = columns.page.index.attribute_column(name)
        was = old.attributes.get(name, "")
        steady = look_of_token(was) not in ("generated", "hashed")
        new = [column.get(i, "")[:LONGEST] for i in at.tolist()]
        if not was:
            return np.asarray([np.nan if not v else 0.0 for v in new])
        if steady:
            return np.asarray([1.0 if v == was else (0.6 * fuzz.ratio(v, was) / 100 if v else 0.0) for v in new])
        return np.asarray([1.0 if v == was else (np.nan if v else 0.3) for v in new])

    return feature


def _tag(old: Fingerprint, columns: Columns, at: npt.NDArray[np.int64]) -> Floats:
    tags = columns.page.tags
    return np.asarray([float(tags[i] == old.tag) for i in at.tolist()])


def _role(old: Fingerprint, columns: Columns, at: npt.NDArray[np.int64]) -> Floats:
    roles = columns.page.semantics.roles
    kind = old.role in _INTERACTIVE

    def one(role: str) -> float:
        if role == old.role:
            return 1.0 if role else np.nan
        return 0.4 if kind and role in _INTERACTIVE else 0.0

    return np.asarray([one(roles[i]) for i in at.tolist()])


_HANDLED = frozenset({"id", "name", "href", "value", "type", "class", "style"})


def _test_attribute(old: Fingerprint, columns: Columns, at: npt.NDArray[np.int64]) -> Floats:
    names = [n for n in old.attributes if n.startswith("data-")]
    return _shared(old, columns, at, names)


def _other_attributes(old: Fingerprint, columns: Columns, at: npt.NDArray[np.int64]) -> Floats:
    names = [n for n in old.attributes if n not in _HANDLED and not n.startswith("data-")]
    return _shared(old, columns, at, names)


def _shared(old: Fingerprint, columns: Columns, at: npt.NDArray[np.int64], names: list[str]) -> Floats:
    """Share of the attributes that are there with the same value; half for another value."""
    if not names:
        return np.full(len(at), np.nan)
    total = np.zeros(len(at))
    for name in names:
        column = columns.page.index.attribute_column(name)
        was = old.attributes[name]
        total += [
            1.0 if (v := column.get(i)) == was or (v is not None and v[:LONGEST] == was) else 0.4 * (v is not None)
            for i in at.tolist()
        ]
    return total / len(names)


def _classes(old: Fingerprint, columns: Columns, at: npt.NDArray[np.int64]) -> Floats:
    was = lasting_classes(old.attributes.get("class", ""))
    out = []
    for i in at.tolist():
        now = columns.classes[i]
        union = was | now
        out.append(len(was & now) / len(union) if union else np.nan)
    return np.asarray(out)


def _trail(old: Fingerprint, columns: Columns, at: npt.NDArray[np.int64]) -> Floats:
    """How alike the ancestors' tags are, in order (the longest common subsequence over the longer)."""
    was = [step.partition("#")[0].partition("@")[0] for step in old.trail]
    kept: dict[tuple[str, ...], float] = {}
    out = []
    for i in at.tolist():
        steps = columns.trails[i]
        if steps not in kept:
            now = [s.partition("#")[0].partition("@")[0] for s in steps]
            kept[steps] = fuzz.ratio(was, now) / 100 if was or now else 1.0
        out.append(kept[steps])
    return np.asarray(out)


def _trail_ids(old: Fingerprint, columns: Columns, at: npt.NDArray[np.int64]) -> Floats:
    was = {s for s in old.trail if "#" in s or "@" in s}
    if not was:
        return np.full(len(at), np.nan)
    return np.asarray([len(was.intersection(columns.trails[i])) / len(was) for i in at.tolist()])


def _place(old: Fingerprint, columns: Columns, at: npt.NDArray[np.int64]) -> Floats:
    return np.asarray(1 - np.abs(at / len(columns.page) - old.place), np.float64)


def _sibling(old: Fingerprint, columns: Columns, at: npt.NDArray[np.int64]) -> Floats:
    apart = np.abs(columns.page.index.place_of_type[at] - old.sibling)
    return np.asarray(1 / (1 + apart), np.float64)


def _box(old: Fingerprint, columns: Columns, at: npt.NDArray[np.int64]) -> Floats:
    facts = columns.page.facts
    if old.box is None or facts is None or not facts.has_boxes:
        return np.full(len(at), np.nan)
    boxes = facts.boxes[at]
    left, top, width, _height = old.box
    apart = np.hypot(boxes[:, 0] - left, boxes[:, 1] - top)
    with np.errstate(invalid="ignore", divide="ignore"):
        size = np.minimum(boxes[:, 2], width) / np.maximum(np.maximum(boxes[:, 2], width), 1)
        found = np.exp(-apart / 400) * 0.6 + 0.4 * size
    return np.asarray(found, np.float64)


def _shown(old: Fingerprint, columns: Columns, at: npt.NDArray[np.int64]) -> Floats:
    return columns.page.semantics.rendered[at].astype(np.float64)


_FEATURES: dict[str, Callable[[Fingerprint, Columns, npt.NDArray[np.int64]], Floats]] = {
    "tag": _tag,
    "role": _role,
    "id": _attribute("id"),
    "name-attribute": _attribute("name"),
    "href": _attribute("href"),
    "value": _attribute("value"),
    "type": _attribute("type"),
    "test-attribute": _test_attribute,
    "other-attributes": _other_attributes,
    "classes": _classes,
    "text": lambda old, c, at: _alike(old.text, c.texts, at),
    "text-equal": lambda old, c, at: _equal(old.text, c.texts, at),
    "name": lambda old, c, at: _alike(old.name, c.names, at),
    "name-equal": lambda old, c, at: _equal(old.name, c.names, at),
    "label": lambda old, c, at: _alike(old.label, c.labels, at),
    "before": lambda old, c, at: _alike(old.before, c.before, at),
    "after": lambda old, c, at: _alike(old.after, c.after, at),
    "heading": lambda old, c, at: _alike(old.heading, c.headings, at),
    "row": lambda old, c, at: _alike(old.row, c.rows, at),
    "trail": _trail,
    "trail-ids": _trail_ids,
    "place": _place,
    "sibling": _sibling,
    "box": _box,
    "shown": _shown,
}
"""One entry a feature: a new one is a function and a line here, and a new learning of the weights."""
