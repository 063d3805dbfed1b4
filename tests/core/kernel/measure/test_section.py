"""Sections against closed forms; the Boolean of a plane with a body is the kernel's, the areas are not."""

import math

import numpy as np
import pytest
from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut
from OCP.BRepPrimAPI import (
    BRepPrimAPI_MakeBox,
    BRepPrimAPI_MakeCone,
    BRepPrimAPI_MakeCylinder,
    BRepPrimAPI_MakeTorus,
)
from OCP.gp import gp_Pnt

from gondrel.core.kernel.base.shape import edges_of, faces_of, shell_of
from gondrel.core.kernel.measure.section import cut_facets, cut_shape
from gondrel.core.kernel.mesh.meshing import tessellated
from gondrel.core.model.cutting import Cut, CutPlane, box_cut
from tests.shapes import axes, moved, sphere

MIDDLE = CutPlane((0.0, 0.0, 0.0), (0.0, 0.0, 1.0))


def tube(outer=10.0, inner=6.0, height=40.0):
    whole = BRepPrimAPI_MakeCylinder(axes(), outer, height).Shape()
    return BRepAlgoAPI_Cut(whole, BRepPrimAPI_MakeCylinder(axes(), inner, height).Shape()).Shape()


def oblique(height: float, degrees: float) -> CutPlane:
    tilt = math.radians(degrees)
    return CutPlane((0.0, 0.0, height), (0.0, math.sin(tilt), math.cos(tilt)))


CASES = {
    "sphere": (sphere(5.0), CutPlane((0, 0, 3.0), (0, 0, 1)), math.pi * 16, 8 * math.pi),
    "tube across": (tube(), CutPlane((0, 0, 11.0), (0, 0, -3.0)), math.pi * 64, 32 * math.pi),
    "tube along": (tube(), CutPlane((0, 0, 0), (1, 0, 0)), 320.0, 2 * (80 + 8)),
    "tube off its axis": (
        tube(), CutPlane((8.0, 0, 0), (1, 0, 0)), 2 * 6 * 40, 2 * (12 + 40),
    ),
    "tube aslant": (tube(), oblique(20.0, 30.0), math.pi * 64 / math.cos(math.radians(30.0)), None),
    "cone": (BRepPrimAPI_MakeCone(axes(), 9.0, 3.0, 12.0).Shape(), CutPlane((0, 0, 4.0), (0, 0, 1)),
             math.pi * 49, 14 * math.pi),
    "torus": (BRepPrimAPI_MakeTorus(axes(), 20.0, 5.0).Shape(), MIDDLE, 400 * math.pi, 80 * math.pi),
    "torus along": (BRepPrimAPI_MakeTorus(axes(), 20.0, 5.0).Shape(), CutPlane((0, 0, 0), (0, 1, 0)),
                    2 * math.pi * 25, 20 * math.pi),
}  # fmt: skip


@pytest.mark.parametrize("name", CASES)
@pytest.mark.parametrize("turned", [False, True])
def test_area_and_perimeter_are_those_of_the_closed_form(name, turned) -> None:
    shape, plane, area, perimeter = CASES[name]
    if turned:
        way, angle, shift = (1.0, 2.0, -0.5), 0.7, (300.0, -40.0, 12.0)
        unit = np.array(way) / np.linalg.norm(way)
        cross = np.array([[0, -unit[2], unit[1]], [unit[2], 0, -unit[0]], [-unit[1], unit[0], 0]])
        turn = np.eye(3) + math.sin(angle) * cross + (1 - math.cos(angle)) * cross @ cross
        matrix = np.eye(4)
        matrix[:3, :3], matrix[:3, 3] = turn, shift
        shape = moved(shape, way, angle, shift)
        plane = plane.seen_from(tuple(np.linalg.inv(matrix).ravel()))
    cut = cut_shape(shape, plane)
    assert cut.area == pytest.approx(area, rel=1e-9)
    if perimeter is not None:
        assert cut.perimeter == pytest.approx(perimeter, rel=1e-9)


