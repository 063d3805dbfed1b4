"""Two solids that overlap: one taken out of the other, or both made one."""

from __future__ import annotations

from OCP.TopoDS import TopoDS_Shape

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.base.shape import kind_of, moved_copy
from gondrel.core.kernel.modelling.build import cut, fuse
from gondrel.core.kernel.repair.shells import Made
from gondrel.core.model.body import BodyKind
from gondrel.core.model.product import Placement

__all__ = ["fuse_solids", "take_out"]


def take_out(one: TopoDS_Shape, other: TopoDS_Shape, placement: Placement) -> Made:
    """The first solid less the second, which is placed in the frame of the first.

    Raises:
        KernelRefused: when nothing would be left, or it would fall into pieces.
    """
    try:
        return _solid(cut(one, moved_copy(other, placement)))
    except KernelRefused as error:
        raise KernelRefused(f"what is left would be no single solid: {error.message}") from error


def fuse_solids(one: TopoDS_Shape, other: TopoDS_Shape, placement: Placement) -> Made:
    """Both solids as one, the second placed in the frame of the first.

    Raises:
        KernelRefused: when they do not make one solid.
    """
    return _solid(fuse(one, moved_copy(other, placement)))


def _solid(made: TopoDS_Shape) -> Made:
    if kind_of(made) is not BodyKind.SOLID:
        raise KernelRefused("no solid would be left")
    return [(BodyKind.SOLID, made)]
