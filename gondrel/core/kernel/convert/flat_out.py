"""Edges that lie in a plane as the curves of a drawing sheet."""

from __future__ import annotations

import math
from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Tool
from OCP.Geom import Geom_BSplineCurve, Geom_TrimmedCurve
from OCP.GeomAbs import GeomAbs_CurveType as Curves
from OCP.GeomConvert import GeomConvert
from OCP.TopoDS import TopoDS_Edge, TopoDS_Shape

from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.base.shape import edges_of
from gondrel.core.kernel.geometry.analytic import curve_as_seen
from gondrel.core.model.outline import Arc, Curve, FlatEllipse, FlatLine, Point, Spline

__all__ = ["flat_curves"]

Floats = NDArray[np.float64]


def flat_curves(shape: TopoDS_Shape, origin: Floats, right: Floats, up: Floats) -> list[Curve]:
    """The edges of a shape that lies in a plane, seen in the plane's frame, mm. Raises KernelRefused.

    Lines, circles and ellipses stay what they are, all else becomes a B-spline, exactly.
    """
    frame = _Frame(origin, right, up)
    with kernel_call("drawing an outline"):
        edges: Iterable[TopoDS_Edge] = edges_of(shape)
        return [frame.curve(edge) for edge in edges if not BRep_Tool.Degenerated_s(edge)]


class _Frame:
    def __init__(self, origin: Floats, right: Floats, up: Floats) -> None:
        self.origin, self.axes = origin, np.stack([right, up], axis=1)
        self.normal = np.cross(right, up)

    def point(self, coordinates: tuple[float, float, float]) -> Point:
        x, y = ((np.asarray(coordinates) - self.origin) @ self.axes).tolist()
        return x, y

    def curve(self, edge: TopoDS_Edge) -> Curve:
        seen = curve_as_seen(edge)
        first, last, kind = seen.FirstParameter(), seen.LastParameter(), seen.GetType()
        if kind == Curves.GeomAbs_Line:
            return FlatLine(self.point(seen.Value(first).Coord()), self.point(seen.Value(last).Coord()))
        if kind == Curves.GeomAbs_Circle:
            circle = seen.Circle()
            start, end = self._turned(circle.Position(), first, last)
            return Arc(self.point(circle.Location().Coord()), circle.Radius(), start, end)
        if kind == Curves.GeomAbs_Ellipse:
            return self._ellipse(seen.Ellipse(), first, last)
        return self._spline(edge)

    def _turned(self, position: object, first: float, last: float) -> tuple[float, float]:
        """Angles from the right of the sheet, anticlockwise, of a stretch of a circle."""
        x = np.array(position.XDirection().Coord()) @ self.axes  # type: ignore[attr-defined]
        lead = math.atan2(float(x[1]), float(x[0]))
        axis = np.array(position.Direction().Coord())  # type: ignore[attr-defined]
        if float(axis @ self.normal) > 0.0:
            return lead + first, lead + last
        return lead - last, lead - first

    def _ellipse(self, ellipse: object, first: float, last: float) -> FlatEllipse:
        position = ellipse.Position()  # type: ignore[attr-defined]
        wide, narrow = ellipse.MajorRadius(), ellipse.MinorRadius()  # type: ignore[attr-defined]
        x, y = (wide * (np.array(position.XDirection().Coord()) @ self.axes)).tolist()
        ahead = float(np.array(position.Direction().Coord()) @ self.normal) > 0.0
        start, end = (first, last) if ahead else (-last, -first)
        centre = self.point(ellipse.Location().Coord())  # type: ignore[attr-defined]
        return FlatEllipse(centre, (x, y), narrow / wide, start, end)

    def _spline(self, edge: TopoDS_Edge) -> Spline:
        first, last = BRep_Tool.Range_s(edge)
        made = GeomConvert.CurveToBSplineCurve_s(
            Geom_TrimmedCurve(BRep_Tool.Curve_s(edge, 0.0, 0.0), first, last)
        )
        assert isinstance(made, Geom_BSplineCurve)
        made.SetNotPeriodic()
        knots = tuple(
            made.Knot(n) for n in range(1, made.NbKnots() + 1) for _ in range(made.Multiplicity(n))
        )
        poles = tuple(self.point(made.Pole(n).Coord()) for n in range(1, made.NbPoles() + 1))
        weights = tuple(made.Weight(n) for n in range(1, made.NbPoles() + 1)) if made.IsRational() else ()
        return Spline(made.Degree(), knots, poles, weights)
