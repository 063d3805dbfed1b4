"""Points of a face lie across from it wherever it begins, and none beside it does."""

from __future__ import annotations

from math import cos, pi, sin

import pytest
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace
from OCP.Geom import Geom_CylindricalSurface
from OCP.gp import gp_Ax3, gp_Pnt
from OCP.TopoDS import TopoDS_Face

from gondrel.core.kernel.measure.deviation import ACCURACY, _Across, measure_deviation

_RADIUS, _WIDE = 530.6, 0.07


def _strip(begins: float) -> TopoDS_Face:
    """A strip of a cylinder, 20 mm high, from one angle to one a little on."""
    cylinder = Geom_CylindricalSurface(gp_Ax3(), _RADIUS)
    return BRepBuilderAPI_MakeFace(cylinder, begins, begins + _WIDE, 0.0, 20.0, 1e-7).Face()


def _point(angle: float) -> gp_Pnt:
    return gp_Pnt(_RADIUS * cos(angle), _RADIUS * sin(angle), 10.0)


@pytest.mark.parametrize("begins", [*(2 * pi * n / 90 for n in range(90)), 2 * pi - _WIDE])
@pytest.mark.parametrize("rounding", [0.0, 3e-12, -3e-12])
def test_a_point_on_the_rim_lies_across_from_the_face(begins: float, rounding: float) -> None:
    across = _Across(_strip(begins))
    assert across.distance(_point(begins + rounding)) <= ACCURACY
    assert across.distance(_point(begins + _WIDE + rounding)) <= ACCURACY


@pytest.mark.parametrize("begins", [0.0, 1.0, 3.0, 6.25, 2 * pi - _WIDE])
def test_a_point_beside_the_face_does_not(begins: float) -> None:
    across = _Across(_strip(begins))
    assert across.distance(_point(begins - 0.001)) == float("inf")
    assert across.distance(_point(begins + _WIDE + 0.001)) == float("inf")
    assert across.distance(_point(begins + pi)) == float("inf")


def test_a_strip_turned_by_a_hundredth_of_a_degree_is_seen() -> None:
    """Closed form: the rim moves along the circle, so it is a chord off."""
    by = pi / 18000
    found = measure_deviation(_strip(1.0), _strip(1.0 + by)).value
    assert found == pytest.approx(2 * _RADIUS * sin(by / 2), rel=1e-4)
