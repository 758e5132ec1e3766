"""Pseudo-classes that follow from the markup and, where known, from the form state in the page's facts (HTML, section 4.16.3).

A capture notes what the browser itself says of the states of form controls; that goes before what is worked out here.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from functools import cached_property

from wary_hound.locator.css import language
from wary_hound.locator.css.ranges import limits_of, number_of
from wary_hound.locator.css.values import Pseudo
from wary_hound.page import Page
from wary_hound.page.cache import Cache
from wary_hound.page.trees import HTML, SHADOW

_DISABLEABLE = ("button", "fieldset", "input", "optgroup", "option", "select", "textarea")
_READONLY = frozenset("text search url tel email password date month week time datetime-local number".split())
_REQUIRED = frozenset("text search url tel email password date month week time datetime-local number checkbox radio file".split())
_PLACEHOLDING = frozenset("text search url tel email password number".split())
_KINDS = frozenset({*_REQUIRED, "hidden", "range", "color", "submit", "image", "reset", "button"})


def matching(page: Page, tree: int, wanted: Pseudo) -> list[int]:
    """The elements of a tree in a state, in page order. States that a page as data cannot hold match nothing."""
    finder = _STATES.get(wanted.name)
    if finder is None:
        return []
    controls = Controls.of(page)
    trees = page.tree
    return [i for i in sorted(set(finder(controls, tree, wanted))) if trees[i] == tree]


class Controls(Cache):
    """The form controls of a page: kinds, owners, groups, what is disabled. By element index."""

    def __init__(self, page: Page) -> None:
        super().__init__(page)
        self.state = page.facts.form if page.facts else {}
        self.noted = {i: frozenset(str(s["states"]).split()) for i, s in self.state.items() if "states" in s}

    def tagged(self, *tags: str) -> Iterator[int]:
        """HTML's own elements of some tags."""
        page = self.page
        for tag in tags:
            for i in page.index.by_tag.get(tag, []):
                if page.namespace[i] == HTML:
                    yield int(i)

    def has(self, i: int, name: str) -> bool:
        return i in self.page.index.attribute_column(name)

    def kind(self, i: int) -> str:
        """The type of an input."""
        given = (self.page.attribute(i, "type") or "text").lower()
        return given if given in _KINDS else "text"

    def value(self, i: int) -> str:
        """The value that a field holds: typed, or of the markup."""
        known = self.state.get(i, {})
        if "value" in known:
            return str(known["value"])
        if known.get("filled"):
            return "?"
        if self.page.tags[i] == "textarea":
            return self.page.semantics.raw_text(i)
        return self.page.attribute(i, "value") or ""

    # --- owners ------------------------------------------------------------------------------------------------------

    @cached_property
    def owner(self) -> dict[int, int]:
        """The form of each element that is in one, by nesting or by its `form` attribute."""
        page = self.page
        owners: dict[int, int] = {}
        forms = set(self.tagged("form"))
        if forms:
            for i, above in enumerate(page.parent.tolist()):
                near = above if above in forms else owners.get(above)
                if near is not None:
                    owners[i] = near
        for i, name in page.index.attribute_column("form").items():
            target = next((t for t in page.index.valued("id", name).tolist() if page.tree[t] == page.tree[i]), -1)
            if target in forms:
                owners[i] = target
            else:
                owners.pop(i, None)
        return owners

    @cached_property
    def options(self) -> dict[int, list[int]]:
        """The options of each select."""
        chosen: dict[int, list[int]] = {}
        select_of: dict[int, int] = {}
        selects = set(self.tagged("select"))
        if selects:
            page = self.page
            for i, above in enumerate(page.parent.tolist()):
                near = above if above in selects else select_of.get(above)
                if near is not None:
                    select_of[i] = near
                    if page.tags[i] == "option":
                        chosen.setdefault(near, []).append(i)
        return chosen

    # --- disabled ----------------------------------------------------------------------------------------------------

    @cached_property
    def disabled(self) -> frozenset[int]:
        """A control of its own attribute, of a fieldset around it (but not in its first legend), an option of its group."""
        page = self.page
        off = {i for i in self.tagged(*_DISABLEABLE) if self.has(i, "disabled")}
        sets = {i for i in off if page.tags[i] == "fieldset"}
        if sets:
            legends = {next((c for c in page.children(i) if page.tags[c] == "legend"), -1): i for i in sets}
            inside: dict[int, bool] = {}
            for i, above in enumerate(page.parent.tolist()):
                if above in sets and legends.get(i) != above:
                    inside[i] = True
                elif above >= 0 and inside.get(above):
                    inside[i] = True
            off.update(i for i in self.tagged(*_DISABLEABLE) if inside.get(i) and page.tags[i] not in ("option", "optgroup"))
        groups = {i for i in off if page.tags[i] == "optgroup"}
        off.update(i for i in self.tagged("option") if int(page.parent[i]) in groups)
        return frozenset(off)

    # --- checked -----------------------------------------------------------------------------------------------------

    @cached_property
    def groups(self) -> dict[int, list[int]]:
        """The radio buttons of one name in one form, for each of them; one without a name stands alone."""
        groups: dict[tuple[int, int, str], list[int]] = {}
        alone: dict[int, list[int]] = {}
        for i in self.tagged("input"):
            if self.kind(i) == "radio":
                name = self.page.attribute(i, "name")
                if name:
                    groups.setdefault((int(self.page.tree[i]), self.owner.get(i, -1), name), []).append(i)
                else:
                    alone[i] = [i]
        return {i: sorted(group) for group in groups.values() for i in group} | alone

    @cached_property
    def checked(self) -> frozenset[int]:
        """Boxes and radios that are ticked (of a group the last one that says so), and options that are chosen."""
        on: set[int] = set()
        for i in self.tagged("input"):
            if self.kind(i) in ("checkbox", "radio"):
                known = self.state.get(i, {}).get("checked")
                if known if known is not None else self.has(i, "checked"):
                    on.add(i)
        for i, group in self.groups.items():
            if i in on and i != max(k for k in group if k in on):
                on.discard(i)
        inside = {o for options in self.options.values() for o in options}
        on.update(o for o in self.tagged("option") if o not in inside and self.has(o, "selected"))
        for select, options in self.options.items():
            on.update(self._chosen(select, options))
        return frozenset(on)

    def _chosen(self, select: int, options: list[int]) -> list[int]:
        known = self.state.get(select, {}).get("selected")
        if isinstance(known, list):
            return [options[n] for n in known if n < len(options)]
        chosen = [o for o in options if self.has(o, "selected")]
        if self.has(select, "multiple"):
            return chosen
        size = self.page.attribute(select, "size") or ""
        if chosen or (size.isdigit() and int(size) > 1):
            return chosen[-1:]
        return [o for o in options if o not in self.disabled][:1]

    # --- states ------------------------------------------------------------------------------------------------------

    @cached_property
    def defaults(self) -> frozenset[int]:
        """What was chosen from the start, and the button that a form is submitted by."""
        page = self.page
        first = {i for i in self.tagged("option") if self.has(i, "selected")}
        first |= {i for i in self.tagged("input") if self.kind(i) in ("checkbox", "radio") and self.has(i, "checked")}
        met: set[int] = set()
        buttons = [i for i in self.tagged("button", "input") if self._submits(i)]
        for i in sorted(buttons):
            form = self.owner.get(i)
            if form is not None and form not in met:
                met.add(form)
                first.add(i)
        return frozenset(i for i in first if page.namespace[i] == HTML)

    def _submits(self, i: int) -> bool:
        if self.page.tags[i] == "button":
            return (self.page.attribute(i, "type") or "submit").lower() not in ("button", "reset")
        return self.kind(i) in ("submit", "image")

    @cached_property
    def indeterminate(self) -> frozenset[int]:
        """Boxes that a script has made so, radio groups of which none is chosen, progress without a value."""
        open_ = {i for i in self.tagged("progress") if not self.has(i, "value")}
        open_ |= {i for i in self.tagged("input") if self.kind(i) == "checkbox" and self.state.get(i, {}).get("indeterminate")}
        empty: dict[int, bool] = {}
        for i, group in self.groups.items():
            if group[0] not in empty:
                empty[group[0]] = not any(k in self.checked for k in group)
            if empty[group[0]]:
                open_.add(i)
        return frozenset(open_)

    def in_range(self, inside: bool) -> Iterator[int]:
        """Fields with limits whose value keeps to them, or does not. An empty one keeps to them."""
        for i in self.tagged("input"):
            kind = self.kind(i)
            limits = limits_of(kind, self.page.attribute(i, "min"), self.page.attribute(i, "max"))
            if limits is None or i in self.disabled or (self.has(i, "readonly") and kind in _READONLY) or self._listed(i):
                continue
            low, high = limits
            value = number_of(kind, self.value(i))
            if value is None or kind == "range":
                fits = True
            elif kind == "time" and low is not None and high is not None and low > high:
                fits = value >= low or value <= high  # over midnight
            else:
                fits = (low is None or value >= low) and (high is None or value <= high)
            if fits is inside:
                yield i

    def _listed(self, i: int) -> bool:
        return any(self.page.tags[above] == "datalist" for above in self.page.ancestors(i))

    @cached_property
    def writable(self) -> frozenset[int]:
        """Fields that can be written into, and what can be edited."""
        page = self.page
        own = {i for i in self.tagged("textarea") if not self.has(i, "readonly") and i not in self.disabled}
        own |= {
            i for i in self.tagged("input") if self.kind(i) in _READONLY and not self.has(i, "readonly") and i not in self.disabled
        }
        editable = page.index.attribute_column("contenteditable")
        if editable:
            fields = set(self.tagged("input", "textarea"))
            inside: dict[int, bool] = {}
            for i, above in enumerate(page.parent.tolist()):
                said = editable.get(i, "inherit").lower() if page.namespace[i] == HTML else "inherit"
                if said in ("", "true", "plaintext-only"):
                    inside[i] = True
                elif said == "false":
                    inside[i] = False
                else:
                    inside[i] = inside.get(above, False)
                if inside[i] and page.namespace[i] == HTML and i not in fields:
                    own.add(i)
        return frozenset(own)

    def placeholders(self) -> Iterator[int]:
        """Fields that show what they are for, since they are empty."""
        for i in self.tagged("input", "textarea"):
            if self.has(i, "placeholder") and (self.page.tags[i] == "textarea" or self.kind(i) in _PLACEHOLDING):
                value = self.value(i)
                if self.page.tags[i] == "input":
                    value = "" if self.kind(i) == "number" and number_of("number", value) is None and value != "?" else value
                    value = value.replace("\n", "")
                if not value:
                    yield i

    def required(self, wanted: bool) -> Iterator[int]:
        """Fields that must be filled, or need not be."""
        for i in self.tagged("input", "select", "textarea"):
            can = self.page.tags[i] != "input" or self.kind(i) in _REQUIRED
            if (self.has(i, "required") and can) is wanted:
                yield i

    def links(self) -> Iterator[int]:
        page = self.page
        return (i for tag in ("a", "area") for i in page.index.by_tag.get(tag, []) if self.has(int(i), "href"))

    def undefined(self) -> frozenset[int]:
        """Custom elements that no script has defined; on a page that was not captured, none has been."""
        page = self.page
        named = page.index.attribute_column("is")
        custom = (
            i
            for i, tag in enumerate(page.tags)
            if (("-" in tag and tag not in _NOT_CUSTOM) or "-" in named.get(i, "")) and page.namespace[i] == HTML
        )
        if page.facts is not None and page.facts.has_boxes:
            return frozenset(i for i in custom if self.state.get(i, {}).get("defined") is False)
        return frozenset(custom)


