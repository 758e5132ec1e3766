"""Starting real browsers headless, each with a profile that is thrown away, and ending them with all their processes."""

from __future__ import annotations

import contextlib
import os
import re
import shutil
import signal
import subprocess
import tempfile
import threading
import time
from dataclasses import dataclass, field
from pathlib import Path
from queue import Empty, Queue

import httpx

from wary_hound.browser.connection import Connection
from wary_hound.errors import BrowserError, BrowserTimeout

START_LIMIT = 40.0
"""Seconds that a browser may take to start."""
INSTALL = {"chromium": "chromium chromium-driver", "firefox": "firefox-esr"}
_CHROMIUM_ARGUMENTS = (
    "--headless=new", "--disable-gpu", "--disable-quic", "--no-first-run", "--no-default-browser-check",
    "--disable-background-networking", "--disable-component-update", "--disable-sync", "--disable-extensions",
    "--hide-scrollbars", "--force-color-profile=srgb", "--disable-dev-shm-usage",
)  # fmt: skip
_FIREFOX_PREFERENCES = {
    "app.update.enabled": False, "browser.shell.checkDefaultBrowser": False, "datareporting.policy.dataSubmissionEnabled": False,
    "toolkit.telemetry.enabled": False, "browser.startup.page": 0, "network.captive-portal-service.enabled": False,
    "network.connectivity-service.enabled": False, "extensions.update.enabled": False, "remote.active-protocols": 1,
    "services.settings.server": "data:,#", "browser.safebrowsing.downloads.remote.enabled": False,
}  # fmt: skip


@dataclass
class Launched:
    """A running browser: its process, throw-away folder and BiDi connection. `stop` ends all of it, whatever state it is in."""

    name: str
    process: subprocess.Popen[bytes]
    folder: Path
    connection: Connection
    session_url: str = ""
    _stopped: bool = field(default=False)

    def stop(self) -> None:
        if self._stopped:
            return
        self._stopped = True
        with contextlib.suppress(Exception):
            self.connection.close()
        if self.session_url:
            with contextlib.suppress(httpx.HTTPError):
                httpx.delete(self.session_url, timeout=5, trust_env=False)
        end_process(self.process)
        shutil.rmtree(self.folder, ignore_errors=True)


def end_process(process: subprocess.Popen[bytes]) -> None:
    """End a process that was started in a group of its own, and that group: first gently, then for good."""
    for sign, patience in ((signal.SIGTERM, 3.0), (signal.SIGKILL, 5.0)):
        with contextlib.suppress(ProcessLookupError, PermissionError):
            os.killpg(process.pid, sign)
        with contextlib.suppress(subprocess.TimeoutExpired):
            process.wait(patience)
            break
    with contextlib.suppress(ProcessLookupError, PermissionError):
        os.killpg(process.pid, signal.SIGKILL)
    if process.stdout is not None:
        process.stdout.close()


def find_program(browser: str, *names: str) -> str:
    """The first of some programs that is on the path. BrowserError, with the install line, where none is."""
    for name in names:
        found = shutil.which(name)
        if found:
            return found
    raise BrowserError(f"no {names[0]} on this machine; install it: apt-get install {INSTALL[browser]}")


def launch(browser: str, width: int, height: int) -> Launched:
    """Start a browser (`chromium` or `firefox`) headless with a viewport of that size. BrowserError says what is missing."""
    if browser == "chromium":
        return _chromium(width, height)
    if browser == "firefox":
        return _firefox(width, height)
    raise BrowserError(f"no browser is named {browser!r} here: chromium or firefox")


