"""Places where a face is narrower than told apart, though its edges there are no neighbours."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from scipy.spatial import cKDTree

from gondrel.core.kernel.calls import kernel_call
from gondrel.core.kernel.inspection import Inspection

__all__ = ["Neck", "necks_of"]

Floats = NDArray[np.float64]
_CLOSELY = 321
_FEW = 40
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

    Source: own: boxes first, then the kernel's exact distance of the two edges.
    """
    with kernel_call("looking for narrow places"):
        yield from list(_necks(body, limit))


def _necks(body: Inspection, limit: float) -> Iterator[Neck]:
    shapes = body.edge_shapes
    around: dict[int, list[int]] = {}
    for edge in body.edges:
        if not edge.is_degenerate:
            for face, _ in edge.uses:
                if edge.index not in around.setdefault(face, []):
                    around[face].append(edge.index)
    for face, i, j in _near(around, _boxes(body), limit):
        one, other = body.edges[i], body.edges[j]
        if {*one.ends} & {*other.ends} or min(one.length, other.length) < limit:
            continue
        if _surely_apart(body, one.index, other.index, limit):
            continue
        found = BRepExtrema_DistShapeShape(shapes[one.index], shapes[other.index])
        if found.IsDone() and found.NbSolution() and found.Value() < limit:
            at = found.PointOnShape1(1)
            where = (float(at.X()), float(at.Y()), float(at.Z()))
            yield Neck(face, (one.index, other.index), float(found.Value()), where)


def _near(around: dict[int, list[int]], boxes: Floats, limit: float) -> Iterator[tuple[int, int, int]]:
    """Pairs of edges of one face whose boxes come nearer than a limit: the face and both edges.

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
            for place, i, j in np.argwhere(near & np.swapaxes(near, 1, 2) & upper).tolist():
                yield some[place], int(edges[place, i]), int(edges[place, j])


def _boxes(body: Inspection) -> Floats:
    """A box round each edge, (n, 6), mm: round points along it, wider by half of what is between them."""
    points = body.samples
    between = np.linalg.norm(np.diff(points, axis=1), axis=2).max(axis=1, initial=0.0) / 2
    bent = np.array([edge.kind not in ("line", "point") for edge in body.edges], bool)
    wider = np.where(bent, between, 0.0)[:, None]
    return np.concatenate([points.min(axis=1) - wider, points.max(axis=1) + wider], axis=1)


def _surely_apart(body: Inspection, one: int, other: int, limit: float) -> bool:
    """Whether points along two edges lie further apart than the limit and what is between the points."""
    coarse = [body.along(number) for number in (one, other)]
    if _are_apart(coarse[0], coarse[1], limit):
        return True
    return _are_apart(_closely(body, one), _closely(body, other), limit)


def _are_apart(one: Floats, other: Floats, limit: float) -> bool:
    between = sum(float(np.linalg.norm(np.diff(p, axis=0), axis=1).max()) for p in (one, other))
    if len(one) > _FEW:
        nearest = float(cKDTree(one).query(other)[0].min())
    else:
        nearest = float(np.sqrt(((one[:, None] - other[None]) ** 2).sum(axis=2).min()))
    return nearest > limit + between


def _closely(body: Inspection, edge: int) -> Floats:
    """Many points along an edge, (n, 3), mm; taken once."""
    taken: dict[int, Floats] = body.memo.setdefault("closely", {})
    if edge not in taken:
        curve = BRepAdaptor_Curve(body.edge_shapes[edge])
        ts = np.linspace(curve.FirstParameter(), curve.LastParameter(), _CLOSELY).tolist()
        taken[edge] = np.array([curve.Value(t).Coord() for t in ts])
    return taken[edge]
