"""Roles, names and texts by example; the browsers judge the same markup in test_accessibility."""

from __future__ import annotations

import pytest

from wary_hound import Page


@pytest.mark.parametrize(
    ("html", "role", "name"),
    [
        ("<a href=# id=t>Plan a visit</a>", "link", "Plan a visit"),
        ("<button id=t>Hold <b>this</b> night</button>", "button", "Hold this night"),
        ("<button id=t title='Turn east'>▶</button>", "button", "▶"),
        ("<button id=t title='Turn east'></button>", "button", "Turn east"),
        ("<button id=t><img alt='Star map'></button>", "button", "Star map"),
        ("<button id=t><span aria-hidden=true>x</span>Close</button>", "button", "Close"),
        ("<button id=t><span style='display: none'>x</span>Dome</button>", "button", "Dome"),
        ("<button id=t><span style='visibility:hidden'>x</span>Dome</button>", "button", "Dome"),
        ("<button id=t aria-labelledby=nowhere>Kept</button>", "button", "Kept"),
        ("<button id=t aria-label=' '>Blank label</button>", "button", "Blank label"),
        ("<div id=t role=button><div>Hold</div><div>it</div></div>", "button", "Hold it"),
        ("<div id=t role=button><span>Hold</span><span>it</span></div>", "button", "Holdit"),
        ("<div id=t role=link>Wind <input aria-label=x value=12> km/h</div>", "link", "Wind 12 km/h"),
        ("<div id=t role=link>Wind <select><option>low<option selected>high</select></div>", "link", "Wind high"),
        ("<label for=t>One</label><label for=t>Two</label><input id=t>", "textbox", "One Two"),
        ("<label>E-mail <input id=t type=email></label>", "textbox", "E-mail"),
        ("<label>Party <input id=t type=number value=2> people</label>", "spinbutton", "Party people"),
        ("<label><input id=t type=radio> At dusk</label>", "radio", "At dusk"),
        ("<input id=t type=checkbox aria-label=Cocoa>", "checkbox", "Cocoa"),
        ("<input id=t type=search title='Search nights'>", "searchbox", "Search nights"),
        ("<input id=t type=range aria-label=Zoom>", "slider", "Zoom"),
        ("<input id=t type=password placeholder=Secret>", "", "Secret"),
        ("<input id=t type=date aria-label=Date>", "", "Date"),
        ("<input id=t type=hidden value=x>", "", ""),
        ("<input id=t type=submit>", "button", "Submit"),
        ("<input id=t type=submit value='Send booking'>", "button", "Send booking"),
        ("<input id=t type=reset>", "button", "Reset"),
        ("<input id=t type=button value=Check>", "button", "Check"),
        ("<input id=t type=image alt=Go>", "button", "Go"),
        ("<input id=t type=image>", "button", "Submit Query"),
        ("<select id=t aria-label=Guide><option>Ines</select>", "combobox", "Guide"),
        ("<select id=t size=4 aria-label=Guide><option>Ines</select>", "listbox", "Guide"),
        ("<select id=t multiple aria-label=Guide><option>Ines</select>", "listbox", "Guide"),
        ("<label for=t>Note</label><textarea id=t>some text</textarea>", "textbox", "Note"),
        ("<h2 id=t aria-label=Loud>quiet</h2>", "heading", "Loud"),
        ("<img id=t alt='Sky dial'>", "image", "Sky dial"),
        ("<img id=t>", "image", ""),
        ("<img id=t alt='' title=Dial>", "image", "Dial"),
        ("<table id=t><caption>Nights</caption><tr><td>x</table>", "table", "Nights"),
        ("<table><tr><th id=t>Night<th>Date</table>", "columnheader", "Night"),
        ("<table><tr><td>x<td id=t>12 Aug</table>", "cell", "12 Aug"),
        ("<table role=grid><tr><td id=t>12 Aug</table>", "gridcell", "12 Aug"),
        ("<table><tr id=t><td>Vega</table>", "row", ""),
        ("<ul id=t aria-label=Bring><li>coat</ul>", "list", "Bring"),
        ("<ul><li id=t>A warm coat</ul>", "listitem", ""),
        ("<nav id=t aria-label=Main>x</nav>", "navigation", "Main"),
        ("<form id=t aria-labelledby=h><h2 id=h>Your booking</h2></form>", "form", "Your booking"),
        ("<figure id=t><img alt=x><figcaption>Ridge</figcaption></figure>", "figure", "Ridge"),
        ("<dialog id=t open aria-label=Notice>x</dialog>", "dialog", "Notice"),
        ("<details id=t><summary>More</summary>x</details>", "group", ""),
        ("<details><summary id=t>More</summary>x</details>", "", "More"),
        ("<dl><dt id=t>Wind<dd>12</dl>", "term", "Wind"),
        ("<output id=t>Nothing held</output>", "status", ""),
        ("<progress id=t aria-label=Loading></progress>", "progressbar", "Loading"),
        ("<a href=# id=t><svg><title>Map</title></svg></a>", "link", "Map"),
        ("<svg id=t><title>Map</title></svg>", "graphics-document", "Map"),
        ("<div id=t role=switch aria-checked=true>Dome light</div>", "switch", "Dome light"),
        ("<div id=t role='nothing TAB'>Nights</div>", "tab", "Nights"),
        ("<div id=t role=presentation>x</div>", "none", ""),
        ("<main id=t>x</main>", "main", ""),
        ("<aside id=t>x</aside>", "complementary", ""),
        ("<footer id=t>x</footer>", "contentinfo", ""),
        ("<section><footer id=t>x</footer></section>", "", ""),
        ("<p id=t>x</p>", "paragraph", ""),
        ("<span id=t>x</span>", "", ""),
        ("<div id=t role=checkbox aria-labelledby=q></div><b id=q hidden>Blankets</b>", "checkbox", "Blankets"),
        ("<fieldset id=t><legend>Extras</legend></fieldset>", "group", "Extras"),
        ("<iframe id=t title=Weather></iframe>", "", "Weather"),
    ],
)
def test_role_and_name(html: str, role: str, name: str) -> None:
    element = Page.parse(f"<!doctype html><body>{html}").find("css{#t}")
    assert (element.role, element.name) == (role, name)


