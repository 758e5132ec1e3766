"""Fingerprints, relocation, drift, verdicts, repairs."""

from wary_hound.healing.fingerprint import Fingerprint, fingerprint
from wary_hound.healing.relocation import Verdict, relocate, relocate_all
from wary_hound.healing.repair import Repair, repair, repair_all

__all__ = ["Fingerprint", "Repair", "Verdict", "fingerprint", "relocate", "relocate_all", "repair", "repair_all"]
