"""Repairs of shells: turning faces alike, joining, closing boundaries, dropping faces said twice.

Each takes shapes and returns new ones; what comes in is copied first, since the kernel's tools change
tolerances in place.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

from OCP.BRep import BRep_Builder
from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_Copy,
    BRepBuilderAPI_FindPlane,
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakeVertex,
)
from OCP.BRepFill import BRepFill_Filling
from OCP.BRepGProp import BRepGProp
from OCP.GeomAbs import GeomAbs_Shape
from OCP.gp import gp_Pln, gp_Pnt
from OCP.GProp import GProp_GProps
from OCP.OCP.collections import IndexedMap_TopoDS_Shape_TopTools_ShapeMapHasher as ShapeMap
from OCP.ShapeAnalysis import ShapeAnalysis_FreeBounds
from OCP.ShapeBuild import ShapeBuild_ReShape
from OCP.ShapeFix import ShapeFix_FixSmallFace, ShapeFix_Shell
from OCP.TopAbs import TopAbs_Orientation, TopAbs_ShapeEnum
from OCP.TopExp import TopExp, TopExp_Explorer
from OCP.TopoDS import TopoDS, TopoDS_Face, TopoDS_Shape, TopoDS_Solid, TopoDS_Wire

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.base.shape import edges_of, faces_of, kind_of, shell_of, shells_of, split_bodies
from gondrel.core.kernel.geometry.distance import distance_between
from gondrel.core.kernel.measure.mass import area_of
from gondrel.core.kernel.topology.sew import JoinedBody, sew_faces, solids_of_shells
from gondrel.core.model.body import BodyKind

__all__ = [
    "Made",
    "close_open_boundaries",
    "copied",
    "drop_doubled",
    "drop_left_over",
    "drop_slivers",
    "filled_boundary",
    "open_boundaries_of",
    "plane_cap",
    "sew_shells",
    "turn_alike",
]

Made = list[tuple[BodyKind, TopoDS_Shape]]
"""Bodies that came of a mend."""

_SAME_PLANE = 1e-4
_SAME_FACE = 1e-4
_SAME_AREA = 1e-6


def copied(shape: TopoDS_Shape) -> TopoDS_Shape:
    """The shape with geometry of its own, so that a tool may change it in place."""
    return BRepBuilderAPI_Copy(shape, True, False).Shape()


def turn_alike(shape: TopoDS_Shape) -> Made:
    """A body with the faces of each skin turned alike and the material inside. Raises KernelRefused."""
    with kernel_call("turning faces alike"):
        shells = []
        for skin in _skins(copied(shape)):
            fix = ShapeFix_Shell()
            fix.FixFaceOrientation(TopoDS.Shell(skin))
            shells += [TopoDS.Shell(s) for s in _skins(fix.Shape())]
        return solids_of_shells(shells)


def _skins(shape: TopoDS_Shape) -> list[TopoDS_Shape]:
    skins = []
    explorer = TopExp_Explorer(shape, TopAbs_ShapeEnum.TopAbs_SHELL)
    while explorer.More():
        skins.append(explorer.Current())
        explorer.Next()
    return skins or [shell_of(list(faces_of(shape)))]


def sew_shells(shapes: Sequence[TopoDS_Shape], tolerance: float) -> Made:
    """Bodies of all faces of some shapes, joined within a distance, mm. Raises KernelRefused."""
    with kernel_call("joining faces"):
        faces = [face for shape in shapes for face in faces_of(copied(shape))]
        joined = sew_faces(faces, tolerance)
        return [(body.kind, body.shape) for body in joined.bodies]


def drop_doubled(shape: TopoDS_Shape, tolerance: float) -> Made:
    """A body without faces that lie where another does. Raises KernelRefused."""
    with kernel_call("dropping faces said twice"):
        kept: list[TopoDS_Face] = []
        seen: list[tuple[float, tuple[float, float, float]]] = []
        for face in faces_of(copied(shape)):
            figures = GProp_GProps()
            BRepGProp.SurfaceProperties_s(face, figures)
            area, at = float(figures.Mass()), figures.CentreOfMass()
            middle = (float(at.X()), float(at.Y()), float(at.Z()))
            if any(
                abs(area - a) <= 1e-6 * max(area, a) and math.dist(middle, m) < _SAME_FACE for a, m in seen
            ):
                continue
            seen.append((area, middle))
            kept.append(face)
        joined = sew_faces(kept, tolerance)
        return [(body.kind, body.shape) for body in joined.bodies]


def close_open_boundaries(
    shapes: Sequence[TopoDS_Shape],
    tolerance: float,
    *,
    smooth: bool = False,
    near: tuple[float, float, float] | None = None,
    only_flat: bool = False,
) -> Made:
    """Bodies of some shells with their open boundaries closed: those in one plane by one plane face, an
    inner one as its hole, others by a face filled in between.

    Args:
        tolerance: how far apart edges are that belong together, mm.
        smooth: whether every boundary is filled so that the face runs on from its neighbours without an
            edge, as the crown of a dome does; no plane faces then.
        near: only the boundary nearest to this point, mm, is closed; none for all.
        only_flat: whether nothing but solids is taken, and nothing but boundaries in one plane is closed.

    Raises:
        KernelRefused: when a boundary is not closed, can't be filled, or is not flat where only such
            are closed.
    """
    with kernel_call("closing rims"):
        if only_flat and any(kind_of(shape) is not BodyKind.SOLID for shape in shapes):
            raise KernelRefused("it is no solid that lacks a face")
        faces = [face for shape in shapes for face in faces_of(copied(shape))]
        joined = sew_faces(faces, tolerance)
        boundaries = [wire for body in joined.bodies for wire in open_boundaries_of(body.shape)]
        if not boundaries:
            raise KernelRefused("there is no open boundary to close")
        if near is not None:
            at = BRepBuilderAPI_MakeVertex(gp_Pnt(*near)).Vertex()
            boundaries = [min(boundaries, key=lambda boundary: distance_between(at, boundary)[0])]
        caps: list[TopoDS_Shape] = []
        flat: list[tuple[gp_Pln, TopoDS_Wire]] = []
        for boundary in boundaries:
            finder = None if smooth else BRepBuilderAPI_FindPlane(boundary, tolerance)
            if finder is not None and finder.Found():
                flat.append((finder.Plane().Pln(), boundary))
            elif only_flat:
                raise KernelRefused("an open boundary of it does not lie in one plane")
            else:
                caps.append(
                    filled_boundary(
                        boundary, faces_of_boundary(boundary, joined.bodies) if smooth else None
                    )
                )
        for plane, group in _by_plane(flat):
            caps.append(plane_cap(plane, group))
        skins = [face for body in joined.bodies for face in faces_of(body.shape)]
        closed = sew_faces([*skins, *caps], tolerance)
        were_solids = all(kind_of(shape) is BodyKind.SOLID for shape in shapes)
        return [
            (BodyKind.SOLID, _still_solid(body.shape))
            if were_solids and body.kind is BodyKind.SHEET
            else (body.kind, body.shape)
            for body in closed.bodies
        ]


def _still_solid(shape: TopoDS_Shape) -> TopoDS_Shape:
    """A skin that is still open as the solid it was before."""
    solid, builder = TopoDS_Solid(), BRep_Builder()
    builder.MakeSolid(solid)
    shells = shells_of(shape)
    for shell in shells or [shell_of(faces_of(shape))]:
        builder.Add(solid, shell)
    return solid


def drop_slivers(shape: TopoDS_Shape, size: float) -> Made:
    """A body without faces narrower than a size, mm; neighbours meet. Raises KernelRefused."""
    with kernel_call("removing slivers"):
        fix = ShapeFix_FixSmallFace()
        fix.Init(copied(shape))
        fix.SetPrecision(size)
        fix.Perform()
        return list(split_bodies(fix.FixShape()))


def open_boundaries_of(shape: TopoDS_Shape) -> list[TopoDS_Wire]:
    """The closed boundaries of a body: chains of edges with a face on one side only."""
    bounds = ShapeAnalysis_FreeBounds(shape)
    wires = []
    explorer = TopExp_Explorer(bounds.GetClosedWires(), TopAbs_ShapeEnum.TopAbs_WIRE)
    while explorer.More():
        wires.append(TopoDS.Wire(explorer.Current()))
        explorer.Next()
    return wires


def _by_plane(flat: list[tuple[gp_Pln, TopoDS_Wire]]) -> list[tuple[gp_Pln, list[TopoDS_Wire]]]:
    groups: list[tuple[gp_Pln, list[TopoDS_Wire]]] = []
    for plane, boundary in flat:
        for known, group in groups:
            square = known.Axis().Direction().IsParallel(plane.Axis().Direction(), _SAME_PLANE)
            if square and known.Distance(plane.Location()) < _SAME_PLANE:
                group.append(boundary)
                break
        else:
            groups.append((plane, [boundary]))
    return groups


def plane_cap(plane: gp_Pln, boundaries: list[TopoDS_Wire]) -> TopoDS_Face:
    """A plane face within the longest boundary, the others its holes. Raises KernelRefused."""
    outer, *holes = sorted(boundaries, key=_length, reverse=True)
    made = _plane_face(plane, outer)
    for hole in holes:
        within = abs(area_of(made)) - abs(area_of(_plane_face(plane, hole)))
        for wire in (hole, TopoDS.Wire(hole.Reversed())):
            maker = BRepBuilderAPI_MakeFace(made, wire)
            if maker.IsDone() and abs(abs(area_of(maker.Face())) - within) <= _SAME_AREA * abs(within):
                made = maker.Face()
                break
        else:
            raise KernelRefused("a hole does not lie within the boundary it belongs to")
    return made


def _plane_face(plane: gp_Pln, boundary: TopoDS_Wire) -> TopoDS_Face:
    maker = BRepBuilderAPI_MakeFace(plane, boundary, True)
    if not maker.IsDone():
        raise KernelRefused("a boundary can't be closed by a plane face")
    return maker.Face()


def _length(wire: TopoDS_Wire) -> float:
    """The length of a wire, mm."""
    figures = GProp_GProps()
    BRepGProp.LinearProperties_s(wire, figures)
    return float(figures.Mass())


def faces_of_boundary(boundary: TopoDS_Wire, bodies: Sequence[JoinedBody]) -> dict[int, TopoDS_Face]:
    """The face at each edge of a boundary, by the edge's place in it."""
    faces: dict[int, TopoDS_Face] = {}
    for body in bodies:
        for face in faces_of(body.shape):
            order = ShapeMap()
            TopExp.MapShapes_s(face, TopAbs_ShapeEnum.TopAbs_EDGE, order)
            for place, edge in enumerate(edges_of(boundary)):
                if order.Contains(edge):
                    faces[place] = face
    return faces


