"""Pseudo-classes and case rules as both browsers have them, on pages made for them: read from markup, and captured."""

# ruff: noqa: E501 (tables of selectors and markup)

from __future__ import annotations

import contextlib
import json
from collections.abc import Iterator
from functools import cache
from pathlib import Path

import pytest

from wary_hound import Browser, NotationError, Page
from wary_hound.locator import css

TYPES = (
    "text search url tel email password date month week time datetime-local number range color checkbox radio file hidden submit"
)
VALUES = {
    "number": ["", "5", "11", "-3", "x", "5e0"], "range": ["", "5", "200"], "date": ["", "2031-08-12", "2031-12-24", "soon"],
    "month": ["", "2031-08", "2032-01"], "week": ["", "2031-W30", "2031-W50"], "time": ["", "09:30", "23:30", "12:00:30.5"],
    "datetime-local": ["", "2031-08-12T09:30", "2032-08-12T09:30"], "text": ["", "Ada"],
}  # fmt: skip
LIMITS = {
    "number": ('min="0" max="10"', 'min="x" max="10"'), "range": ('min="0" max="10"', ""), "date": ('min="2031-08-01" max="2031-09-01"',),
    "month": ('max="2031-09"',), "week": ('min="2031-W10" max="2031-W40"',), "time": ('min="09:00" max="17:00"', 'min="22:00" max="06:00"'),
    "datetime-local": ('min="2031-01-01T00:00" max="2031-12-31T00:00"',), "text": ('min="1"',),
}  # fmt: skip


def fields() -> Iterator[str]:
    for kind in TYPES.split():
        for value in VALUES.get(kind, ["", "a"]):
            for extra in ("", "required", "readonly", "disabled", 'placeholder="p"', 'placeholder=""', *LIMITS.get(kind, ())):
                for state in ("", "checked") if kind in ("checkbox", "radio") else ("",):
                    yield f'<input type="{kind}" value="{value}" {extra} {state}>'


