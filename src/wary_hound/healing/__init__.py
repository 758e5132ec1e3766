"""Following elements: fingerprints, alignment, the judge, relocation, repair."""

from wary_hound.healing.changes import Alignment, align
from wary_hound.healing.fingerprint import Fingerprint
from wary_hound.healing.relocation import Verdict, relocate, relocate_all
from wary_hound.healing.remembering import fingerprint
from wary_hound.healing.repair import Repair, repair, repair_all

__all__ = [
    "Alignment",
    "Fingerprint",
    "Repair",
    "Verdict",
    "align",
    "fingerprint",
    "relocate",
    "relocate_all",
    "repair",
    "repair_all",
]
