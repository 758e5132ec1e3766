"""Roles and names, judged by the browsers' own: computed role and label, and BiDi's accessibility locator."""

from __future__ import annotations

import json
from collections import Counter
from typing import Any

import httpx
import pytest

from conftest import PAGES, read, started
from wary_hound import Browser, Page
from wary_hound.page.roles import KNOWN

NAMES = ["nights@r1", "sky@r2", "nights@r4", "nights@r6"]
SAME = {
    "img": "image",
    "LayoutTable": "table",
    "presentation": "none",
    "generic": "",
    "graphics-document": "image",
    "none": "",
    "text": "",
    "sectionfooter": "",
}
HTML = """<!doctype html><style>.loud { text-transform: uppercase } .starred::before { content: "★ " } .unit::after
{ content: " km/h" / " kilometres an hour" } .box { display: inline-block } .run { display: inline }</style><body>{parts}</body>"""
PARTS = [
    "<a href=#>Plan a visit</a>",
    "<a>no link</a>",
    "<button>Hold <b>this</b> night</button>",
    "<button aria-label='Close notice'>x</button>",
    "<button title='Turn east'>▶</button>",
    "<button title='Turn east'></button>",
    "<button><img alt='Star map'></button>",
    "<button><span aria-hidden=true>x</span>Close</button>",
    "<button><span hidden>x</span>Open</button>",
    "<button><span style='display:none'>x</span>Dome</button>",
    "<button><i></i> Wide   space </button>",
    "<label for=i1>Visitor name</label><input id=i1>",
    "<label>E-mail <input type=email></label>",
    "<label>Party size <input type=number value=2> people</label>",
    "<label>Cocoa<input type=checkbox></label>",
    "<label><input type=radio name=r> At dusk</label>",
    "<input placeholder='you@example.org'>",
    "<input title='Search nights' type=search>",
    "<input aria-labelledby='l1 l2'><span id=l1>Full</span> <span id=l2>Moon</span>",
    "<input type=submit>",
    "<input type=submit value='Send booking'>",
    "<input type=reset>",
    "<input type=button value=Check>",
    "<input type=image alt=Go>",
    "<input type=range aria-label=Zoom>",
    "<input type=tel aria-label=Phone>",
    "<input list=dl aria-label=Guide><datalist id=dl><option>Ines</datalist>",
    "<label for=s1>Telescope</label><select id=s1><option>Any<option>Heron</select>",
    "<select multiple aria-label=Several><option>One</select>",
    "<label for=t1>Note</label><textarea id=t1></textarea>",
    "<fieldset><legend>Arrival</legend><input aria-label=x></fieldset>",
    "<h2>Open<br>nights</h2>",
    "<h3 aria-label=Loud>quiet</h3>",
    "<img alt='Sky dial' src=data:,>",
    "<img alt='' src=data:,>",
    "<table><caption>Nights</caption><tr><th>Night<th>Date<tr><td>Vega<td>12 Aug</table>",
    "<ul><li>A warm coat</ul>",
    "<nav aria-label=Main>x</nav>",
    "<section>plain</section>",
    "<section aria-label='Sky reports'>x</section>",
    "<form aria-label=Booking>x</form>",
    "<form>x</form>",
    "<aside>aside</aside>",
    "<article>Report</article>",
    "<main>m</main>",
    "<dialog open aria-label=Notice>x</dialog>",
    "<details><summary>More</summary>x</details>",
    "<progress value=3 max=10 aria-label=Loading></progress>",
    "<meter value=3 max=10 aria-label=Seeing></meter>",
    "<output>Nothing held</output>",
    "<hr>",
    "<p>A paragraph</p>",
    "<blockquote>Words</blockquote>",
    "<div role=switch aria-checked=true>Dome light</div>",
    "<div role='nothing tab'>Nights</div>",
    "<div role=button><span>Hold</span><span>it</span></div>",
    "<div role=button><div>Hold</div><div>it</div></div>",
    "<div role=checkbox aria-checked=false aria-labelledby=q1></div><b id=q1>Blankets</b>",
    "<div role=alert>Careful</div>",
    "<span role=img aria-label=Star>★</span>",
    "<a href=#><svg><title>Map</title></svg></a>",
    "<button aria-labelledby=nowhere>Kept</button>",
    "<button aria-label=' '>Blank label</button>",
    "<div role=link>Wind <input aria-label=x value=12> km/h</div>",
    "<label for=i9>One</label><label for=i9>Two</label><input id=i9>",
    "<dl><dt>Wind<dd>12</dl>",
    "<ul role=tablist><li role=tab><a href=#x role=presentation>Tonight</a></ul>",
    "<button disabled role=none>Resting</button><div role=none tabindex=0>Reached</div>",
    "<table role=grid><tr><td>Vega<td>12 Aug</table>",
    "<a href=#><span title='Turn west'></span></a>",
    "<button class=loud>Hold</button><button class=starred>Vega</button><a href=# class=unit>Wind 12</a>",
    "<button><b class=box>Sky</b><b>dial</b></button>",
    "<button><div class=run>Star</div><div class=run>map</div></button>",
    "<strong>s</strong><em>e</em><code>c</code><del>d</del><ins>i</ins><sub>2</sub><sup>3</sup><time>now</time><mark>m</mark>",
]


