"""A page as data: parse, trees, indexes, roles and names, visibility, boxes, snapshot files."""

from wary_hound.page.arena import Element, Page, Tree
from wary_hound.page.facts import Facts

__all__ = ["Element", "Facts", "Page", "Tree"]
