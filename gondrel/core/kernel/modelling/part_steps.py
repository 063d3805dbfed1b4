"""One feature put on a solid: a hole, a prism, rounded or bevelled edges."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakePolygon,
    BRepBuilderAPI_MakeVertex,
    BRepBuilderAPI_Transform,
)
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.BRepFilletAPI import BRepFilletAPI_MakeChamfer, BRepFilletAPI_MakeFillet
from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism, BRepPrimAPI_MakeRevol
from OCP.gp import gp_Ax1, gp_Ax3, gp_Dir, gp_Pnt, gp_Trsf, gp_Vec
from OCP.OCP.collections import (
    IndexedDataMap_TopoDS_Shape_List_TopoDS_Shape_TopTools_ShapeMapHasher as AncestorMap,
)
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopExp import TopExp
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Shape

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.base.shape import compound_of, edges_of
from gondrel.core.kernel.modelling.edits import united, without
from gondrel.core.kernel.modelling.profiled import region_face
from gondrel.core.model.geometry import Vector, vector_of
from gondrel.core.model.part_recipe import PartStep
from gondrel.core.model.profile import Profile

__all__ = ["framed", "new_edges", "put_on", "spots_of_edge", "tool_of", "turned_tool"]

_NEAR = 1e-4
_SHARES = (0.27, 0.5, 0.73)
_SAME = 1e-9


def framed(shape: TopoDS_Shape, at: Vector, way: Vector, right: Vector) -> TopoDS_Shape:
    """A shape of the xy plane put into a frame, z along its way. Call it inside kernel_call."""
    move = gp_Trsf()
    move.SetTransformation(gp_Ax3(gp_Pnt(*at), gp_Dir(*way), gp_Dir(*right)), gp_Ax3())
    return BRepBuilderAPI_Transform(shape, move, True).Shape()


def turned_tool(step: PartStep) -> TopoDS_Shape:
    """The solid of a hole: its radii along its axis turned round. Call it inside kernel_call."""
    at, way = np.array(step.at), np.array(step.way)
    right = _across(way)
    points = [(step.turned[0][0], 0.0), *step.turned]
    if step.turned[-1][1] > _SAME:
        points.append((step.turned[-1][0], 0.0))
    outline = BRepBuilderAPI_MakePolygon()
    last: tuple[float, float] | None = None
    for along, radius in points:
        if last is None or math.dist(last, (along, radius)) > _SAME:
            outline.Add(gp_Pnt(*(at + along * way + radius * right).tolist()))
            last = along, radius
    outline.Close()
    face = BRepBuilderAPI_MakeFace(outline.Wire(), True).Face()
    axis = gp_Ax1(gp_Pnt(*step.at), gp_Dir(*step.way))
    return BRepPrimAPI_MakeRevol(face, axis).Shape()


def _across(way: np.ndarray) -> np.ndarray:
    least = np.eye(3)[int(np.argmin(np.abs(way)))]
    across = np.cross(way, least)
    return np.asarray(across / np.linalg.norm(across))


def put_on(body: TopoDS_Shape, step: PartStep, profile: Profile | None) -> TopoDS_Shape:
    """A solid with one more feature.

    Args:
        profile: the regions of the step's outline, where it has one.

    Raises:
        KernelRefused: where it can't be put there: no room, no edge, no material.
    """
    if step.kind in ("fillet", "chamfer"):
        return _on_edges(body, step)
    tool = tool_of(step, profile)
    return (united(body, [tool]) if step.adds else without(body, [tool], f"a {step.kind}")).shape


def tool_of(step: PartStep, profile: Profile | None) -> TopoDS_Shape:
    """The solid that a step adds or takes away. Raises KernelRefused where its outline encloses nothing."""
    with kernel_call(f"making a {step.kind}"):
        if step.turned:
            return turned_tool(step)
        if profile is None or not profile.regions:
            raise KernelRefused(f"the outline of the {step.kind} encloses nothing")
        face = region_face(profile, profile.regions[0])
        prism = BRepPrimAPI_MakePrism(face, gp_Vec(0, 0, step.depth)).Shape()
        return framed(prism, step.at, step.way, step.right)


def _on_edges(body: TopoDS_Shape, step: PartStep) -> TopoDS_Shape:
    doing = f"putting on a {step.kind}"
    if not step.edges:
        raise KernelRefused("no edge is told")
    with kernel_call(doing):
        edges = _edges_at(body, step.edges)
        if step.kind == "fillet":
            maker = BRepFilletAPI_MakeFillet(body)
            for edge in edges:
                maker.Add(step.sizes["radius"], edge)
        else:
            maker = BRepFilletAPI_MakeChamfer(body)
            one, other = step.sizes["distance"], step.sizes.get("distance2", step.sizes["distance"])
            for edge in edges:
                if abs(one - other) < _SAME:
                    maker.Add(one, edge)
                else:
                    maker.Add(one, other, edge, _face_beside(body, edge, int(step.sizes.get("side", 0))))
        maker.Build()
        if not maker.IsDone():
            raise KernelRefused(f"the kernel can't do it ({doing}): there may be no room for it")
        made: TopoDS_Shape = maker.Shape()
        return made


def _face_beside(body: TopoDS_Shape, edge: TopoDS_Edge, side: int) -> TopoDS_Shape:
    table = AncestorMap()
    TopExp.MapShapesAndAncestors_s(body, TopAbs_ShapeEnum.TopAbs_EDGE, TopAbs_ShapeEnum.TopAbs_FACE, table)
    faces = list(table.FindFromKey(edge))
    return TopoDS.Face(faces[side % len(faces)])


def _edges_at(body: TopoDS_Shape, places: Sequence[Sequence[Vector]]) -> list[TopoDS_Edge]:
    """The edges on which points lie. Raises KernelRefused where there is none."""
    found: list[TopoDS_Edge] = []
    listed = edges_of(body)
    for points in places:
        best: tuple[int, TopoDS_Edge] | None = None
        for edge in listed:
            near = sum(_distance(point, edge) < _NEAR for point in points)
            if near and (best is None or near > best[0]):
                best = near, edge
        if best is None:
            x, y, z = points[len(points) // 2]
            raise KernelRefused(f"the edge at {x:.4g}, {y:.4g}, {z:.4g} mm is not there any more")
        if not any(best[1].IsSame(edge) for edge in found):
            found.append(best[1])
    return found


def _distance(point: Vector, shape: TopoDS_Shape) -> float:
    vertex = BRepBuilderAPI_MakeVertex(gp_Pnt(*point)).Vertex()
    apart = BRepExtrema_DistShapeShape(vertex, shape)
    return float(apart.Value()) if apart.IsDone() else math.inf


def spots_of_edge(edge: TopoDS_Edge) -> tuple[Vector, ...]:
    """Three points on an edge, by which it is found again. Call it inside kernel_call."""
    curve = BRepAdaptor_Curve(edge)
    first, last = curve.FirstParameter(), curve.LastParameter()
    return tuple(
        vector_of(np.array(curve.Value(first + share * (last - first)).Coord())) for share in _SHARES
    )


def new_edges(before: TopoDS_Shape, after: TopoDS_Shape) -> tuple[tuple[Vector, ...], ...]:
    """Points on the edges of a solid that lie on no edge of another. Raises KernelRefused."""
    with kernel_call("comparing edges"):
        old = compound_of(edges_of(before))
        spots = [spots_of_edge(edge) for edge in edges_of(after)]
        return tuple(points for points in spots if _distance(points[1], old) > _NEAR)
