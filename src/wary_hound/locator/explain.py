"""Why a locator matches what it matches: counts hop by hop and step by step, and what it nearly matched."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

from rapidfuzz import fuzz, process

from wary_hound.locator import css, xpath
from wary_hound.locator.apart import marks_apart
from wary_hound.locator.css import values as c
from wary_hound.locator.css.matcher import Matcher
from wary_hound.locator.evaluate import TOP, Scope, as_locator, find_in, in_scopes, opened
from wary_hound.locator.notation import parse_role
from wary_hound.locator.printing import complex_text, css_text, simple_text, step_text, xpath_text
from wary_hound.locator.strategies import wanted_of
from wary_hound.locator.values import Boundary, Finder, Hop, Locator, Strategy
from wary_hound.locator.xpath import values as x
from wary_hound.page import Page
from wary_hound.page.arena import FRAME

MOST_MISSES = 4


@dataclass(frozen=True, slots=True)
class Step:
    """A part of a locator, and how many elements are left when it has been applied."""

    text: str
    count: int


@dataclass(frozen=True, slots=True)
class HopReport:
    """One hop: where it looked, its steps, and the elements that it found (indexes)."""

    text: str
    where: str
    steps: tuple[Step, ...]
    found: tuple[int, ...]
    note: str = ""


@dataclass(frozen=True, slots=True)
class Miss:
    """A locator that differs in one part and matches something: the nearest misses."""

    locator: str
    found: tuple[int, ...]
    """Elements (indexes) that the changed hop finds."""
    change: str

    @property
    def count(self) -> int:
        return len(self.found)


@dataclass(frozen=True)
class Explanation:
    """What `explain` found out. `found` holds element indexes in page order; `str()` gives it as lines of text.

    `apart` says of each of several matches (the first ones) what no other of them has; empty where it has nothing of its own.
    """

    locator: Locator
    page: Page
    found: tuple[int, ...]
    hops: tuple[HopReport, ...]
    misses: tuple[Miss, ...]
    notes: tuple[str, ...]
    apart: tuple[str, ...] = ()

    @property
    def summary(self) -> str:
        count = len(self.found)
        return "1 match" if count == 1 else f"{count or 'no'} matches"

    def __str__(self) -> str:
        lines = [f"{self.locator}: {self.summary}"]
        for hop in self.hops:
            lines.append(f"  {hop.text}  in {hop.where}")
            lines.extend(f"    {step.count:6}  {step.text}" for step in hop.steps)
            if hop.note:
                lines.append(f"    {hop.note}")
        for index, mark in zip(self.found, self.apart, strict=False):
            lines.append(f"  {self.page[index]}: {f'only it has {mark}' if mark else 'nothing of its own tells it apart'}")
        lines.extend(f"  nearly: {m.locator} matches {named(self.page, m)} ({m.change})" for m in self.misses)
        lines.extend(f"  {note}" for note in self.notes)
        return "\n".join(lines)


def explain(page: Page, locator: Locator | str) -> Explanation:
    """Evaluate a locator hop by hop and step by step. Raises NotationError where it does not parse."""
    value = as_locator(locator)
    if value.otherwise is not None:
        return _decisive(value, [explain(page, way) for way in value.alternatives])
    scopes: list[Scope] = [TOP]
    reports: list[HopReport] = []
    found: list[int] = []
    misses: list[Miss] = []
    notes: list[str] = []
    for number, hop in enumerate(value.hops):
        found = in_scopes(page, hop.finder, scopes).tolist()
        note = ""
        onward = opened(page, hop, found)
        if hop.boundary and found and not onward:
            note = f"found, but {'it holds' if len(found) == 1 else 'they hold'} no {_inside(hop.boundary)} in this snapshot"
        steps = tuple(_steps(page, hop.finder, scopes))
        reports.append(HopReport(str(hop), _where(page, scopes), steps, tuple(found), note))
        if not found:
            misses = list(_misses(page, value, number, scopes))
            notes = list(_elsewhere(page, hop.finder, scopes))
            break
        if hop.boundary and not onward:
            found = []
            break
        scopes = onward
    state = unknowable(value)
    if state:
        notes.append(f":{state} is a state that a page as data cannot hold: it matches nothing here")
    return Explanation(value, page, tuple(found), tuple(reports), tuple(misses), tuple(notes), marks_apart(page, found))


def _decisive(locator: Locator, ways: list[Explanation]) -> Explanation:
    """Why several alternatives match what they match: the one that decides, and how many each of them matches."""
    found = next((way for way in ways if len(way.found) == 1), ways[0])
    said = "; ".join(f"{'else ' if number else ''}{way.locator}: {way.summary}" for number, way in enumerate(ways))
    return replace(found, locator=locator, notes=(said, *found.notes))


def named(page: Page, miss: Miss) -> str:
    """How many elements a near miss finds; the element itself where it is one."""
    return f"1: {page[miss.found[0]]}" if miss.count == 1 else str(miss.count)


def _inside(boundary: Boundary) -> str:
    return "shadow tree" if boundary is Boundary.SHADOW else "frame document"


def tree_name(page: Page, number: int) -> str:
    """A tree in words: `the document`, `the shadow tree (closed) of <sky-dial>`."""
    tree = page.trees[number]
    if tree.host < 0:
        return "the document"
    host = page[tree.host]
    mark = next((f' {k}="{host.attributes[k]}"' for k in ("id", "title", "name") if host.attributes.get(k)), "")
    if tree.kind == FRAME:
        return f"the frame <{host.tag}{mark}>"
    return f"the shadow tree ({tree.mode}) of <{host.tag}{mark}>"


def _where(page: Page, scopes: list[Scope]) -> str:
    if len(scopes) > 1:
        return f"{len(scopes)} places"
    tree, inside = scopes[0]
    return tree_name(page, tree) if inside < 0 else f"<{page.tags[inside]}> (element {inside})"


# --- steps -------------------------------------------------------------------------------------------------------------


def _steps(page: Page, finder: Finder, scopes: list[Scope]) -> Iterator[Step]:
    plain = replace(finder, ordinal=None, relation=None, anchor=None)
    yield from _expression_steps(page, finder, scopes)
    if finder.relation is not None and finder.anchor is not None:
        anchors = in_scopes(page, finder.anchor, scopes)
        yield Step(f"anchor {finder.anchor}", len(anchors))
        related = replace(plain, relation=finder.relation, anchor=finder.anchor)
        yield Step(f"@{finder.relation} that anchor", len(in_scopes(page, related, scopes)))
    if finder.ordinal is not None:
        yield Step(f"#{finder.ordinal} of them", len(in_scopes(page, finder, scopes)))


def _expression_steps(page: Page, finder: Finder, scopes: list[Scope]) -> Iterator[Step]:
    if finder.strategy is Strategy.CSS:
        yield from _css_steps(page, finder.expression, scopes)
    elif finder.strategy is Strategy.XPATH:
        yield from _xpath_steps(page, finder.expression, scopes)
    elif finder.strategy is Strategy.ROLE:
        wanted = parse_role(finder.expression)
        bare = Finder(Strategy.ROLE, wanted.role)
        yield Step(f"role {wanted.role}", len(in_scopes(page, bare, scopes)))
        if wanted.name is not None:
            how = "name contains" if wanted.name.part else "name is"
            whole = Finder(Strategy.ROLE, finder.expression)
            yield Step(f'{how} "{wanted.name.text}"', len(in_scopes(page, whole, scopes)))
    else:
        text = wanted_of(finder.strategy, finder.expression)
        assert text is not None
        how = "contains" if text.part else "is"
        whole = Finder(finder.strategy, finder.expression)
        yield Step(f'{finder.strategy} {how} "{text.text}"', len(in_scopes(page, whole, scopes)))


def _css_steps(page: Page, expression: str, scopes: list[Scope]) -> Iterator[Step]:
    selectors = css.parse(expression)
    if len(selectors) > 1:
        for selector in selectors:
            text = complex_text(selector)
            yield Step(text, len(in_scopes(page, Finder(Strategy.CSS, text), scopes)))
        return
    selector = selectors[0]
    for k, compound in enumerate(selector.compounds):
        for n in range(1, len(compound.simples) + 1):
            partial = c.Complex(selector.combinators[: k + 1], (*selector.compounds[:k], c.Compound(compound.simples[:n])))
            last = k == len(selector.compounds) - 1
            yield Step(complex_text(partial), _css_count(page, partial, scopes, inside=last))


def _css_count(page: Page, selector: c.Complex, scopes: list[Scope], inside: bool) -> int:
    found: set[int] = set()
    for tree, scope in scopes:
        matched = Matcher(page, tree, scope).complex(selector).tolist()
        found.update(i for i in matched if not inside or scope < 0 or scope < i < page.end[scope])
    return len(found)


def _xpath_steps(page: Page, expression: str, scopes: list[Scope]) -> Iterator[Step]:
    parsed = xpath.parse(expression)
    if not isinstance(parsed, x.Path) or parsed.start is not None:
        yield Step(expression, len(in_scopes(page, Finder(Strategy.XPATH, expression), scopes)))
        return
    for k, step in enumerate(parsed.steps):
        if step.test == "node()" and step.axis == "descendant-or-self":
            continue
        for n in range(len(step.predicates) + 1):
            part = x.Path(parsed.absolute, (*parsed.steps[:k], replace(step, predicates=step.predicates[:n])))
            found = {i for tree, scope in scopes for i in xpath.match(page, part, tree, scope)}
            text = step_text(replace(step, predicates=())) if n == 0 else f"[{xpath_text(step.predicates[n - 1])}]"
            yield Step(("  " if n else "") + text, len(found))


# --- near misses -------------------------------------------------------------------------------------------------------


def _misses(page: Page, locator: Locator, number: int, scopes: list[Scope]) -> Iterator[Miss]:
    """What one weakening of the failing hop would match."""
    hop = locator.hops[number]
    found: list[Miss] = []
    for finder, change in _weakened(page, hop.finder, scopes):
        matched = in_scopes(page, finder, scopes)
        if len(matched):
            whole = Locator((*locator.hops[:number], Hop(finder, hop.boundary), *locator.hops[number + 1 :]))
            found.append(Miss(str(whole), tuple(matched.tolist()), change))
    found.sort(key=lambda miss: miss.count)
    yield from found[:MOST_MISSES]


def _weakened(page: Page, finder: Finder, scopes: list[Scope]) -> Iterator[tuple[Finder, str]]:
    if finder.ordinal is not None:
        yield replace(finder, ordinal=None), f"without #{finder.ordinal}"
    if finder.relation is not None:
        yield replace(finder, relation=None, anchor=None, ordinal=None), f"without @{finder.relation}"
        if finder.anchor is not None and not len(in_scopes(page, finder.anchor, scopes)):
            for anchor, change in _weakened(page, finder.anchor, scopes):
                yield replace(finder, anchor=anchor), f"anchor {change}"
            return
    if finder.strategy is Strategy.CSS:
        for text, change in _weaker_css(finder.expression):
            yield replace(finder, expression=text), change
    elif finder.strategy is Strategy.XPATH:
        for text, change in _weaker_xpath(finder.expression):
            yield replace(finder, expression=text), change
    else:
        yield from _weaker_text(page, finder, scopes)


def _weaker_css(expression: str) -> Iterator[tuple[str, str]]:
    selectors = css.parse(expression)
    if len(selectors) != 1:
        return
    selector = selectors[0]
    for k, compound in enumerate(selector.compounds):
        for n, simple in enumerate(compound.simples):
            rest = compound.simples[:n] + compound.simples[n + 1 :]
            if simple == c.Type("*"):
                continue
            weaker = c.Compound(rest or (c.Type("*"),))
            compounds = (*selector.compounds[:k], weaker, *selector.compounds[k + 1 :])
            alone = len(selector.compounds) == 1
            if not rest and (alone or k < len(selector.compounds) - 1):
                continue  # what is left would say nothing
            yield css_text((c.Complex(selector.combinators, compounds),)), f"without {simple_text(simple)}"
        if k < len(selector.compounds) - 1:
            yield (
                css_text((c.Complex(("", *selector.combinators[k + 2 :]), selector.compounds[k + 1 :]),)),
                f"without {''.join(map(simple_text, compound.simples))} before it",
            )
    for k, combinator in enumerate(selector.combinators):
        if k and combinator == ">":
            looser = (*selector.combinators[:k], " ", *selector.combinators[k + 1 :])
            yield css_text((c.Complex(looser, selector.compounds),)), "any descendant for a child"


def _weaker_xpath(expression: str) -> Iterator[tuple[str, str]]:
    parsed = xpath.parse(expression)
    if not isinstance(parsed, x.Path):
        return
    for k, step in enumerate(parsed.steps):
        for n, predicate in enumerate(step.predicates):
            looser = replace(step, predicates=step.predicates[:n] + step.predicates[n + 1 :])
            steps = (*parsed.steps[:k], looser, *parsed.steps[k + 1 :])
            yield xpath_text(replace(parsed, steps=steps)), f"without [{xpath_text(predicate)}]"
        if step.axis == "child" and step.test not in ("*", "node()", "text()"):
            steps = (*parsed.steps[:k], replace(step, test="*"), *parsed.steps[k + 1 :])
            yield xpath_text(replace(parsed, steps=steps)), f"any tag for {step.test}"


def _weaker_text(page: Page, finder: Finder, scopes: list[Scope]) -> Iterator[tuple[Finder, str]]:
    """The nearest texts of the same kind, and a part for the whole."""
    from wary_hound.locator.values import label, role, text

    wanted = wanted_of(finder.strategy, finder.expression)
    if wanted is None:
        return
    trees = {tree for tree, _ in scopes}
    semantics = page.semantics
    elements = [i for tree in trees for i in page.index.in_tree[tree].tolist() if semantics.rendered[i]]
    if finder.strategy is Strategy.ROLE:
        kind = parse_role(finder.expression).role
        texts = [semantics.name(i) for i in elements if semantics.roles[i] == kind]
        yield replace(finder, expression=kind), "any name"
    elif finder.strategy is Strategy.LABEL:
        texts = [semantics.label(i) for i in elements]
    else:
        texts = [semantics.text[i] for i in elements if len(semantics.text[i]) <= 3 * len(wanted.text) + 40]

    def made(value: str, part: bool) -> Finder:
        if finder.strategy is Strategy.ROLE:
            fresh = role(parse_role(finder.expression).role, value, part)
        else:
            fresh = label(value, part) if finder.strategy is Strategy.LABEL else text(value, part)
        return replace(finder, expression=fresh.expression)

    if not wanted.part:
        yield made(wanted.text, True), "a part for the whole"
    near = process.extract(wanted.text, sorted({t for t in texts if t}), scorer=fuzz.ratio, limit=2, score_cutoff=55)
    for value, score, _ in near:
        if value != wanted.text:
            yield made(value, False), f"reads {round(score)} % alike"


def _elsewhere(page: Page, finder: Finder, scopes: list[Scope]) -> Iterator[str]:
    """Whether a frame or shadow edge is why: the same finder in the trees where it was not asked to look."""
    if finder.relation is not None and finder.relation.geometric:
        return
    looked = {tree for tree, _ in scopes}
    for tree in page.trees:
        if tree.number in looked:
            continue
        count = len(find_in(page, finder, (tree.number, -1)))
        if count:
            kind = "frame" if tree.kind == FRAME else "shadow"
            yield (
                f"it matches {count} inside {tree_name(page, tree.number)}, where a locator that starts at "
                f"{_where(page, scopes)} does not look: open it with a hop, {kind} css{{{page.tags[tree.host]}}} -> ..."
                if tree.host >= 0
                else f"it matches {count} in the document, outside of where this hop looks"
            )


def unknowable(locator: Locator) -> str:
    """A state that CSS names in it and a page as data cannot hold (`hover`, ...), or nothing."""
    from wary_hound.locator.css.parser import UNKNOWABLE

    def within(selectors: tuple[c.Complex, ...]) -> Iterator[str]:
        for selector in selectors:
            for compound in selector.compounds:
                for simple in compound.simples:
                    match simple:
                        case c.Pseudo(name, _) if name in UNKNOWABLE or name == "element":
                            yield name
                        case c.Matches(_, inner):
                            yield from within(inner)

    for hop in locator.hops:
        finder: Finder | None = hop.finder
        while finder is not None:
            if finder.strategy is Strategy.CSS:
                for name in within(css.parse(finder.expression)):
                    return name
            finder = finder.anchor
    return ""


__all__ = ["Explanation", "HopReport", "Miss", "Step", "explain", "tree_name"]