_NOT_CUSTOM = frozenset(
    "annotation-xml color-profile font-face font-face-format font-face-name font-face-src font-face-uri missing-glyph".split()
)


Finder = Callable[[Controls, int, Pseudo], Iterable[int]]


def _noted(name: str, worked_out: Callable[[Controls], Iterable[int]]) -> Finder:
    """By what the capture noted where it did, else by what is worked out."""

    def finder(controls: Controls, tree: int, wanted: Pseudo) -> Iterator[int]:
        noted = controls.noted
        yield from (i for i in worked_out(controls) if i not in noted)
        yield from (i for i, states in noted.items() if name in states)

    return finder


def _all(controls: Controls, tree: int) -> list[int]:
    return controls.page.index.in_tree[tree].tolist()


def _but(elements: Finder) -> Finder:
    def finder(controls: Controls, tree: int, wanted: Pseudo) -> list[int]:
        others = set(elements(controls, tree, wanted))
        return [i for i in _all(controls, tree) if i not in others]

    return finder


def _empty(controls: Controls, tree: int, wanted: Pseudo) -> Iterator[int]:
    page = controls.page
    texts, children, values = page.index.texts_of, page.index.children, page.text_values
    for i in _all(controls, tree):
        if i not in children and not any(values[t] for t in texts.get(i, ())):
            yield i


