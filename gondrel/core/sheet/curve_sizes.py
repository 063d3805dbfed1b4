"""Lengths of curves of a sheet, where they start and end, and what they enclose."""

from __future__ import annotations

import math
from collections.abc import Iterable
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from gondrel.core.model.outline import Arc, Curve, FlatEllipse, FlatLine, Point, Polyline, Spline
from gondrel.core.work.late import late

__all__ = ["curve_at", "curve_length", "ends_of", "swept_area", "tangents_of", "whole_length"]

_special = late("scipy.special")
_interpolate = late("scipy.interpolate")

Floats = NDArray[np.float64]

_GAUSS = 24
_ALIKE = 1e-13
_DEEPEST = 14


def ends_of(curve: Curve) -> tuple[Point, Point]:
    """Where a curve starts and ends, mm."""
    if isinstance(curve, FlatLine):
        return curve.start, curve.end
    if isinstance(curve, Polyline):
        return curve.points[0], curve.points[-1]
    if isinstance(curve, Spline):
        first, last = curve_at(curve, np.array([curve.knots[0], curve.knots[-1]])).tolist()
    else:
        first, last = curve_at(curve, np.array([curve.start, curve.end])).tolist()
    return (first[0], first[1]), (last[0], last[1])


def curve_at(curve: Curve, at: Floats) -> Floats:
    """Points (n, 2) of a curve at parameters: 0 to 1 of lines, rad of arcs and ellipses, a spline's own."""
    if isinstance(curve, FlatLine):
        start, end = np.array(curve.start), np.array(curve.end)
        return np.asarray(start + at[:, None] * (end - start))
    if isinstance(curve, Polyline):
        steps = np.linspace(0.0, 1.0, len(curve.points))
        return np.stack([np.interp(at, steps, row) for row in np.array(curve.points).T], axis=1)
    if isinstance(curve, Spline):
        return _spline_points(curve, at)[0]
    one, other = _axes(curve)
    return np.asarray(np.array(curve.centre) + np.cos(at)[:, None] * one + np.sin(at)[:, None] * other)


def tangents_of(curve: Curve) -> tuple[Floats, Floats]:
    """Unit vectors along a curve at its start and at its end."""
    if isinstance(curve, FlatLine):
        along = np.subtract(curve.end, curve.start)
        ways = np.stack([along, along])
    elif isinstance(curve, Polyline):
        points = np.array(curve.points)
        ways = np.stack([points[1] - points[0], points[-1] - points[-2]])
    elif isinstance(curve, Spline):
        ways = _spline_points(curve, np.array([curve.knots[0], curve.knots[-1]]))[1]
    else:
        one, other = _axes(curve)
        at = np.array([curve.start, curve.end])[:, None]
        ways = -np.sin(at) * one + np.cos(at) * other
    ways = ways / np.maximum(np.linalg.norm(ways, axis=1), 1e-300)[:, None]
    return ways[0], ways[1]


def curve_length(curve: Curve) -> float:
    """The length of a curve, mm.

    Source: an arc's radius times its angle; an ellipse's incomplete elliptic integral of the second kind,
    Abramowitz and Stegun 17.2.8; Gauss-Legendre quadrature of a spline's speed, halved until it stands.
    """
    if isinstance(curve, FlatLine):
        return math.dist(curve.start, curve.end)
    if isinstance(curve, Polyline):
        return sum(math.dist(a, b) for a, b in pairwise(curve.points))
    if isinstance(curve, Arc):
        return curve.radius * (curve.end - curve.start)
    if isinstance(curve, FlatEllipse):
        wide, square = math.hypot(*curve.major), 1.0 - curve.ratio**2
        quarter = math.pi / 2
        ends = _special.ellipeinc(np.array([curve.start + quarter, curve.end + quarter]), square)
        return float(wide * (ends[1] - ends[0]))

    def speed(at: Floats) -> Floats:
        return np.asarray(np.linalg.norm(_spline_points(curve, at)[1], axis=1))

    return sum(_halved(speed, a, b) for a, b in pairwise(np.unique(curve.knots).tolist()))


def swept_area(curve: Curve) -> float:
    """Half the integral of x dy - y dx along a curve, mm2: summed over a closed outline, its area.

    Source: Green's theorem; lines, arcs and ellipses in closed form, splines by Gauss-Legendre quadrature.
    """
    if isinstance(curve, FlatLine):
        (a, b), (c, d) = curve.start, curve.end
        return (a * d - b * c) / 2
    if isinstance(curve, Polyline):
        return sum(a * d - b * c for (a, b), (c, d) in pairwise(curve.points)) / 2
    if isinstance(curve, Spline):

        def sweep(at: Floats) -> Floats:
            points, speeds = _spline_points(curve, at)
            return np.asarray((points[:, 0] * speeds[:, 1] - points[:, 1] * speeds[:, 0]) / 2)

        return sum(_halved(sweep, a, b) for a, b in pairwise(np.unique(curve.knots).tolist()))
    one, other = _axes(curve)
    (x, y), s, e = curve.centre, curve.start, curve.end
    reach = (math.cos(e) - math.cos(s)) * one + (math.sin(e) - math.sin(s)) * other
    cross = one[0] * other[1] - one[1] * other[0]
    return float(x * reach[1] - y * reach[0] + cross * (e - s)) / 2


def _axes(curve: Arc | FlatEllipse) -> tuple[Floats, Floats]:
    if isinstance(curve, Arc):
        return np.array([curve.radius, 0.0]), np.array([0.0, curve.radius])
    wide = np.array(curve.major)
    return wide, curve.ratio * np.array([-wide[1], wide[0]])


def _spline_points(curve: Spline, at: Floats) -> tuple[Floats, Floats]:
    """Points and derivatives, (n, 2) each. Source: de Boor's rule and the quotient rule."""
    weights = np.asarray(curve.weights) if curve.weights else np.ones(len(curve.poles))
    poles = np.column_stack([np.asarray(curve.poles) * weights[:, None], weights])
    spline = _interpolate.BSpline(np.asarray(curve.knots), poles, curve.degree)
    values, slopes = spline(at), spline.derivative()(at)
    points = values[:, :2] / values[:, 2:]
    return points, (slopes[:, :2] - points * slopes[:, 2:]) / values[:, 2:]


def _halved(of: object, a: float, b: float) -> float:
    """The integral of a function over a stretch, halved until two rules agree."""
    return _integral(of, a, b, _gauss(of, a, b), _DEEPEST)


def _integral(of: object, a: float, b: float, whole: float, left: int) -> float:
    middle = (a + b) / 2
    one, other = _gauss(of, a, middle), _gauss(of, middle, b)
    if left == 0 or abs(one + other - whole) <= _ALIKE * max(abs(whole), 1e-12):
        return one + other
    return _integral(of, a, middle, one, left - 1) + _integral(of, middle, b, other, left - 1)


def _gauss(of: object, a: float, b: float) -> float:
    at, weights = np.polynomial.legendre.leggauss(_GAUSS)
    values = of((a + b) / 2 + (b - a) / 2 * at)  # type: ignore[operator]
    return float((b - a) / 2 * (weights @ values))


def whole_length(curves: Iterable[Curve]) -> float:
    """The length of all curves together, mm."""
    return math.fsum(map(curve_length, curves))
