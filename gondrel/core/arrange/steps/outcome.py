"""What came of a step."""

from __future__ import annotations

from dataclasses import dataclass

__all__ = ["StepOutcome"]


@dataclass(frozen=True, slots=True)
class StepOutcome:
    """What came of a step.

    Args:
        what: what was done, else what should have been; items: what it was about.
        outcome: done, not applicable or refused; why: where it was not done.
        told: what was lost by it, in words; script: the step as it stands in a steps file.
    """

    what: str
    items: str
    outcome: str
    why: str = ""
    told: tuple[str, ...] = ()
    script: str = ""
