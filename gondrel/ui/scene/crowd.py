"""Thousands of small instances drawn as one mesh of boxes, each with its place, size and colour."""

from __future__ import annotations

from collections.abc import Sequence
from operator import is_

import numpy as np
from vtkmodules.util.numpy_support import numpy_to_vtk, numpy_to_vtkIdTypeArray
from vtkmodules.vtkCommonCore import vtkDataArray, vtkPoints
from vtkmodules.vtkCommonDataModel import vtkCellArray, vtkPolyData
from vtkmodules.vtkRenderingCore import vtkActor, vtkCamera, vtkPolyDataMapper

from gondrel.ui.scene import camera as moves
from gondrel.ui.scene.bodies import PlacedBody

__all__ = ["CROWD", "Crowd", "near_of"]

CROWD = 1200
"""Number of instances from which small ones are drawn as boxes."""

_LARGE_PIXELS, _MOST_LARGE = 26.0, 160

_SIDES = (
    ((0, 0, 0), (0, 1, 0), (1, 1, 0), (1, 0, 0), (0, 0, -1)),
    ((0, 0, 1), (1, 0, 1), (1, 1, 1), (0, 1, 1), (0, 0, 1)),
    ((0, 0, 0), (1, 0, 0), (1, 0, 1), (0, 0, 1), (0, -1, 0)),
    ((0, 1, 0), (0, 1, 1), (1, 1, 1), (1, 1, 0), (0, 1, 0)),
    ((0, 0, 0), (0, 0, 1), (0, 1, 1), (0, 1, 0), (-1, 0, 0)),
    ((1, 0, 0), (1, 1, 0), (1, 1, 1), (1, 0, 1), (1, 0, 0)),
)
_CORNERS = np.array([side[:4] for side in _SIDES], float).reshape(24, 3)
_NORMALS = np.repeat(np.array([side[4] for side in _SIDES], float), 4, axis=0)


class Crowd:
    """One actor for all instances that are too small on screen to be drawn by themselves."""

    def __init__(self) -> None:
        self.actor = vtkActor()
        self.mapper = vtkPolyDataMapper()
        self.actor.SetMapper(self.mapper)
        self.actor.GetProperty().SetAmbient(0.18)
        self.actor.GetProperty().SetDiffuse(0.88)
        self.actor.PickableOff()
        self.actor.SetVisibility(False)
        self._members: list[PlacedBody] = []

    def show(self, members: Sequence[PlacedBody]) -> None:
        """Draw these instances as boxes; none to draw nothing. Where they are those of before, only their
        colours are made anew."""
        same = len(members) == len(self._members) and all(map(is_, members, self._members))
        self._members = list(members)
        self.actor.SetVisibility(bool(members))
        if same and members:
            data = self.mapper.GetInput()
            data.GetPointData().SetScalars(_colours(members))
            data.Modified()
            return
        if not members:
            return
        lows = np.array([m.low for m in members])
        sizes = np.array([m.high for m in members]) - lows
        matrices = np.stack([m.matrix for m in members])
        local = _CORNERS[None] * sizes[:, None] + lows[:, None]
        rotations = matrices[:, :3, :3].transpose(0, 2, 1)
        points = local @ rotations + matrices[:, None, :3, 3]
        normals = _NORMALS[None] @ rotations
        self.mapper.SetInputData(_boxes(points, normals, _colours(members)))


def _colours(members: Sequence[PlacedBody]) -> vtkDataArray:
    """The colours of the corners of boxes."""
    colours = np.array([m.drawn_colour for m in members])
    each = np.repeat((np.clip(colours, 0, 1) * 255).astype(np.uint8), 24, axis=0)
    made: vtkDataArray = numpy_to_vtk(each, deep=True)
    return made


def _boxes(points: np.ndarray, normals: np.ndarray, colours: vtkDataArray) -> vtkPolyData:
    count = len(points)
    data = vtkPolyData()
    made = vtkPoints()
    made.SetData(numpy_to_vtk(points.reshape(-1, 3).astype(np.float32), deep=True))
    data.SetPoints(made)
    data.GetPointData().SetNormals(numpy_to_vtk(normals.reshape(-1, 3).astype(np.float32), deep=True))
    data.GetPointData().SetScalars(colours)
    cells = vtkCellArray()
    offsets = np.arange(0, 24 * count + 1, 4, dtype=np.int64)
    cells.SetData(
        numpy_to_vtkIdTypeArray(offsets, deep=True),
        numpy_to_vtkIdTypeArray(np.arange(24 * count, dtype=np.int64), deep=True),
    )
    data.SetPolys(cells)
    return data


def near_of(boxes: np.ndarray, camera: vtkCamera, height: int, aspect: float) -> np.ndarray:
    """Which instances are in view and large enough to be drawn as they are, at most _MOST_LARGE.

    Args:
        boxes: low and high corner of each instance, (n, 2, 3).
        camera: what they are seen by; height: of the pane in pixels; aspect: its width to height.

    Returns: (n,) bool.
    """
    centres = boxes.mean(axis=1)
    radii = np.linalg.norm(boxes[:, 1] - boxes[:, 0], axis=1) / 2
    right, up, back = moves.axes(camera)
    relative = centres - np.array(camera.GetPosition())
    depth = -(relative @ back)
    reach = np.maximum(depth, 1e-9) * np.tan(np.radians(camera.GetViewAngle()) / 2)
    if camera.GetParallelProjection():
        reach = np.full(len(depth), camera.GetParallelScale())
    pixels = radii / reach * height / 2
    seen = (
        (depth > -radii)
        & (np.abs(relative @ up) < reach + radii)
        & (np.abs(relative @ right) < reach * aspect + radii)
    )
    large = seen & (pixels > _LARGE_PIXELS)
    if large.sum() > _MOST_LARGE:
        least = np.sort(pixels[large])[-_MOST_LARGE]
        large &= pixels >= least
    chosen: np.ndarray = large
    return chosen
