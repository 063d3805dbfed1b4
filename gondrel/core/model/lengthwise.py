"""Which components a cut would go through along their axis."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from gondrel.core.model.cutting import Cut, Vector
from gondrel.core.model.snapshot import Model

__all__ = ["cut_lengthwise"]

_ALONG = 0.02
"""A plane whose normal has no more than this share along an axis cuts lengthwise."""


def cut_lengthwise(model: Model, cut: Cut, axes: Mapping[str, Vector]) -> frozenset[tuple[str, ...]]:
    """Paths of the components that a cut would go through lengthwise.

    Args:
        axes: of the parts that are looked at, by product id, in their frames.
    """
    normals = np.array([plane.unit for plane in cut.planes]).reshape(-1, 3)
    whole = set()
    for place in model.walk():
        if place.product in axes:
            turn = np.asarray(place.placement, float).reshape(4, 4)[:3, :3]
            way = turn @ np.asarray(axes[place.product])
            if (np.abs(normals @ way) < _ALONG * np.linalg.norm(way)).any():
                whole.add(place.path)
    return frozenset(whole)
