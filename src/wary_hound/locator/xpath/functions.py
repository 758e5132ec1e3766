"""XPath's core function library, and its rules for numbers, strings and comparisons (XPath 1.0, sections 3.4 and 4)."""

from __future__ import annotations

import math
import operator as op
import re
from collections.abc import Callable

from wary_hound.errors import LocatorError
from wary_hound.locator.xpath.nodes import Nodes

Value = list[int] | str | float | bool
_NUMBER = re.compile(r"[ \t\r\n]*(-?(?:\d+(?:\.\d*)?|\.\d+))[ \t\r\n]*\Z")
_SPACE = re.compile(r"[ \t\r\n]+")


def normalized(text: str) -> str:
    """A text as `normalize-space()` gives it, for which a space that does not break is none."""
    return _SPACE.sub(" ", text).strip(" ")


def string(nodes: Nodes, value: Value) -> str:
    """A value as `string()` gives it."""
    if isinstance(value, str):
        return value
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, list):
        return nodes.string(value[0]) if value else ""
    if math.isnan(value):
        return "NaN"
    if math.isinf(value):
        return "Infinity" if value > 0 else "-Infinity"
    if value == int(value):
        return str(int(value))
    text = f"{value:.17g}"
    short = repr(value)
    return format(value, "f").rstrip("0") if "e" in short else (short if len(short) < len(text) else text)


def number(nodes: Nodes, value: Value) -> float:
    """A value as `number()` gives it."""
    if isinstance(value, bool):
        return 1.0 if value else 0.0
    if isinstance(value, float):
        return value
    number = _NUMBER.match(string(nodes, value))
    return float(number.group(1)) if number else math.nan


def boolean(value: Value) -> bool:
    """A value as `boolean()` gives it."""
    if isinstance(value, float):
        return not (value == 0 or math.isnan(value))
    return bool(value)


_RELATIONS: dict[str, Callable[[float, float], bool]] = {"<": op.lt, "<=": op.le, ">": op.gt, ">=": op.ge}
_MIRROR = {"<": ">", "<=": ">=", ">": "<", ">=": "<=", "=": "=", "!=": "!="}


def compare(nodes: Nodes, sign: str, a: Value, b: Value) -> bool:
    """Comparison as section 3.4 has it: true where it is for some node of each node-set."""
    if isinstance(a, list) and isinstance(b, list):
        if sign in ("=", "!="):
            left, right = {nodes.string(n) for n in a}, {nodes.string(n) for n in b}
            if sign == "=":
                return bool(left & right)
            return bool(left and right and (len(left | right) > 1))
        left_numbers = [n for n in (number(nodes, [x]) for x in a) if not math.isnan(n)]
        right_numbers = [n for n in (number(nodes, [y]) for y in b) if not math.isnan(n)]
        if not left_numbers or not right_numbers:
            return False
        if sign in ("<", "<="):
            return _relation(sign, min(left_numbers), max(right_numbers))
        return _relation(sign, max(left_numbers), min(right_numbers))
    if isinstance(b, list):
        return compare(nodes, _MIRROR[sign], b, a)
    if isinstance(a, list):
        if isinstance(b, bool):
            return compare(nodes, sign, boolean(a), b)
        if isinstance(b, float) or sign not in ("=", "!="):
            wanted = number(nodes, b)
            return any(_relation(sign, number(nodes, [n]), wanted) for n in a)
        return any((nodes.string(n) == b) is (sign == "=") for n in a)
    if sign in ("=", "!="):
        if isinstance(a, bool) or isinstance(b, bool):
            return (boolean(a) == boolean(b)) is (sign == "=")
        if isinstance(a, float) or isinstance(b, float):
            return _relation(sign, number(nodes, a), number(nodes, b))
        return (a == b) is (sign == "=")
    return _relation(sign, number(nodes, a), number(nodes, b))


def _relation(sign: str, a: float, b: float) -> bool:
    if sign == "=":
        return a == b
    if sign == "!=":
        return a != b
    return _RELATIONS[sign](a, b)


def arithmetic(sign: str, a: float, b: float) -> float:
    """`+ - * div mod` by IEEE 754, as section 3.5 has it."""
    if sign == "+":
        return a + b
    if sign == "-":
        return a - b
    if sign == "*":
        return a * b
    if sign == "div":
        if b == 0:
            return math.nan if a == 0 or math.isnan(a) else math.copysign(math.inf, a) * math.copysign(1, b)
        return a / b
    return math.nan if b == 0 or math.isinf(a) or math.isnan(a) or math.isnan(b) else math.fmod(a, b)


def _first(nodes: Nodes, node: int, values: list[Value]) -> int | None:
    if not values:
        return node
    value = values[0]
    if not isinstance(value, list):
        raise LocatorError("the XPath asks for the name of something that is no node")
    return value[0] if value else None


