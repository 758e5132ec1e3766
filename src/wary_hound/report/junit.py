"""JUnit XML of runs: a suite a journey and browser, a case a run; a healed run says so and is not plainly green."""

from __future__ import annotations

from collections.abc import Sequence
from xml.etree import ElementTree

from wary_hound.report.terminal import shown
from wary_hound.running.replay import Run


def junit(runs: Sequence[Run]) -> str:
    """The report as XML text."""
    root = ElementTree.Element("testsuites", name="wary-hound", tests=str(len(runs)))
    root.set("failures", str(sum(run.state == "failed" for run in runs)))
    root.set("time", f"{sum(run.seconds for run in runs):.3f}")
    groups: dict[tuple[str, str], list[Run]] = {}
    for run in runs:
        groups.setdefault((run.journey, run.where), []).append(run)
    for (journey, browser), inside in groups.items():
        suite = ElementTree.SubElement(root, "testsuite", name=_text(f"{journey} ({browser})"), tests=str(len(inside)))
        suite.set("failures", str(sum(run.state == "failed" for run in inside)))
        suite.set("errors", "0")
        suite.set("time", f"{sum(run.seconds for run in inside):.3f}")
        for number, run in enumerate(inside, 1):
            name = _text(journey if len(inside) == 1 else f"{journey} #{number}")
            case = ElementTree.SubElement(suite, "testcase", classname=_text(browser), name=name, time=f"{run.seconds:.3f}")
            failing = run.failing
            if failing is not None:
                said = _text(f"step {failing.number}, {failing.says}: {failing.message.splitlines()[0]}")
                ElementTree.SubElement(case, "failure", message=said, type="failed").text = _text(failing.message)
            healed = [one for step in run.steps for one in step.healed]
            if healed:
                ElementTree.SubElement(case, "system-out").text = _text("\n".join(f"healed: {one}" for one in healed))
    ElementTree.indent(root)
    return '<?xml version="1.0" encoding="UTF-8"?>\n' + ElementTree.tostring(root, encoding="unicode") + "\n"


def _text(text: str) -> str:
    """Without what XML cannot hold."""
    return shown(text)
