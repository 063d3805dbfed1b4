"""Faces made anew, taken away, merged and split; splines made lighter; points within faces."""

from __future__ import annotations

from math import dist, pi

import pytest
from OCP.BRep import BRep_Tool
from OCP.Geom import Geom_BSplineCurve

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.base.shape import edges_of, faces_of, shell_of
from gondrel.core.kernel.examples import broken, flawed
from gondrel.core.kernel.geometry.intersection import Foot
from gondrel.core.kernel.inspect.inspection import inspect_shape
from gondrel.core.kernel.measure.mass import measure
from gondrel.core.kernel.measure.point_on_face import face_at, faces_beneath, inner_point
from gondrel.core.kernel.modelling.build import block, cone, cut, cylinder, fillet, fuse, sphere, turned
from gondrel.core.kernel.repair.disjoin import fuse_solids, take_out
from gondrel.core.kernel.repair.reface import rebuild_faces, remove_faces, remove_steps
from gondrel.core.kernel.repair.regroup import lighten_splines, merge_faces, split_at_kinks
from gondrel.core.kernel.repair.shells import close_open_boundaries, drop_left_over
from gondrel.core.model.product import IDENTITY


def _face_where(shape, axis: int, value: float) -> int:
    body = inspect_shape(shape)
    return next(f.index for f in body.faces if abs(body.middle_of(f.index)[axis] - value) < 1e-6)


def test_an_unsound_face_is_made_within_its_neighbours() -> None:
    shape = broken.unsound_face()
    bad = [f.index for f in inspect_shape(shape).faces if not f.is_valid]
    ((_, made),) = rebuild_faces(shape, bad, 1e-3)
    assert inspect_shape(made).is_valid and measure(made).volume == pytest.approx(20 * 30 * 10)


ROUND = {
    "cylinder": cylinder(5, 20),
    "bored block": cut(block(20, 20, 10), cylinder(4, 30, at=(10, 10, -5))),
    "cone": cone(5, 3, 10),
    "ring": turned(((4.0, 0.0), (6.0, 0.0), (6.0, 3.0), (4.0, 3.0))),
    "crossed": cut(cylinder(5, 20), cylinder(2, 30, at=(0, -15, 10), axis=(0, 1, 0))),
}


@pytest.mark.parametrize("name", ROUND)
def test_any_face_is_made_again_as_it_was(name) -> None:
    """Holes, rims of one edge and seams included: each face of a sound solid in turn."""
    shape = ROUND[name]
    for number in range(len(faces_of(shape))):
        ((_, made),) = rebuild_faces(shape, [number], 1e-3)
        assert inspect_shape(made).is_valid
        assert measure(made).volume == pytest.approx(measure(shape).volume, rel=1e-9)


WALL = next(f.index for f in inspect_shape(ROUND["bored block"]).faces if f.kind == "cylinder")


@pytest.mark.parametrize("number", [n for n in range(7) if n != WALL])
def test_any_rim_of_a_bored_block_is_closed_flat(number) -> None:
    bored = ROUND["bored block"]
    faces = faces_of(bored)
    open_ = shell_of([face for place, face in enumerate(faces) if place != number])
    ((_, made),) = close_open_boundaries([open_], 1e-3)
    assert inspect_shape(made).is_valid
    assert measure(made).volume == pytest.approx(4000 - pi * 16 * 10, rel=1e-9)


def test_a_face_without_neighbours_is_refused() -> None:
    with pytest.raises(KernelRefused, match="no closed rim"):
        rebuild_faces(flawed.bow_tie(), [0], 1e-3)


def test_a_hole_and_a_round_edge_are_removed() -> None:
    """What is left is the block by its edges."""
    bored = cut(block(20, 20, 10), cylinder(4, 30, at=(10, 10, -5)))
    wall = next(f.index for f in inspect_shape(bored).faces if f.kind == "cylinder")
    ((_, made),) = remove_faces(bored, [wall])
    assert measure(made).volume == pytest.approx(4000, rel=1e-12)
    plain = block(20, 20, 10)
    rounded = fillet(plain, 2.0, [edges_of(plain)[0]])
    round_ = next(f.index for f in inspect_shape(rounded).faces if f.kind == "cylinder")
    ((_, made),) = remove_faces(rounded, [round_])
    assert measure(made).volume == pytest.approx(4000, rel=1e-12)


def test_a_step_goes_with_the_smaller_of_its_faces() -> None:
    ledge = flawed.with_ledge(0.006)
    narrow = min(inspect_shape(ledge).faces, key=lambda f: f.area).index
    with pytest.raises(KernelRefused, match="do not meet"):
        remove_faces(ledge, [narrow])
    ((_, made),) = remove_steps(ledge, [narrow])
    assert measure(made).volume == pytest.approx(6000, rel=1e-12)
    assert len(faces_of(made)) == 6


def test_faces_that_can_not_go_stay() -> None:
    with pytest.raises(KernelRefused):
        remove_faces(block(1, 2, 3), [0])
    with pytest.raises(KernelRefused, match="no face"):
        remove_steps(block(1, 2, 3), [])


