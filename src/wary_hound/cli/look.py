"""look: what is on a page; what is known of one element."""

from __future__ import annotations

from collections import Counter
from pathlib import Path
from typing import Any

import click
from rich.text import Text

from wary_hound.authoring.batch import usable
from wary_hound.cli.common import FILE, PAGE, browser_option, element_json, json_option, print_json, read_page
from wary_hound.locator.explain import tree_name
from wary_hound.locator.finding import find
from wary_hound.page import Element, Page
from wary_hound.report.terminal import bold, console, shorten, table

MOST_ROWS = 60
ACTED_ON = frozenset(
    """button link textbox checkbox radio combobox listbox menuitem tab switch slider spinbutton searchbox heading
    status alert dialog image""".split()
)


@click.command()
@click.argument("page", type=PAGE)
@click.option("--at", "at", metavar="LOCATOR", help="Show the one element that a locator finds.")
@click.option("--pick", is_flag=True, help="Open a window and point at elements there; a click takes one, Escape ends.")
@click.option("--book", type=FILE, help="With --pick: write what is taken into this book, a new one or one that is there.")
@browser_option
@click.option("--all", "everything", is_flag=True, help="All elements, also those without a role or a form's field.")
@json_option
def command(page: str | Path, at: str | None, pick: bool, book: Path | None, browser: str, everything: bool, as_json: bool) -> None:
    """What is on a page (a snapshot, or a live address); with --at, what is known of one element; with --pick, point at it.

    \b
    Example, on the demo's snapshots (wary-hound demo writes them to demo-out/):
      wary-hound look demo-out/pages/nights@r4.html --at 'text{Vega}'
    """
    if book is not None and not pick:
        raise click.UsageError("--book says where to write what --pick takes: give both")
    if pick:
        from wary_hound.cli.picking import pick_on

        pick_on(page, browser, book, as_json)
        return
    found = read_page(page, browser)
    if at is not None:
        _one(find(found, at), as_json)
    else:
        _page(found, everything, as_json)


def interesting(page: Page) -> list[Element]:
    """What a tester would act on or check: what can be used, roles that are acted on or read, and form fields of any kind."""
    roles, tags, exposed = page.semantics.roles, page.tags, page.semantics.exposed
    fields = ("input", "select", "textarea", "output", "canvas", "iframe", "summary")
    used = {element.index for element in usable(page)}
    return [page[i] for i in range(len(page)) if i in used or (exposed[i] and (roles[i] in ACTED_ON or tags[i] in fields))]


def _page(page: Page, everything: bool, as_json: bool) -> None:
    chosen = list(page) if everything else interesting(page)
    if as_json:
        trees = [{"kind": t.kind, "mode": t.mode, "host": t.host, "url": t.url} for t in page.trees]
        listed = [element_json(e) for e in chosen]
        print_json({"url": page.url, "title": page.title, "elements": len(page), "trees": trees, "listed": listed})
        return
    out = console()
    kinds = Counter(f"{t.mode} shadow tree".strip() if t.kind == "shadow" else t.kind for t in page.trees)
    parts = ", ".join(f"{count} {kind}{'s' if count > 1 else ''}" for kind, count in kinds.items())
    out.print(Text.assemble(bold(page.title or page.url or "a page"), f"\n{len(page)} elements; {parts}"))
    shown = chosen if everything else chosen[:MOST_ROWS]
    for tree in page.trees:
        rows = [
            (
                str(e.index),
                e.role or "–",
                shorten(e.name or e.text, 34) or "–",
                f"<{e.tag}>",
                shorten(unique_facts(e), 40) or "–",
            )
            for e in shown
            if e.tree.number == tree.number
        ]
        if rows:
            out.print(f"\n{tree_name(page, tree.number)}")
            out.print(table([("no.", "right"), "role", "name or text", "tag", ("unique by", "cut")], rows))
    if len(shown) < len(chosen):
        out.print(f"\n{len(chosen) - len(shown)} more; --all shows every element, --json lists them")


def unique_facts(element: Element) -> str:
    """Which of its attributes no other element of its tree has with that value."""
    page = element.page
    unique = [name for name, value in element.attributes.items() if value and sharing(element, name, value) == 1]
    if element.text and sum(page.semantics.text[i] == element.text for i in page.index.in_tree[element.tree.number]) == 1:
        unique.append("text")
    return ", ".join(unique)


def sharing(element: Element, name: str, value: str) -> int:
    """How many elements of its tree have an attribute with the same value, itself included."""
    page = element.page
    return sum(int(page.tree[i]) == element.tree.number for i in page.index.valued(name, value).tolist())


def _one(element: Element, as_json: bool) -> None:
    page = element.page
    shares = {name: sharing(element, name, value) for name, value in element.attributes.items()}
    above = [tree_name(page, n) for n in _trees_above(element)]
    state = page.facts.form.get(element.index, {}) if page.facts else {}
    if as_json:
        data: dict[str, Any] = element_json(element)
        print_json({**data, "label": element.label, "shared_by": shares, "inside": above, "state": state})
        return
    out = console()
    out.print(Text.assemble(bold(f"<{element.tag}>"), f"  element {element.index} of {len(page)}, in {above[-1]}"))
    facts = [
        ("role", element.role or "none"),
        ("name", element.name or "none"),
        ("label", element.label),
        ("text", shorten(element.text, 200)),
        ("shown", "yes" if element.visible else "no"),
        ("state", ", ".join(f"{k}: {v}" for k, v in state.items())),
    ]
    if page.facts is not None and page.facts.has_boxes and element.visible:
        left, top, width, height = element.box
        facts.append(("box", f"{width:.0f} x {height:.0f} px at {left:.0f}, {top:.0f}"))
    if len(above) > 1:
        facts.append(("trees above", " › ".join(above)))
    facts.append(("ancestors", " › ".join(page.tags[a] for a in reversed(page.ancestors(element.index))) or "none"))
    out.print(table(["", ("", "wide")], [(k, v) for k, v in facts if v]), highlight=False)
    rows = [
        (name, shorten(value, 60), "unique" if shares[name] == 1 else f"shared by {shares[name]}")
        for name, value in element.attributes.items()
    ]
    if rows:
        out.print()
        out.print(table(["attribute", ("value", "cut"), "in its tree"], rows))


def _trees_above(element: Element) -> list[int]:
    page = element.page
    return [int(page.tree[host]) for host in page.hosts(element.index)] + [element.tree.number]
