"""The colours of a deviation: a few bands between zero and a round figure above the largest."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

__all__ = ["Scale", "least_shown", "scale_for", "wall_scale"]

_COLOURS = ("#9DB8A8", "#C9D6C4", "#D9B45C", "#CF7A45", "#A63D40")
_SHARES = (0.1, 0.2, 0.5)
_NOTHING = 1e-6
"""Deviation below which two surfaces are taken as one, mm: the accuracy of the projections is 1e-7."""

_ROUNDING = 2.4e-7
"""Rounding of a mesh's coordinates as a share of its size: two steps of single precision."""


@dataclass(frozen=True, slots=True)
class Scale:
    """Upper limits of the bands in mm, ascending, and a colour (#rrggbb) for each and for beyond."""

    limits: tuple[float, ...]
    names: tuple[str, ...]

    def colours(self, values: np.ndarray) -> np.ndarray:
        """(n, 3) uint8 colours of (n,) deviations in mm."""
        table = np.array([[int(n[i : i + 2], 16) for i in (1, 3, 5)] for n in self.names], np.uint8)
        return table[np.searchsorted(self.limits, values, side="right")]


_WALLS = ("#A63D40", "#CF7A45", "#D9B45C", "#C9D6C4", "#9DB8A8")
_TIMES = (1.1, 1.5, 2.5, 5.0)


def wall_scale(least: float) -> Scale:
    """Bands for walls, mm: the thinnest and what is nearly as thin stand out.

    Args:
        least: the thinnest wall.
    """
    return Scale(tuple(float(f"{least * times:.3g}") for times in _TIMES), _WALLS)


def least_shown(size: float) -> float:
    """The least deviation (mm) that can be told from none on meshes of a size (mm)."""
    return float(f"{max(_NOTHING, _ROUNDING * size):.1g}")


def scale_for(largest: float, least: float = _NOTHING) -> Scale:
    """Bands for deviations up to the largest one, mm; a single band where nothing deviates.

    Args:
        least: the least deviation that can be told from none, mm.

    Example:
        >>> scale_for(0.037).limits
        (0.005, 0.01, 0.025, 0.05)
        >>> len(scale_for(0.0).limits)
        0
    """
    if largest <= least:
        return Scale((), _COLOURS[:1])
    decade = 10.0 ** math.floor(math.log10(largest))
    top = next(f * decade for f in (1.0, 2.0, 5.0, 10.0) if largest <= f * decade * (1 + 1e-9))
    limits = (*(float(f"{top * share:.3g}") for share in _SHARES), float(f"{top:.3g}"))
    return Scale(limits, _COLOURS)
