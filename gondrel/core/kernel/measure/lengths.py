"""The length of an edge."""

from __future__ import annotations

from OCP.BRep import BRep_Tool
from OCP.GCPnts import GCPnts_AbscissaPoint
from OCP.GeomAbs import GeomAbs_CurveType as Curves
from OCP.TopoDS import TopoDS_Edge

from gondrel.core.kernel.geometry.analytic import curve_as_seen

__all__ = ["length_of"]

_ERROR = 1e-9


def length_of(edge: TopoDS_Edge) -> float:
    """The length of an edge, mm; of lines and circles in closed form. Call it inside kernel_call."""
    if BRep_Tool.Degenerated_s(edge):
        return 0.0
    curve = curve_as_seen(edge)
    span = curve.LastParameter() - curve.FirstParameter()
    if curve.GetType() == Curves.GeomAbs_Line:
        return float(span)
    if curve.GetType() == Curves.GeomAbs_Circle:
        return float(span * curve.Circle().Radius())
    return float(GCPnts_AbscissaPoint.Length_s(curve, _ERROR))
