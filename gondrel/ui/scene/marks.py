"""Marks over the model: a face or an edge of an instance, set off from the rest."""

from __future__ import annotations

import numpy as np
from vtkmodules.vtkCommonMath import vtkMatrix4x4
from vtkmodules.vtkRenderingCore import vtkActor, vtkPolyDataMapper

from gondrel.core.model.findings import Finding
from gondrel.ui.scene.bodies import Hit, PlacedBody
from gondrel.ui.scene.body_mesh import BodyMesh, make_lines, make_surface

__all__ = ["edge_mark", "face_mark", "face_outline", "finding_marks", "nearest_edge", "outline_mark"]

Colour = tuple[float, float, float]


def face_mark(placed: PlacedBody, face: int, colour: Colour) -> vtkActor:
    """A face drawn over itself in a colour."""
    mesh = placed.mesh
    triangles = mesh.triangles_of(face)
    used, local = np.unique(triangles, return_inverse=True)
    points = mesh.points[used]
    data = make_surface(points, np.zeros_like(points), local.reshape(-1, 3))
    actor = _actor(placed, data, colour)
    mapper = actor.GetMapper()
    mapper.SetResolveCoincidentTopologyToPolygonOffset()
    mapper.SetRelativeCoincidentTopologyPolygonOffsetParameters(-1.0, -1.0)
    actor.GetProperty().SetOpacity(0.55)
    return actor


def face_outline(mesh: BodyMesh, face: int) -> np.ndarray:
    """The ends of every stretch of a face's rim, (n, 2, 3): sides of one of its triangles only."""
    sides = np.sort(mesh.triangles_of(face)[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2), axis=1)
    outline_sides, times = np.unique(sides, axis=0, return_counts=True)
    ends: np.ndarray = mesh.points[outline_sides[times == 1]]
    return ends


def outline_mark(placed: PlacedBody, face: int, colour: Colour) -> vtkActor:
    """The rim of a face as a thick line, so that a face too narrow for a pixel is seen."""
    points = face_outline(placed.mesh, face).reshape(-1, 3)
    actor = _actor(placed, make_lines(points, np.arange(0, len(points) + 1, 2)), colour)
    actor.GetProperty().SetLineWidth(3.0)
    return actor


def edge_mark(placed: PlacedBody, edge: int, colour: Colour) -> vtkActor:
    """An edge drawn over itself, thicker."""
    points = placed.mesh.line_of(edge)
    actor = _actor(placed, make_lines(points, np.array([0, len(points)])), colour)
    actor.GetProperty().SetLineWidth(4.0)
    return actor


def finding_marks(
    placed: PlacedBody, finding: Finding, colour: Colour
) -> tuple[list[vtkActor], np.ndarray | None]:
    """The edges a finding is of, or else its face, drawn over themselves in a colour.

    Returns: the marks; and where several edges are concerned the box of them in the whole, (2, 3).
    """
    mesh = placed.mesh
    edges = [e for e in finding.edges or (finding.edge,) if 0 <= e < len(mesh.edge_starts) - 1]
    marks = [edge_mark(placed, edge, colour) for edge in edges[:_MOST_EDGES]]
    if not marks and 0 <= finding.face < len(mesh.face_starts) - 1:
        return [face_mark(placed, finding.face, colour), outline_mark(placed, finding.face, colour)], None
    if len(edges) < 2:
        return marks, None
    points = placed.in_whole(np.concatenate([mesh.line_of(edge) for edge in edges]))
    return marks, np.stack([points.min(axis=0), points.max(axis=0)])


_MOST_EDGES = 500


def _actor(placed: PlacedBody, data: object, colour: Colour) -> vtkActor:
    mapper = vtkPolyDataMapper()
    mapper.SetInputData(data)
    mapper.SetScalarVisibility(False)
    actor = vtkActor()
    actor.SetMapper(mapper)
    matrix = vtkMatrix4x4()
    matrix.DeepCopy(placed.matrix.ravel().tolist())
    actor.SetUserMatrix(matrix)
    actor.GetProperty().SetLighting(False)
    actor.GetProperty().SetColor(*colour)
    actor.PickableOff()
    return actor


def nearest_edge(hit: Hit, within: float) -> int | None:
    """The edge of the hit body that passes within a distance (mm) of the hit point, None without one."""
    mesh = hit.placed.mesh
    if len(mesh.edge_points) < 2:
        return None
    inverse = hit.placed.inverse
    point = inverse[:3, :3] @ hit.point + inverse[:3, 3]
    scale = np.linalg.norm(inverse[:3, 0])
    starts, ends = mesh.edge_points[:-1].astype(float), mesh.edge_points[1:].astype(float)
    owners = np.searchsorted(mesh.edge_starts, np.arange(len(starts)), side="right") - 1
    inside = owners == np.searchsorted(mesh.edge_starts, np.arange(1, len(starts) + 1), side="right") - 1
    along = ends - starts
    length = np.maximum((along**2).sum(axis=1), 1e-30)
    share = np.clip(((point - starts) * along).sum(axis=1) / length, 0, 1)
    distance = np.linalg.norm(starts + along * share[:, None] - point, axis=1)
    distance[~inside] = np.inf
    best = int(np.argmin(distance))
    return int(owners[best]) if distance[best] <= within * scale else None
