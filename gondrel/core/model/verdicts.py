"""What the proof says of an item, and what the forecast says of it, each in its order."""

from __future__ import annotations

from collections.abc import Iterable
from enum import StrEnum

__all__ = ["Fate", "Verdict", "gravest", "worst"]


class Verdict(StrEnum):
    """What the proof says of an item; the gravest first."""

    LOST = "lost"
    ALTERED = "altered"
    ADDED = "added"
    UNPROVED = "unproved"
    CARRIED = "carried"

    @property
    def is_harm(self) -> bool:
        """Whether something sent did not come back as it was."""
        return self in (Verdict.LOST, Verdict.ALTERED)


class Fate(StrEnum):
    """What the forecast says of an item; the gravest first."""

    LOST = "lost"
    ALTERED = "altered"
    CARRIED = "carried"


def worst(verdicts: Iterable[Verdict]) -> Verdict:
    """The verdict that speaks for several; unproved when there are none."""
    given = set(verdicts)
    return next((verdict for verdict in Verdict if verdict in given), Verdict.UNPROVED)


def gravest(fates: Iterable[Fate]) -> Fate | None:
    """The fate that speaks for several; None when there are none."""
    given = set(fates)
    return next((fate for fate in Fate if fate in given), None)
