"""Times live pages, as ratios within one run: capture against reading element by element, actions against the bare protocol,
how soon an action follows readiness, and what is left of browsers after many starts.

usage: live.py [BROWSER] [STARTS]
"""

from __future__ import annotations

import os
import random
import signal
import statistics
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from evaluation import season
from wary_hound import Browser, Page
from wary_hound.browser import LivePage
from wary_hound.browser.launch import Launched
from wary_hound.locator.evaluate import match

LATE = """<!doctype html><body><button id=b disabled>x</button><script>
const times = [];
const again = () => { b.disabled = true; setTimeout(() => { b.disabled = false; times.push(performance.now()); }, 300); };
const b = document.getElementById("b");
b.onclick = () => { times.push(performance.now()); document.title = JSON.stringify(times); again(); };
again();
</script>"""


FIELD = "<label>Visitor <input></label>"
TURNS = 10
"""Of each strategy on each page: of five clicks each."""


def capture(browser: Browser, folder: Path) -> None:
    print(f"{'elements':>9} {'capture':>9} {'calls':>6} {'one by one':>11} {'ratio':>7}")
    for rows in (70, 700, 3500):
        (folder / "season.html").write_text(season(rows))
        live = browser.open((folder / "season.html").as_uri())
        page = live.capture()
        connection = live._connection
        taken, calls = [], 0
        for _ in range(3):
            before, start = next(connection._protocol.numbers), time.perf_counter()
            live.capture()
            taken.append(time.perf_counter() - start)
            calls = next(connection._protocol.numbers) - before - 1
        start = time.perf_counter()
        for _ in range(40):
            live.script("() => { const e = document.body; return e.localName + JSON.stringify(e.getBoundingClientRect()); }")
        each = (time.perf_counter() - start) / 40 * len(page)
        own = statistics.median(taken)
        print(f"{len(page):9,} {own * 1e3:7.0f}ms {calls:6} {each * 1e3:9.0f}ms {each / own:7.1f}")


def acting(live: LivePage) -> None:
    for _ in range(15):
        live.click("css{#b}")
    times = [float(v) for v in live.script("() => document.title").strip("[]").split(",")]
    waits = sorted(b - a for a, b in zip(times[::2], times[1::2], strict=False))
    p95 = waits[int(0.95 * (len(waits) - 1))]
    print(f"\nFrom ready to clicked: median {statistics.median(waits):.0f} ms, 95 % {p95:.0f} ms, of {len(waits)}")


def overhead(browser: Browser, folder: Path) -> None:
    """A click by each strategy, on a small page and on large ones, beside the bare calls that it needs: a look-up (by
    XPath where the locator is one, else by CSS) and the input actions; and beside the input actions alone. All in turns, strategy
    after strategy, as the machine is faster and slower."""
    (folder / "plain.html").write_text("<!doctype html><ul><li><i>Vega</i><button id=b>x</button></ul>" + FIELD)
    small = ["css{#b}", "xpath{//button}", 'role{button "x"}', "label{Visitor}", "text{x}", "css{button} @row-of text{Vega}"]
    print(f"\n{'elements':>8}  {'a click':>44} {'look-up':>8} {'input':>7} {'ours':>7} {'ratio':>6} {'to input':>9}")
    for rows in (0, 700, 3500):
        if rows:
            (folder / "plain.html").write_text(season(rows).replace("</main>", f"{FIELD}</main>"))
        live = browser.open((folder / "plain.html").as_uri())
        page = live.capture()
        taken: dict[str, list[list[float]]] = {locator: [[], [], []] for locator in (large(page) if rows else small)}
        for _ in range(TURNS):
            for locator, times in taken.items():
                for kept, timed_now in zip(times, in_turns(live, locator), strict=True):
                    kept.extend(timed_now[1:])
        for locator, times in taken.items():
            look, one, ours = (statistics.median(kept) for kept in times)
            print(
                f"{len(page):8,}  {locator:>44} {look * 1e3:6.0f}ms {one * 1e3:5.0f}ms {ours * 1e3:5.0f}ms "
                f"{ours / (look + one):6.1f} {ours / one:9.1f}"
            )


