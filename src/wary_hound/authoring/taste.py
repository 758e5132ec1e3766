"""Taste: how engineers weigh locators that last alike, and what they do not take for a locator at all. All of it in tables.

Survival decides; taste decides between candidates whose intervals overlap. What is weak is offered only where nothing else is
unique, is marked, and never stands behind `else`: when its element has gone, it catches whatever is left.
"""

# ruff: noqa: E501 (tables)

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from functools import lru_cache

import numpy as np

from wary_hound.authoring.targets import CONTROLS
from wary_hound.locator.values import Locator
from wary_hound.page import Page
from wary_hound.page.index import tokens
from wary_hound.robustness.data import is_amount, is_count, is_moment
from wary_hound.robustness.dependence import COMMON, IDENTIFYING, SIGNED, Dependency, base_of, is_key
from wary_hound.robustness.looks import CAMEL, PASSED_ON, look_of_token
from wary_hound.robustness.model import RELATIONS
from wary_hound.robustness.tabular import NAMES

WEIGHTS: dict[str, float] = {
    "test-attribute": 0.0, "id": 0.0, "name": 0.3, "label": 0.4, "accessible-name": 0.4, "aria-label": 0.5, "for": 0.6, "data": 0.8,
    "placeholder": 0.9, "text": 0.9, "content": 1.0, "alt": 1.0, "title": 1.1, "href": 1.3, "value": 1.3, "src": 1.6, "reference": 1.8,
    "aria": 1.8, "attribute": 2.0, "class": 2.0, "type": 2.2, "having": 2.0, "role": 0.2, "tag": 0.2, "row-of": 0.5, "column-of": 0.6,
    "group-of": 0.7, "inside": 0.5, "descendant": 0.3, "child": 0.6, "sibling": 0.8, "adjacent": 0.9, "after": 1.0, "before": 1.2,
    "geometry": 1.6, "state-attribute": 2.5, "place": 3.0, "ordinal": 3.5, "other": 2.0, "shadow": 0.0, "frame": 0.0,
}  # fmt: skip
"""What each fact that a locator rests on weighs against it: what a person wrote to name the element weighs least."""
PART = 0.5
"""A part of a value weighs so much more than the whole."""
LOOKS = {
    "data": 3.0,
    "counting": 3.0,
    "generated": 2.0,
    "hashed": 2.5,
    "numbered": 0.7,
    "number": 1.5,
    "utility": 1.5,
    "state": 1.5,
    "long": 0.6,
}
"""What the look of a value weighs besides."""
QUERY = 1.5
"""What it weighs that an address goes on with a query: that says the state of the page as much as where it leads; and each further
part of it."""
LENGTH = 0.01
"""What a character weighs: short before long."""
ESCAPED = 1.5
"""What it weighs that an id or a class begins with a figure, which CSS writes as `#\\31 207`."""
SENTENCE, MOST_SAID = 2.5, 5
"""What it weighs that a row is told by a whole sentence, or by more words than so many: it has a title, mostly; ..."""
FIGURE = 2.0
"""... or by a mere figure."""
COUNTED_ROW = 1.5
"""What it weighs that it is told by a date or a count (*20 Sep*, *2 adults*): it has a title, mostly."""
AMOUNT = 2.5
"""What it weighs that a text is a price, a size or a duration: nobody tells a row by it where something else does."""
CELL = 1.0
"""What it weighs that a cell is told by its role: people say `//td[.="Vega"]`, and whether a table is a grid is another matter."""
OUTLINED = 1.5
"""What it weighs that a control is told by how its icon is drawn."""
FAMILY = 3.0
"""What it weighs that a part of an id, or of a name, is that of a family of elements (`[id^="line-"]`): it tells no more than a class."""
DIGESTED, BUILT = "class~", 1.5
"""What a class weighs besides to which a build has put a digest (`[class*="plain__"]`): it lasts as long as the build calls it so."""
CALLED = 1.5
"""So much less weighs an attribute that is a name by its own name (`formcontrolname="visitor"`)."""
_CALLING = re.compile(r"(?:[a-z-]*name|(?:ng|v|x|wire)[-:]model(?:\.[a-z.]+)?|field|field-(?:id|key|label))=")
OTHERWISE = 0.4
"""What other `data-*` attributes weigh besides."""
SIGN = 3.0
"""What it weighs that a name is a mere sign (*+*, *×*), for which an icon may come."""
HINTED = 3.0
"""What it weighs that a name goes on to say what would happen (`Base: activate to sort`) or which keys do the same (`Bold [Ctrl-B]`):
it says something else when it has, or on another machine."""
TURNED = 2.0
"""What it weighs that a name says what a click turns into its opposite (`Collapse row`, `Mute`, `gate unlocked`)."""
PLACED = 2.5
"""What it weighs that only the part of the page says which is meant (`footer p`): where the element says something itself, that."""
AROUND = 1.0
"""What it weighs that an element around is told by its tag alone (`ul a`), which is no part of a page of which there is one."""
TAGGED = 1.0
"""What it weighs that of the element itself no more is said than its tag, and an id or a class says where (`#lines a`): where it
has a name, that. Not of fields, which say nothing themselves, nor of what a component is made of and that has no name of its own."""
_NAMES = frozenset({"id", "test-attribute"})
_BOXES = frozenset("div section article form main aside header footer nav".split())
_CELLS = frozenset({"cell", "gridcell"})
_WRAPPING = CONTROLS | _CELLS | frozenset("columnheader rowheader listitem term definition status alert".split())
"""Roles of what holds words, and may come to hold them in an element of their own."""
_PLAIN = frozenset("div span p b i em strong small paragraph emphasis".split())
_ITEMS = frozenset({"li", "listitem"})
_FILLED = frozenset({"textbox", "searchbox", "combobox", "listbox", "spinbutton", ""})
_WORDLESS = frozenset({"input", "select", "textarea", "textbox", "combobox"})
HOLDING = 0.5
"""What it weighs besides that a block is told by what else it holds (`nav:has([name="q"]) .version`): one has to look twice."""
HEADED = 2.0
"""What it weighs that a heading is told by what it heads, and not that by it."""
FAR, HALF = 1.0, 0.5
"""What it weighs that what it is looked for in, and nobody gave an id, holds the whole tree, beside half of it; the less, the less it
holds."""
ABOVE = 0.5
"""So much less weighs the class of what an element stands in (`.prices .total`): it says where, and not what."""
MODIFYING, MODIFIED = 0.4, 0.2
"""What it weighs that what an element stands in, or the element itself, is told by another class than its first: that says what
it is, and others of what kind, or in what state."""
MIXED = 0.6
"""What it weighs that one locator speaks CSS and XPath."""
NUMBERED_CLASS = 2.5
"""What a class with a number in it (`.row2`) weighs besides: a stripe, a size."""
PLAIN = 2.0
"""What it weighs that the element itself is told by a tag or a role that says nothing (a box, words), and no class beside it, in the row or
the group of a text (`css{span} @row-of text{State}`) ..."""
BARE = 3.5
"""... or in something else (`#night span`), where any other one may come."""
ANYWHERE = 1.2
"""What it weighs that the words of a control, of a cell or of a message are looked for as the text of anything, or any number is: in
the next release they may stand in an element of their own, which is found then. People ask for the link or the button that says so."""
STRETCHED = 2.0
"""What it weighs that a box is told by some words somewhere in it (`//div[contains(., "GET")]`), as all boxes around it could be."""
UNTAGGED = 0.4
"""What it weighs that XPath asks any element for a text (`//*[.="Send"]`): people say `//button[.="Send"]`."""
SENDS = 0.0
"""What `type="submit"` weighs, by which people tell the button of a form: other types say of what kind a field is."""
ANYTHING = 2.0
"""What it weighs that nothing is said of the element itself (`.panel *`), or only what it holds (`.panel :has(#vega)`)."""
_STRUCTURE = frozenset({"inside", "descendant", "child", "sibling", "adjacent"})

