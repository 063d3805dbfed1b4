"""The curve in which two surfaces meet, near a chain of points.

Lines and conics are taken from the kernel where they pass through the chain; else the chain's points
are moved onto both surfaces by Newton's method, the gaps between them halved until the curve through
them lies close enough, and a quintic is laid through. Source: the method is standard for tracing
intersections (Patrikalakis and Maekawa, Shape Interrogation for Computer Aided Design and
Manufacturing, the chapter on intersections; from memory).
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray
from OCP.Geom import (
    Geom_BSplineCurve,
    Geom_Circle,
    Geom_Curve,
    Geom_Ellipse,
    Geom_Line,
    Geom_Surface,
    Geom_TrimmedCurve,
)
from OCP.GeomAPI import GeomAPI_IntSS, GeomAPI_ProjectPointOnCurve
from OCP.gp import gp_Pnt, gp_Pnt2d, gp_Vec
from OCP.ShapeAnalysis import ShapeAnalysis_Surface

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.geometry.splines import spline_in
from gondrel.core.model.geometry import BCurve, Vector
from gondrel.core.work.late import late

__all__ = ["Foot", "contact_curve", "intersection_curve", "onto_both"]

_interpolate = late("scipy.interpolate")

Onto = Callable[[NDArray[np.float64], NDArray[np.float64]], tuple[NDArray[np.float64], float]]
"""Moves a point, given the way the curve takes there, onto the curve; with how far it then lies off."""

_ON_CONIC = 1e-5
_WANTED = 1e-6
_ROUNDS = 7
_MOST_POINTS = 4_000
_DEGREE = 5


def intersection_curve(
    first: Geom_Surface, second: Geom_Surface, chart: tuple[Vector, ...], closed: bool
) -> tuple[Geom_Curve, float]:
    """The curve near a chain of points, along it, and how far it may lie off the surfaces, mm.

    Raises:
        KernelRefused: when the chain has fewer than two points or leads nowhere.
    """
    points = _chain(chart, closed)
    conic = _conic(first, second, points)
    if conic is not None:
        return conic, 0.0
    feet = (Foot(first), Foot(second))
    return _traced(lambda x, way: _onto(feet, x, way), points, closed)


def contact_curve(
    spine: Geom_Curve, support: Geom_Surface, chart: tuple[Vector, ...], closed: bool
) -> tuple[Geom_Curve, float]:
    """Where a ball that rolls along a spine touches a surface, near a chain of points.

    Raises:
        KernelRefused: as intersection_curve.
    """
    foot = Foot(support)

    def onto(x: NDArray[np.float64], way: NDArray[np.float64]) -> tuple[NDArray[np.float64], float]:
        centre = GeomAPI_ProjectPointOnCurve(gp_Pnt(*x.tolist()), spine)
        if centre.NbPoints() == 0:
            return x, float("inf")
        at = centre.NearestPoint()
        return foot.at(np.array((at.X(), at.Y(), at.Z())))[0], 0.0

    return _traced(onto, _chain(chart, closed), closed)


def onto_both(
    first: Geom_Surface, second: Geom_Surface, points: NDArray[np.float64]
) -> NDArray[np.float64]:
    """Points (n, 3) in order moved onto two surfaces, each in the plane across its way, mm.

    Raises:
        KernelRefused: when the surfaces do not meet there.
    """
    feet = (Foot(first), Foot(second))
    ways = np.gradient(points, axis=0)
    projections = [_onto(feet, p, way) for p, way in zip(points, ways, strict=True)]
    if max(off for _, off in projections) > _ON_CONIC:
        raise KernelRefused("two surfaces that share an edge do not meet along it")
    return np.array([p for p, _ in projections])


def _chain(chart: tuple[Vector, ...], closed: bool) -> NDArray[np.float64]:
    points = np.array(chart, float).reshape(-1, 3)
    if closed and len(points) > 2 and np.linalg.norm(points[0] - points[-1]) < 1e-9:
        points = points[:-1]
    if len(points) < 2 or not np.isfinite(points).all():
        raise KernelRefused("an intersection curve has no chain of points to follow")
    return points


def _conic(first: Geom_Surface, second: Geom_Surface, points: NDArray[np.float64]) -> Geom_Curve | None:
    elementary = ("Geom_Plane", "Geom_CylindricalSurface", "Geom_ConicalSurface", "Geom_SphericalSurface")
    if any(type(surface).__name__ not in elementary for surface in (first, second)):
        return None
    intersection = GeomAPI_IntSS(first, second, 1e-9)
    if not intersection.IsDone():
        return None
    for number in range(1, intersection.NbLines() + 1):
        curve = intersection.Line(number)
        while isinstance(curve, Geom_TrimmedCurve):
            curve = curve.BasisCurve()
        if isinstance(curve, Geom_Line | Geom_Circle | Geom_Ellipse) and _passes(curve, points):
            return _along(curve, points)
    return None


def _passes(curve: Geom_Curve, points: NDArray[np.float64]) -> bool:
    return all(
        (foot := GeomAPI_ProjectPointOnCurve(gp_Pnt(*p), curve)).NbPoints() > 0
        and foot.LowerDistance() < _ON_CONIC
        for p in points.tolist()
    )


def _along(curve: Geom_Curve, points: NDArray[np.float64]) -> Geom_Curve:
    at = GeomAPI_ProjectPointOnCurve(gp_Pnt(*points[0].tolist()), curve).LowerDistanceParameter()
    place, tangent = gp_Pnt(), gp_Vec()
    curve.D1(at, place, tangent)
    way = points[1] - points[0]
    forth = tangent.X() * way[0] + tangent.Y() * way[1] + tangent.Z() * way[2]
    return curve if forth > 0 else curve.Reversed()


class Foot:
    """Foot points and normals on a surface, each sought from the last."""

    def __init__(self, surface: Geom_Surface) -> None:
        self.surface = surface
        self.analysis = ShapeAnalysis_Surface(surface)
        self.last: gp_Pnt2d | None = None

    def at(self, x: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """The foot point of a point, and the unit normal there."""
        point = gp_Pnt(*x.tolist())
        if self.last is None:
            self.last = self.analysis.ValueOfUV(point, 1e-9)
        else:
            self.last = self.analysis.NextValueOfUV(self.last, point, 1e-9)
        foot, du, dv = gp_Pnt(), gp_Vec(), gp_Vec()
        self.surface.D1(self.last.X(), self.last.Y(), foot, du, dv)
        normal = np.cross((du.X(), du.Y(), du.Z()), (dv.X(), dv.Y(), dv.Z()))
        size = np.linalg.norm(normal)
        return np.array((foot.X(), foot.Y(), foot.Z())), normal / size if size > 0 else normal


def _onto(
    feet: tuple[Foot, Foot], start: NDArray[np.float64], chord: NDArray[np.float64]
) -> tuple[NDArray[np.float64], float]:
    """A point on both surfaces in the plane through the start across the chord, and its distance."""
    x = start
    length = np.linalg.norm(chord)
    across = chord / length if length > 0 else chord
    off = 0.0
    for _ in range(12):
        rows, wanted = [], []
        off = 0.0
        for foot in feet:
            q, normal = foot.at(x)
            off = max(off, float(np.linalg.norm(q - x)))
            rows.append(normal)
            wanted.append(float(normal @ (q - x)))
        if off < 1e-10:
            break
        rows.append(across)
        wanted.append(float(across @ (start - x)))
        step, *_ = np.linalg.lstsq(np.array(rows), np.array(wanted), rcond=1e-8)
        x = x + step
    return x, off


def _traced(onto: Onto, points: NDArray[np.float64], closed: bool) -> tuple[Geom_Curve, float]:
    closing = [points[0]] if closed else []
    ways = np.gradient(np.vstack([points, *closing]), axis=0)[: len(points)]
    moved = [onto(p, way) for p, way in zip(points, ways, strict=True)]
    if not closed:  # the ends are those of the chain, where they lie close
        moved[0], moved[-1] = (points[0], moved[0][1]), (points[-1], moved[-1][1])
    chain = np.array([p for p, _ in moved])
    if np.abs(chain - points).max() > 0.2 * np.linalg.norm(np.ptp(points, axis=0)) + 1e-3:
        raise KernelRefused("an intersection curve's points lie far from both surfaces")
    worst = 0.0
    for _ in range(_ROUNDS):
        ring = np.vstack([chain, chain[:1]]) if closed else chain
        curve, at = _through(ring, closed)
        middles = (at[1:] + at[:-1]) / 2
        guessed = np.array([_value(curve, float(t)) for t in middles])
        projections = [onto(g, b - a) for g, a, b in zip(guessed, ring[:-1], ring[1:], strict=True)]
        between = np.array([p for p, _ in projections])
        worst = float(np.linalg.norm(between - guessed, axis=1).max())
        if worst < _WANTED or 2 * len(ring) > _MOST_POINTS:
            break
        woven = np.empty((len(ring) + len(between), 3))
        woven[0::2], woven[1::2] = ring, between
        chain = woven[:-1] if closed else woven
    return curve, max(worst, 1e-12)


def _value(curve: Geom_BSplineCurve, t: float) -> tuple[float, float, float]:
    p = curve.Value(t)
    return p.X(), p.Y(), p.Z()


def _through(points: NDArray[np.float64], closed: bool) -> tuple[Geom_BSplineCurve, NDArray[np.float64]]:
    """A spline through points by their chords, and its parameters there."""
    lengths = np.linalg.norm(np.diff(points, axis=0), axis=1)
    if lengths.min() <= 0.0:
        raise KernelRefused("two neighbouring points of an intersection curve are one")
    at = np.concatenate([[0.0], np.cumsum(lengths)])
    degree = min(_DEGREE, len(points) - 1)
    degree -= degree % 2 == 0
    if closed and len(points) > 2 * degree:
        # laid round the closure on both sides, so that it passes there without a kink
        count, span = min(len(points) - 1, 2 * degree), at[-1]
        before, after = points[-1 - count : -1], points[1 : 1 + count]
        wide = np.vstack([before, points, after])
        times = np.concatenate([at[-1 - count : -1] - span, at, at[1 : 1 + count] + span])
        spline = _interpolate.make_interp_spline(times, wide, k=degree)
    else:
        spline = _interpolate.make_interp_spline(at, points, k=degree)
    knots, multiplicities = np.unique(spline.t, return_counts=True)
    plain = BCurve(
        degree,
        tuple(map(tuple, spline.c.tolist())),
        (),
        tuple(knots.tolist()),
        tuple(multiplicities.tolist()),
    )
    made = spline_in(plain)
    if closed and len(points) > 2 * degree:
        made.Segment(0.0, float(at[-1]))
    return made, at
