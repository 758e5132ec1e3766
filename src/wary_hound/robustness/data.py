"""Words that are data: what a page shows is not always what it is. A status, an output, a counter are there to change."""

from __future__ import annotations

import re
from functools import lru_cache

import numpy as np

from wary_hound.locator.blocks import row_of
from wary_hound.locator.tables import Tables
from wary_hound.page import Page
from wary_hound.robustness.looks import is_sign

_ROLES = frozenset({"status", "alert", "log", "timer", "marquee", "progressbar", "meter"})
_TAGS = frozenset({"output", "progress", "meter", "time", "textarea", "pre", "samp"})
_COUNTERS = re.compile(
    r"(?:^|[-_])(?:badge|count|counter|total|balance|price|amount|value|username|user-name|user-icon|user-label|display-name|topbar_name|greeting|initials|avatar)(?:$|[-_])",
    re.I,
)
_ERRORS = re.compile(r"(?:^|[-_])(?:errors?|errorlist|invalid-feedback)(?:$|[-_])", re.I)
_HINTS = re.compile(r"(?:^|[-_])(?:help|hint|message|feedback|note)(?:$|[-_])", re.I)
_FAILED = re.compile(r"^(?:has|is|with|state)[-_](?:errors?|danger|invalid)$|^(?:error|invalid)$", re.I)
_ACCOUNTS = re.compile(r"(?:^|[-_])(?:user|account|profile)[-_]?(?:tools|menu|nav|info|bar|links|box|greeting)(?:$|[-_])", re.I)
_ACCOUNT = re.compile(r"(?:^|[-_])(user|account|profile|whoami)\Z", re.I)
_SAYING = frozenset("text label content inner body number".split())
NAME_TAGS = frozenset("b bdi em i span strong".split())
_PRESSED = frozenset("button link menuitem tab checkbox radio switch option".split())
"""Roles of what says what it does."""
_GREETING = re.compile(
    r"(?:(?:hello|hi|hey),? |(?:welcome(?: back)?|good (?:morning|afternoon|evening|day)), )\w+[\w .'’-]{0,40}!?\Z", re.I
)
"""How a page greets who is signed in, by name."""
_WRITABLE = frozenset({"", "true", "plaintext-only"})
"""The values of `contenteditable` with which people write in an element (HTML, 6.8.1)."""
MOST_OF_A_NAME = 3
"""A name is so many words at most."""
ABOVE = 3
"""So many ancestors are asked, too: what stands in a status changes with it."""


def shows_data(page: Page, element: int) -> bool:
    """Whether the text of an element is data by what the page says of it: live regions and outputs (HTML, ARIA), the time,
    what a program reads or writes (`<pre>`), the text of fields, what a list of terms says of one (`<dd>`: it is known by its
    term), what a class or an id calls a counter, a price, a user's name (or its first letters) or an error; what a list shows as
    chosen."""
    written = (page.attribute(at, "contenteditable") for at in (element, *page.ancestors(element)[:ABOVE]))
    if any(value is not None and value.lower() in _WRITABLE for value in written):
        return True
    if page.tags[element] == "dd" or _shows_a_choice(page, element) or _GREETING.match(page.semantics.worded[element]):
        return True
    pressed = page.semantics.roles[element] in _PRESSED  # *Undo* in a message is what it does
    for at in (element, *(() if pressed else page.ancestors(element)[:ABOVE])):
        attributes = page.attributes_of(at)
        if page.tags[at] in _TAGS or (page.semantics.roles[at] in _ROLES and not _is_an_entry(page, element, at)):
            return True
        if attributes.get("aria-live", "off").strip().lower() in ("polite", "assertive"):
            return True
    if _names_an_account(page, element):
        return True
    named = _names(page, element)
    listed = int(page.parent[element]) if page.tags[element] == "li" else element
    if any(_COUNTERS.search(_last_part(name)) or _ERRORS.search(name) for name in named):
        return True
    return any(map(_ERRORS.search, _names(page, listed))) or _tells_of_an_error(page, element)


def _is_an_entry(page: Page, element: int, log: int) -> bool:
    """Whether it is, or stands in, one of the entries of a log: others come behind it, and it goes on to say what it says."""
    return page.semantics.roles[log] == "log" and row_of(page, element) > log


def _tells_of_an_error(page: Page, element: int) -> bool:
    """Whether it is the hint of a field that its block says has an error."""
    if not any(map(_HINTS.search, _names(page, element))):
        return False
    around = (element, *page.ancestors(element)[:ABOVE])
    return any(map(_FAILED.search, (name for at in around for name in _names(page, at))))


