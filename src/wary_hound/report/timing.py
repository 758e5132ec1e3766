"""How long each step took over runs, as a drawing (SVG) for the report: a dot a run, the median as a bar."""

from __future__ import annotations

from collections.abc import Sequence
from html import escape
from statistics import median

from wary_hound.running.replay import Run

ROW = 26
LEFT = 350
WIDE = 1000


def timing(runs: Sequence[Run]) -> str:
    """The drawing of runs of one journey; empty where there are fewer than two. The axis is in milliseconds, from 0."""
    if len(runs) < 2:
        return ""
    steps = runs[0].steps
    times = [
        [(1000 * s.seconds, s.state) for s in column if s.state != "not run"]
        for column in zip(*(r.steps for r in runs), strict=False)
    ]
    longest = max((value for row in times for value, _ in row), default=0.0)
    if longest <= 0:
        return ""
    tick = _tick(longest)
    most = tick * (int(longest / tick) + 1)
    high = ROW * len(steps) + 46

    def x(value: float) -> float:
        return LEFT + (WIDE - LEFT - 30) * value / most

    parts = [
        f'<svg viewBox="0 0 {WIDE} {high}" role="img" aria-label="Milliseconds of each step over {len(runs)} runs" class="timing">'
    ]
    value = 0.0
    while value <= most + tick / 2:
        parts.append(f'<line class="grid" x1="{x(value):.1f}" x2="{x(value):.1f}" y1="6" y2="{high - 40}"/>')
        parts.append(f'<text x="{x(value):.1f}" y="{high - 22}" text-anchor="middle">{value:g}</text>')
        value += tick
    under = "milliseconds, a dot a run, the bar their median"
    parts.append(f'<text x="{(LEFT + WIDE) / 2:.0f}" y="{high - 4}" text-anchor="middle">{under}</text>')
    for number, (step, row) in enumerate(zip(steps, times, strict=True)):
        y = 20 + ROW * number
        says = step.says if len(step.says) <= 42 else f"{step.says[:41]}…"
        parts.append(f'<text x="{LEFT - 10}" y="{y + 4}" text-anchor="end">{step.number}. {escape(says)}</text>')
        for value, state in row:
            parts.append(f'<circle class="{state.partition(" ")[0]}" cx="{x(value):.1f}" cy="{y}" r="4"/>')
        if row:
            middle = x(median(v for v, _ in row))
            parts.append(f'<line class="median" x1="{middle:.1f}" x2="{middle:.1f}" y1="{y - 9}" y2="{y + 9}"/>')
    return "".join([*parts, "</svg>"])


def _tick(longest: float) -> float:
    """A round step of the axis, of which there are four to eight."""
    for power in range(0, 7):
        for factor in (1, 2, 5):
            step = float(factor * 10**power)
            if longest / step <= 8:
                return step
    return longest