def computed(client: httpx.Client, kind: str, element: dict[str, str]) -> str:
    """W3C WebDriver's Get Computed Role or Get Computed Label, on the session that the BiDi connection belongs to."""
    return str(client.get(f"element/{element['sharedId']}/computed{kind}").json()["value"])


def compared(browser: Browser, page: Page, live: Any) -> tuple[int, list[tuple[str, ...]]]:
    """Elements that a person can perceive, and those whose role or name the browser has otherwise."""
    client = httpx.Client(base_url=started(browser).session_url + "/", trust_env=False)
    client.post("window", json={"handle": live.context})
    found = live._connection.send(
        "browsingContext.locateNodes",
        context=live.context,
        locator={"type": "css", "value": "*"},
        serializationOptions={"maxDomDepth": 0},
    )["nodes"]
    elements = page.index.in_tree[0].tolist()
    assert len(found) == len(elements)
    odd, count = [], 0
    for node, index in zip(found, elements, strict=True):
        element = page[index]
        if not page.semantics.exposed[index] or element.tag in ("html", "body", "br", "option", "canvas", "iframe"):
            continue
        count += 1
        role, name = computed(client, "role", node), computed(client, "label", node)
        ours, theirs = SAME.get(element.role, element.role), SAME.get(role, role)
        if element.tag == "tbody":
            continue  # Chromium has it as none, against the mapping and Firefox
        if ours != (theirs if theirs in KNOWN else ""):
            odd.append(("role", repr(element), ours, role))
        elif " ".join(name.split()) != element.name:
            odd.append(("name", repr(element), element.name, name))
    client.close()
    return count, odd


@pytest.mark.parametrize("name", NAMES)
def test_chromium_computes_the_same_on_the_demo(chromium: Browser, name: str) -> None:
    live = chromium.open((PAGES / f"{name}.html").as_uri())
    count, odd = compared(chromium, live.capture(), live)
    assert count > 40
    assert not odd


def test_chromium_computes_the_same_on_every_kind_of_element(chromium: Browser, tmp_path: object) -> None:
    from pathlib import Path

    file = Path(str(tmp_path)) / "parts.html"
    file.write_text(HTML.replace("{parts}", "\n".join(f"<div>{part}</div>" for part in PARTS)))
    live = chromium.open(file.as_uri())
    count, odd = compared(chromium, live.capture(), live)
    assert count > 150
    assert not odd


@pytest.mark.parametrize("name", ["nights@r1", "nights@r6"])
def test_firefox_finds_the_same_by_role_and_name(firefox: Browser, name: str) -> None:
    live = firefox.open((PAGES / f"{name}.html").as_uri())
    page = live.capture()
    wanted: Counter[tuple[str, str]] = Counter()
    for index in page.index.in_tree[0].tolist():
        element = page[index]
        if page.semantics.exposed[index] and element.role in ("button", "link", "textbox", "checkbox", "radio", "tab", "heading"):
            wanted[element.role, element.name] += 1
    assert len(wanted) > 20
    odd = []
    for (role, accessible), count in wanted.items():
        nodes = live._connection.send(
            "browsingContext.locateNodes",
            context=live.context,
            locator={"type": "accessibility", "value": {"role": role, "name": accessible}},
            serializationOptions={"maxDomDepth": 0},
        )["nodes"]
        if len(nodes) != count:
            odd.append((role, accessible, count, len(nodes)))
    assert not odd


def test_shadow_trees_name_their_elements_too() -> None:
    page = read("nights@r4")
    inside = [e for e in page if e.tree.kind == "shadow" and e.role in ("textbox", "checkbox", "button", "combobox")]
    names = json.dumps([e.name for e in inside])
    assert all(name in names for name in ("Visitor name", "Cocoa", "Send booking", "Telescope"))
    assert all(e.name for e in inside)
