"""What a hit says of the face or edge under it, in the frame of its part."""

from __future__ import annotations

import numpy as np

from gondrel.ui.scene.bodies import Hit
from gondrel.ui.session.arranging import Picked, Vector

__all__ = ["picked_at"]


def picked_at(hit: Hit, edge: int | None) -> Picked:
    """The picked face, or the edge near the hit.

    Middles are those of the triangles or chords they are drawn by, weighted by area and length.
    """
    mesh = hit.placed.mesh
    inverse = np.linalg.inv(hit.placed.matrix)
    point = inverse[:3, :3] @ np.asarray(hit.point, float) + inverse[:3, 3]
    corners = mesh.points[mesh.triangles_of(hit.face)].astype(float)
    crossed = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    areas = np.linalg.norm(crossed, axis=1)
    nearest = int(np.argmin(np.linalg.norm(corners.mean(axis=1) - point, axis=1)))
    normal = crossed[nearest] / (areas[nearest] or 1.0)
    if edge is not None:
        line = mesh.line_of(edge).astype(float)
        lengths = np.linalg.norm(np.diff(line, axis=0), axis=1)
        middle = np.average((line[1:] + line[:-1]) / 2, axis=0, weights=lengths)
    else:
        middle = np.average(corners.mean(axis=1), axis=0, weights=areas)
    what = "face" if edge is None else "edge"
    body, product = (hit.placed.owner or hit.placed).body.id, hit.placed.product
    return Picked(body, product, what, _rounded(middle), _rounded(point), _rounded(normal))


def _rounded(values: np.ndarray) -> Vector:
    """Numbers as people would write them, to a tenth of a micrometre."""
    x, y, z = (round(float(v), 4) + 0.0 for v in values)
    return x, y, z
