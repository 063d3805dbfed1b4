"""Vertices put where their edges end, and tolerances made as small as the geometry allows."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Builder, BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepLib import BRepLib
from OCP.GeomAPI import GeomAPI_ProjectPointOnCurve
from OCP.gp import gp_Pnt
from OCP.OCP.collections import IndexedMap_TopoDS_Shape_TopTools_ShapeMapHasher as ShapeMap
from OCP.ShapeAnalysis import ShapeAnalysis_ShapeTolerance
from OCP.ShapeFix import ShapeFix_ShapeTolerance
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopExp import TopExp
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Shape, TopoDS_Vertex

from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.base.shape import edges_of, split_bodies, vertices_of
from gondrel.core.kernel.repair.shells import Made, copied

__all__ = ["fit_tolerances", "vertices_to_edges", "widest_tolerance"]

_FINEST = 1e-7
"""The kernel's own resolution, mm."""


def fit_tolerances(shape: TopoDS_Shape) -> Made:
    """A body whose edges and vertices have the least tolerance that covers their gaps.

    Raises KernelRefused.
    """
    with kernel_call("fitting tolerances"):
        return list(split_bodies(_fitted(copied(shape))))


def widest_tolerance(shape: TopoDS_Shape) -> float:
    """The largest tolerance of anything in a body, mm."""
    return float(ShapeAnalysis_ShapeTolerance().Tolerance(shape, 1))


def vertices_to_edges(shape: TopoDS_Shape, within: float) -> Made:
    """A body whose vertices lie where most of their edges end; other edges there are trimmed to it.

    Args:
        within: how far ends may lie from one another, mm; where fewer than two agree, the vertex stays.

    Raises:
        KernelRefused: when the kernel fails over it.
    """
    with kernel_call("putting vertices on edges"):
        made = copied(shape)
        order = ShapeMap()
        TopExp.MapShapes_s(made, TopAbs_ShapeEnum.TopAbs_VERTEX, order)
        ends: dict[int, list[_End]] = {}
        for edge in edges_of(made):
            if BRep_Tool.Degenerated_s(edge):
                continue
            curve = BRepAdaptor_Curve(edge)
            sides = (
                (TopExp.FirstVertex_s(edge), curve.FirstParameter(), True),
                (TopExp.LastVertex_s(edge), curve.LastParameter(), False),
            )
            for vertex, parameter, is_first in sides:
                end = _End(edge, is_first, _coordinates(curve.Value(parameter)))
                ends.setdefault(order.FindIndex(vertex), []).append(end)
        for vertex in vertices_of(made):
            _settle(TopoDS.Vertex(vertex), ends.get(order.FindIndex(vertex), []), within)
        return list(split_bodies(_fitted(made)))


@dataclass(frozen=True, slots=True)
class _End:
    edge: TopoDS_Edge
    is_first: bool
    at: NDArray[np.float64]


def _coordinates(point: gp_Pnt) -> NDArray[np.float64]:
    return np.array([point.X(), point.Y(), point.Z()])


def _settle(vertex: TopoDS_Vertex, ends: list[_End], within: float) -> None:
    groups = [[e for e in ends if np.abs(e.at - one.at).max() <= within] for one in ends]
    agreed = max(groups, key=len, default=[])
    if len(agreed) < min(2, len(ends)) or not agreed:
        return
    where = gp_Pnt(*(float(v) for v in np.mean([e.at for e in agreed], axis=0)))
    builder = BRep_Builder()
    for end in ends:
        if any(end is one for one in agreed):
            continue
        first, last = BRep_Tool.Range_s(end.edge)
        projection = GeomAPI_ProjectPointOnCurve(where, BRep_Tool.Curve_s(end.edge, 0.0, 0.0))
        if not projection.NbPoints() or projection.LowerDistance() > within:
            return
        foot = float(projection.LowerDistanceParameter())
        builder.Range(end.edge, *((foot, last) if end.is_first else (first, foot)))
    builder.UpdateVertex(vertex, where, _FINEST)


def _fitted(shape: TopoDS_Shape) -> TopoDS_Shape:
    ShapeFix_ShapeTolerance().SetTolerance(shape, _FINEST, TopAbs_ShapeEnum.TopAbs_SHAPE)
    BRepLib.SameParameter_s(shape, _FINEST, True)
    BRepLib.UpdateTolerances_s(shape, True)
    return shape
