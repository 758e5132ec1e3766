"""Steps, data, parts and the forms of journeys: what is written reads back the same, and what is wrong is said with its place."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from conftest import run
from wary_hound import Book, FileError, Journey
from wary_hound.demo.tour import demo_folder
from wary_hound.journey.data import HIDDEN, Values, fill_text, in_locator, rows_of, table
from wary_hound.journey.forms import Written, read_yaml, to_yaml
from wary_hound.journey.parts import plan
from wary_hound.journey.reading import read_written, write_written
from wary_hound.journey.schema import journey_schema
from wary_hound.journey.steps import ACTIONS, EXPECTATIONS, OF_THE_PAGE, STATES, THE_PAGE, Form, Option, Step

BOOKS = demo_folder() / "books"
TEXT = st.text(st.characters(codec="utf-8", exclude_categories=["Cc", "Cs", "Zl", "Zp"]), min_size=1, max_size=12).map(str.strip)
WORDS = TEXT.filter(lambda t: bool(t) and "{" not in t and "}" not in t)
ON = st.sampled_from(["hold-vega", "css{a[b='c']} @row-of text{x}", "label{~Na me}", 'xpath{//a[.="1"]}'])


@st.composite
def a_step(draw: st.DrawFn) -> Step:
    """Any step that the tables allow."""
    action = draw(st.sampled_from(sorted(ACTIONS)))
    form = ACTIONS[action]
    if action == "check":
        page = draw(st.booleans())
        table = OF_THE_PAGE if page else {**EXPECTATIONS, **{name: Form("") for name in STATES}}
        expect = draw(st.sampled_from(sorted(table)))
        on = THE_PAGE if page else draw(ON)
        value, values = _value(draw, table[expect], expect)
        start = draw(st.booleans()) if expect in ("gone", "hidden") else False
        return Step(
            action=action, on=on, expect=expect, value=value, values=values, from_start=start, more=_more(draw, table[expect])
        )
    value, values = ("", ()) if form.on == "itself" else _value(draw, form, "")
    return Step(action=action, on=draw(ON) if form.on else "", value=value, values=values, more=_more(draw, form))


def _value(draw: st.DrawFn, form: Form, expect: str) -> tuple[str, tuple[str, ...]]:
    if form.choices:
        return draw(st.sampled_from(form.choices)), ()
    if expect in STATES:
        return "", ()
    if expect == "counts":
        return str(draw(st.integers(0, 99))), ()
    if expect == "texts" or (form.several and draw(st.booleans())):
        return "", tuple(draw(st.lists(WORDS, min_size=1, max_size=3)))
    return draw(WORDS), ()


def _more(draw: st.DrawFn, form: Form) -> dict[str, object]:
    options = dict(form.options or {})
    names = set(form.needs) | set(draw(st.lists(st.sampled_from(sorted(options)), max_size=2))) if options else set(form.needs)
    if "saying" in names:
        names.add("dialog")
    if names & {"row", "column"}:
        names |= {"row", "column"}
    return {name: _option(draw, options[name]) for name in sorted(names)}


def _option(draw: st.DrawFn, option: Option) -> object:
    match option.kind:
        case "choice":
            return draw(st.sampled_from(option.choices))
        case "number":
            return str(draw(st.integers(0, 600)))
        case "texts":
            return tuple(draw(st.lists(WORDS, min_size=1, max_size=2)))
        case "mapping":
            return {"visitor": draw(WORDS)}
    return draw(WORDS)


JOURNEYS = st.builds(
    lambda steps, before, after, data, guards: Journey.model_validate(
        {"journey": "Hold", "book": "b.yaml", "data": data, "guards": guards, "before": before, "steps": steps, "after": after}
    ),
    st.lists(a_step(), min_size=1, max_size=4),
    st.lists(a_step(), max_size=2),
    st.lists(a_step(), max_size=2),
    st.dictionaries(st.sampled_from(["visitor", "night"]), WORDS, max_size=2),
    st.lists(st.fixed_dictionaries({"when": ON, "click": ON}), max_size=1),
)


@given(JOURNEYS, st.data())
def test_a_journey_is_the_same_in_all_its_forms(
    tmp_path_factory: pytest.TempPathFactory, journey: Journey, data: st.DataObject
) -> None:
    folder = tmp_path_factory.mktemp("forms")
    remark = st.sampled_from(["", "made up", "two\nlines", "with # in it"])
    written = Written(journey, data.draw(remark), tuple(data.draw(remark) for _ in journey.all_steps))
    for name in ("j.yaml", "j.py", "j.csv", "j.xlsx"):
        write_written([written], folder / name)
        assert read_written(folder / name) == [written], name


def test_a_remark_behind_a_value_with_a_hash_in_it_is_kept(tmp_path: Path) -> None:
    step = {"choose": ["Dome # 2", "0 #"], "in": "hold-vega"}
    journey = Journey.model_validate({"journey": "Hold", "book": "b.yaml", "steps": [step]})
    write_written([Written(journey, "", ("made up # twice",))], tmp_path / "j.yaml")
    assert read_written(tmp_path / "j.yaml")[0].remarks == ("made up # twice",)


def test_the_demos_journeys_go_round(tmp_path: Path) -> None:
    for name in ("hold-a-night", "give-up-a-night"):
        written = read_yaml(BOOKS / f"{name}.yaml")
        assert written.head
        assert any(written.remarks)
        (tmp_path / "again.yaml").write_text(to_yaml(written))
        assert read_yaml(tmp_path / "again.yaml") == written


def test_a_workbook_has_several_journeys(tmp_path: Path) -> None:
    both = [read_yaml(BOOKS / f"{name}.yaml") for name in ("hold-a-night", "give-up-a-night")]
    write_written(both, tmp_path / "nights.xlsx")
    assert read_written(tmp_path / "nights.xlsx") == both
    with pytest.raises(FileError, match="2 journeys are a workbook"):
        write_written(both, tmp_path / "nights.csv")


@pytest.mark.parametrize(
    ("name", "text", "said"),
    [
        ("j.csv", "step,action,element,value\n1,clik,a,\n", "cell B2: 'clik' is no action"),
        ("j.csv", "step,what\n1,2\n", "no 'action'"),
        ("j.csv", "action,element,value,options\nclick,a,,{x\n", "the options are JSON"),
        ("j.py", "with walking('x') as walk:\n    for i in 1, 2:\n        walk.click('a')\n", "2: only plain steps"),
        ("j.py", "with walking('x') as walk:\n    walk.click('a' + 'b')\n", "2: a plain value"),
        ("j.py", "with walking('x') as walk:\n    walk.klick('a')\n", "2: a step does one of"),
        ("j.py", "print(1)\n", "one `with walking"),
        ("j.py", "with (", "no Python"),
        ("j.xlsx", "no zip", "no workbook"),
        ("j.txt", "", "is a file of .yaml"),
    ],
)
def test_what_is_wrong_in_a_form_is_said_with_its_place(tmp_path: Path, name: str, text: str, said: str) -> None:
    (tmp_path / name).write_text(text)
    with pytest.raises(FileError, match=said):
        read_written(tmp_path / name)


@pytest.mark.parametrize(
    ("step", "said"),
    [
        ({"check": "a", "reads": "x", "attribute": "href", "row": "1"}, "a row and a column"),
        ({"click": "a", "saying": "x"}, "goes with the kind"),
        ({"drag": "a"}, "drag needs 'onto'"),
        ({"go": "sideways"}, "one of back, forward, again"),
        ({"check": "the page", "reads": "x"}, "a check takes one of title"),
        ({"check": "a", "counts": "many"}, "needs a number"),
        ({"open": "/", "answers": "soon"}, "answers is a number"),
        ({"check": "a", "texts": {"x": 1}}, "takes a text, not a mapping"),
        ({"type": ["a"], "in": "b"}, "takes a text, not a list"),
        ({"check": "a", "is": "ticked", "from": "the start"}, "hidden or gone"),
    ],
)
def test_steps_that_say_too_little_or_too_much_are_refused(step: dict[str, object], said: str) -> None:
    with pytest.raises(ValueError, match=said):
        Step.from_plain(step)


def test_data_fill_steps_and_secrets_stay_hidden(tmp_path: Path) -> None:
    (tmp_path / "v.csv").write_text("visitor,night\nAda,Vega\n,\nBram,Saturn\n")
    rows = rows_of("v.csv", {"group": "unique"}, {"key": "DOME"}, 1, tmp_path, {"DOME": "s3cret"}, "j")
    assert [row.label for row in rows] == ["Ada", "Bram"]
    assert rows[0].texts["group"] != rows[1].texts["group"]
    assert rows[0].hide("the s3cret of Ada") == f"the {HIDDEN} of Ada"
    assert in_locator("css{button} @row-of text{{night}}", rows[1].texts) == "css{button} @row-of text{Saturn}"
    assert in_locator("text{{{moon}}} -> css{a}", rows[1].texts) == "text{{{moon}}} -> css{a}"
    assert fill_text("{{night}} is {night}", rows[0].texts, "j") == "{night} is Vega"
    with pytest.raises(FileError, match="nothing is named 'nobody'"):
        fill_text("{nobody}", rows[0].texts, "j")
    with pytest.raises(FileError, match="DOME is not set"):
        rows_of({}, {}, {"key": "DOME"}, 1, tmp_path, {}, "j")
    with pytest.raises(FileError, match="cannot be made up"):
        rows_of({}, {"x": "dragon"}, {}, 1, tmp_path, {}, "j")
    same = [rows_of({}, {"who": "name"}, {}, 5, tmp_path, {}, "j")[0].texts["who"] for _ in range(2)]
    assert same[0] == same[1]


@pytest.mark.parametrize(("text", "said"), [("", "first row"), ("a,a\n1,2\n", "two columns"), ("a\n", "no row under")])
def test_broken_tables_are_named(tmp_path: Path, text: str, said: str) -> None:
    (tmp_path / "t.csv").write_text(text)
    with pytest.raises(FileError, match=said):
        table(tmp_path / "t.csv")


def test_parts_are_put_in_with_data_of_their_own(tmp_path: Path) -> None:
    (tmp_path / "sign-in.yaml").write_text("journey: Sign in\ndata: {who: nobody}\nsteps:\n  - type: '{who}'\n    in: css{#who}\n")
    (tmp_path / "j.yaml").write_text(
        "journey: J\ndata: {visitor: Ada}\nsteps:\n  - part: sign-in.yaml\n    with: {who: '{visitor}'}\n  - keys: Enter\n"
    )
    steps = plan(Journey.read(tmp_path / "j.yaml"), None, Values({"visitor": "Ada"}), tmp_path)
    assert [(p.step.action, p.step.value, p.says) for p in steps] == [
        ("type", "Ada", 'type "{who}" in css{#who}'),
        ("keys", "Enter", "keys Enter"),
    ]
    (tmp_path / "loop.yaml").write_text("journey: L\nsteps:\n  - part: loop.yaml\n")
    with pytest.raises(FileError, match="has itself as a part"):
        plan(Journey.read(tmp_path / "loop.yaml"), None, Values({}), tmp_path)


def _valid(schema: dict[str, object], value: object, defs: dict[str, object]) -> bool:
    """As much of JSON Schema as ours uses."""
    if "$ref" in schema:
        return _valid(defs["step"], value, defs)  # type: ignore[arg-type]
    if "anyOf" in schema:
        return any(_valid(s, value, defs) for s in schema["anyOf"])  # type: ignore[attr-defined]
    if "const" in schema:
        return value == schema["const"]
    if "enum" in schema:
        return value in schema["enum"]  # type: ignore[operator]
    if "not" in schema and _valid(schema["not"], value, defs):  # type: ignore[arg-type]
        return False
    kinds = schema.get("type", [])
    kinds = [kinds] if isinstance(kinds, str) else kinds
    types = {"string": str, "object": dict, "array": list, "integer": int, "number": (int, float), "boolean": bool}
    if kinds and not any(isinstance(value, types[k]) for k in kinds):  # type: ignore[attr-defined,arg-type]
        return False
    if isinstance(value, list):
        return all(_valid(schema.get("items", {}), item, defs) for item in value)  # type: ignore[arg-type]
    if isinstance(value, dict):
        known: dict[str, dict[str, object]] = schema.get("properties", {})  # type: ignore[assignment]
        if not set(schema.get("required", [])) <= set(value):  # type: ignore[call-overload]
            return False
        extra = schema.get("additionalProperties", True)
        if extra is False and set(value) - set(known):
            return False
        return all(_valid(known[k], v, defs) if k in known else True for k, v in value.items())
    return True


@given(a_step())
def test_the_schema_takes_every_step(step: Step) -> None:
    schema = journey_schema()
    plain = json.loads(json.dumps(step.to_plain()))
    assert _valid({"$ref": ""}, plain, schema["$defs"])
    assert not _valid({"$ref": ""}, {**plain, "nonsense": "x"}, schema["$defs"])


def test_convert_turns_journeys(demo: Path) -> None:
    done = run("convert", "books/hold-a-night.yaml", "-o", "hold.py")
    assert (done.exit_code, done.output) == (0, "Written: hold.py\n")
    assert "walk.click('hold-vega')" in Path("hold.py").read_text()
    again = run("convert", "hold.py", "--to", "yaml")
    assert Journey.read("books/hold-a-night.yaml").to_yaml().splitlines()[-1] == again.output.splitlines()[-1]
    assert json.loads(run("convert", "--schema").output)["required"] == ["journey", "steps"]
    assert "no journey of this name" in run("convert", "nowhere.yaml", "-o", "x.py").stderr
    assert "by its name it is csv" in run("convert", "hold.py", "--to", "yaml", "-o", "x.csv").stderr
    assert Book.read("books/nights.yaml").elements
