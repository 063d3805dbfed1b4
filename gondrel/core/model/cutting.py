"""Planes that cut a model open: what they take away, and what of a ray or of points is left."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gondrel.core.model.geometry import Vector, vector_of
from gondrel.core.model.product import Placement

__all__ = ["CLEAR", "Cut", "CutPlane", "Vector", "box_cut"]

Floats = NDArray[np.float64]

_FLAT = 1e-12


@dataclass(frozen=True, slots=True)
class CutPlane:
    """A plane that cuts.

    Args:
        point: of the plane, mm; normal: to the side that is taken away, of any length but none.
    """

    point: Vector
    normal: Vector

    @property
    def unit(self) -> Floats:
        """The normal, of length 1. Raises ValueError where it has no length."""
        normal = np.asarray(self.normal, float)
        length = float(np.linalg.norm(normal))
        if not np.isfinite(length) or length < _FLAT:
            raise ValueError("the normal of a plane has no length")
        unit: Floats = normal / length
        return unit

    def heights(self, points: Floats) -> Floats:
        """How far points (n, 3) lie on the side that is taken away, mm, (n,)."""
        heights: Floats = (points - np.asarray(self.point, float)) @ self.unit
        return heights

    def seen_from(self, placement: Placement) -> CutPlane:
        """The plane in the frame of something placed by a matrix that moves, mirrors or scales alike."""
        matrix = np.asarray(placement, float).reshape(4, 4)
        inverse = np.linalg.inv(matrix)
        point = inverse[:3, :3] @ np.asarray(self.point, float) + inverse[:3, 3]
        return CutPlane(vector_of(point), vector_of(matrix[:3, :3].T @ self.unit))

    def turned(self) -> CutPlane:
        """The plane that takes the other side away."""
        return CutPlane(self.point, vector_of(-np.asarray(self.normal, float)))

    def moved(self, by: float) -> CutPlane:
        """The plane moved along its normal, mm."""
        return CutPlane(vector_of(np.asarray(self.point, float) + by * self.unit), self.normal)


@dataclass(frozen=True, slots=True)
class Cut:
    """One to three planes, or the six of a box.

    Args:
        keeps_within: False: what lies beyond all planes at once is taken away, a half, a quarter or an
            eighth. True: what lies beyond any of them, so that what is within a box is kept.
    """

    planes: tuple[CutPlane, ...] = ()
    keeps_within: bool = False

    def __bool__(self) -> bool:
        return bool(self.planes)

    def taken(self, points: Floats) -> NDArray[np.bool_]:
        """Which points (n, 3) are taken away, (n,)."""
        if not self.planes:
            return np.zeros(len(points), bool)
        beyond = np.stack([plane.heights(points) > 0.0 for plane in self.planes])
        return np.asarray(beyond.any(axis=0) if self.keeps_within else beyond.all(axis=0))

    def limits_of(self, index: int) -> tuple[CutPlane, ...]:
        """The planes that bound the cut face of one: only what none of them takes away is cut there."""
        others = [plane for place, plane in enumerate(self.planes) if place != index]
        return tuple(others if self.keeps_within else [plane.turned() for plane in others])

    def left_of(self, start: Floats, end: Floats) -> tuple[tuple[float, float], ...]:
        """The shares of a stretch from start to end that are left, as (from, to), in order."""
        if not self.planes:
            return ((0.0, 1.0),)
        ends = np.stack([start, end])
        inside = (0.0, 1.0)
        for plane in self.planes:
            first, last = plane.heights(ends)
            if not self.keeps_within:
                first, last = -first, -last
            inside = _clipped(inside, float(first), float(last))
        low, high = inside
        if self.keeps_within:
            return ((low, high),) if low < high else ()
        if low >= high:
            return ((0.0, 1.0),)
        return tuple((a, b) for a, b in ((0.0, low), (high, 1.0)) if a < b)


CLEAR = Cut()


def _clipped(stretch: tuple[float, float], first: float, last: float) -> tuple[float, float]:
    """What of a stretch has a height of at most 0, heights given at 0 and 1."""
    low, high = stretch
    if first > 0.0 and last > 0.0:
        return (1.0, 0.0)
    if first > 0.0:
        low = max(low, first / (first - last))
    elif last > 0.0:
        high = min(high, first / (first - last))
    return (low, high)


def box_cut(low: Vector, high: Vector) -> Cut:
    """The six planes of a box along the axes. Raises ValueError where it is empty."""
    if not all(a < b for a, b in zip(low, high, strict=True)):
        raise ValueError("the box is empty")
    planes = []
    for axis in range(3):
        way = np.eye(3)[axis]
        planes += [CutPlane(high, vector_of(way)), CutPlane(low, vector_of(-way))]
    return Cut(tuple(planes), keeps_within=True)
