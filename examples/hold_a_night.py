"""A journey as a script: each call is one step, done at once in a real browser. Run: python examples/hold_a_night.py"""

from wary_hound import walking
from wary_hound.demo.server import serve
from wary_hound.demo.tour import demo_folder

with serve() as site:
    base = {"base": f"{site}/r1"}
    with walking("Hold a night for Vega", book="nights.yaml", start=base, folder=demo_folder() / "books") as walk:
        walk.open("/index.html?seed=1")
        walk.click("notice-close")
        walk.check("notice-close", is_="hidden")
        walk.click("hold-vega")
        walk.check("booking-status", reads="Held: Vega")
        walk.type("visitor-name", "Ada Marsh")
        walk.click("send-booking")
        walk.check("booking-status", contains="Ada Marsh")
    for step in walk.run.steps:
        print(f"{step.number} {step.state}: {step.says}")
