"""The material that one solid has and another has not."""

from __future__ import annotations

from dataclasses import dataclass

from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut
from OCP.OCP.collections import List_TopoDS_Shape as ShapeList
from OCP.TopoDS import TopoDS_Shape

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.base.shape import compound_of, kind_of, split_bodies
from gondrel.core.kernel.measure.mass import diagonal_of, measure
from gondrel.core.model.body import BodyKind

__all__ = ["Excess", "material_beyond"]

_FUZZY = 1e-6
"""Surfaces so near one another are one, mm."""


@dataclass(frozen=True, slots=True)
class Excess:
    """What is left of a solid: its solids together, None where nothing is, and their volume, mm3."""

    shape: TopoDS_Shape | None
    volume: float


def material_beyond(solid: TopoDS_Shape, other: TopoDS_Shape) -> Excess:
    """What of a solid lies outside another. Raises KernelRefused, also where one is no solid.

    Source: Boolean difference; surfaces nearer than 1e-6 mm count as one, and a rest that is thinner than
    that everywhere as none.
    """
    for shape in (solid, other):
        if kind_of(shape) is not BodyKind.SOLID:
            raise KernelRefused("only solids have material to compare")
    with kernel_call("comparing the material of two solids"):
        operation = BRepAlgoAPI_Cut()
        arguments, tools = ShapeList(), ShapeList()
        arguments.Append(solid)
        tools.Append(other)
        operation.SetArguments(arguments)
        operation.SetTools(tools)
        operation.SetFuzzyValue(_FUZZY)
        operation.SetNonDestructive(True)
        operation.SetRunParallel(True)
        operation.Build()
        if not operation.IsDone():
            raise KernelRefused("the kernel can't tell two solids apart")
        made = operation.Shape()
        solids = [] if made is None or made.IsNull() else [
            shape for kind, shape in split_bodies(made) if kind is BodyKind.SOLID
        ]  # fmt: skip
        least = _FUZZY * diagonal_of(solid) ** 2
        measured = [(shape, measure(shape).volume) for shape in solids]
    left = [(shape, volume) for shape, volume in measured if volume > least]
    if not left:
        return Excess(None, 0.0)
    shapes = [shape for shape, _ in left]
    return Excess(shapes[0] if len(shapes) == 1 else compound_of(shapes), sum(volume for _, volume in left))
