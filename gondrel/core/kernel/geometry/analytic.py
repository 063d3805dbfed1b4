"""Curves and surfaces that are elementary ones in the guise of splines."""

from __future__ import annotations

import math

from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.ElCLib import ElCLib
from OCP.Geom import Geom_BSplineCurve, Geom_BSplineSurface, Geom_Curve, Geom_Surface
from OCP.GeomAbs import GeomAbs_CurveType as Curves
from OCP.GeomAbs import GeomAbs_SurfaceType
from OCP.GeomAdaptor import GeomAdaptor_Curve, GeomAdaptor_Surface
from OCP.GeomConvert import GeomConvert_CurveToAnaCurve, GeomConvert_SurfToAnaSurf
from OCP.TopoDS import TopoDS_Edge, TopoDS_Face

__all__ = ["analytic_surface", "converted_surface", "curve_as_seen", "surface_as_seen"]

_WITHIN = 1e-6
"""A spline so near to an elementary curve or surface, mm, is measured as one."""


def analytic_surface(surface: Geom_Surface, within: float) -> Geom_Surface | None:
    """The plane, cylinder, cone, sphere or torus that a spline lies on within a distance, mm, or None."""
    if not isinstance(surface, Geom_BSplineSurface):
        return None
    converted = converted_surface(surface, within)
    return converted[0] if converted is not None else None


def converted_surface(surface: Geom_Surface, within: float) -> tuple[Geom_Surface, float] | None:
    """The elementary surface that a surface lies on, and how far off at most, mm. Call it inside
    kernel_call."""
    convert = GeomConvert_SurfToAnaSurf(surface)
    converted = convert.ConvertToAnalytical(within)
    if converted is None or convert.Gap() > within:
        return None
    return converted, float(convert.Gap())


def surface_as_seen(face: TopoDS_Face) -> GeomAdaptor_Surface:
    """The surface of a face in its place, a spline as the elementary surface it lies on, if any. Call it
    inside kernel_call."""
    surface = BRep_Tool.Surface_s(face)
    seen = GeomAdaptor_Surface(analytic_surface(surface, _WITHIN) or surface)
    plain = (GeomAbs_SurfaceType.GeomAbs_OtherSurface, GeomAbs_SurfaceType.GeomAbs_OffsetSurface)
    return GeomAdaptor_Surface(surface) if seen.GetType() in plain else seen


def curve_as_seen(edge: TopoDS_Edge) -> BRepAdaptor_Curve | GeomAdaptor_Curve:
    """The curve of an edge in its place, within its ends, a spline as the line, circle or ellipse it is, if
    any. Call it inside kernel_call."""
    curve = BRepAdaptor_Curve(edge)
    if not curve.Is3DCurve():
        return curve
    made = BRep_Tool.Curve_s(edge, 0.0, 0.0)
    first, last = curve.FirstParameter(), curve.LastParameter()
    found = _converted_curve(made, first, last) if isinstance(made, Geom_BSplineCurve) else None
    return curve if found is None else found


def _converted_curve(curve: Geom_Curve, first: float, last: float) -> GeomAdaptor_Curve | None:
    converted = GeomConvert_CurveToAnaCurve.ComputeCurve_s(curve, _WITHIN, first, last, 0.0, 0.0, 0.0)
    if converted is None:
        return None
    adaptor = GeomAdaptor_Curve(converted)
    shape = {
        Curves.GeomAbs_Line: adaptor.Line, Curves.GeomAbs_Circle: adaptor.Circle,
        Curves.GeomAbs_Ellipse: adaptor.Ellipse,
    }.get(adaptor.GetType())  # fmt: skip
    if shape is None:
        return None
    middle = (first + last) / 2
    start, half, end = (ElCLib.Parameter_s(shape(), curve.Value(u)) for u in (first, middle, last))
    if adaptor.GetType() == Curves.GeomAbs_Line:
        return GeomAdaptor_Curve(converted, min(start, end), max(start, end))
    if (half - start) % _TURN > (end - start - _TINY) % _TURN + _TINY:  # it runs the other way
        start, end = end, start
    return GeomAdaptor_Curve(converted, start, start + ((end - start - _TINY) % _TURN + _TINY))


_TURN, _TINY = 2 * math.pi, 1e-9
