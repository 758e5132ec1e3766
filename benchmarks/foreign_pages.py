"""Drafts and recordings on pages that somebody else made, from a folder of labelled histories. Run:

python benchmarks/foreign_pages.py FOLDER [forms] [recordings] [runs of each] [chromium,firefox]

Drafts: of sections with fields, one a page: how many of the fields the draft fills, of those how many the browser finds valid, and
whether all steps could be done. Recordings: fields are filled, boxes ticked, buttons and links clicked, texts checked in a browser
that records; how many steps came of how many things done, and how many runs of what was recorded pass.
The pages are opened as snapshots, which run no scripts and fetch nothing.
"""

from __future__ import annotations

import sys
import tempfile
from collections.abc import Callable, Iterator
from functools import partial
from pathlib import Path

from wary_hound import Browser, Journey, Page
from wary_hound.authoring.question import Question
from wary_hound.authoring.ranking import rank
from wary_hound.browser import LivePage
from wary_hound.demo.server import serve
from wary_hound.errors import WaryHoundError
from wary_hound.journey.data import filled
from wary_hound.journey.drafting import draft, fields_of
from wary_hound.journey.steps import Step
from wary_hound.measuring.history import read_histories
from wary_hound.page import Element
from wary_hound.page.serialize import to_html
from wary_hound.running.recording import Recorder
from wary_hound.running.replay import replay

MOST_FIELDS, MOST_CLICKS, MOST_CHECKS = 8, 6, 3


def pages_of(folder: Path, target: Path) -> Iterator[tuple[str, Page]]:
    """The newest version of each page, written to a folder as a snapshot under a name of its own; no two pages of an application
    follow each other."""
    histories = read_histories(folder)
    by_application: dict[str, list[tuple[str, Path]]] = {}
    for history in histories:
        by_application.setdefault(history.application, []).append((history.page, history.versions[-1].file))
    for turn in range(max(map(len, by_application.values()))):
        for number, pages in enumerate(by_application.values()):
            if turn < len(pages):
                name = f"page-{number}-{turn}.html"
                page = Page.read(pages[turn][1])
                (target / name).write_text(to_html(page), encoding="utf-8")
                yield name, page


def section_of(live: LivePage) -> Element | None:
    """The section of a page with the most fields that is a form, a group of fields or a dialog; else the page, where it has any."""
    page = live.capture()
    sections = [e for tag in ("form", "fieldset", "dialog") for e in page.find_all(f"css{{{tag}}}")] or [page[0]]
    best = max(sections, key=lambda e: sum(1 for _ in fields_of(e)))
    return best if any(True for _ in fields_of(best)) else None


def drafts(browser: Browser, address: str, names: Iterator[str], most: int) -> None:
    """Print what drafts of so many sections came to."""
    there = written = valid = whole = done = 0
    for name in names:
        if done == most:
            break
        live = browser.open(f"{address}/{name}")
        section = section_of(live)
        live.close()
        if section is None:
            continue
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "draft.yaml"
            made = draft(section, "Draft", path)
            steps = tuple(s for s in made.journey.steps if s.action in ("open", "type", "choose", "tick", "add"))
            made.book.write({s.on for s in steps}, {path: made.journey.to_yaml().encode()}, "Draft")
            journey = made.journey.model_copy(update={"steps": steps})
            ran, judged = _filled(browser, journey, Path(folder), address)
        done += 1
        fields = sum(1 for _ in fields_of(section))
        there, written, valid, whole = there + fields, written + len(steps) - 1, valid + judged, whole + (ran == "passed")
        print(
            f"  {name}: {fields} fields, {len(steps) - 1} filled, {judged} of those valid, {ran}",
            flush=True,
        )
    print(f"drafts: {done} sections, {there} fields, {written} filled, {valid} of those valid, all steps done in {whole}")


def _filled(browser: Browser, journey: Journey, folder: Path, address: str) -> tuple[str, int]:
    """How a run of the steps ended, and how many of the fields it filled are valid then."""
    book = journey.read_book(folder)
    assert book is not None
    judged: list[str] = []

    def look(live: LivePage, number: int) -> None:
        if number == len(journey.steps) + 1:
            page = live.capture()
            invalid = {e.index for e in page.find_all("css{:invalid}")}
            found = [page.find_all(book.elements[step.on].main) for step in journey.steps[1:]]
            judged.extend(str(e[0]) for e in found if len(e) == 1 and e[0].index not in invalid)

    last = Step(action="check", on=journey.steps[-1].on, expect="shown", from_start=False)
    run = replay(
        journey.model_copy(update={"steps": (*journey.steps, last)}), book, browser, base=address,
        values=journey.rows(folder, {}, "draft")[0], folder=folder, pictures=False, limit=5.0, before=look,
    )  # fmt: skip
    failing = run.failing if run.failing is not run.steps[-1] else None  # a hidden box may be ticked by its label
    return "passed" if failing is None else f"failed: {failing.says}: {failing.message.splitlines()[0][:90]}", len(judged)


