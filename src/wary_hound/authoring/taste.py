"""Taste: how engineers weigh locators that last alike, in tables. Survival decides; taste decides between candidates whose intervals
overlap."""

# ruff: noqa: E501 (tables)

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property, lru_cache
from itertools import islice

import numpy as np

from wary_hound.authoring.anchors import own_texts, titles_of
from wary_hound.authoring.predicates import SHORTEST_HEAD, label_leading, leading_of
from wary_hound.authoring.signs import gives_a_hint, is_turned
from wary_hound.authoring.targets import CONTROLS
from wary_hound.authoring.weakness import BOXES_AND_WORDS, ITEMS, NAMED, STEMS, STRUCTURE, is_landmark, is_weak
from wary_hound.locator.blocks import rows_around
from wary_hound.locator.values import Locator
from wary_hound.page import Page
from wary_hound.page.index import tokens
from wary_hound.robustness.data import is_amount, is_count
from wary_hound.robustness.dependency import COMMON, IDENTIFYING, SEEN, Dependency, base_of
from wary_hound.robustness.looks import is_sign
from wary_hound.robustness.model import RELATIONS

WEIGHTS: dict[str, float] = {
    "test-attribute": -0.1, "id": 0.0, "name": 0.3, "label": 0.4, "accessible-name": 0.4, "aria-label": 0.5, "for": 0.6, "data": 0.8,
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
SENTENCE, FEWEST_ASKED, MOST_SAID = 2.5, 3, 5
"""What it weighs that a row is told by a whole sentence, by a question of more words than the first (*Vega at nine?* is a title), or
by more words than the other: it has a title, mostly; ..."""
FIGURE = 2.0
"""... or by a mere figure."""
DAY = 3.0
"""What it weighs that a figure and the head of its column are all that tells an element: a day of a calendar by its weekday."""
COUNTED_ROW = 1.5
"""What it weighs that it is told by a date or a count (*20 Sep*, *2 adults*): it has a title, mostly."""
AMOUNT = 2.5
"""What it weighs that a text is a price, a size or a duration: nobody tells a row by it where something else does."""
DRAWN = 2.5
"""What the role of a drawing weighs (`role{graphics-document}`), which nobody writes: people say `css{svg}`."""
CELL = 1.0
"""What it weighs that a cell is told by its role: people say `//td[.="Vega"]`, and whether a table is a grid is another matter."""
OUTLINED = 1.5
"""What it weighs that a control is told by how its icon is drawn."""
FAMILY = 3.0
"""What it weighs that a part of an id, or of a name, is that of a family of elements (`[id^="line-"]`): it tells no more than a class."""
DIGESTED, BUILT = "class~", 1.5
"""What a class weighs besides to which a build has put a digest (`[class*="plain__"]`): it lasts as long as the build calls it so."""
CALLED = 1.5
"""So much less weighs an attribute that is a name by its own name (`column-name="hours"`)."""
_CALLING = re.compile(r"(?:[a-z-]*name|field|field-(?:id|key|label))=")
OTHERWISE = 0.4
"""What other `data-*` attributes weigh besides."""
KEYED = 0.4
"""What a number in one of these weighs besides (`data-id="point_8"`): a program may have counted so."""
SIGN = 3.0
"""What it weighs that a name is a mere sign (*+*, *×*), for which an icon may come."""
HINTED = 3.0
"""What it weighs that a name goes on to say what would happen (`Base: activate to sort`) or which keys do the same (`Bold [Ctrl-B]`):
it says something else when it has, or on another machine."""
EXEMPLARY = 2.0
"""What it weighs that a field has its name from the example in it (*e.g. Vega*, *name@example.org*): a label says what it is for."""
_EXAMPLE = re.compile(r"(?:e\. ?g\.|eg |ex(?:\.|:)|for example|z\. ?B\.|p\. ?ex\.|[^@\s]+@[^@\s]+\.\w+\Z)", re.I)
TURNED = 2.0
"""What it weighs that a name says what a click turns into its opposite (`Collapse row`, `Mute`, `gate unlocked`)."""
PLACED = 2.5
"""What it weighs that only the part of the page says which is meant (`footer p`): where the element says something itself, that."""
SECOND = 1.0
"""What it weighs that a row is told by another of its texts than the first that tells it: that is its title, mostly."""
OUTER = 0.5
"""What it weighs that an element of a row in a row is told by the outer one (a card's, by the list that it is alone in today)."""
AROUND = 1.0
"""What it weighs that an element around is told by its tag alone (`ul a`), which is no part of a page of which there is one."""
TAGGED = 1.0
"""What it weighs that of the element itself no more is said than its tag, and an id or a class says where (`#lines a`): where it
has a name, that. Not of fields, which say nothing themselves, nor of what a component is made of and that has no name of its own."""
LABELLED = 0.6
"""What it weighs that a field to fill in that has a label is told by its kind in a row (`role{textbox} @row-of text{Visitor 1}`)."""
JOINED = 2.0
"""What it weighs that a name is asked for whole in which two texts stand one behind the other (*Nightsorted ascending*): nobody types
that, and the other one is a hint or a state."""
TWICE = 3.0
"""What it weighs that two relations lead from one anchor."""
REPEATED = 2.0
"""What an id weighs that others have, too: which is an error that somebody may mend."""
_NAMES = frozenset({"id", "test-attribute"})
_BOXES = frozenset("div section article form main aside header footer nav".split())
_CELLS = frozenset({"cell", "gridcell"})
_WRAPPING = CONTROLS | _CELLS | frozenset("columnheader rowheader listitem term definition status alert".split())
"""Roles of what holds words, and may come to hold them in an element of their own."""
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
    joined: str = ""
    """Its name, where that goes on without a blank after what it says first: *Nightsorted ascending*."""
    pieced: bool = False
    """Whether its words are those of several controls in it (*Apply Clear*)."""
    glued: bool = False
    """Whether its words are several texts without a blank between them."""
    where: tuple[Page, int] | None = field(default=None, compare=False, repr=False)

    @cached_property
    def titles(self) -> tuple[str, ...]:
        """The text that tells first in which row it stands, and in which row around that."""
        if self.where is None:
            return ()
        page, index = self.where
        return tuple(page.semantics.worded[at] for row in self.rows for at in titles_of(page, row, own_texts(page, row, index))[:1])

    @cached_property
    def rows(self) -> tuple[int, ...]:
        """The row in which it stands, and those around that."""
        return () if self.where is None else tuple(rows_around(*self.where))

    def is_beside(self, at: int) -> bool:
        """Whether another element stands in its row, which has a title, and is neither in it nor around it."""
        if self.where is None or not self.titles:
            return False
        page, index = self.where
        apart = not (at <= index < page.end[at] or index <= at < page.end[index])
        return apart and any(row < at < page.end[row] for row in self.rows)

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
        name = page.semantics.name(index)
        leading = leading_of(page, index, name) or label_leading(page, index)
        joined = name if len(leading) >= SHORTEST_HEAD else ""
        inside = (at for at in range(index + 1, int(page.end[index])) if page.semantics.roles[at] in CONTROLS)
        pieced = sum(1 for _ in islice((at for at in inside if page.semantics.worded[at]), 2)) == 2
        glued = _is_glued(page, index)
        heads = role == "heading"
        return cls(called, named, filled, told, role in _WRAPPING, shares, heads, hint, joined, pieced, glued, (page, index))


def _is_glued(page: Page, index: int) -> bool:
    """Whether all that an element says is said by others in it, without a blank between the first two."""
    own, inside = page.semantics.own_text, range(index + 1, int(page.end[index]))
    first = [*islice((own[at] for at in inside if own[at]), 2)]
    return not own[index] and len(first) > 1 and page.semantics.worded[index].startswith("".join(first))


def distaste(facts: Iterable[Dependency], locator: Locator, element: int, around: Surroundings = Surroundings()) -> float:
    """How much an engineer would rather have another one."""
    facts = list(facts)
    tags = {fact.value for fact in facts if fact.kind == "tag" and fact.element == element}
    tagged, boxed = bool(tags), not tags.isdisjoint(_BOXES)
    related = any(hop.finder.relations for hop in locator.hops)
    mixed = {"css", "xpath"} <= {hop.finder.strategy for hop in locator.hops}
    in_xpath = locator.hops[-1].finder.strategy == "xpath"
    rowed = any(fact.kind == "row-of" for fact in facts)
    text = str(locator)
    anchors = [related.anchor for hop in locator.hops for related in hop.finder.relations]
    weight, said = MIXED * mixed + LENGTH * len(text) + sum(_bare(facts, element, around)), False
    weight += ESCAPED * ("\\3" in text) + TWICE * (len(set(anchors)) < len(anchors))
    holding = [around.shares.get(fact.element, 0.0) for fact in facts if fact.kind not in _NAMES and fact.element != element]
    weight += FAR * max(0.0, max(holding, default=0.0) - HALF)
    for fact in facts:
        weight += _weighs(fact.kind, fact.look, fact.value)
        if fact.kind == "class" and around.called.get(fact.element, fact.value) != fact.value:
            weight += MODIFIED if fact.element == element else MODIFYING
        weight -= TURNED * (around.filled and fact.kind == "label" and is_turned(fact.value))
        exemplary = around.filled and fact.element == element and fact.base in ("placeholder", "accessible-name")
        weight += EXEMPLARY * (exemplary and _EXAMPLE.match(fact.value.removeprefix("placeholder=")) is not None)
        weight += HOLDING * (fact.kind == "group-of" and not related)
        weight += HEADED * (around.heads and fact.kind in ("row-of", "group-of"))
        weight += HINTED * (bool(around.hint) and fact.element == element and fact.value.removeprefix("title=") == around.hint)
        weight += REPEATED * (fact.kind == "id" and fact.remark == COMMON)
        weight += JOINED * (bool(around.joined) and fact.element == element and fact.value == around.joined)
        if fact.element != element and fact.kind in SEEN:
            beside = (rowed and bool(around.titles)) or around.is_beside(fact.element)
            weight += SECOND * (beside and fact.value not in around.titles)
            weight += OUTER * (rowed and fact.value in around.titles and fact.value != around.titles[0])
            weight += (
                SENTENCE * _is_sentence(fact.value)
                + FIGURE * (fact.look == "number")
                + COUNTED_ROW * _begins_with_a_count(fact.value)
            )
        elif fact.base in NAMED | {"alt"} and around.is_beside(fact.element):
            weight += SECOND
        weight -= ABOVE * (fact.kind == "class" and fact.look == "named" and fact.element < element)
        if fact.element == element and fact.base in ("text", "content"):
            anything = fact.base == "text" or len(facts) == 1
            weight += ANYWHERE * (fact.base == "text" and in_xpath)
            weight += ANYWHERE * (anything and (around.wrapping or (fact.kind == "text" and fact.look == "number")))
            weight += JOINED * (around.pieced or (around.glued and not fact.kind.endswith("~")))
            weight += UNTAGGED * (fact.base == "content" and not tagged) + STRETCHED * (fact.kind == "content~" and boxed)
        weight += UNTAGGED * (fact.base == "label" and in_xpath and not tagged)
        said = said or (fact.element == element and fact.kind not in STRUCTURE | RELATIONS)
    figure = any(fact.element == element and fact.base in SEEN and fact.look == "number" for fact in facts)
    weight += DAY * (figure and not rowed and any(fact.kind == "column-of" for fact in facts))
    landmarks = [fact for fact in facts if fact.element != element and is_landmark(fact)]
    if landmarks and is_weak([fact for fact in facts if not is_landmark(fact)], element):
        weight += PLACED
    return weight + (0.0 if said else ANYTHING)


def _begins_with_a_count(text: str) -> bool:
    return text[:1].isdigit() and " " in text and is_count(text)


def _is_sentence(text: str) -> bool:
    return text.endswith((".", "!")) or text.count(" ") >= (FEWEST_ASKED if text.endswith("?") else MOST_SAID)


@lru_cache(maxsize=50_000)
def _weighs(whole: str, look: str, value: str) -> float:
    """What a fact of a kind weighs by itself, wherever it stands."""
    kind, part = base_of(whole), whole.endswith(("~", "$"))
    weight = SENDS if value == "type=submit" else WEIGHTS.get(kind, 2.0)
    weight += LOOKS.get(look, 0.0) + PART * part + FAMILY * (whole in STEMS)
    if kind in SEEN | NAMED | {"label"}:
        weight += SIGN * is_sign(value)
        weight += TURNED * is_turned(value)
        weight += 0.0 if part else HINTED * (kind not in ("text", "content") and gives_a_hint(value))
        weight += 0.0 if part else AMOUNT * (kind in SEEN and is_amount(value))
    elif kind == "role":
        weight += CELL * (value.removeprefix("role=") in _CELLS) + DRAWN * ("graphics-" in value)
    elif kind == "attribute":
        weight += OUTLINED * value.startswith("d=") - CALLED * (_CALLING.match(value) is not None)
    elif kind == "class":
        weight += NUMBERED_CLASS * (look == "numbered") + BUILT * (whole == DIGESTED)
    elif kind == "data":
        weight += OTHERWISE * (not IDENTIFYING.match(value)) + KEYED * (look == "numbered")
    elif kind == "href":
        weight += QUERY * (1 + value.count("&")) * ("?" in value)
    return weight


def _bare(facts: Sequence[Dependency], element: int, around: Surroundings) -> Iterator[float]:
    """What tags weigh besides (and roles of the element itself) that are all that is said of the element, or of one around it."""
    told = {fact.element for fact in facts if fact.kind not in STRUCTURE | RELATIONS | {"tag", "role"}}
    roled = {fact.element for fact in facts if fact.kind == "role"}
    relations = {one.kind for one in facts if one.kind in RELATIONS}
    related = bool(relations)  # which say where, in words
    told_row = any(fact.row >= 0 and fact.element != element for fact in facts)
    only_in_column = relations == {"column-of"} and not told_row  # as the like of it in any row is
    for fact in facts:
        if fact.element in told or (fact.kind == "tag" and fact.element in roled):
            continue
        if fact.kind == "tag" or (fact.kind == "role" and fact.element == element):
            if fact.element != element:
                yield 0.0 if is_landmark(fact) else AROUND
            elif fact.value in BOXES_AND_WORDS or only_in_column or (related and fact.value in ITEMS):
                yield PLAIN if related else BARE
            elif related and around.filled and around.told:
                yield LABELLED
            elif fact.value in _WORDLESS and not around.told:
                continue
            elif not related and (around.named or not any(one.kind == "shadow" for one in facts)):
                yield TAGGED