FORMS = f"""<form id=f1>{"".join(fields())}</form>
<form id=f2><input type=radio name=a><input type=radio name=a checked><input type=radio name=a checked><input type=radio name=b>
<input type=radio name=b><input type=radio><button type=button>n</button><button>first</button><input type=submit></form>
<input type=radio name=a form=f2 checked><input type=radio name=a><input type=submit form=f3><form id=f3><button>later</button></form>
<select id=s1><option>1<option disabled>2</select><select><option disabled>1<option>2</select><select size=3><option>1</select>
<select><option selected>1<option selected>2</select><select multiple required><option selected>1<option selected>2</select>
<select><optgroup disabled label=g><option>1<option selected>2</optgroup><optgroup label=h><option>3</optgroup></select>
<datalist><option selected>d<option>e</datalist><progress></progress><progress value=1></progress><meter></meter><output>o</output>
<fieldset disabled id=out><legend><input id=free><button>b</button></legend><legend><input></legend><input><select><option>x</select>
<fieldset><legend><input></legend><textarea></textarea></fieldset><object></object></fieldset><fieldset><input disabled></fieldset>
<textarea placeholder=p></textarea><textarea placeholder=p>x</textarea><textarea readonly></textarea><textarea required></textarea>
<div contenteditable><p>e</p><input><input type=checkbox><svg><g><text>x</text></g></svg><b contenteditable=false>no<i>x</i></b></div>
<p contenteditable="TRUE">y</p><p contenteditable=plaintext-only>z</p><p contenteditable=nonsense>q</p><datalist><input min=1 type=number></datalist>"""
WORDS = """<div lang=en><p id=a>x</p><p lang="de-Latn-DE-1996" id=b>y</p><p lang="" id=c>z</p><p lang=fr-x-private>w</p><svg xml:lang="ja"><g/></svg></div>
<p xml:lang=it id=d>n</p><div dir=rtl><p>r</p><p dir=ltr>l</p><p dir=auto>abc</p><p dir=auto>אבג abc</p><p dir=auto>123</p>
<bdi>אבג</bdi><bdi>1</bdi><bdi>abc</bdi><input><input type=tel><input dir=auto value="אבג"><input dir=auto value="a"><input dir=auto>
<textarea dir=auto>אבג</textarea><p dir=auto><span dir=rtl>אבג</span>abc</p><p dir=auto><bdi>אבג</bdi>abc</p><p dir=auto><script>a</script>אבג</p>
<svg><text>x</text></svg></div><p dir=AUTO>אב</p><p dir=nonsense>x</p><dir-card>u</dir-card><b is=x-y>b</b><annotation-xml>a</annotation-xml>
<font-face>f</font-face><details open><summary>s</summary></details><details></details><dialog open>d</dialog><dialog></dialog>
<p class="a b" title="É" data-X=1 TYPE="Text">n</p><p class="a\x0cb">f</p><p title="é" type=TEXT lang=EN>x</p><p class="A">u</p>
<svg viewBox="0 0 1 1" type="Text"><linearGradient class="G"/><a href="#x" xlink:href="#y">l</a><foreignObject><P type=Text>in</P></foreignObject></svg>
<a href>h</a><a name=x>n</a><area href=y><link href=z><p></p><p> </p><p><!-- c --></p><p>t</p>"""
STATES = """checked default indeterminate in-range out-of-range placeholder-shown optional required enabled disabled read-only
read-write defined empty root link any-link open host valid invalid first-child last-of-type only-child""".split()
SELECTORS = [f":{state}" for state in STATES] + [f":not(:{state})" for state in STATES[:12]]
OTHERS = """:dir(ltr)|:dir(rtl)|:dir(up)|:lang(en)|:lang(de)|:lang(de-DE)|:lang("*-DE")|:lang(de-1996)|:lang("")|:lang("*")|:lang(ja)|:lang(it)
:lang(fr, en)|:lang("fr-private")|.a|.b|.A|[title="é" i]|[title="É" i]|[title=é]|[type=text]|[type=Text]|[type=text s]|[TYPE=text]
[data-x]|[data-X]|[viewbox]|[viewBox]|[viewBox="0 0 1 1"]|lineargradient|linearGradient|LINEARGRADIENT|svg [type=text]|foreignObject p
foreignobject|[xlink\\:href]|a[href]|:is(.a, :nope)|:where(:nope)|:is()|p/**/.a|p/* x */.a.b|.\\61|.a\\20|p:not(.a, .b)|:nth-child(n-2)
:nth-child(n- 2)|:nth-child(n -2)|:nth-child(+n)|:nth-child(-n+ 3)|:nth-child(EVEN)|:nth-child(2N+1)|:nth-child(3000000000n)
:nth-child(99999999999999999999)|:nth-child(-3000000000n+4)|:nth-child(0)|:nth-last-child(2 of p)|:has(> p)|:has(+ p)|p:has(~ p)
:not(:has(p))|:is(:has(p))|::before|p::first-line|div::selection|:scope|:scope > *|:host|:host(p)|:root p|*|:has(:is(p, b))
[lang=en]|[lang=EN]|[dir=auto]|[title^=""]|[title*=""]|[title$=""]|[class~=""]|[class~="a b"]|[class|=a]|:lang(EN)""".replace(
    "\n", "|"
).split("|")
OTHERS += ["[*|href]", '[*|href="#y"]', 'a[*|href^="#"]', "*|a", "*|*", "svg *|p", "[*|viewBox]", "[*|type=text]"]
REFUSED = [":nope", "p:has(:has(b))", "::nope", ":nth-child(n-)", ":nth-child(- n)", ":nth-child(2 n)", ":nth-child(1.5)",
           ":nth-child()", ":lang()", ":dir()", ":dir(ltr, rtl)", ":not()", ":has()", ":matches(p)", "p:not(::before)", ".1a", "#1",
           "a b {", "[a=b c]", "[a==b]", "p >", "> p", ",", "p,,b", ":nth-of-type(2 of p)", "::before b", ":nth-child(n+)", "p..a",
           '[a="b" x]', ":", "::", "[]", "[=a]", "p:nth-child", "a:not", "ns|p", "*|", "*|.a", "[*|]",
           "[* |a]"]  # fmt: skip

