"""Camera moves as arithmetic."""

from __future__ import annotations

import numpy as np
import pytest
from vtkmodules.vtkRenderingCore import vtkCamera

from gondrel.ui.scene import camera as moves

BOX = np.array([[[0.0, 0.0, 0.0], [100.0, 40.0, 20.0]]])


@pytest.fixture
def camera() -> vtkCamera:
    made = vtkCamera()
    made.SetViewAngle(26)
    made.SetPosition(1, -1, 1)
    made.SetViewUp(0, 0, 1)
    return made


def seen(camera: vtkCamera, point, aspect: float) -> np.ndarray:
    """Where a point is in the pane, from -1 to 1 each way."""
    matrix = camera.GetCompositeProjectionTransformMatrix(aspect, -1, 1)
    out = matrix.MultiplyPoint((*point, 1.0))
    return np.array(out[:2]) / out[3]


@pytest.mark.parametrize("scale", [1e-3, 1.0, 1e5])
@pytest.mark.parametrize("view", sorted(moves.VIEWS))
def test_a_fit_shows_all_of_the_box_however_large(camera: vtkCamera, view: str, scale: float) -> None:
    moves.set_view(camera, view)
    moves.fit(camera, BOX * scale, 1.3)
    corners = [BOX[0, [i, j, k], [0, 1, 2]] * scale for i in (0, 1) for j in (0, 1) for k in (0, 1)]
    places = np.array([seen(camera, corner, 1.3) for corner in corners])
    assert np.abs(places).max() <= 1.0
    assert np.abs(places).max() > 0.7, "and not too small"


def test_a_fit_far_from_the_origin(camera: vtkCamera) -> None:
    moves.fit(camera, BOX + 1e6, 1.0)
    assert np.abs(seen(camera, (1e6 + 50, 1e6 + 20, 1e6 + 10), 1.0)).max() < 0.2


def test_orbit_keeps_the_point_it_turns_about(camera: vtkCamera) -> None:
    moves.fit(camera, BOX, 1.0)
    point = np.array([100.0, 0.0, 20.0])
    before = seen(camera, point, 1.0)
    moves.orbit(camera, point, 0.2, -0.1)
    assert seen(camera, point, 1.0) == pytest.approx(before, abs=1e-9)


def test_zoom_keeps_what_is_under_the_pointer(camera: vtkCamera) -> None:
    moves.fit(camera, BOX, 1.0)
    focal = np.array(camera.GetFocalPoint())
    right, up, _ = moves.axes(camera)
    height = moves.height_at(camera, None)
    point = focal + right * 0.25 * height - up * 0.1 * height
    before = seen(camera, point, 1.0)
    moves.zoom(camera, 1.5, *before, 1.0)
    assert seen(camera, point, 1.0) == pytest.approx(before, abs=1e-9)


def test_pan_moves_a_point_with_the_pointer(camera: vtkCamera) -> None:
    moves.fit(camera, BOX, 1.0)
    point = np.array(camera.GetFocalPoint())
    moves.pan(camera, point, 0.1, 0.05, 1.0)
    assert seen(camera, point, 1.0) == pytest.approx([0.2, -0.1], abs=1e-9)


def test_points_are_projected_where_they_are_seen(camera: vtkCamera) -> None:
    moves.fit(camera, BOX, 1.3)
    points = np.random.default_rng(4).uniform(-50, 150, (20, 3))
    found = moves.project(camera, points, 1.3)
    for point, place in zip(points, found, strict=True):
        assert place == pytest.approx(seen(camera, point, 1.3))
    behind = np.array(camera.GetPosition()) + 10 * moves.axes(camera)[2]
    assert np.isnan(moves.project(camera, behind[None], 1.3)).all()