def test_halves_become_whole_unless_they_look_different() -> None:
    halves = flawed.split_block()
    ((_, made),) = merge_faces(halves, {}, 1e-3)
    assert len(faces_of(made)) == 6 and measure(made).volume == pytest.approx(12_000)
    red = {_face_where(halves, 2, 30.0): "red"}
    ((_, apart),) = merge_faces(halves, red, 1e-3)
    assert len(faces_of(apart)) == 7, "the two halves of the top look different"
    with pytest.raises(KernelRefused, match="no neighbouring"):
        merge_faces(block(1, 2, 3), {}, 1e-3)


def test_only_what_is_pointed_at_is_merged() -> None:
    halves = flawed.split_block()
    top = _face_where(halves, 2, 30.0)
    ((_, made),) = merge_faces(halves, {}, 1e-3, only=[top])
    assert len(faces_of(made)) == len(faces_of(halves)) - 1


def test_a_kinked_curve_becomes_two_that_do_not_bend() -> None:
    ((_, made),) = split_at_kinks(broken.kinked_wire())
    assert len(edges_of(made)) == 2
    assert sum(e.length for e in inspect_shape(made).edges) == pytest.approx(20.0)
    assert not [s for s in inspect_shape(made).splines if s.kink > 0.5]


def test_heavy_splines_get_lighter_within_the_tolerance() -> None:
    ((_, made),) = lighten_splines(broken.heavy_wire(), 15, 1000, 1e-6, 1e-3)
    (curve,) = [BRep_Tool.Curve_s(e, 0.0, 0.0) for e in edges_of(made)] or [None]
    assert isinstance(curve, Geom_BSplineCurve) and curve.Degree() <= 8
    with pytest.raises(KernelRefused):
        lighten_splines(broken.straight_wire((0, 0, 0), (1, 0, 0)), 15, 1000, 1e-6, 1e-3)


def test_crowded_knots_become_one() -> None:
    ((_, made),) = lighten_splines(broken.close_knots_wire(), 15, 1000, 1e-6, 1e-3)
    (spline,) = inspect_shape(made).splines
    assert spline.closest == pytest.approx(0.5)


def test_overlaps_are_cut_or_made_one() -> None:
    """Two blocks of 6000 mm3 that share 4 x 20 x 30 mm."""
    one, other = block(10, 20, 30), block(10, 20, 30, at=(6, 0, 0))
    ((_, less),) = take_out(one, other, IDENTITY)
    assert measure(less).volume == pytest.approx(6000 - 2400, rel=1e-12)
    ((_, both),) = fuse_solids(one, other, IDENTITY)
    assert measure(both).volume == pytest.approx(12_000 - 2400, rel=1e-12)
    with pytest.raises(KernelRefused):
        take_out(one, block(40, 40, 40, at=(-5, -5, -5)), IDENTITY)
    with pytest.raises(KernelRefused):
        fuse_solids(one, block(1, 1, 1, at=(50, 0, 0)), IDENTITY)


def test_a_dome_is_closed_smoothly_or_flat() -> None:
    """A ball of 10 mm without its upper cap: a smooth face rises above the flat one, and has no edge."""
    cap = cut(sphere(10.0), block(40, 40, 20, at=(-20, -20, 6.0)))
    round_ = [f for f in faces_of(cap) if inspect_shape(f).faces[0].kind == "sphere"]
    open_ball = shell_of(round_)
    ((_, flat),) = close_open_boundaries([open_ball], 1e-3)
    height = 10.0 - 6.0
    segment = pi * height**2 * (3 * 10.0 - height) / 3
    assert measure(flat).volume == pytest.approx(4 / 3 * pi * 1000 - segment, rel=1e-6)
    ((_, smooth),) = close_open_boundaries([open_ball], 1e-3, smooth=True)
    assert measure(smooth).volume > measure(flat).volume
    body = inspect_shape(smooth)
    crown = next(f for f in body.faces if f.kind == "bspline")
    rim = next(e for e in body.edges if {face for face, _ in e.coedges} == {0, 1} or len(e.coedges) == 2)
    surface = body.surfaces[crown.index]
    foot = Foot(surface)
    for point in body.along(rim.index)[2:-2]:
        _, normal = foot.at(point)
        assert abs(float(normal @ point)) / 10.0 > 0.999, "it leaves the ball along its tangent planes"


def test_an_edge_that_bounds_nothing_goes() -> None:
    shape = flawed.with_loose_edge()
    assert any(not e.coedges for e in inspect_shape(shape).edges)
    ((_, made),) = drop_left_over(shape)
    assert len(edges_of(made)) == 12 and measure(made).volume == pytest.approx(6000)


def test_faces_are_found_again_by_their_place() -> None:
    before = fuse(block(10, 20, 30), block(10, 10, 10, at=(10, 0, 0)))
    places = [inner_point(face) for face in faces_of(before)]
    assert [face_at(before, place) for place in places] == list(range(len(places)))
    assert face_at(before, (100.0, 0.0, 0.0)) is None
    assert faces_beneath([before], before) == list(range(len(places)))
    bored = cut(block(20, 20, 10), cylinder(9.9, 30, at=(10, 10, -5)))
    top = faces_of(bored)[_face_where(bored, 2, 10.0)]
    assert dist(inner_point(top)[:2], (10, 10)) > 9.9, "not in the hole"