TELLING = frozenset(
    """test-attribute id name label accessible-name aria-label for data placeholder text content alt title href value src reference
    aria attribute""".split()
)
"""Facts that say which element is meant; the rest (tags, types, roles, classes, positions) only say what kind it is."""
ACCIDENTAL = frozenset(
    """pattern autocapitalize autocorrect autocomplete spellcheck dir slot min max step fill stroke stroke-width stroke-linecap stroke-linejoin fill-rule clip-rule unselectable width height tabindex lang
    draggable cellpadding cellspacing border align valign bgcolor viewbox focusable preserveaspectratio xmlns maxlength minlength size
    rows cols wrap loading decoding crossorigin referrerpolicy translate enterkeyhint inputmode part exportparts nonce integrity charset
    font-family font-size font-style font-weight font-variant letter-spacing text-anchor text-decoration text-rendering textlength
    dominant-baseline alignment-baseline baseline-shift opacity fill-opacity stroke-opacity stroke-dasharray stroke-dashoffset
    stroke-miterlimit vector-effect shape-rendering image-rendering clip-path mask filter stop-color stop-opacity offset
    gradientunits gradienttransform patternunits marker-start marker-mid marker-end pointer-events cursor overflow visibility
    media sizes srcset d points x y x1 x2 y1 y2 cx cy r rx ry transform version language async defer novalidate target rel
    accept-charset enctype method contenteditable aria-live aria-atomic aria-relevant aria-haspopup aria-orientation aria-level aria-multiselectable
    aria-autocomplete aria-modal aria-required aria-sort aria-multiline aria-posinset aria-setsize aria-rowindex aria-colindex aria-rowcount aria-colcount aria-valuemin aria-valuemax datetime frameborder marginwidth marginheight scrolling allowfullscreen hidden open inert popover colspan rowspan scope itemprop itemscope itemtype
    theme variant appearance color colour shape density elevation outline outlined raised filled pill circle dense position""".split()
)
"""Attributes that nobody wrote to name an element: locators do not rest on them. The last say what a component looks like, as styling classes do."""
NAMING = frozenset("id name title alt placeholder aria-label label href src value for role type".split())
"""Attributes that say something by their value alone: empty, they say nothing."""
REFLECTED = ("ng-reflect-", "_ng", "data-react")
"""How attributes begin that a framework writes for itself while one develops."""
_HINT = re.compile(
    r": |[\[(](?:required|optional|mandatory)[\])]|, ?(?:alt|ctrl|cmd|meta|shift)\b|[\[(](?:(?:alt|ctrl|cmd|meta|shift|[\^⌘⌥⇧])|[a-z][)\]]$)",
    re.I,
)
_TURNED = re.compile(
    r"(?:^|=)(?:show|hide|expand|collapse|(?:un)?mute|(?:un)?lock|(?:un)?pin|(?:un)?follow|(?:un)?star|enable|disable|play|pause|maximi[sz]e)\b"
    r"|\b(?:(?:un)?locked|(?:un)?muted|(?:un)?starred|(?:un)?followed|following|(?:un)?subscribed|liked|saved|expanded|collapsed|hidden|shown)$"
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
_JOINERS = "\u200c\u200d"
_READ = re.compile(r"(?<=[^\W\d_])/(?=[^\W\d_])|(?<!\S)\+(?=\d)")
"""A stroke between two words (*On/Off*) is read, and so is a plus before a figure (*+44*)."""
_SIGNS = frozenset("<>¶§•·›»«‹†‡…⋮☰×✕✖▾▴▼▲◀▶←→↑↓+−–—|/*")


def says_nothing(name: str, value: str, tag: str, kind: str) -> bool:
    """Whether an attribute of an element is accidental, made up by a build (`data-v-7f3c21`), leads nowhere (`href="#"`), holds
    letters that nobody sees (zero-width spaces), or is test data: what a text field holds at first; or what a box to tick has
    where nobody gave it a value (HTML, 4.10.5.1.15)."""
    return (
        name.lower() in ACCIDENTAL  # SVG writes some in both cases
        or (name in NAMING and not value)
        or (name == "role" and value in ("presentation", "none", "generic"))
        or (name == "href" and (value in ("#", "") or value.lower().startswith("javascript:")))
        or value.startswith(("[object ", "{", "["))  # data for a program
        or _has_unseen(value)
        or name.endswith("placement")
        or name.startswith(REFLECTED)
        or look_of_token(name) in ("hashed", "generated")
        or (name == "value" and (tag == "textarea" or (tag == "input" and (kind or "text") in _TYPED)))
        or (name == "value" and value == "on" and kind in ("checkbox", "radio"))
    )


def says_a_state(name: str) -> bool:
    """Whether a name says what a click turns into its opposite, or how much of something there is: another one has it tomorrow."""
    return _TURNED.search(name) is not None or is_count(name) or is_amount(name)


def names_a_part(ending: str) -> bool:
    """Whether the end of a name says only which part of a component bears it (`-label`, `_input`), as kits call their parts."""
    return all(word.lower() in _PARTS for word in CAMEL.findall(ending))


def is_decoration(text: str) -> bool:
    """Whether a text is, or holds, signs that are there to be seen and not read, or not even seen."""
    said = _READ.sub("", text)
    return any(letter in _SIGNS or unicodedata.category(letter) in ("Co", "So") for letter in said) or _has_unseen(text)


def unmarked(label: str) -> str:
    """A label without the mark that its field must be filled in: *Visitor* of *Visitor \\**."""
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


NEARNESS = frozenset({"adjacent", "sibling", "after", "before", "geometry"})
"""What says only that an element comes next to another one: when it has gone, whatever comes next is found."""
COUNTED = frozenset({"text", "content", "accessible-name", "data", "attribute"})
"""Where a number of the element itself stands there, it is what a test waits to see change, or a position by another name."""
_POSITIONS = frozenset({"place", "ordinal"})
_SEEN = frozenset({"text", "content", "accessible-name"})
"""Where a count or a date of the element itself is data, unless the element is known by a number."""
_NAMED = frozenset({"accessible-name", "aria-label", "title"})
_STAMPED = _SEEN | {"aria-label", "label", "title", "alt", "value", "data", "attribute"}
"""Where a moment of the element itself is data, whatever the element is."""
_LANDMARKS = {
    "tag": frozenset({"header", "footer", "nav", "aside", "search"}),
    "role": frozenset({"banner", "contentinfo", "navigation", "complementary", "search"}),
}
"""ARIA's landmarks, but for the main part of a page, in which everything stands: an ancestor that is one says where to look."""
SHIFTING = frozenset({"data", "counting"})
"""What is there to change, and what is a position by another name."""
MADE_UP = frozenset({"generated", "hashed"})
"""A name that a build or a server makes up (`#e3/gPAY=`) is another one the next time."""
UNTOLD = MADE_UP | {"empty", "number"}
_SWITCHES = frozenset({"true", "false", "on", "off", "", "#"})
"""Attributes that are set or not say a state, not which element; nor does an address that leads nowhere."""
_ANSWERS = re.compile(r"[a-z]|\d{1,2}|yes|no|none|all", re.I)
"""What many fields have for a value: *Y*, *1*, *no*."""
STEMS = frozenset({"id~", "name~", "for~"})
"""Parts of values that tell a family of elements, and none of them apart."""


def tells_nothing(name: str, value: str) -> bool:
    """Whether what an attribute holds says a state, or an answer, and not which element has it."""
    return value in _SWITCHES or (name == "value" and _ANSWERS.fullmatch(value) is not None)


def is_weak(facts: Iterable[Dependency], element: int, numbered: bool = False) -> bool:
    """Whether nothing that a locator rests on says which element is meant: a bare tag, type, role, class or state, or a position.

    An anchor that says which (a row, a group, an ancestor) is enough. So is a class that nothing else has, or a part of the page of
    which there is one, where more is said of the element than that it is a box or words (`.summary .total`, not `.summary p`).
    Weak wherever they stand are a position, words that are data, a name that is made up, a reference to what has a number, a state
    that is off, and of the element itself any state (`.tab--active`), which the next click changes, and how it looks
    (`.corner-left`). A frame is where to look, and says nothing of what is in it. What is only near something must itself say which
    it is.
    `numbered`: the element may be known by a number (`known_by_number`).
    """
    facts = list(facts)
    holders = {fact.element for fact in facts if fact.kind in ("shadow", "frame")}
    framing = {fact.element for fact in facts if fact.kind == "frame"}
    said = 0
    for fact in facts:
        said |= saying(fact, element, numbered, fact.element in holders, fact.element in framing)
    return is_weak_by(said)


WEAKENS, NEAR, TELLS, OWN, PLACES, KIND = 1, 2, 4, 8, 16, 32
"""What a fact does for a locator: makes it weak, says only what its element is near to, says which is meant, by the element itself,
says in what part of the page it is, or of what kind."""


def is_weak_by(said: int) -> bool:
    """Whether a locator is weak whose facts do this together."""
    if said & (WEAKENS | NEAR):
        return bool(said & WEAKENS) or not said & OWN
    return not said & TELLS and said & (PLACES | KIND) != PLACES | KIND


def saying(fact: Dependency, element: int, numbered: bool, holds: bool = False, frames: bool = False) -> int:
    """What one fact does (`WEAKENS` and its kin); `holds`, `frames`: whether what bears it is a host on the way, and a frame."""
    kind = fact.base
    if kind in _POSITIONS or fact.look in SHIFTING or (kind in NAMES and fact.look in MADE_UP):
        return WEAKENS
    if fact.remark and fact.element == element and fact.remark != COMMON:
        return WEAKENS
    if fact.remark == SIGNED:  # what is signed has a title
        return 0
    name = numbered and fact.look == "number" and kind in _SEEN and fact.element == element
    name = name or is_key(fact)
    if fact.look == "number" and kind in COUNTED and not name and (fact.element == element or holds):
        return WEAKENS
    if fact.element == element:
        if not numbered and kind in _SEEN and is_count(fact.value):
            return WEAKENS
        if kind in _STAMPED and is_moment(fact.value):
            return WEAKENS
        if kind == "state-attribute" or (kind == "class" and fact.look in ("state", "utility")):
            return WEAKENS
    elif kind == "state-attribute" and fact.value.endswith("=false"):  # as it is wherever it has not been set
        return WEAKENS
    said = NEAR if kind in NEARNESS else 0
    if frames or (fact.shared and fact.element != element):
        return said
    if kind == "reference" and fact.look in PASSED_ON:
        return WEAKENS
    attribute, equals, held = fact.value.partition("=")
    sign = kind in _SEEN and not any(map(str.isalnum, fact.value))
    untold = (fact.look in UNTOLD and not name) or sign or (equals and tells_nothing(attribute, held))
    if kind in TELLING and fact.kind not in STEMS and not untold and fact.remark != COMMON:
        return said | TELLS | (OWN if fact.element == element else 0)
    if fact.element != element:
        return said | PLACES * ((kind == "class" and fact.look == "named") or _is_landmark(fact))
    return said | KIND * (not is_plain([fact]))


def is_plain(own: Iterable[Dependency], or_an_item: bool = False) -> bool:
    """Whether an element is told by nothing but that it is a box, or words (`or_an_item`: or one of a list)."""
    said = [fact.value for fact in own if fact.kind not in _STRUCTURE and fact.kind not in RELATIONS]
    return all(one.removeprefix("role=") in (_PLAIN | _ITEMS if or_an_item else _PLAIN) for one in said)


def _is_landmark(fact: Dependency) -> bool:
    """Whether it is a part of a page of which there is one, mostly."""
    return fact.value.removeprefix("role=") in _LANDMARKS[fact.kind] if fact.kind in _LANDMARKS else False


def rests_on_chance(facts: Iterable[Dependency]) -> bool:
    """Whether it rests on a position, on what comes next to something, or on data: of what is weak, what finds another element, or
    none, the soonest."""
    return any(
        fact.kind in NEARNESS
        or fact.kind in _POSITIONS
        or fact.look in SHIFTING
        or (fact.look == "number" and fact.kind in COUNTED and not is_key(fact))
        or (fact.look == "numbered" and fact.kind in _SEEN and is_count(fact.value))
        for fact in facts
    )


def says_what_it_shows(facts: Iterable[Dependency], element: int, text: str) -> bool:
    """Whether a locator rests on the element's own text (a name that is made of it, too, or a title that says the same) or value,
    which is what a test reads or checks."""
    own = {fact.base: fact.value for fact in facts if fact.element == element}
    if {"text", "content", "value"} & own.keys() or ("accessible-name" in own and own["accessible-name"] in text):
        return True
    return bool(text) and any(value.partition("=")[2] == text for value in own.values())


@dataclass(frozen=True)
class Surroundings:
    """What an element stands in, as taste asks of it: what each, and itself, is called first."""

    called: Mapping[int, str] = field(default_factory=dict)
    named: bool = False
    """Whether somebody gave the element itself a name, or words; not only an icon that has one."""
    filled: bool = False
    """Whether it is a field that is filled in or chosen from: its label (*Star*) says no deed."""
    told: bool = False
    """Whether it is a button, by whatever element, or a field that has a label: what is said of it is better said than its kind."""
    wrapping: bool = False
    """Whether it holds words that may come to stand in an element of their own: a control, a cell, a message."""
    shares: Mapping[int, float] = field(default_factory=dict)
    """How much of the tree each of them holds, as a share."""
    heads: bool = False
    """Whether it is a heading: what stands below it is known by it."""
    hint: str = ""
    """The title of a field that others have as well: how it is used, and not which it is."""

    @classmethod
    def of(cls, page: Page, index: int) -> Surroundings:
        """Those of an element."""
        above = {at: tokens(page.attribute(at, "class") or "") for at in (index, *page.ancestors(index))}
        title = page.attribute(index, "title") or ""
        hint = title if page.tags[index] in _WORDLESS and len(page.index.valued("title", title)) > 1 else ""
        called = {at: names[0] for at, names in above.items() if names}
        named = bool(page.attribute(index, "aria-label") or page.semantics.worded[index])
        role = page.semantics.roles[index]
        told = role == "button" or bool(page.semantics.label(index))
        size = max(1, int(np.count_nonzero(page.tree == page.tree[index])))
        shares = {at: (int(page.end[at]) - at) / size for at in above}
        filled = page.tags[index] in _WORDLESS and role in _FILLED
        return cls(called, named, filled, told, role in _WRAPPING, shares, role == "heading", hint)


def distaste(facts: Iterable[Dependency], locator: Locator, element: int, around: Surroundings = Surroundings()) -> float:
    """How much an engineer would rather have another one."""
    facts = list(facts)
    tags = {fact.value for fact in facts if fact.kind == "tag" and fact.element == element}
    tagged, boxed = bool(tags), not tags.isdisjoint(_BOXES)
    related = any(hop.finder.relations for hop in locator.hops)
    mixed = {"css", "xpath"} <= {hop.finder.strategy for hop in locator.hops}
    text = str(locator)
    weight, said = MIXED * mixed + LENGTH * len(text) + sum(_bare(facts, element, around)), False
    weight += ESCAPED * ("\\3" in text)
    holding = [around.shares.get(fact.element, 0.0) for fact in facts if fact.kind not in _NAMES and fact.element != element]
    weight += FAR * max(0.0, max(holding, default=0.0) - HALF)
    for fact in facts:
        weight += _weighs(fact.kind, fact.look, fact.value)
        if fact.kind == "class" and around.called.get(fact.element, fact.value) != fact.value:
            weight += MODIFIED if fact.element == element else MODIFYING
        weight -= TURNED * (around.filled and fact.kind == "label" and _TURNED.search(fact.value) is not None)
        weight += HOLDING * (fact.kind == "group-of" and not related)
        weight += HEADED * (around.heads and fact.kind in ("row-of", "group-of"))
        weight += HINTED * (bool(around.hint) and fact.element == element and fact.value.removeprefix("title=") == around.hint)
        if fact.element != element and fact.kind in _SEEN:
            weight += (
                SENTENCE * _is_sentence(fact.value)
                + FIGURE * (fact.look == "number")
                + COUNTED_ROW * _begins_with_a_count(fact.value)
            )
        weight -= ABOVE * (fact.kind == "class" and fact.look == "named" and fact.element < element)
        if fact.element == element and fact.base in ("text", "content"):
            anything = fact.base == "text" or len(facts) == 1
            weight += ANYWHERE * (fact.base == "text" and locator.hops[-1].finder.strategy == "xpath")
            weight += ANYWHERE * (anything and (around.wrapping or (fact.kind == "text" and fact.look == "number")))
            weight += UNTAGGED * (fact.base == "content" and not tagged) + STRETCHED * (fact.kind == "content~" and boxed)
        weight += UNTAGGED * (fact.base == "label" and locator.hops[-1].finder.strategy == "xpath" and not tagged)
        said = said or (fact.element == element and fact.kind not in _STRUCTURE | RELATIONS)
    landmarks = [fact for fact in facts if fact.element != element and _is_landmark(fact)]
    if landmarks and is_weak([fact for fact in facts if not _is_landmark(fact)], element):
        weight += PLACED
    return weight + (0.0 if said else ANYTHING)


def _begins_with_a_count(text: str) -> bool:
    return text[:1].isdigit() and " " in text and is_count(text)


def _is_sentence(text: str) -> bool:
    return text.endswith((".", "!", "?")) or text.count(" ") >= MOST_SAID


@lru_cache(maxsize=50_000)
def _weighs(whole: str, look: str, value: str) -> float:
    """What a fact of a kind weighs by itself, wherever it stands."""
    kind, part = base_of(whole), whole.endswith(("~", "$"))
    weight = SENDS if value == "type=submit" else WEIGHTS.get(kind, 2.0)
    weight += LOOKS.get(look, 0.0) + PART * part + FAMILY * (whole in STEMS)
    if kind in _SEEN | _NAMED | {"label"}:
        weight += SIGN * (not any(map(str.isalnum, value)))
        weight += TURNED * (_TURNED.search(value) is not None)
        weight += 0.0 if part else HINTED * (kind not in ("text", "content") and _HINT.search(value) is not None)
        weight += 0.0 if part else AMOUNT * (kind in _SEEN and is_amount(value))
    elif kind == "role":
        weight += CELL * (value.removeprefix("role=") in _CELLS)
    elif kind == "attribute":
        weight += OUTLINED * value.startswith("d=")
    elif kind == "class":
        weight += NUMBERED_CLASS * (look == "numbered") + BUILT * (whole == DIGESTED)
    elif kind == "attribute" and _CALLING.match(value):
        weight -= CALLED
    elif kind == "data":
        weight += OTHERWISE * (not IDENTIFYING.match(value))
    elif kind == "href":
        weight += QUERY * (1 + value.count("&")) * ("?" in value)
    return weight


def _bare(facts: Sequence[Dependency], element: int, around: Surroundings) -> Iterator[float]:
    """What tags weigh besides (and roles of the element itself) that are all that is said of the element, or of one around it."""
    told = {fact.element for fact in facts if fact.kind not in _STRUCTURE | RELATIONS | {"tag", "role"}}
    roled = {fact.element for fact in facts if fact.kind == "role"}
    relations = {one.kind for one in facts if one.kind in RELATIONS}
    related = bool(relations)  # which say where, in words
    only_in_column = relations == {"column-of"}  # as the like of it in any row is
    for fact in facts:
        if fact.element in told or (fact.kind == "tag" and fact.element in roled):
            continue
        if fact.kind == "tag" or (fact.kind == "role" and fact.element == element):
            if fact.element != element:
                yield 0.0 if _is_landmark(fact) else AROUND
            elif fact.value in _PLAIN or only_in_column or (related and fact.value in _ITEMS):
                yield PLAIN if related else BARE
            elif fact.value in _WORDLESS and not around.told:
                continue
            elif not related and (around.named or not any(one.kind == "shadow" for one in facts)):
                yield TAGGED
