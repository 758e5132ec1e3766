"""Starting browsers: what an owner leaves that is killed, joining one that runs, windows, emulated phones."""

from __future__ import annotations

import os
import re
import shutil
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest
from PIL import Image

from conftest import members, run, started
from wary_hound import Browser, BrowserError, Page, Phone

TOUCHED = """<!doctype html><meta name=viewport content="width=device-width"><button>Hold</button><p id=log></p><script>
for (const kind of ["touchstart", "click"]) document.querySelector("button").addEventListener(kind, () => {
  document.getElementById("log").textContent += kind + ";"; });
</script>"""
TOLD = "() => [innerWidth, devicePixelRatio, matchMedia('(pointer: coarse)').matches, navigator.userAgent].join('|')"


@pytest.mark.parametrize("kind", ["chromium", "firefox"])
@pytest.mark.parametrize("sign", [signal.SIGKILL, signal.SIGINT])
def test_a_browser_ends_with_its_owner_however_that_ended(kind: str, sign: signal.Signals) -> None:
    script = f"""
import signal, time
from wary_hound import Browser
signal.signal(signal.SIGINT, signal.default_int_handler)  # where tests run in the background it is ignored
browser = Browser.start({kind!r})
print(browser._running.process.pid, browser._running.folder, flush=True)
time.sleep(60)
"""
    with subprocess.Popen([sys.executable, "-c", script], stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True) as owner:
        assert owner.stdout is not None
        pid, folder = owner.stdout.readline().split()
        assert len(members(int(pid))) > 2
        owner.send_signal(sign)
    for _ in range(100):
        if not members(int(pid)) and not Path(folder).exists():
            break
        time.sleep(0.1)
    assert (members(int(pid)), Path(folder).exists()) == (set(), False)


def test_a_running_browser_is_joined_and_left_as_it_was(tmp_path: Path) -> None:
    (tmp_path / "page.html").write_text("<!doctype html><h1>Dome</h1>")
    address = (tmp_path / "page.html").as_uri()
    binary = shutil.which("firefox-esr") or shutil.which("firefox")
    assert binary is not None
    command = [binary, "--headless", "--no-remote", "--profile", str(tmp_path), "--remote-debugging-port", "0", address]
    kept = {**os.environ, "HOME": str(tmp_path)}
    with subprocess.Popen(command, stderr=subprocess.PIPE, text=True, env=kept, start_new_session=True) as firefox:
        try:
            assert firefox.stderr is not None
            endpoint = next(found[1] for line in firefox.stderr if (found := re.search(r"BiDi listening on (ws://\S+)", line)))
            for _ in range(2):  # the session of the first is ended, so that there can be another
                with Browser.join(f"{endpoint}/session") as browser:
                    before = len(browser.pages)
                    live = browser.open(address)
                    assert live.capture().find("css{h1}").text == "Dome"
                    assert len(browser.pages) == before + 1
                    with pytest.raises(BrowserError, match="refused session"):
                        Browser.join(f"{endpoint}/session")
            assert firefox.poll() is None
        finally:
            os.killpg(firefox.pid, signal.SIGKILL)
    with pytest.raises(BrowserError, match="no BiDi connection"):
        Browser.join(f"{endpoint}/session", limit=1)
    with pytest.raises(BrowserError, match="begin with ws://"):
        Browser.join("http://127.0.0.1:9")


def test_a_session_that_is_there_already_is_shared(chromium: Browser, site: str) -> None:
    address = started(chromium).session_url.replace("http://", "ws://")
    with Browser.join(address) as second:
        mine = second.open(f"{site}/r1/index.html")
        assert mine.wait_for("text{Vega}").title.startswith("Telescope nights")
        assert mine.context in {page.context for page in chromium.pages}
    assert mine.context not in {
        entry["context"] for entry in chromium._running.connection.send("browsingContext.getTree")["contexts"]
    }
    chromium.open(f"{site}/r1/index.html").close()


@pytest.mark.parametrize("kind", ["chromium", "firefox"])
def test_an_emulated_phone_is_small_fine_and_touched(kind: str, tmp_path: Path) -> None:
    (tmp_path / "page.html").write_text(TOUCHED)
    with Browser.start(kind, phone=Phone(360, 640, ratio=2)) as browser:
        live = browser.open((tmp_path / "page.html").as_uri())
        width, ratio, coarse, agent = str(live.script(TOLD)).split("|")
        assert (width, ratio, coarse) == ("360", "2", "true")
        assert "Mobile" in agent
        assert "Headless" not in agent
        live.click("css{button}")
        page = live.capture()
        picture = live.screenshot()
    assert page.find("css{#log}").text == "touchstart;click;"
    assert page.facts is not None
    assert (page.facts.viewport, page.facts.ratio) == ((360, 640), 2)
    target = page.write(tmp_path / "phone")
    target.with_suffix(".png").write_bytes(picture)
    assert Page.read(target).facts.ratio == 2  # type: ignore[union-attr]
    assert run("check", "css{button}", str(target), "--picture", str(tmp_path / "marked.png")).exit_code == 0
    with Image.open(tmp_path / "marked.png") as marked:
        assert marked.width == 360


def test_what_a_phone_calls_itself_follows_the_browser() -> None:
    chromium = "Mozilla/5.0 (X11; Linux x86_64) AppleWebKit/537.36 (KHTML, like Gecko) HeadlessChrome/156.0.0.0 Safari/537.36"
    told = "Mozilla/5.0 (Linux; Android 10; K) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/156.0.0.0 Mobile Safari/537.36"
    assert Phone().agent_of(chromium) == told
    firefox = "Mozilla/5.0 (X11; Linux x86_64; rv:153.0) Gecko/20100101 Firefox/153.0"
    assert Phone().agent_of(firefox) == "Mozilla/5.0 (Android 15; Mobile; rv:153.0) Gecko/20100101 Firefox/153.0"
    assert Phone(agent="Dome/1").agent_of(firefox) == "Dome/1"


def test_a_window_wants_a_screen_and_a_program_must_be_there(monkeypatch: pytest.MonkeyPatch) -> None:
    for name in ("DISPLAY", "WAYLAND_DISPLAY"):
        monkeypatch.delenv(name, raising=False)
    with pytest.raises(BrowserError, match="no screen for a window"):
        Browser.start("firefox", window=True)
    with pytest.raises(BrowserError, match="/nowhere/firefox: there is no such program"):
        Browser.start("firefox", program="/nowhere/firefox")
