"""What the commands share: options, reading pages, printing JSON."""

from __future__ import annotations

import contextlib
import json
import multiprocessing
import os
import re
import threading
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Executor, ProcessPoolExecutor
from pathlib import Path
from typing import Any, TypeVar

import click

from wary_hound.errors import FileError
from wary_hound.files import read_bytes
from wary_hound.locator.typed import typed
from wary_hound.locator.values import Locator
from wary_hound.page import Element, Page
from wary_hound.page.secrets import masked
from wary_hound.report.terminal import shown
from wary_hound.robustness.model import ChangeModel

Function = TypeVar("Function", bound=Callable[..., Any])
_COMMANDING = re.compile("[\x7f-\x9f\u202a-\u202e\u2066-\u2069\ud800-\udfff]")
MOST_BYTES = 200_000_000

json_option = click.option("--json", "as_json", is_flag=True, help="Print JSON instead of tables.")
FILE = click.Path(path_type=Path)


class _Costs(click.ParamType[float]):
    """What a wrong match costs: a number from 1."""

    name = "float"

    def convert(self, value: Any, parameter: click.Parameter | None, context: click.Context | None) -> float:
        try:
            number = float(value)
        except ValueError:
            self.fail(f"{value!r} is no number", parameter, context)
        if not 1 <= number < float("inf"):
            self.fail(f"{value!r} is not 1 or more, and finite", parameter, context)
        return number


COSTS = _Costs()

rates_option = click.option("--rates", type=FILE, help="A change model of your own (history learn), instead of the shipped one.")


browser_option = click.option(
    "--browser", type=click.Choice(["chromium", "firefox"]), default="chromium", show_default=True, help="What shows an address."
)


def read_rates(path: Path | None) -> ChangeModel:
    """The change model that was asked for."""
    return ChangeModel.shipped() if path is None else ChangeModel.read(path)


class _PageParameter(click.ParamType[str | Path]):
    """A snapshot's file, or the address of a live page."""

    name = "page"

    def convert(self, value: Any, parameter: click.Parameter | None, context: click.Context | None) -> str | Path:
        return value if isinstance(value, Path) or "://" in value else Path(value)


PAGE = _PageParameter()


def read_page(given: str | Path, browser: str = "chromium") -> Page:
    """A snapshot, or a live page as a headless browser shows it now; with a word on standard error about what was left out."""
    return seen_page(given, browser)[0]


def seen_page(given: str | Path, browser: str = "chromium") -> tuple[Page, bytes | None]:
    """The same with its picture (PNG), where there is one."""
    if isinstance(given, str):
        from wary_hound.browser import Browser

        with Browser.start(browser) as running:
            live = running.open(given)
            tell_status(live.status, given)
            page, picture = live.capture(), live.screenshot()
        tell_notes(page)
        return page, picture
    page = Page.read(given)
    tell_notes(page)
    return page, read_bytes(page.picture, "picture", MOST_BYTES) if page.picture is not None else None


def page_name(given: str | Path) -> str:
    """What a page is called in a line of output: the file's name, or the address."""
    return given if isinstance(given, str) else given.name


def tell_status(status: int, address: str) -> None:
    """A word on standard error where a server did not answer with the page that was asked for."""
    if status >= 400:
        click.echo(f"wary-hound: note: {shown(masked(address))} answered {status}: this is the page that came with it", err=True)


def tell_notes(page: Page) -> None:
    """A word on standard error about what is not as it should be on a page."""
    for note in page.notes:
        click.echo(f"wary-hound: note: {shown(note)}", err=True)


def file_address(path: Path) -> str:
    """The address of a file. FileError where there is none."""
    if not path.is_file():
        raise FileError(f"{path}: there is no such file; an address begins with http:// or https://")
    return path.resolve().as_uri()


def print_json(data: Any) -> None:
    """JSON in which nothing commands a terminal: such characters stand there as escapes, which read back as the same."""
    text = json.dumps(data, indent=2, ensure_ascii=False)
    click.echo(_COMMANDING.sub(lambda letter: f"\\u{ord(letter.group()):04x}", text))


