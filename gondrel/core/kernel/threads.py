"""Round faces with their axes, and edges that are helices about one of them."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.Geom import Geom_CylindricalSurface
from OCP.GeomAbs import GeomAbs_SurfaceType
from OCP.TopAbs import TopAbs_Orientation
from OCP.TopoDS import TopoDS_Face

from gondrel.core.kernel.calls import kernel_call
from gondrel.core.kernel.inspection import Inspection, points_along

__all__ = ["Helix", "RoundFace", "helices_of", "round_faces_of"]

Floats = NDArray[np.float64]
Point = tuple[float, float, float]

_ROUND = 2e-3
"""How even the distance from the axis and the rise of a helix must be, relative."""

_SAMPLES = 65
_TURN = 1.5 * np.pi


@dataclass(frozen=True, slots=True)
class RoundFace:
    """A cylindrical face: diameter in mm, a point on it, and whether it is a hole."""

    face: int
    diameter: float
    is_hole: bool
    at: Point
    origin: Point
    axis: Point


@dataclass(frozen=True, slots=True)
class Helix:
    """An edge that winds round an axis: diameter and rise per turn, mm, and how many turns."""

    edge: int
    diameter: float
    pitch: float
    turns: float
    at: Point


def round_faces_of(body: Inspection) -> list[RoundFace]:
    """Every cylindrical face of a body."""
    if "round faces" not in body.memo:
        with kernel_call("looking at cylinders"):
            found = [
                _round(number, face)
                for number, face in enumerate(body.face_shapes)
                if isinstance(body.surfaces[number], Geom_CylindricalSurface)
            ]
            body.memo["round faces"] = [face for face in found if face is not None]
    known: list[RoundFace] = body.memo["round faces"]
    return known


def _round(number: int, face: TopoDS_Face) -> RoundFace | None:
    surface = BRepAdaptor_Surface(face, True)
    if surface.GetType() != GeomAbs_SurfaceType.GeomAbs_Cylinder:
        return None
    cylinder = surface.Cylinder()
    frame = cylinder.Position()
    u = (surface.FirstUParameter() + surface.LastUParameter()) / 2
    v = (surface.FirstVParameter() + surface.LastVParameter()) / 2
    at, origin, axis = surface.Value(u, v), frame.Location(), frame.Direction()
    is_hole = (face.Orientation() == TopAbs_Orientation.TopAbs_REVERSED) == frame.Direct()
    return RoundFace(
        number,
        2 * float(cylinder.Radius()),
        is_hole,
        (at.X(), at.Y(), at.Z()),
        (origin.X(), origin.Y(), origin.Z()),
        (axis.X(), axis.Y(), axis.Z()),
    )


def helices_of(body: Inspection) -> Iterator[Helix]:
    """Spline edges that are helices, about the axis of a cylinder of the body or one of their own.

    Source: own: a helix keeps its distance from the axis and rises evenly with the angle.
    """
    with kernel_call("looking for helices"):
        axes = _axes(body)
        found = []
        for edge in body.edges:
            if edge.kind in ("line", "circle", "point") or not edge.uses or edge.length <= 0.0:
                continue
            points = points_along(body.edge_shapes[edge.index], _SAMPLES)
            own = _own_axis(points)
            for origin, axis in [*axes, *([own] if own is not None else [])]:
                helix = _helix(points, origin, axis)
                if helix is not None:
                    found.append(Helix(edge.index, *helix, edge.middle))
                    break
        yield from found


def _axes(body: Inspection) -> list[tuple[Floats, Floats]]:
    """Different axes of the round faces."""
    found: list[tuple[Floats, Floats]] = []
    given = [(np.array(f.origin), np.array(f.axis)) for f in round_faces_of(body)]
    for origin, axis in given:
        known = any(
            abs(abs(float(axis @ a)) - 1) < 1e-9 and np.linalg.norm(np.cross(origin - o, a)) < 1e-6
            for o, a in found
        )
        if not known:
            found.append((origin, axis))
    return found[:60]


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
