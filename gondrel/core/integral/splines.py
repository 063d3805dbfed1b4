"""B-spline functions and curves, many points at once."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from gondrel.core.work.late import late

__all__ = ["Basis", "SplinePath", "spline_points", "trimmed_spline"]

_interpolate = late("scipy.interpolate")

Floats = NDArray[np.float64]


class Basis:
    """The B-spline functions over some knots, kept as polynomials of each span once often asked for.

    Args:
        knots: with their multiplicities.
    """

    def __init__(self, knots: Floats, degree: int) -> None:
        self.degree = degree
        self.knots = knots
        inside = knots[degree : len(knots) - degree]
        self.breaks: Floats = inside[np.concatenate([[True], inside[1:] > inside[:-1]])]
        self.width = np.diff(self.breaks)
        self._asked = 0

    @cached_property
    def _terms(self) -> tuple[NDArray[np.int64], Floats]:
        """First pole of each span, and its functions by powers, (spans, degree + 1, degree + 1)."""
        count = self.degree + 1
        places = (1 - np.cos((np.arange(count) + 0.5) * np.pi / count)) / 2
        at = (self.breaks[:-1, None] + self.width[:, None] * places).ravel()
        first, values, _ = _basis(self.knots, self.degree, at)
        powers = np.vander(places, count, increasing=True)
        terms: Floats = np.linalg.solve(powers, values.reshape(-1, count, count)).astype(np.float64)
        return first[::count], terms

    def at(self, t: Floats) -> tuple[NDArray[np.int64], Floats, Floats]:
        """First pole of each parameter's span, the functions that are not zero there, and their slopes."""
        self._asked += 1
        if self._asked <= _FEW:
            return _basis(self.knots, self.degree, t)
        first, terms = self._terms
        span = np.clip(np.searchsorted(self.breaks, t, "right") - 1, 0, len(self.width) - 1)
        share = (t - self.breaks[span]) / self.width[span]
        powers = share[:, None] ** np.arange(self.degree + 1)
        slopes = np.zeros_like(powers)
        slopes[:, 1:] = powers[:, :-1] * np.arange(1, self.degree + 1) / self.width[span][:, None]
        return (
            first[span],
            np.matmul(powers[:, None], terms[span])[:, 0],
            np.matmul(slopes[:, None], terms[span])[:, 0],
        )


_FEW = 3
"""How often the functions are worked out from the knots before polynomials are made of them."""


@dataclass(frozen=True, slots=True)
class SplinePath:
    """A stretch of a B-spline curve, run from one parameter to another, which may be the lesser.

    Args:
        poles: (n, 3); weights: (n,) or None when all are one.
    """

    basis: Basis
    poles: Floats
    weights: Floats | None
    first: float
    last: float

    @classmethod
    def whole(cls, knots: Floats, degree: int, poles: Floats, weights: Floats | None) -> SplinePath:
        """A curve over all its range; knots with their multiplicities."""
        basis = Basis(knots, degree)
        return cls(basis, poles, weights, float(basis.breaks[0]), float(basis.breaks[-1]))


def spline_points(path: SplinePath, at: Floats) -> tuple[Floats, Floats]:
    """Points of a spline and its derivatives by the parameter, each (n, 3)."""
    poles = path.poles
    if path.weights is not None:
        poles = np.column_stack([poles * path.weights[:, None], path.weights])
    spline = _interpolate.BSpline.construct_fast(path.basis.knots, poles, path.basis.degree)
    value, slope = spline(at), spline(at, 1)
    if path.weights is None:
        return value, slope
    share = value[:, 3:]
    points = value[:, :3] / share
    return points, (slope[:, :3] - points * slope[:, 3:]) / share


def _basis(knots: Floats, degree: int, at: Floats) -> tuple[NDArray[np.int64], Floats, Floats]:
    """First pole of each parameter's span, the functions that are not zero there, and their slopes.

    Source: Piegl and Tiller, The NURBS Book, A2.2 and A2.3.
    """
    last = len(knots) - degree - 2
    span = np.clip(np.searchsorted(knots, at, "right") - 1, degree, last)
    while np.any(empty := knots[span] == knots[span + 1]):
        span = np.where(empty, span - 1, span)
    values = np.ones((len(at), 1))
    lower = values
    for order in range(1, degree + 1):
        lower = values
        values = np.zeros((len(at), order + 1))
        for j in range(order):
            left, right = knots[span + 1 - order + j], knots[span + 1 + j]
            share = lower[:, j] / (right - left)
            values[:, j] += share * (right - at)
            values[:, j + 1] += share * (at - left)
    slopes = np.zeros_like(values)
    for j in range(degree):
        width = knots[span + 1 + j] - knots[span + 1 - degree + j]
        share = degree * lower[:, j] / width
        slopes[:, j] -= share
        slopes[:, j + 1] += share
    return span - degree, values, slopes


_END = 1e-7
"""How near its end, as a share of its size, a spline counts as ending there."""


def trimmed_spline(path: SplinePath, ends: Floats, ahead: bool) -> SplinePath | None:
    """The stretch of a spline between two points of it, run backwards where it is not ahead.

    Args:
        ends: (2, 3) where it starts and ends along the curve.

    Returns: None when a point does not lie on it.
    """
    first, last = path.first, path.last
    size = float(np.ptp(path.poles, axis=0).max())
    points, _ = spline_points(path, np.array([first, last]))
    near = max(_END * size, 1e-6)
    off = np.linalg.norm(points - ends, axis=1)
    begin = first if off[0] <= near else _foot(path, ends[0], size)
    end = last if off[1] <= near else _foot(path, ends[1], size)
    if begin is None or end is None or not end > begin:
        return None
    return replace(path, first=begin, last=end) if ahead else replace(path, first=end, last=begin)


def _foot(path: SplinePath, point: Floats, size: float) -> float | None:
    """The parameter of the point of a spline nearest to another, None when that is far off."""
    at = np.linspace(path.first, path.last, 64 + 8 * len(path.basis.breaks))
    best = int(np.argmin(np.linalg.norm(spline_points(path, at)[0] - point, axis=1)))
    t, step = float(at[best]), float(at[1] - at[0])
    for _ in range(20):
        here, slope = (v[0] for v in spline_points(path, np.array([t])))
        square = float(slope @ slope)
        if not square > 0:
            break
        move = float(np.clip((point - here) @ slope / square, -step, step))
        t = float(np.clip(t + move, path.first, path.last))
        if abs(move) < 1e-14 * max(abs(t), 1.0):
            break
    off = float(np.linalg.norm(spline_points(path, np.array([t]))[0][0] - point))
    return t if off <= 1e-3 * max(size, 1e-300) else None
