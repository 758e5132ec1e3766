"""CSS to XPath and back, where the other language can say the same. A LocatorError names the part that it cannot."""

from __future__ import annotations

from wary_hound.errors import LocatorError
from wary_hound.locator.css import values as c
from wary_hound.locator.css.matcher import CASELESS_VALUES
from wary_hound.locator.css.printing import css_identifier, css_string, simple_text
from wary_hound.locator.xpath import values as x
from wary_hound.locator.xpath.building import PADDED_CLASS
from wary_hound.locator.xpath.printing import step_text, xpath_string, xpath_text

_UPPER, _LOWER = "ABCDEFGHIJKLMNOPQRSTUVWXYZ", "abcdefghijklmnopqrstuvwxyz"


def css_to_xpath(selectors: c.Selectors) -> str:
    """The XPath that finds the same elements from the root of a tree as a selector list does."""
    return " | ".join(map(_complex, selectors))


def _complex(selector: c.Complex) -> str:
    text = "//" + _step(selector.compounds[0])
    for combinator, compound in zip(selector.combinators[1:], selector.compounds[1:], strict=True):
        text += _AXES[combinator] + _step(compound, adjacent=combinator == "+")
    return text


_AXES = {" ": "//", ">": "/", "+": "/following-sibling::*[1]", "~": "/following-sibling::"}


def _step(compound: c.Compound, adjacent: bool = False) -> str:
    """A name and its predicates; after `+` the name is a predicate too, since the position comes first."""
    name = next((s.name.lower() for s in compound.simples if isinstance(s, c.Type)), "*")
    tests = [_test(s, name) for s in compound.simples if not isinstance(s, c.Type)]
    if adjacent:
        if name != "*":
            tests.insert(0, f"self::{name}")
        name = ""
    return name + "".join(f"[{t}]" for t in tests)


def _test(simple: c.Simple, name: str) -> str:
    match simple:
        case c.Type(tag):
            return "true()" if tag == "*" else f"self::{tag.lower()}"
        case c.Id(value):
            return f"@id={xpath_string(value)}"
        case c.Class(value):
            return f"contains(concat(' ', normalize-space(@class), ' '), {xpath_string(f' {value} ')})"
        case c.Attribute():
            return _attribute(simple)
        case c.Matches("is" | "where", selectors):
            return " or ".join(f"({_self(s)})" for s in selectors) or "false()"
        case c.Matches("not", selectors):
            return "not(" + " or ".join(_self(s) for s in selectors) + ")"
        case c.Matches("has", selectors):
            return " or ".join(_has(s) for s in selectors)
        case c.Nth():
            return _nth(simple, name)
        case c.Pseudo(state, _):
            known = _STATES.get(state)
            if known is None:
                raise LocatorError(f"XPath has no equivalent of {simple_text(simple)}")
            if "type" in state:
                if name == "*":
                    raise LocatorError(f"XPath has no equivalent of {simple_text(simple)} without a tag name before it")
                return known.replace("*", name)
            return known
    raise LocatorError(f"XPath has no equivalent of {simple_text(simple)}")


_STATES = {
    "first-child": "not(preceding-sibling::*)",
    "last-child": "not(following-sibling::*)",
    "only-child": "not(preceding-sibling::* or following-sibling::*)",
    "first-of-type": "not(preceding-sibling::*)",
    "last-of-type": "not(following-sibling::*)",
    "only-of-type": "not(preceding-sibling::* or following-sibling::*)",
    "empty": "not(* or text())",
    "root": "not(parent::*)",
    "any-link": "(self::a or self::area) and @href",
    "link": "(self::a or self::area) and @href",
}


