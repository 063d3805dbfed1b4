"""Plane regions of meshes made by formula, and corners settled into their planes."""

from __future__ import annotations

import numpy as np
import pytest

from gondrel.core.kernel.mesh.facet_regions import flattened, neighbours, plane_regions
from gondrel.core.model.facets import Facets
from tests.core.formats.meshes.shapes import cube, globe

WITHIN = 1e-4


def noisy(mesh: Facets, by: float, seed: int = 2) -> Facets:
    chance = np.random.default_rng(seed)
    return Facets(mesh.points + chance.uniform(-by, by, mesh.points.shape), mesh.triangles, mesh.groups)


def test_every_edge_of_a_closed_mesh_has_two_triangles() -> None:
    mesh = cube(10.0)
    pairs = neighbours(mesh)
    assert pairs.shape == (18, 2), "12 edges and 6 diagonals"
    assert np.bincount(pairs.ravel()).tolist() == [3] * 12
    assert (pairs[:, 0] != pairs[:, 1]).all()


def test_a_cube_has_six_regions_of_two_triangles() -> None:
    regions = plane_regions(cube(10.0), WITHIN)
    assert np.bincount(regions).tolist() == [2] * 6
    mesh = cube(10.0)
    for region in range(6):
        normals = mesh.normals[regions == region]
        assert normals[0] == pytest.approx(normals[1])


def test_facets_of_a_ball_stay_single_where_they_bend() -> None:
    """Of 8 rings by 12 sectors only the two triangles of each flat quadrilateral lie in one plane."""
    mesh = globe(20.0, 8, 12)
    regions = plane_regions(mesh, WITHIN)
    counts = np.bincount(regions)
    assert sorted(set(counts.tolist())) == [1, 2]
    assert (counts == 1).sum() == 2 * 12, "those at the poles"
    assert (counts == 2).sum() == 6 * 12


@pytest.mark.parametrize("by", [1e-6, 2e-5])
def test_corners_are_settled_into_their_planes(by) -> None:
    """Digits that a file leaves out: every corner moves by no more than it was off."""
    mesh = noisy(cube(10.0), by)
    regions = plane_regions(mesh, WITHIN)
    settled, kept, moved = flattened(mesh, regions)
    assert np.bincount(kept).tolist() == [2] * 6 and 0 < moved < 10 * by
    for region in range(6):
        corners = settled.corners[kept == region].reshape(-1, 3)
        normal = settled.normals[kept == region][0]
        assert np.ptp(corners @ normal) < 5e-9
    exact, _, nothing = flattened(cube(10.0), plane_regions(cube(10.0), WITHIN))
    assert nothing < 1e-12 and exact.points == pytest.approx(cube(10.0).points)


def test_noise_above_the_tolerance_keeps_facets_apart() -> None:
    regions = plane_regions(noisy(cube(10.0), 0.05), WITHIN)
    assert len(set(regions.tolist())) > 6


def test_a_long_strip_that_bends_a_little_at_a_time_is_no_plane() -> None:
    """A ball of very many facets: neighbours are alike, but no region spreads over the whole."""
    mesh = globe(20.0, 60, 90)
    regions = plane_regions(mesh, 0.02)
    for region in np.unique(regions)[:200]:
        corners = mesh.corners[regions == region].reshape(-1, 3)
        middle = corners.mean(axis=0)
        normal = np.linalg.svd(corners - middle, full_matrices=False)[2][-1]
        assert np.ptp(corners @ normal) <= 0.05
