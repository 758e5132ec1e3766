"""Other engines as judges: lxml and cssselect, and the real browsers, tree by tree."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest
from lxml import etree
from lxml.cssselect import CSSSelector

from conftest import PAGES, read
from judging import CSS, CSS_3, XPATH, compiled, generated
from wary_hound import Browser, LocatorError, Page
from wary_hound.locator import css, xpath

NAMES = ["nights@r1", "held@r3", "sky@r4", "nights@r6"]


def lxml_tree(page: Page) -> tuple[Any, dict[Any, int]]:
    """The page's top document as an lxml tree of the very same elements and texts, and the way back."""
    nodes: dict[int, Any] = {}
    for i in page.index.in_tree[0].tolist():
        parent = int(page.parent[i])
        nodes[i] = etree.Element(page.tags[i]) if parent < 0 else etree.SubElement(nodes[parent], page.tags[i])
        for name, value in page.attributes_of(i).items():
            nodes[i].set(name, value)
    for number, parent in enumerate(page.text_parent.tolist()):
        if parent not in nodes:
            continue
        before = [c for c in page.children(parent) if c < page.text_next[number]]
        value = page.text_values[number]
        if before:
            nodes[before[-1]].tail = (nodes[before[-1]].tail or "") + value
        else:
            nodes[parent].text = (nodes[parent].text or "") + value
    return nodes[0].getroottree(), {node: i for i, node in nodes.items()}


def owner(node: Any) -> Any:
    """The element that an lxml result belongs to; a text behind an element belongs to that element's parent."""
    if not isinstance(node, str):
        return node
    parent = node.getparent()
    return parent.getparent() if node.is_tail else parent


@pytest.mark.parametrize("name", NAMES)
def test_lxml_and_cssselect_agree(name: str) -> None:
    page = read(name)
    root, back = lxml_tree(page)
    cases = [("css", s) for s in CSS_3] + [
        ("xpath", e) for e in XPATH if not any(x in e for x in ("DIV", "lang", "comment", "id("))
    ]
    cases += list(generated(page, 0, seed=7, count=400))
    disagreements = []
    for strategy, expression in cases:
        if strategy == "css":
            ours = css.match(page, css.parse(expression), 0).tolist()
            theirs = sorted(back[node] for node in CSSSelector(expression, translator="html")(root))
        else:
            ours = xpath.match(page, xpath.parse(expression), 0)
            found = root.xpath(expression)
            theirs = sorted({back[owner(node)] for node in found})
        if ours != theirs:
            disagreements.append((strategy, expression, ours[:5], theirs[:5]))
    assert not disagreements


JUDGE = """(trees, cases) => {
  const opened = (path) => path.reduce((root, [index, kind]) => {
    const host = [...root.querySelectorAll("*")][index];
    return kind === "frame" ? host.contentDocument : host.shadowRoot;
  }, document);
  const answers = [];
  for (const [number, list] of Object.entries(JSON.parse(cases))) {
    const root = opened(JSON.parse(trees)[number]);
    const all = new Map([...root.querySelectorAll("*")].map((element, n) => [element, n]));
    for (const [strategy, expression] of list) {
      try {
        let found;
        if (strategy === "css") found = [...root.querySelectorAll(expression)];
        else {
          const result = root.evaluate(expression, root, null, 7, null);
          found = [];
          for (let i = 0; i < result.snapshotLength; i++) {
            const node = result.snapshotItem(i);
            found.push(node.nodeType === 2 ? node.ownerElement : node.nodeType === 1 ? node : node.parentElement);
          }
        }
        answers.push([...new Set(found.map((element) => all.get(element)))].filter((n) => n !== undefined).sort((a, b) => a - b));
      } catch (error) { answers.push(String(error)); }
    }
  }
  return JSON.stringify(answers);
}"""


def route(page: Page, tree: int) -> list[tuple[int, str]]:
    """How to reach a tree in the browser: the number of each host within its own tree."""
    found: list[tuple[int, str]] = []
    while page.trees[tree].host >= 0:
        here = page.trees[tree]
        found.insert(0, (page.index.in_tree[here.parent].tolist().index(here.host), here.kind))
        tree = here.parent
    return found


# Where the browsers disagree with each other. Chromium lets buttons be :optional, against the standard; Firefox gives
# the names of elements in capitals, and does not let a shadow tree inherit its host's language, nor lets
# inputs that can't be required be :optional.
KNOWN = {"chromium": {":optional"}, "firefox": {'//*[starts-with(name(),"h")]', ":lang(en)", ":optional"}}


def judge(browser: Browser, kind: str, file: Path, count: int) -> tuple[int, list[Any], int]:
    """The number of cases, those where a browser finds other elements than we do, and those where it is known to."""
    live = browser.open(file.resolve().as_uri())
    page = live.capture()
    open_trees = [t.number for t in page.trees if t.mode != "closed" and len(page.index.in_tree[t.number])]
    cases = {}
    for t in open_trees:
        cases[t] = [("css", s) for s in CSS] + [("xpath", e) for e in XPATH] + list(generated(page, t, seed=t + 11, count=count))
        if t == 0:
            cases[t] += [("xpath", expression) for _, expression in compiled(page)]
        if page.trees[t].kind == "shadow":  # document.evaluate takes no shadow root
            cases[t] = [case for case in cases[t] if case[0] == "css"]
    routes = {t: route(page, t) for t in open_trees}
    answers = json.loads(live.script(JUDGE, json.dumps(routes), json.dumps(cases)))
    odd, known = [], 0
    flat = [(t, strategy, expression) for t in open_trees for strategy, expression in cases[t]]
    for (tree, strategy, expression), theirs in zip(flat, answers, strict=True):
        elements = page.index.in_tree[tree].tolist()
        place = {index: n for n, index in enumerate(elements)}
        try:
            if strategy == "css":
                found = css.match(page, css.parse(expression), tree).tolist()
            else:
                found = xpath.match(page, xpath.parse(expression), tree)
            ours: object = [place[i] for i in found]
        except LocatorError as error:
            ours = str(error)
        both_refuse = isinstance(ours, str) and isinstance(theirs, str)
        if ours == theirs or both_refuse:
            continue
        if expression in KNOWN[kind]:
            known += 1
        else:
            odd.append((tree, strategy, expression, ours, theirs))
    return len(flat), odd, known


@pytest.mark.parametrize("name", NAMES)
def test_chromium_agrees(chromium: Browser, name: str) -> None:
    count, odd, _ = judge(chromium, "chromium", PAGES / f"{name}.html", 300)
    assert count > 300
    assert not odd


@pytest.mark.parametrize("name", NAMES[:3])
def test_firefox_agrees(firefox: Browser, name: str) -> None:
    count, odd, _ = judge(firefox, "firefox", PAGES / f"{name}.html", 300)
    assert count > 300
    assert not odd