def _attribute(wanted: c.Attribute) -> str:
    plain = wanted.name.lower().removeprefix(c.ANY_NAMESPACE)
    name = f"@{plain}"
    if wanted.name.startswith(c.ANY_NAMESPACE):
        name = f"@*[local-name()={xpath_string(plain)}]"
    elif ":" in wanted.name or not wanted.name.replace("-", "").replace("_", "").replace(".", "").isalnum():
        raise LocatorError(f"XPath cannot name the attribute {wanted.name!r} without a namespace")
    if not wanted.operator:
        return name
    value = wanted.value
    anywhere = wanted.name.startswith(c.ANY_NAMESPACE)
    if wanted.case == "i" or (not wanted.case and plain in CASELESS_VALUES and not anywhere):
        name, value = f"translate({name}, '{_UPPER}', '{_LOWER}')", value.lower()
    if not value and wanted.operator not in ("=", "|="):
        return "false()"
    text = xpath_string(value)
    match wanted.operator:
        case "=":
            return f"{name}={text}"
        case "~=":
            blank = any(letter.isspace() for letter in value)
            return "false()" if blank else f"contains(concat(' ', normalize-space({name}), ' '), {xpath_string(f' {value} ')})"
        case "|=":
            return f"{name}={text} or starts-with({name}, {xpath_string(value + '-')})"
        case "^=":
            return f"starts-with({name}, {text})"
        case "*=":
            return f"contains({name}, {text})"
        case _:
            return f"{name} and substring({name}, string-length({name}) - {len(value) - 1})={text}"


def _self(selector: c.Complex) -> str:
    """A selector as a test of the context node: from its first compound outwards."""
    back = {" ": "ancestor::*", ">": "parent::*", "+": "preceding-sibling::*[1]", "~": "preceding-sibling::*"}
    text = ""
    for combinator, compound in zip(selector.combinators, selector.compounds, strict=True):
        tests = [_test(s, _name(compound)) for s in compound.simples]
        own = " and ".join(f"({t})" if " or " in t else t for t in tests)
        text = f"{own} and {back[combinator]}[{text}]" if text else own
    return text


def _name(compound: c.Compound) -> str:
    return next((s.name.lower() for s in compound.simples if isinstance(s, c.Type)), "*")


def _has(selector: c.Complex) -> str:
    text = ""
    for combinator, compound in zip(selector.combinators, selector.compounds, strict=True):
        axis = {" ": "descendant::", ">": "", "+": "following-sibling::*[1]", "~": "following-sibling::"}[combinator]
        text += ("/" if text else "") + axis + _step(compound, adjacent=combinator == "+")
    return text


def _nth(wanted: c.Nth, name: str) -> str:
    if wanted.of:
        raise LocatorError("XPath has no equivalent of :nth-child(... of ...)")
    if wanted.name.endswith("type") and name == "*":
        raise LocatorError(f"XPath has no equivalent of {simple_text(wanted)} without a tag name before it")
    axis = "following-sibling" if "last" in wanted.name else "preceding-sibling"
    before = f"count({axis}::{name if wanted.name.endswith('type') else '*'})"
    if wanted.a == 0:
        return f"{before}={wanted.b - 1}"
    sign = ">=" if wanted.a > 0 else "<="
    tests = [f"{before} {sign} {wanted.b - 1}"]
    if abs(wanted.a) > 1:
        tests.append(f"({before} - {wanted.b - 1}) mod {abs(wanted.a)}=0")
    return " and ".join(tests)


# --- XPath to CSS --------------------------------------------------------------------------------------------------------


def xpath_to_css(expression: x.Expression) -> str:
    """The selector list that finds the same elements from the root of a tree as an XPath does."""
    return ", ".join(map(_path, _union(expression)))


def _union(parsed: x.Expression) -> list[x.Path]:
    match parsed:
        case x.Binary("|", left, right):
            return [*_union(left), *_union(right)]
        case x.Path(True, _, None):
            return [parsed]
        case x.Path(False, steps, None) if steps and steps[0].axis in ("child", "descendant"):
            raise LocatorError("CSS cannot start at a context node: begin the XPath with / or //")
        case _:
            raise LocatorError(f"CSS has no equivalent of {xpath_text(parsed)}")


def _path(path: x.Path) -> str:
    text, combinator = "", ""
    for at, step in enumerate(path.steps):
        if step == x.Step("descendant-or-self", "node()"):
            combinator = " "
            continue
        if step == x.Step("self", "node()"):
            continue
        if step == x.Step("parent", "node()") and text and combinator != " ":
            text, combinator = f":has(> {text})", ""
            if path.steps[:at].count(x.Step("descendant-or-self", "node()")) != 1 or at != 2:
                raise LocatorError("CSS has no equivalent of .. behind several steps")
            continue
        simple = _css_step(step)
        if step.axis == "following-sibling":
            joint = " + " if _first(step) else " ~ "
        elif step.axis in ("child", "descendant"):
            joint = " " if combinator == " " or step.axis == "descendant" else " > "
        else:
            raise LocatorError(f"CSS has no equivalent of the axis {step.axis}")
        if not text:
            if at == 0 and step.axis == "child":
                if not simple.startswith("html"):  # which is the root wherever it is
                    simple = ":root" + ("" if simple == "*" else f":is({simple})")
            elif joint not in (" ", " > "):
                raise LocatorError("CSS has no equivalent of a path that begins with siblings")
        text += (joint if text else "") + simple
        combinator = ""
    if not text:
        raise LocatorError("CSS finds elements only, not the document itself")
    return text


