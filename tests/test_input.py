"""Action sources, address patterns, kept sign-ins and pictures: pure values, held against what they must be."""

from __future__ import annotations

import io
import json
import re
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from wary_hound import BrowserError, FileError, Page
from wary_hound.browser import input as sources
from wary_hound.browser.downloads import Download, plain_name
from wary_hound.browser.keeping import Cookie, kept, restoring
from wary_hound.browser.keys import KEYS
from wary_hound.browser.reading import address_pattern, covered
from wary_hound.report.timing import timing
from wary_hound.running.evidence import MOST_BYTES, folder_name, sweep, write_evidence
from wary_hound.running.page_checks import difference
from wary_hound.running.replay import Run, StepResult

NODE = {"sharedId": "n"}


def kinds(source: dict[str, object]) -> list[str]:
    return [action["type"] for action in source["actions"]]  # type: ignore[attr-defined]


def test_keys_are_down_while_a_pointer_acts() -> None:
    keys, mouse = sources.clicks(sources.to_element(NODE, -3, 4), [0, 0], keys="Control+Shift", held=0.5)
    assert kinds(mouse)[:2] == ["pause", "pause"]
    assert kinds(mouse)[2:] == ["pointerMove", "pointerDown", "pause", "pointerUp", "pointerDown", "pause", "pointerUp"]
    assert kinds(keys) == ["keyDown", "keyDown", *["pause"] * 7, "keyUp", "keyUp"]
    assert len(keys["actions"]) == len(mouse["actions"]) + 2  # they are let go when the pointer is done
    assert [a["value"] for a in keys["actions"][:2]] == [KEYS["Control"], KEYS["Shift"]]
    assert mouse["actions"][2]["x"] == -3
    assert len(sources.clicks(sources.to_element(NODE), [2])) == 1


@given(st.lists(st.tuples(st.integers(0, 900), st.integers(0, 900)), min_size=2, max_size=4), st.integers(1, 9))
def test_a_drag_presses_first_and_lets_go_last(points: list[tuple[int, int]], steps: int) -> None:
    (source,) = sources.drags(points, steps)
    made = kinds(source)
    assert (made[0], made[1], made[-1]) == ("pointerMove", "pointerDown", "pointerUp")
    assert made.count("pointerDown") == made.count("pointerUp") == 1
    moves = [a for a in source["actions"] if a["type"] == "pointerMove"]
    assert (moves[0]["x"], moves[0]["y"]) == points[0]
    assert (moves[-1]["x"], moves[-1]["y"]) == points[-1]
    assert len(moves) == 2 + steps * (len(points) - 1) + 1


@given(st.text(st.characters(codec="utf-8"), max_size=40))
def test_a_text_is_typed_character_by_character(text: str) -> None:
    (source,) = sources.typed(text)
    down = [a["value"] for a in source["actions"] if a["type"] == "keyDown"]
    assert len(down) == len(text)
    assert [c for c in down if c not in (KEYS["Enter"], KEYS["Tab"])] == [c for c in text if c not in "\n\t"]


def test_a_chord_goes_up_in_the_other_order() -> None:
    (source,) = sources.struck("Control+Shift+K")
    assert [a["value"] for a in source["actions"]] == [
        KEYS["Control"], KEYS["Shift"], "K", "K", KEYS["Shift"], KEYS["Control"],
    ]  # fmt: skip


def test_the_wheel_turns_over_a_point_or_an_element() -> None:
    over = sources.wheel(0, 300, NODE)[0]["actions"][0]
    assert (over["origin"], over["deltaY"]) == ({"type": "element", "element": NODE}, 300)
    at = sources.wheel(5, 0, point=(10.4, 20.6))[0]["actions"][0]
    assert (at["origin"], at["x"], at["y"], at["deltaX"]) == ("viewport", 10, 21, 5)


@pytest.mark.parametrize(
    ("pattern", "like", "unlike"),
    [
        ("/held", "http://a.example/held?x=1#y", "http://a.example/r1/held"),
        ("/held?x=1", "http://a.example/held?x=1", "http://a.example/held?x=12"),
        ("/r*/held", "https://a.example/r1/held", "https://a.example/held"),
        ("held", "http://a.example/r1/held", "http://a.example/r1/upheld"),
        ("http://a.example/*", "http://a.example/x/y?z", "http://b.example/x"),
        ("/a.b", "http://h/a.b", "http://h/aXb"),
        ("/index.html#top", "http://h/index.html#top", "http://h/index.html#topmost"),
    ],
)
def test_addresses_are_like_patterns(pattern: str, like: str, unlike: str) -> None:
    assert address_pattern(pattern).search(like)
    assert not address_pattern(pattern).search(unlike)


@given(st.text(max_size=20))
def test_any_pattern_is_a_pattern(pattern: str) -> None:
    assert isinstance(address_pattern(pattern), re.Pattern)


