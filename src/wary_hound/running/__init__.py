"""Running journeys on live pages: replay, checks, evidence."""

from wary_hound.running.replay import Run, StepResult, replay

__all__ = ["Run", "StepResult", "replay"]
