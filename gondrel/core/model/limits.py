"""What still counts as carried."""

from __future__ import annotations

from dataclasses import dataclass

__all__ = ["Limits", "unlike"]


@dataclass(frozen=True, slots=True)
class Limits:
    """What still counts as carried.

    Args:
        volume: relative error of volume; deviation: mm between surfaces.
        area: relative error of area; the kernel's integral over a spline face was seen to be off by
            6e-5 whatever accuracy was asked for, so less can't be told.
        shift: mm between places; angle: rad between directions.
    """

    volume: float = 1e-6
    area: float = 2e-4
    deviation: float = 1e-3
    shift: float = 1e-4
    angle: float = 1e-6

    @property
    def in_words(self) -> str:
        """The limits in words: what differs by less counts as carried."""
        return (
            f"Carried means: places to {self.shift:g} mm, directions to {self.angle:g} rad, surfaces to "
            f"{self.deviation:g} mm, volumes to {self.volume:g} and areas to {self.area:g} relative"
        )


def unlike(one: float, other: float) -> float:
    """Relative difference of two figures, 0 when both are 0.

    Example:
        >>> unlike(100.0, 101.0) < 0.01
        True
        >>> unlike(0.0, 0.0)
        0.0
    """
    size = max(abs(one), abs(other))
    return abs(one - other) / size if size else 0.0
