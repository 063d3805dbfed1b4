"""Holes of made parts, counted by hand."""

import pytest
from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse
from OCP.BRepBuilderAPI import BRepBuilderAPI_NurbsConvert
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeCone, BRepPrimAPI_MakeCylinder
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt

from gondrel.core.kernel.measure.holes import holes_of


def drill(at, radius, depth, way=(0, 0, -1)):
    return BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(*at), gp_Dir(*way)), radius, depth).Shape()


def block(*tools):
    shape = BRepPrimAPI_MakeBox(90.0, 60.0, 10.0).Shape()
    for tool in tools:
        shape = BRepAlgoAPI_Cut(shape, tool).Shape()
    return shape


def told(shape):
    return [(round(h.diameter, 6), round(h.depth, 6), h.is_through) for h in holes_of(shape)]


@pytest.mark.parametrize("is_spline", [False, True])
def test_through_blind_and_stepped_holes(is_spline) -> None:
    shape = block(
        drill((20, 20, 11), 2.5, 30), drill((45, 15, 10), 3.5, 6), drill((70, 40, 11), 3.0, 30),
        drill((70, 40, 10), 6.0, 4),
    )  # fmt: skip
    if is_spline:
        shape = BRepBuilderAPI_NurbsConvert(shape).Shape()
    assert told(shape) == [(5.0, 10.0, True), (6.0, 6.0, True), (7.0, 6.0, False), (12.0, 4.0, False)]
    blind = holes_of(shape)[2]
    assert blind.point == pytest.approx((45, 15, 10)) and blind.direction == pytest.approx((0, 0, -1))


def test_a_drill_point_ends_a_hole() -> None:
    tip = BRepPrimAPI_MakeCone(gp_Ax2(gp_Pnt(45, 30, 4), gp_Dir(0, 0, -1)), 4.0, 0.0, 2.4).Shape()
    assert told(block(BRepAlgoAPI_Fuse(drill((45, 30, 12), 4.0, 8), tip).Shape())) == [(8.0, 6.0, False)]


def test_a_hole_that_crosses_others_is_one() -> None:
    shape = block(drill((-1, 30, 5), 2.0, 100, (1, 0, 0)), drill((45, 30, 11), 3.0, 30))
    assert told(shape) == [(4.0, 90.0, True), (6.0, 10.0, True)]


def test_bosses_grooves_and_recesses_round_a_hub_are_none() -> None:
    boss = BRepAlgoAPI_Fuse(block(), drill((45, 30, 20), 8.0, 15)).Shape()
    groove = block(drill((-1, 30, 10), 3.0, 100, (1, 0, 0)))
    hub = BRepAlgoAPI_Fuse(block(drill((45, 30, 10), 20.0, 4)), drill((45, 30, 10), 6.0, 4)).Shape()
    assert [told(shape) for shape in (boss, groove, hub)] == [[], [], []]
