"""Thousands of small instances drawn as one mesh of boxes, each with its place, size and colour."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from vtkmodules.util.numpy_support import numpy_to_vtk, numpy_to_vtkIdTypeArray
from vtkmodules.vtkCommonCore import vtkPoints
from vtkmodules.vtkCommonDataModel import vtkCellArray, vtkPolyData
from vtkmodules.vtkRenderingCore import vtkActor, vtkCamera, vtkPolyDataMapper

from gondrel.ui.scene import camera as moves
from gondrel.ui.scene.bodies import PlacedBody, Scene

__all__ = ["Crowd", "near_of"]

_LARGE_PIXELS, _MOST_LARGE = 26.0, 160

_SIDES = (
    ((0, 0, 0), (0, 1, 0), (1, 1, 0), (1, 0, 0), (0, 0, -1)),
    ((0, 0, 1), (1, 0, 1), (1, 1, 1), (0, 1, 1), (0, 0, 1)),
    ((0, 0, 0), (1, 0, 0), (1, 0, 1), (0, 0, 1), (0, -1, 0)),
    ((0, 1, 0), (0, 1, 1), (1, 1, 1), (1, 1, 0), (0, 1, 0)),
    ((0, 0, 0), (0, 0, 1), (0, 1, 1), (0, 1, 0), (-1, 0, 0)),
    ((1, 0, 0), (1, 1, 0), (1, 1, 1), (1, 0, 1), (1, 0, 0)),
)
_CORNERS = np.array([side[:4] for side in _SIDES], np.float32).reshape(24, 3)
_NORMALS = np.repeat(np.array([side[4] for side in _SIDES], np.float32), 4, axis=0)


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
            self._looks, self._colours = looks, self._colours_of(scene.placed)
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
        lows = np.array([p.low for p in fresh], np.float32)
        sizes = np.array([p.high for p in fresh], np.float32) - lows
        matrices = np.array([p.matrix for p in fresh])
        turns = matrices[:, :3, :3].transpose(0, 2, 1).astype(np.float32)
        places = matrices[:, None, :3, 3].astype(np.float32)
        local = _CORNERS[None] * sizes[:, None] + lows[:, None]
        self._points = np.concatenate([self._points, _turned(local, turns) + places])
        normals = _turned(np.broadcast_to(_NORMALS[None], local.shape), turns)
        self._normals = np.concatenate([self._normals, normals])

    def _colours_of(self, placed: Sequence[PlacedBody]) -> np.ndarray:
        """(n, 4) uint8, of every instance as it is drawn now."""
        known: dict[tuple[int, int], tuple[int, ...]] = {}  # the same few objects again and again
        rows = []
        for each in placed:
            key = id(each.colour), id(each.look)
            row = known.get(key)
            if row is None:
                row = known[key] = tuple(int(255 * min(max(v, 0.0), 1.0)) for v in each.drawn_colour)
            rows.append(row)
        return np.array(rows, np.uint8)


def _turned(points: np.ndarray, turns: np.ndarray) -> np.ndarray:
    """Points (n, k, 3) times matrices (n, 3, 3), written out: the product of tiny matrices is slow."""
    turned: np.ndarray = sum(points[:, :, j, None] * turns[:, None, j] for j in range(3))
    return turned


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
