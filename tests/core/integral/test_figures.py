"""Areas and volumes from boundaries alone, against closed forms; no kernel has a part in the figures."""

from __future__ import annotations

import math

import numpy as np
import pytest
from numpy.testing import assert_allclose

from gondrel.core.integral.figures import figures_of
from gondrel.core.integral.patches import SplinePatch, closed_ways, feet_on, has_poles
from gondrel.core.integral.plain import boundary_outline, table_of
from gondrel.core.integral.splines import Basis, SplinePath, spline_points, trimmed_spline
from gondrel.core.kernel.base.shape import split_bodies
from gondrel.core.kernel.convert.boundary_out import boundary_of
from tests.shapes import Made, all_made

SHAPES = {made.name: made for made in all_made()}


@pytest.mark.parametrize("name", list(SHAPES))
def test_closed_forms(name: str) -> None:
    """Each made shape, described plainly: area and volume to 1e-9, of splines to 1e-7."""
    made: Made = SHAPES[name]
    boundary = boundary_of(split_bodies(made.make())[0][1]).boundary
    area, volume = boundary_outline(boundary).whole
    # an apple, which crosses itself, is described by splines
    tolerance = 1e-7 if made.is_spline or name.startswith("apple") else 1e-9
    if math.isnan(area):
        pytest.skip("a surface that meets itself both ways is not told")
    assert area == pytest.approx(made.area, rel=tolerance)
    assert volume == pytest.approx(made.volume, rel=tolerance)


def test_skips_are_few() -> None:
    """What is not told stays the exception: what meets itself both ways."""
    silent = [
        name
        for name, made in SHAPES.items()
        if math.isnan(boundary_outline(boundary_of(split_bodies(made.make())[0][1]).boundary).whole[0])
    ]
    assert silent == ["lemon", "torus of splines", "lemon mirrored"]


def test_a_loop_that_runs_the_wrong_way_has_an_area_below_zero() -> None:
    boundary = boundary_of(split_bodies(SHAPES["cylinder"].make())[0][1]).boundary
    table = table_of(boundary)
    flipped = type(table)(
        *(getattr(table, f) for f in ("kind", "frame", "sizes", "sense", "face", "loop", "edge")),
        -table.way, table.edges, table.numbers,
    )  # fmt: skip
    before, after = figures_of(table), figures_of(flipped)
    assert (before.area > 0).all() and (after.area < 0).all()
    assert_allclose(after.area, -before.area, rtol=1e-12)
    assert boundary_outline(boundary).wrong.sum() == 0


def test_spline_functions_are_the_same_from_knots_and_from_polynomials() -> None:
    basis = Basis(np.array([0, 0, 0, 0, 0.2, 0.5, 0.5, 1, 1, 1, 1.0]), 3)
    at = np.linspace(0, 1, 37)
    first = basis.at(at)
    for _ in range(5):
        again = basis.at(at)
    for one, other in zip(first, again, strict=True):
        assert_allclose(one, other, atol=1e-10)
    assert_allclose(first[1].sum(axis=1), 1.0, atol=1e-13)
    assert_allclose(first[2].sum(axis=1), 0.0, atol=1e-11)


def test_a_rational_quarter_circle_and_a_stretch_of_it() -> None:
    root = math.sqrt(0.5)
    poles = np.array([[1, 0, 0], [1, 1, 0], [0, 1, 0.0]])
    path = SplinePath.whole(np.array([0, 0, 0, 1, 1, 1.0]), 2, poles, np.array([1, root, 1]))
    points, slopes = spline_points(path, np.linspace(0, 1, 9))
    assert_allclose(np.linalg.norm(points, axis=1), 1.0, atol=1e-14)
    assert_allclose(np.einsum("ij,ij->i", points, slopes), 0.0, atol=1e-13)
    ends = np.array([[math.cos(a), math.sin(a), 0] for a in (0.3, 1.1)])
    part = trimmed_spline(path, ends, True)
    assert part is not None and part.last > part.first
    assert_allclose(spline_points(part, np.array([part.first, part.last]))[0], ends, atol=1e-12)
    back = trimmed_spline(path, ends, False)
    assert back is not None and back.first == part.last
    assert trimmed_spline(path, ends + 1.0, True) is None


def test_feet_on_a_bent_patch() -> None:
    knots = np.array([0, 0, 0, 1, 1, 1.0])
    u, v = np.meshgrid([0, 5, 10.0], [0, 5, 10.0], indexing="ij")
    patch = SplinePatch(Basis(knots, 2), Basis(knots, 2), np.dstack([u, v, 0.1 * u * v]), None)
    at = np.random.default_rng(1).uniform(0.05, 0.95, (50, 2))
    points, du, dv = patch.at(at[:, 0], at[:, 1])
    normal = np.cross(du, dv)
    lifted = points + 0.3 * normal / np.linalg.norm(normal, axis=1)[:, None]
    found_u, found_v, away = feet_on(patch, lifted)
    assert_allclose(np.column_stack([found_u, found_v]), at, atol=1e-8)
    assert_allclose(away, 0.3, atol=1e-9)
    assert closed_ways(patch) == (False, False) and has_poles(patch) == (False, False)
