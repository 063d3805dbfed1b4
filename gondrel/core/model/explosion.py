"""How far and which way each component goes when an assembly is taken apart; nothing of the model moves."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from gondrel.core.model.cutting import Vector
from gondrel.core.model.snapshot import Model

__all__ = ["Explosion", "Leave", "shifts_of"]


@dataclass(frozen=True, slots=True)
class Leave:
    """How a component leaves its assembly.

    Args:
        way: unit vector in the frame of the assembly; distance: at full spread, mm.
        order: when it goes, from 0; why: what says so, in words.
    """

    way: Vector
    distance: float
    order: int
    why: str


@dataclass(frozen=True, slots=True)
class Explosion:
    """How components leave, by occurrence id; those that stay are not in it.

    Args:
        depth: levels of the structure, so that it can be taken apart level by level.
    """

    leaves: Mapping[str, Leave] = field(default_factory=dict)
    depth: int = 1


def shifts_of(
    model: Model, explosion: Explosion, spread: float, level: int, own: Mapping[tuple[str, ...], float]
) -> dict[tuple[str, ...], Vector]:
    """By how much everything that moves is shifted, by its path, mm in the whole.

    Args:
        spread: 0 as it stands, 1 wholly apart; level: down to which level of the structure.
        own: how far single components are drawn out besides, mm along their way, by path.
    """
    shifts: dict[tuple[str, ...], Vector] = {}
    turns: dict[tuple[str, ...], np.ndarray] = {}
    for place in model.walk():
        turns[place.path] = np.asarray(place.placement, float).reshape(4, 4)[:3, :3]
        if not place.path:
            continue
        above = place.path[:-1]
        shift = np.asarray(shifts.get(above, (0.0, 0.0, 0.0)))
        leave = explosion.leaves.get(place.path[-1])
        far = own.get(place.path, 0.0)
        if leave is not None and (len(place.path) <= level or far):
            reach = (leave.distance * spread if len(place.path) <= level else 0.0) + far
            shift = shift + turns[above] @ np.asarray(leave.way) * reach
        if shift.any():
            x, y, z = (float(v) for v in shift)
            shifts[place.path] = (x, y, z)
    return shifts
