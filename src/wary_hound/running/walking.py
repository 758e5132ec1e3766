"""Journeys as scripts: each call is one step, done at once in a real browser.

with walking("Hold a night", book="nights.yaml", start={"base": "http://127.0.0.1:8700/r1"}) as walk:
    walk.open("/index.html")
    walk.click("hold-vega")
    walk.check("booking-status", reads="Held: Vega")
"""

from __future__ import annotations

import inspect
import os
import time
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from pathlib import Path
from types import TracebackType
from typing import Any

from wary_hound.browser.browser import Browser
from wary_hound.errors import StepFailed
from wary_hound.healing.names import Healing
from wary_hound.journey.journey import Journey, size_of
from wary_hound.journey.parts import plan
from wary_hound.journey.script import step_of_call
from wary_hound.journey.steps import ACTIONS, Step
from wary_hound.running.doing import begun
from wary_hound.running.replay import Doing, Run, StepResult


class Walking:
    """A journey that is done while it is written: a method an action (`walk.click("hold-vega")`), as in journey files, with `_` for
    what Python does not take (`double_click`, `is_`, `from_`). A step that fails raises StepFailed; steps within `with walk.after:`
    are done at the end, whatever happened."""

    def __init__(self, journey: Journey, folder: Path, browser: Browser, own: bool, healing: Healing, limit: float | None) -> None:
        self._journey = journey
        self._folder = folder
        self._browser = browser
        self._own = own
        self._book = journey.read_book(folder)
        self._values = journey.rows(folder, os.environ, journey.journey)[0]
        self._walk, _ = begun(journey, self._book, browser, journey.start.base, folder, healing, limit)
        self._doing = Doing(self._walk, self._values, [], True, False)
        self._results: list[StepResult] = []
        self._later: list[Step] = []
        self._section = "steps"
        self._begun = time.perf_counter()

    def __getattr__(self, name: str) -> Callable[..., None]:
        if name.startswith("__"):
            raise AttributeError(name)

        def step(*positional: Any, **named: Any) -> None:
            made = step_of_call(name, list(positional), named)
            if self._section == "after":
                self._later.append(made)
            else:
                self._do(made)

        return step

    def __dir__(self) -> list[str]:
        return [*super().__dir__(), *(name.replace("-", "_") for name in ACTIONS)]

    @property
    @contextmanager
    def before(self) -> Iterator[None]:
        """For the steps that come first."""
        self._section = "before"
        yield
        self._section = "steps"

    @property
    @contextmanager
    def after(self) -> Iterator[None]:
        """For steps that are done at the end, whatever happened."""
        self._section = "after"
        yield
        self._section = "steps"

    @property
    def run(self) -> Run:
        """What has been done so far."""
        seconds = time.perf_counter() - self._begun
        name = self._browser._running.name
        return Run(self._journey.journey, name, tuple(self._results), seconds, {}, (), self._doing.failed_on)

    def _do(self, step: Step) -> None:
        single = self._journey.model_copy(update={"before": (), "steps": (step,), "after": ()})
        for planned in plan(single, self._book, self._values, self._folder):
            number = len(self._results) + 1
            result = StepResult(number, planned.says, str(planned.locator or ""), "not run", section=self._section)
            result = self._doing.step(planned, result)
            self._results.append(result)
            if result.state == "failed":
                raise StepFailed(f"{self._journey.journey}: step {number}, {result.says}\n{result.message}")

    def __enter__(self) -> Walking:
        return self

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None) -> None:
        try:
            self._section = "last"
            for step in self._later:
                self._do(step)
        except StepFailed:
            if error is None:
                raise
        finally:
            if self._own:
                self._browser.close()
            else:
                self._walk.first.close()


def walking(
    title: str,
    *,
    book: str = "",
    start: Mapping[str, Any] | None = None,
    data: Mapping[str, str] | str = "",
    made_up: Mapping[str, str] | None = None,
    seed: int = 1,
    secrets: Mapping[str, str] | None = None,
    guards: Sequence[Sequence[str]] = (),
    browser: Browser | None = None,
    folder: str | Path | None = None,
    healing: Healing = "propose",
    limit: float | None = None,
) -> Walking:
    """Begin a journey, for a `with` block: see `Walking`. Arguments as in journey files; of a table of data the first row counts
    (`wary-hound run SCRIPT` does all). Files are relative to `folder`, else to the script. `browser`: one that runs already."""
    said: dict[str, Any] = {"journey": title, "book": book, "start": dict(start or {}), "data": data or {}, "seed": seed}
    said |= {"made-up": dict(made_up or {}), "secrets": dict(secrets or {})}
    said["guards"] = [{"when": when, "click": click} for when, click in guards]
    journey = Journey.model_validate({**said, "steps": [{"go": "again"}]})
    caller = inspect.stack()[1].filename
    where = Path(folder) if folder is not None else Path(caller).parent if Path(caller).is_file() else Path()
    size = size_of(journey.start.size) if journey.start.size else None
    shape: dict[str, Any] = {"viewport": size} if size else {}
    opened = browser or Browser.start(journey.start.browser or "chromium", **shape)
    try:
        return Walking(journey, where, opened, browser is None, healing, limit)
    except BaseException:
        if browser is None:
            opened.close()
        raise
