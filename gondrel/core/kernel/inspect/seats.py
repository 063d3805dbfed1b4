"""Faces by which parts seat on one another: planes and cylinders, as arrays."""

from __future__ import annotations

import io
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from OCP.GeomAbs import GeomAbs_SurfaceType as Surfaces
from OCP.TopoDS import TopoDS_Face, TopoDS_Shape

from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.base.shape import faces_of
from gondrel.core.kernel.geometry.analytic import surface_as_seen
from gondrel.core.kernel.geometry.normals import is_away_from, outward_in_middle
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
    found = outward_in_middle(face)
    if found is None:
        return None
    at, normal = found
    if kind == Surfaces.GeomAbs_Plane:
        return at, normal, 0.0, box_of(face)
    axis = seen.Cylinder().Axis()
    foot, way = np.array(axis.Location().Coord()), np.array(axis.Direction().Coord())
    radius = float(seen.Cylinder().Radius())
    return foot, way, radius if is_away_from(foot, way, at, normal) else -radius, box_of(face)
