"""What still counts as carried."""

from __future__ import annotations

from dataclasses import dataclass

__all__ = ["Limits"]


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
