"""Steps of a journey: what each action and each check takes, in one table, from which reading, writing and the schema follow."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, model_validator

Kind = Literal["text", "texts", "number", "choice", "mapping"]
THE_PAGE = "the page"
"""What a check is about that is about no element."""


@dataclass(frozen=True, slots=True)
class Option:
    """Something that a step may say besides: texts, numbers, one of some `choices`."""

    about: str
    kind: Kind = "text"
    choices: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Form:
    """What an action takes. `on`: an element, named right behind the action (`itself`) or behind `in`; `value`: what is named right
    behind it otherwise; `options` besides."""

    about: str
    on: Literal["", "itself", "in"] = ""
    value: str = ""
    choices: tuple[str, ...] = ()
    several: bool = False
    options: Mapping[str, Option] = None  # type: ignore[assignment]
    needs: tuple[str, ...] = ()


_DIALOG = {
    "dialog": Option("the kind of dialog that opens", "choice", ("alert", "confirm", "prompt", "beforeunload")),
    "saying": Option("what the dialog says"),
    "answer": Option("yes, no, or what goes into a prompt"),
}
_CLICK = {
    **_DIALOG,
    "downloads": Option("the name of the file that this hands out"),
    "holding": Option("keys that are down meanwhile, such as Control+Shift"),
}

ACTIONS: dict[str, Form] = {
    "open": Form("goes to an address", value="an address", options={"answers": Option("the status that is meant", "number")}),
    "click": Form("clicks an element", "itself", options=_CLICK),
    "double-click": Form("clicks it twice", "itself", options=_DIALOG),
    "right-click": Form("clicks it with the right button", "itself"),
    "hover": Form("brings the pointer over it", "itself"),
    "type": Form("writes a text into a field, in place of what is there", "in", "a text", options=_DIALOG),
    "add": Form("writes a text behind what a field holds", "in", "a text"),
    "clear": Form("empties a field", "itself"),
    "choose": Form("chooses an option of a drop-down by its text, or several", "in", "an option", several=True),
    "unchoose": Form("takes one out of what is chosen", "in", "an option"),
    "tick": Form("sees to it that a box is ticked", "itself"),
    "untick": Form("sees to it that it is not", "itself"),
    "upload": Form("gives a file to a field", "in", "a file", several=True),
    "drag": Form("drags an element onto another", "itself", options={"onto": Option("where it is let go")}, needs=("onto",)),
    "scroll-to": Form("brings an element into view", "itself"),
    "keys": Form("presses a key or a chord, wherever the focus is", value="a key", options=_DIALOG),
    "go": Form("through the history", value="a way", choices=("back", "forward", "again")),
    "switch": Form("goes on in another open page, by its address (`first` is where it began)", value="an address"),
    "stub": Form(
        "answers requests like this itself from here on", value="an address",
        options={
            "status": Option("the status of the answer", "number"), "body": Option("what is in it"),
            "fails": Option("as if there were no network", "choice", ("yes",)), "delay": Option("seconds", "number"),
        },
    ),
    "part": Form("does the steps of another journey", value="a file", options={"with": Option("data of its own", "mapping")}),
    "check": Form("waits until something holds, at most the limit", "itself"),
}  # fmt: skip
Action = str

STATES = ("shown", "hidden", "gone", "ticked", "unticked", "enabled", "disabled", "focused", "editable")
"""What an element can be said to be: `is: shown`."""
_MORE_OF_TEXT = {
    "attribute": Option("of this attribute, not the text"),
    "row": Option("the row of a cell"),
    "column": Option("its column"),
}
_MASKS = {
    "tolerance": Option("percent of pixels that may differ", "number"),
    "masks": Option("what may look otherwise", "texts"),
}
EXPECTATIONS: dict[str, Form] = {
    "reads": Form("its text is this", value="a text", options=_MORE_OF_TEXT),
    "contains": Form("its text holds this", value="a text", options=_MORE_OF_TEXT),
    "matches": Form("its text matches this regular expression, whole", value="a pattern", options=_MORE_OF_TEXT),
    "holds": Form("the field holds this value", value="a value"),
    "chosen": Form("these options are chosen, and no others", value="an option", several=True),
    "counts": Form("the locator matches so many elements", value="a number"),
    "texts": Form(
        "the elements that match read so, in order", value="texts", several=True,
        options={"order": Option("any", "choice", ("any",)), "empty": Option("those without a text", "choice", ("left out",))},
    ),
    "looks": Form("it looks like a picture (a PNG file)", value="a file", options=_MASKS),
}  # fmt: skip
"""What a check of an element may say, besides `is`."""
OF_THE_PAGE: dict[str, Form] = {
    "title": Form("the title is this", value="a text"),
    "address": Form("the address is like this (`*` is anything)", value="an address"),
    "asked": Form(
        "a request was sent to an address like this: `GET /api/nights`", value="an address",
        options={"status": Option("and was answered so", "number")},
    ),
    "downloaded": Form("a file of this name was handed out", value="a name"),
    "console": Form("no error stands in the console", value="quiet", choices=("quiet",)),
    "looks": Form("what is in view looks like a picture (a PNG file)", value="a file", options=_MASKS),
}  # fmt: skip
"""What a check of the page may say."""


class Step(BaseModel):
    """One action. `on` names an element of the book, or is a locator; `value` is the address, text, option or key (`values` where
    there are several); `more` is what else it says, by option."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    action: str
    on: str = ""
    value: str = ""
    values: tuple[str, ...] = ()
    expect: str | None = None
    from_start: bool = False
    """Of a check that something is hidden or gone: it need not have been seen before in this run."""
    more: dict[str, Any] = {}
    """Options by name, as texts, tuples of texts, or mappings of texts."""

    def __hash__(self) -> int:
        return hash((self.action, self.on, self.value, self.values, self.expect, self.from_start))

    @model_validator(mode="after")
    def _whole(self) -> Step:
        form = ACTIONS.get(self.action)
        if form is None:
            raise ValueError(f"a step does one of {', '.join(ACTIONS)}, not {self.action}")
        if form.on and not self.on:
            raise ValueError(f"{self.action} needs an element")
        if (self.action == "check") != (self.expect is not None):
            raise ValueError("a check, and only a check, says what is expected")
        if self.action == "check":
            self._whole_check()
        elif form.value and not (self.value or self.values):
            raise ValueError(f"{self.action} needs {form.value}")
        elif form.choices and self.value not in form.choices:
            raise ValueError(f"{self.action} takes one of {', '.join(form.choices)}, not {self.value!r}")
        for name in form.needs:
            if name not in self.more:
                raise ValueError(f"{self.action} needs {name!r}")
        if "saying" in self.more and "dialog" not in self.more:
            raise ValueError("what a dialog says goes with the kind of dialog (`dialog: confirm`)")
        return self

    def _whole_check(self) -> None:
        table = OF_THE_PAGE if self.on == THE_PAGE else {**EXPECTATIONS, **{name: Form("") for name in STATES}}
        form = table.get(str(self.expect))
        if form is None:
            raise ValueError(f"{'the page' if self.on == THE_PAGE else 'an element'} cannot be checked for {self.expect!r}")
        if form.value and not (self.value or self.values or self.expect in ("holds", "texts", "chosen")):
            raise ValueError(f"a check that something {self.expect} needs {form.value}")
        if form.choices and self.value not in form.choices:
            raise ValueError(f"{self.expect} takes {' or '.join(form.choices)}, not {self.value!r}")
        if self.expect == "counts" and not _is_data(self.value) and not self.value.isdecimal():
            raise ValueError("a check that something counts needs a number")
        if self.from_start and self.expect not in ("hidden", "gone"):
            raise ValueError("only what is hidden or gone can be so from the start")
        if ("row" in self.more) != ("column" in self.more):
            raise ValueError("a cell has a row and a column")

    # --- in words -----------------------------------------------------------------------------------------------------

    def __str__(self) -> str:
        said = ", ".join(f'"{v}"' for v in self.values) or (f'"{self.value}"' if self.value else "")
        if self.action == "check":
            return self._said_check(said)
        form = ACTIONS[self.action]
        words = self.action
        if form.on == "in":
            words = f"{self.action} {said} in {self.on}"
        elif self.on:
            words = f"{self.action} {self.on}"
        elif form.value:
            words = f"{self.action} {self.value}"
        if "onto" in self.more:
            words += f" onto {self.more['onto']}"
        if "dialog" in self.more:
            words += f", with the {self.more['dialog']} it opens"
        if "downloads" in self.more:
            words += f", which downloads {self.more['downloads']}"
        return words

    def _said_check(self, said: str) -> str:
        of = f" attribute {self.more['attribute']}" if "attribute" in self.more else ""
        of = f" at {self.more['row']}, {self.more['column']}" if "row" in self.more else of
        if self.expect in STATES:
            expected = f" is {self.expect}"
        elif self.expect in ("title", "address"):
            expected = f"'s {self.expect} is {said}"
        elif self.expect == "console":
            expected = "'s console has no errors"
        elif self.expect == "asked":
            expected = f" asked for {said}"
        else:
            words = {"looks": "looks like", "chosen": "has chosen"}.get(str(self.expect), self.expect)
            expected = f"{of} {words} {said}".rstrip()
        return f"check that {self.on}{expected}{' from the start' if self.from_start else ''}"

    # --- as in a file -------------------------------------------------------------------------------------------------

    def to_plain(self) -> dict[str, Any]:
        """The step as it stands in a file."""
        value: Any = list(self.values) if self.values else self.value
        form = ACTIONS[self.action]
        more = {name: list(v) if isinstance(v, tuple) else v for name, v in self.more.items()}
        if self.action != "check":
            if form.on == "itself":
                return {self.action: self.on, **more}
            return {self.action: value, **({"in": self.on} if form.on else {}), **more}
        if self.expect in STATES:
            expected: dict[str, Any] = {"is": self.expect}
        else:
            expected = {str(self.expect): value}
        return {"check": self.on, **expected, **({"from": "the start"} if self.from_start else {}), **more}

    @classmethod
    def from_plain(cls, data: Any) -> Step:
        """The inverse of `to_plain`. ValueError says what is wrong."""
        if not isinstance(data, dict):
            raise ValueError("a step is a mapping such as `click: hold-vega`")
        given = {str(k): v for k, v in data.items() if v is not None}
        action = next((k for k in given if k in ACTIONS), None)
        if action is None:
            raise ValueError(f"a step does one of {', '.join(ACTIONS)}, not {', '.join(given) or 'nothing'}")
        form, first = ACTIONS[action], given.pop(action)
        if action == "check":
            return _check_from(cls, str(first), given)
        on = ""
        if form.on == "itself":
            on = _text(first, action)
        elif form.on == "in":
            if "in" not in given:
                raise ValueError(f"{action} needs an element (`in: NAME`)")
            on = _text(given.pop("in"), "in")
        value, values = ("", ()) if form.on == "itself" else _value(first, action, form)
        return cls(action=action, on=on, value=value, values=values, more=_options(action, form, given))


