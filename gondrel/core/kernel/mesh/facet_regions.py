"""Which facets of a closed mesh lie in one plane, and corners moved into the planes around them."""

from __future__ import annotations

from collections import defaultdict

import numpy as np
from numpy.typing import NDArray

from gondrel.core.model.facets import Facets
from gondrel.core.work.late import late

__all__ = ["flattened", "neighbours", "plane_regions"]

_sparse = late("scipy.sparse")
_csgraph = late("scipy.sparse.csgraph")

Floats = NDArray[np.float64]

_MOST_ROUNDS = 8
_FLUSH = 2e-9
"""How far a corner may be left off a plane, mm."""


def neighbours(mesh: Facets) -> NDArray[np.int64]:
    """(e, 2): the two triangles at each edge of a closed mesh."""
    _, which, _ = mesh.edges()
    order = np.argsort(which, kind="stable")
    return (order // 3).reshape(-1, 2)


def plane_regions(mesh: Facets, tolerance: float) -> NDArray[np.int32]:
    """(m,) int32: which plane face each triangle belongs to."""
    pairs = neighbours(mesh)
    one, other = pairs[:, 0], pairs[:, 1]
    thick = _heights(mesh) >= tolerance
    # A sliver has no plane of its own; it joins a neighbour when its corners lie in that one's plane.
    flat = (_off(mesh, one, other) < tolerance) & thick[other]
    flat |= (_off(mesh, other, one) < tolerance) & thick[one]
    both = thick[one] & thick[other]
    turned = np.einsum("ij,ij->i", mesh.normals[one], mesh.normals[other])
    flat &= ~both | (
        (_off(mesh, one, other) < tolerance) & (_off(mesh, other, one) < tolerance) & (turned > 0)
    )
    count = len(mesh.triangles)
    joined = pairs[flat]
    graph = _sparse.coo_matrix((np.ones(len(joined), np.int8), joined.T), shape=(count, count))
    _, label = _csgraph.connected_components(graph, directed=False)
    return _split_bent(mesh, np.asarray(label, np.int32), tolerance)


def _heights(mesh: Facets) -> Floats:
    """(m,) float64: the least height of each triangle, mm."""
    sides = np.linalg.norm(mesh.corners - np.roll(mesh.corners, -1, axis=1), axis=2)
    return np.asarray(2 * mesh.areas / np.maximum(sides.max(axis=1), 1e-300))


def _off(mesh: Facets, which: NDArray[np.int64], plane: NDArray[np.int64]) -> Floats:
    """How far the corners of some triangles lie off the planes of others, mm."""
    to = mesh.corners[which] - mesh.corners[plane][:, :1]
    return np.asarray(np.abs(np.einsum("ijk,ik->ij", to, mesh.normals[plane])).max(axis=1))


def _split_bent(mesh: Facets, label: NDArray[np.int32], tolerance: float) -> NDArray[np.int32]:
    """Take regions apart whose triangles, though alike from one to the next, lie in no common plane."""
    count = int(label.max()) + 1
    sums = np.zeros((count, 3))
    np.add.at(sums, label, mesh.normals * mesh.areas[:, None])
    normals = sums / np.maximum(np.linalg.norm(sums, axis=1), 1e-300)[:, None]
    heights = np.einsum("ijk,ik->ij", mesh.corners, normals[label])
    low, high = np.full(count, np.inf), np.full(count, -np.inf)
    np.minimum.at(low, label, heights.min(axis=1))
    np.maximum.at(high, label, heights.max(axis=1))
    bent = (high - low > 2 * tolerance)[label]
    if not bent.any():
        return label
    apart = label.copy()
    apart[bent] = count + np.arange(int(bent.sum()))
    _, again = np.unique(apart, return_inverse=True)
    return np.asarray(again.ravel(), np.int32)


def flattened(mesh: Facets, regions: NDArray[np.int32]) -> tuple[Facets, NDArray[np.int32], float]:
    """Corners moved into the planes of the regions around them, and how far at most, mm.

    What a mesh leaves open by its number of digits is settled here, so that edges lie on faces. Where
    the planes around a corner allow no common point, the regions are taken apart again.
    """
    points = mesh.points
    for _ in range(_MOST_ROUNDS):
        merged = np.repeat(np.bincount(regions)[regions] > 1, 3)
        pairs = np.stack([np.repeat(regions, 3), mesh.triangles.ravel()], axis=1)[merged]
        corners: dict[int, set[int]] = defaultdict(set)
        around: dict[int, set[int]] = defaultdict(set)
        for region, point in pairs.tolist():
            corners[region].add(point)
            around[point].add(region)
        planes = {region: _plane_of(mesh.points[list(indices)]) for region, indices in corners.items()}
        points = mesh.points.copy()
        for point, indices in around.items():
            normals = np.array([planes[r][0] for r in indices])
            heights = np.array([planes[r][1] for r in indices]) - normals @ points[point]
            points[point] += np.linalg.lstsq(normals, heights, rcond=1e-6)[0]
        bad = [
            region
            for region, (normal, height) in planes.items()
            if np.abs(points[list(corners[region])] @ normal - height).max() > _FLUSH
        ]
        if not bad:
            break
        apart = np.isin(regions, bad)
        regions = regions.copy()
        regions[apart] = regions.max() + 1 + np.arange(int(apart.sum()))
        _, again = np.unique(regions, return_inverse=True)
        regions = np.asarray(again.ravel(), np.int32)
    else:
        points = mesh.points
        regions = np.arange(len(mesh.triangles), dtype=np.int32)
    moved = float(np.linalg.norm(points - mesh.points, axis=1).max(initial=0.0))
    return Facets(points, mesh.triangles, mesh.groups), regions, moved


def _plane_of(points: Floats) -> tuple[Floats, float]:
    """The plane nearest to points: unit normal and height along it."""
    middle = points.mean(axis=0)
    normal = np.linalg.svd(points - middle, full_matrices=False)[2][-1]
    return normal, float(normal @ middle)
