"""A suite with the fixture `hound`. Run it beside the demo site (wary-hound demo --serve):

cd examples/suite && pytest --hound-base http://127.0.0.1:8700/r1
"""

from wary_hound.running.plugin import Hound


def test_a_night_can_be_held(hound: Hound) -> None:
    page = hound.open("/index.html")
    page.click("hold-vega")
    page.until_reads("booking-status", "Held: Vega")


def test_a_booking_asks_for_what_is_sent(hound: Hound) -> None:
    page = hound.open("/index.html")
    page.type("visitor-name", "Ada Marsh")
    page.click("send-booking")
    assert page.state("visitor-name").value == "Ada Marsh"
    assert [said.text for said in page.console if said.level == "error"] == []
