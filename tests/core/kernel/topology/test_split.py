"""Bodies made ready for formats that take only elementary and B-spline surfaces, none closed or kinked."""

from __future__ import annotations

from math import pi

import pytest
from OCP.BRepBuilderAPI import BRepBuilderAPI_NurbsConvert
from OCP.BRepPrimAPI import BRepPrimAPI_MakeRevol
from OCP.gp import gp_Ax1, gp_Dir, gp_Pnt

from gondrel.core.kernel.base.shape import compound_of, edges_of, faces_of
from gondrel.core.kernel.examples import flawed
from gondrel.core.kernel.examples.broken import kinked_wire
from gondrel.core.kernel.measure.mass import measure, surface_kind
from gondrel.core.kernel.modelling.build import block, cylinder, sphere, torus
from gondrel.core.kernel.topology.split import prepare


@pytest.mark.parametrize("shape", [block(10, 20, 30), cylinder(5, 10), sphere(4), torus(9, 2)])
def test_elementary_bodies_are_left_as_they_are(shape) -> None:
    ready = prepare(shape)
    assert ready.changes == () and ready.sources == tuple(range(len(faces_of(shape))))
    assert ready.shape.IsSame(shape)


@pytest.mark.parametrize(
    ("shape", "volume", "faces"),
    [(cylinder(5, 10), 250 * pi, 4), (sphere(4), 256 / 3 * pi, 2), (torus(9, 2), 72 * pi * pi, 4)],
    ids=["cylinder", "sphere", "torus"],
)
def test_closed_splines_are_cut_in_two_and_hold_as_much(shape, volume, faces) -> None:
    """Cylinder, ball and ring as splines; a ring is closed both ways and is cut until it is not."""
    splines = BRepBuilderAPI_NurbsConvert(shape, True).Shape()
    ready = prepare(splines)
    assert "closed B-spline faces were split in two" in ready.changes
    assert len(faces_of(ready.shape)) == faces, "knots where only the speed jumps are no kinks"
    assert measure(ready.shape).volume == pytest.approx(volume, rel=1e-6)
    assert set(ready.sources) == set(range(len(faces_of(splines))))
    assert prepare(ready.shape).changes == (), "once is enough"


def test_other_surfaces_become_splines() -> None:
    """A line turned about an axis it is not parallel to, and a kinked line swept."""
    curve = edges_of(flawed.smooth_curve())[0]
    turned = BRepPrimAPI_MakeRevol(curve, gp_Ax1(gp_Pnt(0, -50, 0), gp_Dir(1, 0, 0)), pi).Shape()
    assert {surface_kind(face) for face in faces_of(turned)} == {"revolution"}
    ready = prepare(turned)
    assert {surface_kind(face) for face in faces_of(ready.shape)} <= {"bspline", "bezier"}
    assert ready.changes[0] == "surfaces of other kinds became B-splines"
    assert measure(ready.shape).area == pytest.approx(measure(turned).area, rel=1e-5)


def test_kinks_are_cut_and_whose_part_each_face_is_stays_known() -> None:
    spine = kinked_wire()
    ready = prepare(compound_of(edges_of(spine)))
    assert len(edges_of(ready.shape)) > len(edges_of(spine))
    assert ready.changes == (), "of faces nothing changed"
    assert measure(ready.shape).length == pytest.approx(measure(spine).length, rel=1e-9)
