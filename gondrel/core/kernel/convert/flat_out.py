"""Edges that lie in a plane as the curves of a drawing sheet."""

from __future__ import annotations

import math
from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray
from OCP.Approx import Approx_Curve3d
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.Geom import Geom_BSplineCurve, Geom_Hyperbola, Geom_Parabola, Geom_TrimmedCurve
from OCP.GeomAbs import GeomAbs_CurveType as Curves
from OCP.GeomAbs import GeomAbs_Shape
from OCP.GeomAdaptor import GeomAdaptor_Curve
from OCP.GeomConvert import GeomConvert
from OCP.gp import gp_Ax2
from OCP.TopoDS import TopoDS_Edge, TopoDS_Shape

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.base.shape import edges_of
from gondrel.core.kernel.geometry.analytic import curve_as_seen
from gondrel.core.model.outline import Arc, Curve, FlatEllipse, FlatLine, Point, Spline

__all__ = ["flat_curves", "seen_curve"]

Floats = NDArray[np.float64]

_TINY = 1e-9
"""Shorter than this, mm, is a point."""
_EDGE_ON = 1e-9
"""An ellipse so narrow for its width is a line, one so round a circle."""
_FIT = 1e-6


def flat_curves(shape: TopoDS_Shape, origin: Floats, right: Floats, up: Floats) -> list[Curve]:
    """The edges of a shape that lies in a plane, seen in the plane's frame, mm. Raises KernelRefused.

    Lines, circles and ellipses stay what they are, all else becomes a B-spline, exactly.
    """
    frame = _Frame(origin, right, up)
    with kernel_call("drawing an outline"):
        edges: Iterable[TopoDS_Edge] = edges_of(shape)
        return [frame.curve(edge) for edge in edges if not BRep_Tool.Degenerated_s(edge)]


def seen_curve(
    curve: BRepAdaptor_Curve | GeomAdaptor_Curve, first: float, last: float, right: Floats, up: Floats
) -> Curve | None:
    """A stretch of a curve as it is seen from a direction, mm; None where it is seen end on. Call it inside
    kernel_call.

    Lines, circles and ellipses become lines, circles and ellipses, splines splines, all exactly; offset
    curves and curves of silhouettes become splines within 1e-6 mm.
    """
    return _Frame(np.zeros(3), right, up).drawn(curve, first, last)


class _Frame:
    def __init__(self, origin: Floats, right: Floats, up: Floats) -> None:
        self.origin, self.axes = origin, np.stack([right, up], axis=1)

    def point(self, coordinates: tuple[float, float, float]) -> Point:
        x, y = ((np.asarray(coordinates) - self.origin) @ self.axes).tolist()
        return x, y

    def curve(self, edge: TopoDS_Edge) -> Curve:
        seen = curve_as_seen(edge)
        drawn = self.drawn(seen, seen.FirstParameter(), seen.LastParameter())
        assert drawn is not None  # an edge that lies in the plane is not seen end on
        return drawn

    def drawn(
        self, curve: BRepAdaptor_Curve | GeomAdaptor_Curve, first: float, last: float
    ) -> Curve | None:
        kind = curve.GetType()
        if kind == Curves.GeomAbs_Line:
            ends = self.point(curve.Value(first).Coord()), self.point(curve.Value(last).Coord())
            return None if math.dist(*ends) < _TINY else FlatLine(*ends)
        if kind == Curves.GeomAbs_Circle:
            circle = curve.Circle()
            return self._round(circle.Position(), circle.Radius(), circle.Radius(), first, last)
        if kind == Curves.GeomAbs_Ellipse:
            ellipse = curve.Ellipse()
            return self._round(
                ellipse.Position(), ellipse.MajorRadius(), ellipse.MinorRadius(), first, last
            )
        return _plain(self._spline(_spline_of(curve, first, last)))

    def _round(
        self, position: gp_Ax2, wide: float, narrow: float, first: float, last: float
    ) -> Curve | None:
        """A stretch of centre + cos t one + sin t other, as it is seen from the sheet."""
        one = wide * (np.array(position.XDirection().Coord()) @ self.axes)
        other = narrow * (np.array(position.YDirection().Coord()) @ self.axes)
        return _seen_round(self.point(position.Location().Coord()), one, other, first, last)

    def _spline(self, made: Geom_BSplineCurve) -> Spline:
        knots = tuple(
            made.Knot(n) for n in range(1, made.NbKnots() + 1) for _ in range(made.Multiplicity(n))
        )
        poles = tuple(self.point(made.Pole(n).Coord()) for n in range(1, made.NbPoles() + 1))
        weights = tuple(made.Weight(n) for n in range(1, made.NbPoles() + 1)) if made.IsRational() else ()
        return Spline(made.Degree(), knots, poles, weights)


