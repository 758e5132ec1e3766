"""Candidates for an element, and their ranking by survival."""

from wary_hound.authoring.question import Question
from wary_hound.authoring.ranking import Candidate, assess, rank

__all__ = ["Candidate", "Question", "assess", "rank"]
