"""What in a page names nothing: attributes that are there by chance, signs to be seen and not read, hints and states in names."""

# ruff: noqa: E501 (tables)

from __future__ import annotations

import re
import unicodedata

from wary_hound.page import Page
from wary_hound.page.index import tokens
from wary_hound.robustness.data import is_amount, is_count
from wary_hound.robustness.looks import CAMEL, is_sign, look_of_token

ACCIDENTAL = frozenset(
    """pattern autocapitalize autocorrect autocomplete spellcheck dir slot min max step fill stroke stroke-width stroke-linecap stroke-linejoin fill-rule clip-rule unselectable width height tabindex lang
    draggable cellpadding cellspacing border align valign bgcolor viewbox focusable preserveaspectratio xmlns maxlength minlength size
    rows cols wrap loading decoding crossorigin referrerpolicy translate enterkeyhint inputmode part exportparts nonce integrity charset
    font-family font-size font-style font-weight font-variant letter-spacing text-anchor text-decoration text-rendering textlength
    dominant-baseline alignment-baseline baseline-shift opacity fill-opacity stroke-opacity stroke-dasharray stroke-dashoffset
    stroke-miterlimit vector-effect shape-rendering image-rendering clip-path mask filter stop-color stop-opacity offset
    gradientunits gradienttransform patternunits marker-start marker-mid marker-end pointer-events cursor overflow visibility
    accesskey data-hotkey data-shortcut data-keyboard-shortcut aria-keyshortcuts media sizes srcset d points x y x1 x2 y1 y2 cx cy r rx ry transform version language async defer novalidate target rel
    accept-charset enctype method contenteditable aria-live aria-atomic aria-relevant aria-haspopup aria-orientation aria-level aria-multiselectable
    aria-autocomplete aria-modal aria-required aria-sort aria-multiline aria-posinset aria-setsize aria-rowindex aria-colindex aria-rowcount aria-colcount aria-valuemin aria-valuemax datetime frameborder marginwidth marginheight scrolling allowfullscreen hidden open inert popover colspan rowspan scope itemprop itemscope itemtype
    theme variant appearance color colour shape density elevation outline outlined raised filled pill circle dense position""".split()
)
"""Attributes that nobody wrote to name an element: locators do not rest on them. The last say what a component looks like, as styling classes do."""
NAMING = frozenset("id name title alt placeholder aria-label label href src value for role type".split())
"""Attributes that say something by their value alone: empty, they say nothing."""
_LEADING = frozenset("href src action formaction xlink:href aria-label title alt placeholder value".split())
"""Attributes that say something by signs: `/` leads home, `×` closes."""
REFLECTED = ("ng-reflect-", "_ng", "data-react")
"""How attributes begin that a framework writes for itself while one develops."""
_HINT = re.compile(
    r": |[\[(](?:required|optional|mandatory)[\])]|, ?(?:alt|ctrl|cmd|meta|shift|choose|select|pick|none|not)\b|[\[(](?:(?:alt|ctrl|cmd|meta|shift|[\^⌘⌥⇧])|[a-z](?:, ?[a-z])*[)\]]$)",
    re.I,
)
_TURNED = re.compile(
    r"(?:^|=)(?:show|hide|expand|collapse|(?:un)?mute|(?:un)?lock|(?:un)?pin|(?:un)?follow|(?:un)?star|enable|disable|play|pause|maximi[sz]e)\b"
    r"|\b(?:(?:un)?locked|(?:un)?muted|(?:un)?starred|(?:un)?followed|following|(?:un)?subscribed|liked|saved|expanded|collapsed|hidden|shown"
    r"|unselected|unchecked)$"
    r"|(?:^|=)not (?:active|current|selected|checked)\b|(?:^|=)(?:active|current|selected) (?:state|step|item)$"
    r"|\bsort(?:ed)? (?:asc|desc)(?:ending)?\b"
    r"|, ?(?:free|taken|available|unavailable|sold(?: out)?|booked|reserved|occupied|vacant|selected|yours|checked|disabled|on|off|open"
    r"|closed|online|offline|read|unread|empty|full)$",
    re.I,
)
_PARTS = frozenset(
    """bdi box body button btn cell check checkbox col column combobox container content control desc description dialog dropdown el error
    field footer form group header helper hint host icon image img inner inp input item label li link list listbox menu message modal
    option outer overlay panel popover popup prefix radio ripple root row select suffix tab text textbox title toggle tooltip trigger ul value view wrap wrapper""".split()
)
_TYPED = frozenset("text search url tel email password number date time month week datetime-local range color".split())
_WRITTEN = re.compile(r"[`<>{}]| [=!]=? ")
"""What programs write for one another: *`id` = 12*."""
_SENT = re.compile(r"[\w.\[\]-]+=[^&\s]*&[\w.\[\]-]+=")
"""What one program sends to another: `db=nights&table=stars`."""
_SPOKEN = re.compile(r"\w.*[.!?…]\Z", re.S)
"""A message: `data-confirm="Really?"`."""
_HINTING = re.compile(r"data-.*(?:title|tip|label|placeholder)")
_LIGATURE = re.compile(r"[a-z0-9]+(?:_[a-z0-9]+)*")
_ICONS = re.compile(r"(?:^|[-_])(?:icons?|symbols)(?:$|[-_])")
"""What a font is told to draw an icon by, and what the element is called that has it."""
_JOINERS = "\u200c\u200d"
_READ = re.compile(r"(?<=[^\W\d_])/(?=[^\W\d_])|(?<!\S)\+(?=\d)")
"""A stroke between two words (*On/Off*) is read, and so is a plus before a figure (*+44*)."""
_SIGNS = frozenset("<>¶§•·›»«‹†‡…⋮☰×✕✖▾▴▼▲◀▶←→↑↓+−–—|/*")


