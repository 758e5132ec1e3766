"""Live pages under asyncio: several browsers at once, dialogs, cancelling."""

from __future__ import annotations

import asyncio
from pathlib import Path

import pytest

from conftest import members, started
from wary_hound import BrowserTimeout
from wary_hound.browser.aio import AsyncBrowser, AsyncPage
from wary_hound.browser.page import LivePage

PAGE = """<!doctype html><title>Dome</title><button onclick="log.textContent += confirm('Close the dome?') + ';'">Close</button>
<a href="#low" target=_blank>Other</a><p id=log></p><input aria-label=Visitor>"""


def test_both_browsers_work_at_once_and_leave_nothing(tmp_path: Path) -> None:
    (tmp_path / "page.html").write_text(PAGE)
    address = (tmp_path / "page.html").as_uri()
    groups: list[int] = []

    async def used(kind: str) -> tuple[str, str, int]:
        async with AsyncBrowser.start(kind, limit=5.0) as browser:
            groups.append(started(browser.blocking).process.pid)
            page = await browser.open(address)
            async with page.answering("confirm", "Close the dome?"):
                await page.click("text{Close}")
            await page.type("label{Visitor}", kind)
            written = await page.script("() => document.querySelector('input').value")
            await page.click("text{Other}")
            count = len(await browser.pages())
            page.blocking.limit = 0.5
            with pytest.raises(BrowserTimeout, match="no matches"):
                await page.click("css{#none}")
            return str(written), (await page.find("css{#log}")).text, count

    async def both() -> list[tuple[str, str, int]]:
        return await asyncio.gather(used("chromium"), used("firefox"))

    assert asyncio.run(both()) == [("chromium", "true;", 2), ("firefox", "true;", 2)]
    assert [members(group) for group in groups] == [set(), set()]


def test_a_cancelled_wait_does_not_hold_up_the_end(tmp_path: Path) -> None:
    (tmp_path / "page.html").write_text(PAGE)

    async def cancelled() -> int:
        async with AsyncBrowser.start(limit=60.0) as browser:
            page = await browser.open((tmp_path / "page.html").as_uri())
            with pytest.raises(TimeoutError):
                await asyncio.wait_for(page.click("css{#none}"), 0.5)
            group = started(browser.blocking).process.pid
        return group

    async def ended() -> int:
        return await asyncio.wait_for(cancelled(), 45)  # before the click gives up

    assert members(asyncio.run(ended())) == set()


def test_every_action_of_the_blocking_page_is_there() -> None:
    own = {"browser", "picking"}
    assert {name for name in dir(LivePage) if not name.startswith("_")} - own <= set(dir(AsyncPage))
    assert AsyncPage.choose.__doc__ == LivePage.choose.__doc__
