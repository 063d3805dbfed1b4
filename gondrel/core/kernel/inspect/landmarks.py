"""Landmarks of a B-rep or of a mesh: points by which a body is known again wherever it stands.

Of each face the centroid and the points that its surface fixes (along its axis or normal, its centre, a
grid where it is free); of each edge the middle and two points by halves, of whole circles and ellipses what
they turn about. Seams are left out: where they run says nothing of the shape.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator

import numpy as np
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepGProp import BRepGProp
from OCP.BRepTools import BRepTools
from OCP.GeomAbs import GeomAbs_CurveType as Curves
from OCP.GeomAbs import GeomAbs_SurfaceType as Surfaces
from OCP.gp import gp_Pnt, gp_Vec
from OCP.GProp import GProp_GProps
from OCP.OCP.collections import (
    IndexedMap_TopoDS_Shape_TopTools_ShapeMapHasher as ShapeMap,
)
from OCP.TopAbs import TopAbs_Orientation, TopAbs_ShapeEnum
from OCP.TopExp import TopExp, TopExp_Explorer
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Face, TopoDS_Shape

from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.base.shape import faces_of
from gondrel.core.model.facets import Facets
from gondrel.core.model.landmarks import Landmarks

__all__ = ["landmarks_of_facets", "landmarks_of_shape"]

Row = tuple[tuple[float, float, float], int, float, float]

_MIDDLE, _ALONG, _CENTRE, _GRID = 0, 100, 200, 300
_EDGE = 1000
_MESH = 5000
_THIRDS = (1 / 6, 1 / 2, 5 / 6)
_ROUND = {Surfaces.GeomAbs_Cylinder, Surfaces.GeomAbs_Cone, Surfaces.GeomAbs_Torus}
_MOST_CORNERS = 2000


def landmarks_of_shape(shape: TopoDS_Shape) -> Landmarks:
    """The landmarks of a B-rep. Raises KernelRefused when the kernel fails over it."""
    rows: list[Row] = []
    with kernel_call("looking for what a body is known by"):
        faces = faces_of(shape)
        for face in faces:
            rows += _of_face(face)
        edges = ShapeMap()
        TopExp.MapShapes_s(shape, TopAbs_ShapeEnum.TopAbs_EDGE, edges)
        seams = set(_seams(faces, edges))
        for place in range(1, edges.Extent() + 1):
            edge = TopoDS.Edge(edges.FindKey(place))
            if place not in seams and not BRep_Tool.Degenerated_s(edge):
                rows += _of_edge(edge)
    return _landmarks(rows)


def landmarks_of_facets(mesh: Facets) -> Landmarks:
    """The landmarks of a mesh: its corners, by the area of the facets that meet there; none of a mesh of
    more than 2000 corners, which nobody takes apart by hand."""
    if len(mesh.points) > _MOST_CORNERS:
        return Landmarks(np.empty((0, 3)), np.empty(0, np.int32), np.empty((0, 2)), whole=False)
    corners = mesh.corners
    areas = (
        np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1) / 2
    )
    about = np.zeros(len(mesh.points))
    np.add.at(about, mesh.triangles, areas[:, None])
    kinds = np.full(len(about), _MESH, np.int32)
    return Landmarks(mesh.points, kinds, np.column_stack([about, np.zeros(len(about))]))


def _landmarks(rows: list[Row]) -> Landmarks:
    return Landmarks(
        np.array([row[0] for row in rows], np.float64).reshape(-1, 3),
        np.array([row[1] for row in rows], np.int32),
        np.array([row[2:] for row in rows], np.float64).reshape(-1, 2),
    )


def _seams(faces: Iterable[TopoDS_Face], edges: ShapeMap) -> Iterator[int]:
    """Edges that a face meets on both of its sides, by their place."""
    for face in faces:
        if BRepAdaptor_Surface(face, False).GetType() == Surfaces.GeomAbs_Plane:
            continue  # a plane closes on nothing
        explorer = TopExp_Explorer(face, TopAbs_ShapeEnum.TopAbs_EDGE)
        while explorer.More():
            edge = TopoDS.Edge(explorer.Current())
            if BRep_Tool.IsClosed_s(edge, face):
                yield edges.FindIndex(edge)
            explorer.Next()


def _of_face(face: TopoDS_Face) -> Iterator[Row]:
    surface = BRepAdaptor_Surface(face, False)  # its bounds are costly, and asked for only by grids
    kind = surface.GetType()
    figures = GProp_GProps()
    BRepGProp.SurfaceProperties_s(face, figures)
    area, middle = abs(figures.Mass()), figures.CentreOfMass()
    code = int(kind.value)
    radius = _radius(surface, kind)
    yield middle.Coord(), _MIDDLE + code, area, radius
    reach = area**0.5
    if kind == Surfaces.GeomAbs_Plane:
        normal = surface.Plane().Axis().Direction()
        side = -reach if _is_turned(face) != (not surface.Plane().Direct()) else reach
        yield _away(middle, normal, side), _ALONG + code, area, radius
    elif kind in _ROUND:
        axis = _axis(surface, kind)
        for way in (reach, -reach):
            yield _away(middle, axis.Direction(), way), _ALONG + code, area, radius
        if kind == Surfaces.GeomAbs_Torus:
            yield surface.Torus().Location().Coord(), _CENTRE + code, area, surface.Torus().MajorRadius()
    elif kind == Surfaces.GeomAbs_Sphere:
        yield surface.Sphere().Location().Coord(), _CENTRE + code, area, radius
    else:
        u0, u1, v0, v1 = BRepTools.UVBounds_s(face)
        for u in _THIRDS:
            for v in _THIRDS:
                at = surface.Value(u0 + u * (u1 - u0), v0 + v * (v1 - v0))
                yield at.Coord(), _GRID + code, area, 0.0


def _is_turned(face: TopoDS_Face) -> bool:
    return bool(face.Orientation() == TopAbs_Orientation.TopAbs_REVERSED)


def _radius(surface: BRepAdaptor_Surface, kind: Surfaces) -> float:
    """Radius or half angle of a round surface, 0 of any other."""
    if kind == Surfaces.GeomAbs_Cylinder:
        return float(surface.Cylinder().Radius())
    if kind == Surfaces.GeomAbs_Cone:
        return float(abs(surface.Cone().SemiAngle()))
    if kind == Surfaces.GeomAbs_Sphere:
        return float(surface.Sphere().Radius())
    if kind == Surfaces.GeomAbs_Torus:
        return float(surface.Torus().MinorRadius())
    return 0.0


def _axis(surface: BRepAdaptor_Surface, kind: Surfaces):  # type: ignore[no-untyped-def]
    if kind == Surfaces.GeomAbs_Cylinder:
        return surface.Cylinder().Axis()
    return surface.Cone().Axis() if kind == Surfaces.GeomAbs_Cone else surface.Torus().Axis()


def _of_edge(edge: TopoDS_Edge) -> Iterator[Row]:
    curve = BRepAdaptor_Curve(edge)
    kind = curve.GetType()
    code = _EDGE + int(kind.value)
    figures = GProp_GProps()
    BRepGProp.LinearProperties_s(edge, figures)
    length = figures.Mass()
    first, last = curve.FirstParameter(), curve.LastParameter()
    radius = float(curve.Circle().Radius()) if kind == Curves.GeomAbs_Circle else 0.0
    is_whole = curve.Value(first).Distance(curve.Value(last)) <= 1e-7
    yield figures.CentreOfMass().Coord(), _MIDDLE + code, length, radius
    if not is_whole:
        for share in (_THIRDS[0], _THIRDS[2]):
            yield curve.Value(first + share * (last - first)).Coord(), _ALONG + code, length, radius
    elif kind == Curves.GeomAbs_Circle:
        circle = curve.Circle()
        for way in (radius, -radius):
            yield _away(circle.Location(), circle.Axis().Direction(), way), _CENTRE + code, length, radius
    elif kind == Curves.GeomAbs_Ellipse:
        ellipse = curve.Ellipse()
        for way in (ellipse.MajorRadius(), -ellipse.MajorRadius()):
            yield _away(ellipse.Location(), ellipse.XAxis().Direction(), way), _CENTRE + code, length, 0.0


def _away(point: gp_Pnt, direction, length: float) -> tuple[float, float, float]:  # type: ignore[no-untyped-def]
    moved = point.Translated(gp_Vec(direction).Multiplied(length))
    return moved.X(), moved.Y(), moved.Z()