def test_a_plane_that_misses_leaves_nothing() -> None:
    assert cut_shape(sphere(5.0), CutPlane((0, 0, 5.1), (0, 0, 1))).shape is None


def test_a_plane_that_grazes_a_bore_leaves_one_outline() -> None:
    cut = cut_shape(tube(), CutPlane((6.0, 0, 0), (1, 0, 0)))
    assert cut.area == pytest.approx(16 * 40, rel=1e-9) and cut.perimeter == pytest.approx(112.0, rel=1e-9)
    assert cut.shape is not None and len(faces_of(cut.shape)) == 1


def test_a_sheet_leaves_lines() -> None:
    box = BRepPrimAPI_MakeBox(gp_Pnt(0, 0, 0), 10.0, 20.0, 30.0).Shape()
    cut = cut_shape(shell_of(faces_of(box)), CutPlane((0, 0, 10.0), (0, 0, 1)))
    assert cut.area == 0.0 and cut.perimeter == pytest.approx(60.0, rel=1e-12)
    assert cut.shape is not None and len(edges_of(cut.shape)) == 4


def test_a_corner_is_cut_on_all_its_planes() -> None:
    cut = Cut((CutPlane((0, 0, 0), (1, 0, 0)), CutPlane((0, 0, 0), (0, 1, 0))))
    areas = [cut_shape(sphere(5.0), p, cut.limits_of(n)).area for n, p in enumerate(cut.planes)]
    assert areas == pytest.approx([math.pi * 25 / 2] * 2, rel=1e-9)
    assert cut.taken(np.array([[1.0, 1, 0], [1, -1, 0], [-1, -1, 0]])).tolist() == [True, False, False]


def test_a_box_keeps_what_is_within_it() -> None:
    cut = box_cut((-1.0, -2.0, -3.0), (1.0, 2.0, 3.0))
    areas = [cut_shape(sphere(50.0), p, cut.limits_of(n)).area for n, p in enumerate(cut.planes)]
    assert areas == pytest.approx([24.0, 24.0, 12.0, 12.0, 8.0, 8.0], rel=1e-9)
    with pytest.raises(ValueError, match="empty"):
        box_cut((0, 0, 0), (1, 0, 1))


def test_a_mesh_is_cut_as_its_facets_are() -> None:
    box = BRepAlgoAPI_Cut(
        BRepPrimAPI_MakeBox(gp_Pnt(0, 0, 0), 10.0, 20.0, 30.0).Shape(),
        BRepPrimAPI_MakeBox(gp_Pnt(2, 2, -1), 3.0, 4.0, 50.0).Shape(),
    ).Shape()
    mesh = tessellated(box, chord=0.1, angle=0.3)
    for height in (10.0, 12.345):
        cut = cut_facets(mesh, CutPlane((1.0, 2.0, height), (0, 0, 1)))
        assert cut.area == pytest.approx(200 - 12, rel=1e-9)
        assert cut.perimeter == pytest.approx(60 + 14, rel=1e-9)
    assert cut.shape is not None and len(faces_of(cut.shape)) == 1


def test_a_ray_goes_on_where_nothing_is_taken_away() -> None:
    start, end = np.array([-10.0, 1.0, 0.0]), np.array([10.0, 1.0, 0.0])
    half = Cut((CutPlane((0, 0, 0), (1, 0, 0)),))
    assert half.left_of(start, end) == ((0.0, 0.5),)
    quarter = Cut((CutPlane((-5, 0, 0), (1, 0, 0)), CutPlane((5, 0, 0), (-1, 0, 0))))
    assert quarter.left_of(start, end) == ((0.0, 0.25), (0.75, 1.0))
    beside = Cut((CutPlane((0, 0, 0), (1, 0, 0)), CutPlane((0, 2, 0), (0, 1, 0))))
    assert beside.left_of(start, end) == ((0.0, 1.0),)
    assert box_cut((-5.0, -5.0, -5.0), (5.0, 5.0, 5.0)).left_of(start, end) == ((0.25, 0.75),)
