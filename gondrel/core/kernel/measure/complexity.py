"""How involved a body is: degrees of its splines, shells of its solids."""

from __future__ import annotations

from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.GeomAbs import GeomAbs_CurveType, GeomAbs_SurfaceType
from OCP.TopoDS import TopoDS_Shape

from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.base.shape import edges_of, faces_of, shells_of
from gondrel.core.model.detail import Complexity

__all__ = ["complexity_of_shape"]

_SURFACES = (GeomAbs_SurfaceType.GeomAbs_BSplineSurface, GeomAbs_SurfaceType.GeomAbs_BezierSurface)
_CURVES = (GeomAbs_CurveType.GeomAbs_BSplineCurve, GeomAbs_CurveType.GeomAbs_BezierCurve)


def complexity_of_shape(shape: TopoDS_Shape) -> Complexity:
    """The complexity of a body. Raises KernelRefused when the kernel fails over it."""
    degrees = [0]
    with kernel_call("looking at splines"):
        for face in faces_of(shape):
            surface = BRepAdaptor_Surface(face)
            if surface.GetType() in _SURFACES:
                degrees += (surface.UDegree(), surface.VDegree())
        for edge in edges_of(shape):
            curve = BRepAdaptor_Curve(edge)
            if curve.GetType() in _CURVES:
                degrees.append(curve.Degree())
    return Complexity(max(degrees), len(shells_of(shape)))
