"""The least distance between two shapes, or between lines of chords."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from OCP.Bnd import Bnd_Box
from OCP.BRepBndLib import BRepBndLib
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.TopoDS import TopoDS_Shape

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.base.shape import faces_of

__all__ = ["chords_apart", "distance_between", "touches"]

Floats = NDArray[np.float64]


def distance_between(one: TopoDS_Shape, other: TopoDS_Shape) -> tuple[float, tuple[float, float, float]]:
    """The least distance, mm, and a point of the first where it is. Raises KernelRefused."""
    with kernel_call("measuring the distance of two shapes"):
        extrema = BRepExtrema_DistShapeShape(one, other)
        if not extrema.IsDone() or not extrema.NbSolution():
            raise KernelRefused("the distance of two shapes can't be told")
        at = extrema.PointOnShape1(1)
        return float(extrema.Value()), (float(at.X()), float(at.Y()), float(at.Z()))


def touches(one: TopoDS_Shape, other: TopoDS_Shape, within: float) -> bool:
    """Whether two shapes come as near as a distance, mm: only faces near the other's are measured. Raises
    KernelRefused."""
    with kernel_call("looking whether two shapes touch"):
        here, there = _faces_with_boxes(one, within), _faces_with_boxes(other, within)
        near = [
            (a, b) for a, box in here for b, other_box in there if not box.IsOut(other_box)
        ]  # fmt: skip
        return any(_apart(a, b) <= within for a, b in near)


def _faces_with_boxes(shape: TopoDS_Shape, within: float) -> list[tuple[TopoDS_Shape, Bnd_Box]]:
    boxed = []
    for face in faces_of(shape):
        box = Bnd_Box()
        BRepBndLib.AddOptimal_s(face, box, False, False)
        box.Enlarge(within)
        boxed.append((face, box))
    return boxed


def _apart(one: TopoDS_Shape, other: TopoDS_Shape) -> float:
    extrema = BRepExtrema_DistShapeShape(one, other)
    return float(extrema.Value()) if extrema.IsDone() and extrema.NbSolution() else float("inf")


def chords_apart(one: Floats, other: Floats) -> Floats:
    """The least distance of each two lines of chords.

    Args:
        one, other: their corners, (n, i, 3) and (n, j, 3), mm.

    Returns: (n,), mm.

    Source: closest points of two segments by clamped parameters, a textbook method of computational
    geometry: the unclamped foot on the second is found for the first, then each is held to its ends.
    """
    p, q = one[:, :-1, None], other[:, None, :-1]
    d, e = one[:, 1:, None] - p, other[:, None, 1:] - q
    away = p - q
    dd, ee, de = _dot(d, d), _dot(e, e), _dot(d, e)
    da, ea = _dot(d, away), _dot(e, away)
    across = dd * ee - de * de
    s = np.clip(_share(de * ea - da * ee, across), 0.0, 1.0)
    t = np.clip(_share(de * s + ea, ee), 0.0, 1.0)
    s = np.clip(_share(de * t - da, dd), 0.0, 1.0)
    apart = away + s[..., None] * d - t[..., None] * e
    distances: Floats = np.sqrt(_dot(apart, apart).min(axis=(1, 2))) if len(one) else np.zeros(0)
    return distances


def _dot(a: Floats, b: Floats) -> Floats:
    dots: Floats = (a * b).sum(axis=-1)
    return dots


def _share(part: Floats, whole: Floats) -> Floats:
    """A quotient, 0 where there is nothing to divide by."""
    shares: Floats = np.divide(part, whole, out=np.zeros_like(part), where=whole > 0)
    return shares