def _check_from(cls: type[Step], on: str, given: dict[str, Any]) -> Step:
    since = _text(given.pop("from", ""), "from")
    if since not in ("", "the start"):
        raise ValueError(f"a check holds from the start, or from when it was seen, not from {since!r}")
    table = OF_THE_PAGE if on == THE_PAGE else EXPECTATIONS
    keys = [key for key in given if key == "is" or key in table]
    if len(keys) != 1:
        raise ValueError(f"a check takes one of {', '.join(('is', *table) if on != THE_PAGE else table)}")
    key, value = keys[0], given.pop(keys[0])
    if key == "is":
        if on == THE_PAGE or value not in STATES:
            raise ValueError(f"an element is one of {', '.join(STATES)}, not {value!r}")
        if given:
            raise ValueError(f"check does not take {next(iter(given))!r}")
        return cls(action="check", on=on, expect=str(value), from_start=bool(since))
    form = table[key]
    text, texts = _value(value, key, form)
    return cls(
        action="check", on=on, expect=key, value=text, values=texts, from_start=bool(since), more=_options("check", form, given)
    )


def _value(value: Any, what: str, form: Form) -> tuple[str, tuple[str, ...]]:
    if isinstance(value, list | tuple):
        if not form.several:
            raise ValueError(f"{what} takes {form.value}, not a list")
        return "", tuple(_text(item, what) for item in value)
    text = _text(value, what)
    return ("", (text,)) if what == "texts" else (text, ())


