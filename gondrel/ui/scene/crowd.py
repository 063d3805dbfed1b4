"""Thousands of small instances drawn as one mesh of boxes, each with its place, size and colour."""

from __future__ import annotations

from itertools import groupby

import numpy as np
from vtkmodules.util.numpy_support import numpy_to_vtk, numpy_to_vtkIdTypeArray
from vtkmodules.vtkCommonCore import vtkPoints
from vtkmodules.vtkCommonDataModel import vtkCellArray, vtkPolyData
from vtkmodules.vtkRenderingCore import vtkActor, vtkCamera, vtkPolyDataMapper

from gondrel.ui.scene import camera as moves
from gondrel.ui.scene.bodies import Scene

__all__ = ["MOST_LARGE", "Crowd", "near_of"]

_LARGE_PIXELS, MOST_LARGE = 26.0, 160

_SIDES = (
    ((0, 0, 0), (0, 1, 0), (1, 1, 0), (1, 0, 0), (0, 0, -1)),
    ((0, 0, 1), (1, 0, 1), (1, 1, 1), (0, 1, 1), (0, 0, 1)),
    ((0, 0, 0), (1, 0, 0), (1, 0, 1), (0, 0, 1), (0, -1, 0)),
    ((0, 1, 0), (0, 1, 1), (1, 1, 1), (1, 1, 0), (0, 1, 0)),
    ((0, 0, 0), (0, 0, 1), (0, 1, 1), (0, 1, 0), (-1, 0, 0)),
    ((1, 0, 0), (1, 1, 0), (1, 1, 1), (1, 0, 1), (1, 0, 0)),
)
_BITS = np.array([(n >> 2 & 1, n >> 1 & 1, n & 1) for n in range(8)], np.float64)
_CORNERS = np.array([x << 2 | y << 1 | z for side in _SIDES for x, y, z in side[:4]])
_NORMALS = np.array([side[4] for side in _SIDES], np.float32)


class Crowd:
    """One actor for all instances that are too small on screen to be drawn by themselves."""

    def __init__(self) -> None:
        self.actor = vtkActor()
        self.mapper = vtkPolyDataMapper()
        self.actor.SetMapper(self.mapper)
        self.actor.GetProperty().SetAmbient(0.18)
        self.actor.GetProperty().SetDiffuse(0.88)
        self.actor.GetProperty().BackfaceCullingOn()
        self.actor.PickableOff()
        self.actor.SetVisibility(False)
        self._state = -1
        self._points = self._normals = np.empty((0, 24, 3), np.float32)
        self._drawn: tuple[int, int, bytes] | None = None
        self._looks: tuple[int, int, int] | None = None
        self._colours = np.empty((0, 4), np.uint8)

    def hide(self) -> None:
        """Draw nothing, and forget what was drawn."""
        self.actor.SetVisibility(False)
        self._state, self._drawn, self._looks = -1, None, None

    def show(self, scene: Scene, members: np.ndarray) -> None:
        """Draw some instances of a scene as boxes.

        Args:
            members: (n,) bool, which of its instances.
        """
        self.actor.SetVisibility(bool(members.any()))
        if not members.any():
            return
        looks = scene.state, len(scene.placed), scene.looks
        if is_other := looks != self._looks:
            self._looks = looks
            self._colours = np.array([placed.rgba for placed in scene.placed], np.uint8)
        drawn = scene.state, len(scene.placed), members.tobytes()
        if drawn != self._drawn:
            self._place(scene)
            self._drawn = drawn
            self.mapper.SetInputData(_boxes(self._points, self._normals, self._colours, members))
        elif is_other:
            data = self.mapper.GetInput()
            data.GetPointData().SetScalars(numpy_to_vtk(np.repeat(self._colours, 24, axis=0), deep=True))
            data.Modified()

    def _place(self, scene: Scene) -> None:
        """Work out the boxes of instances that are not there yet."""
        if scene.state != self._state:
            self._state = scene.state
            self._points = self._normals = np.empty((0, 24, 3), np.float32)
        fresh = scene.placed[len(self._points) :]
        if not fresh:
            return
        points, normals = [self._points], [self._normals]
        for _, run in groupby(fresh, key=lambda placed: id(placed.mesh)):
            same = list(run)
            low, high = same[0].low, same[0].high
            matrices = np.array([placed.matrix for placed in same], np.float32)
            turns, places = matrices[:, :3, :3].transpose(0, 2, 1), matrices[:, None, :3, 3]
            corners = (_BITS * (high - low) + low).astype(np.float32) @ turns + places
            sides = corners[:, _CORNERS]
            mirrored = np.linalg.det(turns) < 0  # their sides are to be seen from outside, too
            sides[mirrored] = sides[mirrored].reshape(-1, 6, 4, 3)[:, :, ::-1].reshape(-1, 24, 3)
            points.append(sides)
            normals.append(np.repeat(_NORMALS @ turns, 4, axis=1))
        self._points, self._normals = np.concatenate(points), np.concatenate(normals)


def _boxes(
    points: np.ndarray, normals: np.ndarray, colours: np.ndarray, members: np.ndarray
) -> vtkPolyData:
    """Boxes of (n, 24, 3) corners, of which members are drawn."""
    data = vtkPolyData()
    made = vtkPoints()
    made.SetData(numpy_to_vtk(points.reshape(-1, 3), deep=True))
    data.SetPoints(made)
    data.GetPointData().SetNormals(numpy_to_vtk(normals.reshape(-1, 3), deep=True))
    data.GetPointData().SetScalars(numpy_to_vtk(np.repeat(colours, 24, axis=0), deep=True))
    cells = vtkCellArray()
    corners = np.flatnonzero(np.repeat(members, 24)).astype(np.int64)
    offsets = np.arange(0, len(corners) + 1, 4, dtype=np.int64)
    cells.SetData(numpy_to_vtkIdTypeArray(offsets, deep=True), numpy_to_vtkIdTypeArray(corners, deep=True))
    data.SetPolys(cells)
    return data


def near_of(
    boxes: np.ndarray, camera: vtkCamera, height: int, aspect: float, most: int = MOST_LARGE
) -> np.ndarray:
    """Which instances are in view and large enough to be drawn as they are, the largest of them.

    Args:
        boxes: low and high corner of each instance, (n, 2, 3).
        camera: what they are seen by; height: of the pane in pixels; aspect: its width to height.
        most: how many at most.

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
    if large.sum() > most:
        least = np.sort(pixels[large])[-most]
        large &= pixels >= least
    chosen: np.ndarray = large
    return chosen
