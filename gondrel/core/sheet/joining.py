"""Ends of curves brought together where they nearly meet."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from gondrel.core.model.outline import Arc, Curve, FlatEllipse, FlatLine, Point, Spline
from gondrel.core.sheet.curve_sizes import ends_of
from gondrel.core.work.late import late

__all__ = ["is_closed", "joined_ends", "with_ends"]

_spatial = late("scipy.spatial")
_graphs = late("scipy.sparse.csgraph")
_sparse = late("scipy.sparse")

Floats = NDArray[np.float64]

_EXACT = 1e-9
_TURN = 2 * math.pi


def is_closed(curve: Curve) -> bool:
    """Whether a curve closes in itself."""
    if isinstance(curve, Arc | FlatEllipse):
        return curve.end - curve.start >= _TURN - 1e-12
    start, end = ends_of(curve)
    return not isinstance(curve, FlatLine) and math.dist(start, end) <= _EXACT


def joined_ends(
    curves: Sequence[Curve], within: float
) -> tuple[list[Curve], list[Point], list[tuple[int, int]], float]:
    """Curves whose ends meet exactly where they came within a distance, mm, of one another.

    Returns: curves, nodes, the nodes of each curve (-1 twice where it is closed in itself), and the widest
        gap that was closed, mm. Where a curve would have shrunk to nothing a node holds both its ends.
    """
    ends = [None if is_closed(curve) else ends_of(curve) for curve in curves]
    points = np.array([end for pair in ends if pair is not None for end in pair]).reshape(-1, 2)
    if not len(points):
        return list(curves), [], [(-1, -1)] * len(curves), 0.0
    pairs = _spatial.cKDTree(points).query_pairs(within, output_type="ndarray")
    links = _sparse.coo_matrix((np.ones(len(pairs)), (pairs[:, 0], pairs[:, 1])), shape=(len(points),) * 2)
    count, groups = _graphs.connected_components(links, directed=False)
    fixed = np.array([not isinstance(c, FlatLine) for c, pair in zip(curves, ends, strict=True) if pair
                      for _ in range(2)])  # fmt: skip
    nodes = np.zeros((count, 2))
    order = np.argsort(groups, kind="stable")
    for members in np.split(order, np.flatnonzero(np.diff(groups[order])) + 1):
        nodes[groups[members[0]]] = _node(points, fixed, members)
    gaps = np.linalg.norm(points - nodes[groups], axis=1)
    made, of, at = [], [], 0
    for curve, pair in zip(curves, ends, strict=True):
        if pair is None:
            made.append(curve)
            of.append((-1, -1))
            continue
        first, last = int(groups[at]), int(groups[at + 1])
        moved = float(gaps[at : at + 2].max()) > _EXACT
        made.append(with_ends(curve, _point(nodes[first]), _point(nodes[last])) if moved else curve)
        of.append((first, last))
        at += 2
    return made, [_point(node) for node in nodes], of, 2.0 * float(gaps.max())


def _node(points: Floats, fixed: NDArray[np.bool_], members: NDArray[np.int64]) -> Floats:
    """Where ends meet: at the end of a curve that is not straight, since lines can follow; else midway."""
    curved = members[fixed[members]]
    if len(curved) and float(np.ptp(points[members], axis=0).max()) > _EXACT:
        return np.asarray(points[curved].mean(axis=0))
    return np.asarray(points[members].mean(axis=0))


def _point(at: Floats) -> Point:
    return float(at[0]), float(at[1])


def with_ends(curve: Curve, start: Point, end: Point) -> Curve:
    """A curve with other ends: an arc keeps its angle, a spline its inner poles, an ellipse is turned and
    scaled."""
    if isinstance(curve, FlatLine):
        return FlatLine(start, end)
    if isinstance(curve, Spline):
        if len(curve.poles) < 3:
            return replace(curve, poles=(start, end))
        return replace(curve, poles=(start, *curve.poles[1:-1], end))
    old = ends_of(curve)
    if math.dist(*old) < _EXACT or math.dist(start, end) < _EXACT:
        return curve
    turn = (complex(*end) - complex(*start)) / (complex(*old[1]) - complex(*old[0]))
    if isinstance(curve, Arc):
        centre = complex(*start) + turn * complex(curve.centre[0] - old[0][0], curve.centre[1] - old[0][1])
        radius = abs(complex(*start) - centre)
        first = math.atan2(start[1] - centre.imag, start[0] - centre.real)
        return Arc((centre.real, centre.imag), radius, first, first + curve.end - curve.start)
    assert isinstance(curve, FlatEllipse)
    centre = complex(*start) + turn * complex(curve.centre[0] - old[0][0], curve.centre[1] - old[0][1])
    major = turn * complex(*curve.major)
    return replace(curve, centre=(centre.real, centre.imag), major=(major.real, major.imag))