def _options(action: str, form: Form, given: Mapping[str, Any]) -> dict[str, Any]:
    known = form.options or {}
    options: dict[str, Any] = {}
    for name, value in given.items():
        option = known.get(name)
        if option is None:
            takes = f"; it takes {', '.join(known)}" if known else ""
            raise ValueError(f"{action} does not take {name!r}{takes}")
        if option.kind == "texts":
            options[name] = tuple(_text(v, name) for v in (value if isinstance(value, list | tuple) else [value]))
        elif option.kind == "mapping":
            if not isinstance(value, dict):
                raise ValueError(f"{name} is a mapping, such as `visitor: Ada Marsh`")
            options[name] = {str(k): _text(v, name) for k, v in value.items()}
        else:
            text = _text(value, name)
            if option.choices and text not in option.choices:
                raise ValueError(f"{name} is {' or '.join(option.choices)}, not {text!r}")
            if option.kind == "number" and not _is_data(text) and not _is_number(text):
                raise ValueError(f"{name} is a number, not {text!r}")
            options[name] = text
    return options


def _text(value: Any, what: str) -> str:
    if isinstance(value, dict | list | tuple):
        raise ValueError(f"{what} takes a text, not a {'mapping' if isinstance(value, dict) else 'list'}")
    if isinstance(value, bool):
        return "yes" if value else "no"
    return str(value)


def _is_data(text: str) -> bool:
    return text.startswith("{") and text.endswith("}")


def _is_number(text: str) -> bool:
    try:
        return float(text) >= 0
    except ValueError:
        return False
