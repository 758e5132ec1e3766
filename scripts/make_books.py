"""Writes the demo's books, as a team might have written them on r1: some locators are good, some are what people copy."""

from __future__ import annotations

from pathlib import Path

from wary_hound import Page
from wary_hound.journey.book import Book, Entry, remember

DEMO = Path(__file__).parent.parent / "src" / "wary_hound" / "demo"
NIGHTS: dict[str, tuple[str, str, tuple[str, ...]]] = {
    "notice-close": ("css{.notice-close}", "closes the notice that comes up now and then", ()),
    "tab-sky": ('role{tab "Sky tonight"}', "the second tab", ()),
    "print-link": ("text{Print the list}", "the link above the table", ()),
    "hold-vega": (
        'role{button "Hold this night"} @row-of text{Vega}',
        "holds the night of Vega",
        ('css{button[value="vega"]}',),
    ),
    "hold-moon": ('xpath{//table[@id="nights"]/tbody/tr[5]/td[5]/button}', "holds the night of the full moon", ()),
    "places-saturn": ('xpath{//tr[td="Saturn"]/td[4]}', "how many places are left for Saturn", ()),
    "visitor-name": ("css{#visitor-name}", "whose name goes on the door list", ("label{Visitor name}",)),
    "visitor-email": ('css{#night-form input[name="email"]}', "where the confirmation goes", ()),
    "party-size": ("label{Party size}", "how many people come", ()),
    "telescope": ("css{#telescope}", "drop-down of telescopes", ()),
    "extra-cocoa": ('css{input[value="cocoa"]}', "the box for cocoa", ()),
    "extra-letter": ("label{Send me the newsletter}", "the box for the newsletter", ()),
    "send-booking": ("css{form.booking > div.form-actions > button.button:first-child}", "sends the booking", ()),
    "cancel-booking": ("css{#cancel-booking}", "gives up the night, after a question", ()),
    "booking-status": ("css{#booking-status}", "what the form says", ()),
    "reports-more": ('role{button "Show older reports"}', "loads more sky reports", ()),
    "thank-sunday": ("css{.report-list li:nth-child(2) button}", "thanks Sunday's watcher", ()),
}
SKY: dict[str, tuple[str, str, tuple[str, ...]]] = {
    "menu-keys": ("text{Dome keys}", "second entry of the members' menu", ()),
    "star-map": ("css{#star-map}", "the map on its canvas", ()),
    "dial-reading": ("css{#sky-dial .dial-reading}", "where the dial points", ()),
    "dial-zoom": ("css{#sky-dial button}#3", "brings the sky closer", ()),
    "weather-wind": ('frame css{iframe[title="Weather"]} -> xpath{/html/body/dl/div[1]/dd}', "wind, in the frame", ()),
    "weather-refresh": ('frame css{iframe} -> role{button "Refresh"}', "fetches the weather again", ()),
}


def write(name: str, title: str, state: str, entries: dict[str, tuple[str, str, tuple[str, ...]]]) -> None:
    page = Page.read(DEMO / "pages" / f"{state}@r1.html")
    book = Book(
        book=title,
        page=f"../pages/{state}@r1.html",
        elements={key: Entry(locator=locator, about=about, fallbacks=spare) for key, (locator, about, spare) in entries.items()},
        remembered={key: remember(page.find(locator)) for key, (locator, _, _) in entries.items()},
    )
    path = DEMO / "books" / name
    path.unlink(missing_ok=True)
    book.write(path)


if __name__ == "__main__":
    write("nights.yaml", "Marram Ridge Observatory, telescope nights", "nights", NIGHTS)
    write("sky.yaml", "Marram Ridge Observatory, sky tonight", "sky", SKY)
