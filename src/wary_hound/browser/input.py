"""Action sources of WebDriver BiDi (`input.performActions`), as plain values: no element is looked up and nothing is sent here."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise
from typing import Any

from wary_hound.browser.keys import KEYS, chord
from wary_hound.browser.protocol import Json

LEFT, RIGHT = 0, 2
"""Buttons of a mouse, as the protocol counts them."""


def to_element(node: Json, right: int = 0, down: int = 0, milliseconds: int = 0) -> Json:
    """Move to an element, `right` and `down` CSS pixels from its middle."""
    origin = {"type": "element", "element": node}
    return {"type": "pointerMove", "x": right, "y": down, "duration": milliseconds, "origin": origin}


def to_point(x: float, y: float, milliseconds: int = 0) -> Json:
    """Move to a point of the window, in CSS pixels."""
    left, top = (int(value) if value == int(value) else round(value, 2) for value in (x, y))
    return {"type": "pointerMove", "x": left, "y": top, "duration": milliseconds, "origin": "viewport"}


def pressed(button: int = LEFT) -> Json:
    """A button goes down."""
    return {"type": "pointerDown", "button": button}


def released(button: int = LEFT) -> Json:
    """A button goes up."""
    return {"type": "pointerUp", "button": button}


def pause(seconds: float) -> Json:
    """Nothing for some seconds."""
    return {"type": "pause", "duration": round(1000 * seconds)}


def pointer(actions: Sequence[Json], kind: str = "mouse") -> list[Json]:
    """What one pointer does: a `mouse`, or a finger (`touch`)."""
    return [{"type": "pointer", "id": kind, "parameters": {"pointerType": kind}, "actions": list(actions)}]


def clicks(move: Json, buttons: Sequence[int], kind: str = "mouse", keys: str = "", held: float = 0.0) -> list[Json]:
    """Move and click once for each button, with keys such as `Control+Shift` down meanwhile, each press held for some seconds."""
    actions = [move]
    for button in buttons:
        actions += [pressed(button), *([pause(held)] if held else []), released(button)]
    sources = pointer(actions, kind)
    if not keys:
        return sources
    names = chord(keys)
    # sources go tick by tick: the keys are down before the pointer moves, and up when it is done
    wait = [{"type": "pause"}] * (len(actions) + len(names))
    down = [{"type": "keyDown", "value": key} for key in names]
    up = [{"type": "keyUp", "value": key} for key in reversed(names)]
    sources[0]["actions"] = [{"type": "pause"}] * len(names) + actions
    return [{"type": "key", "id": "keys", "actions": [*down, *wait[: len(actions)], *up]}, *sources]


def wheel(right: int, down: int, node: Json | None = None, point: Sequence[float] = (0, 0)) -> list[Json]:
    """Turn the wheel, over an element or over a point of the window, by CSS pixels."""
    turn: dict[str, Any] = {"type": "scroll", "deltaX": right, "deltaY": down, "x": 0, "y": 0}
    if node is None:
        turn |= {"x": round(point[0]), "y": round(point[1]), "origin": "viewport"}
    else:
        turn["origin"] = {"type": "element", "element": node}
    return [{"type": "wheel", "id": "wheel", "actions": [turn]}]


def drags(points: Sequence[tuple[float, float]], steps: int) -> list[Json]:
    """Press at the first point of the window, go through the others in `steps` moves each, and let go at the last."""
    (x, y), (last_x, last_y) = points[0], points[-1]
    actions = [to_point(x, y), pressed(), to_point(x + 4, y)]
    for (left, top), (x, y) in pairwise(points):
        actions += [to_point(left + (x - left) * k / steps, top + (y - top) * k / steps, 30) for k in range(1, steps + 1)]
    return pointer([*actions, to_point(last_x, last_y, 60), released()])


def typed(text: str) -> list[Json]:
    """A text, character by character; line ends are Enter, tabs are Tab."""
    pairs: list[Json] = []
    for character in text:
        key = {"\n": KEYS["Enter"], "\t": KEYS["Tab"]}.get(character, character)
        pairs += [{"type": "keyDown", "value": key}, {"type": "keyUp", "value": key}]
    return [{"type": "key", "id": "keys", "actions": pairs}]


def struck(keys: str) -> list[Json]:
    """A key or a chord such as `Control+A`: all go down in order, and up again."""
    names = chord(keys)
    down = [{"type": "keyDown", "value": key} for key in names]
    up = [{"type": "keyUp", "value": key} for key in reversed(names)]
    return [{"type": "key", "id": "keys", "actions": [*down, *up]}]
