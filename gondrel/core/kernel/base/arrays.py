"""Kernel arrays as numpy arrays, copied in one piece where the binding's memory is laid out as known.

The binding gives out one node or triangle per call, which costs more than meshing itself. Where a
trial on a cylinder shows that the arrays lie in memory as expected, they are copied whole; else, and
for any array whose size or stride is another, they are read one by one.
"""

from __future__ import annotations

import ctypes
from functools import cache
from struct import Struct

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Tool
from OCP.BRepMesh import BRepMesh_IncrementalMesh
from OCP.BRepPrimAPI import BRepPrimAPI_MakeCylinder
from OCP.Poly import Poly_Triangulation
from OCP.StdPrs import StdPrs_ToolTriangulatedShape
from OCP.TopLoc import TopLoc_Location

from gondrel.core.kernel.base.shape import faces_of

__all__ = ["is_layout_known", "nodes_of", "normals_of", "triangles_of"]

_HELD = 16
"""Where a binding object keeps the address of what it wraps, bytes."""

_ONE, _FOUR = Struct("Q"), Struct("4Q")


def _words(holder: object) -> tuple[int, int, int, int]:
    """The first four words of what a binding object wraps; zeros when it wraps nothing."""
    (address,) = _ONE.unpack(ctypes.string_at(id(holder) + _HELD, _ONE.size))
    return _FOUR.unpack(ctypes.string_at(address, _FOUR.size)) if address else (0, 0, 0, 0)


def _whole_nodes(triangulation: Poly_Triangulation) -> NDArray[np.float64] | None:
    nodes = triangulation.InternalNodes()
    data, size_and_stride, _, _ = _words(nodes)
    count = triangulation.NbNodes()
    if not data or size_and_stride != (count << 32) | 24:
        return None
    return np.frombuffer(ctypes.string_at(data, 24 * count), np.float64).reshape(-1, 3)


def _whole(holder: object, count: int, kind: type[np.generic]) -> NDArray[np.generic] | None:
    _, lower, size, data = _words(holder)
    if not data or size & 0xFFFFFFFF != count or lower & 0xFFFFFFFF > 1:
        return None
    return np.frombuffer(ctypes.string_at(data, 12 * count), kind).reshape(-1, 3)


def _single_nodes(triangulation: Poly_Triangulation) -> NDArray[np.float64]:
    return np.array([triangulation.Node(i).Coord() for i in range(1, triangulation.NbNodes() + 1)])


def _single_normals(triangulation: Poly_Triangulation) -> NDArray[np.float32]:
    count = triangulation.NbNodes()
    return np.array([triangulation.Normal(i).Coord() for i in range(1, count + 1)], np.float32)


def _single_triangles(triangulation: Poly_Triangulation) -> NDArray[np.int32]:
    count = triangulation.NbTriangles()
    return np.array([triangulation.Triangle(i).Get() for i in range(1, count + 1)], np.int32) - 1


@cache
def is_layout_known() -> bool:
    """Whether arrays copied whole equal those read one by one, on a cylinder; tried once."""
    shape = BRepPrimAPI_MakeCylinder(3.0, 7.0).Shape()
    BRepMesh_IncrementalMesh(shape, 0.1)
    for face in faces_of(shape):
        triangulation = BRep_Tool.Triangulation_s(face, TopLoc_Location())
        StdPrs_ToolTriangulatedShape.ComputeNormals_s(face, triangulation)
        nodes = _whole_nodes(triangulation)
        triangles = _whole(triangulation.InternalTriangles(), triangulation.NbTriangles(), np.int32)
        normals = _whole(triangulation.InternalNormals(), triangulation.NbNodes(), np.float32)
        if nodes is None or triangles is None or normals is None:
            return False
        if not (
            np.array_equal(nodes, _single_nodes(triangulation))
            and np.array_equal(triangles - 1, _single_triangles(triangulation))
            and np.array_equal(normals, _single_normals(triangulation))
        ):
            return False
    return True


def nodes_of(triangulation: Poly_Triangulation) -> NDArray[np.float64]:
    """Nodes of a triangulation, (n, 3) float64, mm, in the face's own frame."""
    whole = _whole_nodes(triangulation) if is_layout_known() else None
    return _single_nodes(triangulation) if whole is None else whole


def triangles_of(triangulation: Poly_Triangulation, first: int = 0) -> NDArray[np.int32]:
    """Triangles of a triangulation, (m, 3) int32 into its nodes counted from first."""
    if is_layout_known():
        whole = _whole(triangulation.InternalTriangles(), triangulation.NbTriangles(), np.int32)
        if whole is not None:
            return whole.astype(np.int32) + np.int32(first - 1)
    return _single_triangles(triangulation) + np.int32(first)


def normals_of(triangulation: Poly_Triangulation) -> NDArray[np.float32]:
    """Surface normals at the nodes, (n, 3) float32, once they are computed."""
    if is_layout_known():
        whole = _whole(triangulation.InternalNormals(), triangulation.NbNodes(), np.float32)
        if whole is not None:
            return np.asarray(whole, np.float32)
    return _single_normals(triangulation)