def _spline_of(
    curve: BRepAdaptor_Curve | GeomAdaptor_Curve, first: float, last: float
) -> Geom_BSplineCurve:
    kind = curve.GetType()
    if kind == Curves.GeomAbs_BSplineCurve:
        spline = curve.BSpline().Copy()
        assert isinstance(spline, Geom_BSplineCurve)
        spline.Segment(first, last)
        spline.SetNotPeriodic()
        return spline
    whole = {
        Curves.GeomAbs_BezierCurve: lambda: curve.Bezier(),
        Curves.GeomAbs_Hyperbola: lambda: Geom_Hyperbola(curve.Hyperbola()),
        Curves.GeomAbs_Parabola: lambda: Geom_Parabola(curve.Parabola()),
    }.get(kind)
    if whole is None:
        return _fitted(curve, first, last)
    made = GeomConvert.CurveToBSplineCurve_s(Geom_TrimmedCurve(whole(), first, last))
    assert isinstance(made, Geom_BSplineCurve)
    made.SetNotPeriodic()
    return made


def _fitted(curve: BRepAdaptor_Curve | GeomAdaptor_Curve, first: float, last: float) -> Geom_BSplineCurve:
    """A curve that is none of the elementary ones as a spline within a millionth of a millimetre."""
    trimmed = curve.Trim(first, last, 1e-9)
    approximation = Approx_Curve3d(trimmed, _FIT, GeomAbs_Shape.GeomAbs_C1, 200, 8)
    if not approximation.HasResult():
        raise KernelRefused("a curve can't be drawn as a spline")
    return approximation.Curve()


def _seen_round(centre: Point, one: Floats, other: Floats, first: float, last: float) -> Curve | None:
    """Source: conjugate diameters of an ellipse; its axes are the left singular vectors of their matrix."""
    turns, sizes, inner = np.linalg.svd(np.stack([one, other], axis=1))
    wide, narrow = sizes.tolist()
    if wide < _TINY:
        return None
    if narrow < _EDGE_ON * wide:
        return _edge_on(centre, one, other, first, last)
    # inner @ (cos t, sin t) is (cos u, sin u), u = t - lead, or lead - t where it mirrors
    lead = math.atan2(inner[0, 1], inner[0, 0])
    mirrors = float(np.linalg.det(inner)) < 0.0
    start, end = (lead - last, lead - first) if mirrors else (first - lead, last - lead)
    axis = wide * turns[:, 0]
    if float(np.linalg.det(turns)) < 0.0:  # the narrow axis points the other way
        start, end = -end, -start
    if narrow > (1 - _EDGE_ON) * wide:
        turn = math.atan2(axis[1], axis[0])
        return Arc(centre, math.sqrt(wide * narrow), start + turn, end + turn)
    return FlatEllipse(centre, (float(axis[0]), float(axis[1])), narrow / wide, start, end)


def _edge_on(centre: Point, one: Floats, other: Floats, first: float, last: float) -> FlatLine | None:
    """The line that a circle or an ellipse is when it is seen from the side."""
    along = one if np.linalg.norm(one) >= np.linalg.norm(other) else other
    along = along / np.linalg.norm(along)
    a, b = float(one @ along), float(other @ along)
    peak = math.atan2(b, a)
    turns = [first, last]
    for half in (0.0, math.pi):
        ahead = (peak + half - first) % (2 * math.pi)
        turns += [first + ahead] if ahead < last - first else []
    reach = [a * math.cos(t) + b * math.sin(t) for t in turns]
    low, high = np.asarray(centre) + min(reach) * along, np.asarray(centre) + max(reach) * along
    if max(reach) - min(reach) < _TINY:
        return None
    return FlatLine((float(low[0]), float(low[1])), (float(high[0]), float(high[1])))


def _plain(spline: Spline) -> Curve | None:
    """A spline whose poles lie on a line, one after the other, is that line; in a point, nothing."""
    poles = np.asarray(spline.poles)
    chord = poles[-1] - poles[0]
    length = float(np.linalg.norm(chord))
    if length < _TINY:
        return None if float(np.ptp(poles, axis=0).max()) < _TINY else spline
    off = (poles - poles[0]) @ np.array([-chord[1], chord[0]]) / length
    along = (poles - poles[0]) @ chord / length
    if float(np.abs(off).max()) < _TINY and bool((np.diff(along) >= -_TINY).all()):
        return FlatLine(spline.poles[0], spline.poles[-1])
    return spline
