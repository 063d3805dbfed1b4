"""Points beside the middles of edges, where the face of a loop must lie."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gondrel.core.integral.nodes import Nodes
from gondrel.core.integral.tables import CONE, CYLINDER, PLANE, SPHERE, TORUS, FaceTable

__all__ = ["InnerPoints", "inner_points_of", "normals_at"]

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

_PER_LOOP = 2


@dataclass(frozen=True, slots=True)
class InnerPoints:
    """A point on an edge of each loop, and the ways from there.

    Args:
        face: (n,) index of the face; point: (n, 3) mm; along: (n, 3) unit vector along the loop;
            normal: (n, 3) the face's normal there, not a number on surfaces that are not known here;
            lengths: (edges,) of all edges of the table, mm.
    """

    face: Ints
    point: Floats
    along: Floats
    normal: Floats
    lengths: Floats

    def __len__(self) -> int:
        return len(self.face)


def inner_points_of(table: FaceTable, nodes: Nodes) -> InnerPoints:
    """The middles of the two longest edges of every loop that are not run both ways by its face."""
    sizes = np.linalg.norm(nodes.steps, axis=1)
    owner = np.repeat(np.arange(len(table.edges)), np.diff(nodes.starts))
    length = np.bincount(owner, sizes, len(table.edges)).astype(np.float64)
    pair = table.face * (len(table.edges) + 1) + table.edge
    _, inverse, counts = np.unique(pair, return_inverse=True, return_counts=True)
    single = (counts[inverse] == 1) & (np.diff(nodes.starts)[table.edge] > 0)
    rows = np.flatnonzero(single)
    order = rows[np.lexsort((-length[table.edge[rows]], table.loop[rows]))]
    begins = np.flatnonzero(np.diff(table.loop[order], prepend=-1))
    rank = np.arange(len(order)) - np.repeat(begins, np.diff(begins, append=len(order)))
    chosen = order[rank < _PER_LOOP]
    edge = table.edge[chosen]
    middle = (nodes.starts[edge] + nodes.starts[edge + 1]) // 2
    along = nodes.steps[middle] * table.way[chosen][:, None]
    along /= np.maximum(np.linalg.norm(along, axis=1), 1e-300)[:, None]
    point, face = nodes.points[middle], table.face[chosen]
    return InnerPoints(face, point, along, normals_at(table, face, point), length)


def normals_at(table: FaceTable, face: Ints, point: Floats) -> Floats:
    """Normals of elementary surfaces, turned as the faces are."""
    frame, kind = table.frame[face], table.kind[face]
    local = np.einsum("nij,nj->ni", frame[:, 1:], point - frame[:, 0])
    normals = np.full((len(face), 3), np.nan)
    rho = np.maximum(np.hypot(local[:, 0], local[:, 1]), 1e-300)
    radial = np.column_stack([local[:, 0] / rho, local[:, 1] / rho, np.zeros(len(face))])
    up = np.array([0.0, 0.0, 1.0])
    normals[kind == PLANE] = up
    normals[kind == CYLINDER] = radial[kind == CYLINDER]
    sine = table.sizes[face, 1]
    side = np.where(local[:, 2] < 0, -1.0, 1.0)
    cones = np.sqrt(np.maximum(1 - sine**2, 0.0))[:, None] * radial - (sine * side)[:, None] * up
    normals[kind == CONE] = cones[kind == CONE]
    balls = local / np.maximum(np.linalg.norm(local, axis=1), 1e-300)[:, None]
    normals[kind == SPHERE] = balls[kind == SPHERE]
    tubes = local - radial * table.sizes[face, :1]
    tubes /= np.maximum(np.linalg.norm(tubes, axis=1), 1e-300)[:, None]
    normals[kind == TORUS] = tubes[kind == TORUS]
    turned: Floats = np.einsum("nij,ni->nj", frame[:, 1:], normals) * table.sense[face][:, None]
    return turned
