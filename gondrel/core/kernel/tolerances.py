"""Tolerances that tell the truth: an edge's covers the gap between its curve and its faces.

The kernel takes the tolerance a file claims. Where a curve lies further off a surface than that, the
body would be called invalid and later work on it go wrong; so the tolerance is widened to the gap
that is measured. Geometry is not touched.
"""

from __future__ import annotations

import numpy as np
from OCP.BRep import BRep_Builder, BRep_Tool
from OCP.Geom import Geom_Circle, Geom_Curve, Geom_Line, Geom_Plane, Geom_Surface
from OCP.Geom2d import Geom2d_Curve
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopExp import TopExp_Explorer
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Face, TopoDS_Shape

from gondrel.core.kernel.shape import faces_of, vertices_of

__all__ = ["gap_between", "widen_tolerances"]

_SAMPLES = 33
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
    """How far an edge's curve lies off a face, by its curve on it; lines and circles lie on theirs."""
    if BRep_Tool.Degenerated_s(edge):
        return 0.0
    curve = BRep_Tool.Curve_s(edge, 0.0, 0.0)
    if curve is None or isinstance(curve, Geom_Line | Geom_Circle):
        return 0.0
    flat = BRep_Tool.CurveOnSurface_s(edge, face, 0.0, 0.0)
    if flat is None:
        return 0.0
    surface = BRep_Tool.Surface_s(face)
    return gap_between(curve, flat, surface, *BRep_Tool.Range_s(edge), samples=_SAMPLES)


def gap_between(
    curve: Geom_Curve, flat: Geom2d_Curve, surface: Geom_Surface, first: float, last: float, *, samples: int
) -> float:
    """How far a curve lies off a surface, by its counterpart in the surface's parameters, sampled; mm."""
    worst = 0.0
    for t in np.linspace(first, last, samples).tolist():
        at = flat.Value(t)
        worst = max(worst, surface.Value(at.X(), at.Y()).Distance(curve.Value(t)))
    return worst
