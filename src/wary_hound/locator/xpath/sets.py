"""XPath on the page's indexes: whole sets of elements at a time, for the expressions that are mostly written.

A path of steps between elements, with predicates on attributes, texts, children and positions, is answered by array
operations, as CSS is. What does not fit (`Unfit`) is left to the evaluator, which takes node by node and knows everything.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
import numpy.typing as npt

from wary_hound.locator.css.matcher import NOTHING, IntArray, Matcher, among, distinct
from wary_hound.locator.css.values import Attribute
from wary_hound.locator.xpath.values import Binary, Call, Expression, Filtered, Literal, Negative, Number, Path, Step, is_positional
from wary_hound.page import Page
from wary_hound.page.index import SPACE
from wary_hound.page.trees import HTML

Floats = npt.NDArray[np.float64]
FEW = 4
"""Up to so many elements, their children are walked one by one: that beats array operations."""


class Unfit(Exception):
    """An expression, or a part of one, that sets cannot answer. Never leaves the package."""


def match(page: Page, expression: Expression, tree: int) -> list[int]:
    """The elements that an absolute expression finds in a tree, in page order. Raises Unfit."""
    if isinstance(expression, Path) and expression.absolute and expression.start is None:
        if expression.steps and len(expression.descent) == len(expression.steps):
            found, taken = _descend(page, tree, expression.descent)
            if taken == len(expression.steps):
                return list(found)
    elements: list[int] = _Sets(page, tree).nodeset(expression).tolist()
    return elements


def _descend(page: Page, tree: int, descent: tuple[tuple[str, int], ...]) -> tuple[Sequence[int], int]:
    """Walks the first steps of an absolute path for as long as they stay narrow: what they find, and how many they are."""
    get = page.index.children_by_tag.get
    found: Sequence[int] = (-1 - tree,)
    taken = 0
    for name, place in descent:
        if len(found) > FEW:
            break
        if len(found) == 1:
            below = get((found[0], name), ())
            found = below[place - 1 : place] if place else below
        else:
            many = [get((above, name), ()) for above in found]
            found = [c[place - 1] for c in many if len(c) >= place] if place else [i for c in many for i in c]
        taken += 1
    return found, taken


class _Sets:
    def __init__(self, page: Page, tree: int) -> None:
        self.page = page
        self.tree = tree
        self.css = Matcher(page, tree)

    # --- node-sets -------------------------------------------------------------------------------------------------

    def nodeset(self, expression: Expression) -> IntArray:
        match expression:
            case Path(True, steps, None) if steps:
                return self.path(steps, expression.descent)
            case Binary("|", left, right):
                return self.css.union([self.nodeset(left), self.nodeset(right)])
            case Filtered(primary, predicates):
                if _finds_others(primary):
                    raise Unfit  # positions count texts or attributes there, not their elements
                found = self.nodeset(primary)
                for predicate in predicates:
                    place = np.arange(1, len(found) + 1, dtype=np.int32)
                    found = self.chosen(found, predicate, place, np.full(len(found), len(found), np.int32))
                return found
            case _:
                raise Unfit

    def path(self, steps: tuple[Step, ...], descent: tuple[tuple[str, int], ...]) -> IntArray:
        """From the root. `None` stands for the root itself until an element step is taken."""
        found, taken = _descend(self.page, self.tree, descent)
        current = np.asarray(found, np.int32) if taken else None
        deep = False
        for at, step in enumerate(steps[taken:], taken):
            if step.test == "node()" and step.axis in ("descendant-or-self", "self") and not step.predicates:
                deep = deep or step.axis == "descendant-or-self"
                continue
            current = self.step(current, step, deep, last=at == len(steps) - 1)
            deep = False
            if not len(current):
                return NOTHING
        if current is None or deep:
            raise Unfit
        return current

    def step(self, current: IntArray | None, step: Step, deep: bool, last: bool) -> IntArray:
        if step.axis == "attribute" or step.test == "text()":
            if not last or step.predicates:
                raise Unfit
            return self.owners(current, step, deep)
        if (step.test == "node()" and step.axis != "parent") or step.test in ("comment()", "processing-instruction()"):
            raise Unfit
        if deep:
            if step.axis != "child":
                raise Unfit
            found = self.below(current, self.tested(step.test))
            return self.filtered(found, step.predicates, step.test)
        if step.axis == "child" and current is not None and len(current) <= FEW:
            return self.walked(current, step)
        if current is None:
            if step.axis not in ("child", "descendant"):
                raise Unfit
            found = self.tested(step.test)
            if step.axis == "child":
                return self.filtered(found[self.page.parent[found] < 0], step.predicates, step.test)
            if any(map(is_positional, step.predicates)):
                raise Unfit
            return self.filtered(found, step.predicates)
        if any(map(is_positional, step.predicates)) and step.axis != "child":
            return self.beside(current, step)
        move = _MOVES.get(step.axis)
        if move is None:
            raise Unfit
        if not len(current):
            return NOTHING
        whole = step.test if step.axis == "child" else ""
        return self.filtered(move(self, current, self.tested(step.test)), step.predicates, whole)

    def tested(self, test: str) -> IntArray:
        """The elements of the tree that pass a node test."""
        if test in ("*", "node()"):
            return self.css.all
        found = self.css.own(self.page.index.by_tag.get(test.lower(), NOTHING))
        return found[self.page.namespace[found] == HTML]

    def below(self, current: IntArray | None, candidates: IntArray) -> IntArray:
        return candidates if current is None else self.css.step(current, " ", candidates)

    def owners(self, current: IntArray | None, step: Step, deep: bool) -> IntArray:
        """The elements whose attribute or text a last step finds."""
        if step.test == "text()":
            if step.axis != "child":
                raise Unfit
            having = np.asarray(sorted(i for i in self.page.index.texts_of if i >= 0 and self.page.tree[i] == self.tree), np.int32)
        elif step.test == "*":
            counts = np.diff(self.page.attr_start)[self.css.all]
            having = self.css.all[counts > 0]
        else:
            having = self.css.own(self.page.index.having(step.test.lower()))
        if current is None:
            return having if deep else NOTHING
        own = having[among(having, current)]
        return self.css.union([self.css.step(current, " ", having), own]) if deep else own

    def walked(self, current: IntArray, step: Step) -> IntArray:
        """Children of a few elements, one by one; a number as the first predicate ends the walk."""
        page, name = self.page, step.test.lower()
        first = step.predicates[0] if step.predicates else None
        wanted = _whole(first.value) if isinstance(first, Number) else 0
        found: list[int] = []
        for parent in current.tolist():
            count = 0
            for child in page.children(parent):
                if name == "*" or (page.tags[child] == name and page.namespace[child] == HTML):
                    count += 1
                    if not wanted:
                        found.append(child)
                    elif count == wanted:
                        found.append(child)
                        break
        rest = step.predicates[1:] if wanted else step.predicates
        if wanted and any(map(is_positional, rest)):
            raise Unfit
        return self.filtered(np.asarray(sorted(found), np.int32), rest)

    def beside(self, current: IntArray, step: Step) -> IntArray:
        """`following-sibling::x[n]`, `following::x[n]` and the same backwards, counted from each element."""
        first = step.predicates[0]
        if step.axis not in _BESIDE or not isinstance(first, Number):
            raise Unfit
        if any(map(is_positional, step.predicates[1:])) or not _whole(first.value):
            raise Unfit
        page = self.page
        candidates = self.tested(step.test)
        if step.axis in ("following", "preceding"):
            hit = self.after(current, candidates, int(first.value), step.axis == "preceding")
            return self.filtered(distinct(hit, len(page)), step.predicates[1:])
        shift = np.int64(len(page) + 1)
        family = page.index.family.astype(np.int64) + len(page.trees)
        keys = family[candidates] * shift + candidates
        order = np.argsort(keys)
        keys, candidates = keys[order], candidates[order]
        own = family[current] * shift + current
        if step.axis == "following-sibling":
            at = np.searchsorted(keys, own, "right") + int(first.value) - 1
        else:
            at = np.searchsorted(keys, own, "left") - int(first.value)
        inside = (at >= 0) & (at < len(keys))
        hit = candidates[at[inside]]
        same = family[hit] == family[current[inside]]
        return self.filtered(distinct(hit[same], len(page)), step.predicates[1:])

    def after(self, current: IntArray, candidates: IntArray, place: int, back: bool) -> IntArray:
        """The candidate that comes so many after the end of each element, or so many before it (what holds it not counted)."""
        if not back:
            at = np.searchsorted(candidates, self.page.end[current]) + place - 1
            return candidates[at[at < len(candidates)]]
        ended = candidates[np.argsort(self.page.end[candidates], kind="stable")]
        counts = np.searchsorted(self.page.end[ended], current, "right").tolist()
        found = [np.partition(ended[:count], count - place)[count - place] for count in counts if count >= place]
        return np.asarray(found, np.int32)

    # --- predicates --------------------------------------------------------------------------------------------------

    def places(self, found: IntArray, test: str) -> tuple[IntArray, IntArray]:
        """Position and count among those of the set that are siblings; from the index where the set is a whole node test's."""
        index = self.page.index
        if test == "*":
            return index.place[found], index.siblings[found]
        tag = test.lower()
        if test and not self.page.namespace[index.by_tag.get(tag, NOTHING)].any():
            return index.place_of_type[found], index.siblings_of_type[found]
        place = self.css.rank(found, last=False)
        return place, place + self.css.rank(found, last=True) - 1

    def filtered(self, found: IntArray, predicates: tuple[Expression, ...], test: str = "") -> IntArray:
        """Predicates of a child step (positions count among siblings), or ones without positions of any step.

        `test` names the node test where `found` holds all siblings that pass it.
        """
        for number, predicate in enumerate(predicates):
            if not len(found):
                return found
            if is_positional(predicate):
                place, size = self.places(found, test if number == 0 else "")
                found = self.chosen(found, predicate, place, size)
            else:
                found = found[self.truth(found, predicate)]
        return found

    def chosen(self, found: IntArray, predicate: Expression, place: IntArray, size: IntArray) -> IntArray:
        if not is_positional(predicate):
            return found[self.truth(found, predicate)]
        value = self.positioned(predicate, place.astype(np.float64), size.astype(np.float64))
        return found[value if value.dtype == np.bool_ else value == place]

    def positioned(self, expression: Expression, place: Floats, size: Floats) -> npt.NDArray[np.generic]:
        """An expression of `position()`, `last()` and numbers, for all elements at once."""
        match expression:
            case Number(value):
                return np.full(len(place), value)
            case Call("position", ()):
                return place
            case Call("last", ()):
                return size
            case Negative(operand):
                return -self.number(operand, place, size)
            case Call("not", (inner,)):
                return ~self.boolean(inner, place, size)
            case Binary("and" | "or" as word, left, right):
                both = self.boolean(left, place, size), self.boolean(right, place, size)
                return both[0] & both[1] if word == "and" else both[0] | both[1]
            case Binary(sign, left, right) if sign in _ARITHMETIC:
                with np.errstate(all="ignore"):
                    return _ARITHMETIC[sign](self.number(left, place, size), self.number(right, place, size))
            case _:
                raise Unfit

    def number(self, expression: Expression, place: Floats, size: Floats) -> Floats:
        value = self.positioned(expression, place, size)
        if value.dtype == np.bool_:
            raise Unfit
        return value.astype(np.float64)

    def boolean(self, expression: Expression, place: Floats, size: Floats) -> npt.NDArray[np.bool_]:
        value = self.positioned(expression, place, size)
        if value.dtype != np.bool_:
            raise Unfit
        return value.astype(np.bool_)

    def truth(self, found: IntArray, predicate: Expression) -> npt.NDArray[np.bool_]:
        """Which of some elements a predicate without positions is true of."""
        match predicate:
            case Binary("and", left, right):
                return self.truth(found, left) & self.truth(found, right)
            case Binary("or", left, right):
                return self.truth(found, left) | self.truth(found, right)
            case Call("not", (inner,)):
                return ~self.truth(found, inner)
            case Call("true", ()):
                return np.ones(len(found), np.bool_)
            case Binary("=", Path(False, (Step("attribute", name, ()),), None), Literal(value)) if name != "*":
                return self.among(found, Attribute(name, "=", value, "s"))
            case Call("contains", (Path(False, (Step("attribute", name, ()),), None), Literal(value))) if name != "*" and value:
                return self.among(found, Attribute(name, "*=", value, "s"))
            case Call("starts-with", (Path(False, (Step("attribute", name, ()),), None), Literal(value))) if name != "*" and value:
                return self.among(found, Attribute(name, "^=", value, "s"))
            case Call(
                "contains", (Call("concat", (Literal(" "), Call("normalize-space", (words,)), Literal(" "))), Literal(value))
            ):
                return self.having_word(found, words, value)
            case Path(False, (Step("attribute", name, ()),), None) if name != "*":
                return self.among(found, Attribute(name))
            case Binary("=", left, Literal(value)) if _is_own_text(left) is not None:
                return self.reading(found, value, bool(_is_own_text(left)))
            case Call("contains", (left, Literal(value))) if _is_own_text(left) is False and value:
                return self.page.index.holding(self.tree, found, value)
            case Call("contains", (left, Literal(value))) if _is_own_text(left) is not None:
                return self.texts(found, lambda text: value in text, bool(_is_own_text(left)))
            case Call("starts-with", (left, Literal(value))) if _is_own_text(left) is not None:
                return self.texts(found, lambda text: text.startswith(value), bool(_is_own_text(left)))
            case Path(False, (Step("self", test, inner),), None) if not test.endswith("()") and not any(map(is_positional, inner)):
                named = self.tested(test)
                return among(found, self.filtered(named, inner))
            case Path(False, steps, None):
                return among(found, self.holders(steps, None))
            case Binary("=", Path(False, steps, None), Literal(value)):
                return among(found, self.holders(steps, value))
            case Path(True, steps, None) if steps and not _finds_others(predicate):
                return np.full(len(found), len(self.nodeset(predicate)) > 0)
            case _:
                raise Unfit

    def having_word(self, found: IntArray, of: Expression, value: str) -> npt.NDArray[np.bool_]:
        """Which of the elements have ` value ` in an attribute padded with blanks, as classes are asked for in XPath."""
        word = value[1:-1]
        if value != f" {word} " or not word or any(map(str.isspace, word)):
            raise Unfit
        match of:
            case Path(False, (Step("attribute", name, ()),), None) if name != "*":
                truth = self.among(found, Attribute(name, "~=", word, "s"))
                if (truth & self.among(found, Attribute(name, "*=", "\f", "s"))).any():
                    raise Unfit  # a form feed parts the words of HTML, and not those of XPath
                return truth
            case _:
                raise Unfit

    def among(self, found: IntArray, wanted: Attribute) -> npt.NDArray[np.bool_]:
        return among(found, self.css.attribute(wanted))

    def reading(self, found: IntArray, value: str, folded: bool) -> npt.NDArray[np.bool_]:
        """Which of the elements read exactly so: by the lengths of their texts first."""
        page = self.page
        length = len("".join(SPACE.split(value))) if folded else len(value)
        truth = page.index.text_lengths(self.tree, folded)[found] == length
        begin = page.text_start[found]
        single = truth & (page.text_end[found] - begin == 1)
        if length:
            truth &= ~single | among(begin, page.index.texts_reading(value, folded))
        rest = truth & ~single if length else truth
        truth[rest] = self.texts(found[rest], lambda text: text == value, folded)
        return truth

    def texts(self, found: IntArray, test: Callable[[str], bool], folded: bool) -> npt.NDArray[np.bool_]:
        table = self.page.index.folded_text if folded else self.page.index.whole_text
        return np.fromiter((test(table(i)) for i in found.tolist()), np.bool_, len(found))

    def holders(self, steps: tuple[Step, ...], value: str | None) -> IntArray:
        """The elements from which relative steps lead to something (that reads `value`): backwards from the last step."""
        *before, final = list(steps)
        if final.axis == "attribute":
            if final.predicates or value is None or final.test == "*":
                raise Unfit
            found = self.css.attribute(Attribute(final.test, "=", value, "s"))
        elif final.test == "text()" and final.axis == "child" and not final.predicates:
            texts, values = self.page.index.texts_of, self.page.text_values
            found = np.asarray(
                sorted(
                    i for i in self.css.all.tolist() if i in texts and (value is None or any(values[t] == value for t in texts[i]))
                ),
                np.int32,
            )
        else:
            found = self.element_set(final)
            if value is not None:
                found = found[self.reading(found, value, folded=False)]
            found = self.back(found, final)
        for step in reversed(before):
            if step.test == "node()" and step.axis == "descendant-or-self" and not step.predicates:
                found = self.css.union([found, self.css.before(found, " ")])
            elif step.test == "node()" and step.axis == "self" and not step.predicates:
                continue
            else:
                found = self.back(found[among(found, self.element_set(step))], step)
        return found

    def element_set(self, step: Step) -> IntArray:
        if step.test.endswith("()"):
            raise Unfit
        positional = any(map(is_positional, step.predicates))
        if positional and step.axis != "child":
            raise Unfit
        return self.filtered(self.tested(step.test), step.predicates, step.test)

    def back(self, found: IntArray, step: Step) -> IntArray:
        match step.axis:
            case "child":
                return self.css.before(found, ">")
            case "descendant":
                return self.css.before(found, " ")
            case "following-sibling":
                return self.css.before(found, "~")
            case "preceding-sibling":
                return self.css.step(found, "~", self.css.all)
            case "parent":
                return self.css.step(found, ">", self.css.all)
            case "ancestor":
                return self.css.step(found, " ", self.css.all)
            case "self":
                return found
            case "following":
                last = int(found.max()) if len(found) else -1
                return self.css.all[self.page.end[self.css.all] <= last]
            case "preceding":
                first = int(self.page.end[found].min()) if len(found) else len(self.page) + 1
                return self.css.all[self.css.all >= first]
            case _:
                raise Unfit


