"""Captures the demo site's releases from a real Chromium, and writes the snapshots and the truth that ship.

usage: make_snapshots.py [FOLDER]

The site is served with its labels on (`make_site.py --marks`); they are read off each page for truth.json, and taken out of
what is written. Each state of each release gives PAGE@RELEASE.html, .facts.json and .png.
"""

from __future__ import annotations

import io
import json
import sys
import tempfile
from dataclasses import replace
from pathlib import Path
from typing import Any

from PIL import Image

from make_site import RELEASES, write_site
from wary_hound.browser import Browser, LivePage
from wary_hound.demo.server import serve
from wary_hound.page import Page
from wary_hound.page.events import Event, build, events_of
from wary_hound.page.snapshot import write_page

SHIPPED = Path(__file__).parent.parent / "src" / "wary_hound" / "demo" / "pages"
MARK = "data-truth"
READY = "css{#reports li}"
CLICK = "(label) => document.querySelector(`[data-truth='${label}']`).click()"
STATES: dict[str, list[str]] = {"nights": [], "held": ["hold-vega"], "sky": ["tab-sky", "menu-button"]}
"""Each state of the page, and what is clicked to reach it."""
TIMES = {r: f"2031-0{r + 1}-03T09:00:00+00:00" for r in RELEASES}


def taken(live: LivePage, release: int, state: str) -> tuple[Page, dict[str, list[str]]]:
    """The page as it would be without the labels, and the path to each labelled element."""
    marked = live.wait_for(READY)
    assert marked.facts is not None
    labels = {value: path_to(marked, i) for i, value in marked.index.attribute_column(MARK).items()}
    events = (_unmarked(event) for event in events_of(marked))
    address = f"https://nights.marram-ridge.example/{state}?release=r{release}"
    facts = replace(marked.facts, url=address, time=TIMES[release])
    return build(events, facts.url, facts, source=Path(f"{state}@r{release}.html")), labels


def _unmarked(event: Event) -> Event:
    """Without the label, and a frame at its address on the real site."""
    if event[0] == "f":
        return "f", "https://nights.marram-ridge.example/" + event[1].rsplit("/", 1)[-1]
    if event[0] != "e" or MARK not in event[3]:
        return event
    kept = [text for name, value in zip(event[3][::2], event[3][1::2], strict=True) if name != MARK for text in (name, value)]
    return (*event[:3], kept)


def path_to(page: Page, index: int) -> list[str]:
    """One CSS child path for each tree on the way."""
    parts = []
    for at in [*page.hosts(index), index]:
        line = [at, *page.ancestors(at)][::-1]
        levels = []
        for step in line:
            top = page.parent[step] < 0 and page.trees[page.tree[step]].kind != "shadow"
            levels.append(page.tags[step] if top else f"{page.tags[step]}:nth-child({page.index.place[step]})")
        parts.append(" > ".join(levels))
    return parts


def small(png: bytes) -> bytes:
    """The picture with a palette: a third of the size, and the same to the eye."""
    image = Image.open(io.BytesIO(png)).convert("RGB").quantize(96, dither=Image.Dither.NONE)
    out = io.BytesIO()
    image.save(out, "PNG", optimize=True)
    return out.getvalue()


def main() -> None:
    target = Path(sys.argv[1]) if len(sys.argv) > 1 else SHIPPED
    target.mkdir(parents=True, exist_ok=True)
    by_state: dict[str, list[dict[str, Any]]] = {state: [] for state in STATES}
    with tempfile.TemporaryDirectory() as folder:
        write_site(Path(folder), marks=True)
        with serve(Path(folder)) as address, Browser.start("chromium") as browser:
            for release in RELEASES:
                for state, clicks in STATES.items():
                    live = browser.open(f"{address}/r{release}/index.html?seed=1")
                    live.wait_for(READY)
                    for label in clicks:
                        live.script(CLICK, label)
                    page, labels = taken(live, release, state)
                    name = f"{state}@r{release}"
                    write_page(page, target / name)
                    (target / f"{name}.png").write_bytes(small(live.screenshot()))
                    by_state[state].append({"version": f"r{release}", "file": f"{name}.html", "page": page, "labels": labels})
                    print(f"{name}: {len(page)} elements in {len(page.trees)} trees, {len(labels)} labelled")
    truth = {}
    for state, versions in by_state.items():
        known = sorted({label for version in versions for label in version["labels"]})
        truth[state] = [
            {
                "version": v["version"],
                "file": v["file"],
                "elements": len(v["page"]),
                "targets": {label: _target(v, label) for label in known},
            }
            for v in versions
        ]
    (target / "truth.json").write_text(json.dumps(truth, indent=1) + "\n", encoding="utf-8")


def _target(version: dict[str, Any], label: str) -> dict[str, Any] | None:
    path = version["labels"].get(label)
    if path is None:
        return None
    from wary_hound.measuring.history import locate

    element = version["page"][locate(version["page"], path)]
    return {"path": path, "tag": element.tag, "text": element.text}


if __name__ == "__main__":
    main()
