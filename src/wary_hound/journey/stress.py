"""Stress: how long the locators of a book, and the journey that needs them all, will last; what fails first, and why."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from concurrent.futures import Executor, as_completed
from dataclasses import dataclass, replace
from functools import lru_cache, reduce
from pathlib import Path

import numpy as np
import numpy.typing as npt

from wary_hound.authoring.question import Question
from wary_hound.authoring.ranking import Candidate, assess, futures_of, rank
from wary_hound.errors import FileError
from wary_hound.journey import yaml_text
from wary_hound.journey.book import Book, parse_book
from wary_hound.journey.journey import Journey, locator_of
from wary_hound.journey.steps import THE_PAGE
from wary_hound.locator.evaluate import match
from wary_hound.locator.notation import parse
from wary_hound.page import Page
from wary_hound.robustness.dependence import dependencies
from wary_hound.robustness.survival import FUTURES, HORIZON, Fate, failing, fate_of

Fails = npt.NDArray[np.bool_]
FINE = 0.02
"""A better locator is worth a word where it saves more than this share of futures."""


@dataclass(frozen=True, slots=True)
class Task:
    """One element to stress; plain, so that another process or machine can take it."""

    name: str
    page: Path
    locators: tuple[str, ...]
    """The main one, then the fallbacks."""
    question: Question


@dataclass(frozen=True, slots=True)
class Stressed:
    """What becomes of one element's locators. `fails`: the main one, `all_fail`: it and every fallback; shape (futures,
    releases). `main` is None where the main locator does not find one element on its page today: it fails in every future."""

    name: str
    page: Path
    locator: str
    element: int
    main: Candidate | None
    best: Candidate | None
    fails: Fails
    all_fail: Fails
    curve: tuple[float, ...] = (0.0,) * HORIZON
    """How probably the main locator still finds its element after 1, 2, ... releases."""
    note: str = ""

    def survival(self, releases: int) -> float:
        """How probably the main locator still finds its element."""
        return self.curve[releases - 1]


@dataclass(frozen=True)
class Stress:
    """The elements, those at most risk first, and the survival of the whole after 1, 2, ... releases."""

    title: str
    releases: int
    elements: tuple[Stressed, ...]
    curve: tuple[float, ...]
    """All main locators still find their elements."""
    with_fallbacks: tuple[float, ...]
    """Of each element, some locator still finds it."""

    @property
    def survival(self) -> float:
        """The share of futures in which all main locators do, after the releases asked for."""
        return self.curve[self.releases - 1]

    @property
    def weakest(self) -> tuple[Stressed, ...]:
        """The elements at most risk."""
        return self.elements[:3]


def tasks_of(path: Path, question: Question) -> tuple[str, list[Task]]:
    """What a book, or a journey with its book, asks of pages. FileError where no snapshot is named."""
    _, data = yaml_text.load(path, "book or journey")
    journey = None if "elements" in data else Journey.read(path)
    book_path = path if journey is None else path.parent / journey.book
    book: Book = parse_book(book_path)[1]
    names = list(book.elements)
    if journey is not None:
        names = list(dict.fromkeys(step.on for step in journey.all_steps if step.on and step.on != THE_PAGE))
    tasks = []
    for name in names:
        entry = book.elements.get(name)
        page = book.page_of(name, book_path.parent) if entry else (book_path.parent / book.page if book.page else None)
        if page is None:
            raise FileError(f"{book_path}: {name} names no page that it was seen on: add `page: SNAPSHOT.html` to the book")
        locators = (entry.locator, *entry.fallbacks) if entry else (str(locator_of(name, book, str(path))),)
        tasks.append(Task(name, page, locators, question))
    if not tasks:
        raise FileError(f"{path}: it uses no element of {book_path.name}")
    return (journey.journey if journey is not None else book.book), tasks


def stress(title: str, tasks: Sequence[Task], executor: Executor, done: Callable[[Stressed], None] | None = None) -> Stress:
    """Stress all elements in any `concurrent.futures` executor; `done` is told of each as it comes.

    All are judged in the same futures: releases have the same sizes for every page, facts of one page change together.
    """
    releases = tasks[0].question.releases
    waiting = [executor.submit(stressed, task) for task in tasks]
    for future in as_completed(waiting):
        outcome = future.result()
        if done is not None:
            done(outcome)
    elements = [future.result() for future in waiting]
    told = tasks[0].question.weighing.calibrated
    curve = told(1 - np.any([e.fails for e in elements], axis=0).mean(0))
    covered = told(1 - np.any([e.all_fail for e in elements], axis=0).mean(0))
    ordered = sorted(elements, key=lambda e: (e.survival(releases), e.name))
    return Stress(title, releases, tuple(ordered), tuple(map(float, curve)), tuple(map(float, covered)))


def stressed(task: Task) -> Stressed:
    """One element."""
    page = _page(task.page, task.page.stat().st_mtime_ns if task.page.exists() else 0)
    futures = futures_of(page, task.question)
    never = np.ones((FUTURES, HORIZON), np.bool_)
    found = match(page, task.locators[0])
    if len(found) != 1:
        note = f"{task.locators[0]} matches {len(found) or 'nothing'} on {task.page.name} today"
        return Stressed(task.name, task.page, task.locators[0], -1, None, None, never, never, note=note)
    element = page[found[0]]
    fates = []
    for locator in task.locators:
        ways = [way for way in parse(locator).alternatives if match(page, way) == found]
        if ways:
            each = [fate_of(futures, dependencies(page, way, element.index), element.index) for way in ways]
            fates.append(failing(reduce(Fate.or_else, each), futures.horizon))
    main = assess(task.locators[0], element, task.question)
    ranked = rank(element, replace(task.question, ways=1))
    best = ranked[0] if ranked and ranked[0].survival > main.survival + FINE else None
    return Stressed(task.name, task.page, task.locators[0], element.index, main, best, fates[0], np.all(fates, axis=0), main.curve)


@lru_cache(maxsize=8)
def _page(path: Path, changed: int) -> Page:
    return Page.read(path)
