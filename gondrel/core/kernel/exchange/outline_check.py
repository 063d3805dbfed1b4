"""Whether the faces of a body lie where the file's own records say.

Source: ISO 10303-42, face_bound: a face lies to the left of its loops, seen against its normal. The points
beside its edges, its normal there and its area are those of an outline, which no kernel has made.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.gp import gp_Pnt, gp_Vec
from OCP.IntTools import IntTools_FClass2d
from OCP.ShapeAnalysis import ShapeAnalysis_Surface
from OCP.TopAbs import TopAbs_Orientation, TopAbs_ShapeEnum, TopAbs_State
from OCP.TopExp import TopExp_Explorer
from OCP.TopoDS import TopoDS, TopoDS_Face

from gondrel.core.integral.outline import BodyOutline
from gondrel.core.integral.tables import CONE, CYLINDER, PLANE
from gondrel.core.kernel.measure.mass import area_of, exact_area_of

__all__ = ["faces_elsewhere"]

Vector = tuple[float, ...]

_REVERSED = int(TopAbs_Orientation.TopAbs_REVERSED)
_IN = int(TopAbs_State.TopAbs_IN)
_EDGE = TopAbs_ShapeEnum.TopAbs_EDGE
_STEPS = (1e-4, 1e-5, 1e-3, 1e-6)
"""How far beside an edge is looked, as shares of the length of the loops."""

_LEAST_STEP = 2e-6
_FOOT = 1e-9
_NEAR = 0.1
"""How far the outline's points may lie off a surface, mm, and still speak of it."""

_SHARE = 1e-3
_BOUNDARIES = 4.0
"""A face may differ from the outline by this share of its area, and by this many times its tolerance all
along its edges; where it is all but what is meant, it differs by far more."""


def faces_elsewhere(faces: Sequence[TopoDS_Face], outline: BodyOutline) -> list[int]:
    """Places of the faces that do not lie where the outline says.

    Call it inside kernel_call. Faces whose loops run the wrong way round in the file are passed over.

    Args:
        faces: the faces of a body, in the outline's order.
    """
    besides: list[list[int]] = [[] for _ in faces]
    for row, face in enumerate(outline.face.tolist()):
        besides[face].append(row)
    elsewhere = []
    for place, face in enumerate(faces):
        if outline.wrong[place]:
            continue
        rows = besides[place]
        if outline.kind[place] == PLANE:
            fine = _plane_fits(face, outline, place, rows)
        else:
            fine = _lies_left(face, outline, place, rows) and _area_fits(face, outline, place)
        if not fine:
            elsewhere.append(place)
    return elsewhere


def _plane_fits(face: TopoDS_Face, outline: BodyOutline, place: int, rows: list[int]) -> bool:
    """Whether a plane face looks the way it should and lacks no edge."""
    position = BRepAdaptor_Surface(face, False).Plane().Position()
    normal = position.Direction().Coord()
    turned = (int(face.Orientation()) == _REVERSED) == position.Direct()
    for row in rows[:1]:
        if (_dot(outline.normal[row].tolist(), normal) < 0) != turned:
            return False
    count, explorer = 0, TopExp_Explorer(face, _EDGE)
    while explorer.More():
        count += 1
        explorer.Next()
    return count >= int(outline.coedges[place])  # an edge may be parted at a neighbour's seam


def _lies_left(face: TopoDS_Face, outline: BodyOutline, place: int, rows: list[int]) -> bool:
    """Whether a face lies to the left of its loops, as far as that can be told beside some edges."""
    if not rows:
        return True
    sample = _Sample(face)
    if outline.kind[place] in (CYLINDER, CONE):
        rows = rows[:1]
    perimeter = float(outline.perimeter[place])
    for row in rows:
        point, along, normal = (
            tuple(column[row].tolist()) for column in (outline.point, outline.along, outline.normal)
        )
        facing = sample.normal_at(point)
        if facing is None:
            continue
        if math.isnan(normal[0]):
            normal = facing
        elif _dot(normal, facing) < 0:
            return False
        if not sample.is_left(point, _cross(normal, along), perimeter):
            return False
    return True


def _dot(a: Vector, b: Vector) -> float:
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]


def _cross(a: Vector, b: Vector) -> Vector:
    return a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]


class _Sample:
    """A face that is asked where it lies."""

    def __init__(self, face: TopoDS_Face) -> None:
        self.face = face
        self.surface = BRep_Tool.Surface_s(face)
        self.projector = ShapeAnalysis_Surface(self.surface)
        self.inside: IntTools_FClass2d | None = None
        self.turned = int(face.Orientation()) == _REVERSED

    def normal_at(self, point: Vector) -> Vector | None:
        """The face's normal at a point of it, None where it has none or the point lies elsewhere."""
        place = self.projector.ValueOfUV(gp_Pnt(*point), _FOOT)
        if self.projector.Gap() > _NEAR:
            return None
        at, du, dv = gp_Pnt(), gp_Vec(), gp_Vec()
        self.surface.D1(place.X(), place.Y(), at, du, dv)
        normal = _cross(du.Coord(), dv.Coord())
        size = math.sqrt(_dot(normal, normal))
        if size <= 1e-12 * max(du.SquareMagnitude(), dv.SquareMagnitude(), 1e-300):
            return None
        size = -size if self.turned else size
        return normal[0] / size, normal[1] / size, normal[2] / size

    def is_left(self, point: Vector, left: Vector, perimeter: float) -> bool:
        """Whether the face lies on that side of an edge and not beyond; True where it is not clear."""
        if self.inside is None:
            self.inside = IntTools_FClass2d(self.face, _FOOT)
        beyond = False
        for share in _STEPS:
            step = max(share * perimeter, _LEAST_STEP)
            here, there = self._state(point, left, step), self._state(point, left, -step)
            if here == _IN != there:  # on the rim, where the surface ends there
                return True
            beyond |= here != _IN == there
        return not beyond

    def _state(self, point: Vector, way: Vector, step: float) -> int:
        assert self.inside is not None
        x, y, z = (p + step * w for p, w in zip(point, way, strict=True))
        return int(self.inside.Perform(self.projector.ValueOfUV(gp_Pnt(x, y, z), _FOOT)))


def _area_fits(face: TopoDS_Face, outline: BodyOutline, place: int) -> bool:
    """Whether a face that may close in itself is as large as the outline says."""
    said = float(outline.area[place])
    if np.isnan(said) or outline.kind[place] in (CYLINDER, CONE):
        return True
    made = area_of(face)
    explorer, widest = TopExp_Explorer(face, _EDGE), BRep_Tool.Tolerance_s(face)
    while explorer.More():
        widest = max(widest, BRep_Tool.Tolerance_s(TopoDS.Edge(explorer.Current())))
        explorer.Next()
    slack = _SHARE * min(abs(said), abs(made)) + _BOUNDARIES * widest * float(outline.perimeter[place])
    if abs(made - said) <= slack:
        return True
    return bool(abs(exact_area_of(face) - said) <= slack)
