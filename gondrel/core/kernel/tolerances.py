"""Tolerances that tell the truth: an edge's covers the gap between its curve and its faces.

The kernel takes the tolerance a file claims. Where a curve lies further off a surface than that, the
body would be called invalid and later work on it go wrong; so the tolerance is widened to the gap
that is measured. Where only the curve laid on the surface is to blame, that is laid better first.
Geometry is not touched.
"""

from __future__ import annotations

from OCP.BRep import BRep_Builder, BRep_Tool
from OCP.Geom import Geom_Circle, Geom_Line, Geom_Plane
from OCP.Geom2d import Geom2d_BSplineCurve, Geom2d_TrimmedCurve
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopExp import TopExp_Explorer
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Face, TopoDS_Shape

from gondrel.core.kernel.pcurves import gap_between, laid_anew
from gondrel.core.kernel.shape import faces_of, vertices_of

__all__ = ["gap_between", "widen_tolerances"]

_SAMPLES = 33
_EXACT = 1e-9
"""Gap, mm, from which a curve laid on a surface is laid anew."""

_MOST = 0.1
"""Gaps above this, mm, are left for the checks: that edge belongs elsewhere."""

_MARGIN = 1.1


def widen_tolerances(shape: TopoDS_Shape) -> float:
    """Widen the tolerances of edges, and of their vertices, to what their curves need.

    Returns: the widest gap found, mm, 0 when every edge lies within its tolerance.
    """
    builder = BRep_Builder()
    widest = 0.0
    for face in faces_of(shape):
        if isinstance(BRep_Tool.Surface_s(face), Geom_Plane):
            continue
        explorer = TopExp_Explorer(face, TopAbs_ShapeEnum.TopAbs_EDGE)
        while explorer.More():
            edge = TopoDS.Edge(explorer.Current())
            gap = _gap(edge, face)
            if BRep_Tool.Tolerance_s(edge) < gap < _MOST:
                widest = max(widest, gap)
                builder.UpdateEdge(edge, gap * _MARGIN)
                for vertex in vertices_of(edge):
                    builder.UpdateVertex(TopoDS.Vertex(vertex), gap * _MARGIN)
            explorer.Next()
    return widest


def _gap(edge: TopoDS_Edge, face: TopoDS_Face) -> float:
    """How far an edge lies off a face by its curve there; lines and circles lie on theirs."""
    if BRep_Tool.Degenerated_s(edge):
        return 0.0
    flat = BRep_Tool.CurveOnSurface_s(edge, face, 0.0, 0.0)
    basis = flat.BasisCurve() if isinstance(flat, Geom2d_TrimmedCurve) else flat
    curve = BRep_Tool.Curve_s(edge, 0.0, 0.0)
    if curve is None or flat is None:
        return 0.0
    if not isinstance(basis, Geom2d_BSplineCurve) and isinstance(curve, Geom_Line | Geom_Circle):
        return 0.0
    surface = BRep_Tool.Surface_s(face)
    gap = gap_between(curve, flat, surface, *BRep_Tool.Range_s(edge), samples=_SAMPLES)
    if gap > _EXACT and isinstance(basis, Geom2d_BSplineCurve):
        gap = laid_anew(edge, face, flat, gap, samples=_SAMPLES)
    return gap
