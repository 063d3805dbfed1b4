"""Places where a face is narrower than told apart, though its edges there are no neighbours."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from OCP.BRepExtrema import BRepExtrema_DistShapeShape

from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.geometry.distance import chords_apart
from gondrel.core.kernel.inspect.inspection import Inspection

__all__ = ["Neck", "necks_of"]

Floats = NDArray[np.float64]
Pair = tuple[int, int, int]
"""A face and two of its edges."""

_PAIRS_AT_ONCE = 2_000
_MOST_AT_ONCE = 2_000_000


@dataclass(frozen=True, slots=True)
class Neck:
    """Two edges of a face that come near: how near (mm), and where."""

    face: int
    edges: tuple[int, int]
    width: float
    at: tuple[float, float, float]


def necks_of(body: Inspection, limit: float) -> Iterator[Neck]:
    """Edges of one face without a common vertex that come nearer to one another than a limit, mm.

    Source: own: boxes, then points, then chords along them, and the kernel's exact distance for the rest.
    """
    with kernel_call("looking for narrow places"):
        yield from list(_necks(body, limit))


def _necks(body: Inspection, limit: float) -> Iterator[Neck]:
    shapes = body.edge_shapes
    around: dict[int, list[int]] = {}
    for edge in body.edges:
        if not edge.is_degenerate:
            for face, _ in edge.coedges:
                if edge.length >= limit and edge.index not in around.setdefault(face, []):
                    around[face].append(edge.index)
    ends = np.array([edge.ends for edge in body.edges]).reshape(-1, 2)
    pairs = list(_near(around, _boxes(body), limit, ends))
    for face, i, j in _not_apart(body, pairs, limit):
        extrema = BRepExtrema_DistShapeShape(shapes[i], shapes[j])
        if extrema.IsDone() and extrema.NbSolution() and extrema.Value() < limit:
            at = extrema.PointOnShape1(1)
            where = (float(at.X()), float(at.Y()), float(at.Z()))
            yield Neck(face, (i, j), float(extrema.Value()), where)


def _not_apart(body: Inspection, pairs: list[Pair], limit: float) -> Iterator[Pair]:
    """Those pairs of edges that chords along them do not show to lie apart; looked at together."""
    points = body.samples
    between = np.linalg.norm(np.diff(points, axis=1), axis=2).max(axis=1, initial=0.0)
    bulges = np.linalg.norm(points[:, 1:-1:2] - (points[:, :-2:2] + points[:, 2::2]) / 2, axis=2)
    off = bulges.max(axis=1, initial=0.0)
    for start in range(0, len(pairs), _PAIRS_AT_ONCE):
        some = np.array(pairs[start : start + _PAIRS_AT_ONCE])
        one, other = some[:, 1], some[:, 2]
        away = points[one][:, :, None] - points[other][:, None]
        nearest = np.sqrt(np.einsum("nijk,nijk->nij", away, away).min(axis=(1, 2)))
        near = np.flatnonzero(nearest <= limit + between[one] + between[other])
        one, other = one[near], other[near]
        apart = chords_apart(points[one], points[other])
        yield from map(tuple, some[near[apart <= limit + off[one] + off[other]]].tolist())


def _near(
    around: dict[int, list[int]], boxes: Floats, limit: float, ends: NDArray[np.int64]
) -> Iterator[Pair]:
    """Pairs of edges of one face without a common end whose boxes come nearer than a limit.

    Faces of equally many edges are looked at together.
    """
    by_count: dict[int, list[int]] = {}
    for face, numbers in around.items():
        if len(numbers) > 2:
            by_count.setdefault(len(numbers), []).append(face)
    for count, faces in by_count.items():
        upper = np.triu(np.ones((count, count), bool), 1)
        for start in range(0, len(faces), max(_MOST_AT_ONCE // count**2, 1)):
            some = faces[start : start + max(_MOST_AT_ONCE // count**2, 1)]
            edges = np.array([around[face] for face in some])
            low, high = boxes[edges, :3] - limit, boxes[edges, 3:] + limit
            near: NDArray[np.bool_] = np.all(low[:, :, None] <= high[:, None], axis=3)
            places, ones, others = np.nonzero(near & np.swapaxes(near, 1, 2) & upper)
            one, other = edges[places, ones], edges[places, others]
            apart = (ends[one][:, :, None] != ends[other][:, None]).all(axis=(1, 2))
            owners = np.array(some)[places[apart]]
            yield from zip(owners.tolist(), one[apart].tolist(), other[apart].tolist(), strict=True)


def _boxes(body: Inspection) -> Floats:
    """A box round each edge, (n, 6), mm: round points along it, wider by half of what is between them."""
    points = body.samples
    between = np.linalg.norm(np.diff(points, axis=1), axis=2).max(axis=1, initial=0.0) / 2
    bent = np.array([edge.kind not in ("line", "point") for edge in body.edges], bool)
    wider = np.where(bent, between, 0.0)[:, None]
    return np.concatenate([points.min(axis=1) - wider, points.max(axis=1) + wider], axis=1)
