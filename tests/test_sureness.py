"""How sure relocation may be on one's own pages: learnt from labelled snapshots, kept in the change model, used in verdicts."""

from __future__ import annotations

import json
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from wary_hound import ChangeModel, FileError, Page, align, relocate_all
from wary_hound.demo.tour import demo_folder
from wary_hound.healing.hiding import SURE_FACTS, SUREST, without_sure
from wary_hound.healing.likeness import FEATURES
from wary_hound.healing.relocation import SURE, Aligned
from wary_hound.healing.sureness import Heard, fitted, hear, overhear, told
from wary_hound.measuring.history import labelled, read_histories
from wary_hound.robustness.model import UNCALIBRATED


def heard(logit: float, right: bool, other: float = -4.0) -> Heard:
    """An element with two candidates, of which the better has a logit, and is the one or not."""
    return Heard(np.asarray([logit, other]), np.asarray([right, False]))


def test_a_judge_that_doubts_too_much_is_believed_more_and_one_that_boasts_less() -> None:
    doubting = [heard(1.5, True) for _ in range(200)]
    intercept, slope = fitted(doubting)
    assert intercept + slope * 1.5 > 2.5
    assert told(doubting, UNCALIBRATED) == (0, 0)
    assert told(doubting, (intercept, slope)) == (1, 0)
    boasting = [heard(3.0, k % 2 == 0) for k in range(200)]
    intercept, slope = fitted(boasting)
    assert intercept + slope * 3.0 < 1.5
    assert told(boasting, UNCALIBRATED) == (0.5, 0.5)
    assert told(boasting, (intercept, slope)) == (0, 0)


def test_a_few_elements_move_it_little_and_none_not_at_all() -> None:
    intercept, slope = fitted([heard(1.5, True) for _ in range(3)])
    assert abs(intercept) < 0.1
    assert abs(slope - 1) < 0.1
    assert fitted([]) == UNCALIBRATED
    assert fitted([heard(2.0, False)]) == UNCALIBRATED


def test_it_stays_as_shipped_where_what_was_learnt_would_name_more_wrong_ones() -> None:
    # of eight that it doubts one is wrong: to be sure of all of them costs more than to ask
    mixed = [heard(2.0, k % 8 != 0) for k in range(160)] + [heard(-2.0, k % 8 != 0) for k in range(160)]
    assert told(mixed, UNCALIBRATED) == (0, 0)
    assert told(mixed, fitted(mixed))[1] == 0


def test_what_is_heard_of_two_pages_is_right_and_of_what_was_taken_out_nothing_is() -> None:
    history = next(h for h in read_histories(demo_folder() / "pages") if h.name.endswith("nights"))
    pages, wanted = labelled(history)
    same = {i: wanted[1][label] for label, i in wanted[0].items() if i is not None and label in wanted[1]}
    for said in hear(pages[0], pages[1], same):
        there = [one for one in said if not one.taken]
        assert len(there) == len(same)
        assert told(said, UNCALIBRATED)[0] > 0.9
        taken = [one for one in said if one.taken]
        assert taken
        assert not any(one.right.any() for one in taken)


def test_without_labels_what_is_sure_is_asked_for_again_with_that_hidden() -> None:
    old, new = (Page.read(demo_folder() / "pages" / f"nights@{release}.html") for release in ("r1", "r2"))
    sure = {
        e.index: v.element.index
        for e, v in zip(old, relocate_all(list(old), new), strict=True)
        if v.outcome in ("same", "moved") and v.confidence > 0.95 and v.element is not None
    }
    for plain, less, again in zip(hear(old, new, sure), overhear(old, new, sure), overhear(old, new, sure), strict=True):
        asked = [one for one in less if not one.taken]
        assert 50 < len(asked) <= len(sure)
        assert all(one.right.sum() <= 1 for one in asked)
        missed = sum(not one.right.any() for one in asked)
        assert missed <= 1, "but for one wrapper of many alike, each is among what may be it"
        assert told(less, UNCALIBRATED)[0] < told(plain, UNCALIBRATED)[0]
        assert told(less, UNCALIBRATED)[1] < 0.01
        assert [one for one in less if one.taken]
        assert [one.logits.tolist() for one in less] == [one.logits.tolist() for one in again]
    aligning = Aligned.of(new).from_page(old)
    facts = [FEATURES.index(fact) for group in SURE_FACTS[:SUREST] for fact in group]
    for number, found in without_sure(aligning, sure, "any"):
        [at] = np.flatnonzero(found.b == sure[number])
        [was] = np.flatnonzero((aligning.a == number) & (aligning.b == sure[number]))
        assert ((found.table[at, facts] <= 0.4) & (aligning.table[was, facts] > 0.9)).any()


def test_own_judging_moves_confidence_and_not_the_order() -> None:
    old, new = (Page.read(demo_folder() / "pages" / f"nights@{release}.html") for release in ("r2", "r4"))
    elements = [e for e in old if e.role in ("button", "link", "textbox")]
    shipped = ChangeModel.shipped()
    wary = replace(shipped, judging=((-1.0, 0.5), (-1.0, 0.5)))
    plain, doubting = relocate_all(elements, new), relocate_all(elements, new, model=wary)
    assert relocate_all(elements, new, model=shipped) == plain
    assert [v.element for v in plain if v.outcome == "same"]
    sure = [(p, d) for p, d in zip(plain, doubting, strict=True) if p.outcome in ("same", "moved")]
    assert all(d.confidence <= p.confidence and d.element == p.element for p, d in sure)
    assert any(d.confidence < SURE for _, d in sure)
    assert len(align(old, new, wary).pairs) <= len(align(old, new).pairs)
    assert wary != shipped


def test_a_change_model_keeps_what_was_learnt_and_refuses_nonsense(tmp_path: Path) -> None:
    own = replace(ChangeModel.shipped(), judging=((0.1, 1.25), (-0.5, 0.75)))
    file = tmp_path / "ours.json"
    file.write_text(json.dumps(own.to_json()))
    assert ChangeModel.read(file).judging == own.judging
    data = own.to_json()
    del data["judging"]  # as of a version that did not know it
    file.write_text(json.dumps(data))
    assert ChangeModel.read(file).judging == (UNCALIBRATED, UNCALIBRATED)
    file.write_text(json.dumps(own.to_json() | {"judging": [[0, -1], [0, 1]]}))
    with pytest.raises(FileError, match="judging"):
        ChangeModel.read(file)
