"""Edges that lie far off a face they bound: they belong elsewhere, or the face does."""

from __future__ import annotations

from OCP.BRep import BRep_Tool
from OCP.Geom import Geom_Plane
from OCP.gp import gp_Pnt
from OCP.ShapeAnalysis import ShapeAnalysis_Surface
from OCP.TopoDS import TopoDS_Shape

from gondrel.core.kernel.calls import kernel_call
from gondrel.core.kernel.shape import edges_of, faces_of

__all__ = ["edges_astray"]

_SHARES = (0.0, 0.21, 0.5, 0.77, 1.0)
_ACCURACY = 1e-7


def edges_astray(shape: TopoDS_Shape, least: float) -> list[tuple[int, float]]:
    """Faces with an edge that lies off their surface, each with how far, mm.

    Args:
        least: distance in mm from which an edge is told.

    Raises:
        KernelRefused: when the kernel fails over one of them.
    """
    found = []
    with kernel_call("looking for edges off their faces"):
        for place, face in enumerate(faces_of(shape)):
            surface = BRep_Tool.Surface_s(face)
            plane = surface.Pln() if isinstance(surface, Geom_Plane) else None
            projector = ShapeAnalysis_Surface(surface) if plane is None else None
            worst = 0.0
            for edge in edges_of(face):
                curve = BRep_Tool.Curve_s(edge, 0.0, 0.0)
                if curve is None or BRep_Tool.Degenerated_s(edge):
                    continue
                first, last = BRep_Tool.Range_s(edge)
                for share in _SHARES:
                    at: gp_Pnt = curve.Value(first + (last - first) * share)
                    if plane is not None:
                        worst = max(worst, plane.Distance(at))
                    elif projector is not None:
                        projector.ValueOfUV(at, _ACCURACY)
                        worst = max(worst, projector.Gap())
            if worst >= least:
                found.append((place, worst))
    return found
