"""Which locator for the Vega button will last? Candidates with what becomes of them over three releases."""

from wary_hound import Page, Question, portfolio, rank
from wary_hound.demo.tour import demo_folder

page = Page.read(demo_folder() / "pages" / "nights@r1.html")
button = page.find('role{button "Hold this night"} @row-of text{Vega}')

for candidate in rank(button, Question(releases=3))[:5]:
    low, high = candidate.interval
    print(f"{candidate.survival:.0%} ({low:.0%} to {high:.0%})  {candidate.locator}")
    print(f"     {'; '.join(candidate.reasons)}")

members = portfolio(button, size=3)
print(f"\nTogether {members.survival:.0%}: {members.main} or {' or '.join(map(str, members.fallbacks))}")
