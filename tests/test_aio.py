"""Live pages under asyncio: several browsers and tasks at once, dialogs, users, cancelling at any moment."""

from __future__ import annotations

import asyncio
import contextlib
import tempfile
from pathlib import Path

import pytest

from conftest import LIMIT, members, started
from wary_hound import BrowserError, BrowserTimeout
from wary_hound.browser.aio import AsyncBrowser, AsyncPage
from wary_hound.browser.page import LivePage

PAGE = """<!doctype html><title>Dome</title><button onclick="log.textContent += confirm('Close the dome?') + ';'">Close</button>
<a href="#low" target=_blank>Other</a><p id=log></p><input aria-label=Visitor>"""
LATE = """<!doctype html><title>Late</title><button onclick="seen.textContent = 'Moon'">Look</button><p id=seen></p>"""


def test_both_browsers_work_at_once_and_leave_nothing(tmp_path: Path) -> None:
    (tmp_path / "page.html").write_text(PAGE)
    address = (tmp_path / "page.html").as_uri()
    groups: list[int] = []

    async def used(kind: str) -> tuple[str, str, int]:
        async with AsyncBrowser.start(kind, limit=LIMIT) as browser:
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
        async with AsyncBrowser.start(limit=LIMIT) as browser:
            page = await browser.open((tmp_path / "page.html").as_uri())
            with pytest.raises(TimeoutError):
                await asyncio.wait_for(page.click("css{#none}"), 0.5)
            group = started(browser.blocking).process.pid
        return group

    async def ended() -> int:
        return await asyncio.wait_for(cancelled(), 45)  # before the click gives up

    assert members(asyncio.run(ended())) == set()


def test_cancelled_at_any_moment_a_page_can_be_asked_on(tmp_path: Path) -> None:
    (tmp_path / "page.html").write_text(PAGE)
    address = (tmp_path / "page.html").as_uri()

    async def used() -> list[str]:
        async with AsyncBrowser.start(limit=LIMIT) as browser:
            page = await browser.open(address)
            calls = (
                lambda: page.type("label{Visitor}", "Ada"),
                lambda: page.click("css{#none}"),
                lambda: page.open(address),
                lambda: page.capture(),
                lambda: page.tick("label{Visitor}"),
            )
            written = []
            for number in range(25):
                task = asyncio.ensure_future(calls[number % len(calls)]())
                await asyncio.sleep(0.004 * (number // len(calls)) ** 2)
                task.cancel()
                with contextlib.suppress(asyncio.CancelledError, BrowserError):
                    await task
                await page.open(address)
                await page.type("label{Visitor}", f"Ada {number}")
                written.append((await page.state("label{Visitor}")).value)
            return written

    assert asyncio.run(used()) == [f"Ada {number}" for number in range(25)]


def test_while_one_task_waits_others_go_on(tmp_path: Path) -> None:
    (tmp_path / "late.html").write_text(LATE)

    async def used() -> list[str]:
        done = []
        async with AsyncBrowser.start("firefox", limit=LIMIT) as browser, await browser.user() as ada:
            first = await browser.open((tmp_path / "late.html").as_uri())
            other = await ada.open((tmp_path / "late.html").as_uri(), until="parsed")

            async def waits() -> None:
                await first.until_reads("css{#seen}", "Moon")
                done.append("seen")

            async def works() -> None:
                for word in ("Vega", "Saturn"):
                    await other.script("(word) => { document.title = word; }", word)
                    done.append(await other.title())
                await first.click("text{Look}")

            await asyncio.gather(waits(), works())
            with pytest.raises(BrowserError, match="started for asyncio: await"):
                first.blocking.title()
        return done

    assert asyncio.run(used()) == ["Vega", "Saturn", "seen"]


@pytest.mark.parametrize("kind", ["chromium", "firefox"])
def test_a_start_that_is_cancelled_leaves_nothing(kind: str, monkeypatch: pytest.MonkeyPatch) -> None:
    place = Path(tempfile.mkdtemp(prefix="dome-"))  # short: a browser's sockets lie in it
    monkeypatch.setattr(tempfile, "tempdir", str(place))

    async def cancelled() -> None:
        for delay in (0.0, 0.3, 1.0, 1.6):
            with contextlib.suppress(TimeoutError):
                async with asyncio.timeout(delay), AsyncBrowser.start(kind):
                    await asyncio.sleep(0.1)

    asyncio.run(cancelled())
    place.rmdir()  # it is empty
    commands = [path.read_bytes() for path in Path("/proc").glob("[0-9]*/cmdline") if path.exists()]
    assert not [command for command in commands if str(place).encode() in command]


def test_every_action_of_the_blocking_page_is_there() -> None:
    own = {"browser", "picking"}
    assert {name for name in dir(LivePage) if not name.startswith("_")} - own <= set(dir(AsyncPage))
    assert AsyncPage.choose.__doc__ == LivePage.choose.__doc__
