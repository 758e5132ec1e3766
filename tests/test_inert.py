"""Snapshots of hostile pages: opened in a browser they run nothing and fetch nothing, and they read back as what they were."""

# ruff: noqa: E501 (tables of markup)

from __future__ import annotations

import contextlib
import threading
import time
from collections.abc import Iterator
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path

import numpy as np
import pytest

from wary_hound import Browser, Page
from wary_hound.page.events import Event, build, events_of
from wary_hound.page.facts import Facts
from wary_hound.page.serialize import to_html

RUN = "document.title='ran'"
HOSTILE = [
    '<body onload="{run}"><img src="{canary}/i" onerror="{run}"><p onclick="{run}">x</p>',
    '<svg onload="{run}"><image href="{canary}/s"/><script>{run}</script><style>@import "{canary}/c";</style></svg>',
    '<iframe src="{canary}/f"></iframe><iframe src="javascript:parent.{run}"></iframe><iframe srcdoc="<img src={canary}/fi onerror=parent.{run}>"></iframe>',
    '<meta http-equiv="refresh" content="0;url={canary}/r"><base href="{canary}/b/"><a href="javascript:{run}" autofocus onfocus="{run}">a</a>',
    '<link rel=stylesheet href="{canary}/l"><link rel=preload as=image href="{canary}/p"><link rel=icon href="{canary}/ico"><link rel=prefetch href="{canary}/pf"><link rel=preconnect href="{canary}"><link rel=modulepreload href="{canary}/m">',
    '<style>body{{background:url({canary}/bg)}} @font-face{{font-family:x;src:url({canary}/ft)}} p{{font-family:x}}</style><p style="background:url({canary}/st)">x</p>',
    '<object data="{canary}/o"></object><embed src="{canary}/e"><video src="{canary}/v" poster="{canary}/po" autoplay></video><audio src="{canary}/a" autoplay></audio><input type=image src="{canary}/ii">',
    '<form action="{canary}/fo"><button formaction="javascript:{run}" autofocus>b</button></form><details open ontoggle="{run}">d</details>',
    '<div><template shadowrootmode=open><img src=x onerror="{run}"><style>@import "{canary}/sh";</style></template></div>',
    '<img srcset="{canary}/ss 1x" loading=eager><picture><source srcset="{canary}/so"><img src="{canary}/pi"></picture><body background="{canary}/bb">',
    '<svg><animate onbegin="{run}" attributeName=x dur=1s><set attributeName=href to="javascript:{run}"/><use href="{canary}/u#x"/><a xlink:href="javascript:{run}">x</a></svg>',
    '<noscript><p title="</noscript><img src={canary}/n onerror={run}>"></noscript><textarea></textarea><title></title>',
    '<math><mtext><table><mglyph><style><!--</style><img title="--&gt;&lt;img src=x onerror={run}&gt;"></table></math>',
]  # fmt: skip
# What scripts put into a page, and no markup says: (tag, text) with the text put there as it is.
PLANTED = [
    ("style", "</style><script>{run}</script><img src={canary}/x onerror={run}>"),
    ("xmp", "</xmp><img src={canary}/x onerror={run}>"),
    ("iframe", "</iframe><img src={canary}/x onerror={run}>"),
    ("noembed", "</noembed><script>{run}</script>"),
    ("noframes", "</noframes><script>{run}</script>"),
    ("textarea", "</textarea><script>{run}</script>"),
    ("title", "</title><script>{run}</script>"),
    ("plaintext", "</plaintext><script>{run}</script>"),
]
COMMENTS = [
    "--><script>{run}</script>",
    "--!><img src={canary}/x onerror={run}>",
    "><script>{run}</script>",
    "->x",
    "<!--x--!><b>",
    "a--",
]


class _Canary(BaseHTTPRequestHandler):
    heard: list[str]

    def do_GET(self) -> None:
        self.heard.append(self.path)
        self.send_response(200)
        self.end_headers()

    def log_message(self, format: str, *args: object) -> None:
        """Nothing."""


@pytest.fixture
def canary() -> Iterator[tuple[str, list[str]]]:
    """A server that tells what was asked of it."""
    heard: list[str] = []
    server = ThreadingHTTPServer(("127.0.0.1", 0), type("Canary", (_Canary,), {"heard": heard}))
    thread = threading.Thread(target=server.serve_forever, kwargs={"poll_interval": 0.05}, daemon=True)
    thread.start()
    yield f"http://127.0.0.1:{server.server_address[1]}", heard
    server.shutdown()
    server.server_close()


def planted(markup: str, texts: dict[str, str], comment: str = "") -> Page:
    """A page with texts and a comment in it as a script would put them there."""

    def events() -> Iterator[Event]:
        for event in events_of(Page.parse(markup)):
            yield ("t", texts[event[1]]) if event[0] == "t" and event[1] in texts else event
            if comment and event[:2] == ("e", "body"):
                yield "c", comment

    page = build(events())
    return build(events_of(page), facts=Facts(boxes=np.zeros((len(page), 4), np.float32)))


def hostile_pages(canary: str) -> Iterator[Page]:
    say = {"run": RUN, "canary": canary}
    for markup in HOSTILE:
        page = Page.parse(markup.format(**say))
        yield build(events_of(page), facts=Facts(boxes=np.zeros((len(page), 4), np.float32)))
    for tag, text in PLANTED:
        yield planted(f"<p>before</p><{tag}>mark</{tag}>", {"mark": text.format(**say)})
        yield planted(f"<svg><g>mark</g></svg><{tag}>mark</{tag}>", {"mark": text.format(**say)})
    for comment in COMMENTS:
        yield planted("<p>x</p>", {}, comment.format(**say))
    # an HTML style in an SVG, which a parser would take for SVG's own
    inside = list(events_of(Page.parse("<svg><style>mark</style></svg>")))
    odd = [
        ("e", "style", 0, []) if e[:2] == ("e", "style") else ("t", f"<img src=x onerror={RUN}>") if e == ("t", "mark") else e
        for e in inside
    ]
    yield build(odd, facts=Facts(boxes=np.zeros((sum(e[0] == "e" for e in odd), 4), np.float32)))


def test_hostile_pages_read_back_as_they_were(tmp_path: Path) -> None:
    for number, page in enumerate(hostile_pages("http://127.0.0.1:9")):
        again = Page.read(page.write(tmp_path / str(number)))
        assert again.digest == page.digest, to_html(page)[:400]
        assert [e.attributes for e in again] == [e.attributes for e in page]


@pytest.mark.parametrize("name", ["chromium", "firefox"])
def test_opened_snapshots_run_and_fetch_nothing(
    request: pytest.FixtureRequest, tmp_path: Path, canary: tuple[str, list[str]], name: str
) -> None:
    browser: Browser = request.getfixturevalue(name)
    address, heard = canary
    ran = []
    with contextlib.closing(browser.open("about:blank")) as live:
        for number, page in enumerate(hostile_pages(address)):
            file = page.write(tmp_path / str(number))
            live.open(file.as_uri())
            if live.script("() => document.title") == "ran" or live.script("() => location.href") != file.as_uri():
                ran.append(file.read_text()[:600])
    assert not ran
    # what a browser would fetch it asks for at once; a page that does fetch shows that the canary hears it
    (tmp_path / "loud.html").write_text(f"<!doctype html><img src={address}/loud>")
    with contextlib.closing(browser.open((tmp_path / "loud.html").as_uri())):
        deadline = time.monotonic() + 20
        while "/loud" not in heard and time.monotonic() < deadline:
            time.sleep(0.05)
    assert heard == ["/loud"]
