"""Which faces an edge of a body bounds, and where it ends."""

from __future__ import annotations

from OCP.BRep import BRep_Tool
from OCP.TopExp import TopExp
from OCP.TopoDS import TopoDS_Shape

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.base.shape import edges_of, faces_of

__all__ = ["faces_beside"]

Ends = tuple[float, float, float, float, float, float]


def faces_beside(shape: TopoDS_Shape, edge: int) -> tuple[list[int], Ends]:
    """The places of the faces that an edge bounds, and the coordinates of its start and its end, mm.

    Args:
        edge: its place in the order of edges_of; the faces are told in that of faces_of.

    Raises:
        KernelRefused: when the body has no such edge.
    """
    with kernel_call("looking up an edge"):
        edges = edges_of(shape)
        if not 0 <= edge < len(edges):
            raise KernelRefused(f"the body has no edge number {edge}")
        chosen = edges[edge]
        beside = [
            place
            for place, face in enumerate(faces_of(shape))
            if any(chosen.IsSame(other) for other in edges_of(face))
        ]
        start, end = TopExp.FirstVertex_s(chosen), TopExp.LastVertex_s(chosen)
        if start.IsNull() or end.IsNull():
            return beside, (0.0,) * 6
        return beside, (*BRep_Tool.Pnt_s(start).Coord(), *BRep_Tool.Pnt_s(end).Coord())