def _whole(value: float) -> int:
    """A position as a whole number; 0 where it is none that an element could have."""
    return int(value) if 1 <= value < 2**31 and value == int(value) else 0


def _finds_others(expression: Expression) -> bool:
    """Whether what an expression finds may be texts or attributes."""
    match expression:
        case Path(_, steps, _):
            return bool(steps) and (steps[-1].axis in ("attribute", "namespace") or steps[-1].test.endswith("()"))
        case Binary(_, left, right):
            return _finds_others(left) or _finds_others(right)
        case Filtered(primary, _):
            return _finds_others(primary)
        case _:
            return False


def _is_own_text(expression: Expression) -> bool | None:
    """Whether an expression is the element's own string: True for its folded form, False as it is, None for neither."""
    match expression:
        case Call("normalize-space", ()) | Call("normalize-space", (Path(False, (Step("self", "node()", ()),), None),)):
            return True
        case Path(False, (Step("self", "node()", ()),), None) | Call("string", ()):
            return False
        case _:
            return None


def _following(sets: _Sets, current: IntArray, candidates: IntArray) -> IntArray:
    return candidates[candidates >= sets.page.end[current].min()]


def _preceding(sets: _Sets, current: IntArray, candidates: IntArray) -> IntArray:
    return candidates[sets.page.end[candidates] <= current.max()]


