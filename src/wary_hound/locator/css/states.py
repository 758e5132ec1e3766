"""Pseudo-classes that follow from the markup and, where known, from the form state in the page's facts."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Iterator

from wary_hound.locator.css.values import Pseudo
from wary_hound.page import Page
from wary_hound.page.arena import HTML

_DISABLEABLE = frozenset({"button", "fieldset", "input", "optgroup", "option", "select", "textarea"})
_LINKS = frozenset({"a", "area"})
_UNWRITABLE_INPUT = frozenset("button checkbox color file hidden image radio range reset submit".split())
_REQUIRABLE = frozenset({"input", "select", "textarea"})
_NUMBER = re.compile(r"-?\d+(?:\.\d+)?(?:[eE][-+]?\d+)?$")


def matching(page: Page, tree: int, wanted: Pseudo) -> Iterable[int]:
    """The elements of a tree in a state, in page order. States that a page as data cannot hold match nothing."""
    test = _STATES.get(wanted.name)
    if test is None:
        return []
    elements = page.index.in_tree[tree].tolist()
    return [i for i in elements if test(page, i, wanted)]


def _kind(page: Page, i: int) -> str:
    return (page.attribute(i, "type") or "text").lower()


def _has(page: Page, i: int, name: str) -> bool:
    return page.attribute(i, name) is not None


def _state(page: Page, i: int, name: str) -> object:
    return page.facts.form.get(i, {}).get(name) if page.facts else None


def is_disabled(page: Page, i: int) -> bool:
    tag = page.tags[i]
    if tag not in _DISABLEABLE or page.namespace[i] != HTML:
        return False
    if _has(page, i, "disabled"):
        return True
    if tag == "option":
        above = int(page.parent[i])
        return above >= 0 and page.tags[above] == "optgroup" and _has(page, above, "disabled")
    if tag == "optgroup":
        return False
    inside = i
    for above in page.ancestors(i):
        if page.tags[above] == "fieldset" and _has(page, above, "disabled"):
            legends = [c for c in page.children(above) if page.tags[c] == "legend"]
            if not (legends and inside == legends[0]):
                return True
        inside = above
    return False


def is_checked(page: Page, i: int) -> bool:
    tag = page.tags[i]
    if tag == "input" and _kind(page, i) in ("checkbox", "radio"):
        known = _state(page, i, "checked")
        return _has(page, i, "checked") if known is None else bool(known)
    if tag == "option":
        select = next((a for a in page.ancestors(i) if page.tags[a] == "select"), None)
        chosen = _state(page, select, "selected") if select is not None else None
        if select is not None and isinstance(chosen, list):
            return i in [_options(page, select)[n] for n in chosen]
        return _has(page, i, "selected") or _first_option(page, i)
    return False


def _options(page: Page, select: int) -> list[int]:
    return [o for o in range(select + 1, int(page.end[select])) if page.tags[o] == "option"]


def _first_option(page: Page, i: int) -> bool:
    """A drop-down with nothing selected shows its first option that is not disabled."""
    select = next((a for a in page.ancestors(i) if page.tags[a] == "select"), None)
    if select is None or _has(page, select, "multiple") or (page.attribute(select, "size") or "1") != "1":
        return False
    options = _options(page, select)
    if any(_has(page, o, "selected") for o in options):
        return False
    return next((o for o in options if not is_disabled(page, o)), -1) == i


def _writable(page: Page, i: int) -> bool:
    tag = page.tags[i]
    if tag == "textarea" or (tag == "input" and _kind(page, i) not in _UNWRITABLE_INPUT):
        return not _has(page, i, "readonly") and not is_disabled(page, i)
    near = next((x for x in [i, *page.ancestors(i)] if _has(page, x, "contenteditable")), None)
    return near is not None and (page.attribute(near, "contenteditable") or "").lower() in ("", "true", "plaintext-only")


def _placeholder_shown(page: Page, i: int) -> bool:
    if page.tags[i] not in ("input", "textarea") or page.attribute(i, "placeholder") is None:
        return False
    if page.tags[i] == "input" and _kind(page, i) not in ("text", "search", "url", "tel", "email", "password", "number"):
        return False
    known = _state(page, i, "value")
    value = known if known is not None else (page.attribute(i, "value") or "")
    if page.tags[i] == "textarea" and known is None:
        value = page.semantics.raw_text(i)
    return value == ""


def _required(page: Page, i: int, wanted: bool) -> bool:
    tag = page.tags[i]
    if tag not in _REQUIRABLE or page.namespace[i] != HTML:
        return False
    can = tag != "input" or _kind(page, i) not in ("hidden", "range", "color", "submit", "image", "reset", "button")
    return (_has(page, i, "required") and can) is wanted


def _range(page: Page, i: int, inside: bool) -> bool:
    if page.tags[i] != "input" or _kind(page, i) not in ("number", "range") or not _writable_kind(page, i):
        return False
    low, high = page.attribute(i, "min"), page.attribute(i, "max")
    limits = [float(x) if x is not None and _NUMBER.match(x) else None for x in (low, high)]
    if limits == [None, None]:
        return False
    known = _state(page, i, "value")
    value = str(known if known is not None else (page.attribute(i, "value") or ""))
    if not _NUMBER.match(value):
        return inside
    number = float(value)
    fits = (limits[0] is None or number >= limits[0]) and (limits[1] is None or number <= limits[1])
    return fits is inside


def _writable_kind(page: Page, i: int) -> bool:
    return not is_disabled(page, i) and not _has(page, i, "readonly")


def _default(page: Page, i: int) -> bool:
    tag = page.tags[i]
    if tag == "option":
        return _has(page, i, "selected")
    if tag == "input" and _kind(page, i) in ("checkbox", "radio"):
        return _has(page, i, "checked")
    if not _submits(page, i):
        return False
    form = next((a for a in page.ancestors(i) if page.tags[a] == "form"), None)
    if form is None:
        return False
    return next((c for c in range(form + 1, int(page.end[form])) if _submits(page, c)), -1) == i


def _submits(page: Page, i: int) -> bool:
    if page.tags[i] == "button":
        return (page.attribute(i, "type") or "submit").lower() not in ("button", "reset")
    return page.tags[i] == "input" and _kind(page, i) in ("submit", "image")


def _indeterminate(page: Page, i: int) -> bool:
    if page.tags[i] == "progress":
        return not _has(page, i, "value")
    if page.tags[i] != "input":
        return False
    if _kind(page, i) == "checkbox":
        return bool(_state(page, i, "indeterminate"))
    name = page.attribute(i, "name")
    if _kind(page, i) != "radio" or not name:
        return False
    form = next((a for a in page.ancestors(i) if page.tags[a] == "form"), None)
    group = [r for r in page.index.valued("name", name).tolist() if page.tree[r] == page.tree[i] and _kind(page, r) == "radio"]
    same = [r for r in group if next((a for a in page.ancestors(r) if page.tags[a] == "form"), None) == form]
    return not any(is_checked(page, r) for r in same)


def _lang(page: Page, i: int, wanted: Pseudo) -> bool:
    near = next((x for x in _over_shadow_edges(page, i) if _has(page, x, "lang")), None)
    if near is None:
        return False
    value = (page.attribute(near, "lang") or "").lower()
    return any(
        bool(value) and (w == "*" or value == w or value.startswith(w.removeprefix("*-") + "-"))
        for w in (word.lower() for word in wanted.arguments)
    )


def _over_shadow_edges(page: Page, i: int) -> Iterator[int]:
    """An element and what is above it, through the hosts of shadow trees: language is inherited that way."""
    at = i
    while True:
        yield at
        above = int(page.parent[at])
        if above < 0:
            tree = page.trees[page.tree[at]]
            if tree.kind != "shadow":
                return
            above = tree.host
        at = above


def _dir(page: Page, i: int, wanted: Pseudo) -> bool:
    for x in [i, *page.ancestors(i)]:
        value = (page.attribute(x, "dir") or "").lower()
        if value in ("ltr", "rtl"):
            return value == wanted.arguments[0].lower()
    return wanted.arguments[0].lower() == "ltr"


def _empty(page: Page, i: int) -> bool:
    texts = page.index.texts_of.get(i, [])
    return not page.children(i) and not any(page.text_values[t] for t in texts)


def _enabled(page: Page, i: int) -> bool:
    return page.tags[i] in _DISABLEABLE and page.namespace[i] == HTML and not is_disabled(page, i)


def _link(page: Page, i: int) -> bool:
    return page.tags[i] in _LINKS and _has(page, i, "href")


_STATES: dict[str, Callable[[Page, int, Pseudo], bool]] = {
    "empty": lambda p, i, _: _empty(p, i),
    "root": lambda p, i, _: p.parent[i] < 0 and p.trees[p.tree[i]].kind != "shadow",
    "link": lambda p, i, _: _link(p, i),
    "any-link": lambda p, i, _: _link(p, i),
    "enabled": lambda p, i, _: _enabled(p, i),
    "disabled": lambda p, i, _: is_disabled(p, i),
    "checked": lambda p, i, _: is_checked(p, i),
    "required": lambda p, i, _: _required(p, i, True),
    "optional": lambda p, i, _: _required(p, i, False),
    "read-write": lambda p, i, _: _writable(p, i),
    "read-only": lambda p, i, _: not _writable(p, i),
    "placeholder-shown": lambda p, i, _: _placeholder_shown(p, i),
    "default": lambda p, i, _: _default(p, i),
    "indeterminate": lambda p, i, _: _indeterminate(p, i),
    "in-range": lambda p, i, _: _range(p, i, True),
    "out-of-range": lambda p, i, _: _range(p, i, False),
    "defined": lambda p, i, _: True,
    "open": lambda p, i, _: p.tags[i] in ("details", "dialog") and _has(p, i, "open"),
    "lang": lambda p, i, w: _lang(p, i, w),
    "dir": lambda p, i, w: _dir(p, i, w),
}  # fmt: skip
