"""The command line: `wary-hound COMMAND`. One module a command, thin; each is imported when it is called."""

from __future__ import annotations

import importlib
import os
import sys
from typing import Any

import click

from wary_hound.errors import WaryHoundError

COMMANDS = {
    "demo": "The whole story on the demo data, with a report.",
    "capture": "Take a snapshot of a page in a real browser.",
    "look": "What is on a page; what is known of one element.",
    "check": "Evaluate locators, and explain what they match.",
    "rank": "Locators for an element, by how long they will last.",
    "stress": "How long a book's or a journey's locators will last.",
    "compare": "What changed between two pages, and which locators that touches.",
    "repair": "What became of a book's locators on a new page, and what to do.",
    "run": "Run journeys in real browsers, with evidence.",
    "record": "What you do in a window becomes a journey.",
    "draft": "Steps that fill a section of a page, with made-up data.",
    "review": "Weaknesses of journeys, and what their checks notice.",
    "convert": "Locators in other notations; journeys in other forms.",
    "history": "How your own pages change, learnt from their snapshots.",
    "bench": "Measure locators and relocation on labelled histories.",
}


class _Commands(click.Group):
    """Finds each command in the module of its name, and turns our errors into one line and exit code 2."""

    def list_commands(self, context: click.Context) -> list[str]:
        return list(COMMANDS)

    def get_command(self, context: click.Context, name: str) -> click.Command | None:
        if name not in COMMANDS:
            return None
        command = importlib.import_module(f"wary_hound.cli.{name}").command
        assert isinstance(command, click.Command)
        return command

    def format_commands(self, context: click.Context, formatter: click.HelpFormatter) -> None:
        with formatter.section("Commands"):
            formatter.write_dl(list(COMMANDS.items()))

    def invoke(self, context: click.Context) -> Any:
        try:
            return super().invoke(context)
        except WaryHoundError as error:
            from wary_hound.report.terminal import shown

            click.echo(f"wary-hound: {shown(' '.join(str(error).split()))}", err=True)
            context.exit(2)
        except BrokenPipeError:
            # whoever read us has seen enough; keep the interpreter from complaining at its end
            os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
            context.exit(0)


@click.group(cls=_Commands, context_settings={"help_option_names": ["-h", "--help"], "max_content_width": 100})
@click.version_option(None, "--version", package_name="wary-hound", prog_name="wary-hound")
def group() -> None:
    """Element locators that last: authored, ranked by survival, followed across releases, repaired.

    Exit codes: 0 fine, 1 something wrong was found (a broken locator), 2 misuse or bad input.
    """


def main() -> None:
    """The console script."""
    group(prog_name="wary-hound")
