"""Times evaluation and building of pages as ratios against lxml, cssselect and the browser, in one run.

usage: evaluation.py [--browser]

Ours is timed with everything that a page remembers of earlier answers thrown away before each call; only its indexes stay, as
lxml's tree does. Medians of many rounds; a ratio above 1 means that ours is faster.
"""

from __future__ import annotations

import statistics
import sys
import time
import tracemalloc
from collections.abc import Callable
from pathlib import Path
from tempfile import TemporaryDirectory

from lxml import etree, html
from lxml.cssselect import CSSSelector

from wary_hound.locator import css, xpath
from wary_hound.locator.cache import Matches
from wary_hound.page import Page

CSS = [
    "#row-400", ".hold", "button.hold", "[data-night='night-77']", "tr.night > td.places", "table#nights tr.odd td:first-child a",
    "td:nth-child(3)", "a[href^='#night-5']", "tr:not(.odd) button", "tr.odd + tr button.hold", "li ~ li", "div span",
]  # fmt: skip
XPATH = [
    '//*[@id="row-400"]', '//button[@class="hold"]', '//tr[@data-night="night-77"]/td[2]', "//td[3]",
    "/html/body/main/table/tbody/tr[9]/td[4]",
    '//tr[td/a="Night 300"]//button', '//a[starts-with(@href, "#night-5")]', '//button[normalize-space()="Hold 12"]',
    '//tr[contains(@class, "odd")]/td[last()]', "//td/following-sibling::td[1]", "count(//td)", "(//button)[250]",
]  # fmt: skip


def season(rows: int) -> str:
    """A table of nights with seven elements a row."""
    parts = [
        f'<tr id="row-{n}" class="night {"odd" if n % 2 else "even"}" data-night="night-{n}"><td class="name">'
        f'<a href="#night-{n}">Night {n}</a></td><td>Aug {n % 31}</td><td>Dune</td><td class="places">{n % 24}</td>'
        f'<td><button class="hold" value="{n}">Hold {n}</button></td></tr>'
        for n in range(rows)
    ]
    return (
        "<!doctype html><html><head><title>Season</title></head><body><main><h1>Season</h1><ul><li>a</li><li>b</li></ul>"
        f'<div><span>s</span></div><table id="nights"><tbody>{"".join(parts)}</tbody></table></main></body></html>'
    )


def median(call: Callable[[], object], rounds: int, before: Callable[[], object] = lambda: None) -> float:
    taken = []
    for _ in range(rounds):
        before()
        start = time.perf_counter()
        call()
        taken.append(time.perf_counter() - start)
    return statistics.median(taken)


def compare(page: Page, text: str) -> None:
    root = html.fromstring(text).getroottree()
    page.index.valued("id", "")
    page.caches.clear()

    def forget() -> None:
        page.caches.pop(Matches, None)

    ratios: list[float] = []
    print(f"{'CSS against lxml with cssselect':58} {'ours':>9} {'theirs':>9} {'ratio':>7}")
    for selector in CSS:
        parsed, theirs = css.parse(selector), CSSSelector(selector, translator="html")
        assert len(css.match(page, parsed, 0)) == len(theirs(root))
        ours = median(lambda p=parsed: css.match(page, p, 0), 60, forget)  # type: ignore[misc]
        other = median(lambda t=theirs: t(root), 15)  # type: ignore[misc]
        ratios.append(other / ours)
        print(f"  {selector:56} {ours * 1e6:7.0f}us {other * 1e6:7.0f}us {other / ours:7.1f}")
    print(f"  median of the ratios {statistics.median(ratios):.1f}, least {min(ratios):.1f}\n")
    ratios = []
    print(f"{'XPath against lxml, compiled':58} {'ours':>9} {'theirs':>9} {'ratio':>7}")
    for expression in XPATH:
        if expression.startswith("count"):
            continue
        parsed_path, compiled = xpath.parse(expression), etree.XPath(expression)
        assert len(xpath.match(page, parsed_path, 0)) == len(compiled(root)), expression
        ours = median(lambda p=parsed_path: xpath.match(page, p, 0), 30, forget)  # type: ignore[misc]
        other = median(lambda t=compiled: t(root), 15)  # type: ignore[misc]
        ratios.append(other / ours)
        print(f"  {expression:56} {ours * 1e6:7.0f}us {other * 1e6:7.0f}us {other / ours:7.1f}")
    print(f"  median of the ratios {statistics.median(ratios):.1f}, least {min(ratios):.1f}\n")


def building(text: str) -> None:
    def theirs() -> object:
        return [dict(node.attrib) for node in html.document_fromstring(text).iter(etree.Element)]

    ours, other = median(lambda: Page.parse(text), 9), median(theirs, 9)
    print(f"Building a page: {ours * 1e3:.0f} ms; lxml with every attribute read: {other * 1e3:.0f} ms; {ours / other:.1f} times")


def growth() -> None:
    print(f"\n{'elements':>9} {'build':>9} {'index':>9} {'css':>9} {'xpath':>9} {'bytes an element':>17}")
    for rows in (143, 800, 7143):
        text = season(rows)
        build = median(lambda t=text: Page.parse(t), 5)  # type: ignore[misc]
        tracemalloc.start()
        page = Page.parse(text)
        size = tracemalloc.get_traced_memory()[0] / len(page)
        tracemalloc.stop()
        start = time.perf_counter()
        _ = page.index.by_class, page.index.by_tag, page.index.valued("id", ""), page.index.place
        index = time.perf_counter() - start
        selector, path = css.parse("tr.night > td.places"), xpath.parse('//tr[@data-night="night-77"]/td[2]')
        by_css = median(lambda p=page, s=selector: css.match(p, s, 0), 20, page.caches.clear)  # type: ignore[misc]
        xpath.match(page, path, 0)
        by_xpath = median(lambda p=page, s=path: xpath.match(p, s, 0), 20)  # type: ignore[misc]
        print(
            f"{len(page):9,} {build * 1e3:7.0f}ms {index * 1e3:7.0f}ms {by_css * 1e6:7.0f}us {by_xpath * 1e6:7.0f}us {size:17.0f}"
        )


def browser(page: Page, text: str) -> None:
    from wary_hound.browser import Browser

    script = """(css, xpath) => JSON.stringify([JSON.parse(css), JSON.parse(xpath)].map((list, kind) => list.map((expression) => {
      const once = () => kind ? document.evaluate(expression, document, null, 0, null)
                              : document.querySelectorAll(expression).length;
      const start = performance.now();
      for (let k = 0; k < 20; k++) once();
      return (performance.now() - start) / 20 * 1000;
    })))"""
    import json

    with TemporaryDirectory() as folder, Browser.start("chromium") as running:
        file = Path(folder) / "season.html"
        file.write_text(text)
        live = running.open(file.as_uri())
        by_css, by_xpath = json.loads(live.script(script, json.dumps(CSS), json.dumps(XPATH)))
        start = time.perf_counter()
        captured = live.capture()
        taken = time.perf_counter() - start
    print("\nChromium's own engine, for orientation, medians in the page:", end=" ")
    print(f"CSS {statistics.median(by_css):.0f} us, XPath {statistics.median(by_xpath):.0f} us")
    print(f"Capture of {len(captured):,} elements with boxes: {taken * 1e3:.0f} ms")


def main() -> None:
    text = season(800)
    page = Page.parse(text)
    print(f"A page of {len(page):,} elements\n")
    compare(page, text)
    building(text)
    growth()
    if "--browser" in sys.argv:
        browser(page, text)


if __name__ == "__main__":
    main()