# --- recordings ----------------------------------------------------------------------------------------------------------


def acts_on(live: LivePage) -> list[tuple[str, Callable[[], object]]]:
    """Things to do on a page, each with what is done: fields by a draft, buttons within the page, texts to check."""
    page = live.capture()
    acts: list[tuple[str, Callable[[], object]]] = []
    with tempfile.TemporaryDirectory() as folder:
        made = draft(page[0], "Acts", Path(folder) / "acts.yaml")
    values = made.journey.rows(Path(), {}, "acts")[0]
    for written in [s for s in made.journey.steps if s.action in ("type", "choose", "tick")][:MOST_FIELDS]:
        step = filled(written, values, "acts")
        where = str(made.book.entries[step.on].main)
        given = [step.value] if step.action == "type" else list(step.values or (step.value,)) if step.action == "choose" else []
        acts.append((f"{step.action} {step.value} in {where}", partial(getattr(live, step.action), where, *given)))
    for element in [e for e in page.elements if e.visible and e.role in ("button", "tab", "menuitem")][:MOST_CLICKS]:
        leaves = element.attributes.get("type") == "submit" or any(page.tags[i] == "a" for i in page.ancestors(element.index))
        if not leaves and element.attributes.get("aria-disabled") != "true":
            acts.append((f"click {element}", partial(live.click, _best(element))))
    told = [e for e in page.elements if e.visible and e.text and not e.children and e.tag in ("h1", "h2", "h3", "td", "p", "label")]
    for element in told[:: max(1, len(told) // MOST_CHECKS)][:MOST_CHECKS]:
        acts.append((f"check {element}", partial(live.click, _best(element), holding="Alt")))
    return acts


def _best(element: Element) -> str:
    return str(rank(element, Question(ways=1))[0].locator)


def recordings(browser: Browser, address: str, names: Iterator[str], most: int, times: int) -> None:
    """Print what recordings on so many pages came to, and how many runs of each pass."""
    pages = done = recorded = passed = runs = 0
    for name in names:
        if pages == most:
            break
        live = browser.open(f"{address}/{name}")
        live.limit = 5.0
        acts = acts_on(live)
        if len(acts) < 6:
            live.close()
            continue
        pages += 1
        with tempfile.TemporaryDirectory() as folder:
            did, kept, journey = _recorded(live, acts, Path(folder) / "recorded.yaml")
            live.close()
            green = 0
            for number in range(times):
                run = replay(
                    journey, journey.read_book(Path(folder)), browser, base=address, values=journey.rows(Path(folder), {}, "r")[0],
                    folder=Path(folder), pictures=False, limit=10.0,
                )  # fmt: skip
                green += run.state == "passed"
                if run.failing is not None and green == number:
                    print(f"    {run.failing.says}: {run.failing.message.splitlines()[0][:140]}", flush=True)
        done, recorded, passed, runs = done + did, recorded + kept, passed + green, runs + times
        print(f"  {name}: {did} things done, {kept} steps recorded; {green} of {times} runs pass", flush=True)
    print(f"recordings: {pages} pages, {done} things done, {recorded} recorded; {passed} of {runs} runs pass")


def _recorded(live: LivePage, acts: list[tuple[str, Callable[[], object]]], path: Path) -> tuple[int, int, Journey]:
    """How many things were done, how many steps came of them, and the journey."""
    did = 0
    with Recorder(live, path, "Recorded") as recorder:
        recorder.listen(0.5)
        for said, act in acts:
            before = len(recorder.steps)
            try:
                act()
            except WaryHoundError as error:
                print(f"    not done: {said}: {str(error).splitlines()[0][:120]}", flush=True)
                continue
            did += 1
            recorder.listen(0.5)
            recorder.finish()
            if len(recorder.steps) == before:
                print(f"    not recorded: {said}", flush=True)
        recorder.finish()
        return did, len(recorder.steps) - 1, recorder.journey


def main(folder: str, forms: str = "10", recorded: str = "5", times: str = "10", browsers: str = "chromium,firefox") -> None:
    """Drafts and recordings, in each browser."""
    with tempfile.TemporaryDirectory() as site:
        names = [name for name, _ in pages_of(Path(folder), Path(site))]
        with serve(Path(site)) as address:
            for kind in browsers.split(","):
                print(kind)
                with Browser.start(kind) as browser:
                    drafts(browser, address, iter(names), int(forms))
                    recordings(browser, address, iter(names), int(recorded), int(times))


if __name__ == "__main__":
    main(*sys.argv[1:])
