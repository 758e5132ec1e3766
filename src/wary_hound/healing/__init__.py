"""Fingerprints, relocation, drift, verdicts, repairs."""

from wary_hound.healing.fingerprint import Fingerprint, fingerprint
from wary_hound.healing.near import Near, nearest
from wary_hound.healing.relocation import Verdict, relocate, relocate_all
from wary_hound.healing.repair import Repair, repair, repair_all

__all__ = ["Fingerprint", "Near", "Repair", "Verdict", "fingerprint", "nearest", "relocate", "relocate_all", "repair", "repair_all"]
