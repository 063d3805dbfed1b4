"""Walls at the nodes of a body's mesh, for colouring it."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from OCP.TopoDS import TopoDS_Shape

from gondrel.core.kernel.measure.thickness import thickness_map
from gondrel.core.work.late import late

__all__ = ["walls_at_nodes"]

_spatial = late("scipy.spatial")

Floats = NDArray[np.float64]

_MOST, _IN = 4000, 0.25


def walls_at_nodes(
    shape: TopoDS_Shape, points: Floats, triangles: NDArray[np.int32], starts: NDArray[np.int32]
) -> NDArray[np.float32]:
    """The wall at each node, mm; not a number where none was met.

    Measured a quarter of the way from each node to the middle of a triangle, since from the rim of a face
    one would look along its neighbour; of more than 4000 nodes at evenly chosen ones, the others take that
    of the nearest measured node of their face.

    Args:
        points: (n, 3); triangles: (m, 3) into them, face by face; starts: first triangle of each face and
            the end.

    Raises:
        KernelRefused: when the kernel fails over it.
    """
    owners = np.full(len(points), -1)
    faces = np.repeat(np.arange(len(starts) - 1), np.diff(starts))
    middles, inner = points[triangles].mean(axis=1), points.copy()
    for corner in range(3):
        owners[triangles[:, corner]] = faces
        inner[triangles[:, corner]] = points[triangles[:, corner]] * (1 - _IN) + middles * _IN
    used = np.flatnonzero(owners >= 0)
    chosen = used[:: max(1, -(-len(used) // _MOST))]
    walls = np.full(len(points), np.nan)
    walls[chosen] = thickness_map(shape, inner[chosen], owners[chosen].tolist())
    rest = np.setdiff1d(used, chosen)
    for face in np.unique(owners[rest]).tolist() if len(rest) else ():
        here, known = rest[owners[rest] == face], chosen[owners[chosen] == face]
        if len(known):
            _, nearest = _spatial.cKDTree(points[known]).query(points[here])
            walls[here] = walls[known[nearest]]
    return walls.astype(np.float32)
