"""What can be said of one element, piece by piece: parts of selectors and of XPath steps."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Mapping
from itertools import islice, permutations, takewhile

from wary_hound.authoring.signs import is_decoration, is_drawn, names_a_part, says_nothing, without_icons
from wary_hound.locator.css.values import Attribute, Class, Complex, Compound, Id, Matches, Nth, Simple, Type
from wary_hound.locator.xpath import building as x
from wary_hound.locator.xpath.functions import normalized
from wary_hound.locator.xpath.values import Binary, Call, Expression, Literal, Step
from wary_hound.page import Page
from wary_hound.page.index import tokens
from wary_hound.page.names import labelling
from wary_hound.page.roles import NAME_FROM_CONTENT
from wary_hound.page.secrets import MASK
from wary_hound.page.slots import Slots
from wary_hound.page.trees import HTML
from wary_hound.robustness.data import is_composed, is_count, is_date
from wary_hound.robustness.dependency import READ, attribute_kind
from wary_hound.robustness.looks import before_digest, is_made_by, is_sign, look_of_class, look_of_text, look_of_token
from wary_hound.robustness.tabular import CONTROLS, NAMES

LONGEST_VALUE = 100
LONGEST_HINT = 80
"""Nobody calls an element by a title of more letters."""
LONGEST_TEXT = 80
LONGEST_BESIDE = 60
MOST_BESIDE = 20
_ORDER = {
    kind: place
    for place, kind in enumerate(
        """test-attribute name aria-label for placeholder data alt title href value type role attribute aria reference
        src state-attribute""".split()
    )
}
_LEFT_OUT = frozenset({"id", "class", "style", "xmlns"})
_WORDS = re.compile(r"(?<![^\s(\"'“„«])[^\W\d_]{3,}(?:[ '-][^\W\d_]+)*(?=[.,:;!?)\"'”“»…]*(?:\s|\Z))")
"""Words one behind the other, whole: of `/nights/hold Hold the dome` nothing begins in the address."""
_WORD = re.compile(r"(?<![\w.@:-])[^\W\d_]{3,}(?:-[^\W\d_]+)*(?!_?[^\W\d_]|[@:]\w|\.\w)")
"""Where there are none, one word (`dome/north_2`), which is no part of a name such as `nights.hold_dome`."""
_DEEDS = frozenset("add create default delete detail details edit index list new remove search show update view".split())
_QUERY = re.compile(r"[?#]")
_KEYED = re.compile(r"[?&;](?:[a-z_.-]*id|post|item|key|no|nr|number|uuid|slug)=[\w-]", re.I)
"""A query that says which thing an address is about."""
_HINT = re.compile(
    r"\s*(?:[(\[…]|\.\.\.|:\s|,\s?(?:alt|ctrl|cmd|meta|shift|choose|select|pick|none|not)\b"
    r"|\s(?:sort(?:ed)? (?:asc|desc)|(?:click|activate) to sort))",
    re.I,
)
"""How a hint begins that stands behind a name: `Hours: activate to sort`, `Period (seconds)`, `Search…`, `Bold, Ctrl+B`,
`Star sorted ascending`."""
_FIGURES_AFTER = re.compile(r",\s(?=.*\d)")
"""What comes behind a comma, where there are figures: `Notifications, 3 unread`."""
_NUMBERED = re.compile(
    r"(?:go to )?(?:chapter|day|digit|floor|image|level|line|page|part|question|room|row|section|slide|step|tab|week) \d+", re.I
)
"""What has a number for a name."""
SHORTEST_HEAD = 3
SHORTEST_PART = 3
"""So many characters a text must have to be found within another."""
SHORTEST_WORD = 4
"""Nobody ends a part of a text with a shorter one where the text goes on: *Quote the toll of*."""
MOST_WORDS = 4
_GOES_ON = re.compile(r"\s+\S")
_STEM = re.compile(r"[a-zA-Z][a-zA-Z]+(?:[-_:.][a-zA-Z]+)*[-_:.]?")
_FIGURES_AND_LETTERS, _DIGEST = re.compile(r"[0-9a-zA-Z]+"), re.compile(r"(?=[a-f]*\d)[0-9a-f]{8,}", re.I)
_ENDING = re.compile(r".*\d\w{0,2}[:»]?((?:[-_:.$][a-zA-Z]+)*([-_:.$][a-zA-Z]{3,}))")
"""What is said behind the last counter: `-fragile` of `lines-0-fragile`, which field of each line it is; and the last word of that:
`_MainContent_btnSave` and `_btnSave` of `ctl00_MainContent_btnSave`."""
_FIELD = re.compile(r".*\d\]((?:\[[a-zA-Z_]+\])*(\[[a-zA-Z_]{3,}\]))")
"""The same, as names of fields have it that are sent as a structure: `[hours]` of `night[stars][0][hours]`."""
UNSTEADY = frozenset({"generated", "numbered", "hashed"})
"""Looks of a name of which a part may be steadier than the whole."""
SHORTEST_STEM, SHORTEST_BEGINNING = 4, 3
"""A part of a name has so many letters, one that the name begins with fewer."""
_DAY = re.compile(r"\b(?:mon|tues|wednes|thurs|fri|satur|sun)day\b", re.I)
_COUNTED, _ONE = re.compile(r"\d[\d.,]*\s*$"), re.compile(r"(?<![\d.,])1\s*$")
"""A figure, and *1*, before what is counted."""
_STYLED = re.compile(r"([A-Za-z_][\w-]*?_[\w-]*?)(?:[A-Za-z0-9]{5,10}|[0-9a-z]{5,6}_\d+)\Z")
"""What a person called a class to which a build has put a digest: `Button_primary__` of `Button_primary__k2Lm3`."""


def attribute_predicates(attributes: Mapping[str, str], tag: str = "", shown: str = "") -> Iterator[Attribute]:
    """`[name="value"]` for each attribute that says something, the more telling kinds first; then parts of unsteady ones.

    `shown`: the text that a person reads on the element."""
    kind = attributes.get("type", "").lower()
    named = [
        (name, value)
        for name, value in attributes.items()
        if name not in _LEFT_OUT
        and not name.startswith("on")
        and len(value) <= (LONGEST_HINT if name in READ else LONGEST_VALUE)
        and MASK not in value
        and not says_nothing(name, value, tag, kind)
        and (value or look_of_token(name) != "numbered")
    ]
    named.sort(key=lambda entry: _ORDER.get(attribute_kind(entry[0]), 99))
    for name, value in named:
        yield Attribute(name, "=", value) if value else Attribute(name)
    for name, value in [("id", attributes.get("id", "")), *named]:
        if (name in NAMES or name.startswith("data-")) and look_of_token(value) in UNSTEADY:
            stem = stem_of(value)
            if name in NAMES and len(stem) >= SHORTEST_STEM and stem != value and not is_made_by(stem):
                yield Attribute(name, "^=", stem)
            if ending := _ENDING.fullmatch(value) or _FIELD.fullmatch(value):
                yield from (Attribute(name, "$=", part) for part in dict.fromkeys(ending.groups()) if not names_a_part(part))
        if name == "href" and len(value) > 3:
            end = end_of(value)
            if 3 <= len(end) < len(value) and not value.startswith(end):
                yield Attribute("href", "*=", end)
            if path := path_of(value):
                yield Attribute("href", "^=", path)
            before, sign, part = value.partition("#")
            if "?" in before and look_of_token(part) == "named":  # a part of a page that is asked for in another way tomorrow
                yield Attribute("href", "$=", sign + part)
        if name in ("href", "src") and (begins := before_digest(value)):
            yield Attribute(name, "^=", begins)
        if name in READ and (head := head_of(value, shown)):
            yield Attribute(name, "^=", head)


def stem_of(name: str) -> str:
    """The words that a name begins with, up to a figure; without letters that are those of a digest behind them: `row_night_` of
    `row_night_bb8efcd4`. Empty where it begins otherwise."""
    begun = _STEM.match(name)
    if begun is None:
        return ""
    stem = begun.group()
    before = stem[: max(map(stem.rfind, "-_:.")) + 1]
    behind = _FIGURES_AND_LETTERS.match(name, len(stem))
    part = name[len(before) : behind.end() if behind else len(stem)]
    return before if stem != before and (_DIGEST.fullmatch(part) or look_of_token(part) == "hashed") else stem


def end_of(address: str) -> str:
    """What an address ends with; a deed (`/password/new`) with what it is done to."""
    before, _, end = address.split("?")[0].rstrip("/").rpartition("/")
    what = before.rpartition("/")[2]
    return f"{what}/{end}" if end.lower() in _DEEDS and what.isalpha() else end


def path_of(address: str) -> str:
    """An address up to its query, which another state of the page adds or changes. Empty where it has none and ends within a name,
    with which others may begin, too: `/night/1`; and where the query says which thing it is: `/night/view?id=81`."""
    if _KEYED.search(address):
        return ""
    path = _QUERY.split(address, maxsplit=1)[0]
    return path if not is_sign(path) and (path != address or path.endswith("/")) else ""


def class_predicates(attributes: Mapping[str, str]) -> Iterator[Class | Attribute]:
    """`.name` for each of the first classes, those that only say how it looks behind the others; of one to which a build has put
    a digest what a person called it (`[class*="Button_primary__"]`)."""
    names = dict.fromkeys(tokens(attributes.get("class", "")))
    for token in sorted(names, key=lambda name: look_of_class(name) == "utility")[:8]:
        stem = _STYLED.fullmatch(token) if look_of_class(token) == "hashed" else None
        yield Attribute("class", "*=", stem[1]) if stem and len(stem[1]) >= SHORTEST_STEM else Class(token)


def named_classes(attributes: Mapping[str, str]) -> Iterator[Class | Attribute]:
    """Those of them that a person gave a name to."""
    return (one for one in class_predicates(attributes) if look_of_class(one.value.rstrip("_-")) == "named")


def place_predicate(page: Page, index: int) -> tuple[Simple, ...]:
    """`tag:nth-of-type(n)`: which cell of a row it is; empty where it is the only one of its tag."""
    if page.index.siblings_of_type[index] < 2:
        return ()
    return Type(page.tags[index]), Nth("nth-of-type", 0, int(page.index.place_of_type[index]))


def xpath_tag(page: Page, index: int) -> str:
    """The tag as an XPath step has it; `*` for what it cannot name."""
    return "*" if page.namespace[index] != HTML or not x.NAME.match(page.tags[index]) else page.tags[index]


def in_xpath(simple: Simple) -> tuple[str, tuple[Expression, ...]] | None:
    """A simple selector as a node test and predicates of an XPath step; None where it cannot be said so readably."""
    match simple:
        case Type(name) if name == "*" or x.NAME.match(name):
            return name, ()
        case Id(value):
            return "*", (x.equals("id", value),)
        case Attribute(name, "", _, _) if x.NAME.match(name):
            return "*", (x.attribute(name),)
        case Attribute(name, "=", value, _) if x.NAME.match(name):
            return "*", (x.equals(name, value),)
        case Attribute(name, "^=" | "*=" | "$=" as operator, value, _) if x.NAME.match(name):
            function = "starts-with" if operator == "^=" else "contains"  # XPath 1.0 cannot say readably how a value ends
            return "*", (Call(function, (x.attribute(name), x.literal(value))),)
        case Class(name):
            return "*", (x.has_class(name),)
        case Nth("nth-of-type", 0, place, ()):
            return "*", (x.place(place),)
        case Matches("has", (Complex((" ",), (Compound(held),)),)) if (inner := step_of(held)) is not None:
            return "*", (x.holds(inner),)
        case _:
            return None


def step_of(simples: Iterable[Simple]) -> Step | None:
    """Simple selectors as a step of XPath; None where one of them cannot be said so readably."""
    tag, tests = "*", list[Expression]()
    for simple in simples:
        said = in_xpath(simple)
        if said is None:
            return None
        tag = said[0] if said[0] != "*" else tag
        tests.extend(said[1])
    return x.child(tag, *tests)


def tag_step(page: Page, index: int) -> Step:
    """An element by its tag, as a step of XPath: of other languages than HTML (SVG) by its name."""
    if page.namespace[index] != HTML:
        return x.child("*", Binary("=", Call("name"), Literal(page.tags[index])))
    return x.child(xpath_tag(page, index))


def read_of(page: Page, index: int) -> str:
    """The words that a person reads on an element, without what a style sheet adds, which another width or state may not. Not the
    options of a list one after the other, nor the parts of a form, of a row or of a section, which nobody reads so."""
    listed = page.tags[index] in ("select", "optgroup", "datalist")
    shown = "" if listed or _holds_texts(page, index) or _holds_controls(page, index) else page.semantics.worded[index]
    return "" if is_decoration(shown) and not any(map(str.isalpha, shown)) else shown


_HOLDERS = frozenset(
    """form fieldset section article table tbody thead tfoot tr ul ol dl nav main aside header footer menu dialog body figure
    details""".split()
)


def _holds_controls(page: Page, index: int) -> bool:
    """Whether it says something beside a control that says what it does: *Vega* and *Remove*."""
    semantics = page.semantics
    if semantics.own_text[index] in ("", semantics.worded[index]):
        return False
    inside = range(index + 1, min(int(page.end[index]), index + 1 + MOST_BESIDE))
    return any(semantics.roles[at] in CONTROLS and semantics.worded[at] for at in inside)


_ONE_TEXT = NAME_FROM_CONTENT - {"row"}


def _holds_texts(page: Page, index: int) -> bool:
    """Whether it says nothing itself, and holds several parts that do; what is named by all its content (a button) is one text."""
    semantics = page.semantics
    if page.tags[index] not in _HOLDERS or semantics.own_text[index] or semantics.roles[index] in _ONE_TEXT:
        return False
    return sum(bool(semantics.worded[c]) for c in page.children(index)) > 1


def content_of(page: Page, index: int) -> str:
    """The text of an element where XPath's `normalize-space()` reads the same as a person does; empty where not, where it is long
    or decorated."""
    shown = read_of(page, index)
    if is_decoration(shown):
        return ""
    if not shown and _is_shown_later(page, index):
        shown = normalized(page.semantics.raw_text(index))
    return shown if 0 < len(shown) <= LONGEST_TEXT and normalized(page.semantics.raw_text(index)) == shown else ""


def _is_shown_later(page: Page, index: int) -> bool:
    """Whether a control, or what is named by all that it holds, is not shown now, as what is in a menu that is closed."""
    named = page.semantics.roles[index] in NAME_FROM_CONTENT and page.semantics.roles[index] != "row"
    return named and not page.semantics.rendered[index] and page.tags[index] != "option"


def parts_of(page: Page, index: int) -> Iterator[str]:
    """Steady parts of the text of an element that XPath finds in it: what it says itself before it says more; all of it, where
    `normalize-space()` reads more than a person does; else as `stems`. Each is the text of one element, whole or in part, and not
    one's end with the next one's beginning."""
    shown = read_of(page, index)
    raw = page.semantics.raw_text(index)
    whole = [shown] if shown and not content_of(page, index) and len(shown) <= LONGEST_TEXT and not is_decoration(shown) else []
    own = page.semantics.own_text
    leading = leading_of(page, index, shown)
    called = [words] if (words := words_beside(page, index) or leading) else []
    steady = [] if leading else [whole_of(page, index, part, shown) for part in stems(shown)]
    headed = [head] if (head := head_of(shown)) and not called else []
    for part in [*called, *headed, *whole, *steady]:
        if len(part) >= SHORTEST_PART and part in raw and any(part in own[at] for at in range(index, int(page.end[index]))):
            yield part


def leading_of(page: Page, index: int, name: str) -> str:
    """The first text of several that an element holds (or that which it is labelled by), one after the other, where its name goes
    on behind it without a blank, so that no words end there: *Rename* of `<span>Rename</span><kbd>F2</kbd>`; or with the name of an
    icon; or where the first text is its heading, or several figures follow. Not the number of a step before it, nor the first
    letters of its words (*SD* before *Star Diner*), nor what announces it (*Sort by:*). Empty where it is a figure."""
    own = page.semantics.own_text
    holder = next(iter(labelling(page, index)), index)
    saying = [*islice((at for at in Slots.of(page).members(holder) if own[at]), 3)]
    texts = [own[at] for at in saying]
    for before, behind in permutations(texts[:2], 2):
        if (before.isdigit() or is_initials(before, behind)) and name.startswith(f"{before}{behind}") and not is_count(behind):
            return behind
    said = texts[0] if texts else ""
    goes_on = said and name.startswith(said) and name[len(said) : len(said) + 1].strip()
    if goes_on and said.endswith(":") and len(texts) > 1:
        return texts[1]
    iconed = len(saying) > 1 and is_drawn(page, saying[1]) and name == f"{said} {texts[1]}"
    heads = len(saying) > 1 and name.startswith(f"{said} ") and (is_composed(name) or _is_headed_by(page, index, saying[0]))
    return said if (goes_on or iconed or heads) and not is_count(said) else ""


def _is_headed_by(page: Page, index: int, at: int) -> bool:
    """Whether what stands in an element is its heading, or stands in that."""
    inside = (at, *takewhile(lambda one: one > index, page.ancestors(at)))
    return at > index and any(page.semantics.roles[one] == "heading" for one in inside)


def label_leading(page: Page, index: int) -> str:
    """The same of the label of a field: *Moss* of `<label>Moss<span>Sold out</span></label>`."""
    label = page.semantics.label(index)
    labels = page.semantics.labels_of.get(index, ()) or labelling(page, index)
    return next((said for at in labels if (said := leading_of(page, at, label))), "")


def is_initials(letters: str, words: str) -> bool:
    """Whether some letters are those that some words begin with: *SD* of *Star Diner*."""
    begins = "".join(word[0] for word in words.split()[: len(letters)]).upper()
    return letters.isupper() and letters == begins and len(letters) < 4


def words_beside(page: Page, index: int) -> str:
    """What an element says itself, before parts that say more: *Vega* of `<li>Vega <button>Remove</button></li>`. Empty where it
    begins otherwise, with a figure, or with what nobody would tell it by."""
    own, shown = page.semantics.own_text[index], page.semantics.worded[index]
    return own if own != shown and shown.startswith(own) and _tells(own) else ""


def words_alone(page: Page, index: int) -> str:
    """What an element says itself, where nothing in it says more: *Vega* of `<li>Vega <button aria-label="Remove"></button></li>`.
    Empty where it says nothing, or what nobody would tell it by."""
    own, shown = page.semantics.own_text[index], page.semantics.worded[index]
    return own if own == shown and _tells(own) else ""


def _tells(own: str) -> bool:
    """Whether a person would tell by it what says it: by words, and not by what goes on in the middle (*... and*)."""
    if not SHORTEST_PART <= len(own) <= LONGEST_BESIDE or is_decoration(own) or own[0] in ".,;:":
        return False
    return _WORD.search(own) is not None and look_of_text(own) != "number"


def stems(shown: str) -> Iterator[str]:
    """A steady part of a text that is long or holds numbers: its longest run of words; of a long text, its beginning. None of a day
    of a calendar, which is the next week's otherwise, nor of what goes by its number (*Page 2*)."""
    if len(shown) <= 40 and not any(c.isdigit() for c in shown) and not is_decoration(shown):
        return
    if _is_a_day(shown) or _NUMBERED.fullmatch(shown):
        return
    shown = without_icons(shown)
    runs = list(_WORDS.finditer(shown)) or list(_WORD.finditer(shown))
    units = [run for run in runs if run.group().count(" ") < 2 and _COUNTED.search(shown[: run.start()])]
    told = [run for run in runs if run not in units] or runs  # *Pay* of *Pay 104 crowns*
    for run in sorted(told, key=lambda one: len(one.group()), reverse=True)[:1]:
        words = run.group().split(" ")
        if _ONE.search(shown[: run.start()]) and len(" ".join(words[1:])) >= SHORTEST_STEM:
            del words[0]  # what there is one of is called otherwise when there are two
        ends = len(words) <= MOST_WORDS and not _GOES_ON.match(shown, run.end())
        words = words[:MOST_WORDS]
        while len(words) > 1 and len(words[-1]) < SHORTEST_WORD and not ends:
            words.pop()
        part = " ".join(words)
        if (SHORTEST_STEM if run.start() else SHORTEST_BEGINNING) <= len(part) < len(shown):
            yield part


