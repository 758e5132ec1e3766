"""Pages as data: parsing, trees, texts, roles, names, visibility, snapshots; and bad input."""

from __future__ import annotations

import errno
import json
import os
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from conftest import PAGES, read
from wary_hound import FactsError, FileError, Page, PageError
from wary_hound.page.events import build, events_of
from wary_hound.page.serialize import to_html
from wary_hound.page.snapshot import facts_path

SHADOW = """<!doctype html><body><sky-dial>light <b slot=side>side</b>
<template shadowrootmode="closed"><style>p{}</style><button><slot></slot></button><i><slot name=side></slot></i></template>
</sky-dial><iframe title=Weather srcdoc="<p>Wind <b>west</b></p>"></iframe><template><p>no element</p></template>"""


def test_trees_stand_in_page_order_and_know_their_hosts() -> None:
    page = Page.parse(SHADOW)
    assert [(t.kind, t.mode, page.tags[t.host] if t.host >= 0 else "") for t in page.trees] == [
        ("document", "", ""),
        ("shadow", "closed", "sky-dial"),
        ("frame", "", "iframe"),
    ]
    shadow = [e.tag for e in page if e.tree.kind == "shadow"]
    assert shadow == ["style", "button", "slot", "i", "slot"]
    host = page.find("css{sky-dial}")
    assert page[host.index + 1].tag == "style", "the tree comes before the host's children"
    assert [page[i].tag for i in page.hosts(page.find("frame css{iframe} -> css{b}").index)] == ["iframe"]
    assert "no element" not in " ".join(e.text for e in page)


def test_slotted_text_and_names_count_where_they_are_shown() -> None:
    page = Page.parse(SHADOW)
    button = page.find("shadow css{sky-dial} -> css{button}")
    assert (button.text, button.role, button.name) == ("light", "button", "light")
    assert page.find("shadow css{sky-dial} -> css{i}").text == "side"


@pytest.mark.parametrize(
    ("html", "role", "name"),
    [
        ("<input type=search list=x id=t>", "combobox", ""),
        ("<label>Party <b>size</b> <input id=t type=number></label>", "spinbutton", "Party size"),
        ("<span id=a>Full</span><span id=b hidden>Moon</span><button id=t aria-labelledby='a b'>x</button>", "button", "Full Moon"),
        ("<button id=t aria-label='Close notice'>x</button>", "button", "Close notice"),
        ("<a id=t>no link</a>", "", ""),
        ("<a id=t href=#><img alt='Star map'> of <span hidden>last</span> tonight</a>", "link", "Star map of tonight"),
        ("<img id=t alt=''>", "none", ""),
        ("<fieldset id=t><legend>Arrival</legend><input></fieldset>", "group", "Arrival"),
        ("<section id=t>x</section>", "", ""),
        ("<section id=t aria-label=Nights>x</section>", "region", "Nights"),
        ("<input id=t type=submit>", "button", "Submit"),
        ("<div id=t role='nothing switch' title=Dome></div>", "switch", "Dome"),
        ("<input id=t placeholder='you@example.org'>", "textbox", "you@example.org"),
        ("<table><tr><td>1</td><th scope=row id=t>Vega</th></tr></table>", "rowheader", "Vega"),
        ("<h2 id=t>Open<br>nights</h2>", "heading", "Open nights"),
        ("<article><header id=t>x</header></article>", "", ""),
        ("<header id=t>x</header>", "banner", ""),
    ],
)
def test_roles_and_names(html: str, role: str, name: str) -> None:
    element = Page.parse(f"<body>{html}").find("css{#t}")
    assert (element.role, element.name) == (role, name)


def test_circular_labels_end() -> None:
    page = Page.parse("<button id=a aria-labelledby='b'>A</button><button id=b aria-labelledby='a'>B</button>")
    assert [e.name for e in page.find_all("css{button}")] == ["B", "A"]


