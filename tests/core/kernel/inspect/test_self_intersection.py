"""Looks inside splines, narrow places and threads, against shapes whose figures are known by hand."""

from __future__ import annotations

import numpy as np
import pytest
from OCP.BRep import BRep_Tool

from gondrel.core.kernel.base.shape import edges_of, faces_of
from gondrel.core.kernel.examples import flawed
from gondrel.core.kernel.examples.broken import spline_sheet
from gondrel.core.kernel.inspect.inspection import inspect_shape
from gondrel.core.kernel.inspect.narrow import necks_of
from gondrel.core.kernel.inspect.self_intersection import (
    crossings_of_curves,
    crossings_of_surfaces,
    folds_of_surfaces,
    is_gentle,
    uneven_splines,
)
from gondrel.core.kernel.inspect.threads import helices_of, round_faces_of
from gondrel.core.kernel.modelling.build import block, cut, cylinder, sphere, turned


def test_a_curve_meets_itself_in_one_point() -> None:
    """The loop is symmetric about x = 10, so it crosses there; both branches pass the point found."""
    shape = flawed.crossing_curve()
    ((edge, at),) = crossings_of_curves(inspect_shape(shape))
    assert edge == 0 and at[0] == pytest.approx(10.0, abs=1e-3) and at[2] == 0.0
    curve = BRep_Tool.Curve_s(edges_of(shape)[0], 0.0, 0.0)
    ts = np.linspace(curve.FirstParameter(), curve.LastParameter(), 20001)
    away = [np.linalg.norm(np.subtract(curve.Value(float(t)).Coord(), at)) for t in ts]
    passes = ts[np.array(away) < 1e-2]
    assert np.ptp(passes) > 1.0, "it is passed at two parameters far from one another"


@pytest.mark.parametrize("make", [flawed.smooth_curve, flawed.uneven_curve])
def test_other_curves_do_not(make) -> None:
    assert crossings_of_curves(inspect_shape(make())) == []


def test_a_surface_meets_itself_where_its_profile_does() -> None:
    ((face, at),) = crossings_of_surfaces(inspect_shape(flawed.crossing_surface()))
    ((_, meant),) = crossings_of_curves(inspect_shape(flawed.crossing_curve()))
    assert face == 0 and at[0] == pytest.approx(10.0, abs=1e-2)
    assert at[2] == pytest.approx(meant[1], abs=1e-2), "the profile is that curve, upright"
    assert 0.0 <= at[1] <= 12.0


@pytest.mark.parametrize("make", [flawed.folded_surface, lambda: spline_sheet(3.0)])
def test_a_fold_or_a_bump_is_no_crossing_line(make) -> None:
    found = crossings_of_surfaces(inspect_shape(make()))
    folds = folds_of_surfaces(inspect_shape(make()))
    assert bool(folds) == (make is flawed.folded_surface)
    assert not found or folds, "a surface that lies on itself may be called either"


def test_nets_that_show_a_graph_need_no_samples() -> None:
    (face,) = faces_of(spline_sheet(3.0))
    assert is_gentle(BRep_Tool.Surface_s(face))
    (folded,) = faces_of(flawed.folded_surface())
    assert not is_gentle(BRep_Tool.Surface_s(folded))


def test_uneven_splines_are_told_with_their_ratio() -> None:
    """A cubic's derivative has poles 3 (P[i+1] - P[i]) / (t[i+4] - t[i+1]): here from 0.001 mm at the
    slow start to 60 mm at the end, so the ratio is at most 60,000 and, between the ends alone, 20,000."""
    (found,) = uneven_splines(inspect_shape(flawed.uneven_curve()), 2000.0)
    assert 20_000 < found.ratio < 60_000 and not found.is_face
    assert uneven_splines(inspect_shape(flawed.smooth_curve()), 2000.0) == []


@pytest.mark.parametrize("width", [0.001, 0.004, 0.009])
def test_a_land_is_as_narrow_as_it_was_made(width) -> None:
    necks = list(necks_of(inspect_shape(flawed.narrow_land(width)), 0.01))
    assert necks and min(neck.width for neck in necks) == pytest.approx(width, rel=1e-6)
    assert all(abs(neck.at[1] - 10.0) < 1e-3 for neck in necks), "beside the hole's middle"


@pytest.mark.parametrize(
    "make", [lambda: flawed.narrow_land(0.05), lambda: block(1, 1, 1), lambda: sphere(3)]
)
def test_wide_faces_have_no_narrow_place(make) -> None:
    assert list(necks_of(inspect_shape(make()), 0.01)) == []


@pytest.mark.parametrize(("diameter", "pitch"), [(10.0, 1.5), (24.0, 3.0), (3.0, 0.5)])
def test_a_helix_has_its_diameter_and_pitch(diameter, pitch) -> None:
    found = list(helices_of(inspect_shape(flawed.helix_on(diameter, pitch, 3.0))))
    assert found and all(h.diameter == pytest.approx(diameter, rel=1e-3) for h in found)
    assert all(h.pitch == pytest.approx(pitch, rel=1e-3) for h in found)
    assert all(h.turns == pytest.approx(3.0, rel=1e-3) for h in found)


def test_rings_are_no_helices() -> None:
    ring = turned(((4.0, 0.0), (6.0, 0.0), (6.0, 3.0), (4.0, 3.0)))
    assert list(helices_of(inspect_shape(ring))) == []
    assert list(helices_of(inspect_shape(flawed.crossing_curve()))) == []


def test_holes_and_shafts_are_told_apart() -> None:
    bored = cut(cylinder(10, 20), cylinder(4, 30, at=(0, 0, -5)))
    found = {round(f.diameter, 6): f.is_hole for f in round_faces_of(inspect_shape(bored))}
    assert found == {20.0: False, 8.0: True}
