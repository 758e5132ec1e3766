"""Plots (Matplotlib). Labelled axes with units, direct labels, colours that colour-blind people tell apart."""

from __future__ import annotations

import io
import re
from collections.abc import Iterable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any, Literal

from wary_hound.authoring.ranking import Candidate
from wary_hound.errors import FileError
from wary_hound.files import write_aside
from wary_hound.journey.stress import Stress
from wary_hound.measuring.forecasts import Forecasts
from wary_hound.robustness.updating import Difference

if TYPE_CHECKING:
    from matplotlib.figure import Figure

COLOURS = ("#0072B2", "#D55E00", "#009E73", "#CC79A7", "#E69F00", "#56B4E9")
"""Okabe and Ito's palette."""
ON_DARK = ("#56B4E9", "#F0A050", "#3EC79B", "#E3A3CB", "#F0E442", "#8FB8FF")
DASHES = ("-", (0, (5, 2)), (0, (1, 1.5)), (0, (5, 2, 1, 2)), (0, (3, 1, 1, 1)), "-")
LONGEST_LABEL = 58
STYLE: Any = {
    "font.family": ["DejaVu Sans"],
    "font.size": 10,
    "svg.fonttype": "path",
    "svg.hashsalt": "wary",
    "text.parse_math": False,
}
INK, INK_ON_DARK = "#1c2536", "#e8e6e1"


def survival_plot(candidates: Sequence[Candidate], given: Candidate | None = None, dark: bool = False) -> Figure:
    """Survival over releases, one curve a candidate, each labelled at its end; the band is what nine applications of ten come to
    with the best."""
    shown = list(candidates)
    if given is not None and given.locator not in [c.locator for c in shown]:
        shown.append(given)
    curves = [(f"{c.locator}", c.curve, " (given)" if c is given else "") for c in shown]
    best = shown[0].outlook
    return curves_plot(curves, "still finds it, and it alone (% of futures)", band=(best.low, best.high), dark=dark)


def stress_plot(stress: Stress, dark: bool = False) -> Figure:
    """Survival of a whole journey or book, with and without its fallbacks, and of the elements at most risk."""
    curves: list[tuple[str, Sequence[float], str]] = [("the whole", stress.curve, "")]
    if any(abs(a - b) > 0.005 for a, b in zip(stress.curve, stress.with_fallbacks, strict=True)):
        curves.append(("the whole, with fallbacks", stress.with_fallbacks, ""))
    curves += [(e.name, [*e.curve], "") for e in stress.weakest]
    return curves_plot(curves, "all locators still right (% of futures)", dark=dark)


def curves_plot(
    curves: Sequence[tuple[str, Sequence[float], str]],
    said: str,
    band: tuple[Sequence[float], Sequence[float]] | None = None,
    dark: bool = False,
) -> Figure:
    """Shares after 1, 2, ... releases: (name, curve, note) each, drawn from 100 % now and named at its end."""
    import matplotlib as mpl
    from matplotlib.figure import Figure as Drawn

    colours = ON_DARK if dark else COLOURS
    ink = INK_ON_DARK if dark else INK
    with mpl.rc_context(STYLE):
        figure = Drawn(figsize=(9.6, 4.2), facecolor="none", layout="constrained")
        axes = figure.add_subplot(facecolor="none")
        steps = range(len(curves[0][1]) + 1)
        if band is not None:
            low, high = ([100, *(100 * v for v in edge)] for edge in band)
            axes.fill_between(steps, low, high, color=colours[0], alpha=0.15, lw=0)
        ends = []
        for number, (name, values, note) in enumerate(curves):
            curve = [100, *(100 * v for v in values)]
            colour = colours[number % len(colours)]
            axes.plot(steps, curve, color=colour, lw=2, linestyle=DASHES[number % len(DASHES)])
            ends.append((curve[-1], (name if len(name) <= LONGEST_LABEL else name[: LONGEST_LABEL - 1] + "…") + note, colour))
        for height, (end, text, colour) in zip(set_apart([e[0] for e in ends], 6.5), ends, strict=True):
            axes.annotate(
                text, (steps[-1], end), (steps[-1] + 0.35, height), color=colour, va="center", fontsize=8.5, annotation_clip=False,
                arrowprops={"arrowstyle": "-", "color": colour, "lw": 0.6, "relpos": (0, 0.5)}, family=["DejaVu Sans Mono"],
            )  # fmt: skip
        axes.set_xlim(0, steps[-1])
        axes.set_ylim(0, 102)
        axes.set_xticks(list(steps))
        axes.set_xlabel("releases from now", color=ink)
        axes.set_ylabel(said, color=ink)
        _bare(axes, ink, "y")
        return figure