def _first(step: x.Step) -> bool:
    return step.test == "*" and bool(step.predicates) and step.predicates[0] == x.Number(1.0)


def _css_step(step: x.Step) -> str:
    if step.test.endswith("()") or step.axis == "attribute":
        raise LocatorError(f"CSS finds elements only, not {step_text(step)}")
    predicates = step.predicates
    if step.axis == "following-sibling":
        if _first(step):
            predicates = predicates[1:]
        elif any(map(x.is_positional, predicates)):
            raise LocatorError(f"CSS has no equivalent of {step_text(step)}")
    parts, tag = [], "" if step.test == "*" else css_identifier(step.test.lower())
    for number, predicate in enumerate(predicates):
        if x.is_positional(predicate):
            if number or step.axis == "descendant":
                raise LocatorError(f"CSS has no equivalent of the position in {step_text(step)}")
            parts.append(_position(predicate, step))
        else:
            parts.append(_predicate(predicate))
    return (tag + "".join(parts)) or "*"


def _position(predicate: x.Expression, step: x.Step) -> str:
    kind = "child" if step.test == "*" else "of-type"
    match predicate:
        case x.Number(value) | x.Binary("=", x.Call("position", ()), x.Number(value)) if value >= 1 and value == int(value):
            return f":nth-{kind}({int(value)})"
        case x.Call("last", ()) | x.Binary("=", x.Call("position", ()), x.Call("last", ())):
            return f":last-{kind}"
        case x.Binary("-", x.Call("last", ()), x.Number(value)) if value == int(value):
            return f":nth-last-{kind}({int(value) + 1})"
        case x.Binary("<=", x.Call("position", ()), x.Number(value)) if value == int(value):
            return f":nth-{kind}(-n+{int(value)})"
        case _:
            raise LocatorError(f"CSS has no equivalent of [{xpath_text(predicate)}]")


def _predicate(predicate: x.Expression) -> str:
    match predicate:
        case x.Path(False, (x.Step("attribute", name, ()),), None) if name != "*":
            return f"[{css_identifier(name)}]"
        case x.Binary("=", x.Path(False, (x.Step("attribute", name, ()),), None), x.Literal(value)) if name != "*":
            return f"[{css_identifier(name)}={css_string(value)}]"
        case x.Call("contains", (x.Path(False, (x.Step("attribute", name, ()),), None), x.Literal(value))) if value:
            return f"[{css_identifier(name)}*={css_string(value)}]"
        case x.Call("starts-with", (x.Path(False, (x.Step("attribute", name, ()),), None), x.Literal(value))) if value:
            return f"[{css_identifier(name)}^={css_string(value)}]"
        case x.Call("contains", (padded, x.Literal(value))) if (
            padded == PADDED_CLASS and value.strip() and value == f" {value.strip()} "
        ):
            return "." + css_identifier(value.strip())
        case x.Call("not", (inner,)):
            return f":not({_predicate(inner)})"
        case x.Binary("and", left, right):
            return _predicate(left) + _predicate(right)
        case x.Binary("or", left, right):
            return f":is({_predicate(left)}, {_predicate(right)})"
        case x.Path(False, (x.Step("self", test, ()),), None) if not test.endswith("()"):
            return f":is({css_identifier(test.lower())})"
        case x.Path(False, (x.Step("child", test, inner),), None) if not test.endswith("()"):
            return f":has(> {_css_step(x.Step('child', test, inner))})"
        case x.Path(False, (x.Step("descendant", test, inner),), None) if not any(map(x.is_positional, inner)):
            return f":has({_css_step(x.Step('child', test, inner))})"
        case _:
            said = xpath_text(predicate)
            text = "text" in said or "normalize-space" in said or said.startswith((".", "contains(.", "string("))
            raise LocatorError(f"CSS {'cannot ask for text' if text else 'has no equivalent'}: [{said}]")
