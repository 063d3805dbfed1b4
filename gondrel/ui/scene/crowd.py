"""Thousands of small instances drawn as one mesh of boxes, each with its place, size and colour."""

from __future__ import annotations

from itertools import chain

import numpy as np
from vtkmodules.util.numpy_support import numpy_to_vtk, numpy_to_vtkIdTypeArray
from vtkmodules.vtkCommonCore import vtkPoints
from vtkmodules.vtkCommonDataModel import vtkCellArray, vtkPolyData
from vtkmodules.vtkRenderingCore import vtkActor, vtkCamera, vtkPolyDataMapper

from gondrel.ui.scene import camera as moves
from gondrel.ui.scene.bodies import Scene

__all__ = ["MOST_LARGE", "Crowd", "near_of"]

_LARGE_PIXELS, MOST_LARGE = 26.0, 160

_SIDES = np.array(
    ((0, 2, 6, 4), (1, 5, 7, 3), (0, 4, 5, 1), (2, 3, 7, 6), (0, 1, 3, 2), (4, 6, 7, 5)), np.int64
)
"""Corners of each side in turn, as seen from outside."""


class Crowd:
    """One actor for all instances that are too small on screen to be drawn by themselves."""

    def __init__(self) -> None:
        self.actor = vtkActor()
        self.mapper = vtkPolyDataMapper()
        self.actor.SetMapper(self.mapper)
        self.actor.GetProperty().SetAmbient(0.18)
        self.actor.GetProperty().SetDiffuse(0.88)
        self.actor.GetProperty().SetInterpolationToFlat()  # sides need no corners of their own for it
        self.actor.GetProperty().BackfaceCullingOn()
        self.actor.PickableOff()
        self.actor.SetVisibility(False)
        self._drawn: tuple[int, int, bytes] | None = None
        self._looks: tuple[int, int, int] | None = None
        self._colours = np.empty((0, 4), np.uint8)

    def hide(self) -> None:
        """Draw nothing, and forget what was drawn."""
        self.actor.SetVisibility(False)
        self._drawn, self._looks = None, None

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
            each = chain.from_iterable(placed.rgba for placed in scene.placed)
            self._colours = np.fromiter(each, np.uint8, 4 * len(scene.placed)).reshape(-1, 4)
        drawn = scene.state, len(scene.placed), members.tobytes()
        if drawn != self._drawn:
            self._drawn = drawn
            own = scene.extents
            self.mapper.SetInputData(_boxes(own.corners, own.mirrored, self._colours, members))
        elif is_other:
            data = self.mapper.GetInput()
            data.GetPointData().SetScalars(numpy_to_vtk(np.repeat(self._colours, 8, axis=0), deep=True))
            data.Modified()


def _boxes(
    points: np.ndarray, mirrored: np.ndarray, colours: np.ndarray, members: np.ndarray
) -> vtkPolyData:
    """Boxes of (n, 8, 3) corners, of which members are drawn; the sides of mirrored ones are turned, so
    that they are seen from outside too."""
    data = vtkPolyData()
    made = vtkPoints()
    made.SetData(numpy_to_vtk(points.reshape(-1, 3), deep=True))
    data.SetPoints(made)
    data.GetPointData().SetScalars(numpy_to_vtk(np.repeat(colours, 8, axis=0), deep=True))
    cells = vtkCellArray()
    drawn = np.flatnonzero(members)
    sides = np.where(mirrored[drawn, None, None], _SIDES[:, ::-1], _SIDES)
    corners = (8 * drawn[:, None, None] + sides).ravel()
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