def element_json(element: Element) -> dict[str, Any]:
    """An element as JSON has it everywhere."""
    facts = element.page.facts
    known = facts is not None and facts.has_boxes and element.visible
    return {
        "index": element.index,
        "tag": element.tag,
        "attributes": element.attributes,
        "text": element.text,
        "role": element.role,
        "name": element.name,
        "visible": element.visible,
        "tree": element.tree.kind,
        "box": [round(v, 1) for v in element.box] if known else None,
    }


def short(element: Element, most: int = 60) -> str:
    """An element in a few characters: tag, a telling attribute, text."""
    attributes = element.attributes
    marks = [f'{k}="{attributes[k]}"' for k in ("id", "name", "type", "value") if attributes.get(k)][:2]
    says = element.text or element.name
    text = f"<{' '.join([element.tag, *marks])}>{' ' + says if says else ''}"
    return text if len(text) <= most else text[: most - 1] + "…"


@contextlib.contextmanager
def workers(jobs: int | None) -> Iterator[ProcessPoolExecutor]:
    """Processes that end with this one, however it ends."""
    with ProcessPoolExecutor(jobs, initializer=_end_with_owner) as pool:
        try:
            yield pool
        except KeyboardInterrupt:
            pool.shutdown(wait=True, cancel_futures=True)
            raise


def _end_with_owner() -> None:
    owner = multiprocessing.parent_process()
    assert owner is not None

    def watch() -> None:
        owner.join()
        os._exit(1)

    threading.Thread(target=watch, daemon=True).start()


def read_locator(text: str) -> Locator:
    """A locator as it was typed. A bare CSS selector or XPath is shown back in our notation, beside the output (stderr)."""
    value = typed(text)
    if not _OURS.match(text):
        click.echo(f"Read as {value}", err=True)
    return value


_OURS = re.compile(r"\s*\w+\s*\{|\s*(?:frame|shadow)\s")


@contextlib.contextmanager
def executor(jobs: int | None, cluster: str | None) -> Iterator[Executor]:
    """Something to submit calls to: processes here, or the workers of a Dask scheduler. FileError where none answers."""
    if cluster is None:
        with workers(jobs) as pool:
            yield pool
        return
    try:
        from distributed import Client
    except ImportError:
        raise FileError("--cluster needs Dask: pip install 'wary-hound[cluster]'") from None
    try:
        client: Any = Client(cluster, timeout=10)  # type: ignore[no-untyped-call]
    except (OSError, ValueError) as error:
        raise FileError(f"--cluster: no Dask scheduler answers at {cluster} ({type(error).__name__})") from None
    with client:
        yield client.get_executor()


def journey_files(given: Sequence[Path]) -> list[Path]:
    """Files of journeys; a folder stands for those in it. FileError where there is none in one."""
    files: list[Path] = []
    for path in given:
        if path.is_dir():
            inside = [file for file in sorted(path.glob("*.yaml")) if b"\nsteps:" in b"\n" + file.read_bytes()]
            if not inside:
                raise FileError(f"{path}: there is no journey in this folder")
            files += inside
        else:
            files.append(path)
    return files


def in_lines(locator: str, width: int) -> str:
    """A locator in lines of so many letters at most, each ended where a part of it does and outside of quotes, as far as there is
    such a place."""
    lines, begun = [], False
    while len(locator) > width > 0:
        cut, quoted = 0, begun
        for at, sign in enumerate(locator[:width]):
            quoted ^= sign == '"'
            if not quoted and sign == " ":
                cut = at + 1
            elif not quoted and at and sign in "/[" and locator[at - 1 : at + 1] != "//":
                cut = at
        cut = cut if cut > width // 3 else width
        begun ^= locator[:cut].count('"') % 2 == 1
        lines.append(locator[:cut])
        locator = locator[cut:]
    return "\n".join((*lines, locator))
