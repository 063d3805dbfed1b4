"""Foot points on surfaces by closed form, against the kernel's own projection and by hand."""

from __future__ import annotations

from math import pi

import numpy as np
import pytest
from OCP.Geom import (
    Geom_ConicalSurface,
    Geom_CylindricalSurface,
    Geom_Plane,
    Geom_RectangularTrimmedSurface,
    Geom_SphericalSurface,
    Geom_ToroidalSurface,
)
from OCP.gp import gp_Ax3, gp_Dir, gp_Pnt
from OCP.ShapeAnalysis import ShapeAnalysis_Surface

from gondrel.core.kernel.examples.broken import shifted_plane
from gondrel.core.kernel.geometry.projection import feet_on
from gondrel.core.kernel.inspect.inspection import inspect_shape
from gondrel.core.kernel.modelling.build import block

FRAME = gp_Ax3(gp_Pnt(1, -2, 3), gp_Dir(1, 2, 2), gp_Dir(2, -2, 1))
SURFACES = {
    "plane": Geom_Plane(FRAME),
    "cylinder": Geom_CylindricalSurface(FRAME, 4.0),
    "cone": Geom_ConicalSurface(FRAME, 0.4, 6.0),
    "narrowing cone": Geom_ConicalSurface(FRAME, -0.3, 9.0),
    "sphere": Geom_SphericalSurface(FRAME, 5.0),
    "torus": Geom_ToroidalSurface(FRAME, 8.0, 2.0),
    "trimmed": Geom_RectangularTrimmedSurface(Geom_CylindricalSurface(FRAME, 4.0), 0.1, pi, -9.0, 9.0),
}


@pytest.mark.parametrize("name", SURFACES)
def test_feet_are_those_of_the_kernel(name) -> None:
    surface = SURFACES[name]
    chance = np.random.default_rng(7)
    near = [surface.Value(u, v).Coord() for u, v in chance.uniform(0.2, 2.5, (40, 2)).tolist()]
    points = np.array(near) + chance.normal(0, 0.05, (40, 3))
    feet = feet_on(surface)(points)
    project = ShapeAnalysis_Surface(surface)
    for point, foot in zip(points, feet, strict=True):
        flat = project.ValueOfUV(gp_Pnt(*point.tolist()), 1e-9)
        assert np.linalg.norm(foot - project.Value(flat).Coord()) < 1e-6
        assert np.linalg.norm(foot - point) == pytest.approx(project.Gap(), abs=1e-7)


def test_points_on_an_axis_have_feet_too() -> None:
    surface = Geom_CylindricalSurface(gp_Ax3(), 4.0)
    ((x, y, z),) = feet_on(surface)(np.array([[0.0, 0.0, 7.0]])).tolist()
    assert (x * x + y * y) == pytest.approx(16.0) and z == pytest.approx(7.0)


def test_only_edges_off_their_surfaces_are_told() -> None:
    """Four edges bound the plane that was moved; each lies as far off it as that."""
    gaps = inspect_shape(shifted_plane(0.05)).gaps
    assert len(gaps) == 4 and {round(gap.distance, 9) for gap in gaps} == {0.05}
    assert all(gap.feet is not None and np.ptp(gap.feet[:, 2]) < 1e-12 for gap in gaps)
    assert inspect_shape(block(1, 2, 3)).gaps == []
