"""Roles, names and labels as conditions of XPath 1.0: by HTML's own mapping (HTML-AAM 1.0, Accessible Name Computation 1.2), as
far as markup alone tells them.

What XPath cannot know is left out, so that a condition finds less rather than something else: what is hidden, what style sheets
add or change, names of several references or of controls within.
"""

from __future__ import annotations

from wary_hound.locator.values import TextQuery
from wary_hound.locator.xpath.printing import xpath_string
from wary_hound.page.roles import BY_INPUT, BY_TAG, NAME_FROM_CONTENT

UNSAID = (
    "whether it is shown (a hidden one counts)",
    "words that style sheets add, hide or change",
    "names made of several references, or of controls within",
)
"""What a condition by role, name or label leaves out, for people."""
_GRID = 'ancestor::table[1][@role="grid" or @role="treegrid"]'
_ABOVE = " or ".join(f"ancestor::{tag}" for tag in ("article", "aside", "main", "nav", "section"))
_HEADS_ROW = '@scope="row" or @scope="rowgroup" or not(@scope) and ../td'
_MORE: dict[str, tuple[str, ...]] = {
    "link": ("self::a[@href]", "self::area[@href]"),
    "image": ('self::img[not(@alt="")]',),
    "region": ("self::section[@aria-label or @aria-labelledby or @title]",),
    "combobox": ("self::select[not(@multiple or @size>1)]", "self::input[@list]"),
    "listbox": ("self::select[@multiple or @size>1]",),
    "banner": (f"self::header[not({_ABOVE})]",),
    "contentinfo": (f"self::footer[not({_ABOVE})]",),
    "cell": (f"self::td[not({_GRID})]",),
    "gridcell": (f"self::td[{_GRID}]",),
    "rowheader": (f"self::th[{_HEADS_ROW}]",),
    "columnheader": (f"self::th[not({_HEADS_ROW})]",),
}
"""Roles of tags that hang on more than the tag."""
_OTHER_NAMES = {"image": "img", "none": "presentation"}
_FIELDS = frozenset({"checkbox", "combobox", "listbox", "radio", "searchbox", "slider", "spinbutton", "switch", "textbox"})
_CAPTIONED = {"table": "caption", "group": "legend", "figure": "figcaption"}
_FORM = "self::input or self::select or self::textarea"


def role_test(role: str) -> str:
    """The condition that an element has a role: given, or its tag's own."""
    given = " or ".join(f'@role="{name}"' for name in (role, _OTHER_NAMES.get(role)) if name)
    own = [*_tags(role), *_inputs(role), *_MORE.get(role, ())]
    if not own:
        return given
    either = " or ".join(own)
    return f"{given} or not(@role) and {either if len(own) == 1 else f'({either})'}"


def _tags(role: str) -> list[str]:
    # SVG and MathML have a namespace of their own, which a name in XPath 1.0 does not find
    return [f'local-name()="{tag}"' if tag in ("svg", "math") else f"self::{tag}" for tag, own in BY_TAG.items() if own == role]


def _inputs(role: str) -> list[str]:
    kinds = [kind for kind, own in BY_INPUT.items() if own == role]
    if not kinds:
        return []
    types = " or ".join(f'@type="{kind}"' for kind in kinds)
    if role != "textbox":
        return [f"self::input[{types}]" if role == "button" or len(kinds) == 1 else f"self::input[({types})]"]
    return [f"self::input[not(@type) or {types}][not(@list)]"]


def name_test(role: str, name: TextQuery) -> str:
    """The condition that an element of a role has an accessible name."""
    sources = []
    if role in NAME_FROM_CONTENT and role not in ("checkbox", "radio"):
        reads = _is("normalize-space()", name)
        if role == "row":
            reads = f"(not(self::tr) or {_GRID}) and {reads}"
        sources.append(f"not({_FORM}) and {reads}" if role in ("button", "option") else reads)
        pictured = f".//img[{_is('@alt', name)}] or not(.//img) and {_is('@title', name)}"
        sources.append(f'normalize-space()="" and not(@alt) and ({pictured})')
    if role == "button":
        sources.append(f"self::input and {_is('@value', name)}")
        sources.extend(f'self::input[@type="{kind}"][not(@value)]' for kind in ("submit", "reset") if name.fits(kind.capitalize()))
    if role in _FIELDS:
        sources.append(_labelled("normalize-space()", name))
    if role == "term":
        sources.append(f"self::dt and {_is('normalize-space()', name)}")
    if role == "image":
        sources.append(_is("@alt", name))
    if role in _CAPTIONED:
        sources.append(f"{_CAPTIONED[role]}[{_is('normalize-space()', name)}]")
    return _by_attribute(name, "normalize-space()", " or ".join(sources) or _is("@title", name))


def label_test(label: TextQuery) -> str:
    """The condition that an element is a form control with a label; the colon or asterisk at a label's end does not count."""
    plain = not any(sign in label.text for sign in ":*")
    reads = 'normalize-space(translate(., ":*", ""))' if plain else "normalize-space()"
    return f"({_FORM}) and ({_by_attribute(label, reads, _labelled(reads, label))})"


def _labelled(reads: str, text: TextQuery) -> str:
    said = _is(reads, text)
    around = f"ancestor::label[not(@for)][{said}]"
    # The options of a select in its label are no words of the label.
    beside = f"self::select and ancestor::label[not(@for)][text()[{said}]]"
    return f"@id=//label[{said}]/@for or {around} or {beside}"


def _by_attribute(text: TextQuery, reads: str, otherwise: str) -> str:
    """References come before `aria-label`, and that before what else names an element."""
    referred = f"@aria-labelledby=//*[{_is(reads, text)}]/@id"
    return f"{referred} or not(@aria-labelledby) and ({_is('@aria-label', text)} or not(@aria-label) and ({otherwise}))"


def _is(expression: str, text: TextQuery) -> str:
    quoted = xpath_string(text.text)
    return f"contains({expression}, {quoted})" if text.part else f"{expression}={quoted}"
