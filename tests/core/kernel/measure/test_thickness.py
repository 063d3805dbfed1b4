"""Walls against closed forms."""

import math

import numpy as np
import pytest
from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse
from OCP.BRepPrimAPI import (
    BRepPrimAPI_MakeBox,
    BRepPrimAPI_MakeCone,
    BRepPrimAPI_MakeCylinder,
    BRepPrimAPI_MakeSphere,
)
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt

from gondrel.core.kernel.base.shape import faces_of
from gondrel.core.kernel.measure.thickness import thickness_at, thickness_map, thinnest
from tests.shapes import axes


def bar(radius, height, at=0.0):
    return BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(0, 0, at), gp_Dir(0, 0, 1)), radius, height).Shape()


def stepped_tube():
    """Outer radii 10 and 8, bore of radius 6.75: walls of 3.25 and 1.25 mm."""
    return BRepAlgoAPI_Cut(BRepAlgoAPI_Fuse(bar(10, 20), bar(8, 50)).Shape(), bar(6.75, 50)).Shape()


def test_a_stepped_tube() -> None:
    wall = thinnest(stepped_tube())
    assert wall.least == pytest.approx(1.25, rel=1e-9) and wall.measured > 50
    radii = sorted(math.hypot(x, y) for x, y, _ in wall.points)
    assert radii == pytest.approx([6.75, 8.0], rel=1e-9) and wall.points[0][2] > 20


def test_the_thinnest_place_is_gone_to() -> None:
    """A ball that is hollowed out off its middle is thinnest where the two skins are nearest."""
    outer = BRepPrimAPI_MakeSphere(gp_Pnt(0, 0, 0), 20.0).Shape()
    shell = BRepAlgoAPI_Cut(outer, BRepPrimAPI_MakeSphere(gp_Pnt(3.0, 2.0, -1.0), 12.0).Shape()).Shape()
    assert thinnest(shell).least == pytest.approx(8.0 - math.sqrt(14.0), rel=1e-9)


def test_at_a_point_and_as_a_map() -> None:
    tube = stepped_tube()
    walls = {}
    for number, (u, z) in enumerate([(0.3, 35.0), (2.0, 10.0)]):
        radius = (8.0, 10.0)[number]
        point = (radius * math.cos(u), radius * math.sin(u), z)
        for face in range(len(faces_of(tube))):
            found = thickness_at(tube, face, point)
            if found.least is not None and math.dist(found.points[0], point) < 1e-6:
                walls[number] = found.least
                mapped = thickness_map(tube, np.array([point]), [face])
                assert mapped[0] == pytest.approx(found.least, rel=1e-12)
    assert walls == {0: pytest.approx(1.25, rel=1e-9), 1: pytest.approx(3.25, rel=1e-9)}


def test_a_knife_edge_is_no_wall_and_a_block_has_its_least_side() -> None:
    assert thinnest(BRepPrimAPI_MakeBox(30.0, 7.0, 20.0).Shape()).least == pytest.approx(7.0, rel=1e-12)
    cone = BRepPrimAPI_MakeCone(axes(), 20.0, 0.0, 15.0).Shape()
    least = thinnest(cone).least
    assert least is None or least > 1.0, (
        "its rim is an edge of 37 degrees, its tip wider than a right angle"
    )
