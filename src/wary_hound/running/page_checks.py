"""Checks of a page that are about no element: title, address, requests, downloads, console; and of what is to be seen."""

from __future__ import annotations

import io
from collections.abc import Callable
from pathlib import Path

from wary_hound.browser.downloads import plain_name
from wary_hound.browser.page import LivePage
from wary_hound.errors import BrowserTimeout, FileError
from wary_hound.files import write_aside
from wary_hound.journey.steps import THE_PAGE, Step
from wary_hound.page.secrets import masked

Told = str
"""What was expected and what was there; empty where the check holds."""
TOLERANCE = 0.5
"""Percent of pixels that may differ where nothing is said."""
SAME = 24
"""Of 255, how much a colour may differ and still be the same: fonts are smoothed differently from machine to machine."""


def check_page(live: LivePage, step: Step, folder: Path) -> Told:
    """Wait until what a step expects of the page holds, at most its limit."""
    if step.expect == "looks":
        return check_picture(live, step, folder)
    return _OF_THE_PAGE[str(step.expect)](live, step)


def _title(live: LivePage, step: Step) -> Told:
    try:
        live._poll(live.title, lambda title: title == step.value, "", "")
    except BrowserTimeout:
        return f'expected the title to be "{step.value}"; it is "{live.title()}"'
    return ""


def _address(live: LivePage, step: Step) -> Told:
    try:
        live.until_address(step.value)
    except BrowserTimeout:
        return f"expected the address to be {step.value}; it is {masked(live.address())}"
    return ""


def _asked(live: LivePage, step: Step) -> Told:
    method, _, pattern = step.value.rpartition(" ")
    try:
        live.until_asked(pattern, method, int(float(step.more.get("status", 0))))
    except BrowserTimeout as error:
        said = str(error).partition("; ")[2]
        return f"expected a request {step.value}{_status(step)}; {said}"
    return ""


def _status(step: Step) -> str:
    return f" with status {step.more['status']}" if "status" in step.more else ""


def _downloaded(live: LivePage, step: Step) -> Told:
    def names() -> list[str]:
        return [plain_name(d.name) for d in live.downloads if d.state == "complete"]

    try:
        live._poll(names, lambda there: step.value in there, "", "")
    except BrowserTimeout:
        return f"expected {step.value} to be downloaded; downloaded is {', '.join(names()) or 'nothing'}"
    return ""


def _console(live: LivePage, step: Step) -> Told:
    live.settle(min(1.0, live.limit))
    errors = [said for said in live.console if said.level == "error"]
    if not errors:
        return ""
    more = f", and {len(errors) - 1} more" if len(errors) > 1 else ""
    return f"expected no error in the console; there is: {errors[0].text}{more}"


_OF_THE_PAGE: dict[str, Callable[[LivePage, Step], Told]] = {
    "title": _title,
    "address": _address,
    "asked": _asked,
    "downloaded": _downloaded,
    "console": _console,
}


def check_picture(live: LivePage, step: Step, folder: Path) -> Told:
    """Whether an element, or what is in view, looks like a reference picture. Where there is none yet it is written, and the check
    fails with the word that it is to be looked at."""
    path = folder / step.value
    masks = tuple(step.more.get("masks", ()))
    allowed = float(step.more.get("tolerance", TOLERANCE))

    def take() -> bytes:
        return live.view(masks) if step.on == THE_PAGE else live.picture(step.on, masks)

    if not path.exists():
        write_aside({path: take()})
        return f"there was no picture {step.value} to compare with: it is written now; look at it, and run again"
    wanted = path.read_bytes()
    said = ""

    def alike() -> bool:
        nonlocal said
        said = difference(wanted, take(), allowed, path)
        return not said

    try:
        live._poll(alike, bool, "", "")
    except BrowserTimeout:
        return f"expected {step.on} to look like {step.value}; {said}"
    return ""


def difference(wanted: bytes, there: bytes, allowed: float, path: Path) -> str:
    """How two pictures differ by more than `allowed` percent of their pixels; empty where they do not. FileError where the
    reference is no picture."""
    import numpy as np
    from PIL import Image, UnidentifiedImageError

    try:
        first = Image.open(io.BytesIO(wanted)).convert("RGB")
    except (UnidentifiedImageError, OSError):
        raise FileError(f"{path}: no picture to compare with; remove it, and a run writes another") from None
    second = Image.open(io.BytesIO(there)).convert("RGB")
    if first.size != second.size:
        return f"it is {second.width} by {second.height} pixels large, not {first.width} by {first.height}"
    apart = np.abs(np.asarray(first, np.int16) - np.asarray(second, np.int16)).max(axis=2) > SAME
    share = 100 * float(apart.mean())
    if share <= allowed:
        return ""
    rows, columns = np.nonzero(apart)
    where = f"from {columns.min()}, {rows.min()} to {columns.max()}, {rows.max()}"
    return f"{share:.1f} % of its pixels differ ({where}), where {allowed:g} % may"