def _shows_a_choice(page: Page, element: int) -> bool:
    """Whether it opens a list or a menu, is named by something else, and says what was chosen there: *Heading 2* on *Blocks*. What
    a box to choose in says is that, even where it is named by it."""
    if page.semantics.roles[element] == "combobox":
        return bool(page.semantics.worded[element])
    shown, holder = page.semantics.worded[element], int(page.parent[element])
    whole = holder if holder >= 0 and page.semantics.worded[holder] == shown else element  # a button in what opens the list
    opens = next((at for at in (element, whole) if page.attribute(at, "aria-haspopup") not in (None, "", "false")), -1)
    counts = shown[:1].isdigit() and is_count(shown.partition(",")[0])  # *2 adults, one night*
    return opens >= 0 and (counts or page.semantics.name(opens) not in ("", shown))


def holds_its_state(page: Page, element: int) -> bool:
    """Whether the value of an element that is no field itself (a component) is that of the text field in it, or how far the bar
    or the slider in it is."""
    value = page.attribute(element, "value")
    if not value or "-" not in page.tags[element]:
        return False
    return any(
        value == page.attribute(at, "aria-valuenow")
        or (page.tags[at] in ("input", "textarea") and value == page.attribute(at, "value"))
        for at in range(element + 1, int(page.end[element]))
    )


def is_one_of_marked(page: Page, element: int) -> bool:
    """Whether a style sheet marks some of those beside it that are chosen (*Places ✓*): its name then says whether it is, too."""
    texts, worded, tag = page.semantics.text, page.semantics.worded, page.tags[element]
    alike = (at for at in page.children(int(page.parent[element])) if page.tags[at] == tag and worded[at])
    marks = (texts[at].removeprefix(worded[at]) for at in alike if texts[at] != worded[at])
    return any(mark and is_sign(mark) for mark in marks)


def says_only_its_deed(page: Page, element: int, called: str) -> bool:
    """Whether a button in a row is called by what it does (*react with eyes*), and by no word that its row says besides (*Edit
    Vega*): the next row may have one, too. Where the row says nothing, what is done to it tells it."""
    row = row_of(page, element) if page.semantics.roles[element] == "button" else -1
    if row < 0:
        return False
    own, end = page.semantics.own_text, int(page.end[element])
    others = " ".join(own[at] for at in range(row, int(page.end[row])) if own[at] and not element <= at < end)
    return bool(others) and _words(called).isdisjoint(_words(others))


def _words(said: str) -> set[str]:
    return {word.casefold() for word in re.findall(r"\w{3,}", said)}


def _names_an_account(page: Page, element: int) -> bool:
    """Whether it says a word or two among the tools of who is signed in, and is no control: most likely the name."""
    if _is_an_account(page, element):
        return True
    if page.tags[element] not in NAME_TAGS or len(page.semantics.worded[element].split()) > MOST_OF_A_NAME:
        return False
    above = page.ancestors(element)[:ABOVE]
    if any(page.semantics.roles[at] in _PRESSED for at in (element, *above)):
        return False
    return any(_ACCOUNTS.search(name) for at in above for name in _names(page, at))


def _is_an_account(page: Page, element: int) -> bool:
    """Whether it, or what it stands in, is called the one user or account of the page, and says another word or two than that."""
    said = page.semantics.worded[element]
    if not 0 < len(said.split()) <= MOST_OF_A_NAME:
        return False
    return any(
        (called := _ACCOUNT.search(name)) is not None
        and called[1].lower() not in said.lower()
        and len(page.index.by_class.get(name, ())) < 2
        for at in (element, *page.ancestors(element)[:1])
        for name in _names(page, at)
    )


def _last_part(name: str) -> str:
    """Which part of a block a class says its element is (`btn` of `counter__btn--large`); all of it where that is what it says."""
    block, _, part = name.rpartition("__")
    said = part.partition("--")[0]
    return said if block and said not in _SAYING else name


def _names(page: Page, element: int) -> list[str]:
    attributes = page.attributes_of(element)
    return [attributes.get("id", ""), *attributes.get("class", "").split()]


_NUMBERED = frozenset({"button", "link", "option", "tab", "radio", "menuitem", "heading"})
"""Roles of what a number may be a name of."""
_YEAR = re.compile(r"(?:19|20)\d\d")
_ICONS = frozenset({"svg", "i", "img"})


