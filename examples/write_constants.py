"""A suite's locators as constants of its own language: the fields and buttons of a form, as plain W3C strategy and value.

(For a whole page, with names for everything: wary-hound rank PAGE --all --as python.)
"""

import re

from wary_hound import Page, Question, Rules, convert, rank
from wary_hound.demo.tour import demo_folder

page = Page.read(demo_folder() / "pages" / "nights@r1.html")
suite = Question(releases=3, rules=Rules(only=("css", "xpath")), ways=1)  # what any tool takes

for role in ("textbox", "combobox", "checkbox", "button"):
    for element in page.find_all(f"css{{#night-form}} -> role{{{role}}}"):
        best = rank(element, suite)[0]
        (pair,) = convert(best.locator, "webdriver")
        name = re.sub(r"\W+", "_", element.name).upper()
        print(f"{name} = ({pair['using']!r}, {pair['value']!r})  # lasts {best.survival:.0%}{', weak' if best.weak else ''}")
