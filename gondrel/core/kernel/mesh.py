"""Triangles and edge polylines of a B-rep for the picture."""

from __future__ import annotations

import io
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Tool
from OCP.BRepMesh import BRepMesh_IncrementalMesh
from OCP.OCP.collections import (
    IndexedMap_TopoDS_Shape_TopTools_ShapeMapHasher as ShapeMap,
)
from OCP.StdPrs import StdPrs_ToolTriangulatedShape
from OCP.TopAbs import TopAbs_Orientation, TopAbs_ShapeEnum
from OCP.TopExp import TopExp, TopExp_Explorer
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Face, TopoDS_Shape

from gondrel.core.kernel.calls import kernel_call
from gondrel.core.kernel.shape import edges_of, faces_of

__all__ = ["Mesh", "make_mesh"]


@dataclass(frozen=True, slots=True)
class Mesh:
    """A picture of one body in its own frame, mm.

    Args:
        points: (n, 3) float32; normals: (n, 3) float32, outward.
        triangles: (m, 3) int32 into points; face_starts: (f + 1,) int32, triangles of face i are
            triangles[face_starts[i]:face_starts[i + 1]].
        edge_points: (k, 3) float32; edge_starts: (e + 1,) int32 into edge_points.
        chord: chord height asked for, mm.
    """

    points: NDArray[np.float32]
    normals: NDArray[np.float32]
    triangles: NDArray[np.int32]
    face_starts: NDArray[np.int32]
    edge_points: NDArray[np.float32]
    edge_starts: NDArray[np.int32]
    chord: float

    def to_bytes(self) -> bytes:
        """The mesh as one uncompressed npz file."""
        stream = io.BytesIO()
        np.savez(stream, **{name: getattr(self, name) for name in self.__slots__})
        return stream.getvalue()


def make_mesh(shape: TopoDS_Shape, *, chord: float, angle: float = 0.35) -> Mesh:
    """Tessellate a body.

    Args:
        chord: largest distance between triangle and surface, mm.
        angle: largest angle between neighbouring facets, rad.

    Raises:
        KernelRefused: when the kernel can't tessellate it.
    """
    with kernel_call("tessellating a body"):
        BRepMesh_IncrementalMesh(shape, chord, False, angle, True)
        points, normals, triangles, starts = [], [], [], [0]
        offset = count = 0
        for face in faces_of(shape):
            part = _face_mesh(face)
            if part is not None:
                points.append(part[0])
                normals.append(part[1])
                triangles.append(part[2] + offset)
                offset += len(part[0])
                count += len(part[2])
            starts.append(count)
        edge_points, edge_starts = _edge_lines(shape)
    return Mesh(
        points=_stack(points, np.float32),
        normals=_stack(normals, np.float32),
        triangles=_stack(triangles, np.int32),
        face_starts=np.asarray(starts, np.int32),
        edge_points=edge_points,
        edge_starts=edge_starts,
        chord=chord,
    )


def _stack(parts: Sequence[NDArray[Any]], kind: type) -> NDArray[Any]:
    if not parts:
        return np.zeros((0, 3), kind)
    return np.concatenate(parts).astype(kind)


def _transformed(coordinates: NDArray[np.float64], location: TopLoc_Location) -> NDArray[np.float64]:
    if location.IsIdentity():
        return coordinates
    transform = location.Transformation()
    matrix = np.array([[transform.Value(r, c) for c in range(1, 5)] for r in range(1, 4)])
    return np.asarray(coordinates @ matrix[:, :3].T + matrix[:, 3])


def _face_mesh(
    face: TopoDS_Face,
) -> tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.int64]] | None:
    location = TopLoc_Location()
    triangulation = BRep_Tool.Triangulation_s(face, location)
    if triangulation is None or triangulation.NbTriangles() == 0:
        return None
    StdPrs_ToolTriangulatedShape.ComputeNormals_s(face, triangulation)
    nodes = triangulation.NbNodes()
    points = np.array([triangulation.Node(i).Coord() for i in range(1, nodes + 1)])
    normals = np.array([triangulation.Normal(i).Coord() for i in range(1, nodes + 1)])
    triangles = (
        np.array([triangulation.Triangle(i).Get() for i in range(1, triangulation.NbTriangles() + 1)]) - 1
    )
    if face.Orientation() == TopAbs_Orientation.TopAbs_REVERSED:
        triangles = triangles[:, ::-1]
        normals = -normals
    if not location.IsIdentity():
        transform = location.Transformation()
        rotation = np.array([[transform.Value(r, c) for c in range(1, 4)] for r in range(1, 4)])
        normals = normals @ rotation.T
    return _transformed(points, location), normals, triangles


def _edge_lines(shape: TopoDS_Shape) -> tuple[NDArray[np.float32], NDArray[np.int32]]:
    """Polylines of the edges in the order of edges_of, empty where an edge has no length."""
    lines: dict[int, NDArray[np.float64]] = {}
    order = ShapeMap()
    TopExp.MapShapes_s(shape, TopAbs_ShapeEnum.TopAbs_EDGE, order)
    for face in faces_of(shape):
        location = TopLoc_Location()
        triangulation = BRep_Tool.Triangulation_s(face, location)
        if triangulation is None:
            continue
        explorer = TopExp_Explorer(face, TopAbs_ShapeEnum.TopAbs_EDGE)
        while explorer.More():
            edge = TopoDS.Edge(explorer.Current())
            explorer.Next()
            index = order.FindIndex(edge)
            if index in lines or BRep_Tool.Degenerated_s(edge):
                continue
            polygon = BRep_Tool.PolygonOnTriangulation_s(edge, triangulation, location)
            if polygon is None:
                continue
            points = np.array(
                [triangulation.Node(polygon.Node(i)).Coord() for i in range(1, polygon.NbNodes() + 1)]
            )
            lines[index] = _transformed(points, location)
    loose = edges_of(shape) if len(lines) < order.Extent() else []
    for index, edge in enumerate(loose, 1):
        if index not in lines and (line := _free_edge(edge)) is not None:
            lines[index] = line
    parts = [lines.get(i, np.zeros((0, 3))) for i in range(1, order.Extent() + 1)]
    starts = np.concatenate([[0], np.cumsum([len(part) for part in parts])]).astype(np.int32)
    return _stack(parts, np.float32), starts


def _free_edge(edge: TopoDS_Edge) -> NDArray[np.float64] | None:
    location = TopLoc_Location()
    polygon = BRep_Tool.Polygon3D_s(edge, location)
    if polygon is None:
        return None
    nodes = polygon.Nodes()
    points = np.array([nodes.Value(i).Coord() for i in range(1, polygon.NbNodes() + 1)])
    return _transformed(points, location)
