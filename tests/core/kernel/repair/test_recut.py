"""Edges laid where surfaces meet, and splines that become the analytic surfaces they lie on."""

from __future__ import annotations

from math import pi, sqrt

import pytest
from OCP.BRepBuilderAPI import BRepBuilderAPI_NurbsConvert

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.examples.broken import shifted_plane, spline_sheet
from gondrel.core.kernel.examples.flawed import edge_too_short_for_its_end
from gondrel.core.kernel.inspect.inspection import inspect_shape
from gondrel.core.kernel.measure.mass import measure
from gondrel.core.kernel.modelling.build import block, cone, cut, cylinder, sphere, torus
from gondrel.core.kernel.repair.recut import recut_edges, to_analytic, widest_gap

SOLIDS = {
    "cylinder": (lambda: cylinder(5, 20), pi * 25 * 20, {"cylinder", "plane"}),
    "cone": (lambda: cone(5, 3, 10), pi * 10 / 3 * (25 + 15 + 9), {"cone", "plane"}),
    "sphere": (lambda: sphere(5), 4 / 3 * pi * 125, {"sphere"}),
    "torus": (lambda: torus(10, 2), 2 * pi**2 * 10 * 4, {"torus"}),
    "bored block": (
        lambda: cut(block(20, 20, 20), cylinder(5, 30, at=(10, 10, -5))),
        8000 - pi * 25 * 20,
        {"cylinder", "plane"},
    ),
}
"""Volumes by the closed forms of solid geometry, mm3."""


@pytest.mark.parametrize("name", SOLIDS)
def test_splines_become_the_surfaces_they_lie_on(name) -> None:
    make, volume, kinds = SOLIDS[name]
    splines = BRepBuilderAPI_NurbsConvert(make(), True).Shape()
    assert {face.kind for face in inspect_shape(splines).faces} == {"bspline"}
    ((_, made),) = to_analytic(splines, 1e-3)
    body = inspect_shape(made)
    assert {face.kind for face in body.faces} == kinds
    assert body.is_valid and measure(made).volume == pytest.approx(volume, rel=1e-10)
    assert widest_gap(made) < 1e-9


def test_a_true_spline_is_left_alone() -> None:
    with pytest.raises(KernelRefused, match="no spline face"):
        to_analytic(spline_sheet(3.0), 1e-3)


@pytest.mark.parametrize("by", [0.05, 0.3, -0.2])
def test_edges_follow_a_plane_that_was_moved(by) -> None:
    """A block of 20 x 30 x 10 mm whose top lies higher by a length."""
    ((_, made),) = recut_edges(shifted_plane(by), 0.01)
    assert measure(made).volume == pytest.approx(20 * 30 * (10 + by), rel=1e-12)
    assert inspect_shape(made).is_valid and widest_gap(made) < 1e-9


def test_an_edge_that_ends_early_is_laid_anew() -> None:
    broken = edge_too_short_for_its_end(0.06)
    assert widest_gap(broken) == pytest.approx(0.06, rel=1e-6)
    ((_, made),) = recut_edges(broken, 0.01)
    assert widest_gap(made) < 1e-9
    assert measure(made).volume == pytest.approx(6000, rel=1e-12)


def test_what_fits_is_not_recut() -> None:
    with pytest.raises(KernelRefused, match="no edge"):
        recut_edges(block(1, 2, 3), 0.01)


def test_edges_between_round_surfaces_lie_on_both() -> None:
    """Two cylinders that cross: their edges are no conics, and lie within 1e-5 mm of both."""
    crossed = cut(cylinder(5, 20), cylinder(3, 30, at=(0, -15, 10), axis=(0, 1, 0)))
    splines = BRepBuilderAPI_NurbsConvert(crossed, True).Shape()
    ((_, made),) = to_analytic(splines, 1e-3)
    assert widest_gap(made) < 1e-5
    assert measure(made).volume == pytest.approx(measure(crossed).volume, rel=1e-8)
    assert sqrt(measure(made).area) == pytest.approx(sqrt(measure(crossed).area), rel=1e-6)
