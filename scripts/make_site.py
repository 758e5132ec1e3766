"""Writes the demo site's releases r1 to r6 as static files, from the templates in scripts/site.

usage: make_site.py [--marks] [FOLDER]

Without a folder the releases that ship are written. With --marks every meaningful element carries the name that it is
labelled by in all releases (`data-truth`); the snapshot script reads it from there, and takes it off again.
"""

from __future__ import annotations

import argparse
import hashlib
from pathlib import Path
from typing import Any

from jinja2 import Environment, FileSystemLoader, StrictUndefined
from markupsafe import Markup

RELEASES = range(1, 7)
SHIPPED = Path(__file__).parent.parent / "src" / "wary_hound" / "demo" / "site"
NIGHTS = [
    {"key": "vega", "name": "Vega", "date": "Tue 12 Aug", "guide": "Ines", "telescope": "Dune, 40 cm", "places": 6},
    {
        "key": "perseids",
        "name": "Perseids",
        "date": "Wed 13 Aug",
        "guide": "Tomas",
        "telescope": "Open field",
        "places": 24,
    },
    {"key": "saturn", "name": "Saturn", "date": "Fri 15 Aug", "guide": "Ines", "telescope": "Lantern, 60 cm", "places": 8},
    {
        "key": "andromeda",
        "name": "Andromeda",
        "date": "Sat 16 Aug",
        "guide": "Wren",
        "telescope": "Heron, 1 m",
        "places": 4,
    },
    {"key": "moon", "name": "Full Moon", "date": "Tue 19 Aug", "guide": "Tomas", "telescope": "Dune, 40 cm", "places": 10},
]
REPORTS = [
    ["Monday", "Seeing steady, dew after two.", "monday"],
    ["Sunday", "High cloud, Saturn came and went.", "sunday"],
    ["Saturday", "Best Milky Way of the year.", "saturday"],
]
IDS = {
    "menu": "members-menu", "notice": "notice", "table": "nights", "more": "older-reports", "reports": "reports",
    "map": "star-map", "toast": "toast", "form": "night-form", "name": "visitor-name", "email": "visitor-email",
    "party": "party-size", "date": "visit-date", "scope": "telescope", "group": "name-group", "cancel": "cancel-booking",
    "status": "booking-status", "dial": "sky-dial", "refresh": "refresh", "booking": "booking-widget",
}  # fmt: skip
RENAMED = {
    3: {"form": "booking-form", "name": "guest-name", "email": "guest-email", "party": "guests", "status": "hold-status"},
    5: {"table": "night-list", "toast": "flash", "cancel": "reset-booking"},
}


def digest(*parts: object, length: int = 5) -> str:
    """Letters and digits as a build tool would make them up."""
    raw = hashlib.sha256("/".join(map(str, parts)).encode()).digest()
    alphabet = "abcdefghijkmnpqrstuvwxyzABCDEFGHJKLMNPQRSTUVWXYZ23456789"
    return "".join(alphabet[b % len(alphabet)] for b in raw[:length])


def classes(release: int, names: str) -> str:
    """Plain class names in r1; from r2 on as a bundler regenerates them, anew in r4 and r6."""
    if release == 1:
        return names
    build = {2: 2, 3: 2, 4: 4, 5: 4, 6: 6}[release]
    return " ".join(f"{name.replace('-', '_')}__{digest(build, name)}" for name in names.split())


def render(folder: Path, release: int, marks: bool) -> None:
    environment = Environment(
        loader=FileSystemLoader(Path(__file__).parent / "site"),
        undefined=StrictUndefined,
        autoescape=False,
        trim_blocks=True,
    )
    ids = dict(IDS)
    for since, names in RENAMED.items():
        if release >= since:
            ids.update(names)
    values: dict[str, Any] = {
        "r": release,
        "marks": marks,
        "ids": ids,
        "nights": NIGHTS,
        "reports": REPORTS,
        "cls": lambda names: classes(release, names),
        "gen": lambda key: f"u{int(hashlib.sha256(f'{release}{key}'.encode()).hexdigest()[:6], 16)}",
    }
    values["form"] = Markup(environment.get_template("form.html.j2").render(values))
    values["dial"] = Markup(environment.get_template("dial.html.j2").render(values))
    target = folder / f"r{release}"
    target.mkdir(parents=True, exist_ok=True)
    for name in ("index.html", "weather.html", "site.css", "site.js"):
        text = environment.get_template(f"{name}.j2").render(values)
        lines = [line.rstrip() for line in text.splitlines()]
        (target / name).write_text("\n".join(line for line in lines if line) + "\n", encoding="utf-8")


def write_site(folder: Path, marks: bool) -> None:
    for release in RELEASES:
        render(folder, release, marks)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("folder", type=Path, nargs="?", default=SHIPPED)
    parser.add_argument("--marks", action="store_true")
    options = parser.parse_args()
    write_site(options.folder, options.marks)


if __name__ == "__main__":
    main()
