"""Making bodies: outlines, prisms, turned shapes, Booleans, fillets and chamfers. Lengths in mm."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass

from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepAlgoAPI import BRepAlgoAPI_Common, BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse
from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeEdge,
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakeWire,
    BRepBuilderAPI_Transform,
)
from OCP.BRepFilletAPI import BRepFilletAPI_MakeChamfer, BRepFilletAPI_MakeFillet
from OCP.BRepPrimAPI import (
    BRepPrimAPI_MakeBox,
    BRepPrimAPI_MakeCone,
    BRepPrimAPI_MakeCylinder,
    BRepPrimAPI_MakePrism,
    BRepPrimAPI_MakeRevol,
    BRepPrimAPI_MakeSphere,
    BRepPrimAPI_MakeTorus,
)
from OCP.GC import GC_MakeArcOfCircle
from OCP.GeomAbs import GeomAbs_CurveType
from OCP.GeomAPI import GeomAPI_PointsToBSpline
from OCP.gp import gp_Ax1, gp_Ax2, gp_Dir, gp_Pnt, gp_Trsf, gp_Vec
from OCP.OCP.collections import Array1_gp_Pnt
from OCP.TopoDS import TopoDS_Edge, TopoDS_Shape

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.base.shape import edges_of, faces_of, split_bodies
from gondrel.core.kernel.measure.mass import surface_kind

__all__ = [
    "ArcTo",
    "LineTo",
    "SplineTo",
    "block",
    "chamfer",
    "common",
    "cone",
    "cut",
    "cylinder",
    "edges_along",
    "faces_where",
    "fillet",
    "fuse",
    "moved",
    "prism",
    "sphere",
    "torus",
    "turned",
]

Point = tuple[float, float]


@dataclass(frozen=True, slots=True)
class LineTo:
    """A straight piece of an outline, to a point."""

    end: Point


@dataclass(frozen=True, slots=True)
class ArcTo:
    """A circular piece of an outline, through a point to another."""

    through: Point
    end: Point


@dataclass(frozen=True, slots=True)
class SplineTo:
    """A smooth piece of an outline through points; the last is its end."""

    points: tuple[Point, ...]


Piece = LineTo | ArcTo | SplineTo


def _at(point: Point) -> gp_Pnt:
    return gp_Pnt(point[0], point[1], 0.0)


def _edge(start: Point, piece: Piece) -> tuple[TopoDS_Edge, Point]:
    if isinstance(piece, LineTo):
        return BRepBuilderAPI_MakeEdge(_at(start), _at(piece.end)).Edge(), piece.end
    if isinstance(piece, ArcTo):
        arc = GC_MakeArcOfCircle(_at(start), _at(piece.through), _at(piece.end)).Value()
        return BRepBuilderAPI_MakeEdge(arc).Edge(), piece.end
    points = (start, *piece.points)
    array = Array1_gp_Pnt(1, len(points))
    for index, point in enumerate(points, 1):
        array.SetValue(index, _at(point))
    curve = GeomAPI_PointsToBSpline(array).Curve()
    return BRepBuilderAPI_MakeEdge(curve).Edge(), points[-1]


def prism(start: Point, pieces: Iterable[Piece], height: float) -> TopoDS_Shape:
    """A closed outline in the xy plane raised along z. Raises KernelRefused."""
    with kernel_call("raising an outline"):
        maker = BRepBuilderAPI_MakeWire()
        at = start
        for piece in pieces:
            edge, at = _edge(at, piece)
            maker.Add(edge)
        face = BRepBuilderAPI_MakeFace(maker.Wire(), True).Face()
        return BRepPrimAPI_MakePrism(face, gp_Vec(0, 0, height)).Shape()


def turned(profile: Sequence[Point]) -> TopoDS_Shape:
    """A closed profile of (radius, z) points turned once around the z axis. Raises KernelRefused."""
    with kernel_call("turning a profile"):
        maker = BRepBuilderAPI_MakeWire()
        points = [gp_Pnt(r, 0.0, z) for r, z in profile]
        for one, other in zip(points, [*points[1:], points[0]], strict=True):
            maker.Add(BRepBuilderAPI_MakeEdge(one, other).Edge())
        face = BRepBuilderAPI_MakeFace(maker.Wire(), True).Face()
        axis = gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1))
        return BRepPrimAPI_MakeRevol(face, axis, 2 * math.pi).Shape()


def block(x: float, y: float, z: float, *, at: tuple[float, float, float] = (0, 0, 0)) -> TopoDS_Shape:
    """A block with one corner at a point."""
    return BRepPrimAPI_MakeBox(gp_Pnt(*at), x, y, z).Shape()


def cylinder(
    radius: float,
    height: float,
    *,
    at: tuple[float, float, float] = (0, 0, 0),
    axis: tuple[float, float, float] = (0, 0, 1),
) -> TopoDS_Shape:
    """A cylinder from a point along an axis."""
    frame = gp_Ax2(gp_Pnt(*at), gp_Dir(*axis))
    return BRepPrimAPI_MakeCylinder(frame, radius, height).Shape()


def cone(radius: float, top: float, height: float) -> TopoDS_Shape:
    """A cone frustum along z; a top radius of 0 makes a pointed cone."""
    return BRepPrimAPI_MakeCone(radius, top, height).Shape()


def sphere(radius: float) -> TopoDS_Shape:
    """A sphere about the origin."""
    return BRepPrimAPI_MakeSphere(radius).Shape()


def torus(major: float, minor: float) -> TopoDS_Shape:
    """A torus about the z axis."""
    return BRepPrimAPI_MakeTorus(major, minor).Shape()


def _single(shape: TopoDS_Shape) -> TopoDS_Shape:
    bodies = split_bodies(shape)
    if len(bodies) != 1:
        raise KernelRefused(f"a Boolean operation left {len(bodies)} bodies instead of one")
    return bodies[0][1]


def cut(shape: TopoDS_Shape, *tools: TopoDS_Shape) -> TopoDS_Shape:
    """The shape less the tools, one body. Raises KernelRefused when it falls apart."""
    with kernel_call("cutting"):
        for tool in tools:
            shape = BRepAlgoAPI_Cut(shape, tool).Shape()
        return _single(shape)


def fuse(shape: TopoDS_Shape, *others: TopoDS_Shape) -> TopoDS_Shape:
    """The union, one body, neighbouring faces on one surface joined. Raises KernelRefused."""
    with kernel_call("joining"):
        for other in others:
            operation = BRepAlgoAPI_Fuse(shape, other)
            operation.SimplifyResult()
            shape = operation.Shape()
        return _single(shape)


def common(shape: TopoDS_Shape, other: TopoDS_Shape) -> TopoDS_Shape:
    """What two bodies share, one body. Raises KernelRefused when that is not one body."""
    with kernel_call("intersecting"):
        return _single(BRepAlgoAPI_Common(shape, other).Shape())


def edges_along(
    shape: TopoDS_Shape, axis: tuple[float, float, float], where: Callable[[gp_Pnt], bool]
) -> list[TopoDS_Edge]:
    """Straight edges parallel to an axis whose middle satisfies a condition."""
    edges = []
    direction = gp_Dir(*axis)
    for edge in edges_of(shape):
        curve = BRepAdaptor_Curve(edge)
        if curve.GetType() != GeomAbs_CurveType.GeomAbs_Line:
            continue
        middle = curve.Value((curve.FirstParameter() + curve.LastParameter()) / 2)
        if curve.Line().Direction().IsParallel(direction, 1e-6) and where(middle):
            edges.append(edge)
    return edges


def fillet(shape: TopoDS_Shape, radius: float, edges: Iterable[TopoDS_Edge]) -> TopoDS_Shape:
    """Round edges. Raises KernelRefused."""
    with kernel_call("rounding edges"):
        maker = BRepFilletAPI_MakeFillet(shape)
        for edge in edges:
            maker.Add(radius, edge)
        return _single(maker.Shape())


def chamfer(shape: TopoDS_Shape, width: float, edges: Iterable[TopoDS_Edge]) -> TopoDS_Shape:
    """Bevel edges. Raises KernelRefused."""
    with kernel_call("bevelling edges"):
        maker = BRepFilletAPI_MakeChamfer(shape)
        for edge in edges:
            maker.Add(width, edge)
        return _single(maker.Shape())


def moved(
    shape: TopoDS_Shape, *, by: tuple[float, float, float] = (0, 0, 0), turn_z: float = 0.0
) -> TopoDS_Shape:
    """A copy turned about the z axis (rad), then shifted."""
    turn, shift = gp_Trsf(), gp_Trsf()
    turn.SetRotation(gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), turn_z)
    shift.SetTranslation(gp_Vec(*by))
    return BRepBuilderAPI_Transform(shape, shift.Multiplied(turn), True).Shape()


def faces_where(shape: TopoDS_Shape, kind: str, *, radius: float | None = None) -> list[int]:
    """Indices of the faces of a kind of surface, of a given radius if one is asked for."""
    faces = []
    for index, face in enumerate(faces_of(shape)):
        if surface_kind(face) != kind:
            continue
        if radius is not None and kind == "cylinder":
            size = BRepAdaptor_Surface(face).Cylinder().Radius()
            if abs(size - radius) > 1e-6:
                continue
        faces.append(index)
    return faces