ASK = """(selectors) => {
  const all = new Map([...document.querySelectorAll("*")].map((element, n) => [element, n]));
  return JSON.stringify(JSON.parse(selectors).map((selector) => {
    try { return [...document.querySelectorAll(selector)].map((element) => all.get(element)); } catch { return "refused"; }
  }));
}"""
# Where one browser differs from the other or from the standards, whose word is ours then. Of what is captured, by selector:
# Chromium knows no lists of languages and no extended ranges, no `s` in attribute selectors, takes names in SVG without case, lets
# numbers run over; Firefox lets SVG be written into; scripts are not captured with what is in them.
DIFFER = {
    "chromium": {":lang(de-DE)", ":lang(de-1996)", ':lang("*-DE")', ':lang("")', ':lang("*")', ":lang(fr, en)", ':lang("fr-private")',
                 "[type=text s]", "[viewbox]", "lineargradient", "LINEARGRADIENT", "foreignobject", ":nth-child(-3000000000n+4)", ":empty"},
    "firefox": {":read-only", ":read-write", ":not(:read-only)", ":not(:read-write)", ":empty"},
}  # fmt: skip
# Of what is read from markup, besides. Chromium gives dates limits of its own, none to what is read-only, lets buttons be
# optional, and switches options off with their select's fieldset; Firefox knows no months and weeks, lets inputs that cannot be
# required not be optional, and writes into boxes that stand in editable text.
DIFFER_PARSED = {
    "chromium": {":in-range", ":not(:in-range)", ":optional", ":not(:optional)", ":enabled", ":disabled", ":not(:enabled)",
                 ":not(:disabled)"},
    "firefox": {":in-range", ":not(:in-range)", ":out-of-range", ":not(:out-of-range)", ":placeholder-shown",
                ":not(:placeholder-shown)", ":optional", ":not(:optional)"},
}  # fmt: skip


@cache
def texts() -> dict[str, str]:
    head = "<!doctype html><html><head><meta charset=utf-8><title>t</title></head><body>"
    return {"forms": head + FORMS, "words": head + WORDS}


def ours(page: Page, selector: str) -> object:
    try:
        return css.match(page, css.parse(selector), 0).tolist()
    except NotationError:
        return "refused"


@pytest.mark.parametrize("name", ["chromium", "firefox"])
@pytest.mark.parametrize("kind", ["forms", "words"])
def test_states_and_cases_are_the_browsers(request: pytest.FixtureRequest, tmp_path: Path, name: str, kind: str) -> None:
    browser: Browser = request.getfixturevalue(name)
    file = tmp_path / f"{kind}.html"
    file.write_text(texts()[kind], encoding="utf-8")
    asked = [*SELECTORS, *OTHERS]
    live = browser.open(file.as_uri())
    with contextlib.closing(live):
        theirs = json.loads(live.script(ASK, json.dumps(asked)))
        captured = live.capture()
    parsed = Page.parse(texts()[kind])
    assert captured.tags == parsed.tags
    odd = []
    for selector, answer in zip(asked, theirs, strict=True):
        if selector in DIFFER[name]:
            continue
        for how, page in (("captured", captured), ("parsed", parsed)):
            if how == "parsed" and (selector in DIFFER_PARSED[name] or "valid" in selector):
                continue  # what a browser finds valid is noted by a capture, and not worked out from markup
            found = ours(page, selector)
            if found != answer:
                odd.append((how, selector, _apart(parsed, found, answer)))
    assert not odd


def _apart(page: Page, found: object, answer: object) -> object:
    if isinstance(found, str) or isinstance(answer, str):
        return found if isinstance(found, str) else f"browser: {answer if isinstance(answer, str) else 'takes it'}"
    assert isinstance(found, list)
    assert isinstance(answer, list)
    return [f"too many: {page[i]}" for i in found if i not in answer][:3] + [
        f"missing: {page[i]}" for i in answer if i not in found
    ][:3]


@pytest.mark.parametrize("name", ["chromium", "firefox"])
def test_what_browsers_refuse_is_refused_with_a_column(request: pytest.FixtureRequest, site: str, name: str) -> None:
    browser: Browser = request.getfixturevalue(name)
    live = browser.open(f"{site}/r1/weather.html")
    with contextlib.closing(live):
        theirs = json.loads(live.script(ASK, json.dumps(REFUSED)))
    assert [selector for selector, answer in zip(REFUSED, theirs, strict=True) if answer != "refused"] == []
    for selector in REFUSED:
        with pytest.raises(NotationError) as caught:
            css.parse(selector)
        assert 1 <= caught.value.column <= len(selector) + 1
