"""Surfaces by two parameters: splines, swept and turned curves, tori that cross themselves."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from gondrel.core.integral.splines import Basis, SplinePath, spline_points
from gondrel.core.work.late import late

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
    "feet_on",
    "has_poles",
    "solved",
]

_spatial = late("scipy.spatial")

Floats = NDArray[np.float64]

_GRID = 24
_STEPS = 20
_MEET = 1e-5
"""How near, as a share of its size, the borders of a patch may come before it leaves doubt."""

_CLOSED = 1e-9
"""Share of its size by which the borders of a patch may lie apart and count as one."""


class Patch(Protocol):
    """A surface over a rectangle of parameters; its natural normal is du x dv.

    u_breaks, v_breaks are the parameters between which it is smooth, from the least to the most;
    leaves_doubt tells whether it may meet itself or end in a point, so that loops alone do not say which
    side of them is meant.
    """

    @property
    def u_breaks(self) -> Floats:
        """Parameters between which it is smooth."""
        ...

    @property
    def v_breaks(self) -> Floats:
        """Parameters between which it is smooth."""
        ...

    @property
    def leaves_doubt(self) -> bool:
        """Whether it may meet itself or end in a point."""
        ...

    def __hash__(self) -> int:
        """Patches are told apart by identity."""
        ...

    def at(self, u: Floats, v: Floats) -> tuple[Floats, Floats, Floats]:
        """Points and derivatives by u and by v, each (n, 3)."""
        ...


class Path(Protocol):
    """A curve by one parameter."""

    @property
    def breaks(self) -> Floats:
        """Parameters between which it is smooth."""
        ...

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
        return self.frame[0] + cos * self.frame[1] + sin * self.frame[2], cos * self.frame[
            2
        ] - sin * self.frame[1]


@dataclass(frozen=True, slots=True)
class CurvedPath:
    """A B-spline curve."""

    path: SplinePath
    breaks: Floats

    def at(self, t: Floats) -> tuple[Floats, Floats]:
        """Points and derivatives."""
        return spline_points(self.path, t)


@dataclass(frozen=True, slots=True, eq=False)
class SweptPatch:
    """A curve (u) moved along a vector (v)."""

    section: Path
    direction: Floats
    v_breaks: Floats

    @property
    def u_breaks(self) -> Floats:
        """Those of the curve."""
        return self.section.breaks

    @property
    def leaves_doubt(self) -> bool:
        """Whether the curve ends where it begins."""
        ends = self.section.at(self.section.breaks[[0, -1]])[0]
        return bool(np.linalg.norm(ends[1] - ends[0]) <= _MEET * max(float(np.abs(ends).max()), 1.0))

    def at(self, u: Floats, v: Floats) -> tuple[Floats, Floats, Floats]:
        """Points and derivatives."""
        points, slopes = self.section.at(u)
        return points + v[:, None] * self.direction, slopes, np.broadcast_to(self.direction, points.shape)


@dataclass(frozen=True, slots=True, eq=False)
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

    @property
    def leaves_doubt(self) -> bool:
        """It meets itself."""
        return True

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
    turned: Floats = along + cos * (vectors - along) + sin * np.cross(axis, vectors)
    return turned


@dataclass(frozen=True, slots=True, eq=False)
class TorusPatch:
    """One part of a torus that crosses itself, between the points where it does; frame: (4, 3)."""

    frame: Floats
    major: float
    minor: float
    u_breaks: Floats
    v_breaks: Floats

    @property
    def leaves_doubt(self) -> bool:
        """It meets itself."""
        return True

    def at(self, u: Floats, v: Floats) -> tuple[Floats, Floats, Floats]:
        """Points and derivatives."""
        origin, x, y, z = self.frame
        ring = np.cos(u)[:, None] * x + np.sin(u)[:, None] * y
        across = np.cos(u)[:, None] * y - np.sin(u)[:, None] * x
        arm = (self.major + self.minor * np.cos(v))[:, None]
        points = origin + arm * ring + self.minor * np.sin(v)[:, None] * z
        return points, arm * across, self.minor * (np.cos(v)[:, None] * z - np.sin(v)[:, None] * ring)


@dataclass(frozen=True, slots=True, eq=False)
class SplinePatch:
    """A B-spline surface; poles (nu, nv, 3), weights (nu, nv) or None when all are one."""

    u: Basis
    v: Basis
    poles: Floats
    weights: Floats | None

    @property
    def u_breaks(self) -> Floats:
        """Distinct knots within the range."""
        return self.u.breaks

    @property
    def v_breaks(self) -> Floats:
        """Distinct knots within the range."""
        return self.v.breaks

    @property
    def leaves_doubt(self) -> bool:
        """Whether opposite borders of its net meet, or all points of a border do."""
        net = self.poles
        near = _MEET * max(float(np.ptp(net.reshape(-1, 3), axis=0).max()), 1e-300)
        borders = (net[0], net[-1]), (net[:, 0], net[:, -1])
        meets = any(np.linalg.norm(a - b, axis=1).max() <= near for a, b in borders)
        return meets or any(np.ptp(side, axis=0).max() <= near for pair in borders for side in pair)

    def at(self, u: Floats, v: Floats) -> tuple[Floats, Floats, Floats]:
        """Points and derivatives; those of a rational one as in Piegl and Tiller, The NURBS Book, 4.3."""
        poles = self.poles
        if self.weights is not None:
            poles = np.concatenate([poles * self.weights[..., None], self.weights[..., None]], axis=2)
        (iu, bu, du), (iv, bv, dv) = self.u.at(u), self.v.at(v)
        rows = iu[:, None] + np.arange(self.u.degree + 1)
        columns = iv[:, None] + np.arange(self.v.degree + 1)
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


def feet_on(patch: Patch, points: Floats) -> tuple[Floats, Floats, Floats]:
    """Parameters of the feet of points near a patch, each (n,), and how far off they are.

    Source: Newton's method (Gauss-Newton) from the nearest of a grid of points.
    """
    grid = [_spread(breaks) for breaks in (patch.u_breaks, patch.v_breaks)]
    us, vs = (g.ravel() for g in np.meshgrid(*grid, indexing="ij"))
    tree = _spatial.cKDTree(patch.at(us, vs)[0])
    closed = closed_ways(patch)
    _apart, nearest = tree.query(points, k=min(_STARTS, len(us)))
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
    return _form(patch)[0]


@lru_cache(maxsize=64)
def _form(patch: Patch) -> tuple[tuple[bool, bool], tuple[bool, bool]]:
    """Whether a patch meets itself, and whether a side of it is a point, by u and by v."""
    sides: list[tuple[Floats, Floats]] = []
    for way, breaks in enumerate((patch.u_breaks, patch.v_breaks)):
        other = _spread((patch.v_breaks, patch.u_breaks)[way])
        fixed = np.repeat(breaks[[0, -1]], len(other))
        both = np.tile(other, 2)
        points = patch.at(fixed, both)[0] if way == 0 else patch.at(both, fixed)[0]
        sides.append((points[: len(other)], points[len(other) :]))
    extent = max(float(np.ptp(np.concatenate(pair), axis=0).max()) for pair in sides)
    closed, poles = [], []
    for one, two in sides:
        sizes = [float(np.ptp(side, axis=0).max()) for side in (one, two)]
        apart = float(np.linalg.norm(one - two, axis=1).max())
        closed.append(apart <= max(_CLOSED * extent, 1e-7) and max(sizes) > 0)
        poles.append(min(sizes) <= _CLOSED * extent)
    return (closed[0], closed[1]), (poles[0], poles[1])


def has_poles(patch: Patch) -> tuple[bool, bool]:
    """Whether a side at the ends of u, and one at the ends of v, is a single point."""
    return _form(patch)[1]
