"""Surfaces by two parameters: splines, swept and turned curves, tori that cross themselves."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise
from typing import Protocol

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from gondrel.core.integral.nodes import spline_points
from gondrel.core.integral.tables import SplinePath

__all__ = [
    "ArcPath",
    "CurvedPath",
    "LinePath",
    "Patch",
    "Path",
    "SplinePatch",
    "SweptPatch",
    "TorusPatch",
    "TurnedPatch",
    "closed_ways",
    "has_poles",
    "feet_on",
    "solved",
]

Floats = NDArray[np.float64]

_GRID = 24
_STEPS = 20
_CLOSED = 1e-9
"""Share of its size by which the borders of a patch may lie apart and count as one."""


class Patch(Protocol):
    """A surface over a rectangle of parameters; its natural normal is du x dv.

    u_breaks, v_breaks are the parameters between which it is smooth, from the least to the most.
    """

    u_breaks: Floats
    v_breaks: Floats

    def at(self, u: Floats, v: Floats) -> tuple[Floats, Floats, Floats]:
        """Points and derivatives by u and by v, each (n, 3)."""
        ...


class Path(Protocol):
    """A curve by one parameter."""

    breaks: Floats

    def at(self, t: Floats) -> tuple[Floats, Floats]:
        """Points and derivatives, each (n, 3)."""
        ...


@dataclass(frozen=True, slots=True)
class LinePath:
    """A straight line; its parameter is the distance from its point in lengths of its direction."""

    point: Floats
    direction: Floats
    breaks: Floats

    def at(self, t: Floats) -> tuple[Floats, Floats]:
        """Points and derivatives."""
        return self.point + t[:, None] * self.direction, np.broadcast_to(self.direction, (len(t), 3))


@dataclass(frozen=True, slots=True)
class ArcPath:
    """A circle or an ellipse by its angle; frame: (3, 3) centre and both radii as vectors."""

    frame: Floats
    breaks: Floats

    def at(self, t: Floats) -> tuple[Floats, Floats]:
        """Points and derivatives."""
        cos, sin = np.cos(t)[:, None], np.sin(t)[:, None]
        return self.frame[0] + cos * self.frame[1] + sin * self.frame[2], cos * self.frame[2] - sin * self.frame[1]


@dataclass(frozen=True, slots=True)
class CurvedPath:
    """A B-spline curve."""

    path: SplinePath
    breaks: Floats

    def at(self, t: Floats) -> tuple[Floats, Floats]:
        """Points and derivatives."""
        return spline_points(self.path, t)


@dataclass(frozen=True, slots=True)
class SweptPatch:
    """A curve (u) moved along a vector (v)."""

    section: Path
    direction: Floats
    v_breaks: Floats

    @property
    def u_breaks(self) -> Floats:
        """Those of the curve."""
        return self.section.breaks

    def at(self, u: Floats, v: Floats) -> tuple[Floats, Floats, Floats]:
        """Points and derivatives."""
        points, slopes = self.section.at(u)
        return points + v[:, None] * self.direction, slopes, np.broadcast_to(self.direction, points.shape)


@dataclass(frozen=True, slots=True)
class TurnedPatch:
    """A curve (v) turned about an axis (u, an angle)."""

    profile: Path
    point: Floats
    axis: Floats
    u_breaks: Floats

    @property
    def v_breaks(self) -> Floats:
        """Those of the curve."""
        return self.profile.breaks

    def at(self, u: Floats, v: Floats) -> tuple[Floats, Floats, Floats]:
        """Points and derivatives."""
        points, slopes = self.profile.at(v)
        arm = points - self.point
        return (
            self.point + _turned(arm, self.axis, u),
            _turned(np.cross(self.axis, arm), self.axis, u),
            _turned(slopes, self.axis, u),
        )


def _turned(vectors: Floats, axis: Floats, angle: Floats) -> Floats:
    """Vectors turned about an axis, by Rodrigues' formula."""
    cos, sin = np.cos(angle)[:, None], np.sin(angle)[:, None]
    along = (vectors @ axis)[:, None] * axis
    found: Floats = along + cos * (vectors - along) + sin * np.cross(axis, vectors)
    return found


