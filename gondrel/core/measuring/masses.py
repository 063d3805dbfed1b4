"""Mass, centre of gravity and inertia of placed bodies with the materials of their parts.

Source: the rule of parallel axes (Huygens and Steiner), and the turning of a tensor, R J R^T; any textbook
of mechanics.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from gondrel.core.measuring.placed import BodyInPlace, scale_of
from gondrel.core.model.body import BodyFacts, BodyKind
from gondrel.core.model.mass import kilograms
from gondrel.core.model.measures import Mass

__all__ = ["mass_of"]


def mass_of(bodies: Sequence[BodyInPlace], facts: Mapping[str, BodyFacts]) -> Mass:
    """Mass properties of placed bodies together, solids alone have mass.

    Args:
        facts: measures by hash.

    Raises:
        KeyError: when a body was not measured.
    """
    volume = area = mass = 0.0
    moment, inertia = np.zeros(3), np.zeros((3, 3))
    without: dict[str, None] = {}
    for each in bodies:
        own, scale = facts[each.body.blob], scale_of(each.placement)
        area += own.area * scale**2
        if each.body.kind not in (BodyKind.SOLID, BodyKind.MESH) or own.volume <= 0.0:
            continue
        volume += own.volume * scale**3
        material = each.product.material
        if material is None or not material.density:
            without[each.product.label] = None
            continue
        matrix = np.asarray(each.placement, float).reshape(4, 4)
        turn = matrix[:3, :3] / scale
        own_mass = kilograms(own.volume * scale**3, material.density)
        centre = matrix[:3, :3] @ np.asarray(own.centroid) + matrix[:3, 3]
        about_own = (
            turn
            @ np.asarray(own.inertia_matrix).reshape(3, 3)
            @ turn.T
            * kilograms(scale**5, material.density)
        )
        mass += own_mass
        moment += own_mass * centre
        inertia += about_own + own_mass * _apart(centre)
    if without or not mass:
        return Mass(None, None, None, volume, area, tuple(without))
    middle = moment / mass
    about = inertia - mass * _apart(middle)
    x, y, z = (float(v) for v in middle)
    return Mass(mass, (x, y, z), tuple(float(v) for v in about.ravel()), volume, area)


def _apart(point: np.ndarray) -> np.ndarray:
    """What a unit mass at a point adds to the inertia about the origin, (3, 3)."""
    made: np.ndarray = float(point @ point) * np.eye(3) - np.outer(point, point)
    return made
