"""Things of stored bodies that are measured: as shapes or lines in their places, and their own sizes."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import TypeAlias

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Tool
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge, BRepBuilderAPI_MakeVertex
from OCP.GeomAbs import GeomAbs_CurveType as Curves
from OCP.GeomAbs import GeomAbs_SurfaceType as Surfaces
from OCP.gp import gp_Ax1, gp_Dir, gp_Lin, gp_Pnt
from OCP.TopoDS import TopoDS_Edge, TopoDS_Face, TopoDS_Shape

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.base.shape import edges_of, faces_of, kind_of, location_of, vertices_of
from gondrel.core.kernel.geometry.analytic import curve_as_seen, surface_as_seen
from gondrel.core.kernel.geometry.normals import outward_in_middle
from gondrel.core.kernel.measure.lengths import length_of
from gondrel.core.kernel.measure.mass import exact_area_of, kind_of_surface, measure
from gondrel.core.model.body import BodyKind
from gondrel.core.model.geometry import Vector, vector_of
from gondrel.core.model.measures import Size, Thing

__all__ = ["AxisLine", "PlacedThing", "direction_of", "placed_thing", "size_of"]

Floats = NDArray[np.float64]

_ROUND = (Surfaces.GeomAbs_Cylinder, Surfaces.GeomAbs_Cone, Surfaces.GeomAbs_Torus)


@dataclass(frozen=True, slots=True)
class AxisLine:
    """A line without ends: a point of it and a unit direction, mm."""

    at: Floats
    way: Floats

    def between(self, far: float) -> TopoDS_Edge:
        """The stretch of it that reaches so far both ways from its point. Call it inside kernel_call."""
        line = gp_Lin(gp_Pnt(*self.at.tolist()), gp_Dir(*self.way.tolist()))
        return BRepBuilderAPI_MakeEdge(line, -far, far).Edge()


PlacedThing: TypeAlias = TopoDS_Shape | AxisLine


def placed_thing(thing: Thing, shape: TopoDS_Shape | None) -> PlacedThing:
    """A thing in its place in the whole.

    Args:
        shape: its body in its own frame, None for a point.

    Raises:
        KernelRefused: when its body has no such face, edge or vertex, or it has no axis.
    """
    with kernel_call("looking up what is measured"):
        if thing.kind == "point":
            return BRepBuilderAPI_MakeVertex(gp_Pnt(*thing.point)).Vertex()
        if shape is None:
            raise KernelRefused("the body of what is measured is not there")
        whole = shape.Located(location_of(thing.placement))
        if thing.kind == "body":
            return whole
        if thing.kind == "axis":
            axis = _axis_of(_one_of(edges_of(whole) if thing.of_edge else faces_of(whole), thing.index))
            if axis is None:
                raise KernelRefused("it has no axis")
            return axis
        if thing.kind == "vertex" and thing.index < 0:
            return _nearest_vertex(whole, thing.point)
        parts = {"face": faces_of, "edge": edges_of, "vertex": vertices_of}[thing.kind](whole)
        return _one_of(parts, thing.index)


def _nearest_vertex(shape: TopoDS_Shape, point: Vector) -> TopoDS_Shape:
    vertices = vertices_of(shape)
    if not vertices:
        raise KernelRefused("the body has no corners")
    places = np.array([BRep_Tool.Pnt_s(vertex).Coord() for vertex in vertices])
    return vertices[int(np.argmin(np.linalg.norm(places - np.asarray(point), axis=1)))]


def _one_of(parts: list[TopoDS_Shape], index: int) -> TopoDS_Shape:  # type: ignore[type-arg,unused-ignore]
    if not 0 <= index < len(parts):
        raise KernelRefused(f"the body has no part number {index} of this kind")
    return parts[index]


def _axis_of(shape: TopoDS_Shape) -> AxisLine | None:
    if isinstance(shape, TopoDS_Face):
        surface = surface_as_seen(shape)
        kind = surface.GetType()
        if kind == Surfaces.GeomAbs_Cylinder:
            return _line(surface.Cylinder().Axis())
        if kind == Surfaces.GeomAbs_Cone:
            return _line(surface.Cone().Axis())
        if kind == Surfaces.GeomAbs_Torus:
            return _line(surface.Torus().Axis())
        if kind == Surfaces.GeomAbs_SurfaceOfRevolution:
            return _line(surface.AxeOfRevolution())
        return None
    curve = curve_as_seen(shape)
    if curve.GetType() == Curves.GeomAbs_Circle:
        return _line(curve.Circle().Axis())
    if curve.GetType() == Curves.GeomAbs_Ellipse:
        return _line(curve.Ellipse().Axis())
    return None


def _line(axis: gp_Ax1) -> AxisLine:
    return AxisLine(np.array(axis.Location().Coord()), np.array(axis.Direction().Coord()))


def direction_of(placed: PlacedThing) -> tuple[Floats, bool] | None:
    """The direction of a line, an axis or a straight edge, or the normal of a plane out of its material.

    Returns: it, and whether it is a normal; None where there is none.
    """
    if isinstance(placed, AxisLine):
        return placed.way, False
    if isinstance(placed, TopoDS_Face):
        surface = surface_as_seen(placed)
        if surface.GetType() == Surfaces.GeomAbs_Plane:
            return _normal(placed), True
        axis = _axis_of(placed) if surface.GetType() in _ROUND[:2] else None
        return (axis.way, False) if axis is not None else None
    if isinstance(placed, TopoDS_Edge) and not BRep_Tool.Degenerated_s(placed):
        curve = curve_as_seen(placed)
        if curve.GetType() == Curves.GeomAbs_Line:
            return np.array(curve.Line().Direction().Coord()), False
    return None


def _normal(face: TopoDS_Face) -> Floats:
    """The normal of a plane face out of its material."""
    found = outward_in_middle(face)
    if found is None:
        raise KernelRefused("a plane face has no normal")
    return found[1]


def size_of(placed: PlacedThing) -> Size:
    """The measures of one thing in its place. Raises KernelRefused.

    Source: closed form for lines, circles and elementary surfaces; else the kernel's integration.
    """
    with kernel_call("measuring"):
        if isinstance(placed, AxisLine):
            return Size("axis", at=vector_of(placed.at), direction=vector_of(placed.way))
        if isinstance(placed, TopoDS_Face):
            return _face_size(placed)
        if isinstance(placed, TopoDS_Edge):
            return _edge_size(placed)
        if kind_of(placed) is BodyKind.POINT:
            (vertex,) = vertices_of(placed)
            return Size("point", at=vector_of(np.array(BRep_Tool.Pnt_s(vertex).Coord())))
        facts = measure(placed)
        volume = facts.volume if facts.volume else None
        return Size("body", area=facts.area, volume=volume, at=facts.centroid)


def _face_size(face: TopoDS_Face) -> Size:
    area, surface = exact_area_of(face), surface_as_seen(face)
    kind = kind_of_surface(surface)
    axis = _axis_of(face)
    at = vector_of(axis.at) if axis is not None else None
    way = vector_of(axis.way) if axis is not None else None
    if kind == "plane":
        return Size(kind, area=area, direction=vector_of(_normal(face)))
    if kind == "cylinder":
        return Size(kind, area=area, radius=surface.Cylinder().Radius(), at=at, direction=way)
    if kind == "cone":
        return Size(kind, area=area, angle=abs(surface.Cone().SemiAngle()), at=at, direction=way)
    if kind == "sphere":
        sphere = surface.Sphere()
        centre = vector_of(np.array(sphere.Location().Coord()))
        return Size(kind, area=area, radius=sphere.Radius(), at=centre)
    if kind == "torus":
        torus = surface.Torus()
        return Size(
            kind, area=area, radius=torus.MajorRadius(), minor=torus.MinorRadius(), at=at, direction=way
        )
    return Size(kind, area=area, at=at, direction=way)


def _edge_size(edge: TopoDS_Edge) -> Size:
    if BRep_Tool.Degenerated_s(edge):
        return Size("point")
    curve = curve_as_seen(edge)
    length, kind = length_of(edge), curve.GetType()
    name: str = kind.name.removeprefix("GeomAbs_").removesuffix("Curve").lower()
    if kind == Curves.GeomAbs_Line:
        direction = vector_of(np.array(curve.Line().Direction().Coord()))
        return Size(name, length=length, direction=direction)
    if kind in (Curves.GeomAbs_Circle, Curves.GeomAbs_Ellipse):
        axis = _axis_of(edge)
        assert axis is not None
        is_circle = kind == Curves.GeomAbs_Circle
        radius = curve.Circle().Radius() if is_circle else curve.Ellipse().MajorRadius()
        span = abs(curve.LastParameter() - curve.FirstParameter())
        return Size(
            name, length=length, radius=radius, minor=None if is_circle else curve.Ellipse().MinorRadius(),
            angle=min(span, 2 * math.pi) if is_circle else None, at=vector_of(axis.at),
            direction=vector_of(axis.way),
        )  # fmt: skip
    return Size("spline" if name in ("bspline", "bezier") else name, length=length)
