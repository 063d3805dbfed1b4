"""Faces whose loops run the wrong way round, told from the loops themselves.

A face lies on both sides of an edge that it runs along twice, its seam. Where a loop leaves for the seam
to the right, seen against the normal, the loop or the normal is turned round; on a surface that closes
in itself the face would else be all but what is meant.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from gondrel.core.integral.inner_points import normals_at
from gondrel.core.integral.patches import feet_on
from gondrel.core.integral.splines import spline_points
from gondrel.core.integral.tables import ARC, LINE, SPLINE, EdgeTable, FaceTable

__all__ = ["seams_outside", "with_loops_turned", "with_normals_turned"]

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Flags = NDArray[np.bool_]


def seams_outside(table: FaceTable) -> Flags:
    """Faces whose seams lie to the right of their loops, (faces,).

    Source: ISO 10303-42, face_bound (the face lies to the left) and seam edges (used twice by a face).
    """
    outside = np.zeros(len(table), bool)
    if not len(table.edge):
        return outside
    twice = _run_twice(table)
    after = _next_in_loop(table.loop)
    rows = np.flatnonzero(~twice & twice[after])
    if not len(rows):
        return outside
    ends, leaves = _tangents(table, rows, at_end=True), _tangents(table, after[rows], at_end=False)
    points = _corner(table, rows)
    normals = normals_at(table, table.face[rows], points)
    for row in np.flatnonzero(np.isnan(normals[:, 0])).tolist():
        normals[row] = _patch_normal(table, int(table.face[rows[row]]), points[row])
    left = np.cross(normals, ends)
    side = np.einsum("ij,ij->i", left, leaves)
    clear = np.isfinite(side) & (np.abs(side) > 1e-6)
    faces, sides = table.face[rows[clear]], np.sign(side[clear])
    total = np.bincount(faces, sides, len(table))
    count = np.bincount(faces, minlength=len(table))
    return np.asarray((count > 0) & (total == -count))


def _patch_normal(table: FaceTable, face: int, point: Floats) -> Floats:
    """The normal of a face on a patch at a point of it; not a number where that is not known."""
    edges = table.edge[table.face == face]
    make = table.patches.get(face)
    patch = make(table.edges.ends[edges].reshape(-1, 3)) if make is not None else None
    if patch is None:
        return np.full(3, np.nan)
    u, v, _ = feet_on(patch, point[None])
    _, du, dv = patch.at(u, v)
    normal = np.cross(du[0], dv[0]) * table.sense[face]
    size = float(np.linalg.norm(normal))
    return normal / size if size > 0 else np.full(3, np.nan)


def with_loops_turned(table: FaceTable, faces: Flags) -> FaceTable:
    """The table with the loops of some faces run the other way round."""
    order = np.arange(len(table.loop))
    chosen = np.flatnonzero(faces[table.face])
    begins = np.flatnonzero(np.diff(table.loop[chosen], prepend=-1))
    for run in np.split(chosen, begins[1:]) if len(chosen) else ():
        order[run] = run[::-1]
    way = np.where(faces[table.face], -table.way[order], table.way)
    return replace(table, edge=table.edge[order], way=way)


def with_normals_turned(table: FaceTable, faces: Flags) -> FaceTable:
    """The table with the normals of some faces turned round."""
    return replace(table, sense=np.where(faces, -table.sense, table.sense))


def _run_twice(table: FaceTable) -> Flags:
    pair = table.face * (len(table.edges) + 1) + table.edge
    _, inverse, counts = np.unique(pair, return_inverse=True, return_counts=True)
    return np.asarray(counts[inverse] > 1)


def _next_in_loop(loop: Ints) -> Ints:
    """The row that follows each in its loop."""
    after = np.arange(1, len(loop) + 1)
    last = np.flatnonzero(np.diff(loop, append=-1))
    first = np.flatnonzero(np.diff(loop, prepend=-1))
    after[last] = first
    return after


def _corner(table: FaceTable, rows: Ints) -> Floats:
    """Where some coedges end."""
    corners: Floats = table.edges.ends[table.edge[rows], np.where(table.way[rows] > 0, 1, 0)]
    return corners


def _tangents(table: FaceTable, rows: Ints, *, at_end: bool) -> Floats:
    """Directions in which some coedges are run where they begin or end."""
    edge, way = table.edge[rows], table.way[rows]
    side = np.where((way > 0) == at_end, 1, 0)
    tangents = _slopes(table.edges, edge, side) * way[:, None]
    unit: Floats = tangents / np.maximum(np.linalg.norm(tangents, axis=1), 1e-300)[:, None]
    return unit


def _slopes(edges: EdgeTable, rows: Ints, side: Ints) -> Floats:
    """Derivatives of edges, from start to end, at their start (0) or end (1)."""
    slopes = np.full((len(rows), 3), np.nan)
    kind = edges.kind[rows]
    lines = kind == LINE
    slopes[lines] = edges.ends[rows[lines], 1] - edges.ends[rows[lines], 0]
    arcs = kind == ARC
    span = edges.span[rows[arcs]]
    angle = span[np.arange(len(span)), side[arcs]]
    slope = np.cos(angle)[:, None] * edges.frame[rows[arcs], 2]
    slope -= np.sin(angle)[:, None] * edges.frame[rows[arcs], 1]
    slopes[arcs] = slope * np.sign(span[:, 1] - span[:, 0])[:, None]
    for place in np.flatnonzero(kind == SPLINE).tolist():
        path = edges.splines[int(rows[place])]
        at = path.last if side[place] else path.first
        slopes[place] = spline_points(path, np.array([at]))[1][0] * np.sign(path.last - path.first)
    return slopes
