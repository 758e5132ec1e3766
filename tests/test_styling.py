"""What style sheets hide, read from a page alone: the browsers are the judges."""

from __future__ import annotations

from pathlib import Path

import pytest

from wary_hound import Browser, Element, Page
from wary_hound.page import styling
from wary_hound.page.serialize import to_html

NIGHT = """<!doctype html><style media=print>main { display: none }</style><style>
.a, .never::before { display: none } .a.b, p.b { display: block } .a.b.d { display: none }
#late { display: none !important } #late { display: block } .loud { display: block !important }
@media print { .p { display: none } } @media (max-width: 600px) { .narrow { display: none } }
@media screen and (min-width: 30em) { .wide { display: none } } @media print, (min-width: 5px) { .either { display: none } }
@media (prefers-reduced-motion: reduce) { .still { display: none } }
@layer base { .l { display: none } .m { display: none !important } } .l { display: block } .m { display: block !important }
@layer lone { .n { display: none } @media screen { .inlayer { display: none } } }
@supports (display: grid) { .grid { display: none } } @supports not (display: grid) { .old { display: none } }
[hidden].flex { display: flex } .veil { visibility: hidden } .veil .seen { visibility: visible }
.back { visibility: inherit !important } .folded { visibility: collapse } .o:hover { display: none }
:is(.i, #none) { display: none } div.i { display: block } :where(#none, .z) { display: none } p { display: block }
.k:not(:focus) { display: none } .first > :first-child ~ i, .t:nth-child(2 of .t) { display: none }
night-card { display: block } night-card.off, tele-scope.off { display: none }
dialog.forced { display: block } details.open > p { display: block }
</style><main>
<p class=a>a</p><p class="a b">ab</p><p class="a b d">abd</p><p class=never>n</p><p id=late style="display: block">late</p>
<p class=loud style="display: none">loud</p><p class=loud style="display: none !important">louder</p>
<p class=p>p</p><p class=narrow>n</p><p class=wide>w</p><p class=either>e</p><p class=still>s</p><p class=l>l</p><p class=m>m</p>
<p class=n>n</p><p class=inlayer>i</p><p class=grid>g</p><p class=old>o</p><p hidden>h</p><p hidden class=flex>f</p>
<div class=veil>veil<b>b</b><b class=seen>seen<i>i</i></b><u class=back>u</u></div>
<div class=back style="visibility: hidden">back<i>i</i></div>
<table><tr class=folded><td>folded</table><p class=o>o</p><div class=i>div</div><p class=i>p</p><p class=z>z</p><b class=z>z</b>
<input class=k><div class=first><b>1</b><u>2</u><i>3</i></div><ul><li class=t>1<li>2<li class=t>3</ul>
<dialog>closed<p>in</p></dialog><dialog class=forced>forced</dialog><details class=open><summary>s</summary><p>in</p></details>
<p style="DISPLAY:NONE">upper</p><p style="display: none; display: block">twice</p><p style="visibility: hidden">v</p>
<night-card><template shadowrootmode=open><style>:host { display: none } :host([open]) > b, .plain { display: none }
.aside { display: none } [name=left] { visibility: hidden } ::slotted(u) { color: red }
</style><b>b</b><i class=plain>i</i><slot></slot>
<div class=aside><slot name=aside><em>instead</em></slot></div><slot name=left></slot></template>
<b>slotted</b><u slot=aside>aside</u><u slot=left>left<s style="visibility: visible">s</s></u>
<q slot=nowhere>nowhere</q>words</night-card>
<night-card open><template shadowrootmode=open><style>:host([open]) > b { display: none } i { display: none }
.s.t { display: block }</style><b class="s t">b</b><i>i</i>
<slot></slot></template><i>of the page</i></night-card>
<night-card class=off><template shadowrootmode=open><style>:host { display: block }</style><b>b</b></template></night-card>
<tele-scope class=off><template shadowrootmode=open><style>:host { display: block !important }
</style><b>b</b></template></tele-scope>
<tele-scope><template shadowrootmode=open><style>:host(:not([on])) { display: none }</style><b>b</b></template>words</tele-scope>
<tele-scope on><template shadowrootmode=open><style>:host(:not([on])), :host(.x) { display: none }
</style><b>b</b></template></tele-scope>
<tele-scope on class=x><template shadowrootmode=open><style>:host(.x) { display: none } :host { display: block }
</style></template></tele-scope>
<iframe srcdoc="<style>b { display: none }</style><b>b</b><i class=a>i</i>"></iframe>
<iframe class=a srcdoc="<b>b</b>"></iframe></main>"""


@pytest.fixture(params=["chromium", "firefox"])
def browser(request: pytest.FixtureRequest) -> Browser:
    return request.getfixturevalue(request.param)


def taken_otherwise(seen: Page) -> list[Element]:
    """The elements of a captured page of which its markup and style sheets say otherwise than the browser."""
    shown = Page.parse(to_html(seen)).semantics.rendered
    return [e for e in seen if shown[e.index] != seen.semantics.rendered[e.index]]


def test_what_is_shown_is_worked_out_as_the_browsers_do(browser: Browser, tmp_path: Path) -> None:
    (tmp_path / "night.html").write_text(NIGHT)
    seen = browser.open((tmp_path / "night.html").as_uri()).capture()
    assert len(Page.parse(to_html(seen))) == len(seen)
    assert 0.2 < seen.semantics.rendered.mean() < 0.8
    assert not [f"<{e.tag}> {dict(e.attributes)} {e.text[:20]}" for e in taken_otherwise(seen)]


def test_what_is_hidden_says_nothing_and_is_not_found() -> None:
    page = Page.parse(
        "<style>.menu:not(.open) { display: none }</style><div class=menu><a href=/x>Delete</a></div><a href=/y>Delete</a>"
    )
    assert [e.attributes["href"] for e in page.find_all('role{link "Delete"}')] == ["/y"]
    assert page.find("text{Delete}").attributes["href"] == "/y"


@pytest.mark.parametrize(
    "sheet",
    [
        "p { display: none",
        "} p { display: none }",
        "p { display: none; ((((",
        "/* p { visibility: hidden }",
        "@media { @media " * 3_000 + "p { display: none }",
        "(" * 3_000 + "display",
        "p:is(" * 900 + " { display: none }",
        "::slotted(p), :host(p { display: none }",
        ".x { display: none }" * 30_000,
    ],
)
def test_broken_and_hostile_sheets_do_no_harm(sheet: str) -> None:
    page = Page.parse(f"<main><b>shown</b><style>{sheet}</style></main>")
    assert page.find("css{b}").text == "shown"


def test_of_too_many_selectors_the_rest_is_not_read(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(styling, "MOST_SELECTORS", 2)
    page = Page.parse("<style>a { display: none } b, i { display: none }</style><a>a</a><b>b</b><i>i</i>")
    assert [page.find(f"css{{{tag}}}").visible for tag in "abi"] == [False, False, True]