@dataclass(frozen=True, slots=True)
class TorusPatch:
    """One part of a torus that crosses itself, between the points where it does; frame: (4, 3)."""

    frame: Floats
    major: float
    minor: float
    u_breaks: Floats
    v_breaks: Floats

    def at(self, u: Floats, v: Floats) -> tuple[Floats, Floats, Floats]:
        """Points and derivatives."""
        origin, x, y, z = self.frame
        ring = np.cos(u)[:, None] * x + np.sin(u)[:, None] * y
        across = np.cos(u)[:, None] * y - np.sin(u)[:, None] * x
        arm = (self.major + self.minor * np.cos(v))[:, None]
        points = origin + arm * ring + self.minor * np.sin(v)[:, None] * z
        return points, arm * across, self.minor * (np.cos(v)[:, None] * z - np.sin(v)[:, None] * ring)


@dataclass(frozen=True, slots=True)
class SplinePatch:
    """A B-spline surface; poles (nu, nv, 3), weights (nu, nv) or None; knots with their multiplicities."""

    degrees: tuple[int, int]
    knots: tuple[Floats, Floats]
    poles: Floats
    weights: Floats | None

    @property
    def u_breaks(self) -> Floats:
        """Distinct knots within the range."""
        return _range(self.knots[0], self.degrees[0])

    @property
    def v_breaks(self) -> Floats:
        """Distinct knots within the range."""
        return _range(self.knots[1], self.degrees[1])

    def at(self, u: Floats, v: Floats) -> tuple[Floats, Floats, Floats]:
        """Points and derivatives; Piegl and Tiller, The NURBS Book, A2.2, A2.3 and A4.4."""
        poles = self.poles
        if self.weights is not None:
            poles = np.concatenate([poles * self.weights[..., None], self.weights[..., None]], axis=2)
        (iu, bu, du), (iv, bv, dv) = (
            _basis(k, p, t) for k, p, t in zip(self.knots, self.degrees, (u, v), strict=True)
        )
        rows = iu[:, None] + np.arange(self.degrees[0] + 1)
        columns = iv[:, None] + np.arange(self.degrees[1] + 1)
        net = poles[rows[:, :, None], columns[:, None, :]]
        by_v = np.einsum("nabc,nb->nac", net, bv)
        point = np.einsum("nac,na->nc", by_v, bu)
        along_u = np.einsum("nac,na->nc", by_v, du)
        along_v = np.einsum("nac,na->nc", np.einsum("nabc,nb->nac", net, dv), bu)
        if self.weights is None:
            return point, along_u, along_v
        share = point[:, 3:]
        place = point[:, :3] / share
        return (
            place,
            (along_u[:, :3] - place * along_u[:, 3:]) / share,
            (along_v[:, :3] - place * along_v[:, 3:]) / share,
        )


def _range(knots: Floats, degree: int) -> Floats:
    inside = knots[degree : len(knots) - degree]
    found: Floats = np.unique(inside)
    return found


def _basis(knots: Floats, degree: int, at: Floats) -> tuple[NDArray[np.int64], Floats, Floats]:
    """First pole of each parameter's span, the functions that are not zero there, and their slopes."""
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


def feet_on(patch: Patch, points: Floats) -> tuple[Floats, Floats, Floats]:
    """Parameters of the feet of points near a patch, each (n,), and how far off they are.

    Source: Newton's method (Gauss-Newton) from the nearest of a grid of points.
    """
    grid = [_spread(breaks) for breaks in (patch.u_breaks, patch.v_breaks)]
    us, vs = (g.ravel() for g in np.meshgrid(*grid, indexing="ij"))
    tree = cKDTree(patch.at(us, vs)[0])
    closed = closed_ways(patch)
    apart, nearest = tree.query(points, k=min(_STARTS, len(us)))
    nearest = nearest.reshape(len(points), -1)
    u, v, away = _foot_from(patch, points, us[nearest[:, 0]], vs[nearest[:, 0]], closed)
    spread = _NEAR * float(np.ptp(tree.data, axis=0).max())
    for start in range(1, nearest.shape[1]):
        rows = np.flatnonzero(away > spread)
        if not len(rows):
            break
        begin = nearest[rows, start]
        u2, v2, away2 = _foot_from(patch, points[rows], us[begin], vs[begin], closed)
        better = away2 < away[rows]
        u[rows[better]], v[rows[better]], away[rows[better]] = u2[better], v2[better], away2[better]
    return u, v, away


_STARTS, _NEAR = 8, 1e-9
"""How many grid points are tried where Newton's method does not come near, and how near is near, as a
share of the patch's size."""


