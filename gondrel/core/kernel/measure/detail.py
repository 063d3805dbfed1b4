"""Kind and size of every face and edge of a body."""

from __future__ import annotations

from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.GCPnts import GCPnts_AbscissaPoint
from OCP.TopoDS import TopoDS_Edge, TopoDS_Face, TopoDS_Shape

from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.base.shape import edges_of, faces_of
from gondrel.core.kernel.measure.mass import area_of, exact_area_of, surface_kind
from gondrel.core.model.detail import BodyDetail, EdgeDetail, FaceDetail

__all__ = ["describe"]

_LENGTH_ERROR = 1e-7

_FEW_FACES = 200
"""Number of faces up to which their areas are integrated finely."""


def describe(shape: TopoDS_Shape) -> BodyDetail:
    """Kinds and sizes of all faces and edges, mm, mm2, rad. Raises KernelRefused.

    Source: the kernel's own curves and surfaces; areas by its Gauss integration over the face.
    """
    with kernel_call("looking at faces and edges"):
        found = faces_of(shape)
        measured = exact_area_of if len(found) <= _FEW_FACES else area_of
        faces = [_face(face, measured(face)) for face in found]
        edges = [_edge(edge) for edge in edges_of(shape)]
        return BodyDetail.of(faces, edges)


def _face(face: TopoDS_Face, area: float) -> FaceDetail:
    kind = surface_kind(face)
    surface = BRepAdaptor_Surface(face, False)
    if kind == "cylinder":
        return FaceDetail(kind, area, (2 * surface.Cylinder().Radius(),))
    if kind == "sphere":
        return FaceDetail(kind, area, (2 * surface.Sphere().Radius(),))
    if kind == "torus":
        torus = surface.Torus()
        return FaceDetail(kind, area, (2 * torus.MajorRadius(), 2 * torus.MinorRadius()))
    if kind == "cone":
        return FaceDetail(kind, area, (), abs(surface.Cone().SemiAngle()))
    return FaceDetail(kind, area)


def _edge(edge: TopoDS_Edge) -> EdgeDetail:
    if BRep_Tool.Degenerated_s(edge):
        return EdgeDetail("point", 0.0)
    curve = BRepAdaptor_Curve(edge)
    kind: str = curve.GetType().name.removeprefix("GeomAbs_").removesuffix("Curve").lower()
    length = float(GCPnts_AbscissaPoint.Length_s(curve, _LENGTH_ERROR))
    if kind == "circle":
        return EdgeDetail(kind, length, 2 * curve.Circle().Radius())
    return EdgeDetail(kind, length)
