"""Edges that lie far off a face they bound, by themselves or by where they end in its parameters: they
belong elsewhere, or the face does."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator

from OCP.BRep import BRep_Tool
from OCP.Geom import Geom_Curve, Geom_Plane, Geom_Surface
from OCP.gp import gp_Pnt
from OCP.OCP.collections import IndexedMap_TopoDS_Shape_TopTools_ShapeMapHasher as ShapeMap
from OCP.ShapeAnalysis import ShapeAnalysis_Surface
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopExp import TopExp_Explorer
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Face, TopoDS_Shape

from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.base.shape import edges_of, faces_of
from gondrel.core.kernel.measure.mass import area_of

__all__ = ["edges_astray", "edges_without_pcurve", "faces_inside_out"]

_SHARES = (0.0, 0.21, 0.5, 0.77, 1.0)
_ACCURACY = 1e-7


def edges_without_pcurve(shape: TopoDS_Shape) -> int:
    """How many edges of curved faces have no curve in the parameters of their face, or as the face's seam
    only one."""
    count = 0
    for face in faces_of(shape):
        if isinstance(BRep_Tool.Surface_s(face), Geom_Plane):
            continue
        edges = edges_of(face)
        count += sum(BRep_Tool.CurveOnSurface_s(e, face, 0.0, 0.0) is None for e in edges)
        count += sum(not BRep_Tool.IsClosed_s(edge, face) for edge in _met_twice(face))
    return count


def _met_twice(face: TopoDS_Face) -> Iterator[TopoDS_Edge]:
    """The edges that a face's loops run along there and back."""
    explorer, known, met = TopExp_Explorer(face, TopAbs_ShapeEnum.TopAbs_EDGE), ShapeMap(), Counter[int]()
    while explorer.More():
        met[known.Add(explorer.Current())] += 1
        explorer.Next()
    yield from (TopoDS.Edge(known.FindKey(place)) for place, count in met.items() if count > 1)


def faces_inside_out(shape: TopoDS_Shape) -> int:
    """How many faces have an area below zero: their loops run the wrong way round."""
    with kernel_call("looking which way loops run"):
        return sum(area_of(face) < -_ACCURACY for face in faces_of(shape))


def edges_astray(shape: TopoDS_Shape, least: float) -> list[tuple[int, float]]:
    """Faces with an edge that lies off their surface, each with how far, mm.

    Args:
        least: distance in mm from which an edge is told.

    Raises:
        KernelRefused: when the kernel fails over one of them.
    """
    astray = []
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
                if plane is None:
                    worst = max(worst, _off_at_ends(face, TopoDS.Edge(edge), curve, surface))
                for share in _SHARES:
                    at: gp_Pnt = curve.Value(first + (last - first) * share)
                    if plane is not None:
                        worst = max(worst, plane.Distance(at))
                    elif projector is not None:
                        projector.ValueOfUV(at, _ACCURACY)
                        worst = max(worst, projector.Gap())
            if worst >= least:
                astray.append((place, worst))
    return astray


def _off_at_ends(face: TopoDS_Face, edge: TopoDS_Edge, curve: Geom_Curve, surface: Geom_Surface) -> float:
    """How far an edge ends from where its curves in the face's parameters do; in between they may run at
    different paces."""
    worst = 0.0
    for side in (edge, TopoDS.Edge(edge.Reversed())):  # a seam has two
        pcurve = BRep_Tool.CurveOnSurface_s(side, face, 0.0, 0.0)
        for end in BRep_Tool.Range_s(edge) if pcurve is not None else ():
            at = pcurve.Value(end)
            worst = max(worst, surface.Value(at.X(), at.Y()).Distance(curve.Value(end)))
    return worst
