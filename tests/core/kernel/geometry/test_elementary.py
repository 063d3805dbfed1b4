"""Elementary surfaces as plain figures, against the kernel's own points and areas by formula."""

from __future__ import annotations

from math import pi, sin

import numpy as np
import pytest
from OCP.Geom import (
    Geom_BezierSurface,
    Geom_ConicalSurface,
    Geom_CylindricalSurface,
    Geom_Plane,
    Geom_SphericalSurface,
    Geom_ToroidalSurface,
)
from OCP.gp import gp_Ax3, gp_Dir, gp_Pnt
from OCP.OCP.collections import Array2_gp_Pnt

from gondrel.core.kernel.geometry.elementary import (
    CONE,
    CYLINDER,
    KINDS,
    PLANE,
    SPHERE,
    TORUS,
    elementary_surfaces_of,
    on_surfaces,
)

RIGHT = gp_Ax3(gp_Pnt(1, -2, 3), gp_Dir(1, 2, 2), gp_Dir(2, -2, 1))
LEFT = gp_Ax3(RIGHT.Ax2())
LEFT.YReverse()
MAKE = {
    PLANE: lambda f: Geom_Plane(f), CYLINDER: lambda f: Geom_CylindricalSurface(f, 4.0),
    CONE: lambda f: Geom_ConicalSurface(f, 0.4, 6.0), SPHERE: lambda f: Geom_SphericalSurface(f, 5.0),
    TORUS: lambda f: Geom_ToroidalSurface(f, 8.0, 2.0),
}  # fmt: skip
AREAS = {
    PLANE: lambda v: v, CYLINDER: lambda v: 4 * v, CONE: lambda v: 6 * v + v * v * sin(0.4) / 2,
    SPHERE: lambda v: 25 * sin(v), TORUS: lambda v: 2 * (8 * v + 2 * sin(v)),
}  # fmt: skip
"""Area from v = 0 to v, of a strip of u = 1; handbook formulas of zones and bands."""


@pytest.mark.parametrize("frame", [RIGHT, LEFT], ids=["right-handed", "left-handed"])
@pytest.mark.parametrize("kind", MAKE, ids=KINDS)
def test_points_are_those_of_the_kernel_and_areas_those_of_the_formulas(kind, frame) -> None:
    surface = MAKE[kind](frame)
    forms = elementary_surfaces_of([surface, None])
    assert forms.kind.tolist() == [kind, -1]
    chance = np.random.default_rng(5)
    flat = np.stack([chance.uniform(0, 6, 9), chance.uniform(-1.2, 1.2, 9)], axis=1)
    points, lay = on_surfaces(flat[None], forms[np.array([0])])
    for (u, v), point, (x, y) in zip(flat, points[0], lay[0], strict=True):
        assert point == pytest.approx(surface.Value(u, v).Coord(), abs=1e-12)
        assert x == u and y == pytest.approx(AREAS[kind](v))


@pytest.mark.parametrize(("kind", "beyond"), [(CONE, -6 / sin(0.4) - 0.5), (SPHERE, pi / 2 + 0.1)])
def test_beyond_a_pole_or_apex_nothing_is_laid_out(kind, beyond) -> None:
    forms = elementary_surfaces_of([MAKE[kind](RIGHT)])
    points, lay = on_surfaces(np.array([[[0.0, 0.0], [0.0, beyond]]]), forms)
    assert np.isfinite(points).all() and np.isnan(lay[0, :, 1]).all()


def test_other_surfaces_have_no_form() -> None:
    poles = [[gp_Pnt(x, y, x * y) for y in (0, 1)] for x in (0, 1)]
    table = Array2_gp_Pnt(1, 2, 1, 2)
    for i, row in enumerate(poles, 1):
        for j, pole in enumerate(row, 1):
            table.SetValue(i, j, pole)
    forms = elementary_surfaces_of([Geom_BezierSurface(table)])
    assert forms.kind.tolist() == [-1]
    points, _ = on_surfaces(np.zeros((1, 3, 2)), forms)
    assert np.isnan(points).all()
