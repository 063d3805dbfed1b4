"""Looks inside splines: where they cross themselves, fold over, or are run through unevenly.

Everything is found by sampling and then settled by Gauss-Newton steps on the curve or surface itself.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import partial

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Tool
from OCP.BRepTools import BRepTools
from OCP.Geom import Geom_BSplineCurve, Geom_BSplineSurface
from OCP.gp import gp_Pnt, gp_Pnt2d, gp_Vec
from OCP.IntTools import IntTools_FClass2d
from OCP.TopAbs import TopAbs_State
from OCP.TopoDS import TopoDS_Face

from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.inspect.inspection import Inspection
from gondrel.core.work.late import late

__all__ = [
    "Evenness",
    "Uneven",
    "crossings_of_curves",
    "crossings_of_surfaces",
    "curve_crossing",
    "curve_evenness",
    "folds_of_surfaces",
    "is_gentle",
    "surface_crossing",
    "surface_evenness",
    "uneven_splines",
]

_spatial = late("scipy.spatial")

Floats = NDArray[np.float64]
Point = tuple[float, float, float]

_PER_SPAN = 6
_LEAST, _MOST = 48, 600
_GRID = 24
_FAR = 0.04
"""Share of the parameter range that two places must lie apart to be two."""

_MET = 1e-4
"""How near two places of a curve or surface must come to one another to count as a crossing, mm."""


@dataclass(frozen=True, slots=True)
class Evenness:
    """How a spline is run through.

    Args:
        ratio: largest by smallest speed along it; slow_at: where it is slowest, mm.
        turn: for a surface the least cosine between normals of neighbouring samples, -1 where it folds
            over; turn_at: where, mm.
    """

    ratio: float
    slow_at: Point
    turn: float = 1.0
    turn_at: Point = (0.0, 0.0, 0.0)


def _curve_samples(curve: Geom_BSplineCurve, first: float, last: float) -> tuple[Floats, Floats, Floats]:
    """Parameters, points and derivatives along a curve; knots are among the parameters."""
    count = min(max(_LEAST, _PER_SPAN * curve.NbPoles()), _MOST)
    at = np.linspace(first, last, count)
    points, speeds = [], []
    for t in at.tolist():
        point, speed = gp_Pnt(), gp_Vec()
        curve.D1(t, point, speed)
        points.append(point.Coord())
        speeds.append(speed.Coord())
    return at, np.array(points), np.array(speeds)


def curve_evenness(curve: Geom_BSplineCurve, first: float, last: float) -> Evenness:
    """How evenly a stretch of a curve is run through by its parameter."""
    _, points, speeds = _curve_samples(curve, first, last)
    sizes = np.linalg.norm(speeds, axis=1)
    slow = int(np.argmin(sizes))
    ratio = float(sizes.max() / sizes[slow]) if sizes[slow] > 0 else float("inf")
    return Evenness(ratio, tuple(points[slow].tolist()))


def curve_crossing(curve: Geom_BSplineCurve, first: float, last: float) -> Point | None:
    """A point in which a stretch of a curve crosses or touches itself, mm; None when it does not."""
    if curve.NbPoles() <= 3:
        return None  # an arc of a conic at most
    at, points, _ = _curve_samples(curve, first, last)
    step = float(np.linalg.norm(np.diff(points, axis=0), axis=1).max())
    span = last - first
    closed = bool(np.linalg.norm(points[0] - points[-1]) < _MET)
    for i, j in _spatial.cKDTree(points).query_pairs(step):
        apart = abs(at[i] - at[j]) / span
        if min(apart, 1 - apart if closed else 1.0) < _FAR:
            continue
        met = _settled(
            lambda p: _at_curve(curve, p, first, last), np.array([at[i]]), np.array([at[j]]), span
        )
        if met is None:
            continue
        one, other, where = met
        apart = abs(float(one[0] - other[0])) / span
        if min(apart, 1 - apart if closed else 1.0) >= _FAR / 2:
            return where
    return None


At = Callable[[Floats], tuple[Floats, Floats]]
"""Parameters (1 or 2) to the point (3,) and its derivatives (3, 1 or 2)."""


def _at_curve(curve: Geom_BSplineCurve, p: Floats, first: float, last: float) -> tuple[Floats, Floats]:
    point, speed = gp_Pnt(), gp_Vec()
    p[:] = np.clip(p, first, last)
    curve.D1(float(p[0]), point, speed)
    return np.array(point.Coord()), np.array(speed.Coord()).reshape(3, 1)


def _settled(
    at: At, one: Floats, other: Floats, span: float | Floats, met: float = _MET
) -> tuple[Floats, Floats, Point] | None:
    """Two places brought together by Gauss-Newton steps; None when they stay apart."""
    count = len(one)
    for _ in range(25):
        p, dp = at(one)
        q, dq = at(other)
        away = q - p
        if np.linalg.norm(away) < met / 100:
            break
        step, *_ = np.linalg.lstsq(np.hstack([dp, -dq]), away, rcond=1e-10)
        limit = 0.1 * np.asarray(span)
        one = one + np.clip(step[:count], -limit, limit)
        other = other + np.clip(step[count:], -limit, limit)
    p, _ = at(one)
    q, _ = at(other)
    if np.linalg.norm(q - p) > met:
        return None
    return one, other, tuple((0.5 * (p + q)).tolist())


Grid = tuple[Floats, Floats, Floats, NDArray[np.bool_]]


def _bounds(face: TopoDS_Face) -> tuple[float, float, float, float]:
    u1, u2, v1, v2 = BRepTools.UVBounds_s(face)
    return u1, u2, v1, v2


def _surface_grid(surface: Geom_BSplineSurface, face: TopoDS_Face) -> Grid:
    """Parameters (n, n, 2), points and du, dv (n, n, 2, 3), and which of them lie within the face."""
    u1, u2, v1, v2 = _bounds(face)
    inside = IntTools_FClass2d(face, 1e-9)
    us = np.linspace(u1, u2, _GRID + 1)
    vs = np.linspace(v1, v2, _GRID + 1)
    at = np.stack(np.meshgrid(us, vs, indexing="ij"), axis=2)
    points = np.zeros((*at.shape[:2], 3))
    ways = np.zeros((*at.shape[:2], 2, 3))
    within = np.zeros(at.shape[:2], bool)
    point, du, dv = gp_Pnt(), gp_Vec(), gp_Vec()
    for i, u in enumerate(us.tolist()):
        for j, v in enumerate(vs.tolist()):
            surface.D1(u, v, point, du, dv)
            points[i, j] = point.Coord()
            ways[i, j] = (du.Coord(), dv.Coord())
            within[i, j] = inside.Perform(gp_Pnt2d(u, v)) != TopAbs_State.TopAbs_OUT
    return at, points, ways, within


def surface_evenness(surface: Geom_BSplineSurface, face: TopoDS_Face, grid: Grid | None = None) -> Evenness:
    """How evenly the part of a surface within a face is run through, and whether its normal turns over."""
    _, points, ways, within = grid or _surface_grid(surface, face)
    sizes = np.linalg.norm(ways, axis=3)
    inner = within.copy()
    inner[[0, -1], :] = inner[:, [0, -1]] = False  # a pole at the border is told by its edge
    worst, where = 1.0, (0.0, 0.0, 0.0)
    for k in range(2):
        values = np.where(inner, sizes[:, :, k], np.nan)
        if not inner.any():
            continue
        slow = np.unravel_index(int(np.nanargmin(values)), values.shape)
        low, high = float(values[slow]), float(np.nanmax(values))
        ratio = high / low if low > 0 else float("inf")
        if ratio > worst:
            worst, where = ratio, tuple(points[slow].tolist())
    turn, turn_at = _least_turn(points, ways, inner)
    return Evenness(worst, where, turn, turn_at)


def _least_turn(points: Floats, ways: Floats, inner: NDArray[np.bool_]) -> tuple[float, Point]:
    normals = np.cross(ways[:, :, 0], ways[:, :, 1])
    sizes = np.linalg.norm(normals, axis=2)
    scale = float(sizes[inner].max()) if inner.any() else 0.0
    if scale <= 0.0:
        return (-1.0, tuple(points[0, 0].tolist())) if inner.any() else (1.0, (0.0, 0.0, 0.0))
    gone = inner & (sizes < 1e-9 * scale)
    if gone.any():
        i, j = np.argwhere(gone)[0]
        return -1.0, tuple(points[i, j].tolist())
    units = normals / np.maximum(sizes, 1e-300)[:, :, None]
    least, at = 1.0, (0.0, 0.0, 0.0)
    for axis in (0, 1):
        one = np.delete(units, -1, axis=axis)
        other = np.delete(units, 0, axis=axis)
        both = np.delete(inner, -1, axis=axis) & np.delete(inner, 0, axis=axis)
        cosines = np.where(both, (one * other).sum(axis=2), 1.0)
        i, j = np.unravel_index(int(np.argmin(cosines)), cosines.shape)
        if cosines[i, j] < least:
            least = float(cosines[i, j])
            at = tuple(np.delete(points, -1, axis=axis)[i, j].tolist())
    return least, at


def surface_crossing(
    surface: Geom_BSplineSurface, face: TopoDS_Face, grid: Grid | None = None
) -> Point | None:
    """A point in which the part of a surface within a face crosses itself, mm; None when it does not."""
    at, points, ways, within = grid or _surface_grid(surface, face)
    u1, u2, v1, v2 = _bounds(face)
    span = np.array([u2 - u1, v2 - v1])
    flat, where = points[within], at[within]
    speeds = np.linalg.norm(ways[within], axis=2)
    if len(flat) < 2:
        return None
    closed = _closed_in(points)
    reach = 0.75 * float((speeds * span / _GRID).max())
    pairs = _spatial.cKDTree(flat).query_pairs(reach, output_type="ndarray")
    inside = IntTools_FClass2d(face, 1e-9)
    met = min(_MET, 1e-5 * float(np.linalg.norm(np.ptp(flat, axis=0))))
    at_surface = partial(_at_surface, surface, low=(u1, v1), high=(u2, v2))
    for i, j in pairs[_turned_back(flat, where, speeds, span, closed, pairs)][:_MOST_TRIED]:
        if not _are_apart(where[i], where[j], span, closed, 3.5 / _GRID):
            continue
        crossing = _settled(at_surface, where[i].copy(), where[j].copy(), span, met)
        if crossing is not None and _are_apart(crossing[0], crossing[1], span, closed, 1.5 / _GRID):
            ends = [inside.Perform(gp_Pnt2d(*map(float, p))) for p in crossing[:2]]
            if all(end == TopAbs_State.TopAbs_IN for end in ends):
                return crossing[2]
    return None


_MOST_TRIED = 200


def _turned_back(
    points: Floats,
    where: Floats,
    speeds: Floats,
    span: Floats,
    closed: tuple[bool, bool],
    pairs: NDArray[np.int64],
) -> NDArray[np.bool_]:
    """Pairs that lie much nearer in space than the way between them along the surface is long."""
    one, other = pairs[:, 0], pairs[:, 1]
    steps = np.abs(where[one] - where[other])
    steps = np.where(closed, np.minimum(steps, span - steps), steps)
    ways = np.hypot(*(steps * 0.5 * (speeds[one] + speeds[other])).T)
    turned_back: NDArray[np.bool_] = np.linalg.norm(points[one] - points[other], axis=1) < 0.4 * ways
    return turned_back


def _closed_in(points: Floats) -> tuple[bool, bool]:
    return (
        bool(np.linalg.norm(points[0] - points[-1], axis=1).max() < _MET),
        bool(np.linalg.norm(points[:, 0] - points[:, -1], axis=1).max() < _MET),
    )


def _are_apart(one: Floats, other: Floats, span: Floats, closed: tuple[bool, bool], least: float) -> bool:
    shares = np.abs(one - other) / span
    shares = np.where(closed, np.minimum(shares, 1 - shares), shares)
    return bool(shares.max() > least)


def _at_surface(
    surface: Geom_BSplineSurface, p: Floats, low: tuple[float, float], high: tuple[float, float]
) -> tuple[Floats, Floats]:
    point, du, dv = gp_Pnt(), gp_Vec(), gp_Vec()
    p[:] = np.clip(p, low, high)
    surface.D1(float(p[0]), float(p[1]), point, du, dv)
    return np.array(point.Coord()), np.column_stack([du.Coord(), dv.Coord()])


def _edge_splines(body: Inspection) -> Iterator[tuple[int, Geom_BSplineCurve, float, float]]:
    for place, curve in body.spline_curves.items():
        yield place, curve, *BRep_Tool.Range_s(body.edge_shapes[place])


def _face_splines(body: Inspection) -> Iterator[tuple[int, Geom_BSplineSurface, TopoDS_Face]]:
    for place, face in enumerate(body.face_shapes):
        surface = body.surfaces[place]
        if isinstance(surface, Geom_BSplineSurface):
            yield place, surface, face


def crossings_of_curves(body: Inspection) -> list[tuple[int, Point]]:
    """Spline edges that meet themselves, and where, mm."""
    with kernel_call("looking for curves that cross themselves"):
        return [
            (place, at)
            for place, curve, first, last in _edge_splines(body)
            if (at := curve_crossing(curve, first, last)) is not None
        ]


def crossings_of_surfaces(body: Inspection) -> list[tuple[int, Point]]:
    """Spline faces that meet themselves within their loops, and where, mm."""
    with kernel_call("looking for surfaces that cross themselves"):
        return [
            (place, at)
            for place, surface, face in _face_splines(body)
            if (grid := _grid(body, place, surface, face)) is not None
            and (at := surface_crossing(surface, face, grid)) is not None
        ]


def folds_of_surfaces(body: Inspection) -> list[tuple[int, Point]]:
    """Spline faces whose normal vanishes or turns over within their loops, and where, mm."""
    with kernel_call("looking for folds"):
        folds = []
        for place, surface, face in _face_splines(body):
            grid = _grid(body, place, surface, face)
            if grid is None:
                continue
            even = surface_evenness(surface, face, grid)
            if even.turn < _OVER:
                folds.append((place, even.turn_at))
        return folds


def _grid(body: Inspection, place: int, surface: Geom_BSplineSurface, face: TopoDS_Face) -> Grid | None:
    """Samples of a spline face, taken once; None where its net shows that all is well with it."""
    grids: dict[int, Grid | None] = body.memo.setdefault("grids", {})
    if place not in grids:
        grids[place] = None if is_gentle(surface) else _surface_grid(surface, face)
    return grids[place]


@dataclass(frozen=True, slots=True)
class Uneven:
    """A spline edge or face that is run through unevenly: largest by smallest speed, and where, mm."""

    index: int
    is_face: bool
    ratio: float
    at: Point


def uneven_splines(body: Inspection, most: float) -> list[Uneven]:
    """Splines whose speed differs by more than a factor along them."""
    with kernel_call("looking how splines are run through"):
        uneven = []
        for place, curve, first, last in _edge_splines(body):
            even = curve_evenness(curve, first, last)
            if even.ratio > most:
                uneven.append(Uneven(place, False, even.ratio, even.slow_at))
        for place, surface, face in _face_splines(body):
            grid = _grid(body, place, surface, face)
            if grid is None:
                continue
            even = surface_evenness(surface, face, grid)
            if even.ratio > most:
                uneven.append(Uneven(place, True, even.ratio, even.slow_at))
        return uneven


def is_gentle(surface: Geom_BSplineSurface) -> bool:
    """Whether the control net alone shows that a surface neither folds nor crosses itself.

    Source: derivatives are in the hull of the net's differences; where every one of them along u looks
    into one half space and along v likewise, and all their cross products too, the surface is a graph
    over a plane (textbook property of B-splines). Rational surfaces are not judged so.
    """
    if surface.IsURational() or surface.IsVRational():
        return False
    net = np.array(
        [
            [surface.Pole(i, j).Coord() for j in range(1, surface.NbVPoles() + 1)]
            for i in range(1, surface.NbUPoles() + 1)
        ]
    )
    du = np.diff(net, axis=0).reshape(-1, 3)
    dv = np.diff(net, axis=1).reshape(-1, 3)
    if len(du) * len(dv) > _MOST_PAIRS:
        return False
    along, across = du.mean(axis=0), dv.mean(axis=0)
    normal = np.cross(along, across)
    if not np.linalg.norm(normal) > 0:
        return False
    inward = np.cross(across, normal), np.cross(normal, along)
    if (du @ inward[0]).min() <= 0 or (dv @ inward[1]).min() <= 0:
        return False
    crosses = np.cross(du[:, None], dv[None]) @ normal
    sizes = np.linalg.norm(du, axis=1), np.linalg.norm(dv, axis=1)
    is_even = all(s.min() > _EVEN * s.max() for s in sizes)
    return is_even and bool(crosses.min() > 0)


_MOST_PAIRS = 40_000
_EVEN = 0.05
_OVER = -0.2
"""Cosine between normals of neighbouring samples below which a surface folds."""
