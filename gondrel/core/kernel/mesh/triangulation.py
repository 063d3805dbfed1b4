"""Triangles and edge polylines of a B-rep for the picture."""

from __future__ import annotations

import io
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import chain
from typing import Any

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Tool
from OCP.BRepMesh import BRepMesh_IncrementalMesh
from OCP.BRepTools import BRepTools
from OCP.OCP.collections import (
    IndexedMap_TopoDS_Shape_TopTools_ShapeMapHasher as ShapeMap,
)
from OCP.Poly import Poly_Triangulation
from OCP.StdPrs import StdPrs_ToolTriangulatedShape
from OCP.TopAbs import TopAbs_Orientation, TopAbs_ShapeEnum
from OCP.TopExp import TopExp, TopExp_Explorer
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Face, TopoDS_Shape

from gondrel.core.kernel.base.arrays import nodes_of, normals_of, triangles_of
from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.base.shape import edges_of, faces_of, shells_of

__all__ = ["Mesh", "make_mesh"]


@dataclass(frozen=True, slots=True)
class Mesh:
    """A picture of one body in its own frame, mm.

    Args:
        points: (n, 3) float32; normals: (n, 3) float32, outward.
        triangles: (m, 3) int32 into points; face_starts: (f + 1,) int32, triangles of face i are
            triangles[face_starts[i]:face_starts[i + 1]].
        edge_points: (k, 3) float32; edge_starts: (e + 1,) int32 into edge_points.
        chord: chord height asked for, mm; is_closed: whether no inner side of it can be seen.
    """

    points: NDArray[np.float32]
    normals: NDArray[np.float32]
    triangles: NDArray[np.int32]
    face_starts: NDArray[np.int32]
    edge_points: NDArray[np.float32]
    edge_starts: NDArray[np.int32]
    chord: float
    is_closed: bool = True

    def to_bytes(self) -> bytes:
        """The mesh as one uncompressed npz file."""
        stream = io.BytesIO()
        np.savez(stream, **{name: getattr(self, name) for name in self.__slots__})
        return stream.getvalue()


def make_mesh(shape: TopoDS_Shape, *, chord: float, angle: float = 0.35, is_exact: bool = False) -> Mesh:
    """Tessellate a body.

    Args:
        chord: largest distance between triangle and surface, mm.
        angle: largest angle between neighbouring facets, rad.
        is_exact: points in double precision, for a mesh that is to be more than a picture.

    Raises:
        KernelRefused: when the kernel can't tessellate it.
    """
    with kernel_call("tessellating a body"):
        if is_exact:
            BRepTools.Clean_s(shape)
        BRepMesh_IncrementalMesh(shape, chord, False, angle, True)
        collector = _Collector(shape)
        for face in faces_of(shape):
            collector.take(face)
        collector.take_free_edges()
    return collector.mesh(chord, np.float64 if is_exact else np.float32)


