"""How far the edges and vertices of a stored body are apart at most."""

from __future__ import annotations

from OCP.BRep import BRep_Tool
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopExp import TopExp_Explorer
from OCP.TopoDS import TopoDS

from gondrel.core.kernel.base.shape import shape_from_blob

__all__ = ["gape_of"]


def gape_of(blob: bytes) -> float:
    """The largest tolerance of an edge or vertex of a B-rep, mm. Raises KernelRefused."""
    shape = shape_from_blob(blob)
    widest = 0.0
    edges = TopExp_Explorer(shape, TopAbs_ShapeEnum.TopAbs_EDGE)
    while edges.More():
        widest = max(widest, BRep_Tool.Tolerance_s(TopoDS.Edge(edges.Current())))
        edges.Next()
    vertices = TopExp_Explorer(shape, TopAbs_ShapeEnum.TopAbs_VERTEX)
    while vertices.More():
        widest = max(widest, BRep_Tool.Tolerance_s(TopoDS.Vertex(vertices.Current())))
        vertices.Next()
    return float(widest)