def test_text_is_what_a_person_sees() -> None:
    page = Page.parse(
        "<div id=d>Held  for\n<b>ten</b>minutes<span hidden>never</span><p>block</p>tail<br>end"
        "<script>x</script><details><summary>More</summary>closed</details></div>"
    )
    assert page.find("css{#d}").text == "Held for tenminutes block tail end More closed"
    assert page.find("css{b}").text == "ten"
    assert not page.find("css{span}").visible
    assert page.find("css{span}").text == ""


def test_a_snapshot_reads_back_as_it_was_written(tmp_path: Path) -> None:
    page = read("sky@r4")
    again = Page.read(page.write(tmp_path / "copy"))
    assert again.tags == page.tags
    assert [e.attributes for e in again] == [e.attributes for e in page]
    assert again.semantics.text == page.semantics.text
    assert [t.mode for t in again.trees] == ["", "open", "closed", ""]
    assert again.find("shadow css{sky-dial} -> css{button}#1").box == page.find("shadow css{sky-dial} -> css{button}#1").box
    assert (tmp_path / "copy.png").read_bytes() == (PAGES / "sky@r4.png").read_bytes()


def test_a_tree_that_markup_cannot_say_is_kept_in_the_facts(tmp_path: Path) -> None:
    page = read("nights@r1")
    events = list(events_of(page))
    form = next(k for k, event in enumerate(events) if event[:2] == ("e", "form"))
    inner = next(k for k in range(form, len(events)) if events[k][:2] == ("e", "fieldset"))
    events[inner] = ("e", "form", *events[inner][2:])  # nested forms do not survive parsing
    odd = build(events, page.url, page.facts, source=tmp_path / "odd.html")
    again = Page.read(odd.write(tmp_path / "odd"))
    assert again.tags == odd.tags
    assert again.tags.count("form") == 2
    assert again.semantics.text == odd.semantics.text
    assert Page.parse(to_html(odd)).tags != odd.tags


def test_facts_that_do_not_fit_the_markup_are_left_out_with_a_note(tmp_path: Path) -> None:
    target = read("nights@r1").write(tmp_path / "nights")
    target.write_text(target.read_text().replace("Vega", "Deneb"))
    page = Page.read(target)
    assert page.notes
    assert "other HTML" in page.notes[0]
    with pytest.raises(FactsError, match="capture it"):
        _ = page.find("text{Deneb}").box


@pytest.mark.parametrize(("content", "said"), [("{", "not JSON"), ('{"format": 99}', "format 99"), ('{"format": 1}', "broken")])
def test_broken_facts(tmp_path: Path, content: str, said: str) -> None:
    target = read("nights@r1").write(tmp_path / "nights")
    facts_path(target).write_text(content)
    with pytest.raises(FactsError, match=said):
        Page.read(target)


def test_unreadable_pages(tmp_path: Path) -> None:
    with pytest.raises(FileError, match="no such file"):
        Page.read(tmp_path / "none.html")
    for content, said in ((b"", "empty"), (b"  \n", "empty"), (b"\x89PNG\x00\x00", "no HTML")):
        (tmp_path / "bad.html").write_bytes(content)
        with pytest.raises(PageError, match=said):
            Page.read(tmp_path / "bad.html")
    with pytest.raises(FileError, match="cannot be read"):
        Page.read(tmp_path)