class _Collector:
    """Gathers the triangles of face after face and the polyline of each edge once."""

    def __init__(self, shape: TopoDS_Shape) -> None:
        self.shape = shape
        self.points: list[NDArray[np.float64]] = []
        self.normals: list[NDArray[np.float32]] = []
        self.triangles: list[NDArray[np.int32]] = []
        self.starts = [0]
        self.nodes = 0
        self.order = ShapeMap()
        TopExp.MapShapes_s(shape, TopAbs_ShapeEnum.TopAbs_EDGE, self.order)
        self.lines: dict[int, NDArray[np.float64]] = {}
        self.line_nodes: dict[int, list[int]] = {}

    def take(self, face: TopoDS_Face) -> None:
        """Add a face's triangles and the polylines of its edges; nothing when it has none."""
        location = TopLoc_Location()
        triangulation = BRep_Tool.Triangulation_s(face, location)
        count = triangulation.NbTriangles() if triangulation is not None else 0
        self.starts.append(self.starts[-1] + count)
        if triangulation is None or not count:
            return
        StdPrs_ToolTriangulatedShape.ComputeNormals_s(face, triangulation)
        points, normals = nodes_of(triangulation), normals_of(triangulation)
        triangles = triangles_of(triangulation, self.nodes)
        if face.Orientation() == TopAbs_Orientation.TopAbs_REVERSED:
            triangles = triangles[:, ::-1]
            normals = -normals
        if not location.IsIdentity():
            matrix = _matrix(location)
            points = _moved(points, matrix)
            normals = normals @ matrix[:, :3].T.astype(np.float32)
        self.points.append(points)
        self.normals.append(normals)
        self.triangles.append(triangles)
        self._take_edges(face, triangulation, location, self.nodes)
        self.nodes += len(points)

    def _take_edges(
        self, face: TopoDS_Face, triangulation: Poly_Triangulation, location: TopLoc_Location, offset: int
    ) -> None:
        explorer = TopExp_Explorer(face, TopAbs_ShapeEnum.TopAbs_EDGE)
        while explorer.More():
            shape = explorer.Current()
            explorer.Next()
            index = self.order.FindIndex(shape)
            if index in self.line_nodes:
                continue
            edge = TopoDS.Edge(shape)
            polygon = BRep_Tool.PolygonOnTriangulation_s(edge, triangulation, location)
            if polygon is not None and not BRep_Tool.Degenerated_s(edge):
                node = polygon.Node
                self.line_nodes[index] = [offset + node(i) - 1 for i in range(1, polygon.NbNodes() + 1)]

    def take_free_edges(self) -> None:
        """Add the polylines of edges that bound no face."""
        if len(self.line_nodes) == self.order.Extent():
            return
        for index, edge in enumerate(edges_of(self.shape), 1):
            if index not in self.line_nodes and (line := _free_edge(edge)) is not None:
                self.lines[index] = line

    def mesh(self, chord: float, kind: type = np.float32) -> Mesh:
        """All that was gathered, points in a number type."""
        points = _stack(self.points, kind)
        edge_points, edge_starts = self._polylines(points)
        return Mesh(
            points=points,
            normals=_stack(self.normals, np.float32),
            triangles=_stack(self.triangles, np.int32),
            face_starts=np.asarray(self.starts, np.int32),
            edge_points=edge_points,
            edge_starts=edge_starts,
            chord=chord,
            is_closed=all(BRep_Tool.IsClosed_s(shell) for shell in shells_of(self.shape)),
        )

    def _polylines(self, points: NDArray[np.float32]) -> tuple[NDArray[np.float32], NDArray[np.int32]]:
        """Points of all polylines in the order of the edges, and where each starts."""
        edges = range(1, self.order.Extent() + 1)
        on_faces = [self.line_nodes.get(i, []) for i in edges]
        free = [self.lines.get(i) for i in edges]
        lengths = [len(n) if f is None else len(f) for n, f in zip(on_faces, free, strict=True)]
        starts = np.concatenate([[0], np.cumsum(lengths)]).astype(np.int32)
        if not self.lines:
            return points[np.fromiter(chain.from_iterable(on_faces), np.int64)], starts
        parts = [points[n] if f is None else f for n, f in zip(on_faces, free, strict=True)]
        return _stack(parts, np.float32), starts


def _stack(parts: Sequence[NDArray[Any]], kind: type) -> NDArray[Any]:
    if not parts:
        return np.zeros((0, 3), kind)
    return np.concatenate(parts).astype(kind)


def _matrix(location: TopLoc_Location) -> NDArray[np.float64]:
    transform = location.Transformation()
    return np.array([[transform.Value(r, c) for c in range(1, 5)] for r in range(1, 4)])


def _moved(points: NDArray[np.float64], matrix: NDArray[np.float64]) -> NDArray[np.float64]:
    return np.asarray(points @ matrix[:, :3].T + matrix[:, 3])


def _free_edge(edge: TopoDS_Edge) -> NDArray[np.float64] | None:
    location = TopLoc_Location()
    polygon = BRep_Tool.Polygon3D_s(edge, location)
    if polygon is None:
        return None
    nodes = polygon.Nodes()
    points = np.array([nodes.Value(i).Coord() for i in range(1, polygon.NbNodes() + 1)])
    return points if location.IsIdentity() else _moved(points, _matrix(location))
