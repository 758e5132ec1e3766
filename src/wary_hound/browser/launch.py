"""Starting real browsers, each with a profile that is thrown away, and ending them with all their processes; and joining one."""

from __future__ import annotations

import contextlib
import os
import re
import shutil
import signal
import ssl
import subprocess
import sys
import tempfile
import threading
import time
from dataclasses import dataclass, field
from pathlib import Path
from queue import Empty, Queue
from typing import Protocol

import httpx

from wary_hound.browser.connection import Connection
from wary_hound.browser.waiting import apart
from wary_hound.errors import BrowserError, BrowserTimeout

_NO_AUTHORITIES = ssl.SSLContext(ssl.PROTOCOL_TLS_CLIENT)
"""Trusts nobody: the driver is asked on this machine, without TLS, and reading all authorities would take longer than that."""
START_LIMIT = 60.0
"""Seconds that a browser may take to start."""
INSTALL = {"chromium": "chromium chromium-driver", "firefox": "firefox-esr"}
_CHROMIUM_ARGUMENTS = (
    "--disable-gpu", "--disable-quic", "--no-first-run", "--no-default-browser-check",
    "--disable-background-networking", "--disable-component-update", "--disable-sync", "--disable-extensions",
    "--disable-features=BackForwardCache",  # a page with frames that comes back from it ends the protocol's session
    "--hide-scrollbars", "--force-color-profile=srgb", "--disable-dev-shm-usage",
)  # fmt: skip
_FIREFOX_PREFERENCES = {
    "app.update.enabled": False, "browser.shell.checkDefaultBrowser": False, "datareporting.policy.dataSubmissionEnabled": False,
    "toolkit.telemetry.enabled": False, "browser.startup.page": 0, "network.captive-portal-service.enabled": False,
    "network.connectivity-service.enabled": False, "extensions.update.enabled": False, "remote.active-protocols": 1,
    "services.settings.server": "data:,#", "browser.safebrowsing.downloads.remote.enabled": False,
    "print.enabled": False, "browser.download.alwaysOpenPanel": False,
}  # fmt: skip
_FIREFOX_TOUCH = {"dom.w3c_touch_events.enabled": 1, "ui.primaryPointerCapabilities": 1, "ui.allPointerCapabilities": 1}


@dataclass(frozen=True, slots=True)
class Launch:
    """What browser to start: `width` and `height` of its viewport in CSS pixels, with a `window` to be seen or headless, for
    touch or not, and its `program` where it is not the one on the path."""

    width: int
    height: int
    window: bool = False
    touch: bool = False
    program: str = ""


class Running(Protocol):
    """A browser that can be talked to."""

    name: str
    connection: Connection

    def stop(self) -> None: ...


@dataclass
class Joined:
    """Somebody else's browser. `stop` ends our session where we began one, and leaves the browser."""

    name: str
    connection: Connection
    own_session: bool

    def stop(self) -> None:
        with contextlib.suppress(BrowserError):
            if self.own_session:
                self.connection.send("session.end", limit=5)
        self.connection.close()


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
        try:
            with contextlib.suppress(Exception):
                self.connection.close()
        finally:
            apart(self._end)

    def _end(self) -> None:
        if self.session_url:
            with contextlib.suppress(httpx.HTTPError):
                httpx.delete(self.session_url, timeout=5, trust_env=False, verify=_NO_AUTHORITIES)
        _leave(self.process, self.folder)


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
    for pipe in (process.stdin, process.stdout):
        if pipe is not None:
            pipe.close()


def _leave(process: subprocess.Popen[bytes], folder: Path) -> None:
    end_process(process)
    shutil.rmtree(folder, ignore_errors=True)


def find_program(browser: str, given: str, *names: str) -> str:
    """The program that was given, or the first of some that is on the path. BrowserError, with the install line, if none."""
    for name in (given,) if given else names:
        program = shutil.which(name)
        if program:
            return program
    if given:
        raise BrowserError(f"{given}: there is no such program")
    raise BrowserError(f"no {names[0]} on this machine; install it: apt-get install {INSTALL[browser]}")