def filled_boundary(
    boundary: TopoDS_Wire, neighbours: Mapping[int, TopoDS_Face] | None = None
) -> TopoDS_Face:
    """A face within a boundary, without steps at its edges, and with tangency to its neighbours if given.

    Raises:
        KernelRefused: when no such face is found.
    """
    filling = BRepFill_Filling()
    for place, edge in enumerate(edges_of(boundary)):
        face = (neighbours or {}).get(place)
        if face is None:
            filling.Add(edge, GeomAbs_Shape.GeomAbs_C0, True)
        else:
            filling.Add(edge, face, GeomAbs_Shape.GeomAbs_G1, True)
    filling.Build()
    if not filling.IsDone():
        raise KernelRefused("a boundary can't be filled")
    return filling.Face()


def drop_left_over(shape: TopoDS_Shape) -> Made:
    """A body of its faces only, without edges and vertices that bound none. Raises KernelRefused."""
    with kernel_call("dropping what is left over"):
        made = copied(shape)
        rest = ShapeBuild_ReShape()
        for face in faces_of(made):
            explorer = TopExp_Explorer(face, TopAbs_ShapeEnum.TopAbs_EDGE)
            while explorer.More():
                if explorer.Current().Orientation() in _WITHIN:
                    rest.Remove(explorer.Current())
                explorer.Next()
            explorer = TopExp_Explorer(face, TopAbs_ShapeEnum.TopAbs_VERTEX, TopAbs_ShapeEnum.TopAbs_EDGE)
            while explorer.More():
                rest.Remove(explorer.Current())
                explorer.Next()
        bodies = split_bodies(rest.Apply(made))
        return [(kind, body) for kind, body in bodies if kind in (BodyKind.SOLID, BodyKind.SHEET)]


_WITHIN = (TopAbs_Orientation.TopAbs_INTERNAL, TopAbs_Orientation.TopAbs_EXTERNAL)
