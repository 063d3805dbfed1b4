"""Points and boxes along the axes, in the places of what they belong to."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from gondrel.core.model.body import BodyFacts
from gondrel.core.model.product import Placement

__all__ = ["box_in_place", "placed_boxes", "placed_points"]

Floats = NDArray[np.float64]


def placed_points(matrices: Floats, points: Floats) -> Floats:
    """Points in the whole.

    Args:
        matrices: placements, (n, 4, 4); points: one for each, (n, 3) mm; either may be one for all.
    """
    placed: Floats = (matrices[:, :3, :3] @ points[:, :, None])[:, :, 0] + matrices[:, :3, 3]
    return placed


def placed_boxes(matrices: Floats, boxes: Floats) -> Floats:
    """The boxes along the axes of the whole around boxes in their places, (n, 2, 3) mm; never too small.

    Args:
        matrices: placements, (n, 4, 4); boxes: low and high corner of each, (n, 2, 3); either may be one
            for all.
    """
    middles = placed_points(matrices, boxes.mean(axis=1))
    reach = (np.abs(matrices[:, :3, :3]) @ ((boxes[:, 1] - boxes[:, 0]) / 2)[:, :, None])[:, :, 0]
    return np.stack([middles - reach, middles + reach], axis=1)


def box_in_place(facts: BodyFacts, placement: Placement) -> Floats:
    """The box of a placed body along the axes of the whole, (2, 3) mm; never too small."""
    matrix = np.asarray(placement, float).reshape(1, 4, 4)
    box: Floats = placed_boxes(matrix, np.array(facts.bbox).reshape(1, 2, 3))[0]
    return box
