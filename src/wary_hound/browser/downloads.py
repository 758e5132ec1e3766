"""Files that pages hand out: waited for, with name, path and content; they go with the browser unless they are kept."""

from __future__ import annotations

import re
import shutil
import time
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from types import TracebackType

from wary_hound.browser.connection import Connection
from wary_hound.browser.protocol import Event
from wary_hound.errors import BrowserError, BrowserTimeout

EVENTS = ["browsingContext.downloadWillBegin", "browsingContext.downloadEnd"]


@dataclass
class Download:
    """A file that a page handed out. `name` as the page called it; `path` where it lies until the browser is closed; `state`:
    begun, complete or canceled."""

    address: str
    name: str
    path: Path | None = None
    state: str = "begun"

    @property
    def content(self) -> bytes:
        """What is in it. BrowserError where it is not there whole."""
        if self.path is None or self.state != "complete":
            raise BrowserError(f"{self.name} was not downloaded: it is {self.state}")
        return self.path.read_bytes()

    def keep(self, path: str | Path) -> Path:
        """Copy it to a path, or under its own name into a folder, and give that path."""
        if self.path is None or self.state != "complete":
            raise BrowserError(f"{self.name} was not downloaded: it is {self.state}")
        target = Path(path)
        target = target / self.name if target.is_dir() else target
        shutil.copyfile(self.path, target)
        return target


def plain_name(name: str) -> str:
    """A file's name without the number that browsers put in where there is such a file already."""
    return re.sub(r" ?\(\d+\)(?=\.|$)", "", name)


class Downloads:
    """The downloads of all pages of a browser, by page."""

    def __init__(self, connection: Connection) -> None:
        self.by_page: dict[str, list[Download]] = {}
        self._open: dict[str, Download] = {}
        connection.on("browsingContext.downloadWillBegin", self._begin)
        connection.on("browsingContext.downloadEnd", self._end)

    def _begin(self, event: Event) -> None:
        made = Download(str(event.params.get("url", "")), str(event.params.get("suggestedFilename", "")))
        self.by_page.setdefault(str(event.params.get("context")), []).append(made)
        self._open[self._key(event)] = made

    def _end(self, event: Event) -> None:
        made = self._open.pop(self._key(event), None)
        if made is not None:
            made.state = str(event.params.get("status", "complete"))
            path = event.params.get("filepath")
            made.path = Path(path) if path else None

    @staticmethod
    def _key(event: Event) -> str:
        return str(event.params.get("download") or event.params.get("navigation") or event.params.get("url"))


class Downloading:
    """For a `with` block in which one download begins; when the block ends it is complete, and its name, path and content are
    those of `download`. BrowserTimeout where none came."""

    def __init__(self, downloads: list[Download], listen: Callable[[float], None], limit: float) -> None:
        self._downloads = downloads
        self._before = len(downloads)
        self._listen = listen
        self._limit = limit

    @property
    def download(self) -> Download:
        """The file. BrowserError before one has begun."""
        if len(self._downloads) <= self._before:
            raise BrowserError("no download has begun")
        return self._downloads[self._before]

    @property
    def name(self) -> str:
        """The file's name, as the page called it."""
        return self.download.name

    @property
    def content(self) -> bytes:
        """What is in the file."""
        return self.download.content

    def __enter__(self) -> Downloading:
        return self

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None) -> None:
        if error is not None:
            return
        deadline = time.monotonic() + self._limit
        while len(self._downloads) <= self._before or self.download.state == "begun":
            try:
                self._listen(deadline)
            except BrowserTimeout:
                what = "a download to begin" if len(self._downloads) <= self._before else f"{self.download.name} to arrive"
                raise BrowserTimeout(f"waited {self._limit:g} s for {what}: it did not") from None
        if self.download.state != "complete":
            raise BrowserError(f"the download of {self.download.name} was {self.download.state}")