def says_nothing(name: str, value: str, tag: str, kind: str) -> bool:
    """Whether an attribute of an element is accidental, made up by a build (`data-v-7f3c21`), leads nowhere (`href="#"`), holds
    letters that nobody sees (zero-width spaces), no letter at all (`data="-"`), what programs send to one another, or a message
    (`data-confirm="Really?"`); or is test data: what a text field holds at first; or what a box to tick has where nobody gave it a
    value (HTML, 4.10.5.1.15)."""
    return (
        name.lower() in ACCIDENTAL  # SVG writes some in both cases
        or (name in NAMING and not value)
        or (name == "role" and value in ("presentation", "none", "generic"))
        or (name in ("href", "src") and (value in ("#", "") or value.lower().startswith(("javascript:", "about:"))))
        or value.startswith(("[object ", "{", "["))  # data for a program
        or _has_unseen(value)
        or (name not in _LEADING and value != "" and is_sign(value))
        or _SENT.match(value) is not None
        or (name.startswith("data-") and _SPOKEN.fullmatch(value) is not None and not _HINTING.fullmatch(name))
        or name.endswith("placement")
        or name.startswith(REFLECTED)
        or look_of_token(name) in ("hashed", "generated")
        or (name == "value" and (tag == "textarea" or (tag == "input" and (kind or "text") in _TYPED)))
        or (name == "value" and value == "on" and kind in ("checkbox", "radio"))
        or (name == "value" and _WRITTEN.search(value) is not None)
    )


def is_turned(name: str) -> bool:
    """Whether a name says what a click turns into its opposite (`Collapse row`), or in which state something is (`Seat 1, free`)."""
    return _TURNED.search(name) is not None


def gives_a_hint(name: str) -> bool:
    """Whether a name goes on to say what would happen, which keys do the same, or that a field must be filled in."""
    return _HINT.search(name) is not None


def says_a_state(name: str) -> bool:
    """Whether a name says what a click turns into its opposite, or how much of something there is: another one has it tomorrow."""
    return is_turned(name) or is_count(name) or is_amount(name)


def names_a_part(ending: str) -> bool:
    """Whether the end of a name says only which part of a component bears it (`-label`, `_input`), as kits call their parts."""
    return all(word.lower() in _PARTS for word in CAMEL.findall(ending))


def is_decoration(text: str) -> bool:
    """Whether a text is, or holds, signs that are there to be seen and not read, or not even seen."""
    said = _READ.sub("", text)
    return any(letter in _SIGNS or unicodedata.category(letter) in ("Co", "So") for letter in said) or _has_unseen(text)


def is_drawn(page: Page, index: int) -> bool:
    """Whether what an element says is the name by which a font draws an icon (`more_vert`), and not a word that anybody reads."""
    said = (page.tags[index], *tokens(page.attribute(index, "class") or ""))
    return _LIGATURE.fullmatch(page.semantics.own_text[index]) is not None and any(map(_ICONS.search, said))


def unmarked(label: str) -> str:
    """A label without the mark that its field must be filled in: *Visitor* of `Visitor *`."""
    return label.strip(" *✱＊∗†\xa0")


def without_icons(text: str) -> str:
    """A text without what a font shows as icons before it and behind it (Unicode's private use)."""
    first, last = 0, len(text)
    while last > first and unicodedata.category(text[last - 1]) == "Co":
        last -= 1
    while first < last and unicodedata.category(text[first]) == "Co":
        first += 1
    return text[first:last].strip()


def _has_unseen(text: str) -> bool:
    """Whether it holds a letter that is not seen, and that no script needs to join others or to keep them apart."""
    return not text.isascii() and any(unicodedata.category(letter) == "Cf" for letter in text if letter not in _JOINERS)
