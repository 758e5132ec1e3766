"""The report on one element: its candidates, how long they last, why, and what it would take to do better."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from markupsafe import Markup

from wary_hound.authoring.advice import Advice
from wary_hound.authoring.portfolio import Portfolio
from wary_hound.authoring.question import Question
from wary_hound.authoring.ranking import Candidate, telling
from wary_hound.files import write_aside
from wary_hound.page import Element
from wary_hound.report.pages import render
from wary_hound.report.plots import survival_plot, svg
from wary_hound.report.story import SCALE, Story

MOST = 12


def ranking_page(
    element: Element,
    candidates: Sequence[Candidate],
    given: Candidate,
    chosen: Portfolio,
    advice: Sequence[Advice],
    question: Question,
) -> str:
    """The page as HTML. `given` is the locator that was asked about; `advice` is for this one element."""
    page = element.page
    story = Story("", [])
    crop = story.crop(page, [("here", element)]) if page.picture is not None else None
    shown = telling(candidates, MOST)
    if given.locator not in [c.locator for c in shown]:
        shown.append(given)
    plots = [Markup(svg(survival_plot(shown[:4], given, dark))) for dark in (False, True)]
    return render(
        "ranking",
        element=said(element),
        page=page.source.name if page.source else page.url,
        count=len(candidates),
        releases=question.releases,
        best=candidates[0],
        given=given,
        candidates=shown,
        together=chosen.survival,
        fallbacks=chosen.fallbacks,
        crop=crop,
        picture=story.pictures[crop.picture] if crop else None,
        scale=SCALE,
        costs=question.stolen_costs,
        advice=[
            {"attribute": a.attribute, "value": a.value, "where": said(page[a.element]), "before": before, "after": after}
            for a in advice
            for _, before, after in a.lifts[:1]
        ],
        plot_light=plots[0],
        plot_dark=plots[1],
        source=question.model.source,
    )


def said(element: Element) -> str:
    """An element in a line: its tag, a telling attribute, its text."""
    attributes = element.attributes
    mark = next((f' {k}="{attributes[k]}"' for k in ("id", "name", "value", "type") if attributes.get(k)), "")
    text = (element.text or element.name)[:50]
    return f"<{element.tag}{mark}>{' ' + text if text else ''}"


def write_ranking(html: str, path: Path) -> None:
    """Write the page."""
    write_aside({path: html.encode()})
