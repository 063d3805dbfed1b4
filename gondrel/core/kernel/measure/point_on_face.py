"""Points within faces, and the faces that points lie in."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Tool
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeVertex
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.BRepMesh import BRepMesh_IncrementalMesh
from OCP.gp import gp_Pnt
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS_Face, TopoDS_Shape

from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.base.shape import faces_of
from gondrel.core.kernel.measure.mass import box_of, diagonal_of

__all__ = ["face_at", "faces_beneath", "inner_point"]

Point = tuple[float, float, float]

_NEAR = 0.05


def inner_point(face: TopoDS_Face) -> Point:
    """A point of a face's surface well within its loops: in the midst of its largest triangle, mm.

    Raises:
        KernelRefused: when the kernel fails over it.
    """
    with kernel_call("looking for a point within a face"):
        BRepMesh_IncrementalMesh(face, max(diagonal_of(face) / 50, 1e-4), False, 0.5, True)
        mesh = BRep_Tool.Triangulation_s(face, TopLoc_Location())
        if mesh is None or not mesh.NbTriangles() or not mesh.HasUVNodes():
            box = box_of(face)
            return ((box[0] + box[3]) / 2, (box[1] + box[4]) / 2, (box[2] + box[5]) / 2)
        best: tuple[float, float, float] = (-1.0, 0.0, 0.0)
        for n in range(1, mesh.NbTriangles() + 1):
            corners = mesh.Triangle(n).Get()
            points = [np.array(mesh.Node(c).Coord()) for c in corners]
            size = float(np.linalg.norm(np.cross(points[1] - points[0], points[2] - points[0])))
            if size > best[0]:
                u, v = np.mean([mesh.UVNode(c).Coord() for c in corners], axis=0).tolist()
                best = (size, u, v)
        point: Point = BRep_Tool.Surface_s(face).Value(best[1], best[2]).Coord()
        return point


def face_at(shape: TopoDS_Shape, point: Point, within: float = _NEAR) -> int | None:
    """The face of a body (by index) nearest to a point, within a distance, mm. Raises KernelRefused."""
    return _Faces([shape]).nearest(point, within)


def faces_beneath(
    before: Sequence[TopoDS_Shape], after: TopoDS_Shape, within: float = _NEAR
) -> list[int | None]:
    """For each face of a body the face that was in its place, numbered on through all of some bodies.

    Raises:
        KernelRefused: when the kernel fails over one of them.
    """
    faces = _Faces(before)
    return [faces.nearest(inner_point(face), within) for face in faces_of(after)]


class _Faces:
    """The faces of some bodies with their boxes."""

    def __init__(self, shapes: Sequence[TopoDS_Shape]) -> None:
        self.faces = [face for shape in shapes for face in faces_of(shape)]
        self.boxes: NDArray[np.float64] = np.array([box_of(face) for face in self.faces]).reshape(-1, 6)

    def nearest(self, point: Point, within: float) -> int | None:
        with kernel_call("looking for the face at a point"):
            at = np.array(point)
            near = (self.boxes[:, :3] - within <= at).all(axis=1) & (self.boxes[:, 3:] + within >= at).all(
                axis=1
            )
            vertex = BRepBuilderAPI_MakeVertex(gp_Pnt(*point)).Vertex()
            best: tuple[float, int | None] = (within, None)
            for number in np.flatnonzero(near).tolist():
                search = BRepExtrema_DistShapeShape(vertex, self.faces[number])
                if search.IsDone() and float(search.Value()) < best[0]:
                    best = (float(search.Value()), number)
            return best[1]
