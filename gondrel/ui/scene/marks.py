"""Marks over the model: a face or an edge of an instance, set off from the rest."""

from __future__ import annotations

import numpy as np
from vtkmodules.vtkCommonMath import vtkMatrix4x4
from vtkmodules.vtkRenderingCore import vtkActor, vtkPolyDataMapper

from gondrel.ui.scene.bodies import Hit, PlacedBody
from gondrel.ui.scene.body_mesh import make_lines, make_surface

__all__ = ["edge_mark", "face_mark", "nearest_edge"]

Colour = tuple[float, float, float]


def face_mark(placed: PlacedBody, face: int, colour: Colour) -> vtkActor:
    """A face drawn over itself in a colour."""
    mesh = placed.mesh
    triangles = mesh.triangles[mesh.face_starts[face] : mesh.face_starts[face + 1]]
    used, local = np.unique(triangles, return_inverse=True)
    points = mesh.points[used]
    data = make_surface(points, np.zeros_like(points), local.reshape(-1, 3))
    actor = _actor(placed, data, colour)
    mapper = actor.GetMapper()
    mapper.SetResolveCoincidentTopologyToPolygonOffset()
    mapper.SetRelativeCoincidentTopologyPolygonOffsetParameters(-1.0, -1.0)
    actor.GetProperty().SetOpacity(0.55)
    return actor


def edge_mark(placed: PlacedBody, edge: int, colour: Colour) -> vtkActor:
    """An edge drawn over itself, thicker."""
    mesh = placed.mesh
    points = mesh.edge_points[mesh.edge_starts[edge] : mesh.edge_starts[edge + 1]]
    actor = _actor(placed, make_lines(points, np.array([0, len(points)])), colour)
    actor.GetProperty().SetLineWidth(4.0)
    return actor


def _actor(placed: PlacedBody, data: object, colour: Colour) -> vtkActor:
    mapper = vtkPolyDataMapper()
    mapper.SetInputData(data)
    mapper.SetScalarVisibility(False)
    actor = vtkActor()
    actor.SetMapper(mapper)
    matrix = vtkMatrix4x4()
    matrix.DeepCopy(placed.matrix.ravel())
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
