"""A locator that still matches, but no longer the right cell: where is the element now, and what should be written?"""

from wary_hound import Page, explain, repair
from wary_hound.demo.tour import demo_folder

pages = demo_folder() / "pages"
before, after = Page.read(pages / "nights@r2.html"), Page.read(pages / "nights@r3.html")
locator = 'xpath{//tr[td="Saturn"]/td[4]}'

was, now = before.find(locator).text, after.find(locator).text
found = repair(locator, before, after)
print(f"{locator} found {was!r} before and finds {now!r} after: it has {found.state}.")
print(f"The element {found.verdict.outcome}, {found.verdict.confidence:.0%} sure: {'; '.join(found.verdict.reasons)}.")
print(f"Write {found.main} instead.\n")

print(explain(after, "css{#visitor-name}"))
