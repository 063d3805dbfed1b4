"""How two things stand to one another: least distance, nearest points, angle."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray
from OCP.Bnd import Bnd_Box
from OCP.BRepBndLib import BRepBndLib
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.TopoDS import TopoDS_Shape

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.measure.things import Line, Placed, direction_of
from gondrel.core.model.cutting import Vector
from gondrel.core.model.measures import Apart

__all__ = ["apart", "nearest"]

Floats = NDArray[np.float64]

_PARALLEL = 1e-12
_FAR = 4.0


def apart(one: Placed, other: Placed) -> Apart:
    """Distance, nearest points and angle of two things in their places, mm and rad. Raises KernelRefused.

    Source: lines in closed form; else the kernel's extrema of curves and surfaces, exact for elementary
    ones. The angle is the one between directions, from 0 to a right angle; of a plane its normal counts.
    """
    with kernel_call("measuring a distance"):
        if isinstance(one, Line) and isinstance(other, Line):
            points = _of_lines(one, other)
        elif isinstance(one, Line):
            points = _of_line(one, other)
        elif isinstance(other, Line):
            points = _of_line(other, one)[::-1]
        else:
            points = nearest(one, other)
        distance = float(np.linalg.norm(points[1] - points[0]))
        return Apart(distance, (_vector(points[0]), _vector(points[1])), _angle(one, other))


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


def _of_line(line: Line, shape: TopoDS_Shape) -> tuple[Floats, Floats]:
    """A line without ends and a shape: a stretch of it that passes all of the shape by is long enough."""
    box = Bnd_Box()
    BRepBndLib.Add_s(shape, box, False)
    low, high = np.array(box.CornerMin().Coord()), np.array(box.CornerMax().Coord())
    middle = (low + high) / 2
    foot = line.at + line.way * ((middle - line.at) @ line.way)
    size = float(np.linalg.norm(high - low))
    return nearest(Line(foot, line.way).between(_FAR * size + 1.0), shape)


def _of_lines(one: Line, other: Line) -> tuple[Floats, Floats]:
    """Feet of the common normal of two lines; of parallel ones at the point of the first."""
    across = np.cross(one.way, other.way)
    square = float(across @ across)
    if square < _PARALLEL**2:
        return one.at, other.at + other.way * float((one.at - other.at) @ other.way)
    between = other.at - one.at
    s = float(np.cross(between, other.way) @ across) / square
    t = float(np.cross(between, one.way) @ across) / square
    return one.at + s * one.way, other.at + t * other.way


def _angle(one: Placed, other: Placed) -> float | None:
    ways = direction_of(one), direction_of(other)
    if ways[0] is None or ways[1] is None:
        return None
    (a, a_is_normal), (b, b_is_normal) = ways[0], ways[1]
    sine, cosine = float(np.linalg.norm(np.cross(a, b))), abs(float(a @ b))
    angle = math.atan2(sine, cosine)
    return angle if a_is_normal == b_is_normal else math.pi / 2 - angle


def _vector(values: Floats) -> Vector:
    x, y, z = (float(v) for v in values)
    return x, y, z
