"""Kinks inside splines: angles between the tangents on both sides of a knot."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.Geom import Geom_BSplineCurve, Geom_BSplineSurface
from OCP.gp import gp_Pnt, gp_Vec
from OCP.TopoDS import TopoDS_Face

__all__ = ["curve_kink", "surface_kink"]

Point = tuple[float, float, float]


def curve_kink(curve: Geom_BSplineCurve) -> tuple[float, Point]:
    """The largest angle between the tangents on both sides of an inner knot, degrees, and where."""
    worst, at = 0.0, (0.0, 0.0, 0.0)
    for index in range(curve.FirstUKnotIndex() + 1, curve.LastUKnotIndex()):
        if curve.Multiplicity(index) < curve.Degree():
            continue
        point, before, after = gp_Pnt(), gp_Vec(), gp_Vec()
        curve.LocalD1(curve.Knot(index), index - 1, index, point, before)
        curve.LocalD1(curve.Knot(index), index, index + 1, point, after)
        if min(before.Magnitude(), after.Magnitude()) > 0.0:
            angle = float(np.degrees(before.Angle(after)))
            if angle > worst:
                worst, at = angle, point.Coord()
    return worst, at


def surface_kink(
    surface: Geom_BSplineSurface, face: TopoDS_Face, shares: Sequence[float] = (0.1, 0.5, 0.9)
) -> tuple[float, Point]:
    """As for a curve, along parameter lines at some shares of the face's parameters."""
    trim = BRepAdaptor_Surface(face, True)
    worst: tuple[float, Point] = (0.0, (0.0, 0.0, 0.0))
    across = (
        (surface.UMultiplicities(), surface.UDegree(), surface.VIso, "V"),
        (surface.VMultiplicities(), surface.VDegree(), surface.UIso, "U"),
    )
    for many, degree, line, other in across:
        if all(m < degree for m in list(many)[1:-1]):
            continue
        low, high = (getattr(trim, f"{end}{other}Parameter")() for end in ("First", "Last"))
        for share in shares:
            curve = line(low + share * (high - low))
            if isinstance(curve, Geom_BSplineCurve):
                worst = max(worst, curve_kink(curve))
    return worst