def test_a_full_disk_leaves_nothing_half_written(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    page = read("nights@r1")
    page.write(tmp_path / "nights")
    before = {p.name: p.read_bytes() for p in tmp_path.iterdir()}

    def full(handle: int) -> None:
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(os, "fsync", full)
    with pytest.raises(FileError, match="No space left on device"):
        read("nights@r6").write(tmp_path / "nights")
    assert {p.name: p.read_bytes() for p in tmp_path.iterdir()} == before


def test_deep_nesting_and_many_elements_are_no_trouble() -> None:
    deep = Page.parse("<div>" * 3000 + "x" + "</div>" * 3000)
    assert deep[-1].text == "x"
    assert len(deep.find_all("css{div div}")) > 100
    wide = Page.parse("<ul>" + "<li class=a>x</li>" * 20000 + "</ul>")
    assert len(wide.find_all("css{li:nth-child(odd)}")) == 10000


@settings(max_examples=150, deadline=None)
@given(st.text(alphabet="<>/=\"' abdivpx&;#![]-tmplers", max_size=300))
def test_no_text_breaks_parsing_or_the_round_trip(text: str) -> None:
    page = Page.parse("<p>" + text)
    written = to_html(page)
    again = Page.parse(written)
    if again.digest == page.digest:
        assert to_html(again) == written
    else:  # misnested markup may settle in a few steps, but what a facts file keeps of it is the page itself
        assert build(events_of(page)).digest == page.digest
    assert len(page.semantics.text) == len(page.semantics.roles) == len(page)
    for element in page:
        assert element.parent is None or element in element.parent.children


@pytest.mark.parametrize("comment", [">", "->", "a--b", "-", "--", "", "a", "<!", "--!>", "a-"])
def test_comments_end_where_they_should(comment: str) -> None:
    page = Page.parse("<p>x<!--c-->y</p><b></b>")
    page.text_values = tuple(comment if v == "c" else v for v in page.text_values)
    again = Page.parse(to_html(page))
    assert again.tags == page.tags
    assert again.find("css{p}").text == "xy"


def test_truncated_pages_still_parse() -> None:
    html = (PAGES / "nights@r4.html").read_text()
    for cut in range(100, len(html), 700):
        page = Page.parse(html[:cut])
        assert page.tags[0] == "html"
        assert all(page.end > range(len(page)))


def test_facts_of_the_demo_are_whole() -> None:
    for path in sorted(PAGES.glob("*.html")):
        page = Page.read(path)
        assert not page.notes
        assert page.facts is not None
        assert len(page.facts.boxes) == len(page)
        assert json.loads(facts_path(path).read_text())["url"].startswith("https://nights.marram-ridge.example/")


SLOTS = """<sky-card title=Card><h3 slot=head>Vega</h3>loose <b>bold</b><i slot=nowhere>lost</i><template shadowrootmode="open">
<header id=h><slot name=head>No title</slot></header><p id=d><slot></slot></p><p id=e><slot name=foot>Nothing yet</slot></p>
<button id=w aria-hidden=true><slot name=head></slot></button></template></sky-card>
<sky-card hidden><template shadowrootmode="open"><p id=x>never</p></template></sky-card>"""


@pytest.mark.parametrize(
    ("locator", "text"),
    [
        ("css{#h}", "Vega"),
        ("css{#d}", "loose bold"),
        ("css{#e}", "Nothing yet"),
        ("css{slot[name=head]}#1", "Vega"),
        ("css{slot[name=foot]}", "Nothing yet"),
    ],
)
def test_slots_show_what_is_assigned_or_their_own(locator: str, text: str) -> None:
    page = Page.parse(SLOTS)
    assert page.find(f"shadow css{{sky-card[title]}} -> {locator}").text == text


def test_what_a_host_hides_is_hidden_in_its_tree() -> None:
    page = Page.parse(SLOTS)
    inside = page.find("shadow css{sky-card[hidden]} -> css{#x}")
    assert (inside.visible, inside.text) == (False, "")
    button = page.find("shadow css{sky-card[title]} -> css{#w}").index
    assert page.semantics.rendered[button]
    assert not page.semantics.exposed[button]
    assert page.find("css{sky-card[title]}").text == "Vega loose bold"  # what no slot shows is not shown


def test_the_first_shadow_root_counts() -> None:
    html = "<a-b><template shadowrootmode=open><i>1</i></template><template shadowrootmode=open><i>2</i></template></a-b>"
    page = Page.parse(html)
    assert len(page.trees) == 2
    assert page.find("shadow css{a-b} -> css{i}").text == "1"
    assert page.find("css{a-b > template}").text == ""


def test_what_a_page_says_of_itself() -> None:
    page = read("nights@r1")
    assert page.title == "Telescope nights · Marram Ridge Observatory"
    assert page.url.endswith("/nights?release=r1")
    assert "195 elements in 2 trees" in repr(page)
    assert page.picture is not None
    assert Page.parse("<p>x").title == ""
    assert Page.parse("<p>x", url="https://nights.marram-ridge.example/").url.startswith("https://")
