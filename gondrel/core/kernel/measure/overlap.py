"""The volume two solids have in common."""

from __future__ import annotations

from dataclasses import dataclass

from OCP.BRepAlgoAPI import BRepAlgoAPI_Common
from OCP.OCP.collections import List_TopoDS_Shape as ShapeList
from OCP.TopoDS import TopoDS_Shape

from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.base.shape import location_of, split_bodies
from gondrel.core.kernel.measure.mass import box_of, measure
from gondrel.core.model.body import BodyKind
from gondrel.core.model.product import Placement

__all__ = ["Overlap", "box_in_place", "common_volume"]

Box = tuple[float, float, float, float, float, float]


@dataclass(frozen=True, slots=True)
class Overlap:
    """What two solids have in common: volume in mm3 and its centroid, mm; no volume when nothing."""

    volume: float
    at: tuple[float, float, float]


def common_volume(one: TopoDS_Shape, other: TopoDS_Shape, placement: Placement) -> Overlap:
    """The volume two solids share, the second placed in the frame of the first.

    Raises:
        KernelRefused: when the kernel fails over them.

    Source: Boolean intersection, its volume by the kernel's adaptive integration (1e-8).
    """
    with kernel_call("intersecting two solids"):
        operation = BRepAlgoAPI_Common()
        arguments, tools = ShapeList(), ShapeList()
        arguments.Append(one)
        tools.Append(other.Moved(location_of(placement)))
        operation.SetArguments(arguments)
        operation.SetTools(tools)
        operation.SetRunParallel(True)
        operation.SetNonDestructive(True)
        operation.Build()
        shared = operation.Shape() if operation.IsDone() else None
    if shared is None or shared.IsNull():
        return Overlap(0.0, (0.0, 0.0, 0.0))
    solids = [shape for kind, shape in split_bodies(shared) if kind is BodyKind.SOLID]
    figures = [measure(shape) for shape in solids]
    total = sum(f.volume for f in figures)
    if total <= 0.0:
        return Overlap(0.0, (0.0, 0.0, 0.0))
    x, y, z = (sum(f.centroid[i] * f.volume for f in figures) / total for i in range(3))
    return Overlap(total, (x, y, z))


def box_in_place(shape: TopoDS_Shape, placement: Placement) -> Box:
    """The bounding box of a shape in its place, mm; never too small. Raises KernelRefused."""
    with kernel_call("boxing a body"):
        return box_of(shape.Moved(location_of(placement)))
