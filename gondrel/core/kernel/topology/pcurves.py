"""Curves in the parameters of a face, laid anew where the kernel's completion only came near.

What the completion lays through a score of points may lie so far beside its edge that a ten-thousandth of
the face's area is wrong.
"""

from __future__ import annotations

from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Builder, BRep_Tool
from OCP.Geom import Geom_BSplineCurve, Geom_Curve, Geom_Surface, Geom_TrimmedCurve
from OCP.Geom2d import Geom2d_BSplineCurve, Geom2d_Curve
from OCP.ShapeAnalysis import ShapeAnalysis_Surface
from OCP.TopoDS import TopoDS_Edge, TopoDS_Face

from gondrel.core.kernel.geometry.splines import pcurve_in
from gondrel.core.model.geometry import BCurve
from gondrel.core.work.late import late

__all__ = ["gap_between", "pcurve_made_anew"]

_interpolate = late("scipy.interpolate")

_DEGREE = 7
_COUNTS = (25, 49, 97, 193, 385)
_FOOT = 1e-12
_EXACT = 1e-8
"""Gap, mm, up to which a new curve is taken; where the edge itself lies off, a little more than it does."""

_MARGIN = 1.2

_NEAR = 0.05
"""How far, as a share of its extent, a foot may lie from the old curve: it has no other branch there."""


def pcurve_made_anew(
    edge: TopoDS_Edge, face: TopoDS_Face, pcurve: Geom2d_Curve, gap: float, *, samples: int
) -> float:
    """Give an edge a better curve on a face in the place of one that lies off by a gap, where there is one.

    Returns: how far the edge's curve now lies off, mm. Call it inside kernel_call.

    Source: own: a spline of degree 7 through the feet of points of the edge, twice as many each time until
    it lies as near between them.
    """
    surface = BRep_Tool.Surface_s(face)
    if BRep_Tool.IsClosed_s(edge, face) or not isinstance(surface, Geom_Surface):
        return gap
    curve = BRep_Tool.Curve_s(edge, 0.0, 0.0)
    first, last = BRep_Tool.Range_s(edge)
    projector = ShapeAnalysis_Surface(surface)
    for count in _COUNTS:  # a knot span takes as many as its share
        drawn, off = _through_feet(curve, projector, pcurve, first, last, count)
        enough = max(_EXACT, _MARGIN * off)
        if drawn is None or enough > gap / 2:
            return gap
        now = gap_between(curve, drawn, surface, first, last, samples=3 * count // 2)
        if now <= enough:
            BRep_Builder().UpdateEdge(edge, drawn, face, BRep_Tool.Tolerance_s(edge))
            return now
    return gap


def _through_feet(
    curve: Geom_Curve,
    projector: ShapeAnalysis_Surface,
    pcurve: Geom2d_Curve,
    first: float,
    last: float,
    count: int,
) -> tuple[Geom2d_BSplineCurve | None, float]:
    """A curve in the parameters of a surface through the feet of points of a curve, near another one, and
    how far the points lie off the surface, mm; none where the feet lie elsewhere."""
    surface = projector.Surface()
    breaks = _breaks(curve, first, last)
    each = max(count // (len(breaks) - 1), _DEGREE + 1)
    at = [np.linspace(low, high, each) for low, high in pairwise(breaks)]
    where = np.concatenate(at).tolist()
    starts = [pcurve.Value(t) for t in where]
    feet, off = [], 0.0
    for t, start in zip(where, starts, strict=True):
        point = curve.Value(t)
        u, v = projector.NextValueOfUV(start, point, _FOOT).Coord()
        off = max(off, surface.Value(u, v).Distance(point))
        feet.append((u, v))
    places, old = np.array(feet), np.array([start.Coord() for start in starts])
    periods = (
        surface.UPeriod() if surface.IsUPeriodic() else 0.0,
        surface.VPeriod() if surface.IsVPeriodic() else 0.0,
    )
    for way, period in enumerate(periods):
        if period:
            places[:, way] += np.round((old[:, way] - places[:, way]) / period) * period
    if np.abs(places - old).max() > _NEAR * max(np.abs(np.ptp(old, axis=0)).max(), 1e-6):
        return None, off
    return _joined(at, np.split(places, len(at))), off


def _breaks(curve: Geom_Curve, first: float, last: float) -> list[float]:
    """Parameters between which a curve is smooth."""
    basis = curve.BasisCurve() if isinstance(curve, Geom_TrimmedCurve) else curve
    knots = list(basis.Knots()) if isinstance(basis, Geom_BSplineCurve) else []
    near = 1e-9 * (last - first)
    return [first, *(float(k) for k in knots if first + near < k < last - near), last]


def _joined(at: list[NDArray[np.float64]], places: list[NDArray[np.float64]]) -> Geom2d_BSplineCurve:
    """Splines through points, one after another, as one that is smooth within each."""
    poles: list[tuple[float, ...]] = []
    knots: list[float] = []
    counts: list[int] = []
    for t, points in zip(at, places, strict=True):
        made = _interpolate.make_interp_spline(t, points, k=_DEGREE)
        own, multiplicities = np.unique(made.t, return_counts=True)
        poles += [tuple(row) for row in made.c.tolist()][bool(poles) :]
        if knots:
            counts[-1] = _DEGREE
        knots += own.tolist()[bool(knots) :]
        counts += multiplicities.tolist()[bool(counts) :]
    plain = BCurve(_DEGREE, tuple(poles), (), tuple(knots), tuple(counts))
    return pcurve_in(plain, (1.0, 0.0, 0.0, 1.0))


def gap_between(
    curve: Geom_Curve,
    pcurve: Geom2d_Curve,
    surface: Geom_Surface,
    first: float,
    last: float,
    *,
    samples: int,
) -> float:
    """How far a curve lies off a surface, by its counterpart in the surface's parameters, sampled; mm."""
    worst, step = 0.0, (last - first) / (samples - 1)
    for number in range(samples):
        t = last if number == samples - 1 else first + number * step
        at = pcurve.Value(t)
        worst = max(worst, surface.Value(at.X(), at.Y()).SquareDistance(curve.Value(t)))
    return float(worst**0.5)
