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
from gondrel.ui.scene.extents import Extents

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
        self._data = vtkPolyData()
        self._made: tuple[int, int] | None = None
        self._drawn: bytes | None = None
        self._looks: tuple[int, int, int] | None = None
        self._seen: tuple[float, ...] | None = None
        self._members = np.empty(0, bool)
        self._sides = np.empty((0, 6, 4), np.int64)
        self._normals, self._offsets = np.empty((0, 6, 3)), np.empty((0, 6))

    def hide(self) -> None:
        """Draw nothing, and forget what was drawn."""
        self.actor.SetVisibility(False)
        self._made, self._drawn, self._looks = None, None, None

    def show(self, scene: Scene, members: np.ndarray) -> bool:
        """Draw some instances of a scene as boxes, once the sides to draw are told by ``face``.

        Args:
            members: (n,) bool, which of its instances.

        Returns: whether others are drawn than before.
        """
        self.actor.SetVisibility(bool(members.any()))
        if not members.any():
            return False
        made = scene.state, len(scene.placed)
        looks = *made, scene.looks
        if made != self._made:
            self._place(scene.extents)
        if looks != self._looks:
            each = chain.from_iterable(placed.rgba for placed in scene.placed)
            colours = np.fromiter(each, np.uint8, 4 * len(scene.placed)).reshape(-1, 4)
            self._data.GetPointData().SetScalars(numpy_to_vtk(np.repeat(colours, 8, axis=0), deep=True))
            self._data.Modified()
        drawn = members.tobytes()
        is_other = made != self._made or drawn != self._drawn
        if is_other:
            self._members, self._seen = members, None
        self._made, self._looks, self._drawn = made, looks, drawn
        return is_other

    def face(self, camera: vtkCamera, *, both: bool) -> None:
        """Hand over the sides that are seen from where a camera stands: half the work of a first frame.

        Args:
            both: whether all sides, as where the boxes are cut, and where the camera moves: handing over
                takes longer than going through what is not seen.
        """
        if not self.actor.GetVisibility():
            return
        is_parallel = bool(camera.GetParallelProjection())
        stand = tuple(moves.axes(camera)[2].tolist()) if is_parallel else camera.GetPosition()
        seen = () if both else (float(is_parallel), *stand)
        if seen == self._seen:
            return
        self._seen = seen
        sides = np.repeat(self._members[:, None], 6, axis=1)
        if not both:
            sides &= self._normals @ np.array(stand) > (0.0 if is_parallel else self._offsets)
        corners = self._sides[sides].ravel()
        offsets = np.arange(0, len(corners) + 1, 4, dtype=np.int64)
        cells = vtkCellArray()
        cells.SetData(
            numpy_to_vtkIdTypeArray(offsets, deep=True), numpy_to_vtkIdTypeArray(corners, deep=True)
        )
        self._data.SetPolys(cells)
        self._data.Modified()

    def _place(self, own: Extents) -> None:
        """Take the corners of all instances, which the graphics driver then keeps, whichever are drawn, and
        the planes of their sides, outward also where a place mirrors."""
        points, mirrored = own.corners, own.mirrored
        self._data = vtkPolyData()
        made = vtkPoints()
        made.SetData(numpy_to_vtk(points.reshape(-1, 3), deep=True))
        self._data.SetPoints(made)
        self._looks = None
        self.mapper.SetInputData(self._data)
        first = 8 * np.arange(len(points), dtype=np.int64)[:, None, None]
        self._sides = first + np.where(mirrored[:, None, None], _SIDES[:, ::-1], _SIDES)
        a, b, c = (points[:, _SIDES[:, corner]].astype(float) for corner in (0, 1, 3))
        self._normals = np.cross(b - a, c - a) * np.where(mirrored, -1.0, 1.0)[:, None, None]
        self._offsets = np.einsum("nij,nij->ni", self._normals, a)


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