def known_by_number(page: Page, index: int) -> bool:
    """Whether a number is a name of an element, by its tag and role, and no datum: a page of a list, a day of a calendar, a key.
    Beside an icon it says how many there are: *12* behind a heart."""
    if page.semantics.roles[index] not in _NUMBERED and page.tags[index] != "a":
        return False
    said = page.semantics.worded[index]
    if page.semantics.roles[index] == "heading" and (is_date(said) or (_MEASURE.match(said) and not _YEAR.fullmatch(said))):
        return False  # what a calendar shows, the day of what stands below, how many there are of what it says there
    if not any(map(str.isdigit, page.attribute(index, "aria-label") or "0")):
        return False  # it has a name: *Like*, which so many did
    return not any(page.tags[at] in _ICONS and not page.semantics.text[at] for at in range(index + 1, int(page.end[index])))


def is_measured(page: Page, element: int, shown: str) -> bool:
    """Whether a text of an element is a figure that says how much, and no name: with a sign, a unit or a fraction anywhere, a bare
    one outside of tables, whose rows may have numbers (*12* below *Guests tonight*)."""
    if not (measure := _MEASURE.match(shown)) or known_by_number(page, element):
        return False
    return measure[1] is None or Tables.of(page).around(element) is None


_BRACKETED = re.compile(r"\(\d+\)\Z")
_COUNTED = re.compile(r".*[^\W\d_]{3,} ?\((?!(?:19|20)\d\d\))\d+\)", re.S)
"""Words that go on with how many there are, in brackets; no year."""
_LENGTH = re.compile(r"\d{1,2}(?::\d\d){1,2}\Z")
SHORTEST_COUNTED = 4
"""What is counted is a word of so many letters, and no day of the week (*Mo 12*)."""


def holds_a_count(page: Page, element: int, shown: str) -> bool:
    """Whether a text of an element goes on after its words with a count in brackets, or in an element of its own, or begins with
    how long something takes: *Planet (4)*, *Notes <span>4</span>*, *<span>4:10</span>Vega rising*."""
    if _COUNTED.fullmatch(shown[:LONGEST]):
        return True
    own = page.semantics.own_text
    inside = range(element + 1, int(page.end[element]))
    first, last = (next((own[at] for at in way if own[at]), "") for way in (inside, reversed(inside)))
    said = shown
    if _BRACKETED.match(last) and said.endswith(last) and said != last:
        return True
    if is_count(last):
        said = said.removesuffix(last).strip()
    if _LENGTH.match(first):
        said = said.removeprefix(first)
    letters = sum(map(str.isalpha, said))
    return said not in (shown, "") and (letters == 0 or letters >= SHORTEST_COUNTED)


_MEASURE = re.compile(r"(?:(\d+)|[(+\-−~≈<>]*[€$£]? ?\d[\d.,\u00a0]*(?: ?[€$£%‰°′″'\"]+[CFK]?)?\)?)\Z")
"""A whole number, or another figure."""
_FIGURE = re.compile(r"[(€$£+-]*\d[\d.,:/-]*(?:[%°)]|\w{1,2})?[.,:;)]*\Z")
_DATE = re.compile(
    r"\b\d{4}-\d\d-\d\d(?:\b|(?=T\d))|\b(?:jan(?:uary)?|feb(?:ruary)?|mar(?:ch)?|apr(?:il)?|may|june?|july?|aug(?:ust)?|sept?(?:ember)?"
    r"|oct(?:ober)?|nov(?:ember)?|dec(?:ember)?)\b(?=.*\d)|\d.*\b(?:jan|feb|mar|apr|may|june?|july?|aug|sept?|oct|nov|dec)\w*",
    re.I,
)
_MONTH = re.compile(
    r"(?:january|february|march|april|may|june|july|august|september|october|november|december)(?:,? \d{4})?\Z", re.I
)
_SINCE = re.compile(r"\b(?:an?|\d+) (?:second|minute|hour|day|week|month|year)s? ago\b", re.I)
_DUE = re.compile(r"\b(?:due|overdue|until|since|expires?)\b.*\b(?:today|tomorrow|yesterday|in (?:an?|\d+) [a-z]+)\b", re.I)
_PASSING = re.compile(
    rf"{_SINCE.pattern}|\b(?:just now|(?:seconds|moments|minutes|hours|days|weeks|months|years) ago|yesterday"
    r"|last (?:night|week|month))\b",
    re.I,
)
_TIME = re.compile(r"(?:\b|(?<=\dT))\d{1,2}:\d\d(?: ?[ap]\.?m\b|\b)", re.I)
LONGEST = 500
"""Nobody says an amount or a moment in more letters."""
MOST_COUNTED = 3
"""A count and what is counted are so many words at most: `34 rows`."""


@lru_cache(maxsize=50_000)
def is_count(text: str) -> bool:
    """Whether a text says how many, how much, how far or when: `34 rows`, `7 °C`, `1 to 10 of 57`, `May 2031`, `June`."""
    if len(text) > LONGEST:
        return False
    words = text.split()
    figures = [bool(_FIGURE.match(word)) for word in words]
    counted = sum(figures) > 1 or (any(figures[:1]) and len(words) <= MOST_COUNTED)
    return counted or (any(figures) and bool(_DATE.search(text))) or bool(_MONTH.match(text))


