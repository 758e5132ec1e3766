"""XPath 1.0 on the arena. Node-sets are lists of node numbers in document order."""

from __future__ import annotations

from dataclasses import dataclass

from wary_hound.errors import LocatorError
from wary_hound.locator.cache import Matches
from wary_hound.locator.work import Work
from wary_hound.locator.xpath import functions, sets
from wary_hound.locator.xpath.nodes import REVERSE, Nodes
from wary_hound.locator.xpath.values import (
    Binary,
    Call,
    Expression,
    Filtered,
    Literal,
    Negative,
    Number,
    Path,
    Step,
    is_positional,
)
from wary_hound.page import Page

Value = list[int] | str | float | bool


def match(page: Page, expression: Expression, tree: int, scope: int = -1) -> list[int]:
    """The elements that an expression finds in one tree, in page order.

    Evaluated from the root of the tree, or from the element `scope`. Attribute and text results count as their elements.
    Raises LocatorError where the expression gives no node-set, or takes too much work.
    """
    if scope < 0:
        try:
            return sets.match(page, expression, tree)
        except sets.Unfit:
            pass
    nodes = Nodes.of(page)
    start = scope if scope >= 0 else -1 - tree
    value = Evaluator(nodes).value(expression, Context(start, 1, 1))
    if not isinstance(value, list):
        kind = {bool: "true or false", float: "a number", str: "a text"}[type(value)]
        raise LocatorError(f"the XPath gives {kind}, not elements: end it with a path to the element")
    return sorted({e for e in map(nodes.element_of, value) if e >= 0})


@dataclass(frozen=True, slots=True)
class Context:
    """Where an expression is evaluated: a node, its position and how many there are."""

    node: int
    position: int
    size: int