def _is_a_day(text: str) -> bool:
    """Whether it says a day of a calendar, by its weekday and its date: *Choose Monday, March 10th, 2031*."""
    return _DAY.search(text) is not None and is_date(text)


def whole_of(page: Page, index: int, part: str, name: str) -> str:
    """Of a part of a name all that the element in it says which says it, where that is words: *Vega rising* of *rising* in
    `<span>4:10</span><span>Vega rising</span>`."""
    own = page.semantics.own_text
    inside = (own[at] for at in range(index + 1, int(page.end[index])) if part in own[at])
    said = next(inside, part)
    return said if said in name and len(said) <= LONGEST_BESIDE and not any(map(str.isdigit, said)) else part


def first_of(page: Page, index: int, part: str) -> str:
    """Of a part of a name that goes from one text of an element into the next the first one, where that is words: *Vega* of
    `<b>Vega</b> <span>north dome, 3 left</span>`."""
    own = page.semantics.own_text
    said = [own[at] for at in Slots.of(page).members(index) if own[at]]
    if len(said) < 2 or any(part in one for one in said) or not part.startswith(f"{said[0]} "):
        return part
    return said[0] if _tells(said[0]) else part


def head_of(value: str, shown: str = "") -> str:
    """What a person calls it, of a name that goes on to give a hint, or figures: the text that is `shown`, or what stands before a
    colon, a bracket, an ellipsis or a comma. Empty where there is no hint."""
    if shown and (value.endswith((f", {shown}", f": {shown}"))):
        return value.removesuffix(shown).rstrip(" ,:")  # what it shows is what was chosen
    rest = value.removeprefix(shown) if shown else value
    if shown and rest != value:
        return shown if _HINT.match(rest) or rest.strip().startswith(shown) else ""
    if _is_a_day(value):
        return ""
    hint = (_HINT.search(value) or _FIGURES_AFTER.search(value)) if len(value) <= LONGEST_VALUE else None
    if hint and shown and shown in value[hint.end() :]:
        return ""  # it says what that is: `Name: Night plan` of the tab *Night plan*
    head = value[: hint.start()].strip(" -–—,") if hint else ""
    return head if len(head) >= SHORTEST_HEAD and not any(c.isdigit() for c in head) and "/" not in head else ""
