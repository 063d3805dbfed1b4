"""The least distance between two shapes."""

from __future__ import annotations

from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.TopoDS import TopoDS_Shape

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.calls import kernel_call

__all__ = ["distance_between"]


def distance_between(one: TopoDS_Shape, other: TopoDS_Shape) -> tuple[float, tuple[float, float, float]]:
    """The least distance, mm, and a point of the first where it is. Raises KernelRefused."""
    with kernel_call("measuring the distance of two shapes"):
        found = BRepExtrema_DistShapeShape(one, other)
        if not found.IsDone() or not found.NbSolution():
            raise KernelRefused("the distance of two shapes can't be told")
        at = found.PointOnShape1(1)
        return float(found.Value()), (float(at.X()), float(at.Y()), float(at.Z()))
