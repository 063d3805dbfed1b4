"""Camera moves as plain arithmetic on a VTK camera."""

from __future__ import annotations

import math

import numpy as np
from vtkmodules.vtkRenderingCore import vtkCamera

from gondrel.core.model.views import Camera

__all__ = [
    "HOME",
    "VIEWS",
    "as_if_along_z",
    "axes",
    "camera_of",
    "fit",
    "height_at",
    "orbit",
    "pan",
    "project",
    "set_view",
    "take_camera",
    "zoom",
]

HOME = ((0.76, -0.64, 0.42), (0.0, 0.0, 1.0))
VIEWS = {
    "front": ((0.0, -1.0, 0.0), (0.0, 0.0, 1.0)),
    "back": ((0.0, 1.0, 0.0), (0.0, 0.0, 1.0)),
    "left": ((-1.0, 0.0, 0.0), (0.0, 0.0, 1.0)),
    "right": ((1.0, 0.0, 0.0), (0.0, 0.0, 1.0)),
    "top": ((0.0, 0.0, 1.0), (0.0, 1.0, 0.0)),
    "below": ((0.0, 0.0, -1.0), (0.0, 1.0, 0.0)),
    "home": HOME,
}
"""Where the camera stands (direction from the model) and what is up, by name of the view."""

_MARGIN = 1.12
_MANY = 1_000


_TURNS = {
    "z": np.eye(3),
    "y": np.array([[0.0, 1.0, 0.0], [0.0, 0.0, 1.0], [1.0, 0.0, 0.0]]),
    "x": np.array([[0.0, 0.0, 1.0], [1.0, 0.0, 0.0], [0.0, 1.0, 0.0]]),
}
"""From views of models that stand along Z to those of models that stand along another axis."""


def as_if_along_z(way: np.ndarray, upward: str) -> np.ndarray:
    """A direction of a model that stands along an axis, as it is in one that stands along Z."""
    turned: np.ndarray = _TURNS[upward].T @ way
    return turned


def set_view(camera: vtkCamera, name: str, upward: str = "z") -> None:
    """Turn the camera to a named view about its focal point.

    Args:
        upward: the axis of the model that is up.
    """
    direction, up = (tuple(_TURNS[upward] @ np.array(way)) for way in VIEWS[name])
    focal = np.array(camera.GetFocalPoint())
    distance = camera.GetDistance()
    unit = np.array(direction) / np.linalg.norm(direction)
    camera.SetPosition(*(focal + distance * unit))
    camera.SetViewUp(*up)