_MOVES: dict[str, Callable[[_Sets, IntArray, IntArray], IntArray]] = {
    "child": lambda s, now, to: s.css.step(now, ">", to),
    "descendant": lambda s, now, to: s.css.step(now, " ", to),
    "following-sibling": lambda s, now, to: s.css.step(now, "~", to),
    "preceding-sibling": lambda s, now, to: np.intersect1d(s.css.before(now, "~"), to, assume_unique=True),
    "parent": lambda s, now, to: np.intersect1d(s.css.before(now, ">"), to, assume_unique=True),
    "ancestor": lambda s, now, to: np.intersect1d(s.css.before(now, " "), to, assume_unique=True),
    "self": lambda s, now, to: np.intersect1d(now, to, assume_unique=True),
    "following": _following,
    "preceding": _preceding,
}
"""How a set of elements moves along an axis, to those of a second set."""

_BESIDE = frozenset({"following-sibling", "preceding-sibling", "following", "preceding"})
"""Axes along which places are counted from each element."""

_ARITHMETIC: dict[str, Callable[[Floats, Floats], npt.NDArray[np.generic]]] = {
    "=": lambda a, b: a == b,
    "!=": lambda a, b: a != b,
    "<": lambda a, b: a < b,
    "<=": lambda a, b: a <= b,
    ">": lambda a, b: a > b,
    ">=": lambda a, b: a >= b,
    "+": lambda a, b: a + b,
    "-": lambda a, b: a - b,
    "*": lambda a, b: a * b,
    "div": lambda a, b: a / b,
    "mod": lambda a, b: np.fmod(a, b),
}