def _bare(axes: Any, ink: str, grid: Literal["x", "y", "both"]) -> None:
    """Axes without a box, with a faint grid, in one ink."""
    axes.set_facecolor("none")
    axes.tick_params(colors=ink)
    axes.grid(axis=grid, color=ink, alpha=0.12)
    for side in ("top", "right"):
        axes.spines[side].set_visible(False)
    for side in ("left", "bottom"):
        axes.spines[side].set_color(ink)


def rates_plot(rows: Sequence[Difference]) -> Figure:
    """Shares of facts that last a release: own with 90 % interval beside the shipped, one line a kind, surest first."""
    import matplotlib as mpl
    from matplotlib.figure import Figure as Drawn

    with mpl.rc_context(STYLE):
        figure = Drawn(figsize=(9.6, 1.6 + 0.3 * len(rows)), facecolor="none", layout="constrained")
        axes = figure.add_subplot(facecolor="none")
        for number, entry in enumerate(rows):
            low, high = entry.interval
            axes.plot([100 * low, 100 * high], [number, number], color=COLOURS[0], lw=5, alpha=0.3, solid_capstyle="butt")
            axes.plot(100 * entry.own, number, "o", color=COLOURS[0], ms=7)
            axes.plot(100 * entry.shipped, number, "D", color=COLOURS[1], ms=6, mfc="none", mew=1.6)
        if rows:
            axes.annotate("yours, 90 %", (100 * rows[0].own, 0), (0, 12), textcoords="offset points", color=COLOURS[0], ha="center")
            axes.annotate("shipped", (100 * rows[0].shipped, 0), (0, 12), textcoords="offset points", color=COLOURS[1], ha="center")
        axes.set_yticks(range(len(rows)), [f"{d.group}{'' if d.sure else '  (like shipped)'}" for d in rows])
        axes.set_ylim(len(rows) - 0.4, -1.2)
        axes.set_xlim(None, 101)
        axes.set_xlabel("facts that last a release (%)", color=INK)
        _bare(axes, INK, "x")
        axes.spines["left"].set_visible(False)
        return figure


def reliability_plot(forecasts: Forecasts) -> Figure:
    """Predicted against observed survival: by predicted value (area: how many), and by releases ahead."""
    import matplotlib as mpl
    from matplotlib.figure import Figure as Drawn

    with mpl.rc_context(STYLE):
        figure = Drawn(figsize=(9.6, 4.4), facecolor="none", layout="constrained")
        left, right = figure.subplots(1, 2)
        bins = forecasts.calibration()
        most = max(b.count for b in bins)
        left.plot([0, 100], [0, 100], color=INK, lw=1, ls=(0, (4, 3)))
        left.scatter(
            [100 * b.predicted for b in bins], [100 * b.observed for b in bins], s=[20 + 380 * b.count / most for b in bins],
            color=COLOURS[0], alpha=0.75,
        )  # fmt: skip
        left.annotate("as predicted", (14, 17), rotation=45, rotation_mode="anchor", color=INK, fontsize=8.5)
        left.set_xlabel("predicted survival (%)", color=INK)
        left.set_ylabel("observed (% of pairs of versions)", color=INK)
        left.set_xlim(0, 101)
        left.set_ylim(0, 101)
        ahead = forecasts.by_releases()
        for number, (name, values) in enumerate(
            [("predicted", [b.predicted for b in ahead.values()]), ("observed", [b.observed for b in ahead.values()])]
        ):
            right.plot(list(ahead), [100 * v for v in values], marker="o", color=COLOURS[number], ls=DASHES[number], lw=2)
            right.annotate(name, (list(ahead)[-1], 100 * values[-1]), (6, 0), textcoords="offset points", color=COLOURS[number])
        right.set_xlabel("releases ahead", color=INK)
        right.set_ylabel("top candidate still right (%)", color=INK)
        right.set_ylim(0, 101)
        right.set_xlim(0.5, max(ahead) + 1.8)
        right.set_xticks(list(ahead))
        for axes in (left, right):
            _bare(axes, INK, "both")
        return figure


def set_apart(values: Sequence[float], apart: float) -> list[float]:
    """Heights near the values, in their order, at least `apart` from each other: labels that do not cover one another."""
    order = sorted(range(len(values)), key=lambda k: -values[k])
    places = [0.0] * len(values)
    last = float("inf")
    for k in order:
        places[k] = min(values[k], last - apart)
        last = places[k]
    below = min(places, default=0.0)
    return [v - min(0.0, below) for v in places]


def svg(figure: Figure) -> str:
    """A plot as an SVG element, to stand in a page."""
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
