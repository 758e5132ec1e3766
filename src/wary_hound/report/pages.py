"""HTML pages from the templates beside this module: self-contained, nothing fetched from outside."""

from __future__ import annotations

from importlib import resources
from typing import Any

from jinja2 import DictLoader, Environment, StrictUndefined

from wary_hound.report.terminal import confidence, sign

_TEMPLATES = {
    "story": "story.html.j2",
    "ranking": "ranking.html.j2",
    "comparison": "comparison.html.j2",
    "review": "review.html.j2",
    "runs": "runs.html.j2",
    "proof": "proof.html.j2",
    "base.css": "base.css.j2",
}


def render(template: str, **values: Any) -> str:
    """A page; every value is escaped unless it is markup of our own."""
    folder = resources.files("wary_hound.report") / "templates"
    texts = {name: (folder / file).read_text(encoding="utf-8") for name, file in _TEMPLATES.items()}
    environment = Environment(
        loader=DictLoader(texts), autoescape=True, undefined=StrictUndefined, trim_blocks=True, lstrip_blocks=True
    )
    environment.filters |= {"confidence": confidence, "sign": sign}
    return environment.get_template(template).render(**values)
