"""The picture and the description of a mesh body, as those of a B-rep are given."""

from __future__ import annotations

import numpy as np

from gondrel.core.kernel.mesh.triangulation import Mesh
from gondrel.core.model.detail import BodyDetail
from gondrel.core.model.facets import Facets

__all__ = ["describe_facets", "mesh_of_facets"]

_MOST_DETAIL = 20_000


def mesh_of_facets(facets: Facets) -> Mesh:
    """The triangles as a picture: flat facets, lines where the surface bends or is open.

    Each group of triangles is one face of the picture; nothing is known of single facets beyond it.
    """
    order = np.argsort(facets.groups, kind="stable")
    corners = facets.corners[order].reshape(-1, 3)
    normals = np.repeat(facets.normals[order], 3, axis=0)
    groups = facets.groups[order]
    count = int(facets.groups.max(initial=-1)) + 1
    starts = np.searchsorted(groups, np.arange(count + 1)).astype(np.int32)
    lines = facets.points[facets.creases()].reshape(-1, 3)
    return Mesh(
        points=corners.astype(np.float32),
        normals=normals.astype(np.float32),
        triangles=np.arange(len(corners), dtype=np.int32).reshape(-1, 3),
        face_starts=starts,
        edge_points=lines.astype(np.float32),
        edge_starts=np.arange(0, len(lines) + 1, 2, dtype=np.int32),
        chord=0.0,
    )


def describe_facets(facets: Facets) -> BodyDetail:
    """What the faces of the picture are: groups of facets with their area, mm2."""
    count = int(facets.groups.max(initial=-1)) + 1
    areas = np.bincount(facets.groups, weights=facets.areas, minlength=count)
    ends = facets.points[facets.creases()[:_MOST_DETAIL]]
    lengths = np.linalg.norm(ends[:, 0] - ends[:, 1], axis=1)
    return BodyDetail(
        ("facets",) * count,
        tuple(float(a) for a in areas),
        ((),) * count,
        (0.0,) * count,
        ("line",) * len(ends),
        tuple(float(v) for v in lengths),
        (0.0,) * len(ends),
    )
