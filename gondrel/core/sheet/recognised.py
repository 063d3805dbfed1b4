"""Splines that are straight or round in all but name."""

from __future__ import annotations

import math

import numpy as np

from gondrel.core.model.outline import Arc, Curve, FlatLine, Spline
from gondrel.core.sheet.curve_sizes import curve_at

__all__ = ["recognised"]

_SPOTS = 65


def recognised(curve: Curve, within: float) -> Curve:
    """The line or arc that a spline is within a distance, mm; else the curve as it is.

    Source: the circle through three points; least distances of points on the way.
    """
    if not isinstance(curve, Spline):
        return curve
    points = curve_at(curve, np.linspace(curve.knots[0], curve.knots[-1], _SPOTS))
    start, middle, end = points[0], points[_SPOTS // 2], points[-1]
    chord = end - start
    length = float(np.linalg.norm(chord))
    if length > within:
        across = np.array([-chord[1], chord[0]]) / length
        steps = np.diff(points @ chord)
        if float(np.abs((points - start) @ across).max()) <= within and bool((steps > 0).all()):
            return FlatLine((float(start[0]), float(start[1])), (float(end[0]), float(end[1])))
    third = points[_SPOTS // 3] if length <= within else end
    one, other = middle - start, third - start
    twice = 2 * float(one[0] * other[1] - one[1] * other[0])
    if abs(twice) < 1e-12:
        return curve
    squares = float(one @ one), float(other @ other)
    x = (other[1] * squares[0] - one[1] * squares[1]) / twice
    y = (one[0] * squares[1] - other[0] * squares[0]) / twice
    centre, radius = start + np.array([x, y]), math.hypot(x, y)
    off = np.linalg.norm(points - centre, axis=1) - radius
    angles = np.unwrap(np.arctan2(points[:, 1] - centre[1], points[:, 0] - centre[0]))
    steps = np.diff(angles)
    if float(np.abs(off).max()) > within or not (bool((steps > 0).all()) or bool((steps < 0).all())):
        return curve
    first, last = sorted((float(angles[0]), float(angles[-1])))
    if last - first > 2 * math.pi - within / radius:
        last = first + 2 * math.pi
    return Arc((float(centre[0]), float(centre[1])), radius, first, last)