_AMOUNT = re.compile(
    r"[(+-]*(?:[€$£] ?\d[\d.,]*|\d[\d.,]* ?(?!(?:st|nd|rd|th)\b)(?:[€$£%′″'\"]|° ?\w?|(?<= )[^\W\d].*|[a-z]{1,2}))\Z", re.I
)


@lru_cache(maxsize=50_000)
def is_amount(text: str) -> bool:
    """Whether a text says how much of something, and no date: `58 crowns`, `$12`, `2.4 kB`."""
    words = text.split() if len(text) <= LONGEST else []
    return 0 < len(words) <= MOST_COUNTED and bool(_AMOUNT.match(" ".join(words))) and not _DATE.search(text)


_OUT_OF = re.compile(r"\d+ of \d+\b")
"""How many of all, where a text begins so."""
_COUNTING = re.compile(
    r"(?:\A|[,(:] ?|\b(?:and|with|has|have|had|show|view|viewed|see|open|load|all) )"
    r"(?!\d+ (?:[a-z]+ )?(?:seconds?|minutes?|hours?|days?|weeks?|months?|years?)\b)"
    r"(?:\d+ (?:[a-z]+ )?[a-z]{3,}s\b|1 [a-z]{3,}\b|\d+ unread\b)|\(\d+\)\Z",
    re.I,
)


@lru_cache(maxsize=50_000)
def counts_things(text: str) -> bool:
    """Whether a text says how many things there are, among other words: `Show 3 new notes`, `12 replies, jump to the first`. No
    span of time, by which a choice may be called: `Last 7 days`."""
    return bool(_COUNTING.search(text[:LONGEST]) or _OUT_OF.match(text))


MOST_FIGURES = 2
"""Figures in what a person calls something; a date is none."""


_MONEY = re.compile(r"[€$£¥] ?\d|\d ?(?:€|£|EUR\b|USD\b|GBP\b|CHF\b)")
"""What something costs, in figures."""


@lru_cache(maxsize=50_000)
def is_composed(text: str) -> bool:
    """Whether a text is put together from figures that change apart from one another: `Starline, 19:00 to 22:20, 72 euros`; or
    goes on to say what that costs."""
    priced = _MONEY.search(text[:LONGEST])
    return len(text) <= LONGEST and (figures_in(_DATE.sub("", text)) > MOST_FIGURES or (priced is not None and priced.start() > 0))


def figures_in(text: str) -> int:
    """How many of the words of a text have a figure in them."""
    return sum(any(map(str.isdigit, word)) for word in text.split())


def is_date(text: str) -> bool:
    """Whether a text says a date, among other words: `14th February 2031`, `on 2031-02-14`."""
    return bool(_DATE.search(text[:LONGEST]))


def is_passing(text: str) -> bool:
    """Whether a text says when something was, as seen from now: `3 days ago`, `yesterday`. Tomorrow it says something else."""
    return len(text.split()) <= MOST_COUNTED and bool(_PASSING.search(text))


def says_how_long_ago(page: Page, element: int, shown: str) -> bool:
    """Whether a text of an element, or a part of it, says when something was, as seen from now; no choice of a span of time
    (*Yesterday*, *Last week* of a menu)."""
    role = page.semantics.roles[element]
    chosen = shown[:1].isupper() if role == "link" else role in _PRESSED
    return not chosen and is_passing(shown)


@lru_cache(maxsize=50_000)
def is_moment(text: str) -> bool:
    """Whether a text says a date and a time of day, how long ago something was, or that it is due tomorrow."""
    text = text[:LONGEST]
    return bool((_TIME.search(text) and _DATE.search(text)) or _SINCE.search(text) or _DUE.search(text))


def says_when(text: str) -> bool:
    """Whether a text tells what was at which time of day, in a few words: `Ines wrote at 9:02 PM, Vega is up`."""
    text = text[:LONGEST]
    return sum(map(str.isalpha, text.split())) >= MOST_OF_A_NAME and _TIME.search(text) is not None


def holds_a_moment(page: Page, element: int, said: str) -> bool:
    """Whether what an element is called says what a `<time>` in it says (HTML, 4.5.14)."""
    times = page.index.by_tag.get("time")
    if times is None:
        return False
    first, behind = np.searchsorted(times, (element + 1, page.end[element]))
    texts = (page.semantics.worded[at] for at in times[first:behind])
    return any(text and text in said for text in texts)
