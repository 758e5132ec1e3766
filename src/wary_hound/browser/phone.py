"""Emulated phones: how large, how fine, and what they tell a site."""

from __future__ import annotations

import re
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Phone:
    """A phone to emulate: `width` and `height` in CSS pixels, device pixels for each (`ratio`), whether it is touched, and the
    user agent that it sends; the browser's own as phones have it where empty."""

    width: int = 390
    height: int = 844
    ratio: float = 3.0
    touch: bool = True
    agent: str = ""

    def agent_of(self, desktop: str) -> str:
        """The user agent to send, where the browser's own on a desk is `desktop`. Forms of both as their makers document them."""
        if self.agent:
            return self.agent
        version = re.search(r"rv:[\d.]+", desktop)
        if version:
            return re.sub(r"\(.*?\)", f"(Android 15; Mobile; {version[0]})", desktop, count=1)
        told = re.sub(r"\(.*?\)", "(Linux; Android 10; K)", desktop, count=1).replace("Headless", "")
        return told.replace(" Safari/", " Mobile Safari/")
