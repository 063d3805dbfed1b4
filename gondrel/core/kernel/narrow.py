"""Places where a face is narrower than told apart, though its edges there are no neighbours."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from OCP.Bnd import Bnd_Box
from OCP.BRepBndLib import BRepBndLib
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.TopoDS import TopoDS_Edge

from gondrel.core.kernel.calls import kernel_call
from gondrel.core.kernel.inspection import Inspection
from gondrel.core.kernel.shape import edges_of

__all__ = ["Neck", "necks_of"]


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
    shapes = edges_of(body.shape)
    around: dict[int, list[int]] = {}
    for edge in body.edges:
        if not edge.is_degenerate:
            for face, _ in edge.uses:
                if edge.index not in around.setdefault(face, []):
                    around[face].append(edge.index)
    boxes: dict[int, np.ndarray] = {}  # type: ignore[type-arg]
    for face, numbers in around.items():
        if len(numbers) < 3:
            continue
        for number in numbers:
            if number not in boxes:
                boxes[number] = _box(shapes[number])
        low = np.array([boxes[n][:3] for n in numbers]) - limit
        high = np.array([boxes[n][3:] for n in numbers])
        near = (low[:, None] <= high[None]).all(axis=2)
        for i, j in np.argwhere(np.triu(near & near.T, 1)).tolist():
            one, other = body.edges[numbers[i]], body.edges[numbers[j]]
            if {*one.ends} & {*other.ends} or min(one.length, other.length) < limit:
                continue
            found = BRepExtrema_DistShapeShape(shapes[one.index], shapes[other.index])
            if found.IsDone() and found.NbSolution() and found.Value() < limit:
                at = found.PointOnShape1(1)
                where = (float(at.X()), float(at.Y()), float(at.Z()))
                yield Neck(face, (one.index, other.index), float(found.Value()), where)


def _box(edge: TopoDS_Edge) -> np.ndarray:  # type: ignore[type-arg]
    box = Bnd_Box()
    BRepBndLib.Add_s(edge, box, False)
    low, high = box.CornerMin(), box.CornerMax()
    return np.array([low.X(), low.Y(), low.Z(), high.X(), high.Y(), high.Z()])