class Evaluator:
    """Evaluates expressions node by node; knows all of XPath 1.0."""

    def __init__(self, nodes: Nodes) -> None:
        self.nodes = nodes
        self.spend = Work("XPath").spend
        self.kept = Matches.of(nodes.page).truths
        self.rooted: dict[tuple[Path, int], list[int]] = {}

    def value(self, expression: Expression, context: Context) -> Value:
        match expression:
            case Literal(value):
                return value
            case Number(number):
                return number
            case Path():
                return self.path(expression, context)
            case Binary(operator, left, right):
                return self.binary(operator, left, right, context)
            case Negative(operand):
                return -functions.number(self.nodes, self.value(operand, context))
            case Filtered(primary, predicates):
                found = self.nodeset(primary, context)
                for predicate in predicates:
                    found = self.filter(found, predicate)
                return found
            case Call(name, arguments):
                return self.call(name, arguments, context)

    def nodeset(self, expression: Expression, context: Context) -> list[int]:
        value = self.value(expression, context)
        if not isinstance(value, list):
            raise LocatorError("the XPath uses a text, number or truth value where it needs nodes")
        return value

    def call(self, name: str, arguments: tuple[Expression, ...], context: Context) -> Value:
        if name == "position":
            return float(context.position)
        if name == "last":
            return float(context.size)
        values = [self.value(a, context) for a in arguments]
        if not values:  # of the context node's own text
            self.spend(self.nodes.size(context.node))
        return functions.FUNCTIONS[name](self.nodes, context.node, values)

    def binary(self, operator: str, left: Expression, right: Expression, context: Context) -> Value:
        nodes = self.nodes
        if operator in ("or", "and"):
            first = functions.boolean(self.value(left, context))
            if first is (operator == "or"):
                return first
            return functions.boolean(self.value(right, context))
        if operator == "|":
            both = set(self.nodeset(left, context)) | set(self.nodeset(right, context))
            return self.sorted(both)
        a, b = self.value(left, context), self.value(right, context)
        if operator in ("=", "!=", "<", "<=", ">", ">="):
            self.spend((len(a) if isinstance(a, list) else 1) + (len(b) if isinstance(b, list) else 1))
            return functions.compare(nodes, operator, a, b)
        return functions.arithmetic(operator, functions.number(nodes, a), functions.number(nodes, b))

    # --- paths ---------------------------------------------------------------------------------------------------

    def sorted(self, found: set[int]) -> list[int]:
        limit = self.nodes.elements
        if all(0 <= n < limit for n in found):
            return sorted(found)
        return sorted(found, key=self.nodes.order)

    def path(self, path: Path, context: Context) -> list[int]:
        if path.start is not None:
            current = self.nodeset(path.start, context)
        elif path.absolute:
            return self.from_root(path, self.nodes.tree(context.node))
        else:
            current = [context.node]
        return self.steps(current, path.steps)

    def from_root(self, path: Path, tree: int) -> list[int]:
        """What does not depend on where it is asked from, once."""
        key = (path, tree)
        if key not in self.rooted:
            self.rooted[key] = self.steps([-1 - tree], path.steps)
        return self.rooted[key]

    def steps(self, current: list[int], steps: tuple[Step, ...]) -> list[int]:
        for step in _joined(steps):
            if not current:
                return []
            current = self.step(current, step)
        return current

    def step(self, current: list[int], step: Step) -> list[int]:
        if not any(map(is_positional, step.predicates)):
            found = self.at_once(current, step)
            for predicate in step.predicates:
                found = self.filter(found, predicate)
            return found
        nodes = self.nodes
        gathered: set[int] = set()
        first = step.predicates[0]
        for node in current:
            if isinstance(first, Number):  # the walk along the axis ends there
                onward = self.nth(node, step, first.value)
                for predicate in step.predicates[1:]:
                    onward = self.filter(onward, predicate)
                gathered.update(onward)
                continue
            visited = nodes.axis(node, step.axis)
            self.spend(len(visited) + 1)
            onward = [n for n in visited if nodes.fits(n, step.test, step.axis)]
            for predicate in step.predicates:
                onward = self.filter(onward, predicate)
            gathered.update(onward)
        return self.sorted(gathered)

    def nth(self, node: int, step: Step, place: float) -> list[int]:
        """The node at a position on an axis, from 1."""
        nodes, count = self.nodes, 0
        if not (1 <= place < 2**31 and place == int(place)):
            return []
        for visited in nodes.along(node, step.axis):
            self.spend(1)
            if nodes.fits(visited, step.test, step.axis):
                count += 1
                if count == place:
                    return [visited]
        return []

    def at_once(self, current: list[int], step: Step) -> list[int]:
        """One step from all nodes together, where no predicate asks for positions."""
        nodes, axis, test = self.nodes, step.axis, step.test
        if axis in ("descendant", "descendant-or-self") and test not in ("node()", "text()", "comment()"):
            if len(current) == 1 and current[0] < 0:
                found = self.indexed(-1 - current[0], step)
                if found is not None:
                    self.spend(len(found))
                    return found
        if len(current) == 1:
            visited = nodes.axis(current[0], axis)
            self.spend(len(visited) + 1)
            found = [n for n in visited if nodes.fits(n, test, axis)]
            return found[::-1] if axis in REVERSE else found
        gathered: set[int] = set()
        for node in current:
            onward = nodes.axis(node, axis)
            self.spend(len(onward) + 1)
            gathered.update(n for n in onward if nodes.fits(n, test, axis))
        return self.sorted(gathered)

    def indexed(self, tree: int, step: Step) -> list[int] | None:
        """Descendants of a root by the page's indexes: an attribute's value where a predicate asks for it, else the tag."""
        page, nodes = self.nodes.page, self.nodes
        for predicate in step.predicates:
            wanted = _attribute_equals(predicate)
            if wanted is not None:
                having = page.index.valued(*wanted).tolist()
                return [i for i in having if page.tree[i] == tree and nodes.fits(i, step.test, step.axis)]
        if step.test == "*":
            return page.index.in_tree[tree].tolist()
        tagged = page.index.by_tag.get(step.test.lower())
        if tagged is None:
            return []
        return [i for i in tagged.tolist() if page.tree[i] == tree and page.namespace[i] == 0]

    def filter(self, found: list[int], predicate: Expression) -> list[int]:
        size = len(found)
        if isinstance(predicate, Number):
            at = int(predicate.value) if predicate.value <= size and predicate.value == int(predicate.value) else 0
            return [found[at - 1]] if 1 <= at <= size else []
        self.spend(size)
        if is_positional(predicate):
            kept = []
            for position, node in enumerate(found, 1):
                value = self.value(predicate, Context(node, position, size))
                if value == position if isinstance(value, float) else functions.boolean(value):
                    kept.append(node)
            return kept
        known = self.kept.get(predicate)
        if known is None:
            known = self.kept[predicate] = {}
        chosen = []
        for node in found:
            truth = known.get(node)
            if truth is None:
                truth = functions.boolean(self.value(predicate, Context(node, 1, 1)))
                known[node] = truth
            if truth:
                chosen.append(node)
        return chosen


def _joined(steps: tuple[Step, ...]) -> list[Step]:
    """`//x` as one step down, where x has no position predicate (there the two mean different things)."""
    found: list[Step] = []
    for step in steps:
        if (
            found
            and found[-1] == Step("descendant-or-self", "node()")
            and step.axis in ("child", "descendant")
            and not any(map(is_positional, step.predicates))
        ):
            found[-1] = Step("descendant", step.test, step.predicates)
        else:
            found.append(step)
    return found


def _attribute_equals(predicate: Expression) -> tuple[str, str] | None:
    """`@name = "value"`, either way round."""
    if not isinstance(predicate, Binary):
        return None
    if predicate.operator == "and":
        return _attribute_equals(predicate.left) or _attribute_equals(predicate.right)
    if predicate.operator != "=":
        return None
    for one, other in ((predicate.left, predicate.right), (predicate.right, predicate.left)):
        match one, other:
            case Path(False, (Step("attribute", name, ()),), None), Literal(value) if name != "*":
                return name.lower(), value
    return None
