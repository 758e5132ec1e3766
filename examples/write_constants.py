"""A suite's locators as constants of its language, written from a snapshot: plain W3C strategy and value."""

from wary_hound import Page, Question, Rules
from wary_hound.authoring.batch import best_of_all, usable
from wary_hound.demo.tour import demo_folder
from wary_hound.journey.naming import names_for
from wary_hound.report.constants import constants

page = Page.read(demo_folder() / "pages" / "nights@r3.html")
elements = usable(page)
found = best_of_all(elements, Question(rules=Rules(only=("css", "xpath"))))
named = [
    (name, best.locator, "weak" if best.weak else "")
    for name, best in zip(names_for(elements), found, strict=True)
    if best is not None
]
print(constants(named, "typescript", page.title), end="")
