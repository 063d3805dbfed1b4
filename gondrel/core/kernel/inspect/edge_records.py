"""The edges of a body as plain figures."""

from __future__ import annotations

import math
from collections.abc import Sequence

from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.GCPnts import GCPnts_AbscissaPoint
from OCP.GeomAbs import GeomAbs_CurveType
from OCP.OCP.collections import IndexedMap_TopoDS_Shape_TopTools_ShapeMapHasher as ShapeMap
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopExp import TopExp
from OCP.TopoDS import TopoDS_Edge, TopoDS_Shape

from gondrel.core.kernel.inspect.records import EdgeRecord, Point
from gondrel.core.kernel.topology.coedges import Coedges
from gondrel.core.work.halves import in_halves

__all__ = ["edge_records"]

_CURVES = {
    kind: kind.name.removeprefix("GeomAbs_").removesuffix("Curve").lower()
    for kind in GeomAbs_CurveType.__members__.values()
}
_LENGTH_ERROR = 1e-7
_MANY_EDGES = 4_000
"""From how many edges on half of them are looked at in a copy of this process."""


def edge_records(
    shape: TopoDS_Shape,
    edges: Sequence[TopoDS_Edge],
    coedges: Coedges,
    vertices: Sequence[tuple[Point, float]],
) -> list[EdgeRecord]:
    """What there is to know of every edge of a body. Call it inside kernel_call.

    Args:
        edges, vertices: of the shape in their order; vertices with their tolerances, mm.
    """
    corners = ShapeMap()
    TopExp.MapShapes_s(shape, TopAbs_ShapeEnum.TopAbs_VERTEX, corners)
    uses: list[list[tuple[int, bool]]] = [[] for _ in edges]
    rows = (coedges.edge.tolist(), coedges.face.tolist(), coedges.forward.tolist())
    for index, face, forward in zip(*rows, strict=True):
        uses[index].append((face, forward))

    def looked_at(first: int, behind: int) -> list[EdgeRecord]:
        return [_edge_record(n, edges[n], corners, uses[n], vertices) for n in range(first, behind)]

    return [each for half in in_halves(len(edges), looked_at, worth=_MANY_EDGES) for each in half]


def _edge_record(
    index: int,
    edge: TopoDS_Edge,
    corners: ShapeMap,
    coedges: list[tuple[int, bool]],
    vertices: Sequence[tuple[Point, float]],
) -> EdgeRecord:
    """What there is to know of an edge.

    Args:
        corners: all vertices in their order; coedges: the faces that use the edge, and which way.
    """
    begin, end = TopExp.FirstVertex_s(edge), TopExp.LastVertex_s(edge)
    ends = corners.FindIndex(begin) - 1, corners.FindIndex(end) - 1
    degenerate = bool(BRep_Tool.Degenerated_s(edge))
    length, kind, off = 0.0, "point", 0.0
    middle = vertices[ends[0]][0] if ends[0] >= 0 else (0.0, 0.0, 0.0)
    points = (middle, middle)
    if not degenerate:
        curve = BRepAdaptor_Curve(edge)
        kind = _CURVES.get(curve.GetType(), "other")
        first, last = curve.FirstParameter(), curve.LastParameter()
        middle = curve.Value((first + last) / 2).Coord()
        points = (curve.Value(first).Coord(), curve.Value(last).Coord())
        if kind == "line":
            length = math.dist(*points)
        elif kind == "circle":
            length = abs(last - first) * curve.Circle().Radius()
        else:
            length = float(GCPnts_AbscissaPoint.Length_s(curve, _LENGTH_ERROR))
        for point, vertex in zip(points, ends, strict=True):
            if vertex >= 0:
                off = max(off, math.dist(point, vertices[vertex][0]))
    return EdgeRecord(
        index,
        length,
        kind,
        tuple(coedges),
        ends,
        middle,
        BRep_Tool.Tolerance_s(edge),
        off,
        degenerate,
        points,
    )