def test_a_kept_sign_in_reads_back_and_hides_its_values(tmp_path: Path) -> None:
    cookie = Cookie("who", "ada-secret", "dome.example", same_site="none")
    assert "ada-secret" not in repr(cookie)
    assert "sameSite" not in cookie.to_protocol()  # browsers refuse `none` without `secure`
    assert Cookie("a", "b", "c", secure=True).to_protocol()["sameSite"] == "none"
    fields = {name: getattr(cookie, name) for name in Cookie.__slots__}
    path = tmp_path / "kept.json"
    path.write_text(json.dumps({"cookies": [fields], "storage": {"http://dome.example": {"seat": "</script>4"}}}))
    cookies, storage = kept(path)
    assert cookies == (cookie,)
    assert "</script>" not in restoring(storage)
    for text in ("[]", "{}", '{"cookies": [{"x": 1}], "storage": {}}', "no json", '{"cookies": [], "storage": []}'):
        path.write_text(text)
        with pytest.raises(FileError, match="no kept sign-in"):
            kept(path)


def test_a_download_that_is_not_there_whole_says_so(tmp_path: Path) -> None:
    (tmp_path / "r.csv").write_bytes(b"night")
    made = Download("http://h/r.csv", "r.csv", tmp_path / "r.csv", "canceled")
    with pytest.raises(BrowserError, match=r"r.csv was not downloaded: it is canceled"):
        made.keep(tmp_path)
    made.state = "complete"
    (tmp_path / "kept").mkdir()
    assert made.keep(tmp_path / "kept").read_bytes() == made.content == b"night"
    assert [plain_name(n) for n in ("r(1).csv", "r (12).csv", "r.csv", "a(b).csv")] == ["r.csv", "r.csv", "r.csv", "a(b).csv"]


def png(size: tuple[int, int], colour: tuple[int, int, int], spot: tuple[int, int, int, int] | None = None) -> bytes:
    image = Image.new("RGB", size, colour)
    if spot is not None:
        image.paste((255, 0, 0), spot)
    out = io.BytesIO()
    image.save(out, format="PNG")
    return out.getvalue()


def test_pictures_are_compared_by_their_pixels(tmp_path: Path) -> None:
    plain, path = png((100, 50), (200, 200, 200)), tmp_path / "p.png"
    assert difference(plain, png((100, 50), (210, 205, 195)), 0, path) == ""  # as fonts are smoothed
    spotted = png((100, 50), (200, 200, 200), (10, 20, 20, 30))
    assert difference(plain, spotted, 0.5, path) == "2.0 % of its pixels differ (from 10, 20 to 19, 29), where 0.5 % may"
    assert difference(plain, spotted, 2.0, path) == ""
    assert "90 by 50 pixels large, not 100 by 50" in difference(plain, png((90, 50), (0, 0, 0)), 1, path)
    with pytest.raises(FileError, match="no picture to compare with"):
        difference(b"no picture", plain, 1, path)


def test_boxes_are_grey_and_parts_are_cut() -> None:
    page = Page.parse("<p>x</p>")
    image = Image.open(io.BytesIO(covered(png((100, 50), (255, 255, 255)), page, [(10, 10, 20, 10)], (5, 5, 40, 30))))
    assert image.size == (40, 30)
    assert image.getpixel((6, 6)) == (96, 96, 96)
    assert image.getpixel((1, 1)) == (255, 255, 255)


def step(number: int, state: str = "passed", seconds: float = 0.1, picture: bytes = b"") -> StepResult:
    return StepResult(number, f"click <b>{number}</b>", "css{a}", state, seconds, picture=picture)  # type: ignore[arg-type]


def a_run(*steps: StepResult, row: str = "") -> Run:
    return Run("Hold a night", "chromium", steps, 1.0, {}, (), None, row)


def test_evidence_is_bounded_and_swept(tmp_path: Path) -> None:
    large = b"\x89PNG" + b"x" * (MOST_BYTES // 2)
    run = a_run(step(1, picture=large), step(2, picture=large), step(3, "failed", picture=large))
    kept_in = write_evidence(run, tmp_path / folder_name(run, 1))
    assert sorted(p.name for p in kept_in.glob("*.png")) == ["step-03.png"]  # what failed goes last
    said = json.loads((kept_in / "run.json").read_text())
    assert [s["picture"] for s in said["steps"]] == ["", "", "step-03.png"]
    other = a_run(step(1), row="Ada / Marsh")
    for number in (1, 2, 3):
        write_evidence(other, tmp_path / folder_name(other, number))
    (tmp_path / "mine").mkdir()
    gone = sweep(tmp_path, 2)
    assert len(gone) == 2
    assert kept_in in gone
    assert (tmp_path / "mine").is_dir()
    assert {p.name for p in tmp_path.iterdir()} == {
        "mine",
        "hold-a-night-chromium-ada-marsh-2",
        "hold-a-night-chromium-ada-marsh-3",
    }


def test_the_time_of_steps_is_drawn_over_runs() -> None:
    assert timing([a_run(step(1))]) == ""
    drawn = timing([a_run(step(1, seconds=0.2), step(2, "failed")), a_run(step(1, seconds=0.4), step(2, "not run"))])
    assert drawn.count("<circle") == 3
    assert drawn.count('class="failed"') == 1
    assert "&lt;b&gt;1" in drawn
    assert "<b>" not in drawn
    assert "milliseconds" in drawn