def in_turns(live: LivePage, locator: str) -> tuple[list[float], list[float], list[float]]:
    """Seconds of six bare look-ups and six bare inputs, one after the other, and then of six clicks. The first of a kind does not
    count, since in some browsers what comes next waits for the frame of what was done last."""
    ready = live._target.ready(locator, "click")
    move = {"type": "pointerMove", "x": 0, "y": 0, "origin": {"type": "element", "element": ready.node}}
    press = [{"type": kind, "button": 0} for kind in ("pointerDown", "pointerUp")]
    actions = [{"type": "pointer", "id": "mouse", "parameters": {"pointerType": "mouse"}, "actions": [move, *press]}]
    way = {"type": "css", "value": "tr:nth-child(90) button, #b"}
    if locator.startswith("xpath"):
        way = {"type": "xpath", "value": locator[6:-1]}
    looks, inputs = [], []
    for _ in range(6):
        looks.append(timed(live._connection.send, "browsingContext.locateNodes", context=ready.context, locator=way))
        inputs.append(timed(live._connection.send, "input.performActions", context=ready.context, actions=actions))
    return looks, inputs, [timed(live.click, locator) for _ in range(6)]


def timed(what: Callable[..., object], *arguments: object, **named: object) -> float:
    start = time.perf_counter()
    what(*arguments, **named)
    return time.perf_counter() - start


def large(page: Page) -> list[str]:
    """Ways to say the same button of a large page, by each strategy."""
    button = page.find("css{button}#90")
    row = next(at for at in page.ancestors(button.index) if page.tags[at] == "tr")
    told = next(page.semantics.text[i] for i in page.children(row) if len(match(page, f"text{{{page.semantics.text[i]}}}")) == 1)
    return [
        "css{button}#90", "xpath{(//button)[90]}", "role{button}#90", 'role{button "Hold 89"}', "label{Visitor}",
        "text{Hold 89}", f"text{{{told}}}", f"css{{button}} @row-of text{{{told}}}",
        f"role{{button}} @row-of text{{{told}}}",
    ]  # fmt: skip


def blocks(browser: Browser, folder: Path) -> None:
    """A click by text on a page of blocks, each of which may host a closed tree: the first, and later ones."""
    row = "<div class=row><div><span>Night {0}</span></div><div><button>Hold {0}</button></div></div>"
    (folder / "blocks.html").write_text("<!doctype html><body>" + "".join(row.format(i) for i in range(1000)))
    live = browser.open((folder / "blocks.html").as_uri())
    times = []
    for number in range(8):
        start = time.perf_counter()
        live.click(f"text{{Hold {90 + number}}}")
        times.append(time.perf_counter() - start)
    first, later = times[0], statistics.median(times[1:])
    print(
        f"\nA click by text on 4,000 blocks: the first {first * 1e3:.0f} ms, later {later * 1e3:.0f} ms, ratio {first / later:.1f}"
    )


def ticking(browser: Browser, folder: Path) -> None:
    """How long the opening of a page takes that changes all the time, beside one that does not."""
    times = []
    for every in (0, 50, 200):
        change = "document.title += 'x'; b.textContent = Date.now();"
        script = f"<script>setInterval(() => {{ {change} }}, {every})</script>" if every else ""
        (folder / "ticks.html").write_text(f"<!doctype html><b id=b>0</b>{script}")
        begun = time.perf_counter()
        browser.open((folder / "ticks.html").as_uri()).close()
        times.append(time.perf_counter() - begun)
    print(f"\nTo open a page at rest {times[0]:.2f} s; one that ticks every 50 ms {times[1]:.2f} s, every 200 ms {times[2]:.2f} s")


def left_behind(kind: str, starts: int) -> None:
    chance = random.Random(5)
    folders, groups = [], []
    for _ in range(starts):
        browser = Browser.start(kind)
        running = browser._running
        assert isinstance(running, Launched)
        folders.append(running.folder)
        groups.append(running.process.pid)
        if chance.random() < 0.5:
            os.killpg(running.process.pid, signal.SIGKILL)
        browser.close()
    alive = 0
    for stat in Path("/proc").glob("[0-9]*/stat"):
        try:
            fields = stat.read_text().rsplit(")", 1)[1].split()
        except OSError:
            continue
        alive += int(fields[2]) in groups and fields[0] != "Z"
    print(f"After {starts} starts, half of them killed: {alive} processes and {sum(f.exists() for f in folders)} profiles left")


def main() -> None:
    kind = sys.argv[1] if len(sys.argv) > 1 else "chromium"
    print(kind)
    with tempfile.TemporaryDirectory() as made, Browser.start(kind) as browser:
        folder = Path(made)
        capture(browser, folder)
        (folder / "late.html").write_text(LATE)
        acting(browser.open((folder / "late.html").as_uri()))
        overhead(browser, folder)
        blocks(browser, folder)
        ticking(browser, folder)
    left_behind(kind, int(sys.argv[2]) if len(sys.argv) > 2 else 10)


if __name__ == "__main__":
    main()