def _root(controls: Controls, tree: int, wanted: Pseudo) -> list[int]:
    page = controls.page
    return [] if page.trees[tree].kind == SHADOW else [i for i in _all(controls, tree) if page.parent[i] < 0]


def _open(controls: Controls, tree: int, wanted: Pseudo) -> Iterator[int]:
    return (i for i in controls.tagged("details", "dialog") if controls.has(i, "open"))


_WRITABLE = _noted("read-write", lambda c: c.writable)
_STATES: dict[str, Finder] = {
    "empty": _empty,
    "root": _root,
    "link": lambda c, _, __: c.links(),
    "any-link": lambda c, _, __: c.links(),
    "enabled": _noted("enabled", lambda c: (i for i in c.tagged(*_DISABLEABLE) if i not in c.disabled)),
    "disabled": _noted("disabled", lambda c: c.disabled),
    "checked": _noted("checked", lambda c: c.checked),
    "required": _noted("required", lambda c: c.required(True)),
    "optional": _noted("optional", lambda c: c.required(False)),
    "read-write": _WRITABLE,
    "read-only": lambda c, tree, w: (i for i in _but(_WRITABLE)(c, tree, w) if c.page.namespace[i] == HTML),
    "placeholder-shown": _noted("placeholder-shown", lambda c: c.placeholders()),
    "default": _noted("default", lambda c: c.defaults),
    "indeterminate": _noted("indeterminate", lambda c: c.indeterminate),
    "in-range": _noted("in-range", lambda c: c.in_range(True)),
    "out-of-range": _noted("out-of-range", lambda c: c.in_range(False)),
    "valid": _noted("valid", lambda c: ()),
    "invalid": _noted("invalid", lambda c: ()),
    "defined": _but(lambda c, _, __: c.undefined()),
    "open": _open,
    "lang": lambda c, tree, wanted: language.speaking(c.page, _all(c, tree), wanted.arguments),
    "dir": lambda c, tree, wanted: language.directed(c.page, _all(c, tree), wanted.arguments[0]),
}  # fmt: skip
