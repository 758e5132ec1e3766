"""Browsers that are killed while something is being done: how soon it is noticed, in which words, and what is left behind. Run:

python benchmarks/kills.py [starts of each] [chromium,firefox]

Each start clicks and types on a page until something dies: all of the browser, what drives it, or the process of the page, at a
random moment. Then a page is opened once more where the browser is said to live, and all is closed.
"""

from __future__ import annotations

import contextlib
import os
import random
import signal
import statistics
import sys
import tempfile
import threading
import time
from collections import Counter
from pathlib import Path

from wary_hound import Browser
from wary_hound.browser.launch import Launched
from wary_hound.errors import BrowserGone, WaryHoundError

PAGE = """<!doctype html><button onclick="this.textContent = Date.now()">x</button><input aria-label=Visitor>"""
PAGES = (b"--type=renderer", b"-isForBrowser")
"""What stands in the command lines of the processes of pages."""
WHAT = {"chromium": ("all", "driver", "page", "page"), "firefox": ("all", "page", "page")}
"""What is killed in turn; Firefox has no driver beside it."""


def members(group: int) -> dict[int, tuple[int, bytes]]:
    """The living processes of a group, with their parents and command lines."""
    there: dict[int, tuple[int, bytes]] = {}
    for folder in Path("/proc").glob("[0-9]*"):
        try:
            fields = (folder / "stat").read_text().rsplit(")", 1)[1].split()
            if int(fields[2]) == group and fields[0] != "Z":
                there[int(folder.name)] = int(fields[1]), (folder / "cmdline").read_bytes()
        except OSError:
            continue
    return there


def killing(group: int, what: str, after: float, killed: list[float]) -> None:
    """End what is meant after some seconds."""
    time.sleep(after)
    there = members(group)
    marked = [pid for pid, (_, said) in there.items() if what == "page" and any(mark in said for mark in PAGES)]
    marked = [random.choice(marked)] if marked else []  # of a page's processes one, as it happens
    killed.append(time.perf_counter())
    if what == "all":
        os.killpg(group, signal.SIGKILL)
    for pid in [pid for pid, (parent, _) in there.items() if parent == group] if what == "driver" else marked:
        os.kill(pid, signal.SIGKILL)


def main(starts: int = 50, names: str = "chromium,firefox") -> None:
    """Print what came of it in each browser."""
    dice = random.Random(3)
    for kind in names.split(","):
        late: dict[str, list[float]] = {"all": [], "driver": [], "page": []}
        told: Counter[str] = Counter()
        left = unnoticed = foreign = reopened = 0
        with tempfile.TemporaryDirectory() as made:
            (Path(made) / "page.html").write_text(PAGE)
            address = (Path(made) / "page.html").as_uri()
            for number in range(starts):
                what = WHAT[kind][number % len(WHAT[kind])]
                browser = Browser.start(kind, limit=10.0)
                running = browser._running
                assert isinstance(running, Launched)
                group, killed = running.process.pid, list[float]()
                live = browser.open(address)
                threading.Thread(target=killing, args=(group, what, dice.uniform(0.0, 0.6), killed)).start()
                try:
                    end = time.perf_counter() + 12.0
                    while time.perf_counter() < end:
                        live.click("css{button}")
                        live.type("label{Visitor}", "Ada Marsh")
                    unnoticed += 1
                except WaryHoundError as error:
                    late[what].append(time.perf_counter() - killed[0])
                    told[type(error).__name__] += 1
                    if what == "page" and not isinstance(error, BrowserGone):
                        with contextlib.suppress(WaryHoundError):
                            reopened += browser.open(address).find("css{button}").tag == "button"
                except Exception as error:
                    foreign += 1
                    print(f"  {what}: {type(error).__name__}: {str(error)[:120]}", flush=True)
                browser.close()
                left += len(members(group)) + running.folder.exists()
        said = "; ".join(f"{what} {statistics.median(v):.1f} s, at most {max(v):.1f}" for what, v in late.items() if v)
        print(f"{kind}: {starts} starts; noticed after: {said}; in words: {dict(told)}")
        print(f"  not noticed {unnoticed}; not in words of ours {foreign}; opened again {reopened}; left behind {left}", flush=True)


if __name__ == "__main__":
    main(*(kind(value) for kind, value in zip((int, str), sys.argv[1:], strict=False)))