def fit(camera: vtkCamera, boxes: np.ndarray, aspect: float) -> None:
    """Move the camera so that (n, 2, 3) boxes fill a pane of a width-to-height ratio."""
    if len(boxes) > _MANY:  # neighbours in order lie near each other: their common boxes stand for them
        starts = np.arange(0, len(boxes), -(-len(boxes) // _MANY))
        low = np.minimum.reduceat(boxes[:, 0], starts)
        boxes = np.stack([low, np.maximum.reduceat(boxes[:, 1], starts)], axis=1)
    corners = np.concatenate(
        [boxes[:, [i, j, k], [0, 1, 2]] for i in (0, 1) for j in (0, 1) for k in (0, 1)]
    )
    right, up, back = axes(camera)
    tangent = math.tan(math.radians(camera.GetViewAngle()) / 2)
    centre = (corners.min(axis=0) + corners.max(axis=0)) / 2
    for _ in range(4):  # the middle of what is seen is not the middle of the boxes
        relative = corners - centre
        across, above, depth = relative @ right, relative @ up, relative @ back
        need = np.maximum(np.abs(above) / tangent, np.abs(across) / (tangent * aspect))
        distance = max(float((need + depth).max()) * _MARGIN, 1e-6)
        scale = distance / np.maximum(distance - depth, 1e-9)
        middle = [(v.min() + v.max()) / 2 for v in (across * scale, above * scale)]
        centre = centre + right * middle[0] + up * middle[1]
    camera.SetFocalPoint(*centre)
    camera.SetPosition(*(centre + back * distance))
    spread = max(float(np.abs(above).max()), float(np.abs(across).max()) / aspect)
    camera.SetParallelScale(max(spread * _MARGIN, 1e-6))


def camera_of(camera: vtkCamera) -> Camera:
    """Where a camera stands, as it is kept."""
    position, focal, up = camera.GetPosition(), camera.GetFocalPoint(), camera.GetViewUp()
    is_parallel = bool(camera.GetParallelProjection())
    return Camera(position, focal, up, camera.GetParallelScale(), is_parallel)


def take_camera(camera: vtkCamera, kept: Camera) -> None:
    """Put a camera where one was kept."""
    camera.SetPosition(*kept.position)
    camera.SetFocalPoint(*kept.focal)
    camera.SetViewUp(*kept.up)
    camera.SetParallelScale(kept.scale)
    camera.SetParallelProjection(kept.is_parallel)


def axes(camera: vtkCamera) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Unit vectors to the right, up and back of the view."""
    back = np.array(camera.GetPosition()) - np.array(camera.GetFocalPoint())
    back = back / (np.linalg.norm(back) or 1.0)
    right = np.cross(np.array(camera.GetViewUp()), back)
    if np.linalg.norm(right) < 1e-9:
        right = np.cross(np.array([0.0, 1.0, 0.0]), back)
    right = right / np.linalg.norm(right)
    return right, np.cross(back, right), back


def _rotation(axis: np.ndarray, angle: float) -> np.ndarray:
    x, y, z = axis / np.linalg.norm(axis)
    c, s = math.cos(angle), math.sin(angle)
    cross = np.array([[0, -z, y], [z, 0, -x], [-y, x, 0]])
    matrix: np.ndarray = c * np.eye(3) + s * cross + (1 - c) * np.outer((x, y, z), (x, y, z))
    return matrix


def orbit(camera: vtkCamera, centre: np.ndarray, dx: float, dy: float) -> None:
    """Turn the camera about a point; dx, dy in shares of the pane."""
    right, up, _ = axes(camera)
    turn = _rotation(up, -dx * math.pi) @ _rotation(right, -dy * math.pi)
    for get, put in (
        (camera.GetPosition, camera.SetPosition),
        (camera.GetFocalPoint, camera.SetFocalPoint),
    ):
        put(*(centre + turn @ (np.array(get()) - centre)))
    camera.SetViewUp(*(turn @ up))


def height_at(camera: vtkCamera, at: np.ndarray | None) -> float:
    """Height of the pane in mm at a depth."""
    if camera.GetParallelProjection():
        return 2 * float(camera.GetParallelScale())
    _, _, back = axes(camera)
    point = np.array(camera.GetFocalPoint()) if at is None else at
    depth = float((np.array(camera.GetPosition()) - point) @ back)
    return 2 * max(depth, 1e-9) * math.tan(math.radians(camera.GetViewAngle()) / 2)


def pan(camera: vtkCamera, at: np.ndarray | None, dx: float, dy: float, aspect: float) -> None:
    """Shift the camera so that what is at a depth follows the pointer; dx, dy in shares."""
    right, up, _ = axes(camera)
    height = height_at(camera, at)
    shift = -right * dx * height * aspect + up * dy * height
    camera.SetPosition(*(np.array(camera.GetPosition()) + shift))
    camera.SetFocalPoint(*(np.array(camera.GetFocalPoint()) + shift))


def zoom(camera: vtkCamera, factor: float, x: float, y: float, aspect: float) -> None:
    """Come nearer by a factor, keeping what is under the pointer; x, y from -1 to 1."""
    right, up, _ = axes(camera)
    before = height_at(camera, None)
    if camera.GetParallelProjection():
        camera.SetParallelScale(camera.GetParallelScale() / factor)
    focal = np.array(camera.GetFocalPoint())
    position = np.array(camera.GetPosition())
    camera.SetPosition(*(focal + (position - focal) / factor))
    gain = before * (1 - 1 / factor) / 2
    shift = right * x * gain * aspect + up * y * gain
    camera.SetPosition(*(np.array(camera.GetPosition()) + shift))
    camera.SetFocalPoint(*(focal + shift))


def project(camera: vtkCamera, points: np.ndarray, aspect: float) -> np.ndarray:
    """Where points (n, 3) lie in a pane, (n, 2): -1 to 1 from left to right and from below; not a number
    behind the camera."""
    matrix = camera.GetCompositeProjectionTransformMatrix(aspect, -1.0, 1.0)
    rows = np.array([[matrix.GetElement(i, j) for j in range(4)] for i in range(4)])
    projected = np.column_stack([points, np.ones(len(points))]) @ rows.T
    ahead = np.where(projected[:, 3:] > 0, projected[:, 3:], np.nan)
    flat: np.ndarray = projected[:, :2] / ahead
    return flat