@pytest.mark.parametrize(
    ("html", "label"),
    [
        ("<label for=t>Visitor name</label><input id=t>", "Visitor name"),
        ("<label>E-mail: <input id=t></label>", "E-mail:"),
        ("<input id=t aria-label=Phone>", "Phone"),
        ("<b id=q>Guide</b><select id=t aria-labelledby=q></select>", "Guide"),
        ("<div id=t role=textbox aria-label=Note></div>", "Note"),
        ("<input id=t placeholder=x title=y>", ""),
        ("<p id=t aria-label=x>", ""),
    ],
)
def test_label(html: str, label: str) -> None:
    assert Page.parse(f"<body>{html}").find("css{#t}").label == label


def test_label_finder_takes_the_label_as_people_say_it() -> None:
    page = Page.parse("<label>E-mail: <input id=a></label><label>Name * <input id=b></label>")
    assert page.find("label{E-mail}").attributes["id"] == "a"
    assert page.find("label{E-mail:}").attributes["id"] == "a"
    assert page.find("label{Name}").attributes["id"] == "b"


@pytest.mark.parametrize(
    ("html", "text"),
    [
        ("a <b>b</b>c", "a bc"),
        ("a<br>b", "a b"),
        ("a<p>b</p>c", "a b c"),
        ("<i>a</i><i>b</i>", "ab"),
        ("  a \n\t b  ", "a b"),
        ("a<span hidden>b</span>c", "ac"),
        ("a<!-- b -->c", "ac"),
        ("a<script>b</script>c", "ac"),
        ("a<style>b</style>c", "ac"),
        ("a<template>b</template>c", "ac"),
        ("<ul><li>a</li><li>b</li></ul>", "a b"),
        ("<table><tr><td>a</td><td>b</td></tr></table>", "a b"),
        ("<select><option>a</option><option>b</option></select>", "a b"),
        ("<textarea>a</textarea>", "a"),
        ("a&nbsp;b", "a b"),
        ("a<input value=b>c", "a c"),
        ("<details><summary>a</summary><p>b</p></details>", "a"),
        ("<details open><summary>a</summary><p>b</p></details>", "a b"),
        ("<dialog>a</dialog>b", "b"),
        ("<noscript>a</noscript>b", "b"),
        ("<p style='display:none'>a</p>b", "b"),
        ("<p style='color:red'>a</p>b", "a b"),
    ],
)
def test_text(html: str, text: str) -> None:
    assert Page.parse(f"<body><div id=t>{html}</div>").find("css{#t}").text == text


@pytest.mark.parametrize(
    ("locator", "ids"),
    [
        ("text{Hold}", ["a", "d"]),
        ("text{hold}", []),
        ("text{~old}", ["a", "b", "d", "e"]),
        ("text{Hold it}", ["b"]),
        ("text{Hold   it}", ["b"]),
        ("text{Hold it now}", ["e"]),
        ("text{\\~5 km}", ["f"]),
        ('role{button "Hold"}', ["a"]),
        ('role{button ~"Hold"}', ["a", "b"]),
        ("role{button}", ["a", "b"]),
        ('role{button "Hold it"}', ["b"]),
    ],
)
def test_finders_of_texts(locator: str, ids: list[str]) -> None:
    page = Page.parse(
        "<button id=a>Hold</button><button id=b>Hold <i>it</i></button><p hidden id=c>Hold</p><div><b id=d>Hold</b></div>"
        "<p id=e>Hold it <span>now</span></p><p id=f>~5 km</p><button hidden>Hold</button>"
    )
    assert [e.attributes.get("id", e.tag) for e in page.find_all(locator)] == ids