def _name(nodes: Nodes, node: int, values: list[Value]) -> str:
    at = _first(nodes, node, values)
    return "" if at is None else nodes.name(at)


def _namespace(nodes: Nodes, node: int, values: list[Value]) -> str:
    at = _first(nodes, node, values)
    if at is None or not nodes.is_element(at):
        return ""
    spaces = ("http://www.w3.org/1999/xhtml", "http://www.w3.org/2000/svg", "http://www.w3.org/1998/Math/MathML")
    return spaces[nodes.page.namespace[at]]


def _nodes(value: Value) -> list[int]:
    if not isinstance(value, list):
        raise LocatorError("the XPath counts or sums something that is no node-set")
    return value


def _id(nodes: Nodes, node: int, values: list[Value]) -> list[int]:
    value = values[0]
    texts = [nodes.string(n) for n in value] if isinstance(value, list) else [string(nodes, value)]
    tree, page = nodes.tree(node), nodes.page
    found = set()
    for token in " ".join(texts).split():
        found.update([i for i in page.index.valued("id", token).tolist() if page.tree[i] == tree][:1])
    return sorted(found)


def _own(nodes: Nodes, node: int, values: list[Value]) -> str:
    return string(nodes, values[0]) if values else nodes.string(node)


def _substring(nodes: Nodes, _: int, values: list[Value]) -> str:
    text, start = string(nodes, values[0]), _rounded(number(nodes, values[1]))
    end = start + _rounded(number(nodes, values[2])) if len(values) > 2 else math.inf
    if math.isnan(start) or math.isnan(end):
        return ""
    begin = max(0, int(start) - 1) if not math.isinf(start) else (0 if start < 0 else len(text))
    finish = len(text) if end == math.inf else max(0, int(end) - 1) if end > 0 else 0
    return text[begin:finish]


def _rounded(value: float) -> float:
    return value if math.isnan(value) or math.isinf(value) else math.floor(value + 0.5)


def _translate(nodes: Nodes, _: int, values: list[Value]) -> str:
    text, old, new = (string(nodes, v) for v in values)
    table: dict[int, int | None] = {}
    for at, letter in enumerate(old):
        table.setdefault(ord(letter), ord(new[at]) if at < len(new) else None)
    return text.translate(table)


def _before(nodes: Nodes, _: int, values: list[Value]) -> str:
    text, part = string(nodes, values[0]), string(nodes, values[1])
    return text.partition(part)[0] if part and part in text else ""


def _after(nodes: Nodes, _: int, values: list[Value]) -> str:
    text, part = string(nodes, values[0]), string(nodes, values[1])
    return text.partition(part)[2] if part and part in text else ("" if part else text)


def _lang(nodes: Nodes, node: int, values: list[Value]) -> bool:
    wanted = string(nodes, values[0]).lower()
    for at in [node, *nodes.ancestors(node)]:
        if nodes.is_element(at):
            value = nodes.page.attribute(at, "xml:lang")  # browsers do not look at `lang` here
            if value is not None:
                return value.lower() == wanted or value.lower().startswith(wanted + "-")
    return False


def _step(function: Callable[[float], float]) -> Callable[[Nodes, int, list[Value]], Value]:
    def call(nodes: Nodes, _: int, values: list[Value]) -> Value:
        value = number(nodes, values[0])
        return value if math.isnan(value) or math.isinf(value) else float(function(value))

    return call


FUNCTIONS: dict[str, Callable[[Nodes, int, list[Value]], Value]] = {
    "count": lambda n, c, v: float(len(_nodes(v[0]))),
    "id": _id,
    "local-name": _name,
    "name": _name,
    "namespace-uri": _namespace,
    "string": _own,
    "concat": lambda n, c, v: "".join(string(n, x) for x in v),
    "starts-with": lambda n, c, v: string(n, v[0]).startswith(string(n, v[1])),
    "contains": lambda n, c, v: string(n, v[1]) in string(n, v[0]),
    "substring-before": _before,
    "substring-after": _after,
    "substring": _substring,
    "string-length": lambda n, c, v: float(len(_own(n, c, v))),
    "normalize-space": lambda n, c, v: normalized(_own(n, c, v)),
    "translate": _translate,
    "boolean": lambda n, c, v: boolean(v[0]),
    "not": lambda n, c, v: not boolean(v[0]),
    "true": lambda n, c, v: True,
    "false": lambda n, c, v: False,
    "lang": _lang,
    "number": lambda n, c, v: number(n, v[0] if v else [c]),
    "sum": lambda n, c, v: float(sum(number(n, [x]) for x in _nodes(v[0]))),
    "floor": _step(math.floor),
    "ceiling": _step(math.ceil),
    "round": _step(lambda x: math.floor(x + 0.5)),
}
"""Each takes the nodes, the context node and the evaluated arguments."""
