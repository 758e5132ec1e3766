"""ARIA roles: the `role` attribute, else the tag's own role by the HTML Accessibility API Mappings (HTML-AAM 1.0)."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from wary_hound.page.arena import Page

KNOWN = frozenset(
    """alert alertdialog application article banner blockquote button caption cell checkbox code columnheader combobox
    comment complementary contentinfo definition deletion dialog directory document emphasis feed figure form generic grid
    gridcell group heading image img insertion link list listbox listitem log main mark marquee math menu menubar menuitem
    menuitemcheckbox menuitemradio meter navigation none note option paragraph presentation progressbar radio radiogroup
    region row rowgroup rowheader scrollbar search searchbox sectionfooter sectionheader separator slider spinbutton status
    strong subscript suggestion superscript switch tab table tablist tabpanel term textbox time timer toolbar tooltip tree
    treegrid treeitem graphics-document graphics-object graphics-symbol""".split()
)
BY_TAG = {
    "article": "article", "aside": "complementary", "blockquote": "blockquote", "button": "button", "caption": "caption",
    "code": "code", "datalist": "listbox", "dd": "definition", "del": "deletion", "details": "group", "dfn": "term",
    "dialog": "dialog", "dt": "term", "em": "emphasis", "fieldset": "group", "figure": "figure", "form": "form", "h1": "heading",
    "h2": "heading", "h3": "heading", "h4": "heading", "h5": "heading", "h6": "heading", "hr": "separator",
    "html": "document", "ins": "insertion", "li": "listitem", "main": "main", "mark": "mark", "math": "math",
    "menu": "list", "meter": "meter", "nav": "navigation", "ol": "list", "optgroup": "group", "option": "option",
    "output": "status", "p": "paragraph", "progress": "progressbar", "search": "search", "strong": "strong",
    "sub": "subscript", "sup": "superscript", "svg": "graphics-document", "table": "table", "tbody": "rowgroup",
    "textarea": "textbox", "tfoot": "rowgroup", "thead": "rowgroup", "time": "time", "tr": "row", "ul": "list",
}  # fmt: skip
BY_INPUT = {
    "button": "button", "checkbox": "checkbox", "email": "textbox", "image": "button", "number": "spinbutton",
    "radio": "radio", "range": "slider", "reset": "button", "search": "searchbox", "submit": "button", "tel": "textbox",
    "text": "textbox", "url": "textbox",
}  # fmt: skip
_NO_ROLE_INPUT = frozenset({"hidden", "color", "date", "datetime-local", "file", "month", "password", "time", "week"})
TEXT_INPUT = frozenset({"text", "search", "email", "tel", "url"})
_SECTIONING = frozenset({"article", "aside", "main", "nav", "section"})
_SECTIONING_ROLES = frozenset({"article", "complementary", "main", "navigation", "region"})
ALIASES = {"presentation": "none", "img": "image", "directory": "list"}
"""Other names of roles, by what they are called here."""
NAME_FROM_CONTENT = frozenset(
    """button cell checkbox columnheader gridcell heading link menuitem menuitemcheckbox menuitemradio option radio row
    rowheader switch tab tooltip treeitem""".split()
)


def all_roles(page: Page) -> list[str]:
    """The role of every element, in page order; empty where it has none of its own (`div`, `span`, ...)."""
    explicit = page.index.attribute_column("role")
    roles = []
    for index, tag in enumerate(page.tags):
        given = explicit.get(index)
        role = _explicit(given) if given else ""
        if role == "none" and _keeps_its_role(page, index, tag):
            role = ""
        roles.append(role or _native(page, index, tag))
    return roles


def _keeps_its_role(page: Page, index: int, tag: str) -> bool:
    """Presentational roles do not take what can have the focus, or has a name, out of sight (WAI-ARIA 1.2, section 4.6)."""
    if any(page.attribute(index, name) for name in ("aria-label", "aria-labelledby", "aria-describedby")):
        return True
    if page.attribute(index, "disabled") is not None:
        return False
    if page.attribute(index, "tabindex") is not None or tag in ("button", "select", "textarea"):
        return True
    return (tag == "a" and page.attribute(index, "href") is not None) or (
        tag == "input" and page.attribute(index, "type") != "hidden"
    )


def _explicit(value: str) -> str:
    for token in value.lower().split():
        if token in KNOWN:
            return ALIASES.get(token, token)
    return ""


def _native(page: Page, index: int, tag: str) -> str:
    role = BY_TAG.get(tag)
    if role is not None:
        return role
    rule = _RULES.get(tag)
    return rule(page, index) if rule else ""


def _input(page: Page, index: int) -> str:
    kind = (page.attribute(index, "type") or "text").strip().lower()
    if kind in TEXT_INPUT and page.attribute(index, "list") is not None:
        return "combobox"
    if kind in _NO_ROLE_INPUT:
        return ""
    return BY_INPUT.get(kind, "textbox")


def _link(page: Page, index: int) -> str:
    return "link" if page.attribute(index, "href") is not None else ""


def _select(page: Page, index: int) -> str:
    size = page.attribute(index, "size") or ""
    many = page.attribute(index, "multiple") is not None or (size.isdigit() and int(size) > 1)
    return "listbox" if many else "combobox"


def _image(page: Page, index: int) -> str:
    named = page.attribute(index, "aria-label") or page.attribute(index, "title")
    return "none" if page.attribute(index, "alt") == "" and not named else "image"


def _section(page: Page, index: int) -> str:
    return "region" if _named(page, index) else ""


def _named(page: Page, index: int) -> bool:
    return any(page.attribute(index, name) for name in ("aria-label", "aria-labelledby", "title"))


def _landmark(role: str) -> Callable[[Page, int], str]:
    def rule(page: Page, index: int) -> str:
        explicit = page.index.attribute_column("role")
        for above in page.ancestors(index):
            if page.tags[above] in _SECTIONING or explicit.get(above) in _SECTIONING_ROLES:
                return ""
        return role

    return rule


def _table_part(page: Page, index: int) -> str:
    """Cells are grid cells where the table is a grid."""
    explicit = page.index.attribute_column("role")
    table = next((a for a in page.ancestors(index) if page.tags[a] == "table"), None)
    if table is None:
        return ""
    grid = explicit.get(table, "") in ("grid", "treegrid")
    if page.tags[index] == "td":
        return "gridcell" if grid else "cell"
    scope = (page.attribute(index, "scope") or "").lower()
    if scope in ("row", "rowgroup"):
        return "rowheader"
    if scope in ("col", "colgroup"):
        return "columnheader"
    above = int(page.parent[index])
    row = page.children(above)
    if any(page.tags[c] == "td" for c in row):
        return "rowheader"
    return "columnheader"


_RULES: dict[str, Callable[[Page, int], str]] = {
    "a": _link, "area": _link, "input": _input, "select": _select, "img": _image, "section": _section,
    "header": _landmark("banner"), "footer": _landmark("contentinfo"), "td": _table_part, "th": _table_part,
}  # fmt: skip
