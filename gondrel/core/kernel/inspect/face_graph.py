"""Lays out the faces of a solid and the edges between them as plain figures."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepGProp import BRepGProp
from OCP.GCPnts import GCPnts_AbscissaPoint
from OCP.GeomAbs import GeomAbs_CurveType as Curves
from OCP.GeomAbs import GeomAbs_SurfaceType as Surfaces
from OCP.GeomAdaptor import GeomAdaptor_Surface
from OCP.GProp import GProp_GProps
from OCP.OCP.collections import IndexedMap_TopoDS_Shape_TopTools_ShapeMapHasher as ShapeMap
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopExp import TopExp
from OCP.TopoDS import TopoDS_Edge, TopoDS_Face, TopoDS_Shape

from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.base.shape import faces_of
from gondrel.core.kernel.geometry.about_axis import heights_of_edges, middle_walks, turned_about
from gondrel.core.kernel.geometry.analytic import curve_as_seen, surface_as_seen
from gondrel.core.kernel.geometry.normals import is_away_from, outward_in_middle
from gondrel.core.kernel.inspect.dihedral import edges_as_walked, outward_turn
from gondrel.core.kernel.inspect.inspection import Inspection
from gondrel.core.kernel.inspect.threads import helices_of
from gondrel.core.model.face_graph import FaceGraph, FaceMeeting, HelixEdge, SolidFace
from gondrel.core.model.geometry import vector_of

__all__ = ["face_graph_of"]

Floats = NDArray[np.float64]

_ZERO = (0.0, 0.0, 0.0)
_STEPS = 17
_KINDS = {
    Surfaces.GeomAbs_Plane: "plane", Surfaces.GeomAbs_Cylinder: "cylinder", Surfaces.GeomAbs_Cone: "cone",
    Surfaces.GeomAbs_Sphere: "sphere", Surfaces.GeomAbs_Torus: "torus",
}  # fmt: skip


def face_graph_of(solid: TopoDS_Shape) -> FaceGraph:
    """The faces of a solid and how they meet. Raises KernelRefused."""
    with kernel_call("laying out faces"):
        faces = faces_of(solid)
        laid = tuple(_face(index, face) for index, face in enumerate(faces))
        return FaceGraph(laid, tuple(_meetings(solid, faces)), tuple(_helices(solid, laid)))


def _helices(solid: TopoDS_Shape, faces: Sequence[SolidFace]) -> Iterator[HelixEdge]:
    """Edges that wind round an axis; they bound a face that is none of the elementary ones."""
    if any(face.kind == "other" for face in faces):
        for helix in helices_of(Inspection(solid)):
            yield HelixEdge(helix.diameter, helix.pitch, helix.turns, helix.at, helix.axis)


def _face(index: int, face: TopoDS_Face) -> SolidFace:
    seen = surface_as_seen(face)
    kind = _KINDS.get(seen.GetType(), "other")
    properties = GProp_GProps()
    BRepGProp.SurfaceProperties_s(face, properties)
    area, centre = float(properties.Mass()), vector_of(np.array(properties.CentreOfMass().Coord()))
    outward = outward_in_middle(face)
    if outward is None or kind == "other":
        return SolidFace(index, "other", centre, _ZERO, 0, 0, 0, False, 0, 0, 0, area, centre)
    if kind == "plane":
        at, way = outward
        return SolidFace(index, kind, vector_of(at), vector_of(way), 0, 0, 0, False, 0, 0, 0, area, centre)
    foot, way, radius, minor, angle = _form(seen, kind)
    low, high, sweep = _reach(face, foot, way)
    is_hollow = not _stands_out(kind, foot, way, radius, *outward)
    return SolidFace(
        index, kind, vector_of(foot), vector_of(way), radius, minor, angle, is_hollow, low, high, sweep,
        area, centre,
    )  # fmt: skip


def _form(seen: GeomAdaptor_Surface, kind: str) -> tuple[Floats, Floats, float, float, float]:
    """Point and direction of the axis, radius, radius of the tube and half angle of a round surface."""
    if kind == "sphere":
        ball = seen.Sphere()
        frame = ball.Position()
        return _coords(frame.Location()), _coords(frame.Direction()), float(ball.Radius()), 0.0, 0.0
    form = {"cylinder": seen.Cylinder, "cone": seen.Cone, "torus": seen.Torus}[kind]()
    axis = form.Axis()
    at, way = _coords(axis.Location()), _coords(axis.Direction())
    if kind == "cylinder":
        return at, way, float(form.Radius()), 0.0, 0.0
    if kind == "torus":
        return at, way, float(form.MajorRadius()), float(form.MinorRadius()), 0.0
    return at, way, float(form.RefRadius()), 0.0, float(form.SemiAngle())


def _coords(point: object) -> Floats:
    return np.array(point.Coord())  # type: ignore[attr-defined]


def _stands_out(kind: str, foot: Floats, way: Floats, radius: float, at: Floats, normal: Floats) -> bool:
    """Whether the normal leads away from the middle of a round face, as on a pin."""
    if kind == "sphere":
        return bool(normal @ (at - foot) > 0)
    if kind == "torus":
        across = (at - foot) - ((at - foot) @ way) * way
        size = float(np.linalg.norm(across))
        middle = foot + (across / size * radius if size else 0.0)
        return bool(normal @ (at - middle) > 0)
    return is_away_from(foot, way, at, normal)


def _reach(face: TopoDS_Face, foot: Floats, way: Floats) -> tuple[float, float, float]:
    """From where to where a face reaches along an axis, mm, and how far it goes round it, rad."""
    walks = middle_walks(face)
    heights = [float((point - foot) @ way) for walk in walks for point in walk]
    heights += heights_of_edges(face, foot, way)
    return min(heights), max(heights), max(turned_about(walk - foot, way) for walk in walks)


def _meetings(solid: TopoDS_Shape, faces: list[TopoDS_Face]) -> list[FaceMeeting]:
    order = ShapeMap()
    TopExp.MapShapes_s(solid, TopAbs_ShapeEnum.TopAbs_EDGE, order)
    first: dict[int, tuple[int, TopoDS_Edge]] = {}
    found = []
    for number, face in enumerate(faces):
        for edge in edges_as_walked(face):
            index = order.FindIndex(edge) - 1
            if BRep_Tool.Degenerated_s(edge):
                continue
            if index not in first:
                first[index] = number, edge
            elif first[index][0] != number:
                other, own = first[index]
                found.append(_meeting(index, own, (other, number), faces))
    return found


def _meeting(index: int, edge: TopoDS_Edge, pair: tuple[int, int], faces: list[TopoDS_Face]) -> FaceMeeting:
    turn = outward_turn(edge, faces[pair[0]], faces[pair[1]])
    curve = curve_as_seen(edge)
    kind = curve.GetType()
    span = curve.LastParameter() - curve.FirstParameter()
    if kind == Curves.GeomAbs_Line:
        line = curve.Line()
        start = _coords(curve.Value(curve.FirstParameter()))
        way = vector_of(_coords(line.Direction()))
        return FaceMeeting(index, pair, turn, "line", abs(span), 0.0, vector_of(start), way)
    if kind == Curves.GeomAbs_Circle:
        circle = curve.Circle()
        at, way = vector_of(_coords(circle.Location())), vector_of(_coords(circle.Axis().Direction()))
        radius = float(circle.Radius())
        return FaceMeeting(index, pair, turn, "circle", abs(span) * radius, radius, at, way)
    length = float(GCPnts_AbscissaPoint.Length_s(BRepAdaptor_Curve(edge), 1e-6))
    assert math.isfinite(length)
    return FaceMeeting(index, pair, turn, "other", length, 0.0, _ZERO, _ZERO)
