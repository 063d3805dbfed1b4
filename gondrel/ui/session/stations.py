"""The six stations of the work."""

from __future__ import annotations

from enum import IntEnum

__all__ = ["Station"]


class Station(IntEnum):
    """A stop on the route, in the order of the work."""

    RECEIVE = 0
    CHECK = 1
    MEND = 2
    ARRANGE = 3
    SEND = 4
    PROVE = 5

    @property
    def title(self) -> str:  # type: ignore[override]  # a station is named, not text
        """What the station is called on screen."""
        return self.name.capitalize()
