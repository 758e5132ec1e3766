"""The elements of a page that come nearest to what a locator says.

For when a locator finds nothing, and nobody remembers what its element looked like. There is no verdict, since so little is known:
each fact that the locator names is compared as text (normalised edit distance), and they count alike, tag and role by half.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from rapidfuzz import fuzz, process

from wary_hound.locator import css, xpath
from wary_hound.locator.css import values as c
from wary_hound.locator.evaluate import as_locator
from wary_hound.locator.notation import parse_role, parse_wanted
from wary_hound.locator.values import Finder, Locator, Strategy
from wary_hound.locator.xpath import values as x
from wary_hound.page import Element, Page

ALIKE = 0.6
"""Elements are named where some fact besides tag and role is so much alike, of 1."""
MOST = 3
_KIND = {"tag": 0.5, "role": 0.5}


@dataclass(frozen=True, slots=True)
class Near:
    """An element, and in words what agrees with what the locator says and what does not."""

    element: Element
    why: str

    def __str__(self) -> str:
        return f"{self.element} ({self.why})"


def nearest(locator: Locator | str, page: Page, most: int = MOST) -> tuple[Near, ...]:
    """The elements of a page that come nearest to what the last hop of a locator says, best first; none where nothing is alike."""
    told = list(_told(as_locator(locator).last))
    if not told or not len(page):
        return ()
    table = np.vstack([_similar(page, kind, value) for kind, value in told])
    weights = np.asarray([_KIND.get(kind, 1.0) for kind, _ in told])
    scores = weights @ table + 0.01 * page.semantics.rendered
    telling = weights == 1.0
    enough = (table[telling] >= ALIKE).any(axis=0)
    found: list[Near] = []
    for at in np.argsort(-scores, kind="stable").tolist():
        if len(found) == most or scores[at] < scores.max() / 2:
            break
        related = any(n.element.index <= at < page.end[n.element.index] or at <= n.element.index < page.end[at] for n in found)
        if enough[at] and not related:  # wrappers share the text of what they hold
            found.append(Near(page[at], _why([_SAID.get(kind, kind) for kind, _ in told], table[:, at].tolist())))
    return tuple(found)


_SAID = {"class": "class", "name": "accessible name", "@name": "name attribute"}


def _why(facts: list[str], alike: list[float]) -> str:
    sorted_out: dict[str, list[str]] = {"same": [], "like": [], "other": []}
    for fact, share in zip(facts, alike, strict=True):
        sorted_out["same" if share == 1 else "like" if share >= ALIKE else "other"].append(fact.removeprefix("@"))
    return "; ".join(f"{word} {', '.join(dict.fromkeys(which))}" for word, which in sorted_out.items() if which)


def _similar(page: Page, kind: str, wanted: str) -> np.ndarray[tuple[int], np.dtype[np.float64]]:
    """How much alike a fact of each element is, 0 to 1."""
    semantics, every = page.semantics, range(len(page))
    match kind:
        case "tag":
            return np.asarray([float(tag == wanted) for tag in page.tags])
        case "role":
            return np.asarray([float(role == wanted) for role in semantics.roles])
        case "class":
            column = page.index.attribute_column("class")
            return np.asarray([max((_alike(wanted, [one])[0] for one in column.get(i, "").split()), default=0.0) for i in every])
        case "text":
            texts = semantics.text
        case "name":
            texts = [semantics.name(i) for i in every]
        case "label":
            texts = [semantics.label(i) for i in every]
        case _:
            values = page.index.attribute_column(kind.removeprefix("@"))
            texts = [values.get(i, "") for i in every]
    return np.asarray(_alike(wanted, texts))


def _alike(wanted: str, texts: list[str]) -> list[float]:
    found: list[float] = process.cdist([wanted], texts, scorer=fuzz.ratio, dtype=np.float64)[0].tolist()
    return [score / 100 for score in found]


def _told(finder: Finder) -> Iterator[tuple[str, str]]:
    """The facts that it names, with their values: `tag`, `role`, `class`, `text`, `label`, `name` (the accessible one), `@id`."""
    match finder.strategy:
        case Strategy.ROLE:
            asked = parse_role(finder.expression)
            yield "role", asked.role
            if asked.name is not None:
                yield "name", asked.name.text
        case Strategy.LABEL:
            yield "label", parse_wanted(finder.expression).text
        case Strategy.TEXT:
            yield "text", parse_wanted(finder.expression).text
        case Strategy.CSS:
            for simple in css.parse(finder.expression)[0].compounds[-1].simples:
                yield from _of_css(simple)
        case Strategy.XPATH:
            parsed = xpath.parse(finder.expression)
            while isinstance(parsed, x.Filtered):
                parsed = parsed.primary
            if isinstance(parsed, x.Path):
                yield from _of_step(parsed.steps[-1])


def _of_css(simple: c.Simple) -> Iterator[tuple[str, str]]:
    match simple:
        case c.Type(name) if name != "*":
            yield "tag", name.lower()
        case c.Id(value):
            yield "@id", value
        case c.Class(value):
            yield "class", value
        case c.Attribute(name, _, value, _) if value:
            yield _named(name), value


def _of_step(step: x.Step) -> Iterator[tuple[str, str]]:
    if step.axis in ("attribute", "namespace") or step.test.endswith("()"):
        return
    if step.test != "*":
        yield "tag", step.test.lower()
    for predicate in step.predicates:
        yield from _of_predicate(predicate)


def _of_predicate(predicate: x.Expression) -> Iterator[tuple[str, str]]:
    match predicate:
        case x.Binary("and", left, right):
            yield from _of_predicate(left)
            yield from _of_predicate(right)
        case x.Binary("=", left, x.Literal(value)) | x.Call("contains" | "starts-with", (left, x.Literal(value))):
            match left:
                case x.Path(False, (x.Step("attribute", name, ()),), None):
                    yield _named(name), value
                case x.Call("normalize-space" | "string", _) | x.Path(False, (x.Step(_, "node()" | "text()", ()),), None):
                    yield "text", value


def _named(attribute: str) -> str:
    return "class" if attribute.lower() == "class" else f"@{attribute.lower()}"
