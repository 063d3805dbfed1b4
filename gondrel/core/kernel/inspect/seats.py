"""Faces by which parts seat on one another: planes and cylinders, as arrays."""

from __future__ import annotations

import io
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepTools import BRepTools
from OCP.GeomAbs import GeomAbs_SurfaceType as Surfaces
from OCP.gp import gp_Pnt, gp_Vec
from OCP.TopAbs import TopAbs_Orientation
from OCP.TopoDS import TopoDS_Face, TopoDS_Shape

from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.base.shape import faces_of
from gondrel.core.kernel.geometry.analytic import surface_as_seen
from gondrel.core.kernel.measure.mass import box_of

__all__ = ["Seats", "seats_of"]

Floats = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Seats:
    """Plane and cylinder faces of a body, in its frame, mm.

    Args:
        points, ways: (n, 3) a point of each plane and its normal out of the material, or a point of each
            axis and its direction; radii: (n,), 0 for planes, below 0 where the material lies outside.
        boxes: (n, 2, 3) of each face.
    """

    points: Floats
    ways: Floats
    radii: Floats
    boxes: Floats

    def to_bytes(self) -> bytes:
        """For keeping beside the body."""
        stream = io.BytesIO()
        np.savez(stream, points=self.points, ways=self.ways, radii=self.radii, boxes=self.boxes)
        return stream.getvalue()

    @classmethod
    def from_bytes(cls, data: bytes) -> Seats:
        """What to_bytes gave."""
        with np.load(io.BytesIO(data)) as arrays:
            return cls(arrays["points"], arrays["ways"], arrays["radii"], arrays["boxes"])


def seats_of(shape: TopoDS_Shape) -> Seats:
    """The plane and cylinder faces of a body. Raises KernelRefused."""
    rows: list[tuple[Floats, Floats, float, tuple[float, ...]]] = []
    with kernel_call("looking for faces that parts seat on"):
        for face in faces_of(shape):
            row = _row(face)
            if row is not None:
                rows.append(row)
    points, ways, radii, boxes = zip(*rows, strict=True) if rows else ((), (), (), ())
    return Seats(
        np.array(points).reshape(-1, 3), np.array(ways).reshape(-1, 3), np.array(radii, float),
        np.array(boxes, float).reshape(-1, 2, 3),
    )  # fmt: skip


def _row(face: TopoDS_Face) -> tuple[Floats, Floats, float, tuple[float, ...]] | None:
    seen = surface_as_seen(face)
    kind = seen.GetType()
    if kind not in (Surfaces.GeomAbs_Plane, Surfaces.GeomAbs_Cylinder):
        return None
    surface = BRepAdaptor_Surface(face, False)
    u0, u1, v0, v1 = BRepTools.UVBounds_s(face)
    point, along_u, along_v = gp_Pnt(), gp_Vec(), gp_Vec()
    surface.D1((u0 + u1) / 2, (v0 + v1) / 2, point, along_u, along_v)
    normal = np.cross(along_u.Coord(), along_v.Coord())
    length = float(np.linalg.norm(normal))
    if length < 1e-12:
        return None
    normal = normal / (-length if face.Orientation() == TopAbs_Orientation.TopAbs_REVERSED else length)
    at = np.array(point.Coord())
    if kind == Surfaces.GeomAbs_Plane:
        return at, normal, 0.0, box_of(face)
    axis = seen.Cylinder().Axis()
    foot, way = np.array(axis.Location().Coord()), np.array(axis.Direction().Coord())
    away = at - foot
    is_outer = float(normal @ (away - (away @ way) * way)) > 0.0
    radius = float(seen.Cylinder().Radius())
    return foot, way, radius if is_outer else -radius, box_of(face)
