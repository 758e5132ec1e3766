"""Labelled histories of pages: folders of APP/PAGE@VERSION.html with APP/truth.json, the same elements labelled in each."""

from __future__ import annotations

import json
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter, ValidationError

from wary_hound.errors import FileError, NotationError
from wary_hound.files import read_text
from wary_hound.locator import css
from wary_hound.page import Page


@dataclass(frozen=True, slots=True)
class Version:
    """One page state at one release. `targets`: label to CSS paths, one a tree on the way; None where it is gone."""

    version: str
    file: Path
    targets: dict[str, tuple[str, ...] | None]

    def read(self) -> Page:
        """The page."""
        return Page.read(self.file)


@dataclass(frozen=True, slots=True)
class PageHistory:
    """One page state through its releases, in order."""

    application: str
    page: str
    versions: tuple[Version, ...]
    made_up: frozenset[str] = frozenset()
    """Texts that the history's authors made up, and kept the same in all versions (`content.json`)."""

    @property
    def name(self) -> str:
        """Application and page state."""
        return f"{self.application}/{self.page}"

    def pairs(self) -> Iterator[tuple[int, int]]:
        """Positions of all pairs of versions, old before new."""
        for old in range(len(self.versions)):
            for new in range(old + 1, len(self.versions)):
                yield old, new


@dataclass(frozen=True, slots=True)
class Variant:
    """One page of one version in two uses. `kind`: data, state, locale or narrow."""

    kind: str
    base: Version
    other: Version


@dataclass(frozen=True, slots=True)
class Variants:
    """One page state in other uses of the same versions."""

    application: str
    page: str
    pairs: tuple[Variant, ...]

    @property
    def name(self) -> str:
        """Application and page state."""
        return f"{self.application}/{self.page}"


def read_variants(folder: Path) -> list[Variants]:
    """All variants below a folder (or in it): APP/variants.json, rows as in truth.json with `variant`: base, data, state, locale
    or narrow. The base of a variant is the row `base` of its version, or the row of that version in truth.json. Empty where
    there are none; FileError where a file is broken."""
    histories = {(history.application, history.page): history for history in read_histories(folder)}
    variants = []
    for file in sorted({*folder.glob("variants.json"), *folder.glob("*/variants.json")}):
        application = file.parent.name
        for page, rows in _rows(file).items():
            known = histories.get((application, page))
            bases = {version.version: version for version in known.versions} if known else {}
            bases |= {row.version: _version(file, row) for row in rows if row.variant == "base"}
            pairs = tuple(
                Variant(row.variant, bases[row.version], _version(file, row))
                for row in rows
                if row.variant != "base" and row.version in bases
            )
            variants.append(Variants(application, page, pairs))
    return variants


def read_histories(folder: Path) -> list[PageHistory]:
    """All histories below a folder (or in it). FileError where there is none, or one is broken."""
    if not folder.is_dir():
        raise FileError(f"{folder}: there is no such folder")
    files = sorted({*folder.glob("truth.json"), *folder.glob("*/truth.json")})
    if not files:
        raise FileError(f"{folder}: no truth.json in it or one level below; a history has one for each application")
    return [history for file in files for history in _read(file)]


class _Target(BaseModel):
    """Where a labelled element is."""

    path: Annotated[list[str], Field(min_length=1, max_length=100)]


class _Row(BaseModel):
    """A version of a page state in a truth.json."""

    version: str
    file: Annotated[str, Field(min_length=1, pattern=r"^[^\x00]+$")]
    targets: dict[str, _Target | None]
    variant: str = ""


_READER = TypeAdapter(dict[str, list[_Row]], config=ConfigDict(coerce_numbers_to_str=True))


class _Content(BaseModel):
    """A content.json."""

    content: list[str] = []


def _made_up(folder: Path) -> frozenset[str]:
    file = folder / "content.json"
    if not file.exists():
        return frozenset()
    try:
        return frozenset(_Content.model_validate_json(read_text(file, "content of a history")).content)
    except ValidationError as error:
        raise FileError(f"{file}: no list of made-up texts ({error.errors()[0]['msg']})") from None


def _rows(file: Path) -> dict[str, list[_Row]]:
    text = read_text(file, "history")
    try:
        return _READER.validate_python(json.loads(text))
    except (ValidationError, ValueError, RecursionError) as error:
        first = error.errors()[0] if isinstance(error, ValidationError) else None
        said = f"at {'.'.join(str(part)[:40] for part in first['loc'])}: {first['msg']}" if first else type(error).__name__
        raise FileError(f"{file}: no history ({said})") from None


def _version(file: Path, row: _Row) -> Version:
    return Version(row.version, file.parent / row.file, {k: tuple(t.path) if t else None for k, t in row.targets.items()})


def _read(file: Path) -> list[PageHistory]:
    made_up = _made_up(file.parent)
    return [
        PageHistory(file.parent.name, page, tuple(_version(file, row) for row in rows), made_up)
        for page, rows in _rows(file).items()
    ]


def locate(page: Page, path: Sequence[str]) -> int:
    """The element that the CSS child paths lead to, tree by tree. FileError where they lead nowhere."""
    tree = 0
    found = -1
    for step, text in enumerate(path):
        found = _follow(page, tree, text)
        if step < len(path) - 1:
            hosted = page.hosted.get(found)
            if hosted is None:
                raise FileError(f"{page.source}: {text} hosts no tree, but the label's path goes on inside it")
            tree = hosted.number
    return found


def _follow(page: Page, tree: int, text: str) -> int:
    try:
        selector = css.parse(text)
    except NotationError as error:
        raise FileError(f"{page.source}: the label's path is broken: {error}") from None
    levels = len(selector[0].compounds) - 1
    found = [i for i in css.match(page, selector, tree).tolist() if page.depth[i] == levels]
    if len(found) != 1:
        raise FileError(f"{page.source}: the label's path leads to {len(found)} elements, not one: {text}")
    return int(found[0])


def targets(page: Page, version: Version) -> dict[str, int | None]:
    """The labelled elements of a version by index; None for those that are gone."""
    return {label: locate(page, path) if path is not None else None for label, path in version.targets.items()}


def labelled(history: PageHistory) -> tuple[tuple[Page, ...], tuple[dict[str, int | None], ...]]:
    """The pages of a history and what is labelled on each."""
    pages = tuple(version.read() for version in history.versions)
    return pages, tuple(targets(page, version) for page, version in zip(pages, history.versions, strict=True))


def outcome(found: Sequence[int], wanted: int) -> str:
    """`alive` where a locator finds exactly the wanted element; else `lost`, `stolen` or `ambiguous`.

    Several matches of which none is the wanted one are ambiguous: whoever asks for one element is refused.
    """
    if list(found) == [wanted]:
        return "alive"
    if not found:
        return "lost"
    return "stolen" if len(found) == 1 else "ambiguous"
