"""How two things stand to one another: least distance, nearest points, angle."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray
from OCP.Bnd import Bnd_Box
from OCP.BRep import BRep_Tool
from OCP.BRepBndLib import BRepBndLib
from OCP.BRepClass3d import BRepClass3d_SolidClassifier
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.TopAbs import TopAbs_State
from OCP.TopoDS import TopoDS_Shape

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.base.shape import compound_of, faces_of, kind_of, vertices_of
from gondrel.core.kernel.measure.things import AxisLine, PlacedThing, direction_of
from gondrel.core.model.body import BodyKind
from gondrel.core.model.geometry import vector_of
from gondrel.core.model.measures import Apart

__all__ = ["apart", "near_within", "nearest"]

Floats = NDArray[np.float64]

_PARALLEL = 1e-12
_FAR = 4.0


def apart(one: PlacedThing, other: PlacedThing) -> Apart:
    """Distance, nearest points and angle of two things in their places, mm and rad. Raises KernelRefused.

    Source: lines in closed form; else the kernel's extrema of curves and surfaces, exact for elementary
    ones. The angle is the one between directions, from 0 to a right angle; of a plane its normal counts.
    """
    with kernel_call("measuring a distance"):
        if isinstance(one, AxisLine) and isinstance(other, AxisLine):
            points = _of_lines(one, other)
        elif isinstance(one, AxisLine):
            points = _of_line(one, other)
        elif isinstance(other, AxisLine):
            points = _of_line(other, one)[::-1]
        else:
            points = nearest(one, other)
        distance = float(np.linalg.norm(points[1] - points[0]))
        return Apart(distance, (vector_of(points[0]), vector_of(points[1])), _angle(one, other))


def nearest(one: TopoDS_Shape, other: TopoDS_Shape) -> tuple[Floats, Floats]:
    """Where two shapes are nearest, on the first and on the second, mm. Raises KernelRefused."""
    with kernel_call("measuring a distance"):
        extrema = BRepExtrema_DistShapeShape(one, other)
        if not extrema.IsDone() or not extrema.NbSolution():
            raise KernelRefused("the distance of two shapes can't be told")
        if extrema.InnerSolution():  # one lies within the other, which the kernel calls no distance
            point = np.array(extrema.PointOnShape1(1).Coord())
            return point, point
        return np.array(extrema.PointOnShape1(1).Coord()), np.array(extrema.PointOnShape2(1).Coord())


def near_within(one: TopoDS_Shape, other: TopoDS_Shape, limit: float) -> tuple[Floats, Floats] | None:
    """Where two shapes are nearest, as nearest, where that may be within a limit, mm; None where no faces
    come so near and neither shape lies within the other. Raises KernelRefused."""
    with kernel_call("measuring a clearance"):
        here, there = _boxed(one, limit), _boxed(other, limit)
        pairs = [(a, b) for a, box in here for b, other_box in there if not box.IsOut(other_box)]
        if not pairs:
            return nearest(one, other) if _encloses(one, other) or _encloses(other, one) else None
        mine = compound_of(dict.fromkeys(a for a, _ in pairs))
        return nearest(mine, compound_of(dict.fromkeys(b for _, b in pairs)))


def _boxed(shape: TopoDS_Shape, limit: float) -> list[tuple[TopoDS_Shape, Bnd_Box]]:
    boxed = []
    for face in faces_of(shape) or [shape]:
        box = Bnd_Box()
        BRepBndLib.Add_s(face, box, False)
        box.Enlarge(limit)
        boxed.append((face, box))
    return boxed


def _encloses(outer: TopoDS_Shape, inner: TopoDS_Shape) -> bool:
    """Whether a corner of a shape lies within a solid."""
    corners = vertices_of(inner)
    if not corners or kind_of(outer) is not BodyKind.SOLID:
        return False
    classifier = BRepClass3d_SolidClassifier(outer)
    classifier.Perform(BRep_Tool.Pnt_s(corners[0]), 1e-7)
    return bool(classifier.State() == TopAbs_State.TopAbs_IN)


def _of_line(line: AxisLine, shape: TopoDS_Shape) -> tuple[Floats, Floats]:
    """A line without ends and a shape: a stretch of it that passes all of the shape by is long enough."""
    box = Bnd_Box()
    BRepBndLib.Add_s(shape, box, False)
    low, high = np.array(box.CornerMin().Coord()), np.array(box.CornerMax().Coord())
    middle = (low + high) / 2
    foot = line.at + line.way * ((middle - line.at) @ line.way)
    size = float(np.linalg.norm(high - low))
    return nearest(AxisLine(foot, line.way).between(_FAR * size + 1.0), shape)


def _of_lines(one: AxisLine, other: AxisLine) -> tuple[Floats, Floats]:
    """Feet of the common normal of two lines; of parallel ones at the point of the first."""
    across = np.cross(one.way, other.way)
    square = float(across @ across)
    if square < _PARALLEL**2:
        return one.at, other.at + other.way * float((one.at - other.at) @ other.way)
    between = other.at - one.at
    s = float(np.cross(between, other.way) @ across) / square
    t = float(np.cross(between, one.way) @ across) / square
    return one.at + s * one.way, other.at + t * other.way


def _angle(one: PlacedThing, other: PlacedThing) -> float | None:
    ways = direction_of(one), direction_of(other)
    if ways[0] is None or ways[1] is None:
        return None
    (a, a_is_normal), (b, b_is_normal) = ways[0], ways[1]
    sine, cosine = float(np.linalg.norm(np.cross(a, b))), abs(float(a @ b))
    angle = math.atan2(sine, cosine)
    return angle if a_is_normal == b_is_normal else math.pi / 2 - angle