def _foot_from(
    patch: Patch, points: Floats, u: Floats, v: Floats, closed: tuple[bool, bool]
) -> tuple[Floats, Floats, Floats]:
    low = np.array([patch.u_breaks[0], patch.v_breaks[0]])
    high = np.array([patch.u_breaks[-1], patch.v_breaks[-1]])
    u, v = u.copy(), v.copy()
    active = np.arange(len(u))
    for _ in range(_STEPS):
        here, du, dv = patch.at(u[active], v[active])
        off = points[active] - here
        a, b, c = (np.einsum("ij,ij->i", x, y) for x, y in ((du, du), (du, dv), (dv, dv)))
        e, f = np.einsum("ij,ij->i", du, off), np.einsum("ij,ij->i", dv, off)
        step_u, step_v = solved(a, b, c, e, f)
        before = u[active], v[active]
        u[active] = _kept(before[0] + step_u, low[0], high[0], closed[0])
        v[active] = _kept(before[1] + step_v, low[1], high[1], closed[1])
        moved = np.abs(u[active] - before[0]) / (high[0] - low[0])
        moved = np.maximum(moved, np.abs(v[active] - before[1]) / (high[1] - low[1]))
        active = active[moved > _STILL]
        if not len(active):
            break
    return u, v, np.linalg.norm(points - patch.at(u, v)[0], axis=1)


_STILL = 1e-11
"""Step, as a share of the range of parameters, at which Newton's method rests."""


def solved(a: Floats, b: Floats, c: Floats, e: Floats, f: Floats) -> tuple[Floats, Floats]:
    """Solutions of the symmetric systems a x + b y = e, b x + c y = f; of each alone where they are one."""
    det = a * c - b * b
    fine = det > 1e-16 * np.maximum(a * c, 1e-300)
    det = np.where(fine, det, 1.0)
    return (
        np.where(fine, (c * e - b * f) / det, np.where(a > 0, e / np.maximum(a, 1e-300), 0.0)),
        np.where(fine, (a * f - b * e) / det, np.where(c > 0, f / np.maximum(c, 1e-300), 0.0)),
    )


def _kept(t: Floats, low: float, high: float, wraps: bool) -> Floats:
    return low + np.mod(t - low, high - low) if wraps else np.clip(t, low, high)


def _spread(breaks: Floats) -> Floats:
    """Parameters over all spans, at least a grid's worth."""
    per = max(_GRID // max(len(breaks) - 1, 1), 3)
    parts = [np.linspace(a, b, per, endpoint=False) for a, b in pairwise(breaks)]
    return np.concatenate([*parts, breaks[-1:]])


def closed_ways(patch: Patch) -> tuple[bool, bool]:
    """Whether a patch meets itself by u and by v."""
    found = []
    size = None
    for way in range(2):
        ends = (patch.u_breaks, patch.v_breaks)[way]
        other = _spread((patch.v_breaks, patch.u_breaks)[way])
        sides = []
        for end in (ends[0], ends[-1]):
            fixed = np.full(len(other), end)
            sides.append(patch.at(fixed, other)[0] if way == 0 else patch.at(other, fixed)[0])
        if size is None:
            size = float(np.ptp(np.concatenate(sides), axis=0).max())
        apart = np.linalg.norm(sides[0] - sides[1], axis=1).max()
        extent = max(size, float(np.ptp(np.concatenate(sides), axis=0).max()), 1e-300)
        found.append(bool(apart <= max(_CLOSED * extent, 1e-7) and np.ptp(sides[0], axis=0).max() > 0))
    return found[0], found[1]


def has_poles(patch: Patch) -> tuple[bool, bool]:
    """Whether a side at the ends of u, and one at the ends of v, is a single point."""
    found = []
    for way in range(2):
        ends = (patch.u_breaks, patch.v_breaks)[way][[0, -1]]
        other = _spread((patch.v_breaks, patch.u_breaks)[way])
        sizes = []
        for end in ends:
            fixed = np.full(len(other), end)
            side = patch.at(fixed, other)[0] if way == 0 else patch.at(other, fixed)[0]
            sizes.append(float(np.ptp(side, axis=0).max()))
        extent = float(np.ptp(patch.at(*(np.array(b[[0, -1, 0, -1]]) if n else np.array(b[[0, 0, -1, -1]])
                                         for n, b in enumerate((patch.u_breaks, patch.v_breaks))))[0],
                              axis=0).max())  # fmt: skip
        found.append(min(sizes) <= _CLOSED * max(*sizes, extent, 1e-300))
    return found[0], found[1]
