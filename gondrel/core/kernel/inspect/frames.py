"""The frame that a face fixes: what another face is put against or an axis along."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeVertex
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.GeomAbs import GeomAbs_SurfaceType as Surfaces
from OCP.GeomAdaptor import GeomAdaptor_Surface
from OCP.gp import gp_Ax3, gp_Dir, gp_Pnt
from OCP.TopoDS import TopoDS_Face, TopoDS_Shape

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.base.shape import faces_of
from gondrel.core.kernel.geometry.analytic import analytic_surface
from gondrel.core.kernel.geometry.normals import outward_in_middle
from gondrel.core.model.geometry import Vector, vector_of

__all__ = ["FaceFrame", "frame_near"]


@dataclass(frozen=True, slots=True)
class FaceFrame:
    """What a plane or a round face fixes, in the frame of its body.

    Args:
        is_plane: whether along is a normal, out of the material; else it is an axis.
        origin: mm; of a plane the foot of the point it was asked for, of a round face the foot of that
            point on the axis, of a ball its centre.
        along, across: unit vectors, at right angles.
    """

    is_plane: bool
    origin: Vector
    along: Vector
    across: Vector


def frame_near(shape: TopoDS_Shape, point: Vector) -> FaceFrame:
    """The frame of the face that is nearest to a point, mm.

    Raises:
        KernelRefused: when that face is neither plane nor round.
    """
    with kernel_call("looking for the frame of a face"):
        vertex = BRepBuilderAPI_MakeVertex(gp_Pnt(*point)).Vertex()
        ranked = []
        for place, face in enumerate(faces_of(shape)):
            extrema = BRepExtrema_DistShapeShape(vertex, face)
            if extrema.IsDone() and extrema.NbSolution():
                ranked.append((float(extrema.Value()), place, face))
        if not ranked:
            raise KernelRefused("there is no face near the point")
        return _frame_of(min(ranked)[2], np.array(point))


def _frame_of(face: TopoDS_Face, point: np.ndarray) -> FaceFrame:  # type: ignore[type-arg]
    surface: BRepAdaptor_Surface | GeomAdaptor_Surface = BRepAdaptor_Surface(face, False)
    if surface.GetType() == Surfaces.GeomAbs_BSplineSurface:
        analytic = analytic_surface(BRep_Tool.Surface_s(face), _WITHIN)
        surface = GeomAdaptor_Surface(analytic) if analytic is not None else surface
    kind = surface.GetType()
    if kind not in _KNOWN:
        raise KernelRefused("the face is neither plane nor round: it fixes no axis and no normal")
    position = surface.Plane().Position() if kind == Surfaces.GeomAbs_Plane else _round(surface, kind)
    origin, along = _numbers(position.Location()), _numbers(position.Direction())
    if kind == Surfaces.GeomAbs_Plane:
        outward = outward_in_middle(face)
        along = along if outward is not None and along @ outward[1] > 0 else -along
        origin = point - ((point - origin) @ along) * along
    elif kind != Surfaces.GeomAbs_Sphere:
        origin = origin + ((point - origin) @ along) * along
    across = _numbers(position.XDirection())
    return FaceFrame(
        kind == Surfaces.GeomAbs_Plane,
        vector_of(origin + 0.0),
        vector_of(along + 0.0),
        vector_of(across + 0.0),
    )


_KNOWN = (
    Surfaces.GeomAbs_Plane, Surfaces.GeomAbs_Cylinder, Surfaces.GeomAbs_Cone, Surfaces.GeomAbs_Torus,
    Surfaces.GeomAbs_Sphere,
)  # fmt: skip

_WITHIN = 1e-5
"""How far, mm, a spline may lie off the plane or round surface that it is taken for."""


def _round(surface: BRepAdaptor_Surface | GeomAdaptor_Surface, kind: Surfaces) -> gp_Ax3:
    if kind == Surfaces.GeomAbs_Cylinder:
        return surface.Cylinder().Position()
    if kind == Surfaces.GeomAbs_Cone:
        return surface.Cone().Position()
    return surface.Torus().Position() if kind == Surfaces.GeomAbs_Torus else surface.Sphere().Position()


def _numbers(of: gp_Pnt | gp_Dir) -> np.ndarray:  # type: ignore[type-arg]
    return np.array([of.X(), of.Y(), of.Z()])
