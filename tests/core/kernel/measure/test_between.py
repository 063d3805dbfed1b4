"""Distances, angles and sizes against closed forms of analytic geometry."""

import math

import numpy as np
import pytest
from OCP.BRepBuilderAPI import BRepBuilderAPI_NurbsConvert
from OCP.BRepPrimAPI import (
    BRepPrimAPI_MakeBox,
    BRepPrimAPI_MakeCone,
    BRepPrimAPI_MakeCylinder,
    BRepPrimAPI_MakeSphere,
    BRepPrimAPI_MakeTorus,
)
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.base.shape import edges_of, faces_of
from gondrel.core.kernel.measure.between import apart
from gondrel.core.kernel.measure.things import AxisLine, placed_thing, size_of
from gondrel.core.model.measures import Thing


def cylinder(at, way, radius, height):
    return BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(*at), gp_Dir(*way)), radius, height).Shape()


def kinds_of(shape) -> dict[str, int]:
    return {size_of(face).what: number for number, face in enumerate(faces_of(shape))}


def axis_of(shape) -> AxisLine:
    found = placed_thing(Thing("axis", index=kinds_of(shape)["cylinder"]), shape)
    assert isinstance(found, AxisLine)
    return found


def test_skew_axes() -> None:
    a, u = np.array([3.0, -1.0, 4.0]), np.array([1.0, 2.0, -2.0]) / 3
    b, v = np.array([-7.0, 5.0, 9.0]), np.array([4.0, 0.0, 3.0]) / 5
    across = np.cross(u, v)
    want = abs(float((b - a) @ across)) / np.linalg.norm(across)
    got = apart(axis_of(cylinder(a, u, 1.0, 5.0)), axis_of(cylinder(b, v, 2.0, 7.0)))
    assert got.distance == pytest.approx(want, rel=1e-12)
    assert got.angle == pytest.approx(
        math.acos(float(u @ v)) if u @ v > 0 else math.acos(-float(u @ v)), rel=1e-12
    )
    ends = np.array(got.points[1]) - np.array(got.points[0])
    assert abs(float(ends @ u)) < 1e-12 and abs(float(ends @ v)) < 1e-12
    assert got.along == pytest.approx(tuple(ends))


def test_parallel_axes() -> None:
    got = apart(
        axis_of(cylinder((0, 0, 0), (0, 0, 1), 1, 5)), axis_of(cylinder((3, 4, 50), (0, 0, -1), 1, 5))
    )
    assert got.distance == pytest.approx(5.0, rel=1e-12) and got.angle == pytest.approx(0.0, abs=1e-12)


def test_cylinder_to_plane() -> None:
    rod = cylinder((0, 0, 30.0), (1, 0, 0), 4.0, 20.0)
    ground = BRepPrimAPI_MakeBox(gp_Pnt(-50, -50, -8), gp_Pnt(50, 50, 2)).Shape()
    top = max(faces_of(ground), key=lambda face: size_of(face).direction[2])
    wall = faces_of(rod)[kinds_of(rod)["cylinder"]]
    assert apart(wall, top).distance == pytest.approx(24.0, rel=1e-12)
    assert apart(wall, top).angle == pytest.approx(0.0, abs=1e-12), "its axis is parallel to the plane"
    assert apart(axis_of(rod), top).distance == pytest.approx(28.0, rel=1e-12)


def test_sphere_to_torus() -> None:
    ball, way, at = 4.0, np.array([1.0, 2.0, 3.0]) / math.sqrt(14), np.array([50.0, 3.0, 17.0])
    height = float(at @ way)
    want = math.hypot(float(np.linalg.norm(at - height * way)) - 20.0, height) - 5.0 - ball
    torus = BRepPrimAPI_MakeTorus(gp_Ax2(gp_Pnt(0, 0, 0), gp_Dir(*way)), 20.0, 5.0).Shape()
    sphere = BRepPrimAPI_MakeSphere(gp_Pnt(*at), ball).Shape()
    got = apart(faces_of(sphere)[0], faces_of(torus)[0])
    assert got.distance == pytest.approx(want, rel=1e-9) and got.angle is None


def test_angle_between_faces() -> None:
    box = BRepPrimAPI_MakeBox(10.0, 20.0, 30.0).Shape()
    turned = BRepPrimAPI_MakeBox(
        gp_Ax2(gp_Pnt(40, 0, 0), gp_Dir(math.sin(0.3), 0, math.cos(0.3))), 5, 5, 5
    ).Shape()
    top = max(faces_of(box), key=lambda face: size_of(face).direction[2])
    other = max(faces_of(turned), key=lambda face: size_of(face).direction[2])
    assert apart(top, other).angle == pytest.approx(0.3, rel=1e-9)


def test_one_within_the_other_is_no_distance() -> None:
    inner = BRepPrimAPI_MakeSphere(gp_Pnt(0, 0, 0), 1.0).Shape()
    outer = BRepPrimAPI_MakeBox(gp_Pnt(-5, -5, -5), 10.0, 10.0, 10.0).Shape()
    assert apart(inner, outer).distance == 0.0


@pytest.mark.parametrize("is_spline", [False, True])
def test_sizes_of_single_things(is_spline) -> None:
    shapes = [
        cylinder((1, 2, 3), (0, 0, 1), 6.5, 10.0),
        BRepPrimAPI_MakeSphere(gp_Pnt(4, 5, 6), 2.5).Shape(),
        BRepPrimAPI_MakeTorus(20.0, 5.0).Shape(),
        BRepPrimAPI_MakeCone(9.0, 3.0, 8.0).Shape(),
    ]
    if is_spline:
        shapes = [BRepBuilderAPI_NurbsConvert(shape).Shape() for shape in shapes]
    rod, ball, ring, cone = ({size_of(f).what: size_of(f) for f in faces_of(s)} for s in shapes)
    assert rod["cylinder"].radius == pytest.approx(6.5, rel=1e-9)
    assert rod["cylinder"].area == pytest.approx(2 * math.pi * 6.5 * 10, rel=1e-7 if is_spline else 1e-9), (
        "on splines the integration is coarser than it is asked to be"
    )
    assert ball["sphere"].radius == pytest.approx(2.5, rel=1e-9)
    assert ball["sphere"].at == pytest.approx((4, 5, 6), rel=1e-9)
    assert ring["torus"].radius == pytest.approx(20.0, rel=1e-9)
    assert ring["torus"].minor == pytest.approx(5.0, rel=1e-9)
    assert cone["cone"].angle == pytest.approx(math.atan2(6, 8), rel=1e-9)
    rim = [size for edge in edges_of(shapes[0]) if (size := size_of(edge)).what == "circle"]
    assert len(rim) == 2 and rim[0].length == pytest.approx(13 * math.pi, rel=1e-9)
    assert rim[0].angle == pytest.approx(2 * math.pi, rel=1e-9)


def test_what_is_not_there_is_said() -> None:
    with pytest.raises(KernelRefused, match="no part number 9"):
        placed_thing(Thing("face", index=9), BRepPrimAPI_MakeBox(1.0, 1.0, 1.0).Shape())
    with pytest.raises(KernelRefused, match="no axis"):
        placed_thing(Thing("axis", index=0), BRepPrimAPI_MakeBox(1.0, 1.0, 1.0).Shape())
