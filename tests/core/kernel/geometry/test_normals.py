"""Normals of faces out of their material."""

from __future__ import annotations

import numpy as np

from gondrel.core.kernel.base.shape import faces_of
from gondrel.core.kernel.geometry.normals import is_away_from, outward_in_middle
from gondrel.core.kernel.modelling.build import block, cut, cylinder

AXIS = np.array([5.0, 5.0, 0.0]), np.array([0.0, 0.0, 1.0])


def test_normals_of_a_block_lead_away_from_its_middle() -> None:
    found = [outward_in_middle(face) for face in faces_of(block(10, 10, 4))]
    assert len(found) == 6
    for place in found:
        assert place is not None
        at, normal = place
        assert abs(np.linalg.norm(normal) - 1) < 1e-12
        assert normal @ (at - [5, 5, 2]) > 1.9


def test_a_bore_is_told_from_a_pin() -> None:
    bored = cut(block(10, 10, 4), cylinder(2, 20, at=(5, 5, -5)))
    walls = [outward_in_middle(face) for face in faces_of(bored)]
    inner = [
        w
        for w in walls
        if w is not None and np.linalg.norm((w[0] - AXIS[0])[:2]) < 2.1 and abs(w[1][2]) < 0.5
    ]
    pins = [outward_in_middle(face) for face in faces_of(cylinder(2, 20, at=(5, 5, -5)))]
    outer = [p for p in pins if p is not None and abs(p[1][2]) < 0.5]
    assert inner and not any(is_away_from(*AXIS, *wall) for wall in inner)
    assert outer and all(is_away_from(*AXIS, *wall) for wall in outer)
