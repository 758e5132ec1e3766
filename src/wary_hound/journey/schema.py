"""The JSON Schema of journey files, from the same table that reads them."""

from __future__ import annotations

from typing import Any

from wary_hound.journey.data import KINDS
from wary_hound.journey.steps import ACTIONS, EXPECTATIONS, OF_THE_PAGE, STATES, THE_PAGE, Form, Option

_TEXT: dict[str, Any] = {"type": ["string", "number", "boolean"]}


def journey_schema() -> dict[str, Any]:
    """JSON Schema 2020-12, as plain values."""
    step = {"anyOf": [*(_step(name, form) for name, form in ACTIONS.items() if name != "check"), *_checks()]}
    steps = {"type": "array", "items": {"$ref": "#/$defs/step"}, "minItems": 1}
    texts = {"type": "object", "additionalProperties": _TEXT}
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "A user journey",
        "type": "object",
        "properties": {
            "journey": {"type": "string", "description": "what it is called"},
            "book": {"type": "string", "description": "the book file, relative to this one"},
            "start": {
                "type": "object",
                "properties": {
                    "base": {"type": "string", "description": "the address that paths start from"},
                    "browser": {"enum": ["chromium", "firefox"]},
                    "size": {"type": "string", "pattern": r"^\d{2,5}x\d{2,5}$"},
                    "phone": {"type": "boolean"},
                },
                "additionalProperties": False,
            },
            "data": {"anyOf": [texts, {"type": "string", "description": "a table (CSV, XLSX), each row of which is a run"}]},
            "made-up": {"type": "object", "additionalProperties": {"enum": list(KINDS)}},
            "seed": {"type": "integer"},
            "secrets": {
                "type": "object",
                "additionalProperties": {"type": "string", "description": "a variable of the environment"},
            },
            "guards": {
                "type": "array",
                "items": {
                    "type": "object",
                    "properties": {"when": {"type": "string"}, "click": {"type": "string"}},
                    "required": ["when", "click"],
                    "additionalProperties": False,
                },
            },
            "before": steps,
            "steps": steps,
            "after": steps,
        },
        "required": ["journey", "steps"],
        "additionalProperties": False,
        "$defs": {"step": step},
    }


def _step(name: str, form: Form) -> dict[str, Any]:
    first: dict[str, Any] = {"enum": list(form.choices)} if form.choices else dict(_TEXT)
    if form.several:
        first = {"anyOf": [_TEXT, {"type": "array", "items": _TEXT}]}
    properties = {name: {**first, "description": form.about}, **_options(form)}
    required = [name, *form.needs]
    if form.on == "in":
        properties["in"] = {"type": "string", "description": "a name of the book, or a locator"}
        required.append("in")
    return {"type": "object", "properties": properties, "required": required, "additionalProperties": False}


def _checks() -> list[dict[str, Any]]:
    of_element = {"type": "string", "description": "a name of the book, or a locator", "not": {"const": THE_PAGE}}
    start = {"from": {"const": "the start"}}
    checks = [_check(of_element, {"is": {"enum": list(STATES)}, **start}, "is")]
    for table, on in ((EXPECTATIONS, of_element), (OF_THE_PAGE, {"const": THE_PAGE})):
        for name, form in table.items():
            value: dict[str, Any] = {"enum": list(form.choices)} if form.choices else dict(_TEXT)
            if form.several:
                value = {"anyOf": [_TEXT, {"type": "array", "items": _TEXT}]}
            checks.append(_check(on, {name: {**value, "description": form.about}, **_options(form)}, name))
    return checks


def _check(on: dict[str, Any], properties: dict[str, Any], needed: str) -> dict[str, Any]:
    said = {"check": on, **properties}
    return {"type": "object", "properties": said, "required": ["check", needed], "additionalProperties": False}


def _options(form: Form) -> dict[str, Any]:
    return {name: {**_option(option), "description": option.about} for name, option in (form.options or {}).items()}


def _option(option: Option) -> dict[str, Any]:
    match option.kind:
        case "choice":
            return {"enum": list(option.choices)}
        case "texts":
            return {"anyOf": [_TEXT, {"type": "array", "items": _TEXT}]}
        case "mapping":
            return {"type": "object", "additionalProperties": _TEXT}
    return dict(_TEXT)
