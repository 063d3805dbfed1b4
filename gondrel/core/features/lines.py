"""Axes and directions compared."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from gondrel.core.model.geometry import Vector

__all__ = ["SAME", "is_across", "is_along", "off_axis", "same_axis"]

Floats = NDArray[np.float64]

SAME = 1e-4
"""How far apart, mm, axes and sizes of one feature may be."""

_ALONG = 1e-6
"""Cosine by which directions may miss being parallel; the square of an angle of 1.4e-3 halved."""


def is_along(one: Vector, other: Vector) -> bool:
    """Whether two unit directions are parallel, whichever way they point."""
    return abs(float(np.dot(one, other))) > 1 - _ALONG


def is_across(one: Vector, other: Vector) -> bool:
    """Whether two unit directions are square to one another."""
    return abs(float(np.dot(one, other))) < 1e-3


def off_axis(at: Vector, foot: Vector, way: Vector) -> float:
    """How far a point lies from an axis, mm."""
    away = np.subtract(at, foot)
    return float(np.linalg.norm(away - (away @ np.asarray(way)) * np.asarray(way)))


def same_axis(at: Vector, way: Vector, other_at: Vector, other_way: Vector) -> bool:
    """Whether two axes are one."""
    return is_along(way, other_way) and off_axis(at, other_at, other_way) < SAME
