"""Evidence on pairs that are sure, as if what makes them sure had changed: what an id shows is asked for by all the rest.

Where nobody has said which element is which, such pairs still tell how right the judge is when it has less to go by (learning from
what is masked, as of words in Devlin et al. 2019).
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from copy import copy
from zlib import crc32

import numpy as np

from wary_hound.healing.alignment import Aligning
from wary_hound.healing.judge import Evidence, gather
from wary_hound.healing.likeness import FEATURES, rarity

SURE_FACTS = (
    ("id", "numbered-id"), ("name-attribute", "numbered-name"), ("test-attribute",), ("href",), ("value",), ("icon",),
    ("text", "text-equal", "number", "name", "name-equal", "within", "own-text", "label"),
    ("classes", "other-attributes"), ("before", "after", "heading"), ("row", "identity", "apart"),
)  # fmt: skip
"""What changes together; of each pair some of those that agree are hidden, at least one of the first SUREST."""
SUREST = 7
AGREES = 0.9
OFTEN, SELDOM = 0.5, 0.2
"""How often each of the first SUREST that agrees is hidden, and each of the others."""
LEFT = (0.0, 0.2, 0.4)
"""How alike what is hidden is taken to be."""


def without_sure(aligning: Aligning, same: Mapping[int, int], seed: str) -> Iterator[tuple[int, Evidence]]:
    """For old elements of which the new ones are known (`same`) the evidence without some of what agrees, drawn by lot (`seed`).
    Those of which nothing sure agrees are left out."""
    hiding = copy(aligning)
    hiding.table = aligning.table.copy()
    there: list[int] = []
    for number, right in same.items():
        at = np.flatnonzero((aligning.a == number) & (aligning.b == right))
        if not len(at):
            continue
        row = hiding.table[at[0]]
        dice = np.random.default_rng(crc32(f"{seed} {number} {right}".encode()))
        agreeing = [g for g in SURE_FACTS if bool((row[[FEATURES.index(f) for f in g]] > AGREES).any())]
        chosen = [g for g in agreeing if dice.random() < (OFTEN if g in SURE_FACTS[:SUREST] else SELDOM)]
        if not any(g in SURE_FACTS[:SUREST] for g in chosen):
            continue
        there.append(number)
        hidden = ["terms", *(f for g in chosen for f in g)]  # what is hidden is among its words
        columns = [FEATURES.index(f) for f in hidden]
        row[columns] = np.where(np.isnan(row[columns]), np.nan, dice.choice(LEFT))
        unseen = {*hidden, "words"} if "text" in hidden else hidden
        row[FEATURES.index("rarity")] = rarity(aligning.pages, aligning.a[at], aligning.b[at], unseen)[0]
    hiding.score = (aligning.first if aligning.old is None else aligning.later).of(hiding.table)
    found = gather(hiding, np.asarray(sorted(there), np.int64))
    for number in there:
        mine = found.a == number
        # what is hidden may be what it is called
        yield (
            number,
            Evidence(found.a[mine], found.b[mine], found.table[mine], np.zeros(int(mine.sum()), np.bool_), found.parted[mine]),
        )
