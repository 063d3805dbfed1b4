"""Round faces with their axes, and edges that are helices about one of them."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.Geom import Geom_CylindricalSurface
from OCP.TopAbs import TopAbs_Orientation
from OCP.TopoDS import TopoDS_Face

from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.geometry.sampling import points_along
from gondrel.core.kernel.inspect.inspection import Inspection
from gondrel.core.model.geometry import vector_of

__all__ = ["Helix", "RoundFace", "helices_of", "point_on", "round_faces_of"]

Floats = NDArray[np.float64]
Point = tuple[float, float, float]

_ROUND = 2e-3
"""How even the distance from the axis and the rise of a helix must be, relative."""

_SAMPLES = 65
_TURN = 1.5 * np.pi


@dataclass(frozen=True, slots=True)
class RoundFace:
    """A cylindrical face: diameter in mm, whether it is a hole, a point of its axis and its direction."""

    face: int
    diameter: float
    is_hole: bool
    origin: Point
    axis: Point


@dataclass(frozen=True, slots=True)
class Helix:
    """An edge that winds round an axis: diameter and rise per turn, mm, how many turns, its axis."""

    edge: int
    diameter: float
    pitch: float
    turns: float
    at: Point
    axis: Point = (0.0, 0.0, 1.0)


def round_faces_of(body: Inspection) -> list[RoundFace]:
    """Every cylindrical face of a body."""
    if "round faces" not in body.memo:
        with kernel_call("looking at cylinders"):
            body.memo["round faces"] = [
                _round(number, face, surface)
                for number, (face, surface) in enumerate(zip(body.face_shapes, body.surfaces, strict=True))
                if isinstance(surface, Geom_CylindricalSurface)
            ]
    known: list[RoundFace] = body.memo["round faces"]
    return known


def _round(number: int, face: TopoDS_Face, cylinder: Geom_CylindricalSurface) -> RoundFace:
    frame = cylinder.Position()
    is_hole = (face.Orientation() == TopAbs_Orientation.TopAbs_REVERSED) == frame.Direct()
    ways = frame.Location().Coord(), frame.Direction().Coord()
    return RoundFace(number, 2 * cylinder.Radius(), is_hole, *ways)


def point_on(body: Inspection, face: int) -> Point:
    """A point of a face's surface, in the middle of its parameters, mm."""
    surface = BRepAdaptor_Surface(body.face_shapes[face], True)
    u = (surface.FirstUParameter() + surface.LastUParameter()) / 2
    v = (surface.FirstVParameter() + surface.LastVParameter()) / 2
    at: Point = surface.Value(u, v).Coord()
    return at


def helices_of(body: Inspection) -> Iterator[Helix]:
    """Spline edges that are helices, about the axis of a cylinder of the body or one of their own.

    Source: own: a helix keeps its distance from the axis and rises evenly with the angle.
    """
    with kernel_call("looking for helices"):
        bent = [
            edge
            for edge in body.edges
            if edge.kind not in ("line", "circle", "point") and edge.coedges and edge.length > 0.0
        ]
        axes = _axes(body) if bent else []
        helices = []
        for edge in bent:
            points = points_along(body.edge_shapes[edge.index], _SAMPLES)
            own = _own_axis(points)
            for origin, axis in [*axes, *([own] if own is not None else [])]:
                helix = _helix(points, origin, axis)
                if helix is not None:
                    helices.append(Helix(edge.index, *helix, edge.middle, vector_of(axis)))
                    break
        yield from helices


def _axes(body: Inspection) -> list[tuple[Floats, Floats]]:
    """Different axes of the round faces."""
    axes: list[tuple[Floats, Floats]] = []
    given = [(np.array(f.origin), np.array(f.axis)) for f in round_faces_of(body)]
    for origin, axis in given:
        known = any(
            abs(abs(float(axis @ a)) - 1) < 1e-9 and np.linalg.norm(np.cross(origin - o, a)) < 1e-6
            for o, a in axes
        )
        if not known:
            axes.append((origin, axis))
    return axes[:60]


def _own_axis(points: Floats) -> tuple[Floats, Floats] | None:
    """The axis a curve would have if it were a helix: square to its principal normals, through the
    middle of the circle that it is when seen along the axis; None for a straight curve."""
    tangents = np.gradient(points, axis=0)
    tangents /= np.linalg.norm(tangents, axis=1)[:, None]
    bends = np.gradient(tangents, axis=0)[2:-2]
    bends -= (bends * tangents[2:-2]).sum(axis=1)[:, None] * tangents[2:-2]
    if np.linalg.norm(bends, axis=1).max() < 1e-6:
        return None
    axis = np.linalg.svd(bends, full_matrices=False)[2][-1]
    flat = points - np.outer(points @ axis, axis)
    middle = flat.mean(axis=0)
    away = flat - middle
    centre, *_ = np.linalg.lstsq(2 * away, (away**2).sum(axis=1), rcond=1e-9)
    return middle + centre - axis * float((middle + centre) @ axis), axis


def _helix(points: Floats, origin: Floats, axis: Floats) -> tuple[float, float, float] | None:
    """Diameter, pitch and turns of points that wind evenly round an axis."""
    away = points - origin
    heights = away @ axis
    flat = away - np.outer(heights, axis)
    radii = np.linalg.norm(flat, axis=1)
    if radii.min() <= 0 or np.ptp(radii) > _ROUND * radii.mean():
        return None
    x = flat[0] / radii[0]
    y = np.cross(axis, x)
    angles = np.unwrap(np.arctan2(flat @ y, flat @ x))
    whole, rise = float(np.ptp(angles)), float(np.ptp(heights))
    if whole < _TURN or rise < _ROUND * radii.mean():
        return None
    slope, start = np.polyfit(angles, heights, 1)
    if np.abs(heights - (slope * angles + start)).max() > 5 * _ROUND * rise:
        return None
    return 2 * float(radii.mean()), abs(float(slope)) * 2 * np.pi, whole / (2 * np.pi)