def launch(browser: str, wanted: Launch) -> Launched:
    """Start a browser (`chromium` or `firefox`). BrowserError says what is missing."""
    if browser not in INSTALL:
        raise BrowserError(f"no browser is named {browser!r} here: chromium or firefox")
    if wanted.window and not (os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY")):
        raise BrowserError("there is no screen for a window here (DISPLAY is not set): set it, or do without a window")
    return _chromium(wanted) if browser == "chromium" else _firefox(wanted)


def join(address: str) -> Joined:
    """Connect to a running BiDi endpoint: `ws://HOST:PORT/session` begins a session there, `ws://.../session/ID` uses one that
    is there already. BrowserError where it does not answer, or has a session of somebody else."""
    if not address.startswith(("ws://", "wss://")):
        raise BrowserError(f"{address} is no address of a BiDi endpoint: such begin with ws:// or wss://")
    connection = Connection(address)
    fresh = re.search(r"/session/[^/]+$", address) is None
    try:
        name = ""
        if fresh:
            asked = {"alwaysMatch": {"unhandledPromptBehavior": {"default": "ignore"}}}
            answer = connection.send("session.new", "the session to begin", START_LIMIT, capabilities=asked)
            name = str(answer["capabilities"].get("browserName", ""))
        return Joined(name, connection, fresh)
    except BaseException:
        connection.close()
        raise


def _driven(driver: str, folder: Path) -> tuple[subprocess.Popen[bytes], str]:
    """ChromeDriver, and the port that it has chosen. Where several start at once one may find that taken: it tries again."""
    for last in (False, False, True):
        process = _start([driver, "--port=0", "--log-level=SEVERE"], folder)
        try:
            return process, _await_line(process, re.compile(r"successfully on port (\d+)"), "ChromeDriver to start")
        except BaseException as error:
            end_process(process)
            if last or "port not available" not in str(error):
                shutil.rmtree(folder, ignore_errors=True)
                raise
    raise AssertionError("unreachable")


@dataclass(frozen=True)
class _Process:
    """A browser that has started, and where it can be talked to."""

    process: subprocess.Popen[bytes]
    folder: Path
    address: str
    session_url: str = ""

    def leave(self) -> None:
        _leave(self.process, self.folder)


def _chromium(wanted: Launch) -> Launched:
    here = apart(lambda: _start_chromium(wanted), _Process.leave)
    try:
        connection = Connection(here.address)
    except BaseException:
        apart(here.leave)
        raise
    connection.dies_unseen = True  # what speaks BiDi there is a page of its own
    return Launched("chromium", here.process, here.folder, connection, here.session_url)


def _start_chromium(wanted: Launch) -> _Process:
    binary = find_program("chromium", wanted.program, "chromium", "chromium-browser")
    driver = find_program("chromium", "", "chromedriver")
    folder = Path(tempfile.mkdtemp(prefix="wary-hound-"))
    process, port = _driven(driver, folder)
    try:
        arguments = [*_CHROMIUM_ARGUMENTS, f"--window-size={wanted.width},{wanted.height}", f"--user-data-dir={folder / 'profile'}"]
        if not wanted.window:
            arguments.append("--headless=new")
        if os.geteuid() == 0:
            arguments.append("--no-sandbox")
        capabilities = {
            "browserName": "chrome",
            "webSocketUrl": True,
            "unhandledPromptBehavior": {"default": "ignore", "beforeUnload": "ignore"},
            "goog:chromeOptions": {"args": arguments, "binary": binary},
        }
        base = f"http://127.0.0.1:{port}/session"
        asked = {"capabilities": {"alwaysMatch": capabilities}}
        posted = httpx.post(base, json=asked, timeout=START_LIMIT, trust_env=False, verify=_NO_AUTHORITIES)
        answer = posted.json()["value"]
        if "capabilities" not in answer:
            said = str(answer.get("message") or answer.get("error") or "the driver does not say why")
            raise BrowserError(f"Chromium did not start: {said.splitlines()[0]}")
        return _Process(process, folder, answer["capabilities"]["webSocketUrl"], f"{base}/{answer['sessionId']}")
    except BaseException as error:
        _leave(process, folder)
        if isinstance(error, httpx.TimeoutException):
            raise BrowserTimeout(f"waited {START_LIMIT:g} s for Chromium to start: it did not") from None
        if isinstance(error, httpx.HTTPError):
            raise BrowserError(f"ChromeDriver went away while starting ({type(error).__name__})") from None
        raise


def _firefox(wanted: Launch) -> Launched:
    here = apart(lambda: _start_firefox(wanted), _Process.leave)
    try:
        return Launched("firefox", here.process, here.folder, join(here.address).connection)
    except BaseException:
        apart(here.leave)
        raise


def _start_firefox(wanted: Launch) -> _Process:
    binary = find_program("firefox", wanted.program, "firefox-esr", "firefox")
    folder = Path(tempfile.mkdtemp(prefix="wary-hound-"))
    profile = folder / "profile"
    profile.mkdir()
    preferences = _FIREFOX_PREFERENCES | (_FIREFOX_TOUCH if wanted.touch else {})
    lines = [f'user_pref("{key}", {_preference(value)});' for key, value in preferences.items()]
    (profile / "user.js").write_text("\n".join(lines) + "\n", encoding="utf-8")
    command = [
        binary, "--no-remote", "--profile", str(profile), "--remote-debugging-port", "0",
        f"--width={wanted.width}", f"--height={wanted.height}", *(() if wanted.window else ("--headless",)),
    ]  # fmt: skip
    process = _start(command, folder)
    try:
        address = _await_line(process, re.compile(r"BiDi listening on (ws://\S+)"), "Firefox to start")
        return _Process(process, folder, f"{address}/session")
    except BaseException:
        _leave(process, folder)
        raise


def _preference(value: object) -> str:
    if isinstance(value, bool):
        return "true" if value else "false"
    return f'"{value}"' if isinstance(value, str) else str(value)


def _start(command: list[str], folder: Path) -> subprocess.Popen[bytes]:
    """Under a keeper, which ends it when this process is gone."""
    home = {
        "HOME": str(folder),
        "TMPDIR": str(folder),
        "XAUTHORITY": os.environ.get("XAUTHORITY", str(Path.home() / ".Xauthority")),
    }
    keeper = Path(__file__).with_name("keeper.py")
    try:
        return subprocess.Popen(
            [sys.executable, "-I", "-S", str(keeper), str(folder), *command],
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            stderr=subprocess.STDOUT,
            env={**os.environ, **home, "MOZ_DISABLE_AUTO_SAFE_MODE": "1"},
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
        hit = pattern.search(line)
        if hit:
            return hit.group(1)
        last = line.strip() or last
