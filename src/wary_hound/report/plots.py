"""Plots (Matplotlib). Labelled axes with units, direct labels, colours that colour-blind people tell apart."""

from __future__ import annotations

import io
import re
from collections.abc import Iterable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from wary_hound.authoring.ranking import Candidate
from wary_hound.errors import FileError
from wary_hound.files import write_aside

if TYPE_CHECKING:
    from matplotlib.figure import Figure

COLOURS = ("#0072B2", "#D55E00", "#009E73", "#CC79A7", "#E69F00", "#56B4E9")
"""Okabe and Ito's palette."""
ON_DARK = ("#56B4E9", "#F0A050", "#3EC79B", "#E3A3CB", "#F0E442", "#8FB8FF")
DASHES = ("-", (0, (5, 2)), (0, (1, 1.5)), (0, (5, 2, 1, 2)), (0, (3, 1, 1, 1)), "-")
LONGEST_LABEL = 58


def survival_plot(candidates: Sequence[Candidate], given: Candidate | None = None, dark: bool = False) -> Figure:
    """Survival over releases, one curve a candidate, each labelled at its end; a band is the 90 % interval of the best."""
    import matplotlib as mpl
    from matplotlib.figure import Figure as Drawn

    colours = ON_DARK if dark else COLOURS
    ink, paper = ("#e8e6e1", "none") if dark else ("#1c2536", "none")
    with mpl.rc_context({"font.family": ["DejaVu Sans"], "font.size": 10, "svg.fonttype": "path", "svg.hashsalt": "wary"}):
        figure = Drawn(figsize=(9.6, 4.2), facecolor=paper, layout="constrained")
        axes = figure.add_subplot(facecolor=paper)
        shown = list(candidates)
        if given is not None and given.locator not in [c.locator for c in shown]:
            shown.append(given)
        best = shown[0].outlook
        steps = range(len(best.alive) + 1)
        axes.fill_between(
            steps,
            [100, *(100 * v for v in best.low)],
            [100, *(100 * v for v in best.high)],
            color=colours[0],
            alpha=0.15,
            lw=0,
        )
        ends = []
        for number, candidate in enumerate(shown):
            curve = [100, *(100 * v for v in candidate.curve)]
            colour = colours[number % len(colours)]
            axes.plot(steps, curve, color=colour, lw=2, linestyle=DASHES[number % len(DASHES)])
            text = str(candidate.locator)
            note = " (given)" if candidate is given else ""
            ends.append((curve[-1], (text if len(text) <= LONGEST_LABEL else text[: LONGEST_LABEL - 1] + "…") + note, colour))
        for height, (end, text, colour) in zip(spread([e[0] for e in ends], 6.5), ends, strict=True):
            axes.annotate(
                text, (steps[-1], end), (steps[-1] + 0.35, height), color=colour, va="center", fontsize=8.5, annotation_clip=False,
                arrowprops={"arrowstyle": "-", "color": colour, "lw": 0.6, "relpos": (0, 0.5)}, family=["DejaVu Sans Mono"],
            )  # fmt: skip
        axes.set_xlim(0, steps[-1])
        axes.set_ylim(0, 102)
        axes.set_xticks(list(steps))
        axes.set_xlabel("releases from now", color=ink)
        axes.set_ylabel("still finds it, and it alone (% of futures)", color=ink)
        axes.tick_params(colors=ink)
        axes.grid(axis="y", color=ink, alpha=0.12)
        for side in ("top", "right"):
            axes.spines[side].set_visible(False)
        for side in ("left", "bottom"):
            axes.spines[side].set_color(ink)
        return figure


def spread(values: Sequence[float], apart: float) -> list[float]:
    """Heights near the values, in their order, at least `apart` from each other: labels that do not cover one another."""
    order = sorted(range(len(values)), key=lambda k: -values[k])
    found = [0.0] * len(values)
    last = float("inf")
    for k in order:
        found[k] = min(values[k], last - apart)
        last = found[k]
    below = min(found, default=0.0)
    return [v - min(0.0, below) for v in found]


def svg(figure: Figure) -> str:
    out = io.StringIO()
    figure.savefig(out, format="svg", metadata={"Date": None})
    text = re.sub(r"<metadata>.*?</metadata>", "", out.getvalue(), flags=re.S)
    return text[text.index("<svg") :]


def write_plot(figure: Figure, path: Path) -> None:
    """Write a plot as .png or .svg. FileError for another ending."""
    kinds: Iterable[str] = ("png", "svg")
    kind = path.suffix.lstrip(".").lower()
    if kind not in kinds:
        raise FileError(f"{path}: a plot is written as .png or .svg")
    out = io.BytesIO()
    if kind == "png":
        figure.set_facecolor("#fbf8f2")
    figure.savefig(out, format=kind, dpi=133)
    write_aside({path: out.getvalue()})
