"""capture: take a snapshot of a page in a real browser."""

from __future__ import annotations

from pathlib import Path

import click

from wary_hound.browser import Browser, Phone
from wary_hound.cli.common import FILE, browser_option, file_address, json_option, print_json, tell_notes, tell_status
from wary_hound.files import write_aside
from wary_hound.locator.typed import typed
from wary_hound.page.secrets import Secrets
from wary_hound.report.terminal import console


@click.command()
@click.argument("address")
@click.option("-o", "--output", type=FILE, required=True, help="NAME for NAME.html, NAME.facts.json and NAME.png.")
@browser_option
@click.option("--until", metavar="LOCATOR", help="Wait until this locator matches.")
@click.option("--size", help="Viewport, width x height in CSS pixels; 1280x800, or 390x844 with --phone.")
@click.option("--phone", is_flag=True, help="As a phone: touched, three device pixels for each, a phone's user agent.")
@click.option("--keep-values", is_flag=True, help="Keep what was typed into ordinary fields; never passwords, cards, codes.")
@click.option("--secret", "secret", multiple=True, metavar="NAME", help="A field, by name or id, whose value is kept nowhere.")
@click.option("--limit", type=click.FloatRange(0.1, 600), default=15, show_default=True, help="Seconds to wait at most.")
@json_option
def command(
    address: str,
    output: Path,
    browser: str,
    until: str | None,
    size: str | None,
    phone: bool,
    keep_values: bool,
    secret: tuple[str, ...],
    limit: float,
    as_json: bool,
) -> None:
    """Take a snapshot of a page (an address, or a file) in a real browser, with all frames and shadow trees.

    \b
    Example, with the demo site served by `wary-hound demo --serve` in another terminal:
      wary-hound capture http://127.0.0.1:8700/r4/index.html -o nights --until 'text{Sky reports}'
    """
    viewport = _viewport(size or ("390x844" if phone else "1280x800"))
    wanted = typed(until) if until else None
    url = address if "://" in address else file_address(Path(address))
    secrets = Secrets(secret, keep_values)
    with Browser.start(browser, viewport, limit, phone=Phone(*viewport) if phone else None, secrets=secrets) as running:
        live = running.open(url)
        tell_status(live.status, url)
        page = live.wait_for(wanted) if wanted is not None else live.capture()
        picture = live.screenshot()
    tell_notes(page)
    target = page.write(output)
    write_aside({target.with_suffix(".png"): picture})
    if as_json:
        print_json(
            {
                "snapshot": str(target),
                "url": page.url,
                "elements": len(page),
                "trees": [{"kind": t.kind, "mode": t.mode} for t in page.trees],
            }
        )
        return
    kinds = ", ".join(f"{t.mode} {t.kind}".strip() for t in page.trees)
    console().print(f"{target}: {len(page)} elements in {len(page.trees)} trees ({kinds}), with facts and picture")


def _viewport(size: str) -> tuple[int, int]:
    width, _, height = size.lower().partition("x")
    if not (width.isdecimal() and height.isdecimal()) or not (100 <= int(width) <= 10_000 and 100 <= int(height) <= 10_000):
        raise click.BadParameter(f"{size!r} is no size: give width x height in pixels, such as 1280x800", param_hint="--size")
    return int(width), int(height)
