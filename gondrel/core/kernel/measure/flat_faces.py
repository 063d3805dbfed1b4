"""Flat faces of a body, and how they lie."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from OCP.GeomAbs import GeomAbs_SurfaceType
from OCP.TopAbs import TopAbs_Orientation
from OCP.TopoDS import TopoDS_Face, TopoDS_Shape

from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.base.shape import faces_of
from gondrel.core.kernel.geometry.analytic import surface_as_seen
from gondrel.core.kernel.measure.mass import exact_area_of

__all__ = ["face_frame", "largest_flat_face"]

Floats = NDArray[np.float64]
Frame = tuple[Floats, Floats, Floats]


def face_frame(face: TopoDS_Face) -> Frame | None:
    """Origin, right and up of a flat face as seen from outside its body; None where it is not flat. Call it
    inside kernel_call."""
    surface = surface_as_seen(face)
    if surface.GetType() != GeomAbs_SurfaceType.GeomAbs_Plane:
        return None
    plane = surface.Plane()
    normal = np.array(plane.Axis().Direction().Coord())
    if not plane.Direct():
        normal = -normal
    if face.Orientation() == TopAbs_Orientation.TopAbs_REVERSED:
        normal = -normal
    up = np.array([0.0, 0.0, 1.0]) if abs(normal[2]) < 1 - 1e-9 else np.array([0.0, 1.0, 0.0])
    right = np.cross(up, normal)
    right /= np.linalg.norm(right)
    return np.array(plane.Location().Coord()), right, np.cross(normal, right)


def largest_flat_face(shape: TopoDS_Shape) -> tuple[TopoDS_Face, Frame] | None:
    """The flat face of most area, and how it lies; None where there is none. Raises KernelRefused."""
    with kernel_call("looking for a flat face"):
        flat = [(face, frame) for face in faces_of(shape) if (frame := face_frame(face)) is not None]
        return max(flat, key=lambda each: exact_area_of(each[0]), default=None)
