"""Tolerances that tell the truth: an edge's covers the gap between its curve and its faces.

The kernel takes the tolerance a file claims. Where a curve lies further off a surface than that, the
body would be called invalid and later work on it go wrong; so the tolerance is widened to the gap
that is measured. Where only the curve laid on the surface is to blame, that is laid better first.
Geometry is not touched.
"""

from __future__ import annotations

from dataclasses import dataclass

from OCP.BRep import BRep_Builder, BRep_Tool
from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.Geom import Geom_Circle, Geom_Line, Geom_Plane, Geom_Surface
from OCP.Geom2d import Geom2d_BSplineCurve, Geom2d_Curve, Geom2d_TrimmedCurve
from OCP.ShapeAnalysis import ShapeAnalysis_Surface
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopExp import TopExp_Explorer
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Face, TopoDS_Shape

from gondrel.core.kernel.base.shape import faces_of, vertices_of
from gondrel.core.kernel.topology.pcurves import gap_between, pcurve_made_anew

__all__ = ["gap_between", "widen_tolerances"]

_SAMPLES, _FEET = 33, 9
_EXACT = 1e-9
"""Gap, mm, from which a curve laid on a surface is laid anew."""

_MOST = 0.1
"""Gaps above this, mm, are left for the checks: that edge belongs elsewhere."""

_COARSE = 1e-5
"""Gap, mm, of a curve whose edge lies on the face, from which a body is better made anew."""

_MARGIN = 1.1


def widen_tolerances(shape: TopoDS_Shape) -> bool:
    """Lay curves on faces better where that helps, and widen the tolerances of edges, and of their
    vertices, to what their curves need then.

    Returns: whether curves lie off a face though their edges lie on it, and no better ones fit.
    """
    builder = BRep_Builder()
    is_coarse = False
    for face in faces_of(shape):
        surface = BRep_Tool.Surface_s(face)
        if isinstance(surface, Geom_Plane):
            continue
        gaps = _gaps(face)
        if any(gap.before is not None for gap in gaps) and not BRepCheck_Analyzer(face).IsValid():
            for gap in gaps:
                if gap.before is not None:
                    builder.UpdateEdge(gap.edge, gap.before, face, BRep_Tool.Tolerance_s(gap.edge))
            gaps = _gaps(face, anew=False)
        is_coarse = is_coarse or any(g.width > _COARSE and _lies_on(g.edge, surface) for g in gaps)
        for gap in gaps:
            if BRep_Tool.Tolerance_s(gap.edge) < gap.width < _MOST:
                builder.UpdateEdge(gap.edge, gap.width * _MARGIN)
                for vertex in vertices_of(gap.edge):
                    builder.UpdateVertex(TopoDS.Vertex(vertex), gap.width * _MARGIN)
    return is_coarse


def _lies_on(edge: TopoDS_Edge, surface: Geom_Surface) -> bool:
    """Whether the edge itself lies on a surface, sampled, by a tenth of what is coarse."""
    projector, curve = ShapeAnalysis_Surface(surface), BRep_Tool.Curve_s(edge, 0.0, 0.0)
    first, last = BRep_Tool.Range_s(edge)
    for number in range(_FEET):
        projector.ValueOfUV(curve.Value(first + (last - first) * number / (_FEET - 1)), 1e-9)
        if projector.Gap() > _COARSE / 10:
            return False
    return True


@dataclass(frozen=True, slots=True)
class _Gap:
    """How far an edge lies off a face, mm, and the curve on it that was laid anew."""

    edge: TopoDS_Edge
    width: float
    before: Geom2d_Curve | None = None


def _gaps(face: TopoDS_Face, *, anew: bool = True) -> list[_Gap]:
    """The gaps of a face's edges by their curves on it; lines and circles there lie on theirs."""
    gaps = []
    explorer = TopExp_Explorer(face, TopAbs_ShapeEnum.TopAbs_EDGE)
    surface = BRep_Tool.Surface_s(face)
    while explorer.More():
        edge = TopoDS.Edge(explorer.Current())
        explorer.Next()
        pcurve = BRep_Tool.CurveOnSurface_s(edge, face, 0.0, 0.0)
        curve = BRep_Tool.Curve_s(edge, 0.0, 0.0)
        if BRep_Tool.Degenerated_s(edge) or curve is None or pcurve is None:
            continue
        basis = pcurve.BasisCurve() if isinstance(pcurve, Geom2d_TrimmedCurve) else pcurve
        is_spline = isinstance(basis, Geom2d_BSplineCurve)
        if not is_spline and isinstance(curve, Geom_Line | Geom_Circle):
            continue
        gap = gap_between(curve, pcurve, surface, *BRep_Tool.Range_s(edge), samples=_SAMPLES)
        before = None
        if anew and is_spline and gap > _EXACT:
            now = pcurve_made_anew(edge, face, pcurve, gap, samples=_SAMPLES)
            before, gap = (pcurve if now < gap else None), now
        gaps.append(_Gap(edge, gap, before))
    return gaps