def _chromium(width: int, height: int) -> Launched:
    driver = find_program("chromium", "chromedriver")
    binary = find_program("chromium", "chromium", "chromium-browser")
    folder = Path(tempfile.mkdtemp(prefix="wary-hound-"))
    process = _start([driver, "--port=0", "--log-level=SEVERE"], folder)
    try:
        port = _await_line(process, re.compile(r"successfully on port (\d+)"), "ChromeDriver to start")
        arguments = [*_CHROMIUM_ARGUMENTS, f"--window-size={width},{height}", f"--user-data-dir={folder / 'profile'}"]
        if os.geteuid() == 0:
            arguments.append("--no-sandbox")
        wanted = {
            "browserName": "chrome",
            "webSocketUrl": True,
            "unhandledPromptBehavior": "ignore",
            "goog:chromeOptions": {"args": arguments, "binary": binary},
        }
        base = f"http://127.0.0.1:{port}/session"
        answer = httpx.post(base, json={"capabilities": {"alwaysMatch": wanted}}, timeout=START_LIMIT, trust_env=False).json()[
            "value"
        ]
        if "capabilities" not in answer:
            raise BrowserError(f"Chromium did not start: {str(answer.get('message', '')).splitlines()[0]}")
        connection = Connection(answer["capabilities"]["webSocketUrl"])
        return Launched("chromium", process, folder, connection, f"{base}/{answer['sessionId']}")
    except BaseException as error:
        end_process(process)
        shutil.rmtree(folder, ignore_errors=True)
        if isinstance(error, httpx.TimeoutException):
            raise BrowserTimeout(f"waited {START_LIMIT:g} s for Chromium to start: it did not") from None
        if isinstance(error, httpx.HTTPError):
            raise BrowserError(f"ChromeDriver went away while starting ({type(error).__name__})") from None
        raise


def _firefox(width: int, height: int) -> Launched:
    binary = find_program("firefox", "firefox-esr", "firefox")
    folder = Path(tempfile.mkdtemp(prefix="wary-hound-"))
    profile = folder / "profile"
    profile.mkdir()
    lines = [f'user_pref("{key}", {_preference(value)});' for key, value in _FIREFOX_PREFERENCES.items()]
    (profile / "user.js").write_text("\n".join(lines) + "\n", encoding="utf-8")
    command = [
        binary, "--headless", "--no-remote", "--profile", str(profile), "--remote-debugging-port", "0",
        f"--width={width}", f"--height={height}",
    ]  # fmt: skip
    process = _start(command, folder)
    try:
        address = _await_line(process, re.compile(r"BiDi listening on (ws://\S+)"), "Firefox to start")
        connection = Connection(f"{address}/session")
        connection.send("session.new", capabilities={"alwaysMatch": {"unhandledPromptBehavior": {"default": "ignore"}}})
        return Launched("firefox", process, folder, connection)
    except BaseException:
        end_process(process)
        shutil.rmtree(folder, ignore_errors=True)
        raise


def _preference(value: object) -> str:
    if isinstance(value, bool):
        return "true" if value else "false"
    return f'"{value}"' if isinstance(value, str) else str(value)


def _start(command: list[str], folder: Path) -> subprocess.Popen[bytes]:
    environment = {**os.environ, "HOME": str(folder), "TMPDIR": str(folder), "MOZ_DISABLE_AUTO_SAFE_MODE": "1"}
    try:
        return subprocess.Popen(
            command,
            stdin=subprocess.DEVNULL,
            stdout=subprocess.PIPE,
            stderr=subprocess.STDOUT,
            env=environment,
            start_new_session=True,
        )
    except OSError as error:
        shutil.rmtree(folder, ignore_errors=True)
        raise BrowserError(f"{command[0]} cannot be started ({error.strerror})") from None


def _await_line(process: subprocess.Popen[bytes], pattern: re.Pattern[str], what: str) -> str:
    """What a line of the process's output says; the output is read to its end in the background, so that it never blocks."""
    lines: Queue[str | None] = Queue()

    def drain() -> None:
        assert process.stdout is not None
        with contextlib.suppress(ValueError, OSError):
            for line in process.stdout:
                lines.put(line.decode(errors="replace"))
        lines.put(None)

    threading.Thread(target=drain, daemon=True).start()
    deadline = time.monotonic() + START_LIMIT
    last = ""
    while True:
        try:
            line = lines.get(timeout=max(0.01, deadline - time.monotonic()))
        except Empty:
            raise BrowserTimeout(f"waited {START_LIMIT:g} s for {what}: it did not") from None
        if line is None:
            raise BrowserError(f"waited for {what}, but it ended{': ' + last if last else ''}")
        found = pattern.search(line)
        if found:
            return found.group(1)
        last = line.strip() or last
