"""Many opaque solids drawn as one mesh: a driver call per instance costs more than its triangles."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from vtkmodules.util.numpy_support import numpy_to_vtk
from vtkmodules.vtkRenderingCore import vtkActor, vtkPolyDataMapper

from gondrel.ui.scene.bodies import PlacedBody, Scene, edge_look
from gondrel.ui.scene.body_mesh import make_lines, make_surface
from gondrel.ui.scene.opening import Opening

__all__ = ["Batch", "can_batch"]

_MOST_TRIANGLES = 400_000


def can_batch(placed: PlacedBody) -> bool:
    """Whether an instance may be drawn with others: an opaque closed solid that has triangles."""
    is_full = placed.body.kind.value == "solid" and placed.mesh.is_closed
    return is_full and not placed.is_whole and placed.drawn_colour[3] == 1.0 and bool(placed.mesh.pieces)


class Batch:
    """One actor for the surfaces and one for the edges of all its members."""

    def __init__(self) -> None:
        self.surface, self.edges = vtkActor(), vtkActor()
        self._surface_mapper, self._edge_mapper = vtkPolyDataMapper(), vtkPolyDataMapper()
        self.surface.SetMapper(self._surface_mapper)
        self.edges.SetMapper(self._edge_mapper)
        for actor in (self.surface, self.edges):
            actor.PickableOff()
            actor.SetVisibility(False)
        prop = self.surface.GetProperty()
        prop.SetAmbient(0.18)
        prop.SetDiffuse(0.88)
        prop.BackfaceCullingOn()
        mapper = self._surface_mapper
        mapper.SetResolveCoincidentTopologyToPolygonOffset()
        mapper.SetRelativeCoincidentTopologyPolygonOffsetParameters(1.0, 1.0)
        self.edges.SetProperty(edge_look(True))
        self._members: tuple[object, ...] = ()

    def open(self, opening: Opening) -> None:
        """Have what is drawn clipped by a cut, or no longer."""
        for actor in (self.surface, self.edges):
            opening.clip(actor)
        self.surface.GetProperty().SetBackfaceCulling(not opening.cut)

    def show(self, scene: Scene) -> bool:
        """Draw the shown opaque solids of a scene; what is drawn here its own actors leave alone.

        Returns: whether the picture is another now.
        """
        members = [p for p in scene.placed if p.is_shown and can_batch(p)]
        if sum(len(p.mesh.triangles) for p in members) > _MOST_TRIANGLES or len(members) < 2:
            members = []
        inside = set(members)
        for placed in scene.placed:
            placed.gather(placed in inside)
        wanted = (scene.displaced, *((p, p.look) for p in members))
        self.surface.SetVisibility(bool(members))
        self.edges.SetVisibility(bool(members))
        if wanted == self._members:
            return False
        self._members = wanted
        if members:
            self._fill(scene, members)
        return True

    def _fill(self, scene: Scene, members: Sequence[PlacedBody]) -> None:
        points, normals, colours, triangles, edge_points, starts = [], [], [], [], [], [np.zeros(1, int)]
        nodes = lines = 0
        for placed in members:
            mesh = placed.mesh
            turn, shift = placed.matrix[:3, :3].T.astype(np.float32), placed.matrix[:3, 3]
            points.append(mesh.points @ turn + shift.astype(np.float32))
            normals.append(mesh.normals @ turn)
            colours.append(scene.point_colours(placed))
            order = mesh.triangles if np.linalg.det(turn) > 0 else mesh.triangles[:, ::-1]
            triangles.append(order + nodes)
            nodes += len(mesh.points)
            edge_points.append(mesh.edge_points @ turn + shift.astype(np.float32))
            starts.append(mesh.edge_starts[1:] + lines)
            lines += len(mesh.edge_points)
        data = make_surface(np.concatenate(points), np.concatenate(normals), np.concatenate(triangles))
        data.GetPointData().SetScalars(numpy_to_vtk(np.concatenate(colours), deep=True))
        self._surface_mapper.SetInputData(data)
        self._edge_mapper.SetInputData(make_lines(np.concatenate(edge_points), np.concatenate(starts)))
